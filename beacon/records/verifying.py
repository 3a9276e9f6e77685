"""Walking the chains: every record, what stands about it, its entries and files, and what it handed on.

A verification goes on after what does not fit, and says all of it.
"""

import datetime
import json
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

from django.db.models import Count, Max, Prefetch, Q, QuerySet

from beacon.attachments.keeping import sealed_attachments, why_gone
from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from beacon.people.models import Organisation
from beacon.plant.models import Channel
from beacon.records.facts import facts, other_facts
from beacon.records.glancing import fits, glanced_at, same_fold
from beacon.records.models import Record, Restored
from beacon.records.sealing import Handed, digest, trail_of

AT_ONCE, ENTRIES_AT_ONCE = 200, 20_000
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
    channels = {one.pk: one for one in Channel.objects.filter(system__site__organisation=organisation)}
    number, previous = 0, ""
    while sizes:
        taken, total = 0, 0
        while taken < min(len(sizes), AT_ONCE) and (total := total + sizes[taken][1]) <= ENTRIES_AT_ONCE:
            taken += 1
        ids = [one for one, _ in sizes[: max(1, taken)]]
        del sizes[: max(1, taken)]
        found = list(Record.objects.filter(id__in=ids).select_related("job").order_by("number", "id"))
        seen: dict[UUID, Seen] = {}
        for record, written in glanced_at(found, channels):
            if record.number == number + 1 and fits(record, previous, written):
                seen[record.id] = Seen(record.id, record.number, record.sha256)
            number, previous = record.number, record.sha256
        others = [one.id for one in found if one.id not in seen]
        thorough = {one.id: one for one in _thoroughly(others)} if others else {}
        for one in found:
            if one.id in seen or one.id in thorough:
                yield seen.get(one.id) or thorough[one.id]


def _thoroughly(ids: Sequence[UUID]) -> QuerySet[Record]:
    """Records with all that they are looked at with, but for those of which a part is gone."""
    entries = Prefetch("job__trail", Entry.objects.select_related("who").order_by("sequence"))
    papers = Prefetch("job__attachments", Attachment.objects.select_related("who", "late__who"))
    found = Record.objects.filter(pk__in=ids).select_related("job__channel__system", "supersedes", "sealed_by")
    return found.prefetch_related(entries, papers)


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


def why_broken(record: Record) -> str | None:
    """The first thing that does not fit of one record, in words; None where it fits. Its files are not read."""
    return next(breaks(record, record.previous), None)


def breaks(record: Record, previous: str | None, files: bool = False) -> Iterator[str]:
    """Everything of a record that does not fit, in words. `previous` is the seal before it, None where that is missing.

    `files` reads its papers too.
    """
    try:
        yield from _breaks(record, previous, files)
    except (ValueError, LookupError, TypeError, AttributeError):
        # Whatever was done to its rows, the verification goes on.
        yield "what stands about it in the database cannot be read any more"


def _breaks(record: Record, previous: str | None, files: bool) -> Iterator[str]:
    if digest(record.content) != record.sha256:
        yield "its content does not give its seal: it was changed after sealing"
    if previous is not None and record.previous != previous:
        yield "it does not point to the seal of the record before it"
    try:
        content = json.loads(record.content)
        chain, closing = content["chain"], content["closing"]
        chain["number"], closing["outcome"], content["trail"]
    except (ValueError, LookupError, TypeError):
        yield "its content is no sealed job any more"
        return
    # One that was brought from another server was counted there.
    of_all = None if record.brought else chain.get("of_all")
    if (chain["number"], chain.get("previous"), of_all) != (record.number, record.previous, record.serial):
        yield "the place in the chain that it was sealed with is another"
    job = record.job
    if chain.get("job", str(job.id)) != str(job.id):
        yield "it was sealed for another job"
    if (job.closing or {}) != closing:
        yield "how its job was closed is not what was sealed"
    if "sealed" in content:
        other = other_facts(content["sealed"], facts(record, job))
        if other:
            words = ", ".join(sorted(one.replace("_", " ").replace(".", ", ") for one in other)[:5])
            yield f"what stands about it in the database is not what was sealed: {words}"
    else:
        yield from _older(record, content)
    yield from _trail_broken(record, content)
    yield from _papers_broken(record, content, files)
    before = record.supersedes
    if (content.get("supersedes") or {}).get("sha256", "") != (before.sha256 if before else ""):
        yield "the record that it puts right is another than was sealed"


def _trail_broken(record: Record, content: dict[str, Any]) -> Iterator[str]:
    job, sealed = record.job, content["trail"]
    entries = sorted(job.trail.all(), key=lambda one: one.sequence)
    now = trail_of(entries)
    # What was sealed before a thing was written down does not say it; someone may be called otherwise since.
    alike = [{key: one.get(key) for key in before if key != "who"} for one, before in zip(now, sealed, strict=False)]
    if len(now) != len(sealed) or alike != [_unnamed(one) for one in sealed]:
        yield "the entries in the database are not those that were sealed"
        return
    allowed = set() if "sealed" in content else {"person", "steady"}
    if any(set(one) - set(before) - allowed for one, before in zip(now, sealed, strict=True)):
        yield "an entry in the database says more than was sealed"
    if [one.sequence for one in entries] != list(range(1, len(entries) + 1)):
        yield "the entries in the database are not numbered as they were kept"
    if not _same_people(entries, sealed):
        yield "an entry in the database is another person's than was sealed"
    if "sealed" in content and not same_fold(job, entries[: job.folded]):
        yield "what its page shows is not what its entries come to"


def _unnamed(row: dict[str, Any]) -> dict[str, Any]:
    return {key: one for key, one in row.items() if key != "who"}


def _same_people(entries: Sequence[Entry], sealed: Sequence[dict[str, Any]]) -> bool:
    """Whether each name stands for one person and each person for one name; two people may bear one name."""
    by_name: dict[str, set[int]] = {}
    by_person: dict[int, set[str]] = {}
    for entry, one in zip(entries, sealed, strict=True):
        by_name.setdefault(one["who"], set()).add(entry.who_id)
        by_person.setdefault(entry.who_id, set()).add(one["who"])
    called = {entry.who_id: str(entry.who) for entry in entries}
    one_each = all(
        len(people) == 1 or all(called[person] == name for person in people) for name, people in by_name.items()
    )
    return one_each and all(len(names) == 1 for names in by_person.values())


def _papers_broken(record: Record, content: dict[str, Any], files: bool) -> Iterator[str]:
    sealed = content.get("papers", [])
    known = {one["id"] for one in sealed}
    papers = list(record.job.attachments.all())
    now = {
        one["id"]: one for one in sealed_attachments(record.job, [one for one in papers if not hasattr(one, "late")])
    }
    late = [paper for paper in papers if str(paper.id) not in known and not hasattr(paper, "late")]
    for paper in late:
        yield f"“{paper.name}” came after it was sealed; a lead can set it apart on the record's page"
    kept = [now[one["id"]] for one in sealed if one["id"] in now]
    alike = [{key: one.get(key) for key in before if key != "who"} for one, before in zip(kept, sealed, strict=False)]
    if len(kept) != len(sealed) or alike != [_unnamed(one) for one in sealed]:
        yield "its photographs and papers are not those that were sealed"
    if any(paper.organisation_id != record.organisation_id for paper in papers):
        yield "a photograph of it is another organisation's"
    if files:
        yield from (why for paper in papers if (why := why_gone(paper)))


def _older(record: Record, content: dict[str, Any]) -> Iterator[str]:
    """What a record of before shows of its rows, that did not seal them beside its file."""
    job, closing, summary = record.job, content["closing"], record.job.summary or {}
    state = Job.State.ABANDONED if closing["outcome"] == "abandoned" else Job.State.CLOSED
    if (job.state, job.practice) != (state, False):
        yield "the state of its job is not what was sealed"
    times = [(job.closed_at, "closed_at"), (record.sealed_at, "closed_at"), (job.opened_at, "opened_at")]
    if any(at is None or at != datetime.datetime.fromisoformat(closing[key]) for at, key in times if closing.get(key)):
        yield "the time of its job is not what was sealed"
    if job.method != content["method"] or job.entries != len(content["trail"]):
        yield "the method of its job, or its count of entries, is not what was sealed"
    said = (closing.get("words"), closing.get("closed_by"), content.get("occasion", "routine"))
    if (summary.get("outcome"), summary.get("closed_by"), summary.get("occasion", said[2])) != said:
        yield "what its history says is not what was sealed"
    answers = {one["method"]: one["assessment"] for one in content.get("visit", []) if "assessment" in one}
    answers[content["method"]] = content["assessment"]
    answer = answers.get(summary.get("method", ""))
    if (
        answer is None
        or (answer["call"], answer["headline"]) != (job.call, job.headline)
        or summary.get("call") != job.call
    ):
        yield "the call of its job is not what was sealed"
    if content["system"].get("name") and closing.get("opened_by") and not _same_closer(record, content):
        yield "who signed it is another than was sealed"


def _same_closer(record: Record, content: dict[str, Any]) -> bool:
    """Whether it was sealed by whom its trail knows under the name that closed it."""
    named = content["closing"].get("closed_by")
    known = {entry.who_id for entry, one in zip(record.job.trail.all(), content["trail"], strict=False) if one["who"] == named}  # fmt: skip
    return not known or record.sealed_by_id in known
