"""Keeping loads: numbers that nobody else takes, and a file that comes in whole or not at all."""

import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Case, Max, QuerySet, Value, When
from django.db.models.functions import Greatest, Least
from django.utils import timezone

from beacon.loads.models import Load
from beacon.people.models import Person
from beacon.plant.models import Channel, System
from beacon.problems import Problem
from wary.loads import kg_of, loads_in
from wary.quantities import FAMILIES


def unit_of(system: System) -> str:
    """The unit in which its loads are spoken of: that of the latest one, or the usual one of its kind."""
    loads = Load.objects.filter(channel__system=system).exclude(indicated="").order_by("-number")
    spoken = (loads.values_list("indicated", flat=True).first() or "").rpartition(" ")[2]
    return spoken if spoken in FAMILIES["mass"] else system.machine.usual_mass(system.plates)


def locked(channel: Channel) -> Channel:
    """The channel's row is locked, so that no two loads take the same number."""
    Channel.objects.select_for_update(no_key=True).get(pk=channel.pk)
    return channel


def next_number(channel: Channel) -> int:
    return (Load.objects.filter(channel=channel).aggregate(most=Max("number"))["most"] or 0) + 1


NEVER, ALWAYS = (
    datetime.datetime(1, 1, 3, tzinfo=datetime.UTC),
    datetime.datetime(9999, 12, 29, tzinfo=datetime.UTC),
)
"""The ends of what Python's times hold; PostgreSQL's go further."""


def readable(loads: Any) -> QuerySet[Load]:
    """Loads with `start` and `end`, also those whose times came in before it was looked at what a clock shows.

    Such a time is read as the end of what can be read; `on_the_clock` says that it is none.
    """
    return loads.defer("started_at", "ended_at").annotate(
        start=Least(Greatest("started_at", Value(NEVER)), Value(ALWAYS)),
        end=Case(When(ended_at=None, then=None), default=Least(Greatest("ended_at", Value(NEVER)), Value(ALWAYS))),
    )


def on_the_clock(at: datetime.datetime | None) -> datetime.datetime | None:
    """A time that was read; None for one that no clock shows."""
    return at if at and NEVER < at < ALWAYS else None


@transaction.atomic
def bring_in(user: Person, system: System, of: Channel, content: bytes) -> int:
    """Brings the loads of a CSV file in, and says how many; all of them, or none with each refused row by its line.

    Raises Refused where a row cannot be read, and Problem 422 where a number is taken.
    """
    locked(of)
    rows = loads_in(content, unit_of(system), ZoneInfo(system.site.time_zone), timezone.now())
    taken = set(
        Load.objects.filter(channel=of, number__in=[r.number for r in rows if r.number]).values_list(
            "number", flat=True
        )
    )
    seen: set[int] = set()
    wrong = []
    for row in rows:
        if row.number is not None and (row.number in taken or row.number in seen):
            wrong.append({"path": f"line {row.line}, number", "text": f"there is a load {row.number} already"})
        seen.add(row.number or 0)
    if wrong:
        raise Problem(422, "These loads cannot be brought in", "Nothing was changed.", wrong)
    number = max(next_number(of) - 1, *seen, 0)
    loads = []
    for row in rows:
        if row.number is None:
            number += 1
        loads.append(
            Load(
                channel=of, number=row.number or number, state=Load.State.STORED if row.indicated else Load.State.OPEN, how=Load.How.IMPORTED,
                started_at=row.start, ended_at=row.end, indicated=row.indicated, mass=kg_of(row.indicated), operator=row.operator,
                destination=row.destination, material=row.material, ticket=row.ticket, ticket_mass=kg_of(row.ticket), moved=row.moved, by=user,
            )
        )  # fmt: skip
    Load.objects.bulk_create(loads, batch_size=2000)
    return len(loads)
