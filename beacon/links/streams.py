"""Readings as server-sent events: what a page is told while it listens.

Between two readings a stream holds no thread and no database connection.
"""

import asyncio
import time
from collections.abc import AsyncIterator

from django.db import connection
from django.http import StreamingHttpResponse

from beacon.links.hub import Feed, Where, listening
from beacon.metrics import STREAMS
from beacon.people.still import Listener, listening_as

EVERY = 0.4
"""How often a page is told, s."""
SECONDS_OPEN = 600
BREATH = 10.0
"""A stream that has nothing to say shows after so many seconds that it is there."""
RETRY = b"retry: 500\n\n"


def given_back() -> None:
    """Gives this thread's connection back, unless something is still under way on it."""
    if not connection.in_atomic_block:
        connection.close()


def streamed(events: AsyncIterator[bytes]) -> StreamingHttpResponse:
    """An answer that is a stream of events."""
    response = StreamingHttpResponse(events, content_type="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"
    # Said to be encoded already, so that the stream is not held back to be compressed.
    response.headers["Content-Encoding"] = "identity"
    return response


def event(data: bytes) -> bytes:
    """One event, of one line of JSON."""
    return b"data: " + data + b"\n\n"


async def told(where: Where, to: Listener) -> AsyncIterator[bytes]:
    """What an instrument says, until the reader goes away or may not listen any more, or ten minutes are over."""
    STREAMS.inc()
    try:
        yield RETRY
        with listening_as(to):
            async with listening(where) as feed:
                async for data in _news(feed, to):
                    yield data
    finally:
        STREAMS.dec()


async def _news(feed: Feed, to: Listener) -> AsyncIterator[bytes]:
    seen, spoke = -1, time.monotonic()
    until = spoke + SECONDS_OPEN
    while to.may and time.monotonic() < until and feed.task is not None and not feed.task.done():
        if feed.turn != seen:
            seen, spoke = feed.turn, time.monotonic()
            yield event(feed.said())
        elif time.monotonic() - spoke > BREATH:
            spoke = time.monotonic()
            yield b": here\n\n"
        await asyncio.sleep(EVERY)
