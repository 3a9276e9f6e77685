"""What the plant's API takes and answers."""

from datetime import date, datetime
from typing import Any
from uuid import UUID

from pydantic import BaseModel, Field


class SiteView(BaseModel):
    id: UUID
    name: str
    time_zone: str


class OpenJob(BaseModel):
    id: UUID
    method: str
    title: str
    state: str
    call: str
    headline: str
    opened_at: datetime
    opened_by: str


class LastDone(BaseModel):
    """What the last closed job came to; `error` and `uncertainty` in per cent."""

    job: UUID
    record: UUID | None
    method: str
    title: str
    call: str
    outcome: str
    closed_at: datetime
    closed_by: str
    error: float | None
    uncertainty: float | None
    factor_before: str
    factor_after: str


class SystemRow(BaseModel):
    """A system on the round: what is open, what was done last, when it is due."""

    id: UUID
    name: str
    kind: str
    kind_name: str
    material: str
    site: SiteView
    state: str
    state_words: str
    stale: list[str]
    due: date | None
    due_words: str
    is_due: bool
    accept_percent: float | None
    open_jobs: list[OpenJob]
    last: LastDone | None
    begin_with: str
    why: str
    bring: list[str]


class RoundView(BaseModel):
    sites: list[SiteView]
    systems: list[SystemRow]


class ChannelView(BaseModel):
    id: UUID
    name: str
    factor: str
    test_weight_factor: str


class PlateField(BaseModel):
    """A plate that a system of this kind can have."""

    key: str
    title: str
    kind: str
    units: list[str]


class ChangeView(BaseModel):
    field: str
    before: str
    after: str
    who: str
    at: datetime


class MethodBrief(BaseModel):
    key: str
    title: str
    summary: str


class SystemView(SystemRow):
    serial: str
    notes: str
    plates: dict[str, Any]
    plate_fields: list[PlateField]
    channels: list[ChannelView]
    profile: str
    profile_title: str
    limits: str
    reference: UUID | None
    correction: str
    factor_name: str
    factor_decimals: int
    direction: str
    nominal_factor: str
    interval_days: int
    methods: list[MethodBrief]
    visit: list[str]
    instrument: UUID | None
    jobs: list[LastDone]
    changes: list[ChangeView]


class SystemIn(BaseModel):
    """A system's record; what is left out stays as it is."""

    name: str | None = Field(None, min_length=1, max_length=120)
    material: str | None = Field(None, max_length=120)
    serial: str | None = Field(None, max_length=80)
    notes: str | None = Field(None, max_length=4000)
    plates: dict[str, str | float | int] | None = None
    reference: UUID | None = None
    profile: str | None = None
    correction: str | None = Field(None, pattern="^(factor|percent|reading|steps)$")
    factor: str | None = Field(None, max_length=30)
    factor_name: str | None = Field(None, min_length=1, max_length=40)
    factor_decimals: int | None = Field(None, ge=0, le=12)
    direction: str | None = Field(None, pattern="^(multiplies|divides)$")
    nominal_factor: str | None = Field(None, max_length=30)
    interval_days: int | None = Field(None, ge=1, le=3650)
    instrument: UUID | None = None


class NewSystem(SystemIn):
    """A new system; `channels` names what is calibrated by itself, one where nothing is said."""

    site: UUID
    kind: str = "belt"
    channels: list[str] = []


class ReferenceView(BaseModel):
    id: UUID
    kind: str
    name: str
    division: str
    range: str
    uncertainty: str
    certificate: str
    nominal: str
    tare: str
    lent_by: str
    due: date | None
    checked_by: str
    overdue: bool
    due_words: str
    shows: str


class ReferenceIn(BaseModel):
    kind: str = Field("scale", pattern="^(scale|weights|container)$")
    name: str = Field(min_length=1, max_length=120)
    division: str = Field("", max_length=20)
    range: str = Field("", max_length=20)
    uncertainty: str = Field("", max_length=20)
    nominal: str = Field("", max_length=20)
    tare: str = Field("", max_length=20)
    certificate: str = Field("", max_length=80)
    due: date | None = None
    checked_by: str = Field("", max_length=120)
    lent_by: str = Field("", max_length=120)


class UsedIn(BaseModel):
    """A job that used a reference."""

    job: UUID
    record: UUID | None
    system: str
    title: str
    at: datetime
    outcome: str


class ProfileView(BaseModel):
    key: str
    title: str
    accept: Any
    accept_words: str
    repeat: str
    minimum_runs: int
    plausible: str


class ProfileIn(BaseModel):
    accept: Any = None
    repeat: str = Field("", max_length=20)
    minimum_runs: int = Field(ge=1, le=100)
    plausible: str = Field(max_length=20)
