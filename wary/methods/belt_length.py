"""Length, speed and revolution of a belt, mark to mark.

The length is measured once, and again after a splice or a change of belt. Short fast belts are
given a multiple of it on purpose; the record says so.
"""

import math
from typing import Any

from wary.answer import Sheet
from wary.belts import whole_revolutions
from wary.call import FIND_FAULT, LEAVE, NOT_READY, Reason
from wary.cautions import BELT_ISOLATE, BELT_RUNNING
from wary.fields import AboveZero, Inputs, LengthFromZero, PositiveLength, PositiveSpeed, PositiveTime, at_most, field
from wary.method import Assessment, Item, Method, Setting, Step, drawn, value
from wary.quantities import Quantity, from_si, percent_shown, shown
from wary.stages import missing

MOST_SPREAD = 0.01
SLOWEST_PULSES = 2.0

WHERE_TO_LOOK = (
    "Was the mark read at the same place each time, by the same eye?",
    "Belt slipping on its pulley: wet, loose, or overloaded.",
    "A drive whose speed is not constant: time it again, empty.",
)


class BeltLengthInputs(Inputs):
    """Inputs of a belt length; each time is for one revolution, mark to mark."""

    revolution_times: list[PositiveTime] | None = field("Times of one revolution")
    speed: PositiveSpeed | None = field("Belt speed", "measured on the belt itself")
    pulley_diameter: PositiveLength | None = field("Pulley diameter")
    belt_thickness: LengthFromZero | None = field("Belt thickness")
    pulley_turns: AboveZero | None = field("Pulley turns in one revolution of the belt")
    pulses: AboveZero | None = field("Pulses in one revolution")


class BeltLength(Method):
    """`belt-length`: `B = speed·T`, or `π·(D + thickness)·turns`."""

    key = "belt-length"
    title = "Belt length"
    summary = "Length, speed and revolution, mark to mark"
    figure = "belt"
    kinds = ("belt", "chain")
    profile = "belt-fine"
    inputs = BeltLengthInputs
    steps = (
        Step(
            "mark",
            "look",
            "Mark the belt",
            "Stopped and locked off.",
            items=(Item("mark", "One clear mark across the belt, and one on the frame"), Item("guards", "Guards were taken off for this", "Guards are off: put them back.")),
            cautions=(BELT_ISOLATE,),
        ),
        Step("revolutions", "revolutions", "Revolutions", "Empty and running: from mark to mark, three times or more.", runs="revolution_times", cautions=(BELT_RUNNING,)),
        Step("speed", "enter", "Speed, or the pulley", "Either the speed on the belt itself, or the pulley and its turns.", fields=("speed", "pulley_diameter", "belt_thickness", "pulley_turns", "pulses")),
        Step("close", "close", "Close", "Key the length in, then write it up."),
    )  # fmt: skip

    def assess(self, given: BeltLengthInputs, setting: Setting) -> Assessment:
        sheet = Sheet(self, setting)
        sheet.need(given, "revolution_times")
        by_pulley = given.pulley_diameter and given.pulley_turns
        if not given.speed and not by_pulley:
            half = "pulley_turns" if given.pulley_diameter else "pulley_diameter" if given.pulley_turns else "speed"
            text = "The belt's speed, or the pulley's diameter and turns, are still missing."
            sheet.absent.append(missing(f"inputs.{half}", text))
        times = [time.si for time in given.revolution_times or []]
        if times:
            _revolutions(sheet, given, times)
        if sheet.absent:
            return sheet.answer(NOT_READY, sheet.absent)
        mean = math.fsum(times) / len(times)
        length, speed = _length(given, mean)
        revolutions = whole_revolutions(mean)
        sheet.results["belt_length"] = value(length, "m")
        unit = given.speed.unit if given.speed else "m/s"
        sheet.results["belt_speed"] = value(from_si(speed, unit), unit)
        sheet.results["length_to_key"] = value(revolutions * length, "m")
        if given.pulses:
            sheet.results["pulses_per_length"] = value(given.pulses / length, "1/m")
        failed = sheet.failed()
        if failed:
            return sheet.answer(FIND_FAULT, failed, look=WHERE_TO_LOOK)
        text = f"The belt is {shown(length)} m long and takes {shown(mean)} s."
        if revolutions > 1:
            text += (
                f" Key in {revolutions} revolutions, {shown(revolutions * length)} m: one alone is over before 30 s."
            )
        return sheet.answer(LEAVE, [Reason("measured", text)], headline="Measured", lead=text)

    def drawing(self, given: BeltLengthInputs, plates: dict[str, Quantity | float]) -> dict[str, dict[str, Any]]:
        figures = belt_plates(plates)
        times = [time.si for time in given.revolution_times or []]
        if times:
            mean = math.fsum(times) / len(times)
            figures["revolution_time"] = drawn(mean, "s")
            if given.speed or (given.pulley_diameter and given.pulley_turns):
                length, speed = _length(given, mean)
                figures["belt_length"], figures["belt_speed"] = drawn(length, "m"), drawn(speed, "m/s", 3)
        return figures


def belt_plates(plates: dict[str, Quantity | float]) -> dict[str, dict[str, Any]]:
    """The plates that every belt drawing is drawn to: spacing, idlers, angle."""
    figures: dict[str, dict[str, Any]] = {}
    for name in ("idler_spacing", "angle"):
        plate = plates.get(name)
        if isinstance(plate, Quantity):
            figures[name] = drawn(plate.value, plate.unit, 3) | {"si": plate.si}
    idlers = plates.get("weigh_idlers")
    if isinstance(idlers, (int, float)):
        figures["weigh_idlers"] = drawn(idlers, "", 2)
    return figures


def _length(given: BeltLengthInputs, revolution_time: float) -> tuple[float, float]:
    """Length in m and speed in m/s."""
    if given.speed:
        return given.speed.si * revolution_time, given.speed.si
    assert given.pulley_diameter and given.pulley_turns
    thickness = given.belt_thickness.si if given.belt_thickness else 0.0
    length = math.pi * (given.pulley_diameter.si + thickness) * given.pulley_turns
    return length, length / revolution_time


def _revolutions(sheet: Sheet, given: BeltLengthInputs, times: list[float]) -> None:
    assert given.revolution_times
    unit = given.revolution_times[0].unit
    mean = math.fsum(times) / len(times)
    spread = (max(times) - min(times)) / mean
    sheet.results["revolution_time"] = value(from_si(mean, unit), unit)
    sheet.results["revolution_spread"] = value(spread * 100, "%")
    sheet.results["whole_revolutions"] = value(whole_revolutions(mean))
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


METHOD = BeltLength()
