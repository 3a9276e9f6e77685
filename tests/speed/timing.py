"""How long something takes, told beside what it is held against, and what is measured on."""

import datetime
import statistics
import time
from collections.abc import Callable
from typing import Any

from django.db import connection


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


def browserless(url: str) -> Any:
    """A client that lets a connection go before the server does, which it does after five seconds."""
    import httpx

    return httpx.Client(base_url=url, timeout=120, limits=httpx.Limits(keepalive_expiry=2))


def timed_once(work: Callable[[], Any]) -> float:
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000


def full_job(plant: Any, runs: int) -> Any:
    from tests.server.plant import enter
    from tests.server.plant import runs as texts

    job = plant.job()
    loads = [("34.10", "12.76", "21.66"), ("32.61", "12.74", "20.13"), ("33.35", "12.74", "20.91")]
    enter(job, plant.technician, {"inputs.zero_done": "job"} | texts([loads[n % 3] for n in range(runs)]))
    return job


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
