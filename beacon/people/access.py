"""Who someone is, and what they may do in which organisation."""

from collections.abc import Sequence
from typing import Any

from django.db.models import Exists, OuterRef, QuerySet
from django.db.models.expressions import Combinable
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


def nobodys_program(to: str = "pk") -> Combinable:
    """That a person is not the account of a program; `to` is the way from a row to its person.

    Asked so that the database looks for their account, and not for whoever has none among everybody.
    """
    return ~Exists(Person.objects.filter(pk=OuterRef(to), program__isnull=False))


def is_program(user: Person) -> bool:
    """Whether an account is another program's: it enters and reads, and decides nothing that a person answers for."""
    return hasattr(user, "program")


def is_lead(user: Person, organisation: Organisation) -> bool:
    """Whether somebody's word is a lead's there; a program's is not, whatever it may ask."""
    mine = Membership.objects.filter(person=user, organisation=organisation, role=Role.LEAD)
    return mine.exists() and not is_program(user)


def chosen_of(memberships: Sequence[Membership], user: Person) -> Membership | None:
    """Of someone's memberships, by name, the one at hand: the one chosen, or the first in which they work, or any."""
    chosen = next((one for one in memberships if one.organisation_id == user.chosen_id), None)
    working = next((one for one in memberships if one.role in WORKING), None)
    return chosen or working or next(iter(memberships), None)


def here(user: Person) -> Organisation:
    """The organisation at hand. Raises Http404 for someone who belongs to none.

    Lists and the round are of this one; what is asked for by its address is found in any of someone's own.
    """
    found = chosen_of(list(user.memberships.select_related("organisation").order_by("organisation__name")), user)
    if found is None:
        raise Http404
    return found.organisation


def organisation(user: Person, *roles: Role) -> Organisation:
    """The organisation at hand, where they have one of these roles there (technician or lead). Raises Http404 otherwise."""
    found = works_in(user, *roles).filter(pk=here(user).pk).first()
    if found is None:
        raise Http404
    return found


def locked(of: Organisation) -> Organisation:
    """An organisation whose row nobody else writes to until this transaction is over; what belongs to it can still be added."""
    return Organisation.objects.select_for_update(no_key=True).get(pk=of.pk)
