"""A reference as it is when a job names it: as it was typed, or as the system that it stands for was last proven."""

import datetime
import uuid

from beacon.plant.models import Reference, System
from wary.job.closing import state_in_words
from wary.references import ReferenceOnRecord, Weight
from wary.references import handed_down as handing_down

PROVEN = ("in-order", "limited")


def reference_on_record(reference: Reference, used: str = "") -> ReferenceOnRecord:
    """A reference as texts; `used` names the weights of a set that are used."""
    plain = ("range", "division", "uncertainty", "nominal", "tare", "certificate")
    texts = {key: getattr(reference, key) for key in plain}
    if reference.system:
        texts |= handed_down(reference.system)
    weights = tuple(
        Weight(**{key: row.get(key, "") for key in Weight.__dataclass_fields__}) for row in reference.weights
    )
    due = due_of(reference)
    return ReferenceOnRecord(
        kind=reference.kind,
        name=reference.name,
        due=due.isoformat() if due else "",
        weights=weights,
        used=used,
        **texts,
    )


MOST_AT_HAND = 500


def references_at_hand(organisation: uuid.UUID, practice: bool = False) -> dict[str, dict[str, object]]:
    """The references that may be named in a job, by their ids, as a device takes them along."""
    found = Reference.objects.filter(organisation=organisation)
    if not practice:
        found = found.filter(practice=False)
    listed = found.select_related("system").order_by("name")[:MOST_AT_HAND]
    return {str(one.pk): reference_on_record(one).as_document() for one in listed}


def due_of(reference: Reference) -> datetime.date | None:
    """Until when a reference is in date; a system that is not in order is out of date since it was last closed."""
    system = reference.system
    if system is None:
        return reference.due
    if system.state in PROVEN:
        return system.due
    last = (
        datetime.datetime.fromisoformat(str(system.last["closed_at"])).date()
        if system.last
        else datetime.date(2000, 1, 1)
    )
    return min(last, datetime.date.today()) - datetime.timedelta(days=1)


def handed_down(system: System) -> dict[str, str]:
    """What a proven system hands to others."""
    return handing_down(
        system.last or {}, system.plates, f"{system.name}, {state_in_words(system.recorded_state, system.last)}"[:80]
    )
