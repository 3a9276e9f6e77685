"""Jobs over HTTP: opening, entering, reading, files in and out."""

import logging
import uuid
from typing import Any
from uuid import UUID

from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest
from django.utils import timezone
from ninja import Body, Router

from beacon.bench import schemas
from beacon.bench.headers import remember, remembered, said_of_headers
from beacon.bench.keeping import Sent, enter, job_of, keep
from beacon.bench.left_behind import leave, seen
from beacon.bench.models import Entry, Job
from beacon.bench.opening import all_kept, import_once, open_job
from beacon.bench.revisions import revision_at, revision_of
from beacon.bench.view import at_hand_view, changed_view, job_view, kept_view, log_of, system_at_hand
from beacon.metrics import DIFFERENCES, SLOW
from beacon.people.access import organisation, person
from beacon.people.models import Person, Role
from beacon.people.rate_limit import limited
from beacon.plant.access import system_to_work_on
from beacon.plant.models import Channel, System
from beacon.problems import Problem, ProblemDocument
from beacon.validation import Whole
from wary.job.assess import parts_of
from wary.job.file import Refusal, Refused
from wary.job.rows_in import rows_in
from wary.machines import all_machines
from wary.machines.machine import Part

log = logging.getLogger(__name__)

Answer = dict[str, Any]
"""What a view hands to the response model of its endpoint."""

router = Router(tags=["jobs"])
MOST_ENTRIES, MOST_CHARACTERS = 500, 100_000
"""So much is kept at once: a device sends what waits in batches of this size."""


def _channel(system: System, channel_id: UUID | None) -> Channel:
    found = system.channels.filter(id=channel_id).first() if channel_id else system.channels.first()
    if found is None:
        raise Http404
    found.system = system
    return found


@router.post("jobs", response={201: schemas.JobView, 422: ProblemDocument})
@transaction.atomic
def begin(request: HttpRequest, given: schemas.OpenJobIn) -> tuple[int, Answer]:
    """Opens a job on a system, one method or its usual visit, with what its record knows entered first."""
    user = person(request)
    system = system_to_work_on(user, given.system)
    channel = _channel(system, given.channel)
    machine = all_machines()[system.kind]
    if system.practice:
        text = "This machine is for practice. Begin on the practice page."
        raise Problem(422, "Nothing real is tested here", errors=[{"path": "system", "text": text}])
    if given.method != schemas.VISIT and given.method not in machine.methods():
        text = f"A {machine.title} is tested by {', '.join(machine.methods())}."
        raise Problem(422, "This method is not for this system", errors=[{"path": "method", "text": text}])
    visit = machine.visit if given.method == schemas.VISIT else (Part("", given.method),)
    there = _opened_before(user, given.id, channel) if given.id else None
    if there:
        return 201, job_view(user, there, revision_of(there))
    at = min(given.at, timezone.now()) if given.at else None
    more: Answer = {"id": given.id} if given.id else {}
    try:
        with transaction.atomic():
            done = open_job(user, channel, visit, given.occasion, at, **more)
    except IntegrityError:
        raise Problem(409, "This job is being opened already", "Send it again in a moment.") from None
    if given.inputs:
        typed = [Sent(uuid.uuid4(), f"inputs.{key}", text) for key, text in given.inputs.items()]
        done = all_kept(keep(user, done.job, typed), "Look at what was typed.")
    return 201, job_view(user, done.job, done.after)


def _opened_before(user: Person, job_id: UUID, channel: Channel) -> Job | None:
    """The job that a device opened under this id, where it was sent before. Raises Problem where the id is another's."""
    there = Job.objects.filter(id=job_id).first()
    if there is None:
        return None
    if there.opened_by_id != user.pk or there.channel_id != channel.pk:
        raise Problem(409, "This job's id was used before for something else", "Begin it anew.")
    return job_of(user, there.id)


@router.get("systems/{system_id}/at-hand", response=schemas.SystemAtHand)
def system_along(request: HttpRequest, system_id: UUID) -> Answer:
    """What a device takes along of a system, to begin there without signal."""
    user = person(request)
    return system_at_hand(user, system_to_work_on(user, system_id))


@router.get("jobs/{job_id}", response=schemas.JobView)
def look(request: HttpRequest, job_id: UUID) -> Answer:
    """The job as it stands."""
    user = person(request)
    job = job_of(user, job_id)
    return job_view(user, job, revision_of(job))


@router.get("jobs/{job_id}/changes", response=schemas.ChangedView)
def changed(request: HttpRequest, job_id: UUID, after: Whole = 0, log: bool = False) -> Answer:
    """What is other than after so many entries: a cheap question, asked every few seconds by an open bench."""
    job = job_of(person(request), job_id)
    if after == job.entries:
        return {"entries": job.entries, "state": job.state, "changes": None}
    answer = changed_view(job, revision_at(job, min(after, job.entries)), revision_of(job))
    return answer | ({"log": [one.logged.as_json() for one in log_of(job, after)]} if log else {})


@router.get("jobs/{job_id}/at-hand", response=schemas.JobAtHand)
def at_hand(request: HttpRequest, job_id: UUID) -> Answer:
    """What a device takes along to go on with a job without signal."""
    return at_hand_view(job_of(person(request), job_id))


@router.post("jobs/{job_id}/entries", response={200: schemas.KeptView, 413: ProblemDocument, 422: ProblemDocument})
def keep_entries(
    request: HttpRequest,
    job_id: UUID,
    given: Body[list[schemas.EntrySent]],
    after: Whole | None = None,
    log: bool = False,
) -> Answer:
    """Keeps entries and answers with what changed since the job had `after` of them. Sending one again is harmless.

    One that cannot be read is refused by itself, as one that may not stand is; the others are kept.
    """
    user = person(request)
    read = [one for one in given if isinstance(one, schemas.EntryIn)]
    characters = sum(len(one.text) for one in read)
    if len(given) > MOST_ENTRIES or characters > MOST_CHARACTERS:
        job_of(user, job_id)
        text = (
            f"{len(given)} entries with {characters} characters at once; send at most {MOST_ENTRIES} entries "
            f"with {MOST_CHARACTERS} characters."
        )
        raise Problem(413, "Too much at once", text, [{"path": "", "text": text}])
    done = enter(user, job_id, [Sent(**one.model_dump()) for one in read])
    done.refused += [vars(one) for one in given if isinstance(one, schemas.Unread)]
    return kept_view(done, after, log)


@router.post("core/differences", response={204: None})
@limited("differences to report")
def differs(request: HttpRequest, given: schemas.DifferenceIn) -> tuple[int, None]:
    """Takes note that the core on a device judged a job otherwise than the server: a defect by definition."""
    job = job_of(person(request), given.job)
    DIFFERENCES.inc()
    log.warning("A device judged job %s otherwise after %s entries: %s", job.id, given.entries, given.said)
    return 204, None


@router.post("core/slow", response={204: None})
@limited("cores that began slowly")
def began_slowly(request: HttpRequest, given: schemas.SlowIn) -> tuple[int, None]:
    """Takes note that a device had to put its core together from files, since it could not go on from the snapshot."""
    person(request)
    SLOW.inc()
    log.warning("A device could not begin its core from the snapshot: %s", given.why)
    return 204, None


@router.post("jobs/{job_id}/left-behind", response={201: schemas.LeftBehindKept, 413: ProblemDocument})
@limited("entries to leave behind")
def leave_behind(request: HttpRequest, job_id: UUID, given: Body[list[schemas.EntryIn]]) -> tuple[int, Answer]:
    """Keeps for a lead what somebody typed into a job on which they may not work any more. Sending it again is harmless."""
    if len(given) > MOST_ENTRIES or sum(len(one.text) for one in given) > MOST_CHARACTERS:
        raise Http404
    return 201, {"left": leave(person(request), job_id, [Sent(**one.model_dump()) for one in given])}


@router.post("left-behind/seen", response={204: None})
def left_behind_seen(request: HttpRequest, given: schemas.LeftBehindSeen) -> tuple[int, None]:
    """A lead has seen to what somebody left in a job."""
    user = person(request)
    seen(user, organisation(user, Role.LEAD), given.job, given.person)
    return 204, None


@router.get("jobs/{job_id}/entries", response=list[schemas.TrailEntry])
def trail(request: HttpRequest, job_id: UUID, after: Whole = 0, path: str = "") -> list[Answer]:
    """The trail: every entry as it was typed, 500 at a time, of one path if asked."""
    user = person(request)
    job = job_of(user, job_id)
    entries = job.trail.filter(sequence__gt=after).select_related("who")
    if path:
        entries = entries.filter(path=path)
    return [entry.logged.as_json() | {"raw": entry.raw, "own": entry.who_id == user.pk} for entry in entries[:500]]


@router.post("jobs/{job_id}/rows", response={200: schemas.KeptView, 422: ProblemDocument})
@limited("files to bring in")
def bring_rows(request: HttpRequest, job_id: UUID, list: str, after: Whole | None = None, columns: str = "") -> Answer:
    """Brings rows of a list in from CSV: all of them, or none with each refused row by its line.

    `columns` says of header names which column they are (JSON; empty for one that is left out);
    what was said once is remembered for the organisation.
    """
    user = person(request)
    job = job_of(user, job_id)
    named = said_of_headers(columns)
    texts = rows_in(parts_of(job.parts), list, request.body, remembered(job, list) | named)
    remember(job, list, named)
    sent = [Sent(uuid.uuid4(), row.path, row.text, row.unit, Entry.Source.IMPORTED) for row in texts]
    return kept_view(enter(user, job_id, sent), after)


@router.post("systems/{system_id}/jobs/import", response={201: schemas.JobView, 422: ProblemDocument})
@limited("files to bring in")
def file_in(request: HttpRequest, system_id: UUID, channel: UUID | None = None) -> tuple[int, Answer]:
    """Brings a job file in as a new job; a malformed one is refused whole, every field named."""
    user = person(request)
    system = system_to_work_on(user, system_id)
    try:
        done = import_once(user, _channel(system, channel), request.body)
    except UnicodeDecodeError:
        raise Refused([Refusal("", "the file is not UTF-8 text; expected a job file")]) from None
    return 201, job_view(user, done.job, done.after)
