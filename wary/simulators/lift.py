"""Scales in something that lifts: a loader's arm, and a bin lift.

Pressure grows with the load, with the pace of the lift, and with cold oil; the instrument keeps the
figure of the last lift. Loads in kg, times in s, oil in °C; the raw figure is a plain number.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from wary.live import Readout
from wary.simulators.folded import Folded, Mendable, readout, stepped
from wary.simulators.stand_in import (
    KEY,
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

OFTEN = "They say that lorries come out heavier than it says."


@dataclass
class Lifting(Mendable):
    """What hangs on it, how warm it is, and what the last lift showed."""

    load: float = 0.0
    oil: float = 30.0
    lifts: int = 0
    raw: float | None = None
    took: float = 0.0
    shows: float = 0.0
    at: float = 0.0
    factor: float = 1.0
    zero: float = 0.0
    tipped: float = 0.0
    loose: float = 0.0


PACES = {"slow": 8.2, "normal": 6.1, "quick": 4.2, "held": 7.2}
"""How long a lift takes at each pace, s; with the lever held back it is this now, and that then."""
HELD = 0.25
"""By how much the time of a lift with the lever held back scatters."""
PER_KG, EMPTY = 1.0, 940.0
"""The raw figure for a kilogram more, and what an empty one gives at a standstill."""
PACED = 640.0
"""What pace adds to the raw figure: so much divided by the lift's time in s."""
COLD, WARM = 2.2, 45.0
"""What each degree under the gate adds to the raw figure, and where the gate is, °C."""

ARM_FAULTS = {
    "none": Hidden("It was in order.", "Loads agreed with their tickets.", "leave"),
    "cold": Hidden(
        "It was in order: its oil was cold when it was tried first.",
        "The readings came down as the oil grew warm.", "leave", "hard", "On cold mornings they say that it reads too much.", seen={"oil": "The oil is at 18 °C."}),
    "out": Hidden("It was simply out: another bucket was fitted.", "Every load was off by the same share.", "adjust", "easy", "A new bucket was fitted."),
    "nudged": Hidden("Somebody had nudged it after one load.", "Every load was off by the same share.", "adjust", "fair", OFTEN),
    "valve": Hidden("The flow valve stuck: no two lifts took the same time.", "Times and raw figures scattered at one and the same pace.", "find-fault", "fair", OFTEN, ("valve",), seen={"flow": "The flow valve's spool sticks, and lets go with a jerk."}),
    "pin": Hidden("The arm's pin was dry: it gripped and let go.", "The same load read otherwise at every lift, with equal times.", "find-fault", "hard", OFTEN, ("grease",), seen={"pin": "The pin is dry and squeals."}),
    "sensor": Hidden("The pressure sensor drifted while it was in use.", "Lift after lift of one load read more.", "find-fault", "fair", OFTEN, ("sensor",), seen={"sensor": "At rest the raw figure stands higher than it did."}),
    "touching": Hidden("Something hung between arm and frame and bore part of the load.", "It read low, small loads more than large ones.", "find-fault", "hard", OFTEN, ("clear",), seen={"gap": "A chain hangs between arm and frame."}),
}  # fmt: skip

BIN_FAULTS = {
    "none": Hidden("It was in order.", "The lifts of each container repeated, and loads agreed with their tickets.", "leave"),
    "seating": Hidden(
        "It was in order: the hooks had not seated when the first lifts were made.",
        "The first lifts of the day differed, the later ones did not.", "leave", "hard", "The round has just begun."),
    "out": Hidden("It was simply out.", "Every load was off by the same share.", "adjust", "easy", OFTEN),
    "nudged": Hidden("Somebody had set it by a container whose weight was guessed.", "Every load was off by the same share.", "adjust", "fair", OFTEN),
    "touching": Hidden("The forks hung low: a container touched the ground as it was read.", "Some lifts of one container read less than the others.", "find-fault", "fair", OFTEN, ("forks",), seen={"ground": "The container stands on the ground as it is read."}),
    "pin": ARM_FAULTS["pin"],
    "sensor": ARM_FAULTS["sensor"],
    "hose": Hidden("A hose pulled at the lift.", "The empty lift never read the same twice.", "find-fault", "hard", OFTEN, ("hose",), seen={"lines": "A hose is drawn tight as the lift goes up."}),
}  # fmt: skip

MENDS = {"valve": "Free the flow valve", "grease": "Grease the pin", "sensor": "Replace the sensor", "clear": "Clear what touches", "forks": "Raise the forks", "hose": "Tie up the hose"}  # fmt: skip


class Lifted(Folded[Lifting]):
    """What an arm and a bin lift have alike: lifts one after the other, each with a figure that is kept."""

    doing = {
        "load": does("load"),
        "raise": does("lift-normal"),
        "tip": does("tip"),
        "zero": does("zero"),
        "key": does(KEY),
    }
    mending = {
        "flow": "valve",
        "pin": "grease",
        "sensor": "sensor",
        "bears": "clear",
        "container": "forks",
        "hose": "hose",
        "cold": "warm",
    }

    shape = "arm"
    scales = (Scale(name="ground", words="Weigh what was tipped"),)
    settings = frozenset({KEY})
    division: ClassVar[float]
    ticket_division: ClassVar[float]
    seats: ClassVar[int] = 0
    paced: ClassVar[float] = 0.01
    old: ClassVar[float] = 1.0

    def __init__(self, seed: int, fault: str) -> None:
        super().__init__(seed, fault)
        draw = self.draw
        self.off = draw.choice((-1, 1)) * draw.uniform(0.045, 0.09)
        self.bias = draw.uniform(-0.0003, 0.0003)
        self.drift = draw.uniform(0.004, 0.008)

    @property
    def true_factor(self) -> float:
        """The factor at which it reads right."""
        return self.old * (1 + self.off if self.has("out", "nudged") else 1.0)

    def lift(self, state: Lifting, pace: str) -> tuple[float, float]:
        """The raw figure of one lift, and how long it took, s."""
        chance = self.chance("lift", state.lifts)
        scatter = HELD if pace == "held" else 0.12 if self.wrong(state, "valve") else self.paced
        took = PACES[pace] * max(0.4, chance.gauss(1, scatter))
        load = state.load
        if self.wrong(state, "touching"):
            load = self.touched(state, load)
        raw = EMPTY + load * PER_KG + PACED / took + COLD * max(0.0, WARM - state.oil)
        raw += load * PER_KG * chance.gauss(0, 0.0012)
        if self.wrong(state, "pin"):
            raw += chance.uniform(-1, 1) * 0.06 * (load + 0.1 * self.usual)
        if self.wrong(state, "hose"):
            raw += chance.uniform(-1, 1) * 0.05 * self.usual
        if self.wrong(state, "sensor"):
            raw += self.drift * state.lifts * self.usual
        if state.lifts < self.seats:
            raw += (0.05 if self.has("seating") else 0.01) * self.usual * (1 - state.lifts / self.seats) * chance.uniform(0.4, 1)  # fmt: skip
        return raw, max(1.0, took)

    usual: ClassVar[float] = 1000.0

    def touched(self, state: Lifting, load: float) -> float:
        """What is left of a load where something else bears part of it, kg."""
        return load - min(0.5 * load, 0.09 * self.usual)

    def at_first(self) -> Lifting:
        state = Lifting(oil=18.0 if self.has("cold") else 48.0, factor=self.old)
        state.zero = EMPTY + PACED / PACES["normal"]
        return state

    def act(self, state: Lifting, action: Action) -> None:
        what = action.what
        if what == "load":
            state.load = max(0.0, min(action.figure, 20 * self.usual))
        elif what == "empty":
            state.load = 0.0
        elif what.startswith("lift-") and what.removeprefix("lift-") in PACES:
            raw, took = self.lift(state, what.removeprefix("lift-"))
            state.raw, state.took = raw, took
            # Speed is compensated: what pace added is taken off again.
            state.shows = (raw - PACED / took - (state.zero - PACED / PACES["normal"])) / PER_KG * state.factor / self.true_factor  # fmt: skip
            state.lifts += 1
            state.at = action.at + took
            state.oil = min(60.0, state.oil + 0.3)
        elif what == "tip":
            state.tipped, state.load = state.load, 0.0
        elif what == "warm":
            state.oil = min(60.0, state.oil + 10)
        elif what == "zero" and state.raw is not None and state.load == 0:
            state.zero = state.raw - PACED / state.took + PACED / PACES["normal"]
        elif what == KEY and action.figure > 0:
            state.factor = action.figure

    def away(self, state: Lifting) -> frozenset[str]:
        return frozenset({"tip", "empty"} if not state.load else ())

    def shows(self, state: Lifting, t: float) -> Sequence[Readout]:
        steady = t >= state.at
        raw = state.raw if state.raw is not None else state.zero
        weight = state.shows if state.raw is not None else 0.0
        return (
            readout("weight", "last lift", weight, self.division, "kg", "indicated", steady=steady),
            readout("raw", "raw", raw, 1, "", "raw", steady=steady),
            readout("time", "lift took", state.took, 0.1, "s", "time", steady=steady),
            readout("oil", "oil", state.oil, 1, "degC", "temperature"),
        )

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """What was tipped last, or hangs on it, by the ground scale."""
        state = self.after(actions, t)
        mass = (state.load or state.tipped) * (1 + self.bias)
        net = stepped(mass + self.noise(t, self.ticket_division * 0.3, "ticket"), self.ticket_division)
        return Ticket(title=f"net {net:g} kg", figures=(TicketFigure(into="reference", text=f"{net:g}", unit="kg"),))

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        if not self.hale(state):
            return False
        return abs(state.factor / self.true_factor - 1) <= 0.012

    def right_figure(self) -> str:
        return f"factor {self.true_factor:.4f}"


def controls(usual: float, empty: str, paces: tuple[str, ...], mends: tuple[str, ...], *more: Control) -> tuple[Control, ...]:  # fmt: skip
    """The controls of something that lifts."""
    words = {"slow": "Lift slowly", "normal": "Lift", "quick": "Lift quickly", "held": "Lift, lever held back"}
    return (
        *(Control(name=f"lift-{pace}", group="run", words=words[pace], does=f"lift-{pace}") for pace in paces),
        Control(name="load", group="load", words="Take up", does="load", figure=usual, typed=True, unit="kg"),
        Control(name="empty", group="load", words=empty, does="empty"),
        Control(name="tip", group="load", words="Tip it out", does="tip"),
        *more,
        Control(name="zero", group="set", words="Take zero", does="zero"),
        Control(name="key", group="set", words="Key in", does=KEY, typed=True, unit="factor"),
        *(Control(name=name, group="fault-finding", words=MENDS[name], does=name) for name in mends),
        *waits(("Wait 10 s", 10), ("Wait 5 min", 300)),
    )


class Arm(Lifted):
    """A stand-in loader's arm."""

    faults = ARM_FAULTS
    controls = controls(
        1800, "Shake the bucket empty", ("slow", "normal", "quick", "held"), ("valve", "grease", "sensor", "clear"),
        Control(name="warm", group="run", words="Work the oil warm", does="warm"),
    )  # fmt: skip
    division, ticket_division, usual, minutes = 10.0, 10.0, 1800.0, 60

    @staticmethod
    def on_record() -> OnRecord:
        return OnRecord(
            name="Practice loader",
            material="practice shell",
            plates={"capacity": "3 t", "indicated_division": "10 kg", "bucket_volume": "1.8 m3", "minimum_temperature": "45 degC"},
            channel="bucket",
            factor="1.0000",
            factor_decimals=4,
            reference="Practice ground scale",
            reference_division="10 kg",
            reference_range="60 t",
        )  # fmt: skip


class Bin(Lifted):
    """A stand-in bin lift."""

    faults = BIN_FAULTS
    controls = controls(120, "Empty container", ("normal",), ("forks", "grease", "sensor", "hose"))
    division, ticket_division, usual, seats, minutes, paced = 1.0, 1.0, 120.0, 10, 45, 0.002

    def shows(self, state: Lifting, t: float) -> Sequence[Readout]:
        return super().shows(state, t)[:2]

    def touched(self, state: Lifting, load: float) -> float:
        return load * 0.8 if self.chance("ground", state.lifts).random() < 0.4 else load

    @staticmethod
    def on_record() -> OnRecord:
        return OnRecord(
            name="Practice bin lift",
            material="practice peel",
            plates={"capacity": "600 kg", "indicated_division": "1 kg", "seating_needed": 10, "lifts_needed": 5},
            channel="forks",
            factor="1.0000",
            factor_decimals=4,
            reference="Practice floor scale",
            reference_division="1 kg",
            reference_range="1500 kg",
        )


STAND_INS: dict[str, type[StandIn]] = {"lift-arm": Arm, "lift": Bin}
