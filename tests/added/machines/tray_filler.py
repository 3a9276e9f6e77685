"""Tray filler: a kind of machine of the tests alone."""

from wary.machines.machine import EventKind, Machine, Part, Plate


class TrayFiller(Machine):
    key = "tray-filler"
    title = "tray filler"
    profile = "vessel"
    does = ("tray-fill",)
    plates = (Plate("nominal", "Nominal fill", "mass"),)
    visit = (Part("", "tray-fill"),)
    events = {"nozzle": EventKind("nozzle changed", ("tray-fill",))}
    channels = ("left", "right")
    mass_unit = "g"


MACHINE = TrayFiller()
