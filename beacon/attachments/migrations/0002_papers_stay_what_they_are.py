from django.db import migrations

FORBID = """
create function beacon_refuse_other_file() returns trigger language plpgsql as $$
begin
  if tg_op = 'UPDATE' and (new.id, new.organisation_id, new.job_id, new.reference_id, new.path, new.name, new.kind,
      new.size, new.sha256, new.sent_sha256, new.who_id, new.at) is not distinct from (old.id, old.organisation_id,
      old.job_id, old.reference_id, old.path, old.name, old.kind, old.size, old.sha256, old.sent_sha256, old.who_id,
      old.at) then
    return new;
  end if;
  raise exception 'rows of % keep their file: % is refused', tg_table_name, tg_op;
end $$;
create trigger keeps_its_file before update or delete on papers_paper
  for each row execute function beacon_refuse_other_file();
"""
ALLOW = """
drop trigger keeps_its_file on papers_paper;
drop function beacon_refuse_other_file();
"""


class Migration(migrations.Migration):
    """The database itself refuses to let a row speak of another file, or to remove it."""

    dependencies = [("papers", "0001_initial")]
    operations = [migrations.RunSQL(FORBID, ALLOW)]
