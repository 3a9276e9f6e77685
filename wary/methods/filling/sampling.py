"""Samples of a running machine: their spread from neighbour to neighbour, drift, shares with their interval, plans."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary.methods.filling.tuning import deviation
from wary.rules.evidence import NORMAL_95

NEIGHBOURS = 1.128
"""The expected difference of two values of a normal scatter, in standard deviations."""
ON_ONE_SIDE = 8
BEYOND = 3.0


def neighbour_deviation(errors: Sequence[float]) -> float | None:
    """`mean |difference of neighbours| / 1.128`; None below two."""
    if len(errors) < 2:
        return None
    steps = [abs(b - a) for a, b in zip(errors, errors[1:], strict=False)]
    return math.fsum(steps) / len(steps) / NEIGHBOURS


def wilson(hits: int, count: int) -> tuple[float, float]:
    """The 95 % interval of a share, by Wilson, as fractions."""
    z = NORMAL_95
    share = hits / count
    middle = share + z * z / (2 * count)
    half = z * math.sqrt(share * (1 - share) / count + z * z / (4 * count * count))
    below = 1 + z * z / count
    return max(0.0, (middle - half) / below), min(1.0, (middle + half) / below)


def beyond(errors: Sequence[float], mean: float, spread: float | None) -> list[int]:
    """The samples that lie beyond three deviations of the mean, by their places."""
    if not spread:
        return []
    return [place for place, error in enumerate(errors) if abs(error - mean) > BEYOND * spread * (1 + 1e-9)]


def one_sided(errors: Sequence[float], mean: float) -> tuple[int, int] | None:
    """The first eight in a row on one side of the mean, by the places of their first and last; None where there are none."""
    run, side = 0, 0
    for place, error in enumerate(errors):
        now = (error > mean) - (error < mean)
        run = run + 1 if now and now == side else (1 if now else 0)
        side = now
        if run >= ON_ONE_SIDE:
            return place - ON_ONE_SIDE + 1, place
    return None


@dataclass(frozen=True)
class Difference:
    """Two scales on the same packs: by how much the one reads more in the mean, and how sure that is."""

    mean: float
    deviation: float | None
    count: int

    def stands_out(self, division: float) -> bool:
        """Whether it is more than a division of the coarser scale, and more than chance."""
        if self.deviation is None or abs(self.mean) <= division * (1 + 1e-9):
            return False
        return abs(self.mean) > 2 * self.deviation / math.sqrt(self.count) * (1 + 1e-9)


def difference(pairs: Sequence[float]) -> Difference | None:
    """Of the differences of two scales; None where no pack was on both."""
    if not pairs:
        return None
    return Difference(math.fsum(pairs) / len(pairs), deviation(pairs), len(pairs))


def cycles_since(before: int, now: int, most: int | None) -> int | None:
    """Cycles counted since; a counter that cannot be cleared begins again after `most`. None where it went back."""
    if now >= before:
        return now - before
    return now + most + 1 - before if most is not None and before <= most else None
