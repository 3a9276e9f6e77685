"""A job file brought in: the entries that it comes to, with nothing dropped.

What the file holds of its inputs, profile, day, occasion and references becomes an entry each, in
every part of a visit; what was ticked, noted and read back comes out of its trail.
"""

import uuid
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from wary.job.file import Refusal, Refused, read
from wary.job.fold import rebuilt
from wary.job.places import (
    MAIN,
    PLATE_KINDS,
    REFERENCE_KINDS,
    REFERENCES,
    VALUE,
    Parts,
    inputs_of,
    joined,
    place,
    split,
)
from wary.job.subject import Subject
from wary.log import Entry
from wary.machines.machine import Machine, Part
from wary.methods import all_methods
from wary.methods.tree import Input
from wary.rules.profiles import ProfileGiven


@dataclass
class TakenIn:
    """The visit that a file comes to, and its entries: texts by path, with the place in the file that each stands for."""

    visit: tuple[Part, ...]
    texts: dict[str, str] = field(default_factory=dict)
    places: dict[str, str] = field(default_factory=dict)

    @property
    def parts(self) -> Parts:
        return tuple((part.key, part.method) for part in self.visit)


def taken_in(document: dict[str, Any], subject: Subject) -> TakenIn:
    """The visit and entries of a job file for this machine. Raises Refused with every field that cannot be taken in."""
    read(document)
    visit, files = _visit(document, subject.machine)
    taken = TakenIn(visit)
    refusals = [
        Refusal(_at(where, "method"), f"expected a method for a {subject.machine.title}: {', '.join(subject.machine.methods())}")
        for where, file in files.values()
        if file.get("method") not in subject.machine.methods()
    ]  # fmt: skip
    if refusals:
        raise Refused(refusals)
    _Taking(taken, document, subject, files).take()
    unknown = [path for path in taken.texts if place(taken.parts, path) is None]
    refusals = [Refusal(taken.places[path], "has no place in a job here") for path in unknown]
    if refusals:
        raise Refused(refusals)
    return taken


def _at(where: str, path: str) -> str:
    return f"{where}.{path}" if where else path


Files = dict[str, tuple[str, dict[str, Any]]]
"""Of each part its place in the document, and its file."""


def _visit(document: dict[str, Any], machine: Machine) -> tuple[tuple[Part, ...], Files]:
    """The parts in the order of the visit: the machine's usual one where the file fits it, else as the file lists them."""
    files: Files = {MAIN: ("", document)}
    listed: list[Part] = []
    for number, one in enumerate(document.get("visit") or []):
        key = one.get("part", MAIN)
        if key != MAIN:
            files[key] = (f"visit[{number}]", one)
        listed.append(Part(key, one.get("method", document.get("method")), one.get("title", ""), one.get("before", "")))
    if not listed:
        return (Part(MAIN, document.get("method", "")),), files
    if MAIN not in [part.key for part in listed]:
        listed.append(Part(MAIN, document.get("method", "")))
    usual = {part.key: part for part in machine.visit}
    if all(part.key in usual and usual[part.key].method == part.method for part in listed):
        return machine.visit, files
    return tuple(listed), files


class _Taking:
    """The entries of a file in the making."""

    def __init__(self, taken: TakenIn, document: dict[str, Any], subject: Subject, files: Files) -> None:
        self.taken, self.document, self.subject, self.files = taken, document, subject, files

    def add(self, path: str, found: Any, inside: str) -> None:
        text = ("yes" if found else "no") if isinstance(found, bool) else found
        self.taken.texts[path] = _limit_text(text) if isinstance(text, dict) else str(text)
        self.taken.places[path] = inside

    def take(self) -> None:
        document = self.document
        self.add("occasion", document.get("occasion", "routine"), "occasion")
        if document.get("date"):
            self.add("date", document["date"], "date")
        self._profile()
        for of, (where, file) in self.files.items():
            for key, found in (file.get("history_scatter") or {}).items():
                self.add(joined(of, f"history_scatter.{key}"), found, _at(where, f"history_scatter.{key}"))
        for number, reference in enumerate(document.get("references") or []):
            for key in REFERENCE_KINDS:
                if reference.get(key):
                    self.add(f"{REFERENCES}.i{number + 1:03d}.{key}", reference[key], f"references[{number}].{key}")
        for path, text, inside in self._of_trail():
            self.add(path, text, inside)
        self._factors()
        for part in self.taken.visit:
            if part.key in self.files:
                where, file = self.files[part.key]
                for path, found, inside in self._inputs(part.key, part.method, file.get("inputs") or {}):
                    self.add(path, found, _at(where, inside))

    def _profile(self) -> None:
        """Limits that are not those of the machine here stand as limits of the job."""
        given = ProfileGiven.model_validate(self.document.get("profile") or {})
        method = all_methods()[self.document["method"]]
        theirs = given.filled(method.profile)
        here = ProfileGiven.model_validate(self.subject.limits_for(method)).filled(method.profile)
        for key, one, other in (
            ("accept", theirs.accept, here.accept),
            ("repeat", theirs.repeat, here.repeat),
            ("minimum_runs", theirs.minimum_runs, here.minimum_runs),
            ("plausible", theirs.plausible, here.plausible),
        ):
            if one is not None and one != other and str(one) != str(other):
                written = one.as_json() if hasattr(one, "as_json") else one
                text = f"{written * 100:g} %" if key in ("repeat", "plausible") else written
                self.add(f"profile.{key}", text, f"profile.{key}")

    def _factors(self) -> None:
        """The factor as read off at the beginning; one that changed between two parts was read back after the first."""
        in_force: Any = None
        last = ""
        for part in self.taken.visit:
            if part.key not in self.files or "factor" not in inputs_of(part.method):
                continue
            where, file = self.files[part.key]
            factor = (file.get("inputs") or {}).get("factor")
            if factor is None:
                continue
            if in_force is None:
                self.add("inputs.factor", factor, _at(where, "inputs.factor"))
            elif factor != in_force and joined(last, "read_back") not in self.taken.texts:
                self.add(joined(last, "read_back"), factor, _at(where, "inputs.factor"))
            in_force, last = factor, part.key

    def _inputs(self, part: str, method: str, inputs: Mapping[str, Any]) -> Iterator[tuple[str, Any, str]]:
        for key, found in inputs.items():
            one = inputs_of(method)[key]
            if found is None or key == "factor":
                continue
            if key == "plates":
                yield from ((f"plates.{name}", value, f"inputs.plates.{name}") for name, value in found.items() if name in PLATE_KINDS)  # fmt: skip
            elif one.kind == "list":
                yield from _rows(one, joined(part, key), f"inputs.{key}", found)
            else:
                yield from _inside((one,), joined(part, "inputs"), "inputs", {key: found})

    def _of_trail(self) -> Iterator[tuple[str, str, str]]:
        """What was ticked, noted and read back, as it was in force at the end of the trail."""
        trail = self.document.get("trail") or []
        entries = [_entry(number, row) for number, row in enumerate(trail, 1) if isinstance(row, dict)]
        fold = rebuilt((entry for entry in entries if entry), self.taken.parts)
        for path, one in fold.fields.items():
            head = split(path)[1].partition(".")[0]
            if one.text and head in ("tick", "caution", "loose", "note", "conditions", "no_as_found", "read_back"):
                yield path, one.text, "trail"


def _entry(number: int, row: dict[str, Any]) -> Entry | None:
    """An entry of a trail; None where the row is none."""
    texts = [row.get(key) or "" for key in ("path", "text", "unit", "source")]
    if not texts[0] or not all(isinstance(text, str) for text in texts):
        return None
    path, text, unit, source = texts
    return Entry(
        _id(row.get("id")), number, path, text, unit, source, _id(row.get("supersedes")), bool(row.get("undoes"))
    )


def _id(found: Any) -> uuid.UUID:
    try:
        return uuid.UUID(str(found))
    except ValueError:
        return uuid.uuid4()


def _rows(one: Input, full: str, inside: str, rows: list[Any]) -> Iterator[tuple[str, Any, str]]:
    for number, row in enumerate(rows):
        name = f"{full}.i{number + 1:03d}"
        if one.fields:
            yield from _inside(one.fields, name, f"{inside}[{number}]", row)
        else:
            yield f"{name}.{VALUE}", row, f"{inside}[{number}]"


def _inside(
    fields: tuple[Input, ...], full: str, inside: str, block: Mapping[str, Any]
) -> Iterator[tuple[str, Any, str]]:
    """The entries of a block, its lists and blocks as well."""
    for one in fields:
        found = block.get(one.key)
        if found is None:
            continue
        if one.kind == "list":
            yield from _rows(one, f"{full}.{one.key}", f"{inside}.{one.key}", found)
        elif one.kind == "block":
            yield from _inside(one.fields, f"{full}.{one.key}", f"{inside}.{one.key}", found)
        else:
            yield f"{full}.{one.key}", found, f"{inside}.{one.key}"


def _limit_text(found: dict[str, Any]) -> str:
    """A limit of two as it is typed: `larger of 1 % and 60 kg`."""
    (which, (one, other)), *_ = found.items()
    return f"{which} of {one} and {other}"
