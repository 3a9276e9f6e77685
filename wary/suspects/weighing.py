"""Weighing suspects: what was looked at speaks for one or against it, and which look would tell most a minute."""

from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass

from wary.suspects import looks
from wary.suspects.suspect import (
    FINE,
    NOT_HERE,
    WEIGHT,
    Finding,
    Known,
    Look,
    Sign,
    State,
    Suspect,
    Tells,
    Weighed,
    keys,
)

Signs = Mapping[str, Sequence[Sign]]
"""What was looked at, by the keys of the looks."""


def by_look(signs: Iterable[Sign]) -> dict[str, list[Sign]]:
    """Signs by what they are signs of."""
    found: dict[str, list[Sign]] = {}
    for sign in signs:
        found.setdefault(sign.look, []).append(sign)
    return found


def weighed(suspects: Sequence[Suspect], signs: Signs, finding: Finding | None, known: Known) -> list[Weighed]:
    """Every suspect with its state: those that something speaks for first, then by how usual they are and were here.

    What speaks for several is only likely of each, until all of them but one are ruled out, and
    all others that pass for the same finding; what arithmetic alone says never shows anything.
    """
    heard = [_heard(one, signs, finding, known) for one in suspects]
    standing: dict[Sign, int] = {}
    for one in heard:
        if not one.sure and one.state == "likely":
            for sign in one.speaks_for:
                standing[sign] = standing.get(sign, 0) + 1
    explained = {sign for one in heard if one.sure for sign in one.speaks_for}
    found = []
    for one in heard:
        state: State = one.state
        if state == "likely":
            read = [sign for sign in one.speaks_for if sign.look not in BY_ARITHMETIC]
            others = any(
                o is not one and o.state in ("open", "likely") and finding in o.suspect.taken_for for o in heard
            )
            alone = one.sure or any(standing[sign] == 1 and sign not in explained and not others for sign in read)
            state = "shown" if alone else state
        found.append(Weighed(one.suspect, state, one.speaks_for, one.against))
    return sorted(found, key=lambda one: (ORDER[one.state], -_weight(one.suspect, known)))


SEEN_BEFORE = "Seen"
"""What was seen at an earlier visit begins so."""
HISTORY = "history"
"""What the machine's own visits before say stands as a sign of this name, which nobody looks at."""
SLOWLY = 2.0
"""What comes slowly is so many times as usual where the machine drifts, and as many times less where it jumped."""
BY_ARITHMETIC = frozenset(
    (*keys(looks.SLIP, looks.SLIP_OF_COUNT, looks.SLIP_OF_PLATE, looks.SAME_REFERENCE, looks.CAPTURED), HISTORY)
)
ORDER: dict[State, int] = {"shown": 0, "likely": 1, "open": 2, "said": 3, "ruled-out": 4, "not-here": 5}


@dataclass
class _Heard:
    suspect: Suspect
    state: State
    sure: bool
    speaks_for: tuple[Sign, ...]
    against: tuple[Sign, ...]


def _heard(suspect: Suspect, signs: Signs, finding: Finding | None, known: Known) -> _Heard:
    if not suspect.here(known.plates, lacking(signs, known)):
        return _Heard(suspect, "not-here", False, (), ())
    speaks_for: list[Sign] = []
    against: list[Sign] = []
    sure = cleared = said = False
    cured = suspect.key in known.cured
    for tell in suspect.tells:
        for sign in signs.get(tell.look.key, ()):
            if sign.result in tell.shows and not cured and (not tell.when or finding in tell.when):
                speaks_for.append(sign)
                sure = sure or tell.sure
            elif suspect.cleared_by(tell, sign):
                against.append(sign)
                said, cleared = said or sign.said, cleared or not sign.said
    state: State = "open"
    if sure or (speaks_for and not (cleared or said)):
        state = "likely"
    elif cleared:
        state = "ruled-out"
    elif said or cured:
        state = "said"
    elif seen := _seen_before(suspect, known):
        # What does not change by itself stays seen.
        against.append(seen)
        state = "said"
    # How it came makes a suspect more or less usual, and shows none.
    if suspect.slowly and known.drifted:
        speaks_for.append(known.drifted)
    elif suspect.slowly and known.jumped:
        against.append(known.jumped)
    return _Heard(suspect, state, sure, tuple(speaks_for), tuple(against))


def lacking(signs: Signs, known: Known) -> Set[str]:
    """The looks that found nothing to look at: now, or as the record has it."""
    return known.past.lacks | {key for key, some in signs.items() if any(one.result == NOT_HERE for one in some)}


def _seen_before(suspect: Suspect, known: Known) -> Sign | None:
    look = next((tell.look for tell in suspect.tells if tell.clears and tell.look.key in known.past.seen), None)
    if look is None:
        return None
    return Sign(
        look.key,
        FINE,
        f"{SEEN_BEFORE} {known.past.seen[look.key]}, nothing done since: {look.fine.lower()}.",
        said=True,
    )


def _weight(suspect: Suspect, known: Known) -> float:
    usual: float = WEIGHT[suspect.usual]
    if suspect.slowly:
        usual *= SLOWLY if known.drifted else 1 / SLOWLY if known.jumped else 1
    return usual + known.found.get(suspect.key, 0)


def unexplained(
    suspects: Sequence[Suspect], signs: Signs, finding: Finding | None, found: Sequence[Weighed]
) -> list[Sign]:
    """What speaks for suspects all of which are said to be in order or ruled out: something is wrong, and it is none of them."""
    holds = {sign for one in found if one.state in ("shown", "likely") for sign in one.speaks_for}
    speaks = []
    for suspect in suspects:
        for tell in suspect.tells:
            if tell.sure or tell.look.key in BY_ARITHMETIC or (tell.when and finding not in tell.when):
                continue
            speaks += [s for s in signs.get(tell.look.key, ()) if s.result in tell.shows and s not in holds]
    return list(dict.fromkeys(speaks))


def tells_most(found: Iterable[Weighed], made: Set[str], known: Known, most_minutes: float) -> list[Look]:
    """Looks that were not made and could show or rule out one of these suspects, what tells most a minute first.

    Ties go by the order of the suspects. A look that takes longer than `most_minutes` is left out.
    """
    worth: dict[str, float] = {}
    known_looks: dict[str, Look] = {}
    for one in found:
        for look in {tell.look.key: tell.look for tell in one.suspect.tells if decides(tell)}.values():
            if look.key not in made and 0 < look.minutes <= most_minutes:
                known_looks[look.key] = look
                worth[look.key] = worth.get(look.key, 0.0) + _weight(one.suspect, known)
    return sorted(known_looks.values(), key=lambda look: -worth[look.key] / look.minutes)


def decides(tell: Tells) -> bool:
    """Whether a look can show a suspect by itself, or rule it out."""
    return tell.sure or bool(tell.clears)


def passing_for(found: Iterable[Weighed], finding: Finding | None) -> list[Weighed]:
    """Those that can pass for a finding; all of them for one that is not told."""
    return [one for one in found if finding is None or finding in one.suspect.taken_for]
