"""What is done at the desk: jobs to write up, a week of the organisation, and a customer's machines with what is out."""

import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.db.models import F, QuerySet

from beacon.bench.done import title_of
from beacon.bench.models import Job
from beacon.people.models import Organisation, Person
from beacon.planner.dates import keep_up
from beacon.planner.due import Known, dues_of, known_of
from beacon.planner.left import left_in
from beacon.planner.round import systems_here
from beacon.plant.models import Fault, Reference, System
from beacon.plant.view import Answer, home_zone, today_at
from wary.job.closing import state_in_words
from wary.rules.assessment import LEAVE
from wary.rules.due import first

MOST = 300
SOON = datetime.timedelta(days=30)
IN_ORDER = ("in-order", "in-part")
"""States in which a machine is not out."""
PROVISIONAL = ("provisional", "not-confirmed")


def to_write_up(user: Person, here: Organisation) -> list[Answer]:
    """The open jobs of an organisation: one's own first, of those the ones whose call says that they are done."""
    jobs = Job.objects.filter(channel__system__site__organisation=here, closed_at=None, practice=False)
    jobs = jobs.select_related("channel__system__site", "opened_by").defer("fold").order_by("opened_at")[:MOST]
    rows = [
        {
            "job": job.id,
            "system": job.channel.system.name,
            "site": job.channel.system.site.name,
            "time_zone": job.channel.system.site.time_zone,
            "title": title_of(job.method),
            "headline": job.headline,
            "call": job.call,
            "down": job.down,
            "opened_at": job.opened_at,
            "opened_by": str(job.opened_by),
            "mine": job.opened_by_id == user.pk,
            "ready": job.call == LEAVE,
        }
        for job in jobs
    ]
    return sorted(rows, key=lambda row: (not row["mine"], not row["ready"]))


def monday_of(day: datetime.date) -> datetime.date:
    """The Monday of a day's week."""
    return day - datetime.timedelta(days=day.weekday())


def week_of(user: Person, here: Organisation, monday: datetime.date) -> Answer:
    """A week of an organisation: what was done and found in it; what is overdue, provisional and running out now."""
    zone = home_zone(here.pk)
    begin, end = (
        datetime.datetime.combine(day, datetime.time(), ZoneInfo(zone))
        for day in (monday, monday + datetime.timedelta(days=7))
    )
    mine = systems_here(user, here)
    keep_up(mine)
    today = today_at(zone)
    # What was closed was sealed at that moment; the organisation's records are found by it.
    done = Job.objects.filter(
        channel__system__in=mine, record__organisation=here, record__sealed_at__gte=begin, record__sealed_at__lt=end
    )
    faults = Fault.objects.filter(system__in=mine, at__gte=begin, at__lt=end).select_related("system__site")
    late = mine.filter(dates__due_on__lt=today).order_by("dates__due_on", "name")
    out = mine.filter(state__in=PROVISIONAL).order_by("site__place", "name")
    references = Reference.objects.filter(organisation=here, practice=False, due__lt=today + SOON).order_by("due")
    return {
        "monday": monday,
        "done": _done(done),
        "done_count": done.count(),
        "overdue": [_system(one, one.due_on) for one in late.annotate(due_on=F("dates__due_on"))[:MOST]],
        "overdue_count": late.count(),
        "provisional": [_system(one) for one in out[:MOST]],
        "faults": [
            {"system": one.system_id, "name": one.system.name, "site": one.system.site.name, "title": one.title, "put_right": one.put_right, "at": one.at}
            for one in faults.order_by("at")[:MOST]
        ],
        "references": [{"id": one.id, "name": one.name, "due": one.due, "overdue": bool(one.due and one.due < today)} for one in references[:MOST]],
        "left_behind": list(left_in(here)),
    }  # fmt: skip


def _done(jobs: QuerySet[Job]) -> list[Answer]:
    rows = (
        jobs.select_related("channel__system__site", "record")
        .defer("fold", "record__content")
        .order_by("record__sealed_at")
    )
    return [
        {
            "record": job.record.id,
            "number": job.record.number,
            "system": job.channel.system_id,
            "name": job.channel.system.name,
            "site": job.channel.system.site.name,
            "title": title_of(job.method),
            "outcome": (job.summary or {}).get("outcome") or (job.closing or {}).get("words", ""),
            "closed_at": job.closed_at,
            "by": (job.summary or {}).get("closed_by", ""),
        }
        for job in rows[:MOST]
    ]


def _system(system: System, due: datetime.date | None = None) -> Answer:
    return {
        "system": system.id,
        "name": system.name,
        "site": system.site.name,
        "state_words": state_in_words(system.recorded_state, system.last),
        "due": due,
    }


def portfolio(listed: list[System]) -> list[Answer]:
    """When each of these machines is due, whether it is out, and its last record."""
    known = known_of(listed)
    rows = []
    for system in listed:
        due = first(dues_of(system, known.get(system.id) or Known(), today_at(system.site.time_zone)))
        assert due
        last: dict[str, Any] = system.last or {}
        rows.append(
            {
                "system": system.id,
                "name": system.name,
                "site": system.site.name,
                "site_id": system.site_id,
                "due": due.on,
                "words": due.words,
                "urgency": due.urgency,
                "state_words": state_in_words(system.recorded_state, system.last),
                "out": system.state not in IN_ORDER,
                "record": last.get("record"),
                "done_on": last.get("closed_at"),
            }
        )
    return rows
