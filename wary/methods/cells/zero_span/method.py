"""Zero and one test load, in passes until both hold.

Keying the value and taking the span are two acts. The first pass is as found, the last as left.
"""

from dataclasses import dataclass
from typing import Annotated

from wary import drawings
from wary.acts import SETTLE, UNLOAD, ZERO, Act
from wary.drawings import Load, spoken
from wary.fields import (
    AboveZero,
    Inputs,
    Mass,
    MassFromZero,
    Percentage,
    Plates,
    PositiveMass,
    choice,
    field,
    plate,
)
from wary.methods.cells.record import TARES_STALE
from wary.methods.factor import LeftFactorInputs
from wary.methods.method import Errors, Method, Seen
from wary.methods.reads import Reads
from wary.methods.shared.cautions import BAG_HANGS, LIFT_WEIGHTS, OWN_RULES
from wary.methods.shared.results import FactorResults
from wary.methods.shared.service import SERVICE_MODE
from wary.methods.steps import Close, Enter, Item, Listed, Look, Plan, Rows, remark, typed
from wary.quantities import Quantity, from_si
from wary.results import Figure, Results, YesNo, figure
from wary.rules.assessment import (
    Assessment,
)
from wary.rules.forms import ShouldRead
from wary.suspects import looks
from wary.suspects.suspect import keys


@dataclass(slots=True, eq=False)
class PassResults(Results):
    """One pass."""

    zero_error: Figure | None = figure("zero error", "mass", signed=True)
    span_error: Figure | None = figure("span error", "mass", signed=True)
    net_error: Figure | None = figure("net error", "mass", signed=True)
    holds: YesNo | None = figure("holds")


@dataclass(slots=True, eq=False)
class ZeroSpanResults(FactorResults):
    """Results of zero and span."""

    passes: list[PassResults] | None = figure("passes")
    divisions_tested: Figure | None = figure("divisions tested", summary=True)
    test_share: Figure | None = figure("test share", "percentage", summary=True)
    keyed_error: Figure | None = figure("error of what was keyed in", "percentage", signed=True)
    proven_at_capacity: Figure | None = figure("proven at capacity", "mass")


Taken = Annotated[str, choice(zero="the zero", span="the span", both="zero and span")]


class Pass(Inputs):
    """One pass: what is shown empty, with the load on, and with it off again."""

    zero: Mass | None = field("Shown empty", ask="Empty and steady: read what it shows.")
    span: Mass | None = field("Shown with the load on", ask="Load on and steady: read what it shows.")
    zero_after: Mass | None = field("Shown with it off again", ask="Load off again and steady: read what it shows.")
    taken: Taken | None = field(
        "Captured before it was read", "what was set with this same load, so that it was not found"
    )

    @property
    def sets_span(self) -> bool:
        """Whether its readings were taken after the span was captured with this load."""
        return self.taken in ("span", "both")


class Proof(Inputs):
    """Another load than the one that set the span, and what is shown with it on."""

    load: PositiveMass | None = field("Another load", ask="Say what is on now: type the other load.")
    indicated: Mass | None = field("Shown with it on", ask="The other load on and steady: read what it shows.")


PASSES = Rows(
    list="passes",
    name="Pass",
    empty="The first pass is as found: empty and steady, read.",
    columns=(
        typed("zero", "Empty"),
        typed("span", "Load on"),
        typed("zero_after", "Off again"),
        remark("span_error", "Span off by"),
        typed("taken", "Captured"),
        remark("holds", "Holds"),
    ),
    typed=("zero", "span", "zero_after", "taken"),
)
Hung = Annotated[str, choice(hangers="hung from the hangers", deck="centred on the deck")]


class ZeroSpanInputs(LeftFactorInputs):
    """Inputs of zero and span."""

    capacity: PositiveMass | None = plate("Capacity")
    division: PositiveMass | None = plate("Division of the display")
    test_load: MassFromZero | None = field("Test load", ask="Say what is put on: type the test load.")
    test_load_keyed: PositiveMass | None = field("Test load as keyed in", "as it was typed into the instrument")
    test_load_uncertainty: MassFromZero | None = field("Uncertainty of the test load", "expanded, from its certificate")
    passes: list[Pass] | None = field("Passes", ask="Empty and steady: read what it shows.")
    as_left_factor: AboveZero | None = field("Factor keyed in before the last pass", "where it is not the one found")
    accept: Percentage | None = field("Accept limit", "the profile's where nothing is said")
    proof: Proof | None = field("Proof with another load")
    hung: Hung | None = field("The load is", "on a stand for bulk bags")
    plates: Plates | None = field("Plates")

    @property
    def after_change(self) -> bool:
        return len(self.passes or []) > 1 or any(one.taken for one in self.passes or [])

    @property
    def as_found(self) -> Pass | None:
        """The first pass that was read before anything was captured; None where everything was set first."""
        return next((one for one in self.passes or [] if not one.taken), None)


class ZeroSpan(Method[ZeroSpanInputs, ZeroSpanResults]):
    """`zero-span`: passes of zero and one load, and what this load proves."""

    key = "zero-span"
    title = "Zero and span"
    summary = "Zero and one test load, passes until both hold"
    question = "Do zero and span hold?"
    subject = "The span"
    passes_for = {"zero-moved": "zero-moved", "proof-off": "curve"}
    half_done = "zero or span was taken, and does not hold yet"
    profile = "vessel"
    inputs = ZeroSpanInputs
    results = ZeroSpanResults
    compares = True
    confirms = True
    makes_stale = (TARES_STALE,)
    remembers = ("accept",)
    against = ("test_load", "test_load_uncertainty")
    acts = {
        "passes.zero": (UNLOAD, SETTLE),
        "passes.span": (Act("load", "test_load"), SETTLE),
        "passes.zero_after": (UNLOAD, SETTLE),
    }
    change = (UNLOAD, SETTLE, ZERO, Act("load", "test_load"), SETTLE, Act("span", "test_load"))
    reads = (
        Reads(looks.ANOTHER_LOAD, "proof.indicated", ("proof",)),
        Reads(looks.ZERO_AGAIN, "passes.zero_after", by_itself=True),
        Reads(looks.RISING, "passes.span", by_itself=True),
    )
    steps = (
        Look(
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touching, hanging or caked on", looks=keys(looks.GAP, looks.LINES, looks.CAKED)),
                Item("level", "Level, feet down, mounts upright"),
                Item("warm", "Switched on long enough to be warm; exercised once with the load"),
                Item(
                    "tracking",
                    "Zero tracking off for the test",
                    "Zero tracking is off: put it back on.",
                    looks=keys(looks.TRACKING),
                ),
                SERVICE_MODE,
                Item("seal", "Seal opened", "The seal is open: seal again, or note who will."),
            ),
        ),
        Enter(
            "plates",
            "Read off",
            "What the instrument is set to now, before anything is changed.",
            fields=("capacity", "division", "factor", "factor_decimals", "direction", "accept"),
            cautions=(OWN_RULES,),
        ),
        Plan(
            "load",
            "The test load",
            "What it is, and what it can prove.",
            fields=("test_load", "test_load_uncertainty", "test_load_keyed", "hung"),
            cautions=(BAG_HANGS,),
            where={"hung": "hung", BAG_HANGS: "hung"},
        ),
        Listed(
            "passes",
            "Passes",
            "Read before anything is captured: it costs one lift more, and is the only as-found there is. Empty and steady; load on and steady; load off again.",
            rows=PASSES,
            cautions=(LIFT_WEIGHTS,),
        ),
        Enter(
            "take",
            "Take zero and span",
            "Only where the call says so: keying the value in and taking the span are two acts.",
            items=(
                Item("zeroed", "Empty and steady: the zero was taken"),
                Item("keyed", "The value was keyed in"),
                Item("taken", "Load on and steady: the span was taken"),
            ),
        ),
        Enter(
            "proof",
            "Prove it",
            "The load that set the span shows that it repeats. Another one, a quarter away from it at least, shows that it reads right.",
            fields=("proof",),
        ),
        Close("close", "Close", "Weights off, put back what was changed, then write it up."),
    )

    def errors(self, given: ZeroSpanInputs, answer: Assessment[ZeroSpanResults]) -> Errors | None:
        """The span error as found and as left, in per cent of the test load; nothing was found where all was set first."""
        rows, load = answer.results.passes, given.test_load
        if not rows or not given.passes or load is None or load.si <= 0:
            return None

        def share(row: PassResults) -> float | None:
            return row.span_error.si / load.si * 100 if row.span_error else None

        found = next((share(row) for row, one in zip(rows, given.passes, strict=True) if not one.taken), None)
        return Errors(found, share(rows[-1]) if given.after_change else None, unread=given.as_found is None)

    def should_read(self, given: ZeroSpanInputs, answer: Assessment[ZeroSpanResults]) -> ShouldRead | None:
        last = given.passes[-1] if given.passes else None
        if last is None or last.span is None or given.test_load is None:
            return None
        load, unit = given.test_load, last.span.unit
        should = load if load.unit == unit else Quantity(from_si(load.si, unit), unit, "")
        return ShouldRead(should, last.span, "the test load", given.division)

    def draw(self, given: ZeroSpanInputs, seen: Seen) -> Load:
        """The test load against capacity, with the last reading."""
        last = given.passes[-1] if given.passes else None
        shows = ""
        if last and last.span:
            shows = f"shows {spoken(last.span.value, last.span.unit, 6)}"
        elif last and last.zero:
            shows = f"empty: {spoken(last.zero.value, last.zero.unit, 6)}"
        return Load(capacity=drawings.figure(given.capacity), load=drawings.figure(given.test_load), shows=shows)
