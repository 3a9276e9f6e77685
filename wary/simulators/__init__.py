"""Stand-ins for machines: physics that is a function of a seed and of timed actions, and nothing else.

Any process can answer for a stand-in at any time, and a practice run can be replayed.
"""

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
    "axle": Axle, "arm": Arm, "lift": Bin, "cart": Cart, "filler": ThreeSpeed, "two-speed": TwoSpeed, "doser": Doser,
    "grader": Grader, "meter": Drill, "spreader": Controlled, "free-spreader": Free,
}  # fmt: skip
"""Every stand-in by the name that its kind of machine gives it."""
