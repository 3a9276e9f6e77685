from uuid import UUID

from allauth.socialaccount.providers.openid_connect.views import callback
from django.http import HttpRequest, HttpResponse
from django.urls import include, path, re_path

from beacon.accounts.within import AT
from beacon.api import api, document
from beacon.metrics import metrics
from beacon.web import page, service_worker


def from_house(request: HttpRequest, provider_id: UUID) -> HttpResponse:
    """Where somebody comes back to from their organisation's own sign-in."""
    return callback(request, str(provider_id))


urlpatterns = [
    path(AT.lstrip("/"), include("allauth.headless.urls")),
    path("api/from-house/<uuid:provider_id>", from_house, name="openid_connect_callback"),
    path("api/openapi.json", document),
    path("api/", api.urls),
    path("metrics", metrics),
    path("sw.js", service_worker),
    re_path(r"^(?!api/|static/|metrics$)(?P<path>.*)$", page),
]

handler500 = "beacon.problems.fault"
