"""The scales that stand still on load cells, each with its plates, its controls and its states."""

import math
from collections.abc import Sequence
from typing import ClassVar

from wary.live import Readout
from wary.simulators.cells import (
    CORNER,
    IN_ORDER,
    LOOKING,
    LOW,
    SETTING,
    TIME,
    TRIM,
    Build,
    OnCells,
    StaticScale,
    cells_of,
    corners,
    presses,
    put,
)
from wary.simulators.folded import readout, stepped
from wary.simulators.stand_in import Action, Control, Hidden, Scale, StandIn, Ticket, TicketFigure

COARSE = 50.0
"""Step of the ticket's scale in the state `coarse`, kg."""


class Platform(OnCells):
    """A stand-in platform on four cells."""

    built = Build("Practice platform", "platform", 1500, 0.5, 220, 4, 1000, 2.0, 1000)
    faults = OnCells.faults | {"corner": CORNER}
    controls = (*put(1000), *corners(4), *presses(4), *SETTING, *LOOKING, TRIM, *TIME)
    into = ("zero", "span", "zero_after", "indicated", "with_weights", "substituted")


class Pads(OnCells):
    """A stand-in wheel pad on four cells."""

    built = Build("Practice pads", "left pad", 10000, 5, 60, 4, 5000, 2.0, 4000)
    faults = OnCells.faults | {"corner": CORNER}
    controls = (*put(4000), *corners(4), *presses(4), *SETTING, *LOOKING, TRIM, *TIME)


class Vessel(OnCells):
    """A stand-in hopper on three cells, filled from a lorry with a ticket."""

    built = Build(
        "Practice hopper", "vessel", 12000, 2, 1800, 3, 10000, 2.0, 6000, "practice meal", 1.042, 4,
        "Practice weighbridge", "5 kg",
    )  # fmt: skip
    shape = "vessel"
    faults = OnCells.faults | {
        "coarse": Hidden(
            "It was in order: the ticket's scale steps by fifty kilograms, and a small fill cannot be told on it.",
            "Tickets in whole fifties; the error shrank as the fills grew.", "leave", "hard",
            "The weighbridge is away. The one down the road is used, which steps by 50 kg.",
        ),
        "pipe": Hidden(
            "A pipe with a stiff joint held part of the load.", "It read low by a share that grew with the load, and zero hung.",
            "find-fault", "hard", LOW, ("free",), seen={"lines": "The filling pipe has a stiff joint and bears on the vessel."}),
    }  # fmt: skip
    controls = (*put(6000, "Fill with"), *presses(3), *SETTING, *LOOKING, *TIME)
    scales = (Scale(name="ticket", words="Read the fill's ticket"),)
    tolerance = 0.005
    into = ("indicated", "with_weights", "substituted")

    def __init__(self, seed: int, fault: str, built: Build | None = None) -> None:
        super().__init__(seed, fault, built)
        self.off *= 2.5

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        if not self.has("coarse"):
            return super().ticket(actions, t, scale)
        # Where within its step the coarse scale stands differs from one weighing to the next.
        net = stepped(self.after(actions, t).load + self.noise(t, COARSE / 2, "coarse"), COARSE)
        return Ticket(title=f"net {net:g} kg", figures=(TicketFigure(into="reference", text=f"{net:g}", unit="kg"),))

    def _carried(self, state: StaticScale) -> float:
        return 1 - 2 * self.passed if self.wrong(state, "pipe") else super()._carried(state)

    def _kept(self, state: StaticScale) -> float:
        return 0.006 * state.most if self.wrong(state, "pipe") and state.load < state.most else super()._kept(state)


class Bench(OnCells):
    """A stand-in amplifier channel on a bench, with one frame of cells and its raw counts."""

    mending = {"frame": "free", "swapped": "wiring", "open-wire": "wiring", "bent": "cell-new"}

    built = Build("Practice channel", "channel 1", 100, 0.02, 4, 1, 200, 2.0, 50)
    faults = IN_ORDER | {
        "swapped": Hidden("The signal pair was swapped.", "The counts fell as load came on.", "find-fault", "easy", LOW, ("wiring",), seen={"press": "falls: The cell falls when it is pressed."}),
        "open-wire": Hidden("The signal wire was open.", "The counts did not move.", "find-fault", "easy", LOW, ("wiring",), seen={"press": "dead: The cell does not move when it is pressed."}),
        "bent": Hidden("The cell had been overloaded and bent.", "The points did not lie on a straight line.", "find-fault", "fair", LOW, ("cell-new",), seen={"knock": "The cell has a kink, and stands askew.", "press": "stays: It rises, and does not fall back all the way."}),
        "frame": Hidden("Something bore on the frame.", "Going down it read otherwise than going up.", "find-fault", "hard", LOW, ("free",), seen={"gap": "A bolt head bears on the frame."}),
    }  # fmt: skip
    controls = (
        *put(50), *presses(1), *SETTING[:1], LOOKING[0], LOOKING[1],
        Control(name="new-cell", group="fault-finding", words="Replace the cell", does="cell-new"), *TIME,
    )  # fmt: skip
    settings = frozenset()
    counts_full: ClassVar[float] = 2.0**23

    def _kept(self, state: StaticScale) -> float:
        return 0.02 * state.most if self.wrong(state, "frame") and state.load < state.most else 0.0

    def signals(self, state: StaticScale, load: float) -> list[float]:
        bent = load - 0.06 * load * load / self.build.capacity if self.wrong(state, "bent") else load
        return super().signals(state, bent)

    def shows(self, state: StaticScale, t: float) -> Sequence[Readout]:
        signal = self.signals(state, state.load)[0]
        counts = signal / 3.0 * self.counts_full + self.noise(t, 60, "counts")
        raw = readout("counts", "counts", counts, 1, "", "raw", "noise.value", steady=state.felt.still(t, 0.01))
        cell = readout("cell-1", "cell 1", signal, 0.001, "mV/V", "empty", "pressed", "released", of="1")
        return (raw, cell, *super().shows(state, t)[:1])


class BagStand(OnCells):
    """A stand-in for a bulk-bag stand, on which a test load hangs."""

    built = Build("Practice bag stand", "bag", 1500, 0.5, 180, 4, 1000, 2.0, 500, "practice meal")
    faults = OnCells.faults | {
        "hose": Hidden(
            "The inflation hose pulled at the bag frame.", "After the load the zero stood off, and once more otherwise.",
            "find-fault", "hard", LOW, ("free",), ("zero-moved",), seen={"lines": "The inflation hose is drawn tight and pulls at the bag frame."}),
    }  # fmt: skip
    controls = (*put(500, "Hang"), *presses(4), *SETTING, *LOOKING, *TIME)

    into = ("zero", "span", "zero_after")

    @classmethod
    def plates_of(cls, build: Build) -> dict[str, str | int | float]:
        return {"capacity": f"{build.capacity:g} kg", "division": f"{build.division:g} kg", **cells_of(build)}

    def _kept(self, state: StaticScale) -> float:
        if self.wrong(state, "hose") and state.most:
            return 3.0 + 1.5 * math.sin(state.since)
        return super()._kept(state)


STAND_INS: dict[str, type[StandIn]] = {
    "platform": Platform,
    "pads": Pads,
    "vessel": Vessel,
    "bench": Bench,
    "bag-stand": BagStand,
}
