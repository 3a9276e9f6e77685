"""Scale in a lifting arm: a loader, a telehandler or a fork, one channel a bucket or a pair of forks."""

from wary.machines.machine import OTHER, SET_UP, EventKind, Machine, OwnList, Part, Plate
from wary.suspects import vehicles

LIFTED = ("lift-speed", "load-comparison", "known-load")


class LiftArm(Machine):
    key = "lift-arm"
    title = "scale in a lifting arm"
    minutes = 60
    profile = "lift-arm"
    does = ("known-load", "lift-repeat", "lift-speed", "load-comparison", "set-up-sheet")
    people = 2
    bulk = True
    plates = (
        Plate("capacity", "Lift capacity", "mass"),
        Plate("indicated_division", "Division of the display", "mass"),
        Plate("bucket_volume", "Volume of the bucket", "volume"),
        Plate("minimum_temperature", "Least temperature of the oil", "temperature"),
        Plate("fill_margin", "Margin when filling", "mass"),
        Plate("service_state", "State that it needs for this", "string"),
        Plate("slow_is", "What slow is", "string"),
        Plate("quick_is", "What quick is", "string"),
    )
    suspects = vehicles.ON_ARMS
    visit = (
        SET_UP,
        Part("lifts", "lift-speed"),
        Part("", "load-comparison"),
        Part("nudge", "known-load", "Nudge with a known load", optional=True),
    )
    events = {
        "bucket": EventKind("bucket or forks changed", LIFTED),
        "hydraulics": EventKind("hydraulics worked on", LIFTED),
        "tyres": EventKind("tyres changed", ("load-comparison",)),
        "sensor": EventKind("sensor or hose changed", LIFTED),
        "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", *LIFTED)),
        "overload": EventKind("overloaded", LIFTED),
        "other": OTHER,
    }
    channels = ("bucket",)
    lists = {
        "required": OwnList(
            "Lifts that it asks for",
            (("load", "Load"), ("speed", "Speed"), ("direction", "Way"), ("count", "How many")),
        )
    }
    loads_into = "load-comparison"
    card = (
        "The bucket or fork of this channel is fitted, and empty.",
        "Oil warm: lift and lower until it is.",
        "Shake off what is loose.",
        "Lever to its stop at every lift, bucket rolled back the same way.",
        "Nobody under or beside what is raised.",
        "Zero it empty before the first load.",
    )
    care = (
        "Pins and bushes greased, nothing rubs",
        "Sensors, hoses and plugs sound",
        "Warm the oil before the first lift of a cold day",
    )


MACHINE = LiftArm()
