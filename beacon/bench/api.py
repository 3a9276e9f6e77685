"""Jobs over HTTP: opening, entering, reading, closing, files in and out."""

import json
import uuid
from typing import Any
from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router

from beacon.bench import schemas
from beacon.bench.csv_rows import entries_from
from beacon.bench.document import Assessed, assess
from beacon.bench.keeping import Given, import_job, job_of, keep, open_job
from beacon.bench.models import Job
from beacon.bench.view import job_view, kept_view
from beacon.people.access import person, system_to_work_on
from beacon.problems import Problem, ProblemDocument
from beacon.records.sealing import Closing, close, job_content
from wary.document import Refusal, Refused, decode, read
from wary.methods import all_methods
from wary.visits import VISITS

router = Router(tags=["bench"])
MOST_ENTRIES = 2000


def _methods_for(kind: str) -> list[str]:
    return [key for key, method in all_methods().items() if kind in method.kinds]


@router.post("jobs", response={201: schemas.JobView, 422: ProblemDocument})
def begin(request: HttpRequest, given: schemas.OpenJobIn) -> Any:
    """Opens a job on a system, one method or its usual visit, with what its record knows entered first."""
    user = person(request)
    system = system_to_work_on(user, given.system)
    channel = system.channels.filter(id=given.channel).first() if given.channel else system.channels.first()
    if channel is None:
        raise Http404
    channel.system = system
    visit = None
    method = given.method
    if method == "visit":
        visit = [part.as_json() for part in VISITS[system.kind]]
        method = next(part.method for part in VISITS[system.kind] if not part.key)
    elif method not in _methods_for(system.kind):
        text = f"A {system.get_kind_display()} is tested by {', '.join(_methods_for(system.kind))}."
        raise Problem(422, "This method is not for this system", errors=[{"path": "method", "text": text}])
    done = open_job(user, channel, method, given.occasion, visit=visit)
    if given.inputs:
        typed = [Given(uuid.uuid4(), f"inputs.{key}", text) for key, text in given.inputs.items()]
        done = keep(user, done.job, typed)
    return 201, job_view(user, done.job, done.assessed)


@router.get("jobs/{job_id}", response=schemas.JobView)
def look(request: HttpRequest, job_id: UUID) -> Any:
    """The job as it stands."""
    user = person(request)
    job, assessed = _assessed(request, job_id)
    return job_view(user, job, assessed)


@router.get("jobs/{job_id}/count", response=dict[str, int])
def count(request: HttpRequest, job_id: UUID) -> Any:
    """How many entries are kept: a cheap question, asked every few seconds by an open bench."""
    return {"entries": job_of(person(request), job_id).fold["count"]}


@router.post("jobs/{job_id}/entries", response={200: schemas.KeptView, 422: ProblemDocument})
def enter(request: HttpRequest, job_id: UUID, given: list[schemas.EntryIn]) -> Any:
    """Keeps entries and answers with the job's new call. Sending one again is harmless."""
    user = person(request)
    job = job_of(user, job_id)
    if len(given) > MOST_ENTRIES:
        text = f"{len(given)} entries at once; send at most {MOST_ENTRIES}."
        raise Problem(422, "Too many entries at once", errors=[{"path": "", "text": text}])
    return kept_view(user, keep(user, job, [Given(**one.dict()) for one in given]))


@router.get("jobs/{job_id}/entries", response=list[schemas.TrailEntry])
def trail(request: HttpRequest, job_id: UUID, after: int = 0, path: str = "") -> Any:
    """The trail: every entry as it was typed, 500 at a time, of one path if asked."""
    job = job_of(person(request), job_id)
    entries = job.entries.filter(sequence__gt=after).select_related("who")
    if path:
        entries = entries.filter(path=path)
    return [
        {
            "id": entry.entry_id,
            "sequence": entry.sequence,
            "path": entry.path,
            "text": entry.text,
            "unit": entry.unit,
            "source": entry.source,
            "supersedes": entry.supersedes,
            "undoes": entry.undoes,
            "who": str(entry.who),
            "at": entry.at,
        }
        for entry in entries[:500]
    ]


@router.post("jobs/{job_id}/close", response={200: schemas.JobView, 409: ProblemDocument, 422: ProblemDocument})
def end(request: HttpRequest, job_id: UUID, given: schemas.CloseIn) -> Any:
    """Closes the job and seals its record; says what is still in the way."""
    user = person(request)
    job = job_of(user, job_id)
    job, assessed = close(user, job, Closing(**given.dict()))
    return job_view(user, job, assessed)


@router.get("jobs/{job_id}/job.json", response={200: dict[str, Any]})
def file_out(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The job as a job file, with its assessment and trail."""
    job, assessed = _assessed(request, job_id)
    text = json.dumps(job_content(job, assessed), indent=2, ensure_ascii=False)
    headers = {"Content-Disposition": f'attachment; filename="job-{job.id}.json"'}
    return HttpResponse(text, content_type="application/json", headers=headers)


@router.post("jobs/{job_id}/rows", response={200: schemas.KeptView, 422: ProblemDocument})
def rows_in(request: HttpRequest, job_id: UUID, list: str) -> Any:
    """Brings rows of a list in from CSV: all of them, or none with each refused row by its line."""
    user = person(request)
    job = job_of(user, job_id)
    return kept_view(user, keep(user, job, entries_from(job, list, request.body)))


@router.post("systems/{system_id}/jobs/import", response={201: schemas.JobView, 422: ProblemDocument})
def file_in(request: HttpRequest, system_id: UUID) -> Any:
    """Brings a job file in as a new job; a malformed one is refused whole, every field named."""
    user = person(request)
    system = system_to_work_on(user, system_id)
    try:
        document = decode(request.body.decode("utf-8-sig"))
    except UnicodeDecodeError:
        raise Refused([Refusal("", "the file is not UTF-8 text; expected a job file")]) from None
    found = read(document)
    if found.method is None or found.method.key not in _methods_for(system.kind):
        wanted = ", ".join(_methods_for(system.kind))
        raise Refused([Refusal("method", f"expected a method for a {system.get_kind_display()}: {wanted}")])
    channel = system.channels.first()
    if channel is None:
        raise Http404
    channel.system = system
    done = import_job(user, channel, document)
    return 201, job_view(user, done.job, done.assessed)


def _assessed(request: HttpRequest, job_id: UUID) -> tuple[Job, Assessed]:
    job = job_of(person(request), job_id)
    return job, assess(job, job.fold)
