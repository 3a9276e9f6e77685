"""Grades and batch: what is said of what was typed."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary import drawings
from wary.drawings import Edge, GradeMark
from wary.fields import NONE, at_most
from wary.methods.filling.grade_check.method import ChangedGrade, GradeCheck, GradeCheckInputs, GradeResults, Sorted
from wary.methods.method import Seen, Setting
from wary.methods.shared.draft import Draft
from wary.quantities import Quantity, mass_shown, percent_shown
from wary.results import Figure, Word, in_unit, percent
from wary.rules.assessment import FIND_FAULT, LEAVE, NOT_READY, Assessment, Reason, Remark, missing
from wary.rules.call import only_missing

WHERE_TO_LOOK = (
    "Zero of the scale: empty and clean, and does it show nothing?",
    "The limits: typed in the machine's order, in its unit, one for each grade?",
    "The counts: of this batch, and cleared together with their totals?",
    "A check mass just under and just over a limit: does each go where it should?",
)


@dataclass(frozen=True)
class Step:
    """A grade with both its ends in kg, None where it is open; `inner` edges are those that it shares with another."""

    place: int
    name: str
    outlet: int | None
    low: float | None
    high: float | None
    inner: int

    def holds(self, average: float) -> bool:
        """Whether an average lies within it."""
        return (self.low is None or at_most(self.low, average)) and (self.high is None or at_most(average, self.high))


REJECT = "reject"
"""The grade under which a machine counts what it rejects."""


def reject_of(given: GradeCheckInputs) -> float | None:
    """Beyond what a piece is rejected, kg; None where the machine rejects nothing, or that is not said."""
    return given.reject_limit.si if isinstance(given.reject_limit, Quantity) else None


def ladder_of(given: GradeCheckInputs) -> list[Step]:
    """The grades from light to heavy, each with its two ends; empty while a limit or the kind of limit is missing."""
    grades = [(place, one) for place, one in enumerate(given.grades or []) if one.limit]
    if not grades or len(grades) != len(given.grades or []) or not given.limit_kind:
        return []
    grades.sort(key=lambda row: row[1].limit.si if row[1].limit else 0.0)
    limits = [one.limit.si for _, one in grades if one.limit]
    reject = reject_of(given)
    steps = []
    for at, (place, one) in enumerate(grades):
        heaviest, lightest = at == len(grades) - 1, at == 0
        low: float | None
        high: float | None
        if given.limit_kind == "lower":
            low, high = limits[at], reject if heaviest else limits[at + 1]
            inner = (not lightest) + (not heaviest)
        else:
            low, high = None if lightest else limits[at - 1], limits[at]
            inner = (not lightest) + (not heaviest)
        steps.append(Step(place, one.name or "", one.outlet, low, high, inner))
    return steps


class _Grading:
    """One answer in the making; masses in kg."""

    def __init__(self, method: GradeCheck, given: GradeCheckInputs, setting: Setting) -> None:
        self.sheet, self.given = Draft(method, setting), given
        self.grades = given.grades or []
        first = next((one.limit for one in self.grades if one.limit), None)
        self.unit = first.unit if first else "g"
        self.steps = {step.name: step for step in ladder_of(given)}

    def answer(self) -> Assessment[GradeResults]:
        sheet = self.sheet
        sheet.need(self.given, "grades", "limit_kind")
        if self.given.reject_limit is None:
            text = "Beyond what is a piece rejected? Read it off the machine; type “none” where it rejects nothing."
            sheet.absent.append(missing("inputs.reject_limit", text))
        for place, one in enumerate(self.grades):
            sheet.need_in(f"inputs.grades[{place}]", one, ("name", "limit", "outlet"), f"Grade {place + 1}")
        for place, had in enumerate(self.given.batch or []):
            sheet.need_in(f"inputs.batch[{place}]", had, ("grade",), f"Batch, row {place + 1}")
        if only_missing(sheet.absent) and all(one.limit for one in self.grades) and self.grades:
            self._limits()
            self._outlets()
            self._counters()
        self._figures()
        self._left()
        wrong = self._averages() if only_missing(sheet.absent) else []
        if wrong:
            return sheet.answer(FIND_FAULT, [Reason("sanity", text) for text in wrong], look=WHERE_TO_LOOK)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        text = "Limits and outlets are in order." + (
            " Each grade's average lies within its own limits."
            if self.given.batch
            else " Sort a batch, and type its counts, to see what it makes of them."
        )
        return sheet.answer(LEAVE, [Reason("in-order", text)], headline="The grades are in order")

    def _not_ready(self, code: str, check: str, text: str, path: str) -> None:
        self.sheet.check(check, "fail", text)
        self.sheet.absent.append(Reason(code, text, {"path": path}))

    def _limits(self) -> None:
        limits = [one.limit.si for one in self.grades if one.limit]
        apart = [b - a for a, b in zip(limits, limits[1:], strict=False)]
        wrong = self._first_wrong(apart)
        if wrong is not None:
            one, other = self.grades[wrong], self.grades[wrong + 1]
            text = f"The limits do not go one way: {one.name} is {one.limit.text if one.limit else ''}, {other.name} after it {other.limit.text if other.limit else ''}. Look whether two changed places."
            self._not_ready("limits", "limits", text, f"inputs.grades[{wrong + 1}].limit")
        else:
            self.sheet.check("limits", "pass", "The limits go one way.")
        reject = self.given.reject_limit if isinstance(self.given.reject_limit, Quantity) else None
        if reject and at_most(reject.si, max(limits)):
            heaviest = max((one for one in self.grades if one.limit), key=lambda one: one.limit.si if one.limit else 0)
            text = f"Pieces are rejected beyond {reject.text}, and {heaviest.name} has a limit of {heaviest.limit.text if heaviest.limit else ''}: they would be rejected first, and no outlet would open."
            self._not_ready("reject-first", "reject", text, "inputs.reject_limit")
        elif reject:
            self.sheet.check("reject", "pass", "Rejected is what is beyond the heaviest limit.")

    def _first_wrong(self, apart: Sequence[float]) -> int | None:
        """Where the limits turn or stand still: by the place of the step; None where they go one way."""
        if not apart:
            return None
        up = sum(step > 0 for step in apart) >= sum(step < 0 for step in apart)
        return next((at for at, step in enumerate(apart) if not (step > 0 if up else step < 0)), None)

    def _outlets(self) -> None:
        seen: dict[int, str] = {}
        wrong = False
        names = [(one.name or "").strip().lower() for one in self.grades]
        if REJECT in names and self.given.reject_limit == NONE:
            text = "There is an outlet for rejects, and the machine is said to reject nothing: type beyond what it rejects."
            self._not_ready("reject-none", "outlets", text, f"inputs.grades[{names.index(REJECT)}].outlet")
        for place, one in enumerate(self.grades):
            path = f"inputs.grades[{place}].outlet"
            if one.outlet is None:
                continue
            if self.given.outlets is not None and one.outlet > self.given.outlets:
                text = f"{one.name} goes to outlet {one.outlet}; there are {self.given.outlets}."
                self._not_ready("outlet", "outlets", text, path)
                wrong = True
            elif one.outlet in seen:
                text = f"{one.name} and {seen[one.outlet]} go to outlet {one.outlet}: each outlet is for one grade."
                self._not_ready("outlet", "outlets", text, path)
                wrong = True
            seen.setdefault(one.outlet, one.name or "")
        if not wrong:
            self.sheet.check("outlets", "pass", "Each outlet is used once.")

    def _counters(self) -> None:
        seen: set[str] = set()
        names = {one.name for one in self.grades}
        for place, had in enumerate(self.given.batch or []):
            path = f"inputs.batch[{place}]"
            count, total = had.count or 0, had.total_mass.si if had.total_mass else 0.0
            if had.grade == REJECT and self.given.reject_limit == NONE and count:
                text = f"{count} pieces are counted as rejected, and the machine is said to reject nothing: which of the two is it?"
                self._not_ready("reject-none", "batch", text, "inputs.reject_limit")
            elif had.grade == REJECT:
                pass
            elif had.grade not in names:
                self._not_ready("grade-unknown", "batch", f"{had.grade} is none of the grades: type it as it stands there.", f"{path}.grade")  # fmt: skip
            elif had.grade in seen:
                self._not_ready("grade-twice", "batch", f"{had.grade} stands twice in the batch: type it once, with all its pieces.", f"{path}.grade")  # fmt: skip
            elif (count > 0) != (total > 0):
                have, lack = ("pieces", "no total") if count else ("a total", "no pieces")
                text = f"{had.grade} has {have} and {lack}: one counter was cleared without the other. Clear both, or read both again."
                self._not_ready("cleared-apart", "cleared", text, f"{path}.{'total_mass' if count else 'count'}")
            seen.add(had.grade or "")

    def _figures(self) -> None:
        batch, results = self.given.batch or [], self.sheet.results
        pieces = sum(had.count or 0 for had in batch)
        self._tell(pieces)
        if not pieces:
            return
        unit = next((had.total_mass.unit for had in batch if had.total_mass), self.unit)
        # A grade without pieces has no average, and keeps its place.
        results.averages = [in_unit(had.total_mass.si / had.count, unit) if had.count and had.total_mass else None for had in batch]  # fmt: skip
        results.shares = [percent((had.count or 0) / pieces) for had in batch]
        noise = self.given.scale_noise
        if noise is not None and self.steps:
            wrong = 0.0
            for had in batch:
                step = self.steps.get(had.grade or "")
                if step and step.low is not None and step.high is not None and step.high > step.low:
                    near = 2 * noise.si / (step.high - step.low) * step.inner
                    wrong += (had.count or 0) * min(1.0, near)
            results.misgraded_share = percent(wrong / pieces)

        self._days(batch, unit)

    def _days(self, batch: Sequence[Sorted], unit: str) -> None:
        """What the batch comes to, and how its pieces are against those of the days before."""
        results = self.sheet.results
        weighed = [(had.count, had.total_mass.si) for had in batch if had.count and had.total_mass]
        results.pieces = Figure(sum(had.count or 0 for had in batch))
        if not weighed:
            return
        total, count = math.fsum(mass for _, mass in weighed), sum(count for count, _ in weighed)
        results.total, results.mean_piece = in_unit(total, unit), in_unit(total / count, unit)
        name = (self.given.batch_name or "").strip().lower()
        before = [(one.count, one.total_mass.si) for one in self.given.earlier or [] if one.count and one.total_mass and (not name or (one.batch or "").strip().lower() == name)]  # fmt: skip
        if before:
            mean = math.fsum(mass for _, mass in before) / sum(count for count, _ in before)
            results.earlier_mean = in_unit(mean, unit)
            results.mean_change = percent(total / count / mean - 1)

    def _left(self) -> None:
        """What of limits, outlets and reject was left otherwise than found."""
        given, changed = self.given, []
        found = {one.name: one for one in self.grades if one.name}
        for one in given.grades_left or []:
            was = found.get(one.name or "")
            for what, before, after in (
                ("limit", was.limit.text if was and was.limit else "", one.limit.text if one.limit else ""),
                ("outlet", str(was.outlet or "") if was else "", str(one.outlet or "")),
            ):
                if after and after != before:
                    changed.append(ChangedGrade(Word(f"{one.name or ''}, {what}"), Word(before or "–"), Word(after)))
        before, after = (one.text if isinstance(one, Quantity) else one or "" for one in (given.reject_limit, given.reject_left))  # fmt: skip
        if after and after != before:
            changed.append(ChangedGrade(Word("rejected beyond"), Word(before or "–"), Word(after)))
        if changed:
            self.sheet.results.changed = changed

    def _tell(self, pieces: int) -> None:
        ranges = {step.place: self._range(step) for step in self.steps.values()}
        self.sheet.remarks["grades"] = [{"range": Remark(ranges[place])} if place in ranges else {} for place in range(len(self.grades))]  # fmt: skip
        rows: list[dict[str, Remark]] = []
        for had in self.given.batch or []:
            row: dict[str, Remark] = {}
            if had.count and had.total_mass:
                average, step = had.total_mass.si / had.count, self.steps.get(had.grade or "")
                row["average"] = Remark(mass_shown(average, self.unit), average, "bad" if step and not step.holds(average) else "good")  # fmt: skip
            if had.count is not None and pieces:
                row["share"] = Remark(percent_shown(had.count / pieces, decimals=1), had.count / pieces * 100)
            rows.append(row)
        self.sheet.remarks["batch"] = rows

    def _range(self, step: Step) -> str:
        low = mass_shown(step.low, self.unit) if step.low is not None else ""
        high = mass_shown(step.high, self.unit) if step.high is not None else ""
        return f"{low} to {high}" if low and high else f"{low} and more" if low else f"up to {high}"

    def _averages(self) -> list[str]:
        wrong = []
        for had in self.given.batch or []:
            step = self.steps.get(had.grade or "")
            if not step or not had.count or not had.total_mass:
                continue
            average = had.total_mass.si / had.count
            if not step.holds(average):
                wrong.append(f"{had.grade} averages {mass_shown(average, self.unit)}, and holds {self._range(step)}. No piece-by-piece luck does that: the zero is off, a limit is mistyped, or the counts are of another batch.")  # fmt: skip
        if self.given.batch:
            self.sheet.check("averages", "fail" if wrong else "pass", wrong[0] if wrong else "Each average lies within its own limits.")  # fmt: skip
        return wrong


class JudgedGradeCheck(GradeCheck):
    """`grade-check`, judged."""

    def assess(self, given: GradeCheckInputs, setting: Setting) -> Assessment[GradeResults]:
        return _Grading(self, given, setting).answer()

    def draw(self, given: GradeCheckInputs, seen: Seen) -> drawings.Grades:
        """The grades as a ruler of weights, with what was sorted over it."""
        ladder = ladder_of(given)
        sorted_ = {one.grade: one for one in given.batch or [] if one.grade}
        total = sum(one.count or 0 for one in given.batch or [])
        marks = []
        for step in ladder:
            had = sorted_.get(step.name)
            count = had.count if had else None
            mean = had.total_mass.si / count if had and had.total_mass and count else None
            marks.append(
                GradeMark(
                    label=step.name or str(step.place + 1),
                    low=step.low or 0.0,
                    high=step.high,
                    outlet=str(step.outlet or ""),
                    share=count / total if count is not None and total else None,
                    count=count,
                    mean=mean,
                    wrong=mean is not None and not step.holds(mean),
                )
            )
        limits = sorted({one.limit.si: one.limit for one in given.grades or [] if one.limit}.items())
        edges = [Edge(at=at, text=mass_shown(at, limit.unit)) for at, limit in limits]
        reject = given.reject_limit if isinstance(given.reject_limit, Quantity) else None
        return drawings.Grades(grades=tuple(marks), edges=tuple(edges), reject=drawings.figure(reject, 5))


METHOD = JudgedGradeCheck()
