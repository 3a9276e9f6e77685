"""The workers of what is done in the background: inside the server's process, or beside it by `manage.py work`.

What is to be done is a row of the same database, put there in the transaction of what it follows from: both are kept,
or neither. A worker that dies holding one is noticed by its heart that no longer beats, and another does it. There are
several, so that what takes long never stands before what somebody waits for.
"""

import asyncio
import logging
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from procrastinate import App, PsycopgConnector
from procrastinate.contrib.django import app
from procrastinate.contrib.django.utils import connector_params

LOG = logging.getLogger(__name__)
AGAIN_AFTER = 5.0
"""So long they wait before they begin anew where the database is away, s."""


@dataclass(frozen=True)
class Line:
    """One worker: which queues it takes from, and how much of it at a time; `hears` whether it is told of what
    is new."""

    name: str
    queues: tuple[str, ...]
    at_once: int
    hears: bool = False


LINES = (
    Line("mails, and what the clock asks for", ("default", "messages"), 3, hears=True),
    Line("what other programs are told", ("hooks",), 6, hears=True),
    Line("archives and spreadsheets", ("archives", "spreadsheets"), 1, hears=True),
    Line("the night's work", ("nightly",), 1),
)
THREADS = sum(line.at_once for line in LINES) + 8


async def keep_working() -> None:
    """Does what is to be done, until it is cancelled; begins anew where the database was away."""
    asyncio.get_running_loop().set_default_executor(ThreadPoolExecutor(THREADS, thread_name_prefix="working"))
    while True:
        try:
            # The application's own connector belongs to requests; workers listen, and have one of their own.
            connector = PsycopgConnector(kwargs=connector_params(), min_size=1, max_size=len(LINES) + 4)
            working = app.with_connector(connector)
            async with working.open_async():
                await _all_lines(working)
            return
        except asyncio.CancelledError:
            raise
        except Exception:
            LOG.warning("What is done in the background stopped, and begins anew.", exc_info=True)
            await asyncio.sleep(AGAIN_AFTER)


async def _all_lines(working: App) -> None:
    """All of them, or none: where one ends the others are ended, and all begin anew."""
    under_way = [asyncio.create_task(_line(working, line)) for line in LINES]
    try:
        await asyncio.gather(*under_way)
    finally:
        for one in under_way:
            one.cancel()
        await asyncio.gather(*under_way, return_exceptions=True)


async def _line(working: App, line: Line) -> None:
    await working.run_worker_async(
        queues=list(line.queues),
        name=line.name,
        concurrency=line.at_once,
        listen_notify=line.hears,
        install_signal_handlers=False,
        delete_jobs="successful",
    )
