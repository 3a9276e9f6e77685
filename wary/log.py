"""The log of a job: an entry, and what all entries come to.

One type for each, with one form in JSON. Whatever keeps, sends, seals, prints or shows an entry adapts this one at
its edge.
"""

import datetime
import uuid
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, fields, replace
from typing import Any

RECORD = "record"
"""The source of what came from the system's record: nobody's typing."""
LONG_AGO = datetime.datetime(2000, 1, 1, tzinfo=datetime.UTC)


@dataclass(frozen=True, slots=True)
class Entry:
    """One thing that was typed, ticked, captured, imported or taken from the record.

    `sequence` is its place in the job, from 1; `supersedes` is what whoever typed it saw at that path, `undoes` that
    it takes that back. `steady` says of what was captured whether it stood; `who` is what they are called.
    """

    entry_id: uuid.UUID
    sequence: int
    path: str
    text: str
    unit: str = ""
    source: str = "typed"
    supersedes: uuid.UUID | None = None
    undoes: bool = False
    who: str = ""
    at: datetime.datetime = LONG_AGO
    steady: bool | None = None

    @classmethod
    def of_json(cls, row: Mapping[str, Any], sequence: int) -> "Entry":
        """An entry as a device or the server writes it. Raises KeyError or ValueError where it is none."""
        supersedes = row.get("supersedes")
        return cls(
            uuid.UUID(row["id"]), sequence, row["path"], row.get("text") or "", row.get("unit") or "",
            row.get("source") or "typed", uuid.UUID(supersedes) if supersedes else None, bool(row.get("undoes")),
            row.get("who") or "", datetime.datetime.fromisoformat(row["at"]), row.get("steady"),
        )  # fmt: skip

    def as_json(self) -> dict[str, str | int | bool | None]:
        """The same as it is written."""
        return {
            "id": str(self.entry_id), "sequence": self.sequence, "path": self.path, "text": self.text,
            "unit": self.unit, "source": self.source, "steady": self.steady,
            "supersedes": str(self.supersedes) if self.supersedes else None, "undoes": self.undoes, "who": self.who,
            "at": self.at.isoformat(),
        }  # fmt: skip

    def at_place(self, sequence: int) -> "Entry":
        """The same at another place in the job."""
        return self if self.sequence == sequence else replace(self, sequence=sequence)


@dataclass(frozen=True, slots=True)
class Earlier:
    """What stood at a path just before: the entry's id, what it said, whose it was, and when (ISO 8601)."""

    id: str
    text: str
    unit: str
    who: str
    at: str


@dataclass(frozen=True, slots=True)
class Field:
    """What is in force at a path.

    `seq` is the place of its entry in the job, `earlier` how many entries came before it there, `previous` the one
    just before; `clash` says that two people typed there without seeing each other.
    """

    id: str
    text: str
    unit: str
    who: str
    at: str
    source: str
    seq: int
    earlier: int = 0
    previous: Earlier | None = None
    clash: bool = False
    steady: bool | None = None

    @classmethod
    def of(
        cls, entry: Entry, text: str, unit: str, earlier: int = 0, previous: Earlier | None = None, clash: bool = False
    ) -> "Field":
        """What an entry comes to, with the text that is in force by it."""
        return cls(
            str(entry.entry_id), text, unit, entry.who, entry.at.isoformat(), entry.source, entry.sequence, earlier,
            previous, clash, entry.steady,
        )  # fmt: skip

    @property
    def brief(self) -> Earlier:
        """The same, as it is remembered once something else stands there."""
        return Earlier(self.id, self.text, self.unit, self.who, self.at)

    @property
    def is_typed(self) -> bool:
        """Whether something stands here that did not come from the record."""
        return self.text != "" and self.source != RECORD


@dataclass(frozen=True, slots=True)
class Row:
    """A row of a list: with which entry it was begun, and how many of its places hold anything."""

    begun: int
    filled: int = 0


Rows = Mapping[str, Mapping[str, Row]]


@dataclass(frozen=True, slots=True)
class Fold:
    """What `count` entries come to: fields by path, rows by list, the paths of fields that stand in no row.

    It grows with what is in force, not with how often it was typed, so that an entry costs the same in a long job as
    in a short one.
    """

    count: int = 0
    fields: Mapping[str, Field] = field(default_factory=dict)
    rows: Rows = field(default_factory=dict)
    singles: tuple[str, ...] = ()
    captured: bool = False
    """Whether any of its entries was captured."""

    @classmethod
    def of_json(cls, kept: Mapping[str, Any]) -> "Fold":
        """A fold as it was written, by this version or an earlier one."""
        if not kept:
            return EMPTY
        rows = {
            name: {row: Row(one["begun"], one["filled"]) for row, one in held.items()}
            for name, held in kept["rows"].items()
        }
        singles = kept.get("singles")
        if singles is None:
            lists = tuple(f"{name}." for name in rows)
            singles = [path for path in kept["fields"] if not path.startswith(lists)]
        fields = {path: _field(one) for path, one in kept["fields"].items()}
        return cls(kept["count"], fields, rows, tuple(singles), kept.get("captured", False))

    def as_json(self) -> dict[str, Any]:
        """The same as it is written: nothing that says nothing."""
        rows = {
            name: {row: {"begun": one.begun, "filled": one.filled} for row, one in held.items()}
            for name, held in self.rows.items()
        }
        fields = {path: dict(_written(one)) for path, one in self.fields.items()}
        found = {"count": self.count, "fields": fields, "rows": rows, "singles": list(self.singles)}
        return found | ({"captured": True} if self.captured else {})

    def text(self, path: str) -> str:
        """What is in force at a path; empty where nothing is."""
        found = self.fields.get(path)
        return found.text if found else ""

    def under(self, head: str) -> dict[str, Field]:
        """The fields in no row that stand under a head (`looked`) and hold anything, by what follows it."""
        prefix = f"{head}."
        found = {path.removeprefix(prefix): self.fields[path] for path in self.singles if path.startswith(prefix)}
        return {name: one for name, one in found.items() if one.text}

    def live_rows(self, name: str) -> list[str]:
        """The rows of a list (`runs`, `zero/idle`, `trials.t2.fills`) that hold anything, as they were begun."""
        held = self.rows.get(name)
        if not held:
            return []
        return sorted((row for row, one in held.items() if one.filled > 0), key=lambda row: held[row].begun)


EMPTY = Fold()
"""The fold of a job with no entries."""
_NAMES = tuple(one.name for one in fields(Field) if one.name not in ("previous", "steady"))
_BRIEF = tuple(one.name for one in fields(Earlier))


def _field(kept: Mapping[str, Any]) -> Field:
    before = kept["previous"]
    return Field(
        kept["id"], kept["text"], kept["unit"], kept["who"], kept["at"], kept["source"], kept["seq"], kept["earlier"],
        Earlier(*(before[name] for name in _BRIEF)) if before else None, kept["clash"], kept.get("steady"),
    )  # fmt: skip


def _written(one: Field) -> Iterator[tuple[str, Any]]:
    for name in _NAMES:
        yield name, getattr(one, name)
    yield "previous", {name: getattr(one.previous, name) for name in _BRIEF} if one.previous else None
    if one.steady is not None:
        yield "steady", one.steady
