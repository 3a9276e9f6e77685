"""Check mass and doses: what is said of what was typed."""

import math
from collections.abc import Sequence

from wary import drawings
from wary.fields import (
    Limit,
    at_most,
)
from wary.fields import Plates as SlipPlates
from wary.methods.filling.dose_check.method import TOLERANCE, DoseCheck, DoseCheckInputs, DoseResults
from wary.methods.method import Seen, Setting
from wary.methods.shared.draft import Draft
from wary.quantities import Quantity, from_si, mass_shown, percent_shown, quantity, shown
from wary.results import Figure, in_unit, percent, value_of
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
from wary.rules.slips import Entered, explain

FAR_OFF = 0.03
"""An error of the check mass beyond this share is looked into before the span is touched."""
IN_A_ROW, ENOUGH_DOSES = 3, 6
SLOW = 3.0
SAME_RATIO = 0.05
NOT_THE_SCALE = (
    "Flow: pressure, level in the tank, a filter, product that thickens.",
    "The valve: shuts late, drips, another opening.",
    "The tare of the carrier: learned, and the one that belongs here.",
    "Settling: read before it stands.",
)
WHERE_TO_LOOK = (
    "The figures: the check mass that was typed, its unit, the decimal point.",
    "The cell: knocked, overloaded, wet; anything that bears on it or on its carrier.",
    "The carrier: clean, dry, free, square, and the one that belongs here.",
    "Where doses scatter and the check mass does not: flow, valve, tare of the carrier, air.",
)


def _mean(read: Sequence[Quantity]) -> float:
    return math.fsum(one.si for one in read) / len(read)


def _mass_limit(given: DoseCheckInputs) -> Limit:
    return given.tolerance or TOLERANCE


def _dose_limit(given: DoseCheckInputs) -> Limit:
    """The larger of 1 % and two divisions of the bench scale, where nothing is said."""
    if given.dose_tolerance:
        return given.dose_tolerance
    share = quantity("1 %", "percentage")
    if not given.bench_division:
        return Limit("one", (share,))
    two = quantity(f"{given.bench_division.value * 2!r} {given.bench_division.unit}", "mass")
    return Limit("larger", (share, two))


class _Dosing:
    """One answer in the making; masses in kg."""

    def __init__(self, method: DoseCheck, given: DoseCheckInputs, setting: Setting) -> None:
        self.sheet, self.given, self.setting = Draft(method, setting), given, setting
        self.mass = given.check_mass.si if given.check_mass else 0.0
        self.unit = given.check_mass.unit if given.check_mass else "g"
        self.limit = _mass_limit(given)

    def answer(self) -> Assessment[DoseResults]:
        sheet, given = self.sheet, self.given
        self._inputs()
        if sheet.absent:
            self._figures()
            return sheet.answer(NOT_READY, sheet.absent)
        before, after = self._figures()
        self._notes()
        if before is None:
            text = "The doses are in. Now the check mass on, settled and read: it tells the scale from the dosing."
            return sheet.answer(KEEP_TESTING, [Reason("check-mass-next", text)], headline="Now the check mass")
        right = self._kept(before)
        wrong = [dose for dose in given.doses_before or [] if not self._right(dose)]
        if right and wrong and not given.readings_after and len(wrong) * 2 > len(given.doses_before or []):
            share = _mean(given.doses_before or []) / (given.target.si if given.target else 1.0) - 1
            text = f"The check mass reads {self._off(before)}, within tolerance, and the doses came out {percent_shown(share, sign=True)}: it is not the scale. Flow, valve, tare of the carrier, settling."
            return sheet.answer(FIND_FAULT, [Reason("not-the-scale", text)], look=NOT_THE_SCALE)
        if not given.readings_after:
            return self._as_found(before, right)
        assert after is not None
        if not self._kept(after):
            return self._still_off(before, after)
        if not given.doses:
            text = f"The check mass reads {self._off(after)}. Now doses, until three in a row are right."
            return sheet.answer(KEEP_TESTING, [Reason("dose-next", text)], headline="Dose next")
        return self._doses()

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        # It may begin with the dose that was complained of: the check mass comes next then.
        sheet.need(given, *(("check_mass",) if given.readings_before or not given.doses_before else ()))
        if not given.doses_before:
            sheet.need(given, "readings_before")
        if given.check_mass and given.check_mass.si <= 0:
            sheet.no_load("check_mass", f"A check mass of {given.check_mass.text}")
        if given.doses or given.doses_before:
            sheet.need(given, "target")
        if given.check_mass and given.check_mass.si > 0:
            sheet.plan.append(f"Tolerance {self._both(self.limit, self.mass, self.unit)} of {given.check_mass.text}.")
        if given.target:
            limit = _dose_limit(given)
            sheet.plan.append(f"A dose of {given.target.text} may be off by {self._both(limit, given.target.si, given.target.unit)}.")  # fmt: skip

    def _both(self, limit: Limit, amount: float, unit: str) -> str:
        """A tolerance in both forms: as a share and as a mass."""
        share = limit.relative_at(amount)
        return f"{percent_shown(share)}, which is {mass_shown(share * amount, unit)}"

    def _figures(self) -> tuple[float | None, float | None]:
        """The mean errors of the check mass before and after, in kg."""
        given, results = self.given, self.sheet.results
        before, after = self._error_of(given.readings_before), self._error_of(given.readings_after)
        if before is not None:
            results.error_before, results.error_before_share = self._error_figures(before)
            self._tell("readings_before", given.readings_before or [], self.mass, self.limit)
        if after is not None:
            results.error_after, results.error_after_share = self._error_figures(after)
            self._tell("readings_after", given.readings_after or [], self.mass, self.limit)
        if before is not None and self.mass + before > 0:
            results.new_factor_ratio = Figure(self.mass / (self.mass + before))
        if given.target:
            for name, read in (("doses_before", given.doses_before), ("doses", given.doses)):
                self._tell(name, read or [], given.target.si, _dose_limit(given))
            if given.doses_before:
                results.dose_ratio = Figure(_mean(given.doses_before) / given.target.si)
            settled = self._settled()
            if settled is not None:
                results.doses_to_settle = Figure(settled)
        if given.settle_times:
            results.settle_time_mean = Figure(_mean(given.settle_times), "s")
        return before, after

    def _error_of(self, read: Sequence[Quantity] | None) -> float | None:
        """The mean error of the check mass, in kg."""
        return _mean(read) - self.mass if read and self.given.check_mass else None

    def _error_figures(self, error: float) -> tuple[Figure, Figure | None]:
        """An error in kg, in the unit of the check mass and as a share of it."""
        return in_unit(error, self.unit), percent(error / self.mass) if self.mass > 0 else None

    def _tell(self, name: str, read: Sequence[Quantity], wanted: float, limit: Limit) -> None:
        rows = []
        for one in read:
            off = one.si - wanted
            kept = wanted > 0 and limit.kept(off / wanted, off)
            rows.append({"off": Remark(f"{shown(from_si(off, one.unit), 4, sign=True)} {one.unit}", off, "good" if kept else "bad")})  # fmt: skip
        self.sheet.remarks[name] = rows

    def _kept(self, error: float) -> bool:
        return self.limit.kept(error / self.mass, error)

    def _right(self, dose: Quantity) -> bool:
        assert self.given.target
        error = dose.si - self.given.target.si
        return _dose_limit(self.given).kept(error / self.given.target.si, error)

    def _settled(self) -> int | None:
        """The number of the first dose of three in a row within tolerance, counted from one; None where there is none."""
        right = [self._right(dose) for dose in self.given.doses or []]
        return next((at + 1 for at in range(len(right) - IN_A_ROW + 1) if all(right[at : at + IN_A_ROW])), None)

    def _off(self, error: float) -> str:
        """An error in both forms."""
        share = error / self.mass
        return f"{shown(from_si(error, self.unit), 4, sign=True)} {self.unit} off, {percent_shown(share, sign=True)}"  # fmt: skip

    def _notes(self) -> None:
        results, sheet = self.sheet.results, self.sheet
        settle = results.settle_time_mean
        if settle:
            slow = not at_most(settle.value, SLOW)
            text = f"It takes {shown(settle.value, 3)} s to settle."
            more = " Loosen the setting, or steady the bench, before the cell is blamed." if slow else ""
            sheet.check("settling", "note" if slow else "pass", text + more)
        ratio, dosed = results.new_factor_ratio, results.dose_ratio
        if ratio and dosed and ratio.value > 0:
            apart = abs(dosed.value / ratio.value - 1)
            said = f"The doses came to {percent_shown(dosed.value, decimals=1)} of what was wanted; by the check mass they would have been {percent_shown(ratio.value, decimals=1)}."
            if at_most(apart, SAME_RATIO):
                sheet.check("same-ratio", "pass", f"{said} It is the cell.")
            else:
                sheet.check("same-ratio", "note", f"{said} It is not the cell alone: look at flow and tare.")

    def _as_found(self, before: float, right: bool) -> Assessment[DoseResults]:
        sheet = self.sheet
        ratio = value_of(sheet.results.new_factor_ratio)
        if ratio:
            unit = (self.given.readings_before or [])[0].unit
            entered = Entered(SlipPlates(), self.unit, unit, self.mass * len(self.given.readings_before or []))
            sheet.slips = explain(ratio, 0.0, entered)
        if right:
            text = f"The check mass reads {self._off(before)}: within tolerance."
            return sheet.answer(LEAVE, [Reason("within-limit", text)], headline="It weighs right: leave it alone")  # fmt: skip
        far = not at_most(abs(before), FAR_OFF * self.mass)
        if far and self.setting.occasion != "first":
            text = f"The check mass reads {self._off(before)}: more than a span that has wandered. A wrong figure or a damaged cell comes before any calibrating."
            return sheet.answer(FIND_FAULT, [Reason("far-off", text)], look=WHERE_TO_LOOK)
        text = f"The check mass reads {self._off(before)}. Take the span with it, then read it again."
        sheet.down = before > 0
        return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline="Take the span again")

    def _still_off(self, before: float, after: float) -> Assessment[DoseResults]:
        sheet = self.sheet
        text = f"After the span was taken the check mass reads {self._off(after)}; before it was {self._off(before)}."
        sheet.down = after > 0
        if at_most(abs(before) / 2, abs(after)):
            return sheet.answer(FIND_FAULT, [Reason("no-better", f"{text} That is no better than half of it: a span cannot cure this.")], look=WHERE_TO_LOOK)  # fmt: skip
        return sheet.answer(ADJUST, [Reason("outside-limit", f"{text} Take it once more.")], headline="Take the span once more")  # fmt: skip

    def _doses(self) -> Assessment[DoseResults]:
        sheet, doses = self.sheet, self.given.doses or []
        settled = self._settled()
        if settled is not None:
            text = f"Doses {settled} to {settled + IN_A_ROW - 1} are right, three in a row."
            return sheet.answer(LEAVE, [Reason("within-limit", text)], headline="It doses right: leave it alone")  # fmt: skip
        if len(doses) < ENOUGH_DOSES:
            text = (
                f"{len(doses)} {'dose' if len(doses) == 1 else 'doses'}, and no three in a row are right yet. Dose on."
            )
            return sheet.answer(KEEP_TESTING, [Reason("too-few-runs", text)], headline="Dose on")
        text = f"{len(doses)} doses, and never three in a row right, though the check mass reads right: it is not the cell. Flow, valve, tare, air."
        return sheet.answer(FIND_FAULT, [Reason("not-repeating", text)], look=WHERE_TO_LOOK)


class JudgedDoseCheck(DoseCheck):
    """`dose-check`, judged."""

    def assess(self, given: DoseCheckInputs, setting: Setting) -> Assessment[DoseResults]:
        return _Dosing(self, given, setting).answer()

    def draw(self, given: DoseCheckInputs, seen: Seen) -> drawings.Fills:
        """Check mass and doses beside each other, in per cent of what each should be."""
        mass, target = given.check_mass, given.target
        kinds = (
            ("as found", given.readings_before, mass),
            ("doses found", given.doses_before, target),
            ("after", given.readings_after, mass),
            ("doses", given.doses, target),
        )
        groups = []
        for label, read, wanted in kinds:
            if not read or not wanted or wanted.si <= 0:
                continue
            limit = _mass_limit(given) if wanted is mass else _dose_limit(given)
            marks = []
            for one in read[-drawings.MARKS_DRAWN :]:
                off = one.si / wanted.si - 1
                marks.append(drawings.FillMark(off=off * 100, text=percent_shown(off, sign=True), out=not limit.kept(off, one.si - wanted.si)))  # fmt: skip
            groups.append(drawings.FillGroup(label=label, marks=tuple(marks), mean=(_mean(read) / wanted.si - 1) * 100))
        share = _mass_limit(given).relative_at(mass.si) if mass and mass.si > 0 else None
        return drawings.Fills(
            target=drawings.figure(target or mass, 6),
            low=-share * 100 if share is not None else None,
            high=share * 100 if share is not None else None,
            low_text=f"−{percent_shown(share)}" if share is not None else "",
            high_text=f"+{percent_shown(share)}" if share is not None else "",
            groups=tuple(groups),
        )


METHOD = JudgedDoseCheck()
