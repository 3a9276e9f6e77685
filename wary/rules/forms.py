"""A correction in the form in which an instrument takes it.

A new factor; a change in per cent; the reading that it should show with the last load on
(`should_read`); or so many steps up or down, `steps = (should read − shows)/step`, rounded.
"""

from dataclasses import dataclass
from typing import Any, Literal

from wary.quantities import Quantity, round_half_up, shown

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
    """What the display should show and what it shows, in one unit, and with which load on."""

    should: Quantity
    shows: Quantity
    load: str


def in_form(
    form: Form, key_in: dict[str, Any], name: str, read: ShouldRead | None, division: Quantity | None
) -> dict[str, Any]:
    """`form` and `figure` of a correction: the words before it, and what to key in; `figure` None where it has none.

    `name` is what the instrument calls its factor.
    """
    if form == "factor":
        decimals = len(key_in.get("factor", "").partition(".")[2])
        return {
            "form": f"Key in as {name}{f', {decimals} decimals' if decimals else ''}",
            "figure": key_in.get("factor"),
        }
    if form == "percent":
        return {"form": "Key in a change of", "figure": f"{key_in['percent']} %"}
    if read is None:
        return {"form": "Key in", "figure": None}
    if form == "reading":
        figure = f"{shown(read.should.value, 6)} {read.should.unit}"
        return {"form": f"With {read.load} on, make it show", "figure": figure}
    if division is None:
        return {"form": "Steps up or down: type the display's division first", "figure": None}
    steps = int(round_half_up((read.should.si - read.shows.si) / division.si, 0))
    form_words = f"With {read.load} on, it shows {shown(read.shows.value, 6)} {read.shows.unit}: step"
    return {"form": form_words, "figure": f"{abs(steps)} {'up' if steps > 0 else 'down'}" if steps else "0"}
