"""Sums for load cells: signals, divisions, the current loop, gravity."""

import math

from wary.fields import (
    Angle,
    CellCount,
    Current,
    Inputs,
    LengthFromZero,
    Mass,
    MassFromZero,
    PositiveMass,
    PositivePercentage,
    PositiveSignal,
    Voltage,
)
from wary.fields import field as asked
from wary.methods.cells.arithmetic import Cells, gravity, loop_current, loop_load, next_step
from wary.methods.cells.substitution_test import reach_of, uncertainty_of
from wary.quantities import from_si, ladder_step, mass_shown, percent_shown, shown
from wary.sums.sum import Result, Sum


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
    change_over: PositiveMass | None = asked("Change-over point, of two ranges")


def _ladder(given: LadderGiven) -> list[Result]:
    if not (given.capacity and given.division):
        return []
    unit = given.division.unit
    step = ladder_step(given.division.value)
    said = f"{shown(step)} {unit}"
    rows = [Result("Division on the ladder", said, "1, 2 or 5 and noughts, not below what was wanted")]
    above = next_step(step)
    if given.change_over:
        # Each range has divisions of its own: they are neither added up nor taken across.
        count = from_si(given.change_over.si, unit) / step
        rows.append(Result("Divisions of the lower range", shown(count), f"{given.change_over.text} / {said}"))
        upper = from_si(given.capacity.si, unit) / above
        rows.append(
            Result("Divisions of the upper range", shown(upper), f"{given.capacity.text} / {shown(above)} {unit}")
        )
        count = max(count, upper)
    else:
        count = from_si(given.capacity.si, unit) / step
        rows.append(Result("Divisions", shown(count), f"{given.capacity.text} / {said}"))
    if count > 10_000:
        rows.append(Result("Over 10 000", "the last digits are noise", f"{shown(count)} > 10 000"))
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


class ReachGiven(Inputs):
    weights: PositiveMass | None = asked("Weights, all together")
    weights_uncertainty: MassFromZero | None = asked("Their uncertainty, expanded")
    division: PositiveMass | None = asked("Division of the display")
    capacity: PositiveMass | None = asked("Capacity of the scale")
    accept: PositivePercentage | None = asked("Limit")


def _reach(given: ReachGiven) -> list[Result]:
    if not (given.weights and given.division and given.accept):
        return []
    own = given.weights_uncertainty.si if given.weights_uncertainty else 0.0
    unit, weights = given.weights.unit, given.weights.si
    far = reach_of(weights, own, given.division.si, given.accept.si, given.capacity.si if given.capacity else None)
    if far <= 0:
        return [
            Result("These weights reach", "not even one round", "its uncertainty is more than a division and the limit")
        ]
    rounds = round(far / weights)
    unknown = mass_shown(uncertainty_of(rounds, own, given.division.si), unit, 3)
    return [
        Result("These weights prove", mass_shown(far, unit), f"{rounds} × {given.weights.text}, by substitution"),
        Result("Known there to", f"± {unknown}", "2·√((k·u/2)² + (2k − 1)·d²/12)"),
        Result(
            "Material to have ready", mass_shown(max(0.0, far - weights), unit), f"{rounds - 1} × {given.weights.text}"
        ),
    ]


SUMS = (
    Sum("reach", "How far do my weights reach?", "Load cells", ReachGiven, _reach, "substitution-test",
        {"weights": "weights", "weights_uncertainty": "weights_uncertainty", "division": "division", "capacity": "capacity"}),
    Sum("cells", "Cells: signal and span", "Load cells", CellsGiven, _cells, "data-sheet-span",
        {"cell_count": "cell_count", "cell_capacity": "capacity", "cell_sensitivity": "sensitivity",
         "dead_load": "dead_load", "live_capacity": "live_capacity", "division": "division", "excitation": "excitation"}),
    Sum("ladder", "Divisions", "Load cells", LadderGiven, _ladder, "zero-span",
        {"capacity": "capacity", "division": "division"}),
    Sum("loop", "4–20 mA, both ways", "Load cells", LoopGiven, _loop, "output-check", {"full_load": "full_load"}),
    Sum("gravity", "Gravity at two places", "Load cells", GravityGiven, _gravity),
)  # fmt: skip
