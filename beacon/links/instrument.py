"""A stand-in instrument on the line: a machine that behaves like one, and sends its readings over TCP.

It plays one of the stand-ins over and over, and can misbehave in the ways in which instruments do.
"""

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator

from wary.simulators.scripts import Player
from wary.simulators.speech import SPEECHES, Speech, Trouble, troubled

EVERY = 0.2


class Instrument:
    """A server that sends a stand-in's readings to whoever connects. `trouble` may be changed while it runs.

    Its stand-in goes through its script by the clock, or stands at one second of it for as long as `held_at` is given.
    """

    def __init__(
        self, player: Player, speech: Speech = "simple", trouble: Trouble = "", held_at: float | None = None
    ) -> None:
        self.player, self.speech, self.trouble, self.held_at = player, SPEECHES[speech], trouble, held_at
        self.began = time.monotonic()
        self.connections = 0

    def lines(self) -> str:
        """What is sent now."""
        if self.trouble == "nonsense":
            return "\x00\xff~~ ## 12..34 ###\r\n"
        if self.trouble == "over":
            return "weight=over\n"
        now = time.monotonic() - self.began if self.held_at is None else self.held_at
        shown = troubled(self.player.shows(now), self.trouble)
        text = "".join(f"{line}\r\n" for line in self.speech(shown))
        return text[: len(text) // 2] if self.trouble == "half" else text * (20_000 if self.trouble == "flood" else 1)

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Sends readings until the other side goes away; what it says is not listened to."""
        self.connections += 1
        try:
            while True:
                if self.trouble != "silent":
                    writer.write(self.lines().encode("latin-1", "replace"))
                    await writer.drain()
                await asyncio.sleep(0 if self.trouble == "flood" else EVERY)
        except (OSError, asyncio.CancelledError):
            # The other side went away, or this one is ended.
            pass
        finally:
            self.connections -= 1
            writer.close()

    @contextlib.asynccontextmanager
    async def listening(self, port: int = 0) -> AsyncIterator[int]:
        """Listens on loopback; gives the port."""
        server = await asyncio.start_server(self.serve, "127.0.0.1", port)
        try:
            yield server.sockets[0].getsockname()[1]
        finally:
            server.close()
