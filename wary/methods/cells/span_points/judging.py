"""Several loads: what is said of what was typed."""

import math
from collections.abc import Sequence
from typing import Any

from wary import drawings
from wary.drawings import PointMark
from wary.fields import (
    Plates,
    at_most,
)
from wary.methods.cells.arithmetic import Cells
from wary.methods.cells.span_points.method import Point, SpanPoints, SpanPointsInputs, SpanPointsResults
from wary.methods.method import Seen, Setting
from wary.methods.shared.draft import Draft
from wary.quantities import from_si, ladder_step, percent_shown, shown, to_si
from wary.results import Figure, percent
from wary.rules import slips
from wary.rules.assessment import (
    ADJUST,
    FIND_FAULT,
    LEAVE,
    NOT_READY,
    Assessment,
    Reason,
    Remark,
    missing,
)
from wary.rules.fitting import deviation, line

NAMED = ("reversed", "no-signal", "linearity", "hysteresis", "zero_return")
LEAST_CHANGE = 0.01
COUNTS_APART = 0.05
NOISE_DIVISIONS = 6
WHERE_TO_LOOK = (
    "Whether each load is the total on the scale and not what was added.",
    "Something that touches as the load grows, or a load that stands off centre.",
    "A cell near its end, or a mount that binds: go up and come down again.",
    "The wiring: signal pair swapped or open, excitation missing.",
)


def _deviations(points: Sequence[Point]) -> list[PointMark | None]:
    """For each point how far it lies off the line through all that are read; None where it is not read yet."""
    pairs = [
        (point.load.si if point.load else None, point.raw if point.raw is not None else point.indicated)
        for point in points
    ]
    known = [
        (load, read if isinstance(read, float) else read.si)
        for load, read in pairs
        if load is not None and read is not None
    ]
    fit = line([load for load, _ in known], [read for _, read in known])
    largest = max((load for load, _ in known), default=0.0)
    marks: list[PointMark | None] = []
    for point, (load, read) in zip(points, pairs, strict=True):
        if load is None or read is None or point.load is None:
            marks.append(None)
            continue
        figure = read if isinstance(read, float) else read.si
        off = (figure - fit.at(load)) / fit.slope / largest * 100 if fit and fit.slope and largest else 0.0
        share = load / largest * 100 if largest else 0.0
        going: Any = "down" if point.going == "down" else "up"
        marks.append(PointMark(share=share, off=off, text=point.load.text, going=going))
    return marks


class _Points:
    """The figures and rules of span points, once every point is in."""

    def __init__(self, sheet: Draft[SpanPointsResults], given: SpanPointsInputs, setting: Setting) -> None:
        self.sheet, self.given, self.setting = sheet, given, setting
        self.points = given.points or []
        first = self.points[0].load
        assert first
        self.unit = first.unit
        self.loads = [from_si(p.load.si, self.unit) for p in self.points if p.load]
        self.largest = max(
            load for load, p in zip(self.loads, self.points, strict=True) if _up(p) or not self._any_up()
        )
        limit = setting.profile.accept
        self.accept = limit.relative_at(to_si(max(self.loads), self.unit)) if limit else 0.0

    def _any_up(self) -> bool:
        return any(_up(point) for point in self.points)

    def _mean(self, figures: Sequence[float], load: float, up: bool) -> float | None:
        """Mean of what was read at a load, going up or coming down."""
        there = [
            read
            for read, at, point in zip(figures, self.loads, self.points, strict=True)
            if _up(point) == up and math.isclose(at, load, rel_tol=1e-9, abs_tol=1e-12)
        ]
        return math.fsum(there) / len(there) if there else None

    def of_counts(self) -> Assessment[SpanPointsResults]:
        sheet = self.sheet
        raw = [read for point in self.points if (read := point.counts) is not None]
        fit = line(self.loads, raw)
        assert fit
        per = f"count/{self.unit}"
        sheet.results.fit_slope = Figure(fit.slope, per)
        sheet.results.fit_intercept = Figure(fit.intercept)
        if fit.residual is not None and fit.slope_error is not None and fit.intercept_error is not None:
            sheet.results.fit_slope_se = Figure(fit.slope_error, per)
            sheet.results.fit_intercept_se = Figure(fit.intercept_error)
            sheet.results.fit_residual_sd = Figure(fit.residual)
        zero = self._mean(raw, 0.0, True)
        top = self._mean(raw, self.largest, True)
        per_unit = None
        if zero is not None and top is not None and self.largest > 0:
            per_unit = (top - zero) / self.largest
            sheet.results.zero_raw = Figure(zero)
            sheet.results.counts_per_unit = Figure(per_unit, per)
        self.signal(raw, fit.slope)
        if per_unit:
            self._straightness(raw, zero or 0.0, per_unit)
            self._expected(per_unit)
        self._noise(per_unit or fit.slope)
        failed = sheet.failed(NAMED)
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        slope = per_unit or fit.slope
        sheet.remarks["points"] = [
            _counted(point)
            | ({"off": Remark(percent_shown(mark.off / 100, sign=True, decimals=3), mark.off)} if mark else {})
            for point, mark in zip(self.points, _deviations(self.points), strict=True)
        ]
        spreads = [point.spread for point in self.points if point.spread is not None]
        if spreads and slope:
            sheet.results.reading_spread = Figure(max(spreads) / abs(slope), self.unit)
        text = f"The channel gives {shown(slope, 6)} counts per {self.unit}" + (
            f", {shown(zero, 7)} when empty." if zero is not None else "."
        )
        return sheet.answer(LEAVE, [Reason("measured", text)], headline="Measured", lead=text)

    def signal(self, figures: Sequence[float], slope: float) -> None:
        """Whether the reading changes at all, and the right way."""
        change = max(figures) - min(figures)
        bits = self.given.adc_bits
        least = LEAST_CHANGE * 2 ** (bits - 1) if bits and self.points[0].counts is not None else 0.0
        if change == 0 or change < least * (1 - 1e-9):
            text = "The reading hardly changes from the smallest load to the largest: the load goes past the cell, or a wire is open."
            self.sheet.check("no-signal", "fail", text)
        if slope < 0:
            text = "The reading falls as the load grows: the signal pair is swapped, or the cell is upside down."
            self.sheet.check("reversed", "fail", text)

    def _straightness(self, figures: Sequence[float], zero: float, slope: float) -> None:
        """Linearity, hysteresis and return to zero; `figures` against the line `zero + slope·load`."""
        off = [
            abs(read - zero - slope * load) / abs(slope)
            for read, load, point in zip(figures, self.loads, self.points, strict=True)
            if _up(point)
        ]
        self.sheet.results.linearity = self._share(
            "linearity", max(off), "The points stray from the straight line by {}, {} is allowed."
        )
        self._apart(figures, abs(slope))
        down = self._mean(figures, 0.0, False)
        if down is not None:
            back = (down - zero) / slope
            self._zero_return(back)

    def _apart(self, figures: Sequence[float], slope: float) -> None:
        apart = []
        for load in dict.fromkeys(self.loads):
            up, down = self._mean(figures, load, True), self._mean(figures, load, False)
            if up is not None and down is not None:
                apart.append(abs(up - down) / slope)
        if apart:
            self.sheet.results.hysteresis = self._share(
                "hysteresis", max(apart), "Up and down differ by {}, {} is allowed."
            )

    def _share(self, code: str, off: float, words: str) -> Figure:
        """How far something is off as a share of the largest load, with its check."""
        share = off / self.largest
        text = words.format(f"{percent_shown(share)} of the largest load", percent_shown(self.accept))
        # Half a division is the display's own step, and no fault, however small the load.
        stepped = self.given.division is not None and at_most(off, from_si(self.given.division.si / 2, self.unit))
        self.sheet.check(code, "pass" if stepped or at_most(share, self.accept) else "fail", text)
        return percent(share)

    def _zero_return(self, back: float) -> None:
        self.sheet.results.zero_return = Figure(back, self.unit)
        if not self.given.division:
            return
        half = from_si(self.given.division.si / 2, self.unit)
        text = f"Empty again it shows {shown(back, 3, sign=True)} {self.unit} against before; half a division is {shown(half)} {self.unit}."
        self.sheet.check("zero_return", "pass" if at_most(abs(back), half) else "fail", text)

    def _expected(self, per_unit: float) -> None:
        given = self.given
        cells = [c for c in given.cells or [] if c.capacity and c.sensitivity]
        full = range_of(given)
        if not cells or len(cells) != len(given.cells or []) or not full or not given.adc_bits:
            return
        plates = Cells(
            [c.capacity.si for c in cells if c.capacity],
            [from_si(c.sensitivity.si, "mV/V") for c in cells if c.sensitivity],
        )
        signal = plates.signal(to_si(1, self.unit))
        expected = signal / full * 2 ** (given.adc_bits - 1)
        per = f"count/{self.unit}"
        self.sheet.results.expected_counts_per_unit = Figure(expected, per)
        apart = per_unit / expected - 1
        text = f"The plates let expect {shown(expected, 5)} counts per {self.unit}; measured are {shown(per_unit, 5)}."
        fits = at_most(abs(apart), COUNTS_APART)
        self.sheet.check("expected-counts", "pass" if fits else "fail", text)
        if not fits and per_unit > 0:
            first = cells[0]
            same = given.plates or Plates(
                cell_capacity=first.capacity, cell_sensitivity=first.sensitivity, cell_count=len(cells)
            )
            # The plates explain what is expected: a slip in them is one in the expectation.
            self.sheet.slips += slips.explain(expected / per_unit, 0.0, slips.Entered(same))

    def _noise(self, slope: float) -> None:
        spread = deviation(self.given.noise or [])
        if spread is None or slope == 0:
            return
        in_load = spread / abs(slope)
        self.sheet.results.noise_sd = Figure(in_load, self.unit)
        if in_load > 0:
            useful = ladder_step(NOISE_DIVISIONS * in_load)
            self.sheet.results.smallest_useful_division = Figure(useful, self.unit)

    def of_masses(self) -> Assessment[SpanPointsResults]:
        sheet = self.sheet
        shown_masses = [from_si(p.indicated.si, self.unit) for p in self.points if p.indicated]
        errors = [read - load for read, load in zip(shown_masses, self.loads, strict=True)]
        sheet.results.errors = [Figure(error, self.unit) for error in errors]
        sheet.remarks["points"] = [{"off": Remark(f"{shown(e, 5, sign=True)} {self.unit}", e)} for e in errors]
        fit = line(self.loads, shown_masses)
        assert fit
        self.signal(shown_masses, fit.slope)
        zero, top = self._mean(errors, 0.0, True), self._mean(errors, self.largest, True)
        if zero is not None and top is not None and self.largest > 0:
            slope = (top - zero) / self.largest
            off = [
                abs(error - zero - slope * load)
                for error, load, point in zip(errors, self.loads, self.points, strict=True)
                if _up(point)
            ]
            self.sheet.results.linearity = self._share(
                "linearity", max(off), "The errors stray from a straight line by {}, {} is allowed."
            )
        self._apart(errors, 1.0)
        down = self._mean(errors, 0.0, False)
        if zero is not None and down is not None:
            self._zero_return(down - zero)
        failed = sheet.failed(NAMED)
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        return self._judge(errors)

    def _judge(self, errors: Sequence[float]) -> Assessment[SpanPointsResults]:
        half = from_si(self.given.division.si / 2, self.unit) if self.given.division else 0.0
        limit = self.setting.profile.accept

        def allowed(load: float) -> float:
            share = limit.relative_at(to_si(load, self.unit)) * load if limit and load > 0 else 0.0
            return max(half, share)

        worst = max(range(len(errors)), key=lambda place: abs(errors[place]) - allowed(self.loads[place]))
        text = (
            f"At {shown(self.loads[worst])} {self.unit} it is off by {shown(errors[worst], 3, sign=True)} {self.unit}; "
            f"{shown(allowed(self.loads[worst]), 3)} {self.unit} is allowed there."
        )
        if all(at_most(abs(error), allowed(load)) for error, load in zip(errors, self.loads, strict=True)):
            return self.sheet.answer(LEAVE, [Reason("within-limit", text)], lead=text)
        self.sheet.results.corrections = [Figure(-error, self.unit) for error in errors]
        return self.sheet.answer(ADJUST, [Reason("outside-limit", text)], headline="Adjust the points", lead=text)


def _counted(point: Point) -> dict[str, Remark]:
    """What several readings at one load come to: their mean and how far apart they are."""
    if point.spread is None or point.counts is None:
        return {}
    text = f"{shown(point.counts, 7)} on the mean of {len(point.readings or [])}, {shown(point.spread, 4)} apart"
    return {"read": Remark(text, point.counts)}


def _up(point: Point) -> bool:
    return point.going != "down"


def _facts(sheet: Draft[SpanPointsResults], given: SpanPointsInputs, setting: Setting) -> None:
    """What the points that are read show already, while another is not: does it answer, and the right way?"""
    read = [point for point in given.points or [] if point.load and point.is_read]
    if len({point.load.si for point in read if point.load}) < 2:
        return
    work = _Points(sheet, given.model_copy(update={"points": read}), setting)
    figures = [counts if (counts := point.counts) is not None else point.indicated.si if point.indicated else 0.0 for point in read]  # fmt: skip
    fit = line(work.loads, figures)
    if fit:
        work.signal(figures, fit.slope)


def range_of(given: SpanPointsInputs) -> float | None:
    """The amplifier's range in mV/V: as typed, or from its gain at a reference voltage, `U_ref/(gain·excitation)`."""
    if given.adc_range:
        return from_si(given.adc_range.si, "mV/V")
    if given.adc_gain and given.adc_reference and given.excitation:
        return given.adc_reference.si / given.adc_gain / given.excitation.si * 1000
    return None


def _range(sheet: Draft[SpanPointsResults], given: SpanPointsInputs) -> None:
    found = range_of(given)
    if found is not None and not given.adc_range:
        sheet.results.adc_range = Figure(found, "mV/V")


class JudgedSpanPoints(SpanPoints):
    """`span-points`, judged."""

    def assess(self, given: SpanPointsInputs, setting: Setting) -> Assessment[SpanPointsResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "points")
        points = given.points or []
        for place, point in enumerate(points):
            sheet.need_in(f"inputs.points[{place}]", point, ("load",), f"Point {place + 1}")
            if not point.is_read:
                key = "raw" if any(p.counts is not None for p in points) else "indicated"
                text = f"Point {place + 1}: type what was read."
                sheet.absent.append(missing(f"inputs.points[{place}].{key}", text))
        loads = {point.load.si for point in points if point.load}
        if points and not sheet.absent and len(loads) < 2:
            text = "All points have the same load; two different loads at least make a line."
            sheet.absent.append(Reason("too-few-loads", text, {"path": "inputs.points"}))
        _range(sheet, given)
        if sheet.absent:
            _facts(sheet, given, setting)
            failed = sheet.facts(NAMED)
            if failed:
                return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
            return sheet.answer(NOT_READY, sheet.absent)
        work = _Points(sheet, given, setting)
        if points[0].counts is not None:
            return work.of_counts()
        return work.of_masses()

    def draw(self, given: SpanPointsInputs, seen: Seen) -> drawings.Line:
        """Each point's deviation from the line through all of them, in per cent of the largest load."""
        marks = [mark for mark in _deviations(given.points or []) if mark]
        return drawings.Line(points=tuple(marks))


METHOD = JudgedSpanPoints()
