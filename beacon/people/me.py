"""Who is signed in, as every page asks for it."""

from typing import Any, Literal
from uuid import UUID

from ninja import Schema

from beacon.people.access import WORKING, chosen_of
from beacon.people.models import Person, Role

RoleWord = Literal["technician", "lead", "reader"]
SheetWord = Literal["steps", "whole"]


class MembershipView(Schema):
    """An organisation that someone belongs to; the one `chosen` is what round, log and lists are of."""

    id: UUID
    organisation: str
    role: RoleWord
    chosen: bool


class InvitationView(Schema):
    """That an organisation would like to take somebody in, in a role; `by` is who asked."""

    id: UUID
    organisation: str
    role: RoleWord
    by: str


class Me(Schema):
    """Who is signed in, and what they may do in the organisation at hand; `id` is theirs whatever they are called.

    Who `owes_factor` sets up a second factor first: until then nothing else answers.
    """

    id: str
    name: str
    username: str
    sheet: SheetWord
    works: bool
    leads: bool
    owes_factor: bool
    memberships: list[MembershipView]
    invitations: list[InvitationView]


def me_view(user: Person) -> dict[str, Any]:
    memberships = list(user.memberships.select_related("organisation").order_by("organisation__name"))
    here = chosen_of(memberships, user)
    return {
        "id": str(user.pk),
        "name": str(user),
        "username": user.username,
        "sheet": user.sheet,
        "works": bool(here and here.role in WORKING),
        "owes_factor": user.owes_factor,
        "leads": bool(here and here.role == Role.LEAD),
        "memberships": [
            {"id": m.organisation_id, "organisation": str(m.organisation), "role": m.role, "chosen": m == here}
            for m in memberships
        ],
        "invitations": [
            {"id": one.id, "organisation": str(one.organisation), "role": one.role, "by": str(one.by)}
            for one in user.invitations.filter(used_at=None).select_related("organisation", "by")
        ],
    }
