"""Comparison runs, and what they show: pooled ratio, errors, spread, uncertainty.

Names and formulas are those of the evidence rules: `R` reference, `I` indicated, `ε = I/R − 1`,
`k = ΣR/ΣI`; masses in kg, ratios and errors as fractions.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

NORMAL_95 = 1.96

# Expected range of n normal values in standard deviations, for n = 3 to 25.
D2 = (
    1.693, 2.059, 2.326, 2.534, 2.704, 2.847, 2.970, 3.078, 3.173, 3.258, 3.336, 3.407,
    3.472, 3.532, 3.588, 3.640, 3.689, 3.735, 3.778, 3.819, 3.858, 3.895, 3.931,
)  # fmt: skip


@dataclass(frozen=True)
class Pair:
    """One run in the set: masses in kg, with the standard uncertainty of reading each display.

    `index` is its place in the job file, counted from 0; `tare` and `duration` (s) where known.
    `loads` is how many loads it is the mean of.
    """

    index: int
    reference: float
    indicated: float
    u_reference: float = 0.0
    u_indicated: float = 0.0
    readings: int = 1
    tare: float | None = None
    duration: float | None = None
    loads: int = 1

    @property
    def error(self) -> float:
        return self.indicated / self.reference - 1


@dataclass(frozen=True)
class Evidence:
    """The runs in the set; `u_reference` is the reference's own relative standard uncertainty."""

    pairs: Sequence[Pair]
    u_reference: float = 0.0

    @cached_property
    def count(self) -> int:
        return len(self.pairs)

    @cached_property
    def reference_sum(self) -> float:
        return math.fsum(pair.reference for pair in self.pairs)

    @cached_property
    def indicated_sum(self) -> float:
        return math.fsum(pair.indicated for pair in self.pairs)

    @cached_property
    def pooled_ratio(self) -> float | None:
        """`k = ΣR/ΣI`; None where ΣI is not above zero."""
        return self.reference_sum / self.indicated_sum if self.indicated_sum > 0 else None

    @cached_property
    def mean_of_ratios(self) -> float | None:
        if not self.pairs or any(pair.indicated == 0 for pair in self.pairs):
            return None
        return math.fsum(pair.reference / pair.indicated for pair in self.pairs) / self.count

    @cached_property
    def errors(self) -> list[float]:
        return [pair.error for pair in self.pairs]

    @cached_property
    def mean_error(self) -> float:
        return math.fsum(self.errors) / self.count

    @cached_property
    def mean_error_mass(self) -> float:
        return math.fsum(pair.indicated - pair.reference for pair in self.pairs) / self.count

    @cached_property
    def spread(self) -> float:
        return max(self.errors) - min(self.errors)

    @cached_property
    def standard_deviation(self) -> float | None:
        """Sample standard deviation of the relative errors; None below two runs."""
        if self.count < 2:
            return None
        squares = ((error - self.mean_error) * (error - self.mean_error) for error in self.errors)
        return math.sqrt(math.fsum(squares) / (self.count - 1))

    @cached_property
    def display_term(self) -> float:
        """`1.96·b`: what the divisions of both displays leave open in the mean."""
        terms = (_squared(p.u_reference / p.reference) + _squared(p.u_indicated / p.reference) for p in self.pairs)
        return NORMAL_95 * math.sqrt(math.fsum(terms)) / self.count

    @cached_property
    def scatter_term(self) -> float | None:
        """`t·s/√n`; None with one run."""
        if self.standard_deviation is None:
            return None
        return student(self.count - 1) * self.standard_deviation / math.sqrt(self.count)

    @cached_property
    def expanded_uncertainty(self) -> float:
        """`U` at 95 %: the larger of scatter and displays, and the reference's own."""
        own = max(self.scatter_term or 0.0, self.display_term)
        return math.hypot(own, NORMAL_95 * self.u_reference)

    @property
    def is_certain(self) -> bool:
        """Whether anything says how certain it is: more than one run, or the division of a display."""
        return self.count > 1 or self.display_term > 0

    @cached_property
    def coverage_factor(self) -> float:
        if self.scatter_term is None or self.display_term >= self.scatter_term:
            return NORMAL_95
        return student(self.count - 1)

    @property
    def most_readings(self) -> int:
        return max((pair.readings for pair in self.pairs), default=1)

    def usable(self) -> bool:
        """False where figures are so far apart that floating point cannot hold their ratio."""
        return self._usable

    @cached_property
    def _usable(self) -> bool:
        figures = (self.reference_sum, self.indicated_sum, *self.errors)
        return all(map(math.isfinite, figures)) and max(map(abs, figures)) < 1e140

    def budget(self) -> list[tuple[str, float, bool]]:
        """The terms of `U` at 95 %, as fractions: name, size, and whether it counts in `U`.

        Of scatter and displays only the larger counts, since the scatter already holds the rounding.
        """
        scatter = self.scatter_term or 0.0
        by_scatter = scatter > self.display_term
        return [
            ("scatter of the runs", scatter, by_scatter),
            ("divisions of the displays", self.display_term, not by_scatter),
            ("the reference's own", NORMAL_95 * self.u_reference, True),
        ]


def _squared(value: float) -> float:
    return value * value


def reading_uncertainty(division: float, readings: int) -> float:
    """Standard uncertainty of a value read off a display of `division`, once or as a difference."""
    return division / math.sqrt(12) * math.sqrt(readings)


def range_factor(count: int) -> float:
    """By how much a repeat limit meant for three runs grows with more: d₂(n)/d₂(3)."""
    return D2[min(max(count, 3), 25) - 3] / D2[0]


@lru_cache(maxsize=512)
def student(freedom: int) -> float:
    """Student's two-sided 95 % factor for so many degrees of freedom (1 or more), to 1e-6.

    From the finite series of the distribution for whole degrees of freedom (Abramowitz and
    Stegun, 26.7.3 and 26.7.4), by bisection; beyond 200 from the expansion about the normal
    (26.7.5).
    """
    if freedom > 200:
        x = 1.959963984540054
        g1 = (x**3 + x) / 4
        g2 = (5 * x**5 + 16 * x**3 + 3 * x) / 96
        g3 = (3 * x**7 + 19 * x**5 + 17 * x**3 - 15 * x) / 384
        return x + g1 / freedom + g2 / freedom**2 + g3 / freedom**3
    low, high = 1.9, 13.0
    for _ in range(60):
        middle = (low + high) / 2
        if _within(middle, freedom) < 0.95:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def _within(t: float, freedom: int) -> float:
    """Probability that a Student variable lies within ± t."""
    angle = math.atan(t / math.sqrt(freedom))
    cosine, sine = math.cos(angle), math.sin(angle)
    term = cosine if freedom % 2 else 1.0
    total = 0.0 if freedom == 1 else term
    for step in range(3 if freedom % 2 else 2, freedom - 1, 2):
        term *= cosine * cosine * (step - 1) / step
        total += term
    return 2 / math.pi * (angle + sine * total) if freedom % 2 else sine * total
