"""A stand-in instrument on loopback for the tests, in a thread with a loop of its own."""

import asyncio
import threading
from collections.abc import Iterator
from contextlib import contextmanager

from beacon.links.instrument import Instrument
from wary.simulators.scripts import Player
from wary.simulators.speech import Speech, Trouble

FILLED = 20.0
"""The second of its script at which the cart stands filled with 3 900 kg."""


@contextmanager
def on_the_line(
    name: str = "platform", speech: Speech = "simple", trouble: Trouble = "", held_at: float | None = 0.0
) -> Iterator[tuple[Instrument, int]]:
    """An instrument that sends, and its port. It stands at the beginning of its script, so that a busy machine changes nothing; None lets it go on."""
    instrument = Instrument(Player(name), speech, trouble, held_at)
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
