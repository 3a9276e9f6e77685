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

    model_config = ConfigDict(frozen=True)


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


Drawing = Annotated[Belt | Cells | Load | Line | Vessel, Field(discriminator="shape")]


def figure(quantity: Quantity | None, significant: int = 4) -> Figure | None:
    """A quantity as a figure: its size in SI (an angle in degrees), its text in its own unit."""
    if quantity is None:
        return None
    size = from_si(quantity.si, "deg") if quantity.unit == "deg" else quantity.si
    return Figure(size=size, text=spoken(quantity.value, quantity.unit, significant))


def spoken(number: float, unit: str, significant: int = 4) -> str:
    """`12.4 t`, `5.4°`, `3`."""
    return f"{shown(number, significant)}{ {'deg': '°', '': ''}.get(unit, f' {unit}') }"
