"""`./run bench`: speed, measured as ratios within one run, since machines are noisy."""

import datetime
import os
import statistics
import sys
import time
import uuid
from collections.abc import Callable
from typing import Any

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tests.settings")
django.setup()

from django.db import connection  # noqa: E402
from django.test.utils import get_runner, setup_test_environment  # noqa: E402

from django.conf import settings  # noqa: E402  isort: skip
from tests.core.jobs import AGREEING, belt  # noqa: E402
from tests.served import served  # noqa: E402
from wary.job.file import read  # noqa: E402


def timed(work: Callable[[], Any], times: int) -> list[float]:
    """Milliseconds of each of so many runs, after a tenth as many to warm up."""
    for _ in range(max(1, times // 10)):
        work()
    took = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        took.append((time.perf_counter() - start) * 1000)
    return took


def show(name: str, took: list[float], against: list[float] | None = None, target: float | None = None) -> float:
    """Prints a measurement, as a ratio to `against` where that is given; `target` is what it should be at most."""
    median, p95 = statistics.median(took), statistics.quantiles(took, n=20)[-1]
    ratio = median / statistics.median(against) if against else 0.0
    said = f"   × {ratio:.2f} of the trivial one" if against else ""
    print(f"{name:58} median {median:8.2f} ms   p95 {p95:8.2f} ms{said}{wanted(ratio, target)}")
    return ratio


def wanted(found: float, target: float | None) -> str:
    """What was wanted, and whether it was met."""
    return "" if target is None else f"   ({'meets' if found <= target else 'MISSES'} {target:g})"


def core() -> None:
    """Assessing in the core alone."""
    small = read(belt([*AGREEING, AGREEING[0]], factor=1.142, factor_decimals=4, reference_division="20 kg"))
    large = read(belt(AGREEING * 50, factor=1.142, factor_decimals=4, reference_division="20 kg"))
    few, many = timed(small.assess, 200), timed(large.assess, 60)
    show("core: assess a job of 5 runs", few)
    show("core: assess a job of 200 runs", many)
    print(f"{'':58} 40 times the runs cost {statistics.median(many) / statistics.median(few):.1f} times as much")


def one_entry() -> None:
    """An entry in a visit of 300 entries, from what is typed to what of the page changed, in the core alone."""
    from wary.job import fold as folding
    from wary.job.assess import assess, assess_again, parts_of
    from wary.job.fold import Entry
    from wary.job.subject import Subject
    from wary.job.view import bench, bench_again, changes
    from wary.machines import all_machines

    machine = all_machines()["belt"]
    order, day = parts_of(machine.visit), datetime.date(2031, 3, 4)
    plates = {"rated_rate": "400 t/h", "revolution_time": "42 s", "belt_speed": "2 m/s", "idler_spacing": "1.2 m"}
    texts = {
        "inputs.rated_rate": "400 t/h", "inputs.revolution_time": "42 s", "inputs.factor": "1.142", "inputs.factor_decimals": "4",
        "inputs.reference_division": "20 kg", "inputs.indicated_division": "10 kg", "inputs.zero_done": "today",
        "zero/idle.a.value": "2 kg", "zero/idle.b.value": "2 kg",
    }  # fmt: skip
    for n in range(73):
        texts |= {f"runs.r{n}.gross": f"34.{12 + n % 7} t", f"runs.r{n}.tare": "13.50 t"}
        texts |= {f"runs.r{n}.indicated": f"20.{40 + n % 9} t", f"runs.r{n}.duration": "6 min"}
    entries = [Entry(uuid.uuid4(), n, path, text) for n, (path, text) in enumerate(texts.items(), 1)]
    subject = Subject(machine, plates=plates, profile={"name": machine.profile})
    fold = folding.rebuilt(entries, order)
    snapshot = assess(subject, machine.visit, fold, day)
    held = [(fold, snapshot, bench(snapshot))]

    def enter() -> None:
        fold, was, shown = held[-1]
        entry = Entry(uuid.uuid4(), fold["count"] + 1, "runs.r1.gross", f"34.{10 + fold['count'] % 30} t")
        now_fold = folding.copied(fold)
        folding.apply(now_fold, entry, order, lambda path: [])
        now = assess_again(was, now_fold, [entry.path], day)
        after = bench_again(shown, was, now, [entry.path])
        changes(shown, after)
        held[:] = [(now_fold, now, after)]

    took = timed(enter, 300)
    show(f"core: one entry in a visit of {len(entries)} entries", took)
    print(f"{'':58} {statistics.median(took):15.2f} ms{wanted(statistics.median(took), 1.5)}")


def stand_ins() -> None:
    """An hour of each stand-in, followed from its beginning."""
    from wary.simulators import STAND_INS
    from wary.simulators.stand_in import Action

    slowest: tuple[float, str] = (0.0, "")
    for name, machine in STAND_INS.items():
        for fault in machine.faults:
            acts = [
                Action(20.0 * number, one.does, one.figure)
                for number, one in enumerate(machine.controls)
                if one.does not in ("skip", "stop")
            ]
            built = machine(3, fault)
            took = min(timed(lambda built=built, acts=acts: built.followed(acts).live(3600.0), 3))  # type: ignore[misc]
            slowest = max(slowest, (took, f"{name}, {fault}"))
    print(f"{'core: an hour of the slowest stand-in':58} {slowest[0]:8.2f} ms   {slowest[1]}{wanted(slowest[0], 50)}")


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


def browserless(url: str) -> Any:
    """A client that lets a connection go before the server does, which it does after five seconds."""
    import httpx

    return httpx.Client(base_url=url, timeout=120, limits=httpx.Limits(keepalive_expiry=2))


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


def timed_once(work: Callable[[], Any]) -> float:
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000


def from_cold(plant: Any) -> None:
    """The first request that a server answers after its start, against the second."""
    job = full_job(plant, 5)
    with served() as url:
        client = browserless(url)
        sign_in(client, url, plant)
        first, second = (timed_once(lambda: client.get(f"/api/jobs/{job.id}").raise_for_status()) for _ in range(2))
    print(f"{'http: the first job after the start, and the second':58} {first:8.2f} ms, {second:8.2f} ms")


def full_job(plant: Any, runs: int) -> Any:
    from tests.server.plant import enter
    from tests.server.plant import runs as texts

    job = plant.job()
    loads = [("34.10", "12.76", "21.66"), ("32.61", "12.74", "20.13"), ("33.35", "12.74", "20.91")]
    enter(job, plant.technician, {"inputs.zero_done": "job"} | texts([loads[n % 3] for n in range(runs)]))
    return job


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


def systems_of(plant: Any) -> list[Any]:
    """The channels of the first system and of forty more, which are there before and after."""
    added = [plant.add_system(f"Conveyor {n}", "belt", "belt-fine", plant.system.plates) for n in range(40)]
    return [system.channels.get() for system in (plant.system, *added)]


def fill(plant: Any, channels: list[Any], count: int) -> None:
    """So many closed jobs with their records: 500 on the first channel, the rest on the others."""
    from django.utils import timezone

    from beacon.bench.models import Job
    from beacon.records.models import Record

    summary = {
        "method": "belt-material-test", "call": "leave", "outcome": "complete", "closed_by": "Technician", "visit": False,
        "occasion": "routine", "factor_before": "1.1420", "factor_after": "1.1420", "reference": "Weighbridge", "accept": 0.5,
        "zero": "40 kg", "error_found": 0.1, "uncertainty_found": 0.1, "error_left": None, "uncertainty_left": None,
    }  # fmt: skip
    now = timezone.now()
    for start in range(0, count, 5000):
        jobs = []
        for number in range(start, start + 5000):
            at = now - datetime.timedelta(minutes=7 * number)
            channel = channels[0] if number < 500 else channels[1 + number % 40]
            jobs.append(
                Job(channel=channel, method="belt-material-test", state="closed", opened_by=plant.technician, opened_at=at,
                    touched_at=at, closed_at=at, closing={"words": "complete"}, summary=summary, call="leave")
            )  # fmt: skip
        Job.objects.bulk_create(jobs)
        Record.objects.bulk_create(
            Record(organisation=plant.organisation, job=job, number=1_000_000 - start - n, content="{}", sha256="0" * 64,
                   sealed_at=job.closed_at, sealed_by=plant.technician)
            for n, job in enumerate(jobs)
        )  # fmt: skip
    with connection.cursor() as cursor:
        cursor.execute("analyze")


def sign_in(client: Any, url: str, plant: Any) -> dict[str, str]:
    """Signs a client in; the headers that its writing requests need."""
    from tests.server.plant import SIGN_IN

    client.get("/sign-in")
    headers = {"X-CSRFToken": client.cookies["csrftoken"], "Origin": url}
    given = {"username": plant.technician.username, "password": "a-long-enough-one"}
    client.post(SIGN_IN, json=given, headers=headers).raise_for_status()
    return {"X-CSRFToken": client.cookies["csrftoken"], "Origin": url}


def full_visit(plant: Any, runs: int) -> Any:
    """A belt visit with zero, weights and so many runs: four entries a run."""
    from tests.server.plant import enter
    from tests.server.plant import runs as texts

    job = plant.job("visit")
    zero = {"zero/inputs.revolution_time": "30 s", "zero/idle.a.value": "0.5 kg", "zero/idle.b.value": "0.6 kg"}
    enter(job, plant.technician, zero | texts([("34.10", "12.76", "21.66")] * runs))
    return job


def in_the_browser(url: str, plant: Any) -> None:
    """From the key press that confirms a figure to the new call on the page."""
    from tests.browser.base import browser

    page = browser().new_context(base_url=url, viewport={"width": 1280, "height": 800}).new_page()
    page.goto("/sign-in")
    page.get_by_label("Address").fill(plant.technician.username)
    page.get_by_label("Password").fill("a-long-enough-one")
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Systems").wait_for()
    job = full_job(plant, 3)
    page.add_init_script(SHOWN)
    loaded = [until_shown(page, f"/jobs/{job.id}", ".verdict") for _ in range(10)][2:]
    show("browser: the job's page, until the call is shown", loaded)
    print(f"{'':58} usable in {statistics.median(loaded) / 1000:.2f} s{wanted(statistics.median(loaded) / 1000, 0.7)}")
    cold = page.evaluate("performance.now()")
    page.locator("[data-judged=here]").wait_for()
    print(
        f"{'browser: the core begins to judge':58} {page.evaluate('performance.now()') / 1000:.2f} s after the page, asked at {cold / 1000:.2f} s"
    )
    key_to_call(page, job, "a job of 12 entries, judged here", 16, 50)
    long = full_visit(plant, 75)
    page.goto(f"/jobs/{long.id}")
    page.locator("[data-judged=here]").wait_for()
    key_to_call(page, long, "a visit of 300 entries, judged here", 16, 50)
    page.route("**/assets/worker-*", lambda route: route.abort())
    page.goto(f"/jobs/{long.id}")
    page.locator(".verdict").wait_for()
    key_to_call(page, long, "the same, judged at the server", 80, 100)


def without_signal(url: str, plant: Any) -> None:
    """What is on the way, and how long it takes from nothing, without signal, to the page and to the first call."""
    import json

    from tests.both import DIST
    from tests.browser.base import browser

    manifest = json.loads((DIST / "core/manifest.json").read_text())
    sent = sum(one["sent"] for one in manifest["files"].values()) / 1e6
    print(f"{'without signal: the core on the way, compressed':58} {sent:.1f} MB{wanted(sent, 12)}")
    context = browser().new_context(base_url=url, viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto("/sign-in")
    page.get_by_label("Address").fill(plant.technician.username)
    page.get_by_label("Password").fill("a-long-enough-one")
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Systems").wait_for()
    ready = "() => document.documentElement.dataset.core === 'ready'"
    page.wait_for_function(ready, timeout=60_000)
    job = full_visit(plant, 75)
    page.goto(f"/jobs/{job.id}")
    page.locator("[data-judged=here]").wait_for(timeout=60_000)
    page.wait_for_timeout(2_000)
    context.set_offline(True)
    page.add_init_script(SHOWN)
    shown, first = [], []
    for _ in range(3):
        shown.append(until_shown(page, f"/jobs/{job.id}", ".verdict") / 1000)
        page.locator("[data-judged=here]").wait_for(timeout=60_000)
        first.append(page.evaluate("performance.now()") / 1000 - shown[-1])
    memory = float(page.evaluate("document.documentElement.dataset.coreMegabytes"))
    print(f"{'without signal: the page from nothing, the worst of three':58} {max(shown):.2f} s{wanted(max(shown), 1)}")
    print(f"{'without signal: the first call after that':58} {max(first):.2f} s{wanted(max(first), 3)}")
    print(f"{'the memory of the core':58} {memory:.0f} MB{wanted(memory, 300)}")
    context.close()


def key_to_call(page: Any, job: Any, name: str, median: float, most: float) -> None:
    """From the key press that confirms a figure to the new call, in a job that is open."""
    page.get_by_role("navigation", name="Run sheet").get_by_role("button", name="As found").click()
    page.locator(".tally-number").nth(2).click()
    shown = page.get_by_role("textbox", name="Shown", exact=True)
    took = []
    for number in range(66):
        shown.fill(f"20.{80 + number % 15}")
        took.append(page.evaluate(PRESS_TO_CALL))
        page.wait_for_timeout(150)
    took = took[6:]
    show(f"browser: key press → new call, {name}", took)
    print(
        f"{'':58} median{wanted(statistics.median(took), median)} ms, 95th per cent{wanted(statistics.quantiles(took, n=20)[-1], most)} ms"
    )


SHOWN = """addEventListener("DOMContentLoaded", () => new MutationObserver((_, watching) => {
  for (const one of [".verdict", ".history svg"])
    if (document.querySelector(one) && !performance.getEntriesByName(one).length)
      requestAnimationFrame(() => performance.mark(one));
}).observe(document, { childList: true, subtree: true }))"""


def until_shown(page: Any, path: str, what: str) -> float:
    """Milliseconds from asking for a page until something on it is painted, by the browser's own clock."""
    page.goto(path)
    page.locator(what).first.wait_for()
    page.wait_for_function("what => performance.getEntriesByName(what).length", arg=what)
    return float(page.evaluate("what => performance.getEntriesByName(what)[0].startTime", what))


PRESS_TO_CALL = """() => new Promise((done) => {
  const lead = document.querySelector(".call-lead");
  const start = performance.now();
  new MutationObserver((_, watching) => {
    watching.disconnect();
    requestAnimationFrame(() => done(performance.now() - start));
  }).observe(document.querySelector(".call"), { childList: true, characterData: true, subtree: true });
  document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
})"""


def a_long_history_drawn(url: str, plant: Any) -> None:
    """The system's page with a history of 500 visits, until its chart is drawn."""
    from tests.browser.base import browser

    page = browser().new_context(base_url=url, viewport={"width": 1280, "height": 800}).new_page()
    page.goto("/sign-in")
    page.get_by_label("Address").fill(plant.technician.username)
    page.get_by_label("Password").fill("a-long-enough-one")
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Systems").wait_for()
    page.add_init_script(SHOWN)
    drawn = [until_shown(page, f"/systems/{plant.system.id}", ".history svg") for _ in range(8)][2:]
    show("browser: a history of 500 visits drawn", drawn)


MEASURED: dict[str, Callable[[str, Any], None]] = {
    "http": over_http,
    "browser": in_the_browser,
    "signal": without_signal,
    "benches": many_benches,
    "systems": many_systems,
    "grows": as_it_grows,
    "history": a_long_history_drawn,
}
"""What is measured at a server, by the names that `./run bench NAME…` takes; each in a run of its own is quietest."""


def large(asked: list[str]) -> None:
    """Up to a million closed jobs; `--at 10,300` of thousands of them, `--backups 10` those too, `--pages` what pages cost alone."""
    from tests.large.measuring import SIZES, measured

    def named(option: str, otherwise: tuple[int, ...]) -> tuple[int, ...]:
        return tuple(map(int, asked[asked.index(option) + 1].split(","))) if option in asked else otherwise

    sizes = named("--at", SIZES)
    setup_test_environment()
    runner = get_runner(settings)(verbosity=0, interactive=False)
    databases = runner.setup_databases()
    try:
        with served() as url:
            measured(url, sizes, named("--backups", ()), "--pages" in asked)
    finally:
        connection.close()
        runner.teardown_databases(databases)


def main(asked: list[str]) -> None:
    if "--large" in asked:
        large(asked)
        return
    if not asked or "core" in asked:
        core()
        one_entry()
        stand_ins()
    names = [name for name in MEASURED if not asked or name in asked]
    if not names:
        return
    setup_test_environment()
    runner = get_runner(settings)(verbosity=0, interactive=False)
    databases = runner.setup_databases()
    try:
        from tests.server.plant import Plant

        plant = Plant("Gannet Ness")
        with served() as url:
            for name in names:
                MEASURED[name](url, plant)
        if not asked:
            from_cold(plant)
    finally:
        connection.close()
        runner.teardown_databases(databases)


if __name__ == "__main__":
    main(sys.argv[1:])
