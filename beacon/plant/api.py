"""Systems on record: adding one, and changing what is on record with a trail."""

from copy import copy
from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router

from beacon.people.access import is_lead, person, works_in
from beacon.people.models import Person
from beacon.plant import schemas
from beacon.plant.access import system_to_work_on
from beacon.plant.lists import in_words, own_rows
from beacon.plant.models import Channel, InstrumentKind, LimitProfile, PlateChange, Reference, Site, System, limits_of
from beacon.plant.view import Answer, machine_view, refuse_unseen, system_record
from beacon.problems import Problem, ProblemDocument
from wary.machines import all_machines
from wary.typed import as_in_a_file

router = Router(tags=["plant"])
SIMPLE = ("name", "material", "serial", "notes", "correction", "factor_name", "factor_decimals", "direction")
FIELDS = (*SIMPLE, "nominal_factor", "interval_days", "plates", "lists", "reference_id", "instrument_id", "profile_id")
"""What of a system is changed by hand."""


@router.get("machines", response=list[schemas.MachineView])
def machines(request: HttpRequest) -> list[Answer]:
    """Every kind of machine, for a new system."""
    return [machine_view(machine) for machine in all_machines().values()]


@router.post("systems", response={201: schemas.SystemRecord, 422: ProblemDocument})
@transaction.atomic
def add_system(request: HttpRequest, given: schemas.NewSystem) -> tuple[int, Answer]:
    """A new system at a site."""
    user = person(request)
    site = Site.objects.filter(id=given.site, organisation__in=works_in(user)).first()
    if site is None:
        raise Http404
    machine = all_machines().get(given.kind)
    wrong = []
    if machine is None:
        wrong.append({"path": "kind", "text": f"expected one of {', '.join(all_machines())}"})
    if not (given.name or "").strip():
        wrong.append({"path": "name", "text": "What is it called? Type a name."})
    if wrong or machine is None:
        raise Problem(422, "This system cannot be kept yet", errors=wrong)
    profile = limits_of(site.organisation, given.profile or machine.profile_for(given.plates or {}))
    system = System(site=site, kind=given.kind, profile=profile)
    _change(user, system, given, trail=False)
    for place, name in enumerate(given.channels or machine.channels):
        name = name.strip()[:80] or machine.channels[0]
        Channel.objects.create(system=system, name=name, place=place, factor=given.factor or "")
    return 201, system_record(system)


@router.patch(
    "systems/{system_id}/record",
    response={200: schemas.SystemRecord, 409: ProblemDocument, 422: ProblemDocument},
)
@transaction.atomic
def change_system(request: HttpRequest, system_id: UUID, given: schemas.SystemIn) -> Answer:
    """Changes a system's record; what was there before stays in its trail.

    What somebody else changed since the page was opened is not written over: it is said who typed what.
    """
    user = person(request)
    system = system_to_work_on(user, system_id, lock=True)
    channel = system.channels.select_for_update(of=("self",), no_key=True).first()
    shown = _shown(system, channel.factor if channel else "")
    asked = given.model_dump(exclude_unset=True, exclude={"before", "plates", "lists"}) | {
        f"plates.{key}": text for key, text in (given.plates or {}).items()
    }
    refuse_unseen(system, given.before or {}, shown, {key: str(text or "") for key, text in asked.items()})
    _change(user, system, given)
    return system_record(system)


def _shown(system: System, factor: str) -> dict[str, str]:
    """What a page shows of a system's record, by the paths under which it is changed."""
    plain = {key: str(getattr(system, key)) for key in (*SIMPLE, "nominal_factor", "interval_days")}
    named = {key: str(getattr(system, f"{key}_id") or "") for key in ("reference", "instrument")}
    plates = {f"plates.{key}": str(text) for key, text in system.plates.items()}
    return plain | named | plates | {"profile": system.profile.key, "factor": factor}


def _change(user: Person, system: System, given: schemas.SystemIn, trail: bool = True) -> None:
    asked = given.model_dump(exclude_unset=True)
    held = {field: copy(getattr(system, field)) for field in FIELDS}
    of = system.site.organisation
    wrong: list[dict[str, str]] = []
    before = _trail_of(system)
    if given.plates is not None:
        kept, wrong = system.machine.read_plates(given.plates)
        system.plates = {k: v for k, v in system.plates.items() if k not in given.plates} | kept
    if "reference" in asked:
        found = Reference.objects.filter(organisation=of, id=given.reference).first() if given.reference else None
        if given.reference and found is None:
            wrong.append({"path": "reference", "text": "This reference is not in the list."})
        elif found and found.system_id == system.pk:
            wrong.append({"path": "reference", "text": "A system is no reference for itself. Name another."})
        system.reference = found
    if "instrument" in asked:
        system.instrument = (
            InstrumentKind.objects.filter(organisation=of, id=given.instrument).first() if given.instrument else None
        )
    if given.profile:
        profile = LimitProfile.objects.filter(organisation=of, key=given.profile).first()
        if profile is None:
            wrong.append({"path": "profile", "text": "This profile is not in the list."})
        elif profile != system.profile and trail and not is_lead(user, of):
            text = "Only a lead may give a system other limits; on a job you may tighten them."
            wrong.append({"path": "profile", "text": text})
        else:
            system.profile = profile
    for key in ("factor", "nominal_factor"):
        if asked.get(key):
            number = as_in_a_file(str(asked[key]), "number")
            if not isinstance(number, (int, float)) or number <= 0:
                wrong.append({"path": key, "text": f"“{asked[key]}” cannot be used; expected a number above zero"})
    if wrong:
        raise Problem(422, "This cannot be kept yet", "Nothing was changed.", wrong)
    if given.lists is not None:
        system.lists = system.lists | own_rows(system, given.lists)
    for key in (*SIMPLE, "nominal_factor", "interval_days"):
        if asked.get(key) is not None:
            setattr(system, key, asked[key].strip() if isinstance(asked[key], str) else asked[key])
    changed = [field for field in FIELDS if getattr(system, field) != held[field]]
    if not trail:
        system.save()
    elif changed:
        # Only what was changed: a state or a due date that somebody else wrote stays.
        system.save(update_fields=changed)
    if given.factor is not None and trail:
        channel = system.channels.first()
        if channel and channel.factor != given.factor.strip():
            _note(user, system, "factor", channel.factor, given.factor)
            channel.factor = given.factor.strip()
            channel.save(update_fields=["factor"])
    if trail:
        after = _trail_of(system)
        for key in sorted(before.keys() | after.keys()):
            if before.get(key, "") != after.get(key, ""):
                _note(user, system, key, before.get(key, ""), after.get(key, ""))


def _note(user: Person, system: System, field: str, before: str, after: str) -> None:
    PlateChange.objects.create(system=system, field=field, before=before, after=after, who=user)


def _trail_of(system: System) -> dict[str, str]:
    keys = ("name", "material", "serial", "notes", "correction", "factor_name", "direction", "nominal_factor")
    plain = {key: str(getattr(system, key)) for key in (*keys, "factor_decimals", "interval_days")}
    named = {"profile": system.profile.title, "reference": system.reference.name if system.reference else ""}
    lists = {f"list, {name}": in_words(rows) for name, rows in system.lists.items()}
    return plain | named | lists | {key: str(value) for key, value in system.plates.items()}
