"""Spreader: controlled by a constant, or free-running with gate and settings; one channel a vehicle, material and gate."""

from wary.machines.machine import OTHER, EventKind, Machine, Part, Plate

SPREAD = ("density-check", "constant-catch", "rate-chart")


class Spreader(Machine):
    key = "spreader"
    title = "spreader"
    profile = "metered-feed"
    plates = (
        Plate("capacity", "Capacity of its bin", "mass"),
        Plate("reference_division", "Division of the catch scale", "mass"),
        Plate("lanes", "Lanes treated at once", "number"),
        Plate("lane_width", "Width of a lane", "length"),
        Plate("engine_low", "Engine, at least", "number"),
        Plate("engine_high", "Engine, at most", "number"),
    )
    visit = (
        Part("density", "density-check", optional=True),
        Part("", "constant-catch"),
        Part("chart", "rate-chart", optional=True),
    )
    events = {
        "gate": EventKind("gate moved or bent", ("constant-catch", "rate-chart")),
        "material": EventKind("material changed", SPREAD),
        "belt": EventKind("belt, chain or spinner worked on", SPREAD),
        "drive": EventKind("drive or hydraulics worked on", ("rate-chart", "constant-catch")),
        "controller": EventKind("controller replaced or reset", ("set-up-sheet", "constant-catch")),
        "other": OTHER,
    }
    channels = ("material 1",)
    channel_name = "material"
    channel_plates = (
        Plate("constant", "Constant", "number"),
        Plate("density_keyed", "Density", "density"),
        Plate("gate_opening", "Gate", "length"),
        Plate("mass_per_revolution", "For one turn", "mass per revolution"),
        Plate("target_low", "Target, at least", "mass per length"),
        Plate("target_high", "Target, at most", "mass per length"),
        Plate("setting", "Setting", "number"),
        Plate("speed", "Speed", "speed"),
    )
    card = (
        "The material and the gate are those of this card.",
        "Loaded to its resting heap before the first turn.",
        "Nobody behind it while it runs; stopped before anyone reaches in.",
        "Too much harms soil and water: stay within the target.",
    )
    care = ("Bin, belt and gate clean after work", "Spinner and vanes whole", "Gate opens evenly at both sides")


MACHINE = Spreader()
