"""What the API of instruments on the line takes and answers."""

from typing import Annotated, Literal
from uuid import UUID

from ninja import Schema
from pydantic import BaseModel, Field

from wary.lines import Fault, Pattern, Token, Tried

Way = Literal["network", "serial"]
LineText = Annotated[str, Field(max_length=400)]
MOST_LINES = 100


class LinkOfJob(BaseModel):
    """An instrument on the line as a bench names it."""

    id: UUID
    name: str
    way: Way
    baud: int


class LinkView(LinkOfJob):
    """An instrument on the line as a lead sees it; `systems` are those that take their readings from it."""

    host: str
    address: str | None
    port: int
    pattern: Pattern | None
    unit: str
    most: str
    off: bool
    systems: list[UUID]
    changed_by: str


class LinkIn(Schema):
    """An instrument as a lead registers it."""

    name: Annotated[str, Field(max_length=80)]
    way: Way = "network"
    host: Annotated[str, Field(max_length=120)] = ""
    port: Annotated[int, Field(ge=0, le=65_535)] = 0
    baud: Literal[1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200] = 9600
    most: Annotated[str, Field(max_length=30)] = ""
    off: bool = False
    systems: Annotated[list[UUID], Field(max_length=200)] = []


class TeachIn(Schema):
    """What was pointed at, to be tried on lines; without a pattern they are read in the simple format."""

    pattern: Pattern | None = None
    lines: Annotated[list[LineText], Field(max_length=MOST_LINES)] = []


class TriedView(BaseModel):
    """The pieces of the line that is pointed at, what is wrong with the pattern, and what it makes of the lines."""

    tokens: list[Token]
    faults: list[Fault]
    tried: list[Tried]


class CameView(BaseModel):
    """The lines that came last, the newest at the end, or why none does."""

    lines: list[str]
    fault: str
    flooded: bool


class ReadIn(Schema):
    """Lines that a browser read on a serial port, oldest first, each with when it came (s on the page's clock)."""

    lines: Annotated[list[tuple[float, LineText]], Field(max_length=MOST_LINES)]


class FigureWatched(Schema):
    """A figure by its name, with readings of it over time: when (s on the page's clock), its text as shown, its unit."""

    name: Annotated[str, Field(max_length=60)]
    readings: Annotated[
        list[tuple[float, Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=12)]]], Field(max_length=2000)
    ]  # fmt: skip


class FiguresIn(Schema):
    """Figures that were watched at once."""

    figures: Annotated[list[FigureWatched], Field(min_length=1, max_length=12)]


class GatherIn(Schema):
    """A run of readings: each its text as shown, its unit, and whether it was steady."""

    readings: Annotated[
        list[tuple[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=12)], bool]], Field(max_length=2000)
    ]  # fmt: skip
