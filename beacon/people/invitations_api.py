"""Invitations: whoever is known already says whether they come; somebody new opens the link that was mailed to them."""

from datetime import datetime
from typing import Any
from uuid import UUID

from allauth.account.models import EmailAddress
from django.conf import settings
from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router, Schema
from pydantic import Field

from beacon.people.access import person
from beacon.people.keeping import has_ended, hash_of, locked_invitation, member_by, new_person
from beacon.people.me import Me, RoleWord, me_view
from beacon.people.models import Invitation, Person
from beacon.people.rate_limit import spend
from beacon.problems import Problem, ProblemDocument

router = Router(tags=["people"])


class Invited(Schema):
    """What an invitation is to; where its address is `known`, whoever it is signs in to answer it."""

    organisation: str
    role: RoleWord
    by: str
    address: str
    name: str
    known: bool
    until: datetime | None


class Joining(Schema):
    """Somebody new: what they are called, and the password that they choose."""

    name: str = Field(min_length=1, max_length=120)
    password: str = Field(max_length=200)


def _counted(request: HttpRequest) -> None:
    """Counts a try, outside of any transaction: one that fails is counted too."""
    spend(f"address {request.META.get('REMOTE_ADDR', '')}", "invitations to open")


def _open(secret: str, lock: bool) -> Invitation:
    """The invitation behind a link. Raises Http404, and Problem 409 for one that was used or is too late."""
    by = {"secret_sha256": hash_of(secret)}
    found = locked_invitation(**by) if lock else Invitation.objects.filter(**by).first()
    if found is None:
        raise Http404
    if found.used_at:
        raise Problem(409, "This invitation was used already", "Sign in with the address and the password that were chosen then.")  # fmt: skip
    return _lasting(found)


def _lasting(found: Invitation) -> Invitation:
    if has_ended(found):
        raise Problem(409, "This invitation has ended", f"Ask {found.by} of {found.organisation} for a new one.")
    return found


@router.get("invited/{secret}", response={200: Invited, 409: ProblemDocument, 429: ProblemDocument}, auth=None)
def invited(request: HttpRequest, secret: str) -> dict[str, Any]:
    """What the invitation behind a link is to."""
    _counted(request)
    found = _open(secret, lock=False)
    return {
        "organisation": str(found.organisation),
        "role": found.role,
        "by": str(found.by),
        "address": found.address,
        "name": found.name,
        "known": Person.objects.filter(username=found.address).exists(),
        "until": found.until,
    }


@router.post("invited/{secret}", response={201: None, 409: ProblemDocument, 422: ProblemDocument}, auth=None)
def join(request: HttpRequest, secret: str, given: Joining) -> tuple[int, None]:
    """Takes somebody new in, who then signs in with what they chose. Of two at once, one does."""
    _counted(request)
    with transaction.atomic():
        found = _open(secret, lock=True)
        came = new_person(found.address, given.name.strip(), given.password)
        # Who came by a link that was mailed has shown that the address is theirs.
        EmailAddress.objects.create(user=came, email=came.username, primary=True, verified=settings.BY_MAIL)
        member_by(found, came)
    return 201, None


@router.post("invitations/{invitation_id}/accept", response={200: Me, 409: ProblemDocument})
@transaction.atomic
def accept(request: HttpRequest, invitation_id: UUID) -> dict[str, Any]:
    """Accepts an invitation: from now on this person belongs to that organisation as well."""
    user = person(request)
    found = locked_invitation(person=user, id=invitation_id, used_at=None)
    if found is None:
        raise Http404
    member_by(_lasting(found), user)
    return me_view(user)


@router.post("invitations/{invitation_id}/decline", response={200: Me})
@transaction.atomic
def decline(request: HttpRequest, invitation_id: UUID) -> dict[str, Any]:
    """Declines an invitation."""
    user = person(request)
    found = locked_invitation(person=user, id=invitation_id, used_at=None)
    if found is None:
        raise Http404
    found.delete()
    return me_view(user)
