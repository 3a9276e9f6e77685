"""The fold: what a job's entries come to.

`{"count": entries, "fields": {path: field}, "rows": {list: [row, …]}}`. A field holds what is in
force (`id text unit who at source`), how many entries came before it at its path, the one just
before, and whether two people typed there without seeing each other (`clash`). The fold grows
with what is in force, not with how often it was typed, so that an entry costs the same in a long
job as in a short one.
"""

from collections.abc import Callable, Iterable
from typing import Any

from beacon.bench.models import Entry, Job
from beacon.bench.paths import Parts, joined, place

Fold = dict[str, Any]
Field = dict[str, Any]


def empty() -> Fold:
    """The fold of a job with no entries."""
    return {"count": 0, "fields": {}, "rows": {}}


def _seen(entry: Entry) -> Field:
    return {
        "id": str(entry.entry_id),
        "text": entry.text,
        "unit": entry.unit,
        "who": str(entry.who),
        "at": entry.at.isoformat(),
        "source": entry.source,
    }


def _brief(field: Field) -> Field:
    return {key: field[key] for key in ("id", "text", "unit", "who", "at")}


def _set(before: Field | None, entry: Entry) -> Field:
    field = _seen(entry)
    if before is None:
        return field | {"earlier": 0, "previous": None, "clash": False}
    known = str(entry.supersedes) if entry.supersedes else None
    # What came from the system's record is nobody's typing: to type over it is no clash.
    typed = before["text"] != "" and before["source"] != Entry.Source.RECORD
    unseen = typed and known != before["id"] and before["text"] != entry.text
    return field | {"earlier": before["earlier"] + 1, "previous": _brief(before), "clash": unseen}


def field_from(entries: Iterable[Entry]) -> Field | None:
    """The field that all entries at one path come to, undone ones among them."""
    listed = list(entries)
    undone = {entry.supersedes for entry in listed if entry.undoes}
    field: Field | None = None
    for entry in listed:
        if not entry.undoes and entry.entry_id not in undone:
            field = _set(field, entry)
    last = listed[-1]
    if field is None:
        # Everything typed here was taken back: an empty field that still shows what stood there.
        taken_back = [entry for entry in listed if not entry.undoes][-1]
        previous = _brief(_seen(taken_back))
        field = _seen(last) | {"text": "", "unit": "", "earlier": 0, "previous": previous, "clash": False}
    return field | {"earlier": sum(not entry.undoes for entry in listed) - (field["text"] != "")}


def apply(fold: Fold, entry: Entry, parts: Parts, at_path: Callable[[str], Iterable[Entry]]) -> None:
    """Takes one kept entry into the fold; `at_path` reads a path's entries where one is undone."""
    fold["count"] += 1
    fields = fold["fields"]
    if entry.undoes:
        fields[entry.path] = field_from(at_path(entry.path))
    else:
        before = fields.get(entry.path)
        after = _set(before, entry)
        if before and before["text"] == "":
            after["earlier"] = before["earlier"] + 1 if before["previous"] is None else before["earlier"]
            after["clash"] = False
        fields[entry.path] = after
    where = place(parts, entry.path)
    if where and where.list:
        rows = fold["rows"].setdefault(joined(where.part, where.list), [])
        if where.row not in rows:
            rows.append(where.row)


def rebuild(job: Job) -> Fold:
    """The fold made again from all the job's entries."""
    fold = empty()
    by_path: dict[str, list[Entry]] = {}
    for entry in job.entries.select_related("who").order_by("sequence"):
        by_path.setdefault(entry.path, []).append(entry)
        apply(fold, entry, job.parts, lambda path: by_path[path])
    return fold


def text_at(fold: Fold, path: str) -> str:
    """What is in force at a path; empty where nothing is."""
    field = fold["fields"].get(path)
    return field["text"] if field else ""


def live_rows(fold: Fold, name: str) -> list[str]:
    """The rows of a list (`runs`, or `zero/idle` of a part) that hold anything, in the order in which they were begun."""
    filled = {
        path.split(".")[1] for path, field in fold["fields"].items() if path.startswith(f"{name}.") and field["text"]
    }
    return [row for row in fold["rows"].get(name, []) if row in filled]
