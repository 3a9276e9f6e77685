"""What fails most, by kind of machine and over time, with what it cost in minutes."""

import datetime

from django.db.models import Count, IntegerField, Max, Sum
from django.db.models.fields.json import KeyTextTransform
from django.db.models.functions import Cast, TruncMonth
from django.utils import timezone
from pydantic import BaseModel

from beacon.people.access import here
from beacon.people.models import Person
from beacon.plant.access import systems
from beacon.plant.models import Fault
from beacon.plant.view import Answer
from wary.machines import all_machines
from wary.suspects.chances import before, in_words
from wary.suspects.suspect import Known, Past

MOST = 60
"""So many rows of what fails are shown, those that were found most often."""


class FailsView(BaseModel):
    """A fault of a kind of machine: how often it was found, on how many machines, when last, the minutes of those visits.

    `chance` is how likely it is at the next one, in words; empty where it is of no list, or nobody was there since visits are counted.
    """

    kind: str
    title: str
    times: int
    machines: int
    minutes: int
    last: datetime.datetime
    chance: str


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
    visited = (
        systems(user)
        .filter(site__organisation=here(user))
        .values("kind")
        .annotate(n=Sum(Cast(KeyTextTransform("visits", "past"), IntegerField())))
    )
    visits = {one["kind"]: one["n"] or 0 for one in visited}
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
                "chance": _chance(row["system__kind"], row["title"], row["times"], visits.get(row["system__kind"], 0)),
            }
            for row in rows
        ],
        "months": [
            {"month": row["month"].date(), "times": row["times"], "minutes": row["spent"]}
            for row in by_month.order_by("month")
        ],
    }


def _chance(kind: str, title: str, times: int, visits: int) -> str:
    """How likely a fault is at the next visit to a machine of its kind, in words, by what was found over this time."""
    suspect = next((one for one in all_machines()[kind].all_suspects() if one.title == title), None)
    if suspect is None or not visits:
        return ""
    past = Past(visits_alike=max(visits, times), found_alike={suspect.key: times})
    return in_words(before(suspect, Known(past=past)))
