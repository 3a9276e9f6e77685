"""Loose ends: what a job leaves half done, in view until each is ticked."""

from typing import Any

from beacon.bench.document import Assessed
from beacon.bench.fold import live_rows, text_at
from beacon.bench.models import Job
from beacon.bench.paths import joined
from wary.call import ADJUST, LEAVE
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


def is_complete(assessed: Assessed) -> bool:
    """Whether the evidence ends in a machine that may be left alone."""
    return assessed.assessment.call == LEAVE
