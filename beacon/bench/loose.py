"""Loose ends: what a job leaves half done, in view until each is ticked."""

from typing import Any

from beacon.bench.document import Assessed, begun, judged
from beacon.bench.fold import live_rows, text_at
from beacon.bench.models import Job
from beacon.bench.paths import joined
from wary.call import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY
from wary.methods import all_methods


def loose_ends(job: Job, assessed: Assessed) -> list[dict[str, Any]]:
    """Each loose end: key, sentence, whether it is put back, and whether a tick can do that."""
    fold = job.fold
    ends = []
    for part, method in job.parts:
        for step in all_methods()[method].steps:
            for item in step.items:
                if item.loose_end and text_at(fold, joined(part, f"tick.{step.key}.{item.key}")) == "yes":
                    key = joined(part, f"loose.{item.key}")
                    ends.append(
                        {"key": key, "text": item.loose_end, "done": text_at(fold, key) == "done", "tick": True}
                    )
    for part, _ in job.parts:
        ends += _of_part(job, assessed.parts[part] if part else assessed, part)
    answer = assessed.assessment
    found = answer.as_found or answer
    began = bool(text_at(fold, "read_back")) or bool(live_rows(fold, "as_left"))
    if began and found.call == ADJUST:
        read = bool(text_at(fold, "read_back"))
        ends.append(
            {"key": "read-back", "text": "Type what the instrument shows after keying in.", "done": read, "tick": False}
        )
        confirmed = answer is not found and answer.call == LEAVE
        ends.append(
            {
                "key": "as-left",
                "text": "The new figure is not confirmed by as-left runs.",
                "done": confirmed,
                "tick": False,
            }
        )
    clashes = [path for path, field in fold["fields"].items() if field.get("clash")]
    if clashes:
        which = "one field" if len(clashes) == 1 else f"{len(clashes)} fields"
        text = f"Two people typed differently in {which}: say which holds."
        ends.append({"key": "clash", "text": text, "done": False, "tick": False})
    return ends


def _of_part(job: Job, part: Assessed, key: str) -> list[dict[str, Any]]:
    """What follows from the inputs themselves, and a part of the visit that was begun and is not finished."""
    ends = []
    method = part.read.method
    for name, text in method.loose(part.read.given) if method and part.read.given else []:
        path = joined(key, f"loose.{name}")
        ends.append({"key": path, "text": text, "done": text_at(job.fold, path) == "done", "tick": True})
    if key and begun(job.fold, key) and part.assessment.call in (NOT_READY, KEEP_TESTING, FIND_FAULT):
        title = method.title if method else key
        text = f"{title}: {part.assessment.headline.lower()}. It was begun and is not finished."
        ends.append({"key": f"part-{key}", "text": text, "done": False, "tick": False})
    return ends


def is_complete(job: Job, assessed: Assessed) -> bool:
    """Whether the evidence ends in a machine that may be left alone."""
    return judged(job, assessed).assessment.call == LEAVE
