"""The call: five answers, ten rules in a sequence, the first that applies decides.

The rules and their codes are those of the evidence rules; each reason is a sentence that quotes
the figures which caused it. Masses in kg, errors and limits as fractions.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from wary.fields import Limit, at_most
from wary.quantities import Quantity, mass_shown, percent_shown, shown
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY, Call, Reason
from wary.rules.evidence import NORMAL_95, Evidence, range_factor
from wary.rules.planning import smallest_amount

FACTOR_OF_THREE = 3.0
"""How far off a first calibration may be: the starting figure is only a table's."""


@dataclass(frozen=True)
class Profile:
    """Limits that apply to a job; what a profile leaves open is None.

    A look that takes longer than `look_minutes` is not asked for before an adjustment; `all_looks`: every suspect that
    passes is looked for, also where a look is not worth its minutes; `harm_minutes` is what a figure that is
    set over a fault costs, None: the minutes of a visit. `skip_looks`: one may
    be skipped, for a reason.
    """

    accept: Limit | None
    repeat: float | None
    minimum_runs: int
    plausible: float | None
    name: str | None = None
    look_minutes: float = 10.0
    skip_looks: bool = True
    all_looks: bool = False
    harm_minutes: float | None = None

    def repeat_limit(self, count: int) -> float | None:
        """The repeat limit for so many runs: it is meant for three, more range wider by chance."""
        return None if self.repeat is None else self.repeat * range_factor(count)

    def in_words(self) -> str:
        """`± 0.5 % · repeats within 0.5 % · at least 3 runs · plausible to 10 %`."""
        words = [str(self.accept)] if self.accept else ["The pack's own tolerance"]
        if self.repeat is not None:
            words.append(f"repeats within {percent_shown(self.repeat, decimals=1)}")
        runs = self.minimum_runs
        words.append(f"at least {runs} run{'' if runs == 1 else 's'}")
        if self.plausible is not None:
            words.append(f"plausible to {percent_shown(self.plausible, decimals=0)}")
        return " · ".join(words)


@dataclass(frozen=True)
class Verdict:
    """A call with its reasons, and what the rules worked out on the way."""

    call: Call
    reasons: list[Reason]
    suggestions: list[Reason] = field(default_factory=list)
    runs_needed: int | None = None


@dataclass(frozen=True)
class Question:
    """What the rules are asked about one list of runs.

    `minimum` is the least number of runs; `unready` and `failed` are what the method found before
    any comparison; `smallest` is `R_min`, and `from_smallest` says that less of a run proves little;
    `least_load` is the least known load that proves anything (kg), with its rule in words; `aside`
    counts the runs set aside; `unit` is the mass unit to speak in; `set_up` is a slip in a plate that
    explains a first factor, as a sentence.
    """

    evidence: Evidence
    profile: Profile
    minimum: int
    occasion: str = "routine"
    unready: Sequence[Reason] = ()
    failed: Sequence[Reason] = ()
    reference_division: float | None = None
    indicated_division: float | None = None
    smallest: float | None = None
    from_smallest: bool = False
    least_load: tuple[float, str] | None = None
    aside: int = 0
    unit: str = "kg"
    set_up: str = ""


def needed_amount(evidence: Evidence, profile: Profile, division: float | None, otherwise: int) -> float | None:
    """`R_min` for the percentage accept limit and the most readings any run has.

    `otherwise` is the number of readings to plan with while there is no run.
    """
    share = profile.accept.percentage if profile.accept else None
    if division is None or not share:
        return None
    readings = evidence.most_readings if evidence.pairs else otherwise
    return smallest_amount(division, readings, evidence.u_reference, share)


@dataclass(frozen=True)
class Rule:
    """One rule of the call: its name, and what it answers where it applies."""

    name: str
    ask: Callable[[Question], Verdict | None]


def judge(ask: Question, rules: Sequence[Rule] | None = None) -> Verdict:
    """The answer of the first rule that applies, with what its evidence leaves open; the last of them always does."""
    for rule in rules or RULES:
        verdict = rule.ask(ask)
        if verdict:
            verdict.reasons.extend(_left_open(ask, verdict.call))
            return verdict
    raise AssertionError("the last rule of the call answers always")


def with_rule(rule: Rule, before: str, rules: Sequence[Rule] | None = None) -> tuple[Rule, ...]:
    """The rules with one of a method's own, before the one named. Raises KeyError where there is none of that name."""
    listed = list(rules or RULES)
    places = {one.name: place for place, one in enumerate(listed)}
    listed.insert(places[before], rule)
    return tuple(listed)


def _unprepared(ask: Question) -> Verdict | None:
    """A preparation that is missing or failed, or a reference that is no use: what was read then shows nothing."""
    return Verdict(NOT_READY, list(ask.unready)) if not only_missing(ask.unready) else None


def only_missing(unready: Sequence[Reason]) -> bool:
    """Whether nothing stands in the way but figures that are not typed yet."""
    return all(reason.code == MISSING for reason in unready)


def _unready(ask: Question) -> Verdict | None:
    return Verdict(NOT_READY, list(ask.unready)) if ask.unready else None


def _few(ask: Question) -> Verdict | None:
    return Verdict(KEEP_TESTING, [_too_few(ask)]) if ask.evidence.count < ask.minimum else None


def _failed(ask: Question) -> Verdict | None:
    return Verdict(FIND_FAULT, list(ask.failed)) if ask.failed else None


def _wild(ask: Question) -> Verdict | None:
    evidence = ask.evidence
    ratio = evidence.pooled_ratio
    few = None
    if evidence.usable():
        few = few_divisions(evidence.mean_error_mass, (ask.indicated_division, ask.reference_division), ask.unit)
    if few and ratio is None:
        return Verdict(KEEP_TESTING, [few])
    if ratio is None or not evidence.usable():
        total = mass_shown(evidence.indicated_sum, ask.unit)
        text = f"Over these runs it indicated {total} in all: nothing to take a ratio from."
        return Verdict(FIND_FAULT, [Reason("implausible", text)])
    found = implausible(ratio, ask.profile, ask.occasion, f"Weighed over indicated is {shown(ratio, 4)}", "factor")
    if found and few:
        return Verdict(KEEP_TESTING, [few])
    return Verdict(FIND_FAULT, [found]) if found else None


DIVISIONS_APART = 2
"""A difference of so many divisions of both displays together is what their steps alone can make."""


def few_divisions(off: float, divisions: Sequence[float | None], unit: str) -> Reason | None:
    """Why a difference of `off` kg is no fault yet: the displays' own steps can make it; None where they cannot.

    `divisions` are those of the displays behind the difference, kg, as far as they are known.
    """
    steps = math.fsum(one for one in divisions if one)
    if not steps or not at_most(abs(off), DIVISIONS_APART * steps):
        return None
    text = (
        f"The difference, {mass_shown(abs(off), unit)}, is within two steps of the displays, {mass_shown(2 * steps, unit)}: "
        "on so small a load a step is no fault. Weigh more."
    )
    return Reason("weigh-more", text)


def implausible(
    ratio: float, profile: Profile, occasion: str, said: str, cure: str, happened: str = "fitted"
) -> Reason | None:
    """Why a correction ratio this far from one is not to be keyed in; None where it is plausible.

    `said` begins the sentence, `cure` is what would have hidden it. On a first calibration the
    band is a factor of three either way, since the starting figure is only a table's.
    """
    if occasion == "first":
        if at_most(ratio, FACTOR_OF_THREE) and at_most(1 / FACTOR_OF_THREE, ratio):
            return None
        band = "a factor of three either way, which is wide even for a first calibration"
    elif profile.plausible is None or at_most(abs(ratio - 1), profile.plausible):
        return None
    else:
        band = f"± {percent_shown(profile.plausible, decimals=0)}"
    text = f"{said}; beyond {band} something was entered or {happened} wrongly, and no {cure} cures that."
    return Reason("implausible", text)


def _scattered(ask: Question) -> Verdict | None:
    scattered = _not_repeating(ask)
    return Verdict(FIND_FAULT, [scattered], _stands_apart(ask)) if scattered else None


def _too_few(ask: Question) -> Reason:
    have, want = ask.evidence.count, ask.minimum
    more = want - have
    lead = f"All {ask.aside} runs are set aside" if not have and ask.aside else f"{have} of {want} runs are in"
    ask_for = "one more" if more == 1 else f"{more} more"
    text = f"{lead}; {ask_for} before anything is decided."
    return Reason("too-few-runs", text, {"runs": have, "minimum": want})


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


def _within(ask: Question) -> Verdict | None:
    evidence, accept = ask.evidence, ask.profile.accept
    if accept is None or not accept.kept(evidence.mean_error, evidence.mean_error_mass):
        return None
    off = heavy_or_light(evidence.mean_error, evidence.is_certain)
    text = f"It reads {off} on the mean of {runs_words(evidence.count)}; within {accept} it is left alone."
    return Verdict(LEAVE, [Reason("within-limit", text)])


def _division(ask: Question) -> Verdict | None:
    division, smallest = ask.reference_division, ask.smallest
    if division is None or smallest is None or not at_most(abs(ask.evidence.mean_error_mass), division):
        return None
    return _below_division(ask, division, smallest)


def _reference(ask: Question) -> Verdict | None:
    own, error = NORMAL_95 * ask.evidence.u_reference, ask.evidence.mean_error
    if own <= 0 or not at_most(abs(error), own):
        return None
    text = (
        f"The reference itself is only good to ± {percent_shown(own)}, and the error is {percent_shown(abs(error))}: "
        "more runs would not help, a better reference would."
    )
    return Verdict(NOT_READY, [Reason("reference-cannot-decide", text)])


def _set_up(ask: Question) -> Verdict | None:
    return Verdict(FIND_FAULT, [Reason("set-up", ask.set_up)]) if ask.set_up else None


def _by_chance(ask: Question) -> Verdict | None:
    evidence = ask.evidence
    return _chance(ask) if at_most(abs(evidence.mean_error), evidence.expanded_uncertainty) else None


def _outside(ask: Question) -> Verdict:
    evidence = ask.evidence
    off, sure = heavy_or_light(evidence.mean_error), percent_shown(evidence.expanded_uncertainty)
    text = f"It reads {off}, outside {ask.profile.accept}, and that is certain: ± {sure} at 95 %."
    if not evidence.is_certain:
        text = f"It reads {off}, outside {ask.profile.accept}."
    return Verdict(ADJUST, [Reason("outside-limit", text)])


RULES: tuple[Rule, ...] = (
    Rule("unprepared", _unprepared),
    Rule("checks", _failed),
    Rule("not-ready", _unready),
    Rule("too-few-runs", _few),
    Rule("implausible", _wild),
    Rule("not-repeating", _scattered),
    Rule("within-limit", _within),
    Rule("reference-division", _division),
    Rule("reference-cannot-decide", _reference),
    Rule("chance", _by_chance),
    Rule("set-up", _set_up),
    Rule("outside-limit", _outside),
)
"""The rules of the call, in their order; a method can put one of its own between two (`with_rule`)."""


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


MISSING = "missing"
PROVES_LITTLE = "proves-little"
UNKNOWN = "uncertainty-unknown"
SAME_LOAD = "same-load"
NOT_SHOWN = frozenset({PROVES_LITTLE, SAME_LOAD})
"""Reasons for which a machine is left alone, and is not shown to be right as a whole."""


def _left_open(ask: Question, call: Call) -> list[Reason]:
    """What an answer leaves open: how certain it is, where that cannot be known, and what a machine left alone was not shown to do."""
    evidence = ask.evidence
    if call not in (LEAVE, ADJUST) or not evidence.pairs:
        return []
    found = []
    if not evidence.is_certain:
        text = (
            "How certain this is cannot be said: one run, and no display's division is known. "
            "Type the division of the reference scale or of the display, or weigh another run."
        )
        found.append(Reason(UNKNOWN, text))
    if call == LEAVE:
        found += _proves_little(ask)
    return found


def _proves_little(ask: Question) -> list[Reason]:
    """Why runs that agree prove little; empty where they could have shown an error as large as the limit."""
    evidence, accept, unit = ask.evidence, ask.profile.accept, ask.unit
    mean = evidence.reference_sum / evidence.count
    most = max(pair.reference for pair in evidence.pairs)
    share = accept.relative_at(mean) if accept and mean > 0 else None
    if evidence.is_certain and share is not None and not at_most(evidence.expanded_uncertainty, share):
        sure = percent_shown(evidence.expanded_uncertainty)
        text = (
            f"It proves little: an error as large as the limit, {percent_shown(share)}, could hide in "
            f"the ± {sure} that these runs leave open. Not shown is that it reads right."
        )
        return [Reason(PROVES_LITTLE, text)]
    if ask.from_smallest and ask.smallest is not None and not at_most(ask.smallest, most):
        why = f"this reference needs {mass_shown(ask.smallest, unit)} to show an error as large as the limit"
        return [little(most, unit, why)]
    if ask.least_load and not at_most(ask.least_load[0], most):
        return [little(most, unit, ask.least_load[1])]
    return []


def little(load: float, unit: str, why: str, capacity: Quantity | None = None) -> Reason:
    """The reason that a test with no more than `load` kg proves it up to there only, of this capacity where it is known."""
    up_to = mass_shown(load, unit)
    of = {"of": mass_shown(capacity.si, capacity.unit)} if capacity else {}
    text = f"It proves little: {why}. In order is shown up to {up_to}, and no further."
    return Reason(PROVES_LITTLE, text, {"up_to": up_to, **of})


QUARTER = 0.25
LEAST_DIVISIONS = 50


def least_of_capacity(capacity: Quantity | None, division: Quantity | None, unit: str) -> tuple[float, str] | None:
    """The least load that proves a scale of this capacity and division, kg, with its rule in words; None where neither is known."""
    known = []
    if capacity:
        known.append((QUARTER * capacity.si, f"a quarter of the capacity, {mass_shown(QUARTER * capacity.si, unit)}, is the least that does"))  # fmt: skip
    if division:
        known.append((LEAST_DIVISIONS * division.si, f"{LEAST_DIVISIONS} divisions, {mass_shown(LEAST_DIVISIONS * division.si, unit)}, are the least that do"))  # fmt: skip
    return max(known, default=None)


def heavy_or_light(error: float, certain: bool = True) -> str:
    """`0.40 % heavy`, `0.12 % light`, or `dead on`; no difference where how certain it is cannot be known."""
    if error == 0:
        return "dead on" if certain else "no difference"
    return f"{percent_shown(abs(error))} {'heavy' if error > 0 else 'light'}"


WORDS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


def runs_words(count: int) -> str:
    """`three runs`."""
    return f"{WORDS[count] if count < len(WORDS) else count} run{'' if count == 1 else 's'}"


def in_words(call: str, down: bool) -> str:
    """A call in a few words, where its method has no words of its own."""
    if call == ADJUST:
        return f"Adjust, {'down' if down else 'up'}"
    return HEADLINES.get(call, HEADLINES[NOT_READY])


HEADLINES: dict[str, str] = {
    NOT_READY: "Not ready yet",
    KEEP_TESTING: "Keep testing",
    FIND_FAULT: "Find the fault first",
    ADJUST: "Adjust",
    LEAVE: "Leave it alone",
}


def headline(verdict: Verdict, ratio: float | None) -> str:
    """The answer in a few words, as a person would say it."""
    if verdict.call == ADJUST:
        return in_words(ADJUST, ratio is not None and ratio < 1)
    if verdict.call == KEEP_TESTING:
        reason = verdict.reasons[0]
        if reason.code == "too-few-runs":
            more = reason.wanted
            return f"Keep testing: {runs_words(more)[: -4 if more == 1 else -5]} more {'run' if more == 1 else 'runs'}"
        return "Weigh more" if reason.code == "weigh-more" else "Keep testing"
    return HEADLINES[verdict.call]


def lead(verdict: Verdict, evidence: Evidence) -> str:
    """One sentence under the answer: what the figures say so far, and what that means for the factor."""
    if not evidence.pairs or not evidence.usable():
        return "Nothing to compare yet." if verdict.call in (NOT_READY, KEEP_TESTING) else "Do not touch the factor."
    off = heavy_or_light(evidence.mean_error, evidence.is_certain)
    heavy = [error > 0 for error in evidence.errors]
    one_way = all(heavy) or not any(heavy)
    times = {1: "once", 2: "twice"}.get(evidence.count) or f"{runs_words(evidence.count).split()[0]} times"
    if verdict.call == ADJUST:
        return f"It reads {off}, the same way {times}." if one_way else f"It reads {off} on the mean."
    if verdict.call == LEAVE and any(reason.code in NOT_SHOWN for reason in verdict.reasons):
        return f"It reads {off}. That is in order as far as it was shown: write down how far."
    if verdict.call == LEAVE:
        return f"It reads {off}. That is in order: write it down and stop."
    if verdict.call == FIND_FAULT:
        return "Do not touch the factor: changing it now would hide what is wrong."
    if verdict.call == NOT_READY:
        return f"So far {runs_words(evidence.count)} read {off}, and that counts for nothing yet."
    return f"So far {runs_words(evidence.count)} {'reads' if evidence.count == 1 else 'read'} {off}. Do not touch the factor yet."
