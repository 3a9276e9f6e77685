"""Counted lifts: what is said of what was typed."""

import math
from collections.abc import Sequence

from wary import drawings
from wary.fields import (
    Run,
    at_most,
)
from wary.methods.method import NO_LIMITS, Marks, Seen, Setting
from wary.methods.shared.comparison import compare, factor_check
from wary.methods.shared.draft import Draft
from wary.methods.shared.offers import NUDGE
from wary.methods.shared.stages import ComparisonInputs, Stage
from wary.methods.vehicles.lift_repeat.method import CountedLift, LiftRepeat, LiftRepeatInputs, LiftRepeatResults
from wary.quantities import from_si, mass_shown, percent_shown, quantity, shown
from wary.results import Figure, in_unit, percent, value_of
from wary.rules.assessment import (
    FIND_FAULT,
    KEEP_TESTING,
    LEAVE,
    NOT_READY,
    Assessment,
    Check,
    FieldQuestion,
    Reason,
    Remark,
    missing,
)

SEATING, NEEDED = 10, 5
FILL_MARGIN, FILL_MARGIN_LB = quantity("50 kg", "mass"), quantity("100 lb", "mass")
ALIKE = 0.05
LEAST_FILL = 0.5
"""Two containers are alike within this share; the heavy one holds at least this share of the empty weight."""
WHERE_TO_LOOK = (
    "Lifts that do not count: did it touch the ground, or was it held too long?",
    "The container: hung the same way each time, nothing spilled, nothing left in it.",
    "Forks, comb or creel: does anything rub or swing?",
    "The oil: warm, and the lever to its stop.",
)


def _lifts(given: LiftRepeatInputs) -> list[CountedLift]:
    return [*(given.empty_lifts or []), *(given.heavy_lifts or [])]


def _counting(lifts: Sequence[CountedLift] | None) -> list[CountedLift]:
    """The lifts that count and are read, or were at least done."""
    return [
        lift
        for lift in lifts or []
        if lift.set_aside is None and (lift.raw is not None or lift.indicated is not None or lift.done)
    ]


class _Answer:
    """The checks of the page, in their order. Raw figures are pure numbers, masses in kg."""

    def __init__(self, method: LiftRepeat, given: LiftRepeatInputs, setting: Setting) -> None:
        self.method, self.given, self.setting = method, given, setting
        self.sheet = Draft(method, setting)
        self.empty, self.heavy = _counting(given.empty_lifts), _counting(given.heavy_lifts)
        both = [*self.empty, *self.heavy]
        self.raw = bool(both) and all(lift.raw is not None for lift in both)
        self.shown = not self.raw and bool(both) and all(lift.indicated is not None for lift in both)
        self.unit = given.empty_weight.unit if given.empty_weight else "kg"
        first = next((lift.indicated for lift in both if lift.indicated), None)
        self.shown_unit = first.unit if first else self.unit

    @property
    def added(self) -> float | None:
        """`heavy − empty` on the reference scale, in kg."""
        empty, heavy = self.given.empty_weight, self.given.heavy_weight
        return heavy.si - empty.si if empty and heavy else None

    @property
    def target(self) -> float | None:
        """`heavy_target = 2·empty_weight − fill_margin`, in kg."""
        margin = self.given.fill_margin or (FILL_MARGIN_LB if self.unit == "lb" else FILL_MARGIN)
        return 2 * self.given.empty_weight.si - margin.si if self.given.empty_weight else None

    def read(self, lifts: Sequence[CountedLift]) -> list[float]:
        """What these lifts read: raw figures, or masses in kg; empty where they read nothing."""
        if self.raw:
            return [lift.raw for lift in lifts if lift.raw is not None]
        return [lift.indicated.si for lift in lifts if lift.indicated] if self.shown else []

    def answer(self) -> Assessment[LiftRepeatResults]:
        sheet = self.sheet
        self._inputs()
        self._figures()
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent, headline=self._fill_headline())
        needed = self.given.lifts_needed or NEEDED
        gone = self._missing()
        if gone:
            words = " and ".join(f"{count} {which}" for which, count in gone)
            text = f"{words} still to be lifted; {needed} of each are wanted."
            made = len(self.empty) + len(self.heavy)
            more = {"runs": made, "minimum": made + sum(count for _, count in gone)}
            return sheet.answer(
                KEEP_TESTING, [Reason("too-few-runs", text, more)], headline=f"Lift on: {words} more", lead=text
            )
        wrong = self._ordered()
        if wrong:
            return sheet.answer(FIND_FAULT, [Reason("sanity", wrong)], look=WHERE_TO_LOOK)
        scattered = self._scattered()
        if scattered:
            return sheet.answer(FIND_FAULT, [scattered], look=WHERE_TO_LOOK)
        if self.shown:
            return self._compared()
        text = "All lifts are in and alike. Prove it: whole loads against a ground scale."
        return sheet.answer(LEAVE, [Reason("unproven", text)], headline="Set, not proven yet", lead="All lifts are in.", suggestions=[NUDGE])  # fmt: skip

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        sheet.need(given, "seating_lifts")
        # Either container may come first: what the other one lacks is still to be done, and not in the way.
        begun = bool(given.empty_lifts or given.heavy_lifts)
        for which, lifted in (("empty", given.empty_lifts), ("heavy", given.heavy_lifts)):
            if lifted or (not begun and which == "empty"):
                sheet.need(given, f"{which}_weight")
        if not begun:
            sheet.need(given, "empty_lifts")
        for name, weight, words in (
            ("empty_weight", given.empty_weight, "An empty container"),
            ("heavy_weight", given.heavy_weight, "A heavy container"),
            ("second_container_weight", given.second_container_weight, "A second container"),
        ):
            if weight is not None and weight.si <= 0:
                sheet.no_load(name, f"{words} of {weight.text}")
        for name, lifts in (("empty_lifts", given.empty_lifts), ("heavy_lifts", given.heavy_lifts)):
            for place, lift in enumerate(lifts or []):
                if lift.set_aside is None and lift.raw is None and lift.indicated is None and not lift.done:
                    which = name.partition("_")[0].capitalize()
                    text = f"{which} lift {place + 1}: type what it read, or that it was done."
                    sheet.absent.append(missing(f"inputs.{name}[{place}].raw", text))
        self._seated()
        self._alike()
        self._filled()

    def _seated(self) -> None:
        made, needed = self.given.seating_lifts, self.given.seating_needed or SEATING
        if made is None:
            return
        if made >= needed:
            self.sheet.check("seated", "pass", f"{made} seating lifts were made.")
            return
        text = (
            f"{made} of {needed} seating lifts are made: {needed - made} more, until everything lies where it will lie."
        )
        self.sheet.check("seated", "fail", text)
        self.sheet.absent.append(Reason("not-seated", text, {"path": "inputs.seating_lifts"}))

    def _alike(self) -> None:
        given = self.given
        if given.way != "two-containers":
            return
        self.sheet.need(given, "second_container_weight")
        empty, second = given.empty_weight, given.second_container_weight
        if not empty or not second or empty.si <= 0 or second.si <= 0:
            return
        apart = abs(second.si / empty.si - 1)
        text = f"The two containers weigh {empty.text} and {second.text} empty, {percent_shown(apart, decimals=1)} apart; {percent_shown(ALIKE, decimals=0)} is allowed."
        if at_most(abs(second.si - empty.si), ALIKE * empty.si):
            self.sheet.check("alike", "pass", text)
            return
        self.sheet.check("alike", "fail", text)
        self.sheet.absent.append(Reason("containers-differ", f"{text} Take two that are alike, or one for both.", {"path": "inputs.second_container_weight"}))  # fmt: skip

    def _filled(self) -> None:
        empty, heavy, added, target = self.given.empty_weight, self.given.heavy_weight, self.added, self.target
        if target is not None and target > 0 and empty:
            self.sheet.results.heavy_target = in_unit(target, self.unit)
            add = target - empty.si
            self.sheet.plan.append(
                f"Fill the heavy container to {mass_shown(target, self.unit)}: add {mass_shown(add, self.unit)} to the empty one."
            )
        if not empty or not heavy or added is None or empty.si <= 0 or heavy.si <= 0:
            return
        least = LEAST_FILL * empty.si
        if at_most(least, added):
            self.sheet.check("filled", "pass", f"The heavy container holds {mass_shown(added, self.unit)}.")
            return
        text = f"The heavy container holds {mass_shown(added, self.unit)}; at least {mass_shown(least, self.unit)} is wanted, half of what the empty one weighs. Fill more in."
        self.sheet.check("filled", "fail", text)
        self.sheet.absent.append(Reason("fill-more", text, {"path": "inputs.heavy_weight"}))  # fmt: skip

    def _fill_headline(self) -> str:
        return "Fill more in" if [reason.code for reason in self.sheet.absent] == ["fill-more"] else ""

    def _missing(self) -> list[tuple[str, int]]:
        needed = self.given.lifts_needed or NEEDED
        short = [(which, needed - len(lifts)) for which, lifts in (("heavy", self.heavy), ("empty", self.empty))]
        return [(which, count) for which, count in short if count > 0]

    def _figures(self) -> None:
        results = self.sheet.results
        results.lifts_missing = Figure(sum(count for _, count in self._missing()))
        unit = self.shown_unit if self.shown else ""
        empty, heavy = self._means()
        if empty is not None:
            results.empty_mean, results.empty_spread = (
                in_unit(empty, unit),
                in_unit(_range(self.read(self.empty)), unit),
            )
            self._tell("empty_lifts", self.given.empty_lifts, empty)
        if heavy is not None:
            results.heavy_mean, results.heavy_spread = (
                in_unit(heavy, unit),
                in_unit(_range(self.read(self.heavy)), unit),
            )
            self._tell("heavy_lifts", self.given.heavy_lifts, heavy)
        added = self.added
        if not self.raw or empty is None or heavy is None or empty == heavy or not added or not self.given.empty_weight:
            return
        per = added / (heavy - empty)
        results.mass_per_raw = in_unit(per, self.unit)
        results.raw_at_zero = Figure(empty - self.given.empty_weight.si / per)
        spread = max(_range(read) for read in (self.read(self.empty), self.read(self.heavy))) * abs(per)
        results.repeatability = in_unit(spread, self.unit)
        results.repeatability_share = percent(spread / abs(added))

    def _means(self) -> tuple[float | None, float | None]:
        empty, heavy = (self.read(lifts) for lifts in (self.empty, self.heavy))
        return (math.fsum(empty) / len(empty) if empty else None, math.fsum(heavy) / len(heavy) if heavy else None)

    def _tell(self, name: str, lifts: Sequence[CountedLift] | None, mean: float) -> None:
        rows = []
        for lift in lifts or []:
            read = self.read([lift])
            off = read[0] - mean if read else None
            text = (
                ""
                if off is None
                else f"{shown(from_si(off, self.shown_unit) if self.shown else off, 4, sign=True)}{f' {self.shown_unit}' if self.shown else ''}"
            )
            rows.append({"off": Remark(text, off)} if off is not None else {})
        self.sheet.remarks[name] = rows

    def _ordered(self) -> str | None:
        empty, heavy = self._means()
        if empty is None or heavy is None or heavy > empty:
            return None
        unit = f" {self.shown_unit}" if self.shown else ""
        low, high = (from_si(one, self.shown_unit) if self.shown else one for one in (empty, heavy))
        text = f"Heavy reads {shown(high, 6)}{unit} in the mean, empty {shown(low, 6)}{unit}: heavy is to read more. Look whether the containers changed places."
        self.sheet.check("ordered", "fail", text)
        return text

    def _scattered(self) -> Reason | None:
        share, limit = value_of(self.sheet.results.repeatability_share), self.setting.profile.repeat
        if share is None or limit is None:
            return None
        text = f"Lifts alike range over {percent_shown(share / 100)} of what is in the container; up to {percent_shown(limit)} counts as repeating."
        if at_most(share / 100, limit):
            self.sheet.check("repeats", "pass", text)
            return None
        self.sheet.check("repeats", "fail", text)
        return Reason(
            "not-repeating",
            f"{text} Set the lifts aside that touched the ground or were held too long, with the reason.",
        )

    def _compared(self) -> Assessment[LiftRepeatResults]:
        """The common rules over the lifts in the set, as runs against the weight of their own container."""
        given = self.given
        runs, paths = [], []
        for name, lifts, weight in (
            ("empty_lifts", given.empty_lifts, given.empty_weight),
            ("heavy_lifts", given.heavy_lifts, given.heavy_weight),
        ):
            for place, lift in enumerate(lifts or []):
                runs.append(Run(reference=weight, indicated=lift.indicated, set_aside=lift.set_aside))
                paths.append(f"inputs.{name}[{place}].indicated")
        inputs = ComparisonInputs(
            runs=runs,
            factor=given.factor,
            factor_decimals=given.factor_decimals,
            direction=given.direction,
            reference_division=given.reference_division,
            reference_uncertainty=given.reference_uncertainty,
            indicated_division=given.indicated_division,
        )

        def looks(stage: Stage, smallest: float | None) -> tuple[list[Check], list[Reason]]:
            return [*self.sheet.checks, *factor_check(inputs)], []

        answer = compare(self.method, inputs, self.setting, looks, WHERE_TO_LOOK, results=lambda: self.sheet.results)
        answer.remarks, answer.plan = self.sheet.remarks, self.sheet.plan
        answer.questions = [
            FieldQuestion(paths[int(one.path.partition("[")[2].partition("]")[0])], one.text)
            for one in answer.questions
        ]
        return answer

    # --- drawn --------------------------------------------------------------------------------

    def target_drawn(self) -> drawings.Figure | None:
        target = self.target
        return (
            None if target is None or target <= 0 else drawings.Figure(size=target, text=mass_shown(target, self.unit))
        )

    def strip(self, name: str) -> drawings.Strip:
        """The lifts of one container about their mean, in per cent of heavy less empty."""
        lifts = self.empty if name == "empty_lifts" else self.heavy
        empty, heavy = self._means()
        read = self.read(lifts)
        label = name.partition("_")[0]
        if not read or empty is None or heavy is None or heavy == empty:
            return drawings.Strip(label=label)
        mean = math.fsum(read) / len(read)
        marks = [
            drawings.StripMark(off=(found - mean) / abs(heavy - empty) * 100, text=str(place + 1), aside=lift.set_aside is not None)
            for place, lift in enumerate((self.given.empty_lifts if name == "empty_lifts" else self.given.heavy_lifts) or [])
            for found in ([lift.raw] if self.raw and lift.raw is not None else [lift.indicated.si] if self.shown and lift.indicated else [])
        ]  # fmt: skip
        spread = (max(read) - min(read)) / abs(heavy - empty)
        return drawings.Strip(label=label, spread=percent_shown(spread), marks=tuple(marks))


def _range(read: Sequence[float]) -> float:
    return max(read) - min(read)


class JudgedLiftRepeat(LiftRepeat):
    """`lift-repeat`, judged."""

    def assess(self, given: LiftRepeatInputs, setting: Setting) -> Assessment[LiftRepeatResults]:
        return _Answer(self, given, setting).answer()

    def changed(self, given: LiftRepeatInputs, answer: Assessment[LiftRepeatResults], marks: Marks) -> bool:
        """An instrument that learns from the lifts is changed by the first of them; one that only shows is not."""
        learned = any(lift.set_aside is None and lift.indicated is None for lift in _lifts(given))
        return bool(marks.read_back) or learned

    def draw(self, given: LiftRepeatInputs, seen: Seen) -> drawings.Repeats:
        """The lifts of both containers on strips of one scale, and how much the heavy one is to weigh."""
        answer = _Answer(self, given, NO_LIMITS)
        return drawings.Repeats(
            empty=drawings.figure(given.empty_weight, 6),
            target=answer.target_drawn(),
            heavy=drawings.figure(given.heavy_weight, 6),
            strips=tuple(answer.strip(name) for name in ("heavy_lifts", "empty_lifts")),
        )


METHOD = JudgedLiftRepeat()
