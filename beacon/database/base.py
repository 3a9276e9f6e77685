"""Django's PostgreSQL backend, which looks whether the database that it comes to is still the first.

Where `DATABASE_URL` names several hosts, a connection goes to the one that takes what is written. After a replica was
promoted, the first of before may come back and take it too: it is told by its timeline, which counts promotions.
"""

import asyncio
import logging
from collections.abc import Iterator
from contextlib import suppress
from threading import Lock
from typing import Any

import psycopg
from django.db.backends.postgresql import base

from beacon.database.timeline import TIMELINE, Place, fence, fence_lost

LOG = logging.getLogger(__name__)
SECONDS = 2
LOOKS_EVERY = 3.0
"""How often the databases are looked at, s."""

_lock = Lock()
_latest: dict[str, int] = {}
_places: dict[str, list[Place]] = {}


class NotTheFirst(psycopg.OperationalError):
    """The database that was reached was the first before, and is not any more."""


class DatabaseWrapper(base.DatabaseWrapper):
    """As its base, for one host; of several, the one that was promoted last is the first, and no other is written to."""

    def _configure_connection(self, connection: Any) -> bool:
        hosts = str(self.settings_dict["HOST"])
        if "," in hosts and self.settings_dict["OPTIONS"].get("target_session_attrs") == "read-write":
            self._hold_to_the_first(connection, hosts)
        return bool(super()._configure_connection(connection))  # type: ignore[misc]

    def _hold_to_the_first(self, connection: Any, hosts: str) -> None:
        with connection.cursor() as cursor:
            here = int(cursor.execute(TIMELINE).fetchone()[0])
        connection.rollback()
        with _lock:
            if hosts not in _latest:
                # Begun while both take what is written: which of them is the first is asked of both.
                _latest[hosts] = max([here, *self._timelines()])
            latest = _latest[hosts] = max(_latest[hosts], here)
            _places[hosts] = list(self._places())
        if here < latest:
            told = f"The database at {connection.info.host}:{connection.info.port} was the first until a replica was promoted, and takes nothing any more. Make it follow the first anew: ./run replica."
            LOG.error(told)
            fence(connection)
            raise NotTheFirst(told)

    def _places(self) -> Iterator[Place]:
        """How each host is reached by itself."""
        given = self.get_connection_params() | {"connect_timeout": SECONDS, "autocommit": True}
        hosts, ports = str(given.pop("host")).split(","), str(given.pop("port", "5432")).split(",")
        given = {key: one for key, one in given.items() if key in ("user", "password", "dbname", "connect_timeout", "autocommit")}  # fmt: skip
        for place, host in enumerate(hosts):
            yield given | {"host": host, "port": ports[place % len(ports)]}

    def _timelines(self) -> Iterator[int]:
        """The timelines of all hosts that can be reached and take what is written."""
        for place in self._places():
            with suppress(psycopg.Error), psycopg.connect(**place) as other:
                found = other.execute(TIMELINE).fetchone()
                if found:
                    yield int(found[0])


async def keep_looking() -> None:
    """Looks every few seconds, until it is cancelled, whether a database that was the first before has come back.

    It is made to take nothing any more, with whoever is connected to it: this server on connections that it has, too.
    """
    while True:
        await asyncio.sleep(LOOKS_EVERY)
        for places in list(_places.values()):
            try:
                lost = await asyncio.to_thread(fence_lost, places)
            except psycopg.Error as why:
                LOG.error("a database that is not the first any more could not be told so: %s", why)
                continue
            for one in lost:
                LOG.error(
                    "The database at %s was the first until a replica was promoted, and takes nothing any more.", one
                )
