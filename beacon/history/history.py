"""A channel's history: what it read at each visit, its drift, and the table to take away."""

import datetime
import uuid
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Any

from django.db.models import Count, Max
from django.db.models.functions import Coalesce

from beacon import tables
from beacon.bench.done import title_of
from beacon.bench.models import Job
from beacon.plant.models import Channel, System
from beacon.plant.view import Answer, event_view, profile_of
from beacon.records.schemas import HistoryPoint
from wary.quantities import NotAQuantity, quantity
from wary.rules.drift import Drift, Visit, drift, intervals
from wary.rules.due import interval_for

MOST = 500
DRAWN = 120
"""How many visits the history holds at the most, and how many of them a chart draws."""


def _closed(channel_id: uuid.UUID) -> Any:
    """The closed jobs of a channel, without those that another has put right; `stood` is when each was done."""
    closed = Job.objects.filter(channel=channel_id, closed_at__isnull=False, practice=False)
    return closed.filter(record__superseded_by=None).annotate(stood=Coalesce("tested_at", "closed_at"))


def history(system: System, channel: Channel) -> Answer:
    """Points for the chart, events, and the drift with what it comes to."""
    accept = profile_of(system).accept
    limit = accept.percentage * 100 if accept and accept.percentage else None
    stands = _closed(channel.id).aggregate(count=Count("id"), latest=Max("closed_at"))
    events = system.events.select_related("who", "system").order_by("at")
    faults = system.faults.order_by("at").values("id", "at", "title", "put_right")
    answer = _of_closed_jobs(channel.id, stands["count"], stands["latest"], limit, system.interval_days)
    return answer | {
        "channel": channel.id,
        "channel_name": channel.name,
        "system_name": system.name,
        # A machine with no limit as a share has the tolerance that its last visit was judged by.
        "tolerance": {"low": -limit, "high": limit} if limit else answer["tolerance"],
        "events": [event_view(event) for event in events],
        "faults": list(faults[:MOST]),
    }


@lru_cache(maxsize=64)
def _of_closed_jobs(
    channel: uuid.UUID, count: int, latest: datetime.datetime | None, limit: float | None, interval_days: int
) -> Answer:
    """What the closed jobs of a channel come to, remembered for as long as there are so many and this is the latest.

    A closed job does not change, so that these two say whether anything did; nobody writes to the answer.
    """
    found = _closed(channel).order_by("-stood").values_list("stood", "summary")[:MOST]
    handed = [(at, one) for at, one in reversed(list(found)) if at and one]
    visits = [_visit(at, one) for at, one in handed if one.get("error_found") is not None]
    drifts = drift(visits, limit, interval_days)
    bands = [chart for _, one in handed if (chart := one.get("chart")) and chart["low"] is not None]
    return {
        "tolerance": {"low": bands[-1]["low"], "high": bands[-1]["high"]} if bands else None,
        "visits": len(handed),
        "points": [HistoryPoint(**_point(at, one)) for at, one in thinned(handed)],
        "drift": _drift_view(drifts, visits, limit) if drifts else None,
        "intervals": len(intervals(visits)),
    }


def thinned(handed: Sequence[tuple[datetime.datetime, Answer]]) -> Sequence[tuple[datetime.datetime, Answer]]:
    """So many of them that a chart can show: of each stretch the one that was furthest off, and every adjustment kept.

    A chart has no use for more points than it can set beside each other.
    """
    if len(handed) <= DRAWN:
        return handed
    kept = {0, len(handed) - 1}
    size = len(handed) / (DRAWN - 2)
    for stretch in range(DRAWN - 2):
        places = range(int(stretch * size), max(int(stretch * size) + 1, int((stretch + 1) * size)))
        kept.add(max(places, key=lambda place: _off(handed[place][1])))
    return [one for place, one in enumerate(handed) if place in kept]


def _drawn(handed: Answer) -> tuple[float | None, float | None]:
    """What is drawn of a visit: as found, and as left."""
    chart = handed.get("chart")
    return (chart["found"], chart["left"]) if chart else (handed.get("error_found"), handed.get("error_left"))


def _off(handed: Answer) -> tuple[bool, float]:
    found, left = _drawn(handed)
    return left is not None, abs(found or 0.0)


def _point(at: datetime.datetime, handed: Answer) -> Answer:
    found, left = _drawn(handed)
    zero = handed.get("zero")
    return {
        "error_found": found,
        "error_left": left,
        "closed_at": at,
        "factor_after": handed.get("factor_after", ""),
        "zero": zero or "",
        "zero_figure": _mass(zero),
    }


def _mass(text: str | None) -> float | None:
    """A zero as a number in its own unit, for the chart."""
    try:
        return quantity(text, "mass").value if text else None
    except NotAQuantity:
        return None


def _visit(at: datetime.datetime, handed: Answer) -> Visit:
    return Visit(
        at.timestamp() / 86_400,
        handed["error_found"],
        handed.get("error_left"),
        handed.get("occasion") in ("first", "repair"),
    )


def _drift_view(found: Drift, visits: list[Visit], limit: float | None) -> Answer:
    month = 30.4
    leaves = None
    if found.leaves_in is not None:
        day = datetime.datetime.fromtimestamp((visits[-1].day + found.leaves_in) * 86_400, datetime.UTC)
        leaves = day.date()
    return {
        "rate": found.rate * month,
        "low": found.low * month,
        "high": found.high * month,
        "leaves_on": leaves,
        "hint": found.hint,
        "fits_days": interval_for(found.rate, limit) if limit else None,
    }


def visits_table(channel: Channel, before: datetime.datetime | None, size: int) -> list[Answer]:
    """The visits of a channel as a table, the latest first, so many before a time."""
    jobs = _closed(channel.id).select_related("record")
    if before:
        jobs = jobs.filter(stood__lt=before)
    return [_row(job, job.stood) for job in jobs.defer("fold", "record__content").order_by("-stood")[:size]]


def _row(job: Job, at: datetime.datetime) -> Answer:
    handed = job.summary or {}
    record = getattr(job, "record", None)
    keys = ("error_found", "error_left", "uncertainty_found", "uncertainty_left")
    texts = ("outcome", "closed_by", "factor_before", "factor_after", "reference")
    return (
        {key: handed.get(key) for key in keys}
        | {key: handed.get(key) or "" for key in texts}
        | {
            "record": record.id if record else None,
            "number": record.number if record else None,
            "closed_at": at,
            "title": title_of(handed.get("method", job.method)),
            "found_by": title_of(handed.get("method_found")),
            "left_by": title_of(handed.get("method_left")),
            "zero": handed.get("zero") or "",
        }
    )


COLUMNS = (
    ("closed_at", "closed"),
    ("number", "record"),
    ("title", "method"),
    ("outcome", "closed as"),
    ("closed_by", "by"),
    ("error_found", "error as found, %"),
    ("uncertainty_found", "± as found, %"),
    ("found_by", "as found by"),
    ("error_left", "error as left, %"),
    ("uncertainty_left", "± as left, %"),
    ("left_by", "as left by"),
    ("factor_before", "factor before"),
    ("factor_after", "factor after"),
    ("zero", "zero"),
    ("reference", "reference"),
)


def _rows(channel: Channel) -> Iterable[list[Any]]:
    for row in reversed(visits_table(channel, None, MOST)):
        yield [row[key] for key, _ in COLUMNS]


def as_csv(channel: Channel) -> bytes:
    """The table as CSV in UTF-8."""
    return tables.as_csv([title for _, title in COLUMNS], _rows(channel))


def as_xlsx(channel: Channel) -> bytes:
    """The table as a workbook."""
    return tables.as_xlsx("History", [title for _, title in COLUMNS], _rows(channel))
