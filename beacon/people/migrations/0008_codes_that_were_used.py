from typing import Any

from django.core.management import call_command
from django.db import migrations


def table(apps: Any, schema_editor: Any) -> None:
    call_command("createcachetable", database=schema_editor.connection.alias, verbosity=0)


class Migration(migrations.Migration):
    dependencies = [("people", "0007_invited_by_mail")]
    operations = [migrations.RunPython(table, migrations.RunPython.noop)]
