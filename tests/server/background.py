"""What is to be done in the background, done now, by a worker as the server has one."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

from asgiref.sync import sync_to_async
from django.db import connection, connections
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.periodic import PeriodicRegistry


def work() -> None:
    """Does all that is to be done by now, and ends."""

    async def done() -> None:
        working = app.with_connector(app.connector.get_worker_connector())  # type: ignore[attr-defined]
        # What the clock asks for is done by tests that say so, not by whichever test runs at that minute of the night.
        working.periodic_registry = PeriodicRegistry()
        async with working.open_async():
            await working.run_worker_async(wait=False, install_signal_handlers=False, listen_notify=False)
        # Threads of the worker's loop stay, each with a connection of its own.
        await sync_to_async(connections.close_all)()

    # In a thread of its own: a test that drives a browser has a loop already.
    with ThreadPoolExecutor(1) as one:
        one.submit(lambda: asyncio.run(done())).result()


def make_due() -> None:
    """Makes due what waits for its time."""
    ids = list(ProcrastinateJob.objects.filter(status="todo").values_list("id", flat=True))
    with connection.cursor() as cursor:
        cursor.execute("update procrastinate_jobs set scheduled_at = null where id = any(%s)", [ids])
