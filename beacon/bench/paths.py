"""Where an entry of a job may stand, and what kind of thing is typed there.

A visit has parts, one for each method done in it. A path that begins with `part/` belongs to that
part; what has no part belongs to the main one, and what is typed there under `inputs.` counts for
every part that takes an input of that name.
"""

import re
from dataclasses import dataclass
from functools import lru_cache

from wary.fields import Plates
from wary.method import describe_fields
from wary.methods import all_methods

Parts = tuple[tuple[str, str], ...]
"""The parts of a job: key (empty for the main one) and method, in the order of the visit."""

_ROW = re.compile(r"^([a-z_]{1,30})\.([a-z0-9]{1,16})\.([a-z_]{1,30})$")
_PLAIN = {
    "occasion": "word",
    "note": "string",
    "read_back": "number",
    "no_as_found": "string",
    "conditions": "string",
    "profile.accept": "limit",
    "profile.repeat": "percentage",
    "profile.minimum_runs": "integer",
    "profile.plausible": "percentage",
}
REFERENCES = "references"
REFERENCE_KINDS = {
    "id": "string",
    "name": "string",
    "certificate": "string",
    "due": "string",
    "range": "mass",
    "allowed_by": "string",
}
_TICK = re.compile(r"^(tick\.[a-z0-9-]{1,30}\.[a-z0-9-]{1,30}|caution\.[a-z0-9-]{1,30}|loose\.[a-z0-9-]{1,40})$")
VALUE = "value"
"""The key under which a row of a plain list, such as a list of times, holds its one figure."""


@dataclass(frozen=True)
class Place:
    """A place for entries: its part, its kind, and its row and key where it lies in a list."""

    path: str
    kind: str
    part: str = ""
    list: str | None = None
    row: str | None = None
    key: str = ""


@lru_cache(maxsize=64)
def scalars(method: str) -> dict[str, str]:
    """The kind of each single input of a method."""
    rows = describe_fields(all_methods()[method].inputs)
    return {row["key"]: row["kind"] for row in rows if row["kind"] not in ("list", "block")}


@lru_cache(maxsize=64)
def lists(method: str) -> dict[str, dict[str, str]]:
    """The lists that a method takes: for each, the kind of every key of a row."""
    found: dict[str, dict[str, str]] = {}
    for row in describe_fields(all_methods()[method].inputs):
        if row["kind"] == "list":
            found[row["key"]] = {inner["key"]: inner["kind"] for inner in row["fields"]} or {VALUE: row["of"]}
    return found


PLATE_KINDS = {row["key"]: row["kind"] for row in describe_fields(Plates)}


def split(path: str) -> tuple[str, str]:
    """The part that a path belongs to, and the rest of it."""
    part, slash, rest = path.partition("/")
    return (part, rest) if slash else ("", path)


def joined(part: str, path: str) -> str:
    return f"{part}/{path}" if part else path


@lru_cache(maxsize=8192)
def place(parts: Parts, path: str) -> Place | None:
    """The place that `path` names in a job of these parts; None where there is none."""
    part, rest = split(path)
    method = dict(parts).get(part)
    if method is None:
        return None
    row = _ROW.match(rest)
    if row and row[1] in lists(method):
        kind = lists(method)[row[1]].get(row[3])
        return Place(path, kind, part, row[1], row[2], row[3]) if kind else None
    if row and row[1] == REFERENCES and not part and row[3] in REFERENCE_KINDS:
        return Place(path, REFERENCE_KINDS[row[3]], "", REFERENCES, row[2], row[3])
    if _TICK.match(rest):
        return Place(path, "string", part, key=rest)
    if rest in _PLAIN:
        return Place(path, _PLAIN[rest], part, key=rest) if not part or rest in ("note", "read_back") else None
    block, _, key = rest.partition(".")
    if block == "inputs":
        takes = [method] if part else [one for _, one in parts]
        kinds = [scalars(one)[key] for one in takes if key in scalars(one)]
        return Place(path, kinds[0], part, key=key) if kinds else None
    if block == "plates" and key in PLATE_KINDS and not part:
        return Place(path, PLATE_KINDS[key], key=key)
    return None
