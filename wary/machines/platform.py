"""Platform scale."""

from wary.machines.machine import STANDING, Machine, Part
from wary.machines.vessel import EVENTS


class Platform(Machine):
    key = "platform"
    title = "platform scale"
    profile = "vessel"
    plates = STANDING
    stand_in = "platform"
    visit = (Part("", "zero-span"), Part("corners", "corner-test", "", "close"))
    events = EVENTS
    channels = ("platform",)
    care = ("Gap clear all round and under the edge", "Feet down, level")


MACHINE = Platform()
