"""The page itself, and the policy that keeps it to its own host."""

import json
from collections.abc import Callable
from functools import lru_cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import ensure_csrf_cookie

from beacon.policy import POLICY
from wary import VERSION

GUARDED = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cache-Control": "no-store",
}
"""The headers of every answer of the API, for one that is given before the application is asked."""


def content_security_policy(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[..., HttpResponse]:
    """Forbids the page to ask anything of any other host."""

    def respond(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        if request.path.startswith("/api/"):
            # What is answered to one person is kept by no cache.
            response.headers.setdefault("Cache-Control", "no-store")
        return response

    return respond


ENTRIES = {"": "round/Round", "systems": "plant/SystemPage", "jobs": "bench/Bench", "log": "log/Log"}
"""The script of the page behind each first word of an address, where it is worth asking for at once."""
ALONE = ("", "log")
"""Those that are a page by themselves; the others only with what they show."""


@lru_cache(maxsize=16)
def _page(entry: str | None) -> str:
    """The page, which asks for the scripts of its first view together with the first one instead of after it."""
    page = (settings.WEB_BUILD / "index.html").read_text(encoding="utf-8")
    scripts = {f'<link rel="modulepreload" href="/static/{file}">' for file in _scripts(entry)}
    about = f'<meta name="version" content="{VERSION}">'
    return page.replace("</head>", about + "".join(sorted(scripts)) + "</head>")


def _scripts(entry: str | None) -> set[str]:
    """The files that a page's script is made of, those that it imports among them."""
    manifest = settings.WEB_BUILD / "manifest.json"
    if entry is None or not manifest.exists():
        return set()
    chunks = json.loads(manifest.read_text(encoding="utf-8"))
    found: set[str] = set()
    waiting = [f"src/{entry}.tsx"]
    while waiting:
        chunk = chunks.get(waiting.pop())
        if chunk and chunk["file"] not in found:
            found.add(chunk["file"])
            waiting += chunk.get("imports", [])
    return found


def keeper() -> str:
    """The script that keeps the application's own files on a device."""
    return (settings.WEB_BUILD / "sw.js").read_text(encoding="utf-8")


def service_worker(request: HttpRequest) -> HttpResponse:
    """That script, under an address from which it may speak for every page."""
    return HttpResponse(keeper(), content_type="text/javascript", headers={"Cache-Control": "no-cache"})


@ensure_csrf_cookie
def page(request: HttpRequest, path: str = "") -> HttpResponse:
    """The one page; which view it shows is up to its router."""
    room, _, thing = path.partition("/")
    entry = ENTRIES.get(room) if thing or room in ALONE else None
    return HttpResponse(_page(entry), headers={"Cache-Control": "no-cache"})
