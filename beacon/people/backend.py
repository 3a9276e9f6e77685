"""Who is signed in, looked up once for each request, with whether they owe a second factor."""

from functools import cache
from typing import Any, cast

from allauth.account.auth_backends import AuthenticationBackend
from allauth.mfa.models import Authenticator
from allauth.socialaccount.models import SocialAccount, SocialApp
from django.db.models import Exists, OuterRef, Q, QuerySet

from beacon.people.models import Membership, Organisation, Person, Role

FACTORS = (Authenticator.Type.TOTP, Authenticator.Type.WEBAUTHN)
"""What counts as a second factor; recovery codes stand in for one that was lost."""


def demands(elsewhere: bool = False) -> Exists:
    """Whether an organisation that a person belongs to demands a second factor of them, in the same query as the
    person.

    With `elsewhere` one by whose own sign-in they do not come: its provider answers for them there, and nowhere else.
    """
    leads = Q(organisation__second_factor=Organisation.Demands.LEADS, role=Role.LEAD)
    everybody = Q(organisation__second_factor=Organisation.Demands.ALL)
    found = Membership.objects.filter(leads | everybody, person=OuterRef("pk"))
    if elsewhere:
        own = SocialApp.objects.filter(house__organisation=OuterRef(OuterRef("organisation"))).values("provider_id")
        found = found.exclude(Exists(SocialAccount.objects.filter(user=OuterRef("person"), provider__in=own)))
    return Exists(found)


def has_factor(user: Person) -> bool:
    """Whether somebody has a second factor."""
    return Authenticator.objects.filter(user=user, type__in=FACTORS).exists()


@cache
def _somebody() -> QuerySet[Person]:
    """People, with whether an organisation of theirs demands a second factor of anybody; made once, since each request
    asks for one of them."""
    asking = (Organisation.Demands.LEADS, Organisation.Demands.ALL)
    theirs = Membership.objects.filter(person=OuterRef("pk"), organisation__second_factor__in=asking)
    return Person.objects.annotate(asked=Exists(theirs))


class Backend(AuthenticationBackend):
    """The library's own, with `owes_factor` on whom it finds."""

    def get_user(self, user_id: Any) -> Person | None:
        """Who has this id."""
        found = _somebody().filter(pk=user_id).first()
        if found is None or not self.user_can_authenticate(found):
            return None
        found.owes_factor = cast(Any, found).asked and _owes(found)
        return found


def _owes(user: Person) -> bool:
    """Whether somebody has yet to set up a second factor.

    Who has no password here comes by their organisation's own sign-in, and owes that one nothing.
    """
    theirs = demands() if user.has_usable_password() else demands(True)
    return Person.objects.filter(theirs, pk=user.pk).exists() and not has_factor(user)
