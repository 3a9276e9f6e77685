"""Known loads against what the system shows: the comparison for a vessel that was filled, and the
nudge after a vehicle's scale was proven on a ground scale.
"""

from typing import Annotated

from wary import drawings
from wary.acts import LOADS, SETTLE, Act
from wary.drawings import Vessel
from wary.fields import Mass, PositiveMass, choice, field, plate
from wary.methods.cells.record import TARES_STALE
from wary.methods.method import Seen, Setting
from wary.methods.shared.cautions import FILL_GATE, OWN_RULES
from wary.methods.shared.comparison import ComparisonMethod, compare, factor_check, reference_plan
from wary.methods.shared.offers import offered
from wary.methods.shared.results import ComparisonResults
from wary.methods.shared.service import SERVICE_MODE
from wary.methods.shared.stages import ComparisonInputs, Stage
from wary.methods.steps import Adjust, Close, Enter, Item, Look, Plan, Tally
from wary.results import value_of
from wary.rules.assessment import ADJUST, Assessment, Check, Reason, missing
from wary.rules.call import least_of_capacity
from wary.suspects import looks
from wary.suspects.suspect import keys

OffsetApplied = Annotated[str, choice(before="before the factor", after="after it")]

WHERE_TO_LOOK = (
    "Zero, empty: has something built up, or does something rest against it?",
    "Pipes, stays and cables that carry part of the load, more of it as it fills.",
    "The weighing itself: tare taken again, all of the load arrived, valve shut and tight.",
    "The cells: press each in a cell check.",
)


class KnownLoadInputs(ComparisonInputs):
    """Inputs of a known load, beside those of every comparison."""

    offset: Mass | None = field("Offset in the instrument")
    offset_applied: OffsetApplied | None = field("Offset taken off", "before the factor, or after it")
    capacity: PositiveMass | None = plate("Capacity")


class KnownLoad(ComparisonMethod[KnownLoadInputs, ComparisonResults]):
    """`known-load`: one careful load is enough, and asks to be confirmed."""

    key = "known-load"
    title = "Known load"
    summary = "Known loads, weighed elsewhere, against what it shows"
    subject = "The known load"
    profile = "vessel-fill"
    also_profiles = ("axle", "lift-arm", "load-cart")
    inputs = KnownLoadInputs
    results = ComparisonResults
    confirms = True
    one_is_enough = True
    proves_from_smallest = True
    makes_stale = (TARES_STALE,)
    acts = {"runs.indicated": (Act("load", shares=LOADS), SETTLE), "runs.reference": (Act("weigh"),)}
    change = (Act("key", "new_factor"),)
    read_again = "as_left"
    steps = (
        Look(
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touching, hanging or caked on", looks=keys(looks.GAP, looks.LINES, looks.CAKED)),
                Item("shut", "Every other way in and out is shut and tight"),
                Item("steady", "Agitator, vibrator and air as in normal work"),
                Item("auto-off", "Automatic filling off for the test", "Automatic filling is off: put it back on."),
                SERVICE_MODE,
                Item("seal", "Seal opened", "The seal is open: seal again, or note who will."),
            ),
        ),
        Enter(
            "plates",
            "Read off",
            "What the instrument is set to now, before anything is changed.",
            fields=("capacity", "factor", "factor_decimals", "direction", "nominal_factor", "indicated_division", "offset", "offset_applied", "plates_confirmed"),
            cautions=(OWN_RULES,),
        ),
        Plan(
            "amount",
            "How much to weigh",
            "What this reference can show, and what to arrange.",
            fields=("reference_division", "reference_readings", "reference_uncertainty"),
        ),
        Tally("as-found", "As found", "Known load in or out; what it shows moved by how much?", list="runs", cautions=(FILL_GATE,)),
        Adjust("adjust", "Adjust", "Key in the figure, then read back what the instrument shows."),
        Tally("as-left", "As left", "Put the load down and take it up again: a display that latches shows the new value only then.", list="as_left", stage="left", cautions=(FILL_GATE,)),
        Close("close", "Close", "Put back what was changed, then write it up."),
    )  # fmt: skip

    def assess(self, given: KnownLoadInputs, setting: Setting) -> Assessment[ComparisonResults]:
        def looks(stage: Stage, smallest: float | None) -> tuple[list[Check], list[Reason]]:
            return factor_check(given), _offset_said(given)

        answer = compare(self, given, setting, looks, WHERE_TO_LOOK, offset=_taken_off(given))
        for stage in (answer, answer.as_found):
            if stage and stage.call == ADJUST and value_of(stage.results.runs_in_set) == 1:
                text = (
                    "This rests on a single run: confirm it with another load before it is relied on. A display that "
                    "latches shows the new value only after the load was put down and taken up again."
                )
                stage.reasons.append(Reason("single-run", text))
        answer.suggestions += offered(answer.reasons)
        answer.plan = reference_plan(given, setting, answer)
        return answer

    def least_load(self, given: KnownLoadInputs, unit: str) -> tuple[float, str] | None:
        return least_of_capacity(given.capacity, given.indicated_division, unit)

    def draw(self, given: KnownLoadInputs, seen: Seen) -> Vessel:
        """The vessel filled as far as the last run shows, against its capacity."""
        loads = [run.indicated or run.reference or run.gross for run in [*(given.runs or []), *(given.as_left or [])]]
        known = [load for load in loads if load]
        count = seen.number("cell_count")
        return Vessel(
            capacity=drawings.figure(seen.quantity("capacity") or seen.quantity("live_capacity")),
            load=drawings.figure(known[-1], 6) if known else None,
            cells=round(count) if count else None,
        )


def _offset_said(given: KnownLoadInputs) -> list[Reason]:
    if not given.offset or given.offset.si == 0 or given.offset_applied:
        return []
    text = f"The instrument has an offset of {given.offset.text}: say whether it takes it off before the factor or after it."
    return [missing("inputs.offset_applied", text)]


def _taken_off(given: KnownLoadInputs) -> float:
    """A mass in kg that the instrument takes off after the factor; zero where it does not."""
    return given.offset.si if given.offset and given.offset_applied == "after" else 0.0


METHOD = KnownLoad()
