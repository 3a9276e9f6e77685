"""Lifts over speed: what is said of what was typed."""

import math
from collections import defaultdict
from collections.abc import Iterable

from wary import drawings
from wary.drawings import LiftMark
from wary.fields import (
    at_most,
)
from wary.methods.method import Seen, Setting
from wary.methods.shared.draft import Draft
from wary.methods.shared.offers import NUDGE
from wary.methods.vehicles.lift_speed.method import Lift, LiftSpeedInputs, LiftSpeedMethod, LiftSpeedResults
from wary.quantities import Quantity, from_si, mass_shown, percent_shown, shown
from wary.results import Figure, Word, in_unit, percent
from wary.rules.assessment import FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY, Assessment, FieldQuestion, Reason, Remark

NEAR = 0.02
"""How far a mean may lie beyond where it belongs, as a share of full less empty."""
MARGIN = 5.0
"""How much warmer than its least the oil should be on a cold day, in °C."""
WHERE_TO_LOOK = (
    "The bucket: was it empty at the empty lift, and was the same load in it at every other?",
    "The lever: to its stop at every lift; a feathered lever makes a quick lift slow.",
    "Anything the arm touches or rubs on along its way.",
    "The sensor at the cylinder: its plug, its hose, and that no air is in it.",
)
ESTIMATE_APART = 0.10
"""From so far on the machine's own estimate of the known load is asked about."""
Key = tuple[str, str, str]
USUAL: tuple[tuple[Key, int], ...] = tuple(
    ((load, speed, "up"), 1)
    for load, speed in (
        ("empty", "slow"), ("empty", "quick"), ("full", "slow"), ("full", "quick"), ("empty", "normal"), ("known", "normal"),
    )
)  # fmt: skip
"""One each of empty and full at slow and quick, one empty and one known at normal, all up."""


def _degrees(quantity: Quantity) -> drawings.Figure:
    """A temperature in °C with its text."""
    return drawings.Figure(size=from_si(quantity.si, "degC"), text=drawings.spoken(quantity.value, quantity.unit))


class _Lifts:
    """The lifts in the set, and what their means come to; raw figures are pure numbers, masses in kg, times in s."""

    def __init__(self, given: LiftSpeedInputs) -> None:
        self.given = given
        self.used = [(place, lift) for place, lift in enumerate(given.lifts or []) if lift.set_aside is None]
        self.sets: dict[Key, list[Lift]] = defaultdict(list)
        for _, lift in self.used:
            if lift.load and lift.speed and (lift.raw is not None or lift.done):
                self.sets[lift.load, lift.speed, lift.direction or "up"].append(lift)
        # A system that is calibrated on the way down alone is judged by those lifts.
        self.going = "up" if any(going == "up" for _, _, going in self.sets) else "down"

    def wanted(self) -> list[tuple[Key, int]]:
        """The kinds of lift that the system asks for, each with how many."""
        asked = [
            ((w.load, w.speed, w.direction or "up"), w.count or 1)
            for w in self.given.required or []
            if w.load and w.speed
        ]
        return asked or list(USUAL)

    def missing(self) -> list[tuple[Key, int]]:
        """The kinds of lift of which some are still to be made, each with how many."""
        short = [(key, count - len(self.sets.get(key, []))) for key, count in self.wanted()]
        return [(key, count) for key, count in short if count > 0]

    def mean(self, load: str, speed: str, going: str = "") -> float | None:
        """The mean raw figure of repeats; None where there is none."""
        read = [lift.raw for lift in self.sets.get((load, speed, going or self.going), []) if lift.raw is not None]
        return math.fsum(read) / len(read) if read else None

    def pace(self, load: str, speed: str) -> float | None:
        """The mean pace `1/time` of repeats; None where one has no time."""
        lifts = self.sets.get((load, speed, self.going), [])
        times = [lift.time for lift in lifts]
        if not times or not all(times):
            return None
        return math.fsum(1 / time.si for time in times if time) / len(times)

    def means(self, load: str) -> list[float]:
        """The means at slow and quick; at any speed where there are none of those."""
        both = [mean for speed in ("slow", "quick") if (mean := self.mean(load, speed)) is not None]
        usual = self.mean(load, "normal")
        return both or ([usual] if usual is not None else [])

    @property
    def reach(self) -> float | None:
        """`full − empty`: the larger full mean less the smaller empty mean."""
        full, empty = self.means("full"), self.means("empty")
        return max(full) - min(empty) if full and empty else None

    @property
    def mass_per_raw(self) -> float | None:
        known, empty = self.mean("known", "normal"), self.mean("empty", "normal")
        if known is None or empty is None or known == empty or not self.given.known_load:
            return None
        return self.given.known_load.si / (known - empty)

    def line(self, load: str) -> tuple[float, float] | None:
        """The straight line of raw on pace through slow and quick: slope and figure at pace 0; None where it has none."""
        points = [(self.pace(load, speed), self.mean(load, speed)) for speed in ("slow", "quick")]
        (p1, r1), (p2, r2) = points
        if p1 is None or p2 is None or r1 is None or r2 is None or p1 == p2:
            return None
        slope = (r2 - r1) / (p2 - p1)
        return slope, r1 - slope * p1

    def compensated(self, raw: float, pace: float) -> float | None:
        """What a lift of this raw figure and pace reads once the speed is taken out of it, in kg."""
        empty, full = self.line("empty"), self.line("full")
        known, at = self.mean("known", "normal"), self.pace("known", "normal")
        if not empty or not full or known is None or at is None or not self.given.known_load:
            return None
        low, high = _at(empty, at), _at(full, at)
        if known == low or _at(full, pace) == _at(empty, pace):
            return None
        full_load = self.given.known_load.si * (high - low) / (known - low)
        return full_load * (raw - _at(empty, pace)) / (_at(full, pace) - _at(empty, pace))

    def lines_drawn(self) -> tuple[drawings.Stretch | None, drawings.Stretch | None, drawings.Spot | None]:
        """The empty and the full line over pace, and the known lift, to be drawn."""
        known, at = self.mean("known", "normal"), self.pace("known", "normal")
        spot = drawings.Spot(x=at, y=known) if known is not None and at is not None else None
        return self._drawn("empty"), self._drawn("full"), spot

    def _drawn(self, load: str) -> drawings.Stretch | None:
        if self.line(load) is None:
            return None
        slow, quick = ((self.pace(load, speed), self.mean(load, speed)) for speed in ("slow", "quick"))
        assert slow[0] is not None and slow[1] is not None and quick[0] is not None and quick[1] is not None
        return drawings.Stretch(start=drawings.Spot(x=slow[0], y=slow[1]), end=drawings.Spot(x=quick[0], y=quick[1]))


def _at(line: tuple[float, float], pace: float) -> float:
    return line[0] * pace + line[1]


class _Answer(_Lifts):
    """The checks of the page, in their order."""

    def __init__(self, sheet: Draft[LiftSpeedResults], given: LiftSpeedInputs, setting: Setting) -> None:
        super().__init__(given)
        self.sheet, self.setting = sheet, setting
        self.questions: list[FieldQuestion] = []
        self.unit = given.known_load.unit if given.known_load else "kg"

    def answer(self) -> Assessment[LiftSpeedResults]:
        sheet = self.sheet
        self._inputs()
        self._figures()
        wrong = [*self._ordered(), *self._between(), *self._paces()]
        gone = self.missing()
        if wrong and sheet.facts():
            return sheet.answer(FIND_FAULT, [Reason("sanity", text) for text in wrong], look=WHERE_TO_LOOK)
        if gone:
            # What holds so far says nothing of the lifts that are still to come.
            sheet.checks = [check for check in sheet.checks if check.code not in ("ordered", "between")]
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        if gone:
            return self._more(gone)
        self._left()
        text = "All lifts are in. Prove it: whole loads against a ground scale, then nudge it with a known load."
        reasons = [Reason("unproven", text)]
        if self.given.known_load_source == "estimated":
            text = "The known load was estimated: what it weighs is provisional until a ground scale has spoken."
            reasons.append(Reason("provisional", text))
        return sheet.answer(
            LEAVE, reasons, headline="Set, not proven yet", lead="All lifts are in.", suggestions=[NUDGE]
        )

    def _left(self) -> None:
        """What it shows of the known load once it was started anew."""
        left, known = self.given.as_left, self.given.known_load
        if left is None or left.known is None or known is None or known.si <= 0:
            return
        shown_mass = left.known.si - (left.empty.si if left.empty else 0.0)
        error = shown_mass / known.si - 1
        self.sheet.results.left_error = percent(error)
        text = f"Started anew it shows {mass_shown(shown_mass, left.known.unit, 5)} of the known load of {known.text}: {percent_shown(error, sign=True)}."
        accept = self.setting.profile.accept
        near = accept is None or accept.kept(error, shown_mass - known.si)
        self.sheet.check(
            "started-anew", "pass" if near else "note", text if near else f"{text} Nudge it with a known load."
        )

    def _estimate(self) -> None:
        """The known load as keyed beside what the machine itself made of it: far apart, one of them is asked about."""
        known, estimated = self.given.known_load, self.given.estimated_load
        if not known or not estimated or known.si <= 0:
            return
        apart = estimated.si / known.si - 1
        self.sheet.results.estimate_error = percent(apart)
        text = f"Keyed in is a known load of {known.text}; the machine itself made {estimated.text} of it, {percent_shown(apart, sign=True, decimals=0)}."
        if not at_most(abs(apart), ESTIMATE_APART):
            self.questions.append(FieldQuestion("inputs.known_load", f"{text} Which of the two is it?"))
            self.sheet.check("estimate", "note", text)
        else:
            self.sheet.check("estimate", "pass", text)

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        fitted, own = given.attachment_fitted, given.attachment_calibrated
        if fitted and own and fitted.strip().lower() != own.strip().lower():
            text = f"{fitted.strip()} is fitted, and this channel is for {own.strip()}: fit that, or take the channel of what is fitted."
            sheet.check("attachment", "fail", text)
            sheet.absent.append(Reason("wrong-attachment", text, {"path": "inputs.attachment_fitted"}))
        if given.prepared is False:
            text = (
                "It is not prepared: level, warm, loose material shaken off, and the lever to its stop at every lift."
            )
            sheet.check("prepared", "fail", text)
            sheet.absent.append(Reason("not-prepared", text, {"path": "inputs.prepared"}))
        for place, lift in self.used:
            where, path = f"Lift {place + 1}", f"inputs.lifts[{place}]"
            sheet.need_in(path, lift, ("load", "speed"), where)
            if lift.raw is None and not lift.done:
                sheet.need_in(path, lift, ("raw",), where)
        for place, wanted in enumerate(given.required or []):
            sheet.need_in(f"inputs.required[{place}]", wanted, ("load", "speed"), f"Kind of lift {place + 1}")
        if any(lift.raw is not None for _, lift in self.used):
            sheet.need(given, "known_load")
        if given.known_load and given.known_load.si <= 0:
            sheet.no_load("known_load", f"A known load of {given.known_load.text}")
        self._estimate()
        self._oil()

    def _oil(self) -> None:
        sheet, least = self.sheet, self.given.minimum_temperature
        if least is None:
            return
        warm = from_si(least.si, least.unit) + (MARGIN if least.unit == "degC" else MARGIN * 1.8)
        sheet.plan.append(
            f"Oil at {drawings.spoken(least.value, least.unit)} at least; on a cold day warm it to {drawings.spoken(warm, least.unit)}, since it cools between the lifts."
        )
        cold, since = False, None
        for place, lift in self.used:
            path = f"inputs.lifts[{place}].temperature"
            # What was read counts for the lifts after it, until it is read again.
            since = lift.temperature or since
            if lift.temperature and lift.temperature.unit != least.unit:
                here = drawings.spoken(from_si(lift.temperature.si, least.unit), least.unit, 3)
                asked = f"{drawings.spoken(lift.temperature.value, lift.temperature.unit)} is {here}; was it read in the unit of the least, {drawings.spoken(least.value, least.unit)}?"
                self.questions.append(FieldQuestion(path, asked))
            if since is None:
                sheet.need_in(f"inputs.lifts[{place}]", lift, ("temperature",), f"Lift {place + 1}")
            elif lift.temperature and not at_most(least.si, lift.temperature.si):
                text = f"Lift {place + 1}: the oil was at {drawings.spoken(lift.temperature.value, lift.temperature.unit)}, under the {drawings.spoken(least.value, least.unit)} that it needs. Warm it up, and lift again."
                sheet.check("cold", "fail", text)
                sheet.absent.append(Reason("cold", text, {"path": path}))
                cold = True
        if not cold and self.used and since is not None:
            last = self.used[-1][1].temperature
            text = (
                "The oil was warm enough at every lift."
                if last
                else "The oil was warm enough where it was read; read it once more at the last lift."
            )
            sheet.check("cold", "pass" if last else "note", text)

    def _figures(self) -> None:
        results, per, known = self.sheet.results, self.mass_per_raw, self.given.known_load
        gone = self.missing()
        results.lifts_missing = Figure(sum(count for _, count in gone))
        if gone and (self.used or self.given.required or known):
            # The next lift that is asked for begins itself: its raw figure, or that it was done, is all that is entered.
            results.next_load, results.next_speed, results.next_direction = (Word(one) for one in gone[0][0])
        if per is None or known is None or known.si <= 0:
            return
        unit = self.unit
        results.mass_per_raw = in_unit(per, unit)
        effects = []
        for load in ("empty", "full"):
            slow, quick = self.mean(load, "slow"), self.mean(load, "quick")
            if slow is not None and quick is not None:
                effect = (quick - slow) * per
                effects.append(effect)
                if load == "empty":
                    results.speed_effect_empty = in_unit(effect, unit)
                else:
                    results.speed_effect_full = in_unit(effect, unit)
        if len(effects) == 2:
            results.speed_effect_share = percent(max(abs(effect) for effect in effects) / known.si)
        spreads = [max(read) - min(read) for read in self._repeats()]
        if spreads:
            results.repeatability = in_unit(max(spreads) * abs(per), unit)
        self._compensation()
        empty = self.mean("empty", "normal")
        assert empty is not None
        self.sheet.remarks["lifts"] = [
            {"weighs": Remark(mass_shown((lift.raw - empty) * per, unit), (lift.raw - empty) * per)}
            if lift.raw is not None
            else {}
            for lift in self.given.lifts or []
        ]

    def _repeats(self) -> Iterable[list[float]]:
        for lifts in self.sets.values():
            read = [lift.raw for lift in lifts if lift.raw is not None]
            if len(read) > 1:
                yield read

    def _compensation(self) -> None:
        if not all(lift.time for _, lift in self.used):
            return
        known, at = self.mean("known", "normal"), self.pace("known", "normal")
        if known is None or at is None or not self.given.known_load:
            return
        reads = self.compensated(known, at)
        empty, full = self.line("empty"), self.line("full")
        if reads is None or empty is None or full is None:
            return
        unit, results = self.unit, self.sheet.results
        low, high = _at(empty, at), _at(full, at)
        results.full_load = in_unit(self.given.known_load.si * (high - low) / (known - low), unit)
        results.compensated_known = in_unit(reads, unit)
        others = [
            self.compensated(lift.raw, 1 / lift.time.si)
            for _, lift in self.used
            if lift.speed == "normal" and lift.load != "known" and lift.raw is not None and lift.time
        ]
        results.compensated = [in_unit(one, unit) for one in others if one is not None]

    def _more(self, gone: list[tuple[Key, int]]) -> Assessment[LiftSpeedResults]:
        count = sum(number for _, number in gone)
        words = [
            f"{load} {speed}{'' if going == 'up' else ', down'}{'' if number == 1 else f' ({number})'}"
            for (load, speed, going), number in gone
        ]
        text = f"{count} {'lift is' if count == 1 else 'lifts are'} still to be made: {'; '.join(words)}."
        made = sum(len(lifts) for lifts in self.sets.values())
        reason = Reason("too-few-runs", text, {"runs": made, "minimum": made + count})
        return self.sheet.answer(KEEP_TESTING, [reason], headline=f"Lift on: {count} more", lead=text)

    def _ordered(self) -> list[str]:
        """Full above empty at each speed, known above empty and not above full."""
        wrong = []
        for speed in ("slow", "quick", "normal"):
            for going in ("up", "down"):
                full, empty = self.mean("full", speed, going), self.mean("empty", speed, going)
                if full is not None and empty is not None and full <= empty:
                    wrong.append(
                        f"Full and {speed} reads {shown(full, 6)}, empty {shown(empty, 6)}: full is to read more. The bucket was not empty, or the lever was held back."
                    )
        known, empty, filled = self.mean("known", "normal"), self.mean("empty", "normal"), self.means("full")
        if known is not None and empty is not None and known <= empty:
            wrong.append(
                f"The known load reads {shown(known, 6)}, empty {shown(empty, 6)} at the same speed: the load is to read more. The bucket was not empty at the empty lift."
            )
        reach = self.reach
        if known is not None and filled and reach is not None and not at_most(known, max(filled) + NEAR * abs(reach)):
            wrong.append(
                f"The known load reads {shown(known, 6)}, more than the full bucket's {shown(max(filled), 6)}: what is in it, and was it full?"
            )
        self.sheet.check(
            "ordered",
            "fail" if wrong else "pass",
            wrong[0] if wrong else "Full reads more than empty, and the known load lies between.",
        )
        return wrong

    def _between(self) -> list[str]:
        """Empty at normal speed between empty slow and empty quick, or near one of them."""
        usual, reach = self.mean("empty", "normal"), self.reach
        ends = [mean for speed in ("slow", "quick") if (mean := self.mean("empty", speed)) is not None]
        if usual is None or len(ends) < 2 or reach is None:
            return []
        slack = NEAR * abs(reach) * (1 + 1e-9)
        if min(ends) - slack <= usual <= max(ends) + slack:
            self.sheet.check("between", "pass", "Empty at normal speed lies between slow and quick.")
            return []
        text = f"Empty at normal speed reads {shown(usual, 6)}; slow and quick read {shown(ends[0], 6)} and {shown(ends[1], 6)}, and it should lie between. Something was in the bucket, or the arm touched."
        self.sheet.check("between", "fail", text)
        return [text]

    def _paces(self) -> list[str]:
        """Quick lifts quicker than slow ones, where both were timed."""
        wrong = []
        for load in ("empty", "full"):
            slow, quick = self.pace(load, "slow"), self.pace(load, "quick")
            if slow is not None and quick is not None and quick <= slow:
                wrong.append(
                    f"{load.capitalize()}: the quick lift took {shown(1 / quick, 3)} s, the slow one {shown(1 / slow, 3)} s. A lever that is held back makes them alike: to its stop at every lift."
                )
        if wrong:
            self.sheet.check("paces", "fail", wrong[0])
        return wrong


class JudgedLiftSpeedMethod(LiftSpeedMethod):
    """`lift-speed`, judged."""

    def assess(self, given: LiftSpeedInputs, setting: Setting) -> Assessment[LiftSpeedResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "lifts")
        work = _Answer(sheet, given, setting)
        answer = work.answer()
        answer.questions = work.questions
        return answer

    def draw(self, given: LiftSpeedInputs, seen: Seen) -> drawings.Lifts:
        """Loads by speeds with the lifts that are in, the oil against its gate, and the two lines of the speed."""
        arm = _Lifts(given)
        kinds = tuple(
            LiftMark(
                load=load, speed=speed, going=going, count=len(arm.sets.get((load, speed, going), [])), wanted=wanted
            )
            for (load, speed, going), wanted in arm.wanted()
        )
        temperatures = [lift.temperature for lift in given.lifts or [] if lift.temperature]
        empty, full, known = arm.lines_drawn()
        return drawings.Lifts(
            kinds=kinds,
            oil=_degrees(temperatures[-1]) if temperatures else None,
            least=_degrees(given.minimum_temperature) if given.minimum_temperature else None,
            empty=empty,
            full=full,
            known=known,
            provisional=given.known_load_source == "estimated",
        )


METHOD = JudgedLiftSpeedMethod()
