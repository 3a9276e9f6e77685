"""Wheel pads: portable, each a channel with a span of its own."""

from wary.machines.machine import STATIC, Machine, Part
from wary.machines.vessel import EVENTS


class Pads(Machine):
    key = "pads"
    title = "wheel pads"
    profile = "vessel"
    does = ("cell-check", "corner-test", "set-up-sheet", "zero-span")
    plates = STATIC
    visit = (Part("", "zero-span"), Part("corners", "corner-test", "", "close"))
    events = EVENTS
    channels = ("left pad", "right pad")
    care = ("Cables and plugs whole", "Stored flat, nothing stacked on them")


MACHINE = Pads()
