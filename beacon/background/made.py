"""What takes longer than somebody waits: a row that says how far it is, what became of it, or why it could not be."""

import logging
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Thread
from typing import Any, ClassVar

from django.conf import settings
from django.db import connections, models
from django.dispatch import Signal
from django.utils import timezone
from procrastinate.contrib.django import app

from beacon.background.patience import AWAY
from beacon.background.sweeping import long_enough_ago, not_in_line
from beacon.problems import Problem

LOG = logging.getLogger(__name__)


class Made(models.Model):
    """Something that is made in the background, or was; `done` of `of` things are in it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)
    done = models.PositiveIntegerField(default=0)
    of = models.PositiveIntegerField(default=0)
    finished_at = models.DateTimeField(null=True, blank=True)
    failed = models.CharField(max_length=200, blank=True)
    begun = models.PositiveSmallIntegerField(default=0, db_default=0)
    gone = models.BooleanField(default=False)
    size = models.PositiveBigIntegerField(default=0)

    organisation: models.Model
    what: ClassVar[str]
    """What it is, in words for a mail."""
    page: ClassVar[str]
    """Where it is asked for."""

    class Meta:
        abstract = True
        ordering = ["-at"]


MOST_BEGUN = 5
"""So often something is begun at most: what ends its worker each time does so no more."""
given_up = Signal()
"""Something is not begun again; `made` says what."""
UNDER_WAY: dict[str, Any] = {"finished_at": None, "failed": ""}
"""What is neither made nor given up."""


def told(made: Made, done: int, total: int) -> None:
    """How far it is, seen by others at once: it is written beside the transaction in which all is read or kept."""

    def write() -> None:
        try:
            type(made)._default_manager.filter(pk=made.pk).update(done=done, of=total)
        finally:
            connections.close_all()

    beside = Thread(target=write)
    beside.start()
    beside.join()


def begins(made: Made) -> bool:
    """Counts that something is begun; not where it was begun so often and never came to its end: it is given up."""
    mine = type(made)._default_manager.filter(pk=made.pk)
    mine.update(begun=models.F("begun") + 1)
    made.refresh_from_db(fields=["begun"])
    if made.begun <= MOST_BEGUN:
        return True
    made.failed = "It was begun several times, and never came to its end."
    mine.update(failed=made.failed)
    LOG.error("%s was begun %d times, and is given up", made, MOST_BEGUN)
    given_up.send(type(made), made=made)
    return False


@contextmanager
def said(made: Made) -> Iterator[None]:
    """Says of what cannot be made why, on the page where it was asked for.

    Where the database went away it stays under way, and is begun again.
    """
    mine = type(made)._default_manager.filter(pk=made.pk)
    try:
        yield
    except AWAY:
        raise
    except OSError as why:
        LOG.error("%s could not be made: %s", made, why)
        mine.update(failed="There was no room for it on the server, or its files were away.")
    except Problem as why:
        mine.update(failed=f"{why.title}. {why.detail}"[:200])
    except Exception:
        mine.update(failed="It could not be made; that was noted.")
        raise


def begin_again(kind: type[Made], task: str, queue: str, argument: str) -> int:
    """Puts in line what of a kind is under way and in none; how much that was."""
    under_way = kind._default_manager.filter(**UNDER_WAY, at__lt=long_enough_ago()).values_list("pk", flat=True)
    left = not_in_line(task, argument, under_way)
    for pk in left:
        app.configure_task(task, queue=queue).defer(**{argument: str(pk)})
    return len(left)
