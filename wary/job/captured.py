"""What was captured of a live display says of itself whether it stood: where a reading must stand, that is evidence."""

from functools import lru_cache

from wary.job.places import Parts, split
from wary.job.titles import belongs_to
from wary.log import Fold
from wary.methods import all_methods

NAMED = 3
"""So many readings are named in a sentence; of more it says how many."""


def as_they_stood(fold: Fold, parts: Parts) -> tuple[bool, str] | None:
    """Whether all readings stood that must stand where they are read, and a sentence.

    None where none of them was captured. False as soon as one that is in force was captured while
    it moved; True where each was captured, and stood.
    """
    if not fold.captured:
        return None
    methods, stood, moving, typed = dict(parts), 0, [], 0
    for path, one in fold.fields.items():
        part, name = _named(path)
        if not one.text or part not in methods or name not in must_stand(methods[part]):
            continue
        if one.steady is None:
            typed += 1
        elif one.steady:
            stood += 1
        else:
            moving.append(path)
    if moving:
        return False, _in_words(parts, moving)
    if stood and not typed:
        return True, f"{stood} readings, each captured as it stood." if stood > 1 else "It stood as it was captured."
    return None


@lru_cache(maxsize=64)
def must_stand(method: str) -> frozenset[str]:
    """The places of a method that are read once it stands (`passes.zero`, `inputs.indicated`): waiting for that is the last act before."""
    acts = all_methods()[method].acts
    return frozenset(name for name, done in acts.items() if done and done[-1].do == "settle")


@lru_cache(maxsize=8192)
def _named(path: str) -> tuple[str, str]:
    """The part of a path, and the path without its rows."""
    part, rest = split(path)
    words = rest.split(".")
    return part, rest if words[0] == "inputs" else ".".join(words[::2])


def _in_words(parts: Parts, moving: list[str]) -> str:
    titles = [belongs_to(parts, path) or "a reading" for path in moving]
    if len(moving) > NAMED:
        return f"{len(moving)} readings were captured while it moved."
    names = dict.fromkeys(titles)
    said = [f"{name} ({count} times)" if (count := titles.count(name)) > 1 else name for name in names]
    return f"Captured while it moved: {'; '.join(said)}."
