"""Bench channel: one amplifier and its cell on the bench."""

from wary.machines.machine import STATIC, Machine, Part
from wary.machines.vessel import EVENTS


class Bench(Machine):
    key = "bench"
    title = "bench channel"
    profile = "vessel"
    does = ("cell-check", "corner-test", "data-sheet-span", "output-check", "set-up-sheet", "span-points", "zero-span")
    plates = STATIC
    visit = (Part("cells", "cell-check"), Part("", "span-points"))
    events = EVENTS
    channels = ("channel 1",)
    care = ("Cell and cable kept together, and labelled",)


MACHINE = Bench()
