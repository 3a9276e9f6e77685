"""A correction in the form in which an instrument takes it.

A new factor; a change in per cent; the reading that it should show with the last load on
(`should_read`); or so many steps up or down, `steps = (should read − shows)/step`, rounded.
"""

from dataclasses import dataclass
from typing import Literal

from wary.quantities import Quantity, round_half_up, shown
from wary.rules.correction import KeyIn

Form = Literal["factor", "percent", "reading", "steps"]
FORMS: dict[Form, str] = {
    "factor": "a new factor",
    "percent": "a change in per cent",
    "reading": "the reading it should show",
    "steps": "steps up or down",
}
"""The forms of a correction, and what they are called."""


@dataclass(frozen=True)
class ShouldRead:
    """What the display should show and what it shows, in one unit, and with which load on; the division of the display where it is known."""

    should: Quantity
    shows: Quantity
    load: str
    division: Quantity | None = None


@dataclass(frozen=True)
class InForm:
    """A correction as it is keyed in: the words before it, and what to key in; None where there is nothing yet."""

    form: str
    figure: str | None


def in_form(form: Form, key_in: KeyIn, name: str, read: ShouldRead | None) -> InForm:
    """A correction in the form in which an instrument takes it; `name` is what it calls its factor."""
    if form == "factor":
        decimals = len((key_in.factor or "").partition(".")[2])
        return InForm(f"Key in as {name}{f', {decimals} decimals' if decimals else ''}", key_in.factor)
    if form == "percent":
        return InForm("Key in a change of", f"{key_in.percent} %")
    if read is None:
        return InForm("Key in", None)
    if form == "reading":
        return InForm(f"With {read.load} on, make it show", f"{shown(read.should.value, 6)} {read.should.unit}")
    if read.division is None:
        return InForm("Steps up or down: type the display's division first", None)
    steps = int(round_half_up((read.should.si - read.shows.si) / read.division.si, 0))
    words = f"With {read.load} on, it shows {shown(read.shows.value, 6)} {read.shows.unit}: step"
    return InForm(words, f"{abs(steps)} {'up' if steps > 0 else 'down'}" if steps else "0")
