"""Keeping entries: what the screen says is kept is in the database by then."""

import datetime
import uuid
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from django.db import transaction
from django.http import Http404
from django.utils import timezone
from django.utils.functional import cached_property

from beacon.bench.models import Entry, Job
from beacon.bench.revisions import REVISIONS, Revision, at_path, is_far_behind, revision_after, revision_of
from beacon.metrics import ENTRIES
from beacon.people.access import is_lead, is_program, works_at, works_in
from beacon.people.models import Person
from beacon.plant.channel_cache import cached_channel, versions
from beacon.plant.models import Reference
from beacon.plant.on_record import reference_on_record
from wary.clean import fit
from wary.job.assess import parts_of
from wary.job.evidence import can_be_looked_at
from wary.job.fold import Folding
from wary.job.naming import follows_from, named_at, names_a_reference, names_weights
from wary.job.places import Place, is_decided, place
from wary.log import Fold
from wary.rules.profiles import loosens

LONGEST_TEXT = 2000
MOST_ENTRIES, MOST_ROWS = 200_000, 10_000
"""The most that a job takes: entries in all, and rows in one list."""


@dataclass
class Sent:
    """An entry as a device sends it. `supersedes` is what the device saw at that path."""

    id: uuid.UUID
    path: str
    text: str = ""
    unit: str = ""
    source: str = Entry.Source.TYPED
    steady: bool | None = None
    raw: str = ""
    supersedes: uuid.UUID | None = None
    undoes: bool = False
    at: datetime.datetime | None = None
    clock_off: int | None = None


@dataclass
class Kept:
    """What became of a batch: kept ids, refused ones with the reason, the job before and after, and its new rows."""

    job: Job
    before: Revision
    after: Revision
    kept: list[uuid.UUID] = field(default_factory=list)
    refused: list[dict[str, str]] = field(default_factory=list)
    rows: list[Entry] = field(default_factory=list)


def job_of(user: Person, job_id: uuid.UUID, lock: bool = False) -> Job:
    """The job, where this person may work on it. Raises Http404 otherwise. `lock` keeps others from writing to it."""
    jobs = Job.objects.filter(id=job_id, channel__system__site__organisation__in=works_in(user)).defer("fold")
    jobs = jobs.select_related("channel__system__site__organisation", "channel__system__profile")
    if lock:
        jobs = jobs.select_for_update(of=("self",), no_key=True)
    else:
        jobs = jobs.select_related("channel__system__reference", "opened_by")
    found = jobs.order_by().first()
    if found is None:
        raise Http404
    return found


@transaction.atomic
def enter(user: Person, job_id: uuid.UUID, sent: list[Sent]) -> Kept:
    """Keeps entries in a job that this person may work on. Raises Http404 otherwise."""
    jobs = Job.objects.filter(id=job_id, **works_at("channel__system__site__organisation", user)).defer("fold")
    found = list(jobs.annotate(plant=versions("channel")).order_by().select_for_update(of=("self",), no_key=True))
    if not found:
        raise Http404
    job = found[0]
    job.channel = cached_channel(job.channel_id, job.plant)
    return keep(user, job, sent)


@transaction.atomic(savepoint=False)
def keep(user: Person, job: Job, sent: list[Sent], opening: bool = False) -> Kept:
    """Keeps entries, in their order, and works the job out anew; the job's row is locked by the caller, or new.

    An entry whose id is kept already is passed over, so that a resend is harmless. One that may
    not stand is refused with a sentence, and the others are kept all the same. Each is judged
    against the job with those before it in the batch: what is typed, named and taken back in one
    batch comes to the same as one after the other.
    """
    before = revision_of(job)
    there_already = Entry.objects.filter(job=job, entry_id__in=[one.id for one in sent]).order_by()
    known = {entry_id: said for entry_id, *said in there_already.values_list("entry_id", *SAID)}
    done = Kept(job, before, before)
    batch = _Batch(user, job, before, opening)
    for one in sent:
        there = known.get(one.id)
        reason = _same(there, one) if there else batch.why_not(one)
        if reason:
            done.refused.append({"id": str(one.id), "path": one.path, "text": reason})
            continue
        done.kept.append(one.id)
        if there is None:
            known[one.id] = _said(one)
            batch.take(one)
            if one.source != Entry.Source.RECORD and (names_a_reference(one.path, one.text) or names_weights(one.path)):
                for brought in batch.brought_by(one):
                    batch.take(brought)
    if batch.rows:
        done.after = _store(job, before, batch)
        done.rows = batch.rows
    return done


class _Batch:
    """The entries of a batch that are taken so far, and the fold that the job comes to with them."""

    def __init__(self, user: Person, job: Job, before: Revision, opening: bool) -> None:
        self.user, self.job, self.opening = user, job, opening
        self.order = parts_of(job.parts)
        self.folding = Folding(self.order, before.snapshot.fold)
        self.rows: list[Entry] = []
        self._now = timezone.now()

    def take(self, one: Sent) -> None:
        """Takes an entry that may stand; it is in the fold from now on."""
        row = Entry(
            job=self.job,
            entry_id=one.id,
            sequence=self.job.entries + len(self.rows) + 1,
            path=one.path,
            text=one.text,
            unit=one.unit,
            source=one.source,
            steady=one.steady,
            raw=one.raw if one.source == Entry.Source.CAPTURED else "",
            supersedes=one.supersedes,
            undoes=one.undoes,
            who=self.user,
            at=min(one.at or self._now, self._now),
            clock_off=one.clock_off,
        )
        self.rows.append(row)
        self.folding.take(row.logged, partial(at_path, self.job, row.sequence, self.rows))

    @property
    def fold(self) -> Fold:
        """What the job comes to with those that are taken so far."""
        return self.folding.now

    def why_not(self, one: Sent) -> str | None:
        """Why an entry may not stand, in a sentence; None where it may."""
        job, organisation = self.job, self.job.channel.system.site.organisation
        if not job.is_open:
            return "This job is closed: what it says can no longer change. Open a new job on the system."
        where = place(self.order, one.path)
        if where is None:
            return f"“{one.path}” is no place in a job of this kind."
        if not can_be_looked_at(job.channel.system.machine, one.path):
            return f"“{one.path}” is nothing that can be looked at, or put right, on this machine."
        full = self._no_room(where)
        if full:
            return full
        if len(one.text) > LONGEST_TEXT or not fit(one.text) or not fit(one.unit) or not fit(one.raw):
            return "That is too long, or holds a character that cannot be kept: at most 2000 characters of text."
        if self._is_of_a_program and (is_decided(one.path) or one.undoes and not self._is_its_own(one)):
            return (
                "Another program enters readings alone. What is decided, and what a person typed, is a person's to say."
            )
        if one.undoes and not self._there(one):
            return "There is nothing there to take back."
        if one.path.endswith(".allowed_by") and one.text and not self.opening and not is_lead(self.user, organisation):
            return "Only a lead may let an overdue reference pass, on the record. Ask one, or use another reference."
        if names_a_reference(one.path, one.text):
            # Whatever it came from: nobody names what is another organisation's.
            found = Reference.objects.filter(organisation=organisation, id=_uuid(one.text)).first()
            if found is None or (found.practice and not job.practice):
                return "This reference is not in the list."
            if found.system_id == job.channel.system_id:
                return "A system is no reference for itself. Name another."
        if names_weights(one.path) and one.text and one.source != Entry.Source.RECORD:
            return self._no_such_weights(one)
        tightens = not one.path.startswith("profile.") or not one.text or is_lead(self.user, organisation)
        if not tightens and loosens(job.channel.system.profile.as_given(), one.path, one.text, one.unit):
            return "A technician may only tighten limits on a job; loosening takes a lead, and stands on the record."
        return None

    def _no_room(self, where: Place) -> str | None:
        """Why there is no room for an entry, in a sentence; None where there is."""
        if self.job.entries + len(self.rows) >= MOST_ENTRIES:
            return f"A job holds at most {MOST_ENTRIES} entries. Close this one, and open another."
        for full, row in where.rows:
            known = self.folding.rows.get(full, {})
            if row not in known and len(known) >= MOST_ROWS:
                return f"A list holds at most {MOST_ROWS} rows. Close this job, and open another."
        return None

    def _there(self, one: Sent) -> bool:
        """Whether what an entry takes back is there: in the batch so far, or kept before."""
        if one.supersedes is None:
            return False
        if any(row.entry_id == one.supersedes and row.path == one.path and not row.undoes for row in self.rows):
            return True
        kept = Entry.objects.filter(job=self.job, path=one.path, entry_id=one.supersedes, undoes=False)
        return kept.exists()

    @cached_property
    def _is_of_a_program(self) -> bool:
        return is_program(self.user)

    def _is_its_own(self, one: Sent) -> bool:
        return (
            one.supersedes is not None
            and Entry.objects.filter(job=self.job, entry_id=one.supersedes, who=self.user).exists()
        )

    def _no_such_weights(self, one: Sent) -> str | None:
        """Why weights of a set cannot be named so; None where they can."""
        reference = self._named(one)
        if reference is None or not reference.weights:
            return "Name a set of weights first: only of a set it is said which were used."
        unknown = reference_on_record(reference, one.text).unknown()
        known = ", ".join(row["label"] for row in reference.weights)
        return f"“{', '.join(unknown)}” is none of this set; it has {known}." if unknown else None

    def _named(self, one: Sent) -> Reference | None:
        """The reference that is named in the row of an entry."""
        named = named_at(self.fold, one.path)
        return Reference.objects.select_related("system").filter(id=_uuid(named)).first() if named else None

    def brought_by(self, one: Sent) -> list[Sent]:
        """What follows from naming a reference, or the weights of a set that are used.

        Ids come from the naming entry's, so that a resend is harmless. A second reference fills what
        the first left open, and nothing that stands there already.
        """
        reference = self._named(one)
        if reference is None:
            return []
        on_record = reference_on_record(reference, one.text if names_weights(one.path) else "")
        brought = follows_from(self.fold, self.order, one.path, one.text, on_record)
        return [
            Sent(uuid.uuid5(one.id, path), path, text, source=Entry.Source.RECORD, at=one.at, clock_off=one.clock_off)
            for path, text in brought.items()
        ]


def _uuid(text: str) -> uuid.UUID:
    """The id that a text is; one that nothing has where it is none."""
    try:
        return uuid.UUID(text)
    except ValueError:
        return uuid.UUID(int=0)


def _store(job: Job, before: Revision, batch: _Batch) -> Revision:
    rows = batch.rows
    Entry.objects.bulk_create(rows)
    job.touched_at = max(job.touched_at, rows[-1].at)
    after = revision_after(job, before, batch.fold, rows, job.touched_at)
    snapshot = after.snapshot
    changed = ["entries", "latest", "state", "not_valid", "call", "headline", "down", "touched_at"]
    job.entries, job.latest = after.count, after.latest
    job.state, job.not_valid = snapshot.stage, bool(snapshot.not_valid)
    answer = snapshot.machine
    job.call, job.headline, job.down = answer.call, answer.headline[:80], snapshot.decides.assessment.down
    named = [uuid.UUID(row.text) for row in rows if names_a_reference(row.path, row.text)]
    if any(one not in job.reference_ids for one in named):
        job.reference_ids = list(dict.fromkeys([*job.reference_ids, *named]))
        changed.append("reference_ids")
    if is_far_behind(job):
        job.fold, job.folded = snapshot.fold.as_json(), after.count
        changed += ["fold", "folded"]
    Job.objects.filter(pk=job.pk).update(**{name: getattr(job, name) for name in changed})
    transaction.on_commit(lambda: REVISIONS.put(job.id, after))
    ENTRIES.inc(len(rows))
    return after


SAID = ("path", "text", "unit", "undoes")
"""What an entry says; what is sent again under the same id has to say the same."""


def _said(one: Sent) -> list[Any]:
    return [getattr(one, name) for name in SAID]


def _same(before: list[Any], one: Sent) -> str | None:
    if before == _said(one):
        return None
    return "This entry's id was used before for something else; type it again."
