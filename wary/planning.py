"""How much to weigh, and how long to run, so that the reference is good enough for the limit.

Masses in kg, rates in kg/s, times in s, limits and uncertainties as fractions.
"""

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wary.evidence import NORMAL_95
from wary.quantities import mass_shown, percent_shown, to_si

if TYPE_CHECKING:
    from wary.method import Assessment, Setting
    from wary.stages import ComparisonInputs

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


def reference_plan(given: "ComparisonInputs", setting: "Setting", answer: "Assessment") -> list[str]:
    """What this reference asks for, in sentences: the least amount, or that none suffices, and what it can show."""
    accept, division = setting.profile.accept, given.reference_division
    smallest = answer.results.get("smallest_amount")
    if not division or not accept or not accept.percentage:
        return []
    if not smallest:
        return [f"No amount suffices: this reference's own uncertainty is more than a third of {accept}."]
    unit = smallest["unit"]
    least = to_si(smallest["value"], unit)
    own = given.reference_uncertainty.si / 2 if given.reference_uncertainty else 0.0
    sure = shows(division.si, given.reference_readings or 1, own, least)
    return [
        f"At least {mass_shown(least, unit)} a run, or the reference's division takes too much of {accept}.",
        f"On that amount this reference can show ± {percent_shown(sure)}.",
    ]
