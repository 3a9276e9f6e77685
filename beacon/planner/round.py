"""The round a page at a time: what is wanted now first, in the order in which somebody drives."""

from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from django.db.models import (
    BooleanField,
    Case,
    Count,
    Exists,
    ExpressionWrapper,
    F,
    IntegerField,
    OuterRef,
    Q,
    QuerySet,
    Value,
    When,
)

from beacon.bench.models import Job
from beacon.people.access import works_in
from beacon.people.models import Organisation, Person
from beacon.planner.dates import keep_up
from beacon.planner.models import RoundOrder
from beacon.plant.access import with_what_a_row_shows
from beacon.plant.models import Site, System
from wary.machines import all_machines

ZERO_NOW = ("due", "overdue", "unknown")
PAGE = 100
"""How many systems a page holds."""


@dataclass(frozen=True)
class Page:
    """So many systems of a round, from one on; `wanted` and `total` count all, `places` the sites with something wanted."""

    sites: list[Site]
    systems: Sequence[System]
    wanted: int
    places: int
    total: int
    later: int | None


def open_jobs(systems: Sequence[System]) -> dict[UUID, list[Job]]:
    """The open jobs of these systems, the latest first."""
    found: dict[UUID, list[Job]] = {}
    jobs = Job.objects.filter(channel__system__in=systems, closed_at=None, practice=False)
    for job in jobs.select_related("opened_by", "channel").defer("fold").order_by("-opened_at"):
        found.setdefault(job.channel.system_id, []).append(job)
    return found


def sites_in_order(user: Person, here: Organisation) -> list[Site]:
    """The sites of an organisation in the order in which this person drives to them."""
    order = RoundOrder.objects.filter(person=user, organisation=here).first()
    places = {site: place for place, site in enumerate(order.sites if order else [])}
    sites = Site.objects.filter(organisation=here)
    return sorted(sites, key=lambda one: (places.get(str(one.id), len(places)), one.place, one.name))


def systems_here(user: Person, here: Organisation) -> QuerySet[System]:
    """The systems of the organisation at hand that this person may work on, without those for practice.

    The sites are named, few as they are: the database then knows how many systems it has to do with.
    """
    sites = Site.objects.filter(organisation=here, organisation__in=works_in(user))
    return with_what_a_row_shows(
        System.objects.filter(site__in=list(sites.values_list("pk", flat=True)), practice=False)
    )


@dataclass(frozen=True)
class Asked:
    """What a list of systems is narrowed by: words typed, a site, a kind of machine, a state on record, or only what is wanted now."""

    find: str = ""
    site: UUID | None = None
    kind: str = ""
    state: str = ""
    wanted: bool = False


def asked_for(systems: QuerySet[System], asked: Asked) -> QuerySet[System]:
    """Those of these systems."""
    same = {key: value for key, value in (("site", asked.site), ("kind", asked.kind), ("state", asked.state)) if value}
    return found_by(systems.filter(**same), asked.find)


def found_by(systems: QuerySet[System], find: str) -> QuerySet[System]:
    """Those that answer to what was typed: a name, a site, a material, a kind of machine."""
    for word in find.split()[:6]:
        kinds = [key for key, machine in all_machines().items() if word.lower() in machine.title.lower()]
        systems = systems.filter(
            Q(name__icontains=word) | Q(site__name__icontains=word) | Q(material__icontains=word) | Q(kind__in=kinds)
        )
    return systems


def page_of(user: Person, here: Organisation, after: int = 0, asked: Asked = Asked()) -> Page:
    """One page of a round, from the system in place `after` on."""
    mine = systems_here(user, here)
    keep_up(mine)
    sites = sites_in_order(user, here)
    under_way = Exists(Job.objects.filter(channel__system=OuterRef("pk"), closed_at=None, practice=False))
    at = Case(*(When(site=site, then=Value(place)) for place, site in enumerate(sites)), output_field=IntegerField())
    listed = asked_for(mine, asked).annotate(
        here_now=ExpressionWrapper(under_way | Q(dates__wanted=True), output_field=BooleanField()),
        zero_now=Case(When(dates__zero_urgency__in=ZERO_NOW, then=Value(0)), default=Value(1)),
        driven=at if sites else Value(0),
    )
    if asked.wanted:
        listed = listed.filter(here_now=True)
    counts = listed.order_by().values("here_now", "site").annotate(count=Count("pk"))
    total = sum(one["count"] for one in counts)
    wanted = [one for one in counts if one["here_now"]]
    ordered = listed.order_by(F("here_now").desc(), "zero_now", "driven", "dates__rank", "name", "pk")
    # Which they are is found with little in hand; only those of the page are then read whole.
    places = {pk: place for place, pk in enumerate(ordered.values_list("pk", flat=True)[after : after + PAGE])}
    whole = mine.filter(pk__in=list(places)).prefetch_related("events")
    rows = sorted(whole, key=lambda system: places[system.pk])
    later = after + PAGE if after + PAGE < total else None
    return Page(sites, rows, sum(one["count"] for one in wanted), len(wanted), total, later)
