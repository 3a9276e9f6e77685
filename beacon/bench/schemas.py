"""What the bench's API takes and answers."""

from datetime import datetime
from typing import Any
from uuid import UUID

from pydantic import BaseModel, Field


class EntryIn(BaseModel):
    """One entry; the device chooses its id, so that sending it again is harmless."""

    id: UUID
    path: str = Field(max_length=80)
    text: str = ""
    unit: str = Field("", max_length=12)
    source: str = Field("typed", pattern="^(typed|captured)$")
    steady: bool | None = None
    supersedes: UUID | None = None
    undoes: bool = False
    at: datetime | None = None


class OpenJobIn(BaseModel):
    """`method` is one method, or `visit` for the usual visit of this kind of system."""

    system: UUID
    method: str = "visit"
    channel: UUID | None = None
    occasion: str = Field("routine", pattern="^(routine|first|repair|complaint|season)$")
    inputs: dict[str, str] = {}


class CloseIn(BaseModel):
    """`outcome` is `complete`, `not-confirmed`, `limited`, `out-of-service` or `abandoned`."""

    signed: str = Field(max_length=120)
    outcome: str = Field(pattern="^(complete|not-confirmed|limited|out-of-service|abandoned)$")
    reason: str = Field("", max_length=1000)
    loose_reason: str = Field("", max_length=1000)


class Figure(BaseModel):
    value: float | int | bool | str
    unit: str


class Previous(BaseModel):
    id: UUID
    text: str
    unit: str
    who: str
    at: datetime


class FieldView(BaseModel):
    """What is in force at a path, and what stood there before."""

    id: UUID
    text: str
    unit: str
    who: str
    at: datetime
    source: str
    earlier: int
    previous: Previous | None
    clash: bool
    problem: str | None = None
    question: str | None = None


class RowView(BaseModel):
    """One run for the tally; `net` and `shown` are texts with the decimals that were typed."""

    row: str
    in_set: bool
    net: str | None
    shown: str | None
    error: float | None
    predicted_error: float | None


class ReasonView(BaseModel):
    code: str
    text: str
    path: str | None = None
    run: int | None = None


class CheckView(BaseModel):
    code: str
    state: str
    text: str


class SlipView(BaseModel):
    parameter: str
    entered: str
    likely: str
    predicted_ratio: float
    text: str
    of: str | None = None


class KeyIn(BaseModel):
    """The figure to key in, as text with the decimals that the instrument takes."""

    percent: str
    form: str | None = None
    figure: str | None = None
    factor: str | None = None
    was: str | None = None
    change: str | None = None
    would_read: str | None = None
    rounding: str | None = None


class StageView(BaseModel):
    call: str
    headline: str
    lead: str
    reasons: list[ReasonView]
    results: dict[str, Any]
    slips: list[SlipView]
    key_in: KeyIn | None = None


class AssessmentView(StageView):
    suggestions: list[ReasonView]
    checks: list[CheckView]
    look: list[str]
    plan: list[str]
    as_found: StageView | None = None


class LimitsView(BaseModel):
    """Limits in words, and the accept band in per cent at the load weighed, to draw it."""

    profile: str
    accept: str
    accept_percent: float | None
    repeat: str
    minimum_runs: int
    changed: bool


class LooseEnd(BaseModel):
    key: str
    text: str
    done: bool
    tick: bool


class SystemBrief(BaseModel):
    id: UUID
    name: str
    kind: str
    material: str
    site: str
    time_zone: str
    channel: str
    factor_name: str
    correction: str
    notes: str
    plates: dict[str, str]


class Drawn(Figure):
    """A figure of the drawing, with the text beside it; `si` where the drawing is to scale."""

    text: str = ""
    si: float | None = None


class PartView(BaseModel):
    """One method of the visit; the main one has an empty key."""

    key: str
    method: str
    title: str
    assessment: AssessmentView
    figure: dict[str, Drawn]
    limits: LimitsView


class SectionView(BaseModel):
    """A stretch of the run sheet: a part of the visit, and the steps of it that come here."""

    part: str
    title: str
    steps: list[str]


class JobView(BaseModel):
    """A job as it stands: what is in force, what it comes to, and what is still open."""

    id: UUID
    state: str
    method: str
    practice: bool
    system: SystemBrief
    opened_by: str
    opened_at: datetime
    entries: int
    fields: dict[str, FieldView]
    rows: dict[str, list[RowView]]
    sheet: list[SectionView]
    parts: list[PartView]
    loose_ends: list[LooseEnd]
    complete: bool
    read_back_question: str | None
    may_lead: bool
    record: UUID | None
    closing: dict[str, Any] | None


class RefusedEntry(BaseModel):
    id: UUID
    path: str
    text: str


class KeptView(BaseModel):
    """What became of the entries sent: those kept, those refused and why, and the job as it stands."""

    kept: list[UUID]
    refused: list[RefusedEntry]
    job: JobView


class TrailEntry(BaseModel):
    id: UUID
    sequence: int
    path: str
    text: str
    unit: str
    source: str
    supersedes: UUID | None
    undoes: bool
    who: str
    at: datetime
