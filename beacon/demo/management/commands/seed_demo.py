"""`seed_demo`: the made-up co-operative, once; `--sign-ins` prints who may sign in."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from beacon.demo import scenario
from beacon.demo.seed import NotADemo, seed


class Command(BaseCommand):
    help = "Fills the database with the demo's plant, people and past, where it is not there yet."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--sign-ins", action="store_true", help="print who may sign in")

    def handle(self, *args: Any, **options: Any) -> None:
        if not options["sign_ins"]:
            try:
                seed()
            except NotADemo as begun:
                raise CommandError(str(begun)) from None
            return
        for one in scenario.PEOPLE:
            self.stdout.write(f"  {one.address:28} {scenario.PASSWORD}   {one.name}, {one.role}")
