"""What all methods of a filling machine share: where the pack is on record, and the cautions."""

from wary.methods.shared.cautions import OWN_RULES

GATES = "Hands out of gates, clamps and feeders; stopped and locked before anyone reaches in."
RUNS_BY_ITSELF = "It may start by itself as soon as something bears on it. Say what you do, and have it answered."

TWO_SPEEDS = {"medium": "filled slowly", "fine": "in flight"}
"""What a machine with two speeds calls the cut-offs of medium and fine."""

CAUTIONS = (GATES, OWN_RULES)
