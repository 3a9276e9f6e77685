"""What belongs to one machine: its channels and cells, its events, its history, its kind of instrument."""

from datetime import date, datetime
from typing import Any
from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router
from pydantic import BaseModel, Field

from beacon.people import access
from beacon.people.access import organisation, person, system_to_work_on
from beacon.people.models import Person, Role
from beacon.plant.history import as_csv, as_xlsx, event_view, history
from beacon.plant.models import STALE, Cell, Channel, Event, InstrumentKind, System
from beacon.problems import Problem, ProblemDocument
from wary.methods import all_methods
from wary.quantities import NotAQuantity, quantity
from wary.typed import as_in_a_file

router = Router(tags=["machine"])


class CellView(BaseModel):
    id: UUID
    channel: UUID
    channel_name: str
    place: int
    label: str
    capacity: str
    sensitivity: str
    source: str
    serial: str
    fitted: date | None
    removed: date | None
    why_removed: str


class CellIn(BaseModel):
    """A cell. `instead_of` names the one that it replaces, which stays in the history, with `why`."""

    channel: UUID | None = None
    label: str = Field("", max_length=40)
    capacity: str = Field("", max_length=20)
    sensitivity: str = Field("", max_length=20)
    source: str = Field("plate", pattern="^(plate|certificate|assumed)$")
    serial: str = Field("", max_length=80)
    instead_of: UUID | None = None
    why: str = Field("", max_length=200)


class EventView(BaseModel):
    id: UUID
    kind: str
    words: str
    note: str
    at: datetime
    who: str
    stale: list[str]


class EventKind(BaseModel):
    """A kind of event, and the methods that it usually makes stale on this system."""

    kind: str
    words: str
    stale: list[str]
    titles: list[str]


class EventIn(BaseModel):
    kind: str
    note: str = Field("", max_length=300)
    stale: list[str] | None = None


class HistoryPoint(BaseModel):
    """One closed job; errors and uncertainties in per cent."""

    record: UUID | None
    number: int | None
    closed_at: datetime
    title: str
    call: str
    outcome: str
    closed_by: str
    error_found: float | None
    error_left: float | None
    uncertainty_found: float | None
    uncertainty_left: float | None
    factor_before: str
    factor_after: str
    zero: str
    zero_figure: float | None
    reference: str
    accept: float | None


class DriftView(BaseModel):
    """Drift in per cent a month with its 95 % interval, and when the limit would be left."""

    rate: float
    low: float
    high: float
    leaves_on: date | None
    hint: str


class HistoryView(BaseModel):
    channel: UUID
    channel_name: str
    accept: float | None
    points: list[HistoryPoint]
    events: list[EventView]
    drift: DriftView | None
    intervals: int


class ExtraField(BaseModel):
    title: str = Field(min_length=1, max_length=60)
    digits: str = Field("", max_length=200)


class InstrumentView(BaseModel):
    id: UUID
    name: str
    fields: list[ExtraField]


class InstrumentIn(BaseModel):
    """A kind of instrument with its extra settings; an id that is known changes that one."""

    id: UUID | None = None
    name: str = Field(min_length=1, max_length=80)
    fields: list[ExtraField] = []


def _cell_view(cell: Cell) -> dict[str, Any]:
    keys = ("id", "place", "label", "capacity", "sensitivity", "source", "serial", "fitted", "removed", "why_removed")
    return {key: getattr(cell, key) for key in keys} | {"channel": cell.channel_id, "channel_name": cell.channel.name}


@router.get("systems/{system_id}/cells", response=list[CellView])
def cells(request: HttpRequest, system_id: UUID) -> Any:
    """The cells of a system, those in place and those that were replaced."""
    system = system_to_work_on(person(request), system_id)
    return [_cell_view(cell) for cell in Cell.objects.filter(channel__system=system).select_related("channel")]


@router.post("systems/{system_id}/cells", response={201: CellView, 422: ProblemDocument})
@transaction.atomic
def fit_cell(request: HttpRequest, system_id: UUID, given: CellIn) -> Any:
    """Fits a cell; one that takes another's place makes an event of it."""
    user = person(request)
    system = system_to_work_on(user, system_id)
    texts, wrong = _cell_texts(given)
    old = None
    if given.instead_of:
        old = Cell.objects.filter(channel__system=system, id=given.instead_of, removed=None).first()
        if old is None:
            raise Http404
        if not any(letter.isalpha() for letter in given.why):
            wrong.append({"path": "why", "text": "Why was it replaced? In words, for the history."})
    if wrong:
        raise Problem(422, "This cell cannot be kept yet", "Nothing was changed.", wrong)
    channel = old.channel if old else _channel(system, given.channel)
    today = timezone.now().date()
    place = old.place if old else 1 + max((c.place for c in Cell.objects.filter(channel=channel)), default=0)
    label = given.label.strip() or (old.label if old else str(place))
    if old:
        old.removed, old.why_removed = today, given.why.strip()
        old.save(update_fields=["removed", "why_removed"])
        note = f"cell {label}: {given.why.strip()}"
        _log(user, system, Event.Kind.CELL, note, None)
    cell = Cell.objects.create(
        channel=channel,
        place=place,
        label=label,
        source=given.source,
        serial=given.serial.strip(),
        fitted=today,
        **texts,
    )
    return 201, _cell_view(cell)


def _channel(system: System, channel: UUID | None) -> Channel:
    found = system.channels.filter(id=channel).first() if channel else system.channels.first()
    if found is None:
        raise Http404
    return found


def _cell_texts(given: CellIn) -> tuple[dict[str, str], list[dict[str, str]]]:
    texts, wrong = {}, []
    for key, family, unit in (("capacity", "mass", "kg"), ("sensitivity", "signal", "mV/V")):
        text = getattr(given, key).strip()
        try:
            texts[key] = quantity(as_in_a_file(text, family, unit), family).text if text else ""
        except NotAQuantity as unread:
            wrong.append({"path": key, "text": str(unread)})
    return texts, wrong


def _suggested(system: System, kind: str) -> list[str]:
    known = all_methods()
    return [method for method in STALE.get(kind, ()) if system.kind in known[method].kinds]


@router.get("systems/{system_id}/event-kinds", response=list[EventKind])
def event_kinds(request: HttpRequest, system_id: UUID) -> Any:
    """What can happen to this system, and what it usually makes stale."""
    system = system_to_work_on(person(request), system_id)
    rows = []
    for kind, words in Event.Kind.choices:
        stale = _suggested(system, kind)
        if stale or not STALE[kind]:
            titles = [all_methods()[method].title for method in stale]
            rows.append({"kind": kind, "words": words, "stale": stale, "titles": titles})
    return rows


@router.post("systems/{system_id}/events", response={201: EventView, 422: ProblemDocument})
@transaction.atomic
def log_event(request: HttpRequest, system_id: UUID, given: EventIn) -> Any:
    """Logs an event, and puts what it makes stale on the round."""
    user = person(request)
    system = system_to_work_on(user, system_id)
    wrong = []
    if given.kind not in Event.Kind.values:
        wrong.append({"path": "kind", "text": f"expected one of {', '.join(Event.Kind.values)}"})
    elif given.kind == Event.Kind.OTHER and not given.note.strip():
        wrong.append({"path": "note", "text": "What happened? In words."})
    unknown = [
        method for method in given.stale or [] if system.kind not in getattr(all_methods().get(method), "kinds", ())
    ]
    if unknown:
        wrong.append({"path": "stale", "text": f"{', '.join(unknown)} is no method for this system"})
    if wrong:
        raise Problem(422, "This event cannot be kept yet", "Nothing was changed.", wrong)
    return 201, event_view(_log(user, system, given.kind, given.note.strip(), given.stale))


def _log(user: Person, system: System, kind: str, note: str, stale: list[str] | None) -> Event:
    methods = _suggested(system, kind) if stale is None else stale
    event = Event.objects.create(system=system, kind=kind, note=note, who=user, stale=methods)
    if methods and system.state in (System.State.IN_ORDER, System.State.LIMITED, System.State.PROVISIONAL):
        system.state = System.State.STALE
        system.save(update_fields=["state"])
    return event


def _history_of(request: HttpRequest, channel_id: UUID) -> Channel:
    systems = access.own_systems(person(request))
    found = Channel.objects.filter(id=channel_id, system__in=systems).select_related("system__profile").first()
    if found is None:
        raise Http404
    return found


@router.get("channels/{channel_id}/history", response=HistoryView)
def one_history(request: HttpRequest, channel_id: UUID) -> Any:
    """The history of a channel: points, events, drift."""
    channel = _history_of(request, channel_id)
    return history(channel.system, channel)


@router.get("channels/{channel_id}/history.csv", response={200: bytes})
def history_csv(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The history's table as CSV."""
    return _file(as_csv(_history_of(request, channel_id)), "text/csv; charset=utf-8", "history.csv")


@router.get("channels/{channel_id}/history.xlsx", response={200: bytes})
def history_xlsx(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The history's table as a workbook."""
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return _file(as_xlsx(_history_of(request, channel_id)), kind, "history.xlsx")


def _file(content: bytes, kind: str, name: str) -> HttpResponse:
    return HttpResponse(content, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("instruments", response=list[InstrumentView])
def instruments(request: HttpRequest) -> Any:
    """The kinds of instrument of the organisation, with their extra settings."""
    found = InstrumentKind.objects.filter(organisation__in=access.works_in(person(request)))
    return [{"id": one.id, "name": one.name, "fields": one.fields} for one in found]


@router.post("instruments", response={200: InstrumentView, 422: ProblemDocument})
def keep_instrument(request: HttpRequest, given: InstrumentIn) -> Any:
    """Keeps a kind of instrument; only a lead may."""
    led = organisation(person(request), Role.LEAD)
    found = InstrumentKind(organisation=led)
    if given.id:
        known = InstrumentKind.objects.filter(organisation=led, id=given.id).first()
        if known is None:
            raise Http404
        found = known
    name = given.name.strip()
    if InstrumentKind.objects.filter(organisation=led, name=name).exclude(pk=found.pk).exists():
        raise Problem(422, "Not kept", errors=[{"path": "name", "text": "There is a kind of that name already."}])
    found.name, found.fields = name, [{"title": row.title, "digits": row.digits} for row in given.fields]
    found.save()
    return {"id": found.id, "name": found.name, "fields": found.fields}
