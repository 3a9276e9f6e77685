"""Span without weights: from the cells' data sheet, provisional until a known load has confirmed it.

Pipes, mounts and cable length are not in a data sheet.
"""

from dataclasses import dataclass

from wary import drawings
from wary.drawings import CellMark, spoken
from wary.fields import Frequency, Mass, MassFromZero, PositiveMass, Voltage, field, plate
from wary.methods.cells import arithmetic
from wary.methods.cells.arithmetic import Cells, CellsOrPlate
from wary.methods.cells.record import CELLS_ON_RECORD
from wary.methods.method import Method, Seen, Setting
from wary.methods.shared.cautions import CELL_WIRING, OWN_RULES
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Figures, Item, Large, Look
from wary.quantities import from_si, mass_shown, percent_shown
from wary.results import Figure, figure, in_unit, percent
from wary.rules.assessment import FIND_FAULT, LEAVE, NOT_READY, Assessment, Reason
from wary.suspects import looks
from wary.suspects.suspect import keys

MAINS = (50.0, 60.0)
CONFIRMS = 0.25


@dataclass(slots=True, eq=False)
class DataSheetResults(arithmetic.PlateResults):
    """Results of a span from data sheets."""

    zero_signal: Figure | None = figure("empty", "signal", summary=True, large=True)
    span_signal: Figure | None = figure("full, beyond empty", "signal", summary=True, large=True)
    signal_per_division: Figure | None = figure("one division", "voltage", large=True)
    characteristic_value: Figure | None = figure("characteristic value", "signal", large=True)
    nominal_load: Figure | None = figure("nominal load", "mass", large=True)
    cells_set: Figure | None = figure("number of cells", "integer", large=True)
    mains_filter: Figure | None = figure("mains filter", "frequency", large=True)
    known_load_error: Figure | None = figure("error with a known load on", "percentage", signed=True, summary=True)


class DataSheetInputs(CellsOrPlate):
    """Inputs of a span from the data sheet."""

    dead_load: MassFromZero | None = field("Dead load", "what the cells carry when it is empty")
    live_capacity: PositiveMass | None = field(
        "Most that is ever in or on it", ask="Say what is the most that is ever in or on it."
    )
    division: PositiveMass | None = plate("Division of the display")
    mains_frequency: Frequency | None = field("Mains frequency", "50 or 60 Hz; sets the filter's notch")
    excitation: Voltage | None = field("Excitation")
    known_load: PositiveMass | None = field("A known load, or weights", "put on once the signals were keyed in")
    known_load_shown: Mass | None = field("Shown with it on")


KEYED = (
    Large(result="zero_signal", title="Empty"),
    Large(result="span_signal", title="Full, beyond empty"),
    Large(result="mean_sensitivity", title="Mean sensitivity"),
    Large(result="rated_load", title="All cells together"),
    Large(result="usable_capacity", title="Usable capacity"),
    Large(result="signal_per_division", title="One division"),
    Large(result="share_used", title="Share of the cells used"),
)


class DataSheetSpan(Method[DataSheetInputs, DataSheetResults]):
    """`data-sheet-span`: the signals to key in for empty and full."""

    key = "data-sheet-span"
    title = "Span from the data sheet"
    summary = "The signals to key in for empty and full, provisional until a known load confirms them"
    question = "What do I key in?"
    subject = "The data sheet"
    profile = "vessel"
    inputs = DataSheetInputs
    results = DataSheetResults
    takes = {"capacity": "cell_capacity", "sensitivity": "cell_sensitivity"}
    takes_rows = {"cells": CELLS_ON_RECORD}
    steps = (
        Look(
            "look",
            "Look first",
            "A data sheet knows nothing of pipes and stays.",
            items=(
                Item("free", "Nothing touches, bridges or hangs on it", looks=keys(looks.GAP, looks.LINES)),
                Item("all-carry", "Every cell carries its part"),
            ),
            cautions=(CELL_WIRING,),
        ),
        Enter(
            "plates",
            "Read off the plates",
            "One plate for all cells; where they differ, one by one in a cell check.",
            fields=("cell_count", "capacity", "sensitivity", "sensitivity_source"),
        ),
        Enter(
            "loads",
            "Loads and set-up",
            fields=("dead_load", "live_capacity", "division", "excitation", "mains_frequency"),
            cautions=(OWN_RULES,),
        ),
        Figures("key-in", "Key in", "What the instrument wants for empty and for full.", figures=KEYED),
        Enter(
            "known",
            "Beside a known load",
            "Where weights or a known load were on as well: how far the data sheet is from them.",
            fields=("known_load", "known_load_shown"),
        ),
        Close("close", "Close", "It stays provisional until a known load has confirmed it."),
    )

    def assess(self, given: DataSheetInputs, setting: Setting) -> Assessment[DataSheetResults]:
        sheet = Draft(self, setting)
        cells, unit = _cells(sheet, given)
        sheet.need(given, "live_capacity")
        if cells:
            _figures(sheet, given, cells, unit)
        sheet.not_ready_where_failed("headroom", "overload", "inputs.live_capacity")
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

    def draw(self, given: DataSheetInputs, seen: Seen) -> drawings.Cells:
        """The cells from above, with what they carry."""
        names = [cell.label or str(place) for place, cell in enumerate(given.cells or [], 1)]
        names = names or [str(place + 1) for place in range(given.cell_count or 0)]
        loads = ((given.dead_load, "dead"), (given.live_capacity, "live"))
        inside = [f"{spoken(load.value, load.unit)} {name}" for load, name in loads if load]
        cells = tuple(CellMark(label=name) for name in names)
        return drawings.Cells(outline=seen.outline, cells=cells, inside=tuple(inside))


def _cells(sheet: Draft[DataSheetResults], given: DataSheetInputs) -> tuple[Cells | None, str]:
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
            sheet.slips.append(arithmetic.count_slip(given.cell_count, cells.count))
        first = pairs[0][0]
        return cells, first.unit if first else "kg"
    sheet.need(given, "cell_count", "capacity", "sensitivity")
    if not (given.cell_count and given.capacity and given.sensitivity):
        return None, "kg"
    sensitivity = from_si(given.sensitivity.si, "mV/V")
    return Cells([given.capacity.si] * given.cell_count, [sensitivity] * given.cell_count), given.capacity.unit


def _figures(sheet: Draft[DataSheetResults], given: DataSheetInputs, cells: Cells, unit: str) -> None:
    dead = given.dead_load.si if given.dead_load else 0.0
    live = given.live_capacity.si if given.live_capacity else None
    arithmetic.tell_plates(sheet.results, cells, unit, dead, live)
    sheet.checks.append(arithmetic.sensitivity_check(cells.sensitivities))
    sheet.slips += arithmetic.sensitivity_slips(cells.sensitivities)
    if given.dead_load:
        sheet.results.zero_signal = Figure(cells.signal(dead), "mV/V")
    if live is not None:
        sheet.results.span_signal = Figure(cells.signal(live), "mV/V")
        sheet.checks.append(arithmetic.headroom_check((dead + live) / cells.rated_load, len(set(cells.capacities)) > 1))
    if given.division:
        if live is not None:
            sheet.checks += arithmetic.division_checks(given.division.si, live, given.division.unit)
        if given.excitation:
            microvolts = cells.microvolts(given.division.si, from_si(given.excitation.si, "V"))
            sheet.results.signal_per_division = Figure(microvolts, "µV")
            sheet.checks.append(arithmetic.microvolt_check(microvolts))
    _as_asked_for(sheet, given, cells, given.division.unit if given.division else unit)
    if given.known_load and given.known_load_shown:
        error = given.known_load_shown.si / given.known_load.si - 1
        sheet.results.known_load_error = percent(error)
        sheet.check(
            "known-load",
            "note",
            f"With {given.known_load.text} on it shows {given.known_load_shown.text}: the data sheet is {percent_shown(error, sign=True)} off.",
        )
    if given.mains_frequency and round(given.mains_frequency.si, 6) not in MAINS:
        sheet.check("mains-frequency", "note", f"{given.mains_frequency.text} is no mains frequency: 50 or 60 Hz.")
    if given.sensitivity_source == "assumed" or any(c.sensitivity_source == "assumed" for c in given.cells or []):
        sheet.check("sensitivity-source", "note", "The sensitivity is assumed and not read off a plate or certificate.")


def _as_asked_for(sheet: Draft[DataSheetResults], given: DataSheetInputs, cells: Cells, unit: str) -> None:
    """The figures in the form in which instruments ask for them, masses in the display's unit."""
    results = sheet.results
    results.characteristic_value = Figure(cells.mean_sensitivity, "mV/V")
    results.nominal_load = in_unit(cells.rated_load, unit)
    results.cells_set = Figure(cells.count)
    if given.mains_frequency:
        results.mains_filter = in_unit(given.mains_frequency.si, "Hz")


METHOD = DataSheetSpan()
