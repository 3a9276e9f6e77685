"""Free-running spreader with gate and settings; one channel a vehicle, material and gate."""

from wary.machines.machine import Machine, Part, Plate
from wary.machines.spreading import CARD, CARE, EVENTS, PLATES
from wary.suspects import metering


class FreeSpreader(Machine):
    key = "free-spreader"
    title = "spreader that runs free, gate and settings"
    minutes = 50
    profile = "metered-feed"
    does = ("density-check", "rate-chart", "set-up-sheet")
    people = 2
    bulk = True
    plates = (
        *PLATES,
        Plate("lanes", "Lanes treated at once", "number"),
        Plate("lane_width", "Width of a lane", "length"),
        Plate("engine_low", "Engine, at least", "number"),
        Plate("engine_high", "Engine, at most", "number"),
    )
    suspects = metering.ON_GATE_SPREADERS
    visit = (Part("", "rate-chart"),)
    events = EVENTS
    channels = ("vehicle and material",)
    channel_name = "vehicle and material"
    channel_plates = (
        Plate("gate_opening", "Gate", "length"),
        Plate("mass_per_revolution", "For one turn", "mass per revolution"),
        Plate("target_low", "Target, at least", "mass per length"),
        Plate("target_high", "Target, at most", "mass per length"),
        Plate("setting", "Setting", "number"),
        Plate("speed", "Speed", "speed"),
    )
    card = CARD
    care = CARE


MACHINE = FreeSpreader()
