"""What the load log answers with, and what it is sent."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from ninja import Schema
from pydantic import BaseModel, Field

Words = Annotated[str, Field(max_length=80)]
MassText = Annotated[str, Field(max_length=30)]
LoadState = Literal["open", "recording", "stored"]
LoadHow = Literal["hand", "signal", "steady", "imported"]


class LoadChangeView(BaseModel):
    """What of a load was changed after it was kept."""

    field: str
    before: str
    after: str
    who: str
    at: datetime


class LoadView(BaseModel):
    """A load; without a `start` where the log has one that no clock shows."""

    id: UUID
    number: int
    channel: UUID
    state: LoadState
    how: LoadHow
    start: datetime | None
    end: datetime | None
    indicated: str
    operator: str
    destination: str
    material: str
    ticket: str
    moved: bool
    taken_out: str
    job: UUID | None
    changes: list[LoadChangeView]


class LoadTotal(BaseModel):
    """So many loads of one day, destination or material: what was indicated in all, and of how many a ticket came."""

    name: str
    loads: int
    total: str
    tickets: int


class WatchView(BaseModel):
    """The instrument that keeps the log by its live weight, and who let it."""

    link: UUID
    name: str
    by: str
    began_at: datetime


class WatchIn(Schema):
    """Which instrument is to keep the log of a channel."""

    link: UUID
    channel: UUID | None = None


class TakeOutIn(Schema):
    """Why a load is taken out of the log, in words."""

    why: Annotated[str, Field(min_length=1, max_length=200)]


class LoadLog(BaseModel):
    """A page of the log, the latest first, with what it names; `earlier` is the number to go on before."""

    loads: list[LoadView]
    earlier: int | None
    unit: str
    to_compare: int
    watch: WatchView | None


class LoadIn(Schema):
    """A load that begins now."""

    channel: UUID | None = None
    how: Literal["hand", "signal", "steady"] = "hand"
    operator: Words = ""
    destination: Words = ""
    material: Words = ""


class LoadPatch(Schema):
    """What of a load is to be other than it is; what is left out stays."""

    indicated: MassText | None = None
    ticket: MassText | None = None
    operator: Words | None = None
    destination: Words | None = None
    material: Words | None = None
    moved: bool | None = None
    store: bool = False


class BroughtIn(BaseModel):
    """How many loads a file brought in."""

    loads: int


class Begun(BaseModel):
    """The job that was opened."""

    job: UUID


class CompareIn(Schema):
    """The loads to compare; without any, all that have a ticket and were not compared yet."""

    channel: UUID | None = None
    loads: Annotated[list[UUID], Field(max_length=200)] = []
