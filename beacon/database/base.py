"""Django's PostgreSQL backend, which looks whether the database that it comes to is still the first.

Where `DATABASE_URL` names several hosts, a connection goes to the one that takes what is written. After a replica was
promoted, the first of before may come back and take it too: it is told by its timeline, which counts promotions.
"""

import logging
from collections.abc import Iterator
from contextlib import suppress
from threading import Lock
from typing import Any

import psycopg
from django.db.backends.postgresql import base
from psycopg import sql

LOG = logging.getLogger(__name__)
TIMELINE = "select ('x' || substr(pg_walfile_name(pg_current_wal_lsn()), 1, 8))::bit(32)::int"
"""How often the database that is asked, or one before it, was promoted; only the first can say."""
SECONDS = 2

_lock = Lock()
_latest: dict[str, int] = {}


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
        if here < latest:
            told = f"The database at {connection.info.host}:{connection.info.port} was the first until a replica was promoted, and takes nothing any more. Make it follow the first anew: ./run replica."
            LOG.error(told)
            fence(connection)
            raise NotTheFirst(told)

    def _timelines(self) -> Iterator[int]:
        """The timelines of all hosts that can be reached and take what is written."""
        given = self.get_connection_params() | {"connect_timeout": SECONDS, "autocommit": True}
        hosts, ports = str(given.pop("host")).split(","), str(given.pop("port", "5432")).split(",")
        given = {key: one for key, one in given.items() if key in ("user", "password", "dbname", "connect_timeout", "autocommit")}  # fmt: skip
        for place, host in enumerate(hosts):
            with (
                suppress(psycopg.Error),
                psycopg.connect(**given, host=host, port=ports[place % len(ports)]) as other,
            ):
                found = other.execute(TIMELINE).fetchone()
                if found:
                    yield int(found[0])


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
            "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()"
        )
        connection.autocommit = before
