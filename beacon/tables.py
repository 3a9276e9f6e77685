"""Tables to take away: CSV and workbooks, whose cells no spreadsheet takes for a formula."""

import csv
import datetime
import io
import re
from collections.abc import Iterable, Sequence
from typing import Any

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
CSV = "text/csv; charset=utf-8"
ILLEGAL = re.compile(r"[\000-\010]|[\013-\014]|[\016-\037]")
"""What no cell of a workbook may hold."""


def safe(value: Any) -> Any:
    """A text that a spreadsheet does not take for a formula."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r") else value


def as_csv(titles: Sequence[str], rows: Iterable[Sequence[Any]]) -> bytes:
    """A table as CSV in UTF-8."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(titles)
    for row in rows:
        writer.writerow([safe(one.isoformat() if isinstance(one, datetime.datetime) else one) for one in row])
    return text.getvalue().encode("utf-8-sig")


def as_xlsx(name: str, titles: Sequence[str], rows: Iterable[Sequence[Any]]) -> bytes:
    """A table as a workbook of one sheet."""
    # It is imported where somebody wants a workbook: few do, and it takes a twentieth of the server's start.
    from openpyxl import Workbook
    from openpyxl.styles import Font

    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = name
    sheet.append(list(titles))
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for row in rows:
        sheet.append([_cell(one) for one in row])
    sheet.freeze_panes = "A2"
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue()


def _cell(value: Any) -> Any:
    if isinstance(value, datetime.datetime):
        return value.replace(tzinfo=None)
    return ILLEGAL.sub(" ", safe(value)) if isinstance(value, str) else value
