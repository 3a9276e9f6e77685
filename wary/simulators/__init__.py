"""Stand-ins for machines: physics that is a function of a seed and of timed actions, and nothing else.

Any process can answer for a stand-in at any time, and a practice run can be replayed. A file that holds `STAND_INS`,
each by the key of its kind of machine, is found by it; nothing registers it.
"""

import importlib
import pkgutil
from collections.abc import Mapping
from functools import lru_cache

from wary.machines.machine import Machine
from wary.simulators.stand_in import StandIn


@lru_cache(maxsize=1)
def stand_ins() -> Mapping[str, type[StandIn]]:
    """Every stand-in by the key of its kind of machine. Raises ValueError where two files hold one of a kind."""
    found: dict[str, type[StandIn]] = {}
    for module in pkgutil.iter_modules(__path__, f"{__name__}."):
        held: dict[str, type[StandIn]] = getattr(importlib.import_module(module.name), "STAND_INS", {})
        if twice := found.keys() & held.keys():
            raise ValueError(f"{module.name} holds a stand-in of {', '.join(sorted(twice))}, and so does another file")
        found |= held
    return dict(sorted(found.items()))


def has_stand_in(machine: Machine) -> bool:
    """Whether a kind of machine has a stand-in: its own, or the one of the kind that it says behaves like it."""
    return machine.key in stand_ins() or machine.stand_in in stand_ins()


def stand_in_of(machine: Machine) -> type[StandIn]:
    """The stand-in of a kind of machine. Raises KeyError for one that has none."""
    return stand_ins().get(machine.key) or stand_ins()[machine.stand_in]
