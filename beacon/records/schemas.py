"""What the log, the records and the history answer with."""

from datetime import date, datetime
from typing import Literal
from uuid import UUID

from pydantic import BaseModel, Field

from beacon.bench.done import LastDone
from beacon.plant.schemas import EventView
from wary.job.models import Source
from wary.rules.assessment import Call


class LogRow(LastDone):
    record: UUID
    number: int
    system: UUID
    system_name: str
    site: str
    time_zone: str
    reference: str
    superseded_by: int | None
    supersedes: int | None


class LogPage(BaseModel):
    """A page of records, the latest first; `earlier` is where the next page begins.

    `as_of` is the moment as of which it was read, where that is not now.
    """

    as_of: datetime | None = None
    rows: list[LogRow]
    earlier: str | None


class SealedEntry(BaseModel):
    """One entry of a sealed trail, as it was typed; `where` says in words where it stands, `says` what it means."""

    id: UUID
    path: str
    where: str
    says: str
    text: str
    unit: str
    source: Source
    raw: str = ""
    supersedes: UUID | None
    undoes: bool
    who: str
    at: datetime
    clock_off: int = 0
    """Seconds by which the device's clock was ahead, where `at` was put right by the server's."""


class DoorIn(BaseModel):
    """Until when a link is open, and whether to all certificates of the machine."""

    until: date
    of_machine: bool = False


class DoorView(BaseModel):
    """A link to certificates, and how often it was opened; `link` is said once."""

    id: UUID
    until: date
    of_machine: bool
    over: bool
    made_by: str
    made_at: datetime
    revoked_at: datetime | None
    opened_at: datetime | None
    opened: int
    link: str = ""


class PaperBehind(BaseModel):
    """A certificate behind a link; `fits` is whether its seal does."""

    id: UUID
    number: int
    machine: str
    site: str
    day: date
    outcome: str
    sha256: str
    fits: bool
    put_right_by: int | None


class BehindDoor(BaseModel):
    """What a link opens."""

    organisation: str
    until: date
    records: list[PaperBehind]


class SealedRun(BaseModel):
    """One run of a comparison as it stands on paper; `aside` is why it does not count."""

    number: int
    reference: str
    indicated: str
    error: str
    aside: str


class SealedStage(BaseModel):
    """What was found, or left: its runs, and what they come to."""

    name: str
    call: str
    reasons: list[str]
    rows: list[SealedRun]
    mean: str
    uncertainty: str
    risk: str = ""


class SealedTable(BaseModel):
    """A list as it was typed, laid out as its step lays it out."""

    title: str
    heads: list[str]
    rows: list[list[str]]


class NamedFigure(BaseModel):
    """A figure as it stands on paper, and what it is called."""

    name: str
    text: str


class SealedPart(BaseModel):
    """One part of a sealed visit: what it came to, its figures, and what was keyed in.

    `line` are its figures in short, by name; `figures`, `tables` and `stages` are there for the part that decides.
    `differs` is a sentence where what was read back is not what was worked out.
    """

    title: str
    headline: str
    reasons: list[str]
    differs: str
    line: list[NamedFigure]
    figures: list[NamedFigure]
    tables: list[SealedTable]
    stages: list[SealedStage]
    adjustment: list[NamedFigure]


class SealedSection(BaseModel):
    """A part of the visit in the trail: its title, and which entries are its own."""

    title: str
    entries: list[int]


class SealedPaper(BaseModel):
    """A photograph or PDF that belongs to a sealed job, with the hash of its file."""

    id: UUID
    path: str
    belongs_to: str
    name: str
    kind: str
    size: int
    sha256: str
    who: str
    at: datetime
    on_certificate: bool
    set_aside: str


class OtherRecord(BaseModel):
    """The record that this one puts right, or that puts it right, and why."""

    id: UUID
    number: int
    reason: str


class LateAttachmentView(BaseModel):
    """A paper that came into its job after the seal; `why`, `set_apart_by` and `set_apart_at` once a lead set it apart."""

    id: UUID
    name: str
    who: str
    at: datetime
    why: str
    set_apart_by: str
    set_apart_at: datetime | None


class SealedMachine(BaseModel):
    """What followed for the machine as a whole, where that is more than its parts say."""

    call: str
    reasons: list[str]


class RecordView(LogRow):
    """A sealed record; `fits` says what is wrong with its seal, if anything is."""

    sha256: str
    previous: str
    fits: str | None
    late: list[LateAttachmentView]
    sheets: int
    machine: SealedMachine | None
    parts: list[SealedPart]
    trail: list[SealedEntry]
    sections: list[SealedSection]
    papers: list[SealedPaper]
    puts_right: OtherRecord | None
    put_right_by: OtherRecord | None
    may_put_right: bool


class PutRightIn(BaseModel):
    """Why a sealed record has to be put right, in words, for its record and the one that follows."""

    reason: str = Field(min_length=1, max_length=300)


class BreakView(BaseModel):
    """What does not fit in a chain, and why; `number` is 0 where no record is concerned."""

    number: int
    system: str
    why: str


class SetApartIn(BaseModel):
    """Why a paper that came after the seal is no part of the record, in words."""

    why: str = Field(min_length=1, max_length=300)


class ChainView(BaseModel):
    """The chain of an organisation's records, and when it was last verified; `breaks` says all that did not fit."""

    organisation: str
    records: int
    last_number: int | None
    last_seal: str
    verified_at: datetime | None
    verified_by: str
    verified: int
    breaks: list[BreakView]


class UsedIn(BaseModel):
    """A job that used a reference, and what it decided."""

    job: UUID
    record: UUID | None
    number: int | None
    system: str
    site: str
    time_zone: str
    title: str
    at: datetime
    outcome: str
    by: str
    call: Call | Literal[""]
    call_found: Call | Literal[""]
    down: bool
    provisional: bool
    factor_before: str
    factor_after: str
    put_right: bool


class HistoryPoint(BaseModel):
    """One closed job on the chart; errors in per cent."""

    closed_at: datetime
    error_found: float | None
    error_left: float | None
    factor_after: str
    zero: str
    zero_figure: float | None


class VisitRow(BaseModel):
    """One closed job in the table of a history; errors and uncertainties in per cent, with the methods that made them."""

    record: UUID | None
    number: int | None
    closed_at: datetime
    title: str
    outcome: str
    closed_by: str
    error_found: float | None
    error_left: float | None
    uncertainty_found: float | None
    uncertainty_left: float | None
    found_by: str
    left_by: str
    factor_before: str
    factor_after: str
    zero: str
    reference: str


class DriftView(BaseModel):
    """Drift in per cent a month with its 95 % interval, and when the limit would be left."""

    rate: float
    low: float
    high: float
    leaves_on: date | None
    hint: str
    fits_days: int | None


class ToleranceView(BaseModel):
    """How far a machine may be off, in per cent: below, which is negative, and above."""

    low: float
    high: float


class FaultFound(BaseModel):
    """A fault that a visit found, and whether it was put right in it."""

    id: UUID
    at: datetime
    title: str
    put_right: bool


class HistoryView(BaseModel):
    """How a channel has behaved; of many visits the chart draws the ones that were furthest off."""

    channel: UUID
    channel_name: str
    system_name: str
    tolerance: ToleranceView | None
    faults: list[FaultFound]
    visits: int
    points: list[HistoryPoint]
    events: list[EventView]
    drift: DriftView | None
    intervals: int
