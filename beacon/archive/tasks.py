"""Archives are made in the background: who asked for one may close the page."""

import uuid

from procrastinate.contrib.django import app

from beacon.archive import making
from beacon.archive.models import MAKE, PUT_TOGETHER, QUEUE, Archive, Bundle
from beacon.background.made import UNDER_WAY, begin_again, begins, said
from beacon.background.patience import PATIENT
from beacon.background.sweeping import swept
from beacon.database.apart import read_in_the_background


@app.task(name=MAKE, queue=QUEUE, retry=PATIENT)
def make(archive: str) -> None:
    """Makes an archive, where it is not made; one that cannot be made says why."""
    found = Archive.objects.select_related("organisation").filter(pk=uuid.UUID(archive), **UNDER_WAY).first()
    if found is None or not begins(found):
        return
    with said(found):
        making.make(found)


@app.task(name=PUT_TOGETHER, queue=QUEUE, retry=PATIENT)
def put_together(bundle: str) -> None:
    """Puts certificates together, where that was not done; where it cannot be done it says why."""
    found = Bundle.objects.select_related("organisation", "by").filter(pk=uuid.UUID(bundle), **UNDER_WAY).first()  # fmt: skip
    if found is None or not begins(found):
        return
    with said(found):
        read_in_the_background(lambda: making.put_together(found))


@app.periodic(cron="25 3 * * *")
@app.task(name="forget archives", queueing_lock="forget archives", retry=PATIENT)
def forget(timestamp: int) -> None:
    """Every night: archives that were made long ago are let go of."""
    making.forget()


@swept
def left_behind() -> int:
    """Puts archives and bundles in line again that are under way and in none."""
    return begin_again(Archive, MAKE, QUEUE, "archive") + begin_again(Bundle, PUT_TOGETHER, QUEUE, "bundle")
