"""Set-up sheet: what the instrument is set to, as found and as left, and whether that is what the machine is.

The two sheets are compared; the difference is the list to put back. A coded number is decoded by
the meaning that the site gave each digit, and compared digit by digit. The way in is noted, never
the code.
"""

from dataclasses import dataclass

from wary.fields import Flag, Inputs, Plates, Words, field
from wary.methods.method import Method, RowsFrom
from wary.methods.reads import Reads
from wary.methods.shared.cautions import OWN_RULES
from wary.methods.shared.service import SERVICE_MODE
from wary.methods.steps import Close, Enter, Sheet, SheetGroup, SheetLine
from wary.results import Figure, Results, Word, figure
from wary.suspects import looks

GROUPS = tuple(
    SheetGroup(title=title, lines=tuple(SheetLine(*line) for line in lines))
    for title, lines in (
        ("Identity", (("maker_number", "Serial number"), ("firmware", "Firmware"))),
        (
            "What it is told of the machine",
            (
                ("cells", "Cells or points of support", "plate:cell_count"),
                ("cell_kind", "Kind of cell: analogue or digital", "plate:cell_count"),
                ("characteristic_value", "Characteristic value: sensitivity", "plate:cell_sensitivity"),
                ("nominal_load", "Nominal load: all cells together", "plate:cell_capacity"),
                ("idler_spacing", "Idler spacing, or weigh length", "plate:idler_spacing"),
                ("weigh_idlers", "Weigh idlers", "plate:weigh_idlers"),
                ("angle", "Conveyor angle", "plate:angle"),
                ("belt_length", "Belt length", "plate:belt_length"),
                ("pulses", "Pulses in one revolution", "plate:pulses_per_revolution"),
                ("width", "Working width", "plate:width"),
                ("row_spacing", "Row spacing", "plate:row_spacing"),
                ("roller", "Roller or meter", "plate:roller"),
            ),
        ),
        (
            "Measuring",
            (
                ("capacity", "Capacity"),
                ("division", "Division"),
                ("change_over", "Change-over point"),
                ("division_above", "Division above it"),
                ("minimum_load", "Minimum load"),
                ("unit_shown", "Unit shown"),
                ("decimals", "Decimals shown"),
                ("unit_calibrating", "Unit used for calibrating"),
                ("factor", "Factor"),
                ("gain", "Gain"),
                ("offset", "Offset"),
            ),
        ),
        (
            "Behaviour",
            (
                ("filter", "Filter: heavier is steadier and slower"),
                ("mains_filter", "Mains filter: 50 or 60 Hz"),
                ("standstill", "Standstill: width and time"),
                ("zero_tracking", "Zero tracking, in divisions"),
                ("zero_least", "Zero: its own minimum load"),
                ("power_up_zero", "Zero range at power-up"),
                ("gravity", "Gravity, and which place it means"),
            ),
        ),
        ("Outputs", (("outputs", "Outputs"), ("address", "Name or letter on the network"))),
        ("Access", (("unlocked_by", "How it was unlocked, never the code"), ("seal", "Seal"))),
    )
)  # fmt: skip
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
class Compared(Results):
    """One thing that the instrument is told of the machine, beside what the plate says."""

    name: Word | None = figure("setting")
    told: Word | None = figure("the instrument is told")
    plate: Word | None = figure("the plate says")
    state: Word | None = figure("how they agree")


@dataclass(slots=True, eq=False)
class SetUpResults(Results):
    """Results of a set-up sheet."""

    differences: list[Difference] | None = figure("settings left otherwise than found")
    compared: list[Compared] | None = figure("what it is told, beside the plates")
    settings_noted: Figure | None = figure("settings noted", "integer", summary=True)


class SettingRow(Inputs):
    """One setting: its name, as found, as left; `digits` names each digit of a coded number."""

    name: Words | None = field("Setting")
    found: Words | None = field("As found")
    left: Words | None = field("As left")
    digits: Words | None = field(
        "What each digit means", "in order, with a bar between: filter | unit: 0 kg, 1 lb | decimals"
    )


class SetUpInputs(Inputs):
    """Inputs of a set-up sheet."""

    settings: list[SettingRow] | None = field("Settings", ask="Go through its menus, and type each setting as found.")
    plates: Plates | None = field("Plates")
    factory_reset: Flag | None = field("Returned to factory settings")


class SetUpSheet(Method[SetUpInputs, SetUpResults]):
    """`set-up-sheet`: checks of the settings, and what differs between the two sheets."""

    key = "set-up-sheet"
    title = "Set-up sheet"
    summary = "What the instrument is set to, whether that is what the machine is, and what to put back"
    question = "Is it told what the machine is?"
    subject = "The set-up"
    profile = "vessel"
    inputs = SetUpInputs
    results = SetUpResults
    takes_rows = {"settings": RowsFrom("settings", {"name": "title", "digits": "digits"})}
    reads = (
        Reads(looks.PLATES, "settings.found", by_itself=True),
        Reads(looks.TRACKING, "settings.found", ("zero-tracking",)),
    )
    steps = (
        Sheet("settings", "Settings", "As found before anything is changed; as left before you go.", list="settings", groups=GROUPS, items=(SERVICE_MODE,), cautions=(OWN_RULES,)),
        Enter("reset", "Factory settings", "Only once the as-found sheet is complete.", fields=("factory_reset",)),
        Close("close", "Close", "Compare the two sheets, then write it up."),
    )  # fmt: skip

    def loose(self, given: SetUpInputs) -> list[tuple[str, str]]:
        if given.factory_reset and not any(row.left for row in given.settings or []):
            return [("factory-reset", "It was returned to factory settings: key the settings in again.")]
        return []
