"""Where an entry of a job may stand, and what kind of thing is typed there.

A visit has parts, one for each method done in it. A path that begins with `part/` belongs to that
part; what has no part belongs to the main one, and what is typed there under `inputs.` counts for
every part that takes an input of that name. A list's rows stand under the list's own name,
`runs.r1.gross`; a list inside a row goes on, `trials.t2.fills.f3.weight`; a block stands under
`inputs.`, `inputs.working.speed`.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

from wary.fields import Kind, Plates
from wary.methods import all_methods
from wary.methods.tree import VALUE, Input, spec

Parts = tuple[tuple[str, str], ...]
"""The parts of a job: key (empty for the main one) and method, in the order of the visit."""

MAIN = ""
REFERENCES = "references"
REFERENCE_KINDS: dict[str, Kind] = {
    "id": "string",
    "name": "string",
    "certificate": "string",
    "due": "day",
    "range": "mass",
    "used": "string",
    "allowed_by": "string",
}
PLAIN: dict[str, Kind] = {
    "occasion": "word",
    "date": "day",
    "note": "string",
    "read_back": "reading",
    "no_as_found": "string",
    "conditions": "string",
    "profile.accept": "limit",
    "profile.repeat": "percentage",
    "profile.minimum_runs": "integer",
    "profile.plausible": "percentage",
    "history_scatter.standard_deviation": "percentage",
    "history_scatter.degrees_of_freedom": "integer",
}
HISTORY = {"standard_deviation": "percentage", "degrees_of_freedom": "integer"}
"""How the runs of a machine scattered within its last visits, as its record gives it."""
IN_EACH_PART = ("note", "read_back", *(f"history_scatter.{key}" for key in HISTORY))
_ROW = re.compile(r"^[a-z0-9]{1,16}$")
_TICK = re.compile(r"^(tick\.[a-z0-9-]{1,30}\.[a-z0-9-]{1,30}|caution\.[a-z0-9-]{1,30}|loose\.[a-z0-9-]{1,40})$")
LOOKED, LOOK_NOTED, SKIPPED, CURED = "looked", "look_noted", "skipped", "cured"
"""What was looked at and has no input of its own, what was noted of it, why a look is skipped, and which suspect was put right."""
_LOOK = re.compile(rf"^({LOOKED}|{LOOK_NOTED}|{SKIPPED}|{CURED})\.[a-z0-9-]{{1,30}}$")
LONGEST = 120
"""How long a path may be."""
_DECIDED = re.compile(r"^(no_as_found|profile\..*|.*\.(allowed_by|set_aside))$")


@dataclass(frozen=True)
class Place:
    """A place for entries: its part, its kind, and the rows that it lies in, from the outermost in.

    `rows` holds pairs of a list's full path and the row in it; `key` is the last word of the path.
    """

    path: str
    kind: Kind
    part: str = MAIN
    rows: tuple[tuple[str, str], ...] = ()
    key: str = ""


def split(path: str) -> tuple[str, str]:
    """The part that a path belongs to, and the rest of it."""
    part, slash, rest = path.partition("/")
    return (part, rest) if slash else (MAIN, path)


def is_decided(path: str) -> bool:
    """Whether what stands there is somebody's word, and no reading: a look, a skip, a run set aside, a limit, a
    tick."""
    _, rest = split(path)
    return any(one.match(rest) for one in (_TICK, _LOOK, _DECIDED))


def joined(part: str, path: str) -> str:
    """The full path of a place in a part."""
    return f"{part}/{path}" if part else path


@lru_cache(maxsize=256)
def inputs_of(method: str) -> dict[str, Input]:
    """The inputs of a method by their keys."""
    return {one.key: one for one in spec(all_methods()[method].inputs)}


@lru_cache(maxsize=256)
def lists_of(method: str) -> dict[str, Input]:
    """The lists that a method takes, without those inside others."""
    return {key: one for key, one in inputs_of(method).items() if one.kind == "list"}


@lru_cache(maxsize=256)
def scalars_of(method: str) -> dict[str, Input]:
    """The single inputs of a method, without blocks and lists."""
    return {key: one for key, one in inputs_of(method).items() if one.kind not in ("list", "block")}


PLATE_KINDS: dict[str, Kind] = {one.key: one.kind for one in spec(Plates)}


@lru_cache(maxsize=16384)
def place(parts: Parts, path: str) -> Place | None:
    """The place that `path` names in a job of these parts; None where there is none."""
    if len(path) > LONGEST:
        return None
    part, rest = split(path)
    method = dict(parts).get(part)
    if method is None:
        return None
    segments = rest.split(".")
    head = segments[0]
    if head in lists_of(method):
        return _follow(path, part, "", lists_of(method), segments)
    if head == "inputs" and len(segments) > 1:
        for one in [method] if part else [key for _, key in parts]:
            known = {key: found for key, found in inputs_of(one).items() if found.kind != "list" and key != "plates"}
            found = _follow(path, part, "inputs", known, segments[1:])
            if found:
                return found
        return None
    if head == REFERENCES and not part:
        return _of_reference(path, segments)
    if _TICK.match(rest):
        return Place(path, "string", part, key=rest)
    if not part and _LOOK.match(rest):
        return Place(path, "string", key=rest)
    if rest in PLAIN:
        return Place(path, PLAIN[rest], part, key=rest) if not part or rest in IN_EACH_PART else None
    if head == "plates" and not part and len(segments) == 2 and segments[1] in PLATE_KINDS:
        return Place(path, PLATE_KINDS[segments[1]], key=segments[1])
    return None


def _of_reference(path: str, segments: list[str]) -> Place | None:
    if len(segments) != 3 or not _ROW.match(segments[1]) or segments[2] not in REFERENCE_KINDS:
        return None
    return Place(path, REFERENCE_KINDS[segments[2]], MAIN, ((REFERENCES, segments[1]),), segments[2])


def _follow(path: str, part: str, above: str, known: dict[str, Input], segments: list[str]) -> Place | None:
    """Follows a path down the tree of inputs, noting every row on the way."""
    rows: list[tuple[str, str]] = []
    way = [above] if above else []
    left = list(segments)
    while left:
        found = known.get(left.pop(0))
        if found is None:
            return None
        way.append(found.key)
        if found.kind == "list":
            if len(left) < 2 or not _ROW.match(left[0]):
                return None
            row = left.pop(0)
            rows.append((joined(part, ".".join(way)), row))
            way.append(row)
            known = {one.key: one for one in found.inside()}
        elif found.kind == "block":
            known = {one.key: one for one in found.fields}
        else:
            return None if left else Place(path, found.kind, part, tuple(rows), found.key)
    return None


def list_at(parts: Parts, full: str) -> Input | None:
    """The list whose full path this is, such as `runs`, `zero/idle` or `trials.t2.fills`; None where there is none."""
    part, rest = split(full)
    method = dict(parts).get(part)
    if method is None:
        return None
    segments = rest.split(".")
    known: Iterable[Input] = lists_of(method).values()
    if segments[0] == "inputs":
        segments, known = segments[1:], [one for one in inputs_of(method).values() if one.kind == "block"]
    found: Input | None = None
    while segments:
        found = next((one for one in known if one.key == segments[0]), None)
        if found is None:
            return None
        segments = segments[1:]
        if found.kind == "list" and segments:
            if not _ROW.match(segments[0]):
                return None
            segments = segments[1:]
            if not segments:
                return None
        known = found.inside() if found.kind == "list" else found.fields
    return found if found and found.kind == "list" else None


def is_plain(listed: Input) -> bool:
    """Whether a list holds single figures and not blocks."""
    return not listed.fields


__all__ = ["MAIN", "PLATE_KINDS", "REFERENCES", "VALUE", "Parts", "Place", "inputs_of", "is_plain", "joined", "list_at",
           "lists_of", "place", "scalars_of", "split"]  # fmt: skip
