"""`begin NAME ADDRESS`: an organisation with its starting limits and its first lead."""

import getpass
import os
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from beacon.people.models import Membership, Organisation, Person, Role
from beacon.plant.models import Site, starting_profiles

DEMO = "Gannet Ness Kelp & Shell"
"""What the demo's organisation is called: never one that is begun for real."""


class Command(BaseCommand):
    help = "Makes an organisation, one site of the same name, and its first lead."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("organisation")
        parser.add_argument("address", help="what the lead signs in with")
        parser.add_argument("--name", default="", help="the lead's name")
        parser.add_argument("--time-zone", default="UTC")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        password = os.environ.get("BEACON_PASSWORD") or getpass.getpass("Password: ")
        address = options["address"].lower()
        if options["organisation"] == DEMO or Organisation.objects.filter(name=DEMO).exists():
            raise CommandError("This database holds the demo, whose passwords everyone knows. Begin in one of its own.")
        if Person.objects.filter(username=address).exists():
            raise CommandError(f"{address} is there already.")
        lead = Person(username=address, email=address, name=options["name"] or address.partition("@")[0])
        try:
            validate_password(password, lead)
        except ValidationError as weak:
            raise CommandError(" ".join(weak.messages)) from None
        lead.set_password(password)
        lead.save()
        made = Organisation.objects.create(name=options["organisation"])
        starting_profiles(made)
        Site.objects.create(organisation=made, name=options["organisation"], time_zone=options["time_zone"])
        Membership.objects.create(person=lead, organisation=made, role=Role.LEAD)
        self.stdout.write(f"{made} begins, with {lead} as its lead.")
