"""Filling machine with three speeds; one channel a recipe."""

from wary.machines.filling import CARE, CUT_OFFS, EVENTS, LISTS, PLATES, RECIPE
from wary.machines.machine import CELLS, Machine, Part


class Filler(Machine):
    key = "filler"
    title = "filling machine, three speeds"
    profile = "filling"
    plates = (*PLATES, *CELLS)
    visit = (
        Part("before", "fill-precheck"),
        Part("span", "zero-span", optional=True),
        Part("", "fill-tuning"),
        Part("watch", "fill-check", optional=True),
    )
    events = EVENTS
    channels = ("recipe 1",)
    channel_name = "recipe"
    channel_plates = (*RECIPE, *CUT_OFFS)
    traits = frozenset({"three-speeds"})
    mass_unit = "g"
    lists = LISTS
    care = CARE


MACHINE = Filler()
