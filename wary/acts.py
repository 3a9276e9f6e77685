"""Acts: what is done at a machine before something is read there, in a closed set that steps declare and stand-ins map to their controls."""

from dataclasses import dataclass
from typing import Literal

Doing = Literal[
    "load",  # put a load on, or fill it in
    "unload",  # take everything off again
    "place",  # move the load to a corner
    "press",  # press one cell
    "release",  # let go of it
    "run",  # let it run
    "stop",  # stop it
    "feed",  # material onto it
    "feed-off",  # no more material
    "raise",  # lift what hangs on it
    "tip",  # tip it out, to be weighed elsewhere
    "cycle",  # one fill, one dose, one batch
    "prime",  # until it runs full, or is purged
    "catch",  # run it over a container
    "count",  # count its turns
    "setting",  # choose a setting
    "prepare",  # level, chocked, brakes off, emptied and filled again
    "empty-weight",  # drive it empty
    "heavy-weight",  # with a heavy load
    "half-weight",  # with about half of it
    "weigh",  # on an outside scale
    "settle",  # wait until it stands
    "wait",  # let so many seconds go by
    "zero",  # take zero
    "span",  # take the span
    "key",  # key a figure in
    "match",  # step a reading to what the ticket says
    "move",  # move the gate
]


@dataclass(frozen=True)
class Act:
    """One act. `of` is the input or result whose figure goes with it, or `row` for the number of the row; `figure` a plain one.

    `shares` are of what is usual at the machine, a row after the other; `through`: all of them are gone through.
    """

    do: Doing
    of: str = ""
    figure: float | None = None
    shares: tuple[float, ...] = ()
    through: bool = False


UNLOAD, SETTLE, RELEASE, ZERO, RUN = Act("unload"), Act("settle"), Act("release"), Act("zero"), Act("run")
LOADS = (1.0, 0.62, 0.86, 0.74, 0.93, 0.68, 0.8, 0.9)
"""Loads that differ, so that what hides at one size shows at another."""
