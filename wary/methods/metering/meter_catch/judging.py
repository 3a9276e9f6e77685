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
from wary.methods.shared.draft import Draft
from wary.quantities import FAMILIES, from_si, mass_shown, percent_shown, quantity, shown
from wary.results import in_unit, percent
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
from wary.rules.slips import Entered, Slip, explain

AGREE = quantity("1 %", "percentage")
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
    net, amount = _net(last), last.amount
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
    if other is None or not (other.net or other.amount):
        return None
    kind = "counts" if given.per == "count" else "turns"
    turns = f"{other.amount:g} {kind}" if other.amount else ""
    return drawings.MeterMark(turns=turns, net=other.net.text if other.net else "", label="the other tank")


def exchanged(given: MeterCatchInputs) -> bool:
    """Whether both tanks would fit their old values better with the two nets exchanged, by less than half."""
    other = given.other_tank
    last = next((run for run in reversed(given.runs or []) if not run.set_aside), None)
    net = _net(last) if last else None
    if not (last and last.amount and net and net > 0 and given.old_value):
        return False
    if not (other and other.old_value and other.net and other.amount and other.net.si > 0):
        return False
    mine, theirs, turned, their_turns = given.old_value.si, other.old_value.si, last.amount, other.amount

    def apart(one: float, another: float) -> float:
        return abs(math.log(one / turned / mine)) + abs(math.log(another / their_turns / theirs))

    return apart(other.net.si, net) < apart(net, other.net.si) / 2 * (1 - 1e-9)


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


def _net(one: Catch) -> float | None:
    if one.start_mass is not None and one.end_mass is not None:
        return one.start_mass.si - one.end_mass.si
    if one.gross is None:
        return None
    if one.zeroed:
        return one.gross.si
    return one.gross.si - one.tare.si if one.tare is not None else None


def _caught(place: int, one: Catch) -> _Caught | None:
    net = _net(one)
    if net is None or one.amount is None:
        return None
    return _Caught(place, net, one.amount, one.tare.si if one.tare else None, 1 if one.zeroed else 2)


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
        own = (
            given.old_value.unit
            if given.old_value
            else f"{self.mass_unit if self.mass_unit in ('kg', 'g', 'lb') else 'kg'}{end}"
        )
        self.unit = own

    def answer(self) -> Assessment[MeterResults]:
        sheet = self.sheet
        self._inputs()
        self._figures()
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
        no_net(sheet, path, where, _net(one))
        sheet.need_in(path, one, ("amount",), where)

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
            if given.old_value:
                results.difference = percent(given.old_value.si / mean - 1)
        if change is not None:
            results.change_last = percent(change)
        self._tell()
        self._enough()

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
        whole = given.old_value and other and other.old_value and other.net and other.amount and self.caught
        if not whole or not other or not other.net or other.net.si <= 0:
            return None
        one = self.caught[-1]
        if not exchanged(given):
            self.sheet.check("containers", "pass", "Each tank fits its own container.")
            return None
        text = f"This tank gave {mass_shown(one.net, self.mass_unit, 5)}, the other {other.net.text}: exchanged, both would fit what their controllers have. Look which container stood under which outlet."
        self.sheet.check("containers", "fail", text)
        return Reason("containers-swapped", text)

    def _slips(self, ratio: float) -> list[Slip]:
        tares = [one.tare for one in self.caught]
        known = [tare for tare in tares if tare is not None]
        entered = Entered(
            SlipPlates(),
            self.mass_unit,
            self.given.display_unit or self.mass_unit,
            math.fsum(one.net for one in self.caught),
            math.fsum(known) if len(known) == len(tares) and known else None,
        )
        return explain(ratio, 0.0, entered)

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
        words = f"{shown(from_si(mean, self.unit), 5)} {self.unit}"
        keyed = self._keyed(mean, words)
        if keyed:
            return keyed
        if not given.old_value:
            sheet.results.new_value = sheet.results.mean
            text = f"{moved}: {words}."
            return sheet.answer(
                ADJUST, [Reason("measured", text)], headline=f"Key in {words}", lead="Two catches agree."
            )
        off = given.old_value.si / mean - 1
        about = f"It gives {words}; the controller has {given.old_value.text}, {percent_shown(off, sign=True)}"
        plausible = self.setting.profile.plausible
        if plausible is not None and self.setting.occasion != "first" and not at_most(abs(math.log(mean / given.old_value.si)), plausible):  # fmt: skip
            sheet.slips = self._slips(mean / given.old_value.si)
            return sheet.answer(FIND_FAULT, [Reason("implausible", f"{about}. That is more than a meter wanders: look before it is keyed in.")], look=WHERE_TO_LOOK)  # fmt: skip
        accept = self.setting.profile.accept or Limit("one", (AGREE,))
        net = self.caught[-1].net
        if accept.kept(off, off * net):
            return sheet.answer(LEAVE, [Reason("within-limit", f"{about}: within {accept}.")], headline="Leave it alone", lead="Two catches agree, and with the controller.")  # fmt: skip
        sheet.results.new_value = sheet.results.mean
        sheet.down = off > 0
        return sheet.answer(
            ADJUST, [Reason("outside-limit", f"{about}; {accept} is let pass.")], headline=f"Key in {words}"
        )

    def _keyed(self, mean: float, words: str) -> Assessment[MeterResults] | None:
        """Where a value was keyed in: whether it is the one that the catches gave; None where none was, or where it fits none."""
        keyed, accept = self.given.keyed_value, self.setting.profile.accept or Limit("one", (AGREE,))
        if keyed is None:
            return None
        off = keyed.si / mean - 1
        about = f"Keyed in is {keyed.text}; the catches give {words}, {percent_shown(off, sign=True)}"
        if accept.kept(off, off * self.caught[-1].net):
            return self.sheet.answer(LEAVE, [Reason("within-limit", f"{about}: within {accept}.")], headline="Keyed in: leave it alone", lead="Two catches agree, and with what was keyed in.")  # fmt: skip
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
            wanted=drawings.Figure(size=given.old_value.si, text=given.old_value.text) if given.old_value else None,
            within=agree,
            called="in the controller",
            meter=_meter(given),
            beside=_beside(given),
            exchanged=exchanged(given),
        )


METHOD = JudgedMeterCatch()
