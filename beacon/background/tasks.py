"""What is done in the background by the clock."""

from procrastinate import JobContext
from procrastinate.contrib.django import app

from beacon.background.patience import PATIENT
from beacon.background.sweeping import sweep_all

STALLED_AFTER = 90.0
"""A worker whose heart has not beaten for so long is gone, s."""


@app.periodic(cron="* * * * *")
@app.task(queueing_lock="stalled", pass_context=True, name="stalled")
async def take_over_stalled(context: JobContext, timestamp: int) -> None:
    """Puts back what a worker held that is gone."""
    for job in await context.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER):
        await context.app.job_manager.retry_job(job)


@app.periodic(cron="*/5 * * * *")
@app.task(queueing_lock="sweep", name="sweep", retry=PATIENT)
def sweep(timestamp: int) -> None:
    """Puts in line again what is still to be done and was lost on the way: by an outage, or by a worker that ended."""
    sweep_all()
