"""A workbook's rows, read in a process of its own (`beacon.own_process`), since what is packed in it decides how much
that takes."""

import io
import json
import zipfile
import zlib
from collections.abc import Sequence
from typing import Any
from xml.etree.ElementTree import ParseError

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from beacon.own_process import Refused
from beacon.setting_up.cells import MOST_COLUMNS, MOST_ROWS, text_of

MOST_UNPACKED = 60_000_000
MOST_STRINGS = MOST_ROWS * MOST_COLUMNS
"""So many texts can be shown by the rows that are read at all."""
STRINGS = "xl/sharedStrings.xml"
PIECE = 1 << 16

UNREADABLE = (
    RuntimeError,
    zipfile.BadZipFile,
    zlib.error,
    InvalidFileException,
    ParseError,
    LookupError,
    ValueError,
    OSError,
    TypeError,
    AttributeError,
    EOFError,
)
"""What reading a workbook raises that is none, or is broken somewhere inside."""


def work(content: bytes) -> bytes:
    """The sheets of a workbook as JSON, each with its title and its rows of texts. Raises Refused."""
    try:
        _bounded(content)
        book = load_workbook(io.BytesIO(content), read_only=True, data_only=True)
        # Read whole here: a sheet that is broken says so only when its rows are asked for.
        sheets = [
            (
                sheet.title,
                [_texts(row) for row in sheet.iter_rows(values_only=True, max_col=MOST_COLUMNS, max_row=MOST_ROWS + 2)],
            )
            for sheet in book.worksheets
        ]
    except (Refused, MemoryError):
        raise
    except UNREADABLE as unread:
        raise Refused("This is no workbook that can be read. Save it as XLSX or CSV, and choose it again.") from unread
    return json.dumps(sheets).encode()


def _texts(cells: Sequence[Any]) -> list[str]:
    return [text_of(one) for one in cells]


def _bounded(content: bytes) -> None:
    """Raises Refused for a workbook that holds more than can be brought in, before any of it is read."""
    with zipfile.ZipFile(io.BytesIO(content)) as packed:
        unpacked, strings = 0, 0
        for one in packed.infolist():
            is_strings = one.filename.lower() == STRINGS.lower()
            before = b""
            # What it says of its own size is nobody's word: it is unpacked, a piece at a time.
            with packed.open(one) as part:
                while piece := part.read(PIECE):
                    unpacked += len(piece)
                    if is_strings:
                        strings += (before + piece).count(b"<si") + (before + piece).count(b":si")
                        before = piece[-2:]
                    if unpacked > MOST_UNPACKED or strings > MOST_STRINGS:
                        raise Refused(
                            "Unpacked, this workbook is too large. Keep only the sheets that are to be brought in."
                        )
