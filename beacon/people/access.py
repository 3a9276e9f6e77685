"""Who someone is, and what they may do in which organisation."""

from typing import Any

from django.db.models import QuerySet
from django.http import Http404, HttpRequest

from beacon.people.models import Membership, Organisation, Person, Role

WORKING = (Role.TECHNICIAN, Role.LEAD)


def person(request: HttpRequest) -> Person:
    assert isinstance(request.user, Person)
    return request.user


def works_in(user: Person, *roles: Role) -> QuerySet[Organisation]:
    """The organisations in which this person has one of these roles (technician or lead)."""
    return Organisation.objects.filter(memberships__person=user, memberships__role__in=roles or WORKING)


def works_at(organisation: str, user: Person) -> dict[str, Any]:
    """The same as a condition of one query, where `organisation` is the way to it; a person has one role in each."""
    return {f"{organisation}__memberships__person": user, f"{organisation}__memberships__role__in": WORKING}


def is_lead(user: Person, organisation: Organisation) -> bool:
    return Membership.objects.filter(person=user, organisation=organisation, role=Role.LEAD).exists()


def organisation(user: Person, *roles: Role) -> Organisation:
    """The organisation in which this person works. Raises Http404 for someone without such a role."""
    found = works_in(user, *roles).order_by("name").first()
    if found is None:
        raise Http404
    return found
