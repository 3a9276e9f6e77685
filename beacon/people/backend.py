"""Who is signed in, looked up once for each request, with whether they owe a second factor."""

from typing import Any, cast

from allauth.account.auth_backends import AuthenticationBackend
from allauth.mfa.models import Authenticator
from allauth.socialaccount.models import SocialAccount, SocialApp
from django.db.models import Exists, OuterRef, Q

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


class Backend(AuthenticationBackend):
    """The library's own, with `owes_factor` on whom it finds."""

    def get_user(self, user_id: Any) -> Person | None:
        """Who has this id.

        Who has no password here comes by their organisation's own sign-in, and owes that one nothing.
        """
        found = (
            Person.objects.filter(pk=user_id)
            .annotate(
                demanded=demands(),
                elsewhere=demands(True),
                has=Exists(Authenticator.objects.filter(user=OuterRef("pk"), type__in=FACTORS)),
            )
            .first()
        )
        if found is None or not self.user_can_authenticate(found):
            return None
        noted = cast(Any, found)
        owes = noted.demanded if found.has_usable_password() else noted.elsewhere
        found.owes_factor = owes and not noted.has
        return found
