"""One file a method, named as its key. A file that holds a `METHOD` is a method; nothing registers it."""

import importlib
import pkgutil
from functools import lru_cache

from wary.method import Method


@lru_cache(maxsize=1)
def all_methods() -> dict[str, Method]:
    """Every method by its key, in the order of their keys."""
    found = {}
    for module in pkgutil.iter_modules(__path__):
        method = importlib.import_module(f"{__name__}.{module.name}").METHOD
        found[method.key] = method
    return dict(sorted(found.items()))
