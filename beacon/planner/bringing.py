"""What to bring to a machine and what to arrange: references that suit, material with tonnes and minutes, people."""

import datetime
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from beacon.plant.models import Reference, System
from beacon.plant.standing_for import due_of, reference_on_record
from beacon.plant.view import profile_of, relative
from wary.machines import all_machines
from wary.quantities import NotAQuantity, from_si, quantity, shown
from wary.rules.planning import belt_plan, smallest_amount

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
    usual = system.reference
    suiting = [one.name for one in references if one != usual and not why_not(one, system, today)]
    least = least_kg(usual, system) if usual else None
    amount, seconds = _material(system, least)
    arranged = f"{shown(amount / 1000, 3)} t in all" if amount else ""
    if seconds:
        arranged += f", {shown(seconds / 60, 2)} min of running"
    return Bringing(
        reference=usual.name if usual else "",
        least=f"at least {_shown(least, usual)} a run" if usual and least else "",
        why_not=why_not(usual, system, today) if usual else "",
        others=tuple(suiting[:MOST_SUITING]),
        tonnes=amount / 1000,
        minutes=seconds / 60,
        material=arranged,
        people=system.machine.people,
    )


@lru_cache(maxsize=4096)
def _mass(text: object) -> float | None:
    """A mass in kg; None where there is none to be read."""
    try:
        return quantity(str(text), "mass").si if text else None
    except NotAQuantity:
        return None


def why_not(reference: Reference, system: System, today: datetime.date) -> str:
    """Why a reference does not suit a system, in a few words; empty where it does."""
    due = due_of(reference)
    if due and due < today:
        return "not proven itself" if reference.system_id else "out of date"
    if reference.system_id == system.id:
        return "no reference for itself"
    capacity = _mass(system.plates.get("capacity"))
    if reference.kind == Reference.Kind.CONTAINER:
        return "only a container"
    if reference.kind == Reference.Kind.WEIGHTS:
        nominal = _mass(reference.nominal)
        if "test_load" not in _inputs(system.kind) and "test_mass" not in _inputs(system.kind):
            return "not tested with weights"
        return "heavier than it carries" if nominal and capacity and nominal > capacity else ""
    accept = profile_of(system).accept
    least = least_kg(reference, system)
    own = reference_on_record(reference)
    if own.division and accept and accept.percentage and least is None:
        return "too coarse for its limit"
    reach = _mass(own.range)
    if least and reach and least > reach:
        return "does not reach far enough"
    if least and capacity and least > capacity:
        return "asks for more than it carries"
    return ""


@lru_cache(maxsize=64)
def _inputs(kind: str) -> frozenset[str]:
    """The inputs of the methods of the usual visit of a kind of machine."""
    machine = all_machines()[kind]
    methods = machine.methods()
    return frozenset(
        key for part in machine.visit if part.method in methods for key in methods[part.method].inputs.model_fields
    )


def least_kg(reference: Reference, system: System) -> float | None:
    """`R_min` on this reference for this system's accept limit, in kg; None where it gives none."""
    accept = profile_of(system).accept
    own = reference_on_record(reference)
    if not own.division or not accept or not accept.percentage:
        return None
    return _least(own.division, own.uncertainty, accept.percentage)


@lru_cache(maxsize=1024)
def _least(division: str, uncertainty: str, accept: float) -> float | None:
    one = _mass(division)
    return smallest_amount(one, 2, relative(uncertainty) / 2, accept) if one else None


def _shown(amount: float, reference: Reference) -> str:
    unit = reference_on_record(reference).division.rpartition(" ")[2]
    unit = "t" if unit == "kg" and amount >= 2000 else unit
    return f"{shown(from_si(amount, unit), 3)} {unit}"


def _material(system: System, least: float | None) -> tuple[float, float]:
    """What real material is to be arranged for all runs in kg, and how many seconds it takes on a belt."""
    if not system.machine.bulk or not least:
        return 0.0, 0.0
    runs = profile_of(system).minimum_runs
    try:
        rate = quantity(str(system.plates["rated_rate"]), "rate").si
        turn = (
            quantity(str(system.plates["revolution_time"]), "time").si if system.plates.get("revolution_time") else None
        )
    except (KeyError, NotAQuantity):
        return least * runs, 0.0
    plan = belt_plan(rate, turn, least)
    return plan.amount * runs, plan.seconds * runs
