"""What controlled and free-running spreaders share."""

from wary.machines.machine import OTHER, EventKind, Plate

SPREAD = ("density-check", "constant-catch", "rate-chart")
PLATES = (
    Plate("capacity", "Capacity of its bin", "mass"),
    Plate("reference_division", "Division of the catch scale", "mass"),
)
EVENTS = {
    "gate": EventKind("gate moved or bent", ("constant-catch", "rate-chart")),
    "material": EventKind("material changed", SPREAD),
    "belt": EventKind("belt, chain or spinner worked on", SPREAD),
    "drive": EventKind("drive or hydraulics worked on", ("rate-chart", "constant-catch")),
    "controller": EventKind("controller replaced or reset", ("set-up-sheet", "constant-catch")),
    "other": OTHER,
}
CARD = (
    "The material and the gate are those of this card.",
    "Loaded to its resting heap before the first turn.",
    "Nobody behind it while it runs; stopped before anyone reaches in.",
    "Too much harms soil and water: stay within the target.",
)
CARE = ("Bin, belt and gate clean after work", "Spinner and vanes whole", "Gate opens evenly at both sides")
