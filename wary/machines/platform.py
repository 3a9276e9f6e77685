"""Platform scale."""

from wary.machines.machine import STATIC, Machine, Part
from wary.machines.vessel import EVENTS


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
        "zero-span",
    )
    plates = STATIC
    visit = (Part("", "zero-span"), Part("corners", "corner-test", "", "close"))
    events = EVENTS
    channels = ("platform",)
    care = ("Gap clear all round and under the edge", "Feet down, level")


MACHINE = Platform()
