"""What a method is: its inputs, the steps of its run sheet, `assess()`, and all that it says of itself.

A method lives in one file under `wary/methods/<family>/`, named as its key. Server and screen read
what stands here and have no list of methods of their own.
"""

import datetime
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, ClassVar, Generic, Literal, TypeAlias, TypeVar

from wary.acts import Act, Doing
from wary.drawings import Drawing
from wary.fields import Inputs, Limit
from wary.methods.reads import Reads, signs_of
from wary.methods.steps import AnyStep, Figures, Large, Listed, Rows, Sheet
from wary.methods.tree import Input, Said, row_models, spec
from wary.quantities import Quantity
from wary.results import ResultField, Results, fields_of
from wary.rules.assessment import ADJUST, LEAVE, Assessment, Reason
from wary.rules.call import Profile
from wary.rules.due import CounterKind
from wary.rules.forms import ShouldRead
from wary.rules.risk import Scatter
from wary.suspects.suspect import Finding, Sign


class MethodView(Said):
    """A method as a screen lays it out; `acts` are what is done at the machine before a place is read."""

    key: str
    title: str
    summary: str
    question: str
    profile: str
    inputs: tuple[Input, ...]
    results: tuple[ResultField, ...]
    steps: tuple[AnyStep, ...]
    acts: dict[str, tuple[Doing, ...]] = {}


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
    """What surrounds the inputs of a job: its profile, its occasion, the day, the references, how its runs scattered before."""

    profile: Profile
    occasion: str = "routine"
    day: datetime.date | None = None
    references: tuple[Reference, ...] = ()
    history: Scatter | None = None

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


NO_LIMITS = Setting(Profile(accept=None, repeat=None, minimum_runs=1, plausible=None))
"""What surrounds inputs that are only drawn, not judged."""


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
    """What a comparison found and left, in per cent, each with its uncertainty.

    `unread`: nothing was read before it was set, so that nothing was found.
    """

    found: float | None = None
    left: float | None = None
    uncertainty_found: float | None = None
    uncertainty_left: float | None = None
    unread: bool = False


@dataclass(frozen=True)
class HandsBack:
    """What a closed job gives to its system's record; `event` is a kind of event that it amounts to, with a note.

    `lists` take the place of lists on record, `rows` are added to them.
    """

    zero: str | None = None
    plates: Mapping[str, str] = field(default_factory=dict)
    event: tuple[str, str] | None = None
    lists: Mapping[str, Sequence[Mapping[str, str]]] = field(default_factory=dict)
    rows: Mapping[str, Mapping[str, str]] = field(default_factory=dict)


NO_NAMES: Mapping[str, str] = {}


Given = TypeVar("Given", bound=Inputs)
Found = TypeVar("Found", bound=Results)


Within = tuple[str | int, ...]
"""A place within the inputs: keys, and places in lists."""


class Method(Generic[Given, Found]):
    """Base of all methods: of the inputs `Given`, with the results `Found`. Subclasses fill the class variables and write `assess`.

    `subject` is what it calls itself in a sentence.
    `compares`: its call may decide the closing of a visit. `confirms`: a real load was on, so that
    a provisional span is confirmed by it. `takes` names, for an input, the item of the system's
    record that fills it where that has another name (empty: none does). `hands` are inputs that it
    may hand to the parts of a visit after it. `half_done` says, after its subject, what is not proved
    once something was changed. `also_profiles` are the limits of machines that it takes over instead
    of its own. `against` are the inputs that say what it was compared with. `remembers` are inputs, and
    columns of its lists (`groups.name`), that are the same from visit to visit: what was typed last
    time is there again. `reads` are looks that its inputs hold. `passes_for` says what a reason of its own
    amounts to, as suspects know it. `acts` say what is done at the machine before
    each place is read (`passes.zero`), in the order of the work; `change` how what it asks for is set, and
    `trial`: what it sets is moved and tried again within minutes; `stays` are places of rows that say what a row
    is or is set to, and are not read again after a cure;
    `read_again` into which list the proof of that goes, where it is another than was read first.
    """

    key: ClassVar[str]
    title: ClassVar[str]
    summary: ClassVar[str]
    question: ClassVar[str] = "May I touch the factor?"
    subject: ClassVar[str] = "This part"
    half_done: ClassVar[str] = "a new figure is keyed in and not proved yet"
    profile: ClassVar[str]
    also_profiles: ClassVar[tuple[str, ...]] = ()
    inputs: type[Given]
    results: type[Found]
    steps: ClassVar[tuple[AnyStep, ...]]
    compares: ClassVar[bool] = False
    confirms: ClassVar[bool] = False
    takes: ClassVar[Mapping[str, str]] = {}
    takes_rows: ClassVar[Mapping[str, RowsFrom]] = {}
    hands: ClassVar[tuple[str, ...]] = ()
    makes_stale: ClassVar[tuple[Stale, ...]] = ()
    against: ClassVar[tuple[str, ...]] = ()
    remembers: ClassVar[tuple[str, ...]] = ()
    reads: ClassVar[tuple[Reads, ...]] = ()
    passes_for: ClassVar[Mapping[str, Finding]] = {}
    acts: ClassVar[Mapping[str, tuple[Act, ...]]] = {}
    change: ClassVar[tuple[Act, ...]] = ()
    read_again: ClassVar[str] = ""
    stays: ClassVar[frozenset[str]] = frozenset()
    trial: ClassVar[bool] = False

    def assess(self, given: Given, setting: Setting) -> Assessment[Found]:
        """The assessment of these inputs: a pure function. Raises nothing for inputs that were read."""
        raise NotImplementedError

    def across(self, raw: Mapping[str, Any]) -> list[tuple[Within, str]]:
        """Fields of different blocks of the raw inputs that contradict each other: their place, and what was expected."""
        return []

    def contradictions(self, raw: Mapping[str, Any]) -> list[tuple[Within, str]]:
        """All fields of the raw inputs that contradict each other, within a row as well."""
        found: list[tuple[Within, str]] = []
        for name, model in row_models(self.inputs).items():
            rows = raw.get(name)
            for place, row in enumerate(rows if isinstance(rows, list) else []):
                if isinstance(row, dict):
                    found += [((name, place, key), text) for key, text in model.contradicting(row)]
        return found + self.across(raw)

    def draw(self, given: Given, seen: Seen) -> Drawing | None:
        """What the screen draws of these inputs."""
        return None

    def loose(self, given: Given) -> list[tuple[str, str]]:
        """Loose ends that follow from the inputs themselves: key and sentence."""
        return []

    def changed(self, given: Given, answer: Assessment[Found], marks: Marks) -> bool:
        """Whether something was changed in the instrument: from then on it is not valid until that is proved."""
        return bool(marks.read_back)

    def proved(self, given: Given, answer: Assessment[Found]) -> bool:
        """Whether its own evidence shows that the machine may be left alone."""
        return answer.call == LEAVE

    def asks_for_change(self, answer: Assessment[Found]) -> bool:
        """Whether it asked for a figure to be keyed in."""
        return answer.found.call == ADJUST and answer.found.key_in is not None

    def hands_on(self, given: Given, answer: Assessment[Found], marks: Marks) -> dict[str, Any]:
        """Inputs for the parts of a visit after this one, as a file writes them; None takes one back."""
        return {}

    def hands_back(self, given: Given, answer: Assessment[Found], plates: Mapping[str, Quantity | float]) -> HandsBack:
        """What it gives to the system's record once the job is closed."""
        return HandsBack()

    def errors(self, given: Given, answer: Assessment[Found]) -> Errors | None:
        """What it found and left; None for a method that compares nothing."""
        return None

    def set_before(self, given: Given) -> str:
        """What was set before it was changed in this job, in words; empty where that is the factor, or nothing
        was read."""
        return ""

    def tried(self, given: Given, answer: Assessment[Found]) -> tuple[float, float] | None:
        """By how much the last move was to change what is read, and by how much it did, in per cent; None
        where nothing was moved."""
        errors = self.errors(given, answer)
        if errors is None or errors.found is None or errors.left is None:
            return None
        return errors.found, errors.found - errors.left

    def charted(self, given: Given, answer: Assessment[Found]) -> Errors | None:
        """What a history draws of it, in per cent; what it found and left where nothing else is said."""
        return self.errors(given, answer)

    def tolerance(self, given: Given, accept: Limit | None) -> tuple[float, float] | None:
        """How far below and above it may be off, in per cent, the lower one negative; None where that is no share.

        `accept` is the limit that it was judged by.
        """
        share = accept.percentage * 100 if accept and accept.percentage else None
        return (-share, share) if share else None

    def signs(self, given: Given, answer: Assessment[Found]) -> Iterable[Sign]:
        """What its inputs say of looks (`inputs.…` is where each was entered)."""
        return signs_of(self.reads, given, answer)

    def counters(self, given: Given) -> dict[CounterKind, float]:
        """What the machine's own counters showed, where it reads one."""
        return {}

    def should_read(self, given: Given, answer: Assessment[Found]) -> ShouldRead | None:
        """What it should show and what it shows with the last load on, for instruments that take a correction so."""
        return None

    def describe(self, traits: frozenset[str] = frozenset(), says: Mapping[str, str] = NO_NAMES) -> MethodView:
        """Inputs, steps and cautions, as they are laid out for a machine with these traits that `says` so for them."""
        return MethodView(
            key=self.key,
            title=self.title,
            summary=self.summary,
            question=self.question,
            profile=self.profile,
            inputs=tuple(_called(one, says) for one in spec(self.inputs)),
            results=fields_of(self.results),
            steps=tuple(_for_machine(step, fields_of(self.results), traits, says) for step in self.steps),
            acts={place: tuple(act.do for act in acts) for place, acts in self.acts.items()},
        )


def _called(one: Input, says: Mapping[str, str]) -> Input:
    """An input under the name that a machine has for it, and so what is inside it."""
    if not says:
        return one
    fields = tuple(_called(inner, says) for inner in one.fields)
    return one.model_copy(update={"title": says.get(one.key, one.title), "fields": fields})


def _for_machine(
    step: AnyStep, results: tuple[ResultField, ...], traits: frozenset[str], says: Mapping[str, str]
) -> AnyStep:
    """A step as a machine with these traits has it, with the results that it shows or takes filled in."""
    here = {"", *traits}

    def kept(names: tuple[str, ...], where: Mapping[str, str]) -> tuple[str, ...]:
        return tuple(name for name in names if where.get(name, "") in here)

    def rows_for(rows: Rows) -> Rows:
        columns = tuple(replace(c, title=says.get(c.key, c.title)) for c in rows.columns if rows.where.get(c.key, "") in here)  # fmt: skip
        inner = rows_for(rows.inner) if rows.inner else None
        begins = {one.begins: one.key for one in results if one.begins in rows.typed}
        keeps = {one.keeps: one.key for one in results if one.keeps and rows.clears}
        return replace(rows, typed=kept(rows.typed, rows.where), columns=columns, inner=inner, begins_with=begins, keeps=keeps)  # fmt: skip

    step = replace(step, fields=kept(step.fields, step.where), cautions=kept(step.cautions, step.where))
    if isinstance(step, Listed):
        return replace(step, rows=rows_for(step.rows))
    if isinstance(step, Figures):
        large = [one for one in results if one.large and one.where in here]
        return replace(step, figures=tuple(Large(one.key, says.get(one.key, one.title)) for one in large))
    if isinstance(step, Sheet):
        groups = tuple(replace(group, lines=tuple(line for line in group.lines if line.where in here)) for group in step.groups)  # fmt: skip
        kept_groups = tuple(group for group in groups if group.lines)
        first, second = (one.key for one in results if one.shape == "rows")
        return replace(step, differences=first, compared=second, groups=kept_groups)
    return step


AnyMethod: TypeAlias = Method[Any, Any]
"""A method of which is not known which it is: it is given what its own `inputs` read, and nothing else."""
