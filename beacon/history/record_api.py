"""The page of a record, what came late into its job, and the jobs that rest on a reference."""

import json
from typing import Any
from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router

from beacon.attachments.models import Attachment, LateAttachment
from beacon.bench.done import title_of
from beacon.bench.models import Job
from beacon.database.apart import apart
from beacon.history.log import OF_SYSTEM, ROW, row_of
from beacon.people.access import is_lead, person, works_in
from beacon.people.models import Role
from beacon.plant.access import reference_in
from beacon.plant.view import Answer
from beacon.problems import Problem, ProblemDocument
from beacon.records import schemas
from beacon.records.access import record_of
from beacon.records.looking import why_broken
from beacon.records.models import Record
from beacon.records.wording import paper_in, said_in, sheets_of
from beacon.validation import Whole

router = Router(tags=["history"])
PAGE = 30
TRACED = 100
BYTES = {200: bytes}


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
        "machine": paper.get("machine"),
        "sha256": record.sha256,
        "previous": record.previous,
        "fits": why_broken(record),
        "late": _late(record, content) if works else [],
        "sheets": sheets_of(len(content["trail"])),
        "parts": [
            part
            | {"headline": part["call"]}
            | {
                key: [{"name": name, "text": text} for name, text in part[key]]
                for key in ("line", "figures", "adjustment")
            }
            for part in parts
        ],
        "trail": [
            entry | {"where": where, "says": _says(paper, place, entry)}
            for place, (entry, where) in enumerate(zip(content["trail"], paper["places"], strict=True))
        ],
        "sections": paper["sections"],
        # A reader has the certificate, and what was chosen for it; the photographs stay with those who work there.
        "papers": content.get("papers", []) if works else [],
        "puts_right": _other(record.supersedes, record) if record.supersedes else None,
        "put_right_by": _other(by, by) if by else None,
        "may_put_right": by is None and is_lead(user, record.organisation),
    }


def _says(paper: Answer, place: int, entry: Answer) -> str:
    said = said_in(paper, place)
    return f"{entry['text']} {entry['unit']}".strip() if said is None else said


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


@router.get("references/{reference_id}/jobs", response=list[schemas.UsedIn])
@apart
def used_in(request: HttpRequest, reference_id: UUID, before: Whole = 0) -> list[Answer]:
    """All jobs that used a reference, the latest first, a hundred at a time; `before` skips so many."""
    reference = reference_in(works_in(person(request)), reference_id)
    used = Job.objects.filter(reference_ids__contains=[reference.id], practice=False).order_by("-opened_at", "id")
    # Which ones first: what stands beside them is then read of a hundred, and not of all.
    page = list(used.values_list("pk", flat=True)[before : before + TRACED])
    jobs = Job.objects.filter(pk__in=page).select_related("channel__system__site", "record__superseded_by")
    jobs = jobs.defer("fold", "record__content", "record__superseded_by__content").order_by("-opened_at", "id")
    return [_use(job) for job in jobs]


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
