"""Instruments read over the network, each once in a process for all who listen to it.

A feed is a task of the event loop: it holds no thread and no database connection. It begins with
the first listener and ends some seconds after the last. It never sends anything; it takes what comes, of a flood only the
newest lines, and reconnects by itself.
"""

import asyncio
import contextlib
import time
from collections import deque
from collections.abc import AsyncIterator
from dataclasses import dataclass
from ipaddress import ip_address
from weakref import WeakKeyDictionary

from beacon.links.allow_list import allowed
from wary.lines import cleaned
from wary.live import Live
from wary.reading import Display, Taught

CHUNK, TAIL = 1 << 20, 8192
"""The most that is taken at once, and how much of it is looked at: the newest."""
PAUSE = 0.05
"""Between two looks at what came, s: so no source is read more than twenty times a second."""
LINES_KEPT = 20
CONNECTING, QUIET = 3.0, 10.0
"""How long a connection may take to be made, and how long one that says nothing is kept, s."""
AGAIN = (0.5, 1.0, 2.0, 5.0)
"""Waits before the next try, s."""
LINGERS = 3.0
ENDLESS = 2.0
"""Text that has no end of a line for so many seconds is said to have none."""


@dataclass(frozen=True)
class Line:
    """A line that came: its text, and when, s."""

    text: str
    at: float


@dataclass(frozen=True)
class Where:
    """An instrument as it is reached, and what a lead taught of it."""

    key: str
    address: str
    port: int
    taught: Taught


class Feed:
    """One instrument, read for all who listen. `turn` grows with every line that came; `fault` says why none does."""

    def __init__(self, where: Where) -> None:
        self.where = where
        self.listeners, self.left_at = 0, time.monotonic()
        self.turn = 0
        self.fault = "Connecting."
        self.lines: deque[Line] = deque(maxlen=LINES_KEPT)
        self.display = Display(where.taught)
        self.flooded = False
        self.task: asyncio.Task[None] | None = None
        self._said: tuple[int, bytes] | None = None

    def live(self) -> Live:
        """What it shows now; without a reading it says why."""
        found = self.display.live(time.monotonic())
        return found if found.readouts or found.fault else found.model_copy(update={"fault": self.fault})

    def said(self) -> bytes:
        """The same as JSON, written once for all listeners."""
        if self._said is None or self._said[0] != self.turn:
            self._said = (self.turn, self.live().model_dump_json().encode())
        return self._said[1]

    def deserted(self) -> bool:
        """Whether nobody has listened for a while."""
        return self.listeners == 0 and time.monotonic() - self.left_at > LINGERS

    async def run(self) -> None:
        """Reads until nobody has listened for a while."""
        tries = 0
        while not self.deserted():
            try:
                if not allowed(ip_address(self.where.address)):
                    raise OSError("its address is on no network where instruments may be")
                connecting = asyncio.open_connection(self.where.address, self.where.port)
                reader, writer = await asyncio.wait_for(connecting, CONNECTING)
            except (OSError, TimeoutError) as away:
                self._lost(f"{self.where.address}:{self.where.port} cannot be reached: {_why(away)}. Trying again.")
                await asyncio.sleep(AGAIN[min(tries, len(AGAIN) - 1)])
                tries += 1
                continue
            try:
                self.fault = "Connected; nothing was sent yet."
                await self._read(reader)
                tries = 0
                self._lost("The connection was closed by the instrument. Connecting again.")
            except (OSError, TimeoutError):
                self._lost("Nothing is sent any more. Connecting again.")
            finally:
                writer.close()
                with contextlib.suppress(OSError, TimeoutError):
                    await asyncio.wait_for(writer.wait_closed(), 1)
            await asyncio.sleep(AGAIN[0])

    async def _read(self, reader: asyncio.StreamReader) -> None:
        rest, ended = b"", time.monotonic()
        while not self.deserted():
            came = await asyncio.wait_for(reader.read(CHUNK), QUIET)
            if not came:
                return
            rest = (rest + came)[-TAIL:]
            self.flooded = len(came) > TAIL
            *whole, rest = rest.replace(b"\r\n", b"\n").replace(b"\r", b"\n").split(b"\n")
            now = time.monotonic()
            if whole:
                ended = now
            elif now - ended > ENDLESS:
                self._lost("It sends text without the end of a line. Look how it is set.")
            for raw in whole[-LINES_KEPT:]:
                text = cleaned(raw)
                if text.strip():
                    self.lines.append(Line(text, now))
                    self.display.take(text, now)
                    self.turn += 1
            await asyncio.sleep(PAUSE)

    def _lost(self, fault: str) -> None:
        self.fault = fault
        self.display = Display(self.where.taught)
        self.turn += 1


def _why(away: BaseException) -> str:
    if isinstance(away, ConnectionRefusedError):
        return "it refuses the connection"
    return "it does not answer" if isinstance(away, TimeoutError) or not str(away) else str(away)


_FEEDS: WeakKeyDictionary[asyncio.AbstractEventLoop, dict[str, Feed]] = WeakKeyDictionary()


@contextlib.asynccontextmanager
async def listening(where: Where) -> AsyncIterator[Feed]:
    """The feed of an instrument, for as long as somebody listens; it is shared with all others in this process."""
    feeds = _FEEDS.setdefault(asyncio.get_running_loop(), {})
    feed = feeds.get(where.key)
    if feed is None or feed.where != where or feed.task is None or feed.task.done():
        if feed is not None and feed.task is not None and feed.where != where:
            # It was taught otherwise, or is elsewhere now: whoever still listens to the old one asks again.
            feed.task.cancel()
        feed = feeds[where.key] = Feed(where)
        feed.task = asyncio.create_task(feed.run())
    feed.listeners += 1
    try:
        yield feed
    finally:
        feed.listeners, feed.left_at = feed.listeners - 1, time.monotonic()
