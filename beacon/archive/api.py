"""An organisation's archive, for its leads; and what is known of oneself, for everyone."""

from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from django.core.files.storage import default_storage
from django.db import IntegrityError, transaction
from django.db.models import Count
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from ninja import Router
from procrastinate.contrib.django import app
from pydantic import BaseModel, Field

from beacon.archive.closing import close
from beacon.archive.models import MAKE, PUT_TOGETHER, QUEUE, Archive, Bundle, Closing
from beacon.background.view import MadeView, view_of
from beacon.bench.models import Entry, Job
from beacon.downloads import download
from beacon.people.access import here, organisation, person
from beacon.people.models import Person, Role
from beacon.people.rate_limit import limited
from beacon.plant.access import sites
from beacon.problems import Problem, ProblemDocument
from beacon.validation import Day

router = Router(tags=["archive"])
LATEST = 10


@router.get("archives", response=list[MadeView])
def archives(request: HttpRequest) -> list[dict[str, Any]]:
    """The latest archives of the organisation that this person leads."""
    return [view_of(one) for one in organisation(person(request), Role.LEAD).archives.select_related("by")[:LATEST]]


@router.post("archives", response={202: MadeView, 409: ProblemDocument})
@limited("archives to make")
def make_archive(request: HttpRequest) -> tuple[int, dict[str, Any]]:
    """Everything of the organisation in one file: it is made in the background."""
    user = person(request)
    led = organisation(user, Role.LEAD)
    try:
        with transaction.atomic():
            made = Archive.objects.create(organisation=led, by=user)
            app.configure_task(MAKE, queue=QUEUE).defer(archive=str(made.pk))
    except IntegrityError:
        raise Problem(409, "One is being made already", "It is listed here as soon as it is there.") from None
    return 202, view_of(made)


@router.get("archives/{archive_id}/file.zip", response={200: bytes, 410: ProblemDocument})
@limited("tables to take away")
def archive_file(request: HttpRequest, archive_id: UUID) -> FileResponse:
    """The file of an archive."""
    mine = organisation(person(request), Role.LEAD).archives.filter(pk=archive_id)
    return _file(mine.exclude(finished_at=None).first(), "archive")


class BundleIn(BaseModel):
    """Certificates to be put together: how, of which days (UTC), and of which site alone."""

    kind: Literal["zip", "pdf"]
    since: Day | None = None
    until: Day | None = None
    site: UUID | None = None


class BundleView(MadeView):
    """Certificates that are put together, or were."""

    kind: Literal["zip", "pdf"]
    since: date | None
    until: date | None


def _bundle_view(one: Bundle) -> dict[str, Any]:
    return view_of(one) | {"kind": one.kind, "since": one.since, "until": one.until}


@router.get("bundles", response=list[BundleView])
def bundles(request: HttpRequest) -> list[dict[str, Any]]:
    """The certificates that this person had put together of the organisation at hand."""
    user = person(request)
    return [_bundle_view(one) for one in here(user).bundles.filter(by=user, gone=False).select_related("by")[:LATEST]]


@router.post("bundles", response={202: BundleView, 404: ProblemDocument})
@limited("archives to make")
def put_together(request: HttpRequest, given: BundleIn) -> tuple[int, dict[str, Any]]:
    """Puts the certificates of a period together that this person may see; it goes on when the page is closed."""
    user = person(request)
    of = here(user)
    if given.site and not sites(user).filter(organisation=of, pk=given.site).exists():
        raise Http404
    with transaction.atomic():
        made = Bundle.objects.create(organisation=of, by=user, **given.model_dump())
        app.configure_task(PUT_TOGETHER, queue=QUEUE).defer(bundle=str(made.pk))
    return 202, _bundle_view(made)


@router.get("bundles/{bundle_id}/file", response={200: bytes, 410: ProblemDocument})
@limited("tables to take away")
def bundle_file(request: HttpRequest, bundle_id: UUID) -> FileResponse:
    """The file of certificates that this person had put together, as long as they may see all of it."""
    user = person(request)
    mine = Bundle.objects.filter(by=user, organisation__memberships__person=user, pk=bundle_id)
    found = mine.exclude(finished_at=None).first()
    if found is not None and not _seen(user, found):
        raise Problem(410, "It holds what you may not see any more", "Make another: of what you may see now.")
    return _file(found, "certificates")


def _seen(user: Person, found: Bundle) -> bool:
    """Whether somebody may see, now, all sites whose certificates are in a bundle."""
    seen = set(sites(user).filter(organisation=found.organisation_id).values_list("pk", flat=True))
    return bool(found.of_sites) and seen.issuperset(found.of_sites)


def _file(found: Archive | Bundle | None, called: str) -> FileResponse:
    if found is None:
        raise Http404
    if found.gone or not default_storage.exists(found.name):
        raise Problem(410, "It is not kept any more", "Make another.")
    ending = found.name.rpartition(".")[2]
    return FileResponse(default_storage.open(found.name), as_attachment=True, filename=f"{called}-{found.at:%Y-%m-%d}.{ending}")  # fmt: skip


class ClosingIn(BaseModel):
    """The organisation's name, typed as it is, and why it is closed."""

    name: str = Field(max_length=120)
    why: str = Field(min_length=1, max_length=300)
    with_open_jobs: bool = False


class ClosedView(BaseModel):
    """An organisation that this person closed, and the archive that was made of it then."""

    id: int
    name: str
    at: datetime
    archive: MadeView | None


@router.post("organisation/close", response={204: None, 409: ProblemDocument, 422: ProblemDocument})
@limited("archives to make")
def close_organisation(request: HttpRequest, given: ClosingIn) -> tuple[int, None]:
    """Closes the organisation that this person leads: nobody works there any more. Whoever runs the server can reopen
    it.

    Open jobs are named, and stay so with `with_open_jobs`. Its archive is made then, for whoever closed it.
    """
    user = person(request)
    close(user, organisation(user, Role.LEAD), given.name, given.why, given.with_open_jobs)
    return 204, None


@router.get("closed", response=list[ClosedView])
def closed(request: HttpRequest) -> list[dict[str, Any]]:
    """The organisations that this person closed and that were not opened again, with the archive of each."""
    found = Closing.objects.filter(by=person(request), reopened_at=None).select_related("organisation", "archive__by")
    return [
        {
            "id": one.pk,
            "name": one.organisation.name,
            "at": one.at,
            "archive": view_of(one.archive) if one.archive else None,
        }
        for one in found.order_by("-at")
    ]


@router.get("closed/{closing_id}/file.zip", response={200: bytes, 410: ProblemDocument})
@limited("tables to take away")
def archive_of_closed(request: HttpRequest, closing_id: int) -> FileResponse:
    """The archive of an organisation, for whoever closed it."""
    mine = Closing.objects.filter(
        pk=closing_id, by=person(request), reopened_at=None, archive__finished_at__isnull=False
    )
    found = mine.select_related("archive").first()
    return _file(found.archive if found else None, "archive")


@router.get("me/data.json", response={200: bytes})
@limited("tables to take away")
def own_data(request: HttpRequest) -> HttpResponse:
    """What is known of this person: who they are, where they are signed in, and which jobs they worked on."""
    user = person(request)
    # How many of theirs there are in each, and then those jobs by name: asked for at once, all jobs there are are gone through.
    entered = dict(Entry.objects.filter(who=user).order_by().values_list("job").annotate(Count("pk")))
    jobs = Job.objects.filter(pk__in=list(entered), practice=False).order_by("opened_at")
    told = jobs.values_list("pk", "channel__system__site__organisation__name", "channel__system__name", "opened_at")
    content = {
        "name": user.name,
        "address": user.username,
        "joined": user.date_joined.isoformat(),
        "last_signed_in": user.last_login.isoformat() if user.last_login else None,
        "memberships": [
            {"organisation": str(one.organisation), "role": one.role}
            for one in user.memberships.select_related("organisation")
        ],
        "sessions": [
            {"device": one.agent, "address": one.address, "began": one.began_at.isoformat(), "seen": one.seen_at.isoformat()}
            for one in user.devices.all()
        ],
        "mail": list(user.wishes.values("organisation__name", "days", "hour", "faults", "looks", "chain")),
        "jobs": [
            {
                "job": str(job),
                "organisation": of,
                "machine": machine,
                "opened": opened.isoformat(),
                "entries": entered[job],
            }
            for job, of, machine, opened in told
        ],
    }  # fmt: skip
    return download(content, "what-is-known-of-me.json")
