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


def here(user: Person) -> Organisation:
    """The organisation at hand: the one chosen, or the first in which they work, or may read. Raises Http404 for none.

    Lists and the round are of this one; what is asked for by its address is found in any of someone's own.
    """
    mine = Organisation.objects.filter(memberships__person=user)
    chosen = mine.filter(pk=user.at_hand_id).first() if user.at_hand_id else None
    found = chosen or works_in(user).order_by("name").first() or mine.order_by("name").first()
    if found is None:
        raise Http404
    return found


def organisation(user: Person, *roles: Role) -> Organisation:
    """The organisation at hand, where they have one of these roles there (technician or lead). Raises Http404 otherwise."""
    found = works_in(user, *roles).filter(pk=here(user).pk).first()
    if found is None:
        raise Http404
    return found


def at_work(user: Person) -> Organisation:
    """The organisation at hand, in which this person works. Raises Http404 for someone who only reads there."""
    return organisation(user)
