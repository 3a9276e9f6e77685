"""Cell check: what the plates say of each load cell, and how each answers when it is pressed.

Wiring is checked by behaviour and not by colour: colours differ between makers. A chain or belt is
never equally heavy all along, so with running bands some swing is normal.
"""

from dataclasses import dataclass
from typing import Annotated

from wary.acts import RELEASE, SETTLE, UNLOAD, Act
from wary.fields import (
    CellCount,
    CellReading,
    Inputs,
    MassFromZero,
    Number,
    NumberFromZero,
    PositiveMass,
    Voltage,
    choice,
    field,
    plate,
)
from wary.methods.cells import arithmetic
from wary.methods.cells.arithmetic import CellPlate
from wary.methods.cells.record import CELLS_ON_RECORD
from wary.methods.method import Method
from wary.methods.reads import Reads
from wary.methods.shared.cautions import CELL_WIRING, PRESS_CELL
from wary.methods.steps import Alike, Close, Item, Listed, Look, Rows, remark, typed
from wary.results import Figure, figure
from wary.suspects import looks
from wary.suspects.suspect import keys

READINGS = ("empty", "pressed", "released", "running_low", "running_high")
CellKind = Annotated[str, choice(analogue="analogue", digital="digital")]
PLATE_KEYS = ("label", "capacity", "sensitivity", "sensitivity_source")
PLATES = Rows(
    list="cells",
    name="Cell",
    empty="No cells yet: type the first one's plate below.",
    columns=(
        typed("label", "Cell"),
        typed("capacity", "Capacity"),
        typed("sensitivity", "Sensitivity"),
        typed("sensitivity_source", "Read from"),
    ),
    typed=PLATE_KEYS,
)
PRESSED = Rows(
    list="cells",
    name="Cell",
    empty="No cells yet: their plates come first.",
    columns=(
        typed("label", "Cell"),
        typed("empty", "Empty"),
        typed("pressed", "Pressed"),
        typed("released", "Released"),
        remark("share", "Share"),
        remark("answers", "Answers"),
    ),
    typed=READINGS,
    where={"running_low": "runs", "running_high": "runs"},
    fixed=True,
    csv=False,
    alike=(Alike("released", "empty", "Each came back to what it was empty"),),
)


@dataclass(slots=True, eq=False)
class CellCheckResults(arithmetic.PlateResults):
    """Results of a cell check."""

    signal_at_capacity: Figure | None = figure("signal at capacity", "signal")
    signal_per_division: Figure | None = figure("signal of one division", "voltage")
    expected_empty_signal: Figure | None = figure("signal expected empty", "signal")
    shares: list[Figure] | None = figure("share of each cell", "percentage")
    balance: Figure | None = figure("balance", summary=True)
    running_balance: Figure | None = figure("balance, running")


class Cell(CellPlate):
    """One cell with its readings, all of them mV/V, masses, or raw counts."""

    empty: CellReading | None = field("Empty")
    pressed: CellReading | None = field("Pressed")
    released: CellReading | None = field("Released")
    running_low: CellReading | None = field("Lowest, running empty")
    running_high: CellReading | None = field("Highest, running empty")

    def readings(self) -> tuple[CellReading | None, ...]:
        """What was read of it, in the order in which it is read."""
        return self.empty, self.pressed, self.released, self.running_low, self.running_high


class CellCheckInputs(Inputs):
    """Inputs of a cell check."""

    cells: list[Cell] | None = field("Cells", ask="Type the first cell's plate: its capacity and its sensitivity.")
    cell_count: CellCount | None = field("Cells set in the instrument")
    cell_kind: CellKind | None = field("Kind of cell")
    dead_load: MassFromZero | None = field("Dead load", "what the cells carry when it is empty")
    live_capacity: MassFromZero | None = field("Most that is ever in or on it")
    division: PositiveMass | None = plate("Division of the display")
    excitation: Voltage | None = field("Excitation")
    expected_raw: Number | None = field("Counts expected when empty")
    raw_band: NumberFromZero | None = field("Give or take")


class CellCheck(Method[CellCheckInputs, CellCheckResults]):
    """`cell-check`: plates, signals, balance, and each cell pressed in turn."""

    key = "cell-check"
    title = "Cell check"
    summary = "What each load cell's plate says, and how it answers when pressed"
    question = "Are the cells in order?"
    subject = "The cells"
    profile = "vessel"
    inputs = CellCheckInputs
    results = CellCheckResults
    takes_rows = {"cells": CELLS_ON_RECORD}
    remembers = ("cell_count", "cell_kind", "expected_raw", "raw_band")
    acts = {
        "cells.empty": (UNLOAD, RELEASE, SETTLE),
        "cells.pressed": (Act("press", "row"), SETTLE),
        "cells.released": (RELEASE, SETTLE),
    }
    reads = (Reads(looks.COUNT, "cell_count", ("cell-count",)), Reads(looks.PRESS, "cells.pressed", by_itself=True))
    steps = (
        Look(
            "look",
            "Look first",
            "Every mount and everything that touches the frame.",
            items=(
                Item(
                    "free",
                    "Nothing touches, bridges or hangs on it: pipes, cables, stays, spillage",
                    looks=keys(looks.GAP, looks.LINES),
                ),
                Item("mounts", "Every mount is upright, every cell carries", looks=keys(looks.MOUNTS)),
                Item("boxes", "Junction boxes dry, cables whole", looks=keys(looks.BOX)),
                Item("box-open", "A junction box was opened", "A junction box is open: close and seal it."),
            ),
            cautions=(CELL_WIRING,),
        ),
        Listed(
            "plates",
            "Plates",
            "One row for each cell, from its plate or certificate.",
            fields=(
                "cell_count",
                "cell_kind",
                "dead_load",
                "live_capacity",
                "division",
                "excitation",
                "expected_raw",
                "raw_band",
            ),
            rows=PLATES,
        ),
        Listed(
            "press",
            "Press each in turn",
            "Empty, pressed, released: one cell after the other.",
            rows=PRESSED,
            cautions=(PRESS_CELL,),
        ),
        Close("close", "Close", "Write down what was found."),
    )
