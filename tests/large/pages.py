"""What every page costs at each size of a database, in what the database goes through and in time, and what of it grew."""

import os
import re
import statistics
from dataclasses import dataclass
from typing import Any

from django.db import connection
from django.test import Client

from beacon.api import api
from beacon.bench.models import Job
from beacon.history.log import Sought, sought
from beacon.people.models import Person, RateCount
from beacon.plant.models import Reference, System
from beacon.records.models import Record
from tests.large.filling import FILLED, JOBS_EACH
from tests.speed.timing import browserless, timed_once, wanted

GROWTH = 1.3
TIMES, COUNTED = 15, 4
FEW = 20
"""So many pages of the database, of 8 kB, are few: an index that is a level deeper costs one for each look."""
QUESTION = int(os.environ.get("BENCH_QUESTION", "200"))
"""So much is shown of a question that grew, in characters."""
NOISE = 2.0
"""So many milliseconds one median differs from another of the same."""
STREAMS = re.compile(r"/(live|truth|watch|changes-live|events)$")
NOT_A_PAGE = {"/api/ready", "/api/alive", "/api/people/unseen"}


def signed_in(url: str, number: int, role: str) -> tuple[Any, dict[str, str]]:
    """A client of somebody of one organisation, with what its writing requests need; signing in itself is counted and slow."""
    beside = Client()
    beside.force_login(Person.objects.get(username=f"{role}@{number:04d}.example"))
    client = browserless(url)
    client.cookies.set("sessionid", beside.cookies["sessionid"].value)
    client.get("/sign-in")
    return client, {"X-CSRFToken": client.cookies["csrftoken"], "Origin": url}


def _addresses(number: int) -> dict[str, str]:
    """Every address that is asked for without changing anything, in one organisation; by its path."""
    system = System.objects.filter(site__organisation__name=f"{FILLED}{number:04d}").order_by("pk").first()
    assert system
    record = Record.objects.filter(job__channel__system=system).order_by("-number").first()
    assert record
    ids = {
        "system_id": system.pk, "channel_id": system.channels.get().pk, "record_id": record.pk, "job_id": record.job_id,
        "reference_id": system.reference_id, "key": "belt-fine",
    }  # fmt: skip
    found = {}
    for path, methods in api.get_openapi_schema()["paths"].items():
        names = re.findall(r"{(\w+)}", path)
        if "get" in methods and path not in NOT_A_PAGE and not STREAMS.search(path) and not set(names) - set(ids):
            found[path] = path.format(**{name: ids[name] for name in names})
    page = "/api/log?before=" + f"{record.sealed_at.isoformat().replace('+00:00', 'Z')}~{record.number}"
    found |= {
        "the log, by a word": "/api/log?find=conveyor%2017",
        "the log, by a number": "/api/log?find=417",
        "the log, of a machine": f"/api/log?system={system.pk}",
        "the log, of a reference": f"/api/log?reference={system.reference_id}",
        "the log, of a call": "/api/log?call=find-fault",
        "the log, a later page": page,
    }
    return found


@dataclass
class Asked:
    """What one address costs: the milliseconds that it takes more than a trivial request, and the pages of 8 kB that the database goes through."""

    ms: float
    blocks: float
    by_question: dict[str, float]
    """The same pages, by the question that goes through them."""


def pages(url: str, number: int) -> dict[str, Asked]:
    """What everything costs that a page asks for; a trivial request is asked in turn."""
    client, _ = signed_in(url, number, "lead")
    found = {}
    for name, address in _addresses(number).items():
        # What may be asked for so often in ten minutes is asked for more often here.
        RateCount.objects.all().delete()
        if client.get(address).status_code != 200:
            continue
        took, plain = [], []
        for _ in range(TIMES):
            took.append(timed_once(lambda address=address: client.get(address)))  # type: ignore[misc]
            plain.append(timed_once(lambda: client.get("/api/me")))
        with connection.cursor() as cursor:
            cursor.execute("select pg_stat_statements_reset()")
            for _ in range(COUNTED):
                client.get(address)
            cursor.execute(
                "select query, sum(shared_blks_hit + shared_blks_read) from pg_stat_statements where query not like '%pg_stat_statements%'"
                " and dbid = (select oid from pg_database where datname = current_database()) group by query"
            )
            by_question = {question: float(blocks) / COUNTED for question, blocks in cursor.fetchall()}
        found[name] = Asked(statistics.median(took) - statistics.median(plain), sum(by_question.values()), by_question)
    return found


def plans(number: int) -> None:
    """How the database goes about what the log and a reference ask for."""
    lead = Person.objects.get(username=f"lead@{number:04d}.example")
    bridge = Reference.objects.get(organisation__name=f"{FILLED}{number:04d}")
    jobs = Job.objects.filter(reference_ids__contains=[bridge.id], practice=False).order_by("-opened_at")
    for name, rows in (
        ("the log", sought(lead, Sought()).values_list("pk")[:31]),
        ("the log, by a word", sought(lead, Sought(find="conveyor 17")).values_list("pk")[:31]),
        ("the jobs of a reference", jobs.values_list("pk")[:100]),
    ):
        print(f"  the plan of {name}")
        print("    " + rows.explain(analyze=True, buffers=True, costs=False).replace("\n", "\n    "))


def grown(told: dict[str, list[Asked]], sizes: tuple[int, ...]) -> None:
    """What each page costs at each size, and whether it grew.

    What the database goes through is the same at each run, but an index that is a level deeper costs a page of it for
    each look, which nobody waits for; a busy machine makes anything slower. What grew is what did by both.
    """
    print(f"\npages of the database gone through a request, at {', '.join(f'{size * JOBS_EACH:,}' for size in sizes)} closed jobs; milliseconds more than a trivial request")  # fmt: skip
    missed = 0
    for name, asked in sorted(told.items(), key=lambda one: -_growth(one[1])):
        blocks = "".join(f"{one.blocks:8.0f}" for one in asked)
        took = "".join(f"{max(one.ms, 0):8.1f}" for one in asked)
        missed += min(_growth(asked), _slower(asked)) > GROWTH
        print(f"{name:46} {blocks}   × {_growth(asked):.2f}   {took} ms   × {_slower(asked):.2f}{wanted(min(_growth(asked), _slower(asked)), GROWTH)}")  # fmt: skip
        if _growth(asked) > GROWTH:
            _grew(asked[0], asked[-1])
    print(f"{'  pages that grew by both':58} {missed:8} of {len(told)}")


def _grew(first: Asked, last: Asked) -> None:
    """The questions of a page that grew most."""
    grown = {question: blocks - first.by_question.get(question, 0) for question, blocks in last.by_question.items()}
    for question, more in sorted(grown.items(), key=lambda one: -one[1])[:2]:
        if more > FEW:
            print(f"    {more:8.0f} more: {question[:QUESTION]}")


def _growth(asked: list[Asked]) -> float:
    """How much more is gone through at the end than at the beginning; a few pages more are no growth."""
    return (asked[-1].blocks + FEW) / (asked[0].blocks + FEW)


def _slower(asked: list[Asked]) -> float:
    """How much longer it takes at the end; a millisecond or two are the machine's."""
    return (max(asked[-1].ms, 0) + NOISE) / (max(asked[0].ms, 0) + NOISE)
