"""Test weights: what is said of what was typed."""

import math

from wary import drawings
from wary.drawings import Belt
from wary.fields import (
    Plates,
    at_most,
)
from wary.methods.belts.belt_test_weight.method import BeltTestWeight, TestWeightInputs, TestWeightResults, WeightsLeft
from wary.methods.belts.conveyor import drawn_belt, headline, not_ready_zero
from wary.methods.method import Seen, Setting
from wary.methods.shared.draft import Draft
from wary.quantities import Quantity, from_si, mass_shown, percent_shown, shown
from wary.results import Figure, in_unit, percent, value_of
from wary.rules import slips
from wary.rules.assessment import (
    ADJUST,
    FIND_FAULT,
    KEEP_TESTING,
    LEAVE,
    NOT_READY,
    Assessment,
    Reason,
    missing,
)
from wary.rules.call import heavy_or_light, implausible, in_words
from wary.rules.correction import KeyIn, gain, key_in_factor, nominal_ratio, signed
from wary.rules.planning import LEAST_REVOLUTIONS

LIVE_LIMIT = 0.02
OFFERED_APART = 0.002
WHERE_TO_LOOK = (
    "The plates: idler spacing measured on the frame, weigh idlers counted, test mass read off the weight.",
    "Belt speed: measured on the belt itself against what the instrument takes it for.",
    "Zero again with everything as it was, carrier and all.",
)
WHERE_LIVE = (
    "The test mass that was entered against what hangs there, counted.",
    "The carrier: does it touch the frame, was it counted twice or not at all?",
    "The cells: read each by itself in a cell check.",
)


def _by_chain(given: TestWeightInputs) -> bool:
    return given.weight_kind == "chain" or (given.chain_mass_per_length is not None and given.test_mass is None)


def _required(sheet: Draft[TestWeightResults], given: TestWeightInputs) -> None:
    sheet.need(given, "chain_mass_per_length" if _by_chain(given) else "test_mass")
    if not given.weigh_length and not given.idler_spacing:
        sheet.absent.append(
            missing(
                "inputs.idler_spacing", "Measure the idler spacing on the frame, or the weigh length, and type it in."
            )
        )
    sheet.need(given, "speed")
    if given.offered_factor and given.indicated_rate is None and given.indicated_total is None:
        sheet.need(given, "factor")
    elif given.indicated_rate is None and given.indicated_total is None:
        sheet.absent.append(
            missing(
                "inputs.indicated_rate",
                "Run it with the weights on, and type the rate it shows, or a total with its time.",
            )
        )
    elif given.indicated_rate is None and given.duration is None:
        sheet.absent.append(missing("inputs.duration", "Type over how long the total ran."))


def _weigh_length(given: TestWeightInputs) -> float | None:
    """`Lw` in m."""
    if given.weigh_length:
        return given.weigh_length.si
    return given.idler_spacing.si * (given.weigh_idlers or 1) if given.idler_spacing else None


def _effective(given: TestWeightInputs) -> float | None:
    """What hangs on the scale beyond the zero, kg; None where that is not known yet."""
    length = _weigh_length(given)
    if _by_chain(given):
        chain = given.chain_mass_per_length
        return chain.si * length if chain is not None and length else None
    if given.test_mass is None:
        return None
    carrier = given.carrier_mass.si if given.carrier_mass and not given.carrier_zeroed else 0.0
    return given.test_mass.si + carrier


def _unit(given: TestWeightInputs) -> str:
    return (given.test_mass or given.carrier_mass or given.live_weight or Quantity(0, "kg", "")).unit


def _rate_unit(given: TestWeightInputs) -> str:
    if given.indicated_rate:
        return given.indicated_rate.unit
    return {"lb": "lb/h", "ston": "ston/h", "lton": "lton/h", "kg": "kg/h"}.get(
        given.indicated_total.unit if given.indicated_total else "t", "t/h"
    )


def _expected(sheet: Draft[TestWeightResults], given: TestWeightInputs, weight: float | None) -> float | None:
    """The rate that the weight stands for, kg/s, with the results it comes from."""
    length = _weigh_length(given)
    if weight is None:
        return None
    sheet.results.effective_mass = Figure(from_si(weight, _unit(given)), _unit(given))
    if not length:
        return None
    sheet.results.load_per_length = Figure(weight / length, "kg/m")
    if not given.speed:
        return None
    expected = weight / length * given.speed.si
    unit = _rate_unit(given)
    sheet.results.expected_rate = in_unit(expected, unit)
    return expected


def _rate_of(given: TestWeightInputs | WeightsLeft) -> float | None:
    """The rate that was read, kg/s: as shown, or a total over its time; None where neither was."""
    if given.indicated_rate is not None:
        return given.indicated_rate.si
    if given.indicated_total is not None and given.duration is not None:
        return given.indicated_total.si / given.duration.si
    return None


def _shown(given: TestWeightInputs, expected: float) -> float:
    """The rate shown, kg/s; where the instrument only offers a factor, the one that this answers."""
    rate = _rate_of(given)
    if rate is not None:
        return rate
    assert given.offered_factor and given.factor
    return expected / gain(given.factor, given.offered_factor, given.direction)


def _live(sheet: Draft[TestWeightResults], given: TestWeightInputs, weight: float) -> None:
    """The live weight against what hangs there: it needs no factor, no rate and no revolutions to be seen."""
    if given.live_weight is None:
        return
    cosine = math.cos(given.angle.si) if given.angle and given.live_is == "raw" else 1.0
    error = given.live_weight.si / (weight * cosine) - 1
    sheet.results.live_error = percent(error)
    text = (
        f"The live weight of {given.live_weight.text} is {percent_shown(error, sign=True)} off what hangs there, "
        f"{mass_shown(weight * cosine, _unit(given))}; up to 2 % is in order before any factor is touched."
    )
    sheet.check("live-weight", "pass" if at_most(abs(error), LIVE_LIMIT) else "fail", text)


def _bar_unknown(sheet: Draft[TestWeightResults], given: TestWeightInputs) -> None:
    """In which order a bar is used whose mass is not on record."""
    if not _by_chain(given) and given.carrier_mass is None and not given.carrier_zeroed:
        sheet.plan.append(
            "The bar's mass is not on record: bar in, then the zero with it, then hang the weights and read. "
            "Afterwards the bar out, and the zero again without it."
        )


class _Judging:
    """The rules of a test with weights, once everything is in."""

    def __init__(
        self, sheet: Draft[TestWeightResults], given: TestWeightInputs, setting: Setting, weight: float, expected: float
    ) -> None:
        self.sheet, self.given, self.setting = sheet, given, setting
        self.weight, self.expected = weight, expected
        self.shown = _shown(given, expected)
        self.error = self.shown / expected - 1
        sheet.results.error = percent(self.error)

    def answer(self) -> Assessment[TestWeightResults]:
        sheet, given = self.sheet, self.given
        if given.revolutions is None or not at_most(LEAST_REVOLUTIONS, given.revolutions):
            ran = "are not said" if given.revolutions is None else f"so far are {shown(given.revolutions)}"
            text = f"The revolutions {ran}; three at least, for a belt has heavy and light places."
            return sheet.answer(KEEP_TESTING, [Reason("more-revolutions", text)], headline="More revolutions")
        self._offered()
        ratio = self.expected / self.shown if self.shown > 0 else None
        if ratio is not None and math.isfinite(ratio):
            sheet.slips = self._slips(ratio)
        off = heavy_or_light(self.error)
        limit = self.setting.profile.accept
        if limit is None:
            sheet.absent.append(
                missing("profile.accept", "This profile has no accept limit: say how far off is still in order.")
            )
            return sheet.answer(NOT_READY, sheet.absent)
        if limit.kept(self.error, self.error * self.weight):
            text = f"It reads {off} with the weights; within {limit} that was a verification. Write it down and take the weights off."
            return sheet.answer(
                LEAVE,
                [Reason("verified", text)],
                headline="Verified: leave it alone",
                lead=f"It reads {off} with the weights.",
            )
        implausible = self._implausible(ratio)
        if implausible or ratio is None:
            return sheet.answer(FIND_FAULT, [implausible] if implausible else [], look=WHERE_TO_LOOK)
        return self._adjust(ratio, off, str(limit))

    def _offered(self) -> None:
        """The factor that the instrument offers, beside the one that the rate asks for."""
        given = self.given
        if not given.offered_factor or not given.factor or _rate_of(given) is None or self.shown <= 0:
            return
        asked = key_in_factor(given.factor, self.expected / self.shown, given.direction, None).exact
        apart = given.offered_factor / asked - 1
        near = at_most(abs(apart), OFFERED_APART)
        text = f"The instrument offers {given.offered_factor:g}; the rate asks for {shown(asked, 6)}."
        if not near:
            text += f" They are {percent_shown(abs(apart))} apart: look what mass and length it was told."
        if not near and (given.offered_factor - given.factor) * (asked - given.factor) < 0:
            text += " It goes the other way: look whether its factor multiplies or divides."
        self.sheet.check("offered-factor", "pass" if near else "note", text)

    def _slips(self, ratio: float) -> list[slips.Slip]:
        given = self.given
        plates = given.plates or Plates()
        spacing = (
            {}
            if given.weigh_length
            else {"idler_spacing": given.idler_spacing, "weigh_idlers": given.weigh_idlers or 1}
        )
        entered = slips.Entered(
            plates=plates.model_copy(update=spacing | ({"angle": given.angle} if given.angle else {})),
            reference_unit=_unit(given),
            indicated_unit=(given.indicated_total or Quantity(0, _rate_unit(given).partition("/")[0], "")).unit,
            reference_sum=self.weight,
            tare_sum=given.carrier_mass.si if given.carrier_mass and given.carrier_mass.si else None,
            spacing_power=1,
        )
        found = slips.explain(ratio, 0.0, entered)
        if given.factor and given.nominal_factor:
            found += slips.explain(
                nominal_ratio(given.factor, given.nominal_factor, ratio, given.direction), 0.0, entered, of="nominal"
            )
        return found

    def _implausible(self, ratio: float | None) -> Reason | None:
        if ratio is None or not math.isfinite(ratio):
            return Reason("implausible", "It shows nothing, or less, with the weights on: there is no ratio to take.")
        said = f"Expected over shown is {shown(ratio, 4)}"
        return implausible(ratio, self.setting.profile, self.setting.occasion, said, "factor", "hung")

    def _adjust(self, ratio: float, off: str, limit: str) -> Assessment[TestWeightResults]:
        sheet, given = self.sheet, self.given
        change = (ratio - 1) * 100
        sheet.results.percent_change = Figure(change, "%")
        if given.factor:
            new = key_in_factor(given.factor, ratio, given.direction, given.factor_decimals)
            would = (1 + self.error) * gain(given.factor, new.keyed, given.direction) - 1
            sheet.results.new_factor = Figure(new.keyed)
            sheet.key_in = new.key_in(change, would)
        else:
            sheet.key_in = KeyIn(signed(change))
        text = f"It reads {off} with the weights, outside {limit}. A material test, where there is one, outranks this."
        sheet.down = ratio < 1
        lead = f"It reads {off} with the weights."
        return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline=in_words(ADJUST, sheet.down), lead=lead)


class JudgedBeltTestWeight(BeltTestWeight):
    """`belt-test-weight`, judged."""

    def assess(self, given: TestWeightInputs, setting: Setting) -> Assessment[TestWeightResults]:
        sheet = Draft(self, setting)
        _required(sheet, given)
        zero, unready = not_ready_zero(given.zero_done)
        sheet.checks.append(zero)
        sheet.absent += unready
        weight = _effective(given)
        if weight is not None and weight <= 0:
            path = "chain_mass_per_length" if _by_chain(given) else "test_mass"
            sheet.no_load(path, f"An effective mass of {mass_shown(weight, _unit(given))}")
        _bar_unknown(sheet, given)
        if weight is not None and weight > 0:
            _live(sheet, given, weight)
        expected = _expected(sheet, given, weight)
        failed = sheet.facts(("live-weight",))
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_LIVE)
        if sheet.absent or weight is None or expected is None:
            return sheet.answer(NOT_READY, sheet.absent)
        found = _Judging(sheet, given, setting, weight, expected).answer()
        return self._left(given, setting, found) if given.after_change else found

    def _left(
        self, given: TestWeightInputs, setting: Setting, found: Assessment[TestWeightResults]
    ) -> Assessment[TestWeightResults]:
        """What the same weights read with the new figure, judged like the first."""
        assert given.as_left
        keyed = given.as_left_factor or value_of(found.results.new_factor) or given.factor
        read = {key: getattr(given.as_left, key) for key in ("indicated_rate", "indicated_total", "duration")}
        more = {"revolutions": given.as_left.revolutions or given.revolutions, "factor": keyed, "as_left": None}
        left = self.assess(
            given.model_copy(update=read | more | {"offered_factor": None, "live_weight": None}), setting
        )
        for place, reason in enumerate(left.reasons):
            if reason.code == "verified":
                text = f"{reason.text.partition(';')[0]}: with the weights it reads what it should. The material test stays the proof."
                left.reasons[place] = Reason(reason.code, text)
        left.checks = [*found.checks, *(check for check in left.checks if check.code != "zero-first")]
        left.as_found = found
        return left

    def draw(self, given: TestWeightInputs, seen: Seen) -> Belt:
        """The weight that hangs, and the rate it stands for."""
        weight, length = _effective(given), _weigh_length(given)
        above = []
        if weight and length and given.speed:
            unit = _rate_unit(given)
            rate = Quantity(from_si(weight / length * given.speed.si, unit), unit, "")
            above += headline(rate, "that the weight stands for")
            above += headline(Quantity(weight / length, "kg/m", ""), "on the belt", 3)
            above += headline(given.speed, "belt speed", 3)
        unit = _unit(given)
        return drawn_belt(
            seen,
            above,
            idler_spacing=given.idler_spacing,
            weigh_idlers=given.weigh_idlers,
            angle=given.angle,
            hung=drawings.figure(Quantity(from_si(weight, unit), unit, "")) if weight else None,
            live_weight=drawings.figure(given.live_weight),
        )


METHOD = JudgedBeltTestWeight()
