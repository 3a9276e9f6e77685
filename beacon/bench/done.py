"""A closed job in one line, from what it handed to the history."""

from datetime import datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import BaseModel

from beacon.bench.models import Job
from beacon.plant.models import System
from wary.methods import all_methods
from wary.rules.assessment import Call


class LastDone(BaseModel):
    """What a closed job came to: the call as found and as left, `error` and `uncertainty` in per cent."""

    job: UUID
    record: UUID | None
    method: str
    title: str
    call: Call | Literal[""]
    call_found: Call | Literal[""]
    down: bool
    provisional: bool
    outcome: str
    closed_at: datetime
    closed_by: str
    error: float | None
    uncertainty: float | None
    factor_before: str
    factor_after: str


def last_done(handed: dict[str, Any]) -> dict[str, Any]:
    """A closed job in one line. `handed` is a job's summary with its job, record and time."""
    left = handed.get("error_left") is not None
    return {
        "job": handed["job"],
        "record": handed.get("record"),
        "method": handed["method"],
        "title": title_of(handed["method"]),
        "call": handed["call"],
        "call_found": handed.get("call_found") or handed["call"],
        "down": bool(handed.get("down")),
        "provisional": bool(handed.get("provisional")),
        "outcome": handed["outcome"],
        "closed_at": handed["closed_at"],
        "closed_by": handed["closed_by"],
        "error": handed["error_left"] if left else handed.get("error_found"),
        "uncertainty": handed.get("uncertainty_left") if left else handed.get("uncertainty_found"),
        "factor_before": handed["factor_before"],
        "factor_after": handed["factor_after"],
    }


def title_of(method: str | None) -> str:
    """What a method is called; empty for none, its key for one that is not known any more."""
    known = all_methods().get(method or "")
    return known.title if known else method or ""


def latest_closed(system: System, most: int) -> list[dict[str, Any]]:
    """The latest closed jobs of a system, so many, each in one line."""
    jobs = Job.objects.filter(channel__system=system, closed_at__isnull=False, practice=False).order_by("-closed_at")
    found = jobs.values_list("id", "record__id", "closed_at", "summary")[:most]
    return [
        last_done((summary or {}) | {"job": job, "record": record, "closed_at": at})
        for job, record, at, summary in found
    ]
