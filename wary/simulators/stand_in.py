"""What every stand-in tells of itself, so that one screen draws them all.

Its controls (what can be done to it), its readouts (what it shows, and which inputs each can be
captured into), its outside scales and what they print, its hidden states, what is true of it, and
which decision is right in that state. A real instrument on the line gives readouts of the same shape.
"""

import hashlib
import math
import random
from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

from pydantic import BaseModel

from wary.acts import Doing
from wary.live import Live
from wary.suspects.suspect import FINE, NOT_FINE, Look

Group = Literal["run", "load", "weigh", "set", "fault-finding", "time"]
Right = Literal["leave", "adjust", "find-fault"]
Level = Literal["easy", "fair", "hard"]
GRAVEST: tuple[Right, ...] = ("find-fault", "adjust", "leave")
"""Of several states at once the first of these says what is right."""
BOTH = "+"
"""Stands between the names of states that a stand-in is in at once."""

INSPECT = "inspect "
"""The act of looking at something; the look's key follows."""
MADE_BY: dict[str, tuple[Doing, ...]] = {"press": ("press",), "corners": ("place",), "own-scale": ("weigh",)}
"""Looks that are made by acts at the machine, and not with one's eyes alone."""
LEVELS: tuple[Level, ...] = ("easy", "fair", "hard")
KEY = "key"
"""The action that keys a factor in, where a stand-in has one."""
SKIP = "skip"
"""The control that jumps so many seconds; every stand-in has it."""
TICKET = "ticket"
"""The act of weighing on an outside scale; it stands among the actions, its figure is the scale's place."""


Shape = Literal["belt", "deck", "vessel", "vehicle", "arm", "hopper"]
"""What a stand-in's drawing is like."""
Spot = Literal[
    "", "load", "drive", "chute", "frame", "instrument", "scale", "middle",
    "cell-1", "cell-2", "cell-3", "cell-4", "corner-1", "corner-2", "corner-3", "corner-4",
]  # fmt: skip
"""A place on a machine's drawing that can be touched."""
CELL_SPOTS: dict[str, Spot] = {"1": "cell-1", "2": "cell-2", "3": "cell-3", "4": "cell-4", "left": "cell-1", "right": "cell-2"}  # fmt: skip
CORNER_SPOTS: dict[str, Spot] = {"1": "corner-1", "2": "corner-2", "3": "corner-3", "4": "corner-4"}
BY_GROUP: dict[str, Spot] = {"load": "load", "run": "drive", "set": "instrument"}


class Control(BaseModel):
    """Something that can be done: its name, the group it belongs to, its words.

    `does` is the action; `figure` is sent with it as it is. Where `unit` is set a figure is typed,
    beginning with `figure`. `serves` are inputs for which it is wanted; elsewhere it is a tap away.
    `at` is the spot on the machine's drawing where it is done; empty for what has none.
    """

    name: str
    group: Group
    words: str
    does: str
    figure: float = 0.0
    typed: bool = False
    unit: str = ""
    serves: tuple[str, ...] = ()
    at: Spot = ""

    @property
    def spot(self) -> Spot:
        """Where it is done: as it says, by its name (`press-2` at the second cell), or where its group is done."""
        for head, spots in (("press-", CELL_SPOTS), ("corner-", CORNER_SPOTS)):
            place = self.name.removeprefix(head)
            if place != self.name:
                return spots.get(place, "")
        if self.name == "middle":
            return "middle"
        return self.at or BY_GROUP.get(self.group, "")


class Scale(BaseModel):
    """An outside scale: its name, and what one presses to weigh on it."""

    name: str
    words: str


class TicketFigure(BaseModel):
    """One figure of a ticket, and the input that it belongs into; `of` is the row, where it is another than that in hand."""

    into: str
    text: str
    unit: str
    of: str = ""


class Ticket(BaseModel):
    """What an outside scale printed."""

    title: str
    figures: tuple[TicketFigure, ...]


@dataclass(frozen=True)
class Action:
    """Something done at a time (s since the start): what, and with which figure."""

    at: float
    what: str
    figure: float = 0.0

    @classmethod
    def from_json(cls, row: Mapping[str, Any]) -> "Action":
        return cls(float(row["at"]), str(row["what"]), float(row.get("figure", 0.0)))

    def as_json(self) -> dict[str, Any]:
        return {"at": self.at, "what": self.what, "figure": self.figure}


@dataclass(frozen=True)
class Hidden:
    """A state that nobody sees: what is true, what the readings show of it, and which decision is right.

    `handed_over` are the words with which the machine is handed over; they give nothing away. `cures` are
    the actions that end a fault. `codes` are reasons that a call gives where this shows, without
    saying by itself that a fault is to be found; `method:code` where only one method's counts. `seen` is
    what an eye, a hand or a level finds in this state, by the look that finds it; `logged` are events that the
    record knows of.
    """

    title: str
    sign: str
    right: Right
    level: Level = "easy"
    handed_over: str = "Its usual check is due."
    cures: tuple[str, ...] = ()
    codes: tuple[str, ...] = ()
    seen: Mapping[str, str] = field(default_factory=dict)
    logged: tuple[str, ...] = ()

    def beside(self, other: "Hidden") -> "Hidden":
        """Both at once: a fault stands before a wrong setting, and that before what is in order."""
        title, sign = f"{self.title} {other.title}", f"{self.sign} {other.sign}"
        right = min(self.right, other.right, key=GRAVEST.index)
        return Hidden(
            title, sign, right, "hard", self.handed_over, (*self.cures, *other.cures), (*self.codes, *other.codes),
            {**other.seen, **self.seen}, (*self.logged, *other.logged),
        )  # fmt: skip


@dataclass(frozen=True)
class Does:
    """Which action an act is here: with the figure of the act, a share of it, or one of its own."""

    action: str
    figure: float | None = None
    share: float = 1.0


def does(*actions: str) -> tuple[Does, ...]:
    """Actions with the figure of the act."""
    return tuple(Does(action) for action in actions)


@dataclass(frozen=True)
class Seen:
    """What was seen at a look: whether something is wrong there, and what, in a few words."""

    result: str
    text: str
    note: str = ""


@dataclass(frozen=True)
class Truth:
    """What is true of a stand-in as things stand: its state, what would be right, and what was done to it.

    `right_figure` says in words what it ought to be set to, where that is what was wrong. `touched`:
    a setting was changed while the fault was there; `put_right`: it reads right now; `cured`: its
    fault was ended; `ventured`: so many other things were mended that were sound, one more where it was
    ended without a look.
    """

    fault: str
    text: str
    sign: str
    right: Right
    right_figure: str
    touched: bool
    put_right: bool
    cured: bool
    ventured: int = 0


class Followed(ABC):
    """A stand-in followed through its actions, forwards only; asking again for a later time costs little."""

    @abstractmethod
    def live(self, t: float) -> Live:
        """What it shows at `t` s, not before the time asked for last. Raises ValueError before it began."""

    def then(self, action: Action) -> bool:
        """Takes one more action, not before the time asked for last; False where it has to be followed anew."""
        return False


def written(t: float) -> float:
    """The time of an act as it is kept, s: never after the act, so that what is shown from then on shows it."""
    return math.floor(t * 100) / 100


def not_before(done: Sequence[Action], t: float) -> float:
    """A time on a stand-in's clock, s: never before what was done to it last, whatever the clock that told it says."""
    return max(t, done[-1].at) if done else t


def begun(t: float) -> float:
    """A time as it is asked for, s. Raises ValueError before the start."""
    if not t >= 0:
        raise ValueError(f"a stand-in begins at 0 s and was asked for {t:g} s; ask for a time from 0 s on")
    return t


class StandIn(ABC):
    """A machine that behaves like one: the same seed and fault give the same machine for ever.

    `settings` are the actions that change what it is set to; `scales` the outside scales at hand;
    `minutes` is what a visit to it takes somebody who knows the work, `shape` what its drawing is like. `doing` says which of its actions an
    act is, `mending` which puts a suspect right.
    """

    faults: ClassVar[dict[str, Hidden]]
    controls: ClassVar[tuple[Control, ...]]
    settings: ClassVar[frozenset[str]] = frozenset({KEY})
    scales: ClassVar[tuple[Scale, ...]] = ()
    minutes: ClassVar[int] = 30
    shape: ClassVar[Shape] = "deck"
    doing: ClassVar[Mapping[Doing, tuple[Does, ...]]] = {}
    mending: ClassVar[Mapping[str, str]] = {}

    def __init__(self, seed: int, fault: str) -> None:
        self.states = tuple(fault.split(BOTH))
        for one in self.states:
            if one not in self.faults:
                raise ValueError(f"“{one}” is no state here; expected one of {', '.join(self.faults)}")
        self.seed, self.fault = seed, fault
        self.draw = random.Random(f"{type(self).__name__}/{seed}/{fault}")

    @abstractmethod
    def followed(self, actions: Sequence[Action]) -> Followed:
        """It, followed through these actions."""

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """What one of its `scales` prints at `t` s. Raises ValueError where it has none."""
        raise ValueError(f"nothing is weighed on another scale here; take what {self.on_record().name} shows itself")

    @abstractmethod
    def reads_right(self, actions: Sequence[Action]) -> bool:
        """Whether it would read right from now on."""

    @abstractmethod
    def right_figure(self) -> str:
        """What it ought to be set to, in words; empty where no setting is what is wrong."""

    @staticmethod
    @abstractmethod
    def on_record() -> "OnRecord":
        """What can be read off its plates."""

    @property
    def hidden(self) -> Hidden:
        """Its state; of more than one at once what they come to together."""
        first, *others = (self.faults[one] for one in self.states)
        for other in others:
            first = first.beside(other)
        return first

    def has(self, *faults: str) -> bool:
        """Whether it is in one of these states, mended or not."""
        return any(one in self.states for one in faults)

    def ended(self, actions: Sequence[Action]) -> float | None:
        """When the last of its faults was ended, s; None where one is there still, or none was."""
        states = [self.faults[one] for one in self.states]
        cures = [set(one.cures) for one in states if one.cures or one.right == "find-fault"]
        times = [next((one.at for one in by_time(actions) if one.what in of), None) for of in cures]
        return max((at for at in times if at is not None), default=None) if None not in times else None

    def truth(self, actions: Sequence[Action] = ()) -> Truth:
        """What is true of it after these actions."""
        hidden = self.hidden
        ended = self.ended(actions)
        touched = any(one.what in self.settings and (ended is None or one.at < ended) for one in actions)
        figure = self.right_figure() if hidden.right == "adjust" else ""
        right = self.reads_right(actions)
        ventured = len({one.what for one in actions if one.what in self.mends() - set(hidden.cures)})
        ventured += ended is not None and bool(hidden.seen) and not self._looked(actions, ended)
        return Truth(
            self.fault, hidden.title, hidden.sign, hidden.right, figure, touched, right, ended is not None, ventured
        )

    @property
    def logged(self) -> tuple[str, ...]:
        """The events that its record knows of since it was last right."""
        return self.hidden.logged

    def usual_figure(self, action: str) -> float:
        """The figure that usually goes with an action."""
        return next((one.figure for one in self.controls if one.does == action and one.typed), 0.0)

    def inspect(self, actions: Sequence[Action], look: Look) -> Seen:
        """What an eye finds at a look as things stand, and no more than that."""
        for hidden in (self.faults[one] for one in self.states):
            cured = any(one.what in hidden.cures for one in actions)
            if look.key in hidden.seen and not cured:
                # What tells its ways apart stands before the words.
                note, _, text = hidden.seen[look.key].rpartition(": ")
                return Seen(NOT_FINE, text, dict(look.more).get(note, ""))
        return Seen(FINE, f"{look.fine}.")

    def _looked(self, actions: Sequence[Action], by: float) -> bool:
        """Whether a look that shows what is wrong was made by then."""
        shows = {f"{INSPECT}{key}" for key in self.hidden.seen}
        for key in self.hidden.seen:
            shows |= {step.action for do in MADE_BY.get(key, ()) for step in self.doing.get(do, ())}
        return any(one.what in shows and one.at <= by for one in actions)

    @classmethod
    def actions(cls) -> frozenset[str]:
        """What can be done to it."""
        return frozenset(control.does for control in cls.controls)

    @classmethod
    def mends(cls) -> frozenset[str]:
        """What can be mended on it."""
        return frozenset(control.does for control in cls.controls if control.group == "fault-finding")

    @classmethod
    def words(cls, action: Action) -> str:
        """An action in words, as its control says it."""
        if action.what == SKIP:
            return f"Waited {action.figure:g} s"
        if action.what.startswith(INSPECT):
            return "Looked"
        if action.what == TICKET:
            return cls.scales[int(action.figure)].words if 0 <= action.figure < len(cls.scales) else "Weighed"
        found = [one for one in cls.controls if one.does == action.what]
        exact = next((one for one in found if not one.typed and one.figure == action.figure), None)
        control = exact or next((one for one in found if one.typed), None)
        if control is None:
            return found[0].words if found else action.what
        return f"{control.words} {action.figure:g} {control.unit}".strip() if control.typed else control.words

    def noise(self, t: float, scale: float, name: str) -> float:
        """Noise that depends on the time alone, in steps of a tenth of a second, between ± `scale`."""
        digest = hashlib.blake2b(f"{self.seed}/{name}/{round(t * 10)}".encode(), digest_size=8).digest()
        return (int.from_bytes(digest, "big") / 2**64 - 0.5) * 2 * scale

    def chance(self, name: str, number: int) -> random.Random:
        """Chance of its own for the so-manieth time that something was done."""
        return random.Random(f"{type(self).__name__}/{self.seed}/{name}/{number}")


def by_time(actions: Sequence[Action]) -> list[Action]:
    """Actions in the order in which they were done; those of one moment as they were given."""
    return sorted(actions, key=lambda action: action.at)


def waits(*pairs: tuple[str, float]) -> tuple[Control, ...]:
    """Controls that let time pass: words, and so many seconds."""
    return tuple(Control(name=f"wait-{seconds:g}", group="time", words=words, does=SKIP, figure=seconds) for words, seconds in pairs)  # fmt: skip


def gross_and_tare(gross: float, tare: float, unit: str, decimals: int | None = None) -> tuple[TicketFigure, TicketFigure]:  # fmt: skip
    """The two figures of a ticket that weighs something in or on something else."""
    texts = (f"{one:g}" if decimals is None else f"{one:.{decimals}f}" for one in (gross, tare))
    first, second = (TicketFigure(into=into, text=text, unit=unit) for into, text in zip(("gross", "tare"), texts, strict=True))  # fmt: skip
    return first, second


class OnRecord(BaseModel):
    """What can be read off a stand-in, for the record of the machine that it stands for."""

    name: str
    material: str = ""
    plates: dict[str, str | int | float]
    channel: str = ""
    factor: str = ""
    factor_decimals: int = 4
    zero: str = ""
    figures: dict[str, str | int | float] = {}
    cells: tuple[str, ...] = ()
    cell_capacity: str = ""
    cell_sensitivity: str = ""
    reference: str
    reference_kind: Literal["scale", "weights"] = "scale"
    reference_division: str = ""
    reference_range: str = ""
    reference_nominal: str = ""
    known: dict[str, str] = {}
