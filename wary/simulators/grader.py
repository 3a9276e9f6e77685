"""A grader: a scale over which pieces run, and outlets that open by limits. Masses in g."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from wary.live import Readout
from wary.simulators.folded import Folded, Lagged, Mendable, readout
from wary.simulators.stand_in import KEY, Action, Control, Hidden, OnRecord, StandIn, does, waits

LIMITS = {"small": 120.0, "middle": 180.0, "large": 240.0}
"""Where each grade begins, g: a piece belongs to the heaviest grade whose limit it reaches."""
REJECT = 320.0
MEAN, SCATTER, NOISE, DIVISION = 200.0, 45.0, 1.5, 0.5
PIECES = 200
ORDER = "It is to grade from 120, 180 and 240 g."
SHOP = f"The packer says that the middle ones are too light. {ORDER}"
DUE = f"Its usual check is due. {ORDER}"

FAULTS = {
    "none": Hidden("It was in order.", "The check mass was right, and each grade's mean lay between its limits.", "leave", handed_over=DUE),
    "edges": Hidden("It was in order: pieces near a limit fall on either side, as its noise lets them.", "Single pieces fell beside their grade, the means did not.", "leave", "hard", SHOP),
    "out": Hidden("It was simply out: its span had drifted.", "The check mass read wrong by the same share at any mass.", "adjust", "easy", SHOP),
    "caked": Hidden("Product had caked under the carrier: the zero was off.", "Empty it did not show zero.", "find-fault", "easy", DUE, ("clean",), ("zero-moved",), seen={"caked": "Product is caked under the carrier."}),
    "limits": Hidden("Two limits had been mistyped: one grade took what belonged to another.", "A grade's mean lay outside its own limits.", "find-fault", "fair", SHOP, ("limits",), seen={"limits-back": "Two limits are not those on the sheet."}),
    "counts": Hidden("The counts of another batch had not been cleared.", "Total and count of a grade did not belong to each other.", "find-fault", "hard", SHOP, ("clear",), seen={"counts": "The counts were not cleared: another batch is in them."}),
    "shaking": Hidden("Its carrier shook: the noise was many times what it should be.", "The check mass would not stand still, and grades ran into each other.", "find-fault", "fair", SHOP, ("steady",), seen={"shakes": "The carrier is loose, and shakes."}),
}  # fmt: skip

MENDS = {"clean": "Clean under the carrier", "limits": "Key the limits again", "clear": "Clear the old batch", "steady": "Tighten the carrier"}  # fmt: skip


@dataclass
class Grading(Mendable):
    """What lies on it, what it is set to, and what it counted: pieces and their total in g, grade by grade."""

    felt: Lagged
    on: float = 0.0
    zero: float = 0.0
    gain: float = 1.0
    batches: int = 0
    counts: dict[str, int] = field(default_factory=lambda: dict.fromkeys(LIMITS, 0))
    totals: dict[str, float] = field(default_factory=lambda: dict.fromkeys(LIMITS, 0.0))


class Grader(Folded[Grading]):
    """A stand-in grader of three grades."""

    doing = {
        "load": does("put"),
        "unload": does("off"),
        "cycle": does("batch"),
        "zero": does("zero"),
        "span": does("span"),
        "key": does(KEY),
    }
    mending = {"caked": "clean", "limits": "limits", "counts": "clear", "shakes": "steady"}

    shape = "belt"
    faults = FAULTS
    settings = frozenset({KEY, "span"})
    minutes = 35
    controls = (
        Control(name="batch", group="run", words=f"Run {PIECES} pieces", does="batch"),
        Control(name="put", group="load", words="Put on", does="put", figure=200, typed=True, unit="g"),
        Control(name="off", group="load", words="Take off", does="off"),
        Control(name="zero", group="set", words="Take zero", does="zero"),
        Control(name="span", group="set", words="Take span", does="span", figure=200, typed=True, unit="g"),
        Control(name="key", group="set", words="Key in", does=KEY, typed=True, unit="factor"),
        *(Control(name=name, group="fault-finding", words=words, does=name) for name, words in MENDS.items()),
        *waits(("Wait 5 s", 5)),
    )

    def __init__(self, seed: int, fault: str) -> None:
        super().__init__(seed, fault)
        draw = self.draw
        self.off = draw.choice((-1, 1)) * draw.uniform(0.006, 0.02) if self.has("out") else 0.0
        self.cake = draw.uniform(3, 6)
        self.noise_of = NOISE * (2 if self.has("edges") else 1)

    def _noise(self, state: Grading) -> float:
        return 14.0 if self.wrong(state, "shaking") else self.noise_of

    def limits(self, state: Grading) -> dict[str, float]:
        """The limits that are keyed in, g."""
        return {**LIMITS, "middle": 150.0, "large": 214.0} if self.wrong(state, "limits") else dict(LIMITS)

    def _shown(self, state: Grading, felt: float) -> float:
        cake = self.cake if self.wrong(state, "caked") else 0.0
        return (felt + cake - state.zero) * state.gain * (1 + self.off)

    def at_first(self) -> Grading:
        state = Grading(Lagged(0.3))
        if self.has("counts"):
            # Yesterday's pieces were larger; their counts stand, and their totals were cleared.
            state.counts = {"small": 40, "middle": 90, "large": 30}
        return state

    def act(self, state: Grading, action: Action) -> None:
        t, what = action.at, action.what
        if what == "put":
            state.on = max(0.0, min(action.figure, 1000.0))
        elif what == "off":
            state.on = 0.0
        elif what == "zero":
            state.zero = state.felt.at(t) + (self.cake if self.wrong(state, "caked") else 0.0)
        elif what == "span":
            net = self._shown(state, state.felt.at(t)) / state.gain
            if net > 0 and action.figure > 0:
                state.gain = action.figure / net
        elif what == KEY and action.figure > 0:
            state.gain = action.figure
        elif what == "batch":
            self._run(state)
        elif what == "clear":
            state.counts, state.totals = dict.fromkeys(LIMITS, 0), dict.fromkeys(LIMITS, 0.0)
        state.felt.lead(t, state.on)

    def _run(self, state: Grading) -> None:
        chance = self.chance("batch", state.batches)
        limits, noise = self.limits(state), self._noise(state)
        for _ in range(PIECES):
            mass = max(20.0, chance.gauss(MEAN, SCATTER))
            seen = self._shown(state, mass + chance.gauss(0, noise))
            grade = max((name for name, low in limits.items() if seen >= low), key=limits.__getitem__, default="")
            if grade and seen < REJECT:
                state.counts[grade] += 1
                state.totals[grade] += mass
        state.batches += 1

    def shows(self, state: Grading, t: float) -> Sequence[Readout]:
        shaken = self.wrong(state, "shaking")
        weight = self._shown(state, state.felt.at(t)) + self.noise(t, 8 if shaken else 0.1, "weight")
        steady = state.felt.still(t, DIVISION / 2) and not shaken
        shown = [readout("weight", "weight", weight, DIVISION, "g", "zero", "span", "zero_after", steady=steady)]
        for name, limit in self.limits(state).items():
            shown.append(readout(f"{name}-limit", f"{name} from", limit, 1, "g", "limit", of=name))
            shown.append(readout(f"{name}-count", f"{name}, pieces", state.counts[name], 1, "", "count", of=name))
            shown.append(readout(f"{name}-total", f"{name}, total", state.totals[name], 1, "g", "total_mass", of=name))
        return shown

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        if not self.hale(state):
            return False
        return abs(state.gain * (1 + self.off) - 1) <= 0.003 and math.isclose(state.zero, 0.0, abs_tol=1.0)

    def right_figure(self) -> str:
        return f"factor {1 / (1 + self.off):.4f}, or its span taken again with a check mass"

    @staticmethod
    def on_record() -> OnRecord:
        return OnRecord(
            name="Practice grader",
            material="practice roots",
            plates={"capacity": "1 kg", "division": f"{DIVISION:g} g", "reject_limit": f"{REJECT:g} g", "outlets": 3, "scale_noise": f"{NOISE:g} g"},
            channel="sorting",
            factor="1.0000",
            factor_decimals=4,
            known={"inputs.limit_kind": "lower"} | {f"grades.k{n}.{key}": text for n, name in enumerate(("small", "middle", "large"), 1) for key, text in (("name", name), ("outlet", str(n)))} | {f"batch.k{n}.grade": name for n, name in enumerate(("small", "middle", "large"), 1)},
            reference="Practice check masses",
            reference_kind="weights",
            reference_nominal="200 g",
        )  # fmt: skip


STAND_INS: dict[str, type[StandIn]] = {"grader": Grader}
