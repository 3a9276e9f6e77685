"""How likely each suspect is, and that something other than the figure is the matter; and what a look is worth.

Before anything is read each suspect has a chance of being there, by how usual it is and how often it was found; the
finding and what was looked at weigh them (Bayes' rule). Two may be there at once: they are independent.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from wary.suspects.suspect import OFF, Finding, Known, Look, Sign, Suspect, Usual, Weighed
from wary.suspects.weighing import decides, lacking

BEFORE: dict[Usual, float] = {"often": 1 / 25, "at-times": 1 / 100, "seldom": 1 / 400}
"""The chance that a suspect is there at a visit, before anything is known of the machine."""
MEMORY = 20
"""What is usual weighs as much as so many visits."""
ADJUSTED = 4
"""Of so many visits that are taken for known, so many ended adjusted."""
FIRST = 0.5
"""The chance that a figure is simply out where nobody ever set it."""
EXPECTED = 3.0
"""So many times likelier is a figure out where its drift led one to expect it, and so many times less where it came at
once."""
MISFIT = 1 / 50
"""How well a suspect explains a finding that it does not pass for, and nothing at all explains one."""
ERRS = 1 / 50
"""How often a look says that something is wrong where nothing is."""
SLOWLY = 2.0
"""What comes slowly is so many times as usual where the machine drifts, and as many times less where it jumped."""
TICKED, SEEN = 0.6, 0.9
"""How well a tick without a look finds, and a look at an earlier visit since when nothing was done."""
MOST = 0.95
BELIEVED = (2, 3, 5, 10, 20, 30, 50, 100, 200)
"""One in so many is what one can believe of a chance."""
EACH_OTHER = 0.5
"""What a look adds to a walk that is made anyway, min."""


@dataclass(frozen=True)
class Chances:
    """The chance of each suspect by its key, and that of any of them: of something other than the figure."""

    of: Mapping[str, float] = field(default_factory=dict)
    otherwise: float = 0.0


def before(suspect: Suspect, known: Known) -> float:
    """The chance of a suspect before anything is read at this visit: found here, found on its like, and how usual
    it is."""
    past = known.past
    usual = (past.found_alike.get(suspect.key, 0) + MEMORY * BEFORE[suspect.usual]) / (past.visits_alike + MEMORY)
    chance = (known.found.get(suspect.key, 0) + MEMORY * usual) / (past.visits + MEMORY)
    if suspect.slowly:
        chance *= SLOWLY if known.drifted else 1 / SLOWLY if known.jumped else 1
    return min(chance, MOST)


def out_before(known: Known) -> float:
    """The chance that the figure is simply out, before anything is read."""
    past = known.past
    if past.first:
        return FIRST
    chance = (past.adjusted + ADJUSTED) / (past.visits + MEMORY)
    chance *= EXPECTED if known.drifted else 1 / EXPECTED if known.jumped else 1
    return min(chance, MOST)


def chances(
    suspects: Sequence[Suspect], signs: Mapping[str, Sequence[Sign]], finding: Finding | None, known: Known
) -> Chances:
    """What is the matter, by the finding and all that was looked at: sets of none, one or two suspects, with the
    figure out or not."""
    lacks = lacking(signs, known)
    here = [one for one in suspects if one.here(known.plates, lacks) and one.key not in known.cured]
    held, speaking = _weighed(here, signs, finding, known)
    out = out_before(known)
    out_odds = out / (1 - out) * (1 if finding is None or finding in OFF else MISFIT)
    # What reads as it should needs no reason; what is off by nothing at all is as hard to explain as by a misfit.
    unmoved = out_odds + (1 if finding in (None, "in-order") else MISFIT)
    moved = 1 + out_odds

    def heard(*there: int) -> float:
        share = 1.0
        for of, finds in speaking:
            quiet = 1 - ERRS
            for one in there:
                if one in of:
                    quiet *= 1 - finds
            share *= 1 - quiet
        return share

    nothing = heard() * unmoved
    alone = [0.0] * len(here)
    if speaking:
        total = 0.0
        for first, own in enumerate(held):
            share = own * moved * heard(first)
            alone[first] += share
            total += share
            for second in range(first):
                share = own * held[second] * moved * heard(first, second)
                alone[first] += share
                alone[second] += share
                total += share
    else:
        every = sum(held)
        alone = [own * moved * (1 + every - own) for own in held]
        total = moved * (every + (every * every - sum(own * own for own in held)) / 2)
    whole = total + nothing
    if not whole:
        return Chances()
    return Chances({one.key: alone[place] / whole for place, one in enumerate(here)}, total / whole)


def _weighed(
    here: Sequence[Suspect], signs: Mapping[str, Sequence[Sign]], finding: Finding | None, known: Known
) -> tuple[list[float], list[tuple[set[int], float]]]:
    """The odds of each suspect by the finding and by looks that were fine, and the looks that speak: for which,
    and how well they find."""
    odds = []
    speaks: dict[Sign, tuple[set[int], float]] = {}
    for place, suspect in enumerate(here):
        chance = before(suspect, known)
        share = chance / (1 - chance)
        if finding is not None and finding not in suspect.taken_for:
            share *= MISFIT
        seen = 0.0
        cleared: dict[str, float] = {}
        for tell in suspect.tells:
            for sign in signs.get(tell.look.key, ()):
                finds = TICKED if sign.ticked else tell.look.finds
                if sign.result in tell.shows:
                    if not tell.when or finding in tell.when:
                        speaks.setdefault(sign, (set(), finds))[0].add(place)
                elif suspect.cleared_by(tell, sign):
                    cleared[tell.look.key] = max(cleared.get(tell.look.key, 0.0), finds)
            if tell.clears and tell.look.key in known.past.seen and tell.look.key not in signs:
                seen = SEEN
        for finds in cleared.values():
            share *= 1 - finds
        odds.append(share * (1 - seen))
    return odds, list(speaks.values())


def one_in(chance: float) -> int:
    """A chance as one can believe it: one in 2, 3, 5, 10, 20, 30, 50, 100, 200; 0 for less than that."""
    if chance <= 0.75 / BELIEVED[-1]:
        return 0
    return min(BELIEVED, key=lambda many: abs(_log_ratio(chance * many)))


def _log_ratio(ratio: float) -> float:
    return ratio - 1 if ratio >= 1 else 1 / ratio - 1


def believed(chance: float) -> float:
    """A chance as a file gives it: rounded to one in 2, 3, 5 … 200, and to one in a thousand where it is less;
    above two in three as it is, in tenths."""
    if chance > 2 / 3:
        return round(chance, 1)
    many = one_in(chance)
    return round(1 / many, 4) if many else 0.001


def in_words(chance: float) -> str:
    """A chance in words: “1 in 30”."""
    if chance > 2 / 3:
        return f"{min(9, round(chance * 10))} in 10"
    many = one_in(chance)
    return f"1 in {many}" if many else f"under 1 in {BELIEVED[-1]}"


# --- what a look is worth ----------------------------------------------------------------------


@dataclass(frozen=True)
class Card:
    """Looks that are made together: in one walk, or one alone. Minutes and worth in minutes."""

    looks: tuple[Look, ...]
    minutes: float
    worth: float


def to_be_shown(standing: Iterable[Weighed], chances_of: Chances) -> dict[str, float]:
    """What each look could show, by its key: the chances of the suspects that it can show, together."""
    found: dict[str, float] = {}
    for one in standing:
        chance = chances_of.of.get(one.suspect.key, 0.0)
        for key in _shown_by(one.suspect):
            found[key] = found.get(key, 0.0) + chance
    return found


@lru_cache(maxsize=512)
def _shown_by(suspect: Suspect) -> tuple[str, ...]:
    return tuple(dict.fromkeys(tell.look.key for tell in suspect.tells if decides(tell)))


def together(looks: Sequence[Look], begun: Mapping[str, float]) -> float:
    """The minutes of looks that are made in one walk: the longest one's, and half a minute for each other.

    `begun` is the longest look of each walk that was made already.
    """
    if not looks:
        return 0.0
    longest = max(look.minutes for look in looks)
    done = begun.get(looks[0].walk, 0.0) if looks[0].walk else 0.0
    if done:
        return max(0.0, longest - done) + EACH_OTHER * len(looks)
    return longest + EACH_OTHER * (len(looks) - 1)


def cards(looks: Mapping[Look, float], begun: Mapping[str, float]) -> list[Card]:
    """The looks that are worth their minutes, put together by walk: what is worth most a minute first.

    `looks` are those that can be made, with what each is worth, min.
    """
    walks: dict[str, list[Look]] = {}
    for look in looks:
        walks.setdefault(look.walk or look.key, []).append(look)
    found = []
    for some in walks.values():
        best: Card | None = None
        chosen: list[Look] = []
        for look in sorted(some, key=lambda one: -looks[one] / one.minutes if one.minutes else 0.0):
            chosen.append(look)
            worth = sum(looks[one] for one in chosen)
            card = Card(tuple(chosen), together(chosen, begun), worth)
            if best is None or card.worth - card.minutes > best.worth - best.minutes:
                best = card
        if best and best.worth > best.minutes:
            found.append(best)
    return sorted(found, key=lambda card: -card.worth / card.minutes)
