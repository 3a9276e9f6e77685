"""A filling machine's physics: three flows under a hopper's head, gates that lag, product in the air.

What a stage lets fall keeps landing after its gate has shut: `flow · (lag + fall)`. Where the next
stage begins while that still lands, the scale is shaken and a fill is what chance makes of it; where
the fine stage has run for a second, all that is left is fine's own product in the air.
"""

import dataclasses
import math
import random
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from wary.live import Readout
from wary.quantities import round_half_up
from wary.simulators.folded import Folded, Mendable, readout
from wary.simulators.stand_in import (
    Action,
    Control,
    Hidden,
    OnRecord,
    Scale,
    StandIn,
    Ticket,
    TicketFigure,
    does,
    waits,
)


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


LIGHT = "Packs have come back from the shop."
SHOP = "The shop says that packs are not alike."

FAULTS = {
    "none": Hidden("It was in order.", "Three fills within the tolerance, and the mean near the target.", "leave"),
    "lively": Hidden(
        "It was in order: its fills scatter, as this product does, within what is allowed.",
        "The spread stayed under the limit for erratic fills.", "leave", "hard", SHOP),
    "fine-off": Hidden("Fine was set wrong, and nothing else.", "The fills repeated, and all were off by the same mass.", "adjust", "easy", LIGHT),
    "medium-close": Hidden(
        "Medium ended too close before fine: its product was still landing when fine was to be judged.",
        "Overfills that did not repeat, and a fine stage that was hardly seen.", "adjust", "hard", SHOP),
    "product": Hidden("The product had changed: it is denser, and more of it is in the air.", "The fills repeated, and were off after a change of product.", "adjust", "fair", "A new product runs since this morning."),
    "bridging": Hidden("Product bridged in the hopper: the flow came and went.", "Fill after fill was erratic, whatever was set.", "find-fault", "fair", SHOP, ("hopper",), seen={"hopper": "Product stands like a roof over the outlet, and falls in lumps."}),
    "air": Hidden("The air supply was low: gates shut when they liked.", "The gauge stood under its band, and the fills were erratic.", "find-fault", "easy", SHOP, ("air-supply",), seen={"air": "The gauge stands below its band."}),
    "shaking": Hidden("Something shook the weigh hopper: it stood against the mixer's frame.", "The fills scattered alike, whatever was set.", "find-fault", "hard", SHOP, ("mixer",), seen={"shakes": "The weigh hopper stands against the mixer's frame and trembles."}),
    "scale": Hidden("The weigh hopper rubbed: the machine's own weight was not the bench's.", "Machine and bench differed, pack after pack.", "find-fault", "fair", LIGHT, ("free",), seen={"own-scale": "The pack weighs more on the bench than the machine says."}),
}  # fmt: skip

MENDS = {
    "hopper": "Clear the hopper",
    "air-supply": "Mend the air supply",
    "free": "Free the weigh hopper",
    "mixer": "Move it off the mixer",
}

CUTS = ("fast", "medium", "fine")


@dataclass
class Filling(Mendable):
    """What the machine is set to, in kg, and the fills that it made."""

    cuts: dict[str, float]
    fills: int = 0
    pack: float = 0.0
    machine: float = 0.0
    fine_time: float = 0.0
    at: float = 0.0


class ThreeSpeed(Folded[Filling]):
    """A stand-in filling machine with three speeds, and a bench scale beside it."""

    doing = {
        "cycle": does("fill"),
    }
    mending = {"bridging": "hopper", "air": "air-supply", "shaken": "mixer", "own-scale": "free"}

    shape = "hopper"
    faults = FAULTS
    settings = frozenset(CUTS)
    scales = (Scale(name="bench", words="Weigh the pack on the bench scale"),)
    minutes = 40
    used: ClassVar[tuple[str, ...]] = CUTS
    target: ClassVar[float] = 1.0
    tolerance: ClassVar[float] = 0.010
    controls = (
        Control(name="fill", group="run", words="Fill one", does="fill"),
        *(Control(name=cut, group="set", words=f"Set {cut}", does=cut, typed=True, unit="g") for cut in CUTS),
        *(Control(name=name, group="fault-finding", words=words, does=name) for name, words in MENDS.items()),
        *waits(("Wait 1 min", 60)),
    )

    def __init__(self, seed: int, fault: str) -> None:
        super().__init__(seed, fault)
        build = Build()
        if not self.uses("fast"):
            build = dataclasses.replace(build, medium=0.22)
        ideal = Filler(0, build).ideal()
        self.begins = dict(zip(CUTS, (_up(one) for one in ideal), strict=True))
        if self.has("fine-off"):
            self.begins["fine"] += self.draw.choice((-1, 1)) * self.draw.randint(9, 12) / 1000
        if self.has("medium-close"):
            self.begins["medium"] = self.begins["fine"] + 0.4 * build.fine
            self.begins["fast"] = max(self.begins["fast"], self.begins["medium"])
        if self.has("product"):
            build = dataclasses.replace(build, fine=build.fine * 1.75, medium=build.medium * 1.15)
        if self.has("lively"):
            build = dataclasses.replace(build, noise=0.0016)
        if not self.uses("fast"):
            self.begins["fast"] = self.target
        self.begins["fine"] = max(0.0, self.begins["fine"])
        self.build = build
        self.rub = self.draw.uniform(0.004, 0.007)

    @classmethod
    def uses(cls, cut: str) -> bool:
        """Whether the machine has a stage of this name."""
        return cut in cls.used

    def filled(self, state: Filling, number: int) -> Filled:
        """One fill at what is set, by its number."""
        fault = next((one for one in ("bridging", "air") if self.wrong(state, one)), "none")
        cuts = state.cuts
        build = dataclasses.replace(self.build, noise=0.008) if self.wrong(state, "shaking") else self.build
        return Filler(self.seed * 10_007 + number, build, fault).fill(cuts["fast"], cuts["medium"], cuts["fine"])

    def at_first(self) -> Filling:
        return Filling(dict(self.begins))

    def act(self, state: Filling, action: Action) -> None:
        if action.what == "fill":
            made = self.filled(state, state.fills)
            rub = self.rub if self.wrong(state, "scale") else 0.0
            state.pack, state.fine_time = made.weight + rub, made.fine_time
            state.machine = made.weight
            state.fills += 1
            state.at = action.at + 4
        elif action.what in CUTS:
            state.cuts[action.what] = max(0.0, min(action.figure / 1000, self.target))

    def shows(self, state: Filling, t: float) -> Sequence[Readout]:
        steady = t >= state.at
        air = (3.9 if self.wrong(state, "air") else 5.6) + self.noise(t, 0.05, "air")
        return (
            readout("machine", "last fill", state.machine * 1000, 1, "g", "machine", steady=steady),
            readout("fine-time", "fine ran", state.fine_time, 0.01, "s", "fine_time", steady=steady),
            *(readout(cut, f"{cut} set", state.cuts[cut] * 1000, 1, "g", cut) for cut in self.used),
            readout("air", "air", air, 0.1, "bar", "read", of="air"),
        )

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """The last pack on the bench scale."""
        grams = round(self.after(actions, t).pack * 1000)
        figures = tuple(TicketFigure(into=into, text=f"{grams}", unit="g") for into in ("weight", "bench"))
        return Ticket(title=f"pack {grams} g", figures=figures)

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        if not self.hale(state):
            return False
        weights = [self.filled(state, 5_000 + number).weight for number in range(24)]
        mean = sum(weights) / len(weights)
        inside = sum(abs(weight - self.target) <= self.tolerance for weight in weights)
        return abs(mean - self.target) <= self.tolerance / 2 and inside >= 22

    def right_figure(self) -> str:
        ideal = dict(zip(CUTS, Filler(0, self.build).ideal(), strict=True))
        return ", ".join(f"{cut} about {ideal[cut] * 1000:.0f} g" for cut in self.used if cut != "fast")

    @classmethod
    def on_record(cls) -> OnRecord:
        begins = dict(zip(CUTS, (_up(one) for one in Filler(0).ideal()), strict=True))
        figures = {cut: f"{begins[cut] * 1000:.0f} g" for cut in cls.used}
        return OnRecord(
            name=cls.named,
            material="practice meal",
            plates={"capacity": "5 kg", "division": "1 g", "bench_division": "1 g"},
            channel="recipe 1",
            figures={"number": 1, "target": "1000 g", "over": "10 g", "under": "10 g", **figures},
            reference="Practice bench scale",
            reference_division="1 g",
            reference_range="5 kg",
        )

    named: ClassVar[str] = "Practice filler"


class TwoSpeed(ThreeSpeed):
    """A stand-in filling machine with two speeds: what three-speed ones call medium and fine."""

    used = ("medium", "fine")
    settings = frozenset({"medium", "fine"})
    named = "Practice filler, two speeds"
    controls = tuple(
        one.model_copy(
            update={"words": {"medium": "Set filled slowly", "fine": "Set in flight"}.get(one.name, one.words)}
        )
        for one in ThreeSpeed.controls
        if one.name != "fast"
    )


def _up(mass: float) -> float:
    return math.ceil(mass * 1000 - 1e-9) / 1000


STAND_INS: dict[str, type[StandIn]] = {"filler": ThreeSpeed, "two-speed-filler": TwoSpeed}
