"""`./run bench`: speed, measured as ratios within one run, since machines are noisy."""

import os
import sys
from collections.abc import Callable
from typing import Any

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tests.settings")
django.setup()

from django.db import connection  # noqa: E402
from django.test.utils import get_runner, setup_test_environment  # noqa: E402

from django.conf import settings  # noqa: E402  isort: skip
from tests.served import served  # noqa: E402
from tests.speed.browser import a_long_history_drawn, in_the_browser, without_signal  # noqa: E402
from tests.speed.core import at_stand_ins, core, one_entry  # noqa: E402
from tests.speed.server import as_it_grows, from_cold, many_benches, many_systems, over_http  # noqa: E402

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
        at_stand_ins()
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
