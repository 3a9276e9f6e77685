"""The library's endpoints, kept as all others are: to the person whom the page means, and to this site's own pages."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from beacon.accounts.codes import may_try_a_code
from beacon.problems import Problem, answer
from beacon.validation import CleanParser

AT = "/api/account/"
"""Where they stand."""


def own_session(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Refuses what a page means for somebody who is not signed in here any more, and text that cannot be kept.

    Another may have signed in meanwhile, in the same browser.
    """

    def respond(request: HttpRequest) -> HttpResponse:
        if not request.path.startswith(AT):
            return get_response(request)
        meant = request.headers.get("X-Person")
        if meant and request.user.is_authenticated and str(request.user.pk) != meant:
            return answer(Problem(401, "Sign in first", "Somebody else is signed in in this browser now."))
        if request.body:
            try:
                CleanParser().parse_body(request)
            except Problem as unfit:
                return answer(unfit)
        try:
            may_try_a_code(request)
        except Problem as waits:
            return answer(waits)
        return get_response(request)

    return respond
