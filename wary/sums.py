"""Sums without a job: a quick answer, with its formula and the numbers in it.

Each sum is a function of typed inputs. `carry` names the method and inputs that it turns into.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from wary.evidence import NORMAL_95
from wary.fields import (
    Angle,
    CellCount,
    Count,
    Current,
    Inputs,
    LengthFromZero,
    Mass,
    MassFromZero,
    Number,
    Percentage,
    PositiveLength,
    PositiveMass,
    PositiveRate,
    PositiveSignal,
    PositiveSpeed,
    PositiveTime,
    Readings,
    Voltage,
)
from wary.fields import field as asked
from wary.loadcells import Cells, gravity, loop_current, loop_load, next_step
from wary.method import describe_fields
from wary.planning import shows, smallest_amount
from wary.quantities import FAMILY_OF, from_si, ladder_step, mass_shown, percent_shown, shown, to_si


@dataclass(frozen=True)
class Result:
    """One line of an answer: what it is, the figure, and the formula with its numbers."""

    title: str
    figure: str
    formula: str = ""

    def as_json(self) -> dict[str, str]:
        return {"title": self.title, "figure": self.figure, "formula": self.formula}


@dataclass(frozen=True)
class Sum:
    """A sum: its inputs, what it works out, and the method that it can be carried into."""

    key: str
    title: str
    group: str
    inputs: type[Inputs]
    work: Callable[[Any], list[Result]]
    method: str = ""
    carries: dict[str, str] = field(default_factory=dict)

    def describe(self) -> dict[str, Any]:
        return {
            "key": self.key,
            "title": self.title,
            "group": self.group,
            "inputs": describe_fields(self.inputs),
            "method": self.method,
            "carries": self.carries,
        }


class CellsGiven(Inputs):
    cell_count: CellCount | None = asked("Number of cells")
    cell_capacity: PositiveMass | None = asked("Capacity of one cell")
    cell_sensitivity: PositiveSignal | None = asked("Sensitivity")
    dead_load: MassFromZero | None = asked("Dead load")
    live_capacity: PositiveMass | None = asked("Live load, at most")
    division: PositiveMass | None = asked("Division")
    excitation: Voltage | None = asked("Excitation")


def _cells(given: CellsGiven) -> list[Result]:
    if not (given.cell_count and given.cell_capacity and given.cell_sensitivity):
        return []
    count, capacity = given.cell_count, given.cell_capacity
    sensitivity = from_si(given.cell_sensitivity.si, "mV/V")
    cells = Cells([capacity.si] * count, [sensitivity] * count)
    unit, whole = capacity.unit, capacity.value * count
    plain = f"{shown(sensitivity)} mV/V × {{}} / ({count} × {shown(capacity.value)} {unit})"
    rows = [Result("All cells together", f"{shown(whole)} {unit}", f"{count} × {shown(capacity.value)} {unit}")]
    dead = given.dead_load.si if given.dead_load else 0.0
    if given.dead_load:
        signal = cells.signal(dead)
        rows.append(Result("Signal when empty", f"{shown(signal, 5)} mV/V", plain.format(given.dead_load.text)))
        usable = mass_shown(cells.rated_load - dead, unit, 5)
        rows.append(Result("Usable capacity", usable, f"{shown(whole)} {unit} − {given.dead_load.text}"))
    if given.live_capacity:
        live = given.live_capacity
        rows.append(
            Result("Signal of the live load", f"{shown(cells.signal(live.si), 5)} mV/V", plain.format(live.text))
        )
        used = (dead + live.si) / cells.rated_load
        rows.append(Result("Share of the cells used", percent_shown(used, decimals=1), "(dead + live) / all cells"))
    if given.division:
        signal = cells.signal(given.division.si)
        rows.append(Result("Signal of one division", f"{shown(signal, 3)} mV/V", plain.format(given.division.text)))
        if given.excitation:
            volts = from_si(given.excitation.si, "V")
            figure = f"{shown(signal * volts * 1000, 3)} µV"
            rows.append(Result("and at this excitation", figure, f"{shown(signal, 3)} mV/V × {shown(volts)} V × 1000"))
    return rows


class LadderGiven(Inputs):
    capacity: PositiveMass | None = asked("Capacity")
    division: PositiveMass | None = asked("Division wanted")


def _ladder(given: LadderGiven) -> list[Result]:
    if not (given.capacity and given.division):
        return []
    unit = given.division.unit
    step = ladder_step(given.division.value)
    count = from_si(given.capacity.si, unit) / step
    said = f"{shown(step)} {unit}"
    rows = [Result("Division on the ladder", said, "1, 2 or 5 and noughts, not below what was wanted")]
    rows.append(Result("Divisions", shown(count), f"{given.capacity.text} / {said}"))
    if count > 10_000:
        rows.append(Result("Over 10 000", "the last digits are noise", f"{shown(count)} > 10 000"))
    above = next_step(step)
    rows.append(Result("Above a change-over point", f"{shown(above)} {unit}", "the next step of the ladder"))
    return rows


class GravityGiven(Inputs):
    latitude: Angle | None = asked("Latitude where it was set")
    height: LengthFromZero | None = asked("Height there")
    latitude_used: Angle | None = asked("Latitude where it is used")
    height_used: LengthFromZero | None = asked("Height there ")
    load: Mass | None = asked("A load, to see what it shows")


def _gravity(given: GravityGiven) -> list[Result]:
    if given.latitude is None:
        return []
    at = gravity(math.degrees(given.latitude.si), given.height.si if given.height else 0.0)
    formula = "9.780327·(1 + 0.0053024·sin²φ − 0.0000058·sin²2φ) − 3.086e−6·h"
    rows = [Result("Gravity where it was set", f"{shown(at, 7)} m/s²", formula)]
    if given.latitude_used is None:
        return rows
    used = gravity(math.degrees(given.latitude_used.si), given.height_used.si if given.height_used else 0.0)
    rows.append(Result("Gravity where it is used", f"{shown(used, 7)} m/s²", formula))
    ratio = used / at
    rows.append(
        Result(
            "It reads", f"{percent_shown(ratio - 1, sign=True, decimals=3)}", f"{shown(used, 7)} / {shown(at, 7)} − 1"
        )
    )
    if given.load:
        shows_ = f"{shown(given.load.value * ratio, 7)} {given.load.unit}"
        rows.append(Result(f"{given.load.text} shows", shows_, f"{given.load.text} × {shown(ratio, 7)}"))
    return rows


class LoopGiven(Inputs):
    full_load: PositiveMass | None = asked("Load at 20 mA")
    load: Mass | None = asked("Load")
    current: Current | None = asked("or current")


def _loop(given: LoopGiven) -> list[Result]:
    rows = []
    if given.full_load and given.load:
        current = loop_current(given.load.si, given.full_load.si)
        formula = f"4 + 16 × {given.load.text} / {given.full_load.text}"
        rows.append(Result("Current for this load", f"{shown(current, 5)} mA", formula))
    if given.full_load and given.current:
        amps = from_si(given.current.si, "mA")
        load = mass_shown(loop_load(amps, given.full_load.si), given.full_load.unit, 5)
        rows.append(Result("Load for this current", load, f"({shown(amps)} − 4) / 16 × {given.full_load.text}"))
    return rows


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


class StopGiven(Inputs):
    capacity: PositiveMass | None = asked("Capacity")
    low: MassFromZero | None = asked("Low stop level")
    high: PositiveMass | None = asked("High stop level")
    inside: MassFromZero | None = asked("In it now")
    batch: PositiveMass | None = asked("One batch takes")
    tare: MassFromZero | None = asked("Tare set on the display")


def _stops(given: StopGiven) -> list[Result]:
    rows = []
    if given.low and given.high and given.capacity:
        fits = given.low.si < given.high.si <= given.capacity.si
        words = "in order" if fits else "not in order"
        rows.append(Result("Levels", words, f"{given.low.text} < {given.high.text} ≤ {given.capacity.text}"))
    if given.inside and given.low and given.batch:
        batches = max(0, math.floor((given.inside.si - given.low.si) / given.batch.si + 1e-9))
        formula = f"({given.inside.text} − {given.low.text}) / {given.batch.text}"
        rows.append(Result("Batches left until the low stop", str(batches), formula))
    if given.tare and given.tare.si > 0:
        rows.append(
            Result("A tare is set", "the display hides what is in it", f"gross is {given.tare.text} more than is shown")
        )
    return rows


class UnitsGiven(Inputs):
    mass: Mass | None = asked("A mass")
    rate: PositiveRate | None = asked("A rate")
    length: PositiveLength | None = asked("A length")
    speed: PositiveSpeed | None = asked("A speed")


ALSO = {
    "mass": ("kg", "t", "lb", "ston", "lton", "oz", "g"),
    "rate": ("kg/s", "kg/h", "t/h", "lb/h", "ston/h"),
    "length": ("m", "mm", "in", "ft"),
    "speed": ("m/s", "m/min", "km/h", "ft/min"),
}


def _units(given: UnitsGiven) -> list[Result]:
    rows = []
    for quantity in (given.mass, given.rate, given.length, given.speed):
        if quantity is None:
            continue
        for unit in ALSO[FAMILY_OF[quantity.unit]]:
            if unit != quantity.unit:
                one = shown(from_si(to_si(1, quantity.unit), unit), 6)
                formula = f"{quantity.text} × {one} {unit} each"
                rows.append(Result(f"{quantity.text} is", f"{shown(from_si(quantity.si, unit), 6)} {unit}", formula))
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


SUMS: dict[str, Sum] = {
    one.key: one
    for one in (
        Sum("amount", "How much to weigh", "Belts and loads", AmountGiven, _amount),
        Sum("weight-rate", "Rate from a test weight", "Belts and loads", WeightGiven, _weight, "belt-test-weight",
            {"test_mass": "test_mass", "idler_spacing": "idler_spacing", "weigh_idlers": "weigh_idlers", "speed": "speed"}),
        Sum("belt-run", "How long to run", "Belts and loads", BeltRunGiven, _belt_run),
        Sum("ratio", "One run, quickly", "Belts and loads", RatioGiven, _ratio),
        Sum("cells", "Cells: signal and span", "Load cells", CellsGiven, _cells, "data-sheet-span",
            {"cell_count": "cell_count", "cell_capacity": "capacity", "cell_sensitivity": "sensitivity",
             "dead_load": "dead_load", "live_capacity": "live_capacity", "division": "division", "excitation": "excitation"}),
        Sum("ladder", "Divisions", "Load cells", LadderGiven, _ladder, "zero-span",
            {"capacity": "capacity", "division": "division"}),
        Sum("loop", "4–20 mA, both ways", "Load cells", LoopGiven, _loop, "output-check", {"full_load": "full_load"}),
        Sum("gravity", "Gravity at two places", "Load cells", GravityGiven, _gravity),
        Sum("stops", "Stop levels and batches", "Vessels", StopGiven, _stops),
        Sum("units", "Other units", "Units", UnitsGiven, _units),
    )
}  # fmt: skip
"""Every sum by its key, in the order in which they stand on the page."""
