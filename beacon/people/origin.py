"""Where a request comes from that carries no session yet: only this very site may begin one."""

from urllib.parse import urlsplit

from django.conf import settings
from django.http import HttpRequest

from beacon.problems import Problem

JSON = "application/json"


def from_here(request: HttpRequest) -> None:
    """Raises Problem for what another site's page sends: a form, or a script of another origin."""
    origin, site = request.headers.get("Origin"), request.headers.get("Sec-Fetch-Site")
    own = {request.get_host(), *(urlsplit(one).netloc for one in settings.CSRF_TRUSTED_ORIGINS)}
    foreign = (origin is not None and urlsplit(origin).netloc not in own) or site not in (None, "same-origin", "none")
    if foreign or request.content_type != JSON:
        raise Problem(
            403, "Not from here", "Another site's page cannot sign anyone in. Open this site, and sign in there."
        )
