"""A stand-in instrument on loopback for the tests, in a thread with a loop of its own."""

import asyncio
import threading
from collections.abc import Iterator
from contextlib import contextmanager

from beacon.links.instrument import Instrument
from wary.simulators.scripts import Player
from wary.simulators.speech import Speech, Trouble


@contextmanager
def on_the_line(
    name: str = "platform", speech: Speech = "simple", trouble: Trouble = "", pace: float = 1.0
) -> Iterator[tuple[Instrument, int]]:
    """An instrument that sends, and its port."""
    instrument = Instrument(Player(name), speech, trouble, pace)
    ready, done = threading.Event(), threading.Event()
    found: list[int] = []

    async def run() -> None:
        async with instrument.listening() as port:
            found.append(port)
            ready.set()
            while not done.is_set():
                await asyncio.sleep(0.02)

    thread = threading.Thread(target=lambda: asyncio.run(run()), daemon=True)
    thread.start()
    if not ready.wait(10):
        raise AssertionError("the instrument did not begin")
    try:
        yield instrument, found[0]
    finally:
        done.set()
        thread.join(10)
