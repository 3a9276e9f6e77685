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

from beacon.bench.document import Assessed, assess, judged
from beacon.bench.fold import text_at
from beacon.bench.loose import is_complete, loose_ends
from beacon.bench.models import Entry, Job
from beacon.people.models import Organisation, Person
from beacon.problems import Problem
from beacon.records.handing_on import hand_on, summary
from beacon.records.models import Record

OUTCOMES = {
    "complete": "complete",
    "not-confirmed": "adjusted, not confirmed",
    "limited": "limited by the reference",
    "out-of-service": "taken out of service",
    "abandoned": "abandoned",
}


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


def job_content(job: Job, assessed: Assessed) -> dict[str, Any]:
    """The job file of a job with its assessment and trail."""
    content = dict(assessed.file)
    content["assessment"] = assessed.assessment.as_json()
    if assessed.parts:
        content["visit"] = [
            {"part": key, **one.file, "assessment": one.assessment.as_json()} for key, one in assessed.parts.items()
        ]
    content["trail"] = trail_of(job)
    if job.closing:
        content["closing"] = job.closing
    return content


@dataclass
class Closing:
    """How a job is to be closed; `at` is when, where that is not now."""

    signed: str
    outcome: str
    reason: str = ""
    loose_reason: str = ""
    at: datetime.datetime | None = None


@transaction.atomic
def close(user: Person, job: Job, asked: Closing) -> tuple[Job, Assessed]:
    """Closes and seals. Raises Problem 409 where something is in the way, and says what."""
    organisation = Organisation.objects.select_for_update().get(pk=job.channel.system.site.organisation_id)
    job.refresh_from_db(fields=["fold", "state", "touched_at"], from_queryset=Job.objects.select_for_update())
    if not job.is_open:
        raise Problem(409, "This job is closed already", "Its record is in the log.")
    assessed = assess(job, job.fold)
    still_loose = [end for end in loose_ends(job, assessed) if not end["done"]]
    _refuse_unready(job, assessed, still_loose, asked)
    now, outcome = asked.at or timezone.now(), asked.outcome
    speaks = judged(job, assessed)
    job.closing = {
        "outcome": outcome,
        "words": _words_of(job, outcome, speaks),
        "reason": asked.reason,
        "loose_ends": [end["text"] for end in still_loose],
        "loose_reason": asked.loose_reason,
        "signed": asked.signed.strip(),
        "closed_by": str(user),
        "closed_at": now.isoformat(),
        "opened_by": str(job.opened_by),
        "opened_at": job.opened_at.isoformat(),
    }
    job.state = Job.State.ABANDONED if outcome == "abandoned" else Job.State.CLOSED
    job.call, job.headline = speaks.assessment.call, speaks.assessment.headline
    job.closed_at, job.summary = now, summary(job, assessed)
    job.save(update_fields=["state", "closing", "call", "headline", "closed_at", "summary"])
    if job.practice:
        return job, assessed
    record = seal(user, organisation, job, assessed, now)
    if outcome != "abandoned":
        hand_on(user, job, record, assessed, bool(still_loose))
    return job, assessed


def _refuse_unready(job: Job, assessed: Assessed, still_loose: list[dict[str, Any]], asked: Closing) -> None:
    errors = []
    outcome = asked.outcome
    if not asked.signed.strip():
        errors.append({"path": "signed", "text": "Who closes this job? Type your name."})
    if outcome == "complete" and not is_complete(job, assessed):
        answer = assessed.assessment
        text = f"The call is “{answer.headline}”, so the job is not complete. Go on, or close it as something else, with the reason."
        errors.append({"path": "outcome", "text": text})
    if outcome != "complete" and not _words(asked.reason):
        errors.append({"path": "reason", "text": "Say why it is closed this way, in words."})
    if still_loose and outcome != "abandoned" and not _words(asked.loose_reason):
        for end in still_loose:
            errors.append({"path": f"loose.{end['key']}", "text": end["text"]})
        errors.append({"path": "loose_reason", "text": "Put these back, or say why they stay as they are."})
    if errors:
        raise Problem(409, "Not ready to close", "Something is still open.", errors)


def _words(text: str) -> bool:
    return any(letter.isalpha() for letter in text)


def seal(user: Person, organisation: Organisation, job: Job, assessed: Assessed, at: datetime.datetime) -> Record:
    """The record of a closed job, chained. The organisation's row is locked by the caller."""
    last = Record.objects.filter(organisation=organisation).order_by("-number").first()
    number, previous = (last.number + 1, last.sha256) if last else (1, "")
    content = job_content(job, assessed)
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


def _words_of(job: Job, outcome: str, speaks: Assessed) -> str:
    """What a job was closed as, in words; one that touched nothing was a verification."""
    if outcome != "complete":
        return OUTCOMES[outcome]
    codes = {reason.code for reason in speaks.assessment.reasons}
    if "provisional" in codes:
        return "provisional"
    touched = speaks.assessment.as_found or text_at(job.fold, "read_back") or "holds-after-adjustment" in codes
    compared = codes & {"within-limit", "verified", "below-reference-division"}
    return "verified, left as found" if compared and not touched else OUTCOMES[outcome]


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
