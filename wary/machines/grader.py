"""Grader that sorts pieces by weight into outlets."""

from wary.machines.machine import OTHER, EventKind, Machine, Part, Plate

GRADED = ("grade-check",)


class Grader(Machine):
    key = "grader"
    title = "weight grader"
    profile = "filling"
    does = ("grade-check", "set-up-sheet", "zero-span")
    plates = (
        Plate("capacity", "Capacity of its scale", "mass"),
        Plate("division", "Division of the display", "mass"),
        Plate("reject_limit", "Rejected beyond", "mass"),
        Plate("outlets", "Outlets that there are", "integer"),
        Plate("scale_noise", "Noise of the scale, running", "mass"),
    )
    visit = (Part("span", "zero-span"), Part("", "grade-check"))
    events = {
        "limits": EventKind("limits or outlets changed", GRADED),
        "cell": EventKind("load cell changed", ("zero-span", *GRADED)),
        "belt": EventKind("belt, cups or drive worked on", ("zero-span", *GRADED)),
        "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", "zero-span", *GRADED)),
        "moved": EventKind("moved to another place", ("zero-span",)),
        "other": OTHER,
    }
    channels = ("sorting",)
    mass_unit = "g"
    care = ("Scale bed and cups clean, no water standing", "Gates open and shut with their pieces")


MACHINE = Grader()
