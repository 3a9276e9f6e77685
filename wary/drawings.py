"""What can be drawn: a closed set of typed shapes, with the figures that belong on them.

A method fills one of them from what was entered, so that a wrong plate figure looks wrong; the
screen has one drawing for each. Lengths in m, masses in kg, angles in degrees, shares and errors
in per cent where a figure is drawn to scale; the text beside it is in the unit that was typed.
"""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from wary.quantities import Quantity, from_si, shown

Outline = Literal["round", "square"]
Behaviour = Literal["in-order", "reversed", "dead", "stays"]


class Drawn(BaseModel):
    """A part of a drawing."""

    # A figure that is none cannot be drawn: it makes no drawing.
    model_config = ConfigDict(frozen=True, allow_inf_nan=False)


class Figure(Drawn):
    """A figure on a drawing: its size to draw it to scale, and the text beside it."""

    size: float
    text: str


class Headline(Drawn):
    """A large figure above a drawing, and what it is."""

    text: str
    title: str


class Belt(Drawn):
    """A conveyor from the side: weigh idlers at their spacing, its angle, what hangs on it.

    `total` is the total over one revolution of the empty belt (kg from its start), `zeros` earlier
    zeros and the one found now. `laden` says whether material lies on it.
    """

    shape: Literal["belt"] = "belt"
    spacing: Figure | None = None
    weigh_idlers: int = 1
    angle: Figure | None = None
    hung: Figure | None = None
    live_weight: Figure | None = None
    laden: bool = False
    total: tuple[float, ...] = ()
    zeros: tuple[Figure, ...] = ()
    headlines: tuple[Headline, ...] = ()


class CellMark(Drawn):
    """One cell, corner or pad from above: its name, what stands beside it, how it answered, whether it is furthest off."""

    label: str
    text: str = ""
    answers: Behaviour | None = None
    furthest: bool = False


class Cells(Drawn):
    """A platform or vessel from above with its cells where they stand."""

    shape: Literal["cells"] = "cells"
    outline: Outline = "square"
    cells: tuple[CellMark, ...] = ()
    inside: tuple[str, ...] = ()


class Load(Drawn):
    """A test load against capacity, with what it shows."""

    shape: Literal["load"] = "load"
    capacity: Figure | None = None
    load: Figure | None = None
    shows: str = ""


class PointMark(Drawn):
    """One point: its load as a share of the largest (%), how far off the line it lies (%), and which way it was come to."""

    share: float
    off: float
    text: str
    going: Literal["up", "down"] = "up"


class Line(Drawn):
    """Points about a straight line, on a common scale."""

    shape: Literal["line"] = "line"
    points: tuple[PointMark, ...] = ()
    from_text: str = "empty"
    to_text: str = "largest load"


class Vessel(Drawn):
    """A vessel on its cells, filled as far as the load in hand."""

    shape: Literal["vessel"] = "vessel"
    capacity: Figure | None = None
    load: Figure | None = None
    cells: int | None = None


LoadMissing = Literal["empty", "heavy", "both"]


class GroupMark(Drawn):
    """One axle group: what its tickets say, what it carries at the load in hand, which of the two loads it lacks."""

    label: str
    empty: Figure | None = None
    heavy: Figure | None = None
    carries: Figure | None = None
    missing: LoadMissing | None = None


class Axles(Drawn):
    """A vehicle from the side with its axle groups; `valid` once both loads of every group are in."""

    shape: Literal["axles"] = "axles"
    groups: tuple[GroupMark, ...] = ()
    valid: bool = False


class Spot(Drawn):
    """A place in a drawing of two quantities."""

    x: float
    y: float


class Stretch(Drawn):
    """A straight line from one place to another."""

    start: Spot
    end: Spot


class LiftMark(Drawn):
    """One kind of lift: how many of it are in, and how many are wanted."""

    load: str
    speed: str
    going: Literal["up", "down"] = "up"
    count: int = 0
    wanted: int = 1


class Lifts(Drawn):
    """Loads by speeds with the lifts that are in; the oil against its gate (°C); raw figure over pace.

    `empty` and `full` are the lines through slow and quick (x pace in 1/s, y raw figure), `known`
    the known load's lift; `provisional` where what it weighs was estimated.
    """

    shape: Literal["lifts"] = "lifts"
    kinds: tuple[LiftMark, ...] = ()
    oil: Figure | None = None
    least: Figure | None = None
    empty: Stretch | None = None
    full: Stretch | None = None
    known: Spot | None = None
    provisional: bool = False


class StripMark(Drawn):
    """One reading on a strip: how far from the mean of its strip (% of heavy less empty), its text, whether it is set aside."""

    off: float
    text: str
    aside: bool = False


class Strip(Drawn):
    """Readings that should be alike, on the scale that all strips share."""

    label: str
    spread: str = ""
    marks: tuple[StripMark, ...] = ()


class Repeats(Drawn):
    """Lifts of an empty and of a heavy container, each on its strip; how much the heavy one is to weigh, and what is in it."""

    shape: Literal["repeats"] = "repeats"
    empty: Figure | None = None
    target: Figure | None = None
    heavy: Figure | None = None
    limit: float | None = None
    strips: tuple[Strip, ...] = ()


class FitMark(Drawn):
    """One load: reference and indicated in kg, what it is called, whether it is set aside."""

    reference: float
    indicated: float
    text: str
    aside: bool = False


class Fit(Drawn):
    """Indicated against reference, with the straight line through them, where it meets zero, and its band there."""

    shape: Literal["fit"] = "fit"
    points: tuple[FitMark, ...] = ()
    slope: float | None = None
    intercept: Figure | None = None
    low: float | None = None
    high: float | None = None
    to_text: str = ""


FillsAre = Literal["scattered", "beside", "in-order"]
MARKS_DRAWN = 12
GROUPS_DRAWN = 8
"""So many of the latest fills of a group, and of the latest groups, are drawn."""


class FillMark(Drawn):
    """One fill or dose: how far off, its text, whether it is set aside, whether it is out of tolerance."""

    off: float
    text: str
    aside: bool = False
    out: bool = False


class FillGroup(Drawn):
    """Fills made alike: what they are called, what was changed before them, their mean, and what they look like."""

    label: str
    note: str = ""
    marks: tuple[FillMark, ...] = ()
    mean: float | None = None
    are: FillsAre | None = None


class CutOff(Drawn):
    """A cut-off where it bites: how much is filled when its stage ends."""

    label: str
    at: float
    text: str


class Fills(Drawn):
    """Groups of fills beside each other on one scale with their tolerance, and the pack with its cut-offs.

    `low` and `high` are the edges of the tolerance, in the measure of the marks: kg, or per cent of a dose.
    """

    shape: Literal["fills"] = "fills"
    target: Figure | None = None
    low: float | None = None
    high: float | None = None
    low_text: str = ""
    high_text: str = ""
    cut_offs: tuple[CutOff, ...] = ()
    groups: tuple[FillGroup, ...] = ()


class Stair(Drawn):
    """One step of a staircase of values: its size, its number, a note on it, whether it is set aside."""

    value: float
    text: str
    note: str = ""
    aside: bool = False


class GrowingMark(Drawn):
    """One load of a test by substitution: kg, how well it is known (±), by how much the display is off it, and its text."""

    load: float
    unknown: float
    off: float | None = None
    text: str = ""


class Growing(Drawn):
    """A load that grows by the same weights each time, with what is not known of it growing beside it."""

    shape: Literal["growing"] = "growing"
    marks: tuple[GrowingMark, ...] = ()
    weights: float | None = None
    capacity: Figure | None = None


class MeterMark(Drawn):
    """A meter over its container at the latest catch: whose, turns, what was caught, and the tare, each as it is spoken."""

    turns: str
    net: str = ""
    tare: str = ""
    label: str = ""


class Stairs(Drawn):
    """Values one after the other, each against the one before and against what is wanted; `within` is a fraction of that.

    A second tank that was caught at the same time stands `beside` the first; `exchanged` where the
    containers stood under each other's outlets.
    """

    shape: Literal["stairs"] = "stairs"
    steps: tuple[Stair, ...] = ()
    wanted: Figure | None = None
    within: float = 0.01
    called: str = ""
    meter: MeterMark | None = None
    beside: MeterMark | None = None
    exchanged: bool = False


RateZone = Literal["below", "inside", "above"]


class RateCell(Drawn):
    """One setting at one speed: what it gives, where it lies against the target, whether it is the working one."""

    text: str
    zone: RateZone
    working: bool = False


class RateRow(Drawn):
    """One setting over all speeds; `end` marks where the drive gives no more."""

    setting: str
    turns: str = ""
    cells: tuple[RateCell, ...] = ()
    end: bool = False


class RateTable(Drawn):
    """Settings by speeds with what each gives, the gate from both its sides, and the gate to go to."""

    shape: Literal["rates"] = "rates"
    speeds: tuple[str, ...] = ()
    unit: str = ""
    target: str = ""
    rows: tuple[RateRow, ...] = ()
    gate: tuple[str, ...] = ()
    suggested: str = ""


class TrailMark(Drawn):
    """One sample of a stream: its time (s), the vessel's mass (kg), what its counts would have given (kg)."""

    time: float
    taken: float
    counted: float


class Trail(Drawn):
    """Two lines over time: mass taken out of the vessel, and what the counts say was given; `window` where it is judged."""

    shape: Literal["trail"] = "trail"
    marks: tuple[TrailMark, ...] = ()
    window: float = 0.0
    taken_text: str = ""
    counted_text: str = ""


SAMPLES_DRAWN = 120
"""So many of the latest samples are drawn."""


class SampleMark(Drawn):
    """One sample: how far off the target, its number, whether it is out of tolerance, whether it stands beyond three deviations."""

    off: float
    number: int
    out: bool = False
    beyond: bool = False


class Samples(Drawn):
    """Samples of a running machine in their order (kg off the target): tolerance, mean, and its zones of one deviation."""

    shape: Literal["samples"] = "samples"
    low: float | None = None
    high: float | None = None
    low_text: str = ""
    high_text: str = ""
    mean: float | None = None
    mean_text: str = ""
    deviation: float | None = None
    marks: tuple[SampleMark, ...] = ()
    before: int = 0


class GradeMark(Drawn):
    """One grade on the ruler of weights, from light to heavy: its edges in kg, its outlet, what is in it and its mean."""

    label: str
    low: float
    high: float | None = None
    outlet: str = ""
    share: float | None = None
    count: int | None = None
    mean: float | None = None
    wrong: bool = False


class Edge(Drawn):
    """A weight that two grades share."""

    at: float
    text: str


class Grades(Drawn):
    """Grades as a ruler of weights, with the pieces of a batch over it, and the weight beyond which a piece is rejected."""

    shape: Literal["grades"] = "grades"
    grades: tuple[GradeMark, ...] = ()
    edges: tuple[Edge, ...] = ()
    reject: Figure | None = None


Drawing = Annotated[
    Belt
    | Cells
    | Load
    | Line
    | Vessel
    | Axles
    | Lifts
    | Repeats
    | Fit
    | Fills
    | Samples
    | Grades
    | Stairs
    | Growing
    | RateTable
    | Trail,
    Field(discriminator="shape"),
]


def figure(quantity: Quantity | None, significant: int = 4) -> Figure | None:
    """A quantity as a figure: its size in SI (an angle in degrees), its text in its own unit."""
    if quantity is None:
        return None
    size = from_si(quantity.si, "deg") if quantity.unit == "deg" else quantity.si
    return Figure(size=size, text=spoken(quantity.value, quantity.unit, significant))


def spoken(number: float, unit: str, significant: int = 4) -> str:
    """`12.4 t`, `5.4°`, `3`."""
    return f"{shown(number, significant)}{ {'deg': '°', 'degC': ' °C', 'degF': ' °F', '': ''}.get(unit, f' {unit}') }"
