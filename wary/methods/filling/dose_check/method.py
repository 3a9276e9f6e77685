"""A dosing machine: a check mass on its cell, then real doses weighed on a bench scale."""

from dataclasses import dataclass
from typing import Annotated

from wary.acts import SETTLE, UNLOAD, ZERO, Act
from wary.fields import (
    Inputs,
    Limit,
    LimitField,
    Mass,
    MassFromZero,
    PositiveMass,
    PositiveTime,
    choice,
    field,
    plate,
)
from wary.methods.cells.record import TARES_STALE
from wary.methods.filling.filler import CAUTIONS, RUNS_BY_ITSELF
from wary.methods.method import Errors, Marks, Method
from wary.methods.reads import Reads
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, Stopwatch, remark, typed
from wary.methods.tree import VALUE
from wary.quantities import quantity
from wary.results import Figure, Results, figure, value_of
from wary.rules.assessment import (
    Assessment,
)
from wary.suspects import looks
from wary.suspects.suspect import keys

Settling = Annotated[str, choice(strict="strict", normal="normal", loose="loose")]


@dataclass(slots=True, eq=False)
class DoseResults(Results):
    """Results of a dose check."""

    error_before: Figure | None = figure("check mass as found", "mass", large=True, signed=True)
    error_before_share: Figure | None = figure("error as found", "percentage", summary=True, signed=True)
    error_after: Figure | None = figure("check mass as left", "mass", large=True, signed=True)
    error_after_share: Figure | None = figure("error as left", "percentage", summary=True, signed=True)
    new_factor_ratio: Figure | None = figure("ratio of the new factor")
    dose_ratio: Figure | None = figure("dose ratio")
    doses_to_settle: Figure | None = figure("first of three right doses", "integer", large=True)
    settle_time_mean: Figure | None = figure("settling time, mean", "time")


class DoseCheckInputs(Inputs):
    """Inputs of a dose check."""

    check_mass: MassFromZero | None = field("Check mass", ask="Say what the check mass weighs.")
    readings_before: list[Mass] | None = field("Check mass, as found", ask="Put the check mass on, and type what it shows.")  # fmt: skip
    readings_after: list[Mass] | None = field("Check mass, after the span was taken")
    tolerance: LimitField | None = field("Tolerance of the check mass", "0.3 % where nothing is said")
    target: PositiveMass | None = plate("Dose wanted")
    doses_before: list[MassFromZero] | None = field("Doses, as found")
    doses: list[MassFromZero] | None = field("Doses, after the span was taken")
    dose_tolerance: LimitField | None = field("Tolerance of a dose", "1 %, or two divisions of the bench scale where that is more")  # fmt: skip
    bench_division: PositiveMass | None = plate("Division of the bench scale")
    settle_times: list[PositiveTime] | None = field("Times to settle")
    settling: Settling | None = field("Settling is set to", "as found")
    settling_left: Settling | None = field("Settling is left at")
    empty_before: Mass | None = field("Shown empty", "before the span is taken")


TOLERANCE = Limit("one", (quantity("0.3 %", "percentage"),))
"""How far off a check mass may read where nothing is said."""


def _list(name: str, row: str, empty: str, tool: Stopwatch | None = None, told_as: str = "off") -> Rows:
    columns = (typed(VALUE, row), remark(told_as, "Off")) if told_as else (typed(VALUE, row),)
    return Rows(list=name, name=row, empty=empty, columns=columns, typed=(VALUE,), ends=(VALUE,), tool=tool)


class DoseCheck(Method[DoseCheckInputs, DoseResults]):
    """`dose-check`: a check mass before and after, then doses until three in a row are right."""

    key = "dose-check"
    title = "Check mass and doses"
    summary = "A check mass on the cell, then doses on a bench scale"
    question = "Does it dose what it says?"
    subject = "The doser"
    passes_for = {"no-better": "scatter"}
    half_done = "its span was taken again, and no three doses in a row prove it yet"
    profile = "filling"
    inputs = DoseCheckInputs
    results = DoseResults
    compares = True
    confirms = True
    makes_stale = (TARES_STALE,)
    remembers = ("check_mass", "tolerance", "target", "dose_tolerance", "settling")
    against = ("check_mass", "target")
    acts = {
        "inputs.check_mass": (Act("load"),),
        "readings_before.value": (UNLOAD, SETTLE, Act("load", "check_mass"), SETTLE),
        "doses_before.value": (UNLOAD, Act("cycle"), SETTLE, Act("weigh")),
        "settle_times.value": (),
        "doses.value": (UNLOAD, Act("cycle"), SETTLE, Act("weigh")),
    }
    change = (UNLOAD, SETTLE, ZERO, Act("load", "check_mass"), SETTLE, Act("span", "check_mass"))
    read_again = "readings_after"
    reads = (
        Reads(looks.SAME_AGAIN, "readings_before", codes=("not-repeating",), least=2),
        Reads(looks.KNOCK, "readings_before", codes=("far-off",), result="far-off"),
        Reads(looks.SHAKES, "settle_times", ("settling",)),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "A doser that starts by itself has something bearing on its cell: find that first.",
            items=(
                Item("clean", "Clean and dry, carrier free and square", looks=keys(looks.CAKED)),
                Item("bears", "Nothing bears on the cell or its carrier: hose, cable, drip, dirt", looks=keys(looks.GAP)),
                Item("knock", "No knock and no overload since it was last right", looks=keys(looks.KNOCK)),
                Item("mode", "Dosing is stopped", "Dosing is stopped: set it going again."),
            ),
            cautions=(RUNS_BY_ITSELF, *CAUTIONS),
        ),
        Enter("mass", "Check mass and tolerance", "A tolerance is shown in both forms: as a share and as a mass.", fields=("check_mass", "tolerance", "settling", "empty_before")),
        Listed("before", "As found", "Put the check mass on, read, take it off; three times.", rows=_list("readings_before", "Reading", "No reading yet: the check mass on, settled, read.")),
        Enter("dose", "The dose", fields=("target", "bench_division", "dose_tolerance")),
        Listed("doses-before", "As found, doses", "Only where it was doses that were complained of: they tell whether it is the cell alone.", rows=_list("doses_before", "Dose", "None yet.")),
        Listed("settle", "Settling", "From the mass set down until the figure stands.", rows=_list("settle_times", "Time", "Tap when it is set down, and when it stands.", Stopwatch("settling"), "")),
        Listed("after", "After the span", "Only where the call asks for it: take the span with the check mass, then read it again.", rows=_list("readings_after", "Reading", "Nothing was changed.")),
        Listed("doses", "Doses", "Real doses on the bench scale, until three in a row are right.", rows=_list("doses", "Dose", "No dose yet."), cautions=(RUNS_BY_ITSELF,)),
        Enter("settling", "Settling, as left", fields=("settling_left",)),
        Figures("figures", "What it comes to", ),
        Close("close", "Close", "Check mass away, dosing on, then write it up."),
    )  # fmt: skip

    def changed(self, given: DoseCheckInputs, answer: Assessment[DoseResults], marks: Marks) -> bool:
        return bool(marks.read_back) or bool(given.readings_after)

    def asks_for_change(self, answer: Assessment[DoseResults]) -> bool:
        return False

    def tolerance(self, given: DoseCheckInputs, accept: Limit | None) -> tuple[float, float] | None:
        """That of the check mass."""
        if given.check_mass is None or given.check_mass.si <= 0:
            return None
        share = (given.tolerance or TOLERANCE).relative_at(given.check_mass.si) * 100
        return -share, share

    def errors(self, given: DoseCheckInputs, answer: Assessment[DoseResults]) -> Errors | None:
        before = value_of(answer.results.error_before_share)
        return None if before is None else Errors(before, value_of(answer.results.error_after_share))
