"""Many chains walked at once, each by one of several processes; one that was stopped goes on where it ended."""

import multiprocessing
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from datetime import timedelta
from uuid import UUID

from django.db import connection
from django.utils import timezone

from beacon.people.models import Organisation
from beacon.records.models import Record, Verification
from beacon.records.noting import note
from beacon.records.sealing import Handed
from beacon.records.verifying import Verified, Walk, Walked
from beacon.records.walker import begin, verified

LASTS = timedelta(hours=24)
"""So long what a walk found of a chain is good enough for one that goes on."""
ALONE = 2_000
"""No more records than this are walked by one process: beginning another takes longer."""


def by_several(workers: int, go_on: bool = False) -> Walk:
    """Walks chains by so many processes, and notes what each came to.

    `go_on` leaves out those that were walked within a day, fitted, and have as many records as then. A database that
    only follows another one is walked all the same, and nothing is noted there.
    """

    def walk(organisations: Sequence[Organisation], against: dict[str, list[Handed]]) -> Walked:
        done = _walked_already() if go_on else set()
        left = [one for one in organisations if one.id not in done]
        keep = not _only_follows()
        yield from ((one, None) for one in organisations if one.id in done)
        given = [(one.id, against.get(str(one.id), [])) for one in left]
        if workers < 2 or len(left) < 2 or Record.objects.count() < ALONE:
            found = map(verified, given)
            for one, came in zip(left, found, strict=True):
                yield _noted(one, came, keep)
            return
        # A process that is begun anew shares no connection with this one.
        with ProcessPoolExecutor(workers, multiprocessing.get_context("spawn"), begin, (_address(),)) as pool:
            for one, came in zip(left, pool.map(verified, given), strict=True):
                yield _noted(one, came, keep)

    return walk


def _noted(one: Organisation, came: Verified, keep: bool) -> tuple[Organisation, Verified]:
    if keep:
        note(one, came)
    return one, came


def _walked_already() -> set[UUID]:
    latest = (
        Verification.objects.filter(who=None, at__gte=timezone.now() - LASTS)
        .order_by("organisation_id", "-at")
        .distinct("organisation_id")
        .values_list("organisation_id", "why", "records")
    )
    return {
        one for one, why, records in latest if not why and Record.objects.filter(organisation=one).count() == records
    }


def _only_follows() -> bool:
    with connection.cursor() as cursor:
        cursor.execute("select pg_is_in_recovery()")
        return bool(cursor.fetchone()[0])


def _address() -> str:
    """The name of the database that this process is at; the others are to be at the same one."""
    return str(connection.settings_dict["NAME"])
