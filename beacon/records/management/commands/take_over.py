"""`take_over FILE WHY WHO`: brings the database of a backup up to this version, and verifies its records."""

import os
import sys
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.db.migrations.exceptions import InvalidBasesError, NodeNotFoundError
from django.db.migrations.loader import MigrationLoader

from beacon.backups import NEWER, UNFIT
from beacon.records.models import Restored
from beacon.records.verifying import MOST_SAID, Broken, verify
from beacon.records.walking import by_several


class Command(BaseCommand):
    help = "Brings the database of a backup up to this version, verifies its records, and notes why it is put back where they do not fit."

    def add_arguments(self, parser: CommandParser) -> None:
        for name in ("file", "why", "who"):
            parser.add_argument(name)

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            loader = MigrationLoader(connection)
            unknown = set(loader.applied_migrations) - set(loader.disk_migrations)
            # An application that is not used any more is another thing: what it left is in nobody's way.
            newer = sorted(f"{app}.{name}" for app, name in unknown if app in loader.migrated_apps)
            if newer:
                raise NodeNotFoundError(f"{newer[0]} is not known here", (newer[0], ""))
            call_command("migrate", verbosity=0, interactive=False)
        except (NodeNotFoundError, InvalidBasesError) as why:
            self.stderr.write(str(why))
            sys.exit(NEWER)
        found = list(verify(walk=by_several(os.cpu_count() or 1)))
        breaks = [vars(one) for one in found if isinstance(one, Broken)]
        for one in found:
            self.stdout.write(str(one))
        if breaks and not options["why"]:
            sys.exit(UNFIT)
        if breaks:
            Restored.objects.create(
                file=options["file"][-300:],
                why=options["why"][:300],
                by=options["who"][:120],
                breaks=breaks[:MOST_SAID],
            )
