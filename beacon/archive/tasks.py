"""Archives are made in the background: who asked for one may close the page."""

import logging
import uuid
from collections.abc import Iterator
from contextlib import contextmanager

from procrastinate.contrib.django import app

from beacon.archive import making
from beacon.archive.models import Archive, Bundle, Made
from beacon.problems import Problem

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
    with _said(found):
        making.make(found)


@app.task(name="put certificates together", queue="archives")
def put_together(bundle: str) -> None:
    """Puts certificates together, where that was not done; where it cannot be done it says why."""
    found = Bundle.objects.select_related("organisation", "by").filter(pk=uuid.UUID(bundle), finished_at=None, failed="").first()  # fmt: skip
    if found is None:
        return
    with _said(found):
        making.put_together(found)


@contextmanager
def _said(made: Made) -> Iterator[None]:
    """Says of a file that cannot be made why, on the page where it was asked for."""
    mine = type(made)._default_manager.filter(pk=made.pk)
    try:
        yield
    except OSError as why:
        LOG.error("%s could not be made: %s", made, why)
        mine.update(failed="There was no room for it on the server, or its files were away.")
    except Problem as why:
        mine.update(failed=f"{why.title}. {why.detail}"[:200])
    except Exception:
        mine.update(failed="It could not be made; that was noted.")
        raise


@app.periodic(cron="25 3 * * *")
@app.task(name="forget archives", queueing_lock="forget archives")
def forget(timestamp: int) -> None:
    """Every night: archives that were made long ago are let go of."""
    making.forget()
