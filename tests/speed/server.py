"""A server over HTTP: entries, many benches that are watched, and what a growing database costs."""

import datetime
import statistics
import time
import uuid
from typing import Any

from django.db import connection

from tests.served import served
from tests.speed.timing import (
    browserless,
    fill,
    full_job,
    full_visit,
    show,
    sign_in,
    systems_of,
    timed,
    timed_once,
    wanted,
)

STREAMS_OPEN, TYPISTS, PACE = 200, 20, 1.0


async def _listen(url: str, cookie: str, paths: list[str], ready: Any, over: Any, heard: Any) -> None:
    """Keeps so many streams open and counts what is heard, until it is over."""
    import asyncio
    from urllib.parse import urlparse

    host, port = urlparse(url).hostname, urlparse(url).port

    async def one(path: str) -> None:
        reader, writer = await asyncio.open_connection(host, port)
        writer.write(f"GET {path} HTTP/1.1\r\nHost: {host}:{port}\r\nCookie: {cookie}\r\n\r\n".encode())
        while not over.is_set():
            came = await reader.read(65_536)
            if not came:
                break
            with heard.get_lock():
                heard.value += came.count(b"data: ")
        writer.close()

    tasks = [asyncio.create_task(one(path)) for path in paths]
    await asyncio.sleep(8)
    ready.set()
    while not over.is_set():
        await asyncio.sleep(0.2)
    for task in tasks:
        task.cancel()


def _listener(*given: Any) -> None:
    import asyncio

    asyncio.run(_listen(*given))


def many_benches(url: str, plant: Any) -> None:
    """Twenty people typing, alone and with two hundred benches open that take their readings as they come."""
    import multiprocessing
    from concurrent.futures import ThreadPoolExecutor

    from beacon.links.models import Link
    from tests.server.on_the_line import on_the_line

    clients = [browserless(url) for _ in range(TYPISTS)]
    tokens = [sign_in(client, url, plant) for client in clients]
    jobs = [full_job(plant, 5) for _ in clients]

    def typing(number: int, seconds: float) -> list[float]:
        client, took = clients[number], []
        count = client.get(f"/api/jobs/{jobs[number].id}").json()["entries"]
        time.sleep(number * PACE / TYPISTS)
        until = time.perf_counter() + seconds
        while time.perf_counter() < until:
            began = time.perf_counter()
            body = [{"id": str(uuid.uuid4()), "path": "runs.r1.gross", "text": f"34.{10 + len(took) % 30} t"}]
            path = f"/api/jobs/{jobs[number].id}/entries?after={count}"
            answer = client.post(path, json=body, headers=tokens[number]).raise_for_status()
            count = answer.json()["entries"]
            took.append((time.perf_counter() - began) * 1000)
            time.sleep(max(0.0, PACE - (time.perf_counter() - began)))
        return took

    def all_typing(seconds: float) -> list[float]:
        with ThreadPoolExecutor(TYPISTS) as pool:
            found = pool.map(lambda number: typing(number, seconds), range(TYPISTS))
        return [one for took in found for one in took]

    all_typing(4)
    alone = all_typing(12)
    with on_the_line(held_at=None) as (_, port):
        link = Link.objects.create(organisation=plant.organisation, name="Floor display", host="127.0.0.1", address="127.0.0.1", port=port, changed_by=plant.lead)  # fmt: skip
        kinds = ("platform", "cart", "belt", "axle", "meter")
        practices = [
            clients[0].post(f"/api/practice?kind={kind}", headers=tokens[0]).json()["id"] for kind in kinds * 4
        ]
        paths = [f"/api/links/{link.id}/live"] * (STREAMS_OPEN // 2)
        paths += [f"/api/jobs/{practices[n % len(practices)]}/live" for n in range(STREAMS_OPEN // 2)]
        cookie = "; ".join(f"{name}={value}" for name, value in clients[0].cookies.items())
        ready, over = multiprocessing.Event(), multiprocessing.Event()
        heard = multiprocessing.Value("i", 0)
        listener = multiprocessing.Process(target=_listener, args=(url, cookie, paths, ready, over, heard))
        listener.start()
        ready.wait(60)
        before = heard.value
        crowded = all_typing(12)
        told = heard.value - before
        over.set()
        listener.join(20)
    show("http: one entry, 20 people typing", alone)
    ratio = statistics.median(crowded) / statistics.median(alone)
    show(f"http: the same with {STREAMS_OPEN} benches open", crowded)
    print(f"{'':58} × {ratio:.2f} of without them, {told / 12:.0f} readings told a second{wanted(ratio, 1.2)}")


def over_http(url: str, plant: Any) -> None:
    """One entry and its new call, against a trivial signed-in endpoint of the same server."""
    client = browserless(url)
    token = sign_in(client, url, plant)
    trivial = timed(lambda: client.get("/api/me").raise_for_status(), 150)
    show("http: a trivial signed-in endpoint", trivial)
    for name, job, target in (
        ("a job of 5 runs", full_job(plant, 5), 1.7),
        ("a job of 300 entries", full_job(plant, 75), 2.0),
        ("a visit of 300 entries", full_visit(plant, 75), 2.0),
    ):
        whole = client.get(f"/api/jobs/{job.id}").raise_for_status()
        after = whole.json()["entries"]
        answers = []

        def enter(job: Any = job, answers: list[Any] = answers, after: int = after) -> None:
            count = answers[-1].json()["entries"] if answers else after
            body = [{"id": str(uuid.uuid4()), "path": "runs.r1.gross", "text": f"34.{10 + count % 3} t"}]
            path = f"/api/jobs/{job.id}/entries?after={count}"
            answers.append(client.post(path, json=body, headers=token).raise_for_status())

        # The two are asked for in turn, so that whatever slows the machine slows both.
        took, beside = [], []
        for number in range(110):
            kept = timed_once(enter)
            plain = timed_once(lambda: client.get("/api/me").raise_for_status())
            if number >= 10:
                took.append(kept)
                beside.append(plain)
        show(f"http: one entry → new call, {name}", took, beside, target)
        size, sent = len(answers[-1].content), answers[-1].num_bytes_downloaded
        print(f"{'':58} its answer {size / 1000:.1f} kB, {sent / 1000:.1f} kB on the way{wanted(size / 1000, 6)}")
        show(
            "http: that job opened",
            timed(lambda job=job: client.get(f"/api/jobs/{job.id}").raise_for_status(), 40),
            trivial,
        )
        print(
            f"{'':58} its answer {len(whole.content) / 1000:.1f} kB, {whole.num_bytes_downloaded / 1000:.1f} kB on the way"
        )


def from_cold(plant: Any) -> None:
    """The first request that a server answers after its start, against the second."""
    job = full_job(plant, 5)
    with served() as url:
        client = browserless(url)
        sign_in(client, url, plant)
        first, second = (timed_once(lambda: client.get(f"/api/jobs/{job.id}").raise_for_status()) for _ in range(2))
    print(f"{'http: the first job after the start, and the second':58} {first:8.2f} ms, {second:8.2f} ms")


PAGES = ("/api/round", "/api/systems/{system}", "/api/log", "/api/channels/{channel}/history")


def as_it_grows(url: str, plant: Any) -> None:
    """The round, the system, the log and the history, empty and with 100 000 closed jobs in the database."""
    client = browserless(url)
    sign_in(client, url, plant)
    ids = {"system": plant.system.id, "channel": plant.system.channels.get().id}
    paths = [path.format(**ids) for path in PAGES]

    def asked(path: str) -> tuple[list[float], float]:
        """The milliseconds of each request, and their median against that of a trivial one asked for in turn."""
        took, plain = [], []
        for number in range(50):
            one = timed_once(lambda: client.get(path).raise_for_status())
            beside = timed_once(lambda: client.get("/api/me").raise_for_status())
            if number >= 10:
                took.append(one)
                plain.append(beside)
        return took, statistics.median(took) / statistics.median(plain)

    channels = systems_of(plant)
    before = {path: asked(path)[1] for path in paths}
    fill(plant, channels, 100_000)
    for name, path in zip(("round", "system page", "log", "history"), paths, strict=True):
        took, relative = asked(path)
        ratio = relative / before[path]
        show(f"http: {name}, 100 000 closed jobs", took)
        print(f"{'':58} × {ratio:.2f} of the empty database{wanted(ratio, 1.2)}")


def many_systems(url: str, plant: Any) -> None:
    """The round's first page and the month with two thousand systems, and with ten thousand."""
    from beacon.planner.models import Interval
    from beacon.plant.models import Channel, System

    like = plant.system
    client = browserless(url)
    sign_in(client, url, plant)
    month = f"/api/calendar?month_of={datetime.date.today():%Y-%m}"
    before: dict[str, float] = {}
    made: list[Any] = []
    for count in (2_000, 10_000):
        fresh = System.objects.bulk_create(
            System(site=like.site, kind="belt", name=f"Belt {n}", plates=like.plates, profile=like.profile, reference=like.reference, state="in-order", due=datetime.date.today() + datetime.timedelta(days=n % 180 - 9))
            for n in range(len(made), count)
        )  # fmt: skip
        Channel.objects.bulk_create(Channel(system=system) for system in fresh)
        Interval.objects.bulk_create(
            Interval(system=system, purpose="zero", kind="days", every=30) for system in fresh[::2]
        )
        made += fresh
        with connection.cursor() as cursor:
            # What the database's own housekeeping does within a minute.
            cursor.execute("analyze")
        first = timed_once(lambda: client.get("/api/round").raise_for_status())
        print(
            f"{f'http: the first who asks on a day, {count} systems':58} {first:15.2f} ms, once a day and after a change"
        )
        for name, path, most in (("round, first page", "/api/round", 100), ("month", month, 150)):
            took = timed(lambda path=path: client.get(path).raise_for_status(), 20)  # type: ignore[misc]
            median = statistics.median(took)
            show(f"http: {name}, {count} systems", took)
            said = wanted(median, most)
            if count != 2_000:
                said = f"   × {median / before[name]:.2f}{wanted(median, 1.5 * most)}"
            print(f"{'':58} {len(client.get(path).content) / 1000:.0f} kB{said}")
            before[name] = median
    System.objects.filter(id__in=[system.id for system in made]).delete()
