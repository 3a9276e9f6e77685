"""The API: one document, from which the web's client is generated."""

from typing import Any

from django.http import Http404, HttpRequest
from ninja import Body, NinjaAPI, Schema
from ninja.security import SessionAuth
from pydantic import Field, ValidationError

from beacon import problems
from beacon.bench.api import router as bench
from beacon.people.api import router as people
from beacon.plant.api import router as plant
from beacon.plant.machine_api import router as machine
from beacon.practice.api import router as practice
from beacon.records.api import router as records
from wary.method import describe_fields
from wary.methods import all_methods
from wary.quantities import FAMILIES, to_si
from wary.sums import SUMS
from wary.typed import as_in_a_file

api = NinjaAPI(title="Wary Beacon", version="1", auth=SessionAuth(csrf=True), docs_url=None)
problems.install(api)
api.add_router("", people)
api.add_router("", plant)
api.add_router("", machine)
api.add_router("", bench)
api.add_router("", practice)
api.add_router("", records)


class TypedText(Schema):
    """A text as it was typed, and the unit of its field for a bare number."""

    text: str = Field(max_length=80)
    unit: str = Field("", max_length=12)


class InputView(Schema):
    """One input: a quantity's kind is its family, `of` the kind of a plain list's elements."""

    key: str
    title: str
    why: str | None
    kind: str
    units: list[str]
    words: list[str]
    fields: list["InputView"]
    of: str | None


class ItemView(Schema):
    key: str
    text: str
    loose_end: str | None


class StepView(Schema):
    key: str
    kind: str
    title: str
    text: str
    items: list[ItemView]
    fields: list[str]
    runs: str | None
    cautions: list[str]


class MethodView(Schema):
    """A method: its inputs, the steps of its run sheet, its drawing."""

    key: str
    title: str
    summary: str
    figure: str
    kinds: list[str]
    profile: str
    inputs: list[InputView]
    steps: list[StepView]


@api.get("methods", response=list[MethodView], tags=["methods"])
def methods(request: HttpRequest) -> list[dict[str, Any]]:
    """Every method: inputs, steps, cautions."""
    return [method.describe() for method in all_methods().values()]


class SumView(Schema):
    """A sum: its inputs, and the method that it can be carried into, if there is one."""

    key: str
    title: str
    group: str
    inputs: list[InputView]
    method: str
    carries: dict[str, str]


class SumLine(Schema):
    title: str
    figure: str
    formula: str


class SumAnswer(Schema):
    lines: list[SumLine]
    problems: dict[str, str]


@api.get("sums", response=list[SumView], tags=["sums"])
def sums(request: HttpRequest) -> list[dict[str, Any]]:
    """Every sum of the sums page."""
    return [one.describe() for one in SUMS.values()]


@api.post("sums/{sum_key}", response=SumAnswer, tags=["sums"])
def work_out(request: HttpRequest, sum_key: str, given: Body[dict[str, TypedText]]) -> dict[str, Any]:
    """Works a sum out from texts as they were typed; what cannot be read is said by its field."""
    if sum_key not in SUMS:
        raise Http404
    one = SUMS[sum_key]
    kinds = {row["key"]: row["kind"] for row in describe_fields(one.inputs)}
    read: dict[str, Any] = {}
    problems: dict[str, str] = {}
    for key, typed in given.items():
        if key in kinds and typed.text.strip():
            found = as_in_a_file(typed.text, kinds[key], typed.unit)
            try:
                read |= {key: getattr(one.inputs.model_validate({key: found}), key)}
            except ValidationError as unread:
                problems[key] = str(unread.errors()[0].get("ctx", {}).get("error", unread.errors()[0]["msg"]))
    lines = one.work(one.inputs.model_construct(**{**dict.fromkeys(kinds), **read}))
    return {"lines": [line.as_json() for line in lines], "problems": problems}


@api.get("units", response=dict[str, dict[str, float]], tags=["methods"])
def units(request: HttpRequest) -> dict[str, dict[str, float]]:
    """The units of each kind of quantity with their size in SI, to echo what was typed."""
    return {family: {unit: to_si(1, unit) for unit in listed} for family, listed in FAMILIES.items()}
