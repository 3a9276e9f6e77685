"""The constant: what is said of what was typed."""

import math
from collections.abc import Iterator

from wary import drawings
from wary.fields import Plates as SlipPlates
from wary.fields import (
    at_most,
)
from wary.methods.metering.arithmetic import enough, need_net, net_of, no_net, unit_of
from wary.methods.metering.constant_catch.method import ConstantCatch, ConstantCatchInputs, ConstantResults, ConstantRun
from wary.methods.method import Seen, Setting
from wary.methods.shared.containers import known_containers
from wary.methods.shared.draft import Draft
from wary.quantities import Quantity, from_si, mass_shown, percent_shown, shown
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
    missing,
)
from wary.rules.call import few_divisions, little
from wary.rules.correction import as_keyed, key_in_factor
from wary.rules.evidence import NORMAL_95, reading_uncertainty
from wary.rules.reading_slips import Weighing
from wary.rules.slips import Entered, explain
from wary.suspects import looks
from wary.suspects.suspect import FINE, NOT_FINE, Sign

DENSITY_APART = 0.01
FROM_THREE_ON = 3
WHERE_TO_LOOK = (
    "Purged: the belt or screw full of this material before the first catch.",
    "The gate: has it moved between two catches?",
    "Density: another load, damp, or segregated in the bin?",
    "Bridging: does material come all the time?",
    "The constant as keyed in: no digit missing, none too many.",
)


def _net(run: ConstantRun) -> float | None:
    if run.start is not None and run.end is not None:
        return run.start.si - run.end.si
    return net_of(run)


def _led_to(given: ConstantCatchInputs, run: ConstantRun) -> Iterator[tuple[float, float]]:
    """The net of a catch, kg, and the constant that it leads to; nothing where it is set aside or not whole."""
    net = _net(run)
    if (
        run.set_aside is not None
        or not net
        or net <= 0
        or not run.constant
        or not run.controller
        or not run.controller.si
    ):
        return
    ratio = run.controller.si / net
    yield net, run.constant / ratio if given.direction == "multiplies" else run.constant * ratio


class _Closing:
    """One answer in the making; masses in kg."""

    def __init__(self, method: ConstantCatch, given: ConstantCatchInputs, setting: Setting) -> None:
        self.sheet, self.given, self.setting = Draft(method, setting), given, setting
        self.rows = given.runs or []
        self.runs = [
            (place, run, net)
            for place, run in enumerate(self.rows)
            if run.set_aside is None and (net := _net(run)) is not None and run.constant and run.controller is not None
        ]
        self.unit = unit_of([run.controller for run in self.rows])
        self.decimals = given.constant_decimals or 0

    def _next(self, run: ConstantRun, net: float) -> float:
        assert run.constant and run.controller
        if self.given.direction == "multiplies":
            return run.constant * net / run.controller.si if run.controller.si else math.inf
        return run.constant * run.controller.si / net

    def answer(self) -> Assessment[ConstantResults]:
        sheet, given = self.sheet, self.given
        self._inputs()
        self._figures()
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        if not self.runs:
            text = "Every catch is set aside: catch again."
            return sheet.answer(KEEP_TESTING, [Reason("too-few-runs", text)])
        place, run, net = self.runs[-1]
        assert run.controller
        off = run.controller.si - net
        share = off / net
        about = f"The controller says {run.controller.text}, the scale {mass_shown(net, self.unit, 5)}: {percent_shown(share, sign=True)}"
        if run.controller.si > 0:
            sheet.slips = explain(net / run.controller.si, 0.0, self._entered(run, net))
        accept = self.setting.profile.accept
        within = accept is not None and at_most(abs(off), accept.relative_at(net) * net)
        small = self._small(net, off, about, within)
        if small:
            return small
        if within:
            text = f"{about}. Closed, within the limit: further changes chase the scale's own step."
            return sheet.answer(LEAVE, [Reason("closed", text)], headline="Closed: leave it alone", lead="Controller and scale agree.")  # fmt: skip
        plausible = self.setting.profile.plausible
        if plausible is not None and self.setting.occasion != "first" and not at_most(abs(share), plausible):
            few = few_divisions(off, (given.reference_division.si if given.reference_division else None,), self.unit)
            if few:
                return sheet.answer(KEEP_TESTING, [few], headline="Catch more")
            text = f"{about}. That is more than a constant wanders: look before it is set."
            return sheet.answer(FIND_FAULT, [Reason("implausible", text)], look=WHERE_TO_LOOK)
        if self._alternates():
            text = "The last three differences change sign each time and do not shrink: setting the constant does not answer. Not purged, the gate moved, the density changed, or it bridges."
            return sheet.answer(FIND_FAULT, [Reason("alternating", text)], look=WHERE_TO_LOOK)
        answer = self._set(about)
        if self._is_small(net):
            text = "One catch is below what this scale needs to prove it right; that it is off it shows all the same."
            answer.reasons.append(Reason("coarse", text))
        return answer

    def _is_small(self, net: float) -> bool:
        """Whether a catch is below `R_min`: it cannot prove the constant right."""
        least = self._least()
        return least is not None and self.given.reference_division is not None and not at_most(least, net)

    def _small(self, net: float, off: float, about: str, within: bool) -> Assessment[ConstantResults] | None:
        """What a catch below `R_min` says: it cannot prove the constant right, and can still show it wrong."""
        least, division = self._least(), self.given.reference_division
        if least is None or division is None or not self._is_small(net):
            return None
        words, step = mass_shown(least, division.unit), division.text
        why = f"a scale of {step} needs {words} to show an error as large as the limit"
        if within or at_most(abs(off), division.si):
            code, how = ("below-reference-division", "within the scale's own step") if at_most(abs(off), division.si) else ("closed", "within the limit")  # fmt: skip
            reasons = [
                Reason(code, f"{about}. Closed, {how} of {step}." if code != "closed" else f"{about}. Closed, {how}.")
            ]
            reasons.append(little(net, self.unit, why))
            return self.sheet.answer(LEAVE, reasons, headline="Closed: leave it alone", lead=f"No more than the scale shows. A catch of {words} would show more.")  # fmt: skip
        unknown = max(division.si, NORMAL_95 * reading_uncertainty(division.si, self._readings()))
        if not at_most(abs(off), unknown):
            return None
        text = f"{about}. The last catch is {mass_shown(net, self.unit, 5)}; {why}."
        return self.sheet.answer(KEEP_TESTING, [Reason("weigh-more", text)], headline=f"Catch at least {words}")

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        sheet.need(given, "runs")
        if given.purged is False:
            text = "It is not purged: run it until it is full of this material, put that back, then catch."
            sheet.check("purged", "fail", text)
            sheet.absent.append(Reason("not-purged", text, {"path": "inputs.purged"}))
        if given.density and given.density_keyed:
            apart = given.density_keyed.si / given.density.si - 1
            text = f"The controller has a density of {given.density_keyed.text}, measured is {given.density.text}: {percent_shown(apart, sign=True)}."
            if at_most(abs(apart), DENSITY_APART):
                sheet.check("density", "pass", text)
            else:
                sheet.check("density", "fail", text)
                sheet.absent.append(Reason("density", f"{text} Key the measured one in first.", {"path": "inputs.density_keyed"}))  # fmt: skip
        for place, run in enumerate(self.rows):
            if run.set_aside is None:
                self._need(f"inputs.runs[{place}]", f"Catch {place + 1}", run)
        least = self._least()
        if least is not None and given.reference_division:
            unit = given.reference_division.unit
            sheet.results.smallest_amount = in_unit(least, unit)
            sheet.plan.append(f"Catch at least {mass_shown(least, unit)}: less says nothing on a scale of {given.reference_division.text}.")  # fmt: skip

    def _need(self, path: str, where: str, run: ConstantRun) -> None:
        sheet = self.sheet
        sheet.need_in(path, run, ("constant", "controller"), where)
        if run.start is not None or run.end is not None:
            for key, read, words in (("start", run.start, "before"), ("end", run.end, "after")):
                if read is None:
                    sheet.absent.append(missing(f"{path}.{key}", f"{where}: type what the machine weighed {words}."))
            no_net(sheet, path, where, _net(run))
        else:
            need_net(sheet, path, where, run)

    def _readings(self) -> int:
        """How many readings of the scale are behind one net."""
        two = any(run.gross is not None or run.start is not None for run in self.rows)
        return 2 if two else self.given.reference_readings or 1

    def _least(self) -> float | None:
        return enough(self.setting.profile, self.given.reference_division, self._readings())

    def _figures(self) -> None:
        if not self.runs or any(net <= 0 for _, _, net in self.runs):
            return
        results, unit = self.sheet.results, self.unit
        last = self.rows[-1]
        if last.end is not None:
            results.vessel_now = Figure(last.end.value, last.end.unit)
        offs = [run.controller.si - net for _, run, net in self.runs if run.controller]
        results.differences = [in_unit(off, unit) for off in offs]
        results.difference_shares = [percent(off / net) for off, (_, _, net) in zip(offs, self.runs, strict=True)]  # fmt: skip
        nexts = [self._next(run, net) for _, run, net in self.runs]
        results.nexts = [Figure(one) for one in nexts]
        weights = [net for _, _, net in self.runs]
        best = math.fsum(one * net for one, net in zip(nexts, weights, strict=True)) / math.fsum(weights)
        results.best_constant = Figure(key_in_factor(best, 1.0, None, self.decimals).keyed)
        said: dict[int, dict[str, Remark]] = {}
        for (place, _, net), off, following in zip(self.runs, offs, nexts, strict=True):
            share = off / net
            kept = self.setting.profile.accept
            good = kept is not None and at_most(abs(share), kept.relative_at(net))
            said[place] = {
                "net": Remark(mass_shown(net, unit, 5), net),
                "off": Remark(percent_shown(share, sign=True), share * 100, "good" if good else "bad"),
                "next": Remark(as_keyed(following, self.decimals), following),
            }
        self.sheet.remarks["runs"] = [said.get(place, {}) for place in range(len(self.rows))]

    def _alternates(self) -> bool:
        """Whether the last three differences change sign each time and do not shrink."""
        last = [run.controller.si - net for _, run, net in self.runs[-3:] if run.controller]
        if len(last) < 3:
            return False
        one, two, three = last
        turns = one * two < 0 and two * three < 0
        return turns and at_most(abs(one), abs(two)) and at_most(abs(two), abs(three))

    def _entered(self, run: ConstantRun, net: float) -> Entered:
        tare = run.tare.si if run.tare else None
        reference = unit_of([run.gross, run.net, run.start], self.unit)
        whole = run.net or (Quantity(from_si(net, reference), reference, "") if run.gross is None else None)
        read = Weighing("The catch", None if whole else run.gross, None if whole else run.tare, whole, run.controller)
        return Entered(
            SlipPlates(),
            reference,
            self.unit,
            net,
            tare,
            weighings=(read,),
            containers=known_containers(self.given.containers),
        )

    def _set(self, about: str) -> Assessment[ConstantResults]:
        sheet = self.sheet
        _, run, net = self.runs[-1]
        assert run.constant
        many = len(self.runs) >= FROM_THREE_ON
        keyed = sheet.results.best_constant.value if many and sheet.results.best_constant else key_in_factor(self._next(run, net), 1.0, None, self.decimals).keyed  # fmt: skip
        sheet.results.new_factor = Figure(keyed)
        words = as_keyed(keyed, self.decimals)
        text = f"{about}. {'The best of all catches' if many else 'The next constant'} is {words}; {shown(run.constant, 6)} is in use."
        sheet.down = keyed < run.constant
        return sheet.answer(ADJUST, [Reason("outside-limit", text)], headline=f"Set {words}", lead="Set it, then catch once more.")  # fmt: skip


APART = 0.02
"""By so much of itself the constant that catches lead to may differ from one catch to the next."""
OTHER_AMOUNT = 1.2
"""A catch so many times as large as another is a longer one."""


class JudgedConstantCatch(ConstantCatch):
    """`constant-catch`, judged."""

    def signs(self, given: ConstantCatchInputs, answer: Assessment[ConstantResults]) -> Iterator[Sign]:
        yield from super().signs(given, answer)
        led = [(net, found) for run in given.runs or [] for net, found in _led_to(given, run)]
        if len(led) < 2:
            return
        low, high = min(found for _, found in led), max(found for _, found in led)
        apart = not at_most(high - low, APART * low)
        text = f"The {len(led)} catches lead to constants from {shown(low, 5)} to {shown(high, 5)}."
        yield Sign(looks.SAME_AGAIN.key, NOT_FINE if apart else FINE, text, "inputs.runs")
        if max(net for net, _ in led) >= OTHER_AMOUNT * min(net for net, _ in led):
            yield Sign(
                looks.LONGER.key,
                NOT_FINE if apart else FINE,
                f"Large and small: {text[0].lower()}{text[1:]}",
                "inputs.runs",
            )

    def assess(self, given: ConstantCatchInputs, setting: Setting) -> Assessment[ConstantResults]:
        return _Closing(self, given, setting).answer()

    def set_before(self, given: ConstantCatchInputs) -> str:
        first = next((run.constant for run in given.runs or [] if run.constant), None)
        return shown(first, 6) if first else ""

    def tried(self, given: ConstantCatchInputs, answer: Assessment[ConstantResults]) -> tuple[float, float] | None:
        """A new constant is to bring controller and scale together."""
        runs = [one for one in given.runs or [] if one.set_aside is None and one.constant]
        shares = [one.value for one in answer.results.difference_shares or []]
        if len(shares) < 2 or len(runs) < 2 or runs[-1].constant == runs[-2].constant:
            return None
        return shares[-2], shares[-2] - shares[-1]

    def draw(self, given: ConstantCatchInputs, seen: Seen) -> drawings.Stairs:
        """Controller against scale, catch by catch, closing in on nothing."""
        steps = []
        for place, run in enumerate(given.runs or []):
            net = _net(run)
            if net and net > 0 and run.controller:
                steps.append(drawings.Stair(value=run.controller.si / net, text=str(place + 1), note=f"{run.constant:g}" if run.constant else "", aside=run.set_aside is not None))  # fmt: skip
        return drawings.Stairs(steps=tuple(steps[-drawings.MARKS_DRAWN :]), wanted=drawings.Figure(size=1.0, text="scale"), within=0.01, called="what the scale says")  # fmt: skip


METHOD = JudgedConstantCatch()
