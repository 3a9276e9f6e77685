"""The bench on a device: a job's entries as the server has them, those typed since, and the call at once.

The same functions fold, walk and show here as at the server. What the device holds of a job is the log that the
server has, and after it what waits to be kept there: it is shown as if it were kept, in the order in which it was
typed. Once the server has answered, what it kept is the server's, with what others entered meanwhile between.
"""

import datetime
import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from wary.job.assess import Snapshot, assess, assess_again, parts_of
from wary.job.fold import Folding
from wary.job.models import Bench, Changes
from wary.job.naming import brought
from wary.job.places import Parts
from wary.job.subject import Subject
from wary.job.view import bench, bench_again, changes, laid_out
from wary.log import RECORD, Entry, Fold
from wary.machines.machine import Part
from wary.references import ReferenceOnRecord

MOST_ENTRIES = 5000
"""A job of more entries than this is judged by the server alone."""


def opening_id(job: uuid.UUID, path: str) -> uuid.UUID:
    """The id of what is entered first at a path of a job, by whoever opens it."""
    return uuid.uuid5(job, path)


@dataclass
class Held:
    """A job as a device holds it: `kept` entries are the server's, those after them in `log` wait."""

    subject: Subject
    visit: tuple[Part, ...]
    references: Mapping[str, ReferenceOnRecord]
    log: list[Entry]
    kept: int
    fold: Fold
    snapshot: Snapshot
    view: Bench
    by_path: dict[str, list[Entry]] = field(default_factory=dict)

    @property
    def order(self) -> Parts:
        return parts_of(self.visit)

    @property
    def waiting(self) -> list[Entry]:
        """What was typed here and is not kept by the server yet."""
        return self.log[self.kept :]


def taken(document: Mapping[str, Any], day: datetime.date) -> Held:
    """The job of a document: its `subject`, `visit`, `entries` and the `references` that may be named in it.

    `day` is the day at the machine's site.
    """
    visit = tuple(Part(**part) for part in document["visit"])
    references = {key: ReferenceOnRecord.of_document(one) for key, one in document.get("references", {}).items()}
    log = [Entry.of_json(row, place) for place, row in enumerate(document["entries"], 1)]
    return _worked(Subject.of_document(document["subject"]), visit, references, log, len(log), day)


def _worked(
    subject: Subject,
    visit: tuple[Part, ...],
    references: Mapping[str, ReferenceOnRecord],
    log: list[Entry],
    kept: int,
    day: datetime.date,
) -> Held:
    by_path: dict[str, list[Entry]] = {}
    folding = Folding(parts_of(visit))
    for one in log:
        by_path.setdefault(one.path, []).append(one)
        folding.take(one, by_path.__getitem__)
    snapshot = assess(subject, visit, folding.now, day)
    return Held(subject, visit, references, log, kept, folding.now, snapshot, bench(snapshot), by_path)


def typed(held: Held, rows: Sequence[Mapping[str, Any]], day: datetime.date) -> Changes:
    """Takes in what was typed, and answers with what is other than before.

    What follows from naming a reference is entered with it, under the ids that the server will give it.
    """
    folding = Folding(held.order, held.fold)
    fresh: list[Entry] = []

    def take(one: Entry) -> None:
        fresh.append(one)
        held.log.append(one)
        held.by_path.setdefault(one.path, []).append(one)
        folding.take(one, held.by_path.__getitem__)

    known = {one.entry_id for one in held.waiting}
    for row in rows:
        one = Entry.of_json(row, len(held.log) + 1)
        if one.entry_id in known:
            continue
        take(one)
        for follows in brought(folding.now, held.order, one, held.references):
            take(_follows(one, len(held.log) + 1, *follows))
    if not fresh:
        return Changes()
    paths = [one.path for one in fresh]
    was, before = held.snapshot, held.view
    held.fold, held.snapshot = folding.now, assess_again(was, folding.now, paths, day)
    held.view = bench_again(before, was, held.snapshot, paths)
    return changes(before, held.view)


def _follows(one: Entry, sequence: int, entry_id: uuid.UUID, path: str, text: str) -> Entry:
    return Entry(entry_id, sequence, path, text, source=RECORD, who=one.who, at=one.at)


def settled(
    held: Held,
    kept: Iterable[str],
    refused: Iterable[str],
    others: Sequence[Mapping[str, Any]],
    day: datetime.date,
) -> Changes:
    """Takes in what the server says: which entries it kept and which not, and what stands in the log beside them.

    `others` are entries with their `sequence` that were not typed here, or not yet known here; what is kept of
    the waiting ones fills the places between, in its order.
    """
    ids, gone = {uuid.UUID(one) for one in kept}, {uuid.UUID(one) for one in refused}
    others = sorted(others, key=lambda row: int(row["sequence"]))
    waiting = held.waiting
    mine = [one for one in waiting if one.entry_id in ids]
    there = {one.entry_id: one for one in waiting}
    if (
        not gone
        and mine == waiting[: len(mine)]
        and all(
            place < len(waiting) and waiting[place].entry_id == uuid.UUID(row["id"])
            for place, row in ((int(row["sequence"]) - held.kept - 1, row) for row in others)
        )
    ):
        # What the server has is what is shown here.
        held.kept += len(mine) + sum(uuid.UUID(row["id"]) not in ids for row in others)
        return Changes()
    log = held.log[: held.kept]
    own = iter(mine)
    for row in others:
        while len(log) + 1 < int(row["sequence"]) and (one := next(own, None)) is not None:
            log.append(one)
        log.append(there.get(uuid.UUID(row["id"])) or Entry.of_json(row, len(log) + 1))
    log += own
    in_log = {one.entry_id for one in log}
    number = len(log)
    left = [
        one for one in waiting if one.entry_id not in in_log and one.entry_id not in gone and _cause(one, gone, waiting)
    ]
    log = [one.at_place(place) for place, one in enumerate([*log, *left], 1)]
    before = held.view
    again = _worked(held.subject, held.visit, held.references, log, number, day)
    vars(held).update(vars(again))
    return changes(before, held.view)


def _cause(one: Entry, gone: set[uuid.UUID], waiting: Sequence[Entry]) -> bool:
    """Whether what an entry follows from, or takes back, is not refused; what is typed follows from nothing."""
    if one.undoes and one.supersedes in gone:
        return False
    if one.source != RECORD:
        return True
    return not any(uuid.uuid5(refused, one.path) == one.entry_id for refused in gone)


def whole(held: Held) -> dict[str, Any]:
    """All of a job that its bench is drawn from, but for its head."""
    return {**vars(laid_out(held.snapshot)), **vars(held.view)}
