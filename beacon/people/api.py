"""Signing in and out, who one is, and the people of an organisation."""

from typing import Any, Literal
from uuid import UUID

from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import Http404, HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from pydantic import Field

from beacon.people.access import is_lead, organisation, person
from beacon.people.models import Membership, Person, Role
from beacon.problems import Problem, ProblemDocument

router = Router(tags=["people"])
RoleWord = Literal["technician", "lead", "reader"]
SheetWord = Literal["steps", "whole"]
Nothing = tuple[int, None]


class SignIn(Schema):
    username: str = Field(max_length=150)
    password: str = Field(max_length=200)


class MembershipView(Schema):
    organisation: str
    role: RoleWord


class Me(Schema):
    """Who is signed in, and what they may do."""

    name: str
    username: str
    sheet: SheetWord
    works: bool
    leads: bool
    memberships: list[MembershipView]


def _me(user: Person) -> dict[str, Any]:
    memberships = list(user.memberships.select_related("organisation").order_by("organisation__name"))
    roles = {membership.role for membership in memberships}
    return {
        "name": str(user),
        "username": user.username,
        "sheet": user.sheet,
        "works": bool(roles & {Role.TECHNICIAN, Role.LEAD}),
        "leads": Role.LEAD in roles,
        "memberships": [{"organisation": str(m.organisation), "role": m.role} for m in memberships],
    }


@router.post("sign-in", response={200: Me, 401: ProblemDocument, 429: ProblemDocument}, auth=None)
def sign_in(request: HttpRequest, given: SignIn) -> dict[str, Any]:
    """Begins a session. After five failures in a row the address is locked for a quarter of an hour."""
    # The answer is the same for an unknown address and a wrong password.
    user = authenticate(request, username=given.username.strip().lower(), password=given.password)
    if getattr(request, "axes_locked_out", False):
        raise Problem(429, "Too many tries", "This address is locked for a quarter of an hour. Try again after that.")
    if not isinstance(user, Person):
        raise Problem(
            401, "Not signed in", "The address or the password is not right. Look at capitals, and try again."
        )
    login(request, user)
    get_token(request)
    return _me(user)


@router.post("sign-out", response={204: None})
def sign_out(request: HttpRequest) -> Nothing:
    """Ends this session."""
    logout(request)
    return 204, None


@router.post("sign-out-everywhere", response={204: None})
def sign_out_everywhere(request: HttpRequest) -> Nothing:
    """Ends every session of this person, on every device."""
    person(request).sign_out_everywhere()
    logout(request)
    return 204, None


@router.get("me", response=Me)
def me(request: HttpRequest) -> dict[str, Any]:
    return _me(person(request))


class Preferences(Schema):
    sheet: SheetWord


@router.patch("me", response=Me)
def prefer(request: HttpRequest, given: Preferences) -> dict[str, Any]:
    """Remembers how this person likes the run sheet."""
    user = person(request)
    user.sheet = given.sheet
    user.save(update_fields=["sheet"])
    return _me(user)


class NewPassword(Schema):
    old: str
    new: str = Field(max_length=200)


@router.post("me/password", response={204: None, 422: ProblemDocument})
def change_password(request: HttpRequest, given: NewPassword) -> Nothing:
    """A new password for this person; other devices are signed out."""
    user = person(request)
    if not user.check_password(given.old):
        raise Problem(422, "Not changed", errors=[{"path": "old", "text": "That is not your present password."}])
    _valid(given.new, user, "new")
    user.set_password(given.new)
    user.save(update_fields=["password"])
    update_session_auth_hash(request, user)
    return 204, None


def _valid(password: str, user: Person, path: str) -> None:
    try:
        validate_password(password, user)
    except ValidationError as refused:
        raise Problem(
            422, "This password is too weak", errors=[{"path": path, "text": text} for text in refused.messages]
        ) from None


class PersonView(Schema):
    username: str
    name: str
    role: RoleWord
    sites: list[UUID]


class PersonIn(Schema):
    """A person of the organisation. `password` is the first one, for someone new."""

    username: str = Field(max_length=150, pattern=r"^[^@\s]+@[^@\s]+$")
    name: str = Field(max_length=120, min_length=1)
    role: RoleWord
    sites: list[UUID] = []
    password: str = Field("", max_length=200)


def _person_view(membership: Membership) -> dict[str, Any]:
    return {
        "username": membership.person.username,
        "name": str(membership.person),
        "role": membership.role,
        "sites": [site.id for site in membership.sites.all()],
    }


@router.get("people", response=list[PersonView])
def people(request: HttpRequest) -> list[dict[str, Any]]:
    """The people of the organisation that this person leads."""
    led = organisation(person(request), Role.LEAD)
    listed = Membership.objects.filter(organisation=led).select_related("person").prefetch_related("sites")
    return [_person_view(membership) for membership in listed.order_by("person__name")]


@router.post("people", response={200: PersonView, 422: ProblemDocument})
@transaction.atomic
def keep_person(request: HttpRequest, given: PersonIn) -> dict[str, Any]:
    """Takes someone into the organisation, or changes their role there."""
    user = person(request)
    led = organisation(user, Role.LEAD)
    username = given.username.strip().lower()
    found = Person.objects.filter(username=username).first()
    if found == user and given.role != Role.LEAD.value:
        text = "You cannot take the lead's role from yourself; another lead can."
        raise Problem(422, "Not changed", errors=[{"path": "role", "text": text}])
    sites = list(led.sites.filter(id__in=given.sites))
    if len(sites) != len(set(given.sites)):
        raise Http404
    if found is None:
        found = Person(username=username, email=username, name=given.name)
        _valid(given.password, found, "password")
        found.set_password(given.password)
        found.save()
    elif not found.memberships.exclude(organisation=led).exists():
        found.name = given.name
        found.save(update_fields=["name"])
    membership, _ = Membership.objects.update_or_create(person=found, organisation=led, defaults={"role": given.role})
    membership.sites.set(sites)
    return _person_view(membership)


@router.delete("people/{username}", response={204: None})
def part_with(request: HttpRequest, username: str) -> Nothing:
    """Ends someone's membership; what they entered stays under their name."""
    user = person(request)
    led = organisation(user, Role.LEAD)
    membership = Membership.objects.filter(organisation=led, person__username=username).exclude(person=user).first()
    if membership is None or not is_lead(user, led):
        raise Http404
    membership.delete()
    return 204, None
