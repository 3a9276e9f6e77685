"""Photographs and papers over HTTP: sent, listed, looked at."""

import datetime
from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Query, Router
from pydantic import BaseModel, Field

from beacon.bench.keeping import job_of
from beacon.bench.models import Job
from beacon.entering import Moment
from beacon.papers.keeping import SMALL, file_of, keep_paper
from beacon.papers.models import Paper
from beacon.people.access import person, works_in
from beacon.people.models import Person, Role
from beacon.people.rates import limited
from beacon.plant.references_api import reference_in
from beacon.problems import Problem, ProblemDocument
from wary.job.assess import parts_of
from wary.job.titles import belongs_to

router = Router(tags=["papers"])
BYTES = {200: bytes}
LOOKED_AT = {
    # A file is never more than what it is: no script, no frame, nothing fetched.
    "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; sandbox",
    "X-Content-Type-Options": "nosniff",
    "Cache-Control": "private, max-age=31536000, immutable",
}


class PaperView(BaseModel):
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


class PaperIn(BaseModel):
    """Whether a paper goes on the certificate; why it is set aside, which stays to be seen."""

    on_certificate: bool | None = None
    set_aside: str | None = Field(None, max_length=200)


class Sending(BaseModel):
    """What is said of a file that is sent as the body: an id that the device chose, its place, its name and hash."""

    id: UUID | None = None
    path: str = Field("", max_length=120)
    name: str = Field("", max_length=200)
    sha256: str = Field("", max_length=64)
    at: Moment | None = None


def paper_view(paper: Paper) -> dict[str, Any]:
    keys = ("id", "path", "name", "kind", "size", "width", "height", "pages", "on_certificate", "set_aside", "at")
    order = parts_of(paper.job.parts) if paper.job else ()
    return {key: getattr(paper, key) for key in keys} | {
        "who": str(paper.who),
        "belongs_to": (belongs_to(order, paper.path) or "") if paper.job else "",
    }


def _body(request: HttpRequest) -> bytes:
    """The file that was sent; how large it may be is asked before it is read (`beacon.asgi`) and after."""
    return request.read()


@router.get("jobs/{job_id}/papers", response=list[PaperView])
def papers(request: HttpRequest, job_id: UUID) -> list[dict[str, Any]]:
    """The photographs and papers of a job."""
    job = job_of(person(request), job_id)
    return [paper_view(paper) for paper in job.papers.select_related("who", "job")]


@router.post(
    "jobs/{job_id}/papers",
    response={201: PaperView, 409: ProblemDocument, 413: ProblemDocument, 422: ProblemDocument, 507: ProblemDocument},
)
@limited("files to bring in")
def add_paper(request: HttpRequest, job_id: UUID, said: Annotated[Sending, Query()]) -> tuple[int, dict[str, Any]]:
    """Keeps a photograph or a PDF beside a field, a run, a step or the job; the file is the body."""
    user = person(request)
    job = job_of(user, job_id)
    given = said.model_dump() | {"id": said.id or uuid4()}
    return 201, paper_view(keep_paper(user, job, _body(request), **given))


@router.get("references/{reference_id}/papers", response=list[PaperView])
def reference_papers(request: HttpRequest, reference_id: UUID) -> list[dict[str, Any]]:
    """The certificates and photographs of a reference."""
    reference = reference_in(works_in(person(request)), reference_id)
    return [paper_view(paper) for paper in reference.papers.select_related("who", "job")]


@router.post(
    "references/{reference_id}/papers",
    response={201: PaperView, 413: ProblemDocument, 422: ProblemDocument, 507: ProblemDocument},
)
@limited("files to bring in")
def add_reference_paper(
    request: HttpRequest, reference_id: UUID, said: Annotated[Sending, Query()]
) -> tuple[int, dict[str, Any]]:
    """Keeps the certificate of a reference, or what it looks like; only a lead may."""
    user = person(request)
    reference = reference_in(works_in(user, Role.LEAD), reference_id)
    given = said.model_dump(exclude={"path"}) | {"id": said.id or uuid4()}
    return 201, paper_view(keep_paper(user, reference, _body(request), **given))


def _paper(user: Person, paper_id: UUID) -> Paper:
    found = Paper.objects.filter(id=paper_id, organisation__in=works_in(user)).select_related("who", "job").first()
    if found is None:
        raise Http404
    return found


@router.patch("papers/{paper_id}", response={200: PaperView, 409: ProblemDocument})
@transaction.atomic
def change_paper(request: HttpRequest, paper_id: UUID, given: PaperIn) -> dict[str, Any]:
    """Puts a paper on the certificate or takes it off, or sets it aside with a reason; not once its job is closed."""
    user = person(request)
    paper = _paper(user, paper_id)
    if paper.reference_id:
        reference_in(works_in(user, Role.LEAD), paper.reference_id)
    elif paper.job_id and not Job.objects.select_for_update(of=("self",), no_key=True).get(pk=paper.job_id).is_open:
        raise Problem(409, "This job is closed", "What belongs to it can no longer change. Open a job to put it right.")
    Paper.objects.select_for_update(of=("self",), no_key=True).get(pk=paper.pk)
    paper.refresh_from_db(fields=["on_certificate", "set_aside"])
    if given.on_certificate is not None:
        paper.on_certificate = given.on_certificate
    if given.set_aside is not None:
        paper.set_aside = given.set_aside.strip()
    if paper.set_aside:
        paper.on_certificate = False
    paper.save(update_fields=["on_certificate", "set_aside"])
    return paper_view(paper)


@router.get("papers/{paper_id}/file", response=BYTES)
def paper_file(request: HttpRequest, paper_id: UUID) -> HttpResponse:
    """The file itself: a photograph to be shown, a PDF to be kept."""
    paper = _paper(person(request), paper_id)
    how = "attachment" if paper.kind == Paper.Kind.PDF else "inline"
    return _answer(paper, "", paper.kind, how)


@router.get("papers/{paper_id}/small", response=BYTES)
def paper_small(request: HttpRequest, paper_id: UUID) -> HttpResponse:
    """The thumbnail of a photograph."""
    paper = _paper(person(request), paper_id)
    if paper.kind == Paper.Kind.PDF:
        raise Http404
    return _answer(paper, SMALL, Paper.Kind.JPEG.value, "inline")


def _answer(paper: Paper, what: str, kind: str, how: str) -> HttpResponse:
    try:
        content = file_of(paper, what)
    except OSError:
        raise Problem(410, "This file is gone", "Its hash is on record, the file is not where it was kept.") from None
    ending = {"image/jpeg": "jpg", "image/png": "png", "application/pdf": "pdf"}[kind]
    headers = {"Content-Disposition": f'{how}; filename="paper-{paper.sha256[:12]}.{ending}"', **LOOKED_AT}
    return HttpResponse(content, content_type=str(kind), headers=headers)
