"""Filling machine with three speeds; one channel a recipe."""

from collections.abc import Mapping
from typing import Any

from wary.machines.filling import CARE, CUT_OFFS, EVENTS, PLATES, RECIPE, lists_with
from wary.machines.machine import CELLS, SET_UP, Machine, Part
from wary.methods.filling.tuning import another_size
from wary.quantities import Quantity
from wary.suspects import filling


class Filler(Machine):
    key = "filler"
    title = "filling machine, three speeds"
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
    channel_plates = (*RECIPE, *CUT_OFFS)
    traits = frozenset({"three-speeds"})
    mass_unit = "g"
    lists = lists_with("fast", "medium", "fine", "feeder", "clamp", "discharge")
    care = CARE

    def copied(self, figures: Mapping[str, Any], plates: Mapping[str, Any]) -> dict[str, Any]:
        """For another size medium and fine stay; below the bulk limit fast is never used, and stands at the target."""
        read = self.figures(plates) | self.figures(figures)
        target, fast, medium, limit = (
            one if isinstance(one := read.get(key), Quantity) else None
            for key in ("target", "fast", "medium", "bulk_limit")
        )
        if not target or not limit or not medium:
            return dict(figures)
        to = another_size(target.si, fast.si if fast else target.si, medium.si, limit.si)
        return {**figures, "fast": target.text} if to == target.si else dict(figures)


MACHINE = Filler()
