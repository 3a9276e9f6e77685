"""The run sheet of a visit: its parts and steps in the order of the work, one look first and one reading off for all of them."""

from collections.abc import Mapping
from dataclasses import dataclass

from wary.job.places import MAIN, joined
from wary.machines.machine import Part
from wary.methods import all_methods
from wary.methods.steps import AnyStep, Close, Enter, Item, Look

LOOK_FIRST, READ_OFF = "look", "plates"
"""The steps with which a part begins: of a visit each is one."""


@dataclass(frozen=True)
class Section:
    """A stretch of the run sheet: a part of the visit, and the steps of it that come here."""

    part: str
    title: str
    steps: tuple[str, ...]
    optional: bool = False


def sections(visit: tuple[Part, ...]) -> list[Section]:
    """The run sheet of a visit: parts and steps in their order, with what other parts hand on left out.

    Only the main part of a visit closes. What its parts look at first is one step, in the first of them, and so
    is what they read off; a part that is done only now and then keeps its own.
    """
    whole = len(visit) > 1
    look, read = look_first(visit), read_off(visit)
    first = {LOOK_FIRST: look.part if look else None, READ_OFF: read.part if read else None}
    handed = {name: part.key for part in visit for name in all_methods()[part.method].hands if not part.optional}
    rows: list[Section] = []
    later = [part for part in visit if part.before]
    for part in visit:
        if part.before:
            continue
        own = _steps(part, handed, whole, first)
        if part.key:
            rows.append(Section(part.key, _title(part), tuple(own), part.optional))
            continue
        for other in later:
            at = own.index(other.before) if other.before in own else len(own)
            if own[:at]:
                rows.append(Section(MAIN, _title(part), tuple(own[:at])))
            rows.append(Section(other.key, _title(other), tuple(_steps(other, handed, whole, first)), other.optional))
            own = own[at:]
        rows.append(Section(MAIN, _title(part), tuple(own)))
    return rows


def _title(part: Part) -> str:
    return part.title or all_methods()[part.method].title


def _steps(part: Part, handed: dict[str, str], whole: bool, first: Mapping[str, str | None]) -> list[str]:
    method = all_methods()[part.method]
    kept = []
    for step in method.steps:
        at = first.get(step.key)
        if at is not None and isinstance(step, Look | Enter) and not part.optional and part.key != at:
            continue
        fields = step.fields
        done_elsewhere = (
            bool(fields) and not step.items and all(handed.get(one, part.key) != part.key for one in fields)
        )
        if not done_elsewhere and not (whole and part.key and isinstance(step, Close)):
            kept.append(step.key)
    return kept


@dataclass(frozen=True)
class LookedFirst:
    """One thing to look at before the work: where its tick goes, in words, and the loose end that it leaves."""

    path: str
    text: str
    loose_end: str = ""


@dataclass(frozen=True)
class LookFirst:
    """What the parts of a visit look at first, each thing once: the part in whose step it stands, and its cautions."""

    part: str
    items: tuple[LookedFirst, ...]
    cautions: tuple[str, ...]


def look_first(visit: tuple[Part, ...]) -> LookFirst | None:
    """The one look first of a visit; None where fewer than two of its parts begin with one.

    An item stands for another of its name, or of its looks, where it looks at no less.
    """
    parts = [(part, step) for part, step in _steps_named(visit, LOOK_FIRST) if isinstance(step, Look)]
    if len(parts) < 2:
        return None
    items: list[tuple[Part, Item]] = []
    for part, step in parts:
        for item in step.items:
            if any(_stands_for(one, item) for _, one in items):
                continue
            narrower = [at for at, (_, one) in enumerate(items) if _stands_for(item, one)]
            for at in reversed(narrower[1:]):
                del items[at]
            if narrower:
                items[narrower[0]] = (part, item)
            else:
                items.append((part, item))
    cautions = dict.fromkeys(caution for _, step in parts for caution in step.cautions)
    return LookFirst(parts[0][0].key, tuple(_looked(part, item) for part, item in items), tuple(cautions))


def _stands_for(one: Item, other: Item) -> bool:
    """Whether who ticks `one` need not tick `other`: it is the same thing, or covers all that it looks at."""
    if one.key == other.key:
        return set(other.looks) <= set(one.looks)
    return bool(other.looks) and not other.loose_end and set(other.looks) <= set(one.looks)


def _looked(part: Part, item: Item) -> LookedFirst:
    return LookedFirst(joined(part.key, f"tick.{LOOK_FIRST}.{item.key}"), item.text, item.loose_end or "")


@dataclass(frozen=True)
class ReadOff:
    """What the parts of a visit read off, each figure once: the part in whose step it stands, and its cautions.

    `fields` are the keys of inputs with the part that asks for each; they are typed for the visit as a whole.
    """

    part: str
    fields: tuple[tuple[str, str], ...]
    cautions: tuple[str, ...]


def read_off(visit: tuple[Part, ...]) -> ReadOff | None:
    """The one reading off of a visit; None where fewer than two of its parts read anything off."""
    parts = [(part, step) for part, step in _steps_named(visit, READ_OFF) if isinstance(step, Enter)]
    if len(parts) < 2:
        return None
    handed = {name for part in visit for name in all_methods()[part.method].hands if not part.optional}
    fields: dict[str, str] = {}
    for part, step in parts:
        for key in step.fields:
            if key not in handed:
                fields.setdefault(key, part.key)
    cautions = dict.fromkeys(caution for _, step in parts for caution in step.cautions)
    return ReadOff(parts[0][0].key, tuple((part, key) for key, part in fields.items()), tuple(cautions))


def _steps_named(visit: tuple[Part, ...], key: str) -> list[tuple[Part, AnyStep]]:
    """The steps of this name of the parts that a visit does anyway."""
    return [
        (part, step)
        for part in visit
        if not part.optional
        for step in all_methods()[part.method].steps
        if step.key == key
    ]
