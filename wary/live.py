"""Readings as they come in: one shape for a stand-in and for a real instrument, and what a run of them comes to."""

import math
import statistics
from collections import deque
from collections.abc import Sequence

from pydantic import BaseModel

ANY_FIELD = "*"
"""A readout that goes into whatever field takes its unit, as those of a real instrument do."""
MOST_READINGS = 2000
WATCHED_LEAST, WATCHED_READINGS = 20.0, 10
"""A figure is watched for so long at least (s), and at so many readings; its time is parted into as many stretches."""
RUNS_STEPS, RUNS_SURE = 2.0, 3.0
"""It runs away by more than so many steps of the display, and so many times its standard uncertainty."""


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
    made of it. `turn` says how much was done to a stand-in by then: a count that only rises, by which
    whoever did something knows which readings do not show it yet.
    """

    at: float
    turn: int = 0
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


class Watched(BaseModel):
    """A figure that was left alone and watched: whether it stands, and a sentence with what it did."""

    stands: bool
    text: str


def watched(name: str, readings: Sequence[tuple[float, str, str]]) -> Watched:
    """Whether a figure stands while nothing is done to it: readings with their times (s), texts as shown, and units.

    A straight line by least squares is laid through the means of ten stretches of the time, since readings that
    follow close on each other scatter together. It runs away where the line rises or falls over the
    whole time by more than two steps of the display and three times the standard uncertainty of that.
    Raises ValueError with a sentence where it was watched too shortly, where units differ, or one is no number.
    """
    units = {unit for _, _, unit in readings}
    if len(units) > 1:
        raise ValueError(f"The unit changed meanwhile: {', '.join(sorted(units))}. Watch it again in one unit.")
    times = [at for at, _, _ in readings]
    seconds = max(times, default=0.0) - min(times, default=0.0)
    if seconds < WATCHED_LEAST or len(readings) < WATCHED_READINGS:
        raise ValueError(
            f"{name} was watched for {seconds:.0f} s, with {len(readings)} readings; watch it for {WATCHED_LEAST:.0f} s at least."
        )
    figures = [_number(text) for _, text, _ in readings]
    decimals = max(_decimals(text) for _, text, _ in readings)
    rise, unsure = _rise(times, figures, seconds)
    sizes = sorted(set(figures))
    step = min((above - below for below, above in zip(sizes, sizes[1:], strict=False)), default=0.0)
    stands = abs(rise) <= max(RUNS_STEPS * max(step, 10.0**-decimals), RUNS_SURE * unsure)
    unit = f" {units.pop()}".rstrip()
    low, high = f"{min(figures):.{decimals}f}", f"{max(figures):.{decimals}f}"
    if stands:
        between = f"at {low}{unit}" if low == high else f"between {low} and {high}{unit}"
        return Watched(stands=True, text=f"{name} stood {between} for {seconds:.0f} s.")
    went = f"{abs(rise):.{decimals}f}{unit} {'up' if rise > 0 else 'down'} in {seconds:.0f} s"
    return Watched(stands=False, text=f"{name} ran {went}, with nothing done to it.")


def _rise(times: Sequence[float], figures: Sequence[float], seconds: float) -> tuple[float, float]:
    """How far a line through figures rises over the whole time, and the standard uncertainty of that."""
    stretches: dict[int, list[tuple[float, float]]] = {}
    first = min(times)
    for at, figure in zip(times, figures, strict=True):
        place = min(int((at - first) / seconds * WATCHED_READINGS), WATCHED_READINGS - 1)
        stretches.setdefault(place, []).append((at, figure))
    middles = [statistics.fmean(one for one, _ in held) for held in stretches.values()]
    mean = [statistics.fmean(one for _, one in held) for held in stretches.values()]
    if len(middles) < 3:
        return mean[-1] - mean[0], 0.0
    line = statistics.linear_regression(middles, mean)
    left = math.fsum((y - line.intercept - line.slope * x) ** 2 for x, y in zip(middles, mean, strict=True))
    centre = statistics.fmean(middles)
    spread = math.fsum((x - centre) ** 2 for x in middles)
    return line.slope * seconds, math.sqrt(left / (len(mean) - 2) / spread) * seconds


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise ValueError(f"“{text[:40]}” is no number; take figures as they are shown") from None


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
    figures = [_number(text) for text, _, _ in readings]
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
