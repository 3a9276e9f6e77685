"""A verification that was asked for, or that the night did, with what it found."""

from django.utils import timezone

from beacon.people.models import Organisation, Person
from beacon.records.models import Verification
from beacon.records.verifying import MOST_SAID, Verified, verify_chain


def verify_and_note(organisation: Organisation, who: Person | None = None) -> Verified:
    """Walks an organisation's chain, and keeps what was found; `who` asked for it, nobody where the night did."""
    found = verify_chain(organisation)
    note(organisation, found, who)
    return found


def note(organisation: Organisation, found: Verified, who: Person | None = None) -> None:
    """Keeps what a walk of a chain found."""
    first = found.broken[0] if found.broken else None
    Verification.objects.create(
        organisation=organisation,
        at=timezone.now(),
        who=who,
        records=found.count,
        number=first.number if first else None,
        why=first.why[:300] if first else "",
        breaks=[{"number": one.number, "system": one.system, "why": one.why} for one in found.broken[:MOST_SAID]],
    )
