"""When a machine is wanted again: by days, running hours, tonnes, cycles or the season, whichever comes first.

The words for it stand here alone, so that round, page, calendar and certificate say the same.
"""

import datetime
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from wary.quantities import shown

IntervalKind = Literal["days", "hours", "tonnes", "cycles", "season"]
CounterKind = Literal["hours", "tonnes", "cycles"]
Urgency = Literal["far", "soon", "due", "overdue", "unknown"]

COUNTERS: dict[CounterKind, str] = {"hours": "h", "tonnes": "t", "cycles": "cycles"}
"""What is counted, and its unit for reading."""
SOON_DAYS = 21
SOON_SHARE = 0.1
"""Due soon: within three weeks, or with a tenth of what is counted left."""
ORDER: tuple[Urgency, ...] = ("overdue", "due", "soon", "unknown", "far")


@dataclass(frozen=True)
class Every:
    """One interval: every so many days, hours, tonnes or cycles, or from a day of each year on (`season`, MM-DD)."""

    kind: IntervalKind
    every: float = 0.0
    season: str = ""


@dataclass(frozen=True)
class Reading:
    """What a counter showed on a day; `anew` where it was replaced or began again, so that it may show less."""

    day: datetime.date
    figure: float
    anew: bool = False


@dataclass(frozen=True)
class Due:
    """One interval as it stands: how urgent, on which day (known or expected), what is left, and in words."""

    kind: IntervalKind
    urgency: Urgency
    words: str
    on: datetime.date | None = None
    left: float | None = None
    expected: bool = False


def due_words(due: datetime.date | None, today: datetime.date) -> str:
    """`due in 12 days`, `due today`, `3 days overdue`, `due 4 Mar 2031`."""
    if due is None:
        return "no date set"
    days = (due - today).days
    if days == 0:
        return "due today"
    if days < 0:
        return f"{-days} day{'' if days == -1 else 's'} overdue"
    if days <= 60:
        return f"due in {days} day{'' if days == 1 else 's'}"
    return f"due {due.day} {due:%b %Y}"


def by_days(on: datetime.date, today: datetime.date) -> Urgency:
    """How urgent a day is."""
    days = (on - today).days
    return "overdue" if days < 0 else "due" if days == 0 else "soon" if days <= SOON_DAYS else "far"


def counted(readings: Sequence[Reading], since: datetime.date | None) -> float | None:
    """What a counter counted since a day, over replacements; None where nothing was read since.

    The reading on that day, or the last before it, is where counting begins. A counter that went
    back without being said to have begun anew is refused when it is typed (`went_back`).
    """
    ordered = sorted(readings, key=lambda one: one.day)
    before = [one for one in ordered if since is None or one.day <= since]
    after = [one for one in ordered if since is not None and one.day > since]
    if since is None:
        before, after = ordered[:1], ordered[1:]
    if not after or not before:
        return None
    total, last = 0.0, before[-1].figure
    for one in after:
        total += one.figure if one.anew else one.figure - last
        last = one.figure
    return total


def rate(readings: Sequence[Reading]) -> float | None:
    """What is counted a day, over all that was read; None where that says nothing."""
    ordered = sorted(readings, key=lambda one: one.day)
    if len(ordered) < 2 or ordered[-1].day == ordered[0].day:
        return None
    moved = counted(ordered, None)
    return None if not moved or moved <= 0 else moved / (ordered[-1].day - ordered[0].day).days


def went_back(readings: Sequence[Reading], figure: float) -> Reading | None:
    """The latest reading, where a counter now shows less than it."""
    latest = max(readings, key=lambda one: one.day, default=None)
    return latest if latest and figure < latest.figure else None


def on_day(on: datetime.date, today: datetime.date) -> Due:
    """What is wanted on a day."""
    return Due("days", by_days(on, today), due_words(on, today), on)


def due(interval: Every, done: datetime.date | None, readings: Sequence[Reading], today: datetime.date) -> Due:
    """One interval, since it was last done (`done`, None for never)."""
    if interval.kind == "days":
        if done is None:
            return Due("days", "due", "never done")
        try:
            on = done + datetime.timedelta(days=interval.every)
        except OverflowError:
            return Due("days", "far", "far off")
        return on_day(on, today)
    if interval.kind == "season":
        on = season_after(interval.season, done, today)
        return Due("season", by_days(on, today), f"season: {due_words(on, today)}", on)
    return _by_counter(interval, done, readings, today)


def season_after(season: str, done: datetime.date | None, today: datetime.date) -> datetime.date:
    """The first such day of a year after it was last done; never done, that of this year."""
    month, day = (int(part) for part in season.split("-"))
    year = done.year if done else today.year
    on = _day(year, month, day)
    return on if done is None or on > done else _day(year + 1, month, day)


def _day(year: int, month: int, day: int) -> datetime.date:
    try:
        return datetime.date(year, month, day)
    except ValueError:
        return datetime.date(year, 2, 28)


def _by_counter(interval: Every, done: datetime.date | None, readings: Sequence[Reading], today: datetime.date) -> Due:
    unit = COUNTERS[interval.kind]  # type: ignore[index]
    every = f"{shown(interval.every, 6)} {unit}"
    if done is None:
        return Due(interval.kind, "due", "never done")
    used = counted(readings, done)
    if used is None:
        return Due(interval.kind, "unknown", f"every {every}: read the counter")
    left = interval.every - used
    latest = max(one.day for one in readings)
    a_day = rate(readings)
    on = latest + datetime.timedelta(days=min(left / a_day, 36_500)) if a_day and left > 0 else None
    if left <= 0:
        words = f"{shown(-left, 6)} {unit} over" if left < 0 else f"{every} reached"
        return Due(interval.kind, "overdue" if left < 0 else "due", words, latest, left)
    # What is expected to be used up by today is as good as used up.
    urgency: Urgency = "soon" if left <= interval.every * SOON_SHARE else "far"
    if on and by_days(on, today) != "far":
        urgency = "soon"
    about = f", about {on.day} {on:%b}" if on else ""
    return Due(interval.kind, urgency, f"{shown(left, 6)} of {every} left{about}", on, left, expected=True)


def first(dues: Iterable[Due]) -> Due | None:
    """The interval that comes first: the most urgent, and of those the one with the earliest day."""
    return min(dues, key=lambda one: (ORDER.index(one.urgency), one.on or datetime.date.max), default=None)


def interval_for(rate_a_day: float, limit: float) -> int:
    """Days in which a drift uses a third of its limit, rounded down to weeks; at least one week, at most three years."""
    if rate_a_day == 0:
        return 1095
    return int(max(7, min(1095, abs(limit / 3 / rate_a_day)) // 7 * 7))
