"""Zero and one test load, in passes until both hold.

Keying the value and taking the span are two acts. The first pass is as found, the last as left.
"""

from dataclasses import dataclass
from typing import Annotated

from wary import drawings
from wary.drawings import Load, spoken
from wary.fields import (
    AboveZero,
    Inputs,
    Mass,
    MassFromZero,
    Percentage,
    Plates,
    PositiveMass,
    at_most,
    choice,
    field,
    plate,
)
from wary.methods.cells.arithmetic import division_checks
from wary.methods.cells.record import TARES_STALE
from wary.methods.factor import LeftFactorInputs
from wary.methods.method import Errors, Marks, Method, Seen, Setting
from wary.methods.shared.cautions import BAG_HANGS, LIFT_WEIGHTS, OWN_RULES
from wary.methods.shared.draft import Draft
from wary.methods.shared.results import FactorResults
from wary.methods.steps import Close, Enter, Item, Listed, Look, Plan, Rows, remark, typed
from wary.quantities import mass_shown, percent_shown, shown
from wary.results import Figure, Results, YesNo, figure, in_unit, percent
from wary.rules import slips
from wary.rules.assessment import (
    ADJUST,
    FIND_FAULT,
    LEAVE,
    NOT_READY,
    Assessment,
    Reason,
    Remark,
)
from wary.rules.call import implausible
from wary.rules.correction import gain, key_in_factor
from wary.rules.forms import ShouldRead

MOST_PASSES = 4
FEW_DIVISIONS = 50
PROVES_LITTLE = 4.0

WHERE_TO_LOOK = (
    "Something touching or hanging: pipes, stays, cables, dirt under the edge.",
    "Whether the load stands in the middle, and all of it is carried.",
    "A cell that is overloaded or was: press each in a cell check.",
    "Whether the reading had settled each time: filter, wind, a running agitator.",
)


@dataclass(slots=True, eq=False)
class PassResults(Results):
    """One pass."""

    zero_error: Figure | None = figure("zero error", "mass", signed=True)
    span_error: Figure | None = figure("span error", "mass", signed=True)
    net_error: Figure | None = figure("net error", "mass", signed=True)
    holds: YesNo | None = figure("holds")


@dataclass(slots=True, eq=False)
class ZeroSpanResults(FactorResults):
    """Results of zero and span."""

    passes: list[PassResults] | None = figure("passes")
    divisions_tested: Figure | None = figure("divisions tested", summary=True)
    test_share: Figure | None = figure("test share", "percentage", summary=True)
    keyed_error: Figure | None = figure("error of what was keyed in", "percentage", signed=True)
    proven_at_capacity: Figure | None = figure("proven at capacity", "mass")


class Pass(Inputs):
    """One pass: what is shown empty, with the load on, and with it off again."""

    zero: Mass | None = field("Shown empty", ask="Empty and steady: read what it shows.")
    span: Mass | None = field("Shown with the load on", ask="Load on and steady: read what it shows.")
    zero_after: Mass | None = field("Shown with it off again", ask="Load off again and steady: read what it shows.")


PASSES = Rows(
    list="passes",
    name="Pass",
    empty="The first pass is as found: empty and steady, read.",
    columns=(
        typed("zero", "Empty"),
        typed("span", "Load on"),
        typed("zero_after", "Off again"),
        remark("span_error", "Span off by"),
        remark("holds", "Holds"),
    ),
    typed=("zero", "span", "zero_after"),
)
TAKEN = frozenset({"take.zeroed", "take.keyed", "take.taken"})


Hung = Annotated[str, choice(hangers="hung from the hangers", deck="centred on the deck")]


class ZeroSpanInputs(LeftFactorInputs):
    """Inputs of zero and span."""

    capacity: PositiveMass | None = plate("Capacity")
    division: PositiveMass | None = plate("Division of the display")
    test_load: MassFromZero | None = field("Test load", ask="Say what is put on: type the test load.")
    test_load_keyed: PositiveMass | None = field("Test load as keyed in", "as it was typed into the instrument")
    test_load_uncertainty: MassFromZero | None = field("Uncertainty of the test load", "expanded, from its certificate")
    passes: list[Pass] | None = field("Passes", ask="Empty and steady: read what it shows.")
    as_left_factor: AboveZero | None = field("Factor keyed in before the last pass", "where it is not the one found")
    accept: Percentage | None = field("Accept limit", "the profile's where nothing is said")
    hung: Hung | None = field("The load is", "on a stand for bulk bags")
    plates: Plates | None = field("Plates")

    @property
    def after_change(self) -> bool:
        return len(self.passes or []) > 1


class ZeroSpan(Method[ZeroSpanInputs, ZeroSpanResults]):
    """`zero-span`: passes of zero and one load, and what this load proves."""

    key = "zero-span"
    title = "Zero and span"
    summary = "Zero and one test load, passes until both hold"
    question = "Do zero and span hold?"
    subject = "The span"
    half_done = "zero or span was taken, and does not hold yet"
    profile = "vessel"
    inputs = ZeroSpanInputs
    results = ZeroSpanResults
    compares = True
    confirms = True
    makes_stale = (TARES_STALE,)
    against = ("test_load", "test_load_uncertainty")
    steps = (
        Look(
            "look",
            "Look first",
            items=(
                Item("free", "Nothing touching, hanging or caked on"),
                Item("level", "Level, feet down, mounts upright"),
                Item("warm", "Switched on long enough to be warm; exercised once with the load"),
                Item("tracking", "Zero tracking off for the test", "Zero tracking is off: put it back on."),
                Item("seal", "Seal opened", "The seal is open: seal again, or note who will."),
            ),
        ),
        Enter(
            "plates",
            "Read off",
            "What the instrument is set to now, before anything is changed.",
            fields=("capacity", "division", "factor", "factor_decimals", "direction", "accept"),
            cautions=(OWN_RULES,),
        ),
        Plan(
            "load",
            "The test load",
            "What it is, and what it can prove.",
            fields=("test_load", "test_load_uncertainty", "test_load_keyed", "hung"),
            cautions=(BAG_HANGS,),
            where={"hung": "hung", BAG_HANGS: "hung"},
        ),
        Listed(
            "passes",
            "Passes",
            "Empty and steady, read; load on and steady, read; load off, read again. The first pass is as found.",
            rows=PASSES,
            cautions=(LIFT_WEIGHTS,),
        ),
        Enter(
            "take",
            "Take zero and span",
            "Only where the call says so: keying the value in and taking the span are two acts.",
            items=(
                Item("zeroed", "Empty and steady: the zero was taken"),
                Item("keyed", "The value was keyed in"),
                Item("taken", "Load on and steady: the span was taken"),
            ),
        ),
        Close("close", "Close", "Weights off, put back what was changed, then write it up."),
    )

    def assess(self, given: ZeroSpanInputs, setting: Setting) -> Assessment[ZeroSpanResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "capacity", "division", "test_load", "passes")
        if given.test_load and given.test_load.si <= 0:
            sheet.no_load("test_load", f"A test load of {given.test_load.text}")
        for place, one in enumerate(given.passes or []):
            # What hangs pulls on hoses and hangers: only the return to zero shows that nothing binds.
            read = ("zero", "span", "zero_after") if given.hung else ("zero", "span")
            sheet.need_in(f"inputs.passes[{place}]", one, read, f"Pass {place + 1}")
        accept = _accept(given, setting)
        if given.test_load and given.test_load.si > 0 and given.division:
            _what_it_proves(sheet, given, accept)
            _passes(sheet, given, accept)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent, lead=_not_yet(sheet))
        return _Judging(sheet, given, setting, accept).answer()

    def changed(self, given: ZeroSpanInputs, answer: Assessment[ZeroSpanResults], marks: Marks) -> bool:
        """A span taken, a figure read back, or a second pass: something was set between the passes."""
        return bool(marks.read_back) or bool(TAKEN & marks.ticks) or len(given.passes or []) > 1

    def errors(self, given: ZeroSpanInputs, answer: Assessment[ZeroSpanResults]) -> Errors | None:
        """The span error of the first pass and of the last, in per cent of the test load."""
        rows, load = answer.results.passes, given.test_load
        if not rows or load is None or load.si <= 0:
            return None

        def share(row: PassResults) -> float | None:
            return row.span_error.si / load.si * 100 if row.span_error else None

        return Errors(share(rows[0]), share(rows[-1]) if len(rows) > 1 else None)

    def should_read(self, given: ZeroSpanInputs, answer: Assessment[ZeroSpanResults]) -> ShouldRead | None:
        last = given.passes[-1] if given.passes else None
        if last is None or last.span is None or given.test_load is None:
            return None
        return ShouldRead(given.test_load, last.span, "the test load", given.division)

    def draw(self, given: ZeroSpanInputs, seen: Seen) -> Load:
        """The test load against capacity, with the last reading."""
        last = given.passes[-1] if given.passes else None
        shows = ""
        if last and last.span:
            shows = f"shows {spoken(last.span.value, last.span.unit, 6)}"
        elif last and last.zero:
            shows = f"empty: {spoken(last.zero.value, last.zero.unit, 6)}"
        return Load(capacity=drawings.figure(given.capacity), load=drawings.figure(given.test_load), shows=shows)


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


class _Judging:
    """The rules of zero and span, once everything is in."""

    def __init__(self, sheet: Draft[ZeroSpanResults], given: ZeroSpanInputs, setting: Setting, accept: float) -> None:
        assert given.passes and given.test_load and given.division and given.capacity
        self.sheet, self.given, self.setting, self.accept = sheet, given, setting, accept
        self.passes, self.load = given.passes, given.test_load
        self.division, self.capacity = given.division.si, given.capacity.si
        self.last = self.passes[-1]

    def answer(self) -> Assessment[ZeroSpanResults]:
        sheet = self.sheet
        assert self.last.span and self.last.zero
        rise = self.last.span.si - self.last.zero.si
        if rise <= 0:
            text = (
                f"With the load on it shows {self.last.span.text}, empty {self.last.zero.text}: it falls when loaded. "
                "A signal pair is swapped, or a cell is upside down."
            )
            sheet.check("reversed", "fail", text)
            return sheet.answer(FIND_FAULT, [Reason("reversed", text)], look=WHERE_TO_LOOK)
        ratio = self.load.si / rise
        sheet.slips = self._slips(ratio)
        implausible = self._implausible()
        if implausible:
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
            test_load=(self.load.si, keyed or self.capacity, "as keyed in" if keyed else "the capacity left standing"),
        )
        return slips.explain(ratio, 0.0, entered)

    def _implausible(self) -> Reason | None:
        first = self.passes[0]
        assert first.span and first.zero
        rise = first.span.si - first.zero.si
        if len(self.passes) > 1 or rise <= 0:
            return None
        ratio = self.load.si / rise
        said = f"It answers a load of {self.load.text} with {mass_shown(rise, self.load.unit)}"
        return implausible(ratio, self.setting.profile, self.setting.occasion, said, "span")

    def _leave(self) -> Assessment[ZeroSpanResults]:
        single = len(self.passes) == 1
        half = mass_shown(self.division / 2, self.load.unit)
        within = mass_shown(_tolerance(self.given, self.accept), self.load.unit)
        text = f"Zero is within {half} and span within {within} of {self.load.text}"
        reasons = [Reason("within-limit", f"{text}: as found, it is in order.")]
        if not single:
            reasons = [Reason("holds-after-adjustment", f"{text}, after {len(self.passes)} passes.")]
        few = self.load.si / self.division < FEW_DIVISIONS * (1 - 1e-9)
        proven = self.sheet.results.proven_at_capacity
        assert proven
        hidden = proven.si
        wide = PROVES_LITTLE * max(self.division, self.accept * self.capacity)
        if few or not at_most(hidden, wide):
            little = (
                f"It proves anything only up to about {self.load.text}: at full capacity an error hidden in it could be "
                f"worth ± {mass_shown(hidden, self.load.unit, 3)}. The record is limited to that load."
            )
            reasons.append(Reason("proves-little", little))
        lead = "In order as found: write it down and stop." if single else "Both hold: write it down."
        return self.sheet.answer(LEAVE, reasons, lead=lead)

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
        off = self.last.span.si - self.load.si
        text = (
            f"With {self.load.text} on it shows {self.last.span.text}, {mass_shown(abs(off), self.load.unit)} "
            f"{'heavy' if off > 0 else 'light'}. Key in {self.load.text}, then take the span, then look at zero again."
        )
        lead = "Next: load on and steady, key the value in, take span; then load off, read zero."
        return self.sheet.answer(ADJUST, [Reason("span-off", text)], headline="Take the span", lead=lead)


METHOD = ZeroSpan()
