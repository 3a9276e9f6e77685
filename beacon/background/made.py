"""What takes longer than somebody waits: a row that says how far it is, what became of it, or why it could not be."""

import logging
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Thread
from typing import Any

from django.conf import settings
from django.db import connections, models
from django.utils import timezone

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
    gone = models.BooleanField(default=False)
    size = models.PositiveBigIntegerField(default=0)

    class Meta:
        abstract = True
        ordering = ["-at"]


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


@contextmanager
def said(made: Made) -> Iterator[None]:
    """Says of what cannot be made why, on the page where it was asked for."""
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
