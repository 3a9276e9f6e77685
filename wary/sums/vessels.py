"""Sums for vessels: stop levels and batches."""

import math

from wary.fields import (
    Inputs,
    MassFromZero,
    PositiveMass,
)
from wary.fields import field as asked
from wary.sums.sum import Result, Sum


class StopGiven(Inputs):
    capacity: PositiveMass | None = asked("Capacity")
    low: MassFromZero | None = asked("Low stop level")
    high: PositiveMass | None = asked("High stop level")
    inside: MassFromZero | None = asked("In it now")
    batch: PositiveMass | None = asked("One batch takes")
    tare: MassFromZero | None = asked("Tare set on the display")


def _stops(given: StopGiven) -> list[Result]:
    rows = []
    if given.low and given.high and given.capacity:
        fits = given.low.si < given.high.si <= given.capacity.si
        words = "in order" if fits else "not in order"
        rows.append(Result("Levels", words, f"{given.low.text} < {given.high.text} ≤ {given.capacity.text}"))
    if given.inside and given.low and given.low.si > given.inside.si:
        words = "above what is in it now"
        rows.append(Result("The low stop stands", words, f"{given.low.text} > {given.inside.text}: it stops at once"))
    if given.inside and given.high and given.high.si < given.inside.si:
        words = "below what is in it now"
        rows.append(Result("The high stop stands", words, f"{given.high.text} < {given.inside.text}: it stops nothing any more"))  # fmt: skip
    if given.inside and given.low and given.batch:
        batches = max(0, math.floor((given.inside.si - given.low.si) / given.batch.si + 1e-9))
        formula = f"({given.inside.text} − {given.low.text}) / {given.batch.text}"
        rows.append(Result("Batches left until the low stop", str(batches), formula))
    if given.tare and given.tare.si > 0:
        rows.append(
            Result("A tare is set", "the display hides what is in it", f"gross is {given.tare.text} more than is shown")
        )
    return rows


SUMS = (Sum("stops", "Stop levels and batches", "Vessels", StopGiven, _stops),)
