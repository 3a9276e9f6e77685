"""The fold: what a job's entries come to, taken one after the other."""

from collections.abc import Callable, Iterable
from dataclasses import replace

from wary.job.places import Parts, place
from wary.log import EMPTY, Entry, Field, Fold, Row


class Folding:
    """A fold in the making, from another one that stays as it is."""

    def __init__(self, parts: Parts, begun: Fold = EMPTY) -> None:
        self.parts = parts
        self.count, self.captured = begun.count, begun.captured
        self.fields: dict[str, Field] = dict(begun.fields)
        self.rows: dict[str, dict[str, Row]] = {name: dict(held) for name, held in begun.rows.items()}
        self.singles = list(begun.singles)

    def take(self, entry: Entry, at_path: Callable[[str], Iterable[Entry]]) -> None:
        """Takes one kept entry; `at_path` reads a path's entries where one is undone."""
        self.count += 1
        before = self.fields.get(entry.path)
        after = field_from(at_path(entry.path)) if entry.undoes else _after(before, entry)
        self.fields[entry.path] = after
        where = place(self.parts, entry.path)
        if before is None and not (where and where.rows):
            self.singles.append(entry.path)
        self.captured = self.captured or entry.steady is not None
        step = (after.text != "") - (before is not None and before.text != "")
        for name, row in where.rows if where else ():
            held = self.rows.setdefault(name, {})
            was = held.get(row) or Row(entry.sequence)
            held[row] = Row(was.begun, was.filled + step)

    @property
    def now(self) -> Fold:
        """What has been taken so far; what is taken later changes it."""
        return Fold(self.count, self.fields, self.rows, tuple(self.singles), self.captured)

    def fold(self) -> Fold:
        """What has been taken so far, and stays so."""
        return Folding(self.parts, self.now).now


def _after(before: Field | None, entry: Entry) -> Field:
    if before is None:
        return Field.of(entry, entry.text, entry.unit)
    if before.text == "":
        earlier = before.earlier + 1 if before.previous is None else before.earlier
        return Field.of(entry, entry.text, entry.unit, earlier, before.brief)
    return _over(before, entry)


def _over(before: Field, entry: Entry) -> Field:
    """What an entry comes to over another. What came from the record nobody typed: to type over it is no clash."""
    known = str(entry.supersedes) if entry.supersedes else None
    unseen = before.is_typed and known != before.id and before.text != entry.text
    return Field.of(entry, entry.text, entry.unit, before.earlier + 1, before.brief, unseen)


def field_from(entries: Iterable[Entry]) -> Field:
    """The field that all entries at one path come to, undone ones among them; there is one at least."""
    listed = list(entries)
    undone = {entry.supersedes for entry in listed if entry.undoes}
    found: Field | None = None
    for entry in listed:
        if not entry.undoes and entry.entry_id not in undone:
            found = _over(found, entry) if found else Field.of(entry, entry.text, entry.unit)
    if found is None:
        # Everything typed here was taken back: an empty field that still shows what stood there.
        last = [entry for entry in listed if not entry.undoes][-1]
        found = Field.of(listed[-1], "", "", previous=Field.of(last, last.text, last.unit).brief)
    return replace(found, earlier=sum(not entry.undoes for entry in listed) - (found.text != ""))


def rebuilt(entries: Iterable[Entry], parts: Parts) -> Fold:
    """The fold made from all of a job's entries, in their order."""
    folding = Folding(parts)
    by_path: dict[str, list[Entry]] = {}
    for entry in entries:
        by_path.setdefault(entry.path, []).append(entry)
        folding.take(entry, by_path.__getitem__)
    return folding.now


def text_at(fold: Fold, path: str) -> str:
    """What is in force at a path; empty where nothing is."""
    return fold.text(path)


def live_rows(fold: Fold, name: str) -> list[str]:
    """The rows of a list that hold anything, in the order in which they were begun."""
    return fold.live_rows(name)
