"""Drift between visits: *as found now − as left last time*, its mean rate, and when a limit would be left.

Errors are fractions or per cent, as they are given; times in days.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary.rules.evidence import student
from wary.rules.fitting import deviation

LEAST_INTERVALS = 4
SHORTEN, LENGTHEN = 0.5, 0.2


@dataclass(frozen=True)
class Visit:
    """One closed job: its day, the error as found and as left, and whether it began anew (first, repair)."""

    day: float
    found: float | None
    left: float | None
    anew: bool = False


@dataclass(frozen=True)
class Interval:
    """What moved between two visits: so much in so many days, up to `day`."""

    day: float
    days: float
    moved: float


@dataclass(frozen=True)
class Drift:
    """Mean rate a day with its 95 % interval, and from when on the limit may be left.

    `leaves_in` counts days from the last visit; None where the drift leads nowhere or is not certain.
    """

    rate: float
    low: float
    high: float
    leaves_in: float | None
    hint: str


def intervals(visits: Sequence[Visit]) -> list[Interval]:
    """What moved between each visit and the one before it, oldest first."""
    found = []
    for before, after in zip(visits, visits[1:], strict=False):
        left = before.left if before.left is not None else before.found
        if after.anew or after.found is None or left is None or after.day <= before.day:
            continue
        found.append(Interval(after.day, after.day - before.day, after.found - left))
    return found


def drift(visits: Sequence[Visit], limit: float | None, every: float) -> Drift | None:
    """The drift over four intervals or more; None with fewer. `every` is the days between visits."""
    moved = intervals(visits)
    if len(moved) < LEAST_INTERVALS:
        return None
    rates = [interval.moved / interval.days for interval in moved]
    rate = math.fsum(rates) / len(rates)
    half = student(len(rates) - 1) * (deviation(rates) or 0.0) / math.sqrt(len(rates))
    last = visits[-1].left if visits[-1].left is not None else visits[-1].found
    leaves = None
    if limit is not None and last is not None and (rate - half > 0 or rate + half < 0):
        edge = limit if rate > 0 else -limit
        leaves = max(0.0, (edge - last) / rate)
    return Drift(rate, rate - half, rate + half, leaves, _hint(rate, half, limit, every))


def _hint(rate: float, half: float, limit: float | None, every: float) -> str:
    if not limit:
        return ""
    most = max(abs(rate - half), abs(rate + half)) * every
    if abs(rate) * every > limit * SHORTEN:
        return "Between visits it moves by more than half of its limit: shorten the interval, or find what moves it."
    if most < limit * LENGTHEN:
        return "Between visits it hardly moves: the interval may be lengthened."
    return "The interval fits."


JUMP_VISITS, LOOKED_BACK, JUMP = 3, 5, 3.0
"""It came at once where it has moved by more than so many times the most that it moved between so many visits before."""


@dataclass(frozen=True)
class Moved:
    """How far a machine moved at most between its last visits, how many of these there are, and what it was left at last."""

    most: float
    visits: int
    left: float


def usual_move(visits: Sequence[Visit]) -> Moved | None:
    """The most that it moved between its last visits, oldest first; None where there are too few to say."""
    moved = intervals(visits)[-LOOKED_BACK:]
    last = (visits[-1].left if visits[-1].left is not None else visits[-1].found) if visits else None
    if len(moved) < JUMP_VISITS or last is None:
        return None
    return Moved(max(abs(one.moved) for one in moved), len(moved), last)


def came_at_once(found: float, before: Moved, uncertainty: float) -> bool:
    """Whether an error is a jump against what the machine did before: far more than it ever moved, and more than is uncertain."""
    return abs(found - before.left) > max(JUMP * before.most, uncertainty)


STEADY_VISITS, MOST_APART = 3, 2.0
"""So many times in a row it has moved the same way, none of them by more than so many times the mean."""


def moves_steadily(visits: Sequence[Visit]) -> bool:
    """Whether it moves the same way by much the same each time: a slow drift, and no accident. Oldest first."""
    moved = [one.moved for one in intervals(visits)][-STEADY_VISITS:]
    if len(moved) < STEADY_VISITS or not (all(one > 0 for one in moved) or all(one < 0 for one in moved)):
        return False
    mean = math.fsum(moved) / len(moved)
    return all(abs(one) <= MOST_APART * abs(mean) and abs(one) * MOST_APART >= abs(mean) for one in moved)
