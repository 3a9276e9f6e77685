"""The load log over HTTP: keeping loads, totals, CSV in and out, and loads with tickets into a comparison."""

import csv
import io
import uuid
from typing import Any, Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from asgiref.sync import sync_to_async
from django.db import transaction
from django.db.models import Count, F, Q, QuerySet, Sum
from django.db.models.functions import TruncDate
from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.utils import timezone
from ninja import Router

from beacon.bench.keeping import Sent, keep
from beacon.bench.models import Entry
from beacon.bench.opening import open_alone
from beacon.entering import Whole
from beacon.links.hub import Where
from beacon.links.listed import where_of
from beacon.links.streams import given_back, streamed
from beacon.loads import schemas
from beacon.loads.keeping import bring_in, kg_of, locked, next_number, unit_of
from beacon.loads.models import Load, LoadChange
from beacon.loads.watching import Watched, told, watched
from beacon.people.access import person, works_at
from beacon.people.models import Person
from beacon.people.rates import limited
from beacon.plant.access import system_to_work_on
from beacon.plant.models import Channel, System
from beacon.problems import Problem, ProblemDocument
from beacon.records.tables import safe
from wary.loads import COLUMNS, mass_text
from wary.quantities import NotAQuantity, from_si, shown

Answer = dict[str, Any]
router = Router(tags=["loads"])
PAGE = 100
MOST_COMPARED = 200


def _system(request: HttpRequest, system_id: UUID) -> System:
    """A system that keeps a log of loads. Raises Http404 where this person may not work on it, or it keeps none."""
    system = system_to_work_on(person(request), system_id)
    if not system.machine.loads_into:
        raise Http404
    return system


def _channel(system: System, channel: UUID | None) -> Channel:
    found = system.channels.filter(id=channel).first() if channel else system.channels.first()
    if found is None:
        raise Http404
    found.system = system
    return found


def _load(user: Person, load_id: UUID) -> Load:
    loads = Load.objects.filter(id=load_id, **works_at("channel__system__site__organisation", user))
    found = loads.select_related("channel__system").select_for_update(of=("self",)).first()
    if found is None:
        raise Http404
    return found


def _view(load: Load) -> Answer:
    keys = ("id", "number", "state", "how", "indicated", "operator", "destination", "material", "ticket", "moved")
    changes = [
        {key: getattr(c, key) for key in ("field", "before", "after", "at")} | {"who": str(c.who)}
        for c in load.changes.all()
    ]
    return {key: getattr(load, key) for key in keys} | {
        "channel": load.channel_id, "start": load.started_at, "end": load.ended_at, "job": load.job_id, "changes": changes,
    }  # fmt: skip


def _found(channel: Channel, find: str) -> QuerySet[Load]:
    loads = Load.objects.filter(channel=channel)
    for word in find.split():
        fields = ("operator", "destination", "material", "ticket", "indicated")
        words = Q(*[(f"{field}__icontains", word) for field in fields], _connector=Q.OR)
        loads = loads.filter(words | Q(number=int(word)) if word.isdigit() and len(word) < 10 else words)
    return loads


def _to_compare(channel: Channel) -> QuerySet[Load]:
    """Stored loads with a ticket that are in no comparison yet, the oldest first."""
    loads = Load.objects.filter(channel=channel, state=Load.State.STORED, job=None, mass__isnull=False)
    return loads.filter(ticket_mass__gt=0).order_by("number")


@router.get("systems/{system_id}/loads", response=schemas.LoadLog)
def log(request: HttpRequest, system_id: UUID, channel: UUID | None = None, find: str = "", before: Whole | None = None) -> Answer:  # fmt: skip
    """The load log of a channel, the latest first, a hundred at a time; `find` looks in words and numbers."""
    system = _system(request, system_id)
    of = _channel(system, channel)
    loads = _found(of, find)
    if before is not None:
        loads = loads.filter(number__lt=before)
    found = list(loads.prefetch_related("changes__who").order_by("-number")[: PAGE + 1])
    return {
        "loads": [_view(load) for load in found[:PAGE]],
        "earlier": found[PAGE - 1].number if len(found) > PAGE else None,
        "unit": unit_of(system),
        "to_compare": min(_to_compare(of).count(), MOST_COMPARED),
    }


@router.post("systems/{system_id}/loads", response={201: schemas.LoadView})
@transaction.atomic
def begin(request: HttpRequest, system_id: UUID, given: schemas.LoadIn) -> tuple[int, Answer]:
    """A load begins: by hand, by a signal, or by a steady change of weight."""
    user = person(request)
    channel = locked(_channel(_system(request, system_id), given.channel))
    load = Load.objects.create(
        channel=channel, number=next_number(channel), how=given.how, started_at=timezone.now(), by=user,
        operator=given.operator.strip() or str(user), destination=given.destination.strip(), material=given.material.strip(),
    )  # fmt: skip
    return 201, _view(load)


@router.get("systems/{system_id}/loads/live", response={200: str})
async def live(request: HttpRequest, system_id: UUID, link: UUID, channel: UUID | None = None) -> StreamingHttpResponse:
    """A live weight as server-sent events; loads begin and end by its steady changes for as long as this is open."""

    def found() -> tuple[Where, Watched]:
        try:
            user = person(request)
            system = _system(request, system_id)
            link_of = system.links.filter(id=link).first()
            if link_of is None:
                raise Http404
            return where_of(link_of), watched(_channel(system, channel), user)
        finally:
            given_back()

    return streamed(told(*await sync_to_async(found)()))


@router.patch("loads/{load_id}", response={200: schemas.LoadView, 422: ProblemDocument})
@transaction.atomic
def change(request: HttpRequest, load_id: UUID, given: schemas.LoadPatch) -> Answer:
    """Changes what a load says, keeping what stood there; `store` keeps it for good with what it indicates."""
    user = person(request)
    load = _load(user, load_id)
    unit = unit_of(load.channel.system)
    wrong: list[dict[str, str]] = []
    for field, text in given.model_dump(exclude_none=True, exclude={"store", "moved"}).items():
        said = text.strip()
        if field in ("indicated", "ticket") and said:
            try:
                said = mass_text(said, unit)
            except NotAQuantity as unread:
                wrong.append({"path": field, "text": str(unread)})
                continue
        _set(user, load, field, said)
    if given.moved is not None:
        _set(user, load, "moved", given.moved)
    load.mass, load.ticket_mass = (kg_of(text) for text in (load.indicated, load.ticket))
    if given.store and not load.indicated:
        wrong.append({"path": "indicated", "text": "What does it show? Type it, then store the load."})
    if wrong:
        raise Problem(422, "This load cannot be kept so", "Nothing was changed.", wrong)
    if load.state != Load.State.STORED:
        load.state = Load.State.STORED if given.store else Load.State.RECORDING if load.indicated else Load.State.OPEN
        load.ended_at = timezone.now() if given.store else load.ended_at
    load.save()
    return _view(load)


def _set(user: Person, load: Load, field: str, said: Any) -> None:
    before = getattr(load, field)
    if before == said:
        return
    if load.state == Load.State.STORED and (before or field == "moved"):
        LoadChange.objects.create(load=load, field=field, before=str(before), after=str(said), who=user)
    setattr(load, field, said)


@router.get("systems/{system_id}/loads/totals", response=list[schemas.LoadTotal])
def totals(
    request: HttpRequest, system_id: UUID, by: Literal["day", "destination", "material"] = "day", channel: UUID | None = None, find: str = ""
) -> list[Answer]:  # fmt: skip
    """What was loaded in all, by day, destination or material; open loads are not in it."""
    system = _system(request, system_id)
    of, unit = _channel(system, channel), unit_of(system)
    stored = _found(of, find).filter(state=Load.State.STORED)
    key = TruncDate("started_at", tzinfo=ZoneInfo(system.site.time_zone)) if by == "day" else F(by)
    rows = stored.annotate(name=key).values("name").order_by("-name" if by == "day" else "name")
    summed = rows.annotate(count=Count("id"), kg=Sum("mass"), tickets=Count("ticket_mass"))[:400]
    return [
        {"name": str(row["name"]) or "not said", "loads": row["count"], "tickets": row["tickets"],
         "total": f"{shown(from_si(row['kg'] or 0.0, unit), 6)} {unit}"}
        for row in summed
    ]  # fmt: skip


@router.get("systems/{system_id}/loads.csv", response={200: bytes})
@limited("tables to take away")
def csv_out(request: HttpRequest, system_id: UUID, channel: UUID | None = None) -> HttpResponse:
    """The whole log of a channel as CSV in UTF-8, the oldest first; it comes in again as it is."""
    of = _channel(_system(request, system_id), channel)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(COLUMNS)
    loads = Load.objects.filter(channel=of).order_by("number")
    for load in loads.iterator():
        end = load.ended_at.isoformat() if load.ended_at else ""
        words = (load.operator, load.destination, load.material)
        writer.writerow([load.number, load.started_at.isoformat(), end, load.indicated, *map(safe, words), load.ticket, "yes" if load.moved else ""])  # fmt: skip
    headers = {"Content-Disposition": 'attachment; filename="loads.csv"'}
    return HttpResponse(text.getvalue().encode("utf-8-sig"), content_type="text/csv; charset=utf-8", headers=headers)


@router.post("systems/{system_id}/loads.csv", response={200: schemas.BroughtIn, 422: ProblemDocument})
@transaction.atomic
@limited("files to bring in")
def csv_in(request: HttpRequest, system_id: UUID, channel: UUID | None = None) -> Answer:
    """Brings loads in from CSV: all of them, or none with each refused row by its line."""
    user = person(request)
    system = _system(request, system_id)
    of = _channel(system, channel)
    return {"loads": bring_in(user, system, of, request.body)}


@router.post("systems/{system_id}/loads/compare", response={201: schemas.Begun, 422: ProblemDocument})
@transaction.atomic
def compare(request: HttpRequest, system_id: UUID, given: schemas.CompareIn) -> tuple[int, Answer]:
    """Loads with a ticket become the runs of a comparison; one that moved before it was stored is set aside."""
    user = person(request)
    of = _channel(_system(request, system_id), given.channel)
    wanted = _to_compare(of)
    if given.loads:
        wanted = wanted.filter(id__in=given.loads)
    loads = list(wanted[:MOST_COMPARED])
    if not loads:
        text = "No stored load has a ticket that was not compared yet. Type a ticket first."
        raise Problem(422, "Nothing to compare", text, [{"path": "loads", "text": text}])
    job = open_alone(user, of, of.system.machine.loads_into, "routine").job
    sent = []
    for load in loads:
        texts = {"reference": load.ticket, "indicated": load.indicated}
        if load.moved:
            texts["set_aside"] = "it moved before the load was stored"
        sent += [
            Sent(uuid.uuid4(), f"runs.l{load.number}.{key}", text, source=Entry.Source.IMPORTED)
            for key, text in texts.items()
        ]
    keep(user, job, sent)
    Load.objects.filter(id__in=[load.id for load in loads]).update(job=job)
    return 201, {"job": job.id}
