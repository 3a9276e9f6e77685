"""What migrations do beside people who work: a table at a time, again where they were stopped, and never in their way
for long."""

from collections.abc import Callable
from typing import Any

from django.contrib.postgres.operations import AddIndexConcurrently
from django.db import transaction
from django.db.backends.base.schema import BaseDatabaseSchemaEditor
from django.db.migrations.operations import RunSQL
from django.db.migrations.state import ProjectState


class IndexBeside(AddIndexConcurrently):
    """An index that is made while others write; one that was left half made is made anew."""

    def database_forwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, from_state: ProjectState, to_state: ProjectState
    ) -> None:
        """Makes it. It waits for those who were writing when it began, however long: it holds nobody up."""
        if schema_editor.collect_sql:
            super().database_forwards(app_label, schema_editor, from_state, to_state)
            return
        quoted = schema_editor.quote_name(self.index.name)
        with schema_editor.connection.cursor() as cursor:
            cursor.execute("show lock_timeout")
            (before,) = cursor.fetchone()
            cursor.execute("set lock_timeout = 0")
            cursor.execute(f"drop index concurrently if exists {quoted}")
            try:
                super().database_forwards(app_label, schema_editor, from_state, to_state)
            finally:
                cursor.execute(f"set lock_timeout = '{before}'")


class OneTable(RunSQL):
    """What is done to one table, in a transaction of its own: it is locked no longer than that takes, and once.

    `there` is a question whose answer is true where it was done already, so that a migration that was stopped between
    two tables goes on with the next.
    """

    def __init__(self, sql: str, reverse_sql: str, there: str) -> None:
        super().__init__(sql, reverse_sql)
        self.there = there

    def deconstruct(self) -> tuple[str, list[Any], dict[str, Any]]:
        """How it is written down."""
        return type(self).__qualname__, [], {"sql": self.sql, "reverse_sql": self.reverse_sql, "there": self.there}

    def database_forwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, from_state: ProjectState, to_state: ProjectState
    ) -> None:
        """Does it, where it was not done."""
        self._unless(True, super().database_forwards, app_label, schema_editor, from_state, to_state)

    def database_backwards(
        self, app_label: str, schema_editor: BaseDatabaseSchemaEditor, from_state: ProjectState, to_state: ProjectState
    ) -> None:
        """Takes it back, where it was done."""
        self._unless(False, super().database_backwards, app_label, schema_editor, from_state, to_state)

    def _unless(
        self,
        so: bool,
        way: Callable[..., None],
        app_label: str,
        schema_editor: BaseDatabaseSchemaEditor,
        *states: ProjectState,
    ) -> None:
        if schema_editor.collect_sql:
            way(app_label, schema_editor, *states)
            return
        with transaction.atomic(schema_editor.connection.alias):
            with schema_editor.connection.cursor() as cursor:
                cursor.execute(self.there)
                found = cursor.fetchone()
            if bool(found and found[0]) != so:
                way(app_label, schema_editor, *states)
