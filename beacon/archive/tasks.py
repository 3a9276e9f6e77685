"""Archives are made in the background: who asked for one may close the page."""

import uuid

from procrastinate.contrib.django import app

from beacon.archive import making
from beacon.archive.models import Archive, Bundle
from beacon.background.made import UNDER_WAY, said
from beacon.database.apart import read_in_the_background


@app.task(name="make an archive", queue="archives")
def make(archive: str) -> None:
    """Makes an archive, where it is not made; one that cannot be made says why."""
    found = Archive.objects.select_related("organisation").filter(pk=uuid.UUID(archive), **UNDER_WAY).first()
    if found is None:
        return
    with said(found):
        making.make(found)


@app.task(name="put certificates together", queue="archives")
def put_together(bundle: str) -> None:
    """Puts certificates together, where that was not done; where it cannot be done it says why."""
    found = Bundle.objects.select_related("organisation", "by").filter(pk=uuid.UUID(bundle), **UNDER_WAY).first()  # fmt: skip
    if found is None:
        return
    with said(found):
        read_in_the_background(lambda: making.put_together(found))


@app.periodic(cron="25 3 * * *")
@app.task(name="forget archives", queueing_lock="forget archives")
def forget(timestamp: int) -> None:
    """Every night: archives that were made long ago are let go of."""
    making.forget()
