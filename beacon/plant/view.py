"""Systems, references and limits as the API answers with them."""

import datetime
import json
from functools import lru_cache
from typing import Any
from uuid import UUID
from zoneinfo import ZoneInfo

from django.utils import timezone

from beacon.plant.lists import lists_of
from beacon.plant.models import Cell, Channel, CheckMass, Event, LimitProfile, Reference, Site, System
from beacon.plant.on_record import due_of, reference_on_record
from beacon.problems import Problem
from wary.fields import limit
from wary.machines.machine import Machine, Plate
from wary.methods import all_methods
from wary.references import off_in, what_it_shows
from wary.rules.call import Profile
from wary.rules.due import due_words
from wary.rules.profiles import ProfileGiven

Answer = dict[str, Any]
"""What a view hands to the response model of its endpoint."""


def today_at(zone: str) -> datetime.date:
    """The day that it is in a zone."""
    return timezone.now().astimezone(ZoneInfo(zone)).date()


def home_zone(organisation: UUID) -> str:
    """The zone of an organisation's first site: what belongs to no site goes by it."""
    first = Site.objects.filter(organisation=organisation).order_by("place", "name").values_list("time_zone", flat=True)
    return first.first() or "UTC"


def site_view(system: System) -> Answer:
    return {"id": system.site.id, "name": system.site.name, "time_zone": system.site.time_zone}


def machine_view(machine: Machine) -> Answer:
    return {
        "key": machine.key,
        "title": machine.title,
        "plates": plate_fields(machine),
        "channels": list(machine.channels),
    }


def plate_fields(machine: Machine) -> list[Answer]:
    """The plates that a machine of this kind can have."""
    return [_plate_field(one, machine) for one in machine.plates]


def _plate_field(plate: Plate, machine: Machine) -> Answer:
    title = machine.says.get(plate.key, plate.title)
    return {"key": plate.key, "title": title, "kind": plate.kind, "units": list(plate.units)}


def _lists(system: System) -> list[Answer]:
    return [
        {
            "key": key,
            "title": own.title,
            "columns": [{"key": k, "title": title} for k, title in own.columns],
            "rows": rows,
        }
        for key, (own, rows) in lists_of(system).items()
    ]


def profile_of(system: System) -> Profile:
    """The limits of a system."""
    return _filled(json.dumps(system.profile.as_given(), sort_keys=True), system.profile.key)


@lru_cache(maxsize=512)
def _filled(given: str, key: str) -> Profile:
    """Limits that were read once; an organisation has a handful of them for all its machines."""
    return ProfileGiven.model_validate(json.loads(given)).filled(key)


def system_record(system: System) -> Answer:
    """All that is on record of a system."""
    plain = ("id", "name", "kind", "material", "serial", "notes", "plates", "correction", "factor_name", "direction")
    return {key: getattr(system, key) for key in (*plain, "factor_decimals", "nominal_factor", "interval_days")} | {
        "kind_name": system.machine.title,
        "site": site_view(system),
        "state": system.state,
        "plate_fields": plate_fields(system.machine),
        "care": list(system.machine.care),
        "keeps_loads": bool(system.machine.loads_into),
        "has_card": bool(system.machine.card),
        "channel_name": system.machine.channel_name,
        "channel_fields": [_plate_field(one, system.machine) for one in system.machine.channel_plates],
        "lists": _lists(system),
        "channels": [channel_view(channel) for channel in system.channels.all()],
        "profile": system.profile.key,
        "profile_title": system.profile.title,
        "limits": profile_of(system).in_words(),
        "reference": system.reference_id,
        "instrument": system.instrument_id,
        "changes": [
            {"field": c.field, "before": c.before, "after": c.after, "why": c.why, "who": str(c.who), "at": c.at}
            for c in system.changes.select_related("who")[:30]
        ],
    }


def channel_view(channel: Channel) -> Answer:
    keys = ("id", "name", "factor", "test_weight_factor", "figures", "proved_at")
    return {key: getattr(channel, key) for key in keys}


def reference_view(reference: Reference, latest: CheckMass | None = None, today: datetime.date | None = None) -> Answer:
    """A reference as it stands; of a system what it hands down now. `latest` is the last look with a check mass."""
    today = today or today_at(home_zone(reference.organisation_id))
    now = reference_on_record(reference)
    due = due_of(reference)
    keys = ("division", "range", "uncertainty", "certificate", "nominal", "tare")
    return {key: getattr(now, key) for key in keys} | {
        "id": reference.id,
        "kind": reference.kind,
        "name": reference.name,
        "lent_by": reference.lent_by,
        "due": due,
        "checked_by": reference.checked_by,
        "overdue": bool(due and due < today),
        "due_words": due_words(due, today),
        "shows": what_it_shows(now),
        "label": reference.label,
        "weights": reference.weights,
        "system": reference.system_id,
        "checked_at": latest.at if latest else None,
        "check_holds": latest.holds if latest else None,
    }


def check_view(check: CheckMass) -> Answer:
    """A look with a check mass, in the unit of the mass."""
    off, unit = off_in(check.off_kg, check.mass)
    keys = ("id", "mass", "shown", "holds", "note", "at")
    return {key: getattr(check, key) for key in keys} | {
        "off": off,
        "unit": unit,
        "who": str(check.who),
    }


def profile_view(profile: LimitProfile) -> Answer:
    return {
        "key": profile.key,
        "title": profile.title,
        "accept": profile.accept,
        "accept_words": str(limit(profile.accept)) if profile.accept else "the pack's own tolerance",
        "repeat": profile.repeat,
        "minimum_runs": profile.minimum_runs,
        "look_minutes": profile.look_minutes,
        "skip_looks": profile.skip_looks,
        "looks": profile.looks,
        "harm_minutes": profile.harm_minutes,
        "plausible": profile.plausible,
    }


def cell_view(cell: Cell) -> Answer:
    keys = ("id", "place", "label", "capacity", "sensitivity", "source", "serial", "fitted", "removed", "why_removed")
    return {key: getattr(cell, key) for key in keys} | {"channel": cell.channel_id, "channel_name": cell.channel.name}


def event_view(event: Event) -> Answer:
    still = [method for method in event.stale if method not in event.settled]
    return {
        "id": event.id,
        "kind": event.kind,
        "words": event.words,
        "note": event.note,
        "at": event.at,
        "who": str(event.who),
        "stale": [all_methods()[method].title for method in still],
    }


def stale_titles(system: System) -> list[str]:
    """The methods that events ask for and that were not done since, by their titles."""
    asked = [method for event in system.events.all() for method in event.stale if method not in event.settled]
    return [all_methods()[method].title for method in dict.fromkeys(asked)]


def refuse_unseen(system: System, before: dict[str, str], now: dict[str, str], asked: dict[str, str]) -> None:
    """Raises Problem where somebody changed what a page did not see before it changes it: with who typed what there."""
    wrong = []
    for path, text in asked.items():
        there = now.get(path, "")
        if path in before and there not in (before[path], text):
            change = system.changes.filter(after=there).select_related("who").first()
            who = f"{change.who} typed" if change else "Meanwhile there stands"
            wrong.append(
                {"path": path, "text": f"{who} “{there}” here since you opened this. Keep yours, or take theirs."}
            )
    if wrong:
        raise Problem(
            409, "Somebody changed this meanwhile", "Nothing was changed. Look at the fields named here.", wrong
        )
