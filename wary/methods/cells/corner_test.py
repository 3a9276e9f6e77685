"""Corner test: the same load on every corner, pad or cell.

A platform that reads differently at its corners has a cell, a mount or a trim out of step; no span
factor cures that.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from wary import drawings
from wary.acts import SETTLE, Act
from wary.drawings import CellMark
from wary.fields import Inputs, Mass, MassFromZero, PositiveMass, Words, at_most, field, plate
from wary.methods.method import Marks, Method, RowsFrom, Seen, Setting, Stale
from wary.methods.reads import Reads
from wary.methods.shared.cautions import LIFT_WEIGHTS
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Item, Listed, Look, Rows, remark, typed
from wary.quantities import from_si, mass_shown, shown
from wary.results import Figure, Results, Word, figure, in_unit
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
from wary.rules.slips import Slip
from wary.suspects import looks
from wary.suspects.suspect import FINE, NOT_FINE, Sign, keys

WHERE_TO_LOOK = (
    "Whether the load really stood at that position, and all of it.",
    "What touches or bridges the platform there: dirt under the edge, a stop, a cable.",
    "The mount of that cell, and whether its foot stands on firm ground.",
    "The cell itself: press it in a cell check.",
)


@dataclass(slots=True, eq=False)
class CornerResults(Results):
    """Results of a corner test."""

    range: Figure | None = figure("range of the corners", "mass", summary=True)
    worst: Word | None = figure("worst corner", summary=True)
    errors: list[Figure] | None = figure("error of each corner", "mass", signed=True)
    trim_ratios: list[Figure] | None = figure("trim of each corner")


class Position(Inputs):
    """One corner, pad or cell with the load on it."""

    label: Words | None = field("Which corner or pad")
    indicated: Mass | None = field("Indicated", ask="Put the load there, let it settle, and type what it shows.")
    capacity: PositiveMass | None = field("Capacity of this pad")


CORNERS = Rows(
    list="positions",
    name="Corner",
    empty="No corner yet: name the first and put the load on it.",
    columns=(typed("label", "Corner"), typed("indicated", "Shown"), remark("error", "Off by"), remark("furthest", "")),
    typed=("label", "indicated", "capacity"),
    where={"capacity": "pads"},
    spare=("capacity",),
    resume=True,
)
TRIMMED = "corners.trimmed"


class CornerInputs(Inputs):
    """Inputs of a corner test."""

    test_load: MassFromZero | None = field(
        "What is put on each corner", ask="Say what is put on each corner: type its mass."
    )
    division: PositiveMass | None = plate("Division of the display")
    positions: list[Position] | None = field(
        "Corners, in turn", ask="Put the load on the first corner, and type what it shows."
    )
    limit: MassFromZero | None = field("How far corners may differ", "one division where nothing is said")
    total_shown: Mass | None = field("Total shown", "what the display adds up to, with the load on every pad")
    total_capacity: PositiveMass | None = field("Capacity that the total is set to")


MOST_TRIM, NO_TRIM = 0.2, "no-trim"
"""A corner that is further off than this share of the mean is no matter of its trim."""


class CornerTest(Method[CornerInputs, CornerResults]):
    """`corner-test`: range over the positions, the worst one named."""

    key = "corner-test"
    title = "Corner test"
    summary = "The same load on every corner, pad or cell"
    question = "Do the corners agree?"
    subject = "The corners"
    half_done = "one was trimmed, and they do not agree yet"
    profile = "vessel"
    inputs = CornerInputs
    results = CornerResults
    compares = True
    takes_rows = {"positions": RowsFrom("cells", {"label": "label"})}
    makes_stale = (
        Stale("span-after-trim", "A corner was trimmed: zero and span again, and then each corner.", by=("zero-span",)),
    )
    remembers = ("limit", "total_capacity", "positions.label", "positions.capacity")
    against = ("test_load",)
    acts = {"positions.indicated": (Act("load", "test_load"), Act("place", "row"), SETTLE)}
    reads = (Reads(looks.CORNERS, "positions.indicated", by_itself=True),)
    steps = (
        Look(
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touches the platform; gap clear all round", looks=keys(looks.GAP)),
                Item("level", "Feet down, level"),
                Item("zero", "Empty, it shows zero"),
            ),
        ),
        Enter("load", "The load", "The same load each time; a quarter to a third of capacity is usual.", fields=("test_load", "division", "limit")),
        Listed("corners", "Each corner in turn", "Load on, settled, read; then on to the next.", rows=CORNERS, cautions=(LIFT_WEIGHTS,), items=(Item("trimmed", "The corner named was trimmed"),)),
        Enter("total", "Pads and their total", "The load on every pad at once: what each shows adds up to the total.", fields=("total_shown", "total_capacity"), where={"total_shown": "pads", "total_capacity": "pads"}),
        Close("close", "Close", "Weights off, then write it up."),
    )  # fmt: skip

    def assess(self, given: CornerInputs, setting: Setting) -> Assessment[CornerResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "test_load", "positions")
        if given.test_load and given.test_load.si <= 0:
            sheet.no_load("test_load", f"A test load of {given.test_load.text}")
        if given.limit is None and given.division is None:
            sheet.absent.append(
                missing("inputs.division", "Read the display's division off, or type how far corners may differ.")
            )
        positions = given.positions or []
        for place, position in enumerate(positions):
            sheet.need_in(f"inputs.positions[{place}]", position, ("indicated",), _name(position, place))
        if len(positions) == 1:
            text = "One position is in; corners are compared with each other, so take at least two."
            sheet.absent.append(Reason("too-few-positions", text, {"path": "inputs.positions"}))
        read = [p.indicated.si for p in positions if p.indicated]
        if given.test_load and len(read) == len(positions) and len(read) > 1:
            _figures(sheet, given, positions, read)
        _carries(sheet, positions)
        _total(sheet, given, positions)
        failed = sheet.facts(("total", "capacity"))
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        return _judge(sheet, given, positions, read)

    def signs(self, given: CornerInputs, answer: Assessment[CornerResults]) -> Iterable[Sign]:
        """Whether the corners are alike; one that carries hardly anything is more than a trim that has moved."""
        yield from super().signs(given, answer)
        read = [one.indicated.si for one in given.positions or [] if one.indicated]
        if len(read) < 2 or answer.results.range is None or answer.call == NOT_READY:
            return
        mean = math.fsum(read) / len(read)
        most = max(abs(one - mean) for one in read)
        result = NO_TRIM if most > MOST_TRIM * abs(mean) else FINE if answer.call == LEAVE else NOT_FINE
        text = answer.reasons[0].text if answer.reasons else ""
        yield Sign(looks.CORNERS.key, result, text, "inputs.positions.indicated")

    def changed(self, given: CornerInputs, answer: Assessment[CornerResults], marks: Marks) -> bool:
        return TRIMMED in marks.ticks

    def draw(self, given: CornerInputs, seen: Seen) -> drawings.Cells:
        """Each corner with what it showed; the one that is furthest off is marked."""
        positions = given.positions or []
        read = [p.indicated.si for p in positions if p.indicated]
        furthest = _furthest(read) if len(read) > 1 else None
        marks, place_read = [], -1
        for place, position in enumerate(positions):
            place_read += position.indicated is not None
            text = f"{shown(position.indicated.value, 6)} {position.indicated.unit}" if position.indicated else ""
            worst = position.indicated is not None and place_read == furthest
            marks.append(CellMark(label=position.label or str(place + 1), text=text, furthest=worst))
        return drawings.Cells(outline=seen.outline, cells=tuple(marks))


def _furthest(read: list[float]) -> int | None:
    """The place of the reading that is furthest from the mean; None where all are alike."""
    mean = math.fsum(read) / len(read)
    worst = max(range(len(read)), key=lambda place: (round(abs(read[place] - mean), 12), -place))
    return worst if abs(read[worst] - mean) > 1e-12 * max(abs(mean), 1e-9) else None


def _figures(sheet: Draft[CornerResults], given: CornerInputs, positions: list[Position], read: list[float]) -> None:
    assert given.test_load
    first = positions[0].indicated
    unit = first.unit if first else given.test_load.unit
    mean = math.fsum(read) / len(read)
    furthest = _furthest(read)
    worst = furthest or 0
    errors = [from_si(one - given.test_load.si, unit) for one in read]
    sheet.results.range = in_unit(max(read) - min(read), unit)
    sheet.results.worst = Word(positions[worst].label or str(worst + 1))
    sheet.results.errors = [Figure(error, unit) for error in errors]
    if all(one > 0 for one in read):
        sheet.results.trim_ratios = [Figure(mean / one) for one in read]
    sheet.remarks["positions"] = [
        {"error": Remark(f"{shown(error, 5, sign=True)} {unit}", error)}
        | ({"furthest": Remark("furthest off", None, "note")} if place == furthest else {})
        for place, error in enumerate(errors)
    ]


def _carries(sheet: Draft[CornerResults], positions: list[Position]) -> None:
    """Whether each position carries: one that shows half of the others and less needs no other figure to be seen."""
    rows = [(place, position.indicated) for place, position in enumerate(positions) if position.indicated]
    if len(rows) < 2:
        return
    place, low = min(rows, key=lambda row: row[1].si)
    others = [read.si for at, read in rows if at != place]
    mean_of_others = math.fsum(others) / len(others)
    if low.si < mean_of_others / 2 * (1 - 1e-9):
        text = (
            f"{_name(positions[place], place)} shows {mass_shown(low.si, low.unit)}, less than half of the others' mean of "
            f"{mass_shown(mean_of_others, low.unit)}: it does not carry, or is not wired in."
        )
        sheet.check("carries", "fail", text)


def _total(sheet: Draft[CornerResults], given: CornerInputs, positions: list[Position]) -> None:
    """Pads against the total that the display makes of them, and their capacities against what that is set to."""
    read = [position.indicated.si for position in positions if position.indicated]
    total = given.total_shown
    if total and given.division and len(read) == len(positions) and len(read) > 1:
        added = math.fsum(read)
        off, allowed = total.si - added, len(read) * given.division.si
        text = (
            f"The pads add up to {mass_shown(added, total.unit)}, the total shows {total.text}; "
            f"{mass_shown(allowed, total.unit)}, a division a pad, is allowed."
        )
        good = at_most(abs(off), allowed)
        sheet.check("total", "pass" if good else "fail", text)
        if not good:
            sheet.slips += _added(positions, off, allowed, total.si)
    capacities = [position.capacity.si for position in positions if position.capacity]
    if given.total_capacity and positions and len(capacities) == len(positions):
        whole = math.fsum(capacities)
        text = f"The pads carry {mass_shown(whole, given.total_capacity.unit)} together; the total is set to {given.total_capacity.text}."
        sheet.check("capacity", "pass" if math.isclose(whole, given.total_capacity.si, rel_tol=1e-6) else "fail", text)


def _added(positions: list[Position], off: float, allowed: float, total: float) -> list[Slip]:
    """The pad that is added to the total and was not told to be, or is left out of it: which one alone explains the total."""
    found = []
    for place, position in enumerate(positions):
        assert position.indicated
        for sign, was, is_really in ((1, "added twice", "added once"), (-1, "not added", "added")):
            if at_most(abs(off - sign * position.indicated.si), allowed):
                text = f"{_name(position, place)} is {was} to the total: look what it is told to be added to."
                found.append(Slip("total", was, is_really, (total - off) / total if total else 0.0, text))
    return found


def _judge(
    sheet: Draft[CornerResults], given: CornerInputs, positions: list[Position], read: list[float]
) -> Assessment[CornerResults]:
    first = positions[0].indicated
    unit = first.unit if first else "kg"
    allowed = given.limit.si if given.limit else given.division.si if given.division else 0.0
    spread = max(read) - min(read)
    between = f"The corners differ by {mass_shown(spread, unit)}; {mass_shown(allowed, unit)} is allowed."
    if at_most(spread, allowed):
        return sheet.answer(LEAVE, [Reason("within-limit", between)], lead=between)
    worst = sheet.results.worst.value if sheet.results.worst else ""
    text = (
        f"{between} Trim {worst}; where each pad is a channel with a span of its own, zero and span that channel. "
        "The span factor of the whole cures nothing here."
    )
    return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline=f"Trim {worst}", lead=between)


def _name(position: Position, place: int) -> str:
    return position.label or f"Position {place + 1}"


METHOD = CornerTest()
