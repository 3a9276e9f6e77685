"""What every stand-in tells of itself, so that one screen draws them all.

Its controls (what can be done to it), its readouts (what it shows, and which inputs each can be
captured into), its tickets (what an outside scale would print), its faults, and what is true of
it. A real instrument on the line gives readouts of the same shape.
"""

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from pydantic import BaseModel

Group = Literal["run", "load", "weigh", "set", "fault-finding", "time"]

KEY = "key"
"""The action that keys a factor in; every stand-in that has one has it."""
SKIP = "skip"
"""The control that jumps so many seconds; every stand-in has it."""
TICKET = "ticket"
"""The act of weighing on the outside scale; it stands among the actions, so that the next ticket begins there."""


class Control(BaseModel):
    """Something that can be done: its name, the group it belongs to, its words.

    `does` is the action; `figure` is sent with it as it is. Where `unit` is set a figure is typed,
    beginning with `figure`.
    """

    name: str
    group: Group
    words: str
    does: str
    figure: float = 0.0
    typed: bool = False
    unit: str = ""


class Readout(BaseModel):
    """A figure on the display: as text, as a number in its unit, steady or not.

    `into` names the inputs that it can be captured into, `capture` the text that then goes in.
    """

    key: str
    title: str
    text: str
    value: float
    unit: str
    steady: bool
    into: tuple[str, ...] = ()
    capture: str


class Live(BaseModel):
    """What a source shows at a time: its readouts, and of a stand-in the controls that can be used now."""

    at: float
    readouts: tuple[Readout, ...]
    offers: tuple[str, ...] = ()


class TicketFigure(BaseModel):
    """One figure of a ticket, and the input of a run that it belongs into."""

    into: str
    text: str
    unit: str


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
class Truth:
    """What is true of a stand-in: its fault, in words, what cures it, and whether its factor may be touched.

    `right_factor` is the factor that makes it read right, where a factor can; `may_adjust` says
    whether keying it in is the right decision.
    """

    fault: str
    text: str
    right_factor: float | None
    may_adjust: bool
    cures: tuple[str, ...] = ()


class Followed(ABC):
    """A stand-in followed through its actions, forwards only; asking again for a later time costs little."""

    @abstractmethod
    def live(self, t: float) -> Live:
        """What it shows at `t` s, not before the time asked for last."""


class StandIn(ABC):
    """A machine that behaves like one: the same seed and fault give the same machine for ever."""

    faults: ClassVar[Mapping[str, str]]
    controls: ClassVar[tuple[Control, ...]]

    def __init__(self, seed: int, fault: str) -> None:
        if fault not in self.faults:
            raise ValueError(f"“{fault}” is no fault here; expected one of {', '.join(self.faults)}")
        self.seed, self.fault = seed, fault

    @abstractmethod
    def followed(self, actions: Sequence[Action]) -> Followed:
        """It, followed through these actions."""

    @abstractmethod
    def ticket(self, actions: Sequence[Action], start: float, end: float) -> Ticket:
        """What the outside scale prints for what was delivered between two times."""

    @abstractmethod
    def truth(self) -> Truth:
        """What is true of it."""

    @staticmethod
    @abstractmethod
    def on_record() -> "OnRecord":
        """What can be read off its plates."""

    @classmethod
    def actions(cls) -> frozenset[str]:
        """What can be done to it."""
        return frozenset(control.does for control in cls.controls)


class OnRecord(BaseModel):
    """What can be read off a stand-in, for the record of the machine that it stands for."""

    name: str
    material: str
    plates: dict[str, str | int | float]
    channel: str
    factor: str
    factor_decimals: int
    zero: str
    reference: str
    reference_division: str
    reference_range: str
