"""The round, and one system, as the API answers with them."""

import datetime
from collections.abc import Iterable

from beacon.bench.models import Job
from beacon.plant.models import Reference, System
from beacon.plant.view import (
    Answer,
    due_words,
    profile_of,
    relative,
    site_view,
    stale_titles,
    system_record,
    today_at,
)
from beacon.records.done import last_done, latest_closed, title_of
from wary.job.closing import STATES, MachineState
from wary.quantities import from_si, quantity, shown
from wary.rules.planning import smallest_amount

DUE_SOON = 21
ORDERLY: tuple[MachineState, ...] = ("in-order", "limited")


def open_job_view(job: Job) -> Answer:
    keys = ("id", "method", "state", "not_valid", "call", "headline", "down", "opened_at")
    return {key: getattr(job, key) for key in keys} | {
        "title": title_of(job.method),
        "opened_by": str(job.opened_by),
    }


def system_row(system: System, open_jobs: Iterable[Job]) -> Answer:
    """One system for the round."""
    today = today_at(system.site.time_zone)
    accept = profile_of(system).accept
    listed = list(open_jobs)
    state: MachineState = "not-valid" if any(job.not_valid for job in listed) else system.recorded_state
    return {
        "id": system.id,
        "name": system.name,
        "kind": system.kind,
        "kind_name": system.machine.title,
        "material": system.material,
        "site": site_view(system),
        "state": state,
        "state_words": STATES[state],
        "not_tested": system.state == "not-tested",
        "stale": stale_titles(system),
        "due": system.due,
        "due_words": due_words(system.due, today),
        "is_due": bool(system.due and (system.due - today).days <= DUE_SOON),
        "accept_percent": accept.percentage * 100 if accept and accept.percentage else None,
        "open_jobs": [open_job_view(job) for job in listed],
        "last": last_done(system.last) if system.last else None,
        "begin_with": "visit",
        "why": _why(system, listed, today),
        "bring": _bring(system),
    }


def _why(system: System, open_jobs: list[Job], today: datetime.date) -> str:
    """Why this system is on the round, in a few words."""
    if open_jobs:
        half = ", not valid until it is whole" if any(job.not_valid for job in open_jobs) else ""
        return f"{title_of(open_jobs[0].method)} under way{half}"
    stale = stale_titles(system)
    if system.state == "stale" and stale:
        event = next(event for event in system.events.all() if set(event.stale) - set(event.settled))
        return f"{event.words[0].upper()}{event.words[1:]}: {', '.join(stale[:2]).lower()} to do again"
    words = due_words(system.due, today) if system.recorded_state in ORDERLY else STATES[system.recorded_state]
    return words[0].upper() + words[1:]


def _bring(system: System) -> list[str]:
    """What to bring or arrange: the usual reference, and how much to weigh on it."""
    reference = system.reference
    if reference is None:
        return []
    least = least_on(reference, system)
    return [reference.name, *([f"at least {least} a run"] if least else [])]


def least_on(reference: Reference, system: System) -> str | None:
    """`R_min` on this reference for this system's accept limit, as text; None where it gives none."""
    accept = profile_of(system).accept
    if not reference.division or not accept or not accept.percentage:
        return None
    division = quantity(reference.division, "mass")
    amount = smallest_amount(division.si, 2, relative(reference.uncertainty) / 2, accept.percentage)
    if amount is None:
        return None
    unit = "t" if division.unit == "kg" and amount >= 2000 else division.unit
    return f"{shown(from_si(amount, unit), 3)} {unit}"


LATEST = 12
"""How many closed jobs a system's page shows."""


def system_view(system: System, open_jobs: Iterable[Job]) -> Answer:
    """One system with all that its page shows."""
    machine = system.machine
    methods = machine.methods().values()
    return (
        system_record(system)
        | system_row(system, open_jobs)
        | {
            "visit": [part.title or title_of(part.method) for part in machine.visit if not part.optional],
            "methods": [{"key": m.key, "title": m.title, "summary": m.summary} for m in methods],
            "jobs": latest_closed(system, LATEST),
        }
    )
