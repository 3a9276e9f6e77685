"""Set-up sheet: what the instrument is set to, as found and as left. A record, not a test.

The two sheets are compared; the difference is the list to put back. A coded number is compared
digit by digit, by the meaning that the site gave each digit. The way in is noted, never the code.
"""

from dataclasses import dataclass

from wary.fields import Flag, Inputs, Words, at_most, field
from wary.methods.cells.arithmetic import division_checks, two_range
from wary.methods.method import Method, RowsFrom, Setting
from wary.methods.shared.cautions import OWN_RULES
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Sheet, SheetGroup, SheetLine
from wary.quantities import NotAQuantity, Quantity, mass_shown, percent_shown, quantity
from wary.results import Figure, Results, Word, figure
from wary.rules.assessment import FIND_FAULT, LEAVE, NOT_READY, Assessment, Reason

POWER_UP_ZERO = 0.20

GROUPS = tuple(
    SheetGroup(title=title, lines=tuple(SheetLine(name=name, title=words) for name, words in lines))
    for title, lines in (
        ("Identity", (("maker_number", "Serial number"), ("firmware", "Firmware"))),
        (
            "Measuring",
            (
                ("capacity", "Capacity"),
                ("division", "Division"),
                ("change_over", "Change-over point"),
                ("division_above", "Division above it"),
                ("minimum_load", "Minimum load"),
                ("unit_shown", "Unit shown"),
                ("unit_calibrating", "Unit used for calibrating"),
                ("cells", "Cells"),
                ("factor", "Factor"),
                ("gain", "Gain"),
                ("offset", "Offset"),
            ),
        ),
        (
            "Behaviour",
            (
                ("filter", "Filter: heavier is steadier and slower"),
                ("zero_tracking", "Zero tracking, in divisions"),
                ("power_up_zero", "Zero range at power-up"),
                ("gravity", "Gravity, and which place it means"),
            ),
        ),
        ("Outputs", (("outputs", "Outputs"), ("address", "Address"))),
        ("Access", (("unlocked_by", "How it was unlocked, never the code"), ("seal", "Seal"))),
    )
)
"""What a sheet asks for, by purpose."""

TITLES = {line.name: line.title.partition(":")[0].partition(",")[0] for group in GROUPS for line in group.lines}
NEEDED = ("capacity", "division", "unit_shown", "filter", "zero_tracking", "seal")


@dataclass(slots=True, eq=False)
class Difference(Results):
    """One setting that was left otherwise than found."""

    name: Word | None = figure("setting")
    found: Word | None = figure("found")
    left: Word | None = figure("left")


@dataclass(slots=True, eq=False)
class SetUpResults(Results):
    """Results of a set-up sheet."""

    differences: list[Difference] | None = figure("settings left otherwise than found")
    settings_noted: Figure | None = figure("settings noted", "integer", summary=True)


class SettingRow(Inputs):
    """One setting: its name, as found, as left; `digits` names each digit of a coded number."""

    name: Words | None = field("Setting")
    found: Words | None = field("As found")
    left: Words | None = field("As left")
    digits: Words | None = field("What each digit means", "in order, with a bar between: filter | unit | decimals")


class SetUpInputs(Inputs):
    """Inputs of a set-up sheet."""

    settings: list[SettingRow] | None = field("Settings", ask="Go through its menus, and type each setting as found.")
    factory_reset: Flag | None = field("Returned to factory settings")


class SetUpSheet(Method[SetUpInputs, SetUpResults]):
    """`set-up-sheet`: checks of the settings, and what differs between the two sheets."""

    key = "set-up-sheet"
    title = "Set-up sheet"
    summary = "What the instrument is set to, as found and as left, and what to put back"
    question = "What was changed?"
    subject = "The set-up"
    profile = "vessel"
    inputs = SetUpInputs
    results = SetUpResults
    takes_rows = {"settings": RowsFrom("settings", {"name": "title", "digits": "digits"})}
    steps = (
        Sheet("settings", "Settings", "As found before anything is changed; as left before you go.", list="settings", groups=GROUPS, cautions=(OWN_RULES,)),
        Enter("reset", "Factory settings", "Only once the as-found sheet is complete.", fields=("factory_reset",)),
        Close("close", "Close", "Compare the two sheets, then write it up."),
    )  # fmt: skip

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
        in_force = {row.name: row.left or row.found for row in rows if row.name}
        _checks(sheet, {name: text for name, text in in_force.items() if text})
        differences = _differences(rows)
        sheet.results.differences = differences
        sheet.results.settings_noted = Figure(len(found))
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        failed = sheet.failed()
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=["The setting named, in the instrument's own menu."])
        if not differences:
            text = f"{len(found)} settings noted; nothing differs between as found and as left."
        else:
            names = ", ".join(row.name.value for row in differences if row.name)
            text = f"{len(differences)} differ between as found and as left: {names}. Put back what should not have changed."
        return sheet.answer(LEAVE, [Reason("recorded", text)], headline="Recorded", lead=text)

    def loose(self, given: SetUpInputs) -> list[tuple[str, str]]:
        if given.factory_reset and not any(row.left for row in given.settings or []):
            return [("factory-reset", "It was returned to factory settings: key the settings in again.")]
        return []


def _differences(rows: list[SettingRow]) -> list[Difference]:
    """Each setting that was left otherwise than found; a coded number digit by digit."""
    found = []
    for row in rows:
        if not row.name or not row.found or row.left is None or row.left.strip() == row.found.strip():
            continue
        title = TITLES.get(row.name, row.name)
        meanings = [part.strip() for part in row.digits.split("|")] if row.digits else []
        if meanings and len(row.found) == len(row.left) == len(meanings):
            for meaning, before, after in zip(meanings, row.found, row.left, strict=True):
                if before != after:
                    found.append(_difference(f"{title}, {meaning}", before, after))
        else:
            found.append(_difference(title, row.found, row.left))
    return found


def _difference(name: str, before: str, after: str) -> Difference:
    return Difference(Word(name), Word(before), Word(after))


def _read(settings: dict[str, str], name: str, family: str) -> Quantity | None:
    try:
        return quantity(settings[name], family)
    except (KeyError, NotAQuantity):
        return None


def _checks(sheet: Draft[SetUpResults], settings: dict[str, str]) -> None:
    masses = {
        name: _read(settings, name, "mass")
        for name in ("capacity", "division", "change_over", "division_above", "minimum_load")
    }
    capacity, division = masses["capacity"], masses["division"]
    if capacity and division and division.si > 0:
        sheet.checks += division_checks(division.si, capacity.si, division.unit)
    if capacity and division and division.si > 0 and masses["change_over"]:
        above = masses["division_above"]
        sheet.checks += two_range(
            capacity.si, masses["change_over"].si, division.si, above.si if above else None, division.unit
        )
    try:
        tracking = float(settings.get("zero_tracking", "").split()[0].replace(",", "."))
    except (ValueError, IndexError):
        tracking = None
    if tracking is not None:
        text = f"Zero tracking follows {settings['zero_tracking']} divisions; wider than half a division it swallows slow loads."
        sheet.check("zero-tracking", "pass" if at_most(tracking, 0.5) else "fail", text)
    power_up = _read(settings, "power_up_zero", "percentage")
    if power_up:
        text = f"At power-up up to {percent_shown(power_up.si, decimals=0)} of capacity is taken as zero; 20 % is the most."
        sheet.check("power-up-zero", "pass" if at_most(power_up.si, POWER_UP_ZERO) else "fail", text)
    if masses["minimum_load"] and division and division.si > 0:
        least = masses["minimum_load"].si
        text = f"The minimum load of {masses['minimum_load'].text} is {mass_shown(least, division.unit)} at {division.text} a step."
        sheet.check("minimum-load", "pass" if least >= 20 * division.si * (1 - 1e-9) else "note", text)


METHOD = SetUpSheet()
