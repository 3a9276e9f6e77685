"""Filling machine with two speeds; it calls medium and fine by names of its own."""

from wary.machines.filling import CARE, CHECKLIST, CUT_OFFS, EVENTS, PLATES, RECIPE, SUPPLIES
from wary.machines.machine import CELLS, Machine, Part


class TwoSpeedFiller(Machine):
    key = "two-speed-filler"
    title = "filling machine, two speeds"
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
    channel_plates = (*RECIPE, *CUT_OFFS[1:])
    fixed = {"two_speeds": "yes"}
    says = {"medium": "Filled slowly", "fine": "In flight", "suggested_medium": "filled slowly", "suggested_fine": "in flight"}  # fmt: skip
    mass_unit = "g"
    lists = {"checklist": CHECKLIST, "supplies": SUPPLIES}
    care = CARE


MACHINE = TwoSpeedFiller()
