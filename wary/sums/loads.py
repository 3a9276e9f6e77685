"""Sums for belts and loads: how much to weigh, how long to run, one run quickly."""

from wary.fields import (
    Count,
    Inputs,
    Number,
    Percentage,
    PositiveLength,
    PositiveMass,
    PositiveRate,
    PositiveSpeed,
    PositiveTime,
    Readings,
)
from wary.fields import field as asked
from wary.quantities import from_si, mass_shown, percent_shown, shown
from wary.rules.evidence import NORMAL_95
from wary.rules.planning import shows, smallest_amount
from wary.sums.sum import Result, Sum


class AmountGiven(Inputs):
    reference_division: PositiveMass | None = asked("Division of the reference scale")
    reference_readings: Readings | None = asked("Readings behind one net", "2 where it is gross less tare")
    reference_uncertainty: Percentage | None = asked("Its expanded uncertainty")
    accept: Percentage | None = asked("Accept limit")
    amount: PositiveMass | None = asked("An amount, to see what it shows on it")


def _amount(given: AmountGiven) -> list[Result]:
    if not given.reference_division:
        return []
    division, readings = given.reference_division, given.reference_readings or 2
    own = given.reference_uncertainty.si / 2 if given.reference_uncertainty else 0.0
    rows = []
    if given.accept:
        least = smallest_amount(division.si, readings, own, given.accept.si)
        formula = f"2 × {division.text} × √({readings}/12) / √(({given.accept.text} / 3)² − (2 × {percent_shown(own, decimals=3)})²)"
        figure = mass_shown(least, division.unit) if least else "no amount suffices"
        rows.append(Result("Weigh at least", figure, formula))
    if given.amount:
        sure = shows(division.si, readings, own, given.amount.si)
        formula = f"{NORMAL_95} × {division.text} × √({readings}/12) / {given.amount.text}"
        rows.append(Result("On that amount it shows ±", percent_shown(sure), formula))
    return rows


class WeightGiven(Inputs):
    test_mass: PositiveMass | None = asked("Test mass, with its carrier")
    idler_spacing: PositiveLength | None = asked("Idler spacing")
    weigh_idlers: Count | None = asked("Weigh idlers")
    speed: PositiveSpeed | None = asked("Belt speed")


def _weight(given: WeightGiven) -> list[Result]:
    if not (given.test_mass and given.idler_spacing):
        return []
    length = given.idler_spacing.si * (given.weigh_idlers or 1)
    load = given.test_mass.si / length
    rows = [Result("On the belt", f"{shown(load, 5)} kg/m", f"{given.test_mass.text} / {shown(length)} m")]
    if given.speed:
        rate = load * given.speed.si
        formula = f"{shown(load, 5)} kg/m × {shown(given.speed.si)} m/s × 3.6"
        rows.append(Result("Rate that it stands for", f"{shown(from_si(rate, 't/h'), 5)} t/h", formula))
    return rows


class BeltRunGiven(Inputs):
    rate: PositiveRate | None = asked("Rate")
    amount: PositiveMass | None = asked("Amount")
    revolution_time: PositiveTime | None = asked("Time of one belt revolution")


def _belt_run(given: BeltRunGiven) -> list[Result]:
    if not (given.rate and given.amount):
        return []
    seconds = given.amount.si / given.rate.si
    rows = [Result("It takes", f"{shown(seconds / 60, 3)} min", f"{given.amount.text} / {given.rate.text}")]
    if given.revolution_time:
        turns = seconds / given.revolution_time.si
        formula = f"{shown(seconds)} s / {given.revolution_time.text}"
        rows.append(Result("Belt revolutions", shown(turns, 3), formula))
    return rows


class RatioGiven(Inputs):
    factor: Number | None = asked("Factor now")
    reference: PositiveMass | None = asked("It weighed")
    indicated: PositiveMass | None = asked("It showed")


def _ratio(given: RatioGiven) -> list[Result]:
    if not (given.reference and given.indicated):
        return []
    ratio = given.reference.si / given.indicated.si
    rows = [
        Result(
            "Error", percent_shown(1 / ratio - 1, sign=True), f"{given.indicated.text} / {given.reference.text} − 1"
        ),
        Result(
            "Change in per cent",
            percent_shown(ratio - 1, sign=True),
            f"{given.reference.text} / {given.indicated.text} − 1",
        ),
    ]
    if given.factor:
        rows.append(
            Result(
                "New factor, where it multiplies",
                shown(given.factor * ratio, 6),
                f"{shown(given.factor, 6)} × {shown(ratio, 6)}",
            )
        )
        rows.append(
            Result(
                "New factor, where it divides",
                shown(given.factor / ratio, 6),
                f"{shown(given.factor, 6)} / {shown(ratio, 6)}",
            )
        )
    rows.append(Result("One run decides nothing", "take at least three that agree", ""))
    return rows


SUMS = (
    Sum("amount", "How much to weigh", "Belts and loads", AmountGiven, _amount),
    Sum("weight-rate", "Rate from a test weight", "Belts and loads", WeightGiven, _weight, "belt-test-weight",
        {"test_mass": "test_mass", "idler_spacing": "idler_spacing", "weigh_idlers": "weigh_idlers", "speed": "speed"}),
    Sum("belt-run", "How long to run", "Belts and loads", BeltRunGiven, _belt_run),
    Sum("ratio", "One run, quickly", "Belts and loads", RatioGiven, _ratio),
)  # fmt: skip
