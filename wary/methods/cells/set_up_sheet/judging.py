"""Set-up sheet: what is said of what was typed."""

import math
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from wary.fields import Plates, at_most
from wary.methods.cells.arithmetic import division_checks, gravity, two_range
from wary.methods.cells.set_up_sheet.method import (
    NEEDED,
    TITLES,
    Compared,
    Difference,
    SettingRow,
    SetUpInputs,
    SetUpResults,
    SetUpSheet,
)
from wary.methods.method import Setting
from wary.methods.shared.draft import Draft
from wary.quantities import FAMILY_OF, NotAQuantity, Quantity, percent_shown, quantity, shown
from wary.results import Figure, Word
from wary.rules.assessment import FIND_FAULT, LEAVE, NOT_READY, Assessment, CheckState, Reason
from wary.suspects import looks
from wary.suspects.suspect import FINE, NOT_FINE, Sign

POWER_UP_ZERO = 0.20
LEAST_DIVISIONS = 20
NOTED, FAULTY = 0.002, 0.02
"""By how much a figure may differ from its plate: beyond the first a note, beyond the second a fault."""
GRAVITY_NOTED = 0.0005
STATES: dict[CheckState, str] = {"pass": "agrees", "note": "differs a little", "fail": "differs"}


@dataclass(frozen=True)
class Digit:
    """One digit of a coded number: what it is, and what each of its values means."""

    name: str
    values: Mapping[str, str]

    def says(self, digit: str) -> str:
        """What a digit means: in words where they are on record, else the digit."""
        return self.values.get(digit, digit)


def digits_of(text: str) -> list[Digit]:
    """The digits' meanings as they stand on record: `filter | unit: 0 kg, 1 lb | decimals`."""
    found = []
    for part in text.split("|"):
        name, _, said = part.partition(":")
        pairs = [one.strip().partition(" ") for one in said.split(",") if one.strip()]
        found.append(Digit(name.strip(), {digit: words.strip() for digit, _, words in pairs if words.strip()}))
    return found


def _decoded(row: SettingRow, code: str) -> list[tuple[Digit, str]]:
    """Each digit of a coded number with its value; empty where its digits are not on record, or are not so many."""
    digits = digits_of(row.digits) if row.digits else []
    return list(zip(digits, code, strict=True)) if digits and len(digits) == len(code.strip()) else []


def _differences(rows: Sequence[SettingRow]) -> list[Difference]:
    """Each setting that was left otherwise than found; a coded number digit by digit."""
    found = []
    for row in rows:
        if not row.name or not row.found or row.left is None or row.left.strip() == row.found.strip():
            continue
        title = TITLES.get(row.name, row.name)
        before, after = _decoded(row, row.found.strip()), _decoded(row, row.left.strip())
        if not before or not after:
            found.append(_difference(title, row.found, row.left))
            continue
        for (digit, was), (_, now) in zip(before, after, strict=True):
            if was != now:
                found.append(_difference(f"{title}, {digit.name}", digit.says(was), digit.says(now)))
    return found


def _difference(name: str, before: str, after: str) -> Difference:
    return Difference(Word(name), Word(before), Word(after))


def _in_force(rows: Sequence[SettingRow]) -> dict[str, str]:
    """Each setting as it stands now, a coded number by its digits' names as well."""
    found: dict[str, str] = {}
    for row in rows:
        text = row.left or row.found
        if not row.name or not text:
            continue
        found[row.name] = text
        for digit, value in _decoded(row, text.strip()):
            found.setdefault(_KNOWN.get(digit.name.lower(), digit.name.lower().replace(" ", "_")), digit.says(value))
    return found


_KNOWN = {
    "unit": "unit_shown",
    "display unit": "unit_shown",
    "points of support": "cells",
    "sensitivity": "characteristic_value",
}
"""Names that a site gives to digits, and the setting that each is."""


def _read(settings: Mapping[str, str], name: str, family: str) -> Quantity | None:
    try:
        return quantity(settings[name], family)
    except (KeyError, NotAQuantity):
        return None


def _number(text: str) -> float | None:
    found = re.match(r"\s*([-+]?\d+(?:[.,]\d+)?)", text)
    return float(found[1].replace(",", ".")) if found else None


def _checks(sheet: Draft[SetUpResults], settings: dict[str, str]) -> None:
    masses = {
        name: _read(settings, name, "mass")
        for name in ("capacity", "division", "change_over", "division_above", "minimum_load", "zero_least")
    }
    capacity, division, change_over = masses["capacity"], masses["division"], masses["change_over"]
    above = masses["division_above"]
    if division and division.si > 0 and capacity:
        ranged = change_over is not None and change_over.si > 0
        lower = change_over if ranged and change_over else capacity
        sheet.checks += division_checks(division.si, lower.si, division.unit)
        if ranged and change_over and above and above.si > 0:
            # Each range has its own divisions; none is counted across the change-over.
            sheet.checks += division_checks(above.si, capacity.si, above.unit)
    if capacity and division and division.si > 0 and change_over:
        sheet.checks += two_range(capacity.si, change_over.si, division.si, above.si if above else None, division.unit)
    tracking = _number(settings.get("zero_tracking", ""))
    if tracking is not None:
        text = f"Zero tracking follows {settings['zero_tracking']} divisions; wider than half a division it swallows slow loads."
        sheet.check("zero-tracking", "pass" if at_most(tracking, 0.5) else "fail", text)
    power_up = _read(settings, "power_up_zero", "percentage")
    if power_up:
        text = f"At power-up up to {percent_shown(power_up.si, decimals=0)} of capacity is taken as zero; 20 % is the most."
        sheet.check("power-up-zero", "pass" if at_most(power_up.si, POWER_UP_ZERO) else "fail", text)
    least = masses["minimum_load"]
    if least and division and division.si > 0:
        steps = least.si / division.si
        text = (
            f"The minimum load of {least.text} is {shown(steps)} divisions of {division.text}; "
            f"{LEAST_DIVISIONS} are the rule, unless the instrument's own plate says otherwise."
        )
        sheet.check("minimum-load", "pass" if steps >= LEAST_DIVISIONS * (1 - 1e-9) else "note", text)


class _Told:
    """What the instrument is told of the machine against what the plates say, field by field."""

    def __init__(self, settings: Mapping[str, str], plates: Plates) -> None:
        self.settings, self.plates = settings, plates
        self.rows: list[Compared] = []
        self.names: list[str] = []
        self.faults: list[Reason] = []
        self.notes: list[str] = []

    @property
    def lacking(self) -> list[str]:
        """What the plates say and the sheet was not compared with."""
        plates = self.plates
        known = {
            "cells": plates.cell_count,
            "nominal_load": _together(plates),
            "characteristic_value": plates.cell_sensitivity,
            "idler_spacing": plates.idler_spacing,
            "weigh_idlers": plates.weigh_idlers,
            "angle": plates.angle,
            "pulses": plates.pulses_per_revolution,
            "width": plates.width,
            "row_spacing": plates.row_spacing,
            "roller": plates.roller,
        }
        return [name for name, found in known.items() if found is not None and name not in self.alike]

    @property
    def alike(self) -> frozenset[str]:
        """What was compared, by the names of the settings."""
        return frozenset(self.names)

    def compared(self) -> None:
        plates = self.plates
        self._figure("characteristic_value", plates.cell_sensitivity)
        self._figure("nominal_load", _together(plates))
        self._count("cells", plates.cell_count)
        self._word("cell_kind", plates.cell_kind)
        self._figure("idler_spacing", plates.idler_spacing)
        self._count("weigh_idlers", plates.weigh_idlers)
        self._angle()
        self._figure("belt_length", plates.belt_length)
        self._count("pulses", plates.pulses_per_revolution)
        self._figure("width", plates.width)
        self._figure("row_spacing", plates.row_spacing)
        self._word("roller", plates.roller)
        self._figure("capacity", plates.capacity)
        self._figure("division", plates.division)
        self._word("unit_shown", plates.unit_shown)
        self._count("decimals", plates.decimals)
        self._gravity()

    def _say(self, name: str, plate: str, state: CheckState, why: str = "") -> None:
        title, told = TITLES[name], self.settings[name]
        self.names.append(name)
        self.rows.append(Compared(Word(title), Word(told), Word(plate), Word(STATES[state])))
        text = f"{title}: the instrument is told {told}, and {why or f'the plate says {plate}'}."
        if state == "fail":
            self.faults.append(
                Reason("set-up", f"{text} Look at both again, and set it to what the machine is.", {"setting": name})
            )
        elif state == "note":
            self.notes.append(text)

    def _figure(self, name: str, plate: Quantity | None) -> None:
        if plate is None or name not in self.settings:
            return
        told = (
            _read(self.settings, name, plate.family)
            if _unit_in(self.settings[name])
            else _in_unit(self.settings[name], plate)
        )
        if told is None:
            return
        apart = abs(told.si / plate.si - 1) if plate.si else math.inf if told.si else 0.0
        state: CheckState = "pass" if at_most(apart, NOTED) else "note" if at_most(apart, FAULTY) else "fail"
        self._say(name, plate.text, state)

    def _angle(self) -> None:
        plate, told = self.plates.angle, self.settings.get("angle")
        if plate is None or told is None:
            return
        read = _read(self.settings, "angle", "angle") if _unit_in(told) else _in_unit(told, plate)
        if read is not None:
            # What an angle is worth is its cosine.
            apart = abs(math.cos(read.si) / math.cos(plate.si) - 1)
            self._say(
                "angle", plate.text, "pass" if at_most(apart, NOTED) else "note" if at_most(apart, FAULTY) else "fail"
            )

    def _count(self, name: str, plate: float | None) -> None:
        told = _number(self.settings.get(name, ""))
        if plate is not None and told is not None:
            self._say(name, f"{plate:g}", "pass" if math.isclose(told, plate, rel_tol=1e-9) else "fail")

    def _word(self, name: str, plate: str | None) -> None:
        told = self.settings.get(name)
        if plate and told:
            self._say(name, plate, "pass" if told.strip().casefold() == plate.strip().casefold() else "fail")

    def _gravity(self) -> None:
        told, latitude = _number(self.settings.get("gravity", "")), self.plates.latitude
        if told is None or latitude is None or not 9 < told < 10:
            return
        here = gravity(math.degrees(latitude.si), self.plates.height.si if self.plates.height else 0.0)
        apart = abs(told / here - 1)
        state: CheckState = "pass" if at_most(apart, GRAVITY_NOTED) else "note" if at_most(apart, NOTED) else "fail"
        self._say(
            "gravity",
            f"{here:.4f} m/s²",
            state,
            f"at this site it is {here:.4f} m/s²: {percent_shown(told / here - 1, sign=True, decimals=3)}",
        )


def _together(plates: Plates) -> Quantity | None:
    """All cells together, as an instrument asks for them."""
    one, count = plates.cell_capacity, plates.cell_count
    if one is None or not count:
        return None
    whole = one.value * count
    return Quantity(whole, one.unit, f"{shown(whole)} {one.unit}")


def _unit_in(text: str) -> bool:
    return text.strip().rpartition(" ")[2] in FAMILY_OF


def _in_unit(text: str, plate: Quantity) -> Quantity | None:
    """A bare number, as the instrument shows it, in the unit of the plate."""
    number = _number(text)
    return None if number is None else Quantity(number, plate.unit, f"{number:g} {plate.unit}")


class JudgedSetUpSheet(SetUpSheet):
    """`set-up-sheet`, judged."""

    def signs(self, given: SetUpInputs, answer: Assessment[SetUpResults]) -> Iterable[Sign]:
        """The plates: what was compared is cleared, and nothing else."""
        yield from super().signs(given, answer)
        told = _Told(_in_force(given.settings or []), given.plates or Plates())
        told.compared()
        at = "inputs.settings.found"
        if told.faults:
            yield Sign(looks.PLATES.key, NOT_FINE, told.faults[0].text, at)
        elif told.rows:
            text = f"The instrument is told what the plates say, in {len(told.rows)} places."
            yield Sign(looks.PLATES.key, FINE, text, at, of=told.alike, whole=not told.lacking)

    def assess(self, given: SetUpInputs, setting: Setting) -> Assessment[SetUpResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "settings")
        rows = given.settings or []
        for place, row in enumerate(rows):
            sheet.need_in(f"inputs.settings[{place}]", row, ("name",), f"Line {place + 1}")
        found = {row.name: row.found for row in rows if row.name and row.found}
        if given.factory_reset:
            lacking = [TITLES[name] for name in NEEDED if name not in found]
            if lacking:
                text = f"Not back to factory settings yet: as found, {', '.join(lacking).lower()} still missing from the sheet."
                sheet.absent.append(Reason("sheet-incomplete", text, {"path": "inputs.settings"}))
        in_force = _in_force(rows)
        _checks(sheet, in_force)
        told = _Told(in_force, given.plates or Plates())
        told.compared()
        for reason in told.faults:
            sheet.check("set-up", "fail", reason.text)
        for note in told.notes:
            sheet.check("set-up", "note", note)
        if told.rows:
            sheet.results.compared = told.rows
            if not told.faults and not told.notes:
                sheet.check(
                    "set-up", "pass", f"The instrument is told what the plates say, in {len(told.rows)} places."
                )
        sheet.results.differences = _differences(rows)
        sheet.results.settings_noted = Figure(len(found))
        failed = sheet.facts(("set-up",))
        if failed:
            return sheet.answer(
                FIND_FAULT, failed, look=["The setting named, in the instrument's own menu; and the plate itself."]
            )
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        differences = sheet.results.differences
        if not differences:
            text = f"{len(found)} settings noted; nothing differs between as found and as left."
            if found and not told.rows:
                text += f" {len(found)} lines kept, 0 of them compared with a plate."
        else:
            names = ", ".join(row.name.value for row in differences if row.name)
            text = f"{len(differences)} differ between as found and as left: {names}. Put back what should not have changed."
        return sheet.answer(LEAVE, [Reason("recorded", text)], headline="Recorded", lead=text)


METHOD = JudgedSetUpSheet()
