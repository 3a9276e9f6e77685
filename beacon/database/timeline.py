"""Which database is the first: of all that take what is written, the one that was promoted last. Known without Django.

A database that was the first and was lost may come back, and take what is written as before. Its timeline, which counts
promotions, tells it from the one that was promoted meanwhile.
"""

from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import psycopg
from psycopg import sql

TIMELINE = "select ('x' || substr(pg_walfile_name(pg_current_wal_lsn()), 1, 8))::bit(32)::int"
"""How often the database that is asked, or one before it, was promoted; only one that takes what is written can say."""

Place = dict[str, Any]
"""How a database is reached: what psycopg.connect takes."""


class Refused(Exception):
    """Why nothing was done, in a sentence, and what to do."""


@dataclass(frozen=True)
class Found:
    """A database that follows no other one; `fenced` where it takes nothing any more."""

    place: Place
    timeline: int
    fenced: bool

    @property
    def named(self) -> str:
        return named(self.place)


def named(place: Place) -> str:
    return f"{place['host']}:{place['port']}"


def that_follow_nobody(places: Iterable[Place]) -> list[Found]:
    """The databases that can be reached and follow no other one; the one that was promoted last comes first."""
    found = []
    for place in places:
        with suppress(psycopg.Error), psycopg.connect(**place) as there:
            row = there.execute("select pg_is_in_recovery()").fetchone()
            if row and not row[0]:
                read_only, timeline = (
                    there.execute("show default_transaction_read_only").fetchone(),
                    there.execute(TIMELINE).fetchone(),
                )
                assert read_only and timeline
                found.append(Found(place, int(timeline[0]), read_only[0] == "on"))
    return sorted(found, key=lambda one: -one.timeline)


def first_of(places: Sequence[Place]) -> Place:
    """The first, by its timeline. Raises Refused where none takes what is written, or more than one would."""
    found = that_follow_nobody(places)
    taking = [one for one in found if not one.fenced]
    if not taking:
        raise Refused(
            "No database of DATABASE_URL takes what is written. Start the first, or promote its replica: ./run promote."
        )
    latest = found[0]
    lost = [one for one in taking if one.timeline < latest.timeline]
    if len([one for one in taking if one.timeline == latest.timeline]) > 1:
        both = " and ".join(one.named for one in taking)
        raise Refused(
            f"{both} both take what is written, and neither was promoted after the other. Stop the one that no "
            "server writes to, and ask again."
        )
    if lost:
        raise Refused(
            f"Two take what is written. {latest.named} is the first: it was promoted last (timeline "
            f"{latest.timeline}). "
            f"{lost[0].named} was the first before (timeline {lost[0].timeline}), and must take nothing any more: "
            "./run replica fence, or stop it."
        )
    return latest.place


def fence_lost(places: Sequence[Place]) -> list[str]:
    """Makes every database that was the first before take nothing any more; which those were."""
    found = that_follow_nobody(places)
    lost = [one for one in found if not one.fenced and one.timeline < found[0].timeline]
    for one in lost:
        with psycopg.connect(**one.place) as there:
            fence(there)
    return [one.named for one in lost]


def fence(connection: Any) -> None:
    """Makes a database that is not the first any more refuse what is written: whoever comes to it, from wherever."""
    with suppress(psycopg.Error):
        connection.rollback()
        before, connection.autocommit = connection.autocommit, True
        # It waits for a replica that follows another one now, and would wait with this as well.
        connection.execute("set synchronous_commit = local")
        name = sql.Identifier(connection.info.dbname)
        connection.execute(sql.SQL("alter database {} set default_transaction_read_only = on").format(name))
        connection.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid "
            "<> pg_backend_pid()"
        )
        connection.autocommit = before
