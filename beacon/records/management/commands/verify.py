"""`verify`: verifies every organisation's chain of sealed records."""

import os
import sys
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from beacon.records.sealing import read_seals
from beacon.records.verifying import Broken, verify
from beacon.records.walking import by_several


class Command(BaseCommand):
    help = "Walks the chains of sealed records and names everything that does not fit."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--against", help="a list of seals that was kept elsewhere, as CSV")
        parser.add_argument("--workers", type=int, default=os.cpu_count() or 1, help="so many processes walk at once")
        parser.add_argument(
            "--go-on", action="store_true", help="leave out what was walked within a day, fitted, and has not grown"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        bad, against = False, None
        if options["against"]:
            try:
                against = read_seals(Path(options["against"]).read_bytes())
            except (OSError, ValueError) as unread:
                raise CommandError(f"{options['against']} cannot be read as a list of seals: {unread}") from None
        for found in verify(against, by_several(options["workers"], options["go_on"])):
            if isinstance(found, Broken):
                bad = True
            self.stdout.write(str(found))
        if bad:
            sys.exit(1)
