"""What all methods of a filling machine share: where the pack is on record, and the cautions."""

from wary.methods.shared.cautions import OWN_RULES
from wary.quantities import Quantity

GATES = "Hands out of gates, clamps and feeders; stopped and locked before anyone reaches in."
RUNS_BY_ITSELF = "It may start by itself as soon as something bears on it. Say what you do, and have it answered."

TWO_SPEEDS = {"medium": "filled slowly", "fine": "in flight"}
"""What a machine with two speeds calls the cut-offs of medium and fine."""

CAUTIONS = (GATES, OWN_RULES)


def tolerance_of_target(
    target: Quantity | None, over: Quantity | None, under: Quantity | None
) -> tuple[float, float] | None:
    """How far a pack may be under and over its target, in per cent of it; None while one of them is not known."""
    if target is None or over is None or under is None or target.si <= 0:
        return None
    return -under.si / target.si * 100, over.si / target.si * 100
