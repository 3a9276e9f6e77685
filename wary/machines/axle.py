"""On-board axle scale: a lorry or a trailer that weighs its axle groups."""

from wary.machines.machine import OTHER, SET_UP, EventKind, Machine, Part, Plate
from wary.suspects import vehicles

MATCHED = ("axle-two-load", "load-comparison")


class Axle(Machine):
    key = "axle"
    title = "on-board axle scale"
    minutes = 60
    profile = "axle"
    does = ("axle-two-load", "known-load", "load-comparison", "set-up-sheet")
    bulk = True
    plates = (
        Plate("capacity", "Allowed gross weight", "mass"),
        Plate("indicated_division", "Division of the display", "mass"),
        Plate("ticket_division", "Division of the usual ground scale", "mass"),
        Plate("axle_groups", "Axle groups", "integer"),
        Plate("empty_for", "Empty the suspension for", "time"),
    )
    suspects = vehicles.ON_AXLES
    visit = (
        SET_UP,
        Part("", "axle-two-load"),
        Part("tickets", "load-comparison", "Against tickets", optional=True),
    )
    events = {
        "tyres": EventKind("tyres changed", MATCHED),
        "suspension": EventKind("springs, air bags or a levelling valve worked on", MATCHED),
        "sensor": EventKind("sensor or hose changed", MATCHED),
        "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", *MATCHED)),
        "trailer": EventKind("another trailer hitched"),
        "overload": EventKind("overloaded", MATCHED),
        "seal": EventKind("seal broken", ("set-up-sheet",)),
        "other": OTHER,
    }
    channels = ("lorry",)
    card = (
        "Level ground, wheels chocked.",
        "Brakes off; nobody near wheels or suspension.",
        "Empty the suspension for some seconds, then fill it to ride height.",
        "Wait until the reading stands, then read it.",
        "Brakes on, chocks away.",
    )
    care = (
        "Tyres, springs and air bags as they were",
        "Hoses and plugs of the sensors dry",
        "Ride height the same at every weighing",
    )


MACHINE = Axle()
