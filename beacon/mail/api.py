"""What somebody would like to hear of by mail; the mails of an organisation; and the link that ends them."""

from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router
from pydantic import BaseModel, Field

from beacon.mail import sending
from beacon.mail.models import Mail, Wish
from beacon.people.access import here, is_lead, organisation, person
from beacon.people.models import Membership, Role
from beacon.people.rate_limit import spend
from beacon.plant.access import sites

router = Router(tags=["mail"])
LATEST = 60


class MailSite(BaseModel):
    """A site that somebody may see."""

    id: UUID
    name: str


class WishIn(BaseModel):
    """What somebody would like to hear of the organisation at hand; days of the week from Monday, 0."""

    days: Annotated[list[Annotated[int, Field(ge=0, le=6)]], Field(max_length=7)]
    hour: int = Field(ge=0, le=23)
    sites: Annotated[list[UUID], Field(max_length=500)] = []
    faults: bool = False
    looks: bool = False
    chain: bool = False


class WishView(WishIn):
    """The same, with where it goes and the sites to choose from."""

    address: str
    leads: bool
    choices: list[MailSite]


class MailView(BaseModel):
    """A mail, and what became of it; `text` is empty for what was for its reader alone and is handed over."""

    id: UUID
    to: str
    kind: Literal["due", "fault", "chain", "look", "invitation", "account"]
    kind_words: str
    subject: str
    text: str
    at: datetime
    tries: int
    sent_at: datetime | None
    given_up_at: datetime | None
    said: str


class Stopped(BaseModel):
    """Which mails were ended."""

    kind_words: str


def _wish_view(user: Any, of: Any) -> dict[str, Any]:
    found = Wish.objects.filter(person=user, organisation=of).first()
    leads = is_lead(user, of)
    # Until somebody says otherwise a lead hears of a chain that does not fit.
    found = found or Wish(person=user, organisation=of, chain=leads)
    keys = ("days", "hour", "sites", "faults", "looks", "chain")
    choices = sites(user).filter(organisation=of).order_by("place", "name")
    return {key: getattr(found, key) for key in keys} | {
        "address": user.email or user.username,
        "leads": leads,
        "choices": [{"id": one.id, "name": one.name} for one in choices],
    }


@router.get("me/mail", response=WishView)
def wish(request: HttpRequest) -> dict[str, Any]:
    """What this person would like to hear of the organisation at hand."""
    user = person(request)
    return _wish_view(user, here(user))


@router.put("me/mail", response=WishView)
@transaction.atomic
def keep_wish(request: HttpRequest, given: WishIn) -> dict[str, Any]:
    """Keeps what this person would like to hear of."""
    user = person(request)
    of = here(user)
    # One at a time for each person, so that two windows make no two.
    Membership.objects.select_for_update().filter(person=user, organisation=of).first()
    allowed = set(sites(user).filter(organisation=of).values_list("id", flat=True))
    if not set(given.sites) <= allowed:
        raise Http404
    said = given.model_dump() | {"days": sorted(set(given.days)), "sites": list(dict.fromkeys(given.sites))}
    Wish.objects.update_or_create(person=user, organisation=of, defaults=said)
    return _wish_view(user, of)


def _mail_view(one: Mail) -> dict[str, Any]:
    keys = ("id", "kind", "subject", "at", "tries", "sent_at", "given_up_at", "said")
    # Where mails are sent, the link in one is for whom it is written to alone; where they lie in a folder, it is handed over.
    hidden = one.kind in Mail.PRIVATE and settings.BY_MAIL
    return {key: getattr(one, key) for key in keys} | {
        "text": "" if hidden else one.text,
        "to": str(one.person or one.address),
        "kind_words": Mail.Kind(one.kind).label,
    }


@router.get("mails", response=list[MailView])
def mails(request: HttpRequest) -> list[dict[str, Any]]:
    """The latest mails of the organisation that this person leads."""
    of = organisation(person(request), Role.LEAD)
    return [_mail_view(one) for one in of.mails.select_related("person")[:LATEST]]


@router.post("mails/{mail_id}/again", response=MailView)
def send_again(request: HttpRequest, mail_id: UUID) -> dict[str, Any]:
    """Sends a mail again."""
    return _mail_view(sending.again(organisation(person(request), Role.LEAD), mail_id))


@router.post("mail/stop/{secret}", response=Stopped, auth=None)
def stop(request: HttpRequest, secret: str) -> dict[str, str]:
    """Ends the mails that a link is of; also as mail programs ask it by themselves, in one click."""
    spend(f"address {request.META.get('REMOTE_ADDR', '')}", "mails to stop")
    return {"kind_words": sending.stop(secret)}
