"""What belongs to one machine: its cells, its events, its kind of instrument."""

from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router

from beacon.people.access import locked, organisation, person
from beacon.people.models import Person, Role
from beacon.plant import schemas
from beacon.plant.access import system_to_work_on
from beacon.plant.models import Cell, Channel, Event, InstrumentKind, System, state_changed
from beacon.plant.view import Answer, cell_view, event_view, today_at
from beacon.problems import Problem, ProblemDocument
from wary.machines.machine import CELL_CHANGED, OTHER
from wary.methods import all_methods
from wary.quantities import NotAQuantity, quantity
from wary.typed import as_in_a_file

router = Router(tags=["machine"])


@router.get("systems/{system_id}/cells", response=list[schemas.CellView])
def cells(request: HttpRequest, system_id: UUID) -> list[Answer]:
    """The cells of a system, those in place and those that were replaced."""
    system = system_to_work_on(person(request), system_id)
    return [cell_view(cell) for cell in Cell.objects.filter(channel__system=system).select_related("channel")]


@router.post("systems/{system_id}/cells", response={201: schemas.CellView, 422: ProblemDocument})
@transaction.atomic
def fit_cell(request: HttpRequest, system_id: UUID, given: schemas.CellIn) -> tuple[int, Answer]:
    """Fits a cell; one that takes another's place makes an event of it."""
    user = person(request)
    system = system_to_work_on(user, system_id, lock=True)
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
    today = today_at(system.site.time_zone)
    place = old.place if old else 1 + max((c.place for c in Cell.objects.filter(channel=channel)), default=0)
    label = given.label.strip() or (old.label if old else str(place))
    if old:
        old.removed, old.why_removed = today, given.why.strip()
        old.save(update_fields=["removed", "why_removed"])
        note = f"cell {label}: {given.why.strip()}"
        _log(user, system, CELL_CHANGED, note, None)
    cell = Cell.objects.create(
        channel=channel,
        place=place,
        label=label,
        source=given.source,
        serial=given.serial.strip(),
        fitted=today,
        **texts,
    )
    return 201, cell_view(cell)


def _channel(system: System, channel: UUID | None) -> Channel:
    found = system.channels.filter(id=channel).first() if channel else system.channels.first()
    if found is None:
        raise Http404
    return found


def _cell_texts(given: schemas.CellIn) -> tuple[dict[str, str], list[dict[str, str]]]:
    texts, wrong = {}, []
    for key, family, unit in (("capacity", "mass", "kg"), ("sensitivity", "signal", "mV/V")):
        text = getattr(given, key).strip()
        try:
            texts[key] = quantity(as_in_a_file(text, family, unit), family).text if text else ""
        except NotAQuantity as unread:
            wrong.append({"path": key, "text": str(unread)})
    return texts, wrong


@router.get("systems/{system_id}/event-kinds", response=list[schemas.EventKindView])
def event_kinds(request: HttpRequest, system_id: UUID) -> list[Answer]:
    """What can happen to this system, and what it usually makes stale."""
    system = system_to_work_on(person(request), system_id)
    rows = []
    for kind, event in system.machine.events.items():
        stale = system.machine.stale_by(kind)
        titles = [all_methods()[method].title for method in stale]
        rows.append({"kind": kind, "words": event.words, "stale": stale, "titles": titles})
    return rows


@router.post("systems/{system_id}/events", response={201: schemas.EventView, 422: ProblemDocument})
@transaction.atomic
def log_event(request: HttpRequest, system_id: UUID, given: schemas.EventIn) -> tuple[int, Answer]:
    """Logs an event, and puts what it makes stale on the round."""
    user = person(request)
    system = system_to_work_on(user, system_id, lock=True)
    wrong = []
    known = system.machine.events
    if given.kind not in known:
        wrong.append({"path": "kind", "text": f"expected one of {', '.join(known)}"})
    elif known[given.kind] is OTHER and not given.note.strip():
        wrong.append({"path": "note", "text": "What happened? In words."})
    unknown = [method for method in given.stale or [] if method not in system.machine.methods()]
    if unknown:
        wrong.append({"path": "stale", "text": f"{', '.join(unknown)} is no method for this system"})
    if wrong:
        raise Problem(422, "This event cannot be kept yet", "Nothing was changed.", wrong)
    return 201, event_view(_log(user, system, given.kind, given.note.strip(), given.stale))


def _log(user: Person, system: System, kind: str, note: str, stale: list[str] | None) -> Event:
    methods = system.machine.stale_by(kind) if stale is None else stale
    event = Event.objects.create(system=system, kind=kind, note=note, who=user, stale=methods)
    if methods and system.state in ("in-order", "in-part", "limited", "provisional"):
        before, system.state = system.state, "stale"
        system.save(update_fields=["state"])
        state_changed.send(System, system=system, before=before)
    return event


@router.get("instruments", response=list[schemas.InstrumentView])
def instruments(request: HttpRequest) -> list[Answer]:
    """The kinds of instrument of the organisation, with their extra settings."""
    found = InstrumentKind.objects.filter(organisation=organisation(person(request)))
    return [{"id": one.id, "name": one.name, "fields": one.fields} for one in found]


@router.post("instruments", response={200: schemas.InstrumentView, 422: ProblemDocument})
@transaction.atomic
def keep_instrument(request: HttpRequest, given: schemas.InstrumentIn) -> Answer:
    """Keeps a kind of instrument; only a lead may."""
    # One at a time, so that no two take the same name.
    led = locked(organisation(person(request), Role.LEAD))
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
