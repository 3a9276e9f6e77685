"""Migrations that the version before can live with: it goes on while the database is brought up, and after a way back.

What they may do is add. A column that is taken away, renamed or made strict, or a table that is rewritten row by row
while people wait, is found here; what has to be so all the same is named, with why.
"""

import io
import re
import threading
from typing import Any
from unittest import mock

from django.apps import apps
from django.core.management import call_command
from django.db import OperationalError, connection, connections, models, transaction
from django.db.migrations import operations as ops
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.state import ProjectState
from django.db.models.functions import Coalesce
from django.test import SimpleTestCase

from beacon.database.management.commands import migrate
from beacon.database.operations import IndexBeside, OneTable
from tests.emptied import EmptiedTestCase
from tests.server.plant import Plant, entries
from tests.server.together import send

SINCE = {
    "people": "0006", "plant": "0008", "links": "0001", "bench": "0012", "papers": "0004", "records": "0007", "loads": "0002",
    "planner": "0003", "practice": "0002", "programs": "0001", "mail": "0001", "archive": "0001",
}  # fmt: skip
"""The latest of each when this began to be looked at."""
LARGE = {"entry", "record"}
"""Tables of which there are millions of rows: nothing is worked out over all of them while people wait."""
LOCKED = re.compile(
    r"""alter\ table\ "?(?P<altered>\w+)"?\ .*?(?P<what>alter\ column\ "?\w+"?\ type|set\ not\ null|add\ column\ (?!.*\bdefault\b).*?\ not\ null
        |add\ constraint\ .*?\ (?:check|unique|foreign\ key|primary\ key)(?!.*\ not\ valid))
      |update\ "?(?P<updated>\w+)"?\ set
      |create\ (?:unique\ )?index\ (?!concurrently).*?\ on\ "?(?P<indexed>\w+)"?
      |vacuum\ full\ "?(?P<rewritten>\w+)"?|cluster\ "?(?P<clustered>\w+)"?""",
    re.IGNORECASE | re.DOTALL | re.VERBOSE,
)
"""What reads or writes each row of a table while nobody else can write to it."""
ADDING = (ops.CreateModel, ops.AddField, ops.AddIndex, ops.AddConstraint, ops.AlterModelOptions, ops.AlterModelManagers)
ALLOWED = {
    ("people", "0007_invited_by_mail"): "the version before invites whom it knows, and keeps one invitation of each in either shape",
    ("people", "0008_codes_that_were_used"): "makes a table of the cache, where there is none",
    ("bench", "0013_fewer_indexes"): "takes indexes away that another one begins with; the version before finds by that one too",
    ("bench", "0014_what_is_known_of_chances"): "counts the visits to each machine into a column that the version before does not name",
    ("database", "0001_whose"): "adds a column that may be empty and that the database fills in; the version before does not name it",
    ("records", "0009_fewer_indexes"): "the same; and what is written from now on is compressed otherwise, which whoever reads does not see",
}  # fmt: skip


def harm(operation: ops.base.Operation) -> str:
    """What an operation does to the version before; nothing where it only adds what that can leave empty."""
    if isinstance(operation, ops.AddField):
        field = operation.field
        strict = not field.null and not field.has_db_default() and not field.many_to_many
        return f"adds {operation.model_name}.{operation.name}, which it does not fill in" if strict else ""
    if isinstance(operation, ops.AlterField):
        # More choices, or nothing that has to be there any more.
        field = operation.field
        return (
            ""
            if field.null or field.choices or getattr(field, "base_field", field).choices
            else f"changes {operation.model_name}.{operation.name}"
        )
    if isinstance(operation, IndexBeside):
        return ""
    if isinstance(operation, ops.AddIndex | ops.AddConstraint) and operation.model_name.lower() in LARGE:
        return f"reads all of {operation.model_name} while it is locked; add it concurrently"
    return "" if isinstance(operation, ADDING) else f"{type(operation).__name__} ({operation.describe()})"


def rewritten(statement: str, large: set[str]) -> str:
    """The large table that a statement goes through row by row while it is locked; nothing where it touches none so."""
    for found in LOCKED.finditer(statement):
        table = next(one for name, one in found.groupdict().items() if one and name != "what")
        if table.lower() in large:
            return table
    return ""


class Migrations(SimpleTestCase):
    databases = {"default"}

    def test_each_since_then_only_adds_what_the_version_before_can_leave_empty(self) -> None:
        looked_at = 0
        for (app, name), migration in MigrationLoader(connection).disk_migrations.items():
            if not migration.__module__.startswith("beacon.") or name[:4] <= SINCE.get(app, "0000"):
                continue
            looked_at += 1
            found = [text for text in map(harm, migration.operations) if text]
            if (app, name) not in ALLOWED:
                self.assertEqual(found, [], f"{app} {name}")
        self.assertGreater(looked_at, 5)

    def test_none_goes_through_millions_of_rows_while_people_wait(self) -> None:
        loader = MigrationLoader(connection)
        large = {model._meta.db_table for model in apps.get_models() if model._meta.model_name in LARGE}
        self.assertEqual(len(large), len(LARGE))
        looked_at = 0
        for (app, name), migration in loader.disk_migrations.items():
            if not migration.__module__.startswith("beacon.") or name[:4] <= SINCE.get(app, "0000"):
                continue
            if any(isinstance(one, ops.RunPython) for one in migration.operations):
                continue
            looked_at += 1
            found = [text for one in loader.collect_sql([(migration, False)]) if (text := rewritten(one, large))]
            self.assertEqual(found, [], f"{app} {name}")
        self.assertGreater(looked_at, 5)

    def test_a_table_that_is_rewritten_is_told_from_one_that_is_not(self) -> None:
        for statement, tells in (
            ('ALTER TABLE "bench_entry" ALTER COLUMN "id" TYPE bigint USING "id"::bigint', True),
            ('ALTER TABLE "bench_entry" ADD COLUMN "x" integer NULL', False),
            ('ALTER TABLE "bench_entry" ADD COLUMN "x" varchar(3) DEFAULT \'\' NOT NULL', False),
            ('ALTER TABLE "bench_entry" ADD COLUMN "x" integer NOT NULL', True),
            ('ALTER TABLE "bench_entry" ALTER COLUMN "x" SET NOT NULL', True),
            ('ALTER TABLE "bench_entry" ADD CONSTRAINT "x" CHECK ("sequence" > 0)', True),
            ('ALTER TABLE "bench_entry" ADD CONSTRAINT "x" CHECK ("sequence" > 0) NOT VALID', False),
            ('CREATE INDEX "x" ON "bench_entry" ("text")', True),
            ('CREATE INDEX CONCURRENTLY "x" ON "bench_entry" ("text")', False),
            ("UPDATE bench_entry SET text = ''", True),
            ('ALTER TABLE "mail_wish" ALTER COLUMN "hour" TYPE bigint', False),
        ):
            self.assertEqual(bool(rewritten(statement, {"bench_entry"})), tells, statement)

    def test_a_harm_is_told_from_an_addition(self) -> None:
        for operation, tells in (
            (ops.AddField("job", "x", models.CharField(max_length=3)), True),
            (ops.AddField("job", "x", models.CharField(max_length=3, db_default="")), False),
            (ops.AddField("job", "x", models.IntegerField(null=True)), False),
            (ops.RemoveField("job", "x"), True),
            (ops.RenameField("job", "x", "y"), True),
            (ops.DeleteModel("job"), True),
            (ops.RunSQL("update bench_entry set text = ''"), True),
            (ops.AlterField("job", "x", models.IntegerField()), True),
            (ops.AddIndex("entry", models.Index(fields=["text"], name="x")), True),
            (ops.AddIndex("job", models.Index(fields=["text"], name="x")), False),
        ):
            self.assertEqual(bool(harm(operation)), tells, operation.describe())


class BesidePeople(EmptiedTestCase):
    """What a migration does while others work: it stands in nobody's way for long, and goes on where it was stopped."""

    def test_a_table_that_is_in_use_is_waited_for_shortly_and_tried_again(self) -> None:
        held, go_on = threading.Event(), threading.Event()

        def holds() -> None:
            with transaction.atomic(), connection.cursor() as cursor:
                cursor.execute("lock table mail_wish in access exclusive mode")
                held.set()
                go_on.wait(20)
            connections.close_all()

        beside = threading.Thread(target=holds)
        beside.start()
        self.assertTrue(held.wait(20))
        tried = []

        def handle(*given: Any, **more: Any) -> None:
            tried.append(1)
            if len(tried) == 2:
                go_on.set()
                beside.join()
            with connection.cursor() as cursor:
                cursor.execute("alter table mail_wish alter column hour set default 6")
                cursor.execute("alter table mail_wish alter column hour drop default")

        said = io.StringIO()
        with (
            mock.patch.object(migrate.Migrate, "handle", side_effect=handle),
            mock.patch.object(migrate, "LONGEST", "200ms"),
            mock.patch.object(migrate, "BETWEEN", 0.0),
        ):
            call_command("migrate", stderr=said, verbosity=0)
        self.assertEqual(len(tried), 2)
        self.assertIn("those who work go first", said.getvalue())
        with (
            mock.patch.object(migrate.Migrate, "handle", side_effect=OperationalError("the disk is full")),
            self.assertRaises(OperationalError),
        ):
            call_command("migrate", verbosity=0)
        connection.close()

    def test_an_index_that_was_left_half_made_is_made_anew(self) -> None:
        index = models.Index(Coalesce("kept_at", "at"), name="faults_as_they_were_kept")
        state = ProjectState.from_apps(apps)
        with connection.schema_editor(atomic=False) as editor:
            IndexBeside("fault", index).database_forwards("plant", editor, state, state)
        with connection.cursor() as cursor:
            cursor.execute("select indisvalid from pg_index where indexrelid = 'faults_as_they_were_kept'::regclass")
            self.assertEqual(cursor.fetchall(), [(True,)])

    def test_one_that_was_stopped_between_two_tables_goes_on_with_the_next(self) -> None:
        done = OneTable("select 1 / 0", "select 1", "select true")
        to_do = OneTable(
            "create table of_a_test (id int)", "drop table of_a_test", "select to_regclass('of_a_test') is not null"
        )
        state = ProjectState.from_apps(apps)
        for _ in range(2):
            with connection.schema_editor(atomic=False) as editor:
                for one in (done, to_do):
                    one.database_forwards("plant", editor, state, state)
        for _ in range(2):
            with connection.schema_editor(atomic=False) as editor:
                to_do.database_backwards("plant", editor, state, state)
        with connection.cursor() as cursor:
            cursor.execute("select to_regclass('of_a_test') is null")
            self.assertEqual(cursor.fetchone(), (True,))

    def test_whoever_waits_for_a_row_is_told_before_their_page_gives_up(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("show lock_timeout")
            self.assertEqual(cursor.fetchone(), ("20s",))
        plant = Plant("Gannet Ness")
        self.client.force_login(plant.technician)
        job, held, go_on = plant.job(), threading.Event(), threading.Event()

        def holds() -> None:
            with transaction.atomic(), connection.cursor() as cursor:
                cursor.execute("select 1 from bench_job where id = %s for update", [job.pk])
                held.set()
                go_on.wait(20)
            connections.close_all()

        beside = threading.Thread(target=holds)
        beside.start()
        self.assertTrue(held.wait(20))
        with connection.cursor() as cursor:
            cursor.execute("set lock_timeout = '200ms'")
        answer = send(self.client, f"/api/jobs/{job.pk}/entries", entries({"note": "x"}))
        go_on.set()
        beside.join()
        self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "2"))
        connection.close()
        self.assertEqual(send(self.client, f"/api/jobs/{job.pk}/entries", entries({"note": "x"})).status_code, 200)
