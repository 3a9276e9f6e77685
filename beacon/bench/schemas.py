"""What the bench's API takes and answers, beside what the job itself shows (`wary.job.view`)."""

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import BaseModel, Field, ValidationError, ValidatorFunctionWrapHandler, WrapValidator

from beacon.links.schemas import LinkOfJob
from beacon.validation import Instant
from wary.clean import fit, unfit
from wary.job.closing import Outcome
from wary.job.device import MOST_ENTRIES
from wary.job.models import Bench, Changes, Layout, Source
from wary.rules.assessment import Call
from wary.rules.forms import Form

JobState = Literal["open", "as-found", "adjusting", "as-left", "closed", "abandoned"]
OccasionWord = Literal["routine", "first", "repair", "complaint", "season"]
VISIT = "visit"
"""What is asked for where a job is to be the usual visit of its kind of machine."""


CLOCK_MOST = 2_000_000_000
"""The most seconds that a device's clock may be off: some sixty years."""


class EntryIn(BaseModel):
    """One entry; the device chooses its id, so that sending it again is harmless."""

    id: UUID
    path: str = Field(max_length=120)
    text: str = ""
    unit: str = Field("", max_length=12)
    source: Literal["typed", "captured"] = "typed"
    steady: bool | None = None
    raw: str = Field("", max_length=200)
    supersedes: UUID | None = None
    undoes: bool = False
    at: Instant | None = None
    clock_off: int | None = Field(None, ge=-CLOCK_MOST, le=CLOCK_MOST)


class LeftBehindKept(BaseModel):
    """How many entries of somebody are kept beside a job, for a lead to look at."""

    left: int


class LeftBehindSeen(BaseModel):
    """In which job, and of whom."""

    job: UUID
    person: int


@dataclass(frozen=True)
class Unread:
    """An entry of a batch that cannot be read: what it says of itself, and why not."""

    id: str
    path: str
    text: str


def _by_itself(found: Any, read: ValidatorFunctionWrapHandler) -> EntryIn | Unread:
    """Reads one entry of a batch; one that cannot be read says so, and leaves the others alone."""
    said = found if isinstance(found, dict) else {}
    words = {key: text if isinstance(text := said.get(key), str) and fit(text) else "" for key in ("id", "path")}
    wrong = next((text for _, text in unfit(found)), "")
    if not wrong:
        try:
            entry: EntryIn = read(found)
            return entry
        except ValidationError as unread:
            first = unread.errors()[0]
            wrong = f"{'.'.join(str(one) for one in first['loc'])}: {first['msg']}".lstrip(": ")
    return Unread(words["id"][:36], words["path"][:120], f"This entry cannot be read: {wrong}.")


EntrySent = Annotated[EntryIn, WrapValidator(_by_itself)]
"""An entry of a batch as it was sent; what cannot be read comes as `Unread` in its place."""


class OpenJobIn(BaseModel):
    """`method` is one method, or `visit` for the usual visit of this kind of system.

    A device that opened it without signal says under which id, and when.
    """

    id: UUID | None = None
    at: Instant | None = None
    system: UUID
    method: str = VISIT
    channel: UUID | None = None
    occasion: OccasionWord = "routine"
    inputs: dict[str, str] = {}


class Expected(BaseModel):
    """What a device showed when a job was closed on it: its entries, and the call with its headline and reasons' codes."""

    entries: int = Field(ge=0)
    call: Call
    headline: str = Field(max_length=200)
    reasons: list[Annotated[str, Field(max_length=60)]] | None = Field(None, max_length=200)


class CloseIn(BaseModel):
    """How a job is to be closed; `suspect` (one of the machine's, where it is one), `fault` and `told` where it is left for repair.

    Where it was closed on a device without signal, `expected` is what that showed, and `at` when it was.
    """

    expected: Expected | None = None
    at: Instant | None = None

    signed: str = Field(max_length=120)
    outcome: Outcome
    reason: str = Field("", max_length=1000)
    loose_reason: str = Field("", max_length=1000)
    fault: str = Field("", max_length=1000)
    told: str = Field("", max_length=120)
    suspect: str = Field("", max_length=40)


class ClosingView(BaseModel):
    """How a job was closed, by whom."""

    outcome: Outcome
    words: str
    reason: str = ""
    fault: str = ""
    told: str = ""
    loose_ends: list[str] = []
    loose_reason: str = ""
    signed: str = ""
    closed_by: str = ""
    closed_at: str = ""
    opened_by: str = ""
    opened_at: str = ""


class SystemBrief(BaseModel):
    """The machine of a job; `usual_mass` is the unit in which its loads are spoken of, `stand_in` what behaves like one."""

    id: UUID
    name: str
    kind_name: str
    material: str
    site: str
    time_zone: str
    channel: str
    factor_name: str
    correction: Form
    notes: str
    profile: str
    usual_mass: str


class JobHead(BaseModel):
    """What is said of a job before what is on its bench."""

    id: UUID
    state: JobState
    method: str
    occasion_words: str
    practice: bool
    links: list[LinkOfJob]
    entries: int


class RememberedView(BaseModel):
    """The places that the visit before filled, and when that was."""

    on: datetime
    paths: list[str]


class JobView(Bench, Layout, JobHead):
    """A job as it stands, with the methods that its bench is laid out from."""

    system: SystemBrief
    remembered: RememberedView | None
    opened_by: str
    opened_at: datetime
    may_lead: bool
    record: UUID | None
    closing: ClosingView | None


class RefusedEntry(BaseModel):
    """An entry that is not kept, and why; `id` as it was sent."""

    id: str
    path: str
    text: str


class LogEntry(BaseModel):
    """An entry as a device takes it into its own log."""

    id: UUID
    sequence: int
    path: str
    text: str
    unit: str
    source: Source
    steady: bool | None
    supersedes: UUID | None
    undoes: bool
    who: str
    at: datetime


class ChangedView(BaseModel):
    """A job after some entries: how many it has, its state, and what is other than before.

    `log` is there where it was asked for: the entries that are new, but for those sent with the question.
    """

    entries: int
    state: JobState
    changes: Changes | None
    log: list[LogEntry] | None = None


class DifferenceIn(BaseModel):
    """What the core on a device said otherwise of a job after so many entries."""

    job: UUID
    entries: int = Field(ge=0, le=MOST_ENTRIES)
    said: str = Field(max_length=2000)


class SlowIn(BaseModel):
    """Why the core on a device could not go on from its snapshot."""

    why: str = Field(max_length=300)


class OpeningAtHand(BaseModel):
    """A visit or a method as it would be opened now on a channel: what is entered first, and the head of its bench.

    `document` is for the core alone: JSON of its subject, its visit and the references that may be named.
    """

    channel: UUID
    method: str
    title: str
    document: str
    first: list[tuple[str, str, Source]]
    remembered: RememberedView | None
    head: JobHead
    brief: SystemBrief


class SystemAtHand(BaseModel):
    """What a device takes along of a system, to begin there without signal."""

    system: UUID
    may_lead: bool
    openings: list[OpeningAtHand]


class JobAtHand(BaseModel):
    """What a device needs to go on with a job by itself: the log, and `document` for the core alone (JSON)."""

    job: UUID
    entries: int
    time_zone: str
    document: str
    log: list[LogEntry] | None


class KeptView(ChangedView):
    """What became of the entries sent: those kept, those refused and why, and what changed."""

    kept: list[UUID]
    refused: list[RefusedEntry]


class TrailEntry(BaseModel):
    id: UUID
    sequence: int
    path: str
    text: str
    unit: str
    source: Source
    raw: str
    supersedes: UUID | None
    undoes: bool
    who: str
    own: bool
    at: datetime


class OpenJob(BaseModel):
    """A job that is under way, in a line."""

    id: UUID
    method: str
    title: str
    state: JobState
    not_valid: bool
    call: Call | Literal[""]
    headline: str
    down: bool
    opened_at: datetime
    opened_by: str


def changed_fields(answer: dict[str, Any]) -> dict[str, Any]:
    """An answer without what is not said."""
    return {key: found for key, found in answer.items() if found is not None}
