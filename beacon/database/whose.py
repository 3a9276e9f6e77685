"""Whose a row is: every table that belongs to an organisation says it in each row, as a distributed database wants it.

The column stands in the database alone: nothing of the program reads it yet. A trigger fills it in from the row above,
so that none can be without, or be another's.
"""

ABOVE: dict[str, tuple[str, str]] = {
    "plant_system": ("plant_site", "site_id"),
    "plant_channel": ("plant_system", "system_id"),
    "plant_cell": ("plant_channel", "channel_id"),
    "plant_event": ("plant_system", "system_id"),
    "plant_fault": ("plant_system", "system_id"),
    "plant_platechange": ("plant_system", "system_id"),
    "plant_checkmass": ("plant_reference", "reference_id"),
    "bench_job": ("plant_channel", "channel_id"),
    "bench_entry": ("bench_job", "job_id"),
    "bench_leftbehind": ("bench_job", "job_id"),
    "papers_latepaper": ("papers_paper", "paper_id"),
    "loads_load": ("plant_channel", "channel_id"),
    "loads_loadchange": ("loads_load", "load_id"),
    "loads_watch": ("plant_channel", "channel_id"),
    "planner_interval": ("plant_system", "system_id"),
    "planner_counter": ("plant_system", "system_id"),
    "planner_zerocheck": ("plant_system", "system_id"),
    "planner_planned": ("plant_system", "system_id"),
    "planner_dates": ("plant_system", "system_id"),
    "practice_scenario": ("practice_scenarioset", "of_id"),
    "practice_practice": ("bench_job", "job_id"),
    "programs_message": ("programs_webhook", "webhook_id"),
    "accounts_housedomain": ("accounts_house", "house_id"),
}
"""Each table that does not name its organisation by itself, the table that it hangs from, and by which column; from above down."""

FILL = """
alter table {table} add column organisation_id uuid null;
create function whose_{table}() returns trigger language plpgsql as $$
begin
  select organisation_id into new.organisation_id from {above} where id = new.{key};
  return new;
end $$;
create trigger whose before insert on {table} for each row execute function whose_{table}();
"""
THERE = """
select exists (select 1 from information_schema.columns
  where table_schema = current_schema() and table_name = '{table}' and column_name = 'organisation_id')
"""
FORGET = """
drop trigger whose on {table};
drop function whose_{table}();
alter table {table} drop column organisation_id;
"""


def written(text: str) -> list[tuple[str, str]]:
    """Statements for each table, with its name."""
    return [(table, text.format(table=table, above=above, key=key)) for table, (above, key) in ABOVE.items()]
