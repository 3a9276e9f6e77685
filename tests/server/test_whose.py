"""Each row that belongs to an organisation says which, by itself or by the database."""

import io
import re

from django.apps import apps
from django.core.management import call_command
from django.db import DatabaseError, connection, transaction

from beacon.bench.models import Entry
from beacon.database.whose import ABOVE
from tests.server.plant import PlantTestCase, enter, runs
from tests.server.tampering import untriggered
from tests.server.test_closing import IN_ORDER
from tests.server.test_isolation import Isolation

NOBODYS = {
    # People may belong to several organisations, and these to a person or to this very server.
    "people_organisation", "people_person", "people_device", "people_signintry", "people_ratecount",
    "records_sealcount", "records_restored", "accounts_ownlink",
}  # fmt: skip


class Whose(PlantTestCase):
    def columns(self, table: str) -> set[str]:
        with connection.cursor() as cursor:
            cursor.execute("select column_name from information_schema.columns where table_name = %s", [table])
            return {name for (name,) in cursor.fetchall()}

    def test_every_table_says_whose_its_rows_are_or_is_nobodys(self) -> None:
        found = 0
        for model in apps.get_models():
            table = model._meta.db_table
            if not model.__module__.startswith("beacon.") or table in NOBODYS:
                continue
            found += 1
            self.assertIn(
                "organisation_id", self.columns(table), f"{table}: name it in beacon.database.whose, and add it"
            )
        self.assertGreater(found, 40)

    def test_above_stands_before_what_hangs_from_it(self) -> None:
        seen: set[str] = set()
        for table, (above, _) in ABOVE.items():
            self.assertTrue(above in seen or above not in ABOVE, table)
            seen.add(table)

    def test_what_was_kept_before_is_filled_in_a_part_at_a_time_and_nothing_else_of_it_changes(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, runs(IN_ORDER))
        before = list(Entry.objects.filter(job=job).order_by("pk").values())
        with untriggered(), connection.cursor() as cursor:
            for table in ("bench_entry", "bench_job", "plant_system"):
                cursor.execute(f"update {table} set organisation_id = null")
        call_command("say_whose", "--at-once", "7", stdout=io.StringIO())
        with connection.cursor() as cursor:
            for table in ("bench_entry", "bench_job", "plant_system"):
                cursor.execute(f"select count(*) from {table} where organisation_id is null")
                self.assertEqual(cursor.fetchone()[0], 0, table)
            cursor.execute("select distinct organisation_id from bench_entry where job_id = %s", [job.pk])
            self.assertEqual(cursor.fetchall(), [(self.plant.organisation.pk,)])
        self.assertEqual(list(Entry.objects.filter(job=job).order_by("pk").values()), before)
        for change in ("organisation_id = gen_random_uuid()", "organisation_id = null", "text = 'x', organisation_id = organisation_id"):  # fmt: skip
            with self.assertRaises(DatabaseError), transaction.atomic(), connection.cursor() as cursor:
                cursor.execute(f"update bench_entry set {change} where job_id = %s", [job.pk])


class OfEach(Isolation):
    """The rows of every kind that the isolation tests make."""

    def test_each_row_says_the_organisation_that_it_hangs_from(self) -> None:
        filled = 0
        with connection.cursor() as cursor:
            for table, (above, key) in ABOVE.items():
                cursor.execute(f"select count(*), count(*) filter (where one.organisation_id = above.organisation_id) from {table} one join {above} above on above.id = one.{key}")  # fmt: skip
                rows, right = cursor.fetchone()
                self.assertEqual(rows, right, table)
                filled += rows > 0
        self.assertGreater(filled, 8)


# Its own tests run where they stand.
for _name in [name for name in dir(OfEach) if re.match("test_(?!each_row)", name)]:
    setattr(OfEach, _name, None)
del Isolation
