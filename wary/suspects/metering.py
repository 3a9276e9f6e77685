"""Suspects of drills and spreaders.

Here *light* and *heavy* are of what the controller says against what was caught: where less is caught than
it says, it reads heavy.
"""

from wary.suspects import looks
from wary.suspects.suspect import OFF, Suspect, Tells, hints

AGAIN = "Then catches again."

UNPRIMED = Suspect(
    "unprimed", "it was not full, or not purged, before it was caught", ("heavy", "scatter"), "often",
    (Tells(looks.PRIMED), Tells(looks.SAME_AGAIN, (), ("fine",), False)), "Turn it until it runs full.", again=AGAIN, by_reading=True,
)  # fmt: skip
SLIPS = Suspect(
    "slips", "coupling or belt slips", ("heavy", "scatter", "curve"), "at-times",
    (Tells(looks.SLIPS), hints(looks.SAME_AGAIN), hints(looks.LONGER)), "Mend or tighten it.", "drive", AGAIN,
)  # fmt: skip
ROLLER = Suspect(
    "roller", "another roller is fitted than is set", OFF, "at-times",
    (Tells(looks.ROLLER), hints(looks.SLIP_OF_PLATE)), "Fit the right one, or set the one that is fitted.", "roller", AGAIN,
)  # fmt: skip
BRIDGING = Suspect(
    "bridging", "product bridges, or the tank runs low", ("heavy", "scatter", "in-order"), "often",
    (Tells(looks.HOPPER), hints(looks.SAME_AGAIN)), "Stir it, or fill it.", again=AGAIN,
)  # fmt: skip
LEAKS = Suspect(
    "leaks", "the shutter leaks while nothing turns", ("light", "scatter", "curve", "in-order"), "at-times",
    (Tells(looks.DRIP), hints(looks.LONGER)), "Mend the shutter.", again=AGAIN, part="a shutter",
)  # fmt: skip
CONTAINERS = Suspect(
    "containers", "containers are exchanged, or one was not subtracted", (*OFF, "scatter"), "at-times",
    (Tells(looks.CONTAINERS),), "Put each under its own outlet, with its own tare.", again=AGAIN,
)  # fmt: skip
GATE = Suspect(
    "gate", "the gate is loose or crooked", ("scatter", *OFF), "often",
    (Tells(looks.GATE_FAST), hints(looks.SAME_AGAIN)), "Straighten and fix it.", "gate", AGAIN, part="a gate",
)  # fmt: skip
DENSITY = Suspect(
    "density", "the density keyed in is not that of what lies in it", OFF, "at-times",
    (Tells(looks.DENSITY),), "Key in the density that was measured.", again=AGAIN,
)  # fmt: skip
ENGINE = Suspect(
    "engine", "the engine ran slower than at work", (*OFF, "scatter"), "at-times",
    (Tells(looks.ENGINE),), "Bring it to working speed.", again="Then the turns again.",
)  # fmt: skip
MARK = Suspect(
    "mark", "the mark on the shaft has slipped: turns are miscounted", (*OFF, "scatter", "in-order"), "seldom",
    (Tells(looks.MARK),), "Fix the mark.", again="Then the turns again.",
)  # fmt: skip
DAMP = Suspect(
    "damp", "the material is damp", ("scatter", "light", *OFF), "at-times",
    (Tells(looks.DAMP), hints(looks.SAME_AGAIN)), "Fill in dry material.", again=AGAIN,
)  # fmt: skip
DRIVE = Suspect(
    "drive", "the drive is at its end", ("heavy", "curve"), "seldom",
    (Tells(looks.DRIVE),), "Stay at settings below its end.", again="Then the turns again.",
)  # fmt: skip

ON_DRILLS = (UNPRIMED, SLIPS, ROLLER, BRIDGING, LEAKS, CONTAINERS)
ON_BELT_SPREADERS = (UNPRIMED, GATE, BRIDGING, SLIPS, DENSITY, LEAKS, DAMP)
ON_GATE_SPREADERS = (GATE, ENGINE, MARK, DAMP, BRIDGING, DRIVE, LEAKS)
