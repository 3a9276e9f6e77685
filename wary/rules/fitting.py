"""A straight line through points by least squares, with its standard errors."""

import math
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Line:
    """`y = intercept + slope·x`; the standard errors and the residual need three points or more."""

    slope: float
    intercept: float
    slope_error: float | None = None
    intercept_error: float | None = None
    residual: float | None = None

    def at(self, x: float) -> float:
        return self.intercept + self.slope * x


def line(x: Sequence[float], y: Sequence[float]) -> Line | None:
    """The least-squares line; None where fewer than two different x are given."""
    count = len(x)
    if len(set(x)) < 2:
        return None
    mean_x, mean_y = math.fsum(x) / count, math.fsum(y) / count
    sxx = math.fsum((a - mean_x) ** 2 for a in x)
    if sxx == 0:
        return None
    slope = math.fsum((a - mean_x) * (b - mean_y) for a, b in zip(x, y, strict=True)) / sxx
    intercept = mean_y - slope * mean_x
    if count < 3:
        return Line(slope, intercept)
    squares = math.fsum((b - intercept - slope * a) ** 2 for a, b in zip(x, y, strict=True))
    residual = math.sqrt(squares / (count - 2))
    slope_error = residual / math.sqrt(sxx)
    return Line(slope, intercept, slope_error, residual * math.sqrt(1 / count + mean_x**2 / sxx), residual)


def deviation(figures: Sequence[float]) -> float | None:
    """Sample standard deviation; None below two figures."""
    if len(figures) < 2:
        return None
    mean = math.fsum(figures) / len(figures)
    return math.sqrt(math.fsum((figure - mean) ** 2 for figure in figures) / (len(figures) - 1))
