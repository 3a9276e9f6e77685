"""The figure to key in, and each run as it was and as it would have read."""

import math
from typing import Any

from wary.fields import Run
from wary.method import Assessment, Check, value
from wary.quantities import decimals_of, from_si, percent_shown, round_half_up
from wary.stages import ComparisonInputs, Stage, lacking_in, pair_of


def correct(answer: Assessment, stage: Stage, given: ComparisonInputs, ratio: float) -> None:
    """The figure to key in, and what it would have made of these runs."""
    change = (ratio - 1) * 100
    answer.results["percent_change"] = value(change, "%")
    key_in: dict[str, Any] = {"percent": _signed(change)}
    if stage.factor is not None:
        exact = stage.factor / ratio if given.direction == "divides" else stage.factor * ratio
        keyed = exact if given.factor_decimals is None else round_half_up(exact, given.factor_decimals)
        if keyed <= 0:
            text = (
                f"Rounded to {given.factor_decimals} decimals the factor would be zero: look at the decimals it takes."
            )
            answer.checks.append(Check("factor-decimals", "fail", text))
            keyed = exact
        error = stage.evidence.mean_error
        predicted = (1 + error) * _gain(stage.factor, keyed, given.direction) - 1
        unrounded = (1 + error) * _gain(stage.factor, exact, given.direction) - 1
        answer.results["new_factor"] = value(keyed)
        answer.results["predicted_error"] = value(predicted * 100, "%")
        key_in |= {
            "factor": _as_keyed(keyed, given.factor_decimals),
            "was": _as_keyed(stage.factor, given.factor_decimals),
            "change": f"{'up' if keyed > stage.factor else 'down'} {percent_shown(abs(keyed / stage.factor - 1))}",
            "would_read": percent_shown(predicted, sign=True),
            "rounding": percent_shown(abs(predicted - unrounded)),
        }
    answer.key_in = key_in


def _signed(percent: float) -> str:
    return f"{'+' if percent > 0 else '−'}{abs(percent):.2f}"


def _gain(old: float, new: float, direction: str | None) -> float:
    """By how much readings grow when the factor goes from old to new."""
    return old / new if direction == "divides" else new / old


def _as_keyed(factor: float, decimals: int | None) -> str:
    if decimals is None:
        return f"{factor:.6g}"
    return f"{factor:.{max(decimals, min(decimals_of(factor), 12))}f}"


def list_runs(answer: Assessment, stage: Stage, given: ComparisonInputs) -> None:
    """`runs[]`: each run's net, indication and error, set aside or not, for the tally."""
    new = answer.results.get("new_factor", {}).get("value")
    gain = _gain(stage.factor, new, given.direction) if new and stage.factor else None
    rows = []
    for place, run in enumerate(stage.runs):
        row: dict[str, Any] = {"in_set": value(run.set_aside is None)}
        if not lacking_in(_in_set(run), "", place):
            pair = pair_of(run, place, given)
            row["reference"] = value(from_si(pair.reference, stage.unit), stage.unit)
            indicated = run.indicated or run.total_end
            assert indicated is not None
            row["indicated"] = value(from_si(pair.indicated, indicated.unit), indicated.unit)
            if pair.reference > 0 and math.isfinite(pair.error):
                row["error"] = value(pair.error * 100, "%")
                if gain:
                    row["predicted_error"] = value(((1 + pair.error) * gain - 1) * 100, "%")
        else:
            row |= _halves(run, stage.unit)
        rows.append(row)
    answer.results["runs"] = rows


def _halves(run: Run, unit: str) -> dict[str, Any]:
    """What can be said of a run that is not complete: the net or the indication alone."""
    row: dict[str, Any] = {}
    net = run.reference or (run.gross if run.zeroed else None)
    if net:
        row["reference"] = value(from_si(net.si, unit), unit)
    elif run.gross and run.tare:
        row["reference"] = value(from_si(run.gross.si - run.tare.si, unit), unit)
    if run.indicated:
        row["indicated"] = value(run.indicated.value, run.indicated.unit)
    elif run.total_start and run.total_end:
        moved = from_si(run.total_end.si - run.total_start.si, run.total_end.unit)
        row["indicated"] = value(moved, run.total_end.unit)
    return row


def _in_set(run: Run) -> Run:
    """The run as though it were in the set."""
    return run.model_copy(update={"set_aside": None}) if run.set_aside is not None else run
