"""Bench channel: one amplifier and its cell on the bench."""

from wary.machines.machine import STATIC, Machine, Part
from wary.machines.vessel import EVENTS


class Bench(Machine):
    key = "bench"
    title = "bench channel"
    profile = "vessel"
    plates = STATIC
    stand_in = "bench"
    visit = (Part("cells", "cell-check"), Part("", "span-points"))
    events = EVENTS
    channels = ("channel 1",)
    care = ("Cell and cable kept together, and labelled",)


MACHINE = Bench()
