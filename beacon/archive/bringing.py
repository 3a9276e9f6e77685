"""An archive brought back, on a server that has nothing of it: every row under its own id, every file under its own hash.

What was sealed names people, machines and jobs by their ids, so that they stay what they are. Where anything of the
archive is here already, or somebody else has one of its ids, nothing is brought back. The chain of its records is
walked before anything is kept, and held against the seals that the archive names.
"""

import getpass
import io
import json
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.core import serializers
from django.db import connection, transaction
from django.db.models import AutoField, BigAutoField, Model

from beacon.archive.making import TABLES
from beacon.attachments.keeping import keep_again
from beacon.bench.models import Job
from beacon.people.models import Organisation, Person
from beacon.records.models import Record, Restored
from beacon.records.sealing import digest, read_seals
from beacon.records.verifying import MOST_SAID, verify_chain

AT_ONCE = 500


class NotBrought(Exception):
    """Why an archive is not brought back, in a sentence; nothing of it was kept."""


def bring_back(file: Path, although: str = "") -> Organisation:
    """Brings an archive back, as a whole or not at all; `although` says why, where its records do not fit. Raises NotBrought."""
    try:
        with zipfile.ZipFile(file) as held, transaction.atomic():
            _bounded(held, file)
            return _brought(held, although)
    except (zipfile.BadZipFile, KeyError, ValueError, serializers.base.DeserializationError) as wrong:
        raise NotBrought(f"This is no whole archive of Wary Beacon: {wrong}") from wrong


MOST_PACKED = 60
"""What is packed in an archive is text, that comes to so many times its size at most."""
LEAST_BOUND = 200_000_000


def _bounded(held: zipfile.ZipFile, file: Path) -> None:
    """Raises NotBrought for what would come to much more than an archive does, before any of it is unpacked."""
    whole = sum(one.file_size for one in held.infolist())
    if whole > max(LEAST_BOUND, MOST_PACKED * file.stat().st_size):
        raise NotBrought(f"This is no archive of Wary Beacon: unpacked it would come to {whole / 1e9:.1f} GB.")


def _brought(held: zipfile.ZipFile, although: str) -> Organisation:
    said = json.loads(held.read("organisation.json"))
    if Organisation.objects.filter(pk=said["id"]).exists():
        raise NotBrought(f"{said['name']} is on this server already.")
    here = Organisation.objects.create(pk=said["id"], name=said["name"])
    _people(json.loads(held.read("people.json")))
    closed: dict[str, list[Any]] = {}
    for name, (model, _) in TABLES.items():
        if model is Job:
            _rows(model, _opened(_read(held, name), closed))
        elif model is not Record:
            _rows(model, _read(held, name))
    for state, jobs in closed.items():
        Job.objects.filter(pk__in=jobs).update(state=state)
    _files(held, here)
    _records(held, here)
    _check(held, here, although)
    return here


def _people(listed: list[dict[str, Any]]) -> None:
    """Who is named in it: without a password, so that they ask for one by mail."""
    for one in listed:
        there = Person.objects.filter(pk=one["id"]).first()
        if there is None and not Person.objects.filter(username=one["username"]).exists():
            made = Person(pk=one["id"], username=one["username"], email=one["username"], name=one["name"])
            made.set_unusable_password()
            made.save(force_insert=True)
        elif there is None or there.username != one["username"]:
            raise NotBrought(
                f"{one['name']} is number {one['id']} in it, and on this server that is somebody else. "
                "What was sealed names people by number: bring it back on a server of its own."
            )
    _count_on(Person)


def _read(held: zipfile.ZipFile, name: str) -> Iterator[list[Any]]:
    some: list[Any] = []
    with held.open(f"tables/{name}.jsonl") as lines:
        for one in serializers.deserialize("jsonl", io.TextIOWrapper(lines, "utf-8"), handle_forward_references=True):
            some.append(one)
            if len(some) == AT_ONCE:
                yield some
                some = []
    yield some


def _opened(read: Iterator[list[Any]], closed: dict[str, list[Any]]) -> Iterator[list[Any]]:
    """Jobs as if they were open, so that the database takes their photographs; which were closed is noted."""
    for some in read:
        for one in some:
            if one.object.state in (Job.State.CLOSED, Job.State.ABANDONED):
                closed.setdefault(one.object.state, []).append(one.object.pk)
                one.object.state = Job.State.OPEN
        yield some


def _rows(model: type[Model], read: Iterator[list[Any]]) -> None:
    """The rows of a table. References between them are looked at by the database once all are there."""
    for some in read:
        objects = [one.object for one in some]
        if model._default_manager.filter(pk__in=[one.pk for one in objects]).exists():
            raise NotBrought(f"A {model._meta.verbose_name} of it is on this server already.")
        model._default_manager.bulk_create(objects, batch_size=AT_ONCE)
        for one in some:
            for field, values in (one.m2m_data or {}).items():
                getattr(one.object, field).set(values)
    _count_on(model)


def _count_on(model: type[Model]) -> None:
    """Rows that are added later get numbers that none of these has."""
    pk = model._meta.pk
    if not isinstance(pk, AutoField | BigAutoField):
        return
    table, column = model._meta.db_table, pk.column
    with connection.cursor() as cursor:
        cursor.execute(f"select setval(pg_get_serial_sequence(%s, %s), greatest((select max({column}) from {table}), 1))", [f'"{table}"', column])  # fmt: skip


def _files(held: zipfile.ZipFile, here: Organisation) -> None:
    for name in held.namelist():
        if name.startswith("files/") and not name.endswith(".gone.txt"):
            sha256 = Path(name).name.partition(".")[0]
            keep_again(here.pk, sha256, held.read(name))


def _records(held: zipfile.ZipFile, here: Organisation) -> None:
    contents = {int(Path(name).stem): name for name in held.namelist() if name.startswith("records/")}
    for some in _read(held, "records"):
        made = []
        for one in some:
            record = one.object
            record.content = held.read(contents[record.number]).decode()
            if digest(record.content) != record.sha256:
                raise NotBrought(f"Record {record.number} is not as it was sealed.")
            # It was counted on the server that sealed it.
            record.serial, record.brought = None, True
            made.append(record)
        Record.objects.bulk_create(made)


def _check(held: zipfile.ZipFile, here: Organisation, although: str) -> None:
    listed = read_seals(held.read("seals.csv")).get(str(here.pk), [])
    found = verify_chain(here, listed)
    if found.broken and not although:
        raise NotBrought(f"Its chain does not fit: {found.broken[0].why}. {len(found.broken)} in all; --although WHY brings it back all the same.")  # fmt: skip
    if found.broken:
        breaks = [vars(one) for one in found.broken[:MOST_SAID]]
        Restored.objects.create(
            file=str(held.filename)[-300:], by=getpass.getuser()[:120], why=although[:300], breaks=breaks
        )
