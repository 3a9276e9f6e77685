"""One system with all that its page shows."""

from collections.abc import Iterable, Sequence

from beacon.bench.done import latest_closed, title_of
from beacon.bench.models import Job
from beacon.links.listed import links_of
from beacon.planner.due import Known, dues_of
from beacon.planner.models import Counter, Interval
from beacon.planner.view import system_row
from beacon.plant.models import Reference, System
from beacon.plant.view import Answer, system_record, today_at

LATEST = 12
"""How many closed jobs a system's page shows."""


def system_view(system: System, open_jobs: Iterable[Job], known: Known, references: Sequence[Reference]) -> Answer:
    """One system with all that its page shows."""
    machine = system.machine
    methods = machine.methods().values()
    today = today_at(system.site.time_zone)
    own, zero = Interval.Purpose.CALIBRATION, Interval.Purpose.ZERO
    return (
        system_record(system)
        | system_row(system, open_jobs, known, references)
        | {
            "visit": [part.title or title_of(part.method) for part in machine.visit if not part.optional],
            "methods": [{"key": m.key, "title": m.title, "summary": m.summary} for m in methods],
            "jobs": latest_closed(system, LATEST),
            "links": links_of(system),
            "faults": [
                {
                    "title": one.title,
                    "at": one.at,
                    "minutes": one.minutes,
                    "put_right": one.put_right,
                    "who": str(one.who),
                }
                for one in system.faults.select_related("who").order_by("-at")[:LATEST]
            ],
            "dues": [vars(one) for one in dues_of(system, known, today)],
            "intervals": [vars(one) for one in known.intervals if one.purpose == own],
            "zero_intervals": [vars(one) for one in known.intervals if one.purpose == zero],
            "counters": [
                {"kind": one.kind, "figure": one.figure, "at": one.at, "who": str(one.who)}
                for one in Counter.objects.filter(system=system).select_related("who").order_by("-at")[:LATEST]
            ],
        }
    )
