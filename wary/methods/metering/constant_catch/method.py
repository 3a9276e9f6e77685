"""A controller's constant: caught, weighed, set anew, until controller and scale close in on each other."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from wary.acts import SETTLE, Act
from wary.fields import (
    AboveZero,
    Decimals,
    Density,
    Direction,
    Flag,
    Inputs,
    MassFromZero,
    PositiveMass,
    Readings,
    field,
    plate,
)
from wary.methods.metering.arithmetic import CAUTIONS, Weighed
from wary.methods.method import Errors, HandsBack, Marks, Method
from wary.methods.reads import Reads
from wary.methods.shared.containers import CONTAINERS_ON_RECORD, KnownContainer
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, remark, typed
from wary.results import Figure, Results, figure
from wary.rules.assessment import (
    LEAVE,
    Assessment,
)
from wary.suspects import looks
from wary.suspects.suspect import keys


@dataclass(slots=True, eq=False)
class ConstantResults(Results):
    """Results of a catch for a constant."""

    differences: list[Figure] | None = figure("difference of each catch", "mass", signed=True)
    difference_shares: list[Figure] | None = figure(
        "difference of each catch, share", "percentage", summary=True, signed=True
    )
    nexts: list[Figure] | None = figure("next constant of each catch")
    new_factor: Figure | None = figure("next constant", large=True, begins="constant")
    best_constant: Figure | None = figure("best of all catches", large=True)
    smallest_amount: Figure | None = figure("smallest amount", "mass")
    vessel_now: Figure | None = figure("the machine after the last catch", "mass", begins="start")


class ConstantRun(Weighed):
    """One catch: the constant in use, what the controller says, and what the scale says."""

    constant: AboveZero | None = field("Constant in use", ask="read the constant off the controller.")
    controller: MassFromZero | None = field("Controller says", ask="read what the controller says it gave.")
    start: MassFromZero | None = field("Machine before")
    end: MassFromZero | None = field("Machine after")

    @classmethod
    def contradicting(cls, raw: Mapping[str, Any]) -> list[tuple[str, str]]:
        found = super().contradicting(raw)
        if raw.get("gross") is not None or raw.get("net") is not None:
            text = "stands beside a weight of the catch; expected the catch, or the machine's own weight, not both"
            found += [(key, text) for key in ("start", "end") if raw.get(key) is not None]
        return found


class ConstantCatchInputs(Inputs):
    """Inputs of closing a constant."""

    direction: Direction | None = field("The constant", "divides where nothing is said")
    constant_decimals: Decimals | None = field("Decimals of the constant", "none where nothing is said")
    reference_division: PositiveMass | None = plate("Division of the scale")
    reference_readings: Readings | None = field("Readings on the scale for a net")
    runs: list[ConstantRun] | None = field("Catches", ask="Catch, and type what the controller and the scale say.")
    containers: list[KnownContainer] | None = field("Containers known here")
    density: Density | None = plate("Density, measured")
    density_keyed: Density | None = plate("Density in the controller")
    purged: Flag | None = field("Purged", "full of this material, and that put back")


RUNS = Rows(
    list="runs",
    name="Catch",
    empty="No catch yet: purge it first.",
    columns=(typed("constant", "Constant"), typed("controller", "Controller"), remark("net", "Scale"), remark("off", "Off"), remark("next", "Next")),
    typed=("constant", "controller", "gross", "tare", "net", "start", "end"),
    ends=("tare", "net", "end"),
    either=("gross+tare", "net", "start+end"),
    begins_with={"constant": "new_factor"},
)  # fmt: skip


class ConstantCatch(Method[ConstantCatchInputs, ConstantResults]):
    """`constant-catch`: the constant that brings controller and scale together."""

    key = "constant-catch"
    title = "The constant"
    summary = "Catches until controller and scale close in"
    question = "Does the controller say what it gave?"
    subject = "The constant"
    passes_for = {"alternating": "scatter"}
    half_done = "a new constant is keyed in, and no catch shows yet that it closes"
    profile = "metered-feed"
    inputs = ConstantCatchInputs
    results = ConstantResults
    compares = True
    trial = True
    confirms = True
    takes = {"direction": "", "density": "", "constant_decimals": "constant_decimals"}
    takes_rows = {"containers": CONTAINERS_ON_RECORD}
    against = ("reference_division",)
    acts = {
        "inputs.purged": (Act("prime"),),
        "runs.constant": (Act("prime"),),
        "runs.controller": (Act("catch", shares=(2, 1.5, 2, 1.8, 2)), SETTLE),
        "runs.gross": (Act("weigh"),),
        "runs.tare": (),
    }
    change = (Act("key", "new_factor"),)
    reads = (
        Reads(looks.PRIMED, "purged", ("purged",), ("not-purged",)),
        Reads(looks.DENSITY, "density", ("density",), ("density",)),
        Reads(looks.SAME_AGAIN, "runs.controller", by_itself=True),
        Reads(looks.LONGER, "runs.controller", by_itself=True),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "Product, gate, shields; and who stands where.",
            items=(
                Item("product", "The right product, dry and free", looks=keys(looks.DAMP)),
                Item("gate", "Gate where it will stay, and noted", looks=keys(looks.GATE_FAST)),
                Item("spinner", "Spinner off or shielded", "The spinner is off: set it back."),
                Item("trim", "Automatic trim off", "Automatic trim is off: put it back on."),
            ),
            cautions=CAUTIONS,
        ),
        Enter("scale", "Scale and density", "What this scale can show is said before the first catch.", fields=("reference_division", "reference_readings", "direction", "constant_decimals", "density", "density_keyed", "purged")),
        Listed("runs", "Catches", "Catch, weigh, and set what the call says; then once more.", rows=RUNS, cautions=(CAUTIONS[1],)),
        Figures("figures", "What to set", ),
        Close("close", "Close", "Shields on, then write it up."),
    )  # fmt: skip

    def changed(self, given: ConstantCatchInputs, answer: Assessment[ConstantResults], marks: Marks) -> bool:
        constants = [run.constant for run in given.runs or [] if run.constant]
        return bool(marks.read_back) or any(one != constants[0] for one in constants[1:])

    def asks_for_change(self, answer: Assessment[ConstantResults]) -> bool:
        return False

    def errors(self, given: ConstantCatchInputs, answer: Assessment[ConstantResults]) -> Errors | None:
        shares = [one.value for one in answer.results.difference_shares or []]
        return Errors(shares[0], shares[-1] if len(shares) > 1 else None) if shares else None

    def hands_back(self, given: ConstantCatchInputs, answer: Assessment[ConstantResults], plates: object) -> HandsBack:
        """The constant that closed."""
        used = [run.constant for run in given.runs or [] if run.constant and run.set_aside is None]
        if answer.call != LEAVE or not used:
            return HandsBack()
        return HandsBack(plates={"constant": f"{used[-1]:g}"})
