"""The tally of a comparison: the figure to key in, and each run as it was and as it would have read."""

import math

from wary.fields import Run
from wary.methods.shared.results import ComparisonResults, RunResults
from wary.methods.shared.stages import (
    ComparisonInputs,
    Shows,
    Stage,
    net_of_run,
    pair_of,
    shown_by,
    shown_first,
)
from wary.quantities import round_half_up
from wary.results import Figure, YesNo, in_unit, percent, value_of
from wary.rules.assessment import Assessment, Check
from wary.rules.correction import KeyIn, gain, key_in_factor, signed
from wary.rules.evidence import Pair


def correct(
    answer: Assessment[ComparisonResults], stage: Stage, given: ComparisonInputs, ratio: float, offset: float = 0.0
) -> None:
    """The figure to key in, and what it would have made of these runs.

    `offset` (kg a run) is taken off after the factor, where the instrument does so: then
    `new = old × (ΣR + n·offset)/(ΣI + n·offset)`.
    """
    evidence = stage.evidence
    if offset:
        whole = evidence.count * offset
        over, under = evidence.reference_sum + whole, evidence.indicated_sum + whole
        if over <= 0 or under <= 0:
            text = "With this offset the raw readings would be zero or less: look at the offset, and at its sign."
            answer.checks.append(Check("offset", "fail", text))
            return
        ratio = over / under
    change = (ratio - 1) * 100
    answer.results.percent_change = Figure(change, "%")
    answer.key_in = KeyIn(signed(change))
    if stage.factor is None:
        return
    new = key_in_factor(stage.factor, ratio, given.direction, given.factor_decimals)
    if given.factor_decimals is not None and round_half_up(new.exact, given.factor_decimals) <= 0:
        text = f"Rounded to {given.factor_decimals} decimals the factor would be zero: look at the decimals it takes."
        answer.checks.append(Check("factor-decimals", "fail", text))
    predicted = _mean_after(stage, gain(stage.factor, new.keyed, given.direction), offset)
    unrounded = _mean_after(stage, gain(stage.factor, new.exact, given.direction), offset)
    answer.results.new_factor = Figure(new.keyed)
    answer.results.predicted_error = percent(predicted)
    answer.key_in = new.key_in(change, predicted, abs(predicted - unrounded))


def _mean_after(stage: Stage, grown: float, offset: float) -> float:
    """The mean error of these runs, had readings been `grown` times as large before the offset."""
    pairs = stage.evidence.pairs
    return math.fsum(error_after(pair, grown, offset) for pair in pairs) / len(pairs)


def error_after(pair: Pair, grown: float, offset: float = 0.0) -> float:
    """One run's relative error after readings grew `grown` times before an offset (kg) is taken off."""
    return ((pair.indicated + offset) * grown - offset) / pair.reference - 1


def list_runs(
    answer: Assessment[ComparisonResults], stage: Stage, given: ComparisonInputs, offset: float = 0.0
) -> None:
    """`runs[]`: each run's net, indication and error, set aside or not, for the tally."""
    new = value_of(answer.results.new_factor)
    grown = gain(stage.factor, new, given.direction) if new and stage.factor else None
    shows = shown_by(given)
    rows = []
    for place, run in enumerate(stage.runs):
        # What was worked out of a run once is not worked out again.
        key = (stage.unit, place, shows, grown, offset, run.set_aside is None)
        row = run.remembered.get(key)
        if not isinstance(row, RunResults):
            row = run.remembered[key] = _row(run, place, stage.unit, shows, grown, offset)
        rows.append(row)
    answer.results.runs = rows


def _row(run: Run, place: int, unit: str, shows: Shows, grown: float | None, offset: float) -> RunResults:
    row = RunResults(YesNo(run.set_aside is None))
    if not run.is_complete:
        _halves(row, run, unit)
        return row
    pair = pair_of(run, place, shows)
    row.reference = in_unit(pair.reference, unit)
    indicated = shown_first(run)
    assert indicated is not None
    row.indicated = in_unit(pair.indicated, indicated.unit)
    if pair.reference > 0 and math.isfinite(pair.error):
        row.error = percent(pair.error)
        if grown:
            row.predicted_error = percent(error_after(pair, grown, offset))
    return row


def _halves(row: RunResults, run: Run, unit: str) -> None:
    """What can be said of a run that is not complete: the net or the indication alone."""
    net = net_of_run(run)
    if net:
        row.reference = in_unit(net.mass, unit)
    shown = run.readings_shown()
    if shown:
        row.indicated = in_unit(math.fsum(one.si for one in shown), shown[0].unit)
    elif run.total_start and run.total_end:
        row.indicated = in_unit(run.total_end.si - run.total_start.si, run.total_end.unit)
