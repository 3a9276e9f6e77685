"""Closing a job: its record is canonical JSON, sealed with SHA-256 and chained to the one before.

Beside the job file a record holds what its papers say (`paper`), and what stands about it in the
database (`sealed`), so that a change of either is seen. Canonical means keys in order, no spaces, UTF-8, so that the seal is the SHA-256 of the very bytes
of the downloaded record, and anyone can work it out again.
"""

import csv
import datetime
import hashlib
import io
import json
import re
import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.db.models.functions import Coalesce
from django.utils import timezone

from beacon import tables
from beacon.attachments.keeping import carry_over, sealed_attachments
from beacon.bench.keeping import Kept, Sent, job_of, keep
from beacon.bench.models import Entry, Job, job_closed
from beacon.bench.opening import new_job
from beacon.bench.revisions import Revision, revision_of, snapshot_of
from beacon.bench.schemas import Expected
from beacon.people.models import Organisation, Person
from beacon.problems import Problem
from beacon.records.facts import facts
from beacon.records.handing_on import hand_on, note_faults
from beacon.records.models import Record, SealCount
from beacon.records.wording import paper_of
from wary.job.assess import Snapshot
from wary.job.closing import Asked, closed_as, fault_named, faults_found, in_the_way, summary
from wary.job.loose import still_loose
from wary.job.written import written


def canonical(content: dict[str, Any]) -> str:
    """The one way in which a record is written down."""
    return json.dumps(content, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def digest(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8")).hexdigest()


NOT_SEALED = ("sequence", "steady")
"""What stands in the order of a trail, and what is sealed only where it says something."""


def trail_of(entries: Iterable[Entry]) -> list[dict[str, Any]]:
    """Every entry as it was typed, in the order given; `person` is who, whatever they are called."""
    return [
        {key: one for key, one in entry.logged.as_json().items() if key not in NOT_SEALED}
        | {"person": str(entry.who_id)}
        # What an instrument said stands only where there is something: seals from before have none.
        | ({"raw": entry.raw} if entry.raw else {})
        | ({"steady": entry.steady} if entry.steady is not None else {})
        | ({"clock_off": entry.clock_off} if entry.clock_off is not None else {})
        for entry in entries
    ]


def job_content(job: Job, snapshot: Snapshot) -> dict[str, Any]:
    """The job file of a job, every part of it that was begun, with its assessment and trail."""
    content = written(snapshot)
    content["trail"] = trail_of(Entry.objects.filter(job=job).select_related("who").order_by("sequence"))
    papers = sealed_attachments(job)
    if papers:
        content["papers"] = papers
    if job.closing:
        content["closing"] = job.closing
    return content


@transaction.atomic
def close(
    user: Person, job: Job, asked: Asked, at: datetime.datetime | None = None, expected: Expected | None = None
) -> tuple[Job, Revision]:
    """Closes and seals. Raises Problem 409 where something is in the way, and says what. `at` is when, where not now.

    `expected` is what a device showed on which it was closed: where the job reads otherwise here, it is not sealed.
    """
    organisation = Organisation.objects.select_for_update(no_key=True).get(pk=job.channel.system.site.organisation_id)
    job = job_of(user, job.pk, lock=True)
    if not job.is_open:
        raise Problem(409, "This job is closed already", "Its record is in the log.")
    revision = revision_of(job)
    snapshot = revision.snapshot
    if expected:
        _as_expected(job, snapshot, expected)
    errors = in_the_way(snapshot, asked)
    if errors:
        raise Problem(409, "Not ready to close", "Something is still open.", errors)
    now = at or timezone.now()
    loose = still_loose(snapshot)
    job.closing = {
        "outcome": asked.outcome,
        "words": closed_as(snapshot, asked.outcome),
        "reason": asked.reason,
        "fault": asked.fault
        or (named.title if (named := fault_named(snapshot, asked)) and asked.outcome == "left-for-repair" else ""),
        "told": asked.told,
        "loose_ends": [end.text for end in loose],
        "loose_reason": asked.loose_reason,
        "signed": asked.signed.strip(),
        "closed_by": str(user),
        "closed_at": now.isoformat(),
        "opened_by": str(job.opened_by),
        "opened_at": job.opened_at.isoformat(),
    }
    job.state = Job.State.ABANDONED if asked.outcome == "abandoned" else Job.State.CLOSED
    answer = snapshot.machine
    job.call, job.headline, job.down = answer.call, answer.headline[:80], snapshot.decides.assessment.down
    job.closed_at = now
    job.summary = summary(snapshot) | {"outcome": job.closing["words"], "closed_by": str(user)}
    job.not_valid = False
    job.save(update_fields=["state", "closing", "call", "headline", "down", "closed_at", "summary", "not_valid"])
    if job.practice:
        job_closed.send(Job, job=job)
        return job, revision
    record = seal(user, organisation, job, snapshot, now)
    if asked.outcome != "abandoned":
        note_faults(user, job, faults_found(snapshot, asked))
    if asked.outcome != "abandoned" and not _followed(job):
        hand_on(user, job, record, snapshot, asked.outcome)
    job_closed.send(Job, job=job)
    return job, revision


def _as_expected(job: Job, snapshot: Snapshot, expected: Expected) -> None:
    """Raises Problem where a job is not what a device showed when it was closed on it."""
    answer, said = snapshot.machine, []
    if job.entries != expected.entries:
        said.append(f"It has {job.entries} entries here, and had {expected.entries} there: somebody entered something else meanwhile.")  # fmt: skip
    if (answer.call, answer.headline) != (expected.call, expected.headline):
        said.append(f"The device said “{expected.headline}”; here it is “{answer.headline}”.")
    if expected.reasons is not None:
        said += [reason.text for reason in answer.reasons if reason.code not in expected.reasons]
    if said:
        rows = [{"path": "expected", "text": text} for text in said]
        raise Problem(409, "Not sealed: it reads otherwise here", "Look at it once more, and close it again.", rows)


def _followed(job: Job) -> bool:
    """Whether a job has a later one after it, whose word stands: it puts an earlier one right, or came in late.

    What is of an earlier moment hands nothing on over what is of a later one, whichever arrived first.
    """
    others = Job.objects.filter(channel=job.channel_id, practice=False, state=Job.State.CLOSED).exclude(pk=job.pk)
    tested = Coalesce("tested_at", "closed_at")
    return others.annotate(tested=tested).filter(tested__gt=job.tested_at or job.closed_at).exists()


@transaction.atomic
def put_right(user: Person, record: Record, why: str, at: datetime.datetime | None = None) -> Kept:
    """A new job that says again what a sealed one said, to be put right and sealed in its turn; `at` is when, where not now.

    What was in force is entered as brought in; photographs and papers go with it. One that is open already is given
    back. Raises Problem 409 where the record was put right already.
    """
    Record.objects.select_for_update(no_key=True).get(pk=record.pk)
    _not_yet(record)
    begun = Job.objects.filter(puts_right=record.pk, closed_at=None).order_by("opened_at").first()
    if begun is not None:
        # One at a time: whoever comes second goes on with what the first began.
        begun = job_of(user, begun.pk)
        there = revision_of(begun)
        return Kept(begun, there, there)
    before = Job.objects.select_related(*BEHIND).get(pk=record.job_id)
    now = at or timezone.now()
    job = new_job(user, before.channel, before.parts, False, now)
    job.puts_right, job.puts_right_why = record.id, why
    job.tested_at = before.tested_at or before.closed_at
    job.save(update_fields=["puts_right", "puts_right_why", "tested_at"])
    fields = snapshot_of(before).fold.fields
    sent = [
        Sent(uuid.uuid4(), path, field.text, field.unit, source=_again(field.source), at=now)
        for path, field in sorted(fields.items(), key=lambda one: one[1].seq)
        if field.text
    ]
    if "date" not in fields:
        sent.append(Sent(uuid.uuid4(), "date", _day(job), source=Entry.Source.IMPORTED, at=now))
    done = keep(user, job, sent, opening=True)
    if done.refused:
        raise Problem(
            409, "This record cannot be opened again", "Something in it may not stand here any more.", done.refused
        )
    carry_over(user, before, job)
    return done


def _again(source: str) -> str:
    """Where what is said again comes from: what was on record still is, and is nobody's typing; all else is brought in."""
    return Entry.Source.RECORD if source == Entry.Source.RECORD else Entry.Source.IMPORTED


BEHIND = ("channel__system__site__organisation", "channel__system__profile", "channel__system__reference", "opened_by")


def _day(job: Job) -> str:
    assert job.tested_at
    return job.channel.system.site.day_of(job.tested_at).isoformat()


def _not_yet(record: Record) -> None:
    """Raises Problem where a record was put right already."""
    by = Record.objects.filter(supersedes=record).first()
    if by:
        text = f"Record {by.number} puts it right. Open that one, if it is still wrong."
        raise Problem(409, "This record was put right already", text)


def seal(user: Person, organisation: Organisation, job: Job, snapshot: Snapshot, at: datetime.datetime) -> Record:
    """The record of a closed job, chained. The organisation's row is locked by the caller."""
    last = Record.objects.filter(organisation=organisation).order_by("-number").first()
    number, previous = (last.number + 1, last.sha256) if last else (1, "")
    content = job_content(job, snapshot)
    # One that was given up puts nothing right: it stands beside the record that it was begun from.
    puts_right = job.puts_right if job.state == Job.State.CLOSED else None
    before = Record.objects.get(pk=puts_right) if puts_right else None
    if before:
        _not_yet(before)
        content["supersedes"] = {"number": before.number, "sha256": before.sha256, "reason": job.puts_right_why}
    record = Record(
        organisation=organisation,
        job=job,
        number=number,
        previous=previous,
        supersedes=before,
        sealed_at=at,
        sealed_by=user,
    )
    content["sealed"] = facts(record, job)
    content["paper"] = paper_of(content, job)
    # Last: all other organisations that seal wait from here until this record is kept.
    record.serial = _next_of_all()
    content["chain"] = {"number": number, "previous": previous, "job": str(job.id), "of_all": record.serial}
    record.content = canonical(content)
    record.sha256 = digest(record.content)
    record.save(force_insert=True)
    return record


def _next_of_all() -> int:
    """The next number of all records that this database holds: one that is missing later is missed.

    Its row stays locked until the record is there, so that no number is left out.
    """
    if not SealCount.objects.filter(pk=1).exists():
        # Only for the first of all are they counted.
        SealCount.objects.get_or_create(pk=1, defaults={"count": Record.objects.filter(brought=False).count()})
    counted = SealCount.objects.select_for_update().get(pk=1)
    counted.count += 1
    counted.save(update_fields=["count"])
    return counted.count


@dataclass(frozen=True)
class Handed:
    """A seal that was handed out before, and is kept elsewhere: what record has to have it."""

    number: int
    sha256: str


SEALS = ("organisation", "record", "sealed", "seal")
"""The head of a list of seals that is kept elsewhere."""


def seals(organisation: Organisation) -> bytes:
    """Every seal of an organisation as CSV, to be kept where nobody who can write here can write."""
    rows = (
        Record.objects.filter(organisation=organisation).order_by("number").values_list("number", "sealed_at", "sha256")
    )
    return tables.as_csv(SEALS, ((str(organisation.id), number, at, sha256) for number, at, sha256 in rows.iterator()))


def read_seals(content: bytes) -> dict[str, list[Handed]]:
    """A list of seals as it was kept, by organisation. Raises ValueError with the line that cannot be read."""
    found: dict[str, list[Handed]] = {}
    lines = csv.reader(io.StringIO(content.decode("utf-8-sig")))
    for number, line in enumerate(lines, 1):
        if number == 1 and tuple(line) == SEALS or not line:
            continue
        if len(line) != len(SEALS) or not line[1].isdecimal() or not re.fullmatch("[0-9a-f]{64}", line[3]):
            raise ValueError(f"line {number} is no line of a list of seals; expected {', '.join(SEALS)}")
        found.setdefault(line[0], []).append(Handed(int(line[1]), line[3]))
    return found
