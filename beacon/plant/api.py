"""The round, systems and their plates, references, profiles."""

from typing import Any
from uuid import UUID

from django.db import transaction
from django.db.models import QuerySet
from django.http import Http404, HttpRequest
from ninja import Router
from pydantic import ValidationError

from beacon.bench.models import Job
from beacon.people import access
from beacon.people.access import organisation, own_systems, person, system_to_work_on
from beacon.people.models import Organisation, Person, Role
from beacon.plant import schemas, view
from beacon.plant.models import Channel, InstrumentKind, LimitProfile, PlateChange, Reference, Site, System
from beacon.plant.plates import read_plates
from beacon.problems import Problem, ProblemDocument
from wary.fields import limit
from wary.quantities import NotAQuantity, quantity
from wary.typed import as_in_a_file

router = Router(tags=["plant"])


def _open_jobs(systems: list[System]) -> dict[UUID, list[Job]]:
    found: dict[UUID, list[Job]] = {}
    jobs = Job.objects.filter(channel__system__in=systems, closed_at=None, practice=False)
    for job in jobs.select_related("opened_by", "channel").defer("fold").order_by("-opened_at"):
        found.setdefault(job.channel.system_id, []).append(job)
    return found


@router.get("round", response=schemas.RoundView)
def todays_round(request: HttpRequest) -> Any:
    """Every site in driving order with its systems: what is open, what is due, what was done last."""
    user = person(request)
    found = own_systems(user).filter(practice=False).prefetch_related("events")
    systems = list(found.order_by("site__place", "site__name", "name"))
    jobs = _open_jobs(systems)
    sites = Site.objects.filter(organisation__in=access.works_in(user))
    return {
        "sites": [{"id": s.id, "name": s.name, "time_zone": s.time_zone} for s in sites.order_by("place", "name")],
        "systems": [view.system_row(system, jobs.get(system.id, [])) for system in systems],
    }


def _closed(system: System) -> QuerySet[Job]:
    jobs = Job.objects.filter(channel__system=system, closed_at__isnull=False, practice=False)
    return jobs.select_related("record").defer("fold", "record__content").order_by("-closed_at")


def _whole(system: System) -> dict[str, Any]:
    return view.system_view(system, _open_jobs([system]).get(system.id, []), _closed(system)[:12])


@router.get("systems/{system_id}", response=schemas.SystemView)
def one_system(request: HttpRequest, system_id: UUID) -> Any:
    """One system: plates, limits, what was done on it."""
    user = person(request)
    return _whole(system_to_work_on(user, system_id))


@router.post("systems", response={201: schemas.SystemView, 422: ProblemDocument})
@transaction.atomic
def add_system(request: HttpRequest, given: schemas.NewSystem) -> Any:
    """A new system at a site."""
    user = person(request)
    site = Site.objects.filter(id=given.site, organisation__in=access.works_in(user)).first()
    if site is None:
        raise Http404
    wrong = []
    if given.kind not in System.Kind.values:
        wrong.append({"path": "kind", "text": f"expected one of {', '.join(System.Kind.values)}"})
    if not (given.name or "").strip():
        wrong.append({"path": "name", "text": "What is it called? Type a name."})
    if wrong:
        raise Problem(422, "This system cannot be kept yet", errors=wrong)
    starting = {"belt": "belt-fine", "chain": "belt-plain"}.get(given.kind, "vessel")
    profile = LimitProfile.objects.get(organisation=site.organisation, key=given.profile or starting)
    system = System(site=site, kind=given.kind, profile=profile)
    _change(user, system, given, trail=False)
    for place, name in enumerate(given.channels or ["main"]):
        Channel.objects.create(system=system, name=name.strip()[:80] or "main", place=place, factor=given.factor or "")
    return 201, _whole(system)


@router.patch("systems/{system_id}", response={200: schemas.SystemView, 422: ProblemDocument})
@transaction.atomic
def change_system(request: HttpRequest, system_id: UUID, given: schemas.SystemIn) -> Any:
    """Changes a system's record; what was there before stays in its trail."""
    user = person(request)
    system = system_to_work_on(user, system_id)
    _change(user, system, given)
    return _whole(system)


def _change(user: Person, system: System, given: schemas.SystemIn, trail: bool = True) -> None:
    asked = given.dict(exclude_unset=True)
    of = system.site.organisation
    wrong: list[dict[str, str]] = []
    before = _trail_of(system)
    if given.plates is not None:
        kept, wrong = read_plates(system.kind, given.plates)
        system.plates = {k: v for k, v in system.plates.items() if k not in given.plates} | kept
    if "reference" in asked:
        found = Reference.objects.filter(organisation=of, id=given.reference).first() if given.reference else None
        if given.reference and found is None:
            wrong.append({"path": "reference", "text": "This reference is not in the list."})
        system.reference = found
    if "instrument" in asked:
        system.instrument = (
            InstrumentKind.objects.filter(organisation=of, id=given.instrument).first() if given.instrument else None
        )
    if given.profile:
        profile = LimitProfile.objects.filter(organisation=of, key=given.profile).first()
        if profile is None:
            wrong.append({"path": "profile", "text": "This profile is not in the list."})
        elif profile != system.profile and trail and not access.is_lead(user, of):
            text = "Only a lead may give a system other limits; on a job you may tighten them."
            wrong.append({"path": "profile", "text": text})
        else:
            system.profile = profile
    for key in ("factor", "nominal_factor"):
        if asked.get(key):
            number = as_in_a_file(str(asked[key]), "number")
            if not isinstance(number, (int, float)) or number <= 0:
                wrong.append({"path": key, "text": f"“{asked[key]}” cannot be used; expected a number above zero"})
    if given.direction not in (None, "multiplies", "divides"):
        wrong.append({"path": "direction", "text": "expected multiplies or divides"})
    if wrong:
        raise Problem(422, "This cannot be kept yet", "Nothing was changed.", wrong)
    simple = ("name", "material", "serial", "notes", "correction", "factor_name", "factor_decimals", "direction")
    for key in (*simple, "nominal_factor", "interval_days"):
        if asked.get(key) is not None:
            setattr(system, key, asked[key].strip() if isinstance(asked[key], str) else asked[key])
    system.save()
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
    return plain | named | {key: str(value) for key, value in system.plates.items()}


# --- references and profiles ---------------------------------------------------------------------


@router.get("references", response=list[schemas.ReferenceView])
def references(request: HttpRequest) -> Any:
    """The references of the organisations that this person works in."""
    found = Reference.objects.filter(organisation__in=access.works_in(person(request)))
    return [view.reference_view(reference) for reference in found]


def _reference(of: QuerySet[Organisation], reference_id: UUID) -> Reference:
    found = Reference.objects.filter(organisation__in=of, id=reference_id).first()
    if found is None:
        raise Http404
    return found


@router.post("references", response={201: schemas.ReferenceView, 422: ProblemDocument})
def add_reference(request: HttpRequest, given: schemas.ReferenceIn) -> Any:
    """A new reference; only a lead may."""
    reference = Reference(organisation=organisation(person(request), Role.LEAD))
    return 201, _keep_reference(reference, given)


@router.put("references/{reference_id}", response={200: schemas.ReferenceView, 422: ProblemDocument})
def change_reference(request: HttpRequest, reference_id: UUID, given: schemas.ReferenceIn) -> Any:
    """Changes a reference, after it was checked again for one; only a lead may."""
    return _keep_reference(_reference(access.works_in(person(request), Role.LEAD), reference_id), given)


def _keep_reference(reference: Reference, given: schemas.ReferenceIn) -> dict[str, Any]:
    wrong = []
    for key, of in (
        ("division", "mass"),
        ("range", "mass"),
        ("nominal", "mass"),
        ("tare", "mass"),
        ("uncertainty", ""),
    ):
        text = getattr(given, key).strip()
        if not text:
            continue
        family = of or ("mass" if not text.endswith("%") else "percentage")
        try:
            read = quantity(as_in_a_file(text, family, "kg" if of else "%"), family)
            if read.si < 0 or (key != "uncertainty" and read.si == 0):
                raise NotAQuantity(f"“{text}” is not above zero")
            setattr(given, key, read.text)
        except NotAQuantity as unread:
            wrong.append({"path": key, "text": str(unread)})
    needed = {"scale": "division", "weights": "nominal", "container": "tare"}[given.kind]
    if not getattr(given, needed):
        wrong.append({"path": needed, "text": "This is what it is used for: type it."})
    if wrong:
        raise Problem(422, "This reference cannot be kept yet", "Nothing was changed.", wrong)
    for key, value in given.dict().items():
        setattr(reference, key, value)
    reference.save()
    return view.reference_view(reference)


@router.get("references/{reference_id}/jobs", response=list[schemas.UsedIn])
def used_in(request: HttpRequest, reference_id: UUID, before: int = 0) -> Any:
    """All jobs that used a reference, the latest first, 100 at a time; `before` skips so many."""
    reference = _reference(access.works_in(person(request)), reference_id)
    jobs = Job.objects.filter(reference_ids__contains=[reference.id], practice=False)
    jobs = jobs.select_related("channel__system", "record").defer("fold", "record__content").order_by("-opened_at")
    return [view.used_in(job) for job in jobs[before : before + 100]]


@router.get("profiles", response=list[schemas.ProfileView])
def profiles(request: HttpRequest) -> Any:
    """The limits of the organisation, by kind of comparison."""
    found = LimitProfile.objects.filter(organisation=organisation(person(request)))
    return [view.profile_view(profile) for profile in found]


@router.put("profiles/{key}", response={200: schemas.ProfileView, 422: ProblemDocument})
def change_profile(request: HttpRequest, key: str, given: schemas.ProfileIn) -> Any:
    """Changes limits; only a lead may. Jobs that are closed keep those they were judged by."""
    led = organisation(person(request), Role.LEAD)
    profile = LimitProfile.objects.filter(organisation=led, key=key).first()
    if profile is None:
        raise Http404
    profile.accept, profile.repeat = given.accept or None, given.repeat
    profile.minimum_runs, profile.plausible = given.minimum_runs, given.plausible
    try:
        if profile.accept is not None:
            limit(profile.accept)
        profile.check_limits()
    except ValidationError as refused:
        rows = [
            {"path": str(e["loc"][0]), "text": str(e.get("ctx", {}).get("error", e["msg"]))} for e in refused.errors()
        ]
        raise Problem(422, "These limits cannot be read", "Nothing was changed.", rows) from None
    except ValueError as unread:
        raise Problem(422, "These limits cannot be read", errors=[{"path": "accept", "text": str(unread)}]) from None
    profile.save()
    return view.profile_view(profile)
