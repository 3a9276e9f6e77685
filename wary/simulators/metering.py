"""Physics of meters and spreaders: mass for one turn, a belt's constant, a gate's law, a catch scale with its division."""

import math
import random
from dataclasses import dataclass

from wary.quantities import round_half_up


@dataclass(frozen=True)
class Caught:
    """One catch: what the controller says and what the scale shows, in kg."""

    controller: float
    net: float


class BeltSpreader:
    """A belt behind a gate, told by a controller's constant: counts for one kg. What it gives wanders a little.

    `controller` is right when the constant is `truth`; the scale shows whole divisions of gross and tare.
    """

    def __init__(self, seed: int = 0, truth: float = 8000.0, division: float = 0.2, scatter: float = 0.003) -> None:
        self.draw = random.Random(f"belt spreader {seed}")
        self.truth, self.division, self.scatter = truth, division, scatter

    def catch(self, constant: float, wanted: float = 200.0) -> Caught:
        """Runs until the controller says so many kg: it counts, and divides by its constant."""
        counts = wanted * constant
        given = counts / self.truth * max(0.5, self.draw.gauss(1, self.scatter))
        tare = round_half_up(18.4 / self.division, 0) * self.division
        gross = round_half_up((given + 18.4) / self.division, 0) * self.division
        return Caught(wanted, gross - tare)


class GateSpreader:
    """A free-running spreader: turns grow with the setting until its drive is at its end, mass with the gate by a power.

    `law` is that power: an opening rarely flows in proportion.
    """

    def __init__(self, seed: int = 0, law: float = 1.35, per_turn: float = 1.6, at: float = 0.04) -> None:
        self.draw = random.Random(f"gate spreader {seed}")
        self.law, self.per_turn, self.at = law, per_turn, at

    def turns(self, setting: float) -> float:
        """Turns a minute at a setting; beyond the seventh the drive gives no more."""
        return 6.0 * min(setting, 7.0) ** 0.9

    def one_turn(self, gate: float) -> float:
        """What one turn gives at an opening of so many m, in kg, as a catch of ten turns shows it."""
        held = self.per_turn * (gate / self.at) ** self.law
        return held * max(0.9, self.draw.gauss(1, 0.004))


class Meter:
    """A roller: kg for one turn once it runs full; the first turns of an empty one give less."""

    def __init__(self, seed: int = 0, per_turn: float = 0.12, primed: bool = True) -> None:
        self.draw = random.Random(f"meter {seed}")
        self.per_turn, self.lacks = per_turn, 0.0 if primed else 0.2

    def catch(self, turns: float, division: float = 0.005) -> float:
        """So many turns over a container: net in kg, on a scale of that division."""
        given = turns * self.per_turn * self.draw.gauss(1, 0.002) - self.lacks
        self.lacks *= math.exp(-turns / 4)
        return max(0.0, round_half_up(given / division, 0) * division)


SHORT = "They say that it runs out too early."
"""How a machine that meters is often handed over."""
