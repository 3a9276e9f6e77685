"""A suspect: something else that could make a machine read so, what it passes for, and the looks that tell."""

from collections.abc import Mapping, Set
from dataclasses import dataclass, field, fields
from typing import Any, Literal

from wary.results import JSON

Finding = Literal["light", "heavy", "scatter", "zero-moved", "curve", "in-order"]
"""What a comparison can come to; `in-order`: it cannot see the suspect at all."""
FINDINGS: dict[Finding, str] = {
    "light": "reads light",
    "heavy": "reads heavy",
    "scatter": "does not repeat",
    "zero-moved": "its zero has moved",
    "curve": "is off by another share at another load",
    "in-order": "reads as it should",
}
WALKS = {
    "round": "Round the machine",
    "running": "Along it as it runs",
    "instrument": "At the instrument",
    "papers": "What was written down",
}
"""What looks that are made in one walk are called together."""
OFF: tuple[Finding, ...] = ("light", "heavy")
Usual = Literal["often", "at-times", "seldom"]
WEIGHT: dict[Usual, int] = {"often": 4, "at-times": 2, "seldom": 1}
"""How much it tells to show or rule out a suspect, by how usual it is."""
FINE, NOT_FINE, NOT_HERE = "fine", "not-fine", "not-here"
EXPLAINED = "explained"
"""What something in the job itself comes to that explains the finding within its uncertainty."""
State = Literal["shown", "likely", "open", "ruled-out", "said", "not-here"]
STATES: dict[State, str] = {
    "shown": "shown",
    "likely": "likely",
    "open": "not looked at",
    "ruled-out": "ruled out",
    "said": "said to be in order",
    "not-here": "not on this machine",
}


@dataclass(frozen=True)
class Look:
    """Something that can be done in minutes, and what one answers: `fine` or `not_fine`, in a few words.

    `needs` is what has to be there for it; `where` is the place on the machine's drawing. `more` tells ways
    apart in which it can be not fine: a key for each and its words, which are then noted. `watched`: a live
    figure that is left alone answers it by itself. `finds` is the chance that it shows what is there, `walk` the
    walk in which it is made with others; `lasts`: what it looks at does not change by itself.
    """

    key: str
    words: str
    minutes: float
    fine: str
    not_fine: str
    needs: Literal["", "a load", "a second person", "running", "stopped"] = ""
    where: str = ""
    more: tuple[tuple[str, str], ...] = ()
    watched: bool = False
    finds: float = 0.95
    walk: str = ""
    lasts: bool = False

    def result_of(self, result: str, note: str) -> str:
        """What was answered: where a note is one of `more`, that is what is wrong."""
        said = note.strip().rstrip(".").lower()
        return next((key for key, words in self.more if result == NOT_FINE and said in (key, words.lower())), result)


@dataclass(frozen=True)
class Tells:
    """What a look says of a suspect: which results speak for it, and which rule it out.

    `sure`: what speaks for it shows it and nothing else. `when` keeps what speaks for it to these findings.
    """

    look: Look
    shows: tuple[str, ...] = (NOT_FINE,)
    clears: tuple[str, ...] = (FINE,)
    sure: bool = True
    when: tuple[Finding, ...] = ()


def keys(*looks: Look) -> tuple[str, ...]:
    """The keys of looks."""
    return tuple(look.key for look in looks)


def hints(look: Look, shows: str = NOT_FINE, when: tuple[Finding, ...] = ()) -> Tells:
    """A look that can speak for a suspect among others, and rules it out never."""
    return Tells(look, (shows,), (), False, when)


@dataclass(frozen=True)
class Suspect:
    """Something else that could make it read so.

    `event` is what curing it is logged as, `again` what must be done again afterwards. `least` keeps it
    to machines with a plate of at least so much. `by_reading`: nothing of the machine is
    wrong, it was read otherwise than it should be, and reading it again is the cure. `slowly`: it comes over
    weeks, and not from one visit to the next. `figures` are the settings of the instrument that it is about, where
    it is about some;
    `part` is what it is a fault of, where not every machine has one: “a shutter”.
    """

    key: str
    title: str
    taken_for: tuple[Finding, ...]
    usual: Usual
    tells: tuple[Tells, ...]
    cure: str
    event: str = "other"
    again: str = "Then the zero, and the comparison again."
    least: tuple[str, float] | None = None
    by_reading: bool = False
    slowly: bool = False
    figures: frozenset[str] = frozenset()
    part: str = ""

    def cleared_by(self, tell: Tells, sign: "Sign") -> bool:
        """Whether what a look came to rules it out: where figures were compared, those that it would change."""
        if sign.result not in tell.clears:
            return False
        if not sign.of:
            return True
        return self.figures <= sign.of if self.figures else sign.whole

    def here(self, plates: Mapping[str, float], lacks: Set[str] = frozenset()) -> bool:
        """Whether a machine with these plates can have it, where looks at some of its parts found none."""
        if self.part and any(tell.look.key in lacks for tell in self.tells if tell.sure):
            return False
        if self.least is None:
            return True
        found = plates.get(self.least[0])
        return found is None or found >= self.least[1]


@dataclass(frozen=True)
class Sign:
    """What one look came to: its result, in a sentence with figures where there are any, and where it was entered.

    `said`: nothing was read, somebody says so; `ticked`: in a list, among others. `of` are the figures that were
    compared, where it was some of them; `whole`: all that the plates say.
    """

    look: str
    result: str
    text: str
    path: str = ""
    said: bool = False
    ticked: bool = False
    of: frozenset[str] = frozenset()
    whole: bool = True


@dataclass(frozen=True)
class Weighed:
    """A suspect with what speaks for and against it."""

    suspect: Suspect
    state: State
    speaks_for: tuple[Sign, ...] = ()
    against: tuple[Sign, ...] = ()

    @property
    def stands_out(self) -> bool:
        """Whether it is neither ruled out nor said to be in order, nor impossible here."""
        return self.state in ("shown", "likely", "open")


@dataclass(frozen=True)
class Past:
    """What the visits before say of chances.

    How many there were to this machine and how many ended adjusted; how often each suspect was found on the
    organisation's others of its kind, in how many visits. `seen` are looks that were fine at an earlier visit and since when nothing was done, with the day in words;
    `lacks` are looks at what this machine was said not to have. `first`:
    nobody ever set it, so that a figure of any size is expected.
    """

    visits: int = 0
    adjusted: int = 0
    visits_alike: int = 0
    found_alike: Mapping[str, float] = field(default_factory=dict)
    seen: Mapping[str, str] = field(default_factory=dict)
    lacks: frozenset[str] = frozenset()
    first: bool = False

    def as_json(self) -> dict[str, JSON]:
        """As a job, a job file and a device keep it: what is there."""
        plain: dict[str, JSON] = {
            "visits": self.visits,
            "adjusted": self.adjusted,
            "visits_alike": self.visits_alike,
            "found_alike": dict(self.found_alike),
            "seen": dict(self.seen),
            "lacks": list[JSON](sorted(self.lacks)),
            "first": self.first,
        }
        return {name: one for name, one in plain.items() if one}

    @classmethod
    def of_json(cls, kept: Mapping[str, Any]) -> "Past":
        """What was kept so; what is not there is none."""
        known = {one.name for one in fields(cls)} & kept.keys()
        found: dict[str, Any] = {name: kept[name] for name in known}
        return cls(**found | {"lacks": frozenset(kept.get("lacks", ()))})


NO_PAST = Past()


@dataclass(frozen=True)
class Known:
    """What is known of a machine's suspects: its plates as numbers, what was found here before, what was cured in this visit.

    `jumped` is what says that it came at once, `drifted` what says that it came slowly; None where its history says neither.
    """

    plates: Mapping[str, float] = field(default_factory=dict)
    found: Mapping[str, float] = field(default_factory=dict)
    cured: frozenset[str] = frozenset()
    jumped: Sign | None = None
    drifted: Sign | None = None
    past: Past = NO_PAST
