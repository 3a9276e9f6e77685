"""A correction in the form in which an instrument takes it.

A new factor; a change in per cent; the reading that it should show with the last load on
(`should_read`); or so many steps up or down, `steps = (should read − shows)/step`, rounded.
"""

from typing import Any

from wary.call import ADJUST
from wary.method import Assessment
from wary.quantities import Quantity, from_si, round_half_up, shown


def in_form(correction: str, answer: Assessment, given: Any) -> dict[str, str]:
    """`form` and `figure` for this assessment's correction; empty where it gives none in this form."""
    if answer.call != ADJUST or not answer.key_in:
        return {}
    if correction == "percent":
        return {"form": "Key in a change of", "figure": f"{answer.key_in['percent']} %"}
    if correction not in ("reading", "steps"):
        return {}
    read = _should_read(answer, given)
    if read is None:
        return {}
    should, shows, words = read
    if correction == "reading":
        return {"form": f"With {words} on, make it show", "figure": f"{shown(should.value, 6)} {should.unit}"}
    division = getattr(given, "indicated_division", None) or getattr(given, "division", None)
    if division is None:
        return {"form": "Steps up or down: the display's division is not typed yet", "figure": "–"}
    steps = int(round_half_up((should.si - shows.si) / division.si, 0))
    way = "up" if steps > 0 else "down"
    form = f"With {words} on, it shows {shown(shows.value, 6)} {shows.unit}: step"
    return {"form": form, "figure": f"{abs(steps)} {way}" if steps else "0"}


def _should_read(answer: Assessment, given: Any) -> tuple[Quantity, Quantity, str] | None:
    """What it should show, what it shows, and with which load on."""
    rows = answer.results.get("runs")
    if rows:
        last = [(n, row) for n, row in enumerate(rows, 1) if row["in_set"]["value"] and "error" in row]
        if not last:
            return None
        number, row = last[-1]
        reference = Quantity(row["reference"]["value"], row["reference"]["unit"], "")
        shows = Quantity(row["indicated"]["value"], row["indicated"]["unit"], "")
        return Quantity(from_si(reference.si, shows.unit), shows.unit, ""), shows, f"run {number}'s load"
    passes = getattr(given, "passes", None)
    if passes and passes[-1].span and getattr(given, "test_load", None):
        return given.test_load, passes[-1].span, "the test load"
    return None
