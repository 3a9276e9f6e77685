"""Bench channel: one amplifier and its cell on the bench."""

from wary.machines.machine import SET_UP, STATIC, Machine, Part
from wary.machines.vessel import EVENTS
from wary.suspects import cells


class Bench(Machine):
    key = "bench"
    title = "bench channel"
    profile = "vessel"
    does = (
        "cell-check",
        "corner-test",
        "data-sheet-span",
        "known-load",
        "output-check",
        "set-up-sheet",
        "span-points",
        "zero-span",
    )
    plates = STATIC
    suspects = cells.ON_ONE_CELL
    visit = (
        SET_UP,
        Part("cells", "cell-check"),
        Part("data-sheet", "data-sheet-span", optional=True),
        Part("", "span-points"),
        Part("factor", "known-load", "Known load", "close", optional=True),
    )
    events = EVENTS
    channels = ("channel 1",)
    care = ("Cell and cable kept together, and labelled",)


MACHINE = Bench()
