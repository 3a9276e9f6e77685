"""An organisation's own sign-in: which is whose, and whom it lets in.

A provider speaks for the addresses of its domains, and for the people of its organisation alone: nobody comes by it
into another organisation that they belong to, unless they connected it themselves while they were signed in.
"""

from typing import Any

from allauth.account.internal.flows.login import get_authentication_records
from allauth.socialaccount.models import SocialAccount
from django.db import transaction
from django.http import HttpRequest

from beacon.accounts.models import House, HouseDomain, OwnLink
from beacon.people.access import locked, nobodys_program
from beacon.people.backend import has_factor
from beacon.people.keeping import has_ended, locked_invitation, member_by, new_person
from beacon.people.models import Invitation, Membership, Person, Role

REFUSED = {
    "address": "said no address",
    "unproven": "says that this address is not confirmed there",
    "foreign": "answered for an address that is not of its domains",
    "nobody": "nobody of this address is invited",
    "elsewhere": "belongs to another organisation",
    "ended": "is not in the organisation any more",
}
"""Why somebody is not let in, by the word that the page is told."""


class NotLetIn(Exception):
    """Somebody came by a provider, and is not let in; `why` is a word of REFUSED."""

    def __init__(self, why: str) -> None:
        super().__init__(REFUSED[why])
        self.why = why


def domain_of(address: str) -> str:
    return address.rpartition("@")[2].strip().lower()


def house_of(address: str) -> House | None:
    """The house whose domains an address is of."""
    found = HouseDomain.objects.select_related("house__organisation").filter(domain=domain_of(address)).first()
    return found.house if found else None


def only_by_house(user: Person) -> House | None:
    """The house by which alone somebody comes, where there is one.

    A lead who has a second factor may still come by a password: a provider that is away locks nobody out for good.
    """
    house = house_of(user.username)
    if house is None or not house.only:
        return None
    mine = list(user.memberships.all())
    if [one.organisation_id for one in mine] != [house.organisation_id]:
        return None
    if mine[0].role == Role.LEAD and has_factor(user):
        return None
    return house


def said_so(request: HttpRequest, account: SocialAccount) -> None:
    """Notes that whoever connects an account at a provider said so, signed in by another way than such."""
    ways = {record.get("method") for record in get_authentication_records(request, request.user)}
    if ways - {"socialaccount"}:
        OwnLink.objects.get_or_create(account=account)


def opens_too_much(request: HttpRequest, user: Person) -> bool:
    """Whether a session came by an organisation's provider alone, and its person belongs to another one as well.

    A silent link opens the provider's organisation and no other: whoever joined another one at the very moment at which
    such a session began has none. Where they said themselves that the account is theirs, it opens all that they have.
    """
    records = request.session.get(RECORDS, [])
    ways = {record.get("method") for record in records}
    # A passkey alone is a way of their own, and so is a password.
    if "socialaccount" not in ways or ways - {"socialaccount", "mfa"}:
        return False
    providers = {str(record.get("provider")) for record in records if record.get("method") == "socialaccount"}
    own = OwnLink.objects.filter(account__user=user, account__provider__in=providers)
    theirs = House.objects.filter(pk__in=providers).values("organisation")
    return not own.exists() and user.memberships.exclude(organisation__in=theirs).exists()


RECORDS = "account_authentication_methods"
"""Where the library notes in a session by which ways it was begun."""


def silent_links_ended(membership: Membership) -> bool:
    """Ends what other organisations' providers linked silently, as somebody joins this one; whether there was any.

    Whoever runs a provider opens its own organisation by it, and none that its people join. Their sessions end too.
    """
    person, here = membership.person, House.objects.filter(organisation=membership.organisation_id)
    own = [str(pk) for pk in here.values_list("pk", flat=True)]
    silent = SocialAccount.objects.filter(user=person, own=None).exclude(provider__in=own)
    if not silent.delete()[0]:
        return False
    person.sign_out_everywhere()
    return True


def who_comes(house: House, said: dict[str, Any], linked: Person | None, own: bool = False) -> Person:
    """Who it is that a provider answers for, taken in where that is wanted. Raises NotLetIn.

    Args:
        house: By which they come.
        said: What the provider says of them: its claims.
        linked: Who came by this account of theirs before.
        own: Whether they said themselves, signed in by another way, that the account is theirs.
    """
    address = str(said.get("email") or "").strip().lower()
    if not address or "@" not in address:
        raise NotLetIn("address")
    if said.get("email_verified") in (False, "false"):
        raise NotLetIn("unproven")
    if not house.domains.filter(domain=domain_of(address)).exists():
        raise NotLetIn("foreign")
    with transaction.atomic():
        # Two who come at once for the first time come one after the other.
        locked(house.organisation)
        person = linked or Person.objects.filter(username=address).first() or _new(house, address, said)
        # Whether they belong elsewhere is so until they are linked: who joins meanwhile waits.
        Person.objects.select_for_update(no_key=True).get(pk=person.pk)
        membership = person.memberships.filter(organisation=house.organisation).first()
        if membership is None and linked is not None:
            raise NotLetIn("ended")
        if membership is None or not person.is_active or hasattr(person, "program"):
            raise NotLetIn("elsewhere")
        if not own and person.memberships.exclude(pk=membership.pk).exists():
            raise NotLetIn("elsewhere")
        role = role_said(house, said)
        if role and role != membership.role and not _last_lead(membership):
            membership.role = role
            membership.save(update_fields=["role"])
    return person


def _new(house: House, address: str, said: dict[str, Any]) -> Person:
    invitation = locked_invitation(address=address, organisation=house.organisation, used_at=None)
    if invitation is not None and has_ended(invitation):
        invitation = None
    if invitation is None and not house.takes_in:
        raise NotLetIn("nobody")
    made = new_person(address, str(said.get("name") or address.partition("@")[0])[:120], None)
    if isinstance(invitation, Invitation):
        member_by(invitation, made)
    else:
        Membership.objects.create(person=made, organisation=house.organisation, role=role_said(house, said) or house.role)  # fmt: skip
    return made


def role_said(house: House, said: dict[str, Any]) -> str | None:
    """The role that the provider's field says; of several the one that may most. None where it says none."""
    given = said.get(house.claim) if house.claim else None
    words = [str(one) for one in given] if isinstance(given, list) else [str(given)] if given is not None else []
    known = {house.roles[word] for word in words if word in house.roles}
    return next((role for role in (Role.LEAD, Role.TECHNICIAN, Role.READER) if role.value in known), None)


def _last_lead(membership: Membership) -> bool:
    if membership.role != Role.LEAD:
        return False
    return not Membership.objects.filter(nobodys_program("person"), organisation=membership.organisation_id, role=Role.LEAD).exclude(pk=membership.pk).exists()  # fmt: skip
