"""Photographs and papers over HTTP: sent, listed, looked at."""

import datetime
from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Query, Router
from pydantic import BaseModel, Field

from beacon.attachments.keeping import SMALL, file_of, keep_attachment
from beacon.attachments.models import Attachment
from beacon.bench.keeping import job_of
from beacon.bench.models import Job
from beacon.people.access import person, works_in
from beacon.people.models import Person, Role
from beacon.people.rate_limit import limited
from beacon.plant.access import reference_in
from beacon.problems import Problem, ProblemDocument
from beacon.validation import Instant
from wary.job.assess import parts_of
from wary.job.titles import belongs_to

router = Router(tags=["attachments"])
BYTES = {200: bytes}
LOOKED_AT = {
    # A file is never more than what it is: no script, no frame, nothing fetched.
    "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; sandbox",
    "X-Content-Type-Options": "nosniff",
    "Cache-Control": "private, max-age=31536000, immutable",
}


class AttachmentView(BaseModel):
    """A photograph or a PDF; `belongs_to` says in words where it belongs."""

    id: UUID
    path: str
    belongs_to: str
    name: str
    kind: Literal["image/jpeg", "image/png", "application/pdf"]
    size: int
    width: int
    height: int
    pages: int
    on_certificate: bool
    set_aside: str
    who: str
    at: datetime.datetime


class AttachmentIn(BaseModel):
    """Whether an attachment goes on the certificate; why it is set aside, which stays to be seen."""

    on_certificate: bool | None = None
    set_aside: str | None = Field(None, max_length=200)


class Sending(BaseModel):
    """What is said of a file that is sent as the body: an id that the device chose, its place, its name and hash."""

    id: UUID | None = None
    path: str = Field("", max_length=120)
    name: str = Field("", max_length=200)
    sha256: str = Field("", max_length=64)
    at: Instant | None = None


def attachment_view(attachment: Attachment) -> dict[str, Any]:
    keys = ("id", "path", "name", "kind", "size", "width", "height", "pages", "on_certificate", "set_aside", "at")
    order = parts_of(attachment.job.parts) if attachment.job else ()
    return {key: getattr(attachment, key) for key in keys} | {
        "who": str(attachment.who),
        "belongs_to": (belongs_to(order, attachment.path) or "") if attachment.job else "",
    }


def _body(request: HttpRequest) -> bytes:
    """The file that was sent; how large it may be is asked before it is read (`beacon.asgi`) and after."""
    return request.read()


@router.get("jobs/{job_id}/attachments", response=list[AttachmentView])
def attachments(request: HttpRequest, job_id: UUID) -> list[dict[str, Any]]:
    """The photographs and papers of a job."""
    job = job_of(person(request), job_id)
    return [attachment_view(attachment) for attachment in job.attachments.select_related("who", "job")]


@router.post(
    "jobs/{job_id}/attachments",
    response={
        201: AttachmentView,
        409: ProblemDocument,
        413: ProblemDocument,
        422: ProblemDocument,
        507: ProblemDocument,
    },
)
@limited("files to bring in")
def add_attachment(request: HttpRequest, job_id: UUID, said: Annotated[Sending, Query()]) -> tuple[int, dict[str, Any]]:
    """Keeps a photograph or a PDF beside a field, a run, a step or the job; the file is the body."""
    user = person(request)
    job = job_of(user, job_id)
    given = said.model_dump() | {"id": said.id or uuid4()}
    return 201, attachment_view(keep_attachment(user, job, _body(request), **given))


@router.get("references/{reference_id}/attachments", response=list[AttachmentView])
def reference_attachments(request: HttpRequest, reference_id: UUID) -> list[dict[str, Any]]:
    """The certificates and photographs of a reference."""
    reference = reference_in(works_in(person(request)), reference_id)
    return [attachment_view(attachment) for attachment in reference.attachments.select_related("who", "job")]


@router.post(
    "references/{reference_id}/attachments",
    response={201: AttachmentView, 413: ProblemDocument, 422: ProblemDocument, 507: ProblemDocument},
)
@limited("files to bring in")
def add_reference_attachment(
    request: HttpRequest, reference_id: UUID, said: Annotated[Sending, Query()]
) -> tuple[int, dict[str, Any]]:
    """Keeps the certificate of a reference, or what it looks like; only a lead may."""
    user = person(request)
    reference = reference_in(works_in(user, Role.LEAD), reference_id)
    given = said.model_dump(exclude={"path"}) | {"id": said.id or uuid4()}
    return 201, attachment_view(keep_attachment(user, reference, _body(request), **given))


def _attachment(user: Person, attachment_id: UUID) -> Attachment:
    found = (
        Attachment.objects.filter(id=attachment_id, organisation__in=works_in(user))
        .select_related("who", "job")
        .first()
    )
    if found is None:
        raise Http404
    return found


@router.patch("attachments/{attachment_id}", response={200: AttachmentView, 409: ProblemDocument})
@transaction.atomic
def change_attachment(request: HttpRequest, attachment_id: UUID, given: AttachmentIn) -> dict[str, Any]:
    """Puts an attachment on the certificate or takes it off, or sets it aside with a reason; not once its job is closed."""
    user = person(request)
    attachment = _attachment(user, attachment_id)
    if attachment.reference_id:
        reference_in(works_in(user, Role.LEAD), attachment.reference_id)
    elif (
        attachment.job_id
        and not Job.objects.select_for_update(of=("self",), no_key=True).get(pk=attachment.job_id).is_open
    ):
        raise Problem(409, "This job is closed", "What belongs to it can no longer change. Open a job to put it right.")
    Attachment.objects.select_for_update(of=("self",), no_key=True).get(pk=attachment.pk)
    attachment.refresh_from_db(fields=["on_certificate", "set_aside"])
    if given.on_certificate is not None:
        attachment.on_certificate = given.on_certificate
    if given.set_aside is not None:
        attachment.set_aside = given.set_aside.strip()
    if attachment.set_aside:
        attachment.on_certificate = False
    attachment.save(update_fields=["on_certificate", "set_aside"])
    return attachment_view(attachment)


@router.get("attachments/{attachment_id}/file", response=BYTES)
def paper_file(request: HttpRequest, attachment_id: UUID) -> HttpResponse:
    """The file itself: a photograph to be shown, a PDF to be kept."""
    attachment = _attachment(person(request), attachment_id)
    how = "attachment" if attachment.kind == Attachment.Kind.PDF else "inline"
    return _answer(attachment, "", attachment.kind, how)


@router.get("attachments/{attachment_id}/small", response=BYTES)
def paper_small(request: HttpRequest, attachment_id: UUID) -> HttpResponse:
    """The thumbnail of a photograph."""
    attachment = _attachment(person(request), attachment_id)
    if attachment.kind == Attachment.Kind.PDF:
        raise Http404
    return _answer(attachment, SMALL, Attachment.Kind.JPEG.value, "inline")


def _answer(attachment: Attachment, what: str, kind: str, how: str) -> HttpResponse:
    try:
        content = file_of(attachment, what)
    except OSError:
        raise Problem(410, "This file is gone", "Its hash is on record, the file is not where it was kept.") from None
    ending = {"image/jpeg": "jpg", "image/png": "png", "application/pdf": "pdf"}[kind]
    headers = {"Content-Disposition": f'{how}; filename="attachment-{attachment.sha256[:12]}.{ending}"', **LOOKED_AT}
    return HttpResponse(content, content_type=str(kind), headers=headers)
