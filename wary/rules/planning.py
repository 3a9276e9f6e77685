"""How much to weigh, and how long to run, so that the reference is good enough for the limit.

Masses in kg, rates in kg/s, times in s, limits and uncertainties as fractions.
"""

import math
from dataclasses import dataclass

from wary.fields import Limit
from wary.quantities import Quantity, mass_shown, percent_shown
from wary.rules.evidence import NORMAL_95

LEAST_REVOLUTIONS = 3
ASKED_SECONDS = 600


def smallest_amount(division: float, readings: int, u_reference: float, limit: float) -> float | None:
    """`R_min` in kg, a whole number of divisions: what a run must weigh for this reference.

    The reference may take a third of the accept limit:
    `R_min = 2·d·√(m/12) / √((L/3)² − (2·u_ref)²)`. None where no amount suffices.
    """
    room = (limit / 3) * (limit / 3) - (2 * u_reference) * (2 * u_reference)
    if 2 * u_reference >= limit / 3 or room <= 0:
        return None
    amount = 2 * division * math.sqrt(readings / 12) / math.sqrt(room)
    divisions = amount / division
    return math.ceil(divisions * (1 - 1e-9)) * division if math.isfinite(divisions) else None


def shows(division: float, readings: int, u_reference: float, amount: float) -> float:
    """What this reference can show on `amount` kg: ± so much, a fraction, at 95 %."""
    return NORMAL_95 * math.hypot(division * math.sqrt(readings / 12) / amount, u_reference)


@dataclass(frozen=True)
class BeltPlan:
    """One run of a belt material test: kg, seconds, revolutions."""

    amount: float
    seconds: float
    revolutions: float | None


def belt_plan(rate: float, revolution_time: float | None, smallest: float | None) -> BeltPlan:
    """A run at `rate` kg/s: never under `smallest` or three revolutions, ten minutes asked for."""
    seconds = max(ASKED_SECONDS, (smallest or 0) / rate, LEAST_REVOLUTIONS * (revolution_time or 0))
    return BeltPlan(rate * seconds, seconds, seconds / revolution_time if revolution_time else None)


@dataclass(frozen=True)
class OnReference:
    """What a plan rests on: the reference's division and readings, its own relative standard uncertainty, the limit."""

    division: Quantity | None
    readings: int
    u_reference: float
    accept: Limit | None

    def sentences(self, smallest: Quantity | None) -> list[str]:
        """What this reference asks for: the least amount (`R_min`), or that none suffices, and what it can show."""
        if not self.division or not self.accept or not self.accept.percentage:
            return []
        if not smallest:
            return [f"No amount suffices: this reference's own uncertainty is more than a third of {self.accept}."]
        sure = shows(self.division.si, self.readings, self.u_reference, smallest.si)
        least = mass_shown(smallest.si, smallest.unit)
        return [
            f"At least {least} a run, or the reference's division takes too much of {self.accept}.",
            f"On that amount this reference can show ± {percent_shown(sure)}.",
        ]
