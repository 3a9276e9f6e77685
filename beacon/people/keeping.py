"""How somebody comes into an organisation: invited by a link to their address, or, where they are known, by asking them."""

import hashlib
import secrets
from datetime import timedelta
from uuid import UUID

from django.conf import settings
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.dispatch import Signal
from django.http import Http404
from django.utils import timezone
from ninja import Schema
from pydantic import Field

from beacon.people.me import RoleWord
from beacon.people.models import Invitation, Membership, Organisation, Person, Role
from beacon.problems import Problem

LASTS = timedelta(days=7)
"""How long the link of an invitation may be used."""
invited = Signal()
joined = Signal()
"""Somebody was invited: `invitation`, and the `secret` of its link, which is nowhere else."""


def valid_password(password: str, user: Person, path: str) -> None:
    """Raises Problem 422 for a password that is too weak, at this path."""
    try:
        validate_password(password, user)
    except ValidationError as refused:
        raise Problem(
            422, "This password is too weak", errors=[{"path": path, "text": text} for text in refused.messages]
        ) from None


ADDRESS = r"^[^@\s,;:<>()\[\]\\\"]+@[^@\s,;:<>()\[\]\\\"]+$"
"""What an address is, so that a mail can have it: one, and nothing that a list of them is made with."""


class PersonIn(Schema):
    """A person of the organisation; somebody new is written to, and chooses a password for themselves."""

    username: str = Field(max_length=150, pattern=ADDRESS)
    name: str = Field(max_length=120, min_length=1)
    role: RoleWord
    sites: list[UUID] = []


def take_in(user: Person, led: Organisation, given: PersonIn) -> Membership | tuple[Invitation, str]:
    """Invites someone into an organisation that `user` leads and that is locked, or changes their role there.

    Gives the invitation and the secret of its link, or the membership. Raises Problem 422, and Http404 for a site
    that is not its own.
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
    membership = found.memberships.filter(organisation=led).first() if found else None
    if found is None or membership is None:
        # Someone of another organisation says for themselves whether they come; till then nothing of them is shown.
        secret = secrets.token_urlsafe(24)
        invitation, _ = Invitation.objects.update_or_create(
            address=username,
            organisation=led,
            used_at=None,
            defaults={
                "person": found,
                "name": given.name,
                "role": given.role,
                "by": user,
                "at": timezone.now(),
                "until": timezone.now() + LASTS,
                "secret_sha256": hash_of(secret),
            },
        )
        invitation.sites.set(sites)
        invited.send(Invitation, invitation=invitation, secret=secret)
        return invitation, secret
    if not found.memberships.exclude(organisation=led).exists():
        found.name = given.name
        found.save(update_fields=["name"])
    membership.role = given.role
    membership.save(update_fields=["role"])
    membership.sites.set(sites)
    return membership


def invitation_link(secret: str) -> str:
    """The link of an invitation, to be handed over where no mail is sent; empty where it is."""
    return f"{settings.PUBLIC_URL}/invited/{secret}" if secret and not settings.BY_MAIL else ""


def hash_of(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


def member_by(invitation: Invitation, user: Person) -> Membership:
    """Makes somebody a member as an invitation says, and uses it up; whoever calls this holds its lock."""
    Person.objects.select_for_update(no_key=True).get(pk=user.pk)
    membership, _ = Membership.objects.update_or_create(
        person=user, organisation=invitation.organisation, defaults={"role": invitation.role}
    )
    membership.sites.set(invitation.sites.all())
    invitation.used_at = timezone.now()
    invitation.person = user
    invitation.save(update_fields=["used_at", "person"])
    joined.send(Membership, membership=membership)
    return membership


def locked_invitation(**found_by: object) -> Invitation | None:
    """An invitation that nobody else answers or takes back until this transaction is over."""
    return Invitation.objects.select_for_update(of=("self",), no_key=True).filter(**found_by).first()


def has_ended(invitation: Invitation) -> bool:
    """Whether nobody comes by an invitation any more; asked wherever one is answered, with its lock held."""
    return invitation.until is None or invitation.until < timezone.now()


def new_person(address: str, name: str, password: str | None) -> Person:
    """Somebody new; without a password, they come another way. Raises Problem 409 where the address is taken meanwhile."""
    made = Person(username=address, email=address, name=name)
    if password is None:
        made.set_unusable_password()
    else:
        valid_password(password, made, "password")
        made.set_password(password)
    try:
        with transaction.atomic():
            made.save()
    except IntegrityError:
        raise Problem(409, "There is an account already", "Somebody signs in with this address. Sign in, and you are asked whether you come.") from None  # fmt: skip
    # Who else invited this address meanwhile hears from them once they are signed in.
    Invitation.objects.filter(address=address, person=None, used_at=None).update(person=made)
    return made
