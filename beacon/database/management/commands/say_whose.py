"""`say_whose`: says of each row whose it is, where it was kept before rows said so; so many at a time, while people work."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import connection, transaction

from beacon.database.whose import ABOVE

AT_ONCE = 10_000


class Command(BaseCommand):
    help = "Fills in the organisation of rows that were kept before each said whose it is; it can be stopped, and run again."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--at-once", type=int, default=AT_ONCE, help="so many rows in one transaction")

    def handle(self, *args: Any, **options: Any) -> None:
        for table, (above, key) in ABOVE.items():
            total = 0
            while True:
                with transaction.atomic(), connection.cursor() as cursor:
                    cursor.execute(
                        f"update {table} one set organisation_id = above.organisation_id from {above} above"
                        f" where above.id = one.{key} and one.ctid = any(array(select ctid from {table} where organisation_id is null limit %s))",
                        [options["at_once"]],
                    )
                    done = cursor.rowcount
                total += done
                if done < options["at_once"]:
                    break
            if total:
                self.stdout.write(f"{table}: {total} rows")
