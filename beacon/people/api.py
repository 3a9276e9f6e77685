"""Signing out, who one is, and the people of an organisation. Signing in is the library's: see `beacon/accounts`."""

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from allauth.mfa.models import Authenticator
from django.contrib.auth import logout, update_session_auth_hash
from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router, Schema
from pydantic import Field

from beacon.people import locking
from beacon.people.access import is_lead, locked, nobodys_program, organisation, person
from beacon.people.backend import FACTORS, has_factor
from beacon.people.devices import end_device, living, note_device, seen
from beacon.people.keeping import PersonIn, invitation_link, locked_invitation, take_in, valid_password
from beacon.people.locking import failed, forget, may_try
from beacon.people.me import Me, RoleWord, SheetWord, me_view
from beacon.people.models import Device, Invitation, Membership, Organisation, Role
from beacon.problems import Problem, ProblemDocument

router = Router(tags=["people"])
Nothing = tuple[int, None]


@router.post("sign-out", response={204: None})
def sign_out(request: HttpRequest) -> Nothing:
    """Ends this session."""
    Device.objects.filter(session_key=request.session.session_key).delete()
    logout(request)
    return 204, None


@router.post("sign-out-everywhere", response={204: None})
def sign_out_everywhere(request: HttpRequest) -> Nothing:
    """Ends every session of this person, on every device."""
    user = person(request)
    user.sign_out_everywhere()
    user.devices.all().delete()
    logout(request)
    return 204, None


@router.get("me", response=Me)
def me(request: HttpRequest) -> dict[str, Any]:
    """Who is signed in, and what they may do."""
    user = person(request)
    seen(request, user)
    return me_view(user)


class Preferences(Schema):
    """How someone likes the run sheet, and which of their organisations they have at hand."""

    sheet: SheetWord | None = None
    organisation: UUID | None = None


@router.patch("me", response=Me)
def prefer(request: HttpRequest, given: Preferences) -> dict[str, Any]:
    """Remembers how this person likes the run sheet, or switches to another of their organisations."""
    user = person(request)
    changed = []
    if given.sheet:
        user.sheet = given.sheet
        changed.append("sheet")
    if given.organisation:
        if not user.memberships.filter(organisation=given.organisation).exists():
            raise Http404
        user.chosen_id = given.organisation
        changed.append("chosen")
    if changed:
        user.save(update_fields=changed)
    return me_view(user)


class DeviceView(Schema):
    """A session on a device; `here` is the one that asks."""

    id: UUID
    agent: str
    address: str
    began_at: datetime
    seen_at: datetime
    here: bool


@router.get("sessions", response=list[DeviceView])
def sessions(request: HttpRequest) -> list[dict[str, Any]]:
    """Where this person is signed in."""
    key = request.session.session_key
    keys = ("id", "agent", "address", "began_at", "seen_at")
    return [
        {name: getattr(one, name) for name in keys} | {"here": one.session_key == key}
        for one in living(person(request))
    ]


@router.delete("sessions/{session_id}", response={204: None})
def end_session(request: HttpRequest, session_id: UUID) -> Nothing:
    """Ends the session on one device."""
    found = person(request).devices.filter(id=session_id).first()
    if found is None:
        raise Http404
    end_device(found)
    return 204, None


class NewPassword(Schema):
    old: str = Field(max_length=200)
    new: str = Field(max_length=200)


@router.post("me/password", response={204: None, 422: ProblemDocument, 429: ProblemDocument})
def change_password(request: HttpRequest, given: NewPassword) -> Nothing:
    """A new password for this person; other devices are signed out. A wrong old one is slowed as a wrong sign-in is."""
    user = person(request)
    name, address = f"password of {user.username}", request.META.get("REMOTE_ADDR", "")
    may_try(name, address)
    if not user.check_password(given.old):
        failed(name, address)
        raise Problem(422, "Not changed", errors=[{"path": "old", "text": "That is not your present password."}])
    forget(name, address)
    valid_password(given.new, user, "new")
    user.set_password(given.new)
    user.save(update_fields=["password"])
    for other in user.devices.exclude(session_key=request.session.session_key):
        end_device(other)
    Device.objects.filter(session_key=request.session.session_key).delete()
    update_session_auth_hash(request, user)
    note_device(request, user)
    return 204, None


class PersonView(Schema):
    """Somebody of the organisation; of one who was `invited` and has not come the address is all that is known.

    `factor` is whether they have a second factor; `link` is the invitation's, told once and only where no mail is sent.
    """

    username: str
    name: str
    role: RoleWord
    sites: list[UUID]
    invited: bool = False
    until: datetime | None = None
    factor: bool = False
    link: str = ""


def _person_view(membership: Membership, factor: bool = False) -> dict[str, Any]:
    return {
        "username": membership.person.username,
        "name": str(membership.person),
        "role": membership.role,
        "sites": [site.id for site in membership.sites.all()],
        "factor": factor,
    }


def _invited_view(one: Invitation, secret: str = "") -> dict[str, Any]:
    return {
        "username": one.address,
        "name": "",
        "role": one.role,
        "sites": [site.id for site in one.sites.all()],
        "invited": True,
        "until": one.until,
        "link": invitation_link(secret),
    }


@router.get("people", response=list[PersonView])
def people(request: HttpRequest) -> list[dict[str, Any]]:
    """The people of the organisation that this person leads."""
    led = organisation(person(request), Role.LEAD)
    listed = (
        Membership.objects.filter(nobodys_program("person"), organisation=led)
        .select_related("person")
        .prefetch_related("sites")
    )
    invited = led.invitations.filter(used_at=None).prefetch_related("sites").order_by("address")
    here = [one.person_id for one in listed]
    secured = set(Authenticator.objects.filter(user__in=here, type__in=FACTORS).values_list("user", flat=True))
    return [_person_view(one, one.person_id in secured) for one in listed.order_by("person__name")] + [
        _invited_view(one) for one in invited
    ]


@router.post("people", response={200: PersonView, 422: ProblemDocument})
@transaction.atomic
def keep_person(request: HttpRequest, given: PersonIn) -> dict[str, Any]:
    """Invites someone, again where that was done before, or changes the role of who is there."""
    user = person(request)
    # One at a time, so that two leads do not take the lead from each other at once.
    led = locked(organisation(user, Role.LEAD))
    if not is_lead(user, led):
        raise Http404
    kept = take_in(user, led, given)
    return _invited_view(*kept) if isinstance(kept, tuple) else _person_view(kept)


@router.post("people/{username}/unlock", response={204: None})
def unlock(request: HttpRequest, username: str) -> Nothing:
    """Lets someone of the organisation sign in again who has to wait after too many failures."""
    led = organisation(person(request), Role.LEAD)
    if not Membership.objects.filter(organisation=led, person__username=username).exists():
        raise Http404
    locking.unlock(username)
    return 204, None


@router.delete("people/{username}", response={204: None})
@transaction.atomic
def part_with(request: HttpRequest, username: str) -> Nothing:
    """Ends someone's membership, or takes an invitation back; what they entered stays under their name."""
    user = person(request)
    led = locked(organisation(user, Role.LEAD))
    of_people = Membership.objects.filter(nobodys_program("person"), organisation=led).exclude(person=user)
    # Who accepts at this very moment is a member once that lock is given up, and is parted with as one.
    invitation = locked_invitation(organisation=led, address=username, used_at=None)
    membership = of_people.filter(person__username=username).first()
    if (membership is None and invitation is None) or not is_lead(user, led):
        raise Http404
    for one in (membership, invitation):
        if one is not None:
            one.delete()
    return 204, None


class Demand(Schema):
    """Of whom an organisation demands a second factor: of nobody, its leads, or everybody."""

    of: Literal["", "leads", "all"]


@router.get("second-factor", response=Demand)
def demanded(request: HttpRequest) -> dict[str, str]:
    """Of whom the organisation that this person leads demands a second factor."""
    return {"of": organisation(person(request), Role.LEAD).second_factor}


@router.put("second-factor", response={200: Demand, 422: ProblemDocument})
def demand(request: HttpRequest, given: Demand) -> dict[str, str]:
    """Demands a second factor. Whoever has none sets one up before anything else; the lead who demands it has one."""
    user = person(request)
    led = organisation(user, Role.LEAD)
    if given.of and not has_factor(user):
        text = "Set up a second factor of your own first, so that you know what you ask for."
        raise Problem(422, "Not changed", errors=[{"path": "of", "text": text}])
    Organisation.objects.filter(pk=led.pk).update(second_factor=given.of)
    return {"of": given.of}
