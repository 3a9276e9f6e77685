"""Load cell arithmetic: signals, shares, gravity, the 4–20 mA loop, and how cells answer when pressed.

Masses in kg, sensitivities and signals in mV/V, excitation in V. Formulas are those of the load
cell rules: `signal(L) = (L/N²)·Σ(Sᵢ/Eᵢ)` for N parallel cells that share a load equally.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from wary.drawings import Behaviour
from wary.fields import CellCount, Inputs, PositiveMass, PositiveSignal, Words, choice, field
from wary.quantities import from_si, ladder_step, mass_shown, percent_shown, shown
from wary.results import Figure, Results, figure, in_unit, percent
from wary.rules.assessment import Check, CheckState
from wary.rules.slips import Slip

LEAST_SENSITIVITY, MOST_SENSITIVITY = 0.4, 4.5
HEADROOM, FULL = 0.8, 1.0
MOST_DIVISIONS = 10_000
LEAST_MICROVOLTS = 0.5
LOOP_ZERO, LOOP_SPAN = 4.0, 16.0


SensitivitySource = Annotated[
    str, choice(plate="its plate", certificate="a certificate", assumed="assumed: provisional")
]


@dataclass(frozen=True)
class Cells:
    """Parallel cells: capacities in kg, sensitivities in mV/V at capacity."""

    capacities: Sequence[float]
    sensitivities: Sequence[float]

    @property
    def count(self) -> int:
        return len(self.capacities)

    @property
    def rated_load(self) -> float:
        """ΣE in kg."""
        return math.fsum(self.capacities)

    @property
    def mean_sensitivity(self) -> float:
        return math.fsum(self.sensitivities) / self.count

    def signal(self, load: float) -> float:
        """mV/V for `load` kg shared equally."""
        per_cell = math.fsum(s / e for s, e in zip(self.sensitivities, self.capacities, strict=True))
        return load / self.count**2 * per_cell

    def microvolts(self, load: float, excitation: float) -> float:
        """µV for `load` kg at `excitation` V."""
        return self.signal(load) * excitation * 1000


class CellPlate(Inputs):
    """What a cell's plate says."""

    label: Words | None = field("Which cell")
    capacity: PositiveMass | None = field("Capacity", ask="Read its capacity off the plate.")
    sensitivity: PositiveSignal | None = field(
        "Sensitivity", ask="Read its sensitivity off the plate or the certificate."
    )
    sensitivity_source: SensitivitySource | None = field("Read from")


def gravity(latitude: float, height: float) -> float:
    """Acceleration in m/s² at `latitude` degrees and `height` m (the international formula with height)."""
    sine = math.sin(math.radians(latitude))
    sine_of_twice = math.sin(2 * math.radians(latitude))
    return 9.780327 * (1 + 0.0053024 * sine * sine - 0.0000058 * sine_of_twice * sine_of_twice) - 3.086e-6 * height


def loop_current(load: float, full_load: float) -> float:
    """mA for `load`, where `full_load` gives 20 mA: `4 + 16·W/W₂₀`."""
    return LOOP_ZERO + LOOP_SPAN * load / full_load


def loop_load(current: float, full_load: float) -> float:
    """The load that `current` mA stands for."""
    return (current - LOOP_ZERO) / LOOP_SPAN * full_load


def sensitivity_check(sensitivities: Sequence[float]) -> Check:
    """Each sensitivity within what load cells have."""
    outside = [s for s in sensitivities if not LEAST_SENSITIVITY - 1e-9 <= s <= MOST_SENSITIVITY + 1e-9]
    if not outside:
        return Check("sensitivity-range", "pass", "Each sensitivity is one that load cells have.")
    text = (
        f"A sensitivity of {shown(outside[0])} mV/V is outside {LEAST_SENSITIVITY} to {MOST_SENSITIVITY} mV/V, "
        "which load cells have. Read the plate again: the point, or the unit."
    )
    return Check("sensitivity-range", "fail", text)


def sensitivity_slips(sensitivities: Sequence[float]) -> list[Slip]:
    """Where the decimal point of an impossible sensitivity belongs; readings go with its inverse."""
    slips: list[Slip] = []
    for entered in dict.fromkeys(sensitivities):
        if LEAST_SENSITIVITY <= entered <= MOST_SENSITIVITY:
            continue
        for places in (0.1, 10, 0.01, 100):
            likely = entered * places
            if LEAST_SENSITIVITY <= likely <= MOST_SENSITIVITY:
                text = f"Sensitivity is entered as {shown(entered)} mV/V; {shown(likely)} mV/V is one that cells have. Read the plate."
                slips.append(
                    Slip("cell_sensitivity", f"{shown(entered)} mV/V", f"{shown(likely)} mV/V", 1 / places, text)
                )
                break
    return slips


def count_slip(entered: int, listed: int) -> Slip:
    """The number of cells in the instrument against those that are there; readings go with it."""
    text = f"The instrument is set to {entered} cells and {listed} are listed: count them."
    return Slip("cell_count", str(entered), str(listed), listed / entered, text)


def headroom_check(used: float, unlike: bool) -> Check:
    """How much of ΣE is used: caution above 80 %, for an off-centre load can overload one cell."""
    share = percent_shown(used, decimals=0)
    state: CheckState
    if used <= HEADROOM + 1e-9:
        state, text = "pass", f"Dead and live load use {share} of the cells."
    elif used <= FULL + 1e-9:
        state, text = (
            "note",
            f"Dead and live load use {share} of the cells: a load off centre can overload one of them.",
        )
    else:
        state, text = "fail", f"Dead and live load are {share} of what the cells carry together."
    if unlike:
        text += " They are of unlike capacity: the smallest is overloaded first."
    return Check("headroom", state, text)


def division_checks(division: float, capacity: float, unit: str) -> list[Check]:
    """The ladder of divisions, and how many of them there are (kg)."""
    checks = []
    shown_division = mass_shown(division, unit)
    step = ladder_step(from_si(division, unit))
    if abs(step / from_si(division, unit) - 1) > 1e-6:
        text = f"{shown_division} is not a step that displays have (1, 2 or 5 and noughts); the next one is {shown(step)} {unit}."
        checks.append(Check("ladder", "note", text))
    count = capacity / division
    if count > MOST_DIVISIONS * (1 + 1e-9):
        text = f"{shown(count)} divisions of {shown_division}: over 10 000 the last digits are noise."
        checks.append(Check("divisions", "note", text))
    return checks


def microvolt_check(microvolts: float) -> Check:
    """Whether a division is more than noise at the excitation in use."""
    if microvolts < LEAST_MICROVOLTS * (1 - 1e-9):
        text = f"A division is {shown(microvolts, 3)} µV: under {LEAST_MICROVOLTS} µV the last digits are noise."
        return Check("signal-per-division", "note", text)
    return Check("signal-per-division", "pass", f"A division is {shown(microvolts, 3)} µV.")


def two_range(
    capacity: float, change_over: float, division: float, division_above: float | None, unit: str
) -> list[Check]:
    """A two-range set-up: change-over inside the capacity, the division above it the next of the ladder (kg)."""
    checks = []
    if change_over > capacity * (1 + 1e-9):
        text = f"The change-over at {mass_shown(change_over, unit)} lies above the capacity of {mass_shown(capacity, unit)}."
        checks.append(Check("change-over", "fail", text))
    expected = next_step(from_si(division, unit))
    if division_above is not None and abs(from_si(division_above, unit) / expected - 1) > 1e-6:
        text = f"Above the change-over the usual division is {shown(expected)} {unit}, the next step of the ladder."
        checks.append(Check("second-division", "note", text))
    return checks


def next_step(division: float) -> float:
    """The step of the 1-2-5 ladder above `division`."""
    return ladder_step(division * 1.5)


BEHAVIOURS: dict[Behaviour, str] = {
    "in-order": "rises when pressed and falls back: in order",
    "reversed": "falls when pressed: the signal pair is swapped, or the cell is upside down (its arrow shows the load's direction)",
    "dead": "does not move: the signal pair is open, or the load goes past the cell",
    "stays": "does not fall back: something binds, or the cell is overloaded",
}


def behaviour(empty: float, pressed: float | None, released: float | None) -> Behaviour | None:
    """How one cell answers when it is pressed and released; a key of `BEHAVIOURS`, None where not pressed yet."""
    if pressed is None:
        return None
    rise = pressed - empty
    if abs(rise) <= 1e-12 * max(abs(empty), 1e-9):
        return "dead"
    if rise < 0:
        return "reversed"
    if released is not None and abs(released - empty) > 0.05 * rise * (1 + 1e-9):
        return "stays"
    return "in-order"


BRIEFLY: dict[Behaviour, str] = {
    "in-order": "in order",
    "reversed": "falls when pressed",
    "dead": "does not move",
    "stays": "does not fall back",
}
"""The same in a table's cell."""


@dataclass(slots=True, eq=False)
class PlateResults(Results):
    """Results of every method that knows the plates of its cells."""

    mean_sensitivity: Figure | None = figure("mean sensitivity", "signal", large=True)
    rated_load: Figure | None = figure("all cells together", "mass", large=True)
    usable_capacity: Figure | None = figure("usable capacity", "mass", large=True)
    share_used: Figure | None = figure("share of the cells used", "percentage", summary=True, large=True)


def tell_plates(results: PlateResults, cells: Cells, unit: str, dead: float, live: float | None) -> None:
    """Fills the results that every method with cell plates gives; dead and live load in kg."""
    results.mean_sensitivity = Figure(cells.mean_sensitivity, "mV/V")
    results.rated_load = in_unit(cells.rated_load, unit)
    results.usable_capacity = in_unit(cells.rated_load - dead, unit)
    if live is not None:
        results.share_used = percent((dead + live) / cells.rated_load)


class CellsOrPlate(Inputs):
    """Cells one by one, or one plate and how many there are."""

    cells: list[CellPlate] | None = field("Cells")
    cell_count: CellCount | None = field("Number of cells")
    capacity: PositiveMass | None = field("Capacity of one cell")
    sensitivity: PositiveSignal | None = field("Sensitivity of the cells")
    sensitivity_source: SensitivitySource | None = field("Sensitivity read from")
