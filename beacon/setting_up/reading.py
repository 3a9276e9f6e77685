"""Rows out of a spreadsheet, XLSX or CSV: each with its sheet, its line, and what stands under each header."""

import csv
import io
import json
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from beacon.database.letting_go import let_go
from beacon.own_process import MB, NoTurn, OwnProcess, Refused, TooMuch
from beacon.setting_up.cells import MOST_COLUMNS, MOST_ROWS, text_of

MOST_BYTES = 5_000_000
UNPACKING = OwnProcess("beacon.setting_up.unpacking", seconds=30.0, cpu=10.0, memory=270 * MB)


class NotATable(ValueError):
    """A file that cannot be read as a table; says why, and what to do."""


@dataclass(frozen=True)
class Row:
    """One row of a table: the sheet that it stands on, its line there, and its texts by header."""

    sheet: str
    line: int
    cells: dict[str, str]


def rows_of(content: bytes, name: str, whose: str = "") -> list[Row]:
    """All rows of a file that hold anything. Raises NotATable.

    A workbook is known by what it begins with, whatever it is called; everything else is read as CSV.
    """
    if not content:
        raise NotATable("The file is empty. Choose the spreadsheet that you filled in.")
    if len(content) > MOST_BYTES:
        raise NotATable(f"The file is larger than {MOST_BYTES // 1_000_000} MB. Divide it, and bring in one part after the other.")  # fmt: skip
    tables: Iterable[tuple[str, Iterable[Sequence[Any]]]]
    tables = _workbook(content, whose) if content[:2] == b"PK" else [(_stem(name), _csv(content))]
    rows = [row for sheet, lines in tables for row in _rows(sheet, lines)]
    if not rows:
        raise NotATable("There is no row under its headers. Fill in the template, one line for each thing.")
    if len(rows) > MOST_ROWS:
        raise NotATable(f"There are more than {MOST_ROWS} rows. Divide the file.")
    return rows


def _stem(name: str) -> str:
    return name.rpartition("/")[2].rpartition(".")[0] or name


def _workbook(content: bytes, whose: str) -> list[tuple[str, list[Sequence[Any]]]]:
    """The sheets of a workbook, with what their formulas came to when it was last saved."""
    let_go()
    try:
        return [(title, lines) for title, lines in json.loads(UNPACKING.asked(content, whose))]
    except Refused as why:
        raise NotATable(str(why)) from None
    except NoTurn:
        raise NotATable("Many files came at once. Choose it again in a minute.") from None
    except TooMuch:
        raise NotATable(
            "This workbook takes too much to be read. Keep only the sheets that are to be brought in, or save "
            "it as CSV."
        ) from None


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
        texts = [text_of(one) for one in cells[:MOST_COLUMNS]]
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
