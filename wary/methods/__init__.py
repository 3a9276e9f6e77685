"""One file a method, named as its key, by family. A file that holds a `METHOD` is a method; nothing registers it."""

import importlib
import pkgutil
from functools import lru_cache

from wary.methods.method import AnyMethod
from wary.methods.tree import spec
from wary.results import fields_of

WHERE = [__name__]
"""The packages in which methods are looked for."""


@lru_cache(maxsize=1)
def all_methods() -> dict[str, AnyMethod]:
    """Every method by its key, in the order of their keys. Raises TypeError where one cannot say what its inputs or results are."""
    found = {}
    for package in map(importlib.import_module, WHERE):
        for module in pkgutil.walk_packages(package.__path__, f"{package.__name__}."):
            method = getattr(importlib.import_module(module.name), "METHOD", None)
            if method is not None:
                spec(method.inputs), fields_of(method.results)
                found[method.key] = method
    return dict(sorted(found.items()))
