"""What is done in a browser's Python before its memory is kept: there are no files behind a snapshot.

Whatever lists files or imports late is done here. Nothing of this moment stays: no random numbers, no clock, no job.
"""

import gc
import importlib
import pkgutil
import random
import sys

ALSO = ("_strptime",)
"""Of the standard library, what is imported by a function when it is called."""


def all_imported() -> None:
    """Imports what a device may ask for, and lets go of what was only needed for that."""
    import wary

    for module in pkgutil.walk_packages(wary.__path__, "wary."):
        if not module.name.endswith("__main__"):
            importlib.import_module(module.name)
    for name in ALSO:
        importlib.import_module(name)
    from wary.device import Device
    from wary.machines import all_machines
    from wary.methods import all_methods
    from wary.simulators import has_stand_in
    from wary.simulators.follow import follow

    all_methods()
    for kind in all_machines():
        # A visit to each kind of machine: Python learns by it how its code is used, and goes on faster from there.
        if has_stand_in(all_machines()[kind]):
            follow(kind, seed=1)
    device = sys.modules["__main__"].__dict__
    device["call"] = Device().call
    # One that goes on from here begins its own: see `worker.ts`.
    random.seed(0)
    sys.path_importer_cache.clear()
    gc.collect()
    gc.freeze()
