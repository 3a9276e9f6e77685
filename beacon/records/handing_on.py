"""What a closed job hands on: its summary to the history, its state and figures to the system's record."""

import datetime
from typing import Any
from zoneinfo import ZoneInfo

from beacon.bench.document import Assessed, begun, judged
from beacon.bench.fold import live_rows, text_at
from beacon.bench.models import Job
from beacon.bench.paths import REFERENCES, joined
from beacon.people.models import Person
from beacon.plant.models import Event, PlateChange, System
from beacon.records.models import Record
from wary.method import Assessment
from wary.quantities import quantity, to_si
from wary.visits import CONFIRMS

STATE_AFTER = {
    "not-confirmed": System.State.NOT_CONFIRMED,
    "limited": System.State.LIMITED,
    "out-of-service": System.State.OUT_OF_SERVICE,
}
SAME_LENGTH = 0.002


def summary(job: Job, assessed: Assessed) -> dict[str, Any]:
    """What a closed job hands to the history of its channel; errors in per cent."""
    speaks = judged(job, assessed)
    answer = speaks.assessment
    found = answer.as_found or answer
    accept = speaks.read.setting.profile.accept if speaks.read.setting else None
    share = accept.percentage if accept else None
    handed: dict[str, Any] = {
        "method": speaks.file["method"],
        "visit": len(job.visit) > 1,
        "occasion": text_at(job.fold, "occasion") or "routine",
        "call": answer.call,
        "outcome": job.closing["words"] if job.closing else "",
        "closed_by": job.closing["closed_by"] if job.closing else "",
        "factor_before": text_at(job.fold, "inputs.factor"),
        "factor_after": factor_in_force(job),
        "reference": ", ".join(
            text_at(job.fold, f"{REFERENCES}.{row}.name") for row in live_rows(job.fold, REFERENCES)
        ),
        "accept": share * 100 if share is not None else None,
        "zero": _zero_found(job),
    }
    for key, stage in (("found", found), ("left", answer if answer.as_found else None)):
        handed[f"error_{key}"] = _error(stage) if stage else None
        figure = stage.results.get("expanded_uncertainty") if stage else None
        handed[f"uncertainty_{key}"] = figure["value"] if figure else None
    rows = answer.results.get("passes", [])
    if handed["method"] == "zero-span" and rows:
        handed["error_found"] = _span_error(speaks, rows[0])
        handed["error_left"] = _span_error(speaks, rows[-1]) if len(rows) > 1 else None
    return handed


def _error(stage: Assessment) -> float | None:
    """The error that a stage found, in per cent, by whichever name its method gives."""
    for name in ("mean_error", "error"):
        figure = stage.results.get(name)
        if figure:
            return float(figure["value"])
    return None


def _span_error(speaks: Assessed, row: dict[str, Any]) -> float | None:
    """A pass's span error in per cent of the test load."""
    load = getattr(speaks.read.given, "test_load", None)
    error = row.get("span_error")
    if load is None or error is None or load.si <= 0:
        return None
    return to_si(error["value"], error["unit"]) / load.si * 100


def _zero_found(job: Job) -> str | None:
    """The zero that a belt was left with: the last new one of the visit."""
    zeros = [text_at(job.fold, joined(part, "inputs.new_zero")) for part, _ in job.parts]
    texts = [text for text in zeros if text]
    return texts[-1] if texts else None


def factor_in_force(job: Job) -> str:
    """The factor in the instrument at the end of the job: the read-back, or as found. Empty if unknown."""
    for path in ("read_back", "inputs.factor"):
        text = text_at(job.fold, path)
        if text and not (path == "read_back" and job.channel.system.correction != "factor"):
            return text.replace(",", ".")
    return ""


def hand_on(user: Person, job: Job, record: Record, assessed: Assessed, loose: bool) -> None:
    """Takes a closed job over into its system's record: state, due date, factor, zero, length, events settled."""
    system, channel = job.channel.system, job.channel
    assert job.closing and job.closed_at and job.summary
    system.state = _state_after(system, job, assessed, loose)
    zone = ZoneInfo(system.site.time_zone)
    system.due = job.closed_at.astimezone(zone).date() + datetime.timedelta(days=system.interval_days)
    system.last = job.summary | {
        "job": str(job.id),
        "record": str(record.id),
        "closed_at": job.closed_at.isoformat(),
        "channel": channel.name,
    }
    _settle(system, job)
    if job.method == "belt-length":
        _new_length(system, job, assessed)
    if system.state == System.State.IN_ORDER and still_stale(system):
        system.state = System.State.STALE
    system.save(update_fields=["state", "due", "last", "plates"])
    for name, field, text in (("stored zero", "zero", job.summary["zero"]), ("factor", "factor", factor_in_force(job))):
        before = getattr(channel, field)
        if text and text != before:
            PlateChange.objects.create(system=system, field=name, before=before, after=text, who=user, at=job.closed_at)
            setattr(channel, field, text)
    channel.save(update_fields=["zero", "factor"])


def _state_after(system: System, job: Job, assessed: Assessed, loose: bool) -> str:
    """The state in which a closed job leaves its system."""
    assert job.closing
    speaks = judged(job, assessed)
    if job.closing["outcome"] != "complete":
        return STATE_AFTER[job.closing["outcome"]]
    if loose:
        return System.State.HALF
    if any(reason.code == "provisional" for reason in speaks.assessment.reasons):
        return System.State.PROVISIONAL
    confirmed = speaks.file["method"] in CONFIRMS
    open_states = (System.State.PROVISIONAL, System.State.NOT_CONFIRMED, System.State.HALF)
    return system.state if system.state in open_states and not confirmed else System.State.IN_ORDER


def _settle(system: System, job: Job) -> None:
    """Takes what this job did off the events that asked for it."""
    done = {method for part, method in job.parts if not job.visit or begun(job.fold, part)}
    for event in system.events.filter(at__lte=job.closed_at):
        fresh = [method for method in event.stale if method in done and method not in event.settled]
        if fresh:
            event.settled = [*event.settled, *fresh]
            event.save(update_fields=["settled"])


def still_stale(system: System) -> bool:
    """Whether an event asks for something that was not done since."""
    return any(set(event.stale) - set(event.settled) for event in system.events.all())


def _new_length(system: System, job: Job, assessed: Assessed) -> None:
    """Keeps a measured belt length; one that changed makes zero and span stale."""
    results = assessed.assessment.results
    assert job.closed_at
    if "belt_length" not in results:
        return
    length, time = float(results["belt_length"]["value"]), results["revolution_time"]
    before = system.plates.get("belt_length")
    known = quantity(before, "length").si if before else None
    system.plates["belt_length"] = f"{length:.2f} m"
    system.plates["revolution_time"] = f"{time['value']:.4g} {time['unit']}"
    if known and abs(length / known - 1) > SAME_LENGTH:
        Event.objects.create(
            system=system,
            kind=Event.Kind.SPLICE,
            note=f"length measured as {length:.2f} m, was {before}",
            at=job.closed_at,
            who=job.opened_by,
            stale=["belt-zero", "belt-test-weight", "belt-material-test"],
        )
