"""A figure in other units."""

from wary.fields import (
    Inputs,
    Mass,
    PositiveLength,
    PositiveRate,
    PositiveSpeed,
)
from wary.fields import field as asked
from wary.quantities import FAMILY_OF, from_si, shown, to_si
from wary.sums.sum import Result, Sum


class UnitsGiven(Inputs):
    mass: Mass | None = asked("A mass")
    rate: PositiveRate | None = asked("A rate")
    length: PositiveLength | None = asked("A length")
    speed: PositiveSpeed | None = asked("A speed")


ALSO = {
    "mass": ("kg", "t", "lb", "ston", "lton", "oz", "g"),
    "rate": ("kg/s", "kg/h", "t/h", "lb/h", "ston/h"),
    "length": ("m", "mm", "in", "ft"),
    "speed": ("m/s", "m/min", "km/h", "ft/min"),
}


def _units(given: UnitsGiven) -> list[Result]:
    rows = []
    for quantity in (given.mass, given.rate, given.length, given.speed):
        if quantity is None:
            continue
        for unit in ALSO[FAMILY_OF[quantity.unit]]:
            if unit != quantity.unit:
                one = shown(from_si(to_si(1, quantity.unit), unit), 6)
                formula = f"{quantity.text} × {one} {unit} each"
                rows.append(Result(f"{quantity.text} is", f"{shown(from_si(quantity.si, unit), 6)} {unit}", formula))
    return rows


SUMS = (Sum("units", "Other units", "Units", UnitsGiven, _units),)
