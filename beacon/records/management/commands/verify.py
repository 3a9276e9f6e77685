"""`verify`: walks every organisation's chain of sealed records."""

import sys
from typing import Any

from django.core.management.base import BaseCommand

from beacon.records.sealing import Broken, verify


class Command(BaseCommand):
    help = "Walks the chains of sealed records and names the first link that does not fit."

    def handle(self, *args: Any, **options: Any) -> None:
        bad = False
        for found in verify():
            if isinstance(found, Broken):
                bad = True
                self.stdout.write(
                    f"{found.organisation}: record {found.number} ({found.system}) does not fit: {found.why}."
                )
            else:
                self.stdout.write(found)
        if bad:
            sys.exit(1)
