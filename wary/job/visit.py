"""A visit: several methods in one job. What one part finds counts for the parts after it.

Every channel has one factor in the instrument at any moment, and the visit follows it: it begins
as read off; where a part asks for a new one and the read-back is entered, the figure read back is
in force for the parts after it and for that part's own as-left runs.
"""

import datetime
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from wary.fields import Inputs
from wary.job.build import Building, Built, scalar_typed
from wary.job.places import LOOK_NOTED, LOOKED, MAIN, SKIPPED, Parts, joined, lists_of, split
from wary.job.sheet import LOOK_FIRST
from wary.job.subject import Subject
from wary.log import Fold
from wary.methods import all_methods
from wary.methods.factor import FactorInputs, LeftFactorInputs
from wary.methods.method import AnyMethod, Marks
from wary.methods.shared.results import ComparisonResults, new_factor_of
from wary.methods.within import assessed
from wary.results import Results
from wary.rules.assessment import ADJUST, Assessment
from wary.rules.call import NOT_SHOWN
from wary.rules.correction import as_keyed, read_back_question
from wary.typed import as_in_a_file


@dataclass(frozen=True)
class Carried:
    """What a part is handed by the parts before it: the factor in force and inputs, and plates typed elsewhere.

    `factor_by` is the subject of the part that the factor in force comes from, empty where it was
    read off at the beginning.
    """

    handed: dict[str, Any] = field(default_factory=dict)
    shared: dict[str, Any] = field(default_factory=dict)
    factor_by: str = ""


@dataclass
class Assessed:
    """One part: its file, what its method says of it, and what follows for the visit."""

    key: str
    method: AnyMethod
    built: Built
    assessment: Assessment[Results]
    marks: Marks
    carried: Carried
    begun: bool
    questions: dict[str, str] = field(default_factory=dict)
    factor_in_force: float | None = None
    factor_after: float | None = None

    @property
    def given(self) -> Inputs:
        return self.built.given

    @property
    def changed(self) -> bool:
        """Whether something was changed in the instrument by this part."""
        return self.begun and self.method.changed(self.given, self.assessment, self.marks)

    @property
    def proved(self) -> bool:
        """Whether its own evidence shows that the machine may be left alone."""
        return self.begun and self.method.proved(self.given, self.assessment)

    @property
    def shown(self) -> bool:
        """Whether that evidence could have shown an error as large as the limit: to leave it alone is not to prove it."""
        return self.proved and not any(reason.code in NOT_SHOWN for reason in self.assessment.reasons)

    @property
    def unanswered(self) -> bool:
        """Whether it asked for a new figure and nothing was read back."""
        return self.begun and self.method.asks_for_change(self.assessment) and not self.marks.read_back


class Visit:
    """The parts of a job assessed in the order of the visit.

    `before` holds parts as they were assessed before; one that is not named in `touched` and is
    handed the same is taken from there and not assessed again. `touched` None touches all.
    """

    def __init__(self, subject: Subject, parts: Parts, fold: Fold, day: datetime.date) -> None:
        self.subject, self.parts, self.fold, self.day = subject, parts, fold, day

    def assessed(
        self,
        before: dict[str, Assessed] | None = None,
        touched: frozenset[str] | None = None,
        rows: frozenset[tuple[str, str]] | None = None,
    ) -> dict[str, Assessed]:
        """Every part by its key, in the order of the visit; of those before, `rows` are touched."""
        done: dict[str, Assessed] = {}
        carried = Carried({}, self._plates_of_parts())
        for key, method in self.parts:
            own = replace(carried, handed=self._fresh_for(dict(carried.handed), done))
            held = (before or {}).get(key)
            if held and touched is not None and key not in touched and held.carried == own:
                part = held
            else:
                part = self._part(key, method, own, held, rows)
            done[key] = part
            carried = self._carry_on(carried, part)
        return done

    def _plates_of_parts(self) -> dict[str, Any]:
        """Plates that are typed in some part: they count for all that take them; the first in the visit's order."""
        shared: dict[str, Any] = {}
        for key, method in self.parts:
            for name, typed in scalar_typed(self.fold, key, method).items():
                shared.setdefault(name, typed)
        return shared

    def _fresh_for(self, handed: dict[str, Any], done: dict[str, Assessed]) -> dict[str, Any]:
        """What is handed on, but for what was taken back and typed anew since."""
        for name in [name for name, found in handed.items() if found is None]:
            typed = self.fold.fields.get(f"inputs.{name}")
            takers = [key for key, part in done.items() if name in _taken_back(part)]
            latest = max((self._latest(key) for key in takers), default=0)
            if typed and typed.text and typed.seq > latest:
                del handed[name]
        return handed

    def _latest(self, part: str) -> int:
        prefix = f"{part}/"
        return max((one.seq for path, one in self.fold.fields.items() if path.startswith(prefix)), default=0)

    def _part(
        self,
        key: str,
        method_key: str,
        carried: Carried,
        held: Assessed | None,
        rows: frozenset[tuple[str, str]] | None,
    ) -> Assessed:
        method = all_methods()[method_key]
        before = held.built.read_rows if held else None
        building = Building(
            self.subject, self.fold, key, method_key, self.day, carried.handed, carried.shared, before, rows
        )
        built = building.built()
        marks = marks_of(self.fold, key, method)
        answer = assessed(method, built.given, built.setting)
        answer = self._with_factor_keyed(key, method, built, answer)
        part = Assessed(key, method, built, answer, marks, carried, begun(self.fold, self.parts, key))
        if isinstance(built.given, FactorInputs):
            part.factor_in_force = built.given.factor
        part.factor_after = self._factor_after(part)
        part.questions = self._questions(part)
        return part

    # --- the factor in force ------------------------------------------------------------------

    def keyed(self, key: str) -> list[float]:
        """The figures read back in a part, the present one first, where this machine shows a factor."""
        entry = self.fold.fields.get(joined(key, "read_back"))
        if entry is None or not entry.text or self.subject.form == "reading":
            return []
        texts = [entry.text, *([entry.previous.text] if entry.previous else [])]
        numbers = [_number(text) for text in texts]
        return [number for number in numbers if number is not None and number > 0]

    def _with_factor_keyed(
        self, key: str, method: AnyMethod, built: Built, answer: Assessment[Results]
    ) -> Assessment[Results]:
        """The assessment with the figure read back as what the as-left evidence starts from.

        Where a figure was read back twice, and the first one gives just the second as the next to
        key in, the as-left evidence was taken with the first: the second was keyed in after it.
        """
        given = built.given
        if not isinstance(given, LeftFactorInputs) or given.as_left_factor is not None or not given.after_change:
            return answer
        for number in reversed(self.keyed(key)):
            with_it = given.model_copy(update={"as_left_factor": number})
            tried = assessed(method, with_it, built.setting)
            present = self.keyed(key)[0]
            if number != present and not (tried.call == ADJUST and new_factor_of(tried.results) == present):
                continue
            worked_out = new_factor_of(answer.found.results) if answer.as_found else None
            if number == worked_out:
                return answer
            built.inputs["as_left_factor"] = number
            built.given = with_it
            return tried
        return answer

    def _factor_after(self, part: Assessed) -> float | None:
        """The factor in the instrument after a part: the figure read back, or the one before it."""
        if not part.marks.read_back:
            return part.factor_in_force
        form, now = self.subject.form, part.factor_in_force
        if form == "percent" and part.marks.read_back.rstrip().endswith("%"):
            change = _number(part.marks.read_back.rstrip().rstrip("%"))
            divides = isinstance(part.given, FactorInputs) and part.given.direction == "divides"
            if now is None or change is None or change <= -100:
                return now
            return now / (1 + change / 100) if divides else now * (1 + change / 100)
        keyed = self.keyed(part.key)
        return keyed[0] if keyed else None

    def _carry_on(self, carried: Carried, part: Assessed) -> Carried:
        handed = dict(carried.handed)
        by = carried.factor_by
        if takes_factor(part.method):
            if part.marks.read_back:
                handed["factor"], by = part.factor_after, part.method.subject.lower()
            elif part.key and self.fold.text(joined(part.key, "inputs.factor")):
                handed["factor"], by = part.factor_in_force, part.method.subject.lower()
        if part.begun:
            handed |= part.method.hands_on(part.given, part.assessment, part.marks)
        return Carried(handed, carried.shared, by)

    def _questions(self, part: Assessed) -> dict[str, str]:
        """Quiet questions by the path of the field that they are asked of."""
        asked = {part.built.path_of(question.path): question.text for question in part.assessment.questions}
        own = joined(part.key, "inputs.factor")
        in_force = part.carried.handed.get("factor")
        if part.key and self.fold.text(own) and in_force is not None and in_force != part.factor_in_force:
            asked[own] = (
                f"{as_keyed(in_force, None)} is in force since {part.carried.factor_by}; "
                f"typed here is {self.fold.text(own)}. Which does the instrument show?"
            )
        back = self._read_back_question(part)
        if back:
            asked[joined(part.key, "read_back")] = back
        return asked

    def _read_back_question(self, part: Assessed) -> str | None:
        text = part.marks.read_back
        found = part.assessment.found.key_in
        worked_out = found.factor if found else None
        if not text or self.subject.form != "factor":
            return None
        number = _number(text)
        if number is None:
            return f"“{text}” is not a number: type what the instrument shows."
        if worked_out is None:
            return None
        latest = part.assessment.key_in.factor if part.assessment.key_in else None
        if latest is not None and float(latest) == number:
            return None
        return read_back_question(text, number, worked_out)


def _taken_back(part: Assessed) -> list[str]:
    """The inputs that a part says do not hold any more; the factor, where a reading was keyed in instead of one."""
    if not part.begun:
        return []
    handed = part.method.hands_on(part.given, part.assessment, part.marks)
    keyed = ["factor"] if part.marks.read_back and part.factor_after is None else []
    return keyed + [name for name, found in handed.items() if found is None]


def takes_factor(method: AnyMethod) -> bool:
    """Whether a method knows the factor in the instrument."""
    return issubclass(method.inputs, FactorInputs)


def _number(text: str) -> float | None:
    found = as_in_a_file(text, "number")
    return float(found) if isinstance(found, (int, float)) else None


def marks_of(fold: Fold, part: str, method: AnyMethod) -> Marks:
    """What was ticked in a part, and what was read back in it."""
    ticks = {
        f"{step.key}.{item.key}"
        for step in method.steps
        for item in step.items
        if fold.text(joined(part, f"tick.{step.key}.{item.key}")) == "yes"
    }
    return Marks(frozenset(ticks), fold.text(joined(part, "read_back")))


def begun(fold: Fold, parts: Parts, part: str) -> bool:
    """Whether a person typed anything into a part; of the main part of a visit, into one of its lists, or a read-back.

    What is typed for the main part under `inputs.` counts for the whole visit, and begins nothing.
    """
    prefix = f"{part}/"
    looked = (f"{prefix}tick.{LOOK_FIRST}.", f"{prefix}caution.{LOOK_FIRST}")
    method = dict(parts)[part]
    for path, one in fold.fields.items():
        if not one.is_typed:
            continue
        if part:
            # What is looked at first is ticked for all parts before any is begun.
            if path.startswith(prefix) and not path.startswith(looked):
                return True
        elif "/" not in path:
            head = path.partition(".")[0]
            if head in lists_of(method) or path == "read_back":
                return True
            if len(parts) == 1 and head in ("inputs", "tick", "caution"):
                return True
    return False


def scatter_of(done: dict[str, Assessed]) -> dict[str, tuple[float, int]]:
    """How the runs of each comparing method scattered in this visit, as found and as left together: per cent, degrees of freedom."""
    found: dict[str, tuple[float, int]] = {}
    for part in done.values():
        if not part.begun:
            continue
        squares, freedom = 0.0, 0
        for stage in {id(part.assessment.found): part.assessment.found, id(part.assessment): part.assessment}.values():
            results = stage.results
            if isinstance(results, ComparisonResults) and results.standard_deviation and results.runs_in_set:
                own = round(results.runs_in_set.value) - 1
                squares, freedom = squares + own * results.standard_deviation.value**2, freedom + own
        if freedom:
            found[part.method.key] = ((squares / freedom) ** 0.5, freedom)
    return found


def touched_by(paths: Iterable[str], parts: Parts) -> frozenset[str]:
    """The parts whose inputs these entries may have changed; what is typed for the visit may change all."""
    touched: set[str] = set()
    own_lists = {*lists_of(dict(parts)[MAIN])}
    for path in paths:
        part, rest = split(path)
        head = rest.partition(".")[0]
        if part:
            touched.add(part)
        elif head in own_lists or head in ("tick", "caution", "loose", "read_back"):
            touched.add(MAIN)
        elif head in (LOOKED, LOOK_NOTED, SKIPPED) or rest in ("note", "conditions", "no_as_found"):
            continue
        else:
            touched |= {key for key, _ in parts}
    return frozenset(touched)


# --- the visit as a whole ---------------------------------------------------------------------


def decides(done: dict[str, Assessed]) -> Assessed:
    """The part whose call decides the closing: the last that was begun and compares, else the last begun, else the main one."""
    started = [part for part in done.values() if part.begun]
    comparing = [part for part in started if part.method.compares]
    return (comparing or started or [done[MAIN]])[-1]


def not_valid(done: dict[str, Assessed]) -> list[str]:
    """Why the machine is not valid as it stands, a sentence for each change that is not proved; empty where it is."""
    half: dict[str, str] = {}
    for key, part in done.items():
        if part.begun and part.proved:
            same = [other for other in half if done[other].method.key == part.method.key]
            for other in list(half) if part.method.compares else same:
                del half[other]
        if part.changed and not part.proved:
            half[key] = f"{part.method.subject}: {part.method.half_done}."
    return list(half.values())


@dataclass(frozen=True)
class Comparison:
    """What a comparison came to, in per cent, and which method made it."""

    error: float
    uncertainty: float | None
    method: str


def as_found_as_left(done: dict[str, Assessed]) -> tuple[Comparison | None, Comparison | None]:
    """The first comparison before any change, and the last after the last change; None where there is none."""
    found = left = None
    changed = False
    for part in done.values():
        errors = part.method.errors(part.given, part.assessment) if part.begun and part.method.compares else None
        if errors and errors.found is not None:
            first = Comparison(errors.found, errors.uncertainty_found, part.method.key)
            if changed:
                left = first
            elif found is None:
                found = first
        if part.changed and part.method.compares:
            changed, left = True, None
        if errors and errors.left is not None:
            changed, left = True, Comparison(errors.left, errors.uncertainty_left, part.method.key)
    return found, left


def unread(done: dict[str, Assessed]) -> bool:
    """Whether what decides was set before it was read, so that nothing was found."""
    found, _ = as_found_as_left(done)
    comparing = [part for part in done.values() if part.begun and part.method.compares]
    errors = [part.method.errors(part.given, part.assessment) for part in comparing]
    return found is None and any(one is not None and one.unread for one in errors)


def factor_at_the_end(done: dict[str, Assessed]) -> float | None:
    """The factor in the instrument when the visit is over."""
    known = [part.factor_after for part in done.values() if takes_factor(part.method)]
    for part in reversed(done.values()):
        if part.marks.read_back and takes_factor(part.method):
            return part.factor_after
    return next((factor for factor in known if factor is not None), None)
