"""Which requests are under way in a test's own server, so that a test can wait until none is."""

import threading
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

_CHANGED = threading.Condition()
_under_way = 0


def counted(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Counts the requests that are being answered; the outermost middleware of the tests."""

    def respond(request: HttpRequest) -> HttpResponse:
        global _under_way
        with _CHANGED:
            _under_way += 1
        try:
            return get_response(request)
        finally:
            with _CHANGED:
                _under_way -= 1
                _CHANGED.notify_all()

    return respond


def none_under_way(seconds: float = 10) -> None:
    """Waits until every request that began is answered. Raises AssertionError where that takes too long."""
    with _CHANGED:
        if not _CHANGED.wait_for(lambda: _under_way == 0, seconds):
            raise AssertionError(f"{_under_way} requests are under way still")
