"""Systems on record: adding one, and changing what is on record with a trail."""

from uuid import UUID

from django.db import transaction
from django.http import Http404, HttpRequest
from ninja import Router

from beacon.people.access import locked, organisation, person, works_in
from beacon.people.models import Role
from beacon.plant import schemas
from beacon.plant.access import system_to_work_on
from beacon.plant.keeping import SIMPLE, change_record, copied_system, new_system, site_named
from beacon.plant.models import Site, System
from beacon.plant.view import Answer, machine_view, refuse_unseen, system_record
from beacon.problems import ProblemDocument
from wary.machines import all_machines

router = Router(tags=["plant"])


@router.get("machines", response=list[schemas.MachineView])
def machines(request: HttpRequest) -> list[Answer]:
    """Every kind of machine, for a new system."""
    return [machine_view(machine) for machine in all_machines().values()]


@router.post("systems", response={201: schemas.SystemRecord, 422: ProblemDocument})
@transaction.atomic
def add_system(request: HttpRequest, given: schemas.NewSystem) -> tuple[int, Answer]:
    """A new system at a site."""
    user = person(request)
    if given.new_site.strip() and given.site is None:
        site = site_named(locked(organisation(user, Role.LEAD)), given.new_site)
    else:
        known = Site.objects.filter(id=given.site, organisation__in=works_in(user)).first() if given.site else None
        if known is None:
            raise Http404
        site = known
    return 201, system_record(new_system(user, site, given))


@router.post("systems/{system_id}/copy", response={201: schemas.SystemRecord, 422: ProblemDocument})
@transaction.atomic
def copy_system(request: HttpRequest, system_id: UUID, given: schemas.CopyIn) -> tuple[int, Answer]:
    """A further system with the plates, lists, limits and channels of this one; what is its own by number is left empty."""
    user = person(request)
    return 201, system_record(copied_system(system_to_work_on(user, system_id), given.name))


@router.patch(
    "systems/{system_id}/record",
    response={200: schemas.SystemRecord, 409: ProblemDocument, 422: ProblemDocument},
)
@transaction.atomic
def change_system(request: HttpRequest, system_id: UUID, given: schemas.SystemIn) -> Answer:
    """Changes a system's record; what was there before stays in its trail.

    What somebody else changed since the page was opened is not written over: it is said who typed what.
    """
    user = person(request)
    system = system_to_work_on(user, system_id, lock=True)
    channel = system.channels.select_for_update(of=("self",), no_key=True).first()
    shown = _shown(system, channel.factor if channel else "")
    asked = given.model_dump(exclude_unset=True, exclude={"before", "plates", "lists"}) | {
        f"plates.{key}": text for key, text in (given.plates or {}).items()
    }
    refuse_unseen(system, given.before or {}, shown, {key: str(text or "") for key, text in asked.items()})
    change_record(user, system, given)
    return system_record(system)


def _shown(system: System, factor: str) -> dict[str, str]:
    """What a page shows of a system's record, by the paths under which it is changed."""
    plain = {key: str(getattr(system, key)) for key in (*SIMPLE, "nominal_factor", "interval_days")}
    named = {key: str(getattr(system, f"{key}_id") or "") for key in ("reference", "instrument")}
    plates = {f"plates.{key}": str(text) for key, text in system.plates.items()}
    return plain | named | plates | {"profile": system.profile.key, "factor": factor}
