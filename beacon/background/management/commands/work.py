"""`work`: does what is to be done in the background, beside the server, until it is ended."""

import asyncio
import signal
from contextlib import suppress
from typing import Any

from django.core.management.base import BaseCommand

from beacon.background.worker import keep_working


class Command(BaseCommand):
    """The workers in a process of their own."""

    help = "Does what is to be done in the background, until it is ended."

    def handle(self, *given: Any, **more: Any) -> None:
        """Works until it is told to end; what is under way is done first."""
        asyncio.run(_until_ended())


async def _until_ended() -> None:
    working = asyncio.create_task(keep_working())
    for which in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(which, working.cancel)
    with suppress(asyncio.CancelledError):
        await working
