"""Whether a record fits, seen at a glance: what most do is found out without reading every entry as a thing of its own.

The database writes a job's entries down as one text, and what was sealed is written down the same way. Where the two, or
anything else, differ in the least, this says no more than that: the record is then looked at thoroughly, and only that
says what does not fit.
"""

import datetime
import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any
from uuid import UUID

from django.db import connection

from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from beacon.people.models import Person
from beacon.plant.models import Channel
from beacon.records.facts import facts
from beacon.records.models import Record
from beacon.records.sealing import digest
from wary.job import fold as folding
from wary.job.assess import parts_of

BETWEEN, AFTER = "\x1f", "\x1e"
WRITTEN = f"""
select job_id, min(sequence), max(sequence), count(*), string_agg(concat_ws('{BETWEEN}',
    entry_id, path, text, unit, source, coalesce(supersedes::text, ''), undoes::text, who_id,
    at::text, raw, coalesce(steady::text, ''), coalesce(clock_off::text, '')
), '{AFTER}' order by sequence)
from {Entry._meta.db_table} where job_id = any(%s) group by job_id
"""
CONTROL = "\\u001"
"""How a record writes any of the two."""
WORD = {True: "true", False: "false", None: ""}


def glanced_at(records: Sequence[Record], channels: Mapping[UUID, Channel]) -> Iterator[tuple[Record, str | None]]:
    """Records with their entries as one text, or None where they have to be looked at thoroughly.

    That is where entries are not numbered from 1 on, papers belong to it, or who sealed it or its channel is none of
    `channels`, those of its organisation.
    """
    jobs = [one.job_id for one in records]
    with connection.cursor() as cursor:
        cursor.execute(WRITTEN, [jobs])
        written = {job: text for job, least, most, count, text in cursor.fetchall() if (least, most) == (1, count)}
    papers = set(Attachment.objects.filter(job__in=jobs).values_list("job_id", flat=True))
    people = set(Person.objects.filter(pk__in={one.sealed_by_id for one in records}).values_list("pk", flat=True))
    for record in records:
        channel = channels.get(record.job.channel_id)
        if channel is None or record.job_id in papers or record.sealed_by_id not in people:
            yield record, None
        else:
            record.job.channel = channel
            yield record, written.get(record.job_id)


def fits(record: Record, previous: str | None, written: str | None) -> bool:
    """Whether a record surely fits, with its entries as `entries_written` gives them. It has no papers, and puts none right."""
    if written is None or previous is None or digest(record.content) != record.sha256 or record.previous != previous:
        return False
    try:
        if CONTROL in record.content:
            # What the texts are told apart by stands in one of them.
            return False
        content = _needed(record.content)
        job = record.job
        return (
            content["chain"] == {"number": record.number, "previous": record.previous, "job": str(job.id), "of_all": record.serial}
            and not record.brought
            and record.supersedes_id is None
            and content["closing"] == (job.closing or {})
            and content["sealed"] == facts(record, job)
            and _one_each(content["trail"])
            and _written(content["trail"]) == written
            and same_fold(job, _entries(content["trail"][: job.folded]))
        )  # fmt: skip
    except (ValueError, LookupError, TypeError, AttributeError):
        return False


NEEDED = (',"chain":{', ',"closing":{', ',"sealed":{', ',"trail":[')
ELSEWHERE = (',"papers":[', ',"supersedes":{')
"""What a record that has it is looked at thoroughly for."""
DECODER = json.JSONDecoder()


def _needed(content: str) -> dict[str, Any]:
    """The parts of a record that are held against its rows; its assessment and its paper, two thirds of it, are left unread.

    Raises LookupError where one of them is not there exactly once, or something is that is looked at thoroughly.
    """
    if any(one in content for one in ELSEWHERE) or any(content.count(one) != 1 for one in NEEDED):
        raise LookupError
    return {
        one[2:-3]: DECODER.raw_decode(content, content.index(one) + len(one) - 1)[0]
        for one in NEEDED
    }  # fmt: skip


def _written(trail: Iterable[dict[str, Any]]) -> str:
    return AFTER.join(
        BETWEEN.join(
            (
                one["id"], one["path"], one["text"], one["unit"], one["source"], one["supersedes"] or "", WORD[one["undoes"]],
                one["person"], _as_the_database_says(one["at"]), one.get("raw", ""), WORD[one.get("steady")],
                "" if one.get("clock_off") is None else str(one["clock_off"]),
            )
        )
        for one in trail
    )  # fmt: skip


def _entries(trail: Iterable[dict[str, Any]]) -> list[folding.Entry]:
    """Entries as they were sealed, as what a page shows is made of them."""
    return [
        folding.Entry(
            UUID(one["id"]), number, one["path"], one["text"], one["unit"], one["source"],
            UUID(one["supersedes"]) if one["supersedes"] else None, one["undoes"], one["who"],
            datetime.datetime.fromisoformat(one["at"]), one.get("steady"),
        )
        for number, one in enumerate(trail, 1)
    ]  # fmt: skip


def same_fold(job: Job, entries: Sequence[folding.EntryLike]) -> bool:
    """Whether what the page of a job shows is what its entries, as many as were folded, come to."""
    if not job.folded:
        return job.fold == {}
    rebuilt = folding.rebuilt(entries, parts_of(job.parts))
    now, before = _nameless(json.loads(json.dumps(rebuilt))), _nameless(job.fold)
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


def _as_the_database_says(at: str) -> str:
    """A time in UTC, as it was sealed, in the database's words: `2031-03-04 09:30:00.25+00`."""
    whole, _, part = at.removesuffix("+00:00").replace("T", " ").partition(".")
    part = part.rstrip("0")
    return f"{whole}.{part}+00" if part else f"{whole}+00"


def _one_each(trail: Iterable[dict[str, Any]]) -> bool:
    """Whether each name stands for one person, and each person for one name."""
    pairs = {(one["who"], one["person"]) for one in trail}
    return len({who for who, _ in pairs}) == len(pairs) == len({person for _, person in pairs})
