"""A short run of what `./run fuzz` does for longer."""

from tests.fuzz import Fuzz

__all__ = ["Fuzz"]
