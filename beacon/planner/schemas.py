"""What the round, the page of a system and the calendar answer with."""

from datetime import date, datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from beacon.bench.done import LastDone
from beacon.bench.schemas import OpenJob
from beacon.plant.schemas import SiteView
from beacon.validation import Day, Instant
from wary.job.closing import MachineState
from wary.rules.assessment import Call
from wary.rules.due import CounterKind, IntervalKind, Urgency


class DueView(BaseModel):
    """One interval as it stands; `on` is the day, known or expected."""

    kind: IntervalKind
    urgency: Urgency
    words: str
    on: date | None
    expected: bool


class ZeroView(BaseModel):
    """The zero checks of a system between visits: when the next is wanted, and what the last showed."""

    urgency: Urgency
    words: str
    on: date | None
    band: str
    unit: str
    last: str
    holds: bool | None
    at: datetime | None


class PlannedView(BaseModel):
    day: date
    username: str
    name: str
    note: str


class BringingView(BaseModel):
    """What a visit takes: the usual reference and why it does not suit, others that do, material, people."""

    reference: str
    least: str
    why_not: str
    others: list[str]
    material: str
    tonnes: float
    minutes: float
    people: int


class SystemRow(BaseModel):
    """A system on the round: what is open, what was done last, when it is due."""

    id: UUID
    name: str
    kind: str
    kind_name: str
    material: str
    site: SiteView
    state: MachineState
    state_words: str
    not_tested: bool
    stale: list[str]
    due: date | None
    due_words: str
    urgency: Urgency
    is_due: bool
    accept_percent: float | None
    open_jobs: list[OpenJob]
    last: LastDone | None
    begin_with: Literal["visit"]
    why: str
    zero: ZeroView | None
    planned: PlannedView | None
    bring: BringingView | None


class StateWords(BaseModel):
    """A state of a machine, in words."""

    state: str
    words: str


class RoundView(BaseModel):
    """The sites in the order in which this person drives, with a page of their systems, those that are wanted now first.

    `wanted` and `total` count all of them, `places` the sites with something wanted; the next page begins
    after `later`, where there is one.
    """

    sites: list[SiteView]
    states: list[StateWords]
    systems: list[SystemRow]
    wanted: int
    places: int
    total: int
    later: int | None


class SystemName(BaseModel):
    """A system to choose from, and its first channel."""

    id: UUID
    name: str
    kind: str
    material: str
    site: str
    not_tested: bool
    channel: UUID | None


Every = Annotated[float, Field(gt=0, le=1e9, allow_inf_nan=False)]


class IntervalIn(BaseModel):
    """An interval: `every` so many, or a season's day as MM-DD; of a zero check also its band, such as `2 kg`."""

    kind: IntervalKind
    every: Every | None = None
    season: str = Field("", max_length=5)
    band: str = Field("", max_length=20)


class IntervalsIn(BaseModel):
    """The intervals of a system, all of them, and why they are changed."""

    calibration: list[IntervalIn] = Field(max_length=6)
    zero: list[IntervalIn] = Field([], max_length=1)
    why: str = Field(max_length=200)


class CounterIn(BaseModel):
    """What a counter shows now; `anew` where it was replaced or began again."""

    kind: CounterKind
    figure: float = Field(ge=0, le=1e12, allow_inf_nan=False)
    anew: bool = False


class ZeroCheckIn(BaseModel):
    """What the machine shows with nothing on it, as it is typed; the device chooses the id."""

    id: UUID
    text: str = Field(min_length=1, max_length=40)
    unit: str = Field("", max_length=12)
    at: Instant | None = None


class PlanIn(BaseModel):
    day: Day
    username: str = Field("", max_length=150)
    note: str = Field("", max_length=200)


class OrderIn(BaseModel):
    """The sites in the order of driving."""

    sites: list[UUID] = Field(max_length=2000)


class CalendarItem(BaseModel):
    """One thing on a day of the calendar."""

    kind: Literal["due", "planned", "zero", "reference"]
    system: UUID | None
    name: str
    site: str
    words: str
    urgency: Urgency
    expected: bool


class CalendarDay(BaseModel):
    day: date
    items: list[CalendarItem]


class CalendarView(BaseModel):
    """A month; `late` is what should have been done before it, `daily` how many zeros are looked at every day."""

    month: str
    days: list[CalendarDay]
    late: list[CalendarItem]
    daily: int


class FeedView(BaseModel):
    """A calendar under a secret link; `link` is shown once, when it is made."""

    id: UUID
    organisation: str
    made_at: datetime
    revoked_at: datetime | None
    asked_at: datetime | None
    link: str = ""


class ToWriteUp(BaseModel):
    """An open job; `ready`: its call says that the machine may be left alone."""

    job: UUID
    system: str
    site: str
    time_zone: str
    title: str
    headline: str
    call: Call | Literal[""]
    down: bool
    opened_at: datetime
    opened_by: str
    mine: bool
    ready: bool


class DoneInWeek(BaseModel):
    """A job that was closed in a week."""

    record: UUID | None
    number: int | None
    system: UUID
    name: str
    site: str
    title: str
    outcome: str
    closed_at: datetime
    by: str


class SystemInWeek(BaseModel):
    """A machine that wants something, and since when."""

    system: UUID
    name: str
    site: str
    state_words: str
    due: date | None


class FaultInWeek(BaseModel):
    """A fault that was found in a week."""

    system: UUID
    name: str
    site: str
    title: str
    put_right: bool
    at: datetime


class ReferenceInWeek(BaseModel):
    """A reference that runs out within a month, or has."""

    id: UUID
    name: str
    due: date
    overdue: bool


class LeftEntry(BaseModel):
    """What somebody typed on a device after they could no longer work on a job, in words."""

    where: str
    says: str
    at: datetime


class LeftInWeek(BaseModel):
    """What of one person waits beside a job for a lead to look at."""

    job: UUID
    record: UUID | None
    name: str
    site: str
    person: int
    by: str
    at: datetime
    entries: list[LeftEntry]


class WeekView(BaseModel):
    """A week of an organisation: done and found in it; overdue, provisional and running out as of now."""

    monday: date
    done: list[DoneInWeek]
    done_count: int
    overdue: list[SystemInWeek]
    overdue_count: int
    provisional: list[SystemInWeek]
    faults: list[FaultInWeek]
    references: list[ReferenceInWeek]
    left_behind: list[LeftInWeek]


class DueDate(BaseModel):
    """When a system is due, whether it is out of order, and its last record; also for those who only read."""

    system: UUID
    name: str
    site: str
    site_id: UUID
    out: bool
    record: UUID | None
    done_on: datetime | None
    due: date | None
    words: str
    urgency: Urgency
    state_words: str


class ColleagueView(BaseModel):
    username: str
    name: str
