"""A CSV file as people have one: what it is encoded in, what parts its columns, and what makes it none."""

import csv
import io

from wary.job.file import Refusal, Refused

MOST_CELLS = 200
LONGEST_CELL = 2000


def lines_of(content: bytes, most: int) -> list[tuple[int, list[str]]]:
    """The header and the rows of a CSV file that hold anything, each with its line.

    UTF-8 or UTF-16 with its mark, else Latin-1; comma, semicolon or tab, whichever the header has
    most of. Raises Refused where it is no such file, holds no row, or more than `most`.
    """
    text = _text(content).replace("\r\n", "\n").replace("\r", "\n")
    first = text.lstrip("\n").partition("\n")[0]
    reader = csv.reader(io.StringIO(text), delimiter=max(",;\t", key=first.count), strict=True)
    found: list[tuple[int, list[str]]] = []
    try:
        for row in reader:
            if not any(cell.strip() for cell in row):
                continue
            if len(row) > MOST_CELLS or any(len(cell) > LONGEST_CELL for cell in row):
                raise _refused(
                    reader.line_num, f"has more than {MOST_CELLS} columns, or a cell longer than {LONGEST_CELL}"
                )
            found.append((reader.line_num, row))
            if len(found) > most + 1:
                raise Refused([Refusal("", f"there are more than {most} rows; bring in at most {most} at once")])
    except csv.Error:
        raise _refused(
            reader.line_num, "a quote begins there and never ends, or stands in the middle of a cell"
        ) from None
    if len(found) < 2:
        raise _refused(1, "there is no row below the header; expected a header and rows")
    return found


def _refused(line: int, text: str) -> Refused:
    return Refused([Refusal(f"line {line}", text)])


def _text(content: bytes) -> str:
    for encoding in ("utf-16",) if content[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig", "cp1252"):
        try:
            text = content.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\x00" not in text:
            return text
    raise Refused([Refusal("", "the file is no text; save it as CSV in UTF-8")])
