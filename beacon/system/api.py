"""The page of one system over HTTP."""

from uuid import UUID

from django.http import HttpRequest
from ninja import Router

from beacon.people.access import person
from beacon.planner.due import Known, known_of
from beacon.planner.round import open_jobs
from beacon.plant.access import references_of, system_to_work_on
from beacon.plant.view import Answer
from beacon.system.schemas import SystemView
from beacon.system.view import system_view

router = Router(tags=["system"])


@router.get("systems/{system_id}", response=SystemView)
def one_system(request: HttpRequest, system_id: UUID) -> Answer:
    """One system: plates, limits, what was done on it."""
    user = person(request)
    system = system_to_work_on(user, system_id)
    known = known_of([system]).get(system.id) or Known()
    return system_view(system, open_jobs([system]).get(system.id, []), known, references_of(user))
