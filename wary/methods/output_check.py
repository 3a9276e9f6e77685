"""Check of the 4–20 mA output against the load: `mA = 4 + 16·W/W₂₀`."""

import math
from typing import Any

from wary.answer import Sheet
from wary.call import ADJUST, LEAVE, NOT_READY, Reason
from wary.cautions import OUTPUT_LOOP
from wary.fields import Current, Inputs, Mass, PositivePercentage, at_most, field
from wary.fitting import line
from wary.loadcells import LOOP_SPAN, loop_current
from wary.method import Assessment, Item, Method, Setting, Step, value
from wary.quantities import Quantity, from_si, percent_shown, shown

TOLERANCE = 0.001


class OutputPoint(Inputs):
    """One load with the current measured for it."""

    load: Mass | None = field("Load shown or simulated")
    measured: Current | None = field("Measured")


class OutputInputs(Inputs):
    """Inputs of an output check."""

    full_load: Mass | None = field("Load at 20 mA")
    points: list[OutputPoint] | None = field("Points")
    tolerance: PositivePercentage | None = field("Tolerance", "of the 16 mA span; 0.1 % where nothing is said")


class OutputCheck(Method):
    """`output-check`: errors at each point, and the gain and zero that would put them right."""

    key = "output-check"
    title = "Output check"
    summary = "The 4–20 mA output against the load"
    figure = "loop"
    kinds = ("vessel", "platform", "bench", "belt", "chain")
    profile = "vessel"
    inputs = OutputInputs
    steps = (
        Step(
            "look",
            "look",
            "Look first",
            items=(
                Item("told", "Whoever runs the plant knows that the output will move"),
                Item("meter", "Meter in the loop, in date, on mA"),
                Item("loop-open", "The loop was opened for the meter", "The loop is open: close it and look that it reads."),
            ),
            cautions=(OUTPUT_LOOP,),
        ),
        Step("set-up", "enter", "Set-up", fields=("full_load", "tolerance")),
        Step("points", "points", "Points", "Zero, half and full at least; up and down again is better.", runs="points"),
        Step("close", "close", "Close", "Close the loop, then write it up."),
    )  # fmt: skip

    def assess(self, given: OutputInputs, setting: Setting) -> Assessment:
        sheet = Sheet(self, setting)
        sheet.need(given, "full_load", "points")
        if given.full_load and given.full_load.si <= 0:
            text = f"A load of {given.full_load.text} at 20 mA is no load; it must be above zero."
            sheet.absent.append(Reason("no-load", text, {"path": "inputs.full_load"}))
        points = given.points or []
        for place, point in enumerate(points):
            sheet.need_in(f"inputs.points[{place}]", point, ("load", "measured"), f"Point {place + 1}")
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        assert given.full_load
        pairs = [(p.load.si, from_si(p.measured.si, "mA")) for p in points if p.load and p.measured]
        expected = [loop_current(load, given.full_load.si) for load, _ in pairs]
        errors = [measured - wanted for (_, measured), wanted in zip(pairs, expected, strict=True)]
        sheet.results["expected"] = [value(wanted, "mA") for wanted in expected]
        sheet.results["errors"] = [value(error, "mA") for error in errors]
        sheet.results["errors_of_span"] = [value(error / LOOP_SPAN * 100, "%") for error in errors]
        fit = line(expected, [measured for _, measured in pairs])
        if fit and fit.slope:
            sheet.results["output_gain"] = value(1 / fit.slope)
            sheet.results["output_zero"] = value(-fit.intercept / fit.slope, "mA")
        return _judge(sheet, given, errors)

    def drawing(self, given: OutputInputs, plates: dict[str, Quantity | float]) -> dict[str, dict[str, Any]]:
        """The points as shares of the span, expected against measured."""
        figures: dict[str, dict[str, Any]] = {}
        for place, point in enumerate(given.points or []):
            if point.load and point.measured and given.full_load and given.full_load.si > 0:
                share = point.load.si / given.full_load.si
                measured = from_si(point.measured.si, "mA")
                figures[f"point{place}"] = value(share * 100, "%") | {"text": point.load.text, "si": measured}
        return figures


def _judge(sheet: Sheet, given: OutputInputs, errors: list[float]) -> Assessment:
    tolerance = given.tolerance.si if given.tolerance else TOLERANCE
    worst = max(range(len(errors)), key=lambda place: abs(errors[place]))
    share = abs(errors[worst]) / LOOP_SPAN
    text = (
        f"Point {worst + 1} is furthest off, {shown(errors[worst], 3, sign=True)} mA or {percent_shown(share)} of the span; "
        f"{percent_shown(tolerance)} is allowed."
    )
    if all(at_most(abs(error) / LOOP_SPAN, tolerance) for error in errors):
        return sheet.answer(LEAVE, [Reason("within-limit", text)], lead=text)
    gain, zero = sheet.results.get("output_gain"), sheet.results.get("output_zero")
    if gain and zero and math.isfinite(gain["value"]):
        text += f" Output gain {shown(gain['value'], 6)} and zero {shown(zero['value'], 4, sign=True)} mA put it right."
    return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline="Adjust the output", lead=text)


METHOD = OutputCheck()
