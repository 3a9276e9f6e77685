"""What is kept on record of systems and references: read as it was typed, refused in sentences, with a trail."""

from copy import copy

from beacon.people.access import is_lead
from beacon.people.models import Organisation, Person
from beacon.plant import schemas
from beacon.plant.lists import in_words, own_rows
from beacon.plant.models import Channel, InstrumentKind, LimitProfile, PlateChange, Reference, Site, System, limits_of
from beacon.plant.view import Answer, reference_view
from beacon.problems import Problem
from wary.machines import all_machines
from wary.quantities import NotAQuantity
from wary.references import as_kept, nominal_of
from wary.typed import as_in_a_file

SIMPLE = ("name", "material", "serial", "notes", "correction", "factor_name", "factor_decimals", "direction")
FIELDS = (*SIMPLE, "nominal_factor", "interval_days", "plates", "lists", "reference_id", "instrument_id", "profile_id")
"""What of a system is changed by hand."""


def new_system(user: Person, site: Site, given: schemas.NewSystem) -> System:
    """A new system at a site, with its channels. Raises Problem 422."""
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
    change_record(user, system, given, trail=False)
    for place, name in enumerate(given.channels or machine.channels):
        name = name.strip()[:80] or machine.channels[0]
        Channel.objects.create(system=system, name=name, place=place, factor=given.factor or "")
    return system


def site_named(here: Organisation, name: str) -> Site:
    """A site of an organisation that is locked, by its name; one that is not there yet is made, in the zone of the first."""
    sites = list(here.sites.all())
    found = next((site for site in sites if site.name.lower() == name.strip().lower()), None)
    zone = sites[0].time_zone if sites else "UTC"
    return found or Site.objects.create(organisation=here, name=name.strip()[:120], time_zone=zone, place=len(sites))


def copied_system(system: System, name: str) -> System:
    """A further system of the same make-up at the same site: plates, lists, limits, channels and their figures.

    Serial number, factor, zero and reference are its own, and are left empty. Raises Problem 422 for a name that is taken.
    """
    name = name.strip()
    if not name:
        raise Problem(422, "Not copied", errors=[{"path": "name", "text": "What is it called? Type a name."}])
    if System.objects.filter(site=system.site, name__iexact=name, practice=False).exists():
        text = f"There is a {name} at {system.site.name} already. Type another name."
        raise Problem(422, "Not copied", errors=[{"path": "name", "text": text}])
    same = ("kind", "material", "plates", "lists", "correction", "factor_name", "factor_decimals", "direction", "nominal_factor", "interval_days")  # fmt: skip
    twin = System(site=system.site, profile=system.profile, instrument=system.instrument, name=name)
    for key in same:
        setattr(twin, key, copy(getattr(system, key)))
    twin.save()
    for channel in system.channels.order_by("place"):
        Channel.objects.create(system=twin, name=channel.name, place=channel.place, figures=dict(channel.figures))
    return twin


def change_record(user: Person, system: System, given: schemas.SystemIn, trail: bool = True) -> None:
    """Changes what is on record of a system; with `trail` each change is noted. Raises Problem 422."""
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


NEEDED = {"scale": "division", "weights": "nominal", "container": "tare", "system": "system"}


def keep_reference(reference: Reference, given: schemas.ReferenceIn) -> Answer:
    """Keeps a reference as it was typed. Raises Problem 422."""
    wrong = []
    for key in ("division", "range", "nominal", "tare", "uncertainty"):
        text, error = _read(getattr(given, key), key)
        setattr(given, key, text)
        wrong += [{"path": key, "text": error}] if error else []
    for number, row in enumerate(given.weights):
        for key in ("nominal", "uncertainty"):
            text, error = _read(getattr(row, key), key)
            setattr(row, key, text)
            wrong += [{"path": f"weights[{number}].{key}", "text": error}] if error else []
    labels = [row.label.strip().lower() for row in given.weights]
    if len(set(labels)) != len(labels):
        wrong.append({"path": "weights", "text": "Two weights of the set have the same label; give each its own."})
    if given.weights and not wrong and given.kind == "weights":
        given.nominal = nominal_of([row.nominal for row in given.weights])
    system = None
    if given.kind == "system" and given.system:
        system = System.objects.filter(
            id=given.system, site__organisation=reference.organisation, practice=False
        ).first()
        taken = Reference.objects.filter(system=system).exclude(pk=reference.pk).first() if system else None
        if system is None:
            wrong.append({"path": "system", "text": "This system is not on record here."})
        elif taken:
            wrong.append({"path": "system", "text": f"It is a reference already: {taken.name}."})
    if not getattr(given, NEEDED[given.kind]):
        wrong.append({"path": NEEDED[given.kind], "text": "This is what it is used for: type it."})
    if wrong:
        raise Problem(422, "This reference cannot be kept yet", "Nothing was changed.", wrong)
    for key, value in given.model_dump(mode="json", exclude={"system", "due"}).items():
        setattr(reference, key, value.strip() if isinstance(value, str) else value)
    reference.due, reference.system = given.due, system
    reference.save()
    return reference_view(reference)


def _read(text: str, key: str) -> tuple[str, str]:
    """A figure of a reference as it is kept, and what is wrong with it."""
    try:
        return as_kept(text, key == "uncertainty"), ""
    except NotAQuantity as unread:
        return text.strip(), str(unread)
