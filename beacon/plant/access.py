"""Which sites and systems someone may see. Every queryset that a request touches starts here."""

from uuid import UUID

from django.db.models import QuerySet
from django.http import Http404

from beacon.people.access import WORKING, works_in
from beacon.people.models import Organisation, Person, Role
from beacon.plant.models import Reference, Site, System


def sites(user: Person) -> QuerySet[Site]:
    """Every site of an organisation they work in; of a reader only those given."""
    # Each half begins with this person: put into one condition, every membership of every organisation is gone through.
    working = Site.objects.filter(organisation__memberships__person=user, organisation__memberships__role__in=WORKING)
    reading = Site.objects.filter(readers__person=user, readers__role=Role.READER)
    return Site.objects.filter(pk__in=working.order_by().values("pk").union(reading.order_by().values("pk")))


def systems(user: Person) -> QuerySet[System]:
    """The systems that this person may see, without those for practice.

    The sites are named, few as they are: asked for within, all systems of all organisations are put together first.
    """
    seen = list(sites(user).values_list("pk", flat=True))
    return with_what_a_row_shows(System.objects.filter(site__in=seen, practice=False))


def own_systems(user: Person) -> QuerySet[System]:
    """Systems that this person may work on, which a reader may not; those for practice among them."""
    return with_what_a_row_shows(System.objects.filter(site__organisation__in=works_in(user)))


def with_what_a_row_shows(found: QuerySet[System]) -> QuerySet[System]:
    return found.select_related("site__organisation", "profile", "reference__system")


def system_to_work_on(user: Person, system_id: UUID, lock: bool = False) -> System:
    """The system, where this person may work on it. Raises Http404 otherwise. `lock` keeps others from writing to it."""
    systems = own_systems(user).filter(id=system_id)
    found = (systems.select_for_update(of=("self",), no_key=True) if lock else systems).first()
    if found is None:
        raise Http404
    return found


def reference_in(of: QuerySet[Organisation], reference_id: UUID) -> Reference:
    found = Reference.objects.filter(organisation__in=of, id=reference_id).first()
    if found is None:
        raise Http404
    return found


def references_of(user: Person) -> list[Reference]:
    """The references of the organisations that this person works in, without those for practice."""
    return list(Reference.objects.filter(organisation__in=works_in(user), practice=False).select_related("system"))
