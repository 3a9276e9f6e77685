"""One of several processes that walk chains. It is begun anew, so that nothing of the program is there before `begin`."""

import gc
from typing import TYPE_CHECKING
from uuid import UUID

import django

if TYPE_CHECKING:
    from beacon.records.sealing import Handed
    from beacon.records.verifying import Verified


def begin(name: str) -> None:
    """Begins the program in this process, at the database of this name."""
    django.setup()
    from django.db import connection

    connection.settings_dict["NAME"] = name
    # What is read of a record is let go of with it: looking for rings among it, again and again, takes half of the time.
    gc.freeze()
    gc.set_threshold(200_000, 20, 50)


def verified(given: "tuple[UUID, list[Handed]]") -> "Verified":
    """What a walk of one chain comes to; `given` are its organisation and the seals of it that are kept elsewhere."""
    from beacon.people.models import Organisation
    from beacon.records import verifying

    organisation, against = given
    return verifying.verify_chain(Organisation.objects.get(pk=organisation), against)
