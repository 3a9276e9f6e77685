"""The tally of a comparison: the figure to key in, and each run as it was and as it would have read."""

import math
from typing import Any

from wary.fields import Run
from wary.methods.shared.stages import ComparisonInputs, Stage, lacking_in, net_of_run, pair_of, shown_first
from wary.quantities import from_si, round_half_up
from wary.rules.assessment import Assessment, Check, value
from wary.rules.correction import gain, key_in_factor, signed
from wary.rules.evidence import Pair


def correct(answer: Assessment, stage: Stage, given: ComparisonInputs, ratio: float, offset: float = 0.0) -> None:
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
    answer.results["percent_change"] = value(change, "%")
    answer.key_in = {"percent": signed(change)}
    if stage.factor is None:
        return
    key_in = key_in_factor(stage.factor, ratio, given.direction, given.factor_decimals)
    if given.factor_decimals is not None and round_half_up(key_in.exact, given.factor_decimals) <= 0:
        text = f"Rounded to {given.factor_decimals} decimals the factor would be zero: look at the decimals it takes."
        answer.checks.append(Check("factor-decimals", "fail", text))
    predicted = _mean_after(stage, gain(stage.factor, key_in.keyed, given.direction), offset)
    unrounded = _mean_after(stage, gain(stage.factor, key_in.exact, given.direction), offset)
    answer.results["new_factor"] = value(key_in.keyed)
    answer.results["predicted_error"] = value(predicted * 100, "%")
    answer.key_in = key_in.as_json(change, predicted, abs(predicted - unrounded))


def _mean_after(stage: Stage, grown: float, offset: float) -> float:
    """The mean error of these runs, had readings been `grown` times as large before the offset."""
    pairs = stage.evidence.pairs
    return math.fsum(error_after(pair, grown, offset) for pair in pairs) / len(pairs)


def error_after(pair: Pair, grown: float, offset: float = 0.0) -> float:
    """One run's relative error after readings grew `grown` times before an offset (kg) is taken off."""
    return ((pair.indicated + offset) * grown - offset) / pair.reference - 1


def list_runs(answer: Assessment, stage: Stage, given: ComparisonInputs, offset: float = 0.0) -> None:
    """`runs[]`: each run's net, indication and error, set aside or not, for the tally."""
    new = answer.results.get("new_factor", {}).get("value")
    grown = gain(stage.factor, new, given.direction) if new and stage.factor else None
    rows = []
    for place, run in enumerate(stage.runs):
        row: dict[str, Any] = {"in_set": value(run.set_aside is None)}
        if not lacking_in(_in_set(run), "", place):
            pair = pair_of(run, place, given)
            row["reference"] = value(from_si(pair.reference, stage.unit), stage.unit)
            indicated = shown_first(run)
            assert indicated is not None
            row["indicated"] = value(from_si(pair.indicated, indicated.unit), indicated.unit)
            if pair.reference > 0 and math.isfinite(pair.error):
                row["error"] = value(pair.error * 100, "%")
                if grown:
                    row["predicted_error"] = value(error_after(pair, grown, offset) * 100, "%")
        else:
            row |= _halves(run, stage.unit)
        rows.append(row)
    answer.results["runs"] = rows


def _halves(run: Run, unit: str) -> dict[str, Any]:
    """What can be said of a run that is not complete: the net or the indication alone."""
    row: dict[str, Any] = {}
    net = net_of_run(run)
    if net:
        row["reference"] = value(from_si(net.mass, unit), unit)
    shown = run.readings_shown()
    if shown:
        row["indicated"] = value(from_si(math.fsum(one.si for one in shown), shown[0].unit), shown[0].unit)
    elif run.total_start and run.total_end:
        moved = from_si(run.total_end.si - run.total_start.si, run.total_end.unit)
        row["indicated"] = value(moved, run.total_end.unit)
    return row


def _in_set(run: Run) -> Run:
    """The run as though it were in the set."""
    return run.model_copy(update={"set_aside": None}) if run.set_aside is not None else run
