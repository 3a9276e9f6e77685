"""Closing jobs, the log of sealed records, the papers made from them, and the history of a channel."""

import json
from typing import Annotated, Any
from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router

from beacon.attachments.models import Attachment, LateAttachment
from beacon.bench.api import download
from beacon.bench.keeping import job_of
from beacon.bench.models import Job
from beacon.bench.revisions import snapshot_of
from beacon.bench.schemas import CloseIn, JobView
from beacon.bench.view import job_view
from beacon.people.access import is_lead, organisation, person, works_in
from beacon.people.models import Organisation, Role
from beacon.people.rate_limit import limited
from beacon.plant.references_api import reference_in
from beacon.plant.view import Answer
from beacon.problems import Problem, ProblemDocument
from beacon.records import schemas, tables
from beacon.records.asked import as_file, channel_of, record_of
from beacon.records.done import title_of
from beacon.records.history import as_csv, as_xlsx, history, visits_table
from beacon.records.log import COLUMNS, OF_SYSTEM, ROW, Sought, page, row_of, sought, to_take_away
from beacon.records.models import Record, Verification
from beacon.records.sealing import close, job_content, put_right, seals
from beacon.records.sheets import sheets_of
from beacon.records.verifying import MOST_SAID, verify_chain, why_broken
from beacon.records.wording import paper_in
from beacon.validation import Instant, Whole
from wary.job.closing import Asked

router = Router(tags=["records"])
PAGE = 30
TRACED = 100
BYTES = {200: bytes}


@router.post("jobs/{job_id}/close", response={200: JobView, 409: ProblemDocument, 422: ProblemDocument})
def end(request: HttpRequest, job_id: UUID, given: CloseIn) -> Answer:
    """Closes the job and seals its record; says what is still in the way."""
    user = person(request)
    job, revision = close(user, job_of(user, job_id), Asked(**given.model_dump()))
    return job_view(user, job, revision)


@router.get("jobs/{job_id}/job.json", response=BYTES)
@limited("tables to take away")
def file_out(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The job as a job file, with its assessment and trail."""
    job = job_of(person(request), job_id)
    return download(job_content(job, snapshot_of(job)), f"job-{job.id}.json")


@router.get("log", response=schemas.LogPage)
def log(request: HttpRequest, asked: Annotated[Sought, Query()], before: str = "") -> Answer:
    """The log, the latest first; `find` looks in the names of systems, materials, sites, kinds and people."""
    return page(sought(person(request), asked), before, PAGE)


@router.get("log.csv", response=BYTES)
@limited("tables to take away")
def log_csv(request: HttpRequest, asked: Annotated[Sought, Query()]) -> HttpResponse:
    """What is looked for in the log, as CSV."""
    rows = to_take_away(sought(person(request), asked))
    return as_file(tables.as_csv([title for _, title in COLUMNS], rows), tables.CSV, "log.csv")


@router.get("log.xlsx", response=BYTES)
@limited("tables to take away")
def log_xlsx(request: HttpRequest, asked: Annotated[Sought, Query()]) -> HttpResponse:
    """What is looked for in the log, as a workbook."""
    rows = to_take_away(sought(person(request), asked))
    return as_file(tables.as_xlsx("Log", [title for _, title in COLUMNS], rows), tables.XLSX, "log.xlsx")


@router.get("records/{record_id}", response=schemas.RecordView)
def one_record(request: HttpRequest, record_id: UUID) -> Answer:
    """A sealed record: what each part came to, whether its seal fits, and every entry that led to it."""
    user = person(request)
    record = record_of(user, record_id)
    content, paper = paper_in(record)
    parts = paper["parts"]
    row = dict(zip(ROW, Record.objects.values_list(*ROW).get(pk=record.pk), strict=True))
    # What was sealed says what the machine was called and what it came to, whatever stands elsewhere by now.
    row["job__summary"] = content["sealed"]["summary"] if "sealed" in content else row["job__summary"]
    for key, said in ((f"{OF_SYSTEM}__name", "name"), (f"{OF_SYSTEM}__site__name", "site")):
        row[key] = content["system"].get(said) or row[key]
    by = getattr(record, "superseded_by", None)
    works = works_in(user).filter(pk=record.organisation_id).exists()
    return row_of(*row.values()) | {
        "title": paper["title"],
        "sha256": record.sha256,
        "previous": record.previous,
        "fits": why_broken(record),
        "late": _late(record, content) if works else [],
        "sheets": sheets_of(len(content["trail"])),
        "parts": [
            {"title": p["title"], "headline": p["call"], "reasons": p["reasons"], "differs": p["differs"]}
            for p in parts
        ],
        "trail": [entry | {"where": where} for entry, where in zip(content["trail"], paper["places"], strict=True)],
        # A reader has the certificate, and what was chosen for it; the photographs stay with those who work there.
        "papers": content.get("papers", []) if works else [],
        "puts_right": _other(record.supersedes, record) if record.supersedes else None,
        "put_right_by": _other(by, by) if by else None,
        "may_put_right": by is None and is_lead(user, record.organisation),
    }


def _other(record: Record, says: Record) -> Answer:
    return {"id": record.id, "number": record.number, "reason": says.job.puts_right_why}


def _late(record: Record, content: Answer) -> list[Answer]:
    """The papers of a record's job that came after its seal."""
    sealed = {one["id"] for one in content.get("papers", [])}
    rows = []
    for paper in record.job.attachments.select_related("who", "late__who"):
        late = getattr(paper, "late", None)
        if late or str(paper.id) not in sealed:
            rows.append(
                {key: getattr(paper, key) for key in ("id", "name", "at")}
                | {
                    "who": str(paper.who),
                    "why": late.why if late else "",
                    "set_apart_by": str(late.who) if late else "",
                    "set_apart_at": late.at if late else None,
                }
            )
    return rows


@router.post(
    "records/{record_id}/late-attachments/{attachment_id}",
    response={200: schemas.RecordView, 409: ProblemDocument, 422: ProblemDocument},
)
@transaction.atomic
def set_apart(request: HttpRequest, record_id: UUID, attachment_id: UUID, given: schemas.SetApartIn) -> Answer:
    """Sets a paper apart that came into a job after its seal, on the record; only a lead may."""
    user = person(request)
    record = (
        Record.objects.select_for_update(no_key=True)
        .filter(id=record_id, organisation__in=works_in(user, Role.LEAD))
        .first()
    )
    paper = Attachment.objects.filter(job__record=record, id=attachment_id).first() if record else None
    if record is None or paper is None:
        raise Http404
    if str(paper.id) in {one["id"] for one in json.loads(record.content).get("papers", [])}:
        raise Problem(409, "It is part of the record", "What was sealed stays as it is.")
    if not any(letter.isalpha() for letter in given.why):
        raise Problem(422, "Not set apart", errors=[{"path": "why", "text": "Why? In words, for the record."}])
    LateAttachment.objects.get_or_create(attachment=paper, defaults={"why": given.why.strip(), "who": user})
    return one_record(request, record_id)


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
    found = verify_chain(of)
    first = found.broken[0] if found.broken else None
    Verification.objects.create(
        organisation=of,
        at=timezone.now(),
        who=user,
        records=found.count,
        number=first.number if first else None,
        why=first.why[:300] if first else "",
        breaks=[{"number": one.number, "system": one.system, "why": one.why} for one in found.broken[:MOST_SAID]],
    )
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
def seals_file(request: HttpRequest) -> HttpResponse:
    """Every seal of the organisation, to be kept elsewhere: a chain made anew or shortened does not have them."""
    of = organisation(person(request), Role.LEAD)
    return as_file(seals(of), tables.CSV, f"seals-{timezone.now():%Y-%m-%d}.csv")


@router.get("records/{record_id}/record.json", response=BYTES)
def record_file(request: HttpRequest, record_id: UUID) -> HttpResponse:
    """The very bytes that were sealed: a job file, whose SHA-256 is the seal."""
    record = record_of(person(request), record_id)
    return as_file(record.content.encode(), "application/json", f"record-{record.number}.json")


@router.get("references/{reference_id}/jobs", response=list[schemas.UsedIn])
def used_in(request: HttpRequest, reference_id: UUID, before: Whole = 0) -> list[Answer]:
    """All jobs that used a reference, the latest first, a hundred at a time; `before` skips so many."""
    reference = reference_in(works_in(person(request)), reference_id)
    jobs = Job.objects.filter(reference_ids__contains=[reference.id], practice=False)
    jobs = jobs.select_related("channel__system__site", "record__superseded_by")
    jobs = jobs.defer("fold", "record__content", "record__superseded_by__content").order_by("-opened_at")
    return [_use(job) for job in jobs[before : before + TRACED]]


def _use(job: Job) -> Answer:
    """A job in the trace of a reference."""
    record: Any = getattr(job, "record", None)
    said = job.summary or {}
    system = job.channel.system
    return {
        "job": job.id,
        "record": record.id if record else None,
        "number": record.number if record else None,
        "system": system.name,
        "site": system.site.name,
        "time_zone": system.site.time_zone,
        "title": title_of(job.method),
        "at": job.closed_at or job.opened_at,
        "outcome": (job.closing or {}).get("words", "open"),
        "by": said.get("closed_by", ""),
        "call": said.get("call", job.call),
        "call_found": said.get("call_found") or said.get("call", job.call),
        "down": bool(said.get("down", job.down)),
        "provisional": bool(said.get("provisional")),
        "factor_before": said.get("factor_before", ""),
        "factor_after": said.get("factor_after", ""),
        "put_right": bool(record and getattr(record, "superseded_by", None)),
    }


@router.get("channels/{channel_id}/history", response=schemas.HistoryView)
def one_history(request: HttpRequest, channel_id: UUID) -> Answer:
    """The history of a channel: points, events, drift."""
    channel = channel_of(request, channel_id)
    return history(channel.system, channel)


@router.get("channels/{channel_id}/visits", response=list[schemas.VisitRow])
def visits(request: HttpRequest, channel_id: UUID, before: Instant | None = None) -> list[Answer]:
    """The visits of a channel as a table, a hundred at a time, the latest first."""
    return visits_table(channel_of(request, channel_id), before, TRACED)


@router.get("channels/{channel_id}/history.csv", response=BYTES)
@limited("tables to take away")
def history_csv(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The history's table as CSV."""
    return as_file(as_csv(channel_of(request, channel_id)), tables.CSV, "history.csv")


@router.get("channels/{channel_id}/history.xlsx", response=BYTES)
@limited("tables to take away")
def history_xlsx(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The history's table as a workbook."""
    return as_file(as_xlsx(channel_of(request, channel_id)), tables.XLSX, "history.xlsx")
