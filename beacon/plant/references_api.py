"""References and the limits of an organisation."""

from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router
from pydantic import ValidationError

from beacon.people.access import locked, organisation, person, works_in
from beacon.people.models import Role
from beacon.plant import schemas
from beacon.plant.access import reference_in
from beacon.plant.keeping import keep_reference
from beacon.plant.models import CheckMass, LimitProfile, Reference
from beacon.plant.view import Answer, check_view, home_zone, profile_view, reference_view, today_at
from beacon.problems import Problem, ProblemDocument
from wary.quantities import NotAQuantity, quantity
from wary.references import checked_with, is_load
from wary.typed import as_in_a_file

router = Router(tags=["references"])
CHECKS = 200


@router.get("references", response=list[schemas.ReferenceView])
def references(request: HttpRequest) -> list[Answer]:
    """The references of the organisations that this person works in."""
    own = organisation(person(request))
    found = Reference.objects.filter(organisation=own, practice=False).select_related("system")
    latest = CheckMass.objects.filter(reference__in=found).order_by("reference_id", "-at").distinct("reference_id")
    checks = {check.reference_id: check for check in latest}
    today = today_at(home_zone(own.pk))
    return [reference_view(reference, checks.get(reference.id), today) for reference in found]


@router.post("references", response={201: schemas.ReferenceView, 422: ProblemDocument})
@transaction.atomic
def add_reference(request: HttpRequest, given: schemas.ReferenceIn) -> tuple[int, Answer]:
    """A new reference; only a lead may."""
    # One at a time, so that no two stand for the same system.
    reference = Reference(organisation=locked(organisation(person(request), Role.LEAD)))
    return 201, keep_reference(reference, given)


@router.put("references/{reference_id}", response={200: schemas.ReferenceView, 422: ProblemDocument})
@transaction.atomic
def change_reference(request: HttpRequest, reference_id: UUID, given: schemas.ReferenceIn) -> Answer:
    """Changes a reference, after it was checked again for one; only a lead may."""
    found = reference_in(works_in(person(request), Role.LEAD), reference_id)
    locked(found.organisation)
    return keep_reference(Reference.objects.select_for_update(of=("self",), no_key=True).get(pk=found.pk), given)


@router.get("references/{reference_id}/checks", response=list[schemas.CheckMassView])
def checks(request: HttpRequest, reference_id: UUID) -> list[Answer]:
    """The latest looks at a reference scale with a check mass, the latest first."""
    reference = reference_in(works_in(person(request)), reference_id)
    return [check_view(check) for check in reference.checks.select_related("who")[:CHECKS]]


@router.post("references/{reference_id}/checks", response={201: schemas.CheckMassView, 422: ProblemDocument})
def check_with_mass(request: HttpRequest, reference_id: UUID, given: schemas.CheckMassIn) -> tuple[int, Answer]:
    """Keeps what a reference scale showed with a check mass on it, and says whether that holds.

    It holds within one division, or within the scale's own uncertainty where that is more.
    """
    user = person(request)
    reference = reference_in(works_in(user), reference_id)
    wrong, read = [], {}
    for key in ("mass", "shown"):
        try:
            read[key] = quantity(as_in_a_file(getattr(given, key), "mass", "kg"), "mass")
        except NotAQuantity as unread:
            wrong.append({"path": key, "text": str(unread)})
    if not wrong and not is_load(read["mass"]):
        wrong.append({"path": "mass", "text": "Something has to lie on it: type the check mass."})
    if wrong:
        raise Problem(422, "Not kept yet", errors=wrong)
    found = checked_with(read["mass"], read["shown"], reference.division, reference.uncertainty)
    # The same sent twice at once is kept once.
    kept, _ = CheckMass.objects.get_or_create(
        id=given.id,
        defaults={
            "reference": reference,
            "mass": found.mass,
            "shown": found.shown,
            "off_kg": found.off,
            "holds": found.holds,
            "note": given.note.strip(),
            "who": user,
        },
    )
    if kept.reference_id != reference.id:
        raise Problem(422, "Not kept", errors=[{"path": "id", "text": "This id was used before; type it again."}])
    return 201, check_view(kept)


@router.get("profiles", response=list[schemas.ProfileView])
def profiles(request: HttpRequest) -> list[Answer]:
    """The limits of the organisation, by kind of comparison."""
    found = LimitProfile.objects.filter(organisation=organisation(person(request)))
    return [profile_view(profile) for profile in found]


@router.put("profiles/{key}", response={200: schemas.ProfileView, 422: ProblemDocument})
@transaction.atomic
def change_profile(request: HttpRequest, key: str, given: schemas.ProfileIn) -> Answer:
    """Changes limits; only a lead may. Jobs that are closed keep those they were judged by."""
    led = organisation(person(request), Role.LEAD)
    profile = (
        LimitProfile.objects.select_for_update(of=("self",), no_key=True).filter(organisation=led, key=key).first()
    )
    if profile is None:
        raise Http404
    profile.accept, profile.repeat = given.accept or None, given.repeat
    profile.minimum_runs, profile.plausible = given.minimum_runs, given.plausible
    profile.look_minutes, profile.skip_looks = given.look_minutes, given.skip_looks
    profile.looks, profile.harm_minutes = given.looks, given.harm_minutes
    try:
        profile.check_limits()
    except ValidationError as refused:
        rows = [
            {"path": str(e["loc"][0]), "text": str(e.get("ctx", {}).get("error", e["msg"]))} for e in refused.errors()
        ]
        raise Problem(422, "These limits cannot be read", "Nothing was changed.", rows) from None
    profile.save()
    return profile_view(profile)
