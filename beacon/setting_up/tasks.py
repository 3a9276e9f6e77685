"""A long spreadsheet is gone through in the background: who chose it may close the page."""

import uuid
from datetime import timedelta

from django.core.files.storage import default_storage
from django.utils import timezone
from procrastinate.contrib.django import app

from beacon.background.made import UNDER_WAY, begin_again, begins, said, told
from beacon.background.patience import PATIENT
from beacon.background.sweeping import swept
from beacon.people.access import is_lead
from beacon.problems import Problem
from beacon.setting_up.models import SetUp
from beacon.setting_up.reading import rows_of
from beacon.setting_up.taking import Taken, take

TASK = "go through a spreadsheet"
KEPT_FOR = timedelta(days=7)
TOLD_EVERY = 25


@app.task(name=TASK, queue="spreadsheets", retry=PATIENT)
def go_through(set_up: str) -> None:
    """Goes through a file, where that was not done. What it came to is kept with its rows, or neither is."""
    found = SetUp.objects.select_related("organisation", "by").filter(pk=uuid.UUID(set_up), **UNDER_WAY).first()
    if found is None or not begins(found):
        return
    with said(found):
        with default_storage.open(found.name) as kept:
            rows = rows_of(kept.read(), found.file, str(found.by_id))
        total = len(rows)

        def going(done: int) -> None:
            if done % TOLD_EVERY == 0:
                told(found, done, total)

        def done(taken: Taken) -> None:
            found.found = taken.view(found.keep)
            for one in found.found["invited"]:
                one["link"] = ""
            found.done, found.of, found.finished_at = total, total, timezone.now()
            found.save(update_fields=["found", "done", "of", "finished_at"])

        if not is_lead(found.by, found.organisation):
            raise Problem(404, "Nothing was kept", "Whoever chose the file leads this organisation no more.")
        take(found.by, found.organisation, rows, found.keep, going, done)
    if found.keep:
        default_storage.delete(found.name)


@app.periodic(cron="35 3 * * *")
@app.task(name="forget spreadsheets", queueing_lock="forget spreadsheets", retry=PATIENT)
def forget(timestamp: int) -> None:
    """Every night: what was gone through long ago is let go of, and a file that nothing went through."""
    for one in SetUp.objects.filter(at__lt=timezone.now() - KEPT_FOR):
        default_storage.delete(one.name)
        one.delete()


@swept
def left_behind() -> int:
    """Puts a spreadsheet in line again that is to be gone through and is in none."""
    return begin_again(SetUp, TASK, "spreadsheets", "set_up")
