"""Platform scale."""

from wary.machines.machine import SET_UP, STATIC, Machine, Part
from wary.machines.vessel import EVENTS
from wary.suspects import cells


class Platform(Machine):
    key = "platform"
    title = "platform scale"
    profile = "vessel"
    does = (
        "cell-check",
        "corner-test",
        "data-sheet-span",
        "known-load",
        "output-check",
        "set-up-sheet",
        "span-points",
        "substitution-test",
        "zero-span",
    )
    plates = STATIC
    suspects = cells.ON_CELLS
    visit = (
        SET_UP,
        Part("data-sheet", "data-sheet-span", optional=True),
        Part("", "zero-span"),
        Part("further", "substitution-test", "", "close", optional=True),
        Part("corners", "corner-test", "", "close"),
    )
    events = EVENTS
    channels = ("platform",)
    care = ("Gap clear all round and under the edge", "Feet down, level")


MACHINE = Platform()
