"""Corner test: the same load on every corner, pad or cell.

A platform that reads differently at its corners has a cell, a mount or a trim out of step; no span
factor cures that.
"""

import math
from typing import Any

from wary.answer import Sheet
from wary.call import ADJUST, FIND_FAULT, LEAVE, NOT_READY, Reason
from wary.cautions import LIFT_WEIGHTS
from wary.fields import Inputs, Mass, MassFromZero, PositiveMass, Words, at_most, field
from wary.method import Assessment, Item, Method, Setting, Step, value
from wary.quantities import Quantity, from_si, mass_shown
from wary.stages import missing

WHERE_TO_LOOK = (
    "Whether the load really stood at that position, and all of it.",
    "What touches or bridges the platform there: dirt under the edge, a stop, a cable.",
    "The mount of that cell, and whether its foot stands on firm ground.",
    "The cell itself: press it in a cell check.",
)


class Position(Inputs):
    """One corner, pad or cell with the load on it."""

    label: Words | None = field("Which corner or pad")
    indicated: Mass | None = field("Indicated")


class CornerInputs(Inputs):
    """Inputs of a corner test."""

    test_load: Mass | None = field("What is put on each corner")
    division: PositiveMass | None = field("Division of the display")
    positions: list[Position] | None = field("Corners, in turn")
    limit: MassFromZero | None = field("How far corners may differ", "one division where nothing is said")


class CornerTest(Method):
    """`corner-test`: range over the positions, the worst one named."""

    key = "corner-test"
    title = "Corner test"
    summary = "The same load on every corner, pad or cell"
    figure = "cells"
    kinds = ("platform", "pads", "vessel", "bench")
    profile = "vessel"
    inputs = CornerInputs
    steps = (
        Step(
            "look",
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touches the platform; gap clear all round"),
                Item("level", "Feet down, level"),
                Item("zero", "Empty, it shows zero"),
            ),
        ),
        Step("load", "enter", "The load", "The same load each time; a quarter to a third of capacity is usual.", fields=("test_load", "division", "limit")),
        Step("corners", "corners", "Each corner in turn", "Load on, settled, read; then on to the next.", runs="positions", cautions=(LIFT_WEIGHTS,)),
        Step("close", "close", "Close", "Weights off, then write it up."),
    )  # fmt: skip

    def assess(self, given: CornerInputs, setting: Setting) -> Assessment:
        sheet = Sheet(self, setting)
        sheet.need(given, "test_load", "positions")
        if given.test_load and given.test_load.si <= 0:
            text = f"A test load of {given.test_load.text} is no load; it must be above zero."
            sheet.absent.append(Reason("no-load", text, {"path": "inputs.test_load"}))
        if given.limit is None and given.division is None:
            sheet.absent.append(missing("inputs.division", "The display's division, or a limit, is still missing."))
        positions = given.positions or []
        for place, position in enumerate(positions):
            sheet.need_in(f"inputs.positions[{place}]", position, ("indicated",), _name(position, place))
        if len(positions) == 1:
            text = "One position is in; corners are compared with each other, so take at least two."
            sheet.absent.append(Reason("too-few-positions", text, {"path": "inputs.positions"}))
        shown = [p.indicated.si for p in positions if p.indicated]
        if given.test_load and len(shown) == len(positions) and len(shown) > 1:
            _figures(sheet, given, positions, shown)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        return _judge(sheet, given, positions, shown)

    def drawing(self, given: CornerInputs, plates: dict[str, Quantity | float]) -> dict[str, dict[str, Any]]:
        """Each corner with what it showed; the one that is furthest off is marked."""
        figures: dict[str, dict[str, Any]] = {}
        positions = given.positions or []
        shown = [p.indicated.si for p in positions if p.indicated]
        mean = math.fsum(shown) / len(shown) if shown else 0.0
        furthest = max((abs(s - mean) for s in shown), default=0.0)
        for place, position in enumerate(positions):
            label = position.label or str(place + 1)
            figures[f"label{place}"] = {"value": label, "unit": "", "text": label}
            if position.indicated:
                off = abs(position.indicated.si - mean)
                worst = furthest > 0 and abs(off - furthest) < 1e-9 * max(furthest, 1) and len(shown) > 1
                figures[f"cell{place}"] = {
                    "value": position.indicated.value,
                    "unit": "worst" if worst else "",
                    "text": position.indicated.text,
                }
        return figures


def _figures(sheet: Sheet, given: CornerInputs, positions: list[Position], shown: list[float]) -> None:
    assert given.test_load
    first = positions[0].indicated
    unit = first.unit if first else given.test_load.unit
    mean = math.fsum(shown) / len(shown)
    sheet.results["range"] = value(from_si(max(shown) - min(shown), unit), unit)
    worst = max(range(len(shown)), key=lambda place: (round(abs(shown[place] - mean), 12), -place))
    sheet.results["worst"] = {"value": positions[worst].label or str(worst + 1), "unit": ""}
    sheet.results["errors"] = [value(from_si(s - given.test_load.si, unit), unit) for s in shown]
    if all(s > 0 for s in shown):
        sheet.results["trim_ratios"] = [value(mean / s) for s in shown]


def _judge(sheet: Sheet, given: CornerInputs, positions: list[Position], shown: list[float]) -> Assessment:
    low = min(range(len(shown)), key=lambda place: shown[place])
    others = [s for place, s in enumerate(shown) if place != low]
    mean_of_others = math.fsum(others) / len(others)
    first = positions[0].indicated
    unit = first.unit if first else "kg"
    if shown[low] < mean_of_others / 2 * (1 - 1e-9):
        text = (
            f"{_name(positions[low], low)} shows {mass_shown(shown[low], unit)}, less than half of the others' mean of "
            f"{mass_shown(mean_of_others, unit)}: it does not carry, or is not wired in."
        )
        sheet.check("carries", "fail", text)
        return sheet.answer(FIND_FAULT, [Reason("sanity", text)], look=WHERE_TO_LOOK)
    allowed = given.limit.si if given.limit else given.division.si if given.division else 0.0
    spread = max(shown) - min(shown)
    between = f"The corners differ by {mass_shown(spread, unit)}; {mass_shown(allowed, unit)} is allowed."
    if at_most(spread, allowed):
        return sheet.answer(LEAVE, [Reason("within-limit", between)], lead=between)
    worst = str(sheet.results["worst"]["value"])
    text = (
        f"{between} Trim {worst}; where each pad is a channel with a span of its own, zero and span that channel. "
        "The span factor of the whole cures nothing here."
    )
    return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline=f"Trim {worst}", lead=between)


def _name(position: Position, place: int) -> str:
    return position.label or f"Position {place + 1}"


METHOD = CornerTest()
