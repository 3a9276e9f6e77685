"""Whether a record fits, seen at a glance: what most do is found out without reading every entry as a thing of its own.

The database writes a job's entries down as they were sealed, and that text is looked for in what was sealed. Where it,
or anything else, differs in the least, this says no more than that: the record is then looked at thoroughly, and only
that says what does not fit.
"""

import datetime
import json
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from types import SimpleNamespace
from typing import Any
from uuid import UUID

from django.db import connection, models

from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from beacon.people.models import Person
from beacon.plant.models import Channel
from beacon.records.facts import facts
from beacon.records.models import Record
from beacon.records.sealing import digest
from wary import log
from wary.job.assess import parts_of
from wary.job.fold import rebuilt

SECONDS = 'YYYY-MM-DD"T"HH24:MI:SS.US"+00:00"'
"""How a time is sealed; the database is asked for it in UTC. Without a part of a second there is none."""
WRITTEN = f"""
select job_id, min(sequence), max(sequence), array_agg(who_id order by sequence), ',"trail":[' || string_agg(concat(
    '{{"at":"', replace(to_char(at, '{SECONDS}'), '.000000', ''), '"',
    case when clock_off is not null then concat(',"clock_off":', clock_off) end,
    ',"id":"', entry_id, '","path":', to_json(path), ',"person":"', who_id, '"',
    case when raw <> '' then concat(',"raw":', to_json(raw)) end,
    ',"source":', to_json(source),
    case when steady is not null then concat(',"steady":', steady::text) end,
    ',"supersedes":', case when supersedes is null then 'null' else concat('"', supersedes, '"') end,
    ',"text":', to_json(text), ',"undoes":', undoes::text, ',"unit":', to_json(unit), '}}'
), ',' order by sequence) || ']'
from {Entry._meta.db_table} where job_id = any(%s::uuid[]) group by job_id
"""
"""A job's entries as `canonical` writes a trail, but for what people are called; times are asked for in UTC."""
NAMED = re.compile(r',"who":"[^"\\]*(?:\\.[^"\\]*)*"')
"""What somebody is called in a trail; within a text there is a backslash before each of its quotation marks."""
CHAIN, SEALED, PAPERS = ',"chain":{', ',"sealed":{', ',"papers":['
TRAIL, AFTER_IT = ',"trail":[', '],"version":'
DECODER = json.JSONDecoder()
NOTHING: dict[str | None, Any] = {"{}": {}, "[]": [], None: None}


@dataclass(frozen=True)
class Columns:
    """The columns of a table: what a row of it calls each, how it is asked for, and how those are read that do not come as they are.

    Ids come as texts, JSON as it is written, times by how they are sealed: what the database's driver makes of them
    takes several times longer.
    """

    names: tuple[str, ...]
    asked: tuple[str, ...]
    read: tuple[tuple[str, Callable[[Any], Any]], ...]

    def row(self, values: Sequence[Any]) -> SimpleNamespace:
        """A row, of its values in the order of the columns."""
        held = dict(zip(self.names, values, strict=True))
        for name, read in self.read:
            held[name] = read(held[name])
        return SimpleNamespace(**held)


def _columns(of: type[models.Model], short: str) -> Columns:
    names, columns, reads = [], [], []
    for one in of._meta.concrete_fields:
        asked = f"{short}.{one.column}"
        of_ids = one.target_field if isinstance(one, models.ForeignKey) else getattr(one, "base_field", one)
        if isinstance(one, models.JSONField):
            asked += "::text"
            reads.append((one.attname, _json))
        elif isinstance(one, models.DateTimeField):
            asked = f"to_char({asked}, '{SECONDS}')"
            reads.append((one.attname, _time))
        elif isinstance(of_ids, models.UUIDField):
            asked += "::text[]" if hasattr(one, "base_field") else "::text"
        names.append(one.attname)
        columns.append(asked)
    return Columns(tuple(names), tuple(columns), tuple(reads))


def _json(text: str | None) -> Any:
    return NOTHING[text] if text in NOTHING else json.loads(text or "")


def _time(text: str | None) -> datetime.datetime | None:
    return datetime.datetime.fromisoformat(text) if text else None


OF_RECORD, OF_JOB = _columns(Record, "one"), _columns(Job, "job")
ROWS = f"""
select {", ".join(OF_RECORD.asked + OF_JOB.asked)}
from {Record._meta.db_table} one join {Job._meta.db_table} job on job.id = one.job_id
where one.id = any(%s) order by one.number, one.id
"""


def rows(ids: Sequence[UUID]) -> list[SimpleNamespace]:
    """Records by their numbers, each with its `job`: their rows as they stand, many times sooner there than as models."""
    with connection.cursor() as cursor:
        cursor.execute(ROWS, [list(ids)])
        found = cursor.fetchall()
    listed = []
    for row in found:
        record = OF_RECORD.row(row[: len(OF_RECORD.names)])
        record.job = OF_JOB.row(row[len(OF_RECORD.names) :])
        listed.append(record)
    return listed


def glanced_at(
    records: Sequence[SimpleNamespace], channels: Mapping[str, Channel]
) -> Iterator[tuple[SimpleNamespace, str | None, list[int]]]:
    """Records with their entries as one text, or None where they have to be looked at thoroughly; and whose each entry is.

    That is where entries are not numbered from 1 on, papers belong to it, or who sealed it or its channel is none of
    `channels`, those of its organisation.
    """
    jobs = [one.job_id for one in records]
    with connection.cursor() as cursor:
        cursor.execute(WRITTEN, [jobs])
        written = {
            str(job): (text, whose)
            for job, least, most, whose, text in cursor.fetchall()
            if (least, most) == (1, len(whose))
        }
    papers = {str(job) for job in Attachment.objects.filter(job__in=jobs).values_list("job_id", flat=True)}
    people = set(Person.objects.filter(pk__in={one.sealed_by_id for one in records}).values_list("pk", flat=True))
    for record in records:
        channel = channels.get(record.job.channel_id)
        if channel is None or record.job_id in papers or record.sealed_by_id not in people:
            yield record, None, []
        else:
            record.job.channel = channel
            yield record, *written.get(record.job_id, (None, []))


def fits(record: Any, previous: str | None, written: str | None, whose: Sequence[int]) -> bool:
    """Whether a record, of `rows`, surely fits, with its entries as `glanced_at` gives them. It has no papers, and puts none right."""
    if written is None or previous is None or digest(record.content) != record.sha256 or record.previous != previous:
        return False
    try:
        content, job = record.content, record.job
        chain, closing, sealed, trail = _held(content)
        return (
            chain == {"number": record.number, "previous": record.previous, "job": job.id, "of_all": record.serial}
            and not record.brought
            and record.supersedes_id is None
            and closing == (job.closing or {})
            and sealed == facts(record, job)
            and _nameless_trail(trail, whose) == written
            and (_folded(job, trail) if job.folded else job.fold == {})
        )  # fmt: skip
    except (ValueError, LookupError, TypeError, AttributeError):
        return False


def _held(content: str) -> tuple[Any, Any, Any, str]:
    """What of a record is held against its rows: its chain, closing and what is sealed of it; and its trail as it is written.

    Its assessment and its paper, two thirds of it, are left unread. What a record holds stands in the order of its names.
    Raises ValueError where it is other than most, or has what is looked at thoroughly: papers, or a record that it puts right.
    """
    if PAPERS in content:
        raise ValueError
    chain, end = DECODER.raw_decode(content, _once(content, CHAIN) + len(CHAIN) - 1)
    closing, _ = _next(content, "closing", end)
    sealed, end = DECODER.raw_decode(content, _once(content, SEALED) + len(SEALED) - 1)
    _, end = _next(content, "system", end)
    if not content.startswith(TRAIL, end):
        raise ValueError
    return chain, closing, sealed, content[end : content.index(AFTER_IT, end) + 1]


def _once(content: str, what: str) -> int:
    """Where something stands in a record. Raises ValueError where it is not there exactly once."""
    place = content.index(what)
    if content.find(what, place + 1) != -1:
        raise ValueError
    return place


def _next(content: str, name: str, place: int) -> tuple[Any, int]:
    """What stands under a name at this place, and where it ends. Raises ValueError where another name stands there."""
    key = f',"{name}":'
    if not content.startswith(key, place):
        raise ValueError
    return DECODER.raw_decode(content, place + len(key))


def _nameless_trail(trail: str, whose: Sequence[int]) -> str:
    """A trail without what people are called in it.

    Raises ValueError unless each name stands for one person, and each person for one name, entry by entry.
    """
    first = NAMED.search(trail)
    if first and len(set(whose)) == 1 and trail.count(first.group()) == len(whose):
        return trail.replace(first.group(), "")
    pairs = set(zip(NAMED.findall(trail), whose, strict=True))
    if not len({name for name, _ in pairs}) == len(pairs) == len({person for _, person in pairs}):
        raise ValueError
    return NAMED.sub("", trail)


def _folded(job: SimpleNamespace, trail: str) -> bool:
    as_model = Job(visit=job.visit, method=job.method, folded=job.folded, fold=job.fold)
    sealed = json.loads(trail[len(TRAIL) - 1 :])[: job.folded]
    return same_fold(as_model, [log.Entry.of_json(one, number) for number, one in enumerate(sealed, 1)])


def same_fold(job: Job, entries: Sequence[log.Entry]) -> bool:
    """Whether what the page of a job shows is what its entries, as many as were folded, come to."""
    if not job.folded:
        return job.fold == {}
    now, before = _nameless(rebuilt(entries, parts_of(job.parts)).as_json()), _nameless(job.fold)
    # A fold of before does not say whether what was captured stood, nor what stands in no row.
    now = {key: one for key, one in now.items() if key in before}
    for path, one in now["fields"].items():
        if "steady" not in before.get("fields", {}).get(path, {}):
            one.pop("steady", None)
    return bool(now == before)


def _nameless(found: Any, key: str = "") -> Any:
    """A fold without what people are called, its times in one zone."""
    if isinstance(found, dict):
        return {key: _nameless(one, key) for key, one in found.items() if key != "who"}
    return datetime.datetime.fromisoformat(found).timestamp() if key == "at" and isinstance(found, str) else found
