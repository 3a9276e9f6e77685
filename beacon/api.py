"""The API: one document, from which the web's client is generated."""

from typing import Any

from django.http import HttpRequest
from ninja import NinjaAPI, Schema
from ninja.security import SessionAuth

from beacon import problems
from beacon.bench.api import router as bench
from beacon.people.api import router as people
from beacon.plant.api import router as plant
from beacon.records.api import router as records
from wary.methods import all_methods
from wary.quantities import FAMILIES, to_si

api = NinjaAPI(title="Wary Beacon", version="1", auth=SessionAuth(csrf=True), docs_url=None)
problems.install(api)
api.add_router("", people)
api.add_router("", plant)
api.add_router("", bench)
api.add_router("", records)


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


@api.get("units", response=dict[str, dict[str, float]], tags=["methods"])
def units(request: HttpRequest) -> dict[str, dict[str, float]]:
    """The units of each kind of quantity with their size in SI, to echo what was typed."""
    return {family: {unit: to_si(1, unit) for unit in listed} for family, listed in FAMILIES.items()}
