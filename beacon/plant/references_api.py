"""References and the limits of an organisation."""

from uuid import UUID

from django.db.models import QuerySet
from django.http import Http404, HttpRequest
from ninja import Router
from pydantic import ValidationError

from beacon.people.access import organisation, person, works_in
from beacon.people.models import Organisation, Role
from beacon.plant import schemas
from beacon.plant.models import LimitProfile, Reference
from beacon.plant.view import Answer, profile_view, reference_view
from beacon.problems import Problem, ProblemDocument
from wary.quantities import NotAQuantity, quantity
from wary.typed import as_in_a_file

router = Router(tags=["references"])


@router.get("references", response=list[schemas.ReferenceView])
def references(request: HttpRequest) -> list[Answer]:
    """The references of the organisations that this person works in."""
    found = Reference.objects.filter(organisation__in=works_in(person(request)))
    return [reference_view(reference) for reference in found]


def reference_in(of: QuerySet[Organisation], reference_id: UUID) -> Reference:
    found = Reference.objects.filter(organisation__in=of, id=reference_id).first()
    if found is None:
        raise Http404
    return found


@router.post("references", response={201: schemas.ReferenceView, 422: ProblemDocument})
def add_reference(request: HttpRequest, given: schemas.ReferenceIn) -> tuple[int, Answer]:
    """A new reference; only a lead may."""
    reference = Reference(organisation=organisation(person(request), Role.LEAD))
    return 201, _keep_reference(reference, given)


@router.put("references/{reference_id}", response={200: schemas.ReferenceView, 422: ProblemDocument})
def change_reference(request: HttpRequest, reference_id: UUID, given: schemas.ReferenceIn) -> Answer:
    """Changes a reference, after it was checked again for one; only a lead may."""
    return _keep_reference(reference_in(works_in(person(request), Role.LEAD), reference_id), given)


def _keep_reference(reference: Reference, given: schemas.ReferenceIn) -> Answer:
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
    return reference_view(reference)


@router.get("profiles", response=list[schemas.ProfileView])
def profiles(request: HttpRequest) -> list[Answer]:
    """The limits of the organisation, by kind of comparison."""
    found = LimitProfile.objects.filter(organisation=organisation(person(request)))
    return [profile_view(profile) for profile in found]


@router.put("profiles/{key}", response={200: schemas.ProfileView, 422: ProblemDocument})
def change_profile(request: HttpRequest, key: str, given: schemas.ProfileIn) -> Answer:
    """Changes limits; only a lead may. Jobs that are closed keep those they were judged by."""
    led = organisation(person(request), Role.LEAD)
    profile = LimitProfile.objects.filter(organisation=led, key=key).first()
    if profile is None:
        raise Http404
    profile.accept, profile.repeat = given.accept or None, given.repeat
    profile.minimum_runs, profile.plausible = given.minimum_runs, given.plausible
    try:
        profile.check_limits()
    except ValidationError as refused:
        rows = [
            {"path": str(e["loc"][0]), "text": str(e.get("ctx", {}).get("error", e["msg"]))} for e in refused.errors()
        ]
        raise Problem(422, "These limits cannot be read", "Nothing was changed.", rows) from None
    profile.save()
    return profile_view(profile)
