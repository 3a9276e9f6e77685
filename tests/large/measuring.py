"""`./run bench --large`: ten thousand, a hundred thousand and a million closed jobs, and what each size costs.

A thousand jobs stand in each organisation, so that what a person sees is of one size, and only the database grows:
every page may cost at most 1.3 times as much at a million as at ten thousand.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from unittest.mock import patch

from django.db import connection

from beacon.bench.keeping import Sent, enter
from beacon.bench.opening import open_job
from beacon.plant.models import Channel
from beacon.records import sealing
from tests.large.filling import FILLED, JOBS_EACH, MACHINES, Template, fill
from tests.large.pages import Asked, grown, pages, plans, signed_in
from tests.server.plant import runs
from tests.server.test_closing import IN_ORDER
from wary.machines.machine import Part

SIZES = (10, 100, 1000)
"""Organisations, of a thousand closed jobs each."""
STEPS = 10_000_000
WALKED = 2000
"""So many records a second a core that walks should manage at least."""
SLOWEST = 200.0
"""The 95th per cent of a call while people type must stay below this, ms."""
PACE = 3.0
"""So many seconds lie between two entries of one person."""
SEALED = 40
"""So many jobs are closed to see what that takes."""
CROWDS = (10, 20, 40, 60, 80, 120, 160, 240)


def measured(url: str, sizes: tuple[int, ...], backups: tuple[int, ...] = (), pages_alone: bool = False) -> None:
    """Fills the database size by size, and prints what each of them costs; `backups` are the sizes of which one is made and put back."""
    template, first = Template(), 0
    with connection.cursor() as cursor:
        cursor.execute("create extension if not exists pg_stat_statements")
    told: dict[str, list[Asked]] = {}
    for size in sizes:
        began = time.perf_counter()
        fill(template, first, size - first)
        took, jobs = time.perf_counter() - began, (size - first) * JOBS_EACH
        print(f"\n{size * JOBS_EACH:,} closed jobs in {size} organisations: {jobs:,} more with {jobs * template.entries:,} entries in {took:.0f} s")  # fmt: skip
        first = size
        _yardstick()
        _disk()
        for name, asked in pages(url, size // 2).items():
            told.setdefault(name, []).append(asked)
        plans(size // 2)
        if pages_alone:
            continue
        _verified(size)
        _typing(url, size)
        _sealing(size)
        _memory()
        if size in backups:
            _backup()
    grown(told, sizes)


def _yardstick() -> None:
    """How fast this machine is just now, so that a busy one is not taken for a slow program."""
    began, total = time.process_time(), 0
    for one in range(STEPS):
        total += one
    print(f"{'  yardstick: ten million additions on one core':58} {time.process_time() - began:8.2f} s")


def _disk() -> None:
    with connection.cursor() as cursor:
        cursor.execute("select pg_database_size(current_database())")
        print(f"  the database: {cursor.fetchone()[0] / 1e9:.2f} GB on the disk")
        cursor.execute(
            "select relname, pg_table_size(oid), pg_indexes_size(oid), greatest(reltuples, 0) from pg_class where relkind = 'r'"
            " order by pg_total_relation_size(oid) desc limit 4"
        )
        for name, table, indexes, rows in cursor.fetchall():
            print(f"    {name:22} {table / 1e9:7.2f} GB, indexes {indexes / 1e9:6.2f} GB, {rows:13,.0f} rows")


def _verified(size: int) -> None:
    """All chains walked by as many processes as there are cores; the database works on the same cores."""
    cores, began, before = os.cpu_count() or 1, time.perf_counter(), resource.getrusage(resource.RUSAGE_CHILDREN)
    command = [sys.executable, "manage.py", "verify", "--workers", str(cores)]
    done = subprocess.run(command, env=_environment(), capture_output=True, text=True)
    if done.returncode:
        raise SystemExit(f"What was filled does not fit: {done.stdout[-500:]} {done.stderr[-500:]}")
    took, after = time.perf_counter() - began, resource.getrusage(resource.RUSAGE_CHILDREN)
    records, own = size * JOBS_EACH, after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime
    print(f"{f'  verify, all of it, {cores} cores':58} {records / took:8.0f} records a second, {took:.0f} s")
    # The database works on the same cores here; a core that only walks is told by the time that walking itself takes.
    rate = records / own
    print(f"{'  a core that walks, its database on others':58} {rate:8.0f} records a second   ({'meets' if rate >= WALKED else 'MISSES'} {WALKED})")  # fmt: skip


def _typing(url: str, size: int) -> None:
    """How many people may type at once, each in a job of their own, spread over the organisations."""
    people = [_typist(url, one % size, one // size % MACHINES) for one in range(CROWDS[-1])]
    held = 0
    for crowd in CROWDS:
        with ThreadPoolExecutor(crowd) as pool:
            began = time.perf_counter()
            some = pool.map(_types, range(crowd), people[:crowd], [crowd] * crowd)
            took = [one for found in some for one in found]
            rate = len(took) / (time.perf_counter() - began)
        p95 = statistics.quantiles(took, n=20)[-1]
        print(f"{f'  {crowd} people typing, an entry every {PACE:.0f} s':58} median {statistics.median(took):8.2f} ms   p95 {p95:8.2f} ms   {rate:.1f} entries a second")  # fmt: skip
        if p95 > SLOWEST:
            break
        held = crowd
    print(f"{'  may type at once at one process, all told':58} {held:8} people")


def _typist(url: str, number: int, place: int) -> tuple[Any, dict[str, str], str]:
    client, headers = signed_in(url, number, "technician")
    channel = _channel(number, place)
    who = channel.system.site.organisation.memberships.get(role="technician").person
    job = open_job(who, channel, (Part("", "belt-material-test"),), "routine").job
    enter(who, job.id, [Sent(uuid.uuid4(), f"runs.r{n}.gross", "34.10 t") for n in range(4)])
    return client, headers, str(job.id)


def _channel(number: int, place: int) -> Channel:
    channels = Channel.objects.select_related("system__site__organisation", "system__profile", "system__reference")
    return channels.filter(system__site__organisation__name=f"{FILLED}{number:04d}")[place]


def _types(number: int, person: tuple[Any, dict[str, str], str], crowd: int) -> list[float]:
    client, headers, job = person
    took: list[float] = []
    time.sleep(number * PACE / crowd)
    count = client.get(f"/api/jobs/{job}").json()["entries"]
    until = time.perf_counter() + 6 * PACE
    while time.perf_counter() < until:
        began = time.perf_counter()
        body = [{"id": str(uuid.uuid4()), "path": "runs.r1.gross", "text": f"34.{10 + len(took) % 30} t"}]
        answer = client.post(f"/api/jobs/{job}/entries?after={count}", json=body, headers=headers).raise_for_status()
        count = answer.json()["entries"]
        took.append((time.perf_counter() - began) * 1000)
        time.sleep(max(0.0, PACE - (time.perf_counter() - began)))
    # The first of each begins what the server holds of a job.
    return took[1:]


def _sealing(size: int) -> None:
    """What a closed job costs, and for how long of it all other organisations that seal wait: for the number of all records."""
    took = [closed(one % size, one // size % MACHINES) for one in range(SEALED)]
    closing, held = (statistics.median(one) for one in zip(*took, strict=True))
    print(f"{'  a job closed and sealed':58} median {closing:8.2f} ms")
    print(f"{'  of it the number of all records is held':58} median {held:8.2f} ms, so {1000 / held:.0f} a second of all organisations")  # fmt: skip


def closed(number: int, place: int) -> tuple[float, float]:
    """Closes a job more at a place of an organisation: the milliseconds that takes, and those of them that the number of all records is held."""
    channel, taken = _channel(number, place), sealing._next_of_all
    who = channel.system.site.organisation.memberships.get(role="technician").person
    job = open_job(who, channel, (Part("", "belt-material-test"),), "routine").job
    texts = {"inputs.zero_done": "job"} | runs([*IN_ORDER, IN_ORDER[0]])
    enter(who, job.id, [Sent(uuid.uuid4(), path, text) for path, text in texts.items()])
    since: list[float] = []

    def noted() -> int:
        of_all = taken()
        since.append(time.perf_counter())
        return of_all

    with patch.object(sealing, "_next_of_all", noted):
        began = time.perf_counter()
        sealing.close(who, job, sealing.Asked(signed=who.name, outcome="complete"))
        ended = time.perf_counter()
    return (ended - began) * 1000, (ended - since[0]) * 1000


def _memory() -> None:
    found = subprocess.run(["ps", "-eo", "rss=,args="], capture_output=True, text=True).stdout.splitlines()
    servers = [int(line.split()[0]) for line in found if "uvicorn beacon.asgi" in line]
    print(f"{'  memory of a server':58} {max(servers, default=0) / 1000:8.0f} MB")


def _backup() -> None:
    """A backup made, and put back into a database of its own with its chains walked; megabytes of the database a second."""
    with connection.cursor() as cursor:
        cursor.execute("select pg_database_size(current_database())")
        size = cursor.fetchone()[0] / 1e6
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "backup.tar"
        took = _timed_program("make", str(file), **_environment())
        print(f"{'  backup':58} {size / took:8.1f} MB a second, {took:.0f} s, {file.stat().st_size / 1e6:.0f} MB")
        with connection.cursor() as cursor:
            cursor.execute("drop database if exists put_back")
            cursor.execute("create database put_back")
        environment = _environment()
        environment["DATABASE_URL"] = f"{environment['DATABASE_URL'].rpartition('/')[0]}/put_back"
        try:
            took = _timed_program("put", str(file), **environment)
            print(f"{'  put back and walked':58} {size / took:8.1f} MB a second, {took:.0f} s")
        finally:
            with connection.cursor() as cursor:
                cursor.execute("drop database if exists put_back")
                cursor.execute("drop database if exists put_back_before")


def _timed_program(*given: str, **environment: str) -> float:
    began = time.perf_counter()
    done = subprocess.run([sys.executable, "-m", "beacon.backups", *given], env=environment, capture_output=True, text=True)  # fmt: skip
    if done.returncode:
        raise SystemExit(f"{given[0]}: {done.stderr.strip()[-300:]}")
    return time.perf_counter() - began


def _environment() -> dict[str, str]:
    """The environment of a program at the same database as this one."""
    name = connection.settings_dict["NAME"]
    return os.environ | {"DATABASE_URL": f"{os.environ['DATABASE_URL'].rpartition('/')[0]}/{name}"}
