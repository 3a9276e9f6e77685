"""The round, and the page of one system."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from beacon.bench.models import Job
from beacon.people.access import person, works_in
from beacon.planner import schemas
from beacon.planner.view import system_row, system_view
from beacon.plant.access import own_systems, system_to_work_on
from beacon.plant.models import Site, System
from beacon.plant.view import Answer

router = Router(tags=["planner"])


def _open_jobs(systems: list[System]) -> dict[UUID, list[Job]]:
    found: dict[UUID, list[Job]] = {}
    jobs = Job.objects.filter(channel__system__in=systems, closed_at=None, practice=False)
    for job in jobs.select_related("opened_by", "channel").defer("fold").order_by("-opened_at"):
        found.setdefault(job.channel.system_id, []).append(job)
    return found


@router.get("round", response=schemas.RoundView)
def todays_round(request: HttpRequest) -> Answer:
    """Every site in driving order with its systems: what is open, what is due, what was done last."""
    user = person(request)
    found = own_systems(user).filter(practice=False).prefetch_related("events")
    systems = list(found.order_by("site__place", "site__name", "name"))
    jobs = _open_jobs(systems)
    sites = Site.objects.filter(organisation__in=works_in(user))
    return {
        "sites": [{"id": s.id, "name": s.name, "time_zone": s.time_zone} for s in sites.order_by("place", "name")],
        "systems": [system_row(system, jobs.get(system.id, [])) for system in systems],
    }


@router.get("systems/{system_id}", response=schemas.SystemView)
def one_system(request: HttpRequest, system_id: UUID) -> Answer:
    """One system: plates, limits, what was done on it."""
    system = system_to_work_on(person(request), system_id)
    return system_view(system, _open_jobs([system]).get(system.id, []))
