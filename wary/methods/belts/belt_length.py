"""Length, speed and revolution of a belt, mark to mark.

The length is measured once, and again after a splice or a change of belt. Short fast belts are
given a multiple of it on purpose; the record says so.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from wary.drawings import Belt
from wary.fields import AboveZero, Inputs, LengthFromZero, PositiveLength, PositiveSpeed, PositiveTime, at_most, field
from wary.methods.belts.arithmetic import whole_revolutions
from wary.methods.belts.conveyor import drawn_belt, headline
from wary.methods.method import HandsBack, Marks, Method, Seen, Setting
from wary.methods.shared.cautions import BELT_ISOLATE, BELT_RUNNING
from wary.methods.shared.draft import Draft
from wary.methods.steps import Close, Enter, Item, Listed, Look, Rows, Stopwatch, typed
from wary.methods.tree import VALUE
from wary.quantities import Quantity, percent_shown, shown
from wary.results import Figure, Results, figure, in_unit, percent, value_of
from wary.rules.assessment import FIND_FAULT, LEAVE, NOT_READY, Assessment, Reason, missing

MOST_SPREAD = 0.01
SLOWEST_PULSES = 2.0
SAME_LENGTH = 0.002
"""How far a measured length may be from the recorded one and still be the same belt."""

WHERE_TO_LOOK = (
    "Was the mark read at the same place each time, by the same eye?",
    "Belt slipping on its pulley: wet, loose, or overloaded.",
    "A drive whose speed is not constant: time it again, empty.",
)


@dataclass(slots=True, eq=False)
class BeltLengthResults(Results):
    """Results of a belt length."""

    belt_length: Figure | None = figure("belt length", "length", summary=True)
    belt_speed: Figure | None = figure("belt speed", "speed", summary=True)
    length_to_key: Figure | None = figure("length to key in", "length")
    pulses_per_length: Figure | None = figure("pulses per length", "pulses per length")
    revolution_time: Figure | None = figure("time of one revolution", "time", summary=True)
    revolution_spread: Figure | None = figure("spread of the revolutions", "percentage")
    whole_revolutions: Figure | None = figure("whole revolutions", "integer")
    found_length_error: Figure | None = figure("length in the instrument, off by", "percentage", signed=True)
    found_revolution_time_error: Figure | None = figure("revolution time in it, off by", "percentage", signed=True)
    found_pulses_error: Figure | None = figure("pulses in it, off by", "percentage", signed=True)


class BeltLengthInputs(Inputs):
    """Inputs of a belt length; each time is for one revolution, mark to mark."""

    revolution_times: list[PositiveTime] | None = field(
        "Times of one revolution", ask="Time a revolution from mark to mark, three times or more."
    )
    speed: PositiveSpeed | None = field("Belt speed", "measured on the belt itself")
    pulley_diameter: PositiveLength | None = field("Pulley diameter")
    belt_thickness: LengthFromZero | None = field("Belt thickness")
    pulley_turns: AboveZero | None = field("Pulley turns in one revolution of the belt")
    pulses: AboveZero | None = field("Pulses in one revolution")
    found_length: PositiveLength | None = field("Length in the instrument", "as it stands there, before it is changed")
    found_revolution_time: PositiveTime | None = field("Revolution time in the instrument")
    found_pulses: AboveZero | None = field("Pulses in the instrument", "in one revolution")


REVOLUTIONS = Rows(
    list="revolution_times",
    name="Revolution",
    empty="No revolution timed yet: tap at the mark, and again when it comes round.",
    columns=(typed(VALUE, "One revolution"),),
    typed=(VALUE,),
    tool=Stopwatch(title="revolution"),
)


class BeltLength(Method[BeltLengthInputs, BeltLengthResults]):
    """`belt-length`: `B = speed·T`, or `π·(D + thickness)·turns`."""

    key = "belt-length"
    title = "Belt length"
    summary = "Length, speed and revolution, mark to mark"
    question = "How long is the belt?"
    subject = "The length"
    profile = "belt-fine"
    inputs = BeltLengthInputs
    results = BeltLengthResults
    takes = {"speed": "", "pulses": "pulses_per_revolution"}
    hands = ("revolution_time", "speed")
    steps = (
        Look(
            "mark",
            "Mark the belt",
            "Stopped and locked off.",
            items=(Item("mark", "One clear mark across the belt, and one on the frame"), Item("guards", "Guards were taken off for this", "Guards are off: put them back.")),
            cautions=(BELT_ISOLATE,),
        ),
        Listed("revolutions", "Revolutions", "Empty and running: from mark to mark, three times or more.", rows=REVOLUTIONS, cautions=(BELT_RUNNING,)),
        Enter("speed", "Speed, or the pulley", "Either the speed on the belt itself, or the pulley and its turns.", fields=("speed", "pulley_diameter", "belt_thickness", "pulley_turns", "pulses")),
        Enter("found", "As the instrument has it", "What stands in it now, held against what was measured.", fields=("found_length", "found_revolution_time", "found_pulses")),
        Close("close", "Close", "Key the length in, then write it up."),
    )  # fmt: skip

    def assess(self, given: BeltLengthInputs, setting: Setting) -> Assessment[BeltLengthResults]:
        sheet = Draft(self, setting)
        sheet.need(given, "revolution_times")
        by_pulley = given.pulley_diameter and given.pulley_turns
        if not given.speed and not by_pulley:
            half = "pulley_turns" if given.pulley_diameter else "pulley_diameter" if given.pulley_turns else "speed"
            text = "Measure the speed on the belt itself, or the pulley's diameter and its turns in one revolution."
            sheet.absent.append(missing(f"inputs.{half}", text))
        times = [time.si for time in given.revolution_times or []]
        if times:
            _revolutions(sheet, given, times)
        failed = sheet.facts()
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        mean = math.fsum(times) / len(times)
        length, speed = _length(given, mean)
        revolutions = whole_revolutions(mean)
        sheet.results.belt_length = Figure(length, "m")
        unit = given.speed.unit if given.speed else "m/s"
        sheet.results.belt_speed = in_unit(speed, unit)
        sheet.results.length_to_key = Figure(revolutions * length, "m")
        if given.pulses:
            sheet.results.pulses_per_length = Figure(given.pulses / length, "1/m")
        _as_it_has_it(sheet, given, mean, length, revolutions)
        failed = sheet.failed()
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        text = f"The belt is {shown(length)} m long and takes {shown(mean)} s."
        if revolutions > 1:
            text += (
                f" Key in {revolutions} revolutions, {shown(revolutions * length)} m: one alone is over before 30 s."
            )
        return sheet.answer(LEAVE, [Reason("measured", text)], headline="Measured", lead=text)

    def hands_on(self, given: BeltLengthInputs, answer: Assessment[BeltLengthResults], marks: Marks) -> dict[str, Any]:
        """Revolution time and speed as measured, where the length stands."""
        measured = answer.results
        if answer.call != LEAVE or not measured.revolution_time or not measured.belt_speed:
            return {}
        return {"revolution_time": measured.revolution_time.written(), "speed": measured.belt_speed.written()}

    def hands_back(
        self, given: BeltLengthInputs, answer: Assessment[BeltLengthResults], plates: Mapping[str, Quantity | float]
    ) -> HandsBack:
        """The length and revolution time; one that changed amounts to another belt."""
        length, revolution = value_of(answer.results.belt_length), answer.results.revolution_time
        if length is None or revolution is None:
            return HandsBack()
        before = plates.get("belt_length")
        known = before if isinstance(before, Quantity) else None
        moved = known is not None and abs(length / known.si - 1) > SAME_LENGTH
        note = f"length measured as {length:.2f} m, was {known.text}" if known else ""
        measured = {"belt_length": f"{length:.2f} m", "revolution_time": revolution.written()}
        return HandsBack(plates=measured, event=("splice", note) if moved else None)

    def draw(self, given: BeltLengthInputs, seen: Seen) -> Belt:
        """The empty belt with its time, length and speed."""
        times = [time.si for time in given.revolution_times or []]
        if not times:
            return drawn_belt(seen, [])
        mean = math.fsum(times) / len(times)
        above = headline(Quantity(mean, "s", ""), "one revolution")
        if given.speed or (given.pulley_diameter and given.pulley_turns):
            length, speed = _length(given, mean)
            above += headline(Quantity(length, "m", ""), "belt length")
            above += headline(Quantity(speed, "m/s", ""), "belt speed", 3)
        return drawn_belt(seen, above)


def _length(given: BeltLengthInputs, revolution_time: float) -> tuple[float, float]:
    """Length in m and speed in m/s."""
    if given.speed:
        return given.speed.si * revolution_time, given.speed.si
    assert given.pulley_diameter and given.pulley_turns
    thickness = given.belt_thickness.si if given.belt_thickness else 0.0
    length = math.pi * (given.pulley_diameter.si + thickness) * given.pulley_turns
    return length, length / revolution_time


def _revolutions(sheet: Draft[BeltLengthResults], given: BeltLengthInputs, times: list[float]) -> None:
    assert given.revolution_times
    unit = given.revolution_times[0].unit
    mean = math.fsum(times) / len(times)
    spread = (max(times) - min(times)) / mean
    sheet.results.revolution_time = in_unit(mean, unit)
    sheet.results.revolution_spread = percent(spread)
    sheet.results.whole_revolutions = Figure(whole_revolutions(mean))
    if len(times) > 1:
        text = f"The revolutions range over {percent_shown(spread)}; up to {percent_shown(MOST_SPREAD, decimals=0)} is one speed."
        sheet.check("revolution-spread", "pass" if at_most(spread, MOST_SPREAD) else "fail", text)
    if given.pulses:
        every = mean / given.pulses
        enough = at_most(every, SLOWEST_PULSES)
        text = f"A pulse every {shown(every, 3)} s."
        if not enough:
            text += " One every 2 s at least is wanted: a second target doubles the pulses, and then the set-up changes too."
        sheet.check("pulses", "pass" if enough else "note", text)


def _as_it_has_it(
    sheet: Draft[BeltLengthResults], given: BeltLengthInputs, turn: float, length: float, turns: int
) -> None:
    """What stands in the instrument against what was measured; a length may be a multiple of it on purpose."""
    rows: list[tuple[str, str, float, float]] = []
    if given.found_length:
        whole = max(1, round(given.found_length.si / length))
        times = whole if whole in (1, turns) else 1
        rows.append(("found-length", f"a length of {given.found_length.text}", given.found_length.si, times * length))
        sheet.results.found_length_error = percent(given.found_length.si / (times * length) - 1)
    if given.found_revolution_time:
        rows.append(
            (
                "found-revolution-time",
                f"a revolution of {given.found_revolution_time.text}",
                given.found_revolution_time.si,
                turn,
            )
        )
        sheet.results.found_revolution_time_error = percent(given.found_revolution_time.si / turn - 1)
    if given.found_pulses and given.pulses:
        rows.append(("found-pulses", f"{given.found_pulses:g} pulses", given.found_pulses, given.pulses))
        sheet.results.found_pulses_error = percent(given.found_pulses / given.pulses - 1)
    for code, what, found, measured in rows:
        apart = found / measured - 1
        near = at_most(abs(apart), SAME_LENGTH)
        text = f"The instrument has {what}: {percent_shown(apart, sign=True)} of what was measured."
        sheet.check(
            code,
            "pass" if near else "note",
            text if near else f"{text} Key in what was measured; then zero and span again.",
        )


METHOD = BeltLength()
