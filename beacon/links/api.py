"""Instruments on the line over HTTP: registering, teaching, and their readings as they come."""

import asyncio
import time
from typing import Any
from uuid import UUID

from asgiref.sync import sync_to_async
from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest, StreamingHttpResponse
from ninja import Router

from beacon.links import schemas
from beacon.links.allow_list import NotAllowed, found_at
from beacon.links.hub import Where, listening
from beacon.links.listed import where_of
from beacon.links.models import Link
from beacon.links.streams import given_back, streamed, told
from beacon.people.access import organisation, person, works_in
from beacon.people.models import Person, Role
from beacon.people.rate_limit import limited
from beacon.people.still import Listener, listener
from beacon.plant.models import System
from beacon.problems import Problem, ProblemDocument
from wary.lines import NotUnderstood, faults, read, tokens, tried
from wary.live import Gathered, Live, Watched, gathered, watched
from wary.quantities import NotAQuantity, quantity
from wary.reading import Display, Taught
from wary.typed import as_in_a_file

Answer = dict[str, Any]
router = Router(tags=["instruments on the line"])
REGISTERED = ["name", "way", "most", "off", "host", "port", "address", "baud", "changed_by", "changed_at"]
LOOK = 2.0
"""How long a look at the lines that come waits for some, s."""


def link_view(link: Link) -> Answer:
    keys = ("id", "name", "way", "baud", "host", "address", "port", "pattern", "unit", "most", "off")
    systems = [system.id for system in link.systems.all()]
    return {key: getattr(link, key) for key in keys} | {"systems": systems, "changed_by": str(link.changed_by)}


def _link(user: Person, link_id: UUID, *roles: Role) -> Link:
    """An instrument of an organisation in which they work. Raises Http404 otherwise."""
    found = Link.objects.filter(organisation__in=works_in(user, *roles), id=link_id)
    link = found.select_related("changed_by", "organisation").prefetch_related("systems").first()
    if link is None:
        raise Http404
    return link


@router.get("links", response=list[schemas.LinkView])
def links(request: HttpRequest) -> list[Answer]:
    """The instruments on the line of the organisation at hand."""
    found = Link.objects.filter(organisation=organisation(person(request)))
    return [link_view(link) for link in found.select_related("changed_by").prefetch_related("systems")]


@router.post("links", response={201: schemas.LinkView, 422: ProblemDocument})
def register(request: HttpRequest, given: schemas.LinkIn) -> tuple[int, Answer]:
    """Registers an instrument; only a lead may. Its host is looked up now, and reached there for good."""
    user = person(request)
    return 201, _keep(user, Link(organisation=organisation(user, Role.LEAD)), given)


@router.put("links/{link_id}", response={200: schemas.LinkView, 422: ProblemDocument})
def change(request: HttpRequest, link_id: UUID, given: schemas.LinkIn) -> Answer:
    """Changes an instrument; only a lead may."""
    user = person(request)
    return _keep(user, _link(user, link_id, Role.LEAD), given)


def _keep(user: Person, link: Link, given: schemas.LinkIn) -> Answer:
    wrong = []
    if not given.name.strip():
        wrong.append({"path": "name", "text": "What is it called? Type a name."})
    most = given.most.strip()
    if most:
        try:
            most = quantity(as_in_a_file(most, "mass", "kg"), "mass").text
        except NotAQuantity as unread:
            wrong.append({"path": "most", "text": str(unread)})
    address = None
    if given.way == "network":
        try:
            address = found_at(given.host.strip(), given.port)
        except NotAllowed as out:
            wrong.append({"path": out.field, "text": str(out)})
    systems = list(System.objects.filter(site__organisation=link.organisation, practice=False, id__in=given.systems))
    if len(systems) < len(set(given.systems)):
        wrong.append({"path": "systems", "text": "One of these systems is not on record here."})
    if wrong:
        raise Problem(422, "This instrument cannot be kept yet", "Nothing was changed.", wrong)
    link.name, link.way, link.most, link.off = given.name.strip(), given.way, most, given.off
    link.host, link.port, link.address = (given.host.strip(), given.port, address) if address else ("", 0, None)
    link.baud, link.changed_by = given.baud, user
    try:
        with transaction.atomic():
            # What it was taught meanwhile stays.
            link.save(update_fields=None if link._state.adding else REGISTERED)
            link.systems.set(systems)
    except IntegrityError:
        text = f"There is an instrument called {link.name} already. Give this one another name."
        raise Problem(422, "This instrument cannot be kept yet", errors=[{"path": "name", "text": text}]) from None
    return link_view(_link(user, link.id))


@router.put("links/{link_id}/pattern", response={200: schemas.LinkView, 422: ProblemDocument})
def teach(request: HttpRequest, link_id: UUID, given: schemas.TeachIn) -> Answer:
    """Keeps what was pointed at on a captured line; without a pattern the instrument speaks the simple format. Only a lead may."""
    user = person(request)
    link = _link(user, link_id, Role.LEAD)
    wrong = faults(given.pattern) if given.pattern else []
    if wrong:
        errors = [{"path": f"pattern.{one.path}", "text": one.text} for one in wrong]
        raise Problem(422, "Lines cannot be read so", "Nothing was changed.", errors)
    link.pattern = given.pattern.model_dump(mode="json") if given.pattern else None
    link.unit = _unit(given)
    link.changed_by = user
    link.save(update_fields=["pattern", "unit", "changed_by", "changed_at"])
    return link_view(_link(user, link.id))


def _unit(given: schemas.TeachIn) -> str:
    """The unit that it sends as it is taught: of the line pointed at, or of the first that can be read."""
    for line in [given.pattern.line] if given.pattern else given.lines:
        try:
            found = read(given.pattern, line)
        except NotUnderstood:
            continue
        if found.unit:
            return found.unit
    return ""


@router.post("lines/tried", response=schemas.TriedView)
def try_lines(request: HttpRequest, given: schemas.TeachIn) -> Answer:
    """What is pointed at, tried on lines at once; nothing is kept."""
    organisation(person(request))
    wrong = faults(given.pattern) if given.pattern else []
    line = given.pattern.line if given.pattern else next(iter(given.lines), "")
    return {"tokens": tokens(line), "faults": wrong, "tried": [] if wrong else tried(given.pattern, given.lines)}


async def _found(request: HttpRequest, link_id: UUID, *roles: Role) -> tuple[Where, Listener]:
    """Where an instrument is, and who listens; asked in a thread whose connection is given back before anything waits."""

    def found() -> tuple[Where, Listener]:
        try:
            link = _link(person(request), link_id, *roles)
            return where_of(link), listener(request, link.organisation_id)
        finally:
            given_back()

    return await sync_to_async(found)()


@router.get("links/{link_id}/live", response={200: str})
async def live(request: HttpRequest, link_id: UUID) -> StreamingHttpResponse:
    """An instrument's readings as server-sent events, until the reader goes away or ten minutes are over."""
    return streamed(told(*await _found(request, link_id)))


@router.get("links/{link_id}/lines", response=schemas.CameView)
async def lines(request: HttpRequest, link_id: UUID) -> Answer:
    """The lines that an instrument sent last, as they came; waits a moment for some."""
    where, _ = await _found(request, link_id, Role.LEAD)
    async with listening(where) as feed:
        until = time.monotonic() + LOOK
        while len(feed.lines) < 4 and time.monotonic() < until:
            await asyncio.sleep(0.1)
        fault = "" if feed.lines else feed.fault
        return {"lines": [line.text for line in feed.lines], "fault": fault, "flooded": feed.flooded}


@router.post("links/{link_id}/read", response=Live)
def read_lines(request: HttpRequest, link_id: UUID, given: schemas.ReadIn) -> Live:
    """What lines say that a technician's browser read on a serial port, by the pattern of that instrument."""
    link = _link(person(request), link_id)
    display = Display(Taught.of(link.pattern, link.unit, link.most))
    at = 0.0
    for at, line in given.lines:
        display.take(line, at)
    return display.live(at)


@router.post("readings/gathered", response={200: Gathered, 422: ProblemDocument})
@limited("readings gathered")
def gather(request: HttpRequest, given: schemas.GatherIn) -> Gathered:
    """What a run of readings over time comes to: how many, mean, spread."""
    organisation(person(request))
    try:
        return gathered(given.readings)
    except ValueError as wrong:
        raise Problem(
            422, "These readings come to nothing", errors=[{"path": "readings", "text": str(wrong)}]
        ) from None


@router.post("readings/watched", response={200: list[Watched], 422: ProblemDocument})
@limited("readings gathered")
def watch(request: HttpRequest, given: schemas.FiguresIn) -> list[Watched]:
    """Whether figures stood while nothing was done to them, each with a sentence."""
    organisation(person(request))
    try:
        return [watched(one.name, one.readings) for one in given.figures]
    except ValueError as wrong:
        raise Problem(422, "These readings say nothing yet", errors=[{"path": "figures", "text": str(wrong)}]) from None
