"""A job as it stands: every part assessed, and what follows for the whole."""

import datetime
from dataclasses import dataclass

from wary.job.fold import Fold
from wary.job.places import MAIN, Parts, place
from wary.job.subject import Subject
from wary.job.visit import Assessed, Visit, decides, not_valid, touched_by
from wary.machines.machine import Part
from wary.rules.assessment import LEAVE


@dataclass(frozen=True)
class Snapshot:
    """A job at one moment: its fold, and each part as it is assessed; never changed."""

    subject: Subject
    visit: tuple[Part, ...]
    fold: Fold
    day: datetime.date
    parts: dict[str, Assessed]

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

    @property
    def complete(self) -> bool:
        """Whether the evidence ends in a machine that may be left alone."""
        return self.decides.assessment.call == LEAVE and not self.not_valid


def parts_of(visit: tuple[Part, ...]) -> Parts:
    """Key and method of each part of a visit."""
    return tuple((part.key, part.method) for part in visit)


def assess(subject: Subject, visit: tuple[Part, ...], fold: Fold, day: datetime.date) -> Snapshot:
    """Assesses every part of a job. `day` is the day of the test at the machine's site, where none was typed."""
    return Snapshot(subject, visit, fold, day, Visit(subject, parts_of(visit), fold, day).assessed())


def assess_again(before: Snapshot, fold: Fold, paths: list[str], day: datetime.date) -> Snapshot:
    """The job after entries at these paths: parts that are not touched by them are taken as they were."""
    order = before.order
    touched = touched_by(paths, order) if day == before.day else None
    rows = frozenset(row for path in paths if (where := place(order, path)) for row in where.rows)
    parts = Visit(before.subject, order, fold, day).assessed(before.parts, touched, rows)
    return Snapshot(before.subject, before.visit, fold, day, parts)
