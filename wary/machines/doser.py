"""Doser that weighs what it gives on a small cell of its own."""

from wary.machines.machine import OTHER, EventKind, Machine, Part, Plate
from wary.suspects import filling

DOSED = ("dose-check",)


class Doser(Machine):
    key = "doser"
    title = "doser"
    profile = "filling"
    does = ("dose-check", "set-up-sheet", "zero-span")
    plates = (
        Plate("capacity", "Capacity of its scale", "mass"),
        Plate("division", "Division of the display", "mass"),
        Plate("bench_division", "Division of the bench scale", "mass"),
        Plate("cell_capacity", "Capacity of its load cell", "mass"),
    )
    suspects = filling.ON_DOSERS
    visit = (Part("", "dose-check"),)
    events = {
        "cell": EventKind("load cell changed", ("zero-span", *DOSED)),
        "carrier": EventKind("carrier changed or learned anew", DOSED),
        "knock": EventKind("knocked or overloaded", DOSED),
        "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", *DOSED)),
        "other": OTHER,
    }
    channels = ("dose",)
    channel_name = "dose"
    channel_plates = (Plate("target", "Dose wanted", "mass"),)
    mass_unit = "g"
    care = ("Carrier and cell clean and dry", "Valve and hose: no drip after a dose", "Check mass each week")


MACHINE = Doser()
