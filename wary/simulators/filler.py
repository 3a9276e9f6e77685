"""A filling machine's physics: three flows under a hopper's head, gates that lag, product in the air.

What a stage lets fall keeps landing after its gate has shut: `flow · (lag + fall)`. Where the next
stage begins while that still lands, the scale is shaken and a fill is what chance makes of it; where
the fine stage has run for a second, all that is left is fine's own product in the air.
"""

import math
import random
from dataclasses import dataclass

from wary.quantities import round_half_up


@dataclass(frozen=True)
class Build:
    """What a filling machine is: flows in kg/s, times in s, masses in kg; scatters as shares of a flow."""

    target: float = 1.0
    fast: float = 0.55
    medium: float = 0.16
    fine: float = 0.035
    lag: float = 0.12
    fall: float = 0.30
    filter: float = 0.25
    scatter: tuple[float, float, float] = (0.05, 0.07, 0.02)
    head: float = 0.04
    shake: float = 0.5
    noise: float = 0.0006
    division: float = 0.001


@dataclass(frozen=True)
class Filled:
    """One fill: what it weighs as the bench scale shows it, in kg, and for how long the fine stage was seen, in s."""

    weight: float
    fine_time: float


class Filler:
    """A machine that fills at the cut-offs that it is given; the same seed gives the same fills.

    `fault` is none, `bridging` (the flow comes and goes) or `air` (gates that shut when they like).
    """

    FAULTS = {"none": "nothing", "bridging": "product bridging in the hopper", "air": "low air at the gates"}

    def __init__(self, seed: int = 0, build: Build = Build(), fault: str = "none") -> None:
        if fault not in self.FAULTS:
            raise ValueError(f"{fault!r} is no fault of a filler; expected one of {', '.join(self.FAULTS)}")
        self.build, self.fault, self.draw = build, fault, random.Random(f"filler {seed} {fault}")

    def fill(self, fast: float, medium: float, fine: float) -> Filled:
        """One fill with stages that end so much before the target, in kg."""
        build, target = self.build, self.build.target
        head = 1 + build.head * math.sin(self.draw.uniform(0, 2 * math.pi))
        flows = [flow * head * self._about(scatter) for flow, scatter in zip((build.fast, build.medium, build.fine), build.scatter, strict=True)]  # fmt: skip
        lag = build.lag * (self.draw.uniform(0.2, 6.0) if self.fault == "air" else self._about(0.03))
        in_air = [flow * (lag + build.fall) for flow in flows]
        landed = 0.0
        still = 0.0
        # What the scale shows is late by its filter while product still runs.
        for cut_off, flow, air in ((fast, flows[0], in_air[0]), (medium, flows[1], in_air[1])):
            if cut_off >= target:
                continue
            ends = target - cut_off
            if landed < ends:
                landed = ends + flow * build.filter
                still = air
                landed += air
        ends = target - fine
        seen = max(0.0, (ends - landed) / flows[2])
        # The shake of the stage before dies away while fine runs.
        shake = build.shake * still * self.draw.gauss(0, 1) * 0.12 * math.exp(-seen / 0.25)
        if seen > 0:
            landed = ends + flows[2] * build.filter * 0.2
        weight = landed + in_air[2] + shake + self.draw.gauss(0, build.noise)
        return Filled(max(0.0, round_half_up(weight / build.division, 0) * build.division), round(seen, 2))

    def ideal(self) -> tuple[float, float, float]:
        """Cut-offs at which this machine would be tuned, in kg: fast, medium, fine."""
        build = self.build
        fine = build.fine * (build.lag + build.fall + build.filter * 0.2)
        medium = fine + build.medium * (build.lag + build.fall + build.filter) + build.fine
        return medium + build.fast * (build.lag + build.fall + build.filter), medium, fine

    def _about(self, scatter: float) -> float:
        if self.fault == "bridging":
            return max(0.1, self.draw.gauss(1, 0.45))
        return max(0.1, self.draw.gauss(1, scatter))
