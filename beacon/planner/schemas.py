"""What the round and the page of a system answer with."""

from datetime import date
from typing import Literal
from uuid import UUID

from pydantic import BaseModel

from beacon.bench.schemas import OpenJob
from beacon.plant.schemas import SiteView, SystemRecord
from beacon.records.done import LastDone
from wary.job.closing import MachineState


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
    is_due: bool
    accept_percent: float | None
    open_jobs: list[OpenJob]
    last: LastDone | None
    begin_with: Literal["visit"]
    why: str
    bring: list[str]


class RoundView(BaseModel):
    sites: list[SiteView]
    systems: list[SystemRow]


class MethodBrief(BaseModel):
    key: str
    title: str
    summary: str


class SystemView(SystemRow, SystemRecord):
    """One system with all that its page shows."""

    methods: list[MethodBrief]
    visit: list[str]
    jobs: list[LastDone]
