"""The workbook to fill in: a sheet for each kind of machine with its plates, one for references, one for people."""

import io
from collections.abc import Sequence
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from openpyxl import Workbook
    from openpyxl.worksheet.worksheet import Worksheet

from beacon.setting_up.columns import (
    PEOPLE,
    PERSON,
    REFERENCE,
    REFERENCES,
    SHEET_TITLE,
    SYSTEM,
    Column,
    plate_columns,
)
from wary.machines import all_machines

HOW = (
    "One line for each thing. A sheet for each kind of machine; leave empty what you do not know, and the sheets that you do not need.",
    "Figures with their units, as on the plate: 300 t/h, 0.9 m. A bare number is taken in the unit that the header's note says.",
    "Bring the file in under Systems, From a spreadsheet. It is shown before anything is kept; if a line cannot be kept, none is.",
)


def workbook() -> bytes:
    """The template as XLSX."""
    from openpyxl import Workbook

    book = Workbook()
    first = book.active
    assert first is not None
    first.title = "Read first"
    for line in HOW:
        first.append([line])
    first.column_dimensions["A"].width = 130
    for machine in all_machines().values():
        _sheet(book, machine.title[:SHEET_TITLE].capitalize(), (*SYSTEM, *plate_columns(machine)))
    _sheet(book, REFERENCES, REFERENCE)
    _sheet(book, PEOPLE, PERSON)
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue()


def _sheet(book: "Workbook", title: str, columns: Sequence[Column]) -> None:
    from openpyxl.comments import Comment
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    sheet: Worksheet = book.create_sheet(title)
    sheet.append([column.title for column in columns])
    for place, column in enumerate(columns, 1):
        cell = sheet.cell(1, place)
        cell.font = Font(bold=True)
        say = " ".join(filter(None, ("must be filled;" if column.needed else "", column.say))).rstrip(";")
        if say:
            cell.comment = Comment(say, "Wary Beacon")
        sheet.column_dimensions[get_column_letter(place)].width = max(14, len(column.title) + 3)
    sheet.freeze_panes = "A2"
