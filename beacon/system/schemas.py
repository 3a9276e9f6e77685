"""What the page of a system answers with."""

from datetime import datetime

from pydantic import BaseModel

from beacon.bench.done import LastDone
from beacon.links.schemas import LinkOfJob
from beacon.planner.schemas import DueView, SystemRow
from beacon.plant.schemas import SystemRecord
from wary.rules.due import CounterKind, IntervalKind


class MethodBrief(BaseModel):
    key: str
    title: str
    summary: str


class CounterView(BaseModel):
    kind: CounterKind
    figure: float
    at: datetime
    who: str


class IntervalView(BaseModel):
    kind: IntervalKind
    every: float
    season: str
    band: str


class FaultView(BaseModel):
    """A fault that was found: when, what it was, and whether it was put right at once."""

    title: str
    at: datetime
    minutes: int
    put_right: bool
    who: str


class SystemView(SystemRow, SystemRecord):
    """One system with all that its page shows."""

    methods: list[MethodBrief]
    visit: list[str]
    jobs: list[LastDone]
    dues: list[DueView]
    intervals: list[IntervalView]
    zero_intervals: list[IntervalView]
    counters: list[CounterView]
    links: list[LinkOfJob]
    faults: list[FaultView]
