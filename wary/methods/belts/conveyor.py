"""What the methods of belt scales share beside their arithmetic: words to choose, zero first, the drawing."""

from typing import Annotated, Any

from wary import drawings
from wary.drawings import Belt, Headline, spoken
from wary.fields import choice
from wary.methods.method import Seen, Stale
from wary.quantities import Quantity
from wary.rules.assessment import Check, Reason

ZeroDone = Annotated[str, choice(job="in this job", today="earlier today", earlier="longer ago")]

ZERO_AGAIN = Stale("zero-again", "The span was changed: take the zero again, empty and running.", by=("belt-zero",))


def not_ready_zero(zero_done: str | None) -> tuple[Check, list[Reason]]:
    """The rule of `zero-first`: a zero in this job or today, before anything is compared."""
    if zero_done in ("job", "today"):
        when = "in this job" if zero_done == "job" else "today"
        return Check("zero-first", "pass", f"The zero was taken {when}."), []
    when = "longer ago than today" if zero_done == "earlier" else "not said to have been taken"
    text = f"The zero was {when}. Run it empty and take the zero first, or the factor swallows the zero's error."
    return Check("zero-first", "fail", text), [Reason("zero-first", text, {"path": "inputs.zero_done"})]


def headline(quantity: Quantity | None, title: str, significant: int = 4) -> list[Headline]:
    """A figure above the drawing, where it is known."""
    return [Headline(text=spoken(quantity.value, quantity.unit, significant), title=title)] if quantity else []


def drawn_belt(seen: Seen, headlines: list[Headline], **more: Any) -> Belt:
    """The conveyor to its plates (what was typed in the job stands over the record), three figures above it."""
    spacing, angle = more.pop("idler_spacing", None), more.pop("angle", None)
    idlers = more.pop("weigh_idlers", None) or seen.number("weigh_idlers") or 1
    return Belt(
        spacing=drawings.figure(spacing or seen.quantity("idler_spacing"), 3),
        angle=drawings.figure(angle or seen.quantity("angle"), 3),
        weigh_idlers=max(1, min(8, round(idlers))),
        headlines=tuple(headlines[:3]),
        **more,
    )
