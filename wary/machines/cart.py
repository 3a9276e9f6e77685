"""Load cart or trailer on load cells, hitched to whatever pulls it; one channel a trailer."""

from wary.machines.machine import CELLS, OTHER, SET_UP, EventKind, Machine, Part, Plate
from wary.suspects import cells, vehicles

WEIGHED = ("load-comparison", "known-load")


class Cart(Machine):
    key = "cart"
    title = "load cart or trailer"
    minutes = 60
    profile = "load-cart"
    does = ("cell-check", "known-load", "load-comparison", "set-up-sheet")
    bulk = True
    plates = (
        Plate("capacity", "Capacity", "mass"),
        Plate("indicated_division", "Division of the display", "mass"),
        Plate("full_volume", "Volume when full", "volume"),
        Plate("test_weight", "A bushel or hectolitre weighs", "density"),
        Plate("hitch_low", "Least share on the hitch", "percentage"),
        Plate("hitch_high", "Greatest share on the hitch", "percentage"),
        *CELLS,
    )
    suspects = (*vehicles.ON_CARTS, cells.LEFT_IN, cells.SWAPPED, cells.WIRE, cells.BENT, cells.WATER)
    visit = (SET_UP, Part("cells", "cell-check"), Part("", "load-comparison"))
    events = {
        "cell": EventKind("load cell changed", ("cell-check", *WEIGHED)),
        "tyres": EventKind("tyres or axle worked on", WEIGHED),
        "hitch": EventKind("hitch changed, or another tractor", WEIGHED),
        "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", *WEIGHED)),
        "frame": EventKind("frame welded", ("cell-check", *WEIGHED)),
        "overload": EventKind("overloaded", ("cell-check", *WEIGHED)),
        "other": OTHER,
    }
    channels = ("trailer",)
    loads_into = "load-comparison"
    card = (
        "Level ground, brakes on; zero it empty.",
        "Fill over the axle first, then the rear, then the front.",
        "Watch the hitch's share.",
        "Stand still until the load is recorded.",
    )
    care = ("Nothing built up on the mounts", "Cables whole, junction box dry", "Hitched at the usual height")


MACHINE = Cart()
