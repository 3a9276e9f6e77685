"""Looking at one record thoroughly: everything of it that does not fit, in words."""

import datetime
import json
from collections.abc import Iterator, Sequence
from typing import Any

from django.db.models import Prefetch, prefetch_related_objects

from beacon.attachments.keeping import sealed_attachments, why_gone
from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from beacon.records.facts import facts, other_facts
from beacon.records.glancing import same_fold
from beacon.records.models import Record
from beacon.records.sealing import digest, trail_of


def beside_a_record() -> tuple[Any, ...]:
    """What is read with records that are looked at: their entries and papers, each with its person."""
    entries = Prefetch("job__trail", Entry.objects.select_related("who").order_by("sequence"))
    papers = Prefetch("job__attachments", Attachment.objects.select_related("who", "late__who"))
    return entries, papers


def why_broken(record: Record) -> str | None:
    """The first thing that does not fit of one record, in words; None where it fits. Its files are not read."""
    prefetch_related_objects([record], *beside_a_record())
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
    if "sealed" in content and not same_fold(job, [one.logged for one in entries[: job.folded]]):
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
