"""The load log over HTTP: keeping loads, totals, CSV in and out, and loads with tickets into a comparison."""

import csv
import io
import uuid
from typing import Annotated, Any, Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Count, F, Q, QuerySet, Sum
from django.db.models.functions import TruncDate
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router

from beacon.bench.keeping import Sent, keep
from beacon.bench.models import Entry
from beacon.bench.opening import all_kept, open_alone
from beacon.database.apart import apart
from beacon.links.models import Link
from beacon.loads import schemas
from beacon.loads.keeping import bring_in, locked, next_number, on_the_clock, readable, unit_of
from beacon.loads.models import Load, LoadChange, Watch
from beacon.people.access import person, works_at
from beacon.people.models import Person
from beacon.people.rate_limit import limited
from beacon.plant.access import system_to_work_on
from beacon.plant.models import Channel, System
from beacon.problems import Problem, ProblemDocument
from beacon.tables import safe
from beacon.validation import Whole
from wary.loads import COLUMNS, in_words, kg_of, mass_text
from wary.quantities import NotAQuantity

Answer = dict[str, Any]
router = Router(tags=["loads"])
PAGE = 100
MOST_COMPARED = 200
MOST_WORDS = 8
Find = Annotated[str, Query("", max_length=120)]
CHANGED = ["state", "indicated", "mass", "operator", "destination", "material", "ticket", "ticket_mass", "moved"]


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
    found = readable(loads).select_related("channel__system").select_for_update(of=("self",), no_key=True).first()
    if found is None:
        raise Http404
    return found


def _view(load: Load) -> Answer:
    keys = (
        "id",
        "number",
        "state",
        "how",
        "indicated",
        "operator",
        "destination",
        "material",
        "ticket",
        "moved",
        "taken_out",
    )
    changes = [
        {key: getattr(c, key) for key in ("field", "before", "after", "at")} | {"who": str(c.who)}
        for c in load.changes.all()
    ]
    return {key: getattr(load, key) for key in keys} | {
        "channel": load.channel_id, "job": load.job_id, "changes": changes,
        "start": on_the_clock(load.start), "end": on_the_clock(load.end),
    }  # fmt: skip


def _found(channel: Channel, find: str) -> QuerySet[Load]:
    loads = readable(Load.objects.filter(channel=channel))
    for word in find.split()[:MOST_WORDS]:
        fields = ("operator", "destination", "material", "ticket", "indicated")
        words = Q(*[(f"{field}__icontains", word) for field in fields], _connector=Q.OR)
        loads = loads.filter(words | Q(number=int(word)) if word.isdecimal() and len(word) < 10 else words)
    return loads


def _to_compare(channel: Channel) -> QuerySet[Load]:
    """Stored loads with a ticket that are in no comparison yet, the oldest first."""
    loads = Load.objects.filter(channel=channel, state=Load.State.STORED, job=None, mass__isnull=False, taken_out="")
    return loads.filter(ticket_mass__gt=0).order_by("number")


@router.get("systems/{system_id}/loads", response=schemas.LoadLog)
def log(request: HttpRequest, system_id: UUID, channel: UUID | None = None, find: Find = "", before: Whole | None = None) -> Answer:  # fmt: skip
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
        "watch": _watch_view(of),
    }


def _watch_view(of: Channel) -> Answer | None:
    watch = Watch.objects.filter(channel=of).select_related("link", "by").first()
    if watch is None:
        return None
    return {"link": watch.link_id, "name": watch.link.name, "by": str(watch.by), "began_at": watch.began_at}


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
    return 201, _view(readable(Load.objects).get(pk=load.pk))


@router.post("systems/{system_id}/loads/watch", response={201: schemas.WatchView, 409: ProblemDocument})
@transaction.atomic
def begin_watch(request: HttpRequest, system_id: UUID, given: schemas.WatchIn) -> tuple[int, Answer]:
    """Lets a live weight keep the log: loads begin and end by its steady changes, whether a page is open or not."""
    user = person(request)
    system = _system(request, system_id)
    channel = locked(_channel(system, given.channel))
    link = system.links.filter(id=given.link, off=False, way=Link.Way.NETWORK).first()
    if link is None:
        raise Http404
    there = Watch.objects.filter(channel=channel).select_related("link").first()
    if there and there.link_id != link.id:
        raise Problem(409, "Another one keeps the log", f"{there.link.name} keeps it already. Let it go first.")
    if there is None:
        Watch.objects.create(channel=channel, link=link, by=user)
    found = _watch_view(channel)
    assert found
    return 201, found


@router.delete("systems/{system_id}/loads/watch", response={204: None})
@transaction.atomic
def end_watch(request: HttpRequest, system_id: UUID, channel: UUID | None = None) -> tuple[int, None]:
    """The log is kept by hand again."""
    Watch.objects.filter(channel=locked(_channel(_system(request, system_id), channel))).delete()
    return 204, None


@router.post("loads/{load_id}/take-out", response={200: schemas.LoadView, 409: ProblemDocument, 422: ProblemDocument})
@transaction.atomic
def take_out(request: HttpRequest, load_id: UUID, given: schemas.TakeOutIn) -> Answer:
    """Takes a load out of the log, with why: it stays to be seen, and counts for nothing."""
    user = person(request)
    load = _load(user, load_id)
    if load.job_id:
        raise Problem(409, "It is in a comparison", "A load that became a run of a comparison stays in the log.")
    if not any(letter.isalpha() for letter in given.why):
        raise Problem(422, "Not taken out", errors=[{"path": "why", "text": "Why? In words."}])
    if not load.taken_out:
        load.taken_out = given.why.strip()
        load.save(update_fields=["taken_out"])
        LoadChange.objects.create(load=load, field="taken_out", after=load.taken_out[:80], who=user)
    return _view(load)


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
        if given.store:
            load.ended_at = load.end = timezone.now()
    load.save(update_fields=[*CHANGED, *(["ended_at"] if given.store else [])])
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
    request: HttpRequest, system_id: UUID, by: Literal["day", "destination", "material"] = "day", channel: UUID | None = None, find: Find = ""
) -> list[Answer]:  # fmt: skip
    """What was loaded in all, by day, destination or material; open loads are not in it."""
    system = _system(request, system_id)
    of, unit = _channel(system, channel), unit_of(system)
    stored = _found(of, find).filter(state=Load.State.STORED, taken_out="")
    key = TruncDate("start", tzinfo=ZoneInfo(system.site.time_zone)) if by == "day" else F(by)
    rows = stored.annotate(name=key).values("name").order_by("-name" if by == "day" else "name")
    summed = rows.annotate(count=Count("id"), kg=Sum("mass"), tickets=Count("ticket_mass"))[:400]
    return [
        {"name": str(row["name"]) or "not said", "loads": row["count"], "tickets": row["tickets"],
         "total": in_words(row["kg"] or 0.0, unit)}
        for row in summed
    ]  # fmt: skip


@router.get("systems/{system_id}/loads.csv", response={200: bytes})
@limited("tables to take away")
@apart
def csv_out(request: HttpRequest, system_id: UUID, channel: UUID | None = None) -> HttpResponse:
    """The whole log of a channel as CSV in UTF-8, the oldest first; it comes in again as it is."""
    of = _channel(_system(request, system_id), channel)
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(COLUMNS)
    loads = readable(Load.objects.filter(channel=of, taken_out="")).order_by("number")
    for load in loads.iterator():
        start, end = (at.isoformat() if at else "" for at in (on_the_clock(load.start), on_the_clock(load.end)))
        words = (load.operator, load.destination, load.material)
        writer.writerow([load.number, start, end, load.indicated, *map(safe, words), load.ticket, "yes" if load.moved else ""])  # fmt: skip
    headers = {"Content-Disposition": 'attachment; filename="loads.csv"'}
    return HttpResponse(text.getvalue().encode("utf-8-sig"), content_type="text/csv; charset=utf-8", headers=headers)


@router.post("systems/{system_id}/loads.csv", response={200: schemas.BroughtIn, 422: ProblemDocument})
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
    # Locked, so that no load becomes a run of two comparisons.
    locked(of)
    wanted = readable(_to_compare(of))
    if given.loads:
        wanted = wanted.filter(id__in=given.loads)
    loads = list(wanted.select_for_update(of=("self",), no_key=True)[:MOST_COMPARED])
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
    all_kept(keep(user, job, sent), "Look at these loads.")
    Load.objects.filter(id__in=[load.id for load in loads]).update(job=job)
    return 201, {"job": job.id}
