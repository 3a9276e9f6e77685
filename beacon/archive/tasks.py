"""Archives are made in the background: who asked for one may close the page."""

import logging
import uuid

from procrastinate.contrib.django import app

from beacon.archive import making
from beacon.archive.models import Archive

LOG = logging.getLogger(__name__)


@app.task(name="make an archive", queue="archives")
def make(archive: str) -> None:
    """Makes an archive, where it is not made; one that cannot be made says why."""
    found = (
        Archive.objects.select_related("organisation")
        .filter(pk=uuid.UUID(archive), finished_at=None, failed="")
        .first()
    )
    if found is None:
        return
    try:
        making.make(found)
    except OSError as why:
        LOG.error("an archive could not be made: %s", why)
        Archive.objects.filter(pk=found.pk).update(
            failed="There was no room for it on the server, or its files were away."
        )
    except Exception:
        Archive.objects.filter(pk=found.pk).update(failed="It could not be made; that was noted.")
        raise


@app.periodic(cron="25 3 * * *")
@app.task(name="forget archives", queueing_lock="forget archives")
def forget(timestamp: int) -> None:
    """Every night: archives that were made long ago are let go of."""
    making.forget()
