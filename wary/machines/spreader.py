"""Spreader whose controller weighs by a constant; one channel a material and gate."""

from wary.machines.machine import SET_UP, Machine, Part, Plate
from wary.machines.spreading import CARD, CARE, EVENTS, PLATES
from wary.suspects import metering


class Spreader(Machine):
    key = "spreader"
    title = "spreader with a controller"
    minutes = 40
    profile = "metered-feed"
    does = ("constant-catch", "density-check", "set-up-sheet")
    bulk = True
    plates = PLATES
    suspects = metering.ON_BELT_SPREADERS
    visit = (SET_UP, Part("density", "density-check", optional=True), Part("", "constant-catch"))
    events = EVENTS
    channels = ("material 1",)
    channel_name = "material"
    channel_plates = (Plate("constant", "Constant", "number"), Plate("density_keyed", "Density", "density"))
    card = CARD
    care = CARE


MACHINE = Spreader()
