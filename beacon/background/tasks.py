"""What is done in the background by the clock."""

from procrastinate import JobContext
from procrastinate.contrib.django import app

STALLED_AFTER = 90.0
"""A worker whose heart has not beaten for so long is gone, s."""


@app.periodic(cron="* * * * *")
@app.task(queueing_lock="stalled", pass_context=True, name="stalled")
async def take_over_stalled(context: JobContext, timestamp: int) -> None:
    """Puts back what a worker held that is gone."""
    for job in await context.app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER):
        await context.app.job_manager.retry_job(job)
