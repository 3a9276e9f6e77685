"""What a method is: its inputs, the steps of its run sheet, `assess()`, and all that it says of itself.

A method lives in one file under `wary/methods/<family>/`, named as its key. Server and screen read
what stands here and have no list of methods of their own.
"""

import datetime
import types
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Annotated, Any, ClassVar, Literal, Union, get_args, get_origin

from pydantic import BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo

from wary.drawings import Drawing
from wary.fields import Inputs, Kind, Reader
from wary.quantities import Quantity
from wary.rules.assessment import ADJUST, LEAVE, Assessment, Reason
from wary.rules.call import Profile
from wary.rules.forms import ShouldRead

VALUE = "value"
"""The key under which a row of a plain list, such as a list of times, holds its one figure."""

# --- the tree of inputs -----------------------------------------------------------------------


class Said(BaseModel):
    """Part of what a method says of itself; never changed."""

    model_config = ConfigDict(frozen=True)


class Choice(Said):
    """A word to choose, and what it means."""

    word: str
    says: str


class Input(Said):
    """One place in the tree of inputs.

    `kind` is what is typed there; a `block` holds the places in `fields`, and so does every row of
    a `list`, whose `of` is the kind of its elements where they are plain. A `plate` means the same
    in every method of a visit.
    """

    key: str
    title: str
    why: str | None = None
    kind: Kind
    units: tuple[str, ...] = ()
    words: tuple[Choice, ...] = ()
    fields: tuple["Input", ...] = ()
    of: Kind | None = None
    plate: bool = False

    def inside(self) -> tuple["Input", ...]:
        """The places in a block, or in one row of a list; a plain list has the one place `value`."""
        if self.kind == "list" and not self.fields:
            return (self.model_copy(update={"key": VALUE, "kind": self.of, "of": None}),)
        return self.fields


@lru_cache(maxsize=256)
def spec(model: type[Inputs]) -> tuple[Input, ...]:
    """The tree of inputs of a block. Raises TypeError for an annotation that it does not know."""
    return tuple(_place(model, key, info) for key, info in model.model_fields.items())


def _place(model: type[Inputs], key: str, info: FieldInfo) -> Input:
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    told: dict[str, Any] = {
        "key": key,
        "title": info.title or key.replace("_", " "),
        "why": info.description,
        "plate": bool(extra.get("plate")),
    }
    where = f"{model.__name__}.{key}"
    bare, metadata = _bare(info.annotation, list(info.metadata), where)
    if get_origin(bare) is list:
        element, of = _bare(get_args(bare)[0], [], where)
        if _is_block(element):
            return Input(**told, kind="list", fields=spec(element))
        reader = _reader(of, where)
        return Input(**told, kind="list", of=reader.kind, units=reader.units, words=_words(reader))
    if _is_block(bare):
        return Input(**told, kind="block", fields=spec(bare))
    reader = _reader(metadata, where)
    return Input(**told, kind=reader.kind, units=reader.units, words=_words(reader))


def _bare(annotation: Any, metadata: list[Any], where: str) -> tuple[Any, list[Any]]:
    """An annotation without `Annotated` and without `None`, and what was annotated."""
    while True:
        if get_origin(annotation) is Annotated:
            annotation, *more = get_args(annotation)
            metadata = [*metadata, *more]
        elif get_origin(annotation) in (Union, types.UnionType):
            if any(isinstance(one, Reader) for one in metadata):
                return annotation, metadata
            parts = [part for part in get_args(annotation) if part is not type(None)]
            if len(parts) != 1:
                raise TypeError(f"{where}: an input is one thing; {annotation} is several")
            annotation = parts[0]
        else:
            return annotation, metadata


def _is_block(annotation: Any) -> bool:
    return isinstance(annotation, type) and issubclass(annotation, Inputs)


def _reader(metadata: list[Any], where: str) -> Reader:
    for one in metadata:
        if isinstance(one, Reader):
            return one
    raise TypeError(f"{where}: nothing says how this input is read; annotate it with a Reader, a block, or a list")


def _words(reader: Reader) -> tuple[Choice, ...]:
    return tuple(Choice(word=word, says=says) for word, says in reader.words.items())


def ask_for(model: type[Inputs], key: str) -> str | None:
    """What to do where this input is missing, in a sentence; None where the field does not say."""
    extra = model.model_fields[key].json_schema_extra
    return str(extra["ask"]) if isinstance(extra, dict) and "ask" in extra else None


# --- steps ------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Item:
    """Something to look at and tick. `loose_end` says what stays open from the tick until it is put back."""

    key: str
    text: str
    loose_end: str | None = None


@dataclass(frozen=True)
class Column:
    """A column of a list: a figure that was typed, or one of what the assessment tells of each row."""

    key: str
    title: str
    told: bool = False


def typed(key: str, title: str) -> Column:
    """A column of what was typed."""
    return Column(key=key, title=title)


def told(key: str, title: str) -> Column:
    """A column of what the assessment says of each row, under this name."""
    return Column(key=key, title=title, told=True)


@dataclass(frozen=True)
class Stopwatch:
    """Times from mark to mark; each tap ends one and begins the next. `title` is what is timed."""

    title: str
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
    """Counts taps and enters their number. `title` is what is counted."""

    title: str
    tool: Literal["counter"] = "counter"


Tool = Annotated[Stopwatch | Countdown | TapCounter, Field(discriminator="tool")]


@dataclass(frozen=True)
class Rows:
    """How a list is laid out: what a row is called, what is shown of it, what is typed, what ends it.

    `ends` are keys of which any ends the row once it is typed. `fixed`: only the rows that are
    there already; `resume`: rows that are named and lack a figure come first. Of `either` only the
    key that is in use is shown, once one is. `where` keeps a key to machines with that trait.
    `inner` is a list inside each row.
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
    csv: bool = True
    where: dict[str, str] = field(default_factory=dict)
    tool: Tool | None = None
    inner: "Rows | None" = None


@dataclass(frozen=True)
class Step:
    """One step of a run sheet: what is entered, looked at and ticked, and the cautions that are confirmed here."""

    key: str
    title: str
    text: str = ""
    fields: tuple[str, ...] = ()
    items: tuple[Item, ...] = ()
    cautions: tuple[str, ...] = ()


@dataclass(frozen=True)
class Look(Step):
    """Things to look at and tick, before anything is touched."""

    kind: Literal["look"] = "look"


@dataclass(frozen=True)
class Enter(Step):
    """Figures to read off and type."""

    kind: Literal["enter"] = "enter"


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
    """One setting that a sheet asks for."""

    name: str
    title: str


@dataclass(frozen=True)
class SheetGroup:
    """Settings of one purpose."""

    title: str
    lines: tuple[SheetLine, ...]


@dataclass(frozen=True)
class Sheet(Step):
    """Settings as found beside as left, grouped by purpose; the list holds `name`, `found`, `left`, `digits`.

    `differences` is the result that lists what was left otherwise than found.
    """

    kind: Literal["sheet"] = "sheet"
    list: str = field(kw_only=True)
    groups: tuple[SheetGroup, ...] = field(kw_only=True)
    differences: str = "differences"


@dataclass(frozen=True)
class Large:
    """A result to be shown large, and what it is."""

    result: str
    title: str


@dataclass(frozen=True)
class Figures(Step):
    """Figures to key in, large."""

    kind: Literal["figures"] = "figures"
    figures: tuple[Large, ...] = field(kw_only=True)


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


class MethodView(Said):
    """A method as a screen lays it out."""

    key: str
    title: str
    summary: str
    question: str
    kinds: tuple[str, ...]
    profile: str
    inputs: tuple[Input, ...]
    steps: tuple[AnyStep, ...]


# --- what surrounds the inputs ----------------------------------------------------------------


@dataclass(frozen=True)
class Reference:
    """A reference that the job names; `range` in kg. `allowed_by` let an overdue one pass, on the record."""

    name: str
    certificate: str | None = None
    due: datetime.date | None = None
    range: float | None = None
    allowed_by: str | None = None


@dataclass(frozen=True)
class Setting:
    """What surrounds the inputs of a job: its profile, its occasion, the day, the references."""

    profile: Profile
    occasion: str = "routine"
    day: datetime.date | None = None
    references: tuple[Reference, ...] = ()

    def overdue(self) -> list[Reason]:
        """A reason for each reference that was out of date on the day and not let pass."""
        late = []
        for place, reference in enumerate(self.references):
            if reference.due and self.day and reference.due < self.day and not reference.allowed_by:
                text = (
                    f"{reference.name} was due for its own check on {reference.due.isoformat()}. "
                    "Use a reference that is in date, or let a lead allow it on the record."
                )
                late.append(Reason("reference-out-of-date", text, {"path": f"references[{place}].due"}))
        return late


@dataclass(frozen=True)
class Marks:
    """What was ticked in a part (`step.item`), and what was read back from the instrument."""

    ticks: frozenset[str] = frozenset()
    read_back: str = ""


@dataclass(frozen=True)
class Seen:
    """What a drawing is made from beside the inputs: the machine's plates, and its outline from above."""

    plates: Mapping[str, Quantity | float] = field(default_factory=dict)
    outline: Literal["round", "square"] = "square"

    def quantity(self, name: str) -> Quantity | None:
        """A plate that is a quantity."""
        found = self.plates.get(name)
        return found if isinstance(found, Quantity) else None

    def number(self, name: str) -> float | None:
        """A plate that is a plain number."""
        found = self.plates.get(name)
        return float(found) if isinstance(found, (int, float)) else None


@dataclass(frozen=True)
class RowsFrom:
    """Rows of a list that the system's record fills: which rows of the record, and which key becomes which."""

    record: str
    keys: Mapping[str, str]


@dataclass(frozen=True)
class Stale:
    """What a change of this part makes stale: a loose end until it is ticked, or a method in `by` has been done after it."""

    key: str
    text: str
    by: tuple[str, ...] = ()


@dataclass(frozen=True)
class Errors:
    """What a comparison found and left, in per cent, each with its uncertainty."""

    found: float | None = None
    left: float | None = None
    uncertainty_found: float | None = None
    uncertainty_left: float | None = None


@dataclass(frozen=True)
class HandsBack:
    """What a closed job gives to its system's record; `event` is a kind of event that it amounts to, with a note."""

    zero: str | None = None
    plates: Mapping[str, str] = field(default_factory=dict)
    event: tuple[str, str] | None = None


class Method:
    """Base of all methods. Subclasses fill the class variables and write `assess`.

    `kinds` are the kinds of machine that it is for, `subject` what it calls itself in a sentence.
    `compares`: its call may decide the closing of a visit. `confirms`: a real load was on, so that
    a provisional span is confirmed by it. `takes` names, for an input, the item of the system's
    record that fills it where that has another name (empty: none does). `hands` are inputs that it
    may hand to the parts of a visit after it. `half_done` says, after its subject, what is not proved
    once something was changed. `line` are the results that its one line on a
    certificate gives, `against` the inputs that say what it was compared with.
    """

    key: ClassVar[str]
    title: ClassVar[str]
    summary: ClassVar[str]
    question: ClassVar[str] = "May I touch the factor?"
    subject: ClassVar[str] = "This part"
    half_done: ClassVar[str] = "a new figure is keyed in and not proved yet"
    kinds: ClassVar[tuple[str, ...]]
    profile: ClassVar[str]
    inputs: ClassVar[type[Inputs]]
    steps: ClassVar[tuple[AnyStep, ...]]
    compares: ClassVar[bool] = False
    confirms: ClassVar[bool] = False
    takes: ClassVar[Mapping[str, str]] = {}
    takes_rows: ClassVar[Mapping[str, RowsFrom]] = {}
    hands: ClassVar[tuple[str, ...]] = ()
    makes_stale: ClassVar[tuple[Stale, ...]] = ()
    line: ClassVar[tuple[str, ...]] = ()
    against: ClassVar[tuple[str, ...]] = ()

    def assess(self, given: Any, setting: Setting) -> Assessment:
        """The assessment of these inputs: a pure function. Raises nothing for inputs that were read."""
        raise NotImplementedError

    def contradictions(self, raw: dict[str, Any]) -> list[tuple[tuple[str | int, ...], str]]:
        """Fields of the raw inputs that contradict each other: place within inputs, and what was expected."""
        return []

    def draw(self, given: Any, seen: Seen) -> Drawing | None:
        """What the screen draws of these inputs."""
        return None

    def loose(self, given: Any) -> list[tuple[str, str]]:
        """Loose ends that follow from the inputs themselves: key and sentence."""
        return []

    def changed(self, given: Any, answer: Assessment, marks: Marks) -> bool:
        """Whether something was changed in the instrument: from then on it is not valid until that is proved."""
        return bool(marks.read_back)

    def proved(self, given: Any, answer: Assessment) -> bool:
        """Whether its own evidence shows that the machine may be left alone."""
        return answer.call == LEAVE

    def asks_for_change(self, answer: Assessment) -> bool:
        """Whether it asked for a figure to be keyed in."""
        return answer.found.call == ADJUST and answer.found.key_in is not None

    def hands_on(self, given: Any, answer: Assessment, marks: Marks) -> dict[str, Any]:
        """Inputs for the parts of a visit after this one, as a file writes them; None takes one back."""
        return {}

    def hands_back(self, given: Any, answer: Assessment, plates: Mapping[str, Quantity | float]) -> HandsBack:
        """What it gives to the system's record once the job is closed."""
        return HandsBack()

    def errors(self, given: Any, answer: Assessment) -> Errors | None:
        """What it found and left; None for a method that compares nothing."""
        found = next((name for name in ("mean_error", "error") if answer.found.figure(name) is not None), None)
        if found is None:
            return None
        left = answer if answer.as_found else None
        return Errors(
            answer.found.figure(found),
            left.figure(found) if left else None,
            answer.found.figure("expanded_uncertainty"),
            left.figure("expanded_uncertainty") if left else None,
        )

    def should_read(self, given: Any, answer: Assessment) -> ShouldRead | None:
        """What it should show and what it shows with the last load on, for instruments that take a correction so."""
        return None

    def describe(self, traits: frozenset[str] = frozenset()) -> MethodView:
        """Inputs, steps and cautions, as they are laid out for a machine with these traits."""
        return MethodView(
            key=self.key,
            title=self.title,
            summary=self.summary,
            question=self.question,
            kinds=self.kinds,
            profile=self.profile,
            inputs=spec(self.inputs),
            steps=tuple(_for_machine(step, traits) for step in self.steps),
        )


def _for_machine(step: Step, traits: frozenset[str]) -> Any:
    if not isinstance(step, Listed) or not step.rows.where:
        return step
    kept = tuple(key for key in step.rows.typed if step.rows.where.get(key, "") in {"", *traits})
    return replace(step, rows=replace(step.rows, typed=kept))
