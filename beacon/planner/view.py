"""The round, and one system, as the API answers with them."""

import datetime
from collections.abc import Iterable, Sequence

from beacon.bench.done import last_done, title_of
from beacon.bench.models import Job
from beacon.planner.bringing import Bringing, bringing
from beacon.planner.due import Known, dues_of, zero_due, zero_is_off
from beacon.planner.models import Interval
from beacon.plant.models import Reference, System
from beacon.plant.view import Answer, profile_of, site_view, stale_titles, today_at
from wary.job.closing import MachineState, state_in_words
from wary.rules.due import Due, first

ORDERLY: tuple[MachineState, ...] = ("in-order", "in-part", "limited")
WANTED = ("soon", "due", "overdue", "unknown")


def open_job_view(job: Job) -> Answer:
    keys = ("id", "method", "state", "not_valid", "call", "headline", "down", "opened_at")
    return {key: getattr(job, key) for key in keys} | {
        "title": title_of(job.method),
        "opened_by": str(job.opened_by),
    }


def system_row(system: System, open_jobs: Iterable[Job], known: Known, references: Sequence[Reference]) -> Answer:
    """One system for the round."""
    today = today_at(system.site.time_zone)
    accept = profile_of(system).accept
    listed = list(open_jobs)
    state: MachineState = "not-valid" if any(job.not_valid for job in listed) else system.recorded_state
    next_due = first(dues_of(system, known, today))
    assert next_due
    wanted = next_due.urgency in WANTED
    return {
        "id": system.id,
        "name": system.name,
        "kind": system.kind,
        "kind_name": system.machine.title,
        "material": system.material,
        "site": site_view(system),
        "state": state,
        "state_words": state_in_words(state, system.last),
        "not_tested": system.state == "not-tested",
        "stale": stale_titles(system),
        "due": next_due.on,
        "due_words": next_due.words,
        "urgency": next_due.urgency,
        "is_due": wanted,
        "accept_percent": accept.percentage * 100 if accept and accept.percentage else None,
        "open_jobs": [open_job_view(job) for job in listed],
        "last": last_done(system.last) if system.last else None,
        "begin_with": "visit",
        "why": _why(system, listed, known, next_due),
        "zero": zero_view(system, known, today),
        "planned": _planned(known),
        "bring": vars(_bring(system, references, today)) if references else None,
    }


def _bring(system: System, references: Sequence[Reference], today: datetime.date) -> Bringing:
    own = [one for one in references if one.organisation_id == system.site.organisation_id]
    return bringing(system, own, today)


def _planned(known: Known) -> Answer | None:
    plan = known.planned
    if plan is None:
        return None
    person = plan.person
    return {
        "day": plan.day,
        "username": person.username if person else "",
        "name": str(person) if person else "",
        "note": plan.note,
    }


def zero_view(system: System, known: Known, today: datetime.date) -> Answer | None:
    """The zero checks of a system; None where none are asked of it."""
    found = zero_due(system, known, today)
    if found is None:
        return None
    band = next((one.band for one in known.intervals if one.purpose == Interval.Purpose.ZERO), "")
    check = known.zero
    return {
        "urgency": found.urgency,
        "words": found.words,
        "on": found.on,
        "band": band,
        "unit": band.rpartition(" ")[2] if band else system.machine.usual_mass(system.plates),
        "last": check.text if check else "",
        "holds": check.holds if check else None,
        "at": check.at if check else None,
    }


def _why(system: System, open_jobs: list[Job], known: Known, next_due: Due) -> str:
    """Why this system is on the round, in a few words."""
    if open_jobs:
        half = ", not valid until it is whole" if any(job.not_valid for job in open_jobs) else ""
        return f"{title_of(open_jobs[0].method)} under way{half}"
    stale = stale_titles(system)
    if system.state == "stale" and stale:
        event = next(event for event in system.events.all() if set(event.stale) - set(event.settled))
        return f"{event.words[0].upper()}{event.words[1:]}: {', '.join(stale[:2]).lower()} to do again"
    off = zero_is_off(system, known)
    if off:
        return f"Zero is off: {off.text} with nothing on it"
    words = next_due.words if system.recorded_state in ORDERLY else state_in_words(system.recorded_state, system.last)
    return words[0].upper() + words[1:]
