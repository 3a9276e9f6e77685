"""A channel's history: what it read at each visit, its drift, and the table to take away."""

import csv
import datetime
import io
from collections.abc import Iterable
from typing import Any

from openpyxl import Workbook
from openpyxl.styles import Font

from beacon.bench.models import Job
from beacon.plant.models import Channel, System
from beacon.plant.view import profile_of
from wary.drift import Drift, Visit, drift, intervals
from wary.methods import all_methods
from wary.quantities import NotAQuantity, quantity

MOST = 500


def closed_jobs(channel: Channel) -> list[Job]:
    """The closed jobs of a channel, the oldest first, the latest five hundred."""
    jobs = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False)
    found = jobs.select_related("record").defer("fold", "record__content").order_by("-closed_at")[:MOST]
    return list(found)[::-1]


def history(system: System, channel: Channel) -> dict[str, Any]:
    """Points for the chart and the table, events, and the drift with what it comes to."""
    jobs = closed_jobs(channel)
    points = [_point(job) for job in jobs]
    accept = profile_of(system).accept
    limit = accept.percentage * 100 if accept and accept.percentage else None
    visits = [_visit(job) for job in jobs if (job.summary or {}).get("error_found") is not None]
    found = drift(visits, limit, system.interval_days)
    events = system.events.select_related("who").order_by("at")
    return {
        "channel": channel.id,
        "channel_name": channel.name,
        "accept": limit,
        "points": points,
        "events": [event_view(event) for event in events],
        "drift": _drift_view(found, visits) if found else None,
        "intervals": len(intervals(visits)),
    }


def event_view(event: Any) -> dict[str, Any]:
    open_ = [method for method in event.stale if method not in event.settled]
    return {
        "id": event.id,
        "kind": event.kind,
        "words": event.get_kind_display(),
        "note": event.note,
        "at": event.at,
        "who": str(event.who),
        "stale": [all_methods()[method].title for method in open_],
    }


def _point(job: Job) -> dict[str, Any]:
    handed = job.summary or {}
    record = getattr(job, "record", None)
    keys = ("error_found", "error_left", "uncertainty_found", "uncertainty_left")
    return {key: handed.get(key) for key in keys} | {
        "record": record.id if record else None,
        "number": record.number if record else None,
        "closed_at": job.closed_at,
        "title": all_methods()[handed.get("method", job.method)].title,
        "call": handed.get("call", ""),
        "outcome": handed.get("outcome", ""),
        "closed_by": handed.get("closed_by", ""),
        "factor_before": handed.get("factor_before", ""),
        "factor_after": handed.get("factor_after", ""),
        "zero": handed.get("zero") or "",
        "zero_figure": _mass(handed.get("zero")),
        "reference": handed.get("reference", ""),
        "accept": handed.get("accept"),
    }


def _mass(text: str | None) -> float | None:
    """A zero as a number in its own unit, for the chart."""
    try:
        return quantity(text, "mass").value if text else None
    except NotAQuantity:
        return None


def _visit(job: Job) -> Visit:
    assert job.closed_at and job.summary
    handed = job.summary
    return Visit(
        job.closed_at.timestamp() / 86_400,
        handed["error_found"],
        handed["error_left"],
        handed.get("occasion") in ("first", "repair"),
    )


def _drift_view(found: Drift, visits: list[Visit]) -> dict[str, Any]:
    month = 30.4
    leaves = None
    if found.leaves_in is not None:
        day = datetime.datetime.fromtimestamp((visits[-1].day + found.leaves_in) * 86_400, datetime.UTC)
        leaves = day.date()
    return {
        "rate": found.rate * month,
        "low": found.low * month,
        "high": found.high * month,
        "leaves_on": leaves,
        "hint": found.hint,
    }


COLUMNS = (
    ("closed_at", "closed"),
    ("number", "record"),
    ("title", "method"),
    ("outcome", "closed as"),
    ("closed_by", "by"),
    ("error_found", "error as found, %"),
    ("uncertainty_found", "± as found, %"),
    ("error_left", "error as left, %"),
    ("uncertainty_left", "± as left, %"),
    ("factor_before", "factor before"),
    ("factor_after", "factor after"),
    ("zero", "zero"),
    ("reference", "reference"),
)


def _rows(channel: Channel) -> Iterable[list[Any]]:
    for job in closed_jobs(channel):
        point = _point(job)
        yield [point[key] for key, _ in COLUMNS]


def as_csv(channel: Channel) -> bytes:
    """The table as CSV in UTF-8."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow([title for _, title in COLUMNS])
    for row in _rows(channel):
        writer.writerow([safe(value.isoformat() if isinstance(value, datetime.datetime) else value) for value in row])
    return text.getvalue().encode("utf-8-sig")


def safe(value: Any) -> Any:
    """A text that a spreadsheet does not take for a formula."""
    return f"'{value}" if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t") else value


def as_xlsx(channel: Channel) -> bytes:
    """The table as a workbook."""
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "History"
    sheet.append([title for _, title in COLUMNS])
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for row in _rows(channel):
        sheet.append(
            [safe(value.replace(tzinfo=None) if isinstance(value, datetime.datetime) else value) for value in row]
        )
    sheet.freeze_panes = "A2"
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue()
