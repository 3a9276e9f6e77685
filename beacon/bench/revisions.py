"""Jobs as they stand, worked out once and kept in memory for as long as nothing changes.

The database is the truth: what is held here is taken only where the job's count of entries and
its latest entry are those that it was worked out from. Any process can begin with nothing held.
"""

import datetime
import uuid
from collections import OrderedDict, deque
from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial
from threading import Lock

from beacon.bench.models import Entry, Job
from beacon.plant.models import LimitProfile, System
from wary import log
from wary.job.assess import Snapshot, assess, assess_again, parts_of
from wary.job.evidence import Beside
from wary.job.fold import Folding, rebuilt
from wary.job.models import Bench
from wary.job.subject import Subject, own_limits
from wary.job.view import bench, bench_again
from wary.log import Fold
from wary.machines import all_machines
from wary.methods import all_methods
from wary.rules.drift import Moved
from wary.rules.forms import FORMS
from wary.suspects.suspect import Past

JOBS_HELD = 256
REVISIONS_HELD = 8
"""How many jobs are kept in memory, and how many of its latest revisions of each."""

FOLD_BEHIND = 32
"""How many entries the stored fold may be behind, or an eighth of all where that is more."""


@dataclass(frozen=True)
class Revision:
    """A job after so many entries, the last of which is `latest`: as it stands, and as it is shown."""

    count: int
    latest: uuid.UUID | None
    snapshot: Snapshot
    bench: Bench


class _Revisions:
    """The latest revisions of the jobs that were looked at last."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._jobs: OrderedDict[uuid.UUID, deque[Revision]] = OrderedDict()

    def put(self, job_id: uuid.UUID, revision: Revision) -> None:
        with self._lock:
            revisions = self._jobs.setdefault(job_id, deque(maxlen=REVISIONS_HELD))
            revisions.append(revision)
            self._jobs.move_to_end(job_id)
            while len(self._jobs) > JOBS_HELD:
                self._jobs.popitem(last=False)

    def at(self, job_id: uuid.UUID, count: int, latest: uuid.UUID | None = None) -> Revision | None:
        """The revision after so many entries: the latest with this last entry, or without `latest` the earliest.

        There are several of one count where limits or plates were changed meanwhile; a page may have seen the earliest.
        """
        with self._lock:
            held = self._jobs.get(job_id, ())
            for revision in held if latest is None else reversed(held):
                if revision.count == count and (latest is None or revision.latest == latest):
                    return revision
        return None

    def clear(self) -> None:
        with self._lock:
            self._jobs.clear()


REVISIONS = _Revisions()


def about(system: System) -> dict[str, object]:
    """What was tested, for people to read."""
    return {
        "organisation": system.site.organisation.name,
        "site": system.site.name,
        "name": system.name,
        "kind": all_machines()[system.kind].title,
        "material": system.material,
        "serial": system.serial,
        "factor_name": system.factor_name,
        "correction": system.correction,
        "plates": system.plates,
        "profile": system.profile.title,
    }


def subject_of(job: Job) -> Subject:
    """The machine of a job, as far as the job needs to know of it."""
    system = job.channel.system
    own = system.profile.as_given()
    methods = [all_methods()[part.method] for part in job.parts]
    foreign = {method.profile for method in methods if not own_limits(system.machine, system.profile.key, method)}
    others = LimitProfile.objects.filter(organisation_id=system.profile.organisation_id, key__in=foreign)
    return Subject(
        machine=all_machines()[system.kind],
        plates=system.plates,
        profile=own,
        profiles={profile.key: profile.as_given() for profile in others} if foreign else {},
        profile_title=system.profile.title,
        form=next(form for form in FORMS if form == system.correction),
        factor_name=system.factor_name,
        about=about(system),
        found=job.found,
        repaired=tuple(job.repaired),
        beside=tuple(Beside(*one) for one in job.beside),
        drifts=job.drifts,
        moved=Moved(**job.moved) if job.moved else None,
        past=Past.of_json(job.past),
    )


def day_of(job: Job, at: datetime.datetime | None = None) -> datetime.date:
    """The day on which a job was last touched, at its site."""
    return job.channel.system.site.day_of(at or job.touched_at)


def revision_of(job: Job, subject: Subject | None = None) -> Revision:
    """The job as it stands."""
    subject = subject or subject_of(job)
    held = REVISIONS.at(job.id, job.entries, job.latest)
    if held and held.snapshot.subject == subject and held.snapshot.day == day_of(job):
        return held
    snapshot = assess(subject, job.parts, fold_of(job), day_of(job))
    revision = Revision(job.entries, job.latest, snapshot, bench(snapshot))
    REVISIONS.put(job.id, revision)
    return revision


def snapshot_of(job: Job) -> Snapshot:
    """The job as it stands, without how it is shown."""
    return revision_of(job).snapshot


def revision_after(job: Job, before: Revision, fold: Fold, rows: list[Entry], at: datetime.datetime) -> Revision:
    """The job after these entries, which `fold` holds; it is not remembered, since the database may still refuse them."""
    paths = [row.path for row in rows]
    snapshot = assess_again(before.snapshot, fold, paths, day_of(job, at))
    view = bench_again(before.bench, before.snapshot, snapshot, paths)
    return Revision(fold.count, rows[-1].entry_id, snapshot, view)


def revision_at(job: Job, count: int) -> Revision:
    """The job as it stood after so many of its entries."""
    held = REVISIONS.at(job.id, count)
    if held:
        return held
    entries = Entry.objects.filter(job=job, sequence__lte=count).select_related("who").order_by("sequence")
    fold = rebuilt((one.logged for one in entries.iterator()), parts_of(job.parts))
    snapshot = assess(subject_of(job), job.parts, fold, day_of(job))
    return Revision(count, None, snapshot, bench(snapshot))


def fold_of(job: Job) -> Fold:
    """What all of a job's entries come to: the stored fold, and the entries after it."""
    stored = Fold.of_json(job.fold)
    if stored.count >= job.entries:
        return stored
    folding = Folding(parts_of(job.parts), stored)
    later = Entry.objects.filter(job=job, sequence__gt=stored.count, sequence__lte=job.entries)
    for entry in later.select_related("who").order_by("sequence"):
        folding.take(entry.logged, partial(at_path, job, entry.sequence, []))
    return folding.now


def at_path(job: Job, upto: int, fresh: list[Entry], path: str) -> Iterable[log.Entry]:
    """Every entry at a path up to a place in the sequence; those in `fresh` may not be in the database yet."""
    stored = Entry.objects.filter(job=job, path=path, sequence__lte=upto).select_related("who").order_by("sequence")
    known = list(stored)
    ids = {entry.entry_id for entry in known}
    known += [row for row in fresh if row.path == path and row.sequence <= upto and row.entry_id not in ids]
    return [row.logged for row in known]


def is_far_behind(job: Job) -> bool:
    """Whether the stored fold should be written again, so that few entries have to be read after it."""
    return job.entries - job.folded > max(FOLD_BEHIND, job.entries // 8)
