"""A part of a job as a job file: the fold turned into the open format, and read."""

import datetime
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from wary.fields import Inputs
from wary.job.file import FORMAT, VERSION, Refused, read
from wary.job.fold import RECORD, Fold, live_rows, text_at
from wary.job.places import MAIN, PLATE_KINDS, REFERENCE_KINDS, REFERENCES, inputs_of, joined, scalars_of
from wary.job.subject import Subject
from wary.methods import all_methods
from wary.methods.method import Setting
from wary.methods.tree import VALUE, Input
from wary.typed import as_in_a_file


@dataclass
class Built:
    """The file of a part, read: what could not be read was left out and stands in `problems` by its entry's path.

    `paths` leads from a place in the file back to the entry's path; `rows` holds, for every list,
    the row behind each place in it.
    """

    file: dict[str, Any]
    given: Inputs
    setting: Setting
    problems: dict[str, str] = field(default_factory=dict)
    paths: dict[str, str] = field(default_factory=dict)
    rows: dict[str, list[str]] = field(default_factory=dict)


PASSES = 6
"""How often what cannot be read is left out and the rest read again."""


class Building:
    """The job file of one part in the making.

    `handed` are inputs that earlier parts of the visit hand on, `shared` plates that stand in
    other parts; both as a file writes them. None among `handed` takes an input back.
    """

    def __init__(
        self,
        subject: Subject,
        fold: Fold,
        part: str,
        method: str,
        day: datetime.date,
        handed: Mapping[str, Any],
        shared: Mapping[str, Any],
    ) -> None:
        self.subject, self.fold, self.part, self.method, self.day = subject, fold, part, method, day
        self.handed, self.shared = handed, shared
        self.paths: dict[str, str] = {}
        self.rows: dict[str, list[str]] = {}

    def built(self) -> Built:
        """The file, read. A field that cannot be read is left out and said in `problems`."""
        file = self._file()
        problems: dict[str, str] = {}
        for _ in range(PASSES):
            try:
                found = read(file)
                break
            except Refused as refused:
                for refusal in refused.refusals:
                    problems[self.paths.get(refusal.path, refusal.path)] = refusal.text
                    _drop(file, refusal.path)
                _without_holes(file["inputs"])
        else:
            # What stays unreadable however much of it is left out is read with nothing in it; its problems are said.
            file["inputs"] = {}
            found = read(file)
        assert found.given is not None and found.setting is not None
        return Built(file, found.given, found.setting, problems, self.paths, self.rows)

    def _file(self) -> dict[str, Any]:
        file: dict[str, Any] = {"format": FORMAT, "version": VERSION, "method": self.method}
        occasion = text_at(self.fold, "occasion")
        if occasion:
            file["occasion"] = occasion
            self.paths["occasion"] = "occasion"
        file["profile"] = self._profile()
        inputs = self._inputs()
        plates = {key: found for key in PLATE_KINDS if (found := self._at(f"plates.{key}", f"inputs.plates.{key}", PLATE_KINDS[key])) is not None}  # fmt: skip
        if plates and "plates" in inputs_of(self.method):
            inputs["plates"] = plates
        file["inputs"] = inputs
        file["date"] = text_at(self.fold, "date") or self.day.isoformat()
        self.paths["date"] = "date"
        references = [self._reference(row, number) for number, row in enumerate(live_rows(self.fold, REFERENCES))]
        if references:
            file["references"] = references
        if self.subject.about:
            file["system"] = dict(self.subject.about)
        return file

    def _at(self, path: str, inside: str, kind: str) -> Any:
        """What is in force at a path, as a file writes it; None where nothing is."""
        entry = self.fold["fields"].get(path)
        if entry is None or entry["text"] == "":
            return None
        self.paths[inside] = path
        return as_in_a_file(entry["text"], kind, entry["unit"])

    def _profile(self) -> dict[str, Any]:
        profile = self.subject.limits_for(all_methods()[self.method])
        for key, kind in (
            ("accept", "limit"),
            ("repeat", "percentage"),
            ("minimum_runs", "integer"),
            ("plausible", "percentage"),
        ):
            typed = self._at(f"profile.{key}", f"profile.{key}", kind)
            if typed is not None:
                profile[key] = typed
        return profile

    def _inputs(self) -> dict[str, Any]:
        found: dict[str, Any] = {}
        for key, one in inputs_of(self.method).items():
            if key == "plates":
                continue
            read_here: Any
            if one.kind == "list":
                read_here = self._list(one, joined(self.part, key), f"inputs.{key}")
            elif one.kind == "block":
                read_here = self._block(one.fields, f"inputs.{key}", f"inputs.{key}")
            else:
                read_here = self._scalar(one)
            if read_here is not None:
                found[key] = read_here
        return found

    def _scalar(self, one: Input) -> Any:
        """A single input: typed in the part itself, handed on by a part before, typed for the whole visit, or in another part.

        What a person typed for the whole visit stands over what is handed on, but for the factor,
        which is the one in force.
        """
        name, inside = f"inputs.{one.key}", f"inputs.{one.key}"
        own = self._at(joined(self.part, name), inside, one.kind) if self.part else None
        if own is not None:
            return own
        entry = self.fold["fields"].get(name)
        typed = entry is not None and entry["text"] != "" and entry["source"] != RECORD
        if one.key in self.handed:
            handed = self.handed[one.key]
            if handed is None:
                # Taken back: what was typed before that counts no longer, what is typed after it does.
                return None
            if one.key == "factor" or not typed:
                return handed
        found = self._at(name, inside, one.kind)
        return self.shared.get(one.key) if found is None and one.plate else found

    def _block(self, fields: tuple[Input, ...], above: str, inside: str) -> dict[str, Any] | None:
        """A block: typed in the part itself, or for the whole visit."""
        found = self._fields(fields, joined(self.part, above), inside)
        if self.part:
            found = (self._fields(fields, above, inside) or {}) | (found or {})
        return found or None

    def _fields(self, fields: tuple[Input, ...], above: str, inside: str) -> dict[str, Any] | None:
        found: dict[str, Any] = {}
        for one in fields:
            read_here: Any
            if one.kind == "list":
                read_here = self._list(one, f"{above}.{one.key}", f"{inside}.{one.key}")
            elif one.kind == "block":
                read_here = self._fields(one.fields, f"{above}.{one.key}", f"{inside}.{one.key}")
            else:
                read_here = self._at(f"{above}.{one.key}", f"{inside}.{one.key}", one.kind)
            if read_here is not None:
                found[one.key] = read_here
        return found or None

    def _list(self, one: Input, full: str, inside: str) -> list[Any] | None:
        rows = live_rows(self.fold, full)
        if not rows:
            return None
        self.rows[full] = rows
        if one.fields:
            return [self._fields(one.fields, f"{full}.{row}", f"{inside}[{n}]") or {} for n, row in enumerate(rows)]
        assert one.of is not None
        return [self._at(f"{full}.{row}.{VALUE}", f"{inside}[{n}]", one.of) for n, row in enumerate(rows)]

    def _reference(self, row: str, number: int) -> dict[str, Any]:
        found = {}
        for key, kind in REFERENCE_KINDS.items():
            if key != "id":
                typed = self._at(f"{REFERENCES}.{row}.{key}", f"{REFERENCES}[{number}].{key}", kind)
                if typed is not None:
                    found[key] = typed
        return found


def _drop(file: Any, path: str) -> None:
    """Takes a refused value out of the file."""
    parts: list[str | int] = []
    for part in path.split("."):
        name, *rest = part.replace("]", "").split("[")
        parts += [name, *(int(number) for number in rest)]
    *way, last = parts
    for step in way:
        file = file[step]
    if isinstance(file, dict):
        file.pop(last, None)
    elif isinstance(file, list) and isinstance(last, int):
        file[last] = None


def _without_holes(block: dict[str, Any]) -> None:
    """A plain list loses what could not be read; an empty one goes. The places of a list of blocks stay."""
    for key, found in list(block.items()):
        if isinstance(found, list):
            kept = [one for one in found if one is not None]
            for one in kept:
                if isinstance(one, dict):
                    _without_holes(one)
            if kept:
                block[key] = kept
            else:
                del block[key]
        elif isinstance(found, dict):
            _without_holes(found)


def scalar_typed(fold: Fold, part: str, method: str) -> dict[str, Any]:
    """The plates that are typed in a part itself, as a file writes them."""
    found = {}
    for key, one in scalars_of(method).items():
        entry = fold["fields"].get(joined(part, f"inputs.{key}"))
        if one.plate and entry and entry["text"]:
            found[key] = as_in_a_file(entry["text"], one.kind, entry["unit"])
    return found if part != MAIN else {}
