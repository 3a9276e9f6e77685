"""The page itself, and the policy that keeps it to its own host."""

from collections.abc import Callable
from functools import lru_cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import ensure_csrf_cookie

POLICY = "; ".join(
    [
        "default-src 'self'",
        "img-src 'self' data:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    ]
)


def content_security_policy(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Forbids the page to ask anything of any other host."""

    def respond(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        return response

    return respond


@lru_cache(maxsize=1)
def _page() -> str:
    return (settings.WEB_BUILD / "index.html").read_text(encoding="utf-8")


@ensure_csrf_cookie
def page(request: HttpRequest, path: str = "") -> HttpResponse:
    """The one page; which view it shows is up to its router."""
    return HttpResponse(_page(), headers={"Cache-Control": "no-cache"})
