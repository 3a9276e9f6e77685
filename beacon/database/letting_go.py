"""The connection to the database is given back while something else takes long: there are few of them."""

from django.db import connection


def let_go() -> None:
    """Gives this thread's connection back, where nothing is under way on it; the next question takes another one."""
    if connection.connection is not None and not connection.in_atomic_block:
        connection.close()
