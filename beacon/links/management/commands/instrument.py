"""Puts a stand-in instrument on the line, on loopback."""

import asyncio
from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from beacon.links.instrument import Instrument
from wary.simulators.scripts import SCRIPTS, Player
from wary.simulators.speech import SPEECHES, TROUBLES


class Command(BaseCommand):
    help = "A stand-in instrument that sends its readings over TCP on 127.0.0.1 until it is ended."

    # It asks nothing of the application: it is another device.
    requires_system_checks = []

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("kind", nargs="?", default=next(iter(SCRIPTS)), choices=sorted(SCRIPTS))
        parser.add_argument("--port", type=int, default=8461)
        parser.add_argument("--speaks", default="simple", choices=sorted(SPEECHES))
        parser.add_argument("--trouble", default="", choices=TROUBLES)
        parser.add_argument("--seed", type=int, default=7)

    def handle(self, *args: Any, **given: Any) -> None:
        instrument = Instrument(Player(given["kind"], given["seed"]), given["speaks"], given["trouble"])

        async def run() -> None:
            async with instrument.listening(given["port"]) as port:
                self.stdout.write(f"A {given['kind']} is on the line at 127.0.0.1:{port}. Ctrl-C ends it.")
                self.stdout.flush()
                await asyncio.Event().wait()

        try:
            asyncio.run(run())
        except KeyboardInterrupt:
            return
        except OSError as taken:
            raise CommandError(
                f"Port {given['port']} cannot be used: {taken.strerror}. Choose another: --port 8462"
            ) from None
