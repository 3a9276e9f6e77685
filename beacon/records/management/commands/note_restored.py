"""`note_restored FILE WHY WHO`: that a backup was put back although its records do not fit."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from beacon.records.models import Restored
from beacon.records.verifying import MOST_SAID, Broken, verify


class Command(BaseCommand):
    help = "Notes on the record that a backup was put back although its records do not fit, with why."

    def add_arguments(self, parser: CommandParser) -> None:
        for name in ("file", "why", "who"):
            parser.add_argument(name)

    def handle(self, *args: Any, **options: Any) -> None:
        breaks = [vars(one) for one in verify() if isinstance(one, Broken)]
        Restored.objects.create(
            file=options["file"][-300:], why=options["why"][:300], by=options["who"][:120], breaks=breaks[:MOST_SAID]
        )
