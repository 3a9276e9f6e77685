"""Scales that stand on load cells: platform, wheel pad, hopper, bench channel, bag stand.

Each cell has its own sensitivity and its share of what lies on the scale. The instrument adds them
up, smooths, creeps, rounds to its division, and says when it is steady. Masses in kg, signals in
mV/V, times in s. A load on the middle rests on all cells alike; one on a corner leaves
`NEAR` of itself on that cell.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from wary.live import Readout
from wary.simulators.folded import Folded, Lagged, Mendable, readout
from wary.simulators.stand_in import (
    KEY,
    Action,
    Control,
    Does,
    Hidden,
    OnRecord,
    Scale,
    Ticket,
    TicketFigure,
    does,
    waits,
)

NEAR, BESIDE = 0.81, 0.09
"""Share of a load at a corner that the nearest of four cells carries, and each of the two beside it."""
LAG = 0.9
"""Time constant of the instrument's filter, s."""
CREEP, CREEP_TIME = 0.0001, 240.0
"""What a cell goes on giving under a load, as a share of it, and how slowly, s."""

TRACKS = 0.5
"""Within so many divisions of zero the instrument takes what it feels for zero."""

LOW = "They say that it reads low."

CELL_FAULTS = {
    "frame": Hidden(
        "The frame was pressed against something: part of the load went past the cells.",
        "Unloaded again it did not come back to zero.", "find-fault", "fair", LOW, ("free",), ("zero-moved",), seen={"gap": "A stone is wedged between the frame and the edge beside it."}),
    "swapped": Hidden(
        "The signal pair of a cell was swapped.",
        "One cell fell when it was pressed.", "find-fault", "easy", LOW, ("wiring",), seen={"press": "falls: One cell falls when it is pressed."}),
    "open-wire": Hidden(
        "The signal wire of a cell was open.",
        "One cell did not move, whatever lay on it.", "find-fault", "easy", LOW, ("wiring",), seen={"press": "dead: One cell does not move, however hard it is pressed."}),
    "count": Hidden(
        "The instrument was told of one cell too few.",
        "It read too much by a ratio of whole numbers.", "find-fault", "fair", "The instrument was replaced.", ("count",), seen={"count": "The instrument is told of one cell fewer than stand under it.", "plates": "The number of cells that is set is one short."}),
}  # fmt: skip
IN_ORDER = {
    "none": Hidden("It was in order.", "Zero and load stood within half a division, more than once.", "leave"),
    "slow": Hidden(
        "It was in order: its filter was heavy, and a reading taken early was not the reading.",
        "The figure still moved when it was read.", "leave", "hard", LOW),
}  # fmt: skip
OUT = Hidden("It was simply out: the span was wrong.", "The load read wrong by the same share, and the zero came back.", "adjust", handed_over=LOW)  # fmt: skip
CORNER = Hidden(
    "One corner was weak: a cell's trim in the junction box had moved.",
    "The same load read less on one corner than on the others.", "find-fault", "fair", "Small loads read differently from one place to another.", ("trim",), ("corner-test:outside-limit",), seen={"corners": "On one corner it shows less than on the others."})  # fmt: skip


def shares(place: int, count: int) -> list[float]:
    """What each cell carries of a load: on the middle (0) all alike, else most on the cell of that place."""
    if not 1 <= place <= count:
        return [1 / count] * count
    if count == 4:
        return [NEAR if one == place - 1 else BESIDE if (one - place + 1) % 2 else 1 - NEAR - 2 * BESIDE for one in range(4)]  # fmt: skip
    own = 0.7
    return [own if one == place - 1 else (1 - own) / (count - 1) for one in range(count)]


@dataclass(frozen=True)
class Build:
    """What a scale on cells is: plates in kg and mV/V, what is usually put on it, and what it is called."""

    name: str
    channel: str
    capacity: float
    division: float
    dead: float
    cells: int
    cell_capacity: float
    sensitivity: float
    usual: float
    material: str = ""
    factor: float = 1.0
    decimals: int = 4
    reference: str = "Practice test weights"
    reference_division: str = ""


@dataclass
class StaticScale(Mendable):
    """What lies on it and where, what the instrument is set to, and what was mended."""

    felt: Lagged
    load: float = 0.0
    place: int = 0
    most: float = 0.0
    since: float = 0.0
    pressed: int = 0
    cell: int = 1
    zero: float = 0.0
    factor: float = 1.0
    hitch: float = 0.0
    driving: bool = False
    loads: int = 0


class OnCells(Folded[StaticScale]):
    """A scale on load cells and its instrument. `built` is what it is; subclasses give it a name and states."""

    doing = {
        "load": does("load"),
        "unload": does("off"),
        "place": does("place"),
        "press": does("press"),
        "release": (Does("press", 0),),
        "zero": does("zero"),
        "span": does("span"),
        "key": does(KEY),
    }
    mending = {
        "frame": "free",
        "lines": "free",
        "swapped": "wiring",
        "open-wire": "wiring",
        "cell-count": "count",
        "set-up": "count",
        "corner": "trim",
    }

    built: ClassVar[Build]
    faults: ClassVar[dict[str, Hidden]] = IN_ORDER | {"out": OUT} | CELL_FAULTS
    settings = frozenset({KEY, "span"})
    tolerance: ClassVar[float] = 0.0012
    into: ClassVar[tuple[str, ...]] = ("zero", "span", "zero_after", "indicated")

    def __init__(self, seed: int, fault: str, built: Build | None = None) -> None:
        super().__init__(seed, fault)
        self.build = built or self.built
        draw = self.draw
        build = self.build
        self.off = draw.choice((-1, 1)) * draw.uniform(0.004, 0.012)
        self.bad = draw.randint(1, build.cells)
        self.trims = [1 + draw.uniform(-0.0001, 0.0001) for _ in range(build.cells)]
        self.passed = draw.uniform(0.01, 0.02)
        self.lag = 7.0 if self.has("slow") else LAG

    # --- physics ----------------------------------------------------------------------------------

    @property
    def true_factor(self) -> float:
        """The factor at which it reads right once nothing is the matter."""
        return self.build.factor * (1 + self.off if self.has("out") else 1.0)

    def signals(self, state: StaticScale, load: float) -> list[float]:
        """The signal of each cell in mV/V, with so many kg on the scale."""
        build = self.build
        count = build.cells
        found = []
        for one, share in enumerate(shares(state.place, count)):
            held = build.dead / count + load * share * self._carried(state) + self._kept(state) / count
            if state.pressed == one + 1:
                held += 0.05 * build.cell_capacity
            signal = build.sensitivity * held / build.cell_capacity * self.trims[one]
            found.append(self._wired(state, one + 1, signal))
        return found

    def _wired(self, state: StaticScale, cell: int, signal: float) -> float:
        if cell != self.bad:
            return signal
        if self.wrong(state, "swapped"):
            return -signal
        if self.wrong(state, "open-wire"):
            return 0.013
        return signal * 0.985 if self.wrong(state, "corner") else signal

    def _carried(self, state: StaticScale) -> float:
        return 1 - self.passed if self.wrong(state, "frame") else 1.0

    def _kept(self, state: StaticScale) -> float:
        """What a pressed frame keeps of the most that lay on it."""
        return 0.004 * state.most if self.wrong(state, "frame") and state.load < state.most else 0.0

    def summed(self, state: StaticScale, load: float) -> float:
        """What the instrument makes of the cells, in kg, before zero and factor."""
        build = self.build
        told = build.cells - 1 if self.wrong(state, "count") else build.cells
        return sum(self.signals(state, load)) / build.sensitivity * build.cell_capacity * build.cells / told

    def weight(self, state: StaticScale, t: float) -> float:
        """What it would show at a time, in kg, before it is rounded: smoothed, with creep and noise."""
        under = max(0.0, min(t, 1e9) - state.since)
        creep = state.load * CREEP * (1 - math.exp(-under / CREEP_TIME))
        net = state.felt.at(t) + creep - state.zero
        if abs(net) <= TRACKS * self.build.division:
            # Zero tracking: what is that near to zero is taken for zero.
            net = 0.0
        return net * state.factor / self.true_factor + self.noise(t, self.build.division * 0.08, "weight")

    # --- the stand-in -----------------------------------------------------------------------------

    def at_first(self) -> StaticScale:
        state = StaticScale(Lagged(self.lag), factor=self.build.factor)
        state.felt.aim = self.summed(state, 0.0)
        state.zero = state.felt.aim
        return state

    def act(self, state: StaticScale, action: Action) -> None:
        t = action.at
        if action.what == "load":
            state.load = action.figure
        elif action.what == "add":
            state.load += action.figure
        elif action.what == "off":
            state.load = 0.0
        elif action.what == "place":
            state.place = int(action.figure)
        elif action.what == "press":
            state.pressed = int(action.figure)
        elif action.what == "cell":
            state.cell = max(1, min(self.build.cells, int(action.figure)))
        elif action.what == "zero":
            state.zero = state.felt.at(t)
        elif action.what == "span":
            net = state.felt.at(t) - state.zero
            if net > 0 and action.figure > 0:
                state.factor = self.true_factor * action.figure / net
        elif action.what == KEY and action.figure > 0:
            state.factor = action.figure
        state.load = max(0.0, min(state.load, 2 * self.build.capacity))
        state.most = max(state.most, state.load)
        if action.what in MOVES:
            state.since = t
        state.felt.lead(t, self.summed(state, state.load))

    def away(self, state: StaticScale) -> frozenset[str]:
        return frozenset({"release"} if not state.pressed else ())

    def shows(self, state: StaticScale, t: float) -> Sequence[Readout]:
        build = self.build
        steady = state.felt.still(t, build.division / 2)
        shown = [readout("weight", "weight", self.weight(state, t), build.division, "kg", *self.into, steady=steady)]
        for number, signal in enumerate(self.signals(state, state.load), 1):
            found = signal + self.noise(t, 0.0003, f"cell {number}")
            shown.append(readout(f"cell-{number}", f"cell {number}", found, 0.001, "mV/V", "empty", "pressed", "released", of=str(number)))  # fmt: skip
        return shown

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        return self.hale(state) and abs(state.factor / self.true_factor - 1) <= self.tolerance

    def right_figure(self) -> str:
        return f"factor {self.true_factor:.{self.build.decimals}f}, or its span taken again with a known load"

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """What came onto it since the ticket before, by an outside scale."""
        build = self.build
        division = float(build.reference_division.split()[0]) if build.reference_division else build.division
        load = self.after(actions, t).load
        net = round(load / division) * division
        return Ticket(title=f"net {net:g} kg", figures=(TicketFigure(into="reference", text=f"{net:g}", unit="kg"),))

    @classmethod
    def plates_of(cls, build: Build) -> dict[str, str | int | float]:
        """What its plates say, by the names that its kind of machine has for them."""
        return {
            "capacity": f"{build.capacity:g} kg",
            "division": f"{build.division:g} kg",
            "dead_load": f"{build.dead:g} kg",
            "live_capacity": f"{build.capacity:g} kg",
            "excitation": "5 V",
            **cells_of(build),
        }

    @classmethod
    def on_record(cls) -> OnRecord:
        build = cls.built
        return OnRecord(
            name=build.name,
            material=build.material,
            plates=cls.plates_of(build),
            channel=build.channel,
            cells=tuple(str(number) for number in range(1, build.cells + 1)),
            cell_capacity=f"{build.cell_capacity:g} kg",
            cell_sensitivity=f"{build.sensitivity:g} mV/V",
            factor=f"{build.factor:.{build.decimals}f}",
            factor_decimals=build.decimals,
            reference=build.reference,
            reference_kind="scale" if build.reference_division else "weights",
            reference_division=build.reference_division,
            reference_nominal="" if build.reference_division else f"{build.usual:g} kg",
        )


MOVES = {"load", "add", "off", "place"}


def cells_of(build: Build) -> dict[str, str | int | float]:
    """The plates of its cells."""
    return {
        "cell_capacity": f"{build.cell_capacity:g} kg",
        "cell_count": build.cells,
        "cell_sensitivity": f"{build.sensitivity:g} mV/V",
    }


def put(usual: float, words: str = "Put on") -> tuple[Control, ...]:
    """Controls that put a load on and take it off again."""
    return (
        Control(name="load", group="load", words=words, does="load", figure=usual, typed=True, unit="kg"),
        Control(name="off", group="load", words="Take off", does="off"),
    )


SETTING = (
    Control(name="zero", group="set", words="Take zero", does="zero"),
    Control(name="span", group="set", words="Take span", does="span", typed=True, unit="kg"),
    Control(name="key", group="set", words="Key in", does=KEY, typed=True, unit="factor"),
)
LOOKING = (
    Control(name="free", group="fault-finding", words="Free the frame", does="free"),
    Control(name="wiring", group="fault-finding", words="Mend the wiring", does="wiring"),
    Control(name="count", group="fault-finding", words="Set the number of cells", does="count"),
)
TRIM = Control(name="trim", group="fault-finding", words="Trim the corner", does="trim")
TIME = waits(("Wait 5 s", 5), ("Wait 1 min", 60))


def presses(count: int) -> tuple[Control, ...]:
    """Controls that press one cell after the other, and let go."""
    names = [("release", "Let go", 0), *((f"press-{n}", f"Press cell {n}", n) for n in range(1, count + 1))]
    return tuple(
        Control(name=name, group="weigh", words=words, does="press", figure=number, serves=("pressed", "released"))
        for name, words, number in names
    )


def corners(count: int) -> tuple[Control, ...]:
    """Controls that move the load to the middle and to each corner."""
    names = [("middle", "To the middle", 0), *((f"corner-{n}", f"To corner {n}", n) for n in range(1, count + 1))]
    return tuple(
        Control(name=name, group="load", words=words, does="place", figure=number, serves=("positions",))
        for name, words, number in names
    )
