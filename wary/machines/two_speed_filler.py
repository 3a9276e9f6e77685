"""Filling machine with two speeds; it calls medium and fine by names of its own."""

from wary.machines.filling import CARE, CUT_OFFS, EVENTS, PLATES, RECIPE, lists_with
from wary.machines.machine import CELLS, SET_UP, Machine, Part
from wary.methods.filling.filler import TWO_SPEEDS
from wary.suspects import filling


class TwoSpeedFiller(Machine):
    key = "two-speed-filler"
    title = "filling machine, two speeds"
    minutes = 40
    profile = "filling"
    does = ("cell-check", "fill-check", "fill-precheck", "fill-tuning", "set-up-sheet", "zero-span")
    plates = (*PLATES, *CELLS)
    suspects = filling.ON_FILLERS
    visit = (
        SET_UP,
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
    says = {stage: name.capitalize() for stage, name in TWO_SPEEDS.items()} | {
        key: said
        for stage, name in TWO_SPEEDS.items()
        for key, said in (
            (f"suggested_{stage}", name),
            (f"{stage}_low", f"{name.capitalize()}, from"),
            (f"{stage}_high", f"{name.capitalize()}, to"),
        )
    }
    mass_unit = "g"
    lists = lists_with("quick", "slow", "clamp", "discharge")
    care = CARE


MACHINE = TwoSpeedFiller()
