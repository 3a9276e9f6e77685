"""The call: five answers, ten rules, the first that applies decides.

The rules and their codes are those of the evidence rules; each reason is a sentence that quotes
the figures which caused it. Masses in kg, errors and limits as fractions.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from wary.evidence import NORMAL_95, Evidence, range_factor
from wary.fields import Limit, at_most
from wary.planning import smallest_amount
from wary.quantities import mass_shown, percent_shown, shown

NOT_READY, KEEP_TESTING, FIND_FAULT, ADJUST, LEAVE = "not-ready", "keep-testing", "find-fault", "adjust", "leave"

FACTOR_OF_THREE = 3.0
"""How far off a first calibration may be: the starting figure is only a table's."""


@dataclass(frozen=True)
class Profile:
    """Limits that apply to a job; what a profile leaves open is None."""

    accept: Limit | None
    repeat: float | None
    minimum_runs: int
    plausible: float | None
    name: str | None = None

    def repeat_limit(self, count: int) -> float | None:
        """The repeat limit for so many runs: it is meant for three, more range wider by chance."""
        return None if self.repeat is None else self.repeat * range_factor(count)


@dataclass(frozen=True)
class Reason:
    """Why a call was made: its code, its sentence, and what else belongs to it."""

    code: str
    text: str
    more: dict[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        return {"code": self.code, "text": self.text, **self.more}


@dataclass(frozen=True)
class Verdict:
    """A call with its reasons, and what the rules worked out on the way."""

    call: str
    reasons: list[Reason]
    suggestions: list[Reason] = field(default_factory=list)
    runs_needed: int | None = None


@dataclass(frozen=True)
class Question:
    """What the rules are asked about one list of runs.

    `minimum` is the least number of runs; `unready` and `failed` are what the method found before
    any comparison; `smallest` is `R_min`; `aside` counts the runs set aside; `unit` is the mass
    unit to speak in.
    """

    evidence: Evidence
    profile: Profile
    minimum: int
    occasion: str = "routine"
    unready: Sequence[Reason] = ()
    failed: Sequence[Reason] = ()
    reference_division: float | None = None
    smallest: float | None = None
    aside: int = 0
    unit: str = "kg"


def needed_amount(evidence: Evidence, profile: Profile, division: float | None, otherwise: int) -> float | None:
    """`R_min` for the percentage accept limit and the most readings any run has.

    `otherwise` is the number of readings to plan with while there is no run.
    """
    share = profile.accept.percentage if profile.accept else None
    if division is None or not share:
        return None
    readings = evidence.most_readings if evidence.pairs else otherwise
    return smallest_amount(division, readings, evidence.u_reference, share)


def judge(ask: Question) -> Verdict:
    """The first of the ten rules that applies."""
    evidence = ask.evidence
    if ask.unready:
        return Verdict(NOT_READY, list(ask.unready))
    if evidence.count < ask.minimum:
        return Verdict(KEEP_TESTING, [_too_few(ask)])
    if ask.failed:
        return Verdict(FIND_FAULT, list(ask.failed))
    implausible = _implausible(ask)
    if implausible:
        return Verdict(FIND_FAULT, [implausible])
    scattered = _not_repeating(ask)
    if scattered:
        return Verdict(FIND_FAULT, [scattered], _stands_apart(ask))
    return _of_the_mean(ask)


def _too_few(ask: Question) -> Reason:
    have, want = ask.evidence.count, ask.minimum
    more = want - have
    lead = f"All {ask.aside} runs are set aside" if not have and ask.aside else f"{have} of {want} runs are in"
    ask_for = "one more" if more == 1 else f"{more} more"
    text = f"{lead}; {ask_for} before anything is decided."
    return Reason("too-few-runs", text, {"runs": have, "minimum": want})


def _implausible(ask: Question) -> Reason | None:
    evidence = ask.evidence
    ratio = evidence.pooled_ratio
    if ratio is None or not evidence.usable():
        total = mass_shown(evidence.indicated_sum, ask.unit)
        return Reason("implausible", f"Over these runs it indicated {total} in all: nothing to take a ratio from.")
    if ask.occasion == "first":
        if at_most(ratio, FACTOR_OF_THREE) and at_most(1 / FACTOR_OF_THREE, ratio):
            return None
        band = "a factor of three either way, which is wide even for a first calibration"
    else:
        if ask.profile.plausible is None or at_most(abs(ratio - 1), ask.profile.plausible):
            return None
        band = f"± {percent_shown(ask.profile.plausible, decimals=0)}"
    text = (
        f"Weighed over indicated is {shown(ratio, 4)}; beyond {band} something was entered or fitted wrongly, "
        "and no factor cures that."
    )
    return Reason("implausible", text)


def _not_repeating(ask: Question) -> Reason | None:
    allowed = ask.profile.repeat_limit(ask.evidence.count)
    if allowed is None or at_most(ask.evidence.spread, allowed):
        return None
    text = (
        f"The {ask.evidence.count} runs range over {percent_shown(ask.evidence.spread)}; up to "
        f"{percent_shown(allowed)} counts as repeating. A factor set now would be set by chance."
    )
    return Reason("not-repeating", text)


def _stands_apart(ask: Question) -> list[Reason]:
    """The one run whose removal brings the others within their limit, where there is one."""
    evidence = ask.evidence
    total = evidence.count + ask.aside
    if evidence.count < 4 or evidence.count - 1 < ask.minimum or ask.aside + 1 > max(1, total / 5):
        return []
    allowed = ask.profile.repeat_limit(evidence.count - 1)
    best: tuple[float, int] | None = None
    for place, spread in enumerate(_spreads_without_each(evidence.errors)):
        if allowed is not None and at_most(spread, allowed) and (best is None or spread < best[0] - 1e-12):
            best = (spread, place)
    if best is None:
        return []
    spread, place = best
    run = evidence.pairs[place].index
    text = (
        f"Run {run + 1} stands apart: without it the others agree within {percent_shown(spread)}. "
        "Find out what happened to it, or set it aside with the reason."
    )
    return [Reason("set-aside", text, {"run": run})]


def _spreads_without_each(errors: Sequence[float]) -> list[float]:
    """For each error, the spread of all the others (two or more errors)."""
    order = sorted(errors)
    spreads = []
    for error in errors:
        low = order[1] if error == order[0] else order[0]
        high = order[-2] if error == order[-1] else order[-1]
        spreads.append(high - low)
    return spreads


def _of_the_mean(ask: Question) -> Verdict:
    """Rules 6 to 10, which ask how far off the mean is and how sure that is."""
    evidence, accept = ask.evidence, ask.profile.accept
    error, sure = evidence.mean_error, evidence.expanded_uncertainty
    off = heavy_or_light(error)
    if accept is not None and accept.kept(error, evidence.mean_error_mass):
        text = f"It reads {off} on the mean of {runs_words(evidence.count)}; within {accept} it is left alone."
        return Verdict(LEAVE, [Reason("within-limit", text)])
    division, smallest = ask.reference_division, ask.smallest
    if division is not None and smallest is not None and at_most(abs(evidence.mean_error_mass), division):
        return _below_division(ask, division, smallest)
    own = NORMAL_95 * evidence.u_reference
    if own > 0 and at_most(abs(error), own):
        text = (
            f"The reference itself is only good to ± {percent_shown(own)}, and the error is {percent_shown(abs(error))}: "
            "more runs would not help, a better reference would."
        )
        return Verdict(NOT_READY, [Reason("reference-cannot-decide", text)])
    if at_most(abs(error), sure):
        return _chance(ask)
    text = f"It reads {off}, outside {accept}, and that is certain: ± {percent_shown(sure)} at 95 %."
    return Verdict(ADJUST, [Reason("outside-limit", text)])


def _below_division(ask: Question, division: float, smallest: float) -> Verdict:
    evidence, unit = ask.evidence, ask.unit
    off = mass_shown(abs(evidence.mean_error_mass), unit)
    step = mass_shown(division, unit)
    if all(at_most(smallest, pair.reference) for pair in evidence.pairs):
        text = f"The mean error, {off}, is within the reference's division of {step}: it cannot show a better result."
        return Verdict(LEAVE, [Reason("below-reference-division", text)])
    text = (
        f"The mean error, {off}, is within the reference's division of {step}. "
        f"Weigh at least {mass_shown(smallest, unit)} a run, or the test chases that rounding."
    )
    return Verdict(KEEP_TESTING, [Reason("weigh-more", text)])


def _chance(ask: Question) -> Verdict:
    evidence = ask.evidence
    error, deviation = evidence.mean_error, evidence.standard_deviation
    needed: int | None = evidence.count + 1
    if evidence.count == 1:
        needed = 2
    elif deviation:
        wanted = 4 * (deviation / error) * (deviation / error) if error else math.inf
        needed = max(evidence.count + 1, math.ceil(wanted * (1 - 1e-9))) if wanted < 1e6 else None
    text = (
        f"It reads {heavy_or_light(error)}, but {runs_words(evidence.count)} leave "
        f"± {percent_shown(evidence.expanded_uncertainty)} open: this may be chance."
    )
    if needed:
        text += f" {needed} runs in all may settle it."
    return Verdict(KEEP_TESTING, [Reason("chance", text)], runs_needed=needed)


def heavy_or_light(error: float) -> str:
    """`0.40 % heavy`, `0.12 % light`, or `dead on`."""
    if error == 0:
        return "dead on"
    return f"{percent_shown(abs(error))} {'heavy' if error > 0 else 'light'}"


WORDS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def runs_words(count: int) -> str:
    """`three runs`."""
    return f"{WORDS[count] if count < len(WORDS) else count} run{'' if count == 1 else 's'}"


def headline(verdict: Verdict, ratio: float | None) -> str:
    """The answer in a few words, as a person would say it."""
    if verdict.call == ADJUST:
        return f"Adjust, {'down' if ratio is not None and ratio < 1 else 'up'}"
    if verdict.call == KEEP_TESTING:
        reason = verdict.reasons[0]
        if reason.code == "too-few-runs":
            more = reason.more["minimum"] - reason.more["runs"]
            return f"Keep testing: {runs_words(more)[: -4 if more == 1 else -5]} more {'run' if more == 1 else 'runs'}"
        return "Weigh more" if reason.code == "weigh-more" else "Keep testing"
    return {NOT_READY: "Not ready yet", FIND_FAULT: "Find the fault first", LEAVE: "Leave it alone"}[verdict.call]


def lead(verdict: Verdict, evidence: Evidence) -> str:
    """One sentence under the answer: what the figures say so far, and what that means for the factor."""
    if not evidence.pairs or not evidence.usable():
        return "Nothing to compare yet." if verdict.call in (NOT_READY, KEEP_TESTING) else "Do not touch the factor."
    off = heavy_or_light(evidence.mean_error)
    heavy = [error > 0 for error in evidence.errors]
    one_way = all(heavy) or not any(heavy)
    times = {1: "once", 2: "twice"}.get(evidence.count) or f"{runs_words(evidence.count).split()[0]} times"
    if verdict.call == ADJUST:
        return f"It reads {off}, the same way {times}." if one_way else f"It reads {off} on the mean."
    if verdict.call == LEAVE:
        return f"It reads {off}. That is in order: write it down and stop."
    if verdict.call == FIND_FAULT:
        return "Do not touch the factor: changing it now would hide what is wrong."
    if verdict.call == NOT_READY:
        return f"So far {runs_words(evidence.count)} read {off}, and that counts for nothing yet."
    return f"So far {runs_words(evidence.count)} {'reads' if evidence.count == 1 else 'read'} {off}. Do not touch the factor yet."
