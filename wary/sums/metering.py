"""Sums for drills and area spreaders: rate, width and speed, the shaft, a field, ground for one turn, turns to catch."""

from typing import Annotated

from wary.fields import Inputs, Of, PerRevolution, PositiveLength, PositiveMass, PositivePercentage, PositiveSpeed
from wary.fields import field as asked
from wary.methods.metering.charting import half_turns
from wary.quantities import Quantity, from_si, mass_shown, shown
from wary.rules.planning import smallest_amount
from wary.sums.sum import Result, Sum

PerArea = Annotated[Quantity, Of("mass per area", above=0)]
PositiveArea = Annotated[Quantity, Of("area", above=0)]


def _in_pounds(*given: Quantity | None) -> bool:
    """Whether any of these is in a unit of pounds."""
    return any(one is not None and one.unit.startswith(("lb", "ft", "mph", "ac", "ston")) for one in given)


class FlowGiven(Inputs):
    rate: PerArea | None = asked("Rate")
    width: PositiveLength | None = asked("Working width")
    speed: PositiveSpeed | None = asked("Speed")
    per_turn: PerRevolution | None = asked("For one turn")


def _flow(given: FlowGiven) -> list[Result]:
    """`Q (kg/min) = rate (kg/ha) × width (m) × speed (km/h) / 600`; in US units `lb/ac × ft × mph / 495`."""
    if not given.rate or not given.width or not given.speed:
        return []
    flow = given.rate.si * given.width.si * given.speed.si
    pounds = _in_pounds(given.rate, given.width, given.speed)
    unit, by = ("lb/min", 495) if pounds else ("kg/min", 600)
    names = ("lb/ac", "ft", "mph") if pounds else ("kg/ha", "m", "km/h")
    figures = " × ".join(f"{shown(from_si(one.si, name), 4)} {name}" for one, name in zip((given.rate, given.width, given.speed), names, strict=True))  # fmt: skip
    rows = [Result("It has to give", f"{shown(from_si(flow, unit), 4)} {unit}", f"{figures} / {by}")]
    if given.per_turn:
        turns = flow / given.per_turn.si * 60
        rows.append(Result("The shaft turns", f"{shown(turns, 4)} a minute", f"{shown(from_si(flow, unit), 4)} {unit} / {given.per_turn.text}"))  # fmt: skip
    return rows


class FieldGiven(Inputs):
    length: PositiveLength | None = asked("Length of the field")
    width: PositiveLength | None = asked("Width of the field")
    area: PositiveArea | None = asked("Or its area")
    rate: PerArea | None = asked("Rate")


def _field(given: FieldGiven) -> list[Result]:
    pounds = _in_pounds(given.length, given.width, given.area, given.rate)
    unit = "ac" if pounds else "ha"
    area = given.area.si if given.area else given.length.si * given.width.si if given.length and given.width else None
    if area is None:
        return []
    said = (
        given.area.text
        if given.area
        else f"{given.length.text if given.length else ''} × {given.width.text if given.width else ''}"
    )
    rows = [Result("Area", f"{shown(from_si(area, unit), 4)} {unit}", said)]
    if given.rate:
        mass = "lb" if pounds else "kg"
        rows.append(Result("Material", mass_shown(area * given.rate.si, mass, 5), f"{shown(from_si(area, unit), 4)} {unit} × {given.rate.text}"))  # fmt: skip
    return rows


class GroundGiven(Inputs):
    per_turn: PerRevolution | None = asked("For one turn")
    rate: PerArea | None = asked("Rate")
    width: PositiveLength | None = asked("Working width")


def _ground(given: GroundGiven) -> list[Result]:
    if not given.per_turn or not given.rate or not given.width:
        return []
    run = given.per_turn.si / given.rate.si / given.width.si
    unit = "ft" if _in_pounds(given.per_turn, given.rate, given.width) else "m"
    return [Result("Ground for one turn", f"{shown(from_si(run, unit), 4)} {unit}", f"{given.per_turn.text} / {given.rate.text} / {given.width.text}")]  # fmt: skip


class TurnsGiven(Inputs):
    division: PositiveMass | None = asked("Division of the scale")
    accept: PositivePercentage | None = asked("Accept limit")
    per_turn: PerRevolution | None = asked("For one turn")


def _turns(given: TurnsGiven) -> list[Result]:
    if not given.division or not given.accept:
        return []
    least = smallest_amount(given.division.si, 2, 0.0, given.accept.si)
    if least is None:
        return []
    unit = given.division.unit
    rows = [Result("Catch at least", mass_shown(least, unit, 4), f"2 × {given.division.text} × √(2/12) / ({given.accept.text} / 3)")]  # fmt: skip
    if given.per_turn:
        turns = half_turns(least / given.per_turn.si)
        rows.append(Result("Turns to catch", f"{turns:g}", f"{mass_shown(least, unit, 4)} / {given.per_turn.text}, up to a half turn"))  # fmt: skip
    return rows


GROUP = "Drills and spreaders"
SUMS = (
    Sum("rate-width-speed", "Rate, width and speed", GROUP, FlowGiven, _flow),
    Sum("field", "Area and material for a field", GROUP, FieldGiven, _field),
    Sum("ground-per-turn", "Ground for one turn", GROUP, GroundGiven, _ground),
    Sum("turns-to-catch", "How many turns to catch", GROUP, TurnsGiven, _turns, "meter-catch", {"division": "reference_division"}),
)  # fmt: skip
