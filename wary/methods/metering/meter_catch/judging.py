"""Catches: what is said of what was typed."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from wary import drawings
from wary.fields import (
    Limit,
    at_most,
)
from wary.fields import Plates as SlipPlates
from wary.methods.metering.arithmetic import enough, no_net, unit_of
from wary.methods.metering.meter_catch.method import Catch, MeterCatch, MeterCatchInputs, MeterResults
from wary.methods.method import Seen, Setting, Within
from wary.methods.shared.containers import known_containers
from wary.methods.shared.draft import Draft
from wary.quantities import FAMILIES, Quantity, from_si, mass_shown, percent_shown, quantity, shown
from wary.results import Figure, in_unit, percent
from wary.rules.assessment import (
    ADJUST,
    FIND_FAULT,
    KEEP_TESTING,
    LEAVE,
    NOT_READY,
    Assessment,
    CheckState,
    Reason,
    Remark,
    missing,
)
from wary.rules.call import little
from wary.rules.reading_slips import Weighing
from wary.rules.slips import Entered, Slip, explain

AGREE = quantity("1 %", "percentage")
SAME, ANOTHER = 0.002, 0.02
"""By how much a figure in the controller may differ from its plate: beyond the first a note, beyond the second a fault."""
JUMPED = 3
"""A catch that is so many times the agreement away from the one before has jumped."""
WHERE_TO_LOOK = (
    "Primed: the meter full before the first turn that counts, and that material put back.",
    "Turns: stopped at the mark, none too many, none too few.",
    "The container: its own tare, taken off once; the other tank's container is not this one.",
    "The unit: does the display want what the scale shows?",
    "The roller or meter that is fitted, and the product in the tank.",
)


def _meter(given: MeterCatchInputs) -> drawings.MeterMark | None:
    """The meter over its container at the catch in hand; None before the first."""
    if not given.runs:
        return None
    last = given.runs[-1]
    net, amount = last.weighed, last.amount
    unit = unit_of([last.gross, last.start_mass])
    kind = "counts" if given.per == "count" else "turns"
    return drawings.MeterMark(
        turns=f"{amount:g} {kind}" if amount else "",
        net=mass_shown(net, unit, 4) if net is not None else "",
        tare="zeroed with it on" if last.zeroed else f"tare {last.tare.text}" if last.tare else "",
        label=given.tank or ("this tank" if given.other_tank else ""),
    )


def _beside(given: MeterCatchInputs) -> drawings.MeterMark | None:
    """The other tank over its container; None where none was caught at the same time."""
    other = given.other_tank
    caught = other.caught if other else None
    if other is None or not (caught or other.net or other.amount):
        return None
    kind = "counts" if given.per == "count" else "turns"
    amount = caught[1] if caught else other.amount
    net = mass_shown(caught[0], unit_of([other.net, *(one.gross for one in other.runs or [])]), 4) if caught else other.net.text if other.net else ""  # fmt: skip
    return drawings.MeterMark(turns=f"{amount:g} {kind}" if amount else "", net=net, label="the other tank")


def per_one(given: MeterCatchInputs, value: Quantity) -> float:
    """A value of the controller for one turn or count, kg: a plain mass is for as many as its display stands for."""
    return value.si / (given.value_per or 1) if value.family == "mass" else value.si


def exchanged(given: MeterCatchInputs) -> bool:
    """Whether both tanks would fit their old values better with the two nets exchanged, by less than half."""
    other = given.other_tank
    last = next((run for run in reversed(given.runs or []) if not run.set_aside), None)
    one = _caught(0, last) if last else None
    caught = other.caught if other else None
    if not (one and one.net > 0 and given.old_value):
        return False
    if not (other and other.old_value and caught and caught[0] > 0):
        return False
    net, turned = one.net, one.amount
    mine, theirs, (their_net, their_turns) = per_one(given, given.old_value), other.old_value.si, caught

    def apart(one: float, another: float) -> float:
        return abs(math.log(one / turned / mine)) + abs(math.log(another / their_turns / theirs))

    return apart(their_net, net) < apart(net, their_net) / 2 * (1 - 1e-9)


def _end(per: str) -> str:
    return "/rev" if per == "revolution" else "/count"


@dataclass(frozen=True)
class _Caught:
    """A catch that can be worked out: its place, its net in kg, its turns, and what was taken off."""

    place: int
    net: float
    amount: float
    tare: float | None
    readings: int

    @property
    def value(self) -> float:
        return self.net / self.amount


def _caught(place: int, one: Catch) -> _Caught | None:
    """A catch that can be worked out; where the controller counts by itself, its value says how many turns it took."""
    net = one.weighed
    if net is None:
        return None
    amount = one.amount or (net / one.shown_value.si if one.shown_value and net > 0 else None)
    return _Caught(place, net, amount, one.tare.si if one.tare else None, 1 if one.zeroed else 2) if amount else None


class _Catching:
    """One answer in the making; masses in kg, values in kg for one turn or count."""

    def __init__(self, method: MeterCatch, given: MeterCatchInputs, setting: Setting) -> None:
        self.sheet, self.given, self.setting = Draft(method, setting), given, setting
        self.rows = given.runs or []
        self.caught = [
            one for place, run in enumerate(self.rows) if run.set_aside is None and (one := _caught(place, run))
        ]
        self.agree = (given.agree or AGREE).si
        first = [mass for run in self.rows for mass in (run.gross, run.start_mass)]
        self.mass_unit = unit_of(first)
        end = _end(given.per or "revolution")
        old = given.old_value
        plain = f"{self.mass_unit if self.mass_unit in ('kg', 'g', 'lb') else 'kg'}{end}"
        self.unit = old.unit if old and old.family != "mass" else plain
        self.old = per_one(given, old) if old else None

    def answer(self) -> Assessment[MeterResults]:
        sheet = self.sheet
        self._inputs()
        self._figures()
        failed = sheet.facts(("set-up",))
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        swapped = self._swapped()
        if swapped:
            return sheet.answer(FIND_FAULT, [swapped], headline="The containers changed places", look=WHERE_TO_LOOK)
        if len(self.caught) < 2:
            count = len(self.caught)
            text = (
                "One catch says nothing of the next: catch once more."
                if count
                else "Every catch is set aside: catch again."
            )
            more = {"runs": count, "minimum": 2}
            return sheet.answer(KEEP_TESTING, [Reason("too-few-runs", text, more)], headline="Catch once more")
        return self._compared()

    # --- what is there ----------------------------------------------------------------------------

    def _inputs(self) -> None:
        sheet, given = self.sheet, self.given
        sheet.need(given, "per", "runs")
        if given.primed is False:
            text = "It is not primed: turn it until it runs full, put that material back, then count."
            sheet.check("primed", "fail", text)
            sheet.absent.append(Reason("not-primed", text, {"path": "inputs.primed"}))
        if given.set_up_matches is False:
            text = "What is fitted is not what is set: roller or meter, width, spacing, product and tank first."
            sheet.check("set-up", "fail", text)
            sheet.absent.append(Reason("set-up", text, {"path": "inputs.set_up_matches"}))
        for place, one in enumerate(self.rows):
            if one.set_aside is None:
                self._need(f"inputs.runs[{place}]", f"Catch {place + 1}", one)
        self._as_set()
        self._units()

    def _need(self, path: str, where: str, one: Catch) -> None:
        sheet = self.sheet
        if one.start_mass is not None or one.end_mass is not None:
            for key, read, words in (("start_mass", one.start_mass, "before"), ("end_mass", one.end_mass, "after")):
                if read is None:
                    sheet.absent.append(missing(f"{path}.{key}", f"{where}: type what the vessel weighed {words}."))
        elif one.gross is None:
            sheet.absent.append(missing(f"{path}.gross", f"{where}: weigh what was caught, and type it."))
        elif one.tare is None and not one.zeroed:
            sheet.absent.append(missing(f"{path}.tare", f"{where}: type the tare of its container, or say that the scale was zeroed with it on."))  # fmt: skip
        no_net(sheet, path, where, one.weighed)
        if one.shown_value is None:
            sheet.need_in(path, one, ("amount",), where)
        if one.start_mass is not None and self.given.vessel_in_date is not True:
            self._vessel(self.given.vessel_in_date)

    def _vessel(self, in_date: bool | None) -> None:
        """A catch by the vessel's own scale is as good as that scale."""
        if any(check.code == "vessel-scale" for check in self.sheet.checks):
            return
        if in_date is False:
            text = "The vessel's own scale is out of date: calibrate it, or catch into a container and weigh that."
            self.sheet.check("vessel-scale", "fail", text)
            self.sheet.absent.append(Reason("reference-out-of-date", text, {"path": "inputs.vessel_in_date"}))
        else:
            self.sheet.check("vessel-scale", "note", "The catch is weighed by the vessel's own scale: say whether that is in date.")  # fmt: skip

    def _as_set(self) -> None:
        """What the controller is told of the machine, against its plates."""
        given = self.given
        for what, plate, told in (("working width", given.width, given.width_set), ("row spacing", given.row_spacing, given.row_spacing_set)):  # fmt: skip
            if plate is not None and told is not None:
                apart = abs(told.si / plate.si - 1)
                text = f"The controller has a {what} of {told.text}, the plate says {plate.text}."
                state: CheckState = "pass" if at_most(apart, SAME) else "note" if at_most(apart, ANOTHER) else "fail"
                self.sheet.check("set-up", state, text)
        if given.roller and given.roller_set:
            same = given.roller.strip().casefold() == given.roller_set.strip().casefold()
            text = f"The controller has the roller or meter {given.roller_set}, fitted is {given.roller}."
            self.sheet.check("set-up", "pass" if same else "fail", text)

    def _units(self) -> None:
        wants = self.given.display_unit
        masses = [mass for run in self.rows for mass in (run.gross, run.start_mass) if mass]
        others = (
            sorted({mass.unit for mass in masses if mass.unit != wants or mass.ounces is not None}) if wants else []
        )
        if wants and others:
            what = "pounds and ounces" if any(mass.ounces is not None for mass in masses) else ", ".join(others)
            text = f"The display wants {wants}, and was weighed in {what}: key in what is worked out here, in {wants}, and no figure off the scale."
            self.sheet.check("display-unit", "note", text)

    # --- what it comes to -------------------------------------------------------------------------

    def _agreeing(self) -> list[_Caught]:
        """The last catches of which each agrees with the one before it; the last alone where none does."""
        run = self.caught[-1:]
        for one in reversed(self.caught[:-1]):
            if not at_most(abs(run[0].value / one.value - 1), self.agree):
                break
            run.insert(0, one)
        return run

    @property
    def mean(self) -> float | None:
        run = self._agreeing() if self.caught else []
        return math.fsum(one.net for one in run) / math.fsum(one.amount for one in run) if run else None

    @property
    def change(self) -> float | None:
        if len(self.caught) < 2 or self.caught[-2].value <= 0:
            return None
        return self.caught[-1].value / self.caught[-2].value - 1

    def _figures(self) -> None:
        results, given = self.sheet.results, self.given
        if any(one.net <= 0 for one in self.caught):
            return
        if self.caught:
            results.values = [in_unit(one.value, self.unit) for one in self.caught]
        mean, change = self.mean, self.change
        if mean is not None:
            results.mean = in_unit(mean, self.unit)
            if self.old:
                results.difference = percent(self.old / mean - 1)
            if given.value_per and given.value_per > 1:
                results.key_in_value = in_unit(mean * given.value_per, self._display_mass())
        if change is not None:
            results.change_last = percent(change)
        last = self.rows[-1] if self.rows else None
        if last and last.end_mass:
            # The end of one catch is the start of the next.
            results.vessel_now = Figure(last.end_mass.value, last.end_mass.unit)
        self._other()
        self._tell()
        self._enough()

    def _display_mass(self) -> str:
        """The unit of mass in which this display takes a value."""
        return self.given.display_unit or self.unit.partition("/")[0]

    def _to_key(self, mean: float) -> str:
        """What is keyed in, in the unit and the form in which this controller takes it."""
        per = self.given.value_per or 1
        if per > 1:
            kind = "counts" if self.given.per == "count" else "turns"
            unit = self._display_mass()
            return f"{shown(from_si(mean * per, unit), 5)} {unit} for {per} {kind}"
        unit = f"{self._display_mass()}{_end(self.given.per or 'revolution')}" if self.given.display_unit else self.unit
        return f"{shown(from_si(mean, unit), 5)} {unit}"

    def _other(self) -> None:
        """The second tank's own value, of its own catches."""
        other, results = self.given.other_tank, self.sheet.results
        rows = [one for place, run in enumerate(other.runs or []) if not run.set_aside and (one := _caught(place, run))] if other else []  # fmt: skip
        if not rows or any(one.net <= 0 for one in rows):
            return
        mean = math.fsum(one.net for one in rows) / math.fsum(one.amount for one in rows)
        results.other_mean = in_unit(mean, self.unit)
        if other and other.old_value:
            results.other_difference = percent(other.old_value.si / mean - 1)

    def _tell(self) -> None:
        rows: list[dict[str, Remark]] = []
        before: float | None = None
        for place, run in enumerate(self.rows):
            one = _caught(place, run)
            if one is None:
                rows.append({})
                continue
            row = {"net": Remark(mass_shown(one.net, self.mass_unit, 5), one.net), "value": Remark(f"{shown(from_si(one.value, self.unit), 5)} {self.unit}", one.value)}  # fmt: skip
            if before and run.set_aside is None:
                off = one.value / before - 1
                row["change"] = Remark(percent_shown(off, sign=True), off * 100, "good" if at_most(abs(off), self.agree) else "bad")  # fmt: skip
            if run.set_aside is None:
                before = one.value
            rows.append(row)
        self.sheet.remarks["runs"] = rows

    def _enough(self) -> None:
        least = enough(self.setting.profile, self.given.reference_division, max((one.readings for one in self.caught), default=2))  # fmt: skip
        if least is None or not self.given.reference_division:
            return
        self.sheet.results.smallest_amount = in_unit(least, self.given.reference_division.unit)  # fmt: skip
        words = mass_shown(least, self.mass_unit)
        self.sheet.plan.append(
            f"Catch at least {words}: less says nothing on a scale of {self.given.reference_division.text}."
        )
        if self.caught:
            net = self.caught[-1].net
            small = not at_most(least, net)
            text = f"The last catch is {mass_shown(net, self.mass_unit, 5)}; at least {words} is wanted on this scale."
            self.sheet.check(
                "enough-caught", "note" if small else "pass", text + (" Catch more turns." if small else "")
            )

    # --- what is said -----------------------------------------------------------------------------

    def _swapped(self) -> Reason | None:
        """Whether both tanks would fit their old values better with the two nets exchanged."""
        given, other = self.given, self.given.other_tank
        caught = other.caught if other else None
        if not (given.old_value and other and other.old_value and caught and self.caught) or caught[0] <= 0:
            return None
        one = self.caught[-1]
        if not exchanged(given):
            self.sheet.check("containers", "pass", "Each tank fits its own container.")
            return None
        text = f"This tank gave {mass_shown(one.net, self.mass_unit, 5)}, the other {mass_shown(caught[0], self.mass_unit, 5)}: exchanged, both would fit what their controllers have. Look which container stood under which outlet."
        self.sheet.check("containers", "fail", text)
        return Reason("containers-swapped", text)

    def _slips(self, ratio: float, value: float | None = None, of: str = "") -> list[Slip]:
        """What explains a ratio of caught over expected; `value` is what one turn was expected to give, kg."""
        tares = [one.tare for one in self.caught]
        known = [tare for tare in tares if tare is not None]
        entered = Entered(
            SlipPlates(),
            self.mass_unit,
            self.given.display_unit or self.mass_unit,
            math.fsum(one.net for one in self.caught),
            math.fsum(known) if len(known) == len(tares) and known else None,
            weighings=self._weighings(value) if value else (),
            containers=known_containers(self.given.containers),
        )
        return explain(ratio, 0.0, entered, of)

    def _weighings(self, value: float) -> tuple[Weighing, ...]:
        """The catches that agree as they were read, each against what its turns were expected to give."""
        found = []
        for one in self._agreeing():
            run = self.rows[one.place]
            indicated = Quantity(from_si(value * one.amount, self.mass_unit), self.mass_unit, "")
            net = (
                run.gross
                if run.zeroed
                else None
                if run.gross
                else Quantity(from_si(one.net, self.mass_unit), self.mass_unit, "")
            )
            found.append(
                Weighing(
                    f"Catch {one.place + 1}", None if net else run.gross, None if net else run.tare, net, indicated
                )
            )
        return tuple(found)

    def _compared(self) -> Assessment[MeterResults]:
        sheet, given, change, mean = self.sheet, self.given, self.change, self.mean
        assert change is not None and mean is not None
        moved = f"The last catch is {percent_shown(change, sign=True)} against the one before; {percent_shown(self.agree)} counts as agreeing"
        if not at_most(abs(change), JUMPED * self.agree):
            sheet.slips = self._slips(1 + change)
            text = f"{moved}. That is a jump: not primed, turned past the mark, a tare, a unit."
            return sheet.answer(FIND_FAULT, [Reason("jumped", text)], look=WHERE_TO_LOOK)
        if not at_most(abs(change), self.agree):
            return sheet.answer(KEEP_TESTING, [Reason("not-agreeing", f"{moved}. Catch once more.")], headline="Catch once more")  # fmt: skip
        words = self._to_key(mean)
        expected = given.expected_value
        if self.old:
            sheet.slips = self._slips(mean / self.old, self.old)
        elif expected:
            near = per_one(given, expected)
            sheet.slips = self._slips(mean / near, near)
        keyed = self._keyed(mean, words)
        if keyed:
            return keyed
        if not given.old_value or self.old is None:
            sheet.results.new_value = sheet.results.mean
            text = f"{moved}: {words}."
            return sheet.answer(
                ADJUST, [Reason("measured", text)], headline=f"Key in {words}", lead="Two catches agree."
            )
        off = self.old / mean - 1
        about = f"It gives {words}; the controller has {given.old_value.text}, {percent_shown(off, sign=True)}"
        plausible = self.setting.profile.plausible
        if plausible is not None and self.setting.occasion != "first" and not at_most(abs(math.log(mean / self.old)), plausible):  # fmt: skip
            return sheet.answer(FIND_FAULT, [Reason("implausible", f"{about}. That is more than a meter wanders: look before it is keyed in.")], look=WHERE_TO_LOOK)  # fmt: skip
        accept = self.setting.profile.accept or Limit("one", (AGREE,))
        net = self.caught[-1].net
        if accept.kept(off, off * net):
            return sheet.answer(LEAVE, [Reason("within-limit", f"{about}: within {accept}."), *self._little()], headline="Leave it alone", lead="Two catches agree, and with the controller.")  # fmt: skip
        sheet.results.new_value = sheet.results.mean
        sheet.down = off > 0
        return sheet.answer(
            ADJUST, [Reason("outside-limit", f"{about}; {accept} is let pass.")], headline=f"Key in {words}"
        )

    def _little(self) -> list[Reason]:
        """That catches below what their scale needs prove little; empty where one reaches it."""
        division = self.given.reference_division
        least = enough(self.setting.profile, division, max(one.readings for one in self.caught))
        most = max(one.net for one in self.caught)
        if least is None or division is None or at_most(least, most):
            return []
        why = f"a scale of {division.text} needs a catch of {mass_shown(least, self.mass_unit)} to show an error as large as the limit"
        return [little(most, self.mass_unit, why)]

    def _keyed(self, mean: float, words: str) -> Assessment[MeterResults] | None:
        """Where a value was keyed in: whether it is the one that the catches gave; None where none was, or where it fits none."""
        keyed, accept = self.given.keyed_value, self.setting.profile.accept or Limit("one", (AGREE,))
        if keyed is None:
            return None
        off = per_one(self.given, keyed) / mean - 1
        about = f"Keyed in is {keyed.text}; the catches give {words}, {percent_shown(off, sign=True)}"
        if accept.kept(off, off * self.caught[-1].net):
            return self.sheet.answer(LEAVE, [Reason("within-limit", f"{about}: within {accept}."), *self._little()], headline="Keyed in: leave it alone", lead="Two catches agree, and with what was keyed in.")  # fmt: skip
        self.sheet.results.new_value = self.sheet.results.mean
        return self.sheet.answer(ADJUST, [Reason("outside-limit", f"{about}. Read it again: a digit, or the unit?")], headline=f"Key in {words}")  # fmt: skip


class JudgedMeterCatch(MeterCatch):
    """`meter-catch`, judged."""

    def across(self, raw: Mapping[str, Any]) -> list[tuple[Within, str]]:
        found: list[tuple[Within, str]] = []
        old, per = raw.get("old_value"), raw.get("per")
        if isinstance(old, str) and per in ("revolution", "count"):
            unit = old.strip().rpartition(" ")[2]
            if unit in FAMILIES["mass per revolution"] + FAMILIES["mass per count"] and not unit.endswith(_end(per)):
                found.append(
                    (("old_value",), f"is for one {unit.partition('/')[2]}, and “per” is {per}; expected the same")
                )
        rows = raw.get("runs")
        wanted = _end(per) if per in ("revolution", "count") else f"/{old.rpartition('/')[2].strip()}" if isinstance(old, str) and "/" in old else ""  # fmt: skip
        for place, row in enumerate(rows if isinstance(rows, list) else []):
            value = row.get("shown_value") if isinstance(row, dict) else None
            unit = value.strip().rpartition(" ")[2] if isinstance(value, str) else ""
            if wanted and "/" in unit and not unit.endswith(wanted):
                text = f"is for one {unit.partition('/')[2]}; expected it for one {wanted[1:]}, as the others are"
                found.append((("runs", place, "shown_value"), text))
        return found

    def assess(self, given: MeterCatchInputs, setting: Setting) -> Assessment[MeterResults]:
        return _Catching(self, given, setting).answer()

    def draw(self, given: MeterCatchInputs, seen: Seen) -> drawings.Stairs:
        """The catches one after the other as a staircase, with what the controller has."""
        caught = [_caught(place, one) for place, one in enumerate(given.runs or [])]
        steps = [
            drawings.Stair(value=one.value, text=str(place + 1), aside=bool((given.runs or [])[place].set_aside))
            for place, one in enumerate(caught)
            if one
        ]
        agree = (given.agree or AGREE).si
        return drawings.Stairs(
            steps=tuple(steps[-drawings.MARKS_DRAWN :]),
            wanted=drawings.Figure(size=per_one(given, given.old_value), text=given.old_value.text)
            if given.old_value
            else None,
            within=agree,
            called="in the controller",
            meter=_meter(given),
            beside=_beside(given),
            exchanged=exchanged(given),
        )


METHOD = JudgedMeterCatch()
