"""What the practice API takes and answers."""

import datetime
from typing import Annotated, Literal
from uuid import UUID

from ninja import Schema
from pydantic import BaseModel, Field

from beacon.bench.schemas import OpeningAtHand
from beacon.validation import Day, Instant
from wary.acts import Doing
from wary.job.story import StoryRow
from wary.practising import MOST_ACTIONS, SEEDS
from wary.simulators.score import Decision
from wary.simulators.stand_in import Control, Level, Right, Scale, Shape, Spot

LevelAsked = Literal["", "easy", "fair", "hard"]


class ActIn(BaseModel):
    """Something done to the stand-in now; `skip` jumps so many seconds."""

    what: str = Field(max_length=40)
    figure: float = Field(0.0, ge=-1e6, le=1e6, allow_inf_nan=False)


class PracticeAtHand(BaseModel):
    """A kind of machine as a practice on it would be opened now."""

    kind: str
    opening: OpeningAtHand


class ActionIn(BaseModel):
    """Something that was done to a stand-in on a device, at its own time (s)."""

    at: float = Field(ge=0, le=1e7, allow_inf_nan=False)
    what: str = Field(max_length=40)
    figure: float = Field(0.0, ge=-1e6, le=1e6, allow_inf_nan=False)


class PracticeSent(BaseModel):
    """The hidden state of a practice that was begun on a device, and what was done to its stand-in; `skipped` in s."""

    kind: str = Field(max_length=30)
    seed: int = Field(ge=0, lt=SEEDS)
    fault: str = Field(max_length=20)
    level: LevelAsked
    skipped: float = Field(ge=0, le=1e7, allow_inf_nan=False)
    actions: list[ActionIn] = Field(max_length=MOST_ACTIONS)


class PracticeBrought(BaseModel):
    """A practice as a device brings it: its job's id, when it began, and the practice itself."""

    id: UUID
    at: Instant
    practice: PracticeSent


class StandInView(BaseModel):
    """What a stand-in tells of itself: its controls, its outside scales, and with what words it was handed over.

    `doing` says which of its actions an act is, `mends` after which looks something is mended. `spots` says where
    on its drawing of this `shape` each control is touched.
    """

    controls: list[Control]
    scales: list[Scale]
    shape: Shape
    spots: dict[str, Spot]
    doing: dict[Doing, list[str]]
    mends: dict[str, list[str]]
    handed_over: str
    level: LevelAsked
    minutes: int


class SeenView(BaseModel):
    """What was seen at a look, in a few words, and whether something is wrong there."""

    result: Literal["fine", "not-fine"]
    text: str


class JudgedView(BaseModel):
    """One decision: what it is called, whether it was right, and why."""

    decision: Decision
    title: str
    right: bool
    text: str


class TruthView(BaseModel):
    """What was true of a stand-in, how what was done stands beside it, and when it could have been known."""

    job: UUID
    system: str
    kind: str
    seed: int
    level: LevelAsked
    fault: str
    text: str
    sign: str
    right: Right
    right_figure: str
    verdict: str
    good: bool
    would_have_told: list[str]
    judged: list[JudgedView]
    rows: list[StoryRow]
    known: str


class KindView(BaseModel):
    """A kind of machine to practise on: how many states it can be in, and how one fared on it."""

    key: str
    title: str
    states: dict[Level, int]
    minutes: int
    right: int
    of: int


class PracticeRow(BaseModel):
    """A practice in a list: on what, how hard, and what it came to where it is closed."""

    job: UUID
    kind: str
    level: LevelAsked
    began: datetime.datetime
    open: bool
    abandoned: bool
    good: bool | None
    verdict: str


class ScenarioRow(BaseModel):
    """One machine of a set that was given to me, and my practice on it."""

    id: UUID
    kind: str
    level: Level
    practice: PracticeRow | None


class GivenView(BaseModel):
    """A set of scenarios that a lead gave to me."""

    id: UUID
    name: str
    given_by: str
    until: datetime.date | None
    scenarios: list[ScenarioRow]


class PracticeView(BaseModel):
    """The practice page: what can be practised, what was given to me, and my latest."""

    kinds: list[KindView]
    given: list[GivenView]
    mine: list[PracticeRow]
    may_lead: bool


class DecisionCount(BaseModel):
    """How often a decision was right, of how often it was asked."""

    decision: Decision
    title: str
    right: int
    of: int


class KindCount(BaseModel):
    """How often a practice on this kind of machine was right."""

    key: str
    title: str
    right: int
    of: int


class Overlooked(BaseModel):
    """A look that would have shown a fault which went unseen, and how often."""

    words: str
    times: int


class ProgressView(BaseModel):
    """How somebody progress: by decision, by kind of machine, and what is missed most."""

    name: str
    practices: int
    right: int
    decisions: list[DecisionCount]
    kinds: list[KindCount]
    missed: list[str]
    overlooked: list[Overlooked]
    latest: list[PracticeRow]


class LearnerRow(BaseModel):
    """Somebody of the organisation, and how they fare."""

    username: str
    name: str
    practices: int
    right: int
    missed: list[str]
    overlooked: list[Overlooked]


class SetProgress(BaseModel):
    """How far somebody is with a set."""

    username: str
    name: str
    done: int
    right: int
    rows: list[PracticeRow | None]


class SetView(BaseModel):
    """A set as the lead who gave it sees it."""

    id: UUID
    name: str
    given_by: str
    given_at: datetime.datetime
    until: datetime.date | None
    scenarios: list[str]
    people: list[SetProgress]


class InstructorView(BaseModel):
    """What a lead sees of the practice of their people."""

    people: list[LearnerRow]
    sets: list[SetView]


class ScenarioIn(Schema):
    """A machine to be in a set; its hidden state is drawn."""

    kind: Annotated[str, Field(max_length=30)]
    level: Level = "fair"


class SetIn(Schema):
    """A set of scenarios for people of the organisation, by the names that they sign in with."""

    name: Annotated[str, Field(max_length=80)]
    people: Annotated[list[Annotated[str, Field(max_length=150)]], Field(max_length=100)]
    scenarios: Annotated[list[ScenarioIn], Field(max_length=20)]
    until: Day | None = None
