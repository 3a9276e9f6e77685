"""Sums for filling and dosing: give-away in money, sampling against run length, another size, a tolerance both ways."""

from wary.fields import AboveZero, Count, Inputs, Limit, LimitField, Many, Mass, PositiveMass
from wary.fields import field as asked
from wary.methods.filling.tuning import another_size
from wary.quantities import from_si, mass_shown, percent_shown, shown
from wary.sums.sum import Result, Sum


class GiveAwayGiven(Inputs):
    mean_error: Mass | None = asked("Given away a pack")
    packs_per_year: Many | None = asked("Packs in a year")
    cost: AboveZero | None = asked("A kilogram costs")


def _give_away(given: GiveAwayGiven) -> list[Result]:
    if not given.mean_error or given.packs_per_year is None:
        return []
    a_year = max(given.mean_error.si, 0.0) * given.packs_per_year
    rows = [Result("Given away in a year", mass_shown(a_year, "kg", 5), f"{given.mean_error.text} × {given.packs_per_year}")]  # fmt: skip
    if given.cost:
        rows.append(Result("In money", shown(a_year * given.cost, 6), f"{mass_shown(a_year, 'kg', 5)} × {shown(given.cost, 5)}"))  # fmt: skip
    return rows


class SamplingGiven(Inputs):
    every: Count | None = asked("One pack in")
    target: PositiveMass | None = asked("Target")
    packs_per_hour: AboveZero | None = asked("Packs an hour")
    cost: AboveZero | None = asked("A kilogram costs")


def _sampling(given: SamplingGiven) -> list[Result]:
    if not given.every:
        return []
    unseen = given.every - 1
    rows = [Result("Bad packs that may go unseen", f"{unseen}", f"{given.every} − 1")]
    if given.target:
        lost = unseen * given.target.si
        rows.append(Result("They hold", mass_shown(lost, "kg"), f"{unseen} × {given.target.text}"))
        if given.cost:
            rows.append(Result("In money", shown(lost * given.cost, 5), f"{mass_shown(lost, 'kg')} × {shown(given.cost, 5)}"))  # fmt: skip
    if given.packs_per_hour:
        minutes = given.every / given.packs_per_hour * 60
        rows.append(Result("A sample every", f"{shown(minutes, 3)} min", f"{given.every} / {shown(given.packs_per_hour, 4)} × 60"))  # fmt: skip
    rows.append(Result("Half of it would be unseen with one in", f"{(given.every + 1) // 2}", f"{given.every} / 2"))
    return rows


class SizeGiven(Inputs):
    target: PositiveMass | None = asked("New target")
    bulk_limit: PositiveMass | None = asked("Fast fills at most up to")
    fast: PositiveMass | None = asked("Fast ends before, now")
    medium: PositiveMass | None = asked("Medium ends before, now")
    fine: PositiveMass | None = asked("Fine ends before, now")


def _size(given: SizeGiven) -> list[Result]:
    if not given.target or not given.medium or not given.fine:
        return []
    limit = given.bulk_limit.si if given.bulk_limit else None
    fast = another_size(given.target.si, given.fast.si if given.fast else given.target.si, given.medium.si, limit)
    unit = given.target.unit
    why = f"below {given.bulk_limit.text} fast is not used" if limit and given.target.si < limit and given.bulk_limit else "as now"  # fmt: skip
    return [
        Result("Fast", mass_shown(fast, unit, 6), why),
        Result("Medium", given.medium.text, "as now"),
        Result("Fine", given.fine.text, "as now; then three fills to see"),
    ]


class BothWaysGiven(Inputs):
    amount: PositiveMass | None = asked("Amount")
    tolerance: LimitField | None = asked("Tolerance")


def _both_ways(given: BothWaysGiven) -> list[Result]:
    if not given.amount or not isinstance(given.tolerance, Limit):
        return []
    share = given.tolerance.relative_at(given.amount.si)
    unit = given.amount.unit
    mass = mass_shown(share * given.amount.si, unit, 5)
    return [
        Result("As a mass", f"± {mass}", f"{percent_shown(share)} × {given.amount.text}"),
        Result("As a share", f"± {percent_shown(share, decimals=3)}", f"{mass} / {shown(from_si(given.amount.si, unit), 6)} {unit}"),
    ]  # fmt: skip


SUMS = (
    Sum("give-away", "Give-away in money", "Filling and dosing", GiveAwayGiven, _give_away),
    Sum("sampling-plan", "Sampling plan against run length", "Filling and dosing", SamplingGiven, _sampling),
    Sum("another-size", "Cut-offs for another size", "Filling and dosing", SizeGiven, _size),
    Sum("tolerance-both-ways", "A tolerance both ways", "Filling and dosing", BothWaysGiven, _both_ways),
)
