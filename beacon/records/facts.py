"""What stands in the database about a record beside its file: sealed with it, so that a change of any of it is seen."""

import datetime
from typing import Any

from beacon.bench.models import Job
from beacon.records.models import Record


def facts(record: Record, job: Job) -> dict[str, Any]:
    """The rows of a record and of its job, as they are now."""
    return {
        "record": str(record.id),
        "organisation": str(record.organisation_id),
        "sealed_at": _written(record.sealed_at),
        "sealed_by": str(record.sealed_by_id),
        "system": str(job.channel.system_id),
        "channel": str(job.channel_id),
        "job": {
            "method": job.method,
            "visit": job.visit,
            "practice": job.practice,
            "state": job.state,
            "not_valid": job.not_valid,
            "opened_by": str(job.opened_by_id),
            "opened_at": _written(job.opened_at),
            "touched_at": _written(job.touched_at),
            "closed_at": _written(job.closed_at),
            "entries": job.entries,
            "latest": str(job.latest) if job.latest else None,
            "call": job.call,
            "headline": job.headline,
            "down": job.down,
            "reference_ids": [str(one) for one in job.reference_ids],
            "puts_right": str(job.puts_right) if job.puts_right else None,
            "puts_right_why": job.puts_right_why,
            "tested_at": _written(job.tested_at),
            **_known_of_it(job),
        },
        "summary": job.summary,
    }


def _known_of_it(job: Job) -> dict[str, Any]:
    """What was known of the machine when the job was opened, as far as anything was: records of before it have none of it."""
    known = {
        "found": job.found,
        "repaired": job.repaired,
        "beside": job.beside,
        "drifts": job.drifts,
        "moved": job.moved,
        "past": job.past,
        "remembered": job.remembered,
    }
    return {name: one for name, one in known.items() if one}


def _written(at: datetime.datetime | None) -> str | None:
    return at.astimezone(datetime.UTC).isoformat() if at else None


def other_facts(sealed: Any, now: Any, where: str = "") -> list[str]:
    """The names of facts that are other than they were sealed."""
    if isinstance(sealed, dict) and isinstance(now, dict):
        return [
            name
            for key in sealed.keys() | now.keys()
            for name in other_facts(sealed.get(key), now.get(key), f"{where}.{key}" if where else key)
        ]
    return [] if sealed == now else [where]
