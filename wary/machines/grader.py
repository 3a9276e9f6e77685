"""Grader that sorts pieces by weight into outlets."""

from wary.machines.machine import OTHER, SET_UP, EventKind, Machine, OwnList, Part, Plate
from wary.suspects import filling

GRADED = ("grade-check",)


class Grader(Machine):
    key = "grader"
    title = "weight grader"
    minutes = 35
    profile = "filling"
    does = ("grade-check", "set-up-sheet", "zero-span")
    plates = (
        Plate("capacity", "Capacity of its scale", "mass"),
        Plate("division", "Division of the display", "mass"),
        Plate("reject_limit", "Rejected beyond, or none", "string"),
        Plate("outlets", "Outlets that there are", "integer"),
        Plate("scale_noise", "Noise of the scale, running", "mass"),
    )
    suspects = filling.ON_GRADERS
    visit = (SET_UP, Part("span", "zero-span"), Part("", "grade-check"))
    events = {
        "limits": EventKind("limits or outlets changed", GRADED),
        "cell": EventKind("load cell changed", ("zero-span", *GRADED)),
        "belt": EventKind("belt, cups or drive worked on", ("zero-span", *GRADED)),
        "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", "zero-span", *GRADED)),
        "moved": EventKind("moved to another place", ("zero-span",)),
        "other": OTHER,
    }
    channels = ("sorting",)
    lists = {
        "grades": OwnList("Grades", (("name", "Grade"), ("limit", "Limit"), ("outlet", "Outlet"))),
        "batches": OwnList("Batches", (("name", "Batch"),)),
        "days": OwnList(
            "What each day came to", (("day", "Day"), ("batch", "Batch"), ("count", "Pieces"), ("total_mass", "Total"))
        ),
    }
    mass_unit = "g"
    care = ("Scale bed and cups clean, no water standing", "Gates open and shut with their pieces")


MACHINE = Grader()
