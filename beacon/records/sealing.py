"""Closing a job: its record is canonical JSON, sealed with SHA-256 and chained to the one before.

Canonical means keys in order, no spaces, UTF-8, so that the seal is the SHA-256 of the very bytes
of the downloaded record, and anyone can work it out again.
"""

import csv
import datetime
import hashlib
import io
import json
import re
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any
from zoneinfo import ZoneInfo

from django.db import transaction
from django.utils import timezone

from beacon.bench.keeping import Kept, Sent, job_of, keep
from beacon.bench.models import Entry, Job
from beacon.bench.opening import new_job
from beacon.bench.standing import Moment, moment_of, standing_of
from beacon.papers.keeping import carry_over, first_gone, sealed_papers
from beacon.people.models import Organisation, Person
from beacon.problems import Problem
from beacon.records import tables
from beacon.records.handing_on import hand_on
from beacon.records.models import Record
from wary.job.assess import Standing
from wary.job.closing import Asked, closed_as, in_the_way, summary
from wary.job.loose import still_loose
from wary.job.written import written


def canonical(content: dict[str, Any]) -> str:
    """The one way in which a record is written down."""
    return json.dumps(content, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


def digest(text: str) -> str:
    return hashlib.sha256(text.encode("utf-8")).hexdigest()


def trail_of(job: Job) -> list[dict[str, Any]]:
    """Every entry as it was typed, in order."""
    return [
        {
            "id": str(entry.entry_id),
            "path": entry.path,
            "text": entry.text,
            "unit": entry.unit,
            "source": entry.source,
            "supersedes": str(entry.supersedes) if entry.supersedes else None,
            "undoes": entry.undoes,
            "who": str(entry.who),
            "at": entry.at.isoformat(),
        }
        # The line of an instrument stands only where there is one: seals from before have none.
        | ({"raw": entry.raw} if entry.raw else {})
        for entry in Entry.objects.filter(job=job).select_related("who").order_by("sequence")
    ]


def job_content(job: Job, standing: Standing) -> dict[str, Any]:
    """The job file of a job, every part of it that was begun, with its assessment and trail."""
    content = written(standing)
    content["trail"] = trail_of(job)
    papers = sealed_papers(job)
    if papers:
        content["papers"] = papers
    if job.closing:
        content["closing"] = job.closing
    return content


@transaction.atomic
def close(user: Person, job: Job, asked: Asked, at: datetime.datetime | None = None) -> tuple[Job, Moment]:
    """Closes and seals. Raises Problem 409 where something is in the way, and says what. `at` is when, where not now."""
    organisation = Organisation.objects.select_for_update().get(pk=job.channel.system.site.organisation_id)
    job = job_of(user, job.pk, lock=True)
    if not job.is_open:
        raise Problem(409, "This job is closed already", "Its record is in the log.")
    moment = moment_of(job)
    standing = moment.standing
    errors = in_the_way(standing, asked)
    if errors:
        raise Problem(409, "Not ready to close", "Something is still open.", errors)
    now = at or timezone.now()
    loose = still_loose(standing)
    job.closing = {
        "outcome": asked.outcome,
        "words": closed_as(standing, asked.outcome),
        "reason": asked.reason,
        "fault": asked.fault,
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
    answer = standing.decides.assessment
    job.call, job.headline, job.down = answer.call, answer.headline, answer.down
    job.closed_at = now
    job.summary = summary(standing) | {"outcome": job.closing["words"], "closed_by": str(user)}
    job.not_valid = False
    job.save(update_fields=["state", "closing", "call", "headline", "down", "closed_at", "summary", "not_valid"])
    if job.practice:
        return job, moment
    record = seal(user, organisation, job, standing, now)
    if asked.outcome != "abandoned" and not _followed(job):
        hand_on(user, job, record, standing, asked.outcome)
    return job, moment


def _followed(job: Job) -> bool:
    """Whether a job that puts an earlier one right has a later one after it, whose word stands."""
    if job.tested_at is None:
        return False
    later = Job.objects.filter(channel=job.channel, closed_at__gt=job.tested_at, practice=False)
    return later.exclude(pk=job.pk).filter(state=Job.State.CLOSED).exists()


@transaction.atomic
def put_right(user: Person, record: Record, why: str, at: datetime.datetime | None = None) -> Kept:
    """A new job that says again what a sealed one said, to be put right and sealed in its turn; `at` is when, where not now.

    What was in force is entered as brought in; photographs and papers go with it. Raises Problem
    409 where the record was put right already.
    """
    Record.objects.select_for_update().get(pk=record.pk)
    _not_yet(record)
    before = Job.objects.select_related(*BEHIND).get(pk=record.job_id)
    now = at or timezone.now()
    job = new_job(user, before.channel, before.parts, False, now)
    job.puts_right, job.puts_right_why = record.id, why
    job.tested_at = before.tested_at or before.closed_at
    job.save(update_fields=["puts_right", "puts_right_why", "tested_at"])
    fields = standing_of(before).fold["fields"]
    sent = [
        Sent(uuid.uuid4(), path, field["text"], field["unit"], source=_again(field["source"]), at=now)
        for path, field in sorted(fields.items(), key=lambda one: one[1]["seq"])
        if field["text"]
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
    return job.tested_at.astimezone(ZoneInfo(job.channel.system.site.time_zone)).date().isoformat()


def _not_yet(record: Record) -> None:
    """Raises Problem where a record was put right already."""
    by = Record.objects.filter(supersedes=record).first()
    if by:
        text = f"Record {by.number} puts it right. Open that one, if it is still wrong."
        raise Problem(409, "This record was put right already", text)


def seal(user: Person, organisation: Organisation, job: Job, standing: Standing, at: datetime.datetime) -> Record:
    """The record of a closed job, chained. The organisation's row is locked by the caller."""
    last = Record.objects.filter(organisation=organisation).order_by("-number").first()
    number, previous = (last.number + 1, last.sha256) if last else (1, "")
    content = job_content(job, standing)
    before = Record.objects.get(pk=job.puts_right) if job.puts_right else None
    if before:
        _not_yet(before)
        content["supersedes"] = {"number": before.number, "sha256": before.sha256, "reason": job.puts_right_why}
    content["chain"] = {"number": number, "previous": previous, "job": str(job.id)}
    text = canonical(content)
    return Record.objects.create(
        organisation=organisation,
        job=job,
        number=number,
        content=text,
        sha256=digest(text),
        previous=previous,
        supersedes=before,
        sealed_at=at,
        sealed_by=user,
    )


def _same_trail(sealed: list[dict[str, Any]], job: Job) -> bool:
    """Whether the entries are those that were sealed. Someone may be called otherwise since; but each only one thing."""
    if _unnamed(sealed) != _unnamed(trail_of(job)):
        return False
    people = list(Entry.objects.filter(job=job).order_by("sequence").values_list("who_id", flat=True))
    pairs = {(who, one["who"]) for who, one in zip(people, sealed, strict=True)}
    return len(pairs) == len({who for who, _ in pairs})


def _unnamed(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    return [{**row, "who": ""} for row in rows]


@dataclass
class Broken:
    """The first link of an organisation's chain that does not fit, and why."""

    organisation: str
    number: int
    system: str
    why: str


@dataclass(frozen=True)
class Handed:
    """A seal that was handed out before, and is kept elsewhere: what record has to have it."""

    number: int
    sha256: str


def verify(against: dict[str, list[Handed]] | None = None) -> Iterator[Broken | str]:
    """Walks every organisation's chain: a sentence for each that holds, the first bad link for each that does not.

    `against` holds seals kept elsewhere, by the id of their organisation: a chain that was made
    anew or shortened does not have them.
    """
    for organisation in Organisation.objects.order_by("name"):
        found, count = walk(organisation, (against or {}).get(str(organisation.id), []))
        held = len((against or {}).get(str(organisation.id), []))
        beside = f", {held} seals kept elsewhere agree" if held else ""
        yield found or f"{organisation.name}: {count} record{'' if count == 1 else 's'}, every link fits{beside}."


def walk(organisation: Organisation, against: list[Handed] | None = None) -> tuple[Broken | None, int]:
    """Walks one chain: the first link that does not fit, if there is one, and how many records were looked at."""
    records = Record.objects.filter(organisation=organisation).select_related("job__channel__system", "supersedes")
    elsewhere = {one.number: one.sha256 for one in against or []}
    previous, count = "", 0
    for record in records.order_by("number").iterator(chunk_size=200):
        count += 1
        why = why_broken(record, count, previous, files=True)
        if not why and elsewhere.get(record.number, record.sha256) != record.sha256:
            why = "its seal is not the one that was handed out: the chain was made anew"
        if why:
            return Broken(organisation.name, record.number, record.job.channel.system.name, why), count
        previous = record.sha256
    missing = sorted(number for number in elsewhere if number > count)
    if missing:
        why = f"record {missing[0]} was sealed and is not here any more: the chain was shortened"
        return Broken(organisation.name, missing[0], "", why), count
    return _handed_on_wrong(organisation), count


def _handed_on_wrong(organisation: Organisation) -> Broken | None:
    """The first channel whose factor is not what its latest sealed record handed on and no one changed since."""
    latest = (
        Record.objects.filter(organisation=organisation, job__state=Job.State.CLOSED)
        .order_by("job__channel_id", "-job__closed_at")
        .distinct("job__channel_id")
        .select_related("job__channel__system")
    )
    for record in latest:
        job, channel = record.job, record.job.channel
        content = json.loads(record.content)
        sealed = (content.get("closing") or {}).get("words")
        if (job.closing or {}) != content.get("closing", {}):
            return Broken(
                organisation.name, record.number, channel.system.name, "how its job was closed is not what was sealed"
            )
        if (job.summary or {}).get("outcome") != sealed:
            return Broken(
                organisation.name, record.number, channel.system.name, "what its history says is not what was sealed"
            )
        factor = (job.summary or {}).get("factor_after") or ""
        since = channel.system.changes.filter(field="factor", at__gt=job.closed_at).exists()
        if factor and channel.factor != factor and not since and not job.tested_at:
            why = f"its factor on record, {channel.factor or 'none'}, is not the one handed on, {factor}"
            return Broken(organisation.name, record.number, channel.system.name, why)
    return None


def why_broken(record: Record, number: int, previous: str, files: bool = False) -> str | None:
    """Why a record does not fit at this place of its chain, in words; None where it does. `files` reads its papers too."""
    if record.number != number:
        return f"record {number} is missing from the chain"
    if digest(record.content) != record.sha256:
        return "its content does not give its seal: it was changed after sealing"
    if record.previous != previous:
        return "it does not point to the seal of the record before it"
    content = json.loads(record.content)
    chain = content.get("chain", {})
    if (chain.get("number"), chain.get("previous")) != (number, previous):
        return "the place in the chain that it was sealed with is another"
    if not _same_trail(content.get("trail", []), record.job):
        return "the entries in the database are not those that were sealed"
    if _unnamed(content.get("papers", [])) != _unnamed(sealed_papers(record.job)):
        return "its photographs and papers are not those that were sealed"
    before = record.supersedes
    if (content.get("supersedes") or {}).get("sha256", "") != (before.sha256 if before else ""):
        return "the record that it puts right is another than was sealed"
    return (first_gone(record.job.papers.all()) or None) if files else None


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
