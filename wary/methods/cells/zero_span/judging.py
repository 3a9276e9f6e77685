"""Zero and span: what is said of what was typed."""

from collections.abc import Iterable, Iterator

from wary.fields import (
    Plates,
    at_most,
)
from wary.methods.cells.arithmetic import division_checks
from wary.methods.cells.zero_span.method import Pass, PassResults, ZeroSpan, ZeroSpanInputs, ZeroSpanResults
from wary.methods.method import Marks, Setting
from wary.methods.shared.draft import Draft
from wary.methods.shared.offers import offered
from wary.quantities import from_si, mass_shown, percent_shown, shown
from wary.results import Figure, YesNo, in_unit, percent
from wary.rules import slips
from wary.rules.assessment import (
    ADJUST,
    FIND_FAULT,
    KEEP_TESTING,
    LEAVE,
    NOT_READY,
    Assessment,
    Reason,
    Remark,
)
from wary.rules.call import NOT_SHOWN, few_divisions, implausible, least_of_capacity, little
from wary.rules.correction import gain, key_in_factor
from wary.suspects import looks
from wary.suspects.suspect import FINE, NOT_FINE, Sign

MOST_PASSES = 4
PROVES_LITTLE = 4.0
APART = 0.25
"""So far from the load that set the span another one must be, to prove it."""
TAKEN_WORDS = {"zero": "the zero was captured", "span": "the span was captured", "both": "zero and span were captured"}
WHERE_TO_LOOK = (
    "Something touching or hanging: pipes, stays, cables, dirt under the edge.",
    "Whether the load stands in the middle, and all of it is carried.",
    "A cell that is overloaded or was: press each in a cell check.",
    "Whether the reading had settled each time: filter, wind, a running agitator.",
)
TAKEN = frozenset({"take.zeroed", "take.keyed", "take.taken"})


def _accept(given: ZeroSpanInputs, setting: Setting) -> float:
    """The accept limit as a fraction of the test load."""
    if given.accept:
        return given.accept.si
    limit = setting.profile.accept
    if limit is None or given.test_load is None or given.test_load.si <= 0:
        return 0.0
    return limit.relative_at(given.test_load.si)


def _not_yet(sheet: Draft[ZeroSpanResults]) -> str:
    paths = [str(reason.more.get("path", "")) for reason in sheet.absent]
    if any(path.endswith(".span") for path in paths):
        return "Now the load on, steady, and read."
    if any(path.endswith(".zero") or path == "inputs.passes" for path in paths):
        return "First empty and steady, and read what it shows."
    return ""


def _tolerance(given: ZeroSpanInputs, accept: float) -> float:
    """How far span may be off with this load, kg: half a division, or the limit where that is more."""
    assert given.division and given.test_load
    return max(given.division.si / 2, accept * given.test_load.si)


def _what_it_proves(sheet: Draft[ZeroSpanResults], given: ZeroSpanInputs, accept: float) -> None:
    assert given.test_load and given.division
    load, unit = given.test_load.si, given.test_load.unit
    sheet.results.divisions_tested = Figure(load / given.division.si)
    if given.test_load_keyed:
        sheet.results.keyed_error = percent(given.test_load_keyed.si / load - 1)
        if abs(given.test_load_keyed.si / load - 1) > 1e-9:
            text = (
                f"Keyed in was {given.test_load_keyed.text}, the load is {given.test_load.text}: "
                "every reading carries that difference."
            )
            sheet.check("keyed-load", "note", text)
    if not given.capacity:
        sheet.plan.append(
            "Type the capacity: without it nothing can be said of what this load proves at full capacity."
        )
        return
    uncertainty = given.test_load_uncertainty.si if given.test_load_uncertainty else 0.0
    proven = (_tolerance(given, accept) + uncertainty) * given.capacity.si / load
    sheet.results.test_share = percent(load / given.capacity.si)
    sheet.results.proven_at_capacity = in_unit(proven, unit)
    sheet.checks += division_checks(given.division.si, given.capacity.si, given.division.unit)
    sheet.plan.append(
        f"This load is {percent_shown(load / given.capacity.si, decimals=0)} of capacity, {shown(load / given.division.si)} divisions. "
        f"An error hidden in it could be worth ± {mass_shown(proven, unit, 3)} at full capacity."
    )


def _holds(given: ZeroSpanInputs, one: Pass, accept: float) -> tuple[bool, bool]:
    """Whether a pass's zero holds, and its span."""
    assert given.division and given.test_load and one.zero and one.span
    half = given.division.si / 2
    zeros = [one.zero.si, *([one.zero_after.si] if one.zero_after else [])]
    zero = all(at_most(abs(shown_empty), half) for shown_empty in zeros)
    return zero, at_most(abs(one.span.si - given.test_load.si), _tolerance(given, accept))


def _passes(sheet: Draft[ZeroSpanResults], given: ZeroSpanInputs, accept: float) -> None:
    assert given.test_load
    rows = []
    for one in given.passes or []:
        unit = (one.span or one.zero or given.test_load).unit
        row = PassResults()
        if one.zero:
            row.zero_error = in_unit(one.zero.si, unit)
        if one.span:
            row.span_error = in_unit(one.span.si - given.test_load.si, unit)
        if one.zero and one.span:
            net = one.span.si - one.zero.si - given.test_load.si
            row.net_error = in_unit(net, unit)
            row.holds = YesNo(all(_holds(given, one, accept)))
        rows.append(row)
    if rows:
        sheet.results.passes = rows
        sheet.remarks["passes"] = [_remarks(row) for row in rows]


def _remarks(row: PassResults) -> dict[str, Remark]:
    said: dict[str, Remark] = {}
    error = row.span_error
    if error:
        said["span_error"] = Remark(f"{shown(error.value, 5, sign=True)} {error.unit}", error.value)
    if row.holds:
        holds = row.holds.value
        said["holds"] = Remark("holds" if holds else "not yet", None, "good" if holds else "bad")
    return said


def _reversed(sheet: Draft[ZeroSpanResults], given: ZeroSpanInputs) -> None:
    """That it falls when it is loaded needs no plate to be seen."""
    last = given.passes[-1] if given.passes else None
    if last is None or last.zero is None or last.span is None or last.span.si > last.zero.si:
        return
    text = (
        f"With the load on it shows {last.span.text}, empty {last.zero.text}: it falls when loaded. "
        "A signal pair is swapped, or a cell is upside down."
    )
    sheet.check("reversed", "fail", text)


class _Judging:
    """The rules of zero and span, once everything is in."""

    def __init__(self, sheet: Draft[ZeroSpanResults], given: ZeroSpanInputs, setting: Setting, accept: float) -> None:
        assert given.passes and given.test_load and given.division
        self.sheet, self.given, self.setting, self.accept = sheet, given, setting, accept
        self.passes, self.load = given.passes, given.test_load
        self.division = given.division.si
        self.last = self.passes[-1]

    def answer(self) -> Assessment[ZeroSpanResults]:
        sheet = self.sheet
        assert self.last.span and self.last.zero
        rise = self.last.span.si - self.last.zero.si
        ratio = self.load.si / rise
        sheet.slips = self._slips(ratio)
        implausible = self._implausible()
        if implausible:
            few = few_divisions(rise - self.load.si, (self.division,), self.load.unit)
            if few:
                return sheet.answer(KEEP_TESTING, [few], headline="Weigh more")
            return sheet.answer(FIND_FAULT, [implausible], look=WHERE_TO_LOOK)
        zero, span = _holds(self.given, self.last, self.accept)
        if zero and span:
            return self._leave()
        if len(self.passes) >= MOST_PASSES:
            text = f"After {len(self.passes)} passes zero and span still do not hold together: something moves that should not."
            return sheet.answer(FIND_FAULT, [Reason("sanity", text)], look=WHERE_TO_LOOK)
        return self._adjust(zero, ratio)

    def _slips(self, ratio: float) -> list[slips.Slip]:
        assert self.last.span
        keyed = self.given.test_load_keyed.si if self.given.test_load_keyed else None
        entered = slips.Entered(
            plates=self.given.plates or Plates(),
            reference_unit=self.load.unit,
            indicated_unit=self.last.span.unit,
            reference_sum=self.load.si,
            test_load=self._instead(keyed),
        )
        return slips.explain(ratio, 0.0, entered)

    def _instead(self, keyed: float | None) -> tuple[float, float, str] | None:
        """The load meant, the one that may have been entered instead, and what that is."""
        if keyed:
            return self.load.si, keyed, "as keyed in"
        capacity = self.given.capacity
        return (self.load.si, capacity.si, "the capacity left standing") if capacity else None

    def _implausible(self) -> Reason | None:
        """Why the one pass there is, is too far off. An instrument that captures its own span may show anything on a first one."""
        first = self.passes[0]
        assert first.span and first.zero
        rise = first.span.si - first.zero.si
        if len(self.passes) > 1 or rise <= 0 or self.setting.occasion == "first":
            return None
        ratio = self.load.si / rise
        said = f"It answers a load of {self.load.text} with {mass_shown(rise, self.load.unit)}"
        return implausible(ratio, self.setting.profile, self.setting.occasion, said, "span")

    def _leave(self) -> Assessment[ZeroSpanResults]:
        as_found = len(self.passes) == 1 and not self.last.taken
        unit = self.load.unit
        within = mass_shown(_tolerance(self.given, self.accept), unit)
        text = f"Zero is within {mass_shown(self.division / 2, unit)} and span within {within} of {self.load.text}"
        reasons = [Reason("within-limit", f"{text}: as found, it is in order.")]
        if not as_found:
            count = len(self.passes)
            after = f"after {count} passes" if count > 1 else f"as {TAKEN_WORDS[self.last.taken or 'both']}"
            reasons = [Reason("holds-after-adjustment", f"{text}, {after}.")]
        far = self._proof()
        if isinstance(far, Reason):
            return self.sheet.answer(FIND_FAULT, [far], look=WHERE_TO_LOOK)
        if any(one.sets_span for one in self.passes) and far is None:
            reasons.append(Reason("same-load", self._same_load()))
        reasons += self._proves_little(max(self.load.si, far or 0.0))
        lead = "In order as found: write it down and stop." if as_found else "Both hold: write it down."
        if any(reason.code in NOT_SHOWN for reason in reasons):
            lead = f"{'In order as found' if as_found else 'Both hold'}, as far as it was shown: write down how far."
        return self.sheet.answer(LEAVE, reasons, lead=lead, suggestions=offered(reasons))

    def _same_load(self) -> str:
        unit = self.load.unit
        low, high = (mass_shown(self.load.si * share, unit) for share in (1 - APART, 1 + APART))
        near = " The other load is too near to it." if self.given.proof else ""
        return (
            f"It repeats; it is not proven: {self.load.text} set the span and is what was read after it.{near} "
            f"Put on another load, up to {low} or from {high} on, and read it."
        )

    def _proof(self) -> Reason | float | None:
        """The other load, kg, where it proves the span; a reason where it does not hold; None where there is none far enough."""
        proof = self.given.proof
        if proof is None or proof.load is None or proof.indicated is None:
            return None
        off, allowed = proof.indicated.si - proof.load.si, max(self.division / 2, self.accept * proof.load.si)
        unit = proof.load.unit
        if not at_most(abs(off), allowed):
            text = (
                f"With {proof.load.text} on it shows {proof.indicated.text}, and {mass_shown(allowed, unit)} is allowed there: "
                f"it holds at {self.load.text} and not here. It is not straight, or one of the two loads is not what it is said to be."
            )
            self.sheet.check("proof", "fail", text)
            return Reason("proof-off", text)
        self.sheet.check(
            "proof", "pass", f"{proof.load.text} reads {proof.indicated.text}, within {mass_shown(allowed, unit)}."
        )
        apart = abs(proof.load.si / self.load.si - 1)
        return proof.load.si if at_most(APART, apart) else None

    def _proves_little(self, most: float) -> list[Reason]:
        """Why no load that was on proves the machine as a whole; empty where one does."""
        unit, capacity = self.load.unit, self.given.capacity
        least = least_of_capacity(capacity, self.given.division, unit)
        if least and not at_most(least[0], most):
            return [little(most, unit, least[1], capacity)]
        proven = self.sheet.results.proven_at_capacity
        if proven is None or capacity is None:
            return []
        if at_most(proven.si, PROVES_LITTLE * max(self.division, self.accept * capacity.si)):
            return []
        why = f"at full capacity an error hidden in it could be worth ± {mass_shown(proven.si, unit, 3)}"
        return [little(most, unit, why, capacity)]

    def _adjust(self, zero: bool, ratio: float) -> Assessment[ZeroSpanResults]:
        assert self.last.span and self.last.zero
        change = (ratio - 1) * 100
        self.sheet.down = ratio < 1
        self.sheet.results.percent_change = Figure(change, "%")
        given = self.given
        factor = (given.as_left_factor if len(self.passes) > 1 else None) or given.factor
        if factor:
            new = key_in_factor(factor, ratio, given.direction, given.factor_decimals)
            self.sheet.results.new_factor = Figure(new.keyed)
            rise = self.last.span.si - self.last.zero.si
            would = rise * gain(factor, new.keyed, given.direction) / self.load.si - 1
            self.sheet.key_in = new.key_in(change, would)
        if not zero:
            after = self.last.zero_after
            text = f"Empty it shows {self.last.zero.text}" + (
                f", then {after.text} with the load off again" if after else ""
            )
            text += f"; half a division is {mass_shown(self.division / 2, self.load.unit)}. Take the zero again, then the span."
            lead = "Next: empty and steady, take zero; then load on, take span."
            return self.sheet.answer(ADJUST, [Reason("zero-moved", text)], headline="Zero again", lead=lead)
        off, unit = self.last.span.si - self.load.si, self.last.span.unit
        # What is keyed in is said as this display takes it.
        keyed = self.load.text if self.load.unit == unit else f"{shown(from_si(self.load.si, unit), 5)} {unit}"
        text = (
            f"With {self.load.text} on it shows {self.last.span.text}, {mass_shown(abs(off), unit)} "
            f"{'heavy' if off > 0 else 'light'}. Key in {keyed}, then take the span, then look at zero again."
        )
        lead = "Next: load on and steady, key the value in, take span; then load off, read zero."
        return self.sheet.answer(ADJUST, [Reason("span-off", text)], headline="Take the span", lead=lead)


def _zero_again(given: ZeroSpanInputs) -> Iterator[Sign]:
    """Whether empty came back after the last load."""
    last = next((one for one in reversed(given.passes or []) if one.zero_after and one.zero), None)
    if last is None or last.zero is None or last.zero_after is None or given.division is None:
        return
    back = at_most(abs(last.zero_after.si - last.zero.si), given.division.si / 2)
    text = f"Empty it showed {last.zero.text}, and {last.zero_after.text} once the load was off again."
    yield Sign(looks.ZERO_AGAIN.key, FINE if back else NOT_FINE, text, "inputs.passes.zero_after")


def _rising(given: ZeroSpanInputs) -> Iterator[Sign]:
    last = next((one for one in reversed(given.passes or []) if one.zero and one.span), None)
    if last is None or last.zero is None or last.span is None:
        return
    rises = last.span.si > last.zero.si
    text = f"Empty it shows {last.zero.text}, with the load on {last.span.text}."
    yield Sign(looks.RISING.key, FINE if rises else NOT_FINE, text, "inputs.passes.span")


class JudgedZeroSpan(ZeroSpan):
    """`zero-span`, judged."""

    def signs(self, given: ZeroSpanInputs, answer: Assessment[ZeroSpanResults]) -> Iterable[Sign]:
        yield from super().signs(given, answer)
        yield from _zero_again(given)
        yield from _rising(given)

    def assess(self, given: ZeroSpanInputs, setting: Setting) -> Assessment[ZeroSpanResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "division", "test_load", "passes")
        if given.test_load and given.test_load.si <= 0:
            sheet.no_load("test_load", f"A test load of {given.test_load.text}")
        for place, one in enumerate(given.passes or []):
            # What hangs pulls on hoses and hangers: only the return to zero shows that nothing binds.
            read = ("zero", "span", "zero_after") if given.hung else ("zero", "span")
            sheet.need_in(f"inputs.passes[{place}]", one, read, f"Pass {place + 1}")
        if given.proof and (given.proof.load or given.proof.indicated):
            sheet.need_in("inputs.proof", given.proof, ("load", "indicated"), "The proof")
        accept = _accept(given, setting)
        if given.test_load and given.test_load.si > 0 and given.division:
            _what_it_proves(sheet, given, accept)
            _passes(sheet, given, accept)
        _reversed(sheet, given)
        failed = sheet.facts(("reversed",))
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent, lead=_not_yet(sheet))
        return _Judging(sheet, given, setting, accept).answer()

    def changed(self, given: ZeroSpanInputs, answer: Assessment[ZeroSpanResults], marks: Marks) -> bool:
        """A span taken, a figure read back, or a second pass: something was set between the passes."""
        return bool(marks.read_back) or bool(TAKEN & marks.ticks) or given.after_change


METHOD = JudgedZeroSpan()
