"""One file a kind of machine, named as its key. A file that holds a `MACHINE` is one; nothing registers it."""

from collections.abc import Mapping
from functools import lru_cache
from types import ModuleType

from wary.discovery import Discovered
from wary.machines.machine import Machine
from wary.rules.profiles import starts_with

WHERE = [__name__]
"""The packages in which kinds of machine are looked for."""


@lru_cache(maxsize=1)
def all_machines() -> Mapping[str, Machine]:
    """Every kind of machine by its key, in the order of their keys."""
    return Discovered(WHERE, _held)


def _held(module: ModuleType) -> tuple[str, Machine] | None:
    machine: Machine | None = getattr(module, "MACHINE", None)
    if machine is None:
        return None
    if machine.limits:
        starts_with(machine.profile, machine.limits)
    return machine.key, machine
