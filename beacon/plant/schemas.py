"""What the plant's API takes and answers: systems on record, references, limits, cells, events, instruments."""

from datetime import date, datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, BeforeValidator, Field

from beacon.validation import Day
from wary.fields import Kind, limit
from wary.job.closing import MachineState
from wary.rules.forms import Form

FactorDirection = Literal["multiplies", "divides"]
ReferenceKind = Literal["scale", "weights", "container", "system"]
SourceOfPlate = Literal["plate", "certificate", "assumed"]
LimitGiven = str | dict[Literal["larger", "smaller"], list[str]]


class SiteView(BaseModel):
    id: UUID
    name: str
    time_zone: str


class PlateField(BaseModel):
    """A plate that a system of this kind can have."""

    key: str
    title: str
    kind: Kind
    units: list[str]


class MachineView(BaseModel):
    """A kind of machine: what it is called, its plates, and the channels that a new one has."""

    key: str
    title: str
    plates: list[PlateField]
    channels: list[str]


class ChannelView(BaseModel):
    """What is calibrated by itself; `figures` are its own, a recipe's for one."""

    id: UUID
    name: str
    factor: str
    test_weight_factor: str
    figures: dict[str, str | int | float]
    proved_at: datetime | None


class ChannelIn(BaseModel):
    """A channel's name and own figures; one that is new begins with those of `copy_of`, at the next free number."""

    name: str | None = Field(None, max_length=80)
    figures: dict[str, str | int | float] = {}
    copy_of: UUID | None = None
    before: "Before | None" = None


class ColumnOf(BaseModel):
    key: str
    title: str


class OwnListView(BaseModel):
    """A list that a site writes for a machine, and its rows."""

    key: str
    title: str
    columns: list[ColumnOf]
    rows: list[dict[str, str]]


class ChangeView(BaseModel):
    field: str
    before: str
    after: str
    why: str
    who: str
    at: datetime


class SystemRecord(BaseModel):
    """What is on record of a system."""

    id: UUID
    name: str
    kind: str
    kind_name: str
    material: str
    serial: str
    notes: str
    site: SiteView
    state: MachineState
    plates: dict[str, str | int | float]
    plate_fields: list[PlateField]
    care: list[str]
    keeps_loads: bool
    has_card: bool
    channel_name: str
    channel_fields: list[PlateField]
    lists: list[OwnListView]
    channels: list[ChannelView]
    profile: str
    profile_title: str
    limits: str
    reference: UUID | None
    correction: Form
    factor_name: str
    factor_decimals: int
    direction: FactorDirection
    nominal_factor: str
    interval_days: int
    instrument: UUID | None
    changes: list[ChangeView]


Before = dict[Annotated[str, Field(max_length=80)], Annotated[str, Field(max_length=4000)]]
"""What stood at each field when it was begun to be changed, by its path; where another stands by now, that is said."""


class SystemIn(BaseModel):
    """A system's record; what is left out stays as it is."""

    name: str | None = Field(None, min_length=1, max_length=120)
    material: str | None = Field(None, max_length=120)
    serial: str | None = Field(None, max_length=80)
    notes: str | None = Field(None, max_length=4000)
    plates: dict[str, str | float | int] | None = None
    reference: UUID | None = None
    profile: str | None = None
    correction: Form | None = None
    factor: str | None = Field(None, max_length=30)
    factor_name: str | None = Field(None, min_length=1, max_length=40)
    factor_decimals: int | None = Field(None, ge=0, le=12)
    direction: FactorDirection | None = None
    nominal_factor: str | None = Field(None, max_length=30)
    interval_days: int | None = Field(None, ge=1, le=3650)
    lists: dict[str, list[dict[str, Annotated[str, Field(max_length=160)]]]] | None = None
    instrument: UUID | None = None
    before: Before | None = None


class NewSystem(SystemIn):
    """A new system; `channels` names what is calibrated by itself, those of its kind where nothing is said.

    `new_site` is the name of a site that is not there yet, which a lead may make.
    """

    site: UUID | None = None
    new_site: str = Field("", max_length=120)
    kind: str
    channels: list[str] = []


class CopyIn(BaseModel):
    """What the copy of a system is called."""

    name: str = Field(min_length=1, max_length=120)


class WeightRow(BaseModel):
    """One weight of a set: its label, nominal mass, expanded uncertainty, certificate, and until when it is in date."""

    label: str = Field(min_length=1, max_length=20, pattern=r"^[^,]+$")
    nominal: str = Field(min_length=1, max_length=20)
    uncertainty: str = Field("", max_length=20)
    certificate: str = Field("", max_length=80)
    due: date | None = None


class WeightIn(WeightRow):
    """One weight of a set, as it comes in."""

    due: Day | None = None


class ReferenceView(BaseModel):
    """A reference as it stands; `system` is the one that it stands for, `label` what is written on a container."""

    id: UUID
    kind: ReferenceKind
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
    label: str
    weights: list[WeightRow]
    system: UUID | None
    checked_at: datetime | None
    check_holds: bool | None


class CheckMassIn(BaseModel):
    """A look at a reference scale with a check mass; the device chooses the id."""

    id: UUID
    mass: str = Field(min_length=1, max_length=40)
    shown: str = Field(min_length=1, max_length=40)
    note: str = Field("", max_length=200)


class CheckMassView(BaseModel):
    """One look with a check mass; `off` is what it showed beyond it, in the unit of the mass."""

    id: UUID
    mass: str
    shown: str
    off: float
    unit: str
    holds: bool
    note: str
    at: datetime
    who: str


class ReferenceIn(BaseModel):
    kind: ReferenceKind = "scale"
    name: str = Field(min_length=1, max_length=120)
    division: str = Field("", max_length=20)
    range: str = Field("", max_length=20)
    uncertainty: str = Field("", max_length=20)
    nominal: str = Field("", max_length=20)
    tare: str = Field("", max_length=20)
    certificate: str = Field("", max_length=80)
    due: Day | None = None
    checked_by: str = Field("", max_length=120)
    lent_by: str = Field("", max_length=120)
    label: str = Field("", max_length=40)
    weights: list[WeightIn] = Field([], max_length=100)
    system: UUID | None = None


LooksAsked = Literal["worth", "all"]
"""Which looks are asked for before an adjustment: those that are worth their minutes, or all that could tell."""


class ProfileView(BaseModel):
    key: str
    title: str
    accept: LimitGiven | None
    accept_words: str
    repeat: str
    minimum_runs: int
    look_minutes: int
    skip_looks: bool
    looks: LooksAsked
    harm_minutes: int | None
    plausible: str


def _readable(given: object) -> object:
    """Raises ValueError with what was expected, where a limit cannot be read."""
    if given not in (None, ""):
        limit(given)
    return given or None


class ProfileIn(BaseModel):
    accept: Annotated[LimitGiven | None, BeforeValidator(_readable)] = None
    repeat: str = Field("", max_length=20)
    minimum_runs: int = Field(ge=1, le=100)
    look_minutes: int = Field(10, ge=1, le=240)
    skip_looks: bool = True
    looks: LooksAsked = "worth"
    harm_minutes: int | None = Field(None, ge=1, le=10_000)
    plausible: str = Field(max_length=20)


class CellView(BaseModel):
    id: UUID
    channel: UUID
    channel_name: str
    place: int
    label: str
    capacity: str
    sensitivity: str
    source: SourceOfPlate | Literal[""]
    serial: str
    fitted: date | None
    removed: date | None
    why_removed: str


class CellIn(BaseModel):
    """A cell. `instead_of` names the one that it replaces, which stays in the history, with `why`."""

    channel: UUID | None = None
    label: str = Field("", max_length=40)
    capacity: str = Field("", max_length=20)
    sensitivity: str = Field("", max_length=20)
    source: SourceOfPlate = "plate"
    serial: str = Field("", max_length=80)
    instead_of: UUID | None = None
    why: str = Field("", max_length=200)


class EventView(BaseModel):
    """Something that happened; `stale` names by title what is still to be done again."""

    id: UUID
    kind: str
    words: str
    note: str
    at: datetime
    who: str
    stale: list[str]


class EventKindView(BaseModel):
    """A kind of event, and the methods that it usually makes stale on this system."""

    kind: str
    words: str
    stale: list[str]
    titles: list[str]


class EventIn(BaseModel):
    kind: str
    note: str = Field("", max_length=300)
    stale: list[str] | None = None


class ExtraField(BaseModel):
    title: str = Field(min_length=1, max_length=60)
    digits: str = Field("", max_length=200)


class InstrumentView(BaseModel):
    id: UUID
    name: str
    fields: list[ExtraField]


class InstrumentIn(BaseModel):
    """A kind of instrument with its extra settings; an id that is known changes that one."""

    id: UUID | None = None
    name: str = Field(min_length=1, max_length=80)
    fields: list[ExtraField] = []
