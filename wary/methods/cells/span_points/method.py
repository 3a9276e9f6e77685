"""Zero and several loads: linearity, hysteresis, and for an amplifier channel counts per unit.

Loads are totals on the scale, not what was added.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from wary.fields import (
    Inputs,
    Mass,
    MassFromZero,
    Number,
    Plates,
    PositiveMass,
    PositiveSignal,
    choice,
    field,
    plate,
    whole,
)
from wary.methods.cells.arithmetic import CellPlate
from wary.methods.cells.record import CELLS_ON_RECORD
from wary.methods.method import Method, Within
from wary.methods.shared.cautions import LIFT_WEIGHTS, OWN_RULES
from wary.methods.steps import Close, Enter, Item, Listed, Look, Rows, remark, typed
from wary.methods.tree import VALUE
from wary.results import Figure, Results, figure

Bits = Annotated[int, whole(2, 64)]
Going = Annotated[str, choice(up="up", down="down")]
POINTS = Rows(
    list="points",
    name="Point",
    empty="No points yet: begin with nothing on it.",
    columns=(
        typed("load", "Load on it"),
        typed("raw", "Counts"),
        typed("indicated", "Shown"),
        typed("going", "Going"),
        remark("off", "Off by"),
    ),
    typed=("load", "raw", "indicated", "going"),
    ends=("raw", "indicated"),
    either=("raw", "indicated"),
)
NOISE = Rows(list="noise", name="Reading", empty="None yet.", columns=(typed(VALUE, "Read"),), typed=(VALUE,))


@dataclass(slots=True, eq=False)
class SpanPointsResults(Results):
    """Results of span points."""

    errors: list[Figure] | None = figure("error at each point", "mass", signed=True)
    corrections: list[Figure] | None = figure("correction of each point", "mass", signed=True)
    fit_slope: Figure | None = figure("slope of the line")
    fit_intercept: Figure | None = figure("intercept of the line")
    fit_slope_se: Figure | None = figure("slope, standard error")
    fit_intercept_se: Figure | None = figure("intercept, standard error")
    fit_residual_sd: Figure | None = figure("residuals, standard deviation")
    zero_raw: Figure | None = figure("raw reading empty")
    counts_per_unit: Figure | None = figure("counts per unit", summary=True)
    expected_counts_per_unit: Figure | None = figure("counts per unit by the plates")
    linearity: Figure | None = figure("linearity", "percentage", summary=True)
    hysteresis: Figure | None = figure("hysteresis", "percentage", summary=True)
    zero_return: Figure | None = figure("zero return", "mass", signed=True)
    noise_sd: Figure | None = figure("noise, standard deviation", "mass")
    smallest_useful_division: Figure | None = figure("smallest useful division", "mass")


READ = ("raw", "indicated")
"""The two ways in which a point is read."""


class Point(Inputs):
    """One load, a total on the scale, with what was read: raw counts or an indicated mass."""

    load: MassFromZero | None = field("Load on the scale", ask="type the total that is on the scale.")
    raw: Number | None = field("Raw counts")
    indicated: Mass | None = field("Indicated")
    going: Going | None = field("Going up or down")

    @classmethod
    def contradicting(cls, raw: Mapping[str, Any]) -> list[tuple[str, str]]:
        both = all(raw.get(key) is not None for key in READ)
        return [("indicated", "stands beside “raw” in the same point; expected one of the two")] if both else []


class SpanPointsInputs(Inputs):
    """Inputs of span points."""

    points: list[Point] | None = field("Points", ask="Begin with nothing on it: type the load and what was read.")
    division: PositiveMass | None = plate("Division of the display")
    cells: list[CellPlate] | None = field("Cells")
    adc_range: PositiveSignal | None = field("Amplifier's range", "mV/V at full scale")
    adc_bits: Bits | None = field("Amplifier's bits")
    noise: list[Number] | None = field("Counts at constant load")
    plates: Plates | None = field("Plates")


class SpanPoints(Method[SpanPointsInputs, SpanPointsResults]):
    """`span-points`: deviations from the line, or the figures of an amplifier channel."""

    key = "span-points"
    title = "Several loads"
    summary = "Zero and several loads: linearity, counts per unit, noise"
    question = "Is it straight, and does it read right?"
    subject = "The points"
    profile = "vessel"
    inputs = SpanPointsInputs
    results = SpanPointsResults
    compares = True
    confirms = True
    takes_rows = {"cells": CELLS_ON_RECORD}
    steps = (
        Look(
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touching, hanging or caked on"),
                Item("warm", "Warm, and exercised once with the largest load"),
                Item("added", "Loads are noted as totals on the scale"),
            ),
        ),
        Enter(
            "plates",
            "Read off",
            "Division of the display; for an amplifier channel its range and bits.",
            fields=("division", "adc_range", "adc_bits"),
            cautions=(OWN_RULES,),
        ),
        Listed(
            "points",
            "Points",
            "Empty first, then up; down again shows what sticks. One reading and one load are enough to begin with.",
            rows=POINTS,
            cautions=(LIFT_WEIGHTS,),
        ),
        Listed(
            "noise",
            "Noise",
            "Counts at constant load, ten or more, for the smallest useful division.",
            rows=NOISE,
        ),
        Close("close", "Close", "Loads off, then write it up."),
    )

    def across(self, raw: Mapping[str, Any]) -> list[tuple[Within, str]]:
        """Points of which one gives a raw figure and another what was indicated."""
        found: list[tuple[Within, str]] = []
        first: str | None = None
        rows = raw.get("points")
        for place, row in enumerate(rows if isinstance(rows, list) else []):
            kinds = [key for key in READ if row.get(key) is not None] if isinstance(row, dict) else []
            if len(kinds) == 1:
                first = first or kinds[0]
                if kinds[0] != first:
                    text = f"where another point gives “{first}”; expected one kind"
                    found.append((("points", place, kinds[0]), text))
        return found
