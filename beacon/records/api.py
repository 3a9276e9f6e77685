"""The log of sealed records, and the papers made from them."""

import json
from datetime import datetime
from typing import Any
from uuid import UUID

from django.db.models import Q, QuerySet
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema

from beacon.people import access
from beacon.people.access import person
from beacon.people.models import Person
from beacon.plant.view import last_done
from beacon.records.certificate import certificate
from beacon.records.models import Record
from beacon.records.sealing import why_broken

router = Router(tags=["records"])
PAGE = 50


class LogRow(Schema):
    record: UUID
    job: UUID
    number: int
    system: UUID
    system_name: str
    site: str
    time_zone: str
    title: str
    call: str
    outcome: str
    closed_at: datetime
    closed_by: str
    error: float | None
    uncertainty: float | None
    factor_before: str
    factor_after: str
    reference: str


class LogPage(Schema):
    """Up to fifty records, the latest first; `earlier` is where the next page begins."""

    rows: list[LogRow]
    earlier: datetime | None


class RecordView(LogRow):
    sha256: str
    previous: str
    fits: str | None
    content: dict[str, Any]


def visible(user: Person) -> QuerySet[Record]:
    """The records of the sites that this person may see."""
    return Record.objects.filter(job__channel__system__site__in=access.sites(user))


def _record(user: Person, record_id: UUID) -> Record:
    found = visible(user).select_related("job__channel__system__site").filter(id=record_id).first()
    if found is None:
        raise Http404
    return found


def _row(record: Record) -> dict[str, Any]:
    system = record.job.channel.system
    handed = (record.job.summary or {}) | {"job": record.job_id, "record": record.id, "closed_at": record.sealed_at}
    row = last_done(handed)
    return row | {
        "record": record.id,
        "number": record.number,
        "system": system.id,
        "system_name": system.name,
        "site": system.site.name,
        "time_zone": system.site.time_zone,
        "reference": handed.get("reference", ""),
    }


@router.get("log", response=LogPage)
def log(request: HttpRequest, find: str = "", system: UUID | None = None, before: datetime | None = None) -> Any:
    """The log; `find` looks in the names of systems, sites and people."""
    records = visible(person(request)).select_related("job__channel__system__site").defer("content", "job__fold")
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
    found = list(records.order_by("-sealed_at")[: PAGE + 1])
    return {
        "rows": [_row(record) for record in found[:PAGE]],
        "earlier": found[PAGE - 1].sealed_at if len(found) > PAGE else None,
    }


@router.get("records/{record_id}", response=RecordView)
def one_record(request: HttpRequest, record_id: UUID) -> Any:
    """A sealed record; `fits` says what is wrong with its seal, if anything is."""
    record = _record(person(request), record_id)
    return _row(record) | {
        "sha256": record.sha256,
        "previous": record.previous,
        "fits": why_broken(record, record.number, record.previous),
        "content": json.loads(record.content),
    }


@router.get("records/{record_id}/record.json", response={200: dict[str, Any]})
def record_file(request: HttpRequest, record_id: UUID) -> HttpResponse:
    """The very bytes that were sealed: a job file, whose SHA-256 is the seal."""
    record = _record(person(request), record_id)
    headers = {"Content-Disposition": f'attachment; filename="record-{record.number}.json"'}
    return HttpResponse(record.content.encode(), content_type="application/json", headers=headers)


@router.get("records/{record_id}/certificate.pdf", response={200: bytes})
def certificate_file(request: HttpRequest, record_id: UUID) -> HttpResponse:
    """The certificate of a record."""
    record = _record(person(request), record_id)
    headers = {"Content-Disposition": f'inline; filename="certificate-{record.number}.pdf"'}
    return HttpResponse(certificate(record), content_type="application/pdf", headers=headers)
