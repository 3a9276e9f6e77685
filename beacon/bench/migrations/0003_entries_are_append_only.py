from django.db import migrations

FORBID = """
create function beacon_refuse_change() returns trigger language plpgsql as $$
begin
  raise exception 'rows of % are append-only: % is refused', tg_table_name, tg_op;
end $$;
create trigger append_only before update or delete on bench_entry
  for each row execute function beacon_refuse_change();
"""
ALLOW = """
drop trigger append_only on bench_entry;
drop function beacon_refuse_change();
"""


class Migration(migrations.Migration):
    """The database itself refuses to change or remove an entry."""

    dependencies = [("bench", "0002_initial")]
    operations = [migrations.RunSQL(FORBID, ALLOW)]
