"""A month as a calendar, and the same as an iCalendar feed (RFC 5545) that says nothing new where nothing is new."""

import calendar
import datetime
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Literal
from urllib.parse import urlsplit
from uuid import UUID

from django.conf import settings
from icalendar import Calendar, Event

from beacon.planner.due import Known, closed_at, dues_of, zero_due
from beacon.planner.models import Interval
from beacon.plant.models import Reference, System
from beacon.plant.view import Answer, today_at
from wary.clean import LAST_DAY
from wary.job.closing import STATES
from wary.rules.due import Urgency, by_days, due_words, first

DAILY = 1.0
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
            words = "expected" if due.expected else STATES[system.recorded_state]
            note = f"{system.machine.title}, {system.material or system.site.name}; by {due.kind}"
            yield Item(due.on, "due", words=words, urgency=due.urgency, key=f"due-{system.id}", expected=due.expected, changed=changed, note=note, **about)  # fmt: skip
        plan = mine.planned
        if plan:
            who = f"{plan.person}" if plan.person else "no one named"
            words = f"{who}{plan.note and f': {plan.note}'}"
            yield Item(plan.day, "planned", words=words, urgency=by_days(plan.day, today), key=f"planned-{system.id}", changed=plan.made_at, note=words, **about)  # fmt: skip
        zero = zero_due(system, mine, today)
        if zero and zero.on and not is_daily(mine):
            at = mine.zero.at if mine.zero else changed
            yield Item(zero.on, "zero", words="look at the zero", urgency=zero.urgency, key=f"zero-{system.id}", changed=at, note="nothing on it: what does it show?", **about)  # fmt: skip
    for reference in references:
        if reference.due:
            today = datetime.datetime.now(datetime.UTC).date()
            words = f"to be checked{reference.checked_by and f' by {reference.checked_by}'}"
            yield Item(reference.due, "reference", reference.name, "", words, by_days(reference.due, today), f"reference-{reference.id}", note=words)  # fmt: skip


def is_daily(known: Known) -> bool:
    """Whether the zero is looked at every day, which no calendar has to say."""
    return any(
        one.purpose == Interval.Purpose.ZERO and one.kind == Interval.Kind.DAYS and one.every <= DAILY
        for one in known.intervals
    )


def month(
    systems: Sequence[System], known: dict[UUID, Known], references: Sequence[Reference], first_day: datetime.date
) -> Answer:
    """A month: every day that holds something, and what should have been done before it and was not."""
    last = first_day.replace(day=calendar.monthrange(first_day.year, first_day.month)[1])
    days: dict[datetime.date, list[Answer]] = {}
    late = []
    for item in sorted(items(systems, known, references), key=lambda one: (one.day, one.site, one.name)):
        if first_day <= item.day <= last:
            days.setdefault(item.day, []).append(item.view())
        elif item.day < first_day and item.urgency == "overdue":
            today = today_at("UTC")
            late.append(item.view() | {"words": due_words(item.day, today)})
    return {
        "month": f"{first_day:%Y-%m}",
        "days": [{"day": day, "items": listed} for day, listed in days.items()],
        "late": late,
        "daily": sum(1 for one in known.values() if is_daily(one)),
    }


TITLES = {"due": "Calibrate {}", "planned": "Visit {}", "zero": "Zero of {}", "reference": "{}: check due"}


def feed(found: Iterator[Item], name: str) -> bytes:
    """An iCalendar file: the same bytes for as long as nothing was decided anew."""
    host = urlsplit(settings.PUBLIC_URL).hostname or "localhost"
    written = Calendar()
    written.add("prodid", "-//Wary Beacon//round//EN")
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
