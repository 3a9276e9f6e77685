"""Opening jobs: what a system's record knows is entered first, marked as from the record."""

import datetime
import hashlib
import uuid
from collections.abc import Mapping
from typing import Any

from django.core.cache import cache
from django.db import connection, transaction
from django.utils import timezone

from beacon.bench.before import LAST_JOBS, Before, known_before
from beacon.bench.keeping import Kept, Sent, keep
from beacon.bench.models import Entry, Job
from beacon.bench.revisions import fold_of, revision_of, subject_of
from beacon.people.models import Person
from beacon.plant.lists import lists_of
from beacon.plant.models import Cell, Channel, Reference
from beacon.plant.on_record import reference_on_record
from beacon.problems import Problem
from wary.job.assess import parts_of
from wary.job.device import opening_id
from wary.job.file import Refusal, Refused, decode, read
from wary.job.places import REFERENCES, Parts
from wary.job.record import Record, brought_by, first_entries, remembered
from wary.job.taking_in import taken_in
from wary.machines.machine import Part
from wary.methods import all_methods

EARLIER_ZEROS, CONTAINERS = 12, 8


def record_of(channel: Channel) -> Record:
    """What is on record of a channel and its system."""
    system = channel.system
    machine = system.machine
    plates = {key: str(value) for key, value in (machine.fixed | system.plates | channel.figures).items()}
    lists: dict[str, list[Mapping[str, str]]] = {name: list(rows) for name, (_, rows) in lists_of(system).items()}
    texts = {
        "factor": channel.factor,
        "factor_decimals": str(system.factor_decimals),
        "direction": system.direction,
        "nominal_factor": system.nominal_factor,
        "test_weight_factor": channel.test_weight_factor,
        "zero": channel.zero,
        "channel": channel.name,
    }
    cells = Cell.objects.filter(channel=channel, removed=None)
    instrument = system.instrument
    return Record(
        texts=plates | texts,
        scatter=_scatter(channel),
        rows=lists
        | {
            "own_figures": [{key: str(value) for key, value in channel.figures.items()}] if channel.figures else [],
            "cells": [
                {"label": c.label, "capacity": c.capacity, "sensitivity": c.sensitivity, "source": c.source}
                for c in cells
            ],
            "earlier_zeros": [{"zero": zero} for zero in _earlier_zeros(channel)],
            "containers": [*_containers(system.site.organisation_id)],
            "settings": [
                {"title": row.get("title") or row.get("name", ""), "digits": row.get("digits", "")}
                for row in (instrument.fields if instrument else [])
            ],
        },
    )


def _scatter(channel: Channel) -> dict[str, list[tuple[float, int]]]:
    """How the runs of each method scattered within the last visits to this channel."""
    closed = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False, summary__has_key="scatter")
    found: dict[str, list[tuple[float, int]]] = {}
    for visit in closed.order_by("-closed_at").values_list("summary__scatter", flat=True)[:LAST_JOBS]:
        for method, (deviation, freedom) in (visit or {}).items():
            found.setdefault(method, []).append((float(deviation), int(freedom)))
    return found


def _containers(organisation: uuid.UUID) -> list[dict[str, str]]:
    """The containers that the organisation has on record, for the search of slips."""
    kept = Reference.objects.filter(organisation=organisation, kind="container", practice=False).exclude(tare="")
    return [{"name": name, "tare": tare} for name, tare in kept.values_list("name", "tare")[:CONTAINERS]]


def _earlier_zeros(channel: Channel) -> list[str]:
    closed = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False, summary__zero__isnull=False)
    zeros = list(closed.order_by("-closed_at").values_list("summary__zero", flat=True)[:EARLIER_ZEROS])
    return [zero for zero in reversed(zeros) if zero]


def _from_last_time(
    channel: Channel, order: Parts, known: Mapping[str, str]
) -> tuple[dict[str, str], datetime.datetime | None]:
    """What the last job on this channel with the same methods typed, and this one would type again; and when that was."""
    wanted = {method for _, method in order if all_methods()[method].remembers}
    if not wanted:
        return {}, None
    closed = Job.objects.filter(channel=channel, closed_at__isnull=False, practice=False).order_by("-closed_at")
    for job in closed.select_related("channel__system")[:LAST_JOBS]:
        before = parts_of(job.parts)
        if wanted & {method for _, method in before}:
            return remembered(fold_of(job), before, order, known), job.closed_at
    return {}, None


def begun(
    user: Person,
    channel: Channel,
    visit: tuple[Part, ...],
    practice: bool,
    at: datetime.datetime,
    known: Before | None = None,
    **more: Any,
) -> Job:
    """A job of these parts with nothing entered yet, as it would be opened now; it is not in the database.

    `known` is what is known of its machine, where that was looked up already.
    """
    main = next(part for part in visit if not part.key)
    before = known or (Before() if practice else known_before(channel, at))
    return Job(
        found=before.found,
        repaired=before.repaired,
        beside=before.beside,
        drifts=before.drifts,
        moved=before.moved,
        past=before.past.as_json(),
        channel=channel,
        method=main.method,
        visit=[vars(part) for part in visit] if len(visit) > 1 else [],
        practice=practice,
        opened_by=user,
        opened_at=at,
        touched_at=at,
        **more,
    )


def new_job(
    user: Person, channel: Channel, visit: tuple[Part, ...], practice: bool, at: datetime.datetime, **more: Any
) -> Job:
    """A job of these parts with nothing entered yet."""
    job = begun(user, channel, visit, practice, at, **more)
    job.save(force_insert=True)
    return job


def entered_first(job: Job, occasion: str) -> list[Sent]:
    """What is entered first in a job of a system: what its record knows, and what the visit before left in force.

    An entry's id comes from the job's and its path, so that a device which opens the job gives it the same.
    """
    order = parts_of(job.parts)
    known = first_entries(record_of(job.channel), order)
    if not job.practice:
        again, on = _from_last_time(job.channel, order, known)
        known |= again
        if again and on:
            job.remembered = {"on": on.isoformat(), "paths": sorted(again)}
    sent = [Sent(opening_id(job.id, path), path, text, source=Entry.Source.RECORD) for path, text in known.items()]
    sent.append(Sent(opening_id(job.id, "occasion"), "occasion", occasion))
    reference = job.channel.system.reference
    if reference:
        path = f"{REFERENCES}.r1.id"
        sent.append(Sent(opening_id(job.id, path), path, str(reference.id), source=Entry.Source.RECORD))
        brought = brought_by(reference_on_record(reference), order, "r1")
        sent += [
            Sent(opening_id(job.id, path), path, text, source=Entry.Source.RECORD) for path, text in brought.items()
        ]
    return sent


@transaction.atomic
def open_job(
    user: Person,
    channel: Channel,
    visit: tuple[Part, ...],
    occasion: str,
    at: datetime.datetime | None = None,
    practice: bool = False,
    **more: Any,
) -> Kept:
    """A new job of these parts; what the system's record knows is entered first. `at` is when, where that is not now."""
    now = at or timezone.now()
    job = begun(user, channel, visit, practice, now, **more)
    sent = entered_first(job, occasion)
    job.save(force_insert=True)
    for one in sent:
        one.at = now
    return all_kept(keep(user, job, sent, opening=True), "Put its record right, and open it again.")


def all_kept(done: Kept, what_to_do: str) -> Kept:
    """What was kept. Raises Problem where something of it may not stand, so that nothing of it is there."""
    if done.refused:
        raise Problem(422, "This job cannot be opened so", f"Nothing was opened. {what_to_do}", done.refused)
    return done


def open_alone(user: Person, channel: Channel, method: str, occasion: str, **more: Any) -> Kept:
    """A new job of one method."""
    return open_job(user, channel, (Part("", method),), occasion, **more)


@transaction.atomic
@transaction.atomic
def import_once(user: Person, channel: Channel, content: bytes) -> Kept:
    """A job file as a new job, or the job that this person made of the very same file within the minute.

    A file has no id: one that is sent twice, since an answer did not come, is one job. Raises what `import_job` does.
    """
    key = f"file-in-{channel.pk}-{user.pk}-{hashlib.sha256(content).hexdigest()}"
    with connection.cursor() as cursor:
        # Whoever sends it at the same moment waits until the first is kept.
        cursor.execute("select pg_advisory_xact_lock(hashtextextended(%s, 0))", [key])
    made = cache.get(key)
    there = Job.objects.filter(pk=made, channel=channel, practice=False).first() if made else None
    if there is not None:
        known = revision_of(there)
        return Kept(there, known, known)
    done = import_job(user, channel, decode(content.decode("utf-8-sig")))
    cache.set(key, str(done.job.pk), SAME_FILE)
    return done


SAME_FILE = 60
"""So long the same file is the same job, s."""


def import_job(user: Person, channel: Channel, document: Any) -> Kept:
    """A job file as a new job, its values as entries marked as imported.

    Raises Refused where the file cannot be read, and Problem 422 where something in it may not
    stand here: with the path of each, and nothing taken in.
    """
    if not isinstance(document, dict):
        raise Refused([Refusal("", "the file is not a job: expected a block of fields in braces")])
    if read(document).method is None:
        raise Refused([Refusal("method", "which method is it? Expected a job file that names one")])
    now = timezone.now()
    probe = Job(channel=channel, method=str(document.get("method", "")), opened_by=user, opened_at=now, touched_at=now)
    taken = taken_in(document, subject_of(probe))
    job = new_job(user, channel, taken.visit, False, now)
    sent = [Sent(uuid.uuid4(), path, text, source=Entry.Source.IMPORTED) for path, text in taken.texts.items()]
    sent += _plates_beside(channel, taken.parts, set(taken.texts))
    done = keep(user, job, sent)
    if done.refused:
        rows = [{"path": taken.places.get(row["path"], row["path"]), "text": row["text"]} for row in done.refused]
        raise Problem(422, "This job file cannot be taken in", "Nothing of it was taken in.", rows)
    return done


def _plates_beside(channel: Channel, parts: Parts, there: set[str]) -> list[Sent]:
    """The machine's plates, where the file says nothing of them."""
    known = first_entries(record_of(channel), parts)
    return [
        Sent(uuid.uuid4(), path, text, source=Entry.Source.RECORD)
        for path, text in known.items()
        if path.startswith("plates.") and path not in there
    ]
