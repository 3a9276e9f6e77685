"""When systems are wanted again, kept beside them: worked out where something changed, and once a day.

The database takes a system's dates away with whatever changes what they come from (`0003`), so
nothing has to remember to do it. Whoever then asks works them out, with the system's row locked: a
change that comes in between waits, and takes away what was worked out before it.
"""

from collections.abc import Sequence
from uuid import UUID
from zoneinfo import ZoneInfo

from django.db import transaction
from django.db.models import Q, QuerySet
from django.utils import timezone

from beacon.database.apart import at_the_first, stay_at_the_first
from beacon.planner.due import Known, dues_of, is_daily, known_of, zero_due, zero_is_off
from beacon.planner.models import Dates
from beacon.plant.models import Site, System
from beacon.plant.view import today_at
from wary.rules.due import ORDER, first

ORDERLY = ("in-order", "in-part", "limited")
WANTED = ("soon", "due", "overdue", "unknown")
AT_ONCE = 500
"""How many systems are worked out in one transaction."""


def dates_of(system: System, known: Known) -> Dates:
    """When a system is wanted again, by the day that it is at its site."""
    today = today_at(system.site.time_zone)
    due, zero = first(dues_of(system, known, today)), zero_due(system, known, today)
    assert due
    off = zero_is_off(system, known) is not None
    wanted = due.urgency in WANTED or system.state not in ORDERLY or off
    return Dates(
        system=system,
        as_of=today,
        wanted=wanted,
        rank=0 if off else ORDER.index(due.urgency),
        urgency=due.urgency,
        due_on=due.on,
        due_kind=due.kind,
        expected=due.expected,
        zero_on=zero.on if zero else None,
        zero_urgency=zero.urgency if zero else "",
        daily=is_daily(known),
    )


FIELDS = [field.name for field in Dates._meta.concrete_fields if not field.primary_key]


def _out_of_date(systems: QuerySet[System]) -> QuerySet[System]:
    """Those of which no dates of today are kept."""
    zones = Site.objects.order_by().values_list("time_zone", flat=True).distinct()
    now = timezone.now()
    fresh = Q(pk__in=[])
    for zone in zones:
        fresh |= Q(site__time_zone=zone, dates__as_of=now.astimezone(ZoneInfo(zone)).date())
    return systems.exclude(fresh)


def keep_up(systems: QuerySet[System]) -> None:
    """Works out anew the dates of those of these systems of which none of today are kept."""
    with at_the_first():
        ids = list(_out_of_date(systems).order_by("pk").values_list("pk", flat=True))
        for begin in range(0, len(ids), AT_ONCE):
            _work_out(ids[begin : begin + AT_ONCE])
    if ids:
        stay_at_the_first()


@transaction.atomic
def _work_out(ids: Sequence[UUID]) -> None:
    # Whoever is being changed just now is worked out by whoever asks next: nobody waits here.
    locked = System.objects.filter(pk__in=ids).select_for_update(of=("self",), no_key=True, skip_locked=True)
    listed = list(locked.select_related("site__organisation", "profile").order_by("pk"))
    known = known_of(listed)
    Dates.objects.bulk_create(
        [dates_of(system, known.get(system.id) or Known()) for system in listed],
        update_conflicts=True,
        update_fields=FIELDS,
        unique_fields=["system"],
    )
