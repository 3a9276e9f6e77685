"""What the bench shows of a job, as models: its part of the API, the same wherever the job is worked out."""

from typing import Literal

from pydantic import BaseModel, Field, SerializerFunctionWrapHandler, model_serializer

from wary.drawings import Drawing
from wary.job.closing import Outcome
from wary.methods.method import MethodView
from wary.rules.assessment import Call, CheckState, Tone
from wary.suspects.suspect import State

Source = Literal["typed", "captured", "imported", "record"]


class FigureView(BaseModel):
    """A result: a figure or a word, with its unit."""

    value: float | int | bool | str
    unit: str


class Previous(BaseModel):
    id: str
    text: str
    unit: str
    who: str
    at: str


class FieldView(BaseModel):
    """What is in force at a path, and what stood there before."""

    id: str
    text: str
    unit: str
    who: str
    at: str
    source: Source
    earlier: int
    previous: Previous | None
    clash: bool
    problem: str | None = None
    question: str | None = None


class RemarkView(BaseModel):
    """What is said of a row under one heading."""

    text: str
    figure: float | None = None
    tone: Tone = ""


class RowView(BaseModel):
    """One row of a list; of a run `net` and `shown` are texts with the decimals that were typed, errors in per cent."""

    row: str
    in_set: bool = True
    net: str | None = None
    shown: str | None = None
    error: float | None = None
    predicted_error: float | None = None
    remarks: dict[str, RemarkView] = Field(default_factory=dict)


class Partial(BaseModel):
    """A model of which only what was set is written."""

    @model_serializer(mode="wrap")
    def _what_was_set(self, handler: SerializerFunctionWrapHandler):  # type: ignore[no-untyped-def]
        # No return annotation: the fields' own would be lost from the schema.
        written = handler(self)
        return {name: found for name, found in written.items() if name in self.model_fields_set}


class RowChange(Partial):
    """What of a row is other than before; what is left out is as it was."""

    in_set: bool | None = None
    net: str | None = None
    shown: str | None = None
    error: float | None = None
    predicted_error: float | None = None
    remarks: dict[str, RemarkView] | None = None


class ReasonView(BaseModel):
    code: str
    text: str
    path: str | None = None
    run: int | None = None


class CheckView(BaseModel):
    code: str
    state: CheckState
    text: str


class SlipView(BaseModel):
    parameter: str
    entered: str
    likely: str
    predicted_ratio: float
    text: str
    of: str = ""


class KeyInView(BaseModel):
    """The figure to key in, in the form that the instrument takes: the words before it, and the figure as text."""

    form: str
    figure: str | None
    percent: str
    factor: str | None = None
    was: str | None = None
    change: str | None = None
    would_read: str | None = None
    rounding: str | None = None


class ComparisonView(BaseModel):
    """What runs against a reference come to: how many are in the set and wanted; errors in per cent; the least to weigh.

    The true error is believed to lie round the mean as Student's t, `believed` per cent wide with `freedom` degrees
    of freedom; none for infinitely many.
    """

    in_set: int
    wanted: int
    mean_error: float | None = None
    spread: float | None = None
    uncertainty: float | None = None
    least: FigureView | None = None
    believed: float | None = None
    freedom: float | None = None


class StageView(BaseModel):
    call: Call
    headline: str
    lead: str
    down: bool
    risk: str = ""
    reasons: list[ReasonView]
    results: dict[str, FigureView]
    slips: list[SlipView]
    key_in: KeyInView | None = None
    comparison: ComparisonView | None = None


class AssessmentView(StageView):
    suggestions: list[ReasonView]
    checks: list[CheckView]
    look: list[str]
    plan: list[str]
    tables: dict[str, list[dict[str, FigureView]]]
    as_found: StageView | None = None


class LimitsView(BaseModel):
    """Limits in words, and the accept band in per cent at the load weighed, to draw it."""

    accept: str
    accept_percent: float | None
    repeat: str
    minimum_runs: int
    changed: bool


class LooseEndView(BaseModel):
    key: str
    text: str
    done: bool
    tick: bool


class FactorView(BaseModel):
    """The factor in force when a part begins, and which part it comes from, empty where it was read off."""

    text: str
    by: str


class PartView(BaseModel):
    """One method of the visit; the main one has an empty key."""

    key: str
    method: str
    title: str
    begun: bool
    assessment: AssessmentView
    drawing: Drawing | None
    limits: LimitsView
    factor: FactorView | None


class SectionView(BaseModel):
    """A stretch of the run sheet: a part of the visit, and the steps of it that come here."""

    part: str
    title: str
    steps: list[str]
    optional: bool


class LookFirstItem(BaseModel):
    """One thing to look at before the work: where its tick goes, in words, and the loose end that it leaves."""

    path: str
    text: str
    loose_end: str


class LookFirstView(BaseModel):
    """The one look first of a visit, in the step of this part."""

    part: str
    items: list[LookFirstItem]
    cautions: list[str]


class ReadOffField(BaseModel):
    """One figure that is read off for the whole visit: the part that asks for it, and its key."""

    part: str
    key: str


class ReadOffView(BaseModel):
    """The one reading off of a visit, in the step of this part."""

    part: str
    fields: list[ReadOffField]
    cautions: list[str]


class WayView(BaseModel):
    """One way to close the job; `why_not` says what is in its way, `spoken_for` that the evidence is for it."""

    outcome: Outcome
    words: str
    why_not: str
    spoken_for: bool


class LookView(BaseModel):
    """A look to make: where it is entered (empty: it is ticked), what one answers (`more`: the ways in which it is
    not fine; `watched`: a live figure answers it), the suspects it tells of, by title, and what a machine may not
    have there (`lacking`: “a shutter”)."""

    key: str
    words: str
    minutes: float
    needs: str
    where: str
    path: str
    fine: str
    not_fine: str
    more: list[str]
    watched: bool
    tells_of: list[str]
    lacking: str


class SuspectView(BaseModel):
    """What else it could be, with what speaks for and against it; `passes`: it can pass for what was found;
    `chance` is how likely it is in words, and `share` as a number; `looks` are those that were not made."""

    key: str
    title: str
    state: State
    state_in_words: str
    speaks_for: list[str]
    against: list[str]
    passes: bool
    cure: str
    again: str
    where: str
    chance: str
    share: float


class MachineCallView(BaseModel):
    """The call of the machine, above those of its parts. `finding` is what it came to, in words; `shown` the suspect to blame.

    `looks` are to be made before anything else, what tells most a minute first; `may_skip`: a look may be skipped for a reason. `about` is the part whose readings it is about, `looks_left` how many looks at most. `aside` is what a
    comparison that is in order cannot see, `others` every look that was not made. `otherwise` is how likely something
    other than the figure is, in words, empty where nothing is to be set; `rest` that of the suspects beyond the
    likeliest
    three. `card` are looks that are made together now, in `card_minutes`; `looked_at` and `seen_before` say what
    was, in a line each.
    """

    call: Call
    headline: str
    lead: str
    reasons: list[ReasonView]
    finding: str
    shown: str
    suspects: list[SuspectView]
    looks: list[LookView]
    aside: list[LookView]
    others: list[LookView]
    looks_left: int
    about: str
    may_skip: bool
    otherwise: str
    rest: str
    card: list[str]
    card_title: str
    card_minutes: float
    looked_at: str
    seen_before: str


class MachineChange(Partial):
    """What of the machine's call is other than before; what is left out is as it was.

    Of `suspects` only those are there that are other or new; `order` holds the keys of all where some came or went.
    """

    call: Call | None = None
    headline: str | None = None
    lead: str | None = None
    reasons: list[ReasonView] | None = None
    finding: str | None = None
    shown: str | None = None
    suspects: list[SuspectView] = []
    order: list[str] | None = None
    looks: list[LookView] | None = None
    aside: list[LookView] | None = None
    others: list[LookView] | None = None
    looks_left: int | None = None
    about: str | None = None
    may_skip: bool | None = None
    otherwise: str | None = None
    rest: str | None = None
    card: list[str] | None = None
    card_title: str | None = None
    card_minutes: float | None = None
    looked_at: str | None = None
    seen_before: str | None = None


class Bench(BaseModel):
    """A job as it stands: what is in force, what it comes to, and what is still open."""

    fields: dict[str, FieldView]
    rows: dict[str, list[RowView]]
    parts: list[PartView]
    loose_ends: list[LooseEndView]
    ways: list[WayView]
    not_valid: list[str]
    decides: str
    machine: MachineCallView


class Layout(BaseModel):
    """What a bench is laid out from: the methods of the visit, and its run sheet."""

    methods: list[MethodView]
    sheet: list[SectionView]
    look_first: LookFirstView | None
    read_off: ReadOffView | None


class Changes(Partial):
    """What of a bench is other than before: fields by path, rows by list and row, parts, and what follows.

    Of a row only what changed is said. `order` holds the rows of a list where some came or went.
    What is left out is as it was.
    """

    fields: dict[str, FieldView] = {}
    rows: dict[str, dict[str, RowChange]] = {}
    order: dict[str, list[str]] = {}
    parts: list[PartView] = []
    loose_ends: list[LooseEndView] | None = None
    ways: list[WayView] | None = None
    not_valid: list[str] | None = None
    decides: str | None = None
    machine: MachineChange | None = None
