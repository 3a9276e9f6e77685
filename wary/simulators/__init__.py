"""Stand-ins for machines: physics that is a function of a seed and of timed actions, and nothing else.

Any process can answer for a stand-in at any time, and a practice run can be replayed.
"""

from wary.machines.machine import Machine
from wary.simulators.axle import Axle
from wary.simulators.belt import Belt
from wary.simulators.cart import Cart
from wary.simulators.chain import Chain
from wary.simulators.doser import Doser
from wary.simulators.drill import Drill
from wary.simulators.filler import ThreeSpeed, TwoSpeed
from wary.simulators.free_spreader import Free
from wary.simulators.grader import Grader
from wary.simulators.lift import Arm, Bin
from wary.simulators.spreader import Controlled
from wary.simulators.stand_in import StandIn
from wary.simulators.static import BagStand, Bench, Pads, Platform, Vessel

STAND_INS: dict[str, type[StandIn]] = {
    "belt": Belt, "chain": Chain, "platform": Platform, "pads": Pads, "vessel": Vessel, "bench": Bench, "bag-stand": BagStand,
    "axle": Axle, "lift-arm": Arm, "lift": Bin, "cart": Cart, "filler": ThreeSpeed, "two-speed-filler": TwoSpeed, "doser": Doser,
    "grader": Grader, "meter": Drill, "spreader": Controlled, "free-spreader": Free,
}  # fmt: skip
"""Every stand-in by the key of its kind of machine."""


def has_stand_in(machine: Machine) -> bool:
    """Whether a kind of machine has a stand-in: its own, or the one of the kind that it says behaves like it."""
    return machine.key in STAND_INS or machine.stand_in in STAND_INS


def stand_in_of(machine: Machine) -> type[StandIn]:
    """The stand-in of a kind of machine. Raises KeyError for one that has none."""
    return STAND_INS.get(machine.key) or STAND_INS[machine.stand_in]
