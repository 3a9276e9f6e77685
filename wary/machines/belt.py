"""Belt scale: a conveyor with weigh idlers on cells."""

from collections.abc import Mapping
from typing import Any

from wary.machines.machine import CELLS, OTHER, SET_UP, EventKind, Machine, Part, Plate
from wary.suspects import belts

SPANS = ("belt-zero", "belt-test-weight", "belt-material-test")

PLATES = (
    Plate("idler_spacing", "Idler spacing", "length"),
    Plate("weigh_idlers", "Weigh idlers", "integer"),
    Plate("angle", "Conveyor angle", "angle"),
    Plate("belt_speed", "Belt speed", "speed"),
    Plate("belt_length", "Belt length", "length"),
    Plate("revolution_time", "Time of one belt revolution", "time"),
    Plate("pulses_per_revolution", "Pulses in one revolution", "number"),
    Plate("rated_rate", "Rated rate", "rate"),
    Plate("indicated_division", "Division of the display", "mass"),
    *CELLS,
)

VISIT = (
    SET_UP,
    Part("length", "belt-length", optional=True),
    Part("zero", "belt-zero"),
    Part("weights", "belt-test-weight"),
    Part("", "belt-material-test"),
    Part("zero-left", "belt-zero", "Zero again", "as-left"),
)

EVENTS = {
    "splice": EventKind("belt spliced or replaced", ("belt-length", *SPANS)),
    "idler": EventKind("idler changed", SPANS),
    "cell": EventKind("load cell changed", ("cell-check", "belt-zero", "belt-material-test")),
    "instrument": EventKind(
        "instrument replaced or reset", ("set-up-sheet", "belt-length", "belt-zero", "belt-material-test")
    ),
    "frame": EventKind("frame welded or moved", ("cell-check", "belt-zero", "belt-material-test")),
    "product": EventKind("product changed"),
    "seal": EventKind("seal broken", ("set-up-sheet",)),
    "overload": EventKind("overloaded", ("cell-check",)),
    "cleaned": EventKind("cleaned", ("belt-zero",)),
    "other": OTHER,
}


class Belt(Machine):
    key = "belt"
    title = "belt scale"
    minutes = 75
    profile = "belt-fine"
    does = (
        "belt-length",
        "belt-material-test",
        "belt-test-weight",
        "belt-zero",
        "cell-check",
        "output-check",
        "set-up-sheet",
    )
    people = 2
    bulk = True
    plates = PLATES
    suspects = belts.ON_BELTS
    visit = VISIT
    events = EVENTS
    channels = ("belt",)
    traits = frozenset({"runs"})
    mass_unit = "t"
    care = ("Weigh idlers and their neighbours turn and are clean", "Nothing rests on the weighbridge", "Scraper works")

    def profile_for(self, plates: Mapping[str, Any]) -> str:
        """One weigh idler is no fine scale: it begins with the plain limits."""
        return "belt-plain" if str(plates.get("weigh_idlers", "")) == "1" else self.profile


MACHINE = Belt()
