"""Watching by samples: what is said of what was typed."""

import math

from wary import drawings
from wary.drawings import SampleMark
from wary.fields import (
    at_most,
)
from wary.methods.filling.fill_check.method import FillCheck, FillCheckInputs, FillCheckResults, Sample
from wary.methods.filling.sampling import (
    beyond,
    cycles_since,
    difference,
    neighbour_deviation,
    one_sided,
    wilson,
)
from wary.methods.method import NO_LIMITS, Seen, Setting
from wary.methods.shared.draft import Draft
from wary.quantities import from_si, mass_shown, percent_shown, shown
from wary.results import Figure, in_unit, percent
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

LEAST_SAMPLES = 5
ABLE, BARELY_ABLE = 1.33, 1.0
"""A machine of this capability or more fills well within its tolerance; of less than one, it cannot."""
WHERE_TO_LOOK = (
    "The machine's own scale: zero and span, before anything else.",
    "What changed where it began: product, hopper, air, a stop, someone's hand on a setting.",
    "Automatic correction of what is in flight: is it running away?",
    "The bench scale: its own check mass, draughts, the tare of the pack.",
)


def _in_set(given: FillCheckInputs) -> list[tuple[int, Sample]]:
    return [(place, one) for place, one in enumerate(given.samples or []) if one.set_aside is None]


class _Watching:
    """One answer in the making; masses in kg, sentences in the pack's unit."""

    def __init__(self, method: FillCheck, given: FillCheckInputs, setting: Setting) -> None:
        self.sheet, self.given = Draft(method, setting), given
        self.unit = given.target.unit if given.target else "g"
        self.target = given.target.si if given.target else 0.0
        self.samples = [(place, one) for place, one in _in_set(given) if one.bench or one.machine]
        self.errors = [(one.bench or one.machine).si - self.target for _, one in self.samples]  # type: ignore[union-attr]
        self.mean = math.fsum(self.errors) / len(self.errors) if self.errors else 0.0
        if abs(self.mean) < 1e-9 * self.target:
            self.mean = 0.0
        self.deviation = neighbour_deviation(self.errors)
        both = [one.machine.si - one.bench.si for _, one in self.samples if one.machine and one.bench]
        self.apart = difference(both)

    def answer(self) -> Assessment[FillCheckResults]:
        sheet = self.sheet
        self._inputs()
        self._figures()
        self._plan()
        self._counters()
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        count = len(self.errors)
        if count < LEAST_SAMPLES:
            text = f"{count} {'sample is' if count == 1 else 'samples are'} in the set; {LEAST_SAMPLES} are wanted before anything is said."
            more = {"runs": count, "minimum": LEAST_SAMPLES}
            return sheet.answer(KEEP_TESTING, [Reason("too-few-runs", text, more)], headline=f"Sample on: {LEAST_SAMPLES - count} more")  # fmt: skip
        fault = self._scales() or self._drift()
        if fault:
            return sheet.answer(FIND_FAULT, [fault], look=WHERE_TO_LOOK)
        return self._in_order()

    # --- what is there ----------------------------------------------------------------------------

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        sheet.need(given, "target", "over", "under", "samples")
        on_bench = any(one.bench for one in given.samples or [])
        for place, one in _in_set(given):
            if one.machine is None and one.bench is None:
                key = "bench" if on_bench else "machine"
                sheet.need_in(f"inputs.samples[{place}]", one, (key,), f"Sample {place + 1}")
        if self.apart is not None:
            sheet.need(given, "division", "bench_division")
        for place, pack in enumerate(given.released or []):
            sheet.need_in(f"inputs.released[{place}]", pack, ("who", "why"), f"Bad pack {place + 1}")
        if given.bench_division and given.over is not None and given.under is not None:
            room = given.over.si + given.under.si
            if room and not at_most(given.bench_division.si, room / 10):
                text = f"The bench scale steps by {given.bench_division.text}, the whole tolerance is {mass_shown(room, self.unit)}: too coarse to judge by. A tenth of the tolerance or less is wanted."
                sheet.check("bench-division", "note", text)

    def _out(self, error: float) -> bool:
        over, under = self.given.over, self.given.under
        if over is None or under is None:
            return False
        return not (at_most(-under.si, error) and at_most(error, over.si))

    def _mass(self, kilograms: float) -> Figure:
        return in_unit(kilograms, self.unit)

    def _figures(self) -> None:
        results, given = self.sheet.results, self.given
        if given.sampling and given.sampling.every:
            results.largest_unseen_run = Figure(given.sampling.every - 1)
        if not given.target or not self.errors:
            return
        self.sheet.results.mean_error_mass = self._mass(self.mean)
        if self.deviation is not None:
            self.sheet.results.standard_deviation_mass = self._mass(self.deviation)
        if self.apart is not None:
            self.sheet.results.bench_difference = self._mass(self.apart.mean)
        self._give_away()
        self._tell()
        if given.over is None or given.under is None:
            return
        out = sum(self._out(error) for error in self.errors)
        low, high = wilson(out, len(self.errors))
        results.out_of_tolerance = Figure(out)
        results.out_of_tolerance_low = percent(low)
        results.out_of_tolerance_high = percent(high)
        self.sheet.plan.append(f"{out} of {len(self.errors)} out of tolerance: between {percent_shown(low, decimals=1)} and {percent_shown(high, decimals=1)} of all.")  # fmt: skip
        if self.deviation:
            able = min(given.over.si - self.mean, given.under.si + self.mean) / (3 * self.deviation)
            results.capability = Figure(able)
            words = "it fills well within its tolerance" if able >= ABLE else "it just fits its tolerance" if able >= BARELY_ABLE else "it ranges wider than its tolerance, wherever it is set"  # fmt: skip
            self.sheet.check("capability", "pass" if able >= ABLE else "note", f"Capability {shown(able, 3)}: {words}.")

    def _give_away(self) -> None:
        results, given = self.sheet.results, self.given
        a_pack = max(self.mean, 0.0)
        self.sheet.results.giveaway_per_pack = self._mass(a_pack)
        if given.packs_per_year is None:
            return
        a_year = a_pack * given.packs_per_year
        self.sheet.results.giveaway_per_year = self._mass(a_year)
        price = self._price()
        if price is not None:
            results.giveaway_cost_per_year = Figure(a_year * price)
            self.sheet.plan.append(f"Given away in a year: {mass_shown(a_year, 'kg')}, which costs {shown(a_year * price, 5)}.")  # fmt: skip

    def _price(self) -> float | None:
        """What a kilogram costs."""
        cost = self.given.cost_per_mass
        return cost.amount / cost.per.si if cost and cost.amount and cost.per else None

    def _plan(self) -> None:
        """What a run of bad packs between two samples would cost, and the plan that would halve it."""
        plan = self.given.sampling
        if not plan or not plan.every or not self.given.target:
            return
        unseen, price = plan.every - 1, self._price()
        if not unseen:
            self.sheet.plan.append("Every pack is seen.")
            return
        lost = unseen * self.target
        cost = f", {shown(lost * price, 4)} in money" if price is not None else ""
        self.sheet.plan.append(f"Between two samples up to {unseen} bad packs would go unseen: {mass_shown(lost, 'kg')}{cost}. One in {(plan.every + 1) // 2} would halve it.")  # fmt: skip

    def _counters(self) -> None:
        given, sheet = self.given, self.sheet
        before, now = given.cycle_counter_before, given.cycle_counter
        if before is None or now is None:
            return
        since = cycles_since(before, now, given.cycle_counter_most)
        if since is None:
            text = f"The cycle counter shows {now}, less than the {before} at the last care. Where it begins again is not known: read it again, or type after how many."
            sheet.check("cycles", "note", text)
            return
        sheet.results.cycles_since_care = Figure(since)
        if given.care_every:
            left = given.care_every - since
            sheet.results.cycles_to_care = Figure(left)
            text = f"{since} cycles since the last care; it is due every {given.care_every}."
            sheet.check("care", "pass" if left > 0 else "note", text if left > 0 else f"{text} It is due.")

    def _tell(self) -> None:
        rows: list[dict[str, Remark]] = []
        for one in self.given.samples or []:
            remarks: dict[str, Remark] = {}
            read = one.bench or one.machine
            if read:
                off = read.si - self.target
                remarks["off"] = Remark(self._signed(off), off, "bad" if self._out(off) else "good")
            if one.bench and one.machine:
                apart = one.machine.si - one.bench.si
                remarks["differ"] = Remark(self._signed(apart), apart)
            rows.append(remarks)
        self.sheet.remarks["samples"] = rows

    def _signed(self, kilograms: float) -> str:
        return f"{shown(from_si(kilograms, self.unit), 4, sign=True)} {self.unit}"

    # --- what is said -----------------------------------------------------------------------------

    def _scales(self) -> Reason | None:
        """Whether the machine's scale and the bench scale differ by more than their divisions and chance."""
        apart, given = self.apart, self.given
        if apart is None or not given.division or not given.bench_division:
            return None
        coarser = max(given.division.si, given.bench_division.si)
        text = f"The machine says {self._signed(apart.mean)} against the bench scale, over {apart.count} packs; the coarser of the two steps by {mass_shown(coarser, self.unit)}."
        if not apart.stands_out(coarser):
            self.sheet.check("machine-scale", "pass", text)
            return None
        self.sheet.check("machine-scale", "fail", text)
        return Reason("machine-scale", f"{text} Zero and span of the machine come first: no cut-off cures a scale.")

    def _drift(self) -> Reason | None:
        far = beyond(self.errors, self.mean, self.deviation)
        if far:
            number = self.samples[far[0]][0] + 1
            text = f"Sample {number} is {self._signed(self.errors[far[0]])} off, beyond three deviations of the mean: something happened there."
            self.sheet.check("drift", "fail", text)
            return Reason("drift", text, {"sample": self.samples[far[0]][0]})
        run = one_sided(self.errors, self.mean)
        if run:
            first, last = (self.samples[place][0] + 1 for place in run)
            text = f"Samples {first} to {last} lie on one side of the mean, eight in a row: it drifts, or was moved."
            self.sheet.check("drift", "fail", text)
            return Reason("drift", text, {"sample": self.samples[run[0]][0]})
        self.sheet.check("drift", "pass", "No sample stands beyond three deviations, and no eight lie on one side.")
        return None

    def _in_order(self) -> Assessment[FillCheckResults]:
        sheet, given = self.sheet, self.given
        assert given.over is not None and given.under is not None
        out = sum(self._out(error) for error in self.errors)
        mean = f"{shown(from_si(self.mean, self.unit), 3, sign=True)} {self.unit}"
        about = f"{len(self.errors)} samples are {mean} off in the mean"
        if not out and at_most(-given.under.si / 2, self.mean) and at_most(self.mean, given.over.si / 2):
            text = f"{about}, and all are within tolerance."
            return sheet.answer(LEAVE, [Reason("within-limit", text)], headline="It fills right: leave it alone")  # fmt: skip
        why = f"{out} of them out of tolerance" if out else "more than half of the tolerance to one side"
        text = f"{about}, {why}. Tune it: trials of three fills say which cut-off to move."
        sheet.down = self.mean > 0
        return sheet.answer(ADJUST, [Reason("tune", text)], headline="Tune it")

    def drawn(self) -> drawings.Samples:
        given = self.given
        first = max(0, len(self.errors) - drawings.SAMPLES_DRAWN)
        far = set(beyond(self.errors, self.mean, self.deviation))
        marks = [
            SampleMark(off=error, number=self.samples[place][0] + 1, out=self._out(error), beyond=place in far)
            for place, error in enumerate(self.errors)
            if place >= first
        ]
        return drawings.Samples(
            low=-given.under.si if given.under else None,
            high=given.over.si if given.over else None,
            low_text=f"−{mass_shown(given.under.si, self.unit)}" if given.under else "",
            high_text=f"+{mass_shown(given.over.si, self.unit)}" if given.over else "",
            mean=self.mean if self.errors else None,
            mean_text=f"{shown(from_si(self.mean, self.unit), 3, sign=True)} {self.unit}" if self.errors else "",
            deviation=self.deviation,
            marks=tuple(marks) if given.target else (),
            before=first,
        )


class JudgedFillCheck(FillCheck):
    """`fill-check`, judged."""

    def assess(self, given: FillCheckInputs, setting: Setting) -> Assessment[FillCheckResults]:
        return _Watching(self, given, setting).answer()

    def draw(self, given: FillCheckInputs, seen: Seen) -> drawings.Samples:
        """The samples in their order, with tolerance, mean and zones."""
        watch = _Watching(self, given, NO_LIMITS)
        return watch.drawn()


METHOD = JudgedFillCheck()
