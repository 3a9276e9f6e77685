"""A job as the screen shows it, and what of that changed with an entry."""

import math
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Any, cast

from wary.job.assess import Snapshot
from wary.job.closing import ways
from wary.job.evidence import lacking_of
from wary.job.judging import MachineCall
from wary.job.loose import loose_ends
from wary.job.models import (
    AssessmentView,
    Bench,
    Changes,
    CheckView,
    ComparisonView,
    FactorView,
    FieldView,
    FigureView,
    KeyInView,
    Layout,
    LimitsView,
    LookFirstItem,
    LookFirstView,
    LookView,
    LooseEndView,
    MachineCallView,
    MachineChange,
    PartView,
    Previous,
    ReadOffField,
    ReadOffView,
    ReasonView,
    RemarkView,
    RowChange,
    RowView,
    SectionView,
    SlipView,
    Source,
    StageView,
    SuspectView,
    WayView,
)
from wary.job.places import MAIN, REFERENCES, VALUE, is_plain, joined, lists_of
from wary.job.sheet import look_first, read_off, sections
from wary.job.visit import Assessed
from wary.log import Field
from wary.methods import all_methods
from wary.methods.factor import FactorInputs
from wary.methods.shared.results import ComparisonResults, RunResults
from wary.methods.steps import Tally
from wary.methods.within import drawn
from wary.quantities import decimals_of, percent_shown, quantity, shown
from wary.results import Figure, Results, Single, Word, fields_of, to_digits, value_of
from wary.rules.assessment import ADJUST, Assessment, Reason, Remark
from wary.rules.correction import as_keyed
from wary.rules.forms import in_form
from wary.suspects.chances import believed, in_words
from wary.suspects.suspect import FINDINGS, FINE, STATES, WALKS, Look, Weighed
from wary.suspects.weighing import SEEN_BEFORE

NO_ROWS: Mapping[str, list[RowView]] = {}


def run_sheet(snapshot: Snapshot) -> list[SectionView]:
    """The run sheet from top to bottom."""
    return [
        SectionView(part=one.part, title=one.title, steps=list(one.steps), optional=one.optional)
        for one in sections(snapshot.visit)
    ]


def look_first_view(snapshot: Snapshot) -> LookFirstView | None:
    """What the parts of a visit look at first, each thing once; None where each looks by itself."""
    found = look_first(snapshot.visit)
    if found is None:
        return None
    items = [LookFirstItem(**vars(one)) for one in found.items]
    return LookFirstView(part=found.part, items=items, cautions=list(found.cautions))


def read_off_view(snapshot: Snapshot) -> ReadOffView | None:
    """What the parts of a visit read off, each figure once; None where each reads off by itself."""
    found = read_off(snapshot.visit)
    if found is None:
        return None
    fields = [ReadOffField(part=part, key=key) for part, key in found.fields]
    return ReadOffView(part=found.part, fields=fields, cautions=list(found.cautions))


def laid_out(snapshot: Snapshot) -> Layout:
    """What the bench of a job is laid out from: it is the same for as long as the job is open."""
    machine = snapshot.subject.machine
    keys = dict.fromkeys(part.method for part in snapshot.visit)
    return Layout(
        methods=[all_methods()[key].describe(machine.asked_of, machine.says) for key in keys],
        sheet=run_sheet(snapshot),
        look_first=look_first_view(snapshot),
        read_off=read_off_view(snapshot),
    )


def bench(snapshot: Snapshot) -> Bench:
    """All of a job that a screen needs."""
    return Bench(
        fields=_fields(snapshot),
        rows=_rows(snapshot),
        parts=[part_view(snapshot, part) for part in snapshot.parts.values()],
        **_whole(snapshot),
    )


def bench_again(before: Bench, was: Snapshot, now: Snapshot, paths: list[str]) -> Bench:
    """The bench after entries at these paths; what cannot have changed is taken from before."""
    same = {key for key, part in now.parts.items() if was.parts.get(key) is part}
    fields = dict(before.fields)
    asked = _said(now)
    for path in {*paths, *asked, *_said(was)}:
        if path in now.read.fields:
            fields[path] = _field(now.read.fields[path], *asked.get(path, (None, None)))
    rows = {name: held for name, held in before.rows.items() if name.partition("/")[0] in same and "/" in name}
    if MAIN in same:
        rows |= {name: held for name, held in before.rows.items() if "/" not in name and name != REFERENCES}
    rows[REFERENCES] = [RowView(row=row) for row in now.read.live_rows(REFERENCES)]
    for key, part in now.parts.items():
        if key not in same:
            rows |= _rows_of(now, part, was.parts.get(key), before.rows)
    views = {view.key: view for view in before.parts}
    parts = [views[key] if key in same else part_view(now, part) for key, part in now.parts.items()]
    return Bench(fields=fields, rows=rows, parts=parts, **_whole(now))


def changes(before: Bench, after: Bench) -> Changes:
    """What of a bench is other than before; of `Changes` only that is set."""
    found: dict[str, Any] = {}
    fields = {}
    known_fields = before.fields
    for path, field in after.fields.items():
        if (old := known_fields.get(path)) is not field and old != field:
            fields[path] = field
    rows: dict[str, dict[str, RowChange]] = {}
    order: dict[str, list[str]] = {}
    for name, held in after.rows.items():
        was = before.rows.get(name, [])
        if len(was) == len(held):
            others = [(one, now) for one, now in zip(was, held, strict=True) if one is not now]
            if all(one.row == now.row for one, now in others):
                # The same rows in the same order: only those that are other objects are looked at.
                different = {now.row: other for one, now in others if (other := _other(one, now))}
                if different:
                    rows[name] = different
                continue
        known = {row.row: row for row in was}
        for row in held:
            shown_before = known.get(row.row)
            other = None if shown_before is row else _other(shown_before, row)
            if other:
                rows.setdefault(name, {})[row.row] = other
        if [row.row for row in held] != list(known):
            order[name] = [row.row for row in held]
    order |= {name: [] for name in before.rows.keys() - after.rows.keys()}
    views = {part.key: part for part in before.parts}
    parts = [part for part in after.parts if views.get(part.key) is not part and views.get(part.key) != part]
    for name, collected in (("fields", fields), ("rows", rows), ("order", order), ("parts", parts)):
        if collected:
            found[name] = collected
    for name in ("loose_ends", "ways", "not_valid", "decides"):
        if getattr(before, name) != getattr(after, name):
            found[name] = getattr(after, name)
    machine = _machine_change(before.machine, after.machine)
    if machine:
        found["machine"] = machine
    return Changes(**found)


def _machine_change(before: MachineCallView, after: MachineCallView) -> MachineChange | None:
    """What of the machine's call is other than before; None where nothing is."""
    known = {one.key: one for one in before.suspects}
    other = [one for one in after.suspects if known.get(one.key) != one]
    found: dict[str, Any] = {"suspects": other} if other else {}
    order = [one.key for one in after.suspects]
    if order != list(known):
        found["order"] = order
    for name in MachineCallView.model_fields:
        if name != "suspects" and getattr(before, name) != getattr(after, name):
            found[name] = getattr(after, name)
    return MachineChange(**found) if found else None


def _other(before: RowView | None, after: RowView) -> RowChange | None:
    """The fields of a row that are other than before, all that hold anything where it is new; None where none is."""
    old = before or RowView(row=after.row)
    names = [name for name in RowChange.model_fields if getattr(old, name) != getattr(after, name)]
    return RowChange(**{name: getattr(after, name) for name in names}) if names else None


def _whole(snapshot: Snapshot) -> dict[str, Any]:
    return {
        "loose_ends": [
            LooseEndView(key=end.key, text=end.text, done=end.done, tick=end.tick) for end in loose_ends(snapshot)
        ],
        "ways": [WayView(**vars(way)) for way in ways(snapshot)],
        "not_valid": snapshot.not_valid,
        "decides": snapshot.decides.key,
        "machine": machine_view(snapshot.machine, snapshot.decides.built.setting.profile.skip_looks),
    }


def machine_view(found: MachineCall, may_skip: bool) -> MachineCallView:
    """The call of the machine as the screen shows it."""
    titles = {one.suspect.key: one.suspect.title for one in found.suspects}
    return MachineCallView(
        call=found.call,
        headline=found.headline,
        lead=found.lead,
        reasons=[ReasonView(code=one.code, text=one.text, path=one.path, run=one.run) for one in found.reasons],
        finding=FINDINGS[found.finding] if found.finding else "",
        shown=found.shown,
        suspects=[_suspect(one, found) for one in found.suspects if one.state != "not-here"],
        looks=[_look(one.look, one.path, tuple(titles[key] for key in one.of)) for one in found.looks],
        aside=[_look(one.look, one.path, tuple(titles[key] for key in one.of)) for one in found.aside],
        others=[_look(one.look, one.path, tuple(titles[key] for key in one.of)) for one in found.others],
        looks_left=found.looks_left,
        about=found.about,
        may_skip=may_skip,
        otherwise=in_words(found.chances.otherwise) if found.call == ADJUST or found.looks else "",
        rest=_rest(found),
        card=[one.look.key for one in found.card],
        card_title=WALKS.get(found.card[0].look.walk, "") if len(found.card) > 1 else "",
        card_minutes=found.card_minutes,
        looked_at="; ".join(dict.fromkeys(_made(found))),
        seen_before="; ".join(dict.fromkeys(_seen(found))),
    )


LIKELIEST = 3
"""So many suspects are shown with their chances; the others together."""


def _rest(found: MachineCall) -> str:
    """How likely one of the suspects beyond the likeliest is, in words; empty where there are none."""
    shares = sorted((found.chances.of.get(one.suspect.key, 0.0) for one in found.suspects), reverse=True)
    return in_words(sum(shares[LIKELIEST:])) if len(shares) > LIKELIEST else ""


def _made(found: MachineCall) -> Iterator[str]:
    """What was looked at in this visit and was fine, in a few words each."""
    for one in found.suspects:
        looks = {tell.look.key: tell.look for tell in one.suspect.tells}
        for sign in one.against:
            if sign.result == FINE and sign.said and sign.look in looks and not sign.text.startswith(SEEN_BEFORE):
                yield looks[sign.look].fine.lower()


def _seen(found: MachineCall) -> Iterator[str]:
    for one in found.suspects:
        for sign in one.against:
            if sign.text.startswith(SEEN_BEFORE):
                yield sign.text.rstrip(".")


@lru_cache(maxsize=2048)
def _look(look: Look, path: str, tells_of: tuple[str, ...]) -> LookView:
    return LookView(
        key=look.key, words=look.words, minutes=look.minutes, needs=look.needs, where=look.where, path=path,
        fine=look.fine, not_fine=look.not_fine, more=[words for _, words in look.more], watched=look.watched, tells_of=list(tells_of), lacking=lacking_of(look.key),
    )  # fmt: skip


def _suspect(one: Weighed, found: MachineCall) -> SuspectView:
    suspect = one.suspect
    return SuspectView(
        key=suspect.key,
        title=suspect.title,
        state=one.state,
        state_in_words=STATES[one.state],
        speaks_for=list(dict.fromkeys(sign.text for sign in one.speaks_for)),
        against=list(dict.fromkeys(sign.text for sign in one.against)),
        passes=found.finding is None or found.finding in suspect.taken_for,
        cure=suspect.cure,
        again=suspect.again,
        where=next((tell.look.where for tell in suspect.tells if tell.look.where), ""),
        chance=in_words(found.chances.of.get(suspect.key, 0.0)),
        share=believed(found.chances.of.get(suspect.key, 0.0)),
    )


# --- fields and rows --------------------------------------------------------------------------


def _said(snapshot: Snapshot) -> dict[str, tuple[str | None, str | None]]:
    """Problem and question by path, of all parts."""
    said: dict[str, tuple[str | None, str | None]] = {}
    for part in snapshot.parts.values():
        for path, text in part.questions.items():
            said[path] = (None, text)
    for part in snapshot.parts.values():
        for path, text in part.built.problems.items():
            said[path] = (text, said.get(path, (None, None))[1])
    return said


def _field(one: Field, problem: str | None, question: str | None) -> FieldView:
    before = one.previous
    return FieldView(
        id=one.id, text=one.text, unit=one.unit, who=one.who, at=one.at, source=cast(Source, one.source),
        earlier=one.earlier, clash=one.clash, problem=problem, question=question,
        previous=Previous(id=before.id, text=before.text, unit=before.unit, who=before.who, at=before.at)
        if before
        else None,
    )  # fmt: skip


def _fields(snapshot: Snapshot) -> dict[str, FieldView]:
    said = _said(snapshot)
    return {path: _field(field, *said.get(path, (None, None))) for path, field in snapshot.read.fields.items()}


def _rows(snapshot: Snapshot) -> dict[str, list[RowView]]:
    found = {REFERENCES: [RowView(row=row) for row in snapshot.read.live_rows(REFERENCES)]}
    for part in snapshot.parts.values():
        found |= _rows_of(snapshot, part)
    return found


def _rows_of(
    snapshot: Snapshot, part: Assessed, was: Assessed | None = None, held: Mapping[str, list[RowView]] = NO_ROWS
) -> dict[str, list[RowView]]:
    """The rows of every list of a part, inner ones too; runs with their nets and errors.

    `held` are rows as they were shown when the part `was` so.
    """
    runs = {step.list: step.stage for step in part.method.steps if isinstance(step, Tally)}
    found: dict[str, list[RowView]] = {}
    for name, listed in lists_of(part.method.key).items():
        full = joined(part.key, name)
        if name in runs:
            found[full] = _Runs(part, full, name, runs[name]).views(was, held.get(full, []))
            continue
        remarks = part.assessment.remarks.get(name, [])
        # A row of a plain list that cannot be read has no place in the results.
        plain, place, rows = is_plain(listed), 0, []
        for row in snapshot.read.live_rows(full):
            unread = plain and f"{full}.{row}.{VALUE}" in part.built.problems
            said = remarks[place] if not unread and place < len(remarks) else {}
            place += not unread
            rows.append(RowView(row=row, in_set=not unread, remarks=_remarks(said)))
        found[full] = rows
    lists = {joined(part.key, name) for name in lists_of(part.method.key)}
    prefix = f"{part.key}/"
    for name in snapshot.read.rows:
        mine = name.startswith(prefix) if part.key else "/" not in name
        if mine and name not in lists and name != REFERENCES:
            inside = part.assessment.remarks.get(_place_of_inner(snapshot, name, part.key), [])
            inner = snapshot.read.live_rows(name)
            found[name] = [
                RowView(row=row, remarks=_remarks(inside[at]) if at < len(inside) else {})
                for at, row in enumerate(inner)
            ]
    return found


def _place_of_inner(snapshot: Snapshot, name: str, part: str) -> str:
    """Where a list inside a row stands in the file: `trials.t7.fills` as `trials[1].fills`."""
    outer, row, inner = name.rsplit(".", 2)
    rows = snapshot.read.live_rows(outer)
    return f"{outer.removeprefix(f'{part}/')}[{rows.index(row)}].{inner}" if row in rows else ""


def _remarks(said: Mapping[str, Remark]) -> dict[str, RemarkView]:
    return {key: RemarkView(text=t.text, figure=_rounded(t.figure), tone=t.tone) for key, t in said.items()}


def _rounded(figure: float | None) -> float | None:
    return None if figure is None else round(figure, 4)


class _Runs:
    """A list of runs as it is judged: the rows behind it, what was typed of each, and what it came to."""

    def __init__(self, part: Assessed, full: str, name: str, stage: str) -> None:
        inputs = part.built.inputs
        answer: Assessment[Results] | None = part.assessment
        if stage == "found" and inputs.get("as_left"):
            answer = part.assessment.as_found
        results = _compared(answer) if answer else None
        self.name, self.full, self.stage = name, full, stage
        self.rows = part.built.rows.get(full, [])
        self.typed: list[dict[str, str]] = inputs.get(name) or []
        self.judged: list[RunResults] = (results.runs or []) if results else []

    def views(self, was: Assessed | None, held: list[RowView]) -> list[RowView]:
        """Each run as it is shown; one that is typed and judged as before is shown as before."""
        before = _Runs(was, self.full, self.name, self.stage) if was and held else None
        count = len(self.rows)
        if before and before.rows == self.rows and count == len(held) == len(self.judged) == len(before.judged) == len(self.typed) == len(before.typed):  # fmt: skip
            pairs = zip(held, self.judged, before.judged, self.typed, before.typed, strict=True)
            return [
                shown_before if judged is then and typed is typed_then else self._view(number, self.rows[number])
                for number, (shown_before, judged, then, typed, typed_then) in enumerate(pairs)
            ]
        known = {row: place for place, row in enumerate(before.rows)} if before else {}
        views = []
        for number, row in enumerate(self.rows):
            place = known.get(row, -1)
            if before and 0 <= place < len(held) and self._at(number) == before._at(place):
                views.append(held[place])
            else:
                views.append(self._view(number, row))
        return views

    def _at(self, number: int) -> tuple[int, int]:
        """Which objects a run is typed and judged by; those of before live on in what they are compared with."""
        judged = self.judged[number] if number < len(self.judged) else None
        return id(judged), id(self.typed[number]) if number < len(self.typed) else 0

    def _view(self, number: int, row: str) -> RowView:
        result = self.judged[number] if number < len(self.judged) else None
        typed = self.typed[number] if number < len(self.typed) else {}
        if result is None:
            return RowView(row=row)
        return RowView(
            row=row,
            in_set=result.in_set.value,
            net=_as_typed(result.reference, typed, ("reference", "gross", "tare")),
            shown=_as_typed(result.indicated, typed, ("indicated", "total_start", "total_end")),
            error=_rounded(value_of(result.error)),
            predicted_error=_rounded(value_of(result.predicted_error)),
        )


def _compared(answer: Assessment[Results]) -> ComparisonResults | None:
    """The results of a comparison of runs; None of a method that compares none."""
    return answer.results if isinstance(answer.results, ComparisonResults) else None


def _as_typed(figure: Figure | None, typed: Mapping[str, str], keys: tuple[str, ...]) -> str | None:
    """A mass with as many decimals as were typed for it."""
    if figure is None:
        return None
    return _mass_as_typed(figure.value, figure.unit, tuple(typed.get(key) for key in keys))


@lru_cache(maxsize=16_384)
def _mass_as_typed(value: float, unit: str, given: tuple[str | None, ...]) -> str:
    texts = [text for text in given if isinstance(text, str)]
    same_unit = [text for text in texts if text.endswith(f" {unit}") and " lb " not in text]
    if texts and len(same_unit) == len(texts):
        places = max(_places(text) for text in same_unit)
        return f"{value:.{places}f}".replace("-", "−") + f" {unit}"
    return f"{shown(value, 5)} {unit}"


def _places(text: str) -> int:
    number = text.split()[0]
    plain = number if "e" not in number.lower() else ""
    return len(plain.partition(".")[2]) if plain else decimals_of(quantity(text, "mass").value)


# --- parts ------------------------------------------------------------------------------------


def part_view(snapshot: Snapshot, part: Assessed) -> PartView:
    """One method of the visit: what it comes to, its drawing, its limits, the factor in force."""
    answer = part.assessment
    drawing = drawn(part.method, part.given, snapshot.subject.seen)
    factor = None
    if part.factor_in_force is not None:
        decimals = part.given.factor_decimals if isinstance(part.given, FactorInputs) else None
        factor = FactorView(text=as_keyed(part.factor_in_force, decimals), by=part.carried.factor_by)
    return PartView(
        key=part.key,
        method=part.method.key,
        title=part.method.title,
        begun=part.begun,
        assessment=_assessment(snapshot, part, answer),
        drawing=drawing,
        limits=_limits(snapshot, part),
        factor=factor,
    )


def _takes(snapshot: Snapshot, code: str) -> bool:
    """Whether a suggestion is for this machine: one that names a method is for those that take it."""
    return code not in all_methods() or code in snapshot.subject.machine.does


def _assessment(snapshot: Snapshot, part: Assessed, answer: Assessment[Results]) -> AssessmentView:
    stage = _stage(snapshot, part, answer)
    return AssessmentView(
        **stage,
        suggestions=[_reason(one) for one in answer.suggestions if _takes(snapshot, one.code)],
        checks=[CheckView(code=one.code, state=one.state, text=one.text) for one in answer.checks],
        look=answer.look,
        plan=answer.plan,
        tables=_tables(answer.results),
        as_found=StageView(**_stage(snapshot, part, answer.as_found)) if answer.as_found else None,
    )


def _stage(snapshot: Snapshot, part: Assessed, answer: Assessment[Results]) -> dict[str, Any]:
    return {
        "call": answer.call,
        "headline": answer.headline,
        "lead": answer.lead,
        "down": answer.down,
        "risk": answer.risk,
        "reasons": [_reason(one) for one in answer.reasons],
        "results": {about.key: _figure(one) for about, one in answer.results.singles()},
        "slips": [SlipView(**vars(slip)) for slip in answer.slips],
        "key_in": _key_in(snapshot, part, answer),
        "comparison": _comparison(answer),
    }


def _figure(one: Single) -> FigureView:
    return FigureView(value=to_digits(one.value) if isinstance(one.value, float) else one.value, unit=one.unit)


def _tables(results: Results) -> dict[str, list[dict[str, FigureView]]]:
    """The rows of words among the results, such as what differs between two settings."""
    found = {}
    for about in fields_of(type(results)):
        rows = results.rows(about)
        if rows and all(isinstance(one, Word) for row in rows for _, one in row.singles()):
            found[about.key] = [{inner.key: _figure(one) for inner, one in row.singles()} for row in rows]
    return found


def _comparison(answer: Assessment[Results]) -> ComparisonView | None:
    results = _compared(answer)
    if results is None:
        return None
    count, least = value_of(results.runs_in_set) or 0, value_of(results.minimum_runs) or 0
    return ComparisonView(
        in_set=int(count),
        wanted=int(value_of(results.runs_needed) or max(least, count + 1)),
        mean_error=value_of(results.mean_error),
        spread=value_of(results.spread),
        uncertainty=value_of(results.expanded_uncertainty),
        least=_figure(results.smallest_amount)
        if value_of(results.smallest_amount) is not None and results.smallest_amount
        else None,
        believed=answer.believed[0] if answer.believed else None,
        freedom=answer.believed[1] if answer.believed and math.isfinite(answer.believed[1]) else None,
    )


def _reason(found: Reason) -> ReasonView:
    return ReasonView(code=found.code, text=found.text, path=found.path, run=found.run)


def _key_in(snapshot: Snapshot, part: Assessed, answer: Assessment[Results]) -> KeyInView | None:
    if not answer.key_in:
        return None
    read = part.method.should_read(part.given, answer)
    form = in_form(snapshot.subject.form, answer.key_in, snapshot.subject.factor_name, read)
    return KeyInView(form=form.form, figure=form.figure, **vars(answer.key_in))


def _limits(snapshot: Snapshot, part: Assessed) -> LimitsView:
    results, profile = _compared(part.assessment), part.built.setting.profile
    runs = (results.runs or []) if results else []
    loads = [row.reference.si for row in runs if row.reference and row.reference.value > 0]
    percent = None
    if profile.accept:
        share = profile.accept.relative_at(sum(loads) / len(loads)) if loads else profile.accept.percentage
        percent = share * 100 if share is not None else None
    count = int(value_of(results.runs_in_set) or 0) if results else 0
    repeat = profile.repeat_limit(count)
    least = value_of(results.minimum_runs) if results else None
    changed = any(snapshot.fold.text(f"profile.{key}") for key in ("accept", "repeat", "minimum_runs", "plausible"))
    return LimitsView(
        accept=str(profile.accept) if profile.accept else "",
        accept_percent=percent,
        repeat=percent_shown(repeat) if repeat is not None else "",
        minimum_runs=int(least or profile.minimum_runs),
        changed=changed,
    )
