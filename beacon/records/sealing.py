"""Closing a job: its record is canonical JSON, sealed with SHA-256 and chained to the one before.

Canonical means keys in order, no spaces, UTF-8, so that the seal is the SHA-256 of the very bytes
of the downloaded record, and anyone can work it out again.
"""

import datetime
import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from beacon.bench.keeping import job_of
from beacon.bench.models import Entry, Job
from beacon.bench.standing import Moment, moment_of
from beacon.people.models import Organisation, Person
from beacon.problems import Problem
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
        for entry in Entry.objects.filter(job=job).select_related("who").order_by("sequence")
    ]


def job_content(job: Job, standing: Standing) -> dict[str, Any]:
    """The job file of a job, every part of it that was begun, with its assessment and trail."""
    content = written(standing)
    content["trail"] = trail_of(job)
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
    if asked.outcome != "abandoned":
        hand_on(user, job, record, standing, asked.outcome)
    return job, moment


def seal(user: Person, organisation: Organisation, job: Job, standing: Standing, at: datetime.datetime) -> Record:
    """The record of a closed job, chained. The organisation's row is locked by the caller."""
    last = Record.objects.filter(organisation=organisation).order_by("-number").first()
    number, previous = (last.number + 1, last.sha256) if last else (1, "")
    content = job_content(job, standing)
    content["chain"] = {"number": number, "previous": previous, "job": str(job.id)}
    text = canonical(content)
    return Record.objects.create(
        organisation=organisation,
        job=job,
        number=number,
        content=text,
        sha256=digest(text),
        previous=previous,
        sealed_at=at,
        sealed_by=user,
    )


@dataclass
class Broken:
    """The first link of an organisation's chain that does not fit, and why."""

    organisation: str
    number: int
    system: str
    why: str


def verify() -> Iterator[Broken | str]:
    """Walks every organisation's chain: a sentence for each that holds, the first bad link for each that does not."""
    for organisation in Organisation.objects.order_by("name"):
        records = (
            Record.objects.filter(organisation=organisation).select_related("job__channel__system").order_by("number")
        )
        broken = None
        previous, count = "", 0
        for record in records.iterator(chunk_size=200):
            count += 1
            why = why_broken(record, count, previous)
            if why:
                broken = Broken(organisation.name, record.number, record.job.channel.system.name, why)
                break
            previous = record.sha256
        yield broken or f"{organisation.name}: {count} record{'' if count == 1 else 's'}, every link fits."


def why_broken(record: Record, number: int, previous: str) -> str | None:
    """Why a record does not fit at this place of its chain, in words; None where it does."""
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
    if content.get("trail") != trail_of(record.job):
        return "the entries in the database are not those that were sealed"
    return None
