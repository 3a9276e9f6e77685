"""Who may see and do what. Every queryset that a request touches starts here."""

from uuid import UUID

from django.db.models import Q, QuerySet
from django.http import Http404, HttpRequest

from beacon.people.models import Membership, Organisation, Person, Role
from beacon.plant.models import Site, System

WORKING = (Role.TECHNICIAN, Role.LEAD)


def person(request: HttpRequest) -> Person:
    assert isinstance(request.user, Person)
    return request.user


def works_in(user: Person, *roles: Role) -> QuerySet[Organisation]:
    """The organisations in which this person has one of these roles (technician or lead)."""
    return Organisation.objects.filter(memberships__person=user, memberships__role__in=roles or WORKING)


def is_lead(user: Person, organisation: Organisation) -> bool:
    return Membership.objects.filter(person=user, organisation=organisation, role=Role.LEAD).exists()


def organisation(user: Person, *roles: Role) -> Organisation:
    """The organisation in which this person works. Raises Http404 for someone without such a role."""
    found = works_in(user, *roles).order_by("name").first()
    if found is None:
        raise Http404
    return found


def sites(user: Person) -> QuerySet[Site]:
    """Every site of an organisation they work in; of a reader only those given."""
    return Site.objects.filter(
        Q(organisation__memberships__person=user, organisation__memberships__role__in=WORKING)
        | Q(readers__person=user, readers__role=Role.READER)
    ).distinct()


def systems(user: Person) -> QuerySet[System]:
    found = System.objects.filter(site__in=sites(user), practice=False)
    return found.select_related("site__organisation", "profile", "reference")


def own_systems(user: Person) -> QuerySet[System]:
    """Systems that this person may work on, which a reader may not; those for practice among them."""
    return System.objects.filter(site__organisation__in=works_in(user)).select_related(
        "site__organisation", "profile", "reference"
    )


def system_to_work_on(user: Person, system_id: UUID) -> System:
    """Raises Http404 where this person may not work on it, or there is none."""
    found = own_systems(user).filter(id=system_id).first()
    if found is None:
        raise Http404
    return found
