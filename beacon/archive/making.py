"""Making an archive: sealed records as they were sealed, open jobs as job files, every row and every file.

It is made from what is there at one moment, at the first database: a replica would end a reading that long, or fall
behind for it. Where it is stopped in the middle it is made again from the start, and the file is there only once it is
whole.
"""

import json
import tempfile
import zipfile
from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta
from itertools import islice
from typing import IO, Any

from django.core import serializers
from django.core.files import File
from django.core.files.storage import default_storage
from django.core.serializers.json import DjangoJSONEncoder
from django.db import connection, transaction
from django.db.models import Model, QuerySet
from django.utils import timezone

from beacon.archive.models import Archive, Bundle
from beacon.attachments.keeping import file_of
from beacon.attachments.models import Attachment, LateAttachment
from beacon.background.made import told
from beacon.bench.models import Entry, HeaderName, Job, LeftBehind
from beacon.bench.revisions import snapshot_of
from beacon.links.models import Link
from beacon.loads.models import Load, LoadChange
from beacon.people.models import Membership, Organisation, Person
from beacon.planner.models import Counter, Interval, Planned, ZeroCheck
from beacon.plant.models import (
    Cell,
    Channel,
    CheckMass,
    Event,
    Fault,
    InstrumentKind,
    LimitProfile,
    PlateChange,
    Reference,
    Site,
    System,
)
from beacon.printing.together import as_pdf, as_zip, chosen, in_period
from beacon.records.access import visible_in
from beacon.records.models import Record, Verification
from beacon.records.sealing import job_content, seals
from wary import VERSION, WRITTEN_BY

KEPT_FOR = timedelta(days=7)
TOLD_EVERY, AT_ONCE = 50, 500
TOLD_OF_PAPERS = 5
MOST_IN_A_BUNDLE = 5_000
"""So many certificates go into one file."""
LEFT_OUT = {"fold", "folded", "content", "kept_at"}
"""Columns that are worked out of others or of this server alone, and what of a record lies in a file of its own."""
ENDINGS = {Attachment.Kind.JPEG: "jpg", Attachment.Kind.PNG: "png", Attachment.Kind.PDF: "pdf"}
README = """{organisation}, everything that Wary Beacon had of it on {at:%Y-%m-%d %H:%M} UTC. {by}.

records/    every sealed record, byte for byte as it was sealed; its SHA-256 stands in seals.csv
open/       the jobs that were open, as job files with their trail
files/      every photograph and PDF by its SHA-256; what each belongs to stands in tables/attachments.jsonl
tables/     every row as JSON, a line each
seals.csv   the list of seals, to be kept elsewhere too
"""
OF_SYSTEM = "system__site__organisation"
OF_JOB = "job__channel__system__site__organisation"
TABLES: dict[str, tuple[type[Model], str]] = {
    "sites": (Site, "organisation"),
    "systems": (System, "site__organisation"),
    "channels": (Channel, OF_SYSTEM),
    "limits": (LimitProfile, "organisation"),
    "references": (Reference, "organisation"),
    "check-masses": (CheckMass, "reference__organisation"),
    "cells": (Cell, f"channel__{OF_SYSTEM}"),
    "events": (Event, OF_SYSTEM),
    "faults": (Fault, OF_SYSTEM),
    "changes": (PlateChange, OF_SYSTEM),
    "instruments": (InstrumentKind, "organisation"),
    "intervals": (Interval, OF_SYSTEM),
    "plans": (Planned, OF_SYSTEM),
    "zero-checks": (ZeroCheck, OF_SYSTEM),
    "counters": (Counter, OF_SYSTEM),
    "jobs": (Job, f"channel__{OF_SYSTEM}"),
    "entries": (Entry, OF_JOB),
    "left-behind": (LeftBehind, OF_JOB),
    "attachments": (Attachment, "organisation"),
    "late-attachments": (LateAttachment, "attachment__organisation"),
    "loads": (Load, f"channel__{OF_SYSTEM}"),
    "load-changes": (LoadChange, f"load__channel__{OF_SYSTEM}"),
    "records": (Record, "organisation"),
    "verifications": (Verification, "organisation"),
    "lines": (Link, "organisation"),
    "headers": (HeaderName, "organisation"),
    "members": (Membership, "organisation"),
}
"""Every table of which rows belong to an organisation, and the way to it."""


def make(archive: Archive) -> None:
    """Makes an archive, and keeps it where its name says. Raises whatever keeps it from being made."""
    here = archive.organisation
    with tempfile.TemporaryFile() as kept:
        with zipfile.ZipFile(kept, "w", zipfile.ZIP_DEFLATED) as into, transaction.atomic():
            with connection.cursor() as cursor:
                cursor.execute("set transaction isolation level repeatable read, read only")
            total = _count(here)
            for done, (name, content) in enumerate(_parts(here), 1):
                with into.open(name, "w") as part:
                    for piece in content:
                        part.write(piece.encode() if isinstance(piece, str) else piece)
                if done % TOLD_EVERY == 0:
                    told(archive, done, total)
        _kept(archive, kept, total)


def put_together(bundle: Bundle) -> None:
    """Puts the certificates together that a bundle is of, as its person may see them now. Raises Problem for none."""
    records = visible_in(bundle.organisation, bundle.by)
    if bundle.site:
        records = records.filter(job__channel__system__site=bundle.site)
    found = in_period(records, bundle.since, bundle.until)
    named = [one.pk for one in chosen(found.only("pk"), MOST_IN_A_BUNDLE)]
    of_sites = found.filter(pk__in=named).order_by().values_list("job__channel__system__site", flat=True).distinct()
    bundle.of_sites = list(of_sites)
    bundle.save(update_fields=["of_sites"])
    # One after the other: a record holds all that stands on its paper.
    read = (found.select_related("job__channel__system__site").get(pk=pk) for pk in named)
    with tempfile.TemporaryFile() as kept:
        parts = as_zip(read) if bundle.kind == Bundle.Kind.ZIP else as_pdf(read)
        for done, part in enumerate(parts, 1):
            kept.write(part)
            if done % TOLD_OF_PAPERS == 0:
                told(bundle, min(done, len(named)), len(named))
        _kept(bundle, kept, len(named))


def _kept(made: Archive | Bundle, kept: IO[bytes], total: int) -> None:
    size = kept.tell()
    kept.seek(0)
    default_storage.delete(made.name)
    default_storage.save(made.name, File(kept))
    made.done = made.of = total
    made.size, made.finished_at = size, timezone.now()
    made.save(update_fields=["done", "of", "size", "finished_at"])


def _count(here: Organisation) -> int:
    open_jobs = Job.objects.filter(channel__system__site__organisation=here, closed_at=None, practice=False)
    return here.records.count() + open_jobs.count() + _files(here).count() + len(TABLES) + 4


def _files(here: Organisation) -> QuerySet[Attachment]:
    return Attachment.objects.filter(organisation=here).order_by("sha256").distinct("sha256")


def _parts(here: Organisation) -> Iterator[tuple[str, Iterable[bytes | str]]]:
    """Every file of an archive by its name, each in pieces.

    Of a closed organisation the members are those of its end.
    """
    closed = here.closings.filter(reopened_at=None).first()
    yield "README.txt", [README.format(organisation=here.name, at=timezone.now(), by=WRITTEN_BY)]
    yield "seals.csv", [seals(here)]
    records = Record.objects.filter(organisation=here).order_by("number").values_list("number", "content")
    for number, content in records.iterator(50):
        yield f"records/{number:06d}.json", [content]
    jobs = Job.objects.filter(channel__system__site__organisation=here, closed_at=None, practice=False)
    for job in jobs.select_related("channel__system__site__organisation", "channel__system__profile", "opened_by"):
        yield f"open/{job.pk}.json", [_in_json(job_content(job, snapshot_of(job)))]
    for one in _files(here).iterator(50):
        try:
            yield f"files/{one.sha256}.{ENDINGS[Attachment.Kind(one.kind)]}", [file_of(one)]
        except FileNotFoundError:
            yield f"files/{one.sha256}.gone.txt", [f"The file “{one.name}” is gone from the server."]
    for name, (model, way) in TABLES.items():
        rows = model._default_manager.filter(**{way: here}).order_by("pk")
        yield f"tables/{name}.jsonl", [closed.rows] if closed and model is Membership else _lines(rows)
    yield "people.json", [_in_json(_people(here))]
    yield "organisation.json", [_in_json({"id": str(here.pk), "name": here.name, "version": VERSION})]


def _people(here: Organisation) -> list[dict[str, Any]]:
    """Everybody whom any row names, with what they are here; empty for whoever is no member any more."""
    named: set[int] = set()
    for model, way in TABLES.values():
        rows = model._default_manager.filter(**{way: here})
        for one in model._meta.concrete_fields:
            if one.related_model is Person:
                named |= set(rows.exclude(**{one.name: None}).order_by().values_list(one.attname, flat=True).distinct())
    closed = here.closings.filter(reopened_at=None).first()
    listed = (
        [(one["person"], one["role"]) for one in closed.members]
        if closed
        else Membership.objects.filter(organisation=here).values_list("person", "role")
    )
    roles = dict(listed)
    named |= set(roles)
    found = Person.objects.filter(pk__in=named).order_by("pk")
    return [{"id": one.pk, "name": str(one), "username": one.username, "role": roles.get(one.pk, "")} for one in found]


def members_in(here: Organisation) -> str:
    """The members of an organisation, as they stand in an archive."""
    return "".join(_lines(Membership.objects.filter(organisation=here).order_by("pk")))


def _in_json(content: Any) -> str:
    return json.dumps(content, ensure_ascii=False, indent=2)


def _lines(rows: QuerySet[Any]) -> Iterator[str]:
    """Rows as JSON, a line each, so many at a time."""
    fields = [*rows.model._meta.concrete_fields, *rows.model._meta.many_to_many]
    wanted = [one.name for one in fields if one.name not in LEFT_OUT]
    for some in batched(rows.iterator(AT_ONCE), AT_ONCE):
        yield str(serializers.serialize("jsonl", some, fields=wanted, ensure_ascii=False, cls=Exact))


class Exact(DjangoJSONEncoder):
    """Times to the microsecond: what was sealed names them so."""

    def default(self, o: Any) -> Any:
        return o.isoformat() if isinstance(o, datetime) else super().default(o)


def batched(rows: Iterator[Any], count: int) -> Iterator[list[Any]]:
    """Rows in lists of so many."""
    while some := list(islice(rows, count)):
        yield some


def forget() -> None:
    """Lets go of the files of archives that were made long ago, and says of those that were never finished that they failed."""
    for model in (Archive, Bundle):
        for one in model.objects.filter(at__lt=timezone.now() - KEPT_FOR, gone=False):
            default_storage.delete(one.name)
            one.gone = True
            one.failed = one.failed or ("" if one.finished_at else "it was never finished")
            one.save(update_fields=["gone", "failed"])
