"""Stand-ins for machines: physics that is a function of a seed and of timed actions, and nothing else.

Any process can answer for a stand-in at any time, and a practice run can be replayed.
"""

from wary.simulators.belt import Belt
from wary.simulators.stand_in import StandIn

STAND_INS: dict[str, type[StandIn]] = {"belt": Belt}
"""Every stand-in by the name that its kind of machine gives it."""
