"""One file a method, named as its key, by family. A file that holds a `METHOD` is a method; nothing registers it."""

from collections.abc import Mapping
from functools import lru_cache
from types import ModuleType

from wary.discovery import Discovered
from wary.methods.method import AnyMethod
from wary.methods.tree import spec
from wary.results import fields_of

WHERE = [__name__]
"""The packages in which methods are looked for."""


@lru_cache(maxsize=1)
def all_methods() -> Mapping[str, AnyMethod]:
    """Every method by its key, in the order of their keys. Raises TypeError where one cannot say what its inputs or results are."""
    return Discovered(WHERE, _held, inner="method")


def _held(module: ModuleType) -> tuple[str, AnyMethod] | None:
    method: AnyMethod | None = getattr(module, "METHOD", None)
    if method is None:
        return None
    spec(method.inputs), fields_of(method.results)
    return method.key, method
