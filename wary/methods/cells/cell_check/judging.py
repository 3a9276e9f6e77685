"""Cell check: what is said of what was typed."""

import math
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from wary import drawings
from wary.drawings import CellMark
from wary.fields import (
    at_most,
)
from wary.methods.cells import arithmetic
from wary.methods.cells.arithmetic import CellPlate, Cells
from wary.methods.cells.cell_check.method import READINGS, Cell, CellCheck, CellCheckInputs, CellCheckResults
from wary.methods.method import Seen, Setting, Within
from wary.methods.shared.draft import Draft
from wary.quantities import FAMILY_OF, Quantity, from_si, percent_shown, shown
from wary.results import Figure, percent
from wary.rules.assessment import FIND_FAULT, LEAVE, NOT_READY, Assessment, Reason, Remark
from wary.suspects import looks
from wary.suspects.suspect import FINE, Sign

NAMED = (
    "sensitivity-range", "cell-count", "responds", "returns", "empty-signal", "balance", "running-balance", "running-swing", "headroom",
)  # fmt: skip
EMPTY_BAND = 0.2
LEAST_BALANCE, GOOD_BALANCE = 0.5, 0.8
MOST_SWING = 0.25
WHERE_TO_LOOK = {
    "cell-count": "Count the cells, and look what number the instrument is set to.",
    "sensitivity-range": "Read the sensitivity off the plate or the certificate again: the point, and the unit.",
    "balance": "Shims under the light cell, the level of the frame, and whether something bridges it.",
    "running-balance": "What the light cell does not carry while it runs: its mount, its stay, a support that takes the load past it.",
    "responds": "The wiring of that cell: the signal pair swapped or open, or the cell upside down.",
    "returns": "What holds that cell: a bound mount, dirt beside it, a stay rod that is too tight.",
    "empty-signal": "What is really on the cells when it is empty: pipes, build-up, a stay, or one cell not carried.",
    "running-swing": "Something carried round with the band: cake on one length of it, a bent flight, a seized roller.",
}


def figure_of(reading: Quantity | float) -> float:
    """A reading as one number: SI for a mass, mV/V for a signal, counts as they are."""
    if not isinstance(reading, Quantity):
        return reading
    return from_si(reading.si, "mV/V") if reading.family == "signal" else reading.si


def _behaviour(cell: Cell) -> drawings.Behaviour | None:
    if cell.empty is None or cell.pressed is None:
        return None
    released = figure_of(cell.released) if cell.released is not None else None
    return arithmetic.behaviour(figure_of(cell.empty), figure_of(cell.pressed), released)


def _shares(cells: list[Cell]) -> list[float | None]:
    """Each cell's share of all that is read so far, as fractions; None where it is not read yet."""
    empty = [figure_of(cell.empty) if cell.empty is not None else None for cell in cells]
    total = math.fsum(reading or 0.0 for reading in empty)
    return [reading / total if reading is not None and total > 0 else None for reading in empty]


def _told(cells: list[Cell]) -> list[dict[str, Remark]]:
    rows = []
    for cell, share in zip(cells, _shares(cells), strict=True):
        row: dict[str, Remark] = {}
        if share is not None:
            row["share"] = Remark(percent_shown(share, decimals=1), share * 100)
        how = _behaviour(cell)
        if how:
            row["answers"] = Remark(arithmetic.BRIEFLY[how], None, "good" if how == "in-order" else "bad")
        rows.append(row)
    return rows


def _plates(sheet: Draft[CellCheckResults], given: CellCheckInputs, listed: list[Cell]) -> None:
    """Results and checks from the plates alone; every cell has its capacity and sensitivity."""
    capacities = [cell.capacity.si for cell in listed if cell.capacity]
    sensitivities = [from_si(cell.sensitivity.si, "mV/V") for cell in listed if cell.sensitivity]
    cells = Cells(capacities, sensitivities)
    unit = next(cell.capacity.unit for cell in listed if cell.capacity)
    dead = given.dead_load.si if given.dead_load else 0.0
    live = given.live_capacity.si if given.live_capacity else None
    arithmetic.tell_plates(sheet.results, cells, unit, dead, live)
    if live is not None:
        sheet.results.signal_at_capacity = Figure(cells.signal(dead + live), "mV/V")
    sheet.checks.append(arithmetic.sensitivity_check(sensitivities))
    sheet.slips += arithmetic.sensitivity_slips(sensitivities)
    if live is not None:
        sheet.checks.append(arithmetic.headroom_check((dead + live) / cells.rated_load, len(set(capacities)) > 1))
    if given.division:
        if live:
            sheet.checks += arithmetic.division_checks(given.division.si, live, given.division.unit)
        if given.excitation:
            microvolts = cells.microvolts(given.division.si, from_si(given.excitation.si, "V"))
            sheet.results.signal_per_division = Figure(microvolts, "µV")
            sheet.checks.append(arithmetic.microvolt_check(microvolts))
    empty = [cell.empty for cell in listed]
    if given.dead_load:
        expected = cells.signal(dead)
        sheet.results.expected_empty_signal = Figure(expected, "mV/V")
        if expected > 0 and all(_kind(reading) == "mV/V" for reading in empty):
            _empty_signal(sheet, [figure_of(r) for r in empty if r is not None], expected)


def _count(sheet: Draft[CellCheckResults], entered: int, listed: int) -> None:
    if entered == listed:
        sheet.check("cell-count", "pass", f"The instrument is set to {entered} cells, as listed.")
        return
    sheet.check("cell-count", "fail", f"The instrument is set to {entered} cells; {listed} are listed.")
    sheet.slips.append(arithmetic.count_slip(entered, listed))


def _empty_signal(sheet: Draft[CellCheckResults], readings: list[float], expected: float) -> None:
    mean = math.fsum(readings) / len(readings)
    off = mean / expected - 1
    text = f"Empty, the cells give {shown(mean)} mV/V on the mean; the dead load asks for {shown(expected)} mV/V."
    sheet.check("empty-signal", "pass" if at_most(abs(off), EMPTY_BAND) else "fail", text)


def _empty_counts(sheet: Draft[CellCheckResults], cells: list[Cell], expected: float, band: float) -> None:
    outside = [
        (place, cell)
        for place, cell in enumerate(cells)
        if cell.empty is not None and not at_most(abs(figure_of(cell.empty) - expected), band)
    ]
    where = f"{shown(expected, 7)} ± {shown(band, 7)}"
    if not outside:
        sheet.check("empty-signal", "pass", f"Empty, every cell gives counts within {where}.")
        return
    place, cell = outside[0]
    assert cell.empty is not None
    text = f"Empty, {_name(cell, place)} gives {shown(figure_of(cell.empty), 7)}; {where} is expected."
    sheet.check("empty-signal", "fail", text)


def _readings(sheet: Draft[CellCheckResults], given: CellCheckInputs, cells: list[Cell]) -> None:
    """Results and checks from the readings, as far as they are in: they need no plate."""
    read = [cell for cell in cells if cell.empty is not None]
    empty = [figure_of(cell.empty) for cell in read if cell.empty is not None]
    total = math.fsum(empty)
    if cells and len(empty) == len(cells) and total:
        sheet.results.shares = [percent(reading / total) for reading in empty]
    if len(empty) > 1 and max(empty) > 0:
        _balance(sheet, cells, empty)
    if given.cell_count is not None and cells:
        _count(sheet, given.cell_count, len(cells))
    if given.expected_raw is not None and given.raw_band is not None and any(_kind(cell.empty) == "counts" for cell in cells):  # fmt: skip
        _empty_counts(sheet, cells, given.expected_raw, given.raw_band)
    sheet.remarks["cells"] = _told(cells)
    _pressing(sheet, cells)
    _running(sheet, cells)


def _balance(sheet: Draft[CellCheckResults], cells: list[Cell], empty: list[float]) -> None:
    balance = min(empty) / max(empty)
    sheet.results.balance = Figure(balance)
    names = [_name(cell, place) for place, cell in enumerate(cells) if cell.empty is not None]
    light = names[empty.index(min(empty))]
    text = f"{light} carries {percent_shown(balance, decimals=0)} of what the heaviest one carries."
    if balance == 0:
        text = f"{light} reads nothing while the others do: its signal is open, or it carries nothing."
    _judge_balance(sheet, "balance", balance, text)


def _judge_balance(sheet: Draft[CellCheckResults], code: str, balance: float, text: str) -> None:
    if balance < LEAST_BALANCE * (1 - 1e-9):
        sheet.check(code, "fail", f"{text[0].upper()}{text[1:]} Half and less is not normal.")
    else:
        sheet.check(code, "note" if balance < GOOD_BALANCE * (1 - 1e-9) else "pass", f"{text[0].upper()}{text[1:]}")


def _pressing(sheet: Draft[CellCheckResults], cells: list[Cell]) -> None:
    pressed = [(place, c) for place, c in enumerate(cells) if c.empty is not None and c.pressed is not None]
    if not pressed:
        return
    answers = []
    for place, cell in pressed:
        how = _behaviour(cell)
        assert how is not None
        answers.append((_name(cell, place), how))
    silent = [f"{name} {arithmetic.BEHAVIOURS[how]}" for name, how in answers if how in ("reversed", "dead")]
    text = "; ".join(silent) + "." if silent else f"{_many(len(pressed))} rise when pressed."
    sheet.check("responds", "fail" if silent else "pass", text[0].upper() + text[1:])
    rose = [row for row, (_, how) in zip(pressed, answers, strict=True) if how in ("in-order", "stays")]
    returned = [(place, cell) for place, cell in rose if cell.released is not None]
    if returned:
        stuck = [f"{name} {arithmetic.BEHAVIOURS[how]}" for name, how in answers if how == "stays"]
        text = "; ".join(stuck) + "." if stuck else f"{_many(len(returned))} fall back when released."
        sheet.check("returns", "fail" if stuck else "pass", text[0].upper() + text[1:])


def _many(count: int) -> str:
    return "The one cell pressed does" if count == 1 else f"All {count} cells pressed"


def _running(sheet: Draft[CellCheckResults], cells: list[Cell]) -> None:
    swings: list[tuple[str, float]] = []
    middles: list[tuple[str, float]] = []
    for place, cell in enumerate(cells):
        if cell.running_low is None or cell.running_high is None:
            continue
        low, high = figure_of(cell.running_low), figure_of(cell.running_high)
        mean = (low + high) / 2
        swings.append((_name(cell, place), (high - low) / mean if mean > 0 else math.inf))
        middles.append((_name(cell, place), mean))
    if not swings:
        return
    light, heavy = min(middles, key=lambda row: row[1]), max(middles, key=lambda row: row[1])
    if len(middles) > 1 and heavy[1] > 0:
        running = light[1] / heavy[1]
        sheet.results.running_balance = Figure(running)
        words = f"running, {light[0]} carries {percent_shown(running, decimals=0)} of what {heavy[0]} carries."
        _judge_balance(sheet, "running-balance", running, words)
    name, worst = max(swings, key=lambda row: row[1])
    amount = percent_shown(worst, decimals=0) if math.isfinite(worst) else "more than all"
    text = f"Running empty, {name} swings by {amount} of its mean; up to a quarter is normal."
    sheet.check("running-swing", "pass" if at_most(worst, MOST_SWING) else "fail", text)


def _kind(reading: Any) -> str | None:
    """`counts`, `mV/V` or `mass`, of a reading read or raw; None where there is none that can be told."""
    if reading is None or isinstance(reading, bool):
        return None
    if isinstance(reading, (int, float)):
        return "counts"
    unit = reading.unit if isinstance(reading, Quantity) else str(reading).strip().rpartition(" ")[2]
    return {"signal": "mV/V", "mass": "mass"}.get(FAMILY_OF.get(unit, ""))


def _name(cell: CellPlate, place: int) -> str:
    return f"cell {cell.label or place + 1}"


def _in_order(cells: list[Cell], read: bool) -> list[Reason]:
    unread = "The plates fit together; no cell was read yet. Press each in turn to see that it answers."
    reasons = [Reason("in-order", "Plates and signals fit together." if read else unread)]
    if any(cell.sensitivity_source == "assumed" for cell in cells):
        text = (
            "A sensitivity is assumed and not read: whatever rests on it is provisional until a known load confirms it."
        )
        reasons.append(Reason("provisional", text))
    return reasons


PRESSED: dict[drawings.Behaviour, str] = {"in-order": FINE, "reversed": "falls", "dead": "dead", "stays": "stays"}
"""What pressing a cell comes to, by how it answered."""


def _pressed(given: CellCheckInputs) -> Iterator[Sign]:
    """How the cells answered: each that did not rise and fall back, or that all did."""
    answers = [(_name(cell, place), how) for place, cell in enumerate(given.cells or []) if (how := _behaviour(cell))]
    for name, how in answers:
        if how != "in-order":
            text = f"{name[0].upper()}{name[1:]} {arithmetic.BEHAVIOURS[how]}."
            yield Sign(looks.PRESS.key, PRESSED[how], text, "inputs.cells.pressed")
    if answers and len(answers) == len(given.cells or []) and all(how == "in-order" for _, how in answers):
        text = "Each cell rises when pressed, and falls back."
        yield Sign(looks.PRESS.key, FINE, text, "inputs.cells.pressed")


class JudgedCellCheck(CellCheck):
    """`cell-check`, judged."""

    def signs(self, given: CellCheckInputs, answer: Assessment[CellCheckResults]) -> Iterable[Sign]:
        yield from super().signs(given, answer)
        yield from _pressed(given)

    def across(self, raw: Mapping[str, Any]) -> list[tuple[Within, str]]:
        found: list[tuple[Within, str]] = []
        first: str | None = None
        rows = raw.get("cells")
        for place, row in enumerate(rows if isinstance(rows, list) else []):
            for key in READINGS if isinstance(row, dict) else ():
                kind = _kind(row.get(key))
                first = first or kind
                if kind and kind != first:
                    found.append(
                        (("cells", place, key), f"is {kind} where another reading is {first}; expected one kind")
                    )
        return found

    def assess(self, given: CellCheckInputs, setting: Setting) -> Assessment[CellCheckResults]:
        sheet = Draft(self, setting)
        cells = given.cells or []
        sheet.need(given, "cells")
        lacking = [_name(cell, place) for place, cell in enumerate(cells) if not (cell.capacity and cell.sensitivity)]
        read = any(read is not None for cell in cells for read in cell.readings())
        for place, cell in enumerate(() if read else cells):
            sheet.need_in(f"inputs.cells[{place}]", cell, ("capacity", "sensitivity"), _name(cell, place))
        if cells and not lacking:
            _plates(sheet, given, cells)
        _readings(sheet, given, cells)
        if given.cell_kind == "digital" and any(_kind(read) == "mV/V" for c in cells for read in c.readings()):
            sheet.check("cell-kind", "note", "Digital cells give counts or masses: readings in mV/V do not suit them.")
        sheet.not_ready_where_failed("headroom", "overload", "inputs.live_capacity")
        failed = sheet.facts(NAMED)
        if failed:
            codes = [check.code for check in sheet.checks if check.state == "fail"]
            look = [WHERE_TO_LOOK[code] for code in codes if code in WHERE_TO_LOOK]
            return sheet.answer(FIND_FAULT, failed, look=look)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        if lacking:
            which = ", ".join(lacking)
            text = (
                f"The signals are in order. Not on record is what the plate of {which} says, capacity and sensitivity: "
                "nothing that is worked out from them is given."
            )
            return sheet.answer(LEAVE, [Reason("signals-only", text)], headline="The cells are in order")
        headline = "The cells are in order" if read else "The plates fit together"
        return sheet.answer(LEAVE, _in_order(cells, read), headline=headline)

    def draw(self, given: CellCheckInputs, seen: Seen) -> drawings.Cells:
        """The cells from above: the share of each, and how it answered."""
        shares, cells = _shares(given.cells or []), given.cells or []
        marks = [
            CellMark(
                label=cell.label or str(place + 1),
                text=percent_shown(share, decimals=0) if (share := shares[place]) is not None else "",
                answers=_behaviour(cell),
            )
            for place, cell in enumerate(cells)
        ]
        return drawings.Cells(outline=seen.outline, cells=tuple(marks))


METHOD = JudgedCellCheck()
