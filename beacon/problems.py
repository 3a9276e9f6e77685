"""Error answers: problem documents (RFC 9457) with the path of each field."""

import sys
from typing import Any

from django.db import DataError, InterfaceError, OperationalError, connections
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError
from psycopg_pool import PoolTimeout

from wary.job.file import Refused


class FieldProblem(Schema):
    """One field: where it is, and what was expected of it."""

    path: str
    text: str


class ProblemDocument(Schema):
    """What is wrong, why, and what to do about it."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str = ""
    errors: list[FieldProblem] = []


class Problem(Exception):
    """Ends a request with a problem document."""

    def __init__(
        self,
        status: int,
        title: str,
        detail: str = "",
        errors: list[dict[str, str]] | None = None,
        headers: dict[str, str] | None = None,
    ) -> None:
        super().__init__(f"{title}: {'; '.join(error['text'] for error in errors or [])}")
        self.status, self.title, self.detail, self.errors = status, title, detail, errors or []
        self.headers = headers or {}


def _answer(status: int, title: str, detail: str = "", errors: list[dict[str, str]] | None = None) -> HttpResponse:
    document = {"type": "about:blank", "title": title, "status": status, "detail": detail, "errors": errors or []}
    return JsonResponse(document, status=status, content_type="application/problem+json")


def _place(loc: tuple[Any, ...]) -> str:
    text = ""
    for part in loc[2:] if len(loc) > 2 and loc[0] == "body" else loc[1:]:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else str(part)
    return text


def answer(raised: Problem) -> HttpResponse:
    """The answer to a request that ends with this."""
    made = _answer(raised.status, raised.title, raised.detail, raised.errors)
    for name, value in raised.headers.items():
        made.headers[name] = value
    return made


def not_from_here(request: HttpRequest, reason: str = "") -> HttpResponse:
    """The answer to what does not carry this site's token: another site's page sends it, or the page is an old one."""
    return _answer(403, "Not from here", "Load the page again. Another site's page can do nothing in your name.")


WAIT_SECONDS = 2
AWAY = (OperationalError, InterfaceError, PoolTimeout)
"""What is raised while the database is out of reach."""


def fault(request: HttpRequest) -> HttpResponse:
    """The answer to what no endpoint foresaw: to wait where the database is away, otherwise that it was noted."""
    raised = sys.exc_info()[1]
    while raised is not None:
        if isinstance(raised, AWAY):
            return unavailable()
        raised = raised.__cause__
    return _answer(500, "The server could not answer", "It was noted. Try again; nothing that was kept is lost.")


def unavailable() -> HttpResponse:
    """Says to wait: the database is away for the moment. What a page holds is kept there until it is back."""
    for connection in connections.all(initialized_only=True):
        # A connection that broke is let go, so that the next request begins with a new one.
        if not connection.in_atomic_block:
            connection.close_if_unusable_or_obsolete()
    said = _answer(
        503, "The database is away for a moment", "Nothing that was kept is lost. It is tried again by itself."
    )
    said.headers["Retry-After"] = str(WAIT_SECONDS)
    return said


def install(api: NinjaAPI) -> None:
    """Makes every error of this API a problem document."""

    @api.exception_handler(Problem)
    def problem(request: HttpRequest, raised: Problem) -> HttpResponse:
        return answer(raised)

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, raised: Refused) -> HttpResponse:
        rows = [refusal.as_json() for refusal in raised.refusals]
        return _answer(422, "This file is refused", "Nothing of it was taken in.", rows)

    @api.exception_handler(ValidationError)
    def invalid(request: HttpRequest, raised: ValidationError) -> HttpResponse:
        rows = [{"path": _place(tuple(error["loc"])), "text": str(error["msg"])} for error in raised.errors]
        return _answer(422, "Some fields cannot be read", "Look at the fields named here.", rows)

    @api.exception_handler(DataError)
    def unkept(request: HttpRequest, raised: DataError) -> HttpResponse:
        return _answer(422, "This cannot be kept", "Something in it is longer or larger than what is kept of it.")

    def away(request: HttpRequest, raised: Exception | type[Exception]) -> HttpResponse:
        return unavailable()

    for kind in AWAY:
        api.add_exception_handler(kind, away)

    @api.exception_handler(Http404)
    def absent(request: HttpRequest, raised: Http404) -> HttpResponse:
        return _answer(404, "Not here", "There is nothing of that name that you may see.")

    @api.exception_handler(AuthenticationError)
    def unknown(request: HttpRequest, raised: AuthenticationError) -> HttpResponse:
        return _answer(401, "Sign in first", "Your session has ended, or has not begun.")

    @api.exception_handler(HttpError)
    def other(request: HttpRequest, raised: HttpError) -> HttpResponse:
        # What a parser says of a body comes wrapped.
        if isinstance(raised.__cause__, Problem):
            return problem(request, raised.__cause__)
        return _answer(raised.status_code, str(raised))
