"""Zero of a belt scale: empty and running, whole revolutions, more than once.

A belt has heavy and light places: a rate that swings but adds up to nothing over whole revolutions
is in order however large the swing; one that goes on adding or losing is not.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from wary import drawings
from wary.acts import RUN, ZERO, Act
from wary.drawings import Belt
from wary.fields import (
    Count,
    Inputs,
    Mass,
    MassOrRate,
    Percentage,
    PositiveLength,
    PositiveRate,
    PositiveSpeed,
    PositiveTime,
    at_most,
    field,
    plate,
    whole,
)
from wary.methods.belts.arithmetic import expected_band, hovers, whole_revolutions
from wary.methods.belts.conveyor import drawn_belt, headline
from wary.methods.method import HandsBack, Marks, Method, RowsFrom, Seen, Setting
from wary.methods.reads import Reads
from wary.methods.shared.cautions import BELT_ISOLATE, BELT_RUNNING
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Countdown, Enter, Item, Listed, Look, Rows, remark, typed
from wary.methods.tree import VALUE
from wary.quantities import Quantity, from_si, mass_shown, percent_shown, shown
from wary.results import Figure, Results, figure, in_unit, percent
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
from wary.suspects import looks
from wary.suspects.suspect import keys

ZERO_LIMIT, JUMP_LIMIT = 0.001, 0.05
LEAST_READINGS = 2
LEAST_TRACE = 6
WORTH_SAYING = 0.01
NEW_START = ("first", "repair")

Revolutions = Annotated[int, whole(1, 10_000)]

UNSTEADY = (
    "Cake falling off the belt or the idlers between one reading and the next.",
    "Belt tracking: does it wander over the weigh idlers?",
    "Wind on the belt, or a draught under it.",
    "A seized weigh idler, or one that turns unevenly.",
    "A loose cell, or a cable that moves with the belt.",
)
RISEN = (
    "Build-up on the belt, the frame or the weigh idlers: clean it off, then take the zero again.",
    "Something resting on the weighbridge: spillage, a skirt, a guard, a bar left in its carrier.",
)
FALLEN = (
    "Was it cleaned since, or the belt worn or changed?",
    "Belt tension: tighter, it lifts off the weigh idlers.",
    "The frame or an idler lifted out of line.",
)


@dataclass(slots=True, eq=False)
class BeltZeroResults(Results):
    """Results of a belt zero."""

    zero_error: Figure | None = figure("zero error", "percentage", decimals=3, summary=True, signed=True)
    zero_rate: Figure | None = figure("zero error as a rate", "rate", signed=True)
    zero_spread: Figure | None = figure("zero spread", "percentage", summary=True)
    zero_shift: Figure | None = figure("zero shift", "mass", summary=True, signed=True)
    zero_shift_share: Figure | None = figure("zero shift, share of the one stored", "percentage", signed=True)
    zero_shift_of_rated: Figure | None = figure("zero shift, of the rated rate", "percentage", decimals=3, signed=True)
    expected_zero_low: Figure | None = figure("zero to be expected, from", "mass")
    expected_zero_high: Figure | None = figure("zero to be expected, to", "mass")
    whole_revolutions: Figure | None = figure("whole revolutions", "integer")


class BeltZeroInputs(Inputs):
    """Inputs of a belt zero; `idle` is the change of the total over each reading, or the rate that it showed."""

    rated_rate: PositiveRate | None = plate("Rated rate")
    revolution_time: PositiveTime | None = plate("Time of one belt revolution")
    revolutions_each: Revolutions | None = field("Revolutions in each reading", "whole ones; 1 where nothing is said")
    duration_each: PositiveTime | None = field(
        "Time of each reading", "where it is counted in minutes and not in revolutions"
    )
    idle: list[MassOrRate] | None = field(
        "Change of the total, or rate, empty",
        ask="Empty and running: note the total, run whole revolutions, note it again, and type by how much it changed; or the rate it shows.",
    )
    stored_zero: Mass | None = field("Zero stored before")
    new_zero: Mass | None = field("Zero it found now", "mass on the weighbridge")
    trace: list[Mass] | None = field("Total over one revolution", "readings in their order, from mark to mark")
    history: list[Mass] | None = field("Earlier zeros")
    idler_spacing: PositiveLength | None = plate("Idler spacing")
    weigh_idlers: Count | None = plate("Weigh idlers")
    weigh_length: PositiveLength | None = plate("Weigh length", "instead of spacing and idlers")
    speed: PositiveSpeed | None = plate("Belt speed")
    zero_limit: Percentage | None = field("Zero limit", "of the rated rate; 0.1 % where nothing is said")
    jump_limit: Percentage | None = field("Jump limit", "of the stored zero; 5 % where nothing is said")


READINGS = Rows(
    list="idle",
    name="Reading",
    empty="No reading yet: note the total, run whole revolutions, note it again.",
    columns=(typed(VALUE, "Change of the total, or rate"), remark("share", "Of the rated rate")),
    typed=(VALUE,),
    tool=Countdown(
        title="revolution", time="revolution_time", times="revolutions_each", reads="total", turns="revolutions", trace="trace"
    ),
)  # fmt: skip
STORED = "new-zero.stored"


class BeltZero(Method[BeltZeroInputs, BeltZeroResults]):
    """`belt-zero`: `ε = idle/(rated rate · T · revolutions)` of each reading."""

    key = "belt-zero"
    title = "Zero"
    summary = "Empty belt, whole revolutions, more than once"
    question = "Does the zero hold?"
    subject = "The zero"
    passes_for = {"zero-moved": "zero-moved", "store-zero": "zero-moved", "zero-jump": "zero-moved"}
    half_done = "it was stored, and is not confirmed by another reading yet"
    profile = "belt-fine"
    inputs = BeltZeroInputs
    results = BeltZeroResults
    takes = {"stored_zero": "zero", "speed": "belt_speed"}
    takes_rows = {"history": RowsFrom("earlier_zeros", {VALUE: "zero"})}
    hands = ("zero_done",)
    acts = {"idle.value": (Act("feed-off"), RUN, Act("wait", figure=60))}
    change = (ZERO,)
    reads = (
        Reads(looks.EMPTY_TURN, "idle.value", codes=("not-repeating",), least=2),
        Reads(looks.ZERO_KEPT, "new_zero", ("zero-jump", "zero-moved")),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "Stopped and locked off, walk the weigh area.",
            items=(
                Item("clean", "Belt, frame and weigh idlers clean; scraper works", looks=keys(looks.CAKED)),
                Item("touching", "Nothing touches or rests on the weighbridge", looks=keys(looks.GAP)),
                Item("decimals", "Display's decimals raised to judge by", "The display's decimals are raised: put them back."),
                Item("auto-zero", "Automatic zero switched off", "Automatic zero is off: put it back on."),
            ),
            cautions=(BELT_ISOLATE,),
        ),
        Enter("plates", "Read off", "Rate, revolution, and the zero stored before.", fields=("rated_rate", "revolution_time", "revolutions_each", "duration_each", "stored_zero")),
        Listed("readings", "Empty readings", "Empty and running, whole revolutions: by how much did the total change?", rows=READINGS, cautions=(BELT_RUNNING,)),
        Enter("new-zero", "The zero it found", "As the instrument gives it; compared with the stored one before it is kept.", fields=("new_zero",), items=(Item("stored", "The zero was stored in the instrument"),)),
        Close("close", "Close", "Put the decimals back, then write it up."),
    )  # fmt: skip

    def assess(self, given: BeltZeroInputs, setting: Setting) -> Assessment[BeltZeroResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "rated_rate", "idle")
        if not given.duration_each and any(idle.family == "mass" for idle in given.idle or []):
            # A rate needs no plate but the rated one.
            sheet.need(given, "revolution_time")
        if given.revolution_time:
            sheet.results.whole_revolutions = Figure(whole_revolutions(given.revolution_time.si))
        _shift(sheet, given)
        _trace(sheet, given)
        jumped = None if setting.occasion in NEW_START else _jump(given)
        if jumped:
            sheet.check("zero-jump", "fail", jumped[0].text)
            if sheet.absent and sheet.facts():
                return sheet.answer(FIND_FAULT, [jumped[0]], look=jumped[1])
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        errors = _errors(sheet, given)
        if len(errors) < LEAST_READINGS:
            text = "One reading is in; take it again, to see whether it hovers or creeps."
            return sheet.answer(
                KEEP_TESTING, [Reason("too-few-runs", text, {"runs": 1, "minimum": 2})], headline="One more reading"
            )
        limit = given.zero_limit.si if given.zero_limit else ZERO_LIMIT
        spread = max(errors) - min(errors)
        if not at_most(spread, limit):
            text = (
                f"The readings range over {percent_shown(spread)} of the rated rate; {percent_shown(limit)} is allowed. "
                "Something comes and goes: a zero stored now would be one of chance."
            )
            return sheet.answer(FIND_FAULT, [Reason("not-repeating", text)], look=UNSTEADY)
        if jumped:
            return sheet.answer(FIND_FAULT, [jumped[0]], look=jumped[1])
        return _judge(sheet, given, math.fsum(errors) / len(errors), limit)

    def changed(self, given: BeltZeroInputs, answer: Assessment[BeltZeroResults], marks: Marks) -> bool:
        """A zero that was off and has been stored is to be confirmed by another reading."""
        return STORED in marks.ticks and answer.call == ADJUST

    def hands_on(self, given: BeltZeroInputs, answer: Assessment[BeltZeroResults], marks: Marks) -> dict[str, Any]:
        """A zero counts as done where it holds, or was off and has been stored."""
        stored = answer.call == ADJUST and STORED in marks.ticks
        return {"zero_done": "job"} if answer.call == LEAVE or stored else {}

    def hands_back(
        self, given: BeltZeroInputs, answer: Assessment[BeltZeroResults], plates: Mapping[str, Quantity | float]
    ) -> HandsBack:
        return HandsBack(zero=given.new_zero.text if given.new_zero else None)

    def draw(self, given: BeltZeroInputs, seen: Seen) -> Belt:
        """The empty belt: its total over a revolution, and the zeros found before."""
        totals = [total.si for total in given.trace or []]
        zeros = [*(given.history or [])[-11:], *([given.new_zero] if given.new_zero else [])]
        return drawn_belt(
            seen,
            headline(given.rated_rate, "rated rate") + headline(given.revolution_time, "one revolution"),
            total=tuple(total - totals[0] for total in totals) if len(totals) >= LEAST_TRACE else (),
            zeros=tuple(figure for zero in zeros if (figure := drawings.figure(zero))),
        )


def _trace(sheet: Draft[BeltZeroResults], given: BeltZeroInputs) -> None:
    """Hovering told from creeping, from the total over one revolution."""
    totals = [total.si for total in given.trace or []]
    if len(totals) < LEAST_TRACE or not given.trace:
        return
    unit = given.trace[0].unit
    swing, way = max(totals) - min(totals), totals[-1] - totals[0]
    if hovers(totals):
        text = f"Over a revolution the total swings by {mass_shown(swing, unit, 3)} and comes back: it hovers, and that is in order."
        sheet.check("hovers", "pass", text)
    else:
        text = (
            f"Over a revolution the total goes on by {mass_shown(abs(way), unit, 3)} and does not come back: it creeps."
        )
        sheet.check("hovers", "note", text)


def _errors(sheet: Draft[BeltZeroResults], given: BeltZeroInputs) -> list[float]:
    """Each reading as a fraction of what the rated rate would have carried."""
    assert given.rated_rate and given.idle
    turn = given.revolution_time.si * (given.revolutions_each or 1) if given.revolution_time else math.inf
    seconds = given.duration_each.si if given.duration_each else turn
    errors = [(idle.si if idle.family == "rate" else idle.si / seconds) / given.rated_rate.si for idle in given.idle]
    mean = math.fsum(errors) / len(errors)
    unit = given.rated_rate.unit
    sheet.results.zero_error = percent(mean)
    sheet.results.zero_rate = in_unit(mean * given.rated_rate.si, unit)
    sheet.results.zero_spread = percent(max(errors) - min(errors))
    shares = [Remark(percent_shown(error, sign=True, decimals=3), error * 100) for error in errors]
    sheet.remarks["idle"] = [{"share": share} for share in shares]
    return errors


def _shift(sheet: Draft[BeltZeroResults], given: BeltZeroInputs) -> None:
    stored, new = given.stored_zero, given.new_zero
    if stored and new:
        sheet.results.zero_shift = in_unit(new.si - stored.si, stored.unit)
        if stored.si and abs(new.si - stored.si) > WORTH_SAYING * abs(stored.si):
            way, usual = ("risen", RISEN[0]) if new.si > stored.si else ("fallen", FALLEN[0])
            text = f"The zero has {way} by {mass_shown(abs(new.si - stored.si), stored.unit, 3)} since it was stored. {usual}"
            sheet.check("zero-moved", "note", text)
        _of_rated(sheet, given, new.si - stored.si)
        if stored.si:
            sheet.results.zero_shift_share = percent((new.si - stored.si) / abs(stored.si))
    band = expected_band([zero.si for zero in given.history or []])
    if band and given.history:
        unit = (stored or new or given.history[0]).unit
        sheet.results.expected_zero_low = in_unit(band[0], unit)
        sheet.results.expected_zero_high = in_unit(band[1], unit)


def _of_rated(sheet: Draft[BeltZeroResults], given: BeltZeroInputs, shift: float) -> None:
    """What a shift of the zero is worth in the rate, `shift/Lw·v`, as a share of the rated one."""
    spaced = given.idler_spacing.si * (given.weigh_idlers or 1) if given.idler_spacing else None
    length = given.weigh_length.si if given.weigh_length else spaced
    if not length or not given.speed or not given.rated_rate:
        return
    share = shift / length * given.speed.si / given.rated_rate.si
    sheet.results.zero_shift_of_rated = percent(share)
    if shift:
        text = f"Since the last zero {percent_shown(share, sign=True, decimals=3)} of the rated rate has come to it."
        sheet.check("zero-shift", "note", text)


def _jump(given: BeltZeroInputs) -> tuple[Reason, tuple[str, ...]] | None:
    """Why the zero found now is not to be stored before someone went and looked; None where it may be."""
    stored, new = given.stored_zero, given.new_zero
    if new is None:
        return None
    if stored is not None:
        limit = given.jump_limit.si if given.jump_limit else JUMP_LIMIT
        shift = new.si - stored.si
        if not at_most(abs(shift), limit * abs(stored.si)):
            way = "risen" if shift > 0 else "fallen"
            share = f", {percent_shown(abs(shift / stored.si), decimals=1)} of it" if stored.si else ""
            text = f"The zero has {way} by {mass_shown(abs(shift), stored.unit)}{share}: go and look before storing it."
            return Reason("sanity", text), RISEN if shift > 0 else FALLEN
    band = expected_band([zero.si for zero in given.history or []])
    if band and not (band[0] - 1e-9 * abs(band[0]) <= new.si <= band[1] + 1e-9 * abs(band[1])):
        unit = new.unit
        between = f"{mass_shown(band[0], unit)} to {mass_shown(band[1], unit)}"
        text = (
            f"A zero of {new.text} lies outside what earlier ones let expect, {between}: go and look before storing it."
        )
        return Reason("sanity", text), RISEN if new.si > band[1] else FALLEN
    return None


def _judge(
    sheet: Draft[BeltZeroResults], given: BeltZeroInputs, mean: float, limit: float
) -> Assessment[BeltZeroResults]:
    assert given.rated_rate
    sheet.down = mean > 0
    rate = f"{shown(abs(from_si(mean * given.rated_rate.si, given.rated_rate.unit)), 3)} {given.rated_rate.unit}"
    way = "adds" if mean > 0 else "loses"
    text = f"Empty it {way} {rate}, {percent_shown(abs(mean), decimals=3)} of the rated rate; {percent_shown(limit)} is allowed."
    if mean == 0:
        text = f"Empty it adds up to nothing; {percent_shown(limit)} of the rated rate is allowed."
    if at_most(abs(mean), limit):
        return sheet.answer(LEAVE, [Reason("within-limit", text)], headline="The zero holds", lead=text)
    reason = Reason("store-zero", f"{text} Store the zero, then confirm it with another reading.")
    return sheet.answer(ADJUST, [reason], headline="Store the zero", lead=text)


METHOD = BeltZero()
