"""Stand-ins whose readings follow in closed form from what was done and when; and what a display makes of a figure."""

import math
from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Generic, TypeVar

from wary.live import Live, Readout
from wary.simulators.stand_in import Action, Followed, StandIn, begun, by_time


@dataclass
class Mendable:
    """The state of a stand-in: which things were mended on it so far."""

    mended: set[str] = field(default_factory=set, kw_only=True)


S = TypeVar("S", bound=Mendable)


class Folded(StandIn, Generic[S]):
    """A stand-in whose readings follow in closed form from what was done and when."""

    @abstractmethod
    def at_first(self) -> S:
        """Its settings and loads before anything was done."""

    @abstractmethod
    def act(self, state: S, action: Action) -> None:
        """What an action changes."""

    @abstractmethod
    def shows(self, state: S, t: float) -> Sequence[Readout]:
        """What it shows at a time."""

    def done(self, state: S, action: Action) -> None:
        """Takes an action: what is mended is noted, and the rest is the machine's own."""
        if action.what in self.mends():
            state.mended.add(action.what)
        self.act(state, action)

    def wrong(self, state: S, fault: str) -> bool:
        """Whether this fault is there and not mended."""
        return self.has(fault) and not state.mended & set(self.faults[fault].cures)

    def hale(self, state: S) -> bool:
        """Whether no fault is there, or each that was is mended."""
        faults = [self.faults[one] for one in self.states if self.faults[one].right == "find-fault"]
        return all(state.mended & set(one.cures) for one in faults)

    def away(self, state: S) -> frozenset[str]:
        """The controls that cannot be used now."""
        return frozenset()

    def after(self, actions: Sequence[Action], t: float = math.inf) -> S:
        """Where it stands after those actions that were done by `t` s."""
        state = self.at_first()
        for action in by_time(actions):
            if action.at > t:
                break
            self.done(state, action)
        return state

    def followed(self, actions: Sequence[Action]) -> Followed:
        return _Folding(self, actions)


class _Folding(Followed, Generic[S]):
    def __init__(self, machine: Folded[S], actions: Sequence[Action]) -> None:
        self.machine, self.pending, self.state = machine, by_time(actions), machine.at_first()

    def then(self, action: Action) -> bool:
        self.pending.append(action)
        return True

    def live(self, t: float) -> Live:
        machine = self.machine
        while self.pending and self.pending[0].at <= begun(t):
            machine.done(self.state, self.pending.pop(0))
        away = machine.away(self.state)
        offers = tuple(control.name for control in machine.controls if control.name not in away)
        return Live(at=begun(t), readouts=tuple(machine.shows(self.state, t)), offers=offers)


@dataclass
class Lagged:
    """A figure that follows what it is led to through a filter of the first order, time constant `tau` s."""

    tau: float
    begin: float = 0.0
    aim: float = 0.0
    since: float = -math.inf

    def at(self, t: float) -> float:
        """The figure at a time, not before it was led somewhere."""
        if t == math.inf or self.since == -math.inf:
            return self.aim
        return self.aim + (self.begin - self.aim) * math.exp(-max(0.0, t - self.since) / self.tau)

    def lead(self, t: float, aim: float) -> None:
        """Leads it somewhere else from `t` s on."""
        self.begin, self.aim, self.since = self.at(t), aim, t

    def still(self, t: float, band: float) -> bool:
        """Whether it is as near as `band` to where it goes."""
        return abs(self.at(t) - self.aim) <= band


def stepped(figure: float, division: float) -> float:
    """A figure as a display of that division shows it; no minus before a nought."""
    return round(round(figure / division) * division, 9) + 0.0


def digits(division: float) -> int:
    """Decimals that a display of this division has."""
    return max(0, -math.floor(math.log10(division) + 1e-9))


def readout(key: str, title: str, figure: float, division: float, unit: str, *into: str, steady: bool = True, of: str = "") -> Readout:  # fmt: skip
    """A figure on a display that steps by `division` in its unit."""
    value = stepped(figure, division)
    text = f"{value:.{digits(division)}f}"
    return Readout(key=key, title=title, text=text, value=value, unit=unit, steady=steady, into=into, capture=text, of=of)  # fmt: skip
