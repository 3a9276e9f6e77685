"""What fails most, by kind of machine and over time, with what it cost in minutes."""

import datetime

from django.db.models import Count, Max, Sum
from django.db.models.functions import TruncMonth
from django.utils import timezone
from pydantic import BaseModel

from beacon.people.access import here
from beacon.people.models import Person
from beacon.plant.access import systems
from beacon.plant.models import Fault
from beacon.plant.view import Answer
from wary.machines import all_machines

MOST = 60
"""So many rows of what fails are shown, those that were found most often."""


class FailsView(BaseModel):
    """A fault of a kind of machine: how often it was found, on how many machines, when last, and the minutes of those visits."""

    kind: str
    title: str
    times: int
    machines: int
    minutes: int
    last: datetime.datetime


class MonthView(BaseModel):
    month: datetime.date
    times: int
    minutes: int


class FaultsView(BaseModel):
    """What fails most, and how many faults were found in each month that had any."""

    months_back: int
    rows: list[FailsView]
    months: list[MonthView]


def what_fails(user: Person, months: int) -> Answer:
    """What was found on the machines of the organisation at hand that somebody may see, over the last so many months."""
    since = timezone.now() - datetime.timedelta(days=30.44 * months)
    found = Fault.objects.filter(system__in=systems(user), system__site__organisation=here(user), at__gte=since)
    rows = (
        found.values("system__kind", "title")
        .annotate(times=Count("id"), machines=Count("system", distinct=True), spent=Sum("minutes"), last=Max("at"))
        .order_by("-times", "-spent", "title")[:MOST]
    )
    by_month = found.annotate(month=TruncMonth("at")).values("month").annotate(times=Count("id"), spent=Sum("minutes"))
    return {
        "months_back": months,
        "rows": [
            {
                "kind": all_machines()[row["system__kind"]].title,
                "title": row["title"],
                "times": row["times"],
                "machines": row["machines"],
                "minutes": row["spent"],
                "last": row["last"],
            }
            for row in rows
        ],
        "months": [
            {"month": row["month"].date(), "times": row["times"], "minutes": row["spent"]}
            for row in by_month.order_by("month")
        ],
    }
