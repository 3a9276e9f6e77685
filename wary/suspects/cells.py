"""Suspects of what stands on load cells."""

from wary.suspects import looks
from wary.suspects.suspect import OFF, Suspect, Tells, hints

ANY_WAY = (*OFF, "scatter", "zero-moved", "curve")

FRAME = Suspect(
    "frame", "the frame is pressed against something, or hangs on it", ("light", "scatter", "zero-moved", "curve"), "often",
    (Tells(looks.GAP), hints(looks.ZERO_AGAIN), hints(looks.GOING_DOWN), hints(looks.ANOTHER_LOAD)),
    "Free it, and see that the gap is clear all round.", "frame", "Then zero, and the load again.",
)  # fmt: skip
LINES = Suspect(
    "lines", "a stiff pipe, a hose or a cable bears on it or pulls", ANY_WAY, "at-times",
    (Tells(looks.LINES), hints(looks.ZERO_AGAIN), hints(looks.GOING_DOWN), hints(looks.ANOTHER_LOAD), hints(looks.SAME_AGAIN)),
    "Free it, or tie it so that it hangs slack.", "frame", "Then zero, and the load again.",
)  # fmt: skip
LEFT_IN = Suspect(
    "left-in", "something is caked on or was left in, or a tare", (*OFF, "zero-moved"), "often",
    (Tells(looks.CAKED), hints(looks.ZERO_AGAIN)),
    "Clean it, take it out, clear the tare.", "cleaned", "Then zero, and the load again.",
)  # fmt: skip
CORNER = Suspect(
    "corner", "one corner is weak: a trim has moved, or a cell carries badly", (*OFF, "scatter", "in-order"), "at-times",
    (Tells(looks.CORNERS), hints(looks.SAME_AGAIN)),
    "Trim that corner, or set its mount right.", "cell", "Then zero and span, and each corner again.", ("cell_count", 2),
)  # fmt: skip
SWAPPED = Suspect(
    "swapped", "a cell's signal pair is swapped, or it stands upside down", ("light", "curve"), "at-times",
    (Tells(looks.PRESS, ("falls",), ("fine", "dead", "stays")), hints(looks.PRESS), hints(looks.RISING), hints(looks.CORNERS, "no-trim"), Tells(looks.FAR, (), sure=False)),
    "Mend the wiring.", "cell", "Then zero and span.",
)  # fmt: skip
WIRE = Suspect(
    "open-wire", "a cell's wire is open", ("light", "scatter"), "at-times",
    (Tells(looks.PRESS, ("dead",), ("fine", "falls", "stays")), hints(looks.PRESS), hints(looks.RISING), hints(looks.CORNERS, "no-trim"), Tells(looks.FAR, (), sure=False)),
    "Mend the wiring.", "cell", "Then zero and span.",
)  # fmt: skip
COUNT = Suspect(
    "cell-count", "the instrument is told of another number of cells", OFF, "at-times",
    (Tells(looks.COUNT), hints(looks.SLIP_OF_COUNT), Tells(looks.FAR, (), sure=False)),
    "Tell it the number that is there.", "instrument", "Then zero and span.", ("cell_count", 2),
)  # fmt: skip
BENT = Suspect(
    "bent", "a cell is bent: it was overloaded or knocked", ANY_WAY, "seldom",
    (Tells(looks.PRESS, ("stays",), ()), hints(looks.PRESS), Tells(looks.STRAIGHT, sure=False), hints(looks.GOING_DOWN), Tells(looks.KNOCK)),
    "Replace the cell.", "cell", "Then zero and span, and each corner.",
)  # fmt: skip
WATER = Suspect(
    "water", "water in the junction box or in a plug: it drifts while it stands still", (*OFF, "scatter", "zero-moved"), "seldom",
    (Tells(looks.BOX), Tells(looks.STILL, sure=False), hints(looks.CAPTURED)),
    "Dry the box, seal it, renew what is corroded.", "cell", "Then zero and span.", slowly=True, part="a junction box",
)  # fmt: skip
TRACKING = Suspect(
    "tracking", "zero tracking swallows small loads", ("light", "in-order"), "seldom",
    (Tells(looks.TRACKING),),
    "Switch zero tracking off for the test, or narrow its band.", "instrument", "Then the load again.",
)  # fmt: skip

ON_CELLS = (FRAME, LEFT_IN, LINES, CORNER, SWAPPED, WIRE, COUNT, BENT, WATER, TRACKING)
ON_ONE_CELL = (FRAME, LEFT_IN, LINES, SWAPPED, WIRE, BENT, WATER, TRACKING)
