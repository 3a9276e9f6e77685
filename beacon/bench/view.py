"""A job as the API answers with it: its head from the database, its bench from `wary.job`."""

from typing import Any

from beacon.bench.keeping import Kept
from beacon.bench.models import Job
from beacon.bench.revisions import Revision, revision_at
from beacon.links.listed import links_of
from beacon.people.access import is_lead
from beacon.people.models import Person
from wary.fields import OCCASIONS
from wary.job.fold import text_at
from wary.job.view import changes, look_first_view, read_off_view, run_sheet
from wary.methods import all_methods


def job_view(user: Person, job: Job, revision: Revision) -> dict[str, Any]:
    """All that one look at the bench needs, in one answer."""
    system = job.channel.system
    snapshot = revision.snapshot
    machine = snapshot.subject.machine
    record = getattr(job, "record", None) if not job.is_open else None
    occasion = text_at(snapshot.fold, "occasion")
    keys = dict.fromkeys(part.method for part in job.parts)
    return {
        **vars(revision.bench),
        "id": job.id,
        "state": job.state,
        "method": job.method,
        "occasion_words": OCCASIONS.get(occasion, ""),
        "practice": job.practice,
        "entries": job.entries,
        "system": {
            "id": system.id,
            "name": system.name,
            "kind_name": machine.title,
            "channel": job.channel.name if system.channels.count() > 1 else "",
            "material": system.material,
            "site": system.site.name,
            "time_zone": system.site.time_zone,
            "factor_name": system.factor_name,
            "correction": system.correction,
            "notes": system.notes,
            "profile": system.profile.title,
            "usual_mass": machine.usual_mass(system.plates),
        },
        "links": links_of(system) if job.is_open else [],
        "methods": [all_methods()[key].describe(machine.asked_of, machine.says) for key in keys],
        "sheet": run_sheet(snapshot),
        "look_first": look_first_view(snapshot),
        "read_off": read_off_view(snapshot),
        "remembered": job.remembered or None,
        "opened_by": str(job.opened_by),
        "opened_at": job.opened_at,
        "may_lead": is_lead(user, system.site.organisation),
        "record": record.id if record else None,
        "closing": job.closing,
    }


def kept_view(done: Kept, after: int | None) -> dict[str, Any]:
    """What became of a batch, and what is other than the device last saw: the job after `after` entries."""
    seen = done.before if after is None else revision_at(done.job, min(after, done.before.count))
    return {"kept": done.kept, "refused": done.refused, **changed_view(done.job, seen, done.after)}


def changed_view(job: Job, before: Revision, after: Revision) -> dict[str, Any]:
    """What of a job is other than at a revision before."""
    changed = changes(before.bench, after.bench) if before is not after else None
    return {"entries": after.count, "state": job.state, "changes": changed}
