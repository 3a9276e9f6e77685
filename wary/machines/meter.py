"""Metering device: a drill's meter, a screw under a vessel, a feeder of cement or additive; one channel a tank."""

from wary.machines.machine import OTHER, SET_UP, EventKind, Machine, Part, Plate
from wary.suspects import metering

CAUGHT = ("meter-catch", "feed-trim")


class Meter(Machine):
    key = "meter"
    title = "metering device"
    profile = "metered-feed"
    does = ("constant-catch", "density-check", "feed-trim", "meter-catch", "set-up-sheet")
    plates = (
        Plate("width", "Working width", "length"),
        Plate("row_spacing", "Row spacing", "length"),
        Plate("capacity", "Capacity of a tank", "mass"),
        Plate("reference_division", "Division of the catch scale", "mass"),
    )
    suspects = metering.ON_DRILLS
    visit = (
        SET_UP,
        Part("", "meter-catch"),
        Part("trim", "feed-trim", optional=True),
    )
    events = {
        "roller": EventKind("roller or meter changed", CAUGHT),
        "product": EventKind("product changed", CAUGHT),
        "drive": EventKind("drive or shaft worked on", CAUGHT),
        "controller": EventKind("controller replaced or reset", ("set-up-sheet", *CAUGHT)),
        "other": OTHER,
    }
    channels = ("tank 1", "tank 2")
    channel_name = "tank"
    channel_plates = (
        Plate("roller", "Roller or meter", "string"),
        Plate("value_per", "The display's value stands for so many turns", "integer"),
        Plate("old_value", "For one turn or count", "mass per revolution"),
    )
    card = (
        "The roller is the one that is set; the right product in each tank.",
        "Prime until it runs full; put that back.",
        "Nobody near the outlet or the shaft; said and answered.",
        "Key in what two catches agree on, in the display's own unit.",
    )
    care = ("Rollers and seals whole, nothing caked on", "Tubes free", "Tanks empty and dry at the end of the season")


MACHINE = Meter()
