"""The dates of a system are taken away with whatever changes what they come from.

The system's row is locked first: whoever works the dates out holds it, so that nothing is worked out
from what was there before the change and kept after it.
"""

from django.db import migrations

FORWARD = """
create function planner_take_dates_away() returns trigger language plpgsql as $$
declare
    whose uuid := case when tg_op = 'DELETE' then old.system_id else new.system_id end;
begin
    perform 1 from plant_system where id = whose for no key update;
    delete from planner_dates where system_id = whose;
    return null;
end $$;

create function planner_take_own_dates_away() returns trigger language plpgsql as $$
begin
    delete from planner_dates where system_id = new.id;
    return null;
end $$;

create trigger dates_of_today after update on plant_system
    for each row execute function planner_take_own_dates_away();
create trigger dates_of_today after insert or update or delete on planner_interval
    for each row execute function planner_take_dates_away();
create trigger dates_of_today after insert or update or delete on planner_counter
    for each row execute function planner_take_dates_away();
create trigger dates_of_today after insert or update or delete on planner_zerocheck
    for each row execute function planner_take_dates_away();
"""

BACKWARD = """
drop trigger dates_of_today on planner_zerocheck;
drop trigger dates_of_today on planner_counter;
drop trigger dates_of_today on planner_interval;
drop trigger dates_of_today on plant_system;
drop function planner_take_own_dates_away();
drop function planner_take_dates_away();
"""


class Migration(migrations.Migration):
    dependencies = [("planner", "0002_dates")]

    operations = [migrations.RunSQL(FORWARD, BACKWARD)]
