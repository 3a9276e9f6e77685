"""`./run bench`: speed, measured as ratios within one run, since machines are noisy."""

import os
import socket
import statistics
import subprocess
import sys
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import Any

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tests.settings")
django.setup()

from django.db import connection  # noqa: E402
from django.test.utils import get_runner, setup_test_environment  # noqa: E402

from django.conf import settings  # noqa: E402  isort: skip
from tests.core.jobs import AGREEING, belt  # noqa: E402
from wary.document import read  # noqa: E402


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


def show(name: str, took: list[float], against: list[float] | None = None) -> None:
    median, p95 = statistics.median(took), statistics.quantiles(took, n=20)[-1]
    ratio = f"   × {median / statistics.median(against):.2f} of the trivial one" if against else ""
    print(f"{name:58} median {median:8.2f} ms   p95 {p95:8.2f} ms{ratio}")


def core() -> None:
    """Assessing in the core alone."""
    small = read(belt([*AGREEING, AGREEING[0]], factor=1.142, factor_decimals=4, reference_division="20 kg"))
    large = read(belt(AGREEING * 50, factor=1.142, factor_decimals=4, reference_division="20 kg"))
    few, many = timed(small.assess, 200), timed(large.assess, 60)
    show("core: assess a job of 5 runs", few)
    show("core: assess a job of 200 runs", many)
    print(f"{'':58} 40 times the runs cost {statistics.median(many) / statistics.median(few):.1f} times as much")


def over_http(url: str, plant: Any) -> None:
    """One entry and its new call, against a trivial signed-in endpoint of the same server."""
    import httpx

    client = httpx.Client(base_url=url)
    client.get("/sign-in")
    token = {"X-CSRFToken": client.cookies["csrftoken"], "Origin": url}
    signed = client.post(
        "/api/sign-in", json={"username": plant.technician.username, "password": "a-long-enough-one"}, headers=token
    )
    assert signed.status_code == 200, signed.text
    token = {"X-CSRFToken": client.cookies["csrftoken"], "Origin": url}
    trivial = timed(lambda: client.get("/api/me").raise_for_status(), 150)
    show("http: a trivial signed-in endpoint", trivial)
    for count, job in ((5, full_job(plant, 5)), (300, full_job(plant, 75))):

        def enter(job: Any = job) -> None:
            body = [{"id": str(uuid.uuid4()), "path": "runs.r1.gross", "text": "34.10 t"}]
            client.post(f"/api/jobs/{job.id}/entries", json=body, headers=token).raise_for_status()

        show(
            f"http: one entry → new call, job of {count} {'runs' if count == 5 else 'entries'}",
            timed(enter, 100),
            trivial,
        )
        show(
            "http: that job opened",
            timed(lambda job=job: client.get(f"/api/jobs/{job.id}").raise_for_status(), 40),
            trivial,
        )


def full_job(plant: Any, runs: int) -> Any:
    from tests.server.plant import enter
    from tests.server.plant import runs as texts

    job = plant.job()
    loads = [("34.10", "12.76", "21.66"), ("32.61", "12.74", "20.13"), ("33.35", "12.74", "20.91")]
    enter(job, plant.technician, {"inputs.zero_done": "job"} | texts([loads[n % 3] for n in range(runs)]))
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
    loaded = timed(lambda: (page.goto(f"/jobs/{job.id}"), page.locator(".verdict").first.wait_for()), 8)
    show("browser: the job's page, until the call is shown", loaded)
    page.get_by_role("navigation", name="Run sheet").get_by_role("button", name="As found").click()
    page.locator(".tally-number").nth(2).click()
    shown = page.get_by_role("textbox", name="Shown", exact=True)
    took = []
    for number in range(30):
        shown.fill(f"20.{80 + number % 15}")
        took.append(page.evaluate(PRESS_TO_CALL))
    show("browser: key press → new call shown", took)


PRESS_TO_CALL = """() => new Promise((done) => {
  const lead = document.querySelector(".call-lead");
  const start = performance.now();
  new MutationObserver((_, watching) => {
    watching.disconnect();
    requestAnimationFrame(() => done(performance.now() - start));
  }).observe(document.querySelector(".call"), { childList: true, characterData: true, subtree: true });
  document.activeElement.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
})"""


@contextmanager
def served() -> Iterator[str]:
    """The application as it is served for real, on the tests' database."""
    name = settings.DATABASES["default"]["NAME"]
    address = os.environ["DATABASE_URL"].rpartition("/")[0]
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    environment = os.environ | {"DATABASE_URL": f"{address}/{name}", "BEACON_POOL": "1"}
    command = [
        sys.executable,
        "-m",
        "uvicorn",
        "beacon.asgi:application",
        "--port",
        str(port),
        "--log-level",
        "warning",
    ]
    server = subprocess.Popen(command, env=environment | {"BEACON_URL": f"http://127.0.0.1:{port}"})
    try:
        for _ in range(100):
            with suppress(OSError), socket.create_connection(("127.0.0.1", port), timeout=1):
                break
            time.sleep(0.1)
        yield f"http://127.0.0.1:{port}"
    finally:
        server.terminate()
        server.wait()


def main() -> None:
    core()
    setup_test_environment()
    runner = get_runner(settings)(verbosity=0, interactive=False)
    databases = runner.setup_databases()
    try:
        from tests.server.plant import Plant

        plant = Plant("Gannet Ness")
        with served() as url:
            over_http(url, plant)
            in_the_browser(url, plant)
    finally:
        connection.close()
        runner.teardown_databases(databases)


if __name__ == "__main__":
    main()
