"""The API: one document, from which the web's client is generated."""

import asyncio
import hashlib
import json
import threading
from functools import lru_cache
from typing import Annotated, Any, Literal

from django.db import connection
from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.http import condition
from ninja import Body, NinjaAPI, Schema
from ninja.responses import NinjaJSONEncoder
from ninja.security import SessionAuth
from pydantic import Field

from beacon import problems
from beacon.accounts.api import router as accounts
from beacon.accounts.houses import opens_too_much
from beacon.archive.api import router as archive
from beacon.attachments.api import router as papers
from beacon.bench.api import router as bench
from beacon.database.clock import said_of_the_clock
from beacon.history.api import router as history
from beacon.history.record_api import router as record_page
from beacon.links.api import router as links
from beacon.loads.api import router as loads
from beacon.mail.api import router as mail
from beacon.people.api import router as people
from beacon.people.invitations_api import router as invitations
from beacon.people.models import Organisation, Person
from beacon.planner.api import router as planner
from beacon.plant.api import router as plant
from beacon.plant.channels_api import router as channels
from beacon.plant.machine_api import router as machine
from beacon.plant.references_api import router as references
from beacon.practice.api import router as practice
from beacon.practice.learning_api import router as learning
from beacon.printing.api import router as paper
from beacon.printing.doors import router as doors
from beacon.programs.api import router as programs
from beacon.programs.tokens import ByToken, scopes_of
from beacon.records.api import router as records
from beacon.setting_up.api import router as setting_up
from beacon.system.api import router as system
from beacon.validation import CleanParser
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.method import MethodView
from wary.quantities import sizes
from wary.sums import SUMS
from wary.sums.sum import Answer, SumView

ANSWERS = {
    400: "What was sent cannot be read",
    401: "Nobody is signed in",
    403: "The request does not carry its token",
    404: "There is nothing of that name that this person may see",
    405: "This cannot be done there",
    409: "It is not as the request takes it to be",
    413: "More than is taken at once",
    422: "Some fields cannot be read or kept; each by its path",
    429: "Too often; try again later",
    500: "A fault of the server's own; it was noted",
    503: "The database is away for a moment; try again",
    507: "There is no room on the server; try again later",
}
"""What any endpoint may answer beside what it says itself, each a problem document."""


BEFORE_A_FACTOR = {"/api/me", "/api/sessions", "/api/sign-out", "/api/sign-out-everywhere", "/api/me/password"}
"""What answers who has yet to set up a second factor."""


class OwnSession(SessionAuth):
    """A session of the person whom the page means: another's, begun in the same browser meanwhile, is none.

    A page names whom it takes to be signed in by the header `X-Person`, so that nothing that one person
    typed is ever sent as another's.
    """

    def authenticate(self, request: HttpRequest, key: str | None) -> Any:
        """Who is signed in; nobody where the page means somebody else."""
        user = super().authenticate(request, key)
        meant = request.headers.get("X-Person")
        if user is None or meant and meant != str(user.pk):
            return None
        if isinstance(user, Person) and opens_too_much(request, user):
            request.session.flush()
            return None
        if getattr(user, "owes_factor", False) and request.path not in BEFORE_A_FACTOR:
            raise problems.Problem(403, "A second factor first", "Your organisation asks for one: set it up, and go on.")  # fmt: skip
        return user


class DocumentedAPI(NinjaAPI):
    """An API whose document says of every endpoint what it may refuse."""

    def get_openapi_schema(self, **given: Any) -> Any:
        """The OpenAPI document, with the answers that every endpoint may give."""
        document = super().get_openapi_schema(**given)
        problem = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/ProblemDocument"}}}
        for path, methods in document["paths"].items():
            for method, operation in methods.items():
                scopes = scopes_of(method.upper(), path.removeprefix("/api/"))
                if scopes:
                    operation["x-scopes"] = scopes
                for status, words in ANSWERS.items():
                    operation["responses"].setdefault(status, {"description": words, "content": problem})
        return document


api = DocumentedAPI(
    title="Wary Beacon",
    version="1",
    auth=[ByToken(), OwnSession(csrf=True)],
    docs_url=None,
    openapi_url=None,
    parser=CleanParser(),
)
problems.install(api)
for router in (
    people,
    invitations,
    accounts,
    plant,
    references,
    machine,
    channels,
    links,
    bench,
    papers,
    records,
    history,
    record_page,
    paper,
    loads,
    planner,
    system,
    setting_up,
    practice,
    learning,
    programs,
    doors,
    mail,
    archive,
):
    api.add_router("", router)

# What is known of methods and machines is known when the program starts, or it does not start.
for _machine in all_machines().values():
    _machine.methods()
len(all_methods())

_MAKING = threading.Lock()


@lru_cache(maxsize=1)
def _document_made() -> tuple[bytes, str]:
    body = json.dumps(api.get_openapi_schema(), cls=NinjaJSONEncoder).encode()
    return body, f'"{hashlib.sha256(body).hexdigest()[:32]}"'


def _document() -> tuple[bytes, str]:
    """The OpenAPI document and its tag: it takes seconds to make, and is made once for all who ask."""
    with _MAKING:
        return _document_made()


@condition(etag_func=lambda request: _document()[1])
def document(request: HttpRequest) -> HttpResponse:
    """The OpenAPI document; whoever has it is told that it is still the same."""
    answer = HttpResponse(_document()[0], content_type="application/json")
    answer["Cache-Control"] = "no-cache"
    return answer


class TypedText(Schema):
    """A text as it was typed, and the unit of its field for a bare number."""

    text: Annotated[str, Field(max_length=80)]
    unit: Annotated[str, Field(max_length=12)] = ""


class Ready(Schema):
    """That the server answers and reaches its database."""

    ready: Literal[True] = True


class Alive(Schema):
    """That the process answers, whatever stands behind it."""

    alive: Literal[True] = True


@api.get("alive", response=Alive, auth=None, tags=["server"])
async def alive(request: HttpRequest) -> Alive:
    """Answers as long as the process does; asks nothing of the database."""
    return Alive()


@api.get("ready", response={200: Ready, 503: problems.ProblemDocument}, auth=None, tags=["server"])
async def ready(request: HttpRequest) -> Ready:
    """Answers once the server and its database do, and their clocks agree; within a second, whether they do or not."""
    try:
        wrong = await asyncio.wait_for(asyncio.to_thread(_reached), READY_WITHIN)
    except (TimeoutError, *problems.AWAY):
        raise problems.Problem(503, "The database is away for a moment", "It is tried again by itself.") from None
    if wrong:
        raise problems.Problem(503, "The clock is off", wrong)
    return Ready()


READY_WITHIN = 0.8
"""So long the database is waited for where it is asked whether it is there, s."""


def _reached() -> str:
    """What is wrong with the clock, once the database answered.

    Its thread has a connection of its own, and gives it back.
    """
    try:
        Organisation.objects.exists()
        return said_of_the_clock()
    finally:
        connection.close()


@api.get("methods", response=list[MethodView], tags=["methods"])
def methods(request: HttpRequest) -> list[MethodView]:
    """Every method: inputs, steps, cautions."""
    return [method.describe() for method in all_methods().values()]


@api.get("sums", response=list[SumView], tags=["sums"])
def sums(request: HttpRequest) -> list[SumView]:
    """Every sum of the sums page."""
    return [one.describe() for one in SUMS.values()]


@api.post("sums/{sum_key}", response=Answer, tags=["sums"])
def work_out(
    request: HttpRequest, sum_key: str, given: Body[Annotated[dict[str, TypedText], Field(max_length=60)]]
) -> Answer:
    """Works a sum out from texts as they were typed; what cannot be read is said by its field."""
    if sum_key not in SUMS:
        raise Http404
    return SUMS[sum_key].work_out({key: (typed.text, typed.unit) for key, typed in given.items()})


@api.get("units", response=dict[str, dict[str, float]], tags=["methods"])
def units(request: HttpRequest) -> dict[str, dict[str, float]]:
    """The units of each kind of quantity with their size in SI, to echo what was typed."""
    return sizes()
