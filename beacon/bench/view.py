"""A job as the API answers with it: its head from the database, its bench from `wary.job`."""

import json
from typing import Any

from django.utils import timezone

from beacon.bench.before import Before, known_before
from beacon.bench.keeping import Kept
from beacon.bench.models import Entry, Job
from beacon.bench.opening import begun, entered_first
from beacon.bench.revisions import Revision, revision_at, subject_of
from beacon.bench.schemas import VISIT
from beacon.links.listed import links_of
from beacon.people.access import is_lead
from beacon.people.models import Person
from beacon.plant.models import Channel, System
from beacon.plant.on_record import references_at_hand
from wary.fields import OCCASIONS
from wary.job.device import MOST_ENTRIES
from wary.job.view import changes, laid_out
from wary.machines.machine import Part
from wary.methods import all_methods


def brief(system: System, channel: Channel) -> dict[str, Any]:
    """A machine as the head of a bench names it."""
    machine = system.machine
    return {
        "id": system.id,
        "name": system.name,
        "kind_name": machine.title,
        "channel": channel.name if system.channels.count() > 1 else "",
        "material": system.material,
        "site": system.site.name,
        "time_zone": system.site.time_zone,
        "factor_name": system.factor_name,
        "correction": system.correction,
        "notes": system.notes,
        "profile": system.profile.title,
        "usual_mass": machine.usual_mass(system.plates),
    }


def job_view(user: Person, job: Job, revision: Revision) -> dict[str, Any]:
    """All that one look at the bench needs, in one answer."""
    system = job.channel.system
    snapshot = revision.snapshot
    record = getattr(job, "record", None) if not job.is_open else None
    occasion = snapshot.fold.text("occasion")
    return {
        **vars(revision.bench),
        "id": job.id,
        "state": job.state,
        "method": job.method,
        "occasion_words": OCCASIONS.get(occasion, ""),
        "practice": job.practice,
        "entries": job.entries,
        "system": brief(system, job.channel),
        "links": links_of(system) if job.is_open else [],
        **vars(laid_out(snapshot)),
        "remembered": job.remembered or None,
        "opened_by": str(job.opened_by),
        "opened_at": job.opened_at,
        "may_lead": is_lead(user, system.site.organisation),
        "record": record.id if record else None,
        "closing": job.closing,
    }


def kept_view(done: Kept, after: int | None, log: bool = False) -> dict[str, Any]:
    """What became of a batch, and what is other than the device last saw: the job after `after` entries."""
    seen = done.before if after is None else revision_at(done.job, min(after, done.before.count))
    answer = {"kept": done.kept, "refused": done.refused, **changed_view(done.job, seen, done.after)}
    if log and after is not None:
        sent = set(done.kept)
        known = done.rows if after == done.before.count else log_of(done.job, after)
        answer["log"] = [one.logged.as_json() for one in known if one.entry_id not in sent]
    return answer


def log_of(job: Job, after: int = 0) -> list[Entry]:
    """The entries of a job after so many, as many as a device holds."""
    later = Entry.objects.filter(job=job, sequence__gt=after).select_related("who").order_by("sequence")
    return list(later[:MOST_ENTRIES])


def system_at_hand(user: Person, system: System) -> dict[str, Any]:
    """What a device takes along of a system: each visit and method as it would be opened now."""
    references, now = references_at_hand(system.site.organisation_id), timezone.now()
    openings = []
    for channel in system.channels.all():
        channel.system = system
        known = known_before(channel, now)
        openings += [
            opening_at_hand(user, system, channel, method, references, known=known) for method in _methods(system)
        ]
    return {"system": system.id, "may_lead": is_lead(user, system.site.organisation), "openings": openings}


def _methods(system: System) -> list[str]:
    return [*([VISIT] if len(system.machine.visit) > 1 else []), *system.machine.methods()]


def _document(job: Job, references: dict[str, dict[str, object]]) -> str:
    """What the core on a device is given of a job, as it writes it itself."""
    return json.dumps(
        {
            "subject": subject_of(job).as_document(),
            "visit": [vars(part) for part in job.parts],
            "references": references,
        }
    )


def opening_at_hand(
    user: Person,
    system: System,
    channel: Channel,
    method: str,
    references: dict[str, dict[str, object]] | None = None,
    practice: bool = False,
    known: Before | None = None,
) -> dict[str, Any]:
    """A visit or a method as it would be opened now on a channel; `known` is what is known of its machine before it."""
    channel.system = system
    visit = system.machine.visit if method == VISIT else (Part("", method),)
    job = begun(user, channel, visit, practice, timezone.now(), known)
    if references is None:
        references = references_at_hand(system.site.organisation_id, practice)
    first = entered_first(job, "")
    return {
        "channel": channel.id,
        "method": method,
        "title": "visit" if method == VISIT else all_methods()[method].title,
        "document": _document(job, references),
        "first": [(one.path, one.text, one.source) for one in first if one.path != "occasion"],
        "remembered": job.remembered or None,
        "head": {
            "id": job.id, "state": job.state, "method": job.method, "occasion_words": "", "practice": practice,
            "links": [], "entries": 0,
        },
        "brief": brief(system, channel),
    }  # fmt: skip


def at_hand_view(job: Job) -> dict[str, Any]:
    """What a device needs to go on with a job by itself; without a log where it has too many entries for that."""
    organisation = job.channel.system.site.organisation_id
    return {
        "job": job.id,
        "entries": job.entries,
        "time_zone": job.channel.system.site.time_zone,
        "document": _document(job, references_at_hand(organisation, job.practice)),
        "log": [one.logged.as_json() for one in log_of(job)] if job.entries <= MOST_ENTRIES else None,
    }


def changed_view(job: Job, before: Revision, after: Revision) -> dict[str, Any]:
    """What of a job is other than at a revision before."""
    changed = changes(before.bench, after.bench) if before is not after else None
    return {"entries": after.count, "state": job.state, "changes": changed}
