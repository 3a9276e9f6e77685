"""Somebody who works at a stand-in: does something, waits, reads, weighs. For the tests of their physics and of practice."""

from wary.live import Live
from wary.simulators import stand_ins
from wary.simulators.stand_in import INSPECT, Action, StandIn, Truth


class Session:
    """A stand-in, and what was done to it so far; every act takes two seconds."""

    def __init__(self, name: str, fault: str = "none", seed: int = 3) -> None:
        self.machine: StandIn = stand_ins()[name](seed, fault)
        self.actions: list[Action] = []
        self.now = 0.0

    def do(self, what: str, figure: float = 0.0, wait: float = 2.0) -> "Session":
        if what not in self.machine.actions():
            raise AssertionError(f"{what} is nothing that can be done; {sorted(self.machine.actions())}")
        self.actions.append(Action(round(self.now, 2), what, figure))
        return self.wait(wait)

    def look(self, key: str) -> "Session":
        """Looks at something; what is seen is not asked for here."""
        self.actions.append(Action(round(self.now, 2), f"{INSPECT}{key}"))
        return self.wait(60)

    def wait(self, seconds: float) -> "Session":
        self.now += seconds
        return self

    def live(self) -> Live:
        return self.machine.followed(self.actions).live(self.now)

    def read(self, key: str) -> float:
        return next(one.value for one in self.live().readouts if one.key == key)

    def text(self, key: str) -> str:
        """A readout as a job file writes it."""
        found = next(one for one in self.live().readouts if one.key == key)
        return f"{found.capture} {found.unit}".strip()

    def steady(self, key: str) -> bool:
        return next(one.steady for one in self.live().readouts if one.key == key)

    def weigh(self, scale: int = 0) -> dict[str, str]:
        """What an outside scale prints, by the inputs that it belongs into (and the row, where it names one)."""
        printed = self.machine.ticket(self.actions, self.now, self.machine.scales[scale])
        self.actions.append(Action(round(self.now, 2), "ticket", scale))
        self.wait(1)
        return {
            f"{one.of}.{one.into}" if one.of else one.into: f"{one.text} {one.unit}".strip() for one in printed.figures
        }

    def truth(self) -> Truth:
        return self.machine.truth(self.actions)


def every_state() -> list[tuple[str, str]]:
    """Every stand-in with every state that it can be in."""
    return [(name, fault) for name, machine in stand_ins().items() for fault in machine.faults]
