"""Span without weights: from the cells' data sheet, provisional until a known load has confirmed it.

Pipes, mounts and cable length are not in a data sheet.
"""

from typing import Any

from wary import loadcells
from wary.answer import Sheet
from wary.call import FIND_FAULT, LEAVE, NOT_READY, Reason
from wary.cautions import CELL_WIRING, OWN_RULES
from wary.fields import Frequency, MassFromZero, PositiveMass, Voltage, field
from wary.loadcells import Cells, CellsOrPlate
from wary.method import Assessment, Item, Method, Setting, Step, drawn, value
from wary.quantities import Quantity, from_si, mass_shown

MAINS = (50.0, 60.0)
CONFIRMS = 0.25


class DataSheetInputs(CellsOrPlate):
    """Inputs of a span from the data sheet."""

    dead_load: MassFromZero | None = field("Dead load", "what the cells carry when it is empty")
    live_capacity: PositiveMass | None = field("Most that is ever in or on it")
    division: PositiveMass | None = field("Division of the display")
    mains_frequency: Frequency | None = field("Mains frequency", "50 or 60 Hz; sets the filter's notch")
    excitation: Voltage | None = field("Excitation")


class DataSheetSpan(Method):
    """`data-sheet-span`: the signals to key in for empty and full."""

    key = "data-sheet-span"
    title = "Span from the data sheet"
    summary = "The signals to key in for empty and full, provisional until a known load confirms them"
    figure = "cells"
    kinds = ("vessel", "platform", "bench")
    profile = "vessel"
    inputs = DataSheetInputs
    steps = (
        Step(
            "look",
            "look",
            "Look first",
            "A data sheet knows nothing of pipes and stays.",
            items=(
                Item("free", "Nothing touches, bridges or hangs on it"),
                Item("all-carry", "Every cell carries its part"),
            ),
            cautions=(CELL_WIRING,),
        ),
        Step(
            "plates",
            "enter",
            "Read off the plates",
            "One plate for all cells; where they differ, one by one in a cell check.",
            fields=("cell_count", "capacity", "sensitivity", "sensitivity_source"),
        ),
        Step(
            "loads",
            "enter",
            "Loads and set-up",
            fields=("dead_load", "live_capacity", "division", "excitation", "mains_frequency"),
            cautions=(OWN_RULES,),
        ),
        Step("key-in", "figures", "Key in", "What the instrument wants for empty and for full."),
        Step("close", "close", "Close", "It stays provisional until a known load has confirmed it."),
    )

    def assess(self, given: DataSheetInputs, setting: Setting) -> Assessment:
        sheet = Sheet(self, setting)
        cells, unit = _cells(sheet, given)
        sheet.need(given, "live_capacity")
        if cells:
            _figures(sheet, given, cells, unit)
        over = [check for check in sheet.checks if check.code == "headroom" and check.state == "fail"]
        sheet.absent += [Reason("overload", check.text, {"path": "inputs.live_capacity"}) for check in over]
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        failed = sheet.failed(("sensitivity-range", "cell-count"))
        if failed:
            return sheet.answer(
                FIND_FAULT, failed, look=["The plates: capacity, sensitivity, and how many cells there are."]
            )
        assert given.live_capacity
        enough = mass_shown(given.live_capacity.si * CONFIRMS, given.live_capacity.unit, 3)
        text = (
            "Worked out from plates alone: pipes, mounts and cable length are not in them. Confirm it with a known load "
            f"at the first chance, {enough} or more; a small one confirms little."
        )
        return sheet.answer(LEAVE, [Reason("provisional", text)], headline="Key it in: provisional", lead=text)

    def drawing(self, given: DataSheetInputs, plates: dict[str, Quantity | float]) -> dict[str, dict[str, Any]]:
        """Load and rated load, for the picture of what the cells carry."""
        figures = {}
        if given.live_capacity:
            figures["live_capacity"] = drawn(given.live_capacity.value, given.live_capacity.unit)
        if given.dead_load:
            figures["dead_load"] = drawn(given.dead_load.value, given.dead_load.unit)
        count = len(given.cells) if given.cells else given.cell_count or 0
        for place in range(count):
            figures[f"label{place}"] = value(place + 1) | {"text": str(place + 1)}
        return figures


def _cells(sheet: Sheet, given: DataSheetInputs) -> tuple[Cells | None, str]:
    """The cells with the unit of their capacity, or None with what is missing noted."""
    if given.cells:
        for place, cell in enumerate(given.cells):
            name = f"cell {cell.label or place + 1}"
            sheet.need_in(f"inputs.cells[{place}]", cell, ("capacity", "sensitivity"), name)
        pairs = [(c.capacity, c.sensitivity) for c in given.cells]
        if any(capacity is None or sensitivity is None for capacity, sensitivity in pairs):
            return None, "kg"
        capacities = [capacity.si for capacity, _ in pairs if capacity]
        cells = Cells(capacities, [from_si(s.si, "mV/V") for _, s in pairs if s])
        if given.cell_count and given.cell_count != cells.count:
            text = f"The instrument is set to {given.cell_count} cells; {cells.count} are listed."
            sheet.check("cell-count", "fail", text)
            sheet.slips.append(loadcells.count_slip(given.cell_count, cells.count))
        first = pairs[0][0]
        return cells, first.unit if first else "kg"
    sheet.need(given, "cell_count", "capacity", "sensitivity")
    if not (given.cell_count and given.capacity and given.sensitivity):
        return None, "kg"
    sensitivity = from_si(given.sensitivity.si, "mV/V")
    return Cells([given.capacity.si] * given.cell_count, [sensitivity] * given.cell_count), given.capacity.unit


def _figures(sheet: Sheet, given: DataSheetInputs, cells: Cells, unit: str) -> None:
    dead = given.dead_load.si if given.dead_load else 0.0
    live = given.live_capacity.si if given.live_capacity else None
    sheet.results |= loadcells.plate_results(cells, unit, dead, live)
    sheet.checks.append(loadcells.sensitivity_check(cells.sensitivities))
    sheet.slips += loadcells.sensitivity_slips(cells.sensitivities)
    if given.dead_load:
        sheet.results["zero_signal"] = value(cells.signal(dead), "mV/V")
    if live is not None:
        sheet.results["span_signal"] = value(cells.signal(live), "mV/V")
        sheet.checks.append(loadcells.headroom_check((dead + live) / cells.rated_load, len(set(cells.capacities)) > 1))
    if given.division:
        if live is not None:
            sheet.checks += loadcells.division_checks(given.division.si, live, given.division.unit)
        if given.excitation:
            microvolts = cells.microvolts(given.division.si, from_si(given.excitation.si, "V"))
            sheet.results["signal_per_division"] = value(microvolts, "µV")
            sheet.checks.append(loadcells.microvolt_check(microvolts))
    if given.mains_frequency and round(given.mains_frequency.si, 6) not in MAINS:
        sheet.check("mains-frequency", "note", f"{given.mains_frequency.text} is no mains frequency: 50 or 60 Hz.")
    if given.sensitivity_source == "assumed" or any(c.sensitivity_source == "assumed" for c in given.cells or []):
        sheet.check("sensitivity-source", "note", "The sensitivity is assumed and not read off a plate or certificate.")


METHOD = DataSheetSpan()
