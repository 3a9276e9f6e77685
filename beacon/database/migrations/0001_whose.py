from django.db import migrations

from beacon.database.operations import OneTable
from beacon.database.whose import FILL, FORGET, THERE, written

REFUSE = """
create or replace function beacon_refuse_change() returns trigger language plpgsql as $$
begin
  {may}raise exception 'rows of % are append-only: % is refused', tg_table_name, tg_op;
end $$
"""
MAY = """-- Whose a row is may be said once, of one that was kept before rows said so.
  if tg_op = 'UPDATE' and tg_table_name in ('bench_entry', 'papers_latepaper') then
    if to_jsonb(old)->>'organisation_id' is null and to_jsonb(new) - 'organisation_id' = to_jsonb(old) - 'organisation_id' then
      return new;
    end if;
  end if;
  """


class Migration(migrations.Migration):
    """Each row says whose it is; what is there already is left as it stands, until `manage.py say_whose` fills it in."""

    # A table at a time: in one transaction all of them were locked until the last was done.
    atomic = False
    dependencies = [
        ("accounts", "0001_initial"),
        ("papers", "0004_attachments"),
        ("bench", "0013_fewer_indexes"),
        ("loads", "0002_load_taken_out_watch"),
        ("planner", "0003_dates_go_with_what_they_come_from"),
        ("plant", "0008_limits_of_looks"),
        ("practice", "0002_scenarios"),
        ("programs", "0002_machines"),
    ]

    operations = [
        *(
            OneTable(fill, forget, there)
            for (_, fill), (_, forget), (_, there) in zip(written(FILL), written(FORGET), written(THERE), strict=True)
        ),
        migrations.RunSQL(REFUSE.format(may=MAY), REFUSE.format(may="")),
    ]
