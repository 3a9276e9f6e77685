"""What the methods of load cells take from a system's record, and what a change of them makes stale there."""

from wary.methods.method import RowsFrom, Stale

CELLS_ON_RECORD = RowsFrom(
    "cells",
    {"label": "label", "capacity": "capacity", "sensitivity": "sensitivity", "sensitivity_source": "source"},
)
"""The cells that stand in the system, each with its plate and where that was read."""

TARES_STALE = Stale(
    "tares", "The span was changed: stored tares, preset tares and remembered containers are stale. Learn them again."
)
