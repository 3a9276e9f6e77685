"""What the library asks when somebody comes by their organisation's own sign-in."""

from typing import Any, NoReturn
from urllib.parse import urlencode

from allauth.core.exceptions import ImmediateHttpResponse
from allauth.socialaccount.adapter import DefaultSocialAccountAdapter
from django.conf import settings
from django.db import transaction
from django.http import HttpRequest, HttpResponseRedirect

from beacon.accounts.asking import Asking
from beacon.accounts.houses import NotLetIn, who_comes
from beacon.accounts.models import House, OwnLink
from beacon.people.models import Person


def refused(why: str) -> str:
    """The page where one signs in, which says in words why somebody did not come in by a house.

    It is told a word of a few, and no text: whoever makes up such a link makes up nothing that the page says.
    """
    return f"{settings.PUBLIC_URL}/sign-in?{urlencode({'refused': why})}"


def back(why: str) -> NoReturn:
    """Ends the way by a provider there."""
    raise ImmediateHttpResponse(HttpResponseRedirect(refused(why)))


class HouseSignIn(DefaultSocialAccountAdapter):
    """Whom a provider may let in, and how it is asked."""

    def is_open_for_signup(self, request: HttpRequest, sociallogin: Any) -> bool:
        """Who is new is taken in before; nobody signs up by a form."""
        return False

    def list_apps(self, request: HttpRequest, provider: Any = None, client_id: Any = None) -> list[Any]:
        """The houses, one by its own id: which there are on this server is told to nobody."""
        return super().list_apps(request, provider, client_id) if provider and provider != "openid_connect" else []

    def pre_social_login(self, request: HttpRequest, sociallogin: Any) -> None:
        """Lets in whom the house may let in, or sends them back with a reason."""
        house = House.objects.select_related("organisation").get(app=sociallogin.provider.app)
        said = sociallogin.account.extra_data.get("userinfo") or sociallogin.account.extra_data.get("id_token") or {}
        linked = sociallogin.user if sociallogin.is_existing else None
        if sociallogin.state.get("process") == "connect":
            mine = request.user
            if not isinstance(mine, Person) or not mine.memberships.filter(organisation=house.organisation).exists():
                back("elsewhere")
            return
        own = OwnLink.objects.filter(account_id=sociallogin.account.pk).exists() if linked else False
        try:
            with transaction.atomic():
                person = who_comes(house, said, linked, own)
                if linked is None:
                    sociallogin.connect(request, person)
        except NotLetIn as wrong:
            back(wrong.why)

    def on_authentication_error(self, request: HttpRequest, provider: Any, **given: Any) -> None:
        """The provider is away, answers what is no answer, or somebody turned back there."""
        cancelled = str(given.get("error", "")) == "cancelled"
        back("cancelled" if cancelled else "away")

    def get_requests_session(self) -> Any:
        """How a provider is asked: at allowed addresses alone, not for long, and not for much."""
        matched = self.request.resolver_match if self.request else None
        named = matched.kwargs if matched else {}
        house_id = named.get("house_id") or named.get("provider_id")
        house = House.objects.filter(pk=house_id).first() if house_id else None
        return Asking(str(house.organisation_id) if house else "")
