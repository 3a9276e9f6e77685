"""A part of a job from the fold: its inputs read, and its file in the open format where somebody wants it.

What was typed in a row is read once: rows that hold the same again are the same objects again.
"""

import datetime
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

from pydantic import ValidationError

from wary.fields import Inputs
from wary.job.file import FORMAT, VERSION, JobFile, Refused, read, setting_of
from wary.job.places import HISTORY, MAIN, PLATE_KINDS, REFERENCE_KINDS, REFERENCES, inputs_of, joined, scalars_of
from wary.job.subject import Subject
from wary.log import Fold
from wary.methods import all_methods
from wary.methods.method import Setting
from wary.methods.tree import VALUE, Input, row_models
from wary.rules.profiles import LIMIT_KINDS
from wary.typed import as_in_a_file


@dataclass
class Built:
    """A part, read: what could not be read was left out and stands in `problems` by its entry's path.

    `inputs` are those of its file, `rows` holds, for every list, the row behind each place in it.
    """

    given: Inputs
    setting: Setting
    inputs: dict[str, Any]
    problems: dict[str, str]
    rows: dict[str, list[str]]
    building: "Building"

    @property
    def read_rows(self) -> "ReadRows":
        """What was read of each row of a list of blocks."""
        return self.building.read_rows

    @cached_property
    def file(self) -> dict[str, Any]:
        """The part as a job file."""
        return self.building.file(self.inputs)

    def path_of(self, inside: str) -> str:
        """The path of the entry behind a place in the file."""
        return self.building.path_of(inside)


ReadRows = dict[tuple[str, str], tuple[dict[str, Any], Inputs | None]]
"""Rows as a file writes them and as the method reads them (None where it refuses them), by their list and name."""

PASSES = 6
"""How often what cannot be read is left out and the rest read again."""


class Building:
    """One part in the making.

    `handed` are inputs that earlier parts of the visit hand on, `shared` plates that stand in
    other parts; both as a file writes them. None among `handed` takes an input back. `before` holds
    rows as they were read before; those that are not named in `touched` are taken from there.
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
        before: ReadRows | None = None,
        touched: frozenset[tuple[str, str]] | None = None,
    ) -> None:
        self.before = before if before is not None and touched is not None else {}
        self.touched = touched or frozenset()
        self.read_rows: ReadRows = {}
        self.subject, self.fold, self.part, self.method, self.day = subject, fold, part, method, day
        self.handed, self.shared = handed, shared
        self.rows: dict[str, list[str]] = {}
        self._read_here: dict[str, list[Inputs] | None] = {}

    def built(self) -> Built:
        """The part, read. A field that cannot be read is left out and said in `problems`."""
        inputs = self._inputs()
        given, setting = self._read(inputs), self._setting()
        if given is None or setting is None:
            return self._with_problems(inputs)
        return Built(given, setting, inputs, {}, self.rows, self)

    def _read(self, inputs: dict[str, Any]) -> Inputs | None:
        """The inputs as the method reads them; None where anything in them is refused."""
        method = all_methods()[self.method]
        known = {key: rows for key, rows in self._read_here.items() if key in inputs}
        if None in known.values() or method.across(inputs):
            return None
        try:
            return method.inputs.model_validate({**inputs, **known})
        except ValidationError:
            return None

    def _setting(self) -> Setting | None:
        """What surrounds the inputs; None where anything of it is refused."""
        head = self._head()
        if "references" not in head and not isinstance(head["profile"].get("accept"), dict):
            history = tuple(head.get("history_scatter", {}).items())
            return _setting_of(
                self.method, head.get("occasion", ""), head["date"], tuple(head["profile"].items()), history
            )
        try:
            return setting_of(JobFile.model_validate(head), all_methods()[self.method])
        except ValidationError:
            return None

    def _with_problems(self, inputs: dict[str, Any]) -> Built:
        """The part without what cannot be read: it is left out, and the rest read again as a file is."""
        file, problems = self.file(inputs), {}
        for _ in range(PASSES):
            try:
                found = read(file)
                break
            except Refused as refused:
                for refusal in refused.refusals:
                    problems[self.path_of(refusal.path)] = refusal.text
                    _drop(file, refusal.path)
                _without_holes(file["inputs"])
        else:
            # What stays unreadable however much of it is left out is read with nothing in it; its problems are said.
            file["inputs"] = {}
            found = read(file)
        assert found.given is not None and found.setting is not None
        built = Built(found.given, found.setting, file["inputs"], problems, self.rows, self)
        built.file = file
        return built

    # --- the file -----------------------------------------------------------------------------

    def file(self, inputs: dict[str, Any]) -> dict[str, Any]:
        """The part as a job file, with these inputs."""
        head = self._head()
        references = {"references": head.pop("references")} if "references" in head else {}
        day = head.pop("date")
        file = {"format": FORMAT, "version": VERSION, "method": self.method, **head, "inputs": inputs, "date": day}
        file |= references
        if self.subject.about:
            file["system"] = dict(self.subject.about)
        return file

    def _head(self) -> dict[str, Any]:
        """Occasion, profile, day and references, as a file writes them."""
        occasion = self.fold.text("occasion")
        head: dict[str, Any] = {"occasion": occasion} if occasion else {}
        head["profile"] = self._profile()
        head["date"] = self.fold.text("date") or self.day.isoformat()
        references = [self._reference(row) for row in self.fold.live_rows(REFERENCES)]
        scattered = {key: self._at(joined(self.part, f"history_scatter.{key}"), kind) for key, kind in HISTORY.items()}
        if all(found is not None for found in scattered.values()):
            head["history_scatter"] = scattered
        return head | ({"references": references} if references else {})

    def path_of(self, inside: str) -> str:
        """The path of the entry behind a place in the file: `inputs.runs[2].gross` as `runs.r3.gross`."""
        above, _, last = inside.rpartition("]")
        if not above:
            own = joined(self.part, inside)
            typed = self.fold.fields.get(own)
            plates = inside.removeprefix("inputs.") if inside.startswith("inputs.plates.") else ""
            if plates:
                return plates
            return own if typed is not None and typed.text != "" else inside
        full = ""
        for stretch in above.split("]"):
            name, _, number = stretch.partition("[")
            name = name.lstrip(".")
            if not full:
                head, _, rest = name.partition(".")
                name = name if head == "references" or "." in rest else rest
                full = name if head == "references" else joined(self.part, name)
            else:
                full = f"{full}.{name}"
            if full not in self.rows and self.part:
                # A block that was typed for the whole visit.
                full = full.removeprefix(f"{self.part}/") if full.removeprefix(f"{self.part}/") in self.rows else full
            rows = self.rows.get(full) or self.fold.live_rows(full)
            if not number.isdigit() or int(number) >= len(rows):
                return inside
            full = f"{full}.{rows[int(number)]}"
        return full + (last or f".{VALUE}")

    # --- what is in force ---------------------------------------------------------------------

    def _at(self, path: str, kind: str) -> Any:
        """What is in force at a path, as a file writes it; None where nothing is."""
        entry = self.fold.fields.get(path)
        if entry is None or entry.text == "":
            return None
        return as_in_a_file(entry.text, kind, entry.unit)

    def _profile(self) -> dict[str, Any]:
        profile = self.subject.limits_for(all_methods()[self.method])
        for key, kind in LIMIT_KINDS.items():
            typed = self._at(f"profile.{key}", kind)
            if typed is not None:
                profile[key] = typed
        return profile

    def _inputs(self) -> dict[str, Any]:
        found: dict[str, Any] = {}
        models = row_models(all_methods()[self.method].inputs)
        for key, one in inputs_of(self.method).items():
            read_here: Any
            if key == "plates":
                typed = {name: self._at(f"plates.{name}", kind) for name, kind in PLATE_KINDS.items()}
                read_here = {name: plate for name, plate in typed.items() if plate is not None} or None
            elif one.kind == "list":
                model = models.get(key)
                full = joined(self.part, key)
                read_here = self._blocks(one, key, full, model) if model else self._list(one, full)
            elif one.kind == "block":
                read_here = self._block(one.fields, f"inputs.{key}")
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
        name = f"inputs.{one.key}"
        own = self._at(joined(self.part, name), one.kind) if self.part else None
        if own is not None:
            return own
        entry = self.fold.fields.get(name)
        typed = entry is not None and entry.is_typed
        if one.key in self.handed:
            handed = self.handed[one.key]
            if handed is None:
                # Taken back: what was typed before that counts no longer, what is typed after it does.
                return None
            if one.key == "factor" or not typed:
                return handed
        found = self._at(name, one.kind)
        return self.shared.get(one.key) if found is None and one.plate else found

    def _block(self, fields: tuple[Input, ...], above: str) -> dict[str, Any] | None:
        """A block: typed in the part itself, or for the whole visit."""
        found = self._fields(fields, joined(self.part, above))
        if self.part:
            found = (self._fields(fields, above) or {}) | (found or {})
        return found or None

    def _fields(self, fields: tuple[Input, ...], above: str) -> dict[str, Any] | None:
        found: dict[str, Any] = {}
        held = self.fold.fields
        for one in fields:
            read_here: Any
            path = f"{above}.{one.key}"
            if one.kind == "list":
                read_here = self._list(one, path)
            elif one.kind == "block":
                read_here = self._fields(one.fields, path)
            else:
                entry = held.get(path)
                if entry is None or entry.text == "":
                    continue
                read_here = as_in_a_file(entry.text, one.kind, entry.unit)
            if read_here is not None:
                found[one.key] = read_here
        return found or None

    def _blocks(self, one: Input, key: str, full: str, model: type[Inputs]) -> list[Any] | None:
        """A list of blocks, with each row read."""
        rows = self.fold.live_rows(full)
        if not rows:
            return None
        self.rows[full] = rows
        written, found = [], []
        for row in rows:
            at = (full, row)
            held = self.before.get(at) if at not in self.touched else None
            if held is None:
                raw = self._fields(one.fields, f"{full}.{row}") or {}
                held = (raw, _row_of(model, tuple(raw.items())) if _is_plain(raw) else _validated(model, raw))
            self.read_rows[at] = held
            written.append(held[0])
            found.append(held[1])
        self._read_here[key] = None if any(one is None for one in found) else found  # type: ignore[assignment]
        return written

    def _list(self, one: Input, full: str) -> list[Any] | None:
        rows = self.fold.live_rows(full)
        if not rows:
            return None
        self.rows[full] = rows
        if one.fields:
            return [self._fields(one.fields, f"{full}.{row}") or {} for row in rows]
        assert one.of is not None
        return [self._at(f"{full}.{row}.{VALUE}", one.of) for row in rows]

    def _reference(self, row: str) -> dict[str, Any]:
        typed = {
            key: self._at(f"{REFERENCES}.{row}.{key}", kind) for key, kind in REFERENCE_KINDS.items() if key != "id"
        }
        return {key: found for key, found in typed.items() if found is not None}


# --- reading once -----------------------------------------------------------------------------


def _is_plain(row: dict[str, Any]) -> bool:
    return not any(isinstance(found, (list, dict)) for found in row.values())


@lru_cache(maxsize=65_536, typed=True)
def _row_of(model: Any, row: tuple[tuple[str, Any], ...]) -> Inputs | None:
    return _validated(model, dict(row))


def _validated(model: type[Inputs], row: dict[str, Any]) -> Inputs | None:
    """A row as the method reads it; None where it is refused, or contradicts itself."""
    try:
        return None if model.contradicting(row) else model.model_validate(row)
    except ValidationError:
        return None


@lru_cache(maxsize=1024)
def _setting_of(
    method: str,
    occasion: str,
    day: str,
    profile: tuple[tuple[str, Any], ...],
    history: tuple[tuple[str, Any], ...],
) -> Setting | None:
    head: dict[str, Any] = {"profile": dict(profile), "date": day} | ({"occasion": occasion} if occasion else {})
    head |= {"history_scatter": dict(history)} if history else {}
    try:
        return setting_of(JobFile.model_validate(head), all_methods()[method])
    except ValidationError:
        return None


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
    found: dict[str, Any] = {}
    if part == MAIN:
        return found
    for key, kind in _plates_of(method):
        entry = fold.fields.get(joined(part, f"inputs.{key}"))
        if entry and entry.text:
            found[key] = as_in_a_file(entry.text, kind, entry.unit)
    return found


@lru_cache(maxsize=256)
def _plates_of(method: str) -> tuple[tuple[str, str], ...]:
    """The single inputs of a method that stand on a plate, with what kind of figure each is."""
    return tuple((key, one.kind) for key, one in scalars_of(method).items() if one.plate)
