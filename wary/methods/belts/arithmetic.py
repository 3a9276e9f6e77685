"""Belt arithmetic: weigh length, whole revolutions, how far a zero may be expected to lie.

`Lw = idler spacing × weigh idlers` (one weigh idler carries half a space on each side);
`q = W/Lw`, `Q = q·v`, `T = B/v`. Lengths in m, speeds in m/s, times in s, masses in kg.
"""

import math
from collections.abc import Sequence

from wary.rules.fitting import deviation

LONG_ENOUGH = 30.0
LEAST_HISTORY = 4


def whole_revolutions(revolution_time: float) -> int:
    """The smallest whole number of revolutions that lasts at least 30 s."""
    return max(1, math.ceil(LONG_ENOUGH / revolution_time * (1 - 1e-9)))


def expected_band(history: Sequence[float]) -> tuple[float, float] | None:
    """Mean ± 3 s of earlier zeros; None with fewer than four."""
    if len(history) < LEAST_HISTORY:
        return None
    mean = math.fsum(history) / len(history)
    spread = deviation(history) or 0.0
    return mean - 3 * spread, mean + 3 * spread


def hovers(totals: Sequence[float]) -> bool:
    """Whether a run of totals over an empty belt swings about nothing and does not creep.

    `totals` are readings of the total over one revolution or more, in the order of time. It creeps
    where the way from the first to the last is more than half of the whole swing.
    """
    if len(totals) < 3:
        return False
    swing = max(totals) - min(totals)
    return swing == 0 or abs(totals[-1] - totals[0]) <= swing / 2
