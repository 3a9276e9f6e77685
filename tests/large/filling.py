"""Closed jobs by the million, made in the database itself out of one that was really done and sealed.

Each is what it would be had somebody typed it: its entries, its record with a seal of its own, chained to the record
before it. `verify` walks them all and finds nothing. A thousand stand in each organisation, a job a day over its
twenty machines.
"""

import datetime
import json
import re
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager

from django.db import connection, connections
from django.test import Client
from django.utils import timezone

from beacon.bench.models import Entry, Job
from beacon.people.models import Membership, Organisation, Person, Role
from beacon.plant.models import Channel, LimitProfile, Reference, Site, System, starting_profiles
from beacon.records.models import Record, SealCount
from tests.server.plant import PLATES, Plant, enter, runs
from tests.server.test_closing import IN_ORDER

MACHINES, JOBS_EACH = 20, 1000
BULK = 50_000
"""From so many jobs on, the indexes of the entries are made anew after them."""
FILLED = "Filled "


class Template:
    """One job that was really done, as what it takes to make another of it."""

    def __init__(self) -> None:
        plant = Plant("Gannet Ness")
        job = plant.job()
        texts = {"inputs.zero_done": "job"} | runs([*IN_ORDER, IN_ORDER[0]])
        enter(job, plant.technician, texts)
        client = Client()
        client.force_login(plant.technician)
        given = {"signed": plant.technician.name, "outcome": "complete"}
        answer = client.post(f"/api/jobs/{job.id}/close", given, content_type="application/json")
        if answer.status_code != 200:
            raise RuntimeError(answer.content.decode())
        self.plant, self.job = plant, Job.objects.get(pk=job.pk)
        self.record = Record.objects.get(job=job)
        self.entries = Entry.objects.filter(job=job).count()
        self.content = self._with_tokens(self.record.content)
        system = System.objects.get(pk=plant.system.pk)
        self.state, self.last = system.state, system.last
        self.password = plant.technician.password
        self.day = self.record.sealed_at.date()

    def _with_tokens(self, text: str) -> str:
        """What is sealed, with a name in braces wherever the next one has something else."""
        chain = f'"number":{self.record.number},"of_all":{self.record.serial},"previous":"{self.record.previous}"'
        if chain not in text:
            raise RuntimeError("what a record is chained by is written otherwise now")
        text = text.replace(chain, '"number":{number},"of_all":{serial},"previous":"{previous}"')
        for key in ("person", "opened_by", "sealed_by"):
            text = text.replace(f'"{key}":"{self.plant.technician.pk}"', f'"{key}":"{{person}}"')
        for one, token in (
            (self.job.pk, "{job}"), (self.record.pk, "{record}"), (self.plant.organisation.pk, "{organisation}"),
            (self.plant.system.pk, "{system}"), (self.job.channel_id, "{channel}"), (self.plant.bridge.pk, "{bridge}"),
            (self.record.sealed_at.date().isoformat(), "{day}"),
        ):  # fmt: skip
            text = text.replace(str(one), token)
        return text


FILL = """
create or replace function fill_jobs(
    template uuid, content text, organisation uuid, person int, bridge uuid, old_bridge text,
    systems uuid[], channels uuid[], jobs int, last_day date, serials bigint, state text, last text
) returns void language plpgsql as $$
#variable_conflict use_variable
declare
    old record; of record; job uuid; record uuid; day date; shift interval; place int; body text; seal text; previous text := '';
begin
    select * into old from bench_job where id = template;
    select * into of from records_record where job_id = template;
    content := replace(replace(replace(content, '{organisation}', organisation::text), '{person}', person::text), '{bridge}', bridge::text);
    for n in 1..jobs loop
        job := gen_random_uuid(); record := gen_random_uuid(); day := last_day - (jobs - n);
        shift := make_interval(days => day - (of.sealed_at at time zone 'UTC')::date);
        place := 1 + n % array_length(systems, 1);
        insert into bench_job select (jsonb_populate_record(one, jsonb_build_object(
            'id', job, 'organisation_id', organisation, 'channel_id', channels[place], 'opened_by_id', person, 'reference_ids', to_jsonb(array[bridge]),
            'opened_at', one.opened_at + shift, 'touched_at', one.touched_at + shift, 'closed_at', one.closed_at + shift,
            'closing', replace(one.closing::text, to_char(of.sealed_at, 'YYYY-MM-DD'), day::text)::jsonb
        ))).* from bench_job one where id = template;
        insert into bench_entry ({columns}) select {values} from filling_entries one;
        body := replace(replace(replace(content, '{job}', job::text), '{record}', record::text), '{day}', day::text);
        body := replace(replace(body, '{system}', systems[place]::text), '{channel}', channels[place]::text);
        body := replace(replace(replace(body, '{number}', n::text), '{serial}', (serials + n)::text), '{previous}', previous);
        seal := encode(sha256(convert_to(body, 'UTF8')), 'hex');
        insert into records_record select (jsonb_populate_record(one, jsonb_build_object(
            'id', record, 'organisation_id', organisation, 'job_id', job, 'number', n, 'serial', serials + n, 'content', body,
            'sha256', seal, 'previous', previous, 'sealed_at', one.sealed_at + shift, 'sealed_by_id', person
        ))).* from records_record one where job_id = template;
        previous := seal;
        if n > jobs - array_length(systems, 1) then
            update plant_system one set state = fill_jobs.state, last = replace(replace(replace(fill_jobs.last, template::text, job::text), of.id::text, record::text), to_char(of.sealed_at, 'YYYY-MM-DD'), day::text)::jsonb
            where one.id = systems[place];
        end if;
    end loop;
end $$
"""


def _function() -> str:
    """The function, for the columns that entries have now."""
    other = {"job_id": "job", "organisation_id": "organisation", "who_id": "person", "at": "one.at + shift", "kept_at": "one.kept_at + shift",
             "text": "case when one.text = old_bridge then bridge::text else one.text end"}  # fmt: skip
    names = [one.column for one in Entry._meta.concrete_fields if not one.primary_key] + ["organisation_id"]
    values = ", ".join(other.get(name, f"one.{name}") for name in names)
    return FILL.replace("{columns}", ", ".join(names)).replace("{values}", values)


def fill(template: Template, first: int, organisations: int, jobs: int = JOBS_EACH, workers: int = 2) -> None:
    """So many more organisations, each with so many closed jobs; `first` are there already."""
    sealed = Record.objects.exclude(serial=None).count()
    with connection.cursor() as cursor:
        cursor.execute(_function())
        # By themselves: while the entries have no index, they would be looked through for each job.
        cursor.execute("create table filling_entries as select * from bench_entry where job_id = %s", [template.job.pk])
    with _without_indexes(organisations * jobs >= BULK), ThreadPoolExecutor(workers) as pool:
        for done in [pool.submit(_some, template, range(first + one, first + organisations, workers), jobs, sealed - first * jobs) for one in range(workers)]:  # fmt: skip
            done.result()
    count = Record.objects.exclude(serial=None).count()
    SealCount.objects.update_or_create(pk=1, defaults={"count": count})
    with connection.cursor() as cursor:
        cursor.execute("drop function fill_jobs; drop table filling_entries")
        # What the database's own housekeeping does in time.
        cursor.execute("vacuum analyze")


def _some(template: Template, numbers: range, jobs: int, sealed: int) -> None:
    try:
        with connection.cursor() as cursor:
            cursor.execute("set session_replication_role = replica; set synchronous_commit = off; set time zone 'UTC'")
        for number in numbers:
            _organisation(template, number, jobs, sealed + number * jobs)
    finally:
        connections.close_all()


def _organisation(template: Template, number: int, jobs: int, sealed: int) -> None:
    here = Organisation.objects.create(name=f"{FILLED}{number:04d}")
    starting_profiles(here)
    site = Site.objects.create(organisation=here, name="Yard", time_zone="Europe/London")
    bridge = Reference.objects.create(organisation=here, name="Weighbridge", division="20 kg", range="60 t", due=timezone.now().date() + datetime.timedelta(days=90))  # fmt: skip
    profile = LimitProfile.objects.get(organisation=here, key="belt-fine")
    due = [timezone.now().date() + datetime.timedelta(days=9 * place - 9) for place in range(MACHINES)]
    systems = System.objects.bulk_create(
        System(site=site, kind="belt", name=f"Conveyor {place + 1}", plates=PLATES, profile=profile, reference=bridge, due=due[place])
        for place in range(MACHINES)
    )  # fmt: skip
    channels = Channel.objects.bulk_create(Channel(system=one, name="main", factor="1.1420") for one in systems)
    people = []
    for role in (Role.TECHNICIAN, Role.LEAD):
        address = f"{role}@{number:04d}.example"
        person = Person.objects.create(username=address, email=address, name="Technician", password=template.password)
        Membership.objects.create(person=person, organisation=here, role=role)
        people.append(person)
    with connection.cursor() as cursor:
        cursor.execute(
            "select fill_jobs(%s, %s, %s, %s, %s, %s, %s::uuid[], %s::uuid[], %s, %s, %s, %s, %s)",
            [
                template.job.pk, template.content, here.pk, people[0].pk, bridge.pk, str(template.plant.bridge.pk),
                [one.pk for one in systems], [one.pk for one in channels], jobs, template.day,
                sealed, template.state, json.dumps(template.last),
            ],
        )  # fmt: skip


@contextmanager
def _without_indexes(bulk: bool) -> Iterator[None]:
    """The entries without what is looked up in them: it is made anew after them, many times faster than with each."""
    if not bulk:
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute(
            "select conname, pg_get_constraintdef(oid) from pg_constraint where conrelid = 'bench_entry'::regclass and contype in ('u', 'p')"
        )
        constraints: Sequence[tuple[str, str]] = cursor.fetchall()
        for name, _ in constraints:
            cursor.execute(f'alter table bench_entry drop constraint "{name}"')
        cursor.execute("select indexname, indexdef from pg_indexes where tablename = 'bench_entry'")
        indexes: Sequence[tuple[str, str]] = cursor.fetchall()
        for name, _ in indexes:
            cursor.execute(f'drop index "{name}"')
    try:
        yield
    finally:
        with connection.cursor() as cursor:
            cursor.execute("set maintenance_work_mem = '1GB'")
            for name, definition in constraints:
                cursor.execute(f'alter table bench_entry add constraint "{name}" {definition}')
            for _, definition in indexes:
                cursor.execute(re.sub(r" ON public\.", " ON ", definition))


def the_lead(number: int) -> Person:
    """The lead of one of the organisations that were filled."""
    return Person.objects.get(username=f"{Role.LEAD}@{number:04d}.example")
