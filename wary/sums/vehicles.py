"""Sums for scales that ride on vehicles: filling a container, what a ticket can show, payload, pace."""

from wary.fields import Inputs, PositiveMass, PositivePercentage, PositiveTime
from wary.fields import field as asked
from wary.methods.vehicles.lift_repeat.judging import FILL_MARGIN
from wary.quantities import from_si, mass_shown, percent_shown, shown
from wary.rules.planning import smallest_amount
from wary.sums.sum import Result, Sum


class FillGiven(Inputs):
    empty_weight: PositiveMass | None = asked("Empty container")
    fill_margin: PositiveMass | None = asked("Margin when filling")


def _fill(given: FillGiven) -> list[Result]:
    if not given.empty_weight:
        return []
    empty, margin = given.empty_weight, given.fill_margin or FILL_MARGIN
    target = 2 * empty.si - margin.si
    if target <= empty.si:
        return [
            Result(
                "Fill the heavy one to",
                "nothing: the margin is as large as the container",
                f"2 × {empty.text} − {margin.text}",
            )
        ]
    return [
        Result("Fill the heavy one to", mass_shown(target, empty.unit), f"2 × {empty.text} − {margin.text}"),
        Result("Add to the empty one", mass_shown(target - empty.si, empty.unit), f"{mass_shown(target, empty.unit)} − {empty.text}"),
    ]  # fmt: skip


class TicketGiven(Inputs):
    ticket_division: PositiveMass | None = asked("Division of the ticket")
    payload: PositiveMass | None = asked("Payload of the group")
    accept: PositivePercentage | None = asked("Accept limit")


def _ticket(given: TicketGiven) -> list[Result]:
    division = given.ticket_division
    if not division:
        return []
    rows = []
    if given.payload:
        # Two readings of one division each: the rounding of either may be half of it.
        share = division.si / given.payload.si
        rows.append(Result("One division is", percent_shown(share), f"{division.text} / {given.payload.text}"))
        rows.append(
            Result(
                "Divisions in the payload",
                shown(given.payload.si / division.si, 3),
                f"{given.payload.text} / {division.text}",
            )
        )
    if given.accept:
        least = smallest_amount(division.si, 2, 0.0, given.accept.si)
        if least is not None:
            text = f"2 × {division.text} × √(2/12) / ({given.accept.text} / 3)"
            rows.append(Result("Payload that this ticket can decide on", mass_shown(least, division.unit), text))
    return rows  # fmt: skip


class PayloadGiven(Inputs):
    empty_ticket: PositiveMass | None = asked("Empty, on the ticket")
    heavy_ticket: PositiveMass | None = asked("Heavy, on the ticket")


def _payload(given: PayloadGiven) -> list[Result]:
    empty, heavy = given.empty_ticket, given.heavy_ticket
    if not empty or not heavy:
        return []
    formula = f"{heavy.text} − {empty.text}"
    if heavy.si <= empty.si:
        return [Result("Payload", "none: look whether the tickets changed places", formula)]
    payload = heavy.si - empty.si
    share = percent_shown(payload / empty.si, decimals=0)
    return [
        Result("Payload", mass_shown(payload, empty.unit, 6), formula),
        Result("Of the empty weight", share, f"{mass_shown(payload, empty.unit, 6)} / {empty.text}"),
    ]


class PaceGiven(Inputs):
    slow_time: PositiveTime | None = asked("Slow lift took")
    quick_time: PositiveTime | None = asked("Quick lift took")
    this_time: PositiveTime | None = asked("This lift took")


def _pace(given: PaceGiven) -> list[Result]:
    slow, quick = given.slow_time, given.quick_time
    if not slow or not quick:
        return []
    if quick.si >= slow.si:
        return [
            Result(
                "Pace",
                "the quick lift is no quicker: the lever to its stop at every lift",
                f"{slow.text}, {quick.text}",
            )
        ]
    rows = [
        Result("The quick lift is", f"{shown(slow.si / quick.si, 3)} times as quick", f"{slow.text} / {quick.text}")
    ]
    if given.this_time:
        way = (1 / given.this_time.si - 1 / slow.si) / (1 / quick.si - 1 / slow.si)
        seconds = [f"1/{shown(from_si(time.si, 's'), 3)}" for time in (given.this_time, slow, quick)]
        formula = f"({seconds[0]} − {seconds[1]}) / ({seconds[2]} − {seconds[1]})"
        rows.append(Result("This lift lies between slow and quick at", percent_shown(way, decimals=0), formula))
    return rows  # fmt: skip


GROUP = "Vehicles"
SUMS = (
    Sum("fill-target", "Filling a container for counted lifts", GROUP, FillGiven, _fill, "lift-repeat", {"empty_weight": "empty_weight", "fill_margin": "fill_margin"}),
    Sum("ticket-shows", "What a ticket can show on an axle", GROUP, TicketGiven, _ticket, "axle-two-load", {"ticket_division": "ticket_division"}),
    Sum("payload", "Payload from two tickets", GROUP, PayloadGiven, _payload),
    Sum("pace", "Pace of two lifts", GROUP, PaceGiven, _pace),
)  # fmt: skip
