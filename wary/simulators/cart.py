"""A load cart: a trailer on four cells, one of them at the hitch, filled in an order of its own.

Loads come from a hopper and are weighed again on a ground scale. Masses in kg, times in s.
"""

from collections.abc import Sequence
from typing import ClassVar

from wary.live import Readout
from wary.simulators.cells import (
    CELL_FAULTS,
    LOW,
    OUT,
    SETTING,
    TIME,
    Build,
    OnCells,
    StaticScale,
    cells_of,
    presses,
)
from wary.simulators.folded import readout, stepped
from wary.simulators.stand_in import KEY, Action, Control, Does, Hidden, Scale, StandIn, Ticket, does, gross_and_tare

HITCH = {"axle": 0.06, "front": 0.24, "rear": 0.0}
"""Share of a load that comes onto the hitch, by where it was filled in."""


class Cart(OnCells):
    """A stand-in load cart. What it shows is its weight; a load is stored once it stands still."""

    doing = {
        "load": (Does("axle", None, 0.8), Does("front", None, 0.2)),
        "unload": does("off"),
        "press": does("press"),
        "release": (Does("press", 0),),
        "zero": does("zero"),
        "span": does("span"),
        "key": does(KEY),
    }
    mending = {"mount": "free", "swapped": "wiring", "open-wire": "wiring", "rubs": "drawbar"}

    def usual_figure(self, action: str) -> float:
        return self.build.usual if action in HITCH else super().usual_figure(action)

    built = Build("Practice cart", "trailer", 14000, 20, 3200, 4, 7500, 2.0, 5000, "practice grain", 1.0, 4, "Practice ground scale", "20 kg")  # fmt: skip
    shape = "vehicle"
    faults = {
        "none": Hidden("It was in order.", "Loads agreed with their tickets.", "leave"),
        "freak": Hidden("It was in order: the first load was read before it stood still.", "One load beside the others, and the others agreed.", "leave", "hard", LOW, seen={"stood": "The first load was still moving as it was read."}),
        "out": OUT,
        "small-out": Hidden("It was simply out, by little more than its limit.", "Every load was off by the same small share.", "adjust", "hard", LOW),
        "mount": Hidden("A mount was stuck: the same mass was missing from every load, whatever its size.", "Small loads were off by more of their size than large ones.", "find-fault", "hard", LOW, ("free",), seen={"mounts": "One mount is rusted fast."}),
        "swapped": CELL_FAULTS["swapped"],
        "open-wire": CELL_FAULTS["open-wire"],
        "rubbing": Hidden("The tank rubbed on the drawbar when it was full.", "Large loads read low, small ones right.", "find-fault", "fair", LOW, ("drawbar",), seen={"drawbar": "Full, the tank rests on the drawbar."}),
    }  # fmt: skip
    controls = (
        Control(name="axle", group="load", words="Fill over the axle", does="axle", figure=2000, typed=True, unit="kg"),
        Control(name="rear", group="load", words="Fill the rear", does="rear", figure=1000, typed=True, unit="kg"),
        Control(name="front", group="load", words="Fill the front", does="front", figure=1000, typed=True, unit="kg"),
        Control(name="off", group="load", words="Unload", does="off"),
        Control(name="drive", group="run", words="Drive on the yard", does="drive"),
        Control(name="stand", group="run", words="Stand still", does="stand"),
        *presses(4),
        *SETTING,
        Control(name="free", group="fault-finding", words="Free the mounts", does="free"),
        Control(name="wiring", group="fault-finding", words="Mend the wiring", does="wiring"),
        Control(name="drawbar", group="fault-finding", words="Lift the tank off the drawbar", does="drawbar"),
        *TIME,
    )
    scales = (Scale(name="ground", words="Weigh it on the ground scale"),)
    tolerance = 0.006
    into = ("indicated", "passes.value")
    minutes = 60
    stuck: ClassVar[float] = 160.0

    def __init__(self, seed: int, fault: str, built: Build | None = None) -> None:
        super().__init__(seed, fault, built)
        if self.has("out"):
            self.off *= 4
        if self.has("small-out"):
            self.off = (1 if self.off > 0 else -1) * self.draw.uniform(0.014, 0.018)

    @property
    def true_factor(self) -> float:
        return self.build.factor * (1 + self.off if self.has("out", "small-out") else 1.0)

    def act(self, state: StaticScale, action: Action) -> None:
        what = action.what
        if what in HITCH:
            mass = max(0.0, min(action.figure, 6000.0))
            state.hitch += mass * HITCH[what]
            action = Action(action.at, "add", mass)
        elif what == "off":
            state.hitch = 0.0
            state.loads += 1 if state.load else 0
        elif what in ("drive", "stand"):
            state.driving = what == "drive"
        super().act(state, action)

    @classmethod
    def plates_of(cls, build: Build) -> dict[str, str | int | float]:
        return {
            "capacity": f"{build.capacity:g} kg",
            "indicated_division": f"{build.division:g} kg",
            "hitch_low": "6 %",
            "hitch_high": "18 %",
            **cells_of(build),
        }

    def summed(self, state: StaticScale, load: float) -> float:
        held = super().summed(state, load)
        if self.wrong(state, "mount"):
            held -= min(self.stuck, load)
        if self.wrong(state, "rubbing"):
            held -= 0.06 * max(0.0, load - 3000)
        return held

    def weight(self, state: StaticScale, t: float) -> float:
        found = super().weight(state, t)
        if state.driving:
            found += self.noise(t, 180, "road")
        if self.has("freak") and state.loads == 0 and state.load:
            found -= 0.03 * state.load
        return found

    def shows(self, state: StaticScale, t: float) -> Sequence[Readout]:
        weight, *cells = super().shows(state, t)
        if state.driving:
            weight = weight.model_copy(update={"steady": False})
        share = 100 * (state.hitch + 0.08 * self.build.dead) / (state.load + self.build.dead)
        return (weight, readout("hitch", "on the hitch", share, 0.1, "%", "hitch_share"), *cells)

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """Gross and tare of the cart on the ground scale, for what is in it."""
        load = self.after(actions, t).load
        division, tare = 20.0, 4860.0
        gross = stepped(load + tare + self.noise(t, 5, "gross"), division)
        figures = gross_and_tare(gross, tare, "kg")
        return Ticket(title=f"gross {gross:g} kg, tare {tare:g} kg", figures=figures)


STAND_INS: dict[str, type[StandIn]] = {"cart": Cart}
