"""Loose ends: what a job leaves half done, in view until each is ticked."""

from collections.abc import Iterator
from dataclasses import dataclass

from wary.job.assess import Snapshot
from wary.job.places import joined
from wary.job.visit import Assessed
from wary.rules.assessment import FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY
from wary.rules.forms import FORMS


@dataclass(frozen=True)
class LooseEnd:
    """What is left half done: where its tick stands, the sentence, whether it is put back, whether a tick can do that."""

    key: str
    text: str
    done: bool
    tick: bool


def loose_ends(snapshot: Snapshot) -> list[LooseEnd]:
    """Every loose end of a job, in the order of the visit."""
    ends = [*_ticked(snapshot)]
    for part in snapshot.parts.values():
        ends += _of_part(snapshot, part)
    ends += _clashes(snapshot)
    return ends


def still_loose(snapshot: Snapshot) -> list[LooseEnd]:
    """Those that are not put back."""
    return [end for end in loose_ends(snapshot) if not end.done]


def _end(snapshot: Snapshot, key: str, text: str) -> LooseEnd:
    return LooseEnd(key, text, snapshot.fold.text(key) == "done", True)


def _ticked(snapshot: Snapshot) -> Iterator[LooseEnd]:
    """What was changed for the test, from the tick that says so."""
    for key, part in snapshot.parts.items():
        for step in part.method.steps:
            for item in step.items:
                if item.loose_end and f"{step.key}.{item.key}" in part.marks.ticks:
                    yield _end(snapshot, joined(key, f"loose.{item.key}"), item.loose_end)


def _of_part(snapshot: Snapshot, part: Assessed) -> Iterator[LooseEnd]:
    """What follows from the inputs of a part, what it left half done, and what its change made stale."""
    key, method = part.key, part.method
    for name, text in method.loose(part.given):
        yield _end(snapshot, joined(key, f"loose.{name}"), text)
    if not part.begun:
        return
    later = _after(snapshot, key)
    if part.unanswered and (any(one.begun for one in later) or part.assessment.as_found):
        asked = FORMS[snapshot.subject.form] if snapshot.subject.form in ("factor", "percent") else "a correction"
        yield _end(snapshot, joined(key, "loose.keyed-in"), f"{method.subject} asked for {asked}: was it keyed in?")
    if part is not snapshot.decides and part.assessment.call in (NOT_READY, KEEP_TESTING, FIND_FAULT):
        why = part.assessment.reasons[0].text if part.assessment.reasons else part.assessment.headline
        text = f"{method.title} was begun and is not finished. {why}"
        yield LooseEnd(f"part-{key}", text, False, False)
    if part.changed and not part.proved and part.marks.read_back:
        proved = not any(text.startswith(f"{method.subject}:") for text in snapshot.not_valid)
        text = f"{method.subject}: the new figure is keyed in, and no reading confirms it yet."
        yield LooseEnd(joined(key, "as-left"), text, proved, False)
    elif part.assessment.as_found and part.assessment.call != LEAVE and part.changed:
        yield LooseEnd(joined(key, "as-left"), f"{method.subject}: the as-left runs do not confirm it.", False, False)
    if part.changed:
        for stale in method.makes_stale:
            again = any(one.begun and one.proved and one.method.key in stale.by for one in later)
            loose = _end(snapshot, joined(key, f"loose.{stale.key}"), stale.text)
            yield LooseEnd(loose.key, loose.text, loose.done or again, True)


def _after(snapshot: Snapshot, key: str) -> list[Assessed]:
    """The parts that come after this one in the order of the visit."""
    keys = list(snapshot.parts)
    return [snapshot.parts[one] for one in keys[keys.index(key) + 1 :]]


def _clashes(snapshot: Snapshot) -> Iterator[LooseEnd]:
    count = sum(field.clash for field in snapshot.fold.fields.values())
    if count:
        which = "one field" if count == 1 else f"{count} fields"
        yield LooseEnd("clash", f"Two people typed differently in {which}: say which holds.", False, False)
