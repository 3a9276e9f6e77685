"""Error answers: problem documents (RFC 9457) with the path of each field."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError

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

    def __init__(self, status: int, title: str, detail: str = "", errors: list[dict[str, str]] | None = None) -> None:
        super().__init__(f"{title}: {'; '.join(error['text'] for error in errors or [])}")
        self.status, self.title, self.detail, self.errors = status, title, detail, errors or []


def _answer(status: int, title: str, detail: str = "", errors: list[dict[str, str]] | None = None) -> HttpResponse:
    document = {"type": "about:blank", "title": title, "status": status, "detail": detail, "errors": errors or []}
    return JsonResponse(document, status=status, content_type="application/problem+json")


def _place(loc: tuple[Any, ...]) -> str:
    text = ""
    for part in loc[2:] if len(loc) > 2 and loc[0] == "body" else loc[1:]:
        text += f"[{part}]" if isinstance(part, int) else f".{part}" if text else str(part)
    return text


def install(api: NinjaAPI) -> None:
    """Makes every error of this API a problem document."""

    @api.exception_handler(Problem)
    def problem(request: HttpRequest, raised: Problem) -> HttpResponse:
        return _answer(raised.status, raised.title, raised.detail, raised.errors)

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, raised: Refused) -> HttpResponse:
        rows = [refusal.as_json() for refusal in raised.refusals]
        return _answer(422, "This file is refused", "Nothing of it was taken in.", rows)

    @api.exception_handler(ValidationError)
    def invalid(request: HttpRequest, raised: ValidationError) -> HttpResponse:
        rows = [{"path": _place(tuple(error["loc"])), "text": str(error["msg"])} for error in raised.errors]
        return _answer(422, "Some fields cannot be read", "Look at the fields named here.", rows)

    @api.exception_handler(Http404)
    def absent(request: HttpRequest, raised: Http404) -> HttpResponse:
        return _answer(404, "Not here", "There is nothing of that name that you may see.")

    @api.exception_handler(AuthenticationError)
    def unknown(request: HttpRequest, raised: AuthenticationError) -> HttpResponse:
        return _answer(401, "Sign in first", "Your session has ended, or has not begun.")

    @api.exception_handler(HttpError)
    def other(request: HttpRequest, raised: HttpError) -> HttpResponse:
        return _answer(raised.status_code, str(raised))
