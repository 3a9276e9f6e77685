"""A spreader that runs free: a gate, the settings of its drive, a catch of so many turns. Openings in mm, masses in kg."""

from collections.abc import Sequence
from dataclasses import dataclass

from wary.live import Readout
from wary.simulators.folded import Folded, Mendable, readout, stepped
from wary.simulators.metering import SHORT, GateSpreader
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
    gross_and_tare,
    waits,
)

FAULTS = {
    "none": Hidden("It was in order.", "The working setting lay inside the target.", "leave"),
    "drive": Hidden("It was in order: its drive is at its end from the seventh setting on.", "The last settings turned no faster than the one before.", "leave", "hard", "They say that it does not give more at nine than at seven."),
    "gate": Hidden("The gate stood too far open.", "One turn gave more than it should, at every setting.", "adjust", "easy", SHORT),
    "shut": Hidden("The gate stood too far shut.", "One turn gave less than it should, at every setting.", "adjust", "fair", "They say that it hardly shows on the road."),
    "skew": Hidden("The gate was crooked: one side was open more than the other.", "The opening was not the same on both sides.", "find-fault", "easy", SHORT, ("gate",), seen={"gate-fast": "One side of the gate stands further open."}),
    "engine": Hidden("The engine ran slower than it does at work.", "The engine's speed lay outside its band.", "find-fault", "fair", SHORT, ("engine",), seen={"engine": "The engine turns slower than at work."}),
    "marker": Hidden("The mark had slipped on the shaft: turns were miscounted.", "A higher setting counted fewer turns.", "find-fault", "hard", SHORT, ("marker",), seen={"mark": "The mark has slipped round the shaft."}),
    "damp": Hidden("The material was damp: one turn gave now this, now that.", "Two catches of equally many turns differed.", "find-fault", "fair", SHORT, ("dry",), seen={"damp": "The handful sticks together."}),
}  # fmt: skip

MENDS = {"gate": "Straighten the gate", "engine": "Engine to working speed", "marker": "Fix the mark", "dry": "Fill in dry material"}  # fmt: skip
OPEN, ONE_TURN, LAW = 40.0, 1.6, 1.35
"""The opening that is right, mm; what a turn gives there, kg; and by which power it grows with the opening."""


@dataclass
class Gated(Mendable):
    """Opening in mm, setting, engine in rpm, and what was counted and caught."""

    gate: float = OPEN
    setting: float = 3.0
    counts: int = 0
    turns: float = 0.0
    seconds: float = 0.0
    caught: float = 0.0
    caught_turns: float = 0.0


class Free(Folded[Gated]):
    """A stand-in spreader that runs free: a gate, settings of its drive, a catch of so many turns."""

    doing = {
        "setting": does("setting"),
        "count": does("count"),
        "catch": does("catch"),
        "move": does("open"),
    }
    mending = {"gate": "gate", "engine": "engine", "mark": "marker", "damp": "dry"}

    shape = "hopper"
    faults = FAULTS
    settings = frozenset({"open"})
    scales = (Scale(name="floor", words="Weigh the catch"),)
    minutes = 50
    tare, division = 12.0, 0.2
    controls = (
        Control(name="setting", group="run", words="Setting", does="setting", figure=3, typed=True, unit=""),
        Control(name="count", group="run", words="Count for", does="count", figure=60, typed=True, unit="s"),
        Control(name="catch", group="run", words="Catch", does="catch", figure=10, typed=True, unit="turns"),
        Control(name="open", group="set", words="Gate to", does="open", figure=OPEN, typed=True, unit="mm"),
        *(Control(name=name, group="fault-finding", words=words, does=name) for name, words in MENDS.items()),
        *waits(("Wait 1 min", 60)),
    )

    def __init__(self, seed: int, fault: str) -> None:
        super().__init__(seed, fault)
        share = {"gate": self.draw.uniform(1.4, 1.7), "shut": self.draw.uniform(0.55, 0.7)}.get(fault, 1.0)
        self.begins = round(OPEN * share)
        self.physics = GateSpreader(seed, LAW, ONE_TURN, OPEN / 1000)

    def at_first(self) -> Gated:
        return Gated(gate=self.begins)

    def act(self, state: Gated, action: Action) -> None:
        what, figure = action.what, action.figure
        chance = self.chance(what, state.counts)
        if what == "setting":
            state.setting = max(0.0, min(figure, 10.0))
        elif what == "count":
            turning = self.physics.turns(state.setting) * (0.8 if self.wrong(state, "engine") else 1.0)
            if self.wrong(state, "marker"):
                turning *= 1 - 0.11 * (state.counts % 3)
            state.seconds = max(1.0, min(figure, 600.0))
            state.turns = round(turning * state.seconds / 60 * 2 * chance.gauss(1, 0.002)) / 2
            state.counts += 1
        elif what == "catch":
            state.caught_turns = max(0.0, min(figure, 200.0))
            each = ONE_TURN * (state.gate / OPEN) ** LAW * chance.gauss(1, 0.08 if self.wrong(state, "damp") else 0.003)
            state.caught = state.caught_turns * max(0.0, each)
            state.counts += 1
        elif what == "open":
            state.gate = max(1.0, min(figure, 200.0))

    def shows(self, state: Gated, t: float) -> Sequence[Readout]:
        skew = 5.0 if self.wrong(state, "skew") else 0.4
        engine = (1240 if self.wrong(state, "engine") else 1600) + self.noise(t, 8, "engine")
        return (
            readout("left", "gate, left", state.gate + skew / 2, 0.5, "mm", "gate_readings.value"),
            readout("right", "gate, right", state.gate - skew / 2, 0.5, "mm", "gate_readings.value"),
            readout("setting", "setting", state.setting, 0.5, "", "settings.setting", "working.setting"),
            readout("turns", "counted", state.turns, 0.5, "", "settings.revolutions"),
            readout("seconds", "in", state.seconds, 1, "s", "settings.seconds"),
            readout("engine", "engine", engine, 10, "", "engine"),
        )

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """Container and catch on the floor scale, and the turns that were made."""
        state = self.after(actions, t)
        gross, tare = stepped(state.caught + self.tare, self.division), stepped(self.tare, self.division)
        turns = TicketFigure(into="revolutions", text=f"{state.caught_turns:g}", unit="")
        figures = (*gross_and_tare(gross, tare, "kg"), turns)
        return Ticket(title=f"gross {gross:g} kg, tare {tare:g} kg, {state.caught_turns:g} turns", figures=figures)

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        if not self.hale(state):
            return False
        return 0.84 <= (state.gate / OPEN) ** LAW <= 1.17

    def right_figure(self) -> str:
        return f"gate about {OPEN:g} mm"

    @classmethod
    def on_record(cls) -> OnRecord:
        turning = GateSpreader(0, LAW, ONE_TURN, OPEN / 1000).turns(3)
        middle = turning * ONE_TURN * 60 / 12
        return OnRecord(
            name="Practice gritter",
            material="practice salt",
            plates={"capacity": "4 t", "reference_division": f"{cls.division:g} kg", "lanes": 1, "lane_width": "3 m", "engine_low": 1500, "engine_high": 1700},
            channel="practice salt",
            figures={"target_low": f"{middle * 0.83:.0f} kg/km", "target_high": f"{middle * 1.17:.0f} kg/km", "setting": 3, "speed": "12 km/h"},
            known={"speeds.k1.value": "12 km/h", "inputs.working.setting": "3", "inputs.working.speed": "12 km/h", "inputs.prepared": "yes"},
            reference="Practice floor scale, 0.2 kg",
            reference_division=f"{cls.division:g} kg",
            reference_range="1500 kg",
        )  # fmt: skip


STAND_INS: dict[str, type[StandIn]] = {"free-spreader": Free}
