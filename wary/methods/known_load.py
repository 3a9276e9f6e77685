"""Known loads against what the system shows: the comparison for a vessel that was filled, and the
nudge after a vehicle's scale was proven on a ground scale.
"""

from typing import Any

from wary.call import ADJUST, Reason
from wary.cautions import FILL_GATE, OWN_RULES
from wary.comparison import ComparisonMethod, compare, factor_check
from wary.fields import Mass, OffsetApplied, field
from wary.method import Assessment, Check, Item, Setting, Step, drawn
from wary.planning import reference_plan
from wary.quantities import Quantity
from wary.stages import ComparisonInputs, Stage

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


class KnownLoad(ComparisonMethod):
    """`known-load`: one careful load is enough, and asks to be confirmed."""

    key = "known-load"
    title = "Known load"
    summary = "Known loads, weighed elsewhere, against what it shows"
    figure = "vessel"
    kinds = ("vessel", "platform", "chain")
    profile = "vessel-fill"
    inputs = KnownLoadInputs
    steps = (
        Step(
            "look",
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touching, hanging or caked on"),
                Item("shut", "Every other way in and out is shut and tight"),
                Item("steady", "Agitator, vibrator and air as in normal work"),
                Item("auto-off", "Automatic filling off for the test", "Automatic filling is off: put it back on."),
                Item("seal", "Seal opened", "The seal is open: seal again, or note who will."),
            ),
        ),
        Step(
            "plates",
            "enter",
            "Read off",
            "What the instrument is set to now, before anything is changed.",
            fields=("factor", "factor_decimals", "direction", "nominal_factor", "indicated_division", "offset", "offset_applied"),
            cautions=(OWN_RULES,),
        ),
        Step(
            "amount",
            "plan",
            "How much to weigh",
            "What this reference can show, and what to arrange.",
            fields=("reference_division", "reference_readings", "reference_uncertainty"),
        ),
        Step("as-found", "runs", "As found", "Known load in or out; what it shows moved by how much?", runs="runs", cautions=(FILL_GATE,)),
        Step("adjust", "adjust", "Adjust", "Key in the figure, then read back what the instrument shows."),
        Step("as-left", "runs", "As left", "Another known load, with the new figure.", runs="as_left", cautions=(FILL_GATE,)),
        Step("close", "close", "Close", "Put back what was changed, then write it up."),
    )  # fmt: skip

    def offset_after(self, given: KnownLoadInputs) -> float:
        return given.offset.si if given.offset and given.offset_applied == "after" else 0.0

    def assess(self, given: KnownLoadInputs, setting: Setting) -> Assessment:
        def looks(stage: Stage, smallest: float | None) -> tuple[list[Check], list[Reason]]:
            return factor_check(given), []

        answer = compare(self, given, setting, looks, WHERE_TO_LOOK)
        for stage in (answer, answer.as_found):
            if stage and stage.call == ADJUST and stage.results["runs_in_set"]["value"] == 1:
                text = "This rests on a single run: confirm it with another load before it is relied on."
                stage.reasons.append(Reason("single-run", text))
        answer.plan = reference_plan(given, setting, answer)
        return answer

    def drawing(self, given: KnownLoadInputs, plates: dict[str, Quantity | float]) -> dict[str, dict[str, Any]]:
        """The vessel filled as far as the last run shows, against its capacity."""
        figures: dict[str, dict[str, Any]] = {}
        capacity = plates.get("capacity") or plates.get("live_capacity")
        if isinstance(capacity, Quantity):
            figures["capacity"] = drawn(capacity.value, capacity.unit) | {"si": capacity.si}
        runs = [
            run for run in [*(given.runs or []), *(given.as_left or [])] if run.indicated or run.reference or run.gross
        ]
        if runs:
            load = runs[-1].indicated or runs[-1].reference or runs[-1].gross
            assert load
            figures["load"] = drawn(load.value, load.unit, 6) | {"si": load.si}
        count = plates.get("cell_count")
        if isinstance(count, (int, float)):
            figures["cell_count"] = drawn(count, "", 2)
        return figures


METHOD = KnownLoad()
