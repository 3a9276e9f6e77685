"""How a stand-in instrument speaks: its readings as lines of text, and the ways in which it can misbehave."""

from collections.abc import Callable
from typing import Literal

from wary.live import Readout
from wary.quantities import from_si, to_si

Trouble = Literal["", "nonsense", "flood", "half", "silent", "pounds", "over"]
TROUBLES: tuple[Trouble, ...] = ("", "nonsense", "flood", "half", "silent", "pounds", "over")
Speech = Literal["simple", "columns"]


def simple(readouts: list[Readout]) -> list[str]:
    """The simple format: name, figure, unit, whether it stands."""
    made = []
    for one in readouts:
        unit = f" {one.unit}" if one.unit else ""
        made.append(f"{one.title.replace(',', '')}={one.text}{unit} {'steady' if one.steady else 'moving'}")
    return made


def columns(readouts: list[Readout]) -> list[str]:
    """A format of its own that has to be taught: a count, the sign apart, the figure in nine columns, unit, a mark."""
    one = readouts[0]
    sign = "-" if one.value < 0 else "+"
    return [f"[07] {sign}{one.text.lstrip('-'):>9} {one.unit.upper()} {'OK' if one.steady else '..'}"]


SPEECHES: dict[Speech, Callable[[list[Readout]], list[str]]] = {"simple": simple, "columns": columns}


def troubled(readouts: list[Readout], trouble: Trouble) -> list[Readout]:
    """The readouts of an instrument that was switched to pounds."""
    if trouble != "pounds":
        return readouts
    changed = []
    for one in readouts:
        if one.unit == "kg":
            pounds = from_si(to_si(one.value, "kg"), "lb")
            one = one.model_copy(update={"text": f"{pounds:.0f}", "value": pounds, "unit": "lb"})
        changed.append(one)
    return changed
