"""Readings as they come in: one shape for a stand-in and for a real instrument, and what a run of them comes to."""

import statistics
from collections import deque
from collections.abc import Sequence

from pydantic import BaseModel

ANY_FIELD = "*"
"""A readout that goes into whatever field takes its unit, as those of a real instrument do."""
MOST_READINGS = 2000


class Readout(BaseModel):
    """A figure on the display: as text, as a number in its unit, steady or not.

    `into` names the inputs that it can be captured into (`list.key` where a key alone would be
    another list's too), `capture` the text that then goes in. `of` is the row that it belongs to,
    by what its first column says: a group, a cell, a grade. `fault` says in a sentence why it
    cannot be captured now; then nothing fits. `caution` is said beside it and hinders nothing.
    `raw` is the line of an instrument that said it.
    """

    key: str
    title: str
    text: str
    value: float
    unit: str
    steady: bool
    into: tuple[str, ...] = ()
    capture: str
    of: str = ""
    fault: str = ""
    caution: str = ""
    raw: str = ""


class Live(BaseModel):
    """What a source shows at a time: its readouts, and of a stand-in the controls that can be used now.

    `raw` is the line that an instrument sent, as it came; `fault` is said where nothing can be
    made of it.
    """

    at: float
    readouts: tuple[Readout, ...]
    offers: tuple[str, ...] = ()
    raw: str = ""
    fault: str = ""


class Gathered(BaseModel):
    """A run of readings over time: how many, mean, spread (largest less smallest), standard deviation where there are two.

    `capture` is the mean as it goes into a field, with one decimal more than the display has: a mean
    of many says more than one of them. `moving` says how many were not steady.
    """

    count: int
    mean: float
    spread: float
    deviation: float | None
    unit: str
    capture: str
    moving: int


def gathered(readings: Sequence[tuple[str, str, bool]]) -> Gathered:
    """What readings come to: each its text as shown, its unit, and whether it was steady.

    Raises ValueError with a sentence where there is none, where units differ, or one is no number.
    """
    if not readings:
        raise ValueError("There is no reading yet. Wait until the source shows one, then gather again.")
    if len(readings) > MOST_READINGS:
        raise ValueError(f"{len(readings)} readings at once; gather at most {MOST_READINGS}.")
    units = {unit for _, unit, _ in readings}
    if len(units) > 1:
        raise ValueError(f"The unit changed meanwhile: {', '.join(sorted(units))}. Gather again in one unit.")
    figures = []
    for text, _, _ in readings:
        try:
            figures.append(float(text))
        except ValueError:
            raise ValueError(f"“{text[:40]}” is no number; gather figures as they are shown") from None
    decimals = max(_decimals(text) for text, _, _ in readings)
    mean = statistics.fmean(figures)
    return Gathered(
        count=len(figures),
        mean=mean,
        spread=max(figures) - min(figures),
        deviation=statistics.stdev(figures) if len(figures) > 1 else None,
        unit=units.pop(),
        capture=f"{mean + 0.0:.{decimals + (len(figures) > 1)}f}",
        moving=sum(not steady for _, _, steady in readings),
    )


def _decimals(text: str) -> int:
    return len(text.partition(".")[2])


class Settling:
    """Whether a figure stands, for a source that does not say so itself: within one step of its last digit for `seconds`."""

    def __init__(self, seconds: float = 2.0) -> None:
        self.seconds = seconds
        self._seen: deque[tuple[float, float]] = deque(maxlen=256)

    def steady(self, at: float, text: str, figure: float) -> bool:
        """Takes a reading at a time (s), and says whether the figure stands by then."""
        step = 10.0 ** -_decimals(text) * 1.000001
        seen = self._seen
        seen.append((at, figure))
        while len(seen) > 1 and at - seen[1][0] >= self.seconds:
            seen.popleft()
        figures = [one[1] for one in seen]
        return at - seen[0][0] >= self.seconds and max(figures) - min(figures) <= step
