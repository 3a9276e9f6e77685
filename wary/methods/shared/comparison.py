"""What every method that compares runs shares: reading the runs, the common results, as found and as left."""

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from wary.fields import Inputs, Plates, Run, at_most
from wary.methods.method import Errors, Method, Setting
from wary.methods.reads import Reads
from wary.methods.shared.containers import CONTAINERS_ON_RECORD, known_containers
from wary.methods.shared.results import ComparisonResults
from wary.methods.shared.stages import ComparisonInputs, Stage, read_stage
from wary.methods.shared.tally import correct, list_runs
from wary.quantities import Quantity, decimals_of, from_si, percent_shown, shown, to_si
from wary.results import Figure, in_unit, percent, value_of
from wary.rules import slips
from wary.rules.assessment import (
    ADJUST,
    FIND_FAULT,
    KEEP_TESTING,
    LEAVE,
    Assessment,
    BudgetTerm,
    Check,
    FieldQuestion,
    Reason,
    missing,
)
from wary.rules.call import RULES, Question, Rule, Verdict, headline, judge, lead, needed_amount
from wary.rules.correction import as_keyed, gain, key_in_factor, nominal_ratio
from wary.rules.evidence import Evidence, Pair
from wary.rules.forms import ShouldRead
from wary.rules.planning import OnReference
from wary.rules.reading_slips import Weighing
from wary.rules.risk import believed, in_words, pooled, risks
from wary.suspects import looks as look_list
from wary.suspects.suspect import FINE, NOT_FINE, Sign

ComparedGiven = TypeVar("ComparedGiven", bound=Inputs)
Compared = TypeVar("Compared", bound=ComparisonResults)


RUNS_READ = (
    Reads(look_list.SAME_AGAIN, "runs.indicated", by_itself=True),
    Reads(look_list.ANOTHER_LOAD, "runs.indicated", by_itself=True),
)
"""What the runs of every comparison say."""


CURVED = "intercept"
"""The reason that loads of different sizes say different things."""


class ComparisonMethod(Method[ComparedGiven, Compared]):
    """A method whose heart is a tally of runs. `rules` are the rules of its call, with its own among them.

    `one_is_enough`: one careful run answers, whatever the profile asks for. `proves_from_smallest`: a
    run below `R_min` proves little.
    """

    least_runs = 1
    one_is_enough = False
    proves_from_smallest = False
    compares = True
    takes_rows = {"containers": CONTAINERS_ON_RECORD}
    rules: tuple[Rule, ...] = RULES
    against = ("reference_division", "reference_uncertainty")
    reads = RUNS_READ
    passes_for = {CURVED: "curve"}

    def errors(self, given: ComparedGiven, answer: Assessment[Compared]) -> Errors | None:
        """The mean error of the runs found and left."""
        found, left = answer.found.results, answer.results if answer.as_found else None
        if found.mean_error is None:
            return None
        return Errors(
            found.mean_error.value,
            value_of(left.mean_error if left else None),
            value_of(found.expanded_uncertainty),
            value_of(left.expanded_uncertainty if left else None),
        )

    def signs(self, given: ComparedGiven, answer: Assessment[Compared]) -> Iterable[Sign]:
        """Whether the same load reads the same, and whether another one is off by the same share."""
        yield from super().signs(given, answer)
        yield from _same_again(answer)
        yield from _another_load(answer)

    def should_read(self, given: ComparedGiven, answer: Assessment[Compared]) -> ShouldRead | None:
        rows = enumerate(answer.results.runs or [], 1)
        last = [(number, row) for number, row in rows if row.in_set.value and row.error]
        if not last:
            return None
        number, row = last[-1]
        assert row.indicated and row.reference
        shows = row.indicated.quantity
        should = Quantity(from_si(row.reference.si, shows.unit), shows.unit, "")
        return ShouldRead(should, shows, f"run {number}'s load", self.division(given))

    def least_load(self, given: ComparedGiven, unit: str) -> tuple[float, str] | None:
        """The least load that proves anything, kg, with its rule in words; None where there is no such rule."""
        return None

    def division(self, given: ComparedGiven) -> Quantity | None:
        """The division of the display, where it is known."""
        return given.indicated_division if isinstance(given, ComparisonInputs) else None


WORTH_A_QUESTION = 0.06
"""How far one run must be off before its own entry is asked about: short tons for tonnes are 10 %."""

Looker = Callable[[Stage, float | None], tuple[list[Check], list[Reason]]]
"""A method's own checks on a stage and `R_min`: the checks, and reasons that make it not ready."""


OTHER_LOAD = 1.5
"""A load so many times as large as another one is another load."""


def _same_again(answer: Assessment[Compared]) -> Iterator[Sign]:
    results = answer.results
    if results.runs_in_set is None or results.runs_in_set.value < 2 or results.spread is None:
        return
    apart = next((reason for reason in answer.reasons if reason.code == "not-repeating"), None)
    count, spread = round(results.runs_in_set.value), f"{shown(results.spread.value, 3)} %"
    text = apart.text if apart else f"{count} runs lie within {spread} of each other."
    yield Sign(look_list.SAME_AGAIN.key, NOT_FINE if apart else FINE, text, "inputs.runs")


def _another_load(answer: Assessment[Compared]) -> Iterator[Sign]:
    """Loads of different size that are off by the same share, or by another one."""
    rows = [row.reference for row in answer.results.runs or [] if row.in_set.value and row.reference and row.error]
    curved = next((reason for reason in answer.reasons if reason.code == CURVED), None)
    if curved:
        yield Sign(look_list.ANOTHER_LOAD.key, NOT_FINE, curved.text, "inputs.runs")
    elif len(rows) > 1 and max(row.value for row in rows) >= OTHER_LOAD * min(row.value for row in rows) > 0:
        if any(reason.code == "not-repeating" for reason in answer.reasons):
            return
        low, high = min(rows, key=lambda row: row.value), max(rows, key=lambda row: row.value)
        text = f"{shown(low.value, 4)} and {shown(high.value, 4)} {high.unit} are off by much the same share."
        yield Sign(look_list.ANOTHER_LOAD.key, FINE, text, "inputs.runs")


def compare(
    method: ComparisonMethod[Any, Compared],
    given: ComparisonInputs,
    setting: Setting,
    looks: Looker,
    where_to_look: Sequence[str],
    offset: float = 0.0,
    results: Callable[[], Compared] | None = None,
) -> Assessment[Compared]:
    """The assessment of a comparison: of `runs` alone, or of `as_left` with the as-found beside it.

    `offset` is a mass in kg that the instrument takes off after the factor. `results` makes what each
    stage's results are put into.
    """
    judged = _Judging(method, given, setting, looks, where_to_look, offset, results or method.results)
    found = judged.stage("runs", given.factor)
    if not given.as_left:
        return found
    factor = given.as_left_factor or value_of(found.results.new_factor) or given.factor
    left = judged.stage("as_left", factor)
    left.as_found = found if given.runs else None
    left.questions = found.questions + left.questions
    return left


@dataclass(frozen=True)
class _Judging(Generic[Compared]):
    """What all stages of one comparison have in common."""

    method: ComparisonMethod[Any, Compared]
    given: ComparisonInputs
    setting: Setting
    looks: Looker
    where_to_look: Sequence[str]
    offset: float
    results: Callable[[], Compared]

    def stage(self, name: str, factor: float | None) -> Assessment[Compared]:
        """The assessment of one list of runs, with the factor that was in force while they ran."""
        method, given, setting = self.method, self.given, self.setting
        stage = read_stage(name, given, setting, factor)
        profile, evidence = setting.profile, stage.evidence
        division = given.reference_division.si if given.reference_division else None
        smallest = needed_amount(evidence, profile, division, given.reference_readings or 1)
        checks, unready = self.looks(stage, smallest)
        ratio = evidence.pooled_ratio if evidence.pairs and evidence.usable() else None
        found_slips = _slips(stage, given, ratio) if ratio is not None else []
        shows = given.indicated_division.si if given.indicated_division else None
        ask = Question(
            evidence=evidence,
            profile=profile,
            minimum=1 if method.one_is_enough else max(profile.minimum_runs, method.least_runs),
            occasion=setting.occasion,
            unready=[*self._absent(), *stage.absent, *setting.overdue(), *unready],
            failed=[Reason("sanity", check.text) for check in checks if check.state == "fail"],
            reference_division=division,
            indicated_division=shows,
            smallest=smallest,
            from_smallest=method.proves_from_smallest,
            least_load=method.least_load(given, stage.unit),
            aside=stage.aside,
            unit=stage.unit,
            set_up=self._set_up(found_slips),
        )
        verdict = judge(ask, method.rules)
        answer = Assessment(
            method=method.key,
            call=verdict.call,
            reasons=verdict.reasons,
            results=_common_results(self.results(), stage, smallest, verdict, ask.minimum),
            headline=headline(verdict, ratio),
            lead=lead(verdict, evidence),
            suggestions=verdict.suggestions,
            checks=[*checks, *_common_checks(stage, profile.accept.percentage if profile.accept else None)],
            look=list(self.where_to_look) if verdict.call == FIND_FAULT else [],
            questions=_questions(stage),
            down=ratio is not None and ratio < 1,
        )
        answer.budget = _budget(evidence)
        answer.slips = found_slips
        if ratio is not None and verdict.call == ADJUST:
            correct(answer, stage, given, ratio, self.offset)
        list_runs(answer, stage, given, self.offset)
        if ratio is not None and (evidence.is_certain or pooled(evidence, self.setting.history)):
            self._risks(answer, stage, ratio)
        return answer

    def _risks(self, answer: Assessment[Compared], stage: Stage, ratio: float) -> None:
        """What it would risk to leave it, and to key in the new figure, rounded as it is keyed."""
        evidence, accept = stage.evidence, self.setting.profile.accept
        mean = evidence.reference_sum / evidence.count
        about = believed(evidence, self.setting.history)
        if accept is None or mean <= 0 or about is None:
            return
        answer.believed = (about.uncertainty * 100, about.freedom)
        grown, keyed = ratio, "the new figure"
        if stage.factor:
            new = key_in_factor(stage.factor, ratio, self.given.direction, self.given.factor_decimals)
            grown, keyed = gain(stage.factor, new.keyed, self.given.direction), as_keyed(new.keyed, new.decimals)
        found = risks(about, accept.relative_at(mean), grown)
        results = answer.results
        results.risk_if_left, results.risk_if_adjusted = percent(found.if_left), percent(found.if_adjusted)
        results.risk_of_touching = percent(found.of_touching)
        if answer.call in (ADJUST, LEAVE, KEEP_TESTING):
            answer.risk = in_words(found, str(accept), keyed, answer.call == ADJUST)

    def _set_up(self, found: list[slips.Slip]) -> str:
        """On a first calibration: the slip in a plate that explains a factor far from the one it should be near.

        It comes first then, and the factor only once the plate was looked at again.
        """
        if self.setting.occasion != "first" or self.given.plates_confirmed or not self.given.nominal_factor:
            return ""
        of_plates = [one for one in found if one.of and one.parameter in slips.OF_PLATES]
        if not of_plates:
            return ""
        found.remove(of_plates[0])
        found.insert(0, of_plates[0])
        return f"{of_plates[0].text} The factor is given once the plate was looked at again."

    def _absent(self) -> list[Reason]:
        """What is missing before any run is looked at."""
        given, absent = self.given, []
        if not given.runs and (not given.as_left or self.setting.occasion not in ("first", "repair")):
            absent.append(missing("inputs.runs", "There are no runs yet: weigh the first load."))
        if self.setting.profile.accept is None:
            text = "This profile has no accept limit: say how far off is still in order."
            absent.append(missing("profile.accept", text))
        return absent


def _common_results(
    results: Compared, stage: Stage, smallest: float | None, verdict: Verdict, minimum: int
) -> Compared:
    evidence, unit = stage.evidence, stage.unit
    results.runs_in_set, results.minimum_runs = Figure(evidence.count), Figure(minimum)
    if smallest is not None:
        results.smallest_amount = in_unit(smallest, unit)
    if not evidence.pairs or not evidence.usable():
        return results
    if evidence.pooled_ratio is not None:
        results.pooled_ratio = Figure(evidence.pooled_ratio)
    if evidence.mean_of_ratios is not None:
        results.mean_of_ratios = Figure(evidence.mean_of_ratios)
    results.mean_error = percent(evidence.mean_error)
    results.spread = percent(evidence.spread)
    if evidence.standard_deviation is not None:
        results.standard_deviation = percent(evidence.standard_deviation)
    results.mean_error_mass = in_unit(evidence.mean_error_mass, unit)
    if evidence.is_certain:
        results.expanded_uncertainty = percent(evidence.expanded_uncertainty)
        results.coverage_factor = Figure(evidence.coverage_factor)
    if verdict.runs_needed is not None:
        results.runs_needed = Figure(verdict.runs_needed)
    return results


def _budget(evidence: Evidence) -> list[BudgetTerm]:
    """Each term of the uncertainty that counts, in %, with its share of `U²` in %."""
    if not evidence.pairs or not evidence.usable() or not evidence.is_certain or evidence.expanded_uncertainty <= 0:
        return []
    rows = []
    for term, size, counts in evidence.budget():
        if counts and size > 0:
            share = (size / evidence.expanded_uncertainty) ** 2
            text = f"{term} ± {percent_shown(size)}, {percent_shown(share, decimals=0)} of it"
            rows.append(BudgetTerm(term, percent(size), percent(share), text))
    return rows


def _common_checks(stage: Stage, accept: float | None) -> list[Check]:
    checks, evidence = [], stage.evidence
    if evidence.count == 1:
        checks.append(
            Check("single-run", "note", "A single run: what it leaves open is only what the displays leave open.")
        )
    pooled, mean = evidence.pooled_ratio, evidence.mean_of_ratios
    if evidence.count > 1 and accept and pooled and mean and evidence.usable() and abs(pooled - mean) > accept / 10:
        text = (
            f"Pooled, weighed over indicated is {shown(pooled, 6)}; the mean of the runs' own ratios is {shown(mean, 6)}. "
            "The runs differ in size and in error: look which of them decides."
        )
        checks.append(Check("pooling-differs", "note", text))
    return checks


def _slips(stage: Stage, given: ComparisonInputs, ratio: float) -> list[slips.Slip]:
    evidence = stage.evidence
    tares = [pair.tare for pair in evidence.pairs]
    in_set = [stage.runs[pair.index] for pair in evidence.pairs]
    first = in_set[0]
    reference, indicated = first.reference or first.gross, first.indicated or first.total_end
    entered = slips.Entered(
        plates=given.plates or Plates(),
        reference_unit=reference.unit if reference else None,
        indicated_unit=indicated.unit if indicated else None,
        reference_sum=evidence.reference_sum,
        tare_sum=math.fsum(t for t in tares if t) if tares and all(t is not None for t in tares) else None,
        reference_apart=_apart([run.reference or (run.gross if run.zeroed else None) for run in in_set]),
        indicated_apart=_apart([run.indicated for run in in_set]),
        weighings=tuple(_weighing(stage.runs[pair.index], pair) for pair in evidence.pairs)
        if abs(ratio - 1) > slips.WORTH_ASKING
        else (),
        containers=known_containers(given.containers),
    )
    found = slips.explain(ratio, evidence.expanded_uncertainty, entered)
    if stage.factor and given.nominal_factor:
        off = nominal_ratio(stage.factor, given.nominal_factor, ratio, given.direction)
        found += slips.explain(off, evidence.expanded_uncertainty, entered, of="nominal")
    return found


def _weighing(run: Run, pair: Pair) -> Weighing:
    """A run as it was read."""
    shown = run.readings_shown()
    unit = shown[0].unit if shown else run.total_end.unit if run.total_end else "kg"
    text = shown[0].text if len(shown) == 1 else ""
    indicated = Quantity(from_si(pair.indicated, unit), unit, text)
    net = run.reference or (run.gross if run.zeroed else None)
    gross = None if net else run.gross
    return Weighing(f"Run {pair.index + 1}", gross, None if net else run.tare, net, indicated)


def _apart(masses: Sequence[Quantity | None]) -> tuple[float, float] | None:
    """Masses that were all written in pounds and ounces: their sum, and the sum if read as decimals."""
    if not any(mass is not None and mass.ounces is not None for mass in masses):
        return None
    meant, keyed = 0.0, 0.0
    for mass in masses:
        if mass is None:
            return None
        meant += mass.si
        if mass.ounces is None or mass.pounds is None or mass.ounces != int(mass.ounces):
            keyed += mass.si
        else:
            keyed += to_si(float(f"{int(mass.pounds)}.{int(mass.ounces)}"), "lb")
    return meant, keyed


def _questions(stage: Stage) -> list[FieldQuestion]:
    """Quiet questions about single entries that look like a slip of unit or decimal point."""
    asked = []
    for pair in stage.evidence.pairs:
        ratio = pair.reference / pair.indicated if pair.indicated > 0 else None
        if not ratio or not math.isfinite(ratio) or at_most(abs(ratio - 1), WORTH_A_QUESTION):
            continue
        run = stage.runs[pair.index]
        wrong = slips.unit_question(ratio, run.indicated.unit if run.indicated else "")
        if wrong:
            key = "indicated" if run.indicated else "total_end"
            asked.append(FieldQuestion(f"inputs.{stage.name}[{pair.index}].{key}", wrong))
    return asked


def not_ready_zero(zero_done: str | None) -> tuple[Check, list[Reason]]:
    """The rule of `zero-first`: a zero in this job or today, before anything is compared."""
    if zero_done in ("job", "today"):
        when = "in this job" if zero_done == "job" else "today"
        return Check("zero-first", "pass", f"The zero was taken {when}."), []
    when = "longer ago than today" if zero_done == "earlier" else "not said to have been taken"
    text = f"The zero was {when}. Run it empty and take the zero first, or the factor swallows the zero's error."
    return Check("zero-first", "fail", text), [Reason("zero-first", text, {"path": "inputs.zero_done"})]


def factor_check(given: ComparisonInputs) -> list[Check]:
    """A note where a factor was typed with more decimals than the instrument takes."""
    checks = []
    for factor in (given.factor, given.as_left_factor):
        if factor is not None and given.factor_decimals is not None and decimals_of(factor) > given.factor_decimals:
            text = (
                f"{factor!r} has {decimals_of(factor)} decimals and the instrument takes {given.factor_decimals}: "
                "read again what it shows."
            )
            checks.append(Check("factor-decimals", "note", text))
    return checks


def reference_plan(given: ComparisonInputs, setting: Setting, answer: Assessment[ComparisonResults]) -> list[str]:
    """What the reference asks for, in sentences."""
    own = given.reference_uncertainty.si / 2 if given.reference_uncertainty else 0.0
    on = OnReference(given.reference_division, given.reference_readings or 1, own, setting.profile.accept)
    least = answer.results.smallest_amount
    return on.sentences(least.quantity if least else None)
