"""What was true of a stand-in beside what was done to it. The score is on decisions, not on figures."""

from typing import Any

from beacon.bench.document import Assessed
from beacon.bench.fold import live_rows, text_at
from beacon.bench.models import Job
from wary.simulators.belt import Action, Belt

CLOSE_ENOUGH = 0.004
CURES = {"build-up": "clean", "tight-belt": "tension"}


def score(belt: Belt, actions: list[Action], job: Job, assessed: Assessed) -> dict[str, Any]:
    """The truth, a verdict in a sentence, and what speaks for and against it."""
    truth = belt.truth()
    keyed = [action.figure for action in actions if action.what == "key"]
    read_back = text_at(job.fold, "read_back")
    touched = bool(keyed) or bool(read_back)
    outcome = (job.closing or {}).get("outcome", "")
    done = {action.what for action in actions}
    lines = []
    if belt.fault == "none":
        good = not touched
        verdict = "Left alone, rightly." if good else "It was in order, and its factor was touched all the same."
    elif belt.fault == "out":
        right = belt.true_factor
        last = keyed[-1] if keyed else None
        good = last is not None and abs(last / right - 1) <= CLOSE_ENOUGH
        verdict = "Adjusted, and rightly." if good else "It was out, and was not put right."
        if last is not None:
            lines.append(f"Keyed in: {last:g}. Right would have been {right:.4f}.")
    else:
        cure = CURES.get(belt.fault)
        cured = cure is not None and cure in done
        stopped = outcome in ("out-of-service", "abandoned") or assessed.assessment.call == "find-fault"
        good = not touched and (cured or stopped)
        if touched:
            verdict = "There was a fault, and the factor was changed: that hides it."
        elif cured:
            verdict = "The fault was found and cured, and the factor left alone."
        elif stopped:
            verdict = "Nothing was adjusted over the fault, rightly."
        else:
            verdict = "The fault went unseen."
    runs = len(live_rows(job.fold, "runs"))
    lines.append(f"{runs} material run{'' if runs == 1 else 's'} taken as found.")
    zero = any(live_rows(job.fold, name) for name in job.fold["rows"] if name.endswith("/idle"))
    lines.append("The zero was checked first." if zero else "The zero was not checked.")
    return truth | {"verdict": verdict, "lines": lines, "good": good}
