"""Rows out of a spreadsheet, XLSX or CSV: each with its sheet, its line, and what stands under each header."""

import csv
import datetime
import io
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any
from xml.etree.ElementTree import ParseError

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

MOST_BYTES, MOST_UNPACKED = 5_000_000, 60_000_000
MOST_ROWS, MOST_COLUMNS, LONGEST = 3_000, 60, 4_000


UNREADABLE = (RuntimeError, zipfile.BadZipFile, zlib.error, InvalidFileException, ParseError, LookupError, ValueError, OSError, TypeError, AttributeError, EOFError)  # fmt: skip
"""What reading a workbook raises that is none, or is broken somewhere inside."""


class NotATable(ValueError):
    """A file that cannot be read as a table; says why, and what to do."""


@dataclass(frozen=True)
class Row:
    """One row of a table: the sheet that it stands on, its line there, and its texts by header."""

    sheet: str
    line: int
    cells: dict[str, str]


def rows_of(content: bytes, name: str) -> list[Row]:
    """All rows of a file that hold anything. Raises NotATable.

    A workbook is known by what it begins with, whatever it is called; everything else is read as CSV.
    """
    if not content:
        raise NotATable("The file is empty. Choose the spreadsheet that you filled in.")
    if len(content) > MOST_BYTES:
        raise NotATable(f"The file is larger than {MOST_BYTES // 1_000_000} MB. Divide it, and bring in one part after the other.")  # fmt: skip
    tables: Iterable[tuple[str, Iterable[Sequence[Any]]]]
    tables = _workbook(content) if content[:2] == b"PK" else [(_stem(name), _csv(content))]
    rows = [row for sheet, lines in tables for row in _rows(sheet, lines)]
    if not rows:
        raise NotATable("There is no row under its headers. Fill in the template, one line for each thing.")
    if len(rows) > MOST_ROWS:
        raise NotATable(f"There are more than {MOST_ROWS} rows. Divide the file.")
    return rows


def _stem(name: str) -> str:
    return name.rpartition("/")[2].rpartition(".")[0] or name


def _workbook(content: bytes) -> list[tuple[str, list[Sequence[Any]]]]:
    """The sheets of a workbook, with what their formulas came to when it was last saved."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            if sum(one.file_size for one in packed.infolist()) > MOST_UNPACKED:
                raise NotATable("Unpacked, this workbook is too large. Keep only the sheets that are to be brought in.")
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        # Read whole here: a sheet that is broken says so only when its rows are asked for.
        return [
            (sheet.title, list(sheet.iter_rows(values_only=True, max_col=MOST_COLUMNS, max_row=MOST_ROWS + 2)))
            for sheet in book.worksheets
        ]
    except NotATable:
        raise
    except UNREADABLE as unread:
        raise NotATable(
            "This is no workbook that can be read. Save it as XLSX or CSV, and choose it again."
        ) from unread


def _csv(content: bytes) -> Iterator[Sequence[str]]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise NotATable("The file is not UTF-8 text. Save it as “CSV UTF-8”, or as XLSX.") from None
    if "\x00" in text:
        raise NotATable("The file holds what is no text. Save the spreadsheet as XLSX or CSV.")
    first = text.partition("\n")[0]
    between = max(",;\t", key=first.count)
    try:
        yield from csv.reader(io.StringIO(text), delimiter=between, strict=True)
    except csv.Error as unread:
        raise NotATable(f"The file cannot be read as CSV: {unread}. Save it again from the spreadsheet.") from None


def _rows(sheet: str, lines: Iterable[Sequence[Any]]) -> Iterator[Row]:
    """Rows under the first line that holds anything, which is the headers."""
    headers: list[str] = []
    for line, cells in enumerate(lines, 1):
        texts = [_text(one) for one in cells[:MOST_COLUMNS]]
        if not any(texts):
            continue
        if not headers:
            headers = texts
            continue
        found = {}
        for place, text in enumerate(texts):
            if text:
                found[headers[place] if place < len(headers) and headers[place] else f"column {place + 1}"] = text
        yield Row(sheet, line, found)


def _text(value: Any) -> str:
    """A cell as somebody would write it."""
    if value is None:
        return ""
    if isinstance(value, datetime.datetime):
        return value.date().isoformat()
    if isinstance(value, datetime.date):
        return value.isoformat()
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    # What a spreadsheet marks as a text that is no formula is that text.
    return str(value).strip()[:LONGEST].removeprefix("'")
