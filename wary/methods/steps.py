"""The steps of a run sheet: a closed set of kinds, each with what a screen needs to lay it out."""

from dataclasses import dataclass, field
from typing import Annotated, Literal

from pydantic import Field

from wary.methods.tree import VALUE


@dataclass(frozen=True)
class Item:
    """Something to look at and tick. `loose_end` says what stays open from the tick until it is put back.

    `looks` are the keys of the looks that a tick says were made, and showed nothing.
    """

    key: str
    text: str
    loose_end: str | None = None
    looks: tuple[str, ...] = ()


@dataclass(frozen=True)
class Column:
    """A column of a list: a figure that was typed, or a remark of the assessment on each row."""

    key: str
    title: str
    remark: bool = False


def typed(key: str, title: str) -> Column:
    """A column of what was typed."""
    return Column(key=key, title=title)


def remark(key: str, title: str) -> Column:
    """A column of the remark that the assessment makes on each row, under this name."""
    return Column(key=key, title=title, remark=True)


@dataclass(frozen=True)
class Stopwatch:
    """Times from mark to mark. `title` is what is timed, `into` the place of a row that a time goes into.

    Of a plain list each tap ends one time and begins the next, and makes a row; of a list of
    blocks it starts, then stops, and the time goes into the row in hand.
    """

    title: str
    into: str = VALUE
    tool: Literal["stopwatch"] = "stopwatch"


@dataclass(frozen=True)
class Countdown:
    """Counts a time down with a tone at its end.

    `time` and `times` are the inputs that say how long. With a source of readings linked, the
    change of its readout `reads` is entered by itself once `turns` has gone on by `times`, and
    what it showed on the way goes into the list `trace`.
    """

    title: str
    time: str
    times: str
    reads: str = ""
    turns: str = ""
    trace: str = ""
    tool: Literal["countdown"] = "countdown"


@dataclass(frozen=True)
class TapCounter:
    """Counts taps and enters their number. `title` is what is counted.

    On a step of figures `into` is the input that holds the count, and each tap is kept at once. Of
    a list of blocks it is the place in the row in hand; with `seconds` the count goes on for so
    long, from tone to tone, and how long it was goes into the place `timed`; halves count.
    """

    title: str
    into: str = VALUE
    seconds: int = 0
    timed: str = ""
    tool: Literal["counter"] = "counter"


@dataclass(frozen=True)
class Sampler:
    """Takes rows from a source of readings while it runs: one each `every` s, each place of it from the readout that fits.

    `time` is the place that gets the seconds since the first row; without a source linked it is not there.
    """

    title: str
    time: str
    every: float = 1.0
    tool: Literal["sampler"] = "sampler"


Tool = Annotated[Stopwatch | Countdown | TapCounter | Sampler, Field(discriminator="tool")]


@dataclass(frozen=True)
class ReadAgain:
    """A place of the rows that does not stay as it is: `says` asks for it anew once `minutes` have gone by since it was typed."""

    key: str
    minutes: int
    says: str


@dataclass(frozen=True)
class Alike:
    """A place of a row that most often holds what stands at `of` in it: one tap says so for every row that lacks it."""

    key: str
    of: str
    says: str


@dataclass(frozen=True)
class Rows:
    """How a list is laid out: what a row is called, what is shown of it, what is typed, what ends it.

    `ends` are keys of which any ends the row once it is typed. `fixed`: only the rows that are
    there already; `resume`: rows that are named and lack a figure come first, but for those in `spare`, which may stay empty. Of `either` only the
    way that is in use is shown, once one is: a key, or several joined by `+`. `where` keeps a key to machines with that trait.
    `inner` is a list inside each row. `begins_with` names, for keys of a row, the result that a
    further row begins with: what the last one was judged to want (`ResultField.begins`). `keeps` names,
    for keys of a row, the result that is kept in it (`ResultField.keeps`), and `clears` the lists that are
    then begun anew. `alike` are places that one tap fills with what another place of their row holds. `again` is a place that is asked for anew after a time. `goes_on`: that is offered while there is more to be done, too. `clearing` is what emptying
    the whole list is called; it, and taking one row out, ask first.
    """

    list: str
    name: str
    empty: str
    columns: tuple[Column, ...]
    typed: tuple[str, ...]
    ends: tuple[str, ...] = ()
    either: tuple[str, ...] = ()
    fixed: bool = False
    resume: bool = False
    spare: tuple[str, ...] = ()
    csv: bool = True
    where: dict[str, str] = field(default_factory=dict)
    tool: Tool | None = None
    inner: "Rows | None" = None
    begins_with: dict[str, str] = field(default_factory=dict)
    keeps: dict[str, str] = field(default_factory=dict)
    clears: tuple[str, ...] = ()
    alike: tuple[Alike, ...] = ()
    again: ReadAgain | None = None
    goes_on: bool = False
    clearing: str = ""


@dataclass(frozen=True)
class Step:
    """One step of a run sheet: what is entered, looked at and ticked, and the cautions that are confirmed here.

    `where` keeps a field or a caution to machines with that trait.
    """

    key: str
    title: str
    text: str = ""
    fields: tuple[str, ...] = ()
    items: tuple[Item, ...] = ()
    cautions: tuple[str, ...] = ()
    where: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Look(Step):
    """Things to look at and tick, before anything is touched."""

    kind: Literal["look"] = "look"


@dataclass(frozen=True)
class Enter(Step):
    """Figures to read off and type; one of them may be counted by its `tool`."""

    kind: Literal["enter"] = "enter"
    tool: Tool | None = None


@dataclass(frozen=True)
class Plan(Step):
    """The reference, and how much to weigh on it."""

    kind: Literal["plan"] = "plan"


@dataclass(frozen=True)
class Tally(Step):
    """Comparison runs with their error strip; `list` is the list of runs, found or left."""

    kind: Literal["tally"] = "tally"
    list: str = "runs"
    stage: Literal["found", "left"] = "found"


@dataclass(frozen=True)
class Listed(Step):
    """A list, laid out by its `rows`."""

    kind: Literal["rows"] = "rows"
    rows: Rows = field(kw_only=True)


@dataclass(frozen=True)
class SheetLine:
    """One setting that a sheet asks for; `where` keeps it to machines with that trait, or with that plate (`plate:width`)."""

    name: str
    title: str
    where: str = ""


@dataclass(frozen=True)
class SheetGroup:
    """Settings of one purpose."""

    title: str
    lines: tuple[SheetLine, ...]


@dataclass(frozen=True)
class Sheet(Step):
    """Settings as found beside as left, grouped by purpose; the list holds `name`, `found`, `left`, `digits`.

    `differences` is the result that lists what was left otherwise than found, `compared` the one that
    sets what the instrument is told beside what the plates say.
    """

    kind: Literal["sheet"] = "sheet"
    list: str = field(kw_only=True)
    groups: tuple[SheetGroup, ...] = field(kw_only=True)
    differences: str = ""
    compared: str = ""


@dataclass(frozen=True)
class Large:
    """A result to be shown large, and what it is."""

    result: str
    title: str


@dataclass(frozen=True)
class Figures(Step):
    """Figures to key in, large: the results that are marked so (`ResultField.large`)."""

    kind: Literal["figures"] = "figures"
    figures: tuple[Large, ...] = ()


@dataclass(frozen=True)
class Adjust(Step):
    """The figure to key in, and what the instrument then shows."""

    kind: Literal["adjust"] = "adjust"


@dataclass(frozen=True)
class Close(Step):
    """What is still loose, and the closing."""

    kind: Literal["close"] = "close"


AnyStep = Annotated[
    Look | Enter | Plan | Tally | Listed | Sheet | Figures | Adjust | Close, Field(discriminator="kind")
]
