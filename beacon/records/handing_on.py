"""What a closed job hands on to its system's record: state, due date, factor, zero, plates, events settled."""

import datetime
from collections.abc import Mapping, Sequence
from typing import Any

from beacon.bench.models import Job
from beacon.people.models import Person
from beacon.plant.lists import in_words, own_rows
from beacon.plant.models import Channel, Event, Fault, PlateChange, System, state_changed
from beacon.records.models import Record
from wary.job.assess import Snapshot
from wary.job.closing import Faulty, Outcome, done_methods, hands_back, in_one_line, settles, state_after
from wary.methods.method import HandsBack


def hand_on(user: Person, job: Job, record: Record, snapshot: Snapshot, outcome: Outcome) -> None:
    """Takes a closed job over into its system's record, as that is by now: it is locked, and read again."""
    job.channel.system = (
        System.objects.select_for_update(of=("self",), no_key=True).select_related("site").get(pk=job.channel.system_id)
    )
    system = job.channel.system
    channel = Channel.objects.select_for_update(of=("self",), no_key=True).get(pk=job.channel_id)
    assert job.closed_at and job.summary
    was = system.state
    system.state = state_after(snapshot, outcome, system.recorded_state)
    tested = job.tested_at or job.closed_at
    system.due = system.site.day_of(tested) + datetime.timedelta(days=system.interval_days)
    system.last = job.summary | {
        "job": str(job.id),
        "record": str(record.id),
        "closed_at": tested.isoformat(),
        "channel": channel.name,
    }
    system.past = counted(system.past, job.summary, tested)
    _settle(system, snapshot, job.closed_at)
    handed = hands_back(snapshot)
    own = {plate.key for plate in system.machine.channel_plates}
    _take_over(user, job, snapshot, channel.figures, {k: v for k, v in handed.plates.items() if k in own}, channel.name)
    _take_over(user, job, snapshot, system.plates, {k: v for k, v in handed.plates.items() if k not in own}, "")
    _lists(user, job, snapshot, handed)
    if handed.event:
        kind, note = handed.event
        _event(system, job, snapshot, kind, note)
    if system.state in ("in-order", "in-part") and still_stale(system):
        system.state = "stale"
    system.save(update_fields=["state", "due", "last", "past", "plates", "lists"])
    if system.state != was:
        state_changed.send(System, system=system, before=was)
    figures = (("stored zero", "zero", job.summary["zero"]), ("factor", "factor", job.summary["factor_after"]))
    for name, field, text in figures:
        before = getattr(channel, field)
        if text and text != before:
            PlateChange.objects.create(system=system, field=name, before=before, after=text, who=user, at=job.closed_at)
            setattr(channel, field, text)
    if outcome == "complete" and system.state == "in-order":
        channel.proved_at = job.closed_at
    channel.save(update_fields=["zero", "factor", "figures", "proved_at"])


def counted(past: Mapping[str, Any], summary: Mapping[str, Any], at: datetime.datetime) -> dict[str, Any]:
    """What the visits to a machine say of chances, with one visit more: how many, what was seen when, and what is
    not there."""
    seen = dict(past.get("seen", {}))
    for look in summary.get("seen", ()):
        seen[look] = max(seen.get(look, ""), at.isoformat())
    return {
        "visits": past.get("visits", 0) + 1,
        "adjusted": past.get("adjusted", 0) + bool(summary.get("adjusted")),
        "faults": past.get("faults", 0) + bool(summary.get("suspect") or summary.get("cured")),
        "seen": seen,
        "lacks": sorted({*past.get("lacks", ()), *summary.get("lacks", ())}),
    }


def note_faults(user: Person, job: Job, found: Sequence[Faulty]) -> None:
    """Keeps what a job found wrong with its machine, and logs what was put right as the event that it amounts to."""
    assert job.closed_at
    system = job.channel.system
    minutes = max(1, round((job.closed_at - job.opened_at).total_seconds() / 60))
    suspects = {one.key: one for one in system.machine.all_suspects()}
    for one in found:
        Fault.objects.create(
            system=system, job=job.id, suspect=one.suspect, title=one.title[:300], at=job.closed_at,
            minutes=min(minutes, MOST_MINUTES), put_right=one.put_right, who=user,
        )  # fmt: skip
        if one.put_right and one.suspect in suspects:
            kind = suspects[one.suspect].event
            kind = kind if kind in system.machine.events else "other"
            note = f"{one.title[0].upper()}{one.title[1:]}: put right."[:300]
            # What the same job did after it stands; the readings from before it count no longer.
            Event.objects.create(system=system, kind=kind, note=note, at=job.closed_at, who=user, stale=[], settled=[])


MOST_MINUTES = 24 * 60
"""A job that stayed open for longer was not worked on all the while."""


def _take_over(
    user: Person, job: Job, snapshot: Snapshot, there: dict[str, Any], handed: Mapping[str, str], of: str
) -> None:
    """Takes plates that a job hands back over into those that are there, each that differs with its trail."""
    system, titles = job.channel.system, job.channel.system.machine.titles()
    assert job.closed_at
    for key, text in handed.items():
        before = str(there.get(key, ""))
        if before != text:
            name = f"{of}, {titles.get(key, key).lower()}" if of else key
            PlateChange.objects.create(
                system=system, field=name[:60], before=before, after=text, why=in_one_line(snapshot)[:200], who=user, at=job.closed_at,
            )  # fmt: skip
        there[key] = text


MOST_KEPT = 60
"""So many of the latest rows that jobs added to a list on record are kept."""


def _lists(user: Person, job: Job, snapshot: Snapshot, handed: HandsBack) -> None:
    """Takes lists and rows that a job hands back over into those on record, each change with its trail."""
    system = job.channel.system
    assert job.closed_at
    day = system.site.day_of(job.closed_at).isoformat()
    wanted = {name: [dict(row) for row in rows] for name, rows in handed.lists.items()}
    for name, row in handed.rows.items():
        wanted[name] = [*system.lists.get(name, []), {"day": day, **row}][-MOST_KEPT:]
    kept = own_rows(system, wanted)
    for name, rows in kept.items():
        before = system.lists.get(name, [])
        if rows != before and name in handed.lists:
            PlateChange.objects.create(
                system=system, field=f"list, {name}"[:60], before=in_words(before)[:200], after=in_words(rows)[:200],
                why=in_one_line(snapshot)[:200], who=user, at=job.closed_at,
            )  # fmt: skip
    system.lists = system.lists | kept


def _event(system: System, job: Job, snapshot: Snapshot, kind: str, note: str) -> None:
    """An event that this job amounts to: it makes stale what the machine says of it, but for what the job itself did."""
    assert job.closed_at
    stale = [method for method in system.machine.stale_by(kind) if method not in done_methods(snapshot)]
    Event.objects.create(
        system=system, kind=kind, note=note, at=job.closed_at, who=job.opened_by, stale=stale, settled=[]
    )


def _settle(system: System, snapshot: Snapshot, at: datetime.datetime) -> None:
    """Takes what this job did, and showed, off the events that asked for it."""
    done = settles(snapshot)
    for event in system.events.filter(at__lte=at):
        fresh = [method for method in event.stale if method in done and method not in event.settled]
        if fresh:
            event.settled = [*event.settled, *fresh]
            event.save(update_fields=["settled"])


def still_stale(system: System) -> bool:
    """Whether an event asks for something that was not done since."""
    return any(set(event.stale) - set(event.settled) for event in system.events.all())
