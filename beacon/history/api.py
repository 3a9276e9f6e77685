"""The log of closed jobs and the history of a channel over HTTP, and both as tables to take away."""

from typing import Annotated
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router

from beacon import tables
from beacon.database.apart import apart
from beacon.downloads import as_file
from beacon.history.faults import FaultsView, what_fails
from beacon.history.history import as_csv, as_xlsx, history, visits_table
from beacon.history.log import COLUMNS, Sought, page, sought, to_take_away
from beacon.people.access import person
from beacon.people.rate_limit import limited
from beacon.plant.view import Answer
from beacon.records import schemas
from beacon.records.access import channel_of
from beacon.validation import Instant

router = Router(tags=["history"])
PAGE = 30
TRACED = 100
BYTES = {200: bytes}


@router.get("log", response=schemas.LogPage)
@apart
def log(request: HttpRequest, asked: Annotated[Sought, Query()], before: str = "") -> Answer:
    """The log, the latest first; `find` looks in the names of systems, materials, sites, kinds and people."""
    return page(sought(person(request), asked), before, PAGE)


@router.get("log.csv", response=BYTES)
@limited("tables to take away")
@apart
def log_csv(request: HttpRequest, asked: Annotated[Sought, Query()]) -> HttpResponse:
    """What is looked for in the log, as CSV."""
    rows = to_take_away(sought(person(request), asked))
    return as_file(tables.as_csv([title for _, title in COLUMNS], rows), tables.CSV, "log.csv")


@router.get("log.xlsx", response=BYTES)
@limited("tables to take away")
@apart
def log_xlsx(request: HttpRequest, asked: Annotated[Sought, Query()]) -> HttpResponse:
    """What is looked for in the log, as a workbook."""
    rows = to_take_away(sought(person(request), asked))
    return as_file(tables.as_xlsx("Log", [title for _, title in COLUMNS], rows), tables.XLSX, "log.xlsx")


@router.get("faults", response=FaultsView)
@apart
def faults(request: HttpRequest, months: Annotated[int, Query(ge=1, le=120)] = 24) -> Answer:
    """What was found wrong with machines, what fails most first: by kind of machine, over the last so many months."""
    return what_fails(person(request), months)


@router.get("channels/{channel_id}/history", response=schemas.HistoryView)
@apart
def one_history(request: HttpRequest, channel_id: UUID) -> Answer:
    """The history of a channel: points, events, drift."""
    channel = channel_of(request, channel_id)
    return history(channel.system, channel)


@router.get("channels/{channel_id}/visits", response=list[schemas.VisitRow])
@apart
def visits(request: HttpRequest, channel_id: UUID, before: Instant | None = None) -> list[Answer]:
    """The visits of a channel as a table, a hundred at a time, the latest first."""
    return visits_table(channel_of(request, channel_id), before, TRACED)


@router.get("channels/{channel_id}/history.csv", response=BYTES)
@limited("tables to take away")
@apart
def history_csv(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The history's table as CSV."""
    return as_file(as_csv(channel_of(request, channel_id)), tables.CSV, "history.csv")


@router.get("channels/{channel_id}/history.xlsx", response=BYTES)
@limited("tables to take away")
@apart
def history_xlsx(request: HttpRequest, channel_id: UUID) -> HttpResponse:
    """The history's table as a workbook."""
    return as_file(as_xlsx(channel_of(request, channel_id)), tables.XLSX, "history.xlsx")
