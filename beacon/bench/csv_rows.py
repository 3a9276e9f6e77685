"""Rows of a list from a CSV file: all of them, or none with each refused row named by its line."""

import csv
import io
import re
import uuid
from typing import Any

from beacon.bench.keeping import Given
from beacon.bench.models import Entry, Job
from beacon.bench.paths import VALUE, joined, lists, split
from wary.document import Refusal, Refused, read
from wary.method import describe_fields
from wary.methods import all_methods
from wary.quantities import FAMILIES, FAMILY_OF
from wary.typed import as_in_a_file

MOST_ROWS = 1000
ALSO = {
    "net": "reference", "weighed": "reference", "shown": "indicated", "display": "indicated", "reading": "indicated",
    "start": "total_start", "end": "total_end", "time": "duration", "reason": "set_aside", "direction": "going",
    "counts": "raw", "corner": "label", "pad": "label", "cell": "label",
}  # fmt: skip
"""Header names that people use, and the key that each means."""


def entries_from(job: Job, full: str, content: bytes) -> list[Given]:
    """The entries that a CSV file comes to. Raises Refused with every row that cannot be taken, by its line."""
    part, name = split(full)
    method = dict(job.parts).get(part)
    if method is None or name not in lists(method):
        raise Refused([Refusal("list", f"“{full}” is no list of this job")])
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refused([Refusal("", "the file is not UTF-8 text; save it as CSV in UTF-8")]) from None
    try:
        dialect: Any = csv.Sniffer().sniff(text[:4000], delimiters=",;\t")
    except csv.Error:
        dialect = csv.excel
    rows = [row for row in csv.reader(io.StringIO(text), dialect) if any(cell.strip() for cell in row)]
    if len(rows) < 2:
        raise Refused([Refusal("line 1", "there is no row below the header; expected a header and rows")])
    if len(rows) > MOST_ROWS + 1:
        raise Refused([Refusal("", f"{len(rows) - 1} rows at once; bring in at most {MOST_ROWS}")])
    columns = _columns(rows[0], lists(method)[name], _units(method, name))
    return _checked(job, method, part, name, columns, rows[1:])


def _units(method: str, name: str) -> dict[str, list[str]]:
    for row in describe_fields(all_methods()[method].inputs):
        if row["key"] == name:
            return {inner["key"]: inner["units"] for inner in row["fields"]} or {VALUE: row["units"]}
    return {}


def _columns(header: list[str], keys: dict[str, str], units: dict[str, list[str]]) -> list[tuple[str, str] | None]:
    """The key and unit of each column; `gross (t)` and `gross, t` name their unit."""
    found: list[tuple[str, str] | None] = []
    unknown = []
    for title in header:
        match = re.match(r"^\s*([^(,\[]*?)\s*(?:[(,\[]\s*([^)\]]*?)\s*[)\]]?)?\s*$", title)
        words, unit = (match[1], match[2] or "") if match else (title, "")
        key = words.strip().lower().replace(" ", "_")
        key = key if key in keys else ALSO.get(key, key)
        if VALUE in keys and key not in keys:
            key = VALUE
        if not title.strip() or key in ("run", "no", "number", "#"):
            found.append(None)
        elif key not in keys:
            unknown.append(title.strip())
        else:
            default = units.get(key, [""])[0] if units.get(key) else ""
            found.append((key, unit if unit in FAMILY_OF else default))
    if unknown:
        raise Refused(
            [Refusal("line 1", f"“{title}” is no column here; expected {', '.join(keys)}") for title in unknown]
        )
    return found


def _checked(
    job: Job, method: str, part: str, name: str, columns: list[tuple[str, str] | None], rows: list[list[str]]
) -> list[Given]:
    kinds = lists(method)[name]
    entries, refusals = [], []
    for number, row in enumerate(rows, 2):
        said = {}
        for column, cell in zip(columns, row, strict=False):
            if column and cell.strip():
                said[column[0]] = (cell.strip(), column[1] if kinds[column[0]] in FAMILIES else "")
        if not said:
            continue
        values = {key: as_in_a_file(text, kinds[key], unit) for key, (text, unit) in said.items()}
        try:
            read({"method": method, "inputs": {name: [values.get(VALUE, values)]}})
        except Refused as refused:
            refusals += [Refusal(f"line {number}", f"{r.path.rpartition('.')[2]}: {r.text}") for r in refused.refusals]
            continue
        key_of_row = uuid.uuid4().hex[:10]
        entries += [
            Given(uuid.uuid4(), joined(part, f"{name}.{key_of_row}.{key}"), text, unit, Entry.Source.IMPORTED)
            for key, (text, unit) in said.items()
        ]
    if refusals:
        raise Refused(refusals)
    return entries
