"""The usual visit of each kind of system: its methods in the order of the work.

A belt visit is zero → weights or material → adjust → zero → as left → prove. The main part has an
empty key; a part can come before one of the main part's steps. Single methods can still be run alone.
"""

from dataclasses import dataclass
from typing import Any

from wary.methods import all_methods


@dataclass(frozen=True)
class Part:
    """One method of a visit. `before` names the step of the main part that it goes before."""

    key: str
    method: str
    title: str = ""
    before: str = ""

    def as_json(self) -> dict[str, str]:
        return {"key": self.key, "method": self.method, "title": self.title, "before": self.before}


_BELT = (
    Part("zero", "belt-zero"),
    Part("weights", "belt-test-weight"),
    Part("", "belt-material-test"),
    Part("zero-left", "belt-zero", "Zero again", "as-left"),
)
VISITS: dict[str, tuple[Part, ...]] = {
    "belt": _BELT,
    "chain": (Part("cells", "cell-check"), *_BELT),
    "vessel": (Part("cells", "cell-check"), Part("", "known-load")),
    "platform": (Part("", "zero-span"), Part("corners", "corner-test", "", "close")),
    "pads": (Part("", "zero-span"), Part("corners", "corner-test", "", "close")),
    "bench": (Part("cells", "cell-check"), Part("", "span-points")),
}
TAKEN_OVER = {"belt-zero": {"belt-material-test": ("zero",), "belt-test-weight": ("zero",)}}
"""Steps of a method that fall away when the visit has another method that does them: by that other method."""

SHARED = (
    "factor",
    "factor_decimals",
    "direction",
    "nominal_factor",
    "rated_rate",
    "revolution_time",
    "division",
    "zero_done",
)
"""Inputs that mean the same in every method of a visit: typed once, they count for all."""

CONFIRMS = ("known-load", "zero-span", "span-points", "belt-material-test")
"""The methods that confirm a provisional span with a real load."""


def sections(parts: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The run sheet of a visit: part and steps in their order, with what others take over left out.

    `parts` are those of a visit as JSON; only the main part closes.
    """
    methods = {part["method"] for part in parts}
    whole = len(parts) > 1
    rows: list[dict[str, Any]] = []
    for part in parts:
        if part.get("before"):
            continue
        own = _steps(part, methods, whole)
        if part["key"]:
            rows.append({"part": part["key"], "title": _title(part), "steps": own})
            continue
        for later in [p for p in parts if p.get("before")]:
            at = own.index(later["before"]) if later["before"] in own else len(own)
            if own[:at]:
                rows.append({"part": "", "title": _title(part), "steps": own[:at]})
            rows.append({"part": later["key"], "title": _title(later), "steps": _steps(later, methods, whole)})
            own = own[at:]
        rows.append({"part": "", "title": _title(part), "steps": own})
    return rows


def _title(part: dict[str, Any]) -> str:
    return part.get("title") or all_methods()[part["method"]].title


def _steps(part: dict[str, Any], methods: set[str], whole: bool) -> list[str]:
    gone = {
        step
        for taker, given in TAKEN_OVER.items()
        if taker in methods and taker != part["method"]
        for step in given.get(part["method"], ())
    }
    steps = all_methods()[part["method"]].steps
    return [
        step.key
        for step in steps
        if step.key not in gone and not (whole and part["key"] and step.kind in ("close", "adjust"))
    ]
