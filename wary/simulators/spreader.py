"""A spreader whose belt is told by a controller's constant: so many counts for one kg. Masses in kg."""

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
    does,
    gross_and_tare,
    waits,
)

FAULTS = {
    "none": Hidden("It was in order.", "The controller and the scale agreed to a step of the scale.", "leave"),
    "unpurged": Hidden("It was in order: what lay on the belt from before came out first.", "The first run differed, the ones after it agreed.", "leave", "hard", SHORT),
    "out": Hidden("It was simply out: its constant was another material's.", "Run after run was off by the same share.", "adjust", "easy", "Another material is in it."),
    "crept": Hidden("The belt was renewed, and is thinner.", "Run after run was off by the same few per cent.", "adjust", "fair", "The belt was renewed."),
    "density": Hidden("The density keyed in was not that of what lay in it.", "A full measure weighed other than what was keyed.", "find-fault", "easy", "Another material is in it.", ("density",), seen={"density": "A full measure weighs otherwise than what is keyed."}),
    "gate": Hidden("The gate had worked loose: it moved while it ran.", "The constant closed, and the next run was off again, the other way.", "find-fault", "fair", SHORT, ("gate",), seen={"gate-fast": "The gate's bolt is loose: it moves by hand."}),
    "bridging": Hidden("Material bridged over the belt.", "Runs came short, one much more than another.", "find-fault", "fair", SHORT, ("stir",), seen={"hopper": "Material stands like a roof over the belt."}),
    "slips": Hidden("The belt slipped under load: long runs gave less than short ones.", "The share that was off grew with the amount.", "find-fault", "hard", SHORT, ("tension",), seen={"slips": "Under load the belt stays behind the roller."}),
}  # fmt: skip

MENDS = {"density": "Key the density measured", "gate": "Fix the gate", "stir": "Stir the hopper", "tension": "Tighten the belt"}  # fmt: skip
CONSTANT = 8000.0
DENSITY, KEYED_WRONG = 1.02, 0.93
"""Density of what lies in it, and the one that somebody keyed, kg/L."""


@dataclass
class Spreading(Mendable):
    """The controller's constant, the last run, and what was mended; kg."""

    constant: float = CONSTANT
    runs: int = 0
    wanted: float = 0.0
    given: float = 0.0
    purged: bool = False
    measured: int = 0


class Controlled(Folded[Spreading]):
    """A stand-in spreader whose belt is told by a controller's constant: counts for one kg."""

    doing = {
        "prime": does("purge"),
        "catch": does("run"),
        "key": does(KEY),
    }
    mending = {"density": "density", "gate": "gate", "bridging": "stir", "slips": "tension"}

    shape = "hopper"
    faults = FAULTS
    settings = frozenset({KEY})
    scales = (Scale(name="floor", words="Weigh the catch"), Scale(name="measure", words="Weigh a full measure"))
    minutes = 40
    tare, division, volume, measure_tare = 18.4, 0.2, 10.0, 0.62
    controls = (
        Control(name="purge", group="run", words="Run it clear", does="purge"),
        Control(name="run", group="run", words="Run until it says", does="run", figure=100, typed=True, unit="kg"),
        Control(name="key", group="set", words="Key in", does=KEY, typed=True, unit="constant"),
        *(Control(name=name, group="fault-finding", words=words, does=name) for name, words in MENDS.items()),
        *waits(("Wait 1 min", 60)),
    )

    def __init__(self, seed: int, fault: str) -> None:
        super().__init__(seed, fault)
        draw = self.draw
        sign = draw.choice((-1, 1))
        share = {"out": sign * draw.uniform(0.05, 0.11), "crept": sign * draw.uniform(0.02, 0.04)}.get(fault, 0.0)
        self.true = CONSTANT * (1 + share)

    def run(self, state: Spreading, wanted: float) -> float:
        """What comes out until the controller says so many kg."""
        chance = self.chance("run", state.runs)
        given = wanted * state.constant / self.true * chance.gauss(1, 0.0012)
        if self.wrong(state, "density"):
            given *= DENSITY / KEYED_WRONG
        if self.wrong(state, "gate"):
            given *= 1 + (0.05 + 0.012 * state.runs) * (-1) ** state.runs
        if self.wrong(state, "bridging"):
            given *= chance.uniform(0.7, 1.0)
        if self.wrong(state, "slips"):
            given *= 1 - min(0.3, 0.0004 * wanted)
        return given + (0 if state.purged else 0.06 * min(wanted, 80) * (1 if self.has("unpurged") else 0.2))

    def at_first(self) -> Spreading:
        return Spreading()

    def act(self, state: Spreading, action: Action) -> None:
        what = action.what
        if what == "run":
            state.wanted = max(0.0, min(action.figure, 2000.0))
            state.given = self.run(state, state.wanted)
            state.runs += 1
            state.purged = True
        elif what == "purge":
            state.purged = True
        elif what == KEY and action.figure > 0:
            state.constant = action.figure

    def shows(self, state: Spreading, t: float) -> Sequence[Readout]:
        keyed = KEYED_WRONG if self.wrong(state, "density") else DENSITY
        return (
            readout("constant", "constant", state.constant, 1, "", "constant"),
            readout("controller", "controller", state.wanted, 0.1, "kg", "controller"),
            readout("density", "density keyed", keyed, 0.01, "kg/L", "density_keyed"),
        )

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """Container and catch on the floor scale, or a full measure on it."""
        state = self.after(actions, t)
        if scale.name == "measure":
            net = self.volume * DENSITY * (1 + self.noise(t, 0.003, "measure"))
            gross, tare = stepped(net + self.measure_tare, 0.01), self.measure_tare
        else:
            gross, tare = stepped(state.given + self.tare, self.division), stepped(self.tare, self.division)
        figures = gross_and_tare(gross, tare, "kg")
        return Ticket(title=f"gross {gross:g} kg, tare {tare:g} kg", figures=figures)

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        if not self.hale(state):
            return False
        return abs(state.constant / self.true - 1) <= 0.012

    def right_figure(self) -> str:
        return f"constant {self.true:.0f}"

    @staticmethod
    def on_record() -> OnRecord:
        return OnRecord(
            name="Practice spreader",
            material="practice lime",
            plates={"capacity": "9 t", "reference_division": "0.2 kg"},
            channel="material 1",
            figures={"constant": CONSTANT},
            reference="Practice floor scale, 0.2 kg",
            reference_division="0.2 kg",
            reference_range="1500 kg",
        )


STAND_INS: dict[str, type[StandIn]] = {"spreader": Controlled}
