"""What is done in the background for the plan: when systems are wanted again, on a new day."""

from procrastinate.contrib.django import app

from beacon.background.patience import PATIENT
from beacon.planner.dates import keep_up
from beacon.plant.models import System


@app.periodic(cron="*/15 * * * *")
@app.task(name="when systems are wanted", queue="nightly", queueing_lock="when systems are wanted", retry=PATIENT)
def dates(timestamp: int) -> None:
    """Works out anew what is of a day that is over: at midnight of each zone, and what changed since nobody asked.

    So whoever asks first on a day does not wait for all of it.
    """
    keep_up(System.objects.all())
