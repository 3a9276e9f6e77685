"""A job as it stands: every part assessed, and what follows for the whole."""

import datetime
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

from wary.job.captured import as_they_stood
from wary.job.cured import before_the_cure, cures, since_the_cure
from wary.job.evidence import Case, Looked, PartSeen, ticked_looks
from wary.job.judging import MachineCall, judged
from wary.job.places import CURED, LOOK_NOTED, LOOKED, MAIN, SKIPPED, Parts, joined, lists_of, place
from wary.job.subject import Subject
from wary.job.visit import Assessed, Visit, decides, not_valid, touched_by
from wary.log import Fold
from wary.machines.machine import Part
from wary.methods.steps import Tally
from wary.rules.assessment import LEAVE
from wary.suspects import looks
from wary.suspects.suspect import FINE, NOT_FINE

NEVER_SET = ("first", "repair")
"""Occasions at which there is nothing that can have moved."""
Stage = Literal["open", "as-found", "adjusting", "as-left"]
"""How far an open job is."""


@dataclass(frozen=True)
class Snapshot:
    """A job at one moment: its fold, and each part as it is assessed; never changed.

    `read` is what of the fold counts: all of it, or without the readings from before a cure.
    """

    subject: Subject
    visit: tuple[Part, ...]
    fold: Fold
    day: datetime.date
    parts: dict[str, Assessed]
    read: Fold

    @property
    def order(self) -> Parts:
        """Key and method of each part, in the order of the visit."""
        return parts_of(self.visit)

    @property
    def main(self) -> Assessed:
        return self.parts[MAIN]

    @property
    def decides(self) -> Assessed:
        """The part whose call decides the closing."""
        return decides(self.parts)

    @property
    def not_valid(self) -> list[str]:
        """Why the machine is not valid as it stands; empty where it is."""
        return not_valid(self.parts)

    @cached_property
    def machine(self) -> MachineCall:
        """The call of the machine, by all that is known of it."""
        return judged(case_of(self))

    @cached_property
    def found(self) -> "Snapshot | None":
        """The job as it stood when something was first put right in it; None where nothing was."""
        before = before_the_cure(self.fold, self.order)
        return assess(self.subject, self.visit, before, self.day) if before else None

    @property
    def stage(self) -> "Stage":
        """How far an open job is, from what has been entered."""
        lists = {
            step.stage
            for key, part in self.parts.items()
            for step in part.method.steps
            if isinstance(step, Tally) and self.fold.live_rows(joined(key, step.list))
        }
        if "left" in lists:
            return "as-left"
        if any(part.changed for part in self.parts.values()):
            return "adjusting"
        compared = "found" in lists or any(part.begun and part.method.compares for part in self.parts.values())
        return "as-found" if compared else "open"

    @property
    def complete(self) -> bool:
        """Whether the evidence ends in a machine that may be left alone."""
        return self.machine.call == LEAVE and not self.not_valid


def parts_of(visit: tuple[Part, ...]) -> Parts:
    """Key and method of each part of a visit."""
    return tuple((part.key, part.method) for part in visit)


def assess(subject: Subject, visit: tuple[Part, ...], fold: Fold, day: datetime.date) -> Snapshot:
    """Assesses every part of a job. `day` is the day of the test at the machine's site, where none was typed."""
    read = since_the_cure(fold, parts_of(visit))
    return Snapshot(subject, visit, fold, day, Visit(subject, parts_of(visit), read, day).assessed(), read)


def assess_again(before: Snapshot, fold: Fold, paths: list[str], day: datetime.date) -> Snapshot:
    """The job after entries at these paths: parts that are not touched by them are taken as they were."""
    order = before.order
    if any(path.startswith(f"{CURED}.") for path in paths):
        return assess(before.subject, before.visit, fold, day)
    read = since_the_cure(fold, order)
    touched = touched_by(paths, order) if day == before.day else None
    rows = frozenset(row for path in paths if (where := place(order, path)) for row in where.rows)
    parts = Visit(before.subject, order, read, day).assessed(before.parts, touched, rows)
    return Snapshot(before.subject, before.visit, fold, day, parts, read)


# --- the machine ------------------------------------------------------------------------------


def case_of(snapshot: Snapshot) -> Case:
    """What is known of the machine in this job."""
    subject = snapshot.subject
    cured = cures(snapshot.fold)
    last = max(cured.values(), default=0)
    begun = [part for part in snapshot.parts.values() if part.begun or len(snapshot.parts) == 1]
    optional = {part.key for part in snapshot.visit if part.optional}
    seen = [
        PartSeen(
            part.key, part.method, part.given, part.assessment, part.key not in optional, part.marks.ticks, part.changed
        )
        for part in begun or [snapshot.main]
    ]
    decides = snapshot.decides.key
    limits = snapshot.decides.built.setting.profile
    occasion = snapshot.fold.text("occasion")
    return Case(
        machine=subject.machine,
        visit=snapshot.visit,
        parts=seen,
        decides=decides if any(one.key == decides for one in seen) else seen[-1].key,
        plates=subject.figures,
        looked=_looked(snapshot, last),
        skipped={look: field.text for look, field in snapshot.fold.under(SKIPPED).items()},
        cured=frozenset(cured),
        references=snapshot.main.built.file.get("references") or [],
        found=subject.found,
        repaired=subject.repaired if snapshot.fold.text("occasion") == "repair" else (),
        factor_before=snapshot.fold.text("inputs.factor"),
        drifts=subject.drifts,
        moved=subject.moved,
        beside=subject.beside,
        look_minutes=limits.look_minutes,
        may_skip=limits.skip_looks,
        all_looks=limits.all_looks,
        harm_minutes=limits.harm_minutes,
        past=replace(subject.past, first=subject.past.first or occasion == "first"),
        never_set=subject.past.first or (occasion in NEVER_SET and not (occasion == "first" and _on_record(snapshot))),
        again=_compared_before(snapshot, last),
    )


def _on_record(snapshot: Snapshot) -> bool:
    """Whether a factor came from the record: then somebody set it once, also where this is the first visit that is
    written down here."""
    factor = snapshot.fold.fields.get("inputs.factor")
    return factor is not None and factor.text != "" and factor.source == "record"


def _looked(snapshot: Snapshot, last: int) -> list[Looked]:
    """What was looked at and has no input: said by somebody, and said of themselves by readings that were captured."""
    found = {}
    for key, field in snapshot.fold.under(LOOKED).items():
        if field.text == FINE or field.seq > last:
            found[key] = Looked(key, field.text, snapshot.fold.text(f"{LOOK_NOTED}.{key}"))
    for part in snapshot.parts.values():
        # What is looked at first is ticked for parts that are not begun yet.
        for look in [] if part.begun or len(snapshot.parts) == 1 else ticked_looks(part.method.key, part.marks.ticks):
            found.setdefault(look, Looked(look, FINE, ticked=True))
    captured = as_they_stood(snapshot.read, snapshot.order)
    if captured:
        stood, text = captured
        found[looks.CAPTURED.key] = Looked(looks.CAPTURED.key, FINE if stood else NOT_FINE, text)
    return list(found.values())


def _compared_before(snapshot: Snapshot, last: int) -> str | None:
    """The part of which the comparison is to be taken again after a cure: read before it, and not since; None where there is none."""
    found = snapshot.found
    if not last or found is None or not found.decides.begun:
        return None
    part = snapshot.parts[found.decides.key]
    if not any(found.read.live_rows(joined(part.key, name)) for name in lists_of(part.method.key)):
        # Nothing was read yet: there is nothing to be taken again.
        return None
    return None if part.begun and _read_since(snapshot, part, last) else part.key


def _read_since(snapshot: Snapshot, part: Assessed, last: int) -> bool:
    lists = tuple(f"{joined(part.key, name)}." for name in lists_of(part.method.key))
    fields = snapshot.fold.fields.items()
    return any(one.seq > last and one.text and path.startswith(lists) for path, one in fields)
