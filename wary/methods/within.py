"""Assessing what may lie out of all range: an answer that says so, never an exception, no figure that is not finite.

A method works with ordinary figures; figures that lie further apart than floating point holds
overflow somewhere in its arithmetic. What they are is looked for only then.
"""

import math
from collections.abc import Iterator
from typing import Any

from pydantic import BaseModel, ValidationError

from wary.drawings import Drawing
from wary.fields import Inputs
from wary.methods.method import AnyMethod, Seen, Setting
from wary.quantities import Quantity
from wary.results import Results
from wary.rules.assessment import NOT_READY, Assessment, Reason

HEADLINE = "Not ready yet"
OVERFLOWS = (OverflowError, ZeroDivisionError)
"""What arithmetic raises where figures lie too far apart. Anything else that is raised is a fault of ours, and is not hidden."""


def assessed(method: AnyMethod, given: Inputs, setting: Setting) -> Assessment[Results]:
    """The method's assessment; `not-ready` with `out-of-range` where its figures cannot be worked out with."""
    try:
        answer: Assessment[Results] | None = method.assess(given, setting)
    except OVERFLOWS:
        answer = None
    if answer and answer.results.is_finite() and (answer.as_found is None or answer.as_found.results.is_finite()):
        return answer
    path, text = furthest(given)
    said = f"“{text}” is out of all range" if text else "The figures lie out of all range"
    reason = Reason("out-of-range", f"{said}: nothing can be worked out with it. Read it again.", {"path": path})
    return Assessment(method.key, NOT_READY, [reason], method.results(), HEADLINE)


def drawn(method: AnyMethod, given: Inputs, seen: Seen) -> Drawing | None:
    """What the method draws; nothing where its figures cannot be drawn."""
    try:
        return method.draw(given, seen)
    except (*OVERFLOWS, ValidationError):
        # A drawing holds no figure that is infinite or no number.
        return None


def furthest(given: Inputs) -> tuple[str, str]:
    """The figure of some inputs that lies furthest from ordinary: its path, and its text."""
    figures = [(_distance(value), path, text) for path, value, text in _figures(given, "")]
    _, path, text = max(figures, key=lambda one: one[0], default=(0.0, "", ""))
    return path, text


def _distance(value: float) -> float:
    return math.inf if not math.isfinite(value) else abs(math.log10(abs(value))) if value else 0.0


def _figures(found: Any, path: str) -> Iterator[tuple[str, float, str]]:
    if isinstance(found, Quantity):
        yield path, found.si, found.text
    elif isinstance(found, BaseModel):
        for key in type(found).model_fields:
            yield from _figures(getattr(found, key), f"{path}.{key}" if path else key)
    elif isinstance(found, (list, tuple)):
        for place, one in enumerate(found):
            yield from _figures(one, f"{path}[{place}]")
    elif isinstance(found, (int, float)) and not isinstance(found, bool):
        yield path, float(found), f"{found:g}"
