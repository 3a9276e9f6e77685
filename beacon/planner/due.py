"""When each system is wanted again, out of its intervals, its counters and what was done last."""

import datetime
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from uuid import UUID

from beacon.bench.models import Job
from beacon.planner.models import Counter, Interval, Planned, ZeroCheck
from beacon.plant.models import System
from wary.rules.due import Due, Every, Reading, due, first, on_day

READINGS = 60
"""So many of the latest readings of a counter say how fast it counts."""


@dataclass
class Known:
    """What is known of one system beside its record: intervals, counter readings by kind, zero checks, the plan."""

    intervals: list[Interval] = field(default_factory=list)
    counters: dict[str, list[Reading]] = field(default_factory=dict)
    zero: ZeroCheck | None = None
    planned: Planned | None = None


def known_of(systems: Sequence[System]) -> dict[UUID, Known]:
    """What is known of each of these systems, in as many questions for two thousand as for one."""
    found: dict[UUID, Known] = defaultdict(Known)
    ids = [system.id for system in systems]
    sites = {system.id: system.site for system in systems}
    for interval in Interval.objects.filter(system__in=ids):
        found[interval.system_id].intervals.append(interval)
    counted = {system for system, known in found.items() if any(one.kind in COUNTED for one in known.intervals)}
    for system, kind, figure, anew, at in Counter.objects.filter(system__in=counted).values_list(
        "system_id", "kind", "figure", "anew", "at"
    ):
        day = sites[system].day_of(at)
        found[system].counters.setdefault(kind, []).append(Reading(day, figure, anew))
    for system, at, summary in _from_visits(counted):
        for kind, figure in (summary or {}).items():
            day = sites[system].day_of(at)
            readings = found[system].counters.setdefault(kind, [])
            # A counter of a machine begins again where it comes to its end.
            before = [one for one in readings if one.day <= day]
            readings.append(Reading(day, figure, bool(before) and figure < before[-1].figure))
    for check in ZeroCheck.objects.filter(system__in=ids).order_by("system_id", "-at").distinct("system_id"):
        found[check.system_id].zero = check
    closed = {system.id: closed_at(system) for system in systems}
    for plan in Planned.objects.filter(system__in=ids).select_related("person"):
        done = closed[plan.system_id]
        # What was closed since it was planned is the visit that was planned.
        if done is None or done < plan.made_at:
            found[plan.system_id].planned = plan
    return found


COUNTED = (Interval.Kind.HOURS, Interval.Kind.TONNES, Interval.Kind.CYCLES)


def _from_visits(systems: set[UUID]) -> Iterable[tuple[UUID, datetime.datetime, dict[str, float] | None]]:
    """What counters showed at closed jobs."""
    jobs = Job.objects.filter(
        channel__system__in=systems, closed_at__isnull=False, practice=False, summary__has_key="counters"
    )
    rows = jobs.order_by("closed_at").values_list("channel__system_id", "closed_at", "summary__counters")
    return [(system, at, counters) for system, at, counters in rows if at]


def closed_at(system: System) -> datetime.datetime | None:
    """When a system was last closed."""
    return datetime.datetime.fromisoformat(str(system.last["closed_at"])) if system.last else None


def done_on(system: System) -> datetime.date | None:
    """The day on which a system was last closed, at its site."""
    at = closed_at(system)
    return system.site.day_of(at) if at else None


def every_of(interval: Interval) -> Every:
    """An interval as the dates are worked out from it."""
    kinds = {kind.value: kind.value for kind in Interval.Kind}
    return Every(kinds[interval.kind], interval.every, interval.season)  # type: ignore[arg-type]


def dues_of(system: System, known: Known, today: datetime.date) -> list[Due]:
    """Every interval of a system as it stands; the days of its record are always among them."""
    done = done_on(system)
    by_days = due(Every("days", system.interval_days), done, [], today)
    if system.due:
        # The day that is on record is the one that its papers say.
        by_days = on_day(system.due, today)
    intervals = [every_of(one) for one in known.intervals if one.purpose == Interval.Purpose.CALIBRATION]
    return [by_days, *(due(one, done, known.counters.get(one.kind, [])[-READINGS:], today) for one in intervals)]


def zero_due(system: System, known: Known, today: datetime.date) -> Due | None:
    """When the zero is to be looked at again; None where nothing is asked of it."""
    intervals = [every_of(one) for one in known.intervals if one.purpose == Interval.Purpose.ZERO]
    if not intervals:
        return None
    looked = [done_on(system), system.site.day_of(known.zero.at) if known.zero else None]
    done = max((day for day in looked if day), default=None)
    return first(due(one, done, known.counters.get(one.kind, [])[-READINGS:], today) for one in intervals)


def zero_is_off(system: System, known: Known) -> ZeroCheck | None:
    """The latest zero check, where it did not hold and nothing was closed since."""
    check = known.zero
    if check is None or check.holds:
        return None
    closed = closed_at(system)
    return None if closed and closed > check.at else check


DAILY = 1.0


def is_daily(known: Known) -> bool:
    """Whether the zero is looked at every day, which no calendar has to say."""
    return any(
        one.purpose == Interval.Purpose.ZERO and one.kind == Interval.Kind.DAYS and one.every <= DAILY
        for one in known.intervals
    )
