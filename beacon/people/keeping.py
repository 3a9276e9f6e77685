"""How somebody comes into an organisation: new, changed, or invited where they are known elsewhere."""

from uuid import UUID

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.http import Http404
from ninja import Schema
from pydantic import Field

from beacon.people.me import RoleWord
from beacon.people.models import Invitation, Membership, Organisation, Person, Role
from beacon.problems import Problem


def valid_password(password: str, user: Person, path: str) -> None:
    """Raises Problem 422 for a password that is too weak, at this path."""
    try:
        validate_password(password, user)
    except ValidationError as refused:
        raise Problem(
            422, "This password is too weak", errors=[{"path": path, "text": text} for text in refused.messages]
        ) from None


class PersonIn(Schema):
    """A person of the organisation. `password` is the first one, for someone new."""

    username: str = Field(max_length=150, pattern=r"^[^@\s]+@[^@\s]+$")
    name: str = Field(max_length=120, min_length=1)
    role: RoleWord
    sites: list[UUID] = []
    password: str = Field("", max_length=200)


def take_in(user: Person, led: Organisation, given: PersonIn) -> Membership | Invitation:
    """Takes someone into an organisation that `user` leads and that is locked, or changes their role there.

    Someone who is known elsewhere is invited. Raises Problem 422, and Http404 for a site that is not its own.
    """
    username = given.username.strip().lower()
    found = Person.objects.filter(username=username).first()
    if found and hasattr(found, "program"):
        raise Http404
    if found == user and given.role != Role.LEAD.value:
        text = "You cannot take the lead's role from yourself; another lead can."
        raise Problem(422, "Not changed", errors=[{"path": "role", "text": text}])
    sites = list(led.sites.filter(id__in=given.sites))
    if len(sites) != len(set(given.sites)):
        raise Http404
    if found is None:
        found = Person(username=username, email=username, name=given.name)
        valid_password(given.password, found, "password")
        found.set_password(given.password)
        found.save()
    elif not found.memberships.filter(organisation=led).exists():
        # Someone of another organisation says for themselves whether they come; till then nothing of them is shown.
        invitation, _ = Invitation.objects.update_or_create(
            person=found, organisation=led, defaults={"role": given.role, "by": user}
        )
        invitation.sites.set(sites)
        return invitation
    elif not found.memberships.exclude(organisation=led).exists():
        found.name = given.name
        found.save(update_fields=["name"])
    membership, _ = Membership.objects.update_or_create(person=found, organisation=led, defaults={"role": given.role})
    membership.sites.set(sites)
    return membership
