"""Which single wrong entry explains a ratio this far off?

A slip says: parameter `p` was entered as `p₁` and is really `p₂`. Readings go with `p` to the
power `a`, so it predicts the correction ratio `(p₂/p₁)^a`. A slip never changes anything; it says
what to go and read off the plate.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from wary.fields import Plates, at_most
from wary.quantities import Quantity, from_si, shown, to_si
from wary.results import JSON
from wary.rules.reading_slips import UNIT_PAIRS, Container, Weighing, of_readings

WORTH_ASKING = 0.02
AT_MOST = 5

CAPACITIES = (10, 15, 20, 25, 30, 35, 50, 75)
SENSITIVITIES = (1, 1.5, 2, 3)
SPACINGS_M = (0.6, 0.75, 0.9, 1.0, 1.2, 1.35, 1.5, 1.8)
SPACINGS_FT = (2, 2.5, 3, 3.5, 4, 4.5, 5, 6)
WEIGH_IDLERS = (1, 2, 3, 4, 6)
ANGLES = (5, 10, 15, 20, 25)
OF_PLATES = frozenset(
    {
        "cell_capacity",
        "cell_count",
        "cell_sensitivity",
        "idler_spacing",
        "weigh_idlers",
        "pulses_per_revolution",
        "angle",
    }
)
"""What stands on a plate or is measured on the machine, and was typed into the instrument."""


@dataclass(frozen=True)
class Slip:
    """One wrong entry that alone would give the ratio; `text` says where to look.

    `of` says what the ratio is of, where it is not of the runs.
    """

    parameter: str
    entered: str
    likely: str
    predicted_ratio: float
    text: str
    of: str = ""

    def as_json(self) -> dict[str, JSON]:
        row: dict[str, JSON] = {key: found for key, found in vars(self).items() if key != "of"}
        return row | ({"of": self.of} if self.of else {})


@dataclass(frozen=True)
class Entered:
    """What a search may draw on: the plates, and what is known of the runs in the set.

    `reference_sum` and `tare_sum` in kg, `tare_sum` only where every tare is known. The two
    pairs of sums are masses written in pounds and ounces: as meant, and read as decimals.
    `test_load` is the load meant, the load that may have been entered instead, and what that is.
    Readings go with spacing and weigh idlers to the power `spacing_power`: −1, but +1 where the
    reference itself is worked out from them. `weighings` are the readings behind the sums, one by one,
    and `containers` those that are known here: slips are tried on the reading that they are about.
    """

    plates: Plates
    reference_unit: str | None = None
    indicated_unit: str | None = None
    reference_sum: float = 0.0
    tare_sum: float | None = None
    reference_apart: tuple[float, float] | None = None
    indicated_apart: tuple[float, float] | None = None
    test_load: tuple[float, float, str] | None = None
    spacing_power: int = -1
    weighings: tuple[Weighing, ...] = ()
    containers: tuple[Container, ...] = ()


def explain(ratio: float, uncertainty: float, entered: Entered, of: str = "") -> list[Slip]:
    """The slips that explain `ratio`, closest first, at most five; none within 2 % of one.

    `uncertainty` is the expanded uncertainty of the ratio, a fraction. `of` marks what the ratio
    is of, where it is not of the runs.
    """
    if not (ratio > 0 and math.isfinite(ratio)) or at_most(WORTH_ASKING, abs(ratio - 1)) is False:
        return []
    wide = max(0.01, uncertainty)
    third = abs(math.log(ratio)) / 3
    found: list[tuple[bool, float, Slip]] = []
    for slip in _slips(entered):
        if slip.predicted_ratio <= 0:
            continue
        distance = _apart(ratio, slip)
        if at_most(distance, wide) and at_most(distance, third):
            found.append((False, distance, slip))
    if not of:
        found += [row for row in _of_readings(ratio, entered) if at_most(row[1], wide) and at_most(row[1], third)]
    # A digit can be anything: it comes after all that has a name.
    found.sort(key=lambda row: (row[0], round(row[1], 12)))
    return [replace(slip, of=of) for _, _, slip in _no_more_than_one_digit(found)[:AT_MOST]]


def _of_readings(ratio: float, entered: Entered) -> Iterator[tuple[bool, float, Slip]]:
    """Slips of single readings, each with how far from one the ratio would be with it put right."""
    for one in of_readings(entered.weighings, entered.containers):
        slip = Slip(one.parameter, one.entered, one.likely, ratio / one.left, one.text)
        yield one.doubtful, abs(math.log(one.left)), slip


def _no_more_than_one_digit(found: list[tuple[bool, float, Slip]]) -> list[tuple[bool, float, Slip]]:
    """Of the doubtful ones the closest of each reading."""
    seen: set[str] = set()
    kept = []
    for row in found:
        if row[0] and row[2].entered in seen:
            continue
        seen |= {row[2].entered} if row[0] else set()
        kept.append(row)
    return kept


def _apart(ratio: float, slip: Slip) -> float:
    return abs(math.log(ratio) - math.log(slip.predicted_ratio))


def unit_question(ratio: float, shown_in: str) -> str | None:
    """A quiet question about one run whose own ratio is near that of two units or a decimal place.

    `shown_in` is the unit in which the display was noted. None where no such ratio is within 6 %.
    """
    near = list(_mass_units(Entered(Plates(), indicated_unit=shown_in)))
    near = [slip for slip in near if abs(math.log(slip.predicted_ratio)) > 0.05]
    near = [slip for slip in near if _apart(ratio, slip) <= min(0.06, abs(math.log(slip.predicted_ratio)) / 3)]
    if not near:
        return None
    # The unit in which the display was noted comes first, then the nearest ratio.
    closest = min(near, key=lambda s: (s.entered != shown_in, _apart(ratio, s)))
    if closest.parameter == "decimal_place":
        return f"The decimal point one {closest.likely.replace('one place', 'place')}?"
    return f"Is this {closest.likely}, not {closest.entered}?"


def _slips(entered: Entered) -> Iterator[Slip]:
    yield from _mass_units(entered)
    yield from _pounds_and_ounces(entered)
    yield from _cells(entered.plates)
    yield from _belt(entered.plates, entered.spacing_power)
    yield from _container(entered)
    yield from _passes(entered.plates)
    yield from _test_load(entered)


def _mass_units(entered: Entered) -> Iterator[Slip]:
    for one, other in UNIT_PAIRS:
        for wrong, right in ((one, other), (other, one)):
            predicted = to_si(1, right) / to_si(1, wrong)
            if entered.indicated_unit == wrong:
                where = f"the display is noted in {wrong}: look whether it shows {right}"
            elif entered.reference_unit == right:
                where = f"the reference is noted in {right}: look whether it shows {wrong}"
            else:
                where = f"look whether one of the two scales shows {right} where the other is in {wrong}"
            text = f"{_as_ratio(predicted)} is {right} against {wrong}; {where}."
            yield Slip("mass_unit", wrong, right, predicted, text)
    for predicted in (10.0, 0.1):
        way = "right" if predicted > 1 else "left"
        text = f"{_as_ratio(predicted)} is one decimal place: the point of the display belongs one place to the {way}."
        yield Slip("decimal_place", "as noted", f"one place to the {way}", predicted, text)


def _pounds_and_ounces(entered: Entered) -> Iterator[Slip]:
    for side, sums in (("reference", entered.reference_apart), ("display", entered.indicated_apart)):
        if sums is None or sums[1] <= 0 or sums[0] <= 0:
            continue
        predicted = sums[0] / sums[1] if side == "reference" else sums[1] / sums[0]
        text = (
            f"Pounds and ounces keyed as decimals would give {_as_ratio(predicted)}: 12 lb 6 oz is 12.375 lb, not 12.6."
        )
        yield Slip("pounds_and_ounces", "lb.oz as decimals", "lb and oz", predicted, text)


def _alternative(parameter: str, name: str, old: str, new: str, predicted: float, act: str) -> Slip:
    text = f"{name} is entered as {old}; {new} would give {_as_ratio(predicted)}. {act}"
    return Slip(parameter, old, new, predicted, text)


def _differs(one: float, other: float) -> bool:
    return not math.isclose(one, other, rel_tol=1e-9)


def _cells(plates: Plates) -> Iterator[Slip]:
    capacity, count, sensitivity = plates.cell_capacity, plates.cell_count, plates.cell_sensitivity
    act = "Read the cell's plate."
    if capacity:
        for likely in _capacities(capacity):
            predicted = likely.si / capacity.si
            yield _alternative("cell_capacity", "Cell capacity", capacity.text, likely.text, predicted, act)
    if count:
        for cells in range(1, 9):
            if cells != count:
                act_count = "Count the cells."
                yield _alternative(
                    "cell_count", "The number of cells", str(count), str(cells), cells / count, act_count
                )
    if capacity and count and count > 1:
        total, single = (
            f"{shown(capacity.value * count)} {capacity.unit}",
            f"{shown(capacity.value / count)} {capacity.unit}",
        )
        both = "Look whether the instrument wants one cell's capacity or all together."
        yield _alternative("cell_capacity", "Cell capacity", capacity.text, f"{total} in all", float(count), both)
        yield _alternative("cell_capacity", "Cell capacity", capacity.text, f"{single} a cell", 1 / count, both)
    if sensitivity:
        for figure in SENSITIVITIES:
            likely_text = f"{figure:g} mV/V"
            if _differs(figure, from_si(sensitivity.si, "mV/V")):
                predicted = sensitivity.si / to_si(figure, "mV/V")
                yield _alternative(
                    "cell_sensitivity", "Cell sensitivity", sensitivity.text, likely_text, predicted, act
                )


def _capacities(entered: Quantity) -> list[Quantity]:
    """Likely capacities between a fifth and five times, and the same figure in the other unit."""
    likely = []
    decade = math.floor(math.log10(entered.value))
    for power in range(decade - 3, decade + 2):
        for figure in CAPACITIES:
            value = float(f"{figure}e{power}")
            if (
                at_most(entered.value / 5, value)
                and at_most(value, entered.value * 5)
                and _differs(value, entered.value)
            ):
                likely.append(Quantity(value, entered.unit, f"{value:g} {entered.unit}"))
    other = {"kg": "lb", "lb": "kg"}.get(entered.unit)
    if other:
        likely.append(Quantity(entered.value, other, f"{entered.value:g} {other}"))
    return likely


def _belt(plates: Plates, power: int) -> Iterator[Slip]:
    spacing, idlers, pulses, angle = (
        plates.idler_spacing,
        plates.weigh_idlers,
        plates.pulses_per_revolution,
        plates.angle,
    )
    if spacing:
        likely = [(f"{m:g} m", m) for m in SPACINGS_M] + [(f"{ft:g} ft", to_si(ft, "ft")) for ft in SPACINGS_FT]
        for text, metres in likely:
            if _differs(metres, spacing.si):
                predicted = (metres / spacing.si) ** power
                act = "Measure it on the frame."
                yield _alternative("idler_spacing", "Idler spacing", spacing.text, text, predicted, act)
    if idlers:
        for figure in WEIGH_IDLERS:
            if figure != idlers:
                act = "Count the idlers that sit on the cells."
                yield _alternative(
                    "weigh_idlers",
                    "The number of weigh idlers",
                    str(idlers),
                    str(figure),
                    (figure / idlers) ** power,
                    act,
                )
    if pulses:
        for factor in (0.5, 2.0):
            act = "Count the targets on the speed sensor's wheel."
            yield _alternative(
                "pulses_per_revolution", "Pulses a revolution", f"{pulses:g}", f"{pulses * factor:g}", 1 / factor, act
            )
    if angle:
        level = math.isclose(angle.si, 0, abs_tol=1e-12)
        for degrees in ANGLES if level else (0,):
            predicted = math.cos(angle.si) / math.cos(math.radians(degrees))
            act = "Lay a level on the frame."
            yield _alternative("angle", "The conveyor's angle", angle.text, f"{degrees} deg", predicted, act)


def _container(entered: Entered) -> Iterator[Slip]:
    if not entered.tare_sum:
        return
    load, tare = entered.reference_sum, entered.tare_sum
    on_display = load / (load + tare) if load + tare > 0 else 0.0
    text = f"The empty container left on the display would give {_as_ratio(on_display)}: was it zeroed off?"
    yield Slip("tare", "container on the display", "container off", on_display, text)
    if load > tare:
        twice = load / (load - tare)
        text = f"The container in the reference, or taken off the display twice, would give {_as_ratio(twice)}."
        yield Slip("tare", "container in the reference", "container off once", twice, text)


def _passes(plates: Plates) -> Iterator[Slip]:
    passes = plates.passes_per_load
    if not passes:
        return
    for other in (passes + 1, passes - 1):
        if other > 0:
            way = "counted twice on the display" if other > passes else "missed by the display"
            predicted = passes / other
            text = f"One of {passes} passes {way} would give {_as_ratio(predicted)}: go through the tickets."
            yield Slip("passes_per_load", str(passes), str(other), predicted, text)


def _test_load(entered: Entered) -> Iterator[Slip]:
    if not entered.test_load:
        return
    meant, instead, words = entered.test_load
    if meant > 0 and instead > 0 and _differs(meant, instead):
        predicted = meant / instead
        text = f"{words[0].upper()}{words[1:]} instead of the test load would give {_as_ratio(predicted)}: look what was keyed in."
        yield Slip("test_load", words, "the test load", predicted, text)


def _as_ratio(predicted: float) -> str:
    return f"a ratio of {shown(predicted, 4)}"
