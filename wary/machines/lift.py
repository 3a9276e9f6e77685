"""Bin or creel lift with a scale in it, one channel a pair of forks or a comb."""

from wary.machines.machine import OTHER, SET_UP, EventKind, Machine, Part, Plate
from wary.suspects import vehicles

LIFTED = ("lift-repeat", "load-comparison", "known-load")


class Lift(Machine):
    key = "lift"
    title = "bin or creel lift"
    minutes = 45
    profile = "lift-arm"
    does = ("known-load", "lift-repeat", "load-comparison", "set-up-sheet")
    plates = (
        Plate("capacity", "Lift capacity", "mass"),
        Plate("indicated_division", "Division of the display", "mass"),
        Plate("seating_needed", "Seating lifts wanted", "integer"),
        Plate("lifts_needed", "Lifts wanted of each", "integer"),
        Plate("fill_margin", "Margin when filling", "mass"),
    )
    suspects = vehicles.ON_LIFTS
    visit = (
        SET_UP,
        Part("lifts", "lift-repeat"),
        Part("", "load-comparison"),
        Part("nudge", "known-load", "Nudge with a known load", optional=True),
    )
    events = {
        "forks": EventKind("forks, comb or hooks changed", LIFTED),
        "hydraulics": EventKind("hydraulics worked on", LIFTED),
        "sensor": EventKind("sensor or hose changed", LIFTED),
        "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", *LIFTED)),
        "overload": EventKind("overloaded", LIFTED),
        "other": OTHER,
    }
    channels = ("forks",)
    loads_into = "load-comparison"
    card = (
        "Forks clear, nothing rubs; zero it empty.",
        "Off the ground and settled before it is read; not held too long.",
        "A lift that touched the ground does not count.",
        "Nobody under or beside what is raised.",
    )
    care = ("Forks and comb straight, nothing rubs", "Sensors, hoses and plugs sound")


MACHINE = Lift()
