"""Changes to rows that are never to change, as somebody with the database's own password would make them."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection


@contextmanager
def untriggered() -> Iterator[None]:
    """The database without its triggers and foreign keys, for as long as this lasts."""
    with connection.cursor() as cursor:
        cursor.execute("set session_replication_role = replica")
        try:
            yield
        finally:
            cursor.execute("set session_replication_role = default")
