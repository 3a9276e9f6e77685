"""Bulk-bag stand: the bag hangs or stands on a deck, and is filled to its weight."""

from wary.machines.filling import CARE, EVENTS, PLATES, RECIPE, lists_with
from wary.machines.machine import CELLS, SET_UP, Machine, Part
from wary.suspects import cells


class BagStand(Machine):
    key = "bag-stand"
    title = "bulk-bag stand"
    profile = "filling"
    does = ("cell-check", "fill-check", "fill-precheck", "set-up-sheet", "zero-span")
    plates = (*PLATES, *CELLS)
    suspects = cells.ON_CELLS
    visit = (
        SET_UP,
        Part("before", "fill-precheck"),
        Part("cells", "cell-check", optional=True),
        Part("", "zero-span"),
        Part("watch", "fill-check", optional=True),
    )
    events = {key: event for key, event in EVENTS.items() if key not in ("gate",)}
    channels = ("bag",)
    traits = frozenset({"hung"})
    channel_name = "bag"
    channel_plates = RECIPE
    fixed = {"hung": "hangers"}
    lists = lists_with("quick", "slow", "hangers")
    care = ("Hooks, loops and hangers sound", *CARE)


MACHINE = BagStand()
