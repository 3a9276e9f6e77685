"""`migrate`: Django's own, that lets those who work go first: it waits for no lock for long, and tries again."""

import time
from typing import Any

from django.core.management.base import CommandError
from django.core.management.commands.migrate import Command as Migrate
from django.db import OperationalError, connections
from psycopg import errors

LONGEST = "3s"
"""So long it stands in line for a table; whoever comes meanwhile stands behind it, and waits as long at most."""
TRIES, BETWEEN = 30, 2.0
"""How often it tries, and the s between, so that who waited goes first."""


class Command(Migrate):
    """Django's own, with short locks."""

    def handle(self, *given: Any, **options: Any) -> None:
        """Migrates.

        What was done by then stays done where it tries again. Raises CommandError where it never got its turn.
        """
        connection = connections[options["database"]]
        for _ in range(TRIES):
            with connection.cursor() as cursor:
                cursor.execute(f"set lock_timeout = '{LONGEST}'")
            try:
                super().handle(*given, **options)
                return
            except OperationalError as wrong:
                if not isinstance(wrong.__cause__, errors.LockNotAvailable):
                    raise
                self.stderr.write("A table is in use; those who work go first, and it is tried again.")
                connection.close()
                time.sleep(BETWEEN)
        raise CommandError("Tables are in use all the time. Nothing is half done: try again when less is going on.")
