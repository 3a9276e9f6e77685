"""What the tables say is still to be done, and no worker has in line, is put in line again.

A row says by itself what becomes of it: it is looked for by that, and not by who held it last.
"""

import logging
from collections.abc import Callable, Iterable
from datetime import datetime, timedelta
from typing import TypeVar

from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

LOG = logging.getLogger(__name__)
AFTER = timedelta(minutes=2)
"""What is younger may be on its way into line."""
IN_LINE = ("todo", "doing")

Sweep = Callable[[], int]
Key = TypeVar("Key")
_sweeps: list[Sweep] = []


def swept(sweep: Sweep) -> Sweep:
    """Marks what puts in line again what is left of one kind, and says how much that was."""
    _sweeps.append(sweep)
    return sweep


def sweep_all() -> int:
    """Puts in line again what is left of every kind; how much that was."""
    found = sum(sweep() for sweep in _sweeps)
    if found:
        LOG.warning("%d things were to be done and in no line: they are now.", found)
    return found


def not_in_line(task: str, argument: str, keys: Iterable[Key]) -> list[Key]:
    """Those of some keys of which no job of a task speaks that is yet to be done."""
    waiting = ProcrastinateJob.objects.filter(task_name=task, status__in=IN_LINE)
    spoken_of = {str(args.get(argument)) for args in waiting.values_list("args", flat=True)}
    return [key for key in keys if str(key) not in spoken_of]


def long_enough_ago() -> datetime:
    """What was put there before this, and is in no line, is on its way into none."""
    return timezone.now() - AFTER
