"""Systems, references and profiles as the screen shows them."""

import datetime
from collections.abc import Iterable
from typing import Any
from zoneinfo import ZoneInfo

from django.utils import timezone

from beacon.bench.models import Job
from beacon.plant.models import Channel, LimitProfile, Reference, System
from beacon.plant.plates import fields_for
from wary.call import Profile
from wary.evidence import NORMAL_95
from wary.fields import limit
from wary.methods import all_methods
from wary.planning import smallest_amount
from wary.profiles import ProfileGiven
from wary.quantities import NotAQuantity, from_si, percent_shown, quantity, shown
from wary.visits import VISITS

DUE_SOON = 21


def due_words(due: datetime.date | None, today: datetime.date) -> str:
    """`due in 12 days`, `due today`, `3 days overdue`."""
    if due is None:
        return "no date set"
    days = (due - today).days
    if days == 0:
        return "due today"
    if days < 0:
        return f"{-days} day{'' if days == -1 else 's'} overdue"
    if days <= 60:
        return f"due in {days} day{'' if days == 1 else 's'}"
    return f"due {due.day} {due:%b %Y}"


def today_at(zone: str) -> datetime.date:
    return timezone.now().astimezone(ZoneInfo(zone)).date()


def site_view(system: System) -> dict[str, Any]:
    return {"id": system.site.id, "name": system.site.name, "time_zone": system.site.time_zone}


def open_job_view(job: Job) -> dict[str, Any]:
    return {
        "id": job.id,
        "method": job.method,
        "title": all_methods()[job.method].title,
        "state": job.state,
        "call": job.call,
        "headline": job.headline,
        "opened_at": job.opened_at,
        "opened_by": str(job.opened_by),
    }


def last_done(handed: dict[str, Any]) -> dict[str, Any]:
    """A closed job in one line. `handed` is a job's summary with its job, record and time."""
    left = handed.get("error_left") is not None
    return {
        "job": handed["job"],
        "record": handed.get("record"),
        "method": handed["method"],
        "title": all_methods()[handed["method"]].title,
        "call": handed["call"],
        "outcome": handed["outcome"],
        "closed_at": handed["closed_at"],
        "closed_by": handed["closed_by"],
        "error": handed["error_left"] if left else handed.get("error_found"),
        "uncertainty": handed["uncertainty_left"] if left else handed.get("uncertainty_found"),
        "factor_before": handed["factor_before"],
        "factor_after": handed["factor_after"],
    }


def profile_of(system: System) -> Profile:
    return ProfileGiven.model_validate(system.profile.as_given()).filled("vessel")


def system_row(system: System, open_jobs: Iterable[Job]) -> dict[str, Any]:
    """One system for the round."""
    today = today_at(system.site.time_zone)
    accept = profile_of(system).accept
    listed = list(open_jobs)
    stale = stale_titles(system)
    return {
        "id": system.id,
        "name": system.name,
        "kind": system.kind,
        "kind_name": system.get_kind_display(),
        "material": system.material,
        "site": site_view(system),
        "state": _state_now(system, listed),
        "state_words": System.State(_state_now(system, listed)).label,
        "stale": stale,
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


def _state_now(system: System, open_jobs: list[Job]) -> str:
    """The state of a system as it stands: half entered while an adjustment is not confirmed."""
    half = any(job.state in (Job.State.ADJUSTING, Job.State.AS_LEFT) and job.call != "leave" for job in open_jobs)
    return System.State.HALF if half else system.state


def stale_titles(system: System) -> list[str]:
    """The methods that events ask for and that were not done since, by their titles."""
    asked = [m for event in system.events.all() for m in event.stale if m not in event.settled]
    return [all_methods()[method].title for method in dict.fromkeys(asked)]


def _why(system: System, open_jobs: list[Job], today: datetime.date) -> str:
    """Why this system is on the round, in a few words."""
    if open_jobs:
        return f"{all_methods()[open_jobs[0].method].title} under way"
    stale = stale_titles(system)
    if system.state == System.State.STALE and stale:
        event = next(event for event in system.events.all() if set(event.stale) - set(event.settled))
        words = event.get_kind_display()
        return f"{words[0].upper()}{words[1:]}: {', '.join(stale[:2]).lower()} to do again"
    if system.state not in (System.State.IN_ORDER, System.State.LIMITED):
        words = system.get_state_display()
        return words[0].upper() + words[1:]
    words = due_words(system.due, today)
    return words[0].upper() + words[1:]


def _bring(system: System) -> list[str]:
    """What to bring or arrange: the usual reference, and how much to weigh on it."""
    reference = system.reference
    if reference is None:
        return []
    rows = [reference.name]
    least = least_on(reference, system)
    if least:
        rows.append(f"at least {least} a run")
    return rows


def least_on(reference: Reference, system: System) -> str | None:
    """`R_min` on this reference for this system's accept limit, as text; None where it gives none."""
    accept = profile_of(system).accept
    if not reference.division or not accept or not accept.percentage:
        return None
    division = quantity(reference.division, "mass")
    own = _relative(reference.uncertainty) / 2
    amount = smallest_amount(division.si, 2, own, accept.percentage)
    if amount is None:
        return None
    unit = "t" if division.unit == "kg" and amount >= 2000 else division.unit
    return f"{shown(from_si(amount, unit), 3)} {unit}"


def _relative(text: str) -> float:
    try:
        return quantity(text, "percentage").si if text else 0.0
    except NotAQuantity:
        return 0.0


def system_view(system: System, open_jobs: Iterable[Job], closed: Iterable[Job]) -> dict[str, Any]:
    """One system with all that its page shows."""
    profile = profile_of(system)
    methods = [method for method in all_methods().values() if system.kind in method.kinds]
    return system_row(system, open_jobs) | {
        "serial": system.serial,
        "notes": system.notes,
        "plates": system.plates,
        "plate_fields": fields_for(system.kind),
        "channels": [_channel(channel) for channel in system.channels.all()],
        "profile": system.profile.key,
        "profile_title": system.profile.title,
        "limits": limits_in_words(profile),
        "reference": system.reference_id,
        "correction": system.correction,
        "factor_name": system.factor_name,
        "factor_decimals": system.factor_decimals,
        "direction": system.direction,
        "nominal_factor": system.nominal_factor,
        "interval_days": system.interval_days,
        "visit": [part.title or all_methods()[part.method].title for part in VISITS[system.kind]],
        "instrument": system.instrument_id,
        "methods": [{"key": m.key, "title": m.title, "summary": m.summary} for m in methods],
        "jobs": [closed_view(job) for job in closed],
        "changes": [
            {"field": c.field, "before": c.before, "after": c.after, "who": str(c.who), "at": c.at}
            for c in system.changes.select_related("who")[:30]
        ],
    }


def closed_view(job: Job) -> dict[str, Any]:
    record = getattr(job, "record", None)
    assert job.summary and job.closed_at
    return last_done(job.summary | {"job": job.id, "record": record.id if record else None, "closed_at": job.closed_at})


def _channel(channel: Channel) -> dict[str, Any]:
    return {
        "id": channel.id,
        "name": channel.name,
        "factor": channel.factor,
        "test_weight_factor": channel.test_weight_factor,
    }


def limits_in_words(profile: Profile) -> str:
    """`± 0.5 % · repeats within 0.5 % · at least 3 runs · plausible to 10 %`."""
    words = [str(profile.accept)] if profile.accept else ["no accept limit: the pack's own"]
    if profile.repeat is not None:
        words.append(f"repeats within {percent_shown(profile.repeat, decimals=1)}")
    runs = profile.minimum_runs
    words.append(f"at least {runs} run{'' if runs == 1 else 's'}")
    if profile.plausible is not None:
        words.append(f"plausible to {percent_shown(profile.plausible, decimals=0)}")
    return " · ".join(words)


def reference_view(reference: Reference) -> dict[str, Any]:
    today = timezone.now().date()
    shows = ""
    if reference.kind == Reference.Kind.SCALE and reference.division:
        relative = _relative(reference.uncertainty)
        division = quantity(reference.division, "mass")
        step = NORMAL_95 * division.si * (2 / 12) ** 0.5
        shows = f"a net weighed on it is good to ± {shown(from_si(step, division.unit), 2)} {division.unit}"
        shows += f" and ± {percent_shown(relative)} of its own" if relative else ""
    keys = ("id", "kind", "name", "division", "range", "uncertainty", "certificate", "nominal", "tare")
    return {key: getattr(reference, key) for key in keys} | {
        "lent_by": reference.lent_by,
        "due": reference.due,
        "checked_by": reference.checked_by,
        "overdue": bool(reference.due and reference.due < today),
        "due_words": due_words(reference.due, today),
        "shows": shows,
    }


def profile_view(profile: LimitProfile) -> dict[str, Any]:
    return {
        "key": profile.key,
        "title": profile.title,
        "accept": profile.accept,
        "accept_words": str(limit(profile.accept)) if profile.accept else "the pack's own tolerance",
        "repeat": profile.repeat,
        "minimum_runs": profile.minimum_runs,
        "plausible": profile.plausible,
    }


def used_in(job: Job) -> dict[str, Any]:
    """A job in the trace of a reference."""
    record = getattr(job, "record", None)
    return {
        "job": job.id,
        "record": record.id if record else None,
        "system": job.channel.system.name,
        "title": all_methods()[job.method].title,
        "at": job.closed_at or job.opened_at,
        "outcome": (job.closing or {}).get("words", "open"),
    }
