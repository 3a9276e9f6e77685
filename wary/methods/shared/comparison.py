"""What every method that compares runs shares: reading the runs, the common results, as found and as left."""

import math
from collections.abc import Callable, Sequence
from typing import Any

from wary.fields import Plates, at_most, said_twice
from wary.methods.method import Method, Setting
from wary.methods.shared.stages import ComparisonInputs, Stage, read_stage
from wary.methods.shared.tally import correct, list_runs
from wary.quantities import Quantity, decimals_of, from_si, percent_shown, shown, to_si
from wary.rules import slips
from wary.rules.assessment import ADJUST, FIND_FAULT, Assessment, Check, Reason, finite, missing, value
from wary.rules.call import RULES, Question, Rule, Verdict, headline, judge, lead, needed_amount
from wary.rules.correction import nominal_ratio
from wary.rules.evidence import Evidence
from wary.rules.forms import ShouldRead
from wary.rules.planning import OnReference


class ComparisonMethod(Method):
    """A method whose heart is a tally of runs. `rules` are the rules of its call, with its own among them."""

    least_runs = 1
    compares = True
    rules: tuple[Rule, ...] = RULES
    against = ("reference_division", "reference_uncertainty")

    def should_read(self, given: Any, answer: Assessment) -> ShouldRead | None:
        last = [
            (number, row)
            for number, row in enumerate(answer.results.get("runs", []), 1)
            if row["in_set"]["value"] and "error" in row
        ]
        if not last:
            return None
        number, row = last[-1]
        shows = Quantity(row["indicated"]["value"], row["indicated"]["unit"], "")
        should = from_si(to_si(row["reference"]["value"], row["reference"]["unit"]), shows.unit)
        return ShouldRead(Quantity(should, shows.unit, ""), shows, f"run {number}'s load")

    def offset_after(self, given: Any) -> float:
        """A mass in kg that the instrument takes off after the factor; zero where it does not."""
        return 0.0

    def contradictions(self, raw: dict[str, Any]) -> list[tuple[tuple[str | int, ...], str]]:
        found: list[tuple[tuple[str | int, ...], str]] = []
        for name in ("runs", "as_left"):
            rows = raw.get(name)
            for place, run in enumerate(rows if isinstance(rows, list) else []):
                if isinstance(run, dict):
                    found += [((name, place, key), text) for key, text in said_twice(run)]
        return found


WORTH_A_QUESTION = 0.06
"""How far one run must be off before its own entry is asked about: short tons for tonnes are 10 %."""

Looker = Callable[[Stage, float | None], tuple[list[Check], list[Reason]]]
"""A method's own checks on a stage and `R_min`: the checks, and reasons that make it not ready."""


def compare(
    method: ComparisonMethod, given: ComparisonInputs, setting: Setting, looks: Looker, where_to_look: Sequence[str]
) -> Assessment:
    """The assessment of a comparison: of `runs` alone, or of `as_left` with the as-found beside it."""
    needs_runs = not given.runs and (not given.as_left or setting.occasion not in ("first", "repair"))
    found = _stage_assessment(
        method, given, setting, read_stage("runs", given, setting, given.factor), looks, where_to_look, needs_runs
    )
    if not given.as_left:
        return found
    keyed = found.results.get("new_factor", {}).get("value")
    factor = given.as_left_factor or keyed or given.factor
    left = _stage_assessment(
        method, given, setting, read_stage("as_left", given, setting, factor), looks, where_to_look, needs_runs
    )
    left.as_found = found if given.runs else None
    left.questions = found.questions + left.questions
    return left


def _stage_assessment(
    method: ComparisonMethod,
    given: ComparisonInputs,
    setting: Setting,
    stage: Stage,
    looks: Looker,
    where_to_look: Sequence[str],
    needs_runs: bool,
) -> Assessment:
    profile, evidence = setting.profile, stage.evidence
    division = given.reference_division.si if given.reference_division else None
    smallest = needed_amount(evidence, profile, division, given.reference_readings or 1)
    checks, unready = looks(stage, smallest)
    absent = [missing("inputs.runs", "There are no runs yet: weigh the first load.")] if needs_runs else []
    if profile.accept is None:
        absent.append(missing("profile.accept", "This profile has no accept limit: say how far off is still in order."))
    ask = Question(
        evidence=evidence,
        profile=profile,
        minimum=max(profile.minimum_runs, method.least_runs),
        occasion=setting.occasion,
        unready=[*absent, *stage.absent, *setting.overdue(), *unready],
        failed=[Reason("sanity", check.text) for check in checks if check.state == "fail"],
        reference_division=division,
        smallest=smallest,
        aside=stage.aside,
        unit=stage.unit,
    )
    verdict = judge(ask, method.rules)
    ratio = evidence.pooled_ratio if evidence.pairs and evidence.usable() else None
    offset = method.offset_after(given)
    answer = Assessment(
        method=method.key,
        call=verdict.call,
        reasons=verdict.reasons,
        headline=headline(verdict, ratio),
        lead=lead(verdict, evidence),
        results=_common_results(stage, smallest, verdict, ask.minimum),
        suggestions=verdict.suggestions,
        checks=[*checks, *_common_checks(stage, profile.accept.percentage if profile.accept else None)],
        look=list(where_to_look) if verdict.call == FIND_FAULT else [],
        questions=_questions(stage),
        down=ratio is not None and ratio < 1,
    )
    answer.budget = _budget(evidence)
    if ratio is not None:
        answer.slips = _slips(stage, given, ratio)
        if verdict.call == ADJUST:
            correct(answer, stage, given, ratio, offset)
    list_runs(answer, stage, given, offset)
    answer.results = finite(answer.results)
    return answer


def _common_results(stage: Stage, smallest: float | None, verdict: Verdict, minimum: int) -> dict[str, Any]:
    evidence, unit = stage.evidence, stage.unit
    results: dict[str, Any] = {"runs_in_set": value(evidence.count), "minimum_runs": value(minimum)}
    if smallest is not None:
        results["smallest_amount"] = value(from_si(smallest, unit), unit)
    if not evidence.pairs or not evidence.usable():
        return results
    if evidence.pooled_ratio is not None:
        results["pooled_ratio"] = value(evidence.pooled_ratio)
    if evidence.mean_of_ratios is not None:
        results["mean_of_ratios"] = value(evidence.mean_of_ratios)
    results["mean_error"] = value(evidence.mean_error * 100, "%")
    results["spread"] = value(evidence.spread * 100, "%")
    if evidence.standard_deviation is not None:
        results["standard_deviation"] = value(evidence.standard_deviation * 100, "%")
    results["mean_error_mass"] = value(from_si(evidence.mean_error_mass, unit), unit)
    results["expanded_uncertainty"] = value(evidence.expanded_uncertainty * 100, "%")
    results["coverage_factor"] = value(evidence.coverage_factor)
    if verdict.runs_needed is not None:
        results["runs_needed"] = value(verdict.runs_needed)
    return results


def _budget(evidence: Evidence) -> list[dict[str, Any]]:
    """Each term of the uncertainty that counts, in %, with its share of `U²` in %."""
    if not evidence.pairs or not evidence.usable() or evidence.expanded_uncertainty <= 0:
        return []
    rows = []
    for term, size, counts in evidence.budget():
        if counts and size > 0:
            share = (size / evidence.expanded_uncertainty) ** 2
            text = f"{term} ± {percent_shown(size)}, {percent_shown(share, decimals=0)} of it"
            rows.append({"term": term, "size": value(size * 100, "%"), "share": value(share * 100, "%"), "text": text})
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


def _slips(stage: Stage, given: ComparisonInputs, ratio: float) -> list[dict[str, object]]:
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
    )
    found = slips.explain(ratio, evidence.expanded_uncertainty, entered)
    if stage.factor and given.nominal_factor:
        off = nominal_ratio(stage.factor, given.nominal_factor, ratio, given.direction)
        found += slips.explain(off, evidence.expanded_uncertainty, entered, of="nominal")
    return found


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


def _questions(stage: Stage) -> list[dict[str, str]]:
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
            asked.append({"path": f"inputs.{stage.name}[{pair.index}].{key}", "text": wrong})
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


def reference_plan(given: ComparisonInputs, setting: Setting, answer: Assessment) -> list[str]:
    """What the reference asks for, in sentences."""
    own = given.reference_uncertainty.si / 2 if given.reference_uncertainty else 0.0
    on = OnReference(given.reference_division, given.reference_readings or 1, own, setting.profile.accept)
    least = answer.results.get("smallest_amount")
    return on.sentences(Quantity(least["value"], least["unit"], "") if least else None)
