"""Invitations into a further organisation: whoever is invited says whether they come."""

from typing import Any
from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router

from beacon.people.access import person
from beacon.people.me import Me, me_view
from beacon.people.models import Membership

router = Router(tags=["people"])


@router.post("invitations/{invitation_id}/accept", response={200: Me})
@transaction.atomic
def accept(request: HttpRequest, invitation_id: UUID) -> dict[str, Any]:
    """Accepts an invitation: from now on this person belongs to that organisation as well."""
    user = person(request)
    found = user.invitations.select_for_update(of=("self",), no_key=True).filter(id=invitation_id).first()
    if found is None:
        raise Http404
    membership, _ = Membership.objects.update_or_create(
        person=user, organisation=found.organisation, defaults={"role": found.role}
    )
    membership.sites.set(found.sites.all())
    found.delete()
    return me_view(user)


@router.post("invitations/{invitation_id}/decline", response={200: Me})
def decline(request: HttpRequest, invitation_id: UUID) -> dict[str, Any]:
    """Declines an invitation."""
    user = person(request)
    if not user.invitations.filter(id=invitation_id).delete()[0]:
        raise Http404
    return me_view(user)
