"""A month as a calendar, and the same as an iCalendar feed (RFC 5545) that says nothing new where nothing is new."""

import calendar
import datetime
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal
from urllib.parse import urlsplit
from uuid import UUID

from django.conf import settings
from django.db.models import Q, QuerySet

from beacon.planner.dates import keep_up
from beacon.planner.due import Known, closed_at, dues_of, is_daily, zero_due
from beacon.planner.models import Planned
from beacon.plant.models import Reference, System
from beacon.plant.view import Answer, home_zone, today_at
from wary import WRITTEN_BY
from wary.clean import LAST_DAY
from wary.job.closing import STATES, state_in_words
from wary.rules.due import ORDER, Urgency, by_days, due_words, first

BEGAN = datetime.datetime(2000, 1, 1, tzinfo=datetime.UTC)
"""When something was last changed of which nothing was ever done."""


@dataclass(frozen=True)
class Item:
    """One thing on one day. `changed` is when that was last decided, `note` what a feed says of it."""

    day: datetime.date
    kind: Literal["due", "planned", "zero", "reference"]
    name: str
    site: str
    words: str
    urgency: Urgency
    key: str
    system: UUID | None = None
    expected: bool = False
    changed: datetime.datetime = BEGAN
    note: str = ""

    def view(self) -> Answer:
        keys = ("kind", "system", "name", "site", "words", "urgency", "expected")
        return {key: getattr(self, key) for key in keys}


def items(systems: Sequence[System], known: dict[UUID, Known], references: Sequence[Reference]) -> Iterator[Item]:
    """Everything that has a day: what is due, what is planned, zeros that are not looked at daily, references."""
    for system in systems:
        mine = known.get(system.id) or Known()
        today = today_at(system.site.time_zone)
        changed = closed_at(system) or BEGAN
        about: dict[str, Any] = {"name": system.name, "site": system.site.name, "system": system.id}
        due = first(dues_of(system, mine, today))
        if due and due.on:
            words = "expected" if due.expected else state_in_words(system.recorded_state, system.last)
            note = f"{system.machine.title}, {system.material or system.site.name}; by {due.kind}"
            yield Item(due.on, "due", words=words, urgency=due.urgency, key=f"due-{system.id}", expected=due.expected, changed=changed, note=note, **about)  # fmt: skip
        if mine.planned:
            mine.planned.system = system
            yield _of_plan(mine.planned, today)
        zero = zero_due(system, mine, today)
        if zero and zero.on and not is_daily(mine):
            at = mine.zero.at if mine.zero else changed
            yield Item(zero.on, "zero", words="look at the zero", urgency=zero.urgency, key=f"zero-{system.id}", changed=at, note="nothing on it: what does it show?", **about)  # fmt: skip
    yield from _of_references(references, today_of(references))


def month(here: UUID, systems: QuerySet[System], references: Sequence[Reference], first_day: datetime.date) -> Answer:
    """A month of an organisation: every day that holds something, and what should have been done before it and was
    not."""
    last = first_day.replace(day=calendar.monthrange(first_day.year, first_day.month)[1])
    keep_up(systems)
    today = today_at(home_zone(here))
    days: dict[datetime.date, list[Answer]] = {}
    late = []
    found = [*_of_dates(systems, first_day, last), *_planned(systems, last), *_of_references(references, today)]
    for item in sorted(found, key=lambda one: (one.day, one.site, one.name)):
        if first_day <= item.day <= last:
            days.setdefault(item.day, []).append(item.view())
        elif item.day < first_day and item.urgency == "overdue":
            late.append(item.view() | {"words": due_words(item.day, today)})
    return {
        "month": f"{first_day:%Y-%m}",
        "days": [{"day": day, "items": listed} for day, listed in days.items()],
        "late": late,
        "daily": systems.filter(dates__daily=True).count(),
    }


def _of_dates(systems: QuerySet[System], first_day: datetime.date, last: datetime.date) -> Iterator[Item]:
    """What is due in a month or overdue before it, and zeros that are not looked at daily, from what is kept of them."""
    due = Q(dates__due_on__range=(first_day, last)) | Q(dates__due_on__lt=first_day, dates__urgency="overdue")
    zero = Q(dates__zero_on__range=(first_day, last)) | Q(dates__zero_on__lt=first_day, dates__zero_urgency="overdue")
    rows = systems.filter(due | zero).order_by().values_list(
        "id", "name", "site__name", "state", "dates__due_on", "dates__urgency", "dates__expected", "dates__zero_on",
        "dates__zero_urgency", "dates__daily",
    )  # fmt: skip
    for pk, name, site, state, due_on, urgency, expected, zero_on, zero_urgency, daily in rows:
        if due_on and due_on <= last:
            words = "expected" if expected else next(said for key, said in STATES.items() if key == state)
            yield Item(due_on, "due", name, site, words, _urgency(urgency), f"due-{pk}", pk, expected)
        if zero_on and zero_on <= last and not daily:
            yield Item(zero_on, "zero", name, site, "look at the zero", _urgency(zero_urgency), f"zero-{pk}", pk)


def _urgency(kept: str) -> Urgency:
    return next(one for one in ORDER if one == kept)


def _planned(systems: QuerySet[System], last: datetime.date) -> Iterator[Item]:
    """What is planned until a day; what was closed since it was planned is the visit that was planned."""
    with_plans = systems.filter(planned__day__lte=last).order_by().prefetch_related("planned__person")
    for system in with_plans:
        done = closed_at(system)
        for plan in system.planned.all():
            if done is None or done < plan.made_at:
                yield _of_plan(plan, today_at(system.site.time_zone))


def _of_plan(plan: Planned, today: datetime.date) -> Item:
    system = plan.system
    who = f"{plan.person}" if plan.person else "no one named"
    words = f"{who}{plan.note and f': {plan.note}'}"
    about = {"changed": plan.made_at, "note": words}
    urgency = by_days(plan.day, today)
    return Item(plan.day, "planned", system.name, system.site.name, words, urgency, f"planned-{system.id}", system.id, **about)  # type: ignore[arg-type]  # fmt: skip


def today_of(references: Sequence[Reference]) -> datetime.date:
    """The day that it is where an organisation's references are kept."""
    return today_at(home_zone(references[0].organisation_id) if references else "UTC")


def _of_references(references: Sequence[Reference], today: datetime.date) -> Iterator[Item]:
    for one in references:
        if one.due:
            words = f"to be checked{one.checked_by and f' by {one.checked_by}'}"
            yield Item(one.due, "reference", one.name, "", words, by_days(one.due, today), f"reference-{one.id}", note=words)  # fmt: skip


TITLES = {"due": "Calibrate {}", "planned": "Visit {}", "zero": "Zero of {}", "reference": "{}: check due"}


def feed(found: Iterator[Item], name: str) -> bytes:
    """An iCalendar file: the same bytes for as long as nothing was decided anew."""
    from icalendar import Calendar, Event

    host = urlsplit(settings.PUBLIC_URL).hostname or "localhost"
    written = Calendar()
    written.add("prodid", f"-//{WRITTEN_BY}//round//EN")
    written.add("version", "2.0")
    written.add("method", "PUBLISH")
    written.add("x-wr-calname", name)
    for item in sorted(found, key=lambda one: one.key):
        event = Event()
        event.add("uid", f"{item.key}@{host}")
        event.add("dtstamp", item.changed.astimezone(datetime.UTC).replace(microsecond=0))
        event.add("dtstart", min(item.day, LAST_DAY))
        event.add("dtend", min(item.day, LAST_DAY) + datetime.timedelta(days=1))
        event.add("summary", TITLES[item.kind].format(item.name))
        event.add("description", item.note)
        event.add("transp", "TRANSPARENT")
        if item.site:
            event.add("location", item.site)
        if item.system:
            event.add("url", f"{settings.PUBLIC_URL}/systems/{item.system}")
        written.add_component(event)
    return bytes(written.to_ical())
