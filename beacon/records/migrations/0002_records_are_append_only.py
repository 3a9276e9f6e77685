from django.db import migrations

FORBID = """
create trigger append_only before update or delete on records_record
  for each row execute function beacon_refuse_change();
"""
ALLOW = "drop trigger append_only on records_record;"


class Migration(migrations.Migration):
    """The database itself refuses to change or remove a sealed record."""

    dependencies = [("records", "0001_initial"), ("bench", "0003_entries_are_append_only")]
    operations = [migrations.RunSQL(FORBID, ALLOW)]
