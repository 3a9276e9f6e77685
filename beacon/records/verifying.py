"""Walking the chains: every record, what stands about it, its entries and files, and what it handed on.

A verification goes on after what does not fit, and says all of it.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from uuid import UUID

from django.db.models import Count, Max, Q, QuerySet

from beacon.bench.models import Job
from beacon.people.models import Organisation
from beacon.plant.models import Channel
from beacon.records.glancing import fits, glanced_at, rows
from beacon.records.looking import beside_a_record, breaks
from beacon.records.models import Record, Restored
from beacon.records.sealing import Handed

AT_ONCE, ENTRIES_AT_ONCE = 500, 20_000
"""So many records are read at once, and no more than so many entries with them."""
MOST_SAID = 100


@dataclass(frozen=True)
class Broken:
    """What does not fit in an organisation's chain, and why; `number` is 0 where no record is concerned."""

    organisation: str
    number: int
    system: str
    why: str

    def __str__(self) -> str:
        what = f"record {self.number}" if self.number else "what is kept"
        return f"{self.organisation}: {what}{f' ({self.system})' if self.system else ''} does not fit: {self.why}."


@dataclass
class Verified:
    """A verification of one chain: how many records, what does not fit, and what is to be told beside that."""

    count: int = 0
    broken: list[Broken] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class Seen:
    """A record that fits at a glance."""

    id: UUID
    number: int
    sha256: str


Walked = Iterable[tuple[Organisation, Verified | None]]
"""Organisations with what their chain came to; None where it was walked not long ago, and is not again."""
Walk = Callable[[Sequence[Organisation], dict[str, list[Handed]]], Walked]


def one_by_one(organisations: Sequence[Organisation], against: dict[str, list[Handed]]) -> Walked:
    """Walks chains one after the other, in this process."""
    for one in organisations:
        yield one, verify_chain(one, against.get(str(one.id), []))


def verify(against: dict[str, list[Handed]] | None = None, walk: Walk = one_by_one) -> Iterator[Broken | str]:
    """Walks every organisation's chain: a sentence for each that holds, and everything that does not fit.

    `against` holds seals kept elsewhere, by the id of their organisation: a chain that was made
    anew, shortened or taken out whole does not have them.
    """
    elsewhere = dict(against or {})
    for organisation, found in walk(list(Organisation.objects.order_by("name", "id")), elsewhere):
        kept = elsewhere.pop(str(organisation.id), [])
        if found is None:
            yield f"{organisation.name}: every link fitted when it was walked last, and it was not walked again."
            continue
        yield from found.broken
        yield from found.notes
        if not found.broken:
            beside = f", {len(kept)} seals kept elsewhere agree" if kept else ""
            yield f"{organisation.name}: {found.count} record{'' if found.count == 1 else 's'}, every link fits{beside}."
    for identity, kept in elsewhere.items():
        why = f"an organisation of {len(kept)} records ({identity}) is not here any more: it was taken out whole"
        yield Broken("Seals kept elsewhere", 0, "", why)
    yield from _missing_of_all()
    for one in Restored.objects.all():
        yield f"On {one.at:%Y-%m-%d} {one.by} put a backup back although {len(one.breaks)} of it did not fit: {one.why}"


def _missing_of_all() -> Iterator[Broken]:
    """Records that this database sealed and does not hold any more, whichever organisation they were of."""
    # Those sealed before there were serials come first.
    before = Record.objects.filter(serial=None, brought=False).count()
    found = Record.objects.exclude(serial=None).aggregate(last=Max("serial"), count=Count("serial"))
    missing = (found["last"] or before) - before - found["count"]
    if missing > 0:
        yield Broken(
            "All organisations", 0, "", f"{missing} of the records that were sealed here are not here any more"
        )


def verify_chain(organisation: Organisation, against: Sequence[Handed] = ()) -> Verified:
    """Walks one chain, to its end."""
    verified = Verified()
    unseen = dict(Record.objects.filter(organisation=organisation).values_list("id", "number"))
    elsewhere = {one.number: one.sha256 for one in against}
    expected, previous = 1, ""
    for record in _records(organisation):
        verified.count += 1
        unseen.pop(record.id)
        skipped = range(expected, record.number)
        if isinstance(record, Record):
            _look_at(organisation, record, expected, None if skipped else previous, verified)
        if elsewhere.pop(record.number, record.sha256) != record.sha256:
            why = "its seal is not the one that was handed out: the chain was made anew"
            system = Record.objects.get(pk=record.id).job.channel.system.name
            verified.broken.append(Broken(organisation.name, record.number, system, why))
        expected, previous = record.number + 1, record.sha256
    for number in sorted(unseen.values()):
        why = "its job, or who sealed it, is not in the database any more"
        verified.broken.append(Broken(organisation.name, number, "", why))
    for number in sorted(elsewhere):
        why = f"record {number} was sealed and is not here any more: the chain was shortened"
        verified.broken.append(Broken(organisation.name, number, "", why))
    verified.broken += _without_record(organisation)
    verified.broken += _handed_on_wrong(organisation)
    return verified


def _look_at(
    organisation: Organisation, record: Record, expected: int, previous: str | None, verified: Verified
) -> None:
    """Looks at one record thoroughly; `expected` is the number that it should have."""
    system = record.job.channel.system.name
    skipped = range(expected, record.number)
    if skipped:
        said = f"record {skipped[0]} is" if len(skipped) == 1 else f"records {skipped[0]} to {skipped[-1]} are"
        verified.broken.append(Broken(organisation.name, skipped[0], "", f"{said} missing from the chain"))
    elif record.number < expected:
        verified.broken.append(Broken(organisation.name, record.number, system, "its number is there twice"))
    for why in breaks(record, previous, files=True):
        verified.broken.append(Broken(organisation.name, record.number, system, why))
    verified.notes += _set_apart(organisation, record)


def _records(organisation: Organisation) -> Iterator[Record | Seen]:
    """The records of a chain in their order: most fit at a glance; of the others, all that they are looked at with is read."""
    sizes = list(
        Record.objects.filter(organisation=organisation).order_by("number", "id").values_list("id", "job__entries")
    )
    channels = {str(one.pk): one for one in Channel.objects.filter(system__site__organisation=organisation)}
    number, previous = 0, ""
    while sizes:
        taken, total = 0, 0
        while taken < min(len(sizes), AT_ONCE) and (total := total + sizes[taken][1]) <= ENTRIES_AT_ONCE:
            taken += 1
        ids = [one for one, _ in sizes[: max(1, taken)]]
        del sizes[: max(1, taken)]
        found = rows(ids)
        seen: dict[str, Seen] = {}
        for record, written, whose in glanced_at(found, channels):
            if record.number == number + 1 and fits(record, previous, written, whose):
                seen[record.id] = Seen(UUID(record.id), record.number, record.sha256)
            number, previous = record.number, record.sha256
        others = [one.id for one in found if one.id not in seen]
        thorough = {str(one.id): one for one in _thoroughly(others)} if others else {}
        for one in found:
            if one.id in seen or one.id in thorough:
                yield seen.get(one.id) or thorough[one.id]


def _thoroughly(ids: Sequence[str]) -> QuerySet[Record]:
    """Records with all that they are looked at with, but for those of which a part is gone."""
    found = Record.objects.filter(pk__in=ids).select_related("job__channel__system", "supersedes", "sealed_by")
    return found.prefetch_related(*beside_a_record())


def _without_record(organisation: Organisation) -> Iterator[Broken]:
    """Jobs that are closed and were never sealed, or are not any more."""
    jobs = Job.objects.filter(channel__system__site__organisation=organisation, practice=False, record=None)
    closed = jobs.filter(Q(closed_at__isnull=False) | Q(state__in=(Job.State.CLOSED, Job.State.ABANDONED)))
    for job in closed.select_related("channel__system"):
        why = f"a job of {job.opened_at:%Y-%m-%d} is closed and has no record"
        yield Broken(organisation.name, 0, job.channel.system.name, why)


def _set_apart(organisation: Organisation, record: Record) -> Iterator[str]:
    for paper in record.job.attachments.all():
        late = getattr(paper, "late", None)
        if late:
            yield f"{organisation.name}: “{paper.name}” came after record {record.number} was sealed and was set apart by {late.who} on {late.at:%Y-%m-%d}: {late.why}"


def _handed_on_wrong(organisation: Organisation) -> Iterator[Broken]:
    """The channels whose factor is not what their latest sealed record handed on and no one changed since."""
    latest = (
        Record.objects.filter(organisation=organisation, job__state=Job.State.CLOSED)
        .order_by("job__channel_id", "-job__closed_at")
        .distinct("job__channel_id")
        .select_related("job__channel__system")
    )
    for record in latest:
        job, channel = record.job, record.job.channel
        factor = (job.summary or {}).get("factor_after") or ""
        if not factor or channel.factor == factor or job.tested_at:
            continue
        if not channel.system.changes.filter(field="factor", at__gt=job.closed_at).exists():
            why = f"its factor on record, {channel.factor or 'none'}, is not the one handed on, {factor}"
            yield Broken(organisation.name, record.number, channel.system.name, why)
