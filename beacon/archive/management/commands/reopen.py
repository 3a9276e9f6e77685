"""`reopen NAME`: an organisation that was closed goes on, with the people that it had."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from beacon.archive.closing import reopen
from beacon.archive.models import Closing


class Command(BaseCommand):
    help = "Opens an organisation again that one of its leads closed."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("organisation")

    def handle(self, *args: Any, **options: Any) -> None:
        found = Closing.objects.filter(organisation__name=options["organisation"], reopened_at=None).first()
        if found is None:
            raise CommandError(f"No organisation of the name “{options['organisation']}” is closed.")
        count = reopen(found)
        self.stdout.write(f"{found.organisation} is open again, with {count} people.")
        if found.ended:
            self.stdout.write("What ended with it does not come back; a lead sets it up again:")
        for what, names in found.ended.items():
            self.stdout.write(f"  {what}: {', '.join(names)}")
