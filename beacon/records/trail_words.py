"""The trail of a record in words: where each entry stands, and what it says.

Records of before say it as they did: `places` has the words of then where it is given the words of then.
"""

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from wary.fields import OCCASIONS
from wary.job.places import joined, split
from wary.job.titles import WORDS
from wary.job.words import MethodWords, Words, called, choice_in_words, lists_on_the_way, words_of
from wary.machines import all_machines

Content = dict[str, Any]
UNTITLED = ("references.", "plates.", "profile.", "tick.", "caution.", "loose.")


def places(content: Content, methods: dict[str, str], words: Words) -> Iterator[str]:
    """Where each entry of the trail stands, in words, its rows by their number: `Runs 2, gross`."""
    numbers: dict[tuple[str, str], int] = {}
    counts: dict[str, int] = {}
    for entry in content["trail"]:
        part, rest = split(entry["path"])
        if words is words_of:
            yield _place(_words_at(methods, part, rest, words), part, rest, numbers, counts)
        else:
            yield _place_before(words(methods[part]) if part in methods else None, part, rest, numbers, counts)


def _words_at(methods: dict[str, str], part: str, rest: str, words: Words) -> MethodWords | None:
    """The words of the method that knows a place: of what is typed for the visit as a whole, the first of its parts that does."""
    if part not in methods:
        return None
    way = rest.split(".")
    own = words(methods[part])
    if part or way[0] != "inputs" or called(own, way[1:]):
        return own
    return next((one for method in methods.values() if called(one := words(method), way[1:])), own)


def says(content: Content, methods: dict[str, str], words: Words) -> Iterator[str]:
    """What each entry of the trail says, in words: a choice by what it means, a tick as ticked, a figure as it was typed."""
    ways = [(entry["path"].split("."), entry["text"]) for entry in content["trail"]]
    names = {way[1]: text for way, text in ways if way[0] == "references" and way[-1] == "name" and text}
    for entry in content["trail"]:
        part, rest = split(entry["path"])
        text = f"{entry['text']} {entry['unit']}".strip()
        yield _said(_words_at(methods, part, rest, words), rest, text, names)


TICKED = {
    "tick": ("ticked", "not ticked"),
    "caution": ("seen to", "not seen to"),
    "loose": ("put back", "not put back"),
}
"""What is said of a tick, of a caution and of what was put back: as it is, and as it is not."""


def _said(words: MethodWords | None, rest: str, text: str, names: dict[str, str]) -> str:
    way = rest.split(".")
    if way[0] in TICKED:
        return TICKED[way[0]][text not in ("yes", "done")]
    if way[0] == "cured":
        return "put right" if text else text
    if way[0] in OF_LOOKS:
        return {"fine": "fine", "not-fine": "not fine"}.get(text, text)
    if rest == "occasion":
        return OCCASIONS.get(text, text)
    if way[0] == "references" and way[-1] == "id":
        return names.get(way[1], "chosen") if text else text
    if rest.startswith(UNTITLED) or words is None:
        return text
    return choice_in_words(words, way[1:] if way[0] == "inputs" else way, text)


OF_LOOKS = {"looked": "Looked at", "look_noted": "Noted of", "skipped": "Not looked at", "cured": "Put right"}
"""What stands of looks in a trail, by the head of its path."""


@lru_cache(maxsize=1)
def _looks_in_words() -> dict[str, str]:
    """Looks and suspects by their keys, in words."""
    found = {}
    for kind in all_machines().values():
        for one in kind.all_suspects():
            found[one.key] = one.title
    for kind in all_machines().values():
        for one in kind.all_suspects():
            found |= {tell.look.key: tell.look.words for tell in one.tells}
    return found


def _look_in_words(key: str) -> str:
    return _looks_in_words().get(key, key.replace("-", " "))


def _place(
    words: MethodWords | None, part: str, rest: str, numbers: dict[tuple[str, str], int], counts: dict[str, int]
) -> str:
    way = rest.split(".")
    if way[0] in OF_LOOKS:
        return f"{OF_LOOKS[way[0]]}: {_look_in_words(way[-1])}"
    if rest.startswith("references."):
        return "Reference" if way[-1] == "id" else f"Reference, {way[-1].replace('_', ' ')}"
    if way[0] in TICKED:
        return _ticked(words, way)
    rows = _rows_on(words, part, way, numbers, counts)
    last = _last(words, rest, way) if words else rest.replace(".", " ").replace("_", " ")
    if rows and rows[-1].startswith(f"{last} "):
        # The element of a plain list is called as its list is.
        return ", ".join(rows)
    return ", ".join([*rows, last.lower() if rows else last])


def _place_before(
    words: MethodWords | None, part: str, rest: str, numbers: dict[tuple[str, str], int], counts: dict[str, int]
) -> str:
    """Where an entry stands, as records of before say it: their paper stays as it was."""
    way = rest.split(".")
    if way[0] in OF_LOOKS:
        return f"{OF_LOOKS[way[0]]}: {_look_in_words(way[-1])}"
    if rest.startswith("references."):
        return f"Reference, {way[-1].replace('_', ' ')}"
    if way[0] in TICKED:
        return f"{way[0].capitalize()}: {way[-1].replace('-', ' ')}"
    rows = _rows_on(words, part, way, numbers, counts)
    plain = way[-1].replace("_", " ")
    if words is None:
        last = rest.replace(".", " ").replace("_", " ")
    elif rest in WORDS or rest.startswith(UNTITLED):
        last = WORDS.get(rest, plain)
    else:
        last = called(words, way[1:] if way[0] == "inputs" else way) or plain
    return ", ".join([*rows, last.lower() if rows else last])


def _rows_on(
    words: MethodWords | None,
    part: str,
    way: list[str],
    numbers: dict[tuple[str, str], int],
    counts: dict[str, int],
) -> list[str]:
    """The rows that a way leads through, each as its list is called with its number: `Runs 2`."""
    rows = []
    for at, title in lists_on_the_way(words, way) if words else ():
        full = joined(part, ".".join(way[:at]))
        if (full, way[at]) not in numbers:
            counts[full] = counts.get(full, 0) + 1
            numbers[full, way[at]] = counts[full]
        rows.append(f"{title} {numbers[full, way[at]]}")
    return rows


def _ticked(words: MethodWords | None, way: list[str]) -> str:
    """What a tick, a caution or a loose end is called; by its key where its method is of before it named them."""
    plain = way[-1].replace("-", " ")
    step = words.steps.get(way[1], way[1].replace("-", " ")) if words else ""
    if way[0] == "tick" and words and ".".join(way[1:]) in words.ticks:
        return f"{step}: {words.ticks['.'.join(way[1:])]}"
    if way[0] == "caution" and step:
        return f"{step}: what to beware of"
    if way[0] == "loose":
        return f"Put back: {words.loose.get(way[-1], plain) if words else plain}"
    return plain.capitalize()


def _last(words: MethodWords, rest: str, way: list[str]) -> str:
    """What the last word of a path is called where the inputs of its method know it."""
    plain = way[-1].replace("_", " ")
    if rest in WORDS or rest.startswith(UNTITLED):
        return WORDS.get(rest, plain[:1].upper() + plain[1:])
    return called(words, way[1:] if way[0] == "inputs" else way) or plain
