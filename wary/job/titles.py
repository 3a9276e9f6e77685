"""What a place of a job is called, for people to read: a field, a row of a list, a step, the job as a whole."""

import re

from wary.job.places import MAIN, REFERENCES, Parts, inputs_of, list_at, place, split
from wary.methods import all_methods

WHOLE = "the job"
_ROW = re.compile(r"^[a-z0-9]{1,16}$")
_STEP = "step."
WORDS = {
    "occasion": "Occasion",
    "note": "Note",
    "conditions": "Conditions",
    "read_back": "Read back",
    "no_as_found": "Why there are no as-found runs",
    "history_scatter.standard_deviation": "Scatter within earlier visits",
    "history_scatter.degrees_of_freedom": "Scatter within earlier visits, degrees of freedom",
}


def belongs_to(parts: Parts, path: str) -> str | None:
    """What stands at a path, in words; None where a job of these parts has no such place.

    Beside the places where an entry may stand there are a row as a whole, `runs.r1`, and a step, `zero/step.idle`.
    """
    if path == MAIN:
        return WHOLE
    part, rest = split(path)
    method = dict(parts).get(part)
    if method is None or len(path) > 120:
        return None
    if rest.startswith(_STEP):
        steps = {step.key: step.title for step in all_methods()[method].steps}
        return steps.get(rest.removeprefix(_STEP))
    above, _, last = path.rpartition(".")
    listed = list_at(parts, above) if above and _ROW.match(last) else None
    if listed is not None:
        return f"{listed.title}, one row"
    return None if place(parts, path) is None else _title(method, rest)


def _title(method: str, rest: str) -> str:
    """What the last word of a path is called where the inputs of its method know it."""
    words = rest.removeprefix("inputs.").split(".")
    last = words[-1].replace("_", " ")
    if rest in WORDS or rest.startswith((f"{REFERENCES}.", "plates.", "profile.", "tick.", "caution.", "loose.")):
        return WORDS.get(rest, last)
    known, title = inputs_of(method), last
    while words and words[0] in known:
        one = known[words.pop(0)]
        title = one.title
        if one.kind == "list":
            words = words[1:]
        known = {inner.key: inner for inner in one.inside()} if one.kind in ("list", "block") else {}
    return last if words else title
