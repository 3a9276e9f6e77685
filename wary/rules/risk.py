"""What each choice risks: the chance that the true error is outside the limit, left as it is and with a new factor.

The true relative error, given the runs, lies around their mean with the standard uncertainty `u` as
Student's t with `ν` degrees of freedom, nothing being known before: `u² = max(s²/n, b²) + u_ref²`,
`ν = n − 1` for the scatter and infinite for the rest, together by Welch and Satterthwaite. Where
the machine's history knows how its runs scatter within a visit, `s` is pooled with that. After
guidance on the role of measurement uncertainty in conformity assessment (JCGM 106).

Errors, limits, uncertainties and chances are fractions.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

from wary.rules.evidence import Evidence

LEAST_FREEDOM = 4
"""So many degrees of freedom together are the least that a history's scatter is pooled from."""
AS_GOOD_AS_NORMAL = 400.0
"""From so many degrees of freedom on Student's t is the normal distribution, to 1e-3."""


@dataclass(frozen=True)
class Scatter:
    """How runs scatter within a visit: a standard deviation (a fraction) with its degrees of freedom."""

    deviation: float
    freedom: int


@dataclass(frozen=True)
class Believed:
    """What is believed of the true error: where it lies, its standard uncertainty, its degrees of freedom."""

    mean: float
    uncertainty: float
    freedom: float

    def below(self, error: float) -> float:
        """The chance that the true error is below this one."""
        if self.uncertainty <= 0:
            return 1.0 if error > self.mean else 0.0 if error < self.mean else 0.5
        return student_below((error - self.mean) / self.uncertainty, self.freedom)

    def between(self, low: float, high: float) -> float:
        """The chance that the true error lies between these two; nothing where they are the wrong way round."""
        return max(0.0, self.below(high) - self.below(low)) if high > low else 0.0


@dataclass(frozen=True)
class Risks:
    """The three chances: outside the limit left as it is, outside after the new factor, and inside now and outside then."""

    if_left: float
    if_adjusted: float
    of_touching: float


def pooled(evidence: Evidence, history: Scatter | None) -> Scatter | None:
    """The scatter of these runs, with that of the history where there is enough of it; None where neither is known."""
    own = evidence.standard_deviation
    freedom = evidence.count - 1 if own is not None else 0
    if history is None or history.freedom < LEAST_FREEDOM:
        return Scatter(own, freedom) if own is not None and freedom else None
    both = freedom + history.freedom
    squares = freedom * (own or 0.0) ** 2 + history.freedom * history.deviation**2
    return Scatter(math.sqrt(squares / both), both)


def believed(evidence: Evidence, history: Scatter | None = None) -> Believed | None:
    """What these runs, and the history's scatter, let believe of the true error; None where nothing says how certain it is."""
    scatter = pooled(evidence, history)
    displays = evidence.display_term / 1.96
    by_scatter = scatter.deviation / math.sqrt(evidence.count) if scatter else 0.0
    own = max(by_scatter, displays)
    uncertainty = math.hypot(own, evidence.u_reference)
    if uncertainty <= 0:
        return None
    freedom = math.inf
    if scatter and by_scatter >= displays and by_scatter > 0:
        # Welch and Satterthwaite: of the terms only the scatter has finitely many.
        freedom = scatter.freedom * (uncertainty / by_scatter) ** 4
    return Believed(evidence.mean_error, uncertainty, freedom)


def risks(about: Believed, limit: float, gain: float) -> Risks:
    """The three chances for a limit on either side, and readings that grow `gain` times with the new factor.

    With it the true error is `(1 + ε)·gain − 1`: it is inside while `ε` lies between `(1 − L)/gain − 1`
    and `(1 + L)/gain − 1`.
    """
    low, high = (1 - limit) / gain - 1, (1 + limit) / gain - 1
    inside_now = about.between(-limit, limit)
    inside_then = about.between(low, high)
    both = about.between(max(-limit, low), min(limit, high))
    return Risks(_chance(1 - inside_now), _chance(1 - inside_then), _chance(inside_now - both))


def _chance(one: float) -> float:
    return min(1.0, max(0.0, one))


def student_below(t: float, freedom: float) -> float:
    """The chance that Student's t with so many degrees of freedom, whole or not, is below `t`.

    By the regularised incomplete beta function, `1 − I_x(ν/2, 1/2)/2` with `x = ν/(ν + t²)` (Abramowitz
    and Stegun, 26.7.1 and 26.5.27).
    """
    if freedom >= AS_GOOD_AS_NORMAL:
        return 0.5 * math.erfc(-t / math.sqrt(2))
    tail = 0.5 * _beta(freedom / (freedom + t * t), freedom / 2)
    return 1 - tail if t > 0 else tail


@lru_cache(maxsize=1024)
def _half(a: float) -> float:
    """`ln Γ(a + ½) − ln Γ(a) − ln Γ(½)`."""
    return math.lgamma(a + 0.5) - math.lgamma(a) - math.lgamma(0.5)


def _beta(x: float, a: float) -> float:
    """`I_x(a, ½)`, by its continued fraction (Abramowitz and Stegun, 26.5.8), from whichever end converges."""
    if x <= 0 or x >= 1:
        return 0.0 if x <= 0 else 1.0
    front = math.exp(_half(a) + a * math.log(x) + 0.5 * math.log1p(-x))
    if x < (a + 1) / (a + 2.5):
        return front * _fraction(x, a, 0.5) / a
    return 1 - front * _fraction(1 - x, 0.5, a) / 0.5


def _fraction(x: float, a: float, b: float) -> float:
    """The continued fraction of the incomplete beta function, by the method of Lentz, to 1e-12."""
    tiny = 1e-300
    c, d = 1.0, 1 - (a + b) * x / (a + 1)
    d = 1 / (d if abs(d) > tiny else tiny)
    found = d
    for step in range(1, 300):
        even = step * (b - step) * x / ((a + 2 * step - 1) * (a + 2 * step))
        odd = -(a + step) * (a + b + step) * x / ((a + 2 * step) * (a + 2 * step + 1))
        for term in (even, odd):
            d = 1 + term * d
            c = 1 + term / c
            d = 1 / (d if abs(d) > tiny else tiny)
            c = c if abs(c) > tiny else tiny
            found *= d * c
        if abs(d * c - 1) < 1e-12:
            break
    return found


def in_words(found: Risks, limit: str, keyed: str, asked: bool) -> str:
    """The chances in one line; `keyed` is the new figure, and `asked` says that it is to be keyed in."""
    left = f"Left as it is: {_in_hundred(found.if_left)} that it is outside {limit}."
    if asked:
        return f"{left} With {keyed}: {_in_hundred(found.if_adjusted)}."
    return f"{left} Touching it would put it outside in {_in_hundred(found.of_touching)}."


def _in_hundred(chance: float) -> str:
    """`83 in 100`, `less than 1 in 100`."""
    whole = round(chance * 100)
    return "less than 1 in 100" if whole <= 0 else "more than 99 in 100" if whole >= 100 else f"{whole} in 100"
