"""What was done on a stand-in beside what was true of it. The score is on decisions, not on figures.

A decision that the hidden state did not ask for is left out: nobody is praised for not hiding a
fault where there was none.
"""

from dataclasses import dataclass
from typing import Literal

from wary.rules.assessment import FIND_FAULT, KEEP_TESTING, NOT_READY, Call
from wary.simulators.stand_in import Truth

Decision = Literal["found", "left-alone", "put-right", "not-hidden", "enough", "proved", "time"]

TITLES: dict[Decision, str] = {
    "found": "A fault is found",
    "left-alone": "What is in order is left alone",
    "put-right": "What is out is put right",
    "not-hidden": "No factor is touched to hide a fault",
    "enough": "Enough is weighed before deciding",
    "proved": "Nothing is trusted half entered",
    "time": "It takes no longer than it should",
}
"""Every decision that counts, in words, in the order in which they are shown."""


MOST_VENTURED = 1
"""So many things may be mended that were sound, where a fault is looked for."""


@dataclass(frozen=True)
class Facts:
    """What was done: the call at the end, whether it was closed as fit for use, whether a change was proved, minutes, runs.

    `call` is that of the part that decides; `stopped` says that the machine was left for repair or
    out of service, or the practice given up; `unproven` that something was changed and not proved.
    """

    call: Call | Literal[""]
    stopped: bool
    unproven: bool
    read_back: bool
    minutes: float
    runs: int


@dataclass(frozen=True)
class Judged:
    """One decision: which, whether it was right, and why in a sentence."""

    decision: Decision
    right: bool
    text: str


@dataclass(frozen=True)
class Score:
    """A verdict in a sentence, the decisions that counted, and whether all that mattered were right."""

    verdict: str
    judged: tuple[Judged, ...]
    good: bool


def score(truth: Truth, facts: Facts, usual_minutes: float) -> Score:
    """How what was done stands beside what was true."""
    touched = truth.touched or (facts.read_back and not truth.cured)
    judged = [*_of_state(truth, facts, touched), _enough(truth, facts), _proved(facts), _time(facts, usual_minutes)]
    wrong = [one for one in judged if not one.right and one.decision != "time"]
    verdict = _verdict(truth, facts, touched)
    if wrong and wrong[0].decision in ("enough", "proved"):
        # The decision itself was right; what it rested on was not.
        verdict += f" But: {wrong[0].text[0].lower()}{wrong[0].text[1:]}"
    return Score(verdict, tuple(judged), not wrong)


def _of_state(truth: Truth, facts: Facts, touched: bool) -> list[Judged]:
    if truth.right == "leave":
        said = "It was in order, and its settings stand as they were." if not touched else "It was in order, and was changed all the same."  # fmt: skip
        return [Judged("left-alone", not touched, said)]
    if truth.right == "adjust":
        if truth.put_right:
            return [Judged("put-right", True, f"It reads right now. Right was: {truth.right_figure}.")]
        said = "changed, and does not read right" if touched else "left as it was"
        return [Judged("put-right", False, f"It was out, and was {said}. Right would have been: {truth.right_figure}.")]
    found = truth.cured or facts.call == FIND_FAULT or (facts.stopped and facts.runs > 0)
    hidden = "The factor was left alone while the fault was there." if not touched else "There was a fault, and a setting was changed: that hides it."  # fmt: skip
    if truth.cured and truth.ventured > MOST_VENTURED:
        said = "Things were mended at a venture, and one of them was the fault: that is not finding it."
        return [Judged("found", False, said), Judged("not-hidden", not touched, hidden)]
    seen = "The fault was found and ended." if truth.cured else "The fault was found, and the machine kept from use." if found else "The fault went unseen."  # fmt: skip
    return [Judged("found", found, seen), Judged("not-hidden", not touched, hidden)]


def _enough(truth: Truth, facts: Facts) -> Judged:
    weighed = (
        "Nothing was weighed"
        if not facts.runs
        else f"{facts.runs} row{'' if facts.runs == 1 else 's'} of readings written down"
    )
    if truth.right == "find-fault":
        return Judged("enough", facts.runs > 0, f"{weighed} before deciding.")
    enough = facts.call not in (KEEP_TESTING, NOT_READY, "") and facts.runs > 0
    said = "enough for a call." if enough else "the evidence was still short of a call."
    return Judged("enough", enough, f"{weighed}: {said}")


def _proved(facts: Facts) -> Judged:
    if facts.unproven and not facts.stopped:
        return Judged("proved", False, "Something was changed or half entered, and trusted without a proof.")
    return Judged("proved", True, "Nothing was left half entered and trusted.")


def _time(facts: Facts, usual: float) -> Judged:
    said = f"It took {facts.minutes:.0f} min on the machine's clock; somebody who knows it takes about {usual:g}."
    return Judged("time", facts.minutes <= 2 * usual, said)


def _verdict(truth: Truth, facts: Facts, touched: bool) -> str:
    if truth.right == "leave":
        return "Left alone, rightly." if not touched else "It was in order, and was touched all the same."
    if truth.right == "adjust":
        return "Adjusted, and rightly." if truth.put_right else "It was out, and was not put right."
    if touched:
        return "There was a fault, and a setting was changed: that hides it."
    if truth.cured and truth.ventured > MOST_VENTURED:
        return "Everything was mended at a venture."
    if truth.cured:
        return "The fault was found and cured, and the factor left alone."
    if facts.stopped or facts.call == FIND_FAULT:
        return "Nothing was adjusted over the fault, rightly."
    return "The fault went unseen."
