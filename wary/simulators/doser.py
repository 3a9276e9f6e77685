"""A doser: a carrier on one cell, a check mass, and doses that a valve lets fall. Masses in g, times in s."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary.live import Readout
from wary.simulators.folded import Folded, Lagged, Mendable, readout
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

TARGET, DIVISION, BENCH = 400.0, 0.2, 0.1
GLASS = 82.0
SHOP = "They say that the doses are short."

FAULTS = {
    "none": Hidden("It was in order.", "The check mass and the doses agreed.", "leave"),
    "splash": Hidden(
        "It was in order: one dose splashed over.", "One dose beside the others, and the check mass right.", "leave", "hard", SHOP),
    "out": Hidden("It was simply out: its span had drifted.", "Check mass and doses were off by the same share.", "adjust", "easy", SHOP),
    "bent": Hidden("The cell was bent by a knock.", "The check mass was off by far more than drift.", "find-fault", "easy", "It was knocked by a trolley.", ("cell",), seen={"knock": "The carrier stands askew, and there is a fresh dent."}),
    "bearing": Hidden("A hose bore on the carrier.", "The check mass never read the same twice.", "find-fault", "fair", SHOP, ("clear",), seen={"gap": "A hose lies against the carrier."}),
    "valve": Hidden("The valve dripped: the scale was right, and the doses were not.", "The check mass was right, and every dose was heavy.", "find-fault", "hard", "They say that the doses are heavy.", ("valve",), seen={"drip": "A drop falls every few seconds."}),
    "shaking": Hidden("The bench shook: nothing settled.", "It took too long to settle, dose after dose.", "find-fault", "fair", SHOP, ("steady",), seen={"shakes": "The bench trembles with the machine beside it."}),
}  # fmt: skip

MENDS = {"cell": "Replace the cell", "clear": "Clear the carrier", "valve": "Mend the valve", "steady": "Steady the bench"}  # fmt: skip


@dataclass
class Dosing(Mendable):
    """What lies on the carrier, what the machine is set to, and the doses that it made; g."""

    felt: Lagged
    on: float = 0.0
    changes: int = 0
    zero: float = 0.0
    gain: float = 1.0
    doses: int = 0
    dose: float = 0.0
    settled: float = 0.0


class Doser(Folded[Dosing]):
    """A stand-in doser with a check mass and a bench scale."""

    doing = {
        "load": does("put"),
        "unload": does("off"),
        "cycle": does("dose"),
        "zero": does("zero"),
        "span": does("span"),
    }
    mending = {"bent": "cell", "bears": "clear", "drips": "valve", "shakes": "steady"}

    shape = "hopper"
    faults = FAULTS
    settings = frozenset({"span"})
    scales = (Scale(name="bench", words="Weigh the dose on the bench scale"),)
    minutes = 30
    controls = (
        Control(name="dose", group="run", words="Dose one", does="dose"),
        Control(name="put", group="load", words="Put on", does="put", figure=TARGET, typed=True, unit="g"),
        Control(name="off", group="load", words="Take off", does="off"),
        Control(name="zero", group="set", words="Take zero", does="zero"),
        Control(name="span", group="set", words="Take span", does="span", figure=TARGET, typed=True, unit="g"),
        *(Control(name=name, group="fault-finding", words=words, does=name) for name, words in MENDS.items()),
        *waits(("Wait 5 s", 5)),
    )

    def __init__(self, seed: int, fault: str) -> None:
        super().__init__(seed, fault)
        draw = self.draw
        sign = draw.choice((-1, 1))
        offs = {"out": sign * draw.uniform(0.006, 0.014), "bent": -draw.uniform(0.05, 0.09)}
        self.off, self.bent = (offs[one] if self.has(one) else 0.0 for one in ("out", "bent"))
        self.splashed = draw.randint(1, 3)

    def true_gain(self, state: Dosing) -> float:
        """The gain at which it reads right."""
        return 1 / (1 + self.off) / (1 + self.bent if self.wrong(state, "bent") else 1.0)

    def _felt(self, state: Dosing) -> float:
        if self.wrong(state, "bearing"):
            return state.on + self.chance("bearing", state.changes).uniform(-9, 9)
        return state.on

    def at_first(self) -> Dosing:
        return Dosing(Lagged(0.35 if not self.has("shaking") else 1.6))

    def act(self, state: Dosing, action: Action) -> None:
        t, what = action.at, action.what
        if what == "put":
            state.on = max(0.0, min(action.figure, 2000.0))
        elif what == "off":
            state.on = 0.0
        elif what == "zero":
            state.zero = state.felt.at(t)
            return
        elif what == "span":
            net = state.felt.at(t) - state.zero
            if net > 0 and action.figure > 0:
                state.gain = self.true_gain(state) * action.figure / net
            return
        elif what == "dose":
            self._dose(state)
        elif what == "steady":
            state.felt.tau = 0.35
        elif what not in MENDS:
            return
        state.changes += 1
        state.felt.lead(t, self._felt(state))

    def _dose(self, state: Dosing) -> None:
        chance = self.chance("dose", state.doses)
        # It closes when its own scale says so: what it reads too little, it gives too much.
        given = TARGET * self.true_gain(state) / state.gain * chance.gauss(1, 0.001)
        if self.wrong(state, "valve"):
            given *= 1.035
        if self.wrong(state, "shaking"):
            given *= chance.gauss(1, 0.012)
        if self.has("splash") and state.doses == self.splashed:
            given *= 1.05
        shaken = self.wrong(state, "shaking")
        state.settled = chance.uniform(3.4, 5.2) if shaken else chance.uniform(1.1, 1.9)
        state.dose, state.on = given, given
        state.doses += 1

    def shows(self, state: Dosing, t: float) -> Sequence[Readout]:
        wanders = 4 if self.wrong(state, "shaking") else 0.05
        net = (state.felt.at(t) - state.zero) * state.gain / self.true_gain(state)
        if self.wrong(state, "shaking"):
            net += 2.5 * math.sin(t * 2.1)
        steady = state.felt.still(t, DIVISION) and not self.wrong(state, "shaking")
        into = ("readings_before.value", "readings_after.value")
        return (
            readout("weight", "weight", net + self.noise(t, wanders * DIVISION, "weight"), DIVISION, "g", *into, steady=steady),
            readout("settled", "settled in", state.settled, 0.1, "s", "settle_times.value"),
        )  # fmt: skip

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """The last dose, by the bench scale."""
        grams = round(self.after(actions, t).dose / BENCH) * BENCH
        figures = tuple(TicketFigure(into=f"{of}.value", text=f"{grams:.1f}", unit="g") for of in ("doses", "doses_before"))  # fmt: skip
        return Ticket(title=f"dose {grams:.1f} g", figures=figures)

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        if not self.hale(state):
            return False
        return abs(state.gain / self.true_gain(state) - 1) <= 0.003

    def right_figure(self) -> str:
        return f"its span taken again with the check mass: a change of {100 * (self.true_gain(self.at_first()) - 1):+.2f} %"

    @staticmethod
    def on_record() -> OnRecord:
        return OnRecord(
            name="Practice doser",
            material="practice brine",
            plates={"capacity": "2 kg", "division": f"{DIVISION:g} g", "bench_division": f"{BENCH:g} g", "cell_capacity": "3 kg"},
            channel="dose",
            figures={"target": f"{TARGET:g} g"},
            reference="Practice check mass",
            reference_kind="weights",
            reference_nominal=f"{TARGET:g} g",
        )  # fmt: skip


STAND_INS: dict[str, type[StandIn]] = {"doser": Doser}
