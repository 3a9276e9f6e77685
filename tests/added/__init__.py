"""A method and a kind of machine that exist in the tests alone: one file each, and nothing else knows of them."""

from collections.abc import Iterator
from contextlib import contextmanager

from wary.machines import WHERE as MACHINES
from wary.machines import all_machines
from wary.methods import WHERE as METHODS
from wary.methods import all_methods


def _forget() -> None:
    all_methods.cache_clear()
    all_machines.cache_clear()


@contextmanager
def added() -> Iterator[None]:
    """The program as it is with these two files in its folders."""
    METHODS.append("tests.added.methods")
    MACHINES.append("tests.added.machines")
    _forget()
    try:
        yield
    finally:
        METHODS.remove("tests.added.methods")
        MACHINES.remove("tests.added.machines")
        _forget()
