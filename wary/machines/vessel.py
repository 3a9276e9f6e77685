"""Hopper, silo or tank on load cells."""

from wary.machines.machine import OTHER, SET_UP, STATIC, EventKind, Machine, Part, Plate
from wary.suspects import cells

SPANS = ("zero-span", "known-load")
MOVED = EventKind("moved to another place", ("zero-span", "known-load", "span-points"))
SEAL = EventKind("seal broken", ("set-up-sheet",))

EVENTS = {
    "cell": EventKind("load cell changed", ("cell-check", "zero-span", "span-points", "known-load", "corner-test")),
    "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", "zero-span", "span-points", "known-load")),
    "frame": EventKind("frame welded or moved", ("cell-check", "corner-test", *SPANS)),
    "place": MOVED,
    "product": EventKind("product changed"),
    "seal": SEAL,
    "overload": EventKind("overloaded", ("cell-check", "corner-test", *SPANS)),
    "cleaned": EventKind("cleaned"),
    "override": EventKind("stop level overridden: say by whom, and until when"),
    "other": OTHER,
}


STOPS = (Plate("low_stop", "Low stop level", "mass"), Plate("high_stop", "High stop level", "mass"))
"""Levels at which a vessel stops what fills it or draws from it."""


class Vessel(Machine):
    key = "vessel"
    title = "hopper, silo or tank"
    profile = "vessel"
    does = (
        "cell-check",
        "corner-test",
        "data-sheet-span",
        "known-load",
        "output-check",
        "set-up-sheet",
        "span-points",
        "substitution-test",
        "zero-span",
    )
    people = 2
    bulk = True
    plates = (*STATIC, *STOPS)
    suspects = cells.ON_CELLS
    visit = (
        SET_UP,
        Part("cells", "cell-check"),
        Part("data-sheet", "data-sheet-span", optional=True),
        Part("", "known-load"),
        Part("further", "substitution-test", "", "close", optional=True),
    )
    events = EVENTS
    channels = ("vessel",)
    outline = "round"
    care = ("Flexible joints free, stays slack", "Nothing built up on the mounts")


MACHINE = Vessel()
