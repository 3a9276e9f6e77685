"""The log: which records someone may see, and those of them that are looked for."""

from collections.abc import Iterator
from datetime import UTC, date, datetime, timedelta
from typing import Any
from uuid import UUID

from django.db.models import Q, QuerySet
from pydantic import BaseModel, Field

from beacon.bench.done import last_done
from beacon.database.apart import read_as_of
from beacon.people.access import here
from beacon.people.models import Person
from beacon.plant.models import Channel
from beacon.plant.view import Answer
from beacon.problems import Problem
from beacon.records.access import visible_in
from beacon.records.models import Record
from wary.machines import all_machines
from wary.rules.assessment import Call

OF_SYSTEM = "job__channel__system"
ROW = (
    "id", "number", "sealed_at", "job", "job__summary", OF_SYSTEM, f"{OF_SYSTEM}__name", f"{OF_SYSTEM}__site__name",
    f"{OF_SYSTEM}__site__time_zone", "superseded_by__number", "supersedes__number",
)  # fmt: skip
"""What a row of the log is made of: read as texts, since a page of it needs no more of ten kinds of thing."""
LATEST = ("-sealed_at", "-number")
MOST_NAMED = 500
MOST_WORDS = 8
MOST_TAKEN_AWAY = 10_000


class Sought(BaseModel):
    """What is looked for in the log: words in names, days in UTC from and to, and what each record has to be of."""

    find: str = Field("", max_length=120)
    system: UUID | None = None
    site: UUID | None = None
    kind: str = Field("", max_length=20)
    call: Call | None = None
    person: str = Field("", max_length=120)
    reference: UUID | None = None
    since: date | None = None
    until: date | None = None


def sought(user: Person, asked: Sought) -> QuerySet[Record]:
    """The records that answer to all that is asked, the latest first."""
    of = here(user)
    records = visible_in(of, user)
    exact = {"job__call": asked.call, "sealed_by__name__icontains": asked.person.strip()}
    records = records.filter(**{key: value for key, value in exact.items() if value})
    channels = Channel.objects.filter(system__site__organisation=of)
    machine = {"system": asked.system, "system__site": asked.site, "system__kind": asked.kind}
    named = {key: value for key, value in machine.items() if value}
    if named or asked.call or asked.find:
        # What is looked for stands in the job: its rows are found by their channels, not one by one from each record.
        records = records.filter(_of(channels.filter(**named)))
    if asked.reference:
        records = records.filter(job__reference_ids__contains=[asked.reference])
    if asked.since:
        records = records.filter(sealed_at__gte=_begin(asked.since))
    if asked.until and asked.until < date.max:
        records = records.filter(sealed_at__lt=_begin(asked.until + timedelta(days=1)))
    for word in asked.find.split()[:MOST_WORDS]:
        kinds = [key for key, machine in all_machines().items() if word.lower() in machine.title.lower()]
        machines = Q(system__name__icontains=word) | Q(system__material__icontains=word)
        machines |= Q(system__site__name__icontains=word) | Q(system__kind__in=kinds)
        found = _of(channels.filter(machines)) | Q(sealed_by__name__icontains=word)
        if word.isdecimal() and len(word) < 10:
            found |= Q(number=int(word))
        records = records.filter(found)
    return records.order_by(*LATEST)


def _of(channels: QuerySet[Channel]) -> Q:
    """The records of channels, each named where they are few: the database then knows how many records it has to do with."""
    named = list(channels.values_list("pk", flat=True)[: MOST_NAMED + 1])
    return Q(job__channel__in=named if len(named) <= MOST_NAMED else channels)


def _begin(day: date) -> datetime:
    return datetime(day.year, day.month, day.day, tzinfo=UTC)


def page(records: QuerySet[Record], before: str, size: int) -> Answer:
    """So many records after a place in the log; `earlier` is where the next page begins."""
    if before:
        at, number = _place(before)
        records = records.filter(Q(sealed_at__lt=at) | Q(sealed_at=at, number__lt=number))
    # Which ones first: what stands in a row is then read of those alone, however many are looked through for them.
    ids = list(records.values_list("pk", flat=True)[: size + 1])
    found = list(Record.objects.filter(pk__in=ids).order_by(*LATEST).values_list(*ROW))
    rows = [row_of(*row) for row in found[:size]]
    more = len(found) > size
    return {
        "as_of": read_as_of(),
        "rows": rows,
        "earlier": f"{found[size - 1][2].isoformat()}~{found[size - 1][1]}" if more else None,
    }


def _place(text: str) -> tuple[datetime, int]:
    """A place in the log, as a page before gave it. Raises Problem where it is none."""
    at, _, number = text.partition("~")
    try:
        read = datetime.fromisoformat(at)
        if read.tzinfo is None or not 1970 <= read.year <= 9000:
            raise ValueError
        return read, min(int(number or 0), 2**31 - 1)
    except ValueError:
        said = f"“{text[:60]}” is no place in the log; ask for what the page before gave as `earlier`."
        raise Problem(422, "No such page", errors=[{"path": "before", "text": said}]) from None


def row_of(
    record: UUID, number: int, at: datetime, job: UUID, summary: Answer | None, system: UUID, name: str, site: str,
    zone: str, superseded_by: int | None, supersedes: int | None,
) -> Answer:  # fmt: skip
    """A sealed record in one line of the log."""
    return last_done((summary or {}) | {"job": job, "record": record, "closed_at": at}) | {
        "record": record,
        "number": number,
        "system": system,
        "system_name": name,
        "site": site,
        "time_zone": zone,
        "reference": (summary or {}).get("reference", ""),
        "superseded_by": superseded_by,
        "supersedes": supersedes,
    }


COLUMNS = (
    ("number", "record"), ("closed_at", "closed"), ("system_name", "system"), ("site", "site"), ("title", "method"),
    ("outcome", "closed as"), ("closed_by", "by"), ("call_found", "call as found"), ("call", "call as left"),
    ("error", "error, %"), ("uncertainty", "±, %"), ("factor_before", "factor before"), ("factor_after", "factor after"),
    ("reference", "reference"), ("supersedes", "puts right"), ("superseded_by", "put right by"),
)  # fmt: skip


def to_take_away(records: QuerySet[Record]) -> Iterator[list[Any]]:
    """The records as rows of a table; no more than a spreadsheet is glad of."""
    for row in records.values_list(*ROW)[:MOST_TAKEN_AWAY]:
        said = row_of(*row)
        yield [said[key] for key, _ in COLUMNS]
