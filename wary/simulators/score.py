"""What was true of a stand-in beside what was done to it. The score is on decisions, not on figures."""

from dataclasses import dataclass

from wary.simulators.stand_in import Truth

CLOSE_ENOUGH = 0.004


@dataclass(frozen=True)
class Facts:
    """What was done: the figures keyed in, a read-back typed, actions taken, whether it was stopped, and how much was tested."""

    keyed: tuple[float, ...]
    read_back: bool
    done: frozenset[str]
    stopped: bool
    runs: int
    zero_checked: bool


@dataclass(frozen=True)
class Score:
    """A verdict in a sentence, what speaks for and against it, and whether it was right."""

    verdict: str
    lines: tuple[str, ...]
    good: bool


def score(truth: Truth, facts: Facts) -> Score:
    """How what was done stands beside what was true."""
    touched = bool(facts.keyed) or facts.read_back
    lines = []
    if truth.may_adjust:
        last = facts.keyed[-1] if facts.keyed else None
        right = truth.right_factor or 0.0
        good = last is not None and right > 0 and abs(last / right - 1) <= CLOSE_ENOUGH
        verdict = "Adjusted, and rightly." if good else "It was out, and was not put right."
        if last is not None:
            lines.append(f"Keyed in: {last:g}. Right would have been {right:.4f}.")
    elif truth.right_factor is not None:
        good = not touched
        verdict = "Left alone, rightly." if good else "It was in order, and its factor was touched all the same."
    else:
        cured = bool(set(truth.cures) & facts.done)
        good = not touched and (cured or facts.stopped)
        verdict = _of_fault(touched, cured, facts.stopped)
    lines.append(f"{facts.runs} run{'' if facts.runs == 1 else 's'} taken as found.")
    lines.append("The zero was checked first." if facts.zero_checked else "The zero was not checked.")
    return Score(verdict, tuple(lines), good)


def _of_fault(touched: bool, cured: bool, stopped: bool) -> str:
    if touched:
        return "There was a fault, and the factor was changed: that hides it."
    if cured:
        return "The fault was found and cured, and the factor left alone."
    if stopped:
        return "Nothing was adjusted over the fault, rightly."
    return "The fault went unseen."
