"""Filling machine with three speeds; one channel a recipe."""

from collections.abc import Mapping
from typing import Any

from wary.machines.filling import CARE, CUT_OFFS, EVENTS, LISTS, PLATES, RECIPE
from wary.machines.machine import CELLS, Machine, Part
from wary.quantities import Quantity


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

    def copied(self, figures: Mapping[str, Any], plates: Mapping[str, Any]) -> dict[str, Any]:
        """For another size medium and fine stay; below the bulk limit fast is never used, and stands at the target."""
        read = self.figures(plates) | self.figures(figures)
        target, limit = read.get("target"), read.get("bulk_limit")
        if isinstance(target, Quantity) and isinstance(limit, Quantity) and target.si < limit.si:
            return {**figures, "fast": target.text}
        return dict(figures)


MACHINE = Filler()
