"""`bring_back FILE`: an organisation out of its archive, on a server that has nothing of it."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from beacon.archive.bringing import NotBrought, bring_back


class Command(BaseCommand):
    help = "Brings an organisation back out of its archive, as a whole or not at all. Its people ask for a password by mail."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument(
            "--although", default="", help="why, where its records do not fit; that stands on the record"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        if not options["file"].is_file():
            raise CommandError(f"There is no file {options['file']}.")
        try:
            here = bring_back(options["file"], options["although"])
        except NotBrought as why:
            raise CommandError(str(why)) from None
        self.stdout.write(f"{here} is here again: {here.records.count()} records, {here.memberships.count()} people.")
