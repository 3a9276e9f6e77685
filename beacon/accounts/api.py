"""An organisation's own sign-in: which way an address comes, the way there, and how a lead sets it up."""

from typing import Annotated, Any
from urllib.parse import urlsplit
from uuid import UUID

import requests
from allauth.account.models import EmailAddress
from allauth.socialaccount.adapter import get_adapter
from allauth.socialaccount.models import SocialApp
from allauth.socialaccount.providers.oauth2.client import OAuth2Error
from django.conf import settings
from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest
from ninja import Router, Schema
from pydantic import Field

from beacon.accounts import lost
from beacon.accounts.house_adapter import refused
from beacon.accounts.houses import domain_of, house_of
from beacon.accounts.models import House, HouseDomain
from beacon.people.access import locked, nobodys_program, organisation, person
from beacon.people.backend import has_factor
from beacon.people.me import RoleWord
from beacon.people.models import Membership, Organisation, Person, Role
from beacon.people.rate_limit import spend
from beacon.problems import Problem, ProblemDocument

router = Router(tags=["accounts"])


class Way(Schema):
    """The own sign-in of the organisation whose domain an address is of; with `only` there is no other way."""

    id: UUID
    name: str
    organisation: str
    only: bool


class Ways(Schema):
    """How somebody of an address may sign in beside a password."""

    house: Way | None


class WayBegun(Schema):
    """Where the page goes to now."""

    location: str


class WayBegin(Schema):
    """Whether an account of who is signed in already is connected, instead of signing in by it."""

    connect: bool = False


class HouseIn(Schema):
    """An organisation's own sign-in by OpenID Connect. An empty `secret` leaves the one on record.

    `claim` is what the provider calls the field that says the role, `roles` the role by what that field says; without
    it a lead says it, and who is taken in as they come gets `role`.
    """

    name: str = Field(min_length=1, max_length=40)
    server: str = Field(min_length=1, max_length=300)
    client_id: str = Field(min_length=1, max_length=191)
    secret: str = Field("", max_length=191)
    domains: Annotated[list[Annotated[str, Field(min_length=3, max_length=120)]], Field(min_length=1, max_length=20)]
    only: bool = False
    takes_in: bool = False
    role: RoleWord = "reader"
    claim: str = Field("", max_length=80)
    roles: Annotated[dict[Annotated[str, Field(max_length=80)], RoleWord], Field(max_length=30)] = {}


class HouseView(HouseIn):
    """The same as it is kept, its secret left out, with the address that the provider sends people back to."""

    id: UUID
    back: str


@router.get("ways", response={200: Ways, 429: ProblemDocument}, auth=None)
def ways(request: HttpRequest, address: str) -> dict[str, Any]:
    """How somebody of this address signs in. It tells of domains alone, not whether anybody has the address."""
    spend(f"address {request.META.get('REMOTE_ADDR', '')}", "ways to sign in")
    house = house_of(address[:200])
    if house is None:
        return {"house": None}
    return {"house": {"id": house.id, "name": house.name, "organisation": str(house.organisation), "only": house.only}}


@router.post("houses/{house_id}/begin", response={200: WayBegun, 429: ProblemDocument}, auth=None)
def begin(request: HttpRequest, house_id: UUID, given: WayBegin) -> dict[str, str]:
    """Begins the way by a house: the page goes where this says, and comes back to where one signs in."""
    spend(f"address {request.META.get('REMOTE_ADDR', '')}", "ways to sign in")
    house = House.objects.filter(id=house_id).first()
    if house is None:
        raise Http404
    process, back = ("connect", "/people") if given.connect else ("login", "/sign-in?came=1")
    try:
        provider = get_adapter(request).get_provider(request, str(house.id))
        answer = provider.redirect(request, process, next_url=settings.PUBLIC_URL + back, headless=True)
    except (requests.RequestException, OAuth2Error, KeyError, ValueError):
        return {"location": refused("away")}
    return {"location": answer["Location"]}


@router.get("houses", response=list[HouseView])
def houses(request: HttpRequest) -> list[dict[str, Any]]:
    """The ways of signing in that the organisation which this person leads has of its own."""
    led = organisation(person(request), Role.LEAD)
    return [_view(one) for one in led.houses.select_related("app").prefetch_related("domains")]


@router.post("houses", response={201: HouseView, 422: ProblemDocument})
def add(request: HttpRequest, given: HouseIn) -> tuple[int, dict[str, Any]]:
    """Sets up a way of signing in of the organisation's own."""
    user = person(request)
    return 201, _view(_kept(user, organisation(user, Role.LEAD), None, given))


@router.put("houses/{house_id}", response={200: HouseView, 422: ProblemDocument})
def change(request: HttpRequest, house_id: UUID, given: HouseIn) -> dict[str, Any]:
    """Changes a way of signing in."""
    user = person(request)
    led = organisation(user, Role.LEAD)
    found = led.houses.filter(id=house_id).first()
    if found is None:
        raise Http404
    return _view(_kept(user, led, found, given))


@router.delete("houses/{house_id}", response={204: None})
def remove(request: HttpRequest, house_id: UUID) -> tuple[int, None]:
    """Ends a way of signing in; whoever came by it alone asks for a password by mail."""
    found = organisation(person(request), Role.LEAD).houses.filter(id=house_id).first()
    if found is None:
        raise Http404
    found.delete()
    return 204, None


def _view(one: House) -> dict[str, Any]:
    keys = ("id", "name", "only", "takes_in", "role", "claim", "roles")
    return {key: getattr(one, key) for key in keys} | {
        "server": one.app.settings["server_url"],
        "client_id": one.app.client_id,
        "domains": [domain.domain for domain in one.domains.order_by("domain")],
        "back": f"{settings.PUBLIC_URL}/api/from-house/{one.id}",
    }


def _refused(path: str, text: str) -> Problem:
    return Problem(422, "Not kept", errors=[{"path": path, "text": text}])


def _kept(user: Person, led: Organisation, found: House | None, given: HouseIn) -> House:
    parts = urlsplit(given.server)
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.username or parts.fragment:
        raise _refused("server", "expected an address such as https://login.kelp.example")
    if parts.scheme == "http" and settings.HTTPS:
        raise _refused("server", "over the net only by https")
    if given.only and not has_factor(user):
        raise _refused("only", "Set up a second factor of your own first: it lets you in while their sign-in is away.")
    if found is None and not given.secret:
        raise _refused("secret", "expected what the provider gave with the client's name")
    domains = list(dict.fromkeys(one.strip().lower().lstrip("@") for one in given.domains))
    mine = _proven(led)
    for index, domain in enumerate(domains):
        if domain not in mine:
            raise _refused(f"domains[{index}]", f"No lead of {led} has confirmed an address at {domain}. Confirm yours, above, and then name its domain.")  # fmt: skip
    try:
        with transaction.atomic():
            locked(led)
            return _written(led, found or House(organisation=led), given, domains)
    except IntegrityError:
        raise _refused("domains", "One of these domains belongs to another sign-in already.") from None


def _proven(led: Organisation) -> set[str]:
    """The domains of addresses that leads have confirmed: nobody claims another's."""
    leads = Membership.objects.filter(organisation=led, role=Role.LEAD).values("person")
    found = EmailAddress.objects.filter(user__in=leads, verified=True).values_list("email", flat=True)
    return {domain_of(address) for address in found}


def _written(led: Organisation, house: House, given: HouseIn, domains: list[str]) -> House:
    new = house._state.adding
    app = SocialApp(provider="openid_connect", provider_id=str(house.id)) if new else house.app
    app.name, app.client_id = given.name, given.client_id
    app.secret = given.secret or app.secret
    app.settings = {"server_url": given.server.rstrip("/")}
    app.save()
    house.app = app
    for key in ("name", "only", "takes_in", "role", "claim", "roles"):
        setattr(house, key, getattr(given, key))
    house.save()
    house.domains.exclude(domain__in=domains).delete()
    have = set(house.domains.values_list("domain", flat=True))
    HouseDomain.objects.bulk_create(HouseDomain(house=house, domain=one) for one in domains if one not in have)
    return house


class FactorLost(Schema):
    """That somebody was written to; `link` is what they were sent, told only where no mail is sent."""

    link: str


@router.delete("people/{username}/second-factor", response={202: FactorLost, 409: ProblemDocument})
@transaction.atomic
def lift_factor(request: HttpRequest, username: str) -> tuple[int, dict[str, str]]:
    """Agrees that somebody of this organisation alone lost their second factor.

    It is taken away once they say so themselves, by a link that is mailed to them; they then set up another.
    """
    user = person(request)
    led = organisation(user, Role.LEAD)
    of_led = Person.objects.filter(nobodys_program(), memberships__organisation=led, username=username)
    found = of_led.exclude(pk=user.pk).first()
    if found is None:
        raise Http404
    if found.memberships.exclude(organisation=led).exists():
        text = "They belong to another organisation too; a recovery code helps them, or whoever runs this server."
        raise Problem(409, "Not taken away", text)
    if not has_factor(found):
        raise Problem(409, "Not taken away", "They have none any more: they sign in without it.")
    link = lost.agreed(found, led, user)
    return 202, {"link": "" if settings.BY_MAIL else link}


class LinkOfFactor(Schema):
    secret: str = Field(max_length=1000)


@router.post("factor-lost", response={204: None, 409: ProblemDocument, 429: ProblemDocument}, auth=None)
def factor_lost(request: HttpRequest, given: LinkOfFactor) -> tuple[int, None]:
    """Takes a second factor away that its person says they lost, by the link that was mailed to them."""
    spend(f"address {request.META.get('REMOTE_ADDR', '')}", "invitations to open")
    lost.take_away(given.secret)
    return 204, None
