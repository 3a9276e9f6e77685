"""Suspects of fillers, dosers and graders."""

from wary.suspects import looks
from wary.suspects.suspect import OFF, Suspect, Tells, hints

AGAIN = "Then fills again, without a setting changed."

BRIDGING = Suspect(
    "bridging", "product bridges, or the hopper runs low", ("scatter", "light"), "often",
    (Tells(looks.HOPPER), hints(looks.SAME_AGAIN)), "Fill it, and get it running.", again=AGAIN,
)  # fmt: skip
AIR = Suspect(
    "air", "the air supply is low", ("scatter", *OFF), "often",
    (Tells(looks.AIR), hints(looks.SAME_AGAIN)), "Mend the air supply.", "other", AGAIN, part="an air supply",
)  # fmt: skip
GATE_WORN = Suspect(
    "gate", "a gate is worn, slow or does not shut", ("scatter", "heavy"), "at-times",
    (Tells(looks.GATES), hints(looks.SAME_AGAIN)), "Mend the gate.", "gate", AGAIN, slowly=True,
)  # fmt: skip
SHAKEN = Suspect(
    "shaken", "something shakes the weigh hopper, or bears on it", ("scatter", *OFF), "at-times",
    (Tells(looks.SHAKES), hints(looks.SAME_AGAIN), hints(looks.OWN_SCALE)), "Move it off, or free it.", "other", AGAIN,
)  # fmt: skip
OWN_SCALE = Suspect(
    "own-scale", "the machine's own scale is off", (*OFF, "in-order"), "at-times",
    (Tells(looks.OWN_SCALE),), "Its own scale first: free it, then zero and span.", "other", AGAIN,
)  # fmt: skip
PRODUCT = Suspect(
    "product", "the product is another than it was set up with, or changes", ("scatter",), "often",
    (Tells(looks.PRODUCT, sure=False),), "Set it up for this product.", "product", AGAIN,
)  # fmt: skip
CORRECTION = Suspect(
    "correction", "the automatic correction is on", ("scatter", *OFF), "at-times",
    (Tells(looks.CORRECTION),), "Switch it off for the test.", again=AGAIN, part="an automatic correction",
)  # fmt: skip

ON_FILLERS = (BRIDGING, AIR, GATE_WORN, SHAKEN, OWN_SCALE, CORRECTION, PRODUCT)

AGAIN_DOSE = "Then the check mass, and doses again."

BENT = Suspect(
    "bent", "the cell is bent: it was knocked or overloaded", (*OFF, "curve"), "at-times",
    (Tells(looks.KNOCK), hints(looks.KNOCK, "far-off")), "Replace the cell.", "cell", AGAIN_DOSE,
)  # fmt: skip
BEARS = Suspect(
    "bears", "something bears on the carrier", (*OFF, "scatter", "zero-moved"), "often",
    (Tells(looks.GAP), hints(looks.SAME_AGAIN), hints(looks.ZERO_AGAIN)), "Clear it.", "carrier", AGAIN_DOSE,
)  # fmt: skip
DRIPS = Suspect(
    "drips", "the valve drips after a dose", ("heavy", "in-order", "scatter"), "at-times",
    (Tells(looks.DRIP),), "Mend the valve.", again=AGAIN_DOSE,
)  # fmt: skip
BENCH_SHAKES = Suspect(
    "shakes", "its bench or carrier shakes: nothing settles", ("scatter", "zero-moved", *OFF), "at-times",
    (Tells(looks.SHAKES), hints(looks.SAME_AGAIN), hints(looks.ZERO_AGAIN), hints(looks.CAPTURED)), "Steady it.", "other", AGAIN_DOSE,
)  # fmt: skip
CAKED = Suspect(
    "caked", "product is caked under the carrier", ("heavy", "zero-moved", *OFF), "often",
    (Tells(looks.CAKED), hints(looks.ZERO_AGAIN)), "Clean it.", "cleaned", AGAIN_DOSE, slowly=True,
)  # fmt: skip
STORED_TARE = Suspect(
    "stored-tare", "a tare is stored that should not be", (*OFF, "zero-moved"), "seldom",
    (Tells(looks.STORED_TARE),), "Clear it.", again=AGAIN_DOSE,
)  # fmt: skip
MISTYPED = Suspect(
    "limits", "limits or outlets are mistyped", ("in-order", *OFF), "at-times",
    (Tells(looks.LIMITS_BACK), hints(looks.COUNTS, "averages")), "Key them again.", "limits", "Then a batch again.",
)  # fmt: skip
OTHER_COUNTS = Suspect(
    "counts", "counts of another batch are in it", ("in-order", *OFF), "at-times",
    (Tells(looks.COUNTS), hints(looks.COUNTS, "averages")), "Clear them, once they are written down.", again="Then a batch again.",
)  # fmt: skip

ON_DOSERS = (BEARS, CAKED, BENT, DRIPS, BENCH_SHAKES, STORED_TARE)
ON_GRADERS = (CAKED, BEARS, BENT, BENCH_SHAKES, STORED_TARE, MISTYPED, OTHER_COUNTS)
