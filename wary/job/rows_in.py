"""Rows of a list from a CSV file: all of them, or none with each refused row named by its line."""

import re
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from wary.job.csv_in import lines_of
from wary.job.file import Refusal, Refused, read
from wary.job.places import VALUE, Parts, inputs_of, list_at, split
from wary.methods.tree import Input
from wary.quantities import FAMILIES, FAMILY_OF
from wary.typed import as_in_a_file

MOST_ROWS = 10_000
NOTHING: Mapping[str, str] = {}
HEADER = re.compile(r"^\s*([^(,\[]*?)\s*(?:[(,\[]\s*([^)\]]*?)\s*[)\]]?)?\s*$")
ALSO = {
    "net": "reference", "weighed": "reference", "shown": "indicated", "display": "indicated", "reading": "indicated",
    "start": "total_start", "end": "total_end", "time": "duration", "reason": "set_aside", "direction": "going",
    "counts": "raw", "corner": "label", "pad": "label", "cell": "label",
}  # fmt: skip
"""Header names that people use, and the key that each means."""


@dataclass(frozen=True)
class RowText:
    """One figure of a row: its path, the text as it stood in the file, and the unit of its column."""

    path: str
    text: str
    unit: str


def rows_in(parts: Parts, full: str, content: bytes, mapped: Mapping[str, str] = NOTHING) -> list[RowText]:
    """The entries that a CSV file comes to, for the list at a full path, which may lie in a row of another.

    `mapped` says of header names which column they are, empty for one that is left out. Raises
    Refused with every row that cannot be taken, by its line, and every header that is not known,
    as `header.` and its name.
    """
    listed = list_at(parts, full)
    if listed is None:
        raise Refused([Refusal("list", f"“{full}” is no list of this job")])
    columns = {one.key: one for one in listed.inside() if one.kind not in ("list", "block")}
    lines = lines_of(content, MOST_ROWS)
    header = _columns(lines[0][1], columns, mapped)
    return _checked(parts, full, columns, header, lines[1:])


def header_name(title: str) -> str:
    """A header without its unit, as it is remembered: `Brutto (kg)` is `brutto`."""
    match = HEADER.match(title)
    return (match[1] if match else title).strip().lower()


def _columns(header: list[str], known: dict[str, Input], mapped: Mapping[str, str]) -> list[tuple[str, str] | None]:
    """The key and unit of each column; `gross (t)` and `gross, t` name their unit."""
    found: list[tuple[str, str] | None] = []
    unknown = []
    for title in header:
        match = HEADER.match(title)
        unit = (match[2] or "") if match else ""
        name = header_name(title)
        key = name.replace(" ", "_")
        key = mapped[name] if name in mapped else key if key in known else ALSO.get(key, key)
        if VALUE in known and key not in known and name not in mapped:
            key = VALUE
        if not title.strip() or key in ("", "run", "no", "number", "#"):
            found.append(None)
        elif key not in known:
            unknown.append(title.strip())
        else:
            units = known[key].units
            found.append((key, unit if unit in FAMILY_OF else units[0] if units else ""))
    if unknown:
        raise Refused(
            [
                Refusal(f"header.{header_name(title)}", f"“{title}” is no column here; expected {', '.join(known)}")
                for title in unknown
            ]
        )
    return found


def _checked(
    parts: Parts,
    full: str,
    known: dict[str, Input],
    columns: list[tuple[str, str] | None],
    lines: list[tuple[int, list[str]]],
) -> list[RowText]:
    entries, refusals = [], []
    for number, row in lines:
        said = {}
        for column, cell in zip(columns, row, strict=False):
            if column and cell.strip():
                kind = known[column[0]].kind
                said[column[0]] = (cell.strip(), column[1] if kind in FAMILIES else "")
        if not said:
            continue
        values = {key: as_in_a_file(text, known[key].kind, unit) for key, (text, unit) in said.items()}
        try:
            read(_alone(parts, full, values.get(VALUE, values)))
        except Refused as refused:
            refusals += [Refusal(f"line {number}", f"{r.path.rpartition('.')[2]}: {r.text}") for r in refused.refusals]
            continue
        name = uuid.uuid4().hex[:10]
        entries += [RowText(f"{full}.{name}.{key}", text, unit) for key, (text, unit) in said.items()]
    if refusals:
        raise Refused(refusals)
    return entries


def _alone(parts: Parts, full: str, row: Any) -> dict[str, Any]:
    """A job file that holds nothing but this row, in its list and the lists and blocks around it."""
    part, rest = split(full)
    method = dict(parts)[part]
    known, words = inputs_of(method), rest.removeprefix("inputs.").split(".")
    way: list[Input] = []
    while words:
        way.append(known[words.pop(0)])
        if way[-1].kind == "list" and words:
            words.pop(0)
        known = {one.key: one for one in way[-1].inside()}
    found = row
    for one in reversed(way):
        found = {one.key: [found] if one.kind == "list" else found}
    return {"method": method, "inputs": found}
