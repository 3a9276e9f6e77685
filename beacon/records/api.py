"""Closing jobs, putting records right, and the chain of seals."""

from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router

from beacon import tables
from beacon.bench.keeping import job_of
from beacon.bench.revisions import snapshot_of
from beacon.bench.schemas import CloseIn, JobView
from beacon.bench.view import job_view
from beacon.database.apart import apart
from beacon.downloads import as_file, download
from beacon.people.access import organisation, person, works_in
from beacon.people.models import Organisation, Role
from beacon.people.rate_limit import limited
from beacon.plant.view import Answer
from beacon.problems import Problem, ProblemDocument
from beacon.records import schemas
from beacon.records.access import record_of
from beacon.records.models import Record
from beacon.records.noting import verify_and_note
from beacon.records.sealing import close, job_content, put_right, seals
from wary.job.closing import Asked

router = Router(tags=["records"])
PAGE = 30
TRACED = 100
BYTES = {200: bytes}


@router.post("jobs/{job_id}/close", response={200: JobView, 409: ProblemDocument, 422: ProblemDocument})
def end(request: HttpRequest, job_id: UUID, given: CloseIn) -> Answer:
    """Closes the job and seals its record; says what is still in the way."""
    user = person(request)
    job = job_of(user, job_id)
    at = max(job.touched_at, min(given.at, timezone.now())) if given.at else None
    asked = Asked(**given.model_dump(exclude={"expected", "at"}))
    job, revision = close(user, job, asked, at, given.expected)
    return job_view(user, job, revision)


@router.get("jobs/{job_id}/job.json", response=BYTES)
@limited("tables to take away")
def file_out(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The job as a job file, with its assessment and trail."""
    job = job_of(person(request), job_id)
    return download(job_content(job, snapshot_of(job)), f"job-{job.id}.json")


@router.post("records/{record_id}/put-right", response={201: JobView, 409: ProblemDocument, 422: ProblemDocument})
def begin_putting_right(request: HttpRequest, record_id: UUID, given: schemas.PutRightIn) -> tuple[int, Answer]:
    """Opens a job that says again what a sealed one said, to be put right; only a lead may."""
    user = person(request)
    record = Record.objects.filter(id=record_id, organisation__in=works_in(user, Role.LEAD)).first()
    if record is None:
        raise Http404
    if not any(letter.isalpha() for letter in given.reason):
        raise Problem(
            422, "Not opened", errors=[{"path": "reason", "text": "What was wrong? In words, for the record."}]
        )
    done = put_right(user, record, given.reason.strip())
    return 201, job_view(user, done.job, done.after)


@router.get("chain", response=schemas.ChainView)
def chain(request: HttpRequest) -> Answer:
    """The chain of the records of the organisation that this person leads, and when it was last verified."""
    return _chain(organisation(person(request), Role.LEAD))


@router.post("chain/verifications", response={201: schemas.ChainView, 429: ProblemDocument})
@limited("verifications of the chain")
def verify_now(request: HttpRequest) -> tuple[int, Answer]:
    """Walks the whole chain now: every record, its entries, its files, and what was handed on."""
    user = person(request)
    of = organisation(user, Role.LEAD)
    verify_and_note(of, user)
    return 201, _chain(of)


def _chain(of: Organisation) -> Answer:
    last = Record.objects.filter(organisation=of).order_by("-number").first()
    verified = of.verifications.select_related("who").first()
    # A verification of before noted the first break alone.
    old = [{"number": verified.number, "system": "", "why": verified.why}] if verified and verified.why else []
    return {
        "organisation": of.name,
        "records": last.number if last else 0,
        "last_number": last.number if last else None,
        "last_seal": last.sha256 if last else "",
        "verified_at": verified.at if verified else None,
        "verified_by": str(verified.who) if verified and verified.who else "",
        "verified": verified.records if verified else 0,
        "breaks": (verified.breaks or old) if verified else [],
    }


@router.get("chain/seals.csv", response=BYTES)
@limited("tables to take away")
@apart
def seals_file(request: HttpRequest) -> HttpResponse:
    """Every seal of the organisation, to be kept elsewhere: a chain made anew or shortened does not have them."""
    of = organisation(person(request), Role.LEAD)
    return as_file(seals(of), tables.CSV, f"seals-{timezone.now():%Y-%m-%d}.csv")


@router.get("records/{record_id}/record.json", response=BYTES)
def record_file(request: HttpRequest, record_id: UUID) -> HttpResponse:
    """The very bytes that were sealed: a job file, whose SHA-256 is the seal."""
    record = record_of(person(request), record_id)
    return as_file(record.content.encode(), "application/json", f"record-{record.number}.json")
