"""Closing jobs, the log of sealed records, the papers made from them, and the history of a channel."""

import json
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import Q, QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router

from beacon.bench.api import download
from beacon.bench.keeping import job_of
from beacon.bench.models import Job
from beacon.bench.schemas import CloseIn, JobView
from beacon.bench.standing import standing_of
from beacon.bench.view import job_view
from beacon.people.access import person, works_in
from beacon.people.models import Person
from beacon.plant.access import own_systems, sites
from beacon.plant.models import Channel
from beacon.plant.references_api import reference_in
from beacon.plant.view import Answer
from beacon.problems import ProblemDocument
from beacon.records import schemas
from beacon.records.card import card
from beacon.records.certificate import about, certificate
from beacon.records.done import last_done, title_of
from beacon.records.history import as_csv, as_xlsx, history, visits_table
from beacon.records.models import Record
from beacon.records.sealing import close, job_content, why_broken
from wary.job.closing import Asked

router = Router(tags=["records"])
PAGE = 30
TRACED = 100
BYTES = {200: bytes}


@router.post("jobs/{job_id}/close", response={200: JobView, 409: ProblemDocument, 422: ProblemDocument})
def end(request: HttpRequest, job_id: UUID, given: CloseIn) -> Answer:
    """Closes the job and seals its record; says what is still in the way."""
    user = person(request)
    job, moment = close(user, job_of(user, job_id), Asked(**given.model_dump()))
    return job_view(user, job, moment)


@router.get("jobs/{job_id}/job.json", response=BYTES)
def file_out(request: HttpRequest, job_id: UUID) -> HttpResponse:
    """The job as a job file, with its assessment and trail."""
    job = job_of(person(request), job_id)
    return download(job_content(job, standing_of(job)), f"job-{job.id}.json")


def visible(user: Person) -> QuerySet[Record]:
    """The records of the sites that this person may see."""
    return Record.objects.filter(job__channel__system__site__in=sites(user))


def _record(user: Person, record_id: UUID) -> Record:
    found = visible(user).select_related("job__channel__system__site").filter(id=record_id).first()
    if found is None:
        raise Http404
    return found


OF_SYSTEM = "job__channel__system"
ROW = ("id", "number", "sealed_at", "job", "job__summary", OF_SYSTEM, f"{OF_SYSTEM}__name", f"{OF_SYSTEM}__site__name", f"{OF_SYSTEM}__site__time_zone")  # fmt: skip
"""What a row of the log is made of: read as texts, since a page of it needs no more of ten kinds of thing."""


def _row(
    record: UUID, number: int, at: datetime, job: UUID, summary: Answer, system: UUID, name: str, site: str, zone: str
) -> Answer:
    """A sealed record in one line of the log."""
    return last_done((summary or {}) | {"job": job, "record": record, "closed_at": at}) | {
        "record": record,
        "number": number,
        "system": system,
        "system_name": name,
        "site": site,
        "time_zone": zone,
        "reference": (summary or {}).get("reference", ""),
    }


@router.get("log", response=schemas.LogPage)
def log(request: HttpRequest, find: str = "", system: UUID | None = None, before: datetime | None = None) -> Answer:
    """The log; `find` looks in the names of systems, sites and people."""
    records = visible(person(request))
    if system:
        records = records.filter(job__channel__system=system)
    for word in find.split():
        records = records.filter(
            Q(job__channel__system__name__icontains=word)
            | Q(job__channel__system__site__name__icontains=word)
            | Q(sealed_by__name__icontains=word)
        )
    if before:
        records = records.filter(sealed_at__lt=before)
    found = list(records.order_by("-sealed_at").values_list(*ROW)[: PAGE + 1])
    rows = [_row(*row) for row in found[:PAGE]]
    return {"rows": rows, "earlier": rows[-1]["closed_at"] if len(found) > PAGE else None}


@router.get("records/{record_id}", response=schemas.RecordView)
def one_record(request: HttpRequest, record_id: UUID) -> Answer:
    """A sealed record: what each part came to, whether its seal fits, and every entry that led to it."""
    record = _record(person(request), record_id)
    parts = about(record)["parts"]
    row = Record.objects.values_list(*ROW).get(pk=record.pk)
    return _row(*row) | {
        "sha256": record.sha256,
        "previous": record.previous,
        "fits": why_broken(record, record.number, record.previous),
        "parts": [
            {"title": p["title"], "headline": p["call"], "reasons": p["reasons"], "differs": p["differs"]}
            for p in parts
        ],
        "trail": json.loads(record.content)["trail"],
    }


@router.get("records/{record_id}/record.json", response=BYTES)
def record_file(request: HttpRequest, record_id: UUID) -> HttpResponse:
    """The very bytes that were sealed: a job file, whose SHA-256 is the seal."""
    record = _record(person(request), record_id)
    return _file(record.content.encode(), "application/json", f"record-{record.number}.json")


@router.get("records/{record_id}/certificate.pdf", response=BYTES)
def certificate_file(request: HttpRequest, record_id: UUID) -> HttpResponse:
    """The certificate of a record."""
    record = _record(person(request), record_id)
    name = f"certificate-{record.number}.pdf"
    return _file(certificate(record), "application/pdf", name, "inline")


@router.get("channels/{channel_id}/card.pdf", response=BYTES)
def card_file(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The card for the cab: how to weigh with this machine, and when it was last proven."""
    channel = _channel(request, channel_id)
    if not channel.system.machine.card:
        raise Http404
    return _file(card(channel), "application/pdf", "card.pdf", "inline")


def _file(content: bytes, kind: str, name: str, how: str = "attachment") -> HttpResponse:
    return HttpResponse(content, content_type=kind, headers={"Content-Disposition": f'{how}; filename="{name}"'})


@router.get("references/{reference_id}/jobs", response=list[schemas.UsedIn])
def used_in(request: HttpRequest, reference_id: UUID, before: int = 0) -> list[Answer]:
    """All jobs that used a reference, the latest first, a hundred at a time; `before` skips so many."""
    reference = reference_in(works_in(person(request)), reference_id)
    jobs = Job.objects.filter(reference_ids__contains=[reference.id], practice=False)
    jobs = jobs.select_related("channel__system", "record").defer("fold", "record__content").order_by("-opened_at")
    return [_use(job) for job in jobs[before : before + TRACED]]


def _use(job: Job) -> Answer:
    """A job in the trace of a reference."""
    record: Any = getattr(job, "record", None)
    return {
        "job": job.id,
        "record": record.id if record else None,
        "system": job.channel.system.name,
        "title": title_of(job.method),
        "at": job.closed_at or job.opened_at,
        "outcome": (job.closing or {}).get("words", "open"),
    }


def _channel(request: HttpRequest, channel_id: UUID) -> Channel:
    systems = own_systems(person(request))
    found = Channel.objects.filter(id=channel_id, system__in=systems).select_related("system__profile").first()
    if found is None:
        raise Http404
    return found


@router.get("channels/{channel_id}/history", response=schemas.HistoryView)
def one_history(request: HttpRequest, channel_id: UUID) -> Answer:
    """The history of a channel: points, events, drift."""
    channel = _channel(request, channel_id)
    return history(channel.system, channel)


@router.get("channels/{channel_id}/visits", response=list[schemas.VisitRow])
def visits(request: HttpRequest, channel_id: UUID, before: datetime | None = None) -> list[Answer]:
    """The visits of a channel as a table, a hundred at a time, the latest first."""
    return visits_table(_channel(request, channel_id), before, TRACED)


@router.get("channels/{channel_id}/history.csv", response=BYTES)
def history_csv(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The history's table as CSV."""
    return _file(as_csv(_channel(request, channel_id)), "text/csv; charset=utf-8", "history.csv")


@router.get("channels/{channel_id}/history.xlsx", response=BYTES)
def history_xlsx(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The history's table as a workbook."""
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _file(as_xlsx(_channel(request, channel_id)), kind, "history.xlsx")
