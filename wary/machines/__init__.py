"""One file a kind of machine. A file that holds a `MACHINE` is one; nothing registers it."""

import importlib
import pkgutil
from functools import lru_cache

from wary.machines.machine import Machine
from wary.rules.profiles import starts_with

WHERE = [__name__]
"""The packages in which kinds of machine are looked for."""


@lru_cache(maxsize=1)
def all_machines() -> dict[str, Machine]:
    """Every kind of machine by its key, in the order of their keys."""
    found = {}
    for package in map(importlib.import_module, WHERE):
        for module in pkgutil.iter_modules(package.__path__, f"{package.__name__}."):
            machine = getattr(importlib.import_module(module.name), "MACHINE", None)
            if machine is not None:
                machine.methods()
                if machine.limits:
                    starts_with(machine.profile, machine.limits)
                found[machine.key] = machine
    return dict(sorted(found.items()))
