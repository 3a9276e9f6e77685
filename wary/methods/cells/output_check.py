"""Check of the 4–20 mA output against the load: `mA = 4 + 16·W/W₂₀`."""

from dataclasses import dataclass

from wary import drawings
from wary.drawings import PointMark
from wary.fields import Current, Inputs, Mass, MassFromZero, PositivePercentage, at_most, field
from wary.methods.cells.arithmetic import LOOP_SPAN, LOOP_ZERO, loop_current
from wary.methods.method import Method, Seen, Setting
from wary.methods.shared.cautions import OUTPUT_LOOP
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Item, Listed, Look, Rows, remark, typed
from wary.quantities import from_si, percent_shown, shown
from wary.results import Figure, Results, figure, percent, value_of
from wary.rules.assessment import ADJUST, LEAVE, NOT_READY, Assessment, Reason, Remark
from wary.rules.fitting import line

TOLERANCE = 0.001


@dataclass(slots=True, eq=False)
class OutputResults(Results):
    """Results of an output check."""

    expected: list[Figure] | None = figure("expected at each point", "current")
    errors: list[Figure] | None = figure("error at each point", "current", signed=True)
    errors_of_span: list[Figure] | None = figure("error at each point, share of the span", "percentage", signed=True)
    output_gain: Figure | None = figure("output gain", digits=6, summary=True)
    output_zero: Figure | None = figure("output zero", "current", summary=True, signed=True)


class OutputPoint(Inputs):
    """One load with the current measured for it."""

    load: Mass | None = field("Load shown or simulated", ask="type the load that the display shows.")
    measured: Current | None = field("Measured", ask="type the current that the meter shows.")


class OutputInputs(Inputs):
    """Inputs of an output check."""

    full_load: MassFromZero | None = field(
        "Load at 20 mA", ask="Look in the set-up which load gives 20 mA, and type it."
    )
    points: list[OutputPoint] | None = field("Points", ask="Begin with nothing on it: type the load and the current.")
    tolerance: PositivePercentage | None = field("Tolerance", "of the 16 mA span; 0.1 % where nothing is said")


POINTS = Rows(
    list="points",
    name="Point",
    empty="No points yet: begin with nothing on it.",
    columns=(
        typed("load", "Load"),
        typed("measured", "Measured"),
        remark("expected", "Expected"),
        remark("error", "Of span"),
    ),
    typed=("load", "measured"),
)


class OutputCheck(Method[OutputInputs, OutputResults]):
    """`output-check`: errors at each point, and the gain and zero that would put them right."""

    key = "output-check"
    title = "Output check"
    summary = "The 4–20 mA output against the load"
    question = "Does the output follow?"
    subject = "The output"
    profile = "vessel"
    inputs = OutputInputs
    remembers = ("full_load", "tolerance", "points.load")
    results = OutputResults
    compares = True
    against = ("full_load",)
    steps = (
        Look(
            "look",
            "Look first",
            items=(
                Item("told", "Whoever runs the plant knows that the output will move"),
                Item("meter", "Meter in the loop, in date, on mA"),
                Item("loop-open", "The loop was opened for the meter", "The loop is open: close it and look that it reads."),
            ),
            cautions=(OUTPUT_LOOP,),
        ),
        Enter("set-up", "Set-up", fields=("full_load", "tolerance")),
        Listed("points", "Points", "Zero, half and full at least; up and down again is better.", rows=POINTS),
        Close("close", "Close", "Close the loop, then write it up."),
    )  # fmt: skip

    def assess(self, given: OutputInputs, setting: Setting) -> Assessment[OutputResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "full_load", "points")
        if given.full_load and given.full_load.si <= 0:
            sheet.no_load("full_load", f"A load of {given.full_load.text} at 20 mA")
        points = given.points or []
        for place, point in enumerate(points):
            sheet.need_in(f"inputs.points[{place}]", point, ("load", "measured"), f"Point {place + 1}")
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        assert given.full_load
        pairs = [(p.load.si, from_si(p.measured.si, "mA")) for p in points if p.load and p.measured]
        expected = [loop_current(load, given.full_load.si) for load, _ in pairs]
        errors = [measured - wanted for (_, measured), wanted in zip(pairs, expected, strict=True)]
        sheet.results.expected = [Figure(wanted, "mA") for wanted in expected]
        sheet.results.errors = [Figure(error, "mA") for error in errors]
        sheet.results.errors_of_span = [percent(error / LOOP_SPAN) for error in errors]
        sheet.remarks["points"] = [
            {
                "expected": Remark(f"{shown(wanted, 5)} mA", wanted),
                "error": Remark(percent_shown(error / LOOP_SPAN, sign=True), error / LOOP_SPAN * 100),
            }
            for wanted, error in zip(expected, errors, strict=True)
        ]
        fit = line(expected, [measured for _, measured in pairs])
        if fit and fit.slope:
            sheet.results.output_gain = Figure(1 / fit.slope)
            sheet.results.output_zero = Figure(-fit.intercept / fit.slope, "mA")
        return _judge(sheet, given, errors)

    def draw(self, given: OutputInputs, seen: Seen) -> drawings.Line:
        """Each point's current against its load, off the straight line in per cent of the span."""
        marks = []
        for point in given.points or []:
            if point.load and point.measured and given.full_load and given.full_load.si > 0:
                share = point.load.si / given.full_load.si * 100
                read = (from_si(point.measured.si, "mA") - LOOP_ZERO) / LOOP_SPAN * 100
                marks.append(PointMark(share=share, off=read - share, text=point.load.text))
        return drawings.Line(points=tuple(marks), from_text="4 mA", to_text="20 mA")


def _judge(sheet: Draft[OutputResults], given: OutputInputs, errors: list[float]) -> Assessment[OutputResults]:
    tolerance = given.tolerance.si if given.tolerance else TOLERANCE
    worst = max(range(len(errors)), key=lambda place: abs(errors[place]))
    share = abs(errors[worst]) / LOOP_SPAN
    text = (
        f"Point {worst + 1} is furthest off, {shown(errors[worst], 3, sign=True)} mA or {percent_shown(share)} of the span; "
        f"{percent_shown(tolerance)} is allowed."
    )
    if all(at_most(abs(error) / LOOP_SPAN, tolerance) for error in errors):
        return sheet.answer(LEAVE, [Reason("within-limit", text)], lead=text)
    gain, zero = value_of(sheet.results.output_gain), value_of(sheet.results.output_zero)
    if gain is not None and zero is not None:
        text += f" Output gain {shown(gain, 6)} and zero {shown(zero, 4, sign=True)} mA put it right."
    return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline="Adjust the output", lead=text)


METHOD = OutputCheck()
