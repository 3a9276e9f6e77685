"""What the kinds of filling machine share: what a recipe holds, and what their lists begin with."""

from wary.machines.machine import OTHER, EventKind, OwnList, Plate

RECIPE = (
    Plate("number", "Number on the machine", "integer"),
    Plate("target", "Target", "mass"),
    Plate("over", "May be over by", "mass"),
    Plate("under", "May be under by", "mass"),
    Plate("sample_first", "Sampled: each of the first", "integer"),
    Plate("sample_every", "Sampled: then one in", "integer"),
    Plate("zero_first", "Zeroed: each of the first", "integer"),
    Plate("zero_every", "Zeroed: then one in", "integer"),
    Plate("start_delay", "Delay before it fills", "time"),
    Plate("release_delay", "Delay before it lets go", "time"),
    Plate("bad_fill", "What it does with a bad fill", "string"),
    Plate("correct_every", "Corrected by its own figures: one in", "integer"),
)
CUT_OFFS = (
    Plate("fast", "Fast ends before", "mass"),
    Plate("medium", "Medium ends before", "mass"),
    Plate("fine", "Fine ends before", "mass"),
)
PLATES = (
    Plate("capacity", "Capacity of the weigh hopper", "mass"),
    Plate("division", "Division of the display", "mass"),
    Plate("bench_division", "Division of the bench scale", "mass"),
    Plate("bulk_limit", "Fast fills at most up to", "mass"),
    Plate("care_every", "Care due every so many cycles", "integer"),
    Plate("cycle_counter_most", "Cycle counter begins again after", "integer"),
)
SUPPLIES = OwnList(
    "Supplies before product",
    (("supply", "Supply"), ("low", "From"), ("high", "To"), ("unit", "Unit")),
    ({"supply": "air", "low": "", "high": "", "unit": "bar"},),
)
"""What has to be there before product is; its bands are empty until the site fills them in."""
STAGES = {
    "fast": {"part": "Fast stage", "expected": "opens and shuts fully"},
    "medium": {"part": "Medium stage", "expected": "opens and shuts fully"},
    "fine": {"part": "Fine stage", "expected": "opens and shuts fully, no dribble"},
    "quick": {"part": "Quick speed", "expected": "runs and stops with its stage"},
    "slow": {"part": "Slow speed", "expected": "runs and stops with its stage, no dribble"},
    "feeder": {"part": "Feeder", "expected": "runs and stops with its stage"},
    "clamp": {"part": "Clamp", "expected": "holds, and lets go at the end"},
    "hangers": {"part": "Hooks and hangers", "expected": "carry, and let go at the end"},
    "discharge": {"part": "Discharge", "expected": "opens, empties whole, shuts"},
}
"""What can be tried empty on a filling machine; each kind names its own and nothing that it has not."""


def lists_with(*parts: str) -> dict[str, OwnList]:
    """The plain lists of a kind that has these parts; the site writes its own."""
    columns = (("part", "Part"), ("expected", "Expected"))
    return {
        "checklist": OwnList("Tried before product", columns, tuple(STAGES[part] for part in parts)),
        "supplies": SUPPLIES,
    }


TUNED = ("fill-tuning", "fill-check")
EVENTS = {
    "product": EventKind("product changed", TUNED),
    "gate": EventKind("gate, feeder or valve worked on", ("fill-precheck", *TUNED)),
    "cell": EventKind("load cell changed", ("cell-check", "zero-span", *TUNED)),
    "instrument": EventKind("instrument replaced or reset", ("set-up-sheet", "zero-span", *TUNED)),
    "moved": EventKind("moved to another place", ("zero-span", *TUNED)),
    "overload": EventKind("overloaded", ("cell-check", "zero-span")),
    "other": OTHER,
}
CARE = (
    "Gates and seals clean, nothing caked in the weigh hopper",
    "Air dry, its filter drained",
    "Check mass on the machine's scale each week",
)
