"""What to bring to a machine and what to arrange: references that suit, material with tonnes and minutes, people."""

import datetime
from collections.abc import Sequence
from dataclasses import dataclass

from beacon.plant.models import Reference, System
from beacon.plant.on_record import due_of, reference_on_record
from beacon.plant.view import profile_of
from wary.references import least_kg, least_words, material_for, why_unsuited

MOST_SUITING = 3


@dataclass(frozen=True)
class Bringing:
    """What a visit of one machine takes: its usual reference, others that suit, what is to be arranged."""

    reference: str = ""
    least: str = ""
    why_not: str = ""
    others: tuple[str, ...] = ()
    tonnes: float = 0.0
    minutes: float = 0.0
    material: str = ""
    people: int = 1


def bringing(system: System, references: Sequence[Reference], today: datetime.date) -> Bringing:
    """What to bring for a visit, out of the references of its organisation."""
    usual, profile = system.reference, profile_of(system)
    suiting = [one.name for one in references if one != usual and not why_not(one, system, today)]
    own = reference_on_record(usual) if usual else None
    least = least_kg(own, profile) if own else None
    material = material_for(system.machine, profile, least, system.plates)
    return Bringing(
        reference=usual.name if usual else "",
        least=least_words(own, least) if own and least else "",
        why_not=why_not(usual, system, today) if usual else "",
        others=tuple(suiting[:MOST_SUITING]),
        tonnes=material.amount / 1000,
        minutes=material.seconds / 60,
        material=material.words,
        people=system.machine.people,
    )


def why_not(reference: Reference, system: System, today: datetime.date) -> str:
    """Why a reference does not suit a system, in a few words; empty where it does."""
    due = due_of(reference)
    if due and due < today:
        return "not proven itself" if reference.system_id else "out of date"
    if reference.system_id == system.id:
        return "no reference for itself"
    capacity = str(system.plates.get("capacity") or "")
    return why_unsuited(reference_on_record(reference), system.machine, profile_of(system), capacity)
