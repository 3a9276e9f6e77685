"""The fold: what a job's entries come to.

`{"count": entries, "fields": {path: field}, "rows": {list: {row: {"begun", "filled"}}}, "singles": [path]}`. A field
holds what is in force (`id text unit who at source seq`, and `steady` where it was captured), how many entries came before it at its
path, the one just before, and whether two people typed there without seeing each other (`clash`).
A row knows with which entry it was begun and how many of its places hold anything; `singles` are the
paths of fields that stand in no row, so that few have to be looked through, and `captured` is there where
any entry was. The fold grows
with what is in force, not with how often it was typed, so that an entry costs the same in a long
job as in a short one. It is plain JSON.
"""

import datetime
import uuid
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Protocol

from wary.job.places import Parts, place

Fold = dict[str, Any]
Field = dict[str, Any]

RECORD = "record"
"""The source of what came from the system's record: nobody's typing."""


class EntryLike(Protocol):
    """One thing that was typed, ticked, captured, imported or taken from the record."""

    @property
    def entry_id(self) -> uuid.UUID: ...
    @property
    def sequence(self) -> int: ...
    @property
    def path(self) -> str: ...
    @property
    def text(self) -> str: ...
    @property
    def unit(self) -> str: ...
    @property
    def source(self) -> str: ...
    @property
    def steady(self) -> bool | None: ...
    @property
    def supersedes(self) -> uuid.UUID | None: ...
    @property
    def undoes(self) -> bool: ...
    @property
    def who(self) -> Any: ...
    @property
    def at(self) -> datetime.datetime: ...


@dataclass(frozen=True)
class Entry:
    """An entry outside any database."""

    entry_id: uuid.UUID
    sequence: int
    path: str
    text: str
    unit: str = ""
    source: str = "typed"
    supersedes: uuid.UUID | None = None
    undoes: bool = False
    who: str = ""
    at: datetime.datetime = datetime.datetime(2000, 1, 1, tzinfo=datetime.UTC)
    steady: bool | None = None


def empty() -> Fold:
    """The fold of a job with no entries."""
    return {"count": 0, "fields": {}, "rows": {}, "singles": []}


def copied(fold: Fold) -> Fold:
    """A fold to change, without changing this one: fields are replaced whole, rows are copied."""
    rows = {name: {row: dict(one) for row, one in held.items()} for name, held in fold["rows"].items()}
    return fold | {"fields": dict(fold["fields"]), "rows": rows, "singles": list(singles(fold))}


def singles(fold: Fold) -> list[str]:
    """The paths of fields that stand in no row; a fold of before is looked through for them."""
    known: list[str] | None = fold.get("singles")
    if known is None:
        lists = tuple(f"{name}." for name in fold["rows"])
        known = [path for path in fold["fields"] if not path.startswith(lists)]
    return known


def under(fold: Fold, head: str) -> dict[str, Field]:
    """The fields in no row that stand under a head (`looked`) and hold anything, by what follows it."""
    prefix, fields = f"{head}.", fold["fields"]
    found = {path.removeprefix(prefix): fields[path] for path in singles(fold) if path.startswith(prefix)}
    return {name: field for name, field in found.items() if field["text"]}


def _seen(entry: EntryLike) -> Field:
    captured = {} if entry.steady is None else {"steady": entry.steady}
    return captured | {
        "id": str(entry.entry_id),
        "text": entry.text,
        "unit": entry.unit,
        "who": str(entry.who),
        "at": entry.at.isoformat(),
        "source": entry.source,
        "seq": entry.sequence,
    }


def _brief(field: Field) -> Field:
    return {key: field[key] for key in ("id", "text", "unit", "who", "at")}


def _set(before: Field | None, entry: EntryLike) -> Field:
    field = _seen(entry)
    if before is None:
        return field | {"earlier": 0, "previous": None, "clash": False}
    known = str(entry.supersedes) if entry.supersedes else None
    # What came from the system's record is nobody's typing: to type over it is no clash.
    typed = before["text"] != "" and before["source"] != RECORD
    unseen = typed and known != before["id"] and before["text"] != entry.text
    return field | {"earlier": before["earlier"] + 1, "previous": _brief(before), "clash": unseen}


def field_from(entries: Iterable[EntryLike]) -> Field:
    """The field that all entries at one path come to, undone ones among them; there is one at least."""
    listed = list(entries)
    undone = {entry.supersedes for entry in listed if entry.undoes}
    field: Field | None = None
    for entry in listed:
        if not entry.undoes and entry.entry_id not in undone:
            field = _set(field, entry)
    if field is None:
        # Everything typed here was taken back: an empty field that still shows what stood there.
        taken_back = [entry for entry in listed if not entry.undoes][-1]
        previous = _brief(_seen(taken_back))
        field = _seen(listed[-1]) | {"text": "", "unit": "", "earlier": 0, "previous": previous, "clash": False}
    return field | {"earlier": sum(not entry.undoes for entry in listed) - (field["text"] != "")}


def apply(fold: Fold, entry: EntryLike, parts: Parts, at_path: Callable[[str], Iterable[EntryLike]]) -> None:
    """Takes one kept entry into the fold; `at_path` reads a path's entries where one is undone."""
    fold["count"] += 1
    fields = fold["fields"]
    before = fields.get(entry.path)
    if entry.undoes:
        after = field_from(at_path(entry.path))
    else:
        after = _set(before, entry)
        if before and before["text"] == "":
            after["earlier"] = before["earlier"] + 1 if before["previous"] is None else before["earlier"]
            after["clash"] = False
    fields[entry.path] = after
    where = place(parts, entry.path)
    if before is None and not (where and where.rows):
        fold["singles"].append(entry.path)
    if entry.steady is not None:
        fold["captured"] = True
    step = (after["text"] != "") - (before is not None and before["text"] != "")
    for name, row in where.rows if where else ():
        held = fold["rows"].setdefault(name, {}).setdefault(row, {"begun": entry.sequence, "filled": 0})
        held["filled"] += step


def rebuilt(entries: Iterable[EntryLike], parts: Parts) -> Fold:
    """The fold made from all of a job's entries, in their order."""
    fold = empty()
    by_path: dict[str, list[EntryLike]] = {}
    for entry in entries:
        by_path.setdefault(entry.path, []).append(entry)
        apply(fold, entry, parts, lambda path: by_path[path])
    return fold


def text_at(fold: Fold, path: str) -> str:
    """What is in force at a path; empty where nothing is."""
    field = fold["fields"].get(path)
    return field["text"] if field else ""


def live_rows(fold: Fold, name: str) -> list[str]:
    """The rows of a list (`runs`, `zero/idle`, `trials.t2.fills`) that hold anything, in the order in which they were begun."""
    held = fold["rows"].get(name)
    if not held:
        return []
    return sorted((row for row, one in held.items() if one["filled"] > 0), key=lambda row: held[row]["begun"])
