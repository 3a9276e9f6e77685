"""A metering device: a roller under a tank with a scale of its own, a container, a hanging scale. Masses in g, turns, times in s."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary.live import Readout
from wary.simulators.folded import Folded, Mendable, readout, stepped
from wary.simulators.metering import SHORT
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
    gross_and_tare,
    waits,
)

FAULTS = {
    "none": Hidden("It was in order.", "Two catches agreed, and with the value that stands in it.", "leave"),
    "empty": Hidden(
        "It was in order: its first catch was short, since the meter had stood empty.",
        "The first catch was short, and the next two agreed.", "leave", "hard", SHORT),
    "out": Hidden("It was simply out: another product is in it.", "Catches agreed with each other, and not with the old value.", "adjust", "easy", "A new product was filled in."),
    "worn": Hidden("Its brush was worn, a little: the value had crept up.", "Catches agreed with each other, and were some per cent above the old value.", "adjust", "fair", SHORT),
    "slips": Hidden("The coupling slipped: turns of the crank were not turns of the roller.", "No two catches agreed.", "find-fault", "fair", SHORT, ("coupling",), seen={"slips": "After ten turns the marks have parted."}),
    "roller": Hidden("Another roller was fitted than the one on the sheet.", "Catches agreed, at a ratio of two rollers.", "find-fault", "easy", "It was serviced in winter.", ("roller",), seen={"roller": "The roller that is fitted has another number than the sheet says."}),
    "bridging": Hidden("Product bridged over the meter: it ran empty as it turned.", "Each catch was less than the one before.", "find-fault", "fair", SHORT, ("stir",), seen={"hopper": "Product stands like a roof over the meter."}),
    "swapped": Hidden("The two containers were exchanged: each was weighed as the other tank's.", "Both values were off, and each was near the other's.", "find-fault", "hard", "Two products are in it, and both run out wrongly.", ("exchange",), seen={"containers": "Each container stands under the other outlet."}),
    "leaks": Hidden("The shutter leaked: product ran while nothing turned.", "Small catches weighed more a turn than large ones.", "find-fault", "hard", SHORT, ("shutter",), seen={"drip": "Granules trickle while nothing turns."}),
}  # fmt: skip

MENDS = {"coupling": "Mend the coupling", "roller": "Fit the right roller", "stir": "Stir the tank", "shutter": "Mend the shutter", "exchange": "Put the containers right"}  # fmt: skip
GRAMS = 120.0
"""What a turn of the roller gives, g; what stands on its sheet."""
OTHER_GRAMS = 76.0
"""What a turn of the other tank's roller gives, g; it turns on the same shaft."""
FIELD_TURNS = 0.5
"""Turns a second at the speed of the field."""


@dataclass
class Metered(Mendable):
    """What the controller holds, what was turned and caught since, and how long it ran; g, turns, s."""

    value: float = GRAMS
    turned: float = 0.0
    caught: float = 0.0
    other: float = 0.0
    catches: int = 0
    lacks: float = 0.0
    running: bool = False
    since: float = 0.0
    ran: float = 0.0
    trim: float = 0.0


class Drill(Folded[Metered]):
    """A stand-in metering device: a roller under a tank with a scale of its own, a container, a hanging scale."""

    doing = {
        "prime": does("prime"),
        "catch": does("turn"),
        "key": does(KEY),
    }
    mending = {
        "slips": "coupling",
        "roller": "roller",
        "bridging": "stir",
        "leaks": "shutter",
        "containers": "exchange",
    }

    shape = "hopper"
    faults = FAULTS
    settings = frozenset({KEY})
    scales = (
        Scale(name="hanging", words="Weigh the catch"),
        Scale(name="other", words="Weigh the other tank's catch"),
    )
    minutes = 30
    tare, division, tank = 340.0, 5.0, 400_000.0
    controls = (
        Control(name="prime", group="run", words="Run it full", does="prime"),
        Control(name="turn", group="run", words="Turn", does="turn", figure=20, typed=True, unit="turns"),
        Control(name="run", group="run", words="Run at field speed", does="run"),
        Control(name="stop", group="run", words="Stop", does="stop"),
        Control(name="pour", group="load", words="Pour the catch back", does="pour"),
        Control(name="key", group="set", words="Key in", does=KEY, typed=True, unit="g/turn"),
        *(Control(name=name, group="fault-finding", words=words, does=name) for name, words in MENDS.items()),
        *waits(("Wait 5 s", 5), ("Wait 1 min", 60)),
    )

    def __init__(self, seed: int, fault: str) -> None:
        super().__init__(seed, fault)
        draw = self.draw
        sign = draw.choice((-1, 1))
        shares = {"out": sign * draw.uniform(0.05, 0.12), "worn": draw.uniform(0.025, 0.045)}
        share = sum(one for name, one in shares.items() if self.has(name))
        self.per_turn = GRAMS * (1 + share)
        self.lacks = 0.45 if self.has("empty") else 0.1

    def given(self, state: Metered, turns: float) -> float:
        """What so many turns give, g; an empty roller fills first."""
        chance = self.chance("catch", state.catches)
        each = self.per_turn * (1.5 if self.wrong(state, "roller") else 1.0) * chance.gauss(1, 0.0015)
        if self.wrong(state, "slips"):
            each *= chance.uniform(0.75, 1.0)
        if self.wrong(state, "bridging"):
            each *= max(0.2, 0.94**state.catches)
        mass = max(0.0, turns * each - state.lacks * GRAMS * 10 * (1 - math.exp(-turns / 4)))
        state.lacks *= math.exp(-turns / 4)
        return mass + (60.0 if self.wrong(state, "leaks") and turns else 0.0)

    def at_first(self) -> Metered:
        return Metered(lacks=self.lacks)

    def _run_until(self, state: Metered, t: float) -> float:
        """Turns at the speed of the field until a time."""
        return state.ran + (max(0.0, t - state.since) * FIELD_TURNS if state.running else 0.0)

    def act(self, state: Metered, action: Action) -> None:
        what = action.what
        if what == "prime":
            self.given(state, 20)
        elif what == "turn":
            turns = max(0.0, min(action.figure, 500.0))
            state.caught, state.turned = self.given(state, turns), turns
            state.other = turns * OTHER_GRAMS * self.chance("other", state.catches).gauss(1, 0.0015)
            state.catches += 1
        elif what == "pour":
            state.caught, state.other, state.turned = 0.0, 0.0, 0.0
        elif what in ("run", "stop"):
            state.ran, state.since, state.running = self._run_until(state, action.at), action.at, what == "run"
        elif what == KEY and action.figure > 0:
            state.value = action.figure

    def away(self, state: Metered) -> frozenset[str]:
        return frozenset({"run" if state.running else "stop"} | (set() if state.caught else {"pour"}))

    def shows(self, state: Metered, t: float) -> Sequence[Readout]:
        turns = self._run_until(state, t)
        steady = not state.running
        out = turns * self.per_turn * (1.5 if self.wrong(state, "roller") else 1.0)
        tank = self.tank - out + self.noise(t, 4, "tank")
        return (
            readout("value", "value keyed in", state.value, 0.1, "g/rev", "old_value", "keyed_value", "mix_value"),
            readout("other-value", "value, other tank", OTHER_GRAMS, 0.1, "g/rev", "other_tank.old_value"),
            readout("turned", "turned", state.turned, 0.5, "", "amount"),
            readout("count", "count", turns, 0.1, "", "samples.count", steady=steady),
            readout("tank", "tank", tank / 1000, 0.001, "kg", "samples.vessel_mass", "start_mass", "end_mass", steady=steady),
            readout("clock", "clock", t, 1, "s", "samples.time", steady=steady),
        )  # fmt: skip

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """Container and catch on the hanging scale, and the turns that were counted; of the other tank its net."""
        state = self.after(actions, t)
        own, other = state.caught, state.other
        if self.wrong(state, "swapped"):
            own, other = other, own
        turns = f"{state.turned:g}"
        if scale.name == "other":
            net = stepped(other, self.division)
            figures = (TicketFigure(into="other_tank.net", text=f"{net:g}", unit="g"), TicketFigure(into="other_tank.amount", text=turns, unit=""))  # fmt: skip
            return Ticket(title=f"other tank: net {net:g} g, {turns} turns", figures=figures)
        gross, tare = stepped(self.tare + own, self.division), stepped(self.tare, self.division)
        catch = (*gross_and_tare(gross, tare, "g"), TicketFigure(into="amount", text=turns, unit=""))
        return Ticket(title=f"gross {gross:g} g, tare {tare:g} g, {turns} turns", figures=catch)

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        if not self.hale(state):
            return False
        return abs(state.value / self.per_turn - 1) <= 0.012

    def right_figure(self) -> str:
        return f"{self.per_turn:.1f} g a turn"

    @staticmethod
    def on_record() -> OnRecord:
        return OnRecord(
            name="Practice drill",
            material="practice seed",
            plates={"width": "3 m", "row_spacing": "12.5 cm", "capacity": "400 kg", "reference_division": "5 g"},
            channel="tank 1",
            figures={"old_value": f"{GRAMS:g} g/rev"},
            known={"inputs.per": "revolution"},
            reference="Practice hanging scale",
            reference_division="5 g",
            reference_range="25 kg",
        )


STAND_INS: dict[str, type[StandIn]] = {"meter": Drill}
