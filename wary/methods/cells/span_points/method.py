"""Zero and several loads: linearity, hysteresis, and for an amplifier channel counts per unit.

Loads are totals on the scale, not what was added.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from wary.acts import SETTLE, Act
from wary.fields import (
    Inputs,
    Mass,
    MassFromZero,
    Number,
    Plates,
    PositiveMass,
    PositiveSignal,
    Voltage,
    choice,
    field,
    plate,
    whole,
)
from wary.methods.cells.arithmetic import CellPlate
from wary.methods.cells.record import CELLS_ON_RECORD
from wary.methods.method import Method, Within
from wary.methods.reads import Reads
from wary.methods.shared.cautions import LIFT_WEIGHTS, OWN_RULES
from wary.methods.steps import Close, Enter, Item, Listed, Look, Rows, remark, typed
from wary.methods.tree import VALUE
from wary.results import Figure, Results, figure
from wary.suspects import looks
from wary.suspects.suspect import keys

Bits = Annotated[int, whole(2, 64)]
Gain = Annotated[int, whole(1, 1024)]
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
        remark("read", "Several readings"),
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
    adc_range: Figure | None = figure("amplifier's range", "signal")
    reading_spread: Figure | None = figure("readings at one load, furthest apart", "mass")
    noise_sd: Figure | None = figure("noise, standard deviation", "mass")
    smallest_useful_division: Figure | None = figure("smallest useful division", "mass")


class Point(Inputs):
    """One load, a total on the scale, with what was read: raw counts or an indicated mass."""

    load: MassFromZero | None = field("Load on the scale", ask="type the total that is on the scale.")
    raw: Number | None = field("Raw counts")
    indicated: Mass | None = field("Indicated")
    going: Going | None = field("Going up or down")
    readings: list[Number] | None = field("Several readings", "raw counts at this load, whose mean counts")

    @property
    def counts(self) -> float | None:
        """The raw figure of this point: as read once, or the mean of several readings."""
        if self.raw is not None or not self.readings:
            return self.raw
        return math.fsum(self.readings) / len(self.readings)

    @property
    def spread(self) -> float | None:
        """How far several readings are apart, counts; None where there are not two."""
        several = self.readings or []
        return max(several) - min(several) if len(several) > 1 else None

    @property
    def is_read(self) -> bool:
        return self.counts is not None or self.indicated is not None

    @classmethod
    def contradicting(cls, raw: Mapping[str, Any]) -> list[tuple[str, str]]:
        there = [key for key in ("raw", "readings", "indicated") if raw.get(key) is not None]
        return [(there[-1], f"stands beside “{there[0]}” in the same point; expected one of the two")] if len(there) > 1 else []  # fmt: skip


class SpanPointsInputs(Inputs):
    """Inputs of span points."""

    points: list[Point] | None = field("Points", ask="Begin with nothing on it: type the load and what was read.")
    division: PositiveMass | None = plate("Division of the display")
    cells: list[CellPlate] | None = field("Cells")
    adc_range: PositiveSignal | None = field("Amplifier's range", "mV/V at full scale")
    adc_bits: Bits | None = field("Amplifier's bits")
    adc_gain: Gain | None = field("Amplifier's gain", "1, 2, … 128, where it has no range in mV/V")
    adc_reference: Voltage | None = field("Amplifier's reference voltage", "what its full scale is at a gain of one")
    excitation: Voltage | None = field("Excitation")
    noise: list[Number] | None = field("Counts at constant load")
    plates: Plates | None = field("Plates")


class SpanPoints(Method[SpanPointsInputs, SpanPointsResults]):
    """`span-points`: deviations from the line, or the figures of an amplifier channel."""

    key = "span-points"
    title = "Several loads"
    summary = "Zero and several loads: linearity, counts per unit, noise"
    question = "Is it straight, and does it read right?"
    subject = "The points"
    passes_for = {"linearity": "curve"}
    profile = "vessel"
    inputs = SpanPointsInputs
    results = SpanPointsResults
    compares = True
    confirms = True
    takes_rows = {"cells": CELLS_ON_RECORD}
    acts = {
        "points.load": (Act("load", shares=(0, 0.25, 0.5, 0.75, 1, 0.5, 0), through=True),),
        "points.raw": (SETTLE,),
    }
    reads = (
        Reads(looks.STRAIGHT, "points.load", codes=("outside-limit", "linearity"), least=3),
        Reads(looks.ZERO_AGAIN, "points.load", ("zero_return",), least=2),
    )
    steps = (
        Look(
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touching, hanging or caked on", looks=keys(looks.GAP, looks.LINES, looks.CAKED)),
                Item("warm", "Warm, and exercised once with the largest load"),
                Item("added", "Loads are noted as totals on the scale"),
            ),
        ),
        Enter(
            "plates",
            "Read off",
            "Division of the display; for an amplifier channel its range and bits.",
            fields=("division", "adc_range", "adc_gain", "adc_reference", "excitation", "adc_bits"),
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
            kinds = [key for key in ("raw", "readings", "indicated") if row.get(key) is not None] if isinstance(row, dict) else []  # fmt: skip
            if len(kinds) == 1:
                kind = "indicated" if kinds[0] == "indicated" else "raw"
                first = first or kind
                if kind != first:
                    text = f"where another point gives “{first}”; expected one kind"
                    found.append((("points", place, kinds[0]), text))
        return found
