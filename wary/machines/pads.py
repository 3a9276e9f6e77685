"""Wheel pads: portable, each a channel with a span of its own."""

from wary.machines.machine import SET_UP, STATIC, Machine, Part
from wary.machines.vessel import EVENTS
from wary.suspects import cells


class Pads(Machine):
    key = "pads"
    title = "wheel pads"
    profile = "vessel"
    does = ("cell-check", "corner-test", "set-up-sheet", "span-points", "zero-span")
    plates = STATIC
    suspects = cells.ON_CELLS
    visit = (
        SET_UP,
        Part("", "zero-span"),
        Part("points", "span-points", optional=True),
        Part("corners", "corner-test", "", "close"),
    )
    events = EVENTS
    traits = frozenset({"pads"})
    channels = ("left pad", "right pad")
    care = ("Cables and plugs whole", "Stored flat, nothing stacked on them")


MACHINE = Pads()
