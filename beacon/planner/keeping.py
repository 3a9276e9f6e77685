"""Intervals, counters, zero checks and plans as they are kept, each with what makes it refused."""

import datetime
import re
from typing import Any

from django.utils import timezone

from beacon.people.models import Membership, Person, Role
from beacon.planner import schemas
from beacon.planner.due import Known, done_on
from beacon.planner.models import Counter, Interval, Planned, ZeroCheck
from beacon.plant.models import PlateChange, System
from beacon.problems import Problem
from wary.quantities import NotAQuantity
from wary.references import band_refused, zero_read
from wary.rules.due import COUNTERS, went_back

LONGEST_DAYS = 3650


def keep_intervals(user: Person, system: System, given: schemas.IntervalsIn) -> None:
    """Changes when a system is wanted again; each change stands in its trail with why."""
    wrong = []
    intervals = [("calibration", number, one) for number, one in enumerate(given.calibration)]
    intervals += [("zero", number, one) for number, one in enumerate(given.zero)]
    for purpose, number, one in intervals:
        text = _why_not(one, purpose)
        if text:
            wrong.append({"path": f"{purpose}[{number}]", "text": text})
    kinds = [one.kind for one in given.calibration]
    if len(set(kinds)) != len(kinds):
        wrong.append({"path": "calibration", "text": "There is one interval of each kind; two of them are alike."})
    days = next((one.every for one in given.calibration if one.kind == "days"), None)
    if days is None:
        wrong.append(
            {"path": "calibration", "text": "Say after how many days at the most: everything is looked at some day."}
        )
    if not any(letter.isalpha() for letter in given.why):
        wrong.append({"path": "why", "text": "Why is it changed? In words, for the record."})
    if wrong or days is None:
        raise Problem(422, "These intervals cannot be kept yet", "Nothing was changed.", wrong)
    before = words_of(system)
    system.interval_days = round(days)
    system.save(update_fields=["interval_days"])
    system.intervals.all().delete()
    Interval.objects.bulk_create(
        Interval(
            system=system,
            purpose=purpose,
            kind=one.kind,
            every=one.every or 0,
            season=one.season if one.kind == "season" else "",
            band=one.band.strip() if purpose == "zero" else "",
        )
        for purpose, _, one in intervals
        if purpose == "zero" or one.kind != "days"
    )
    if done := done_on(system):
        system.due = done + datetime.timedelta(days=system.interval_days)
        system.save(update_fields=["due"])
    after = words_of(system)
    for key in before.keys() | after.keys():
        if before.get(key, "") != after.get(key, ""):
            PlateChange.objects.create(
                system=system, field=key, before=before.get(key, ""), after=after.get(key, ""), why=given.why.strip(), who=user
            )  # fmt: skip


def words_of(system: System) -> dict[str, str]:
    """The intervals of a system in words, by what they are called in its trail."""
    found = {"interval": f"{system.interval_days} days"}
    for one in Interval.objects.filter(system=system):
        name = "zero checks" if one.purpose == Interval.Purpose.ZERO else f"interval, {one.kind}"
        unit = COUNTERS.get(one.kind, "days")  # type: ignore[call-overload]
        often = "every day" if unit == "days" and one.every == 1 else f"every {one.every:g} {unit}"
        words = f"from {one.season} on" if one.kind == Interval.Kind.SEASON else often
        found[name] = words + (f", within {one.band}" if one.band else "")
    return found


def _why_not(one: schemas.IntervalIn, purpose: str) -> str:
    """Why an interval cannot be kept, in a sentence; empty where it can."""
    if one.kind == "season":
        match = re.fullmatch(r"(\d\d)-(\d\d)", one.season)
        if not match or not _is_a_day(int(match[1]), int(match[2])):
            return "Type the day of the season as month and day, such as 03-01."
        return ""
    if one.every is None:
        return "An interval of nothing asks for nothing: type how many."
    if one.kind == "days" and not 1 <= one.every <= LONGEST_DAYS:
        return f"Between one day and {LONGEST_DAYS} days."
    if purpose == "zero" and one.band:
        return band_refused(one.band)
    return ""


def _is_a_day(month: int, day: int) -> bool:
    try:
        datetime.date(2024, month, day)
    except ValueError:
        return False
    return True


def keep_counter(user: Person, system: System, known: Known, given: schemas.CounterIn) -> None:
    """Keeps what a counter shows. Raises Problem where it went back and was not said to have begun anew."""
    earlier = known.counters.get(given.kind, [])
    back = None if given.anew else went_back(earlier, given.figure)
    if back:
        unit = COUNTERS[given.kind]
        text = (
            f"On {back.day.isoformat()} it showed {back.figure:g} {unit}; {given.figure:g} is less. Read it again, "
            "or say that it was replaced or began anew."
        )
        raise Problem(422, "Not kept yet", text, [{"path": "figure", "text": text}])
    Counter.objects.create(system=system, kind=given.kind, figure=given.figure, anew=given.anew, who=user)


def keep_zero(user: Person, system: System, band: str, given: schemas.ZeroCheckIn) -> ZeroCheck:
    """Keeps what a machine showed with nothing on it, and whether that lies within its band."""
    try:
        read, holds = zero_read(given.text, given.unit, band)
    except NotAQuantity as unread:
        raise Problem(422, "Not kept yet", errors=[{"path": "text", "text": str(unread)}]) from None
    now = timezone.now()
    at = min(given.at or now, now)
    # The same sent twice at once is kept once.
    said = {"system": system, "text": read[:40], "holds": holds, "at": at, "who": user}
    kept, _ = ZeroCheck.objects.get_or_create(id=given.id, defaults=said)
    if kept.system_id != system.id:
        raise Problem(422, "Not kept", errors=[{"path": "id", "text": "This id was used before; type it again."}])
    return kept


def keep_plan(system: System, given: schemas.PlanIn, today: datetime.date) -> None:
    """Plans a visit of a system to a day and a person of its organisation."""
    wrong = []
    person = None
    if given.day < today:
        wrong.append({"path": "day", "text": "That day is over. Plan it to a day that comes."})
    if given.username:
        works = Membership.objects.filter(organisation=system.site.organisation, person__username=given.username)
        found: Any = works.exclude(role=Role.READER).select_related("person").first()
        person = found.person if found else None
        if person is None:
            wrong.append({"path": "username", "text": "This person does not work here."})
    if wrong:
        raise Problem(422, "This plan cannot be kept yet", errors=wrong)
    Planned.objects.update_or_create(
        system=system,
        defaults={"day": given.day, "person": person, "note": given.note.strip(), "made_at": timezone.now()},
    )
