"""A sum for whoever stands before the decision: what would I risk?"""

import math

from wary.fields import Count, Inputs, Percentage, PositivePercentage, SignedPercentage
from wary.fields import field as asked
from wary.quantities import percent_shown
from wary.rules.risk import AS_GOOD_AS_NORMAL, LEAST_FREEDOM, Believed, risks
from wary.sums.sum import Result, Sum


class RiskGiven(Inputs):
    error: SignedPercentage | None = asked("Mean error of the runs")
    runs: Count | None = asked("Runs")
    deviation: Percentage | None = asked("Their standard deviation")
    limit: PositivePercentage | None = asked("Limit, either side")
    reference_uncertainty: Percentage | None = asked("Uncertainty of the reference, expanded")
    earlier: Percentage | None = asked("Scatter within earlier visits")
    earlier_freedom: Count | None = asked("Degrees of freedom of it")


def _risk(given: RiskGiven) -> list[Result]:
    if given.error is None or not given.runs or not given.limit:
        return []
    squares, freedom = 0.0, 0
    if given.deviation and given.runs > 1:
        freedom = given.runs - 1
        squares = freedom * given.deviation.si**2
    if given.earlier and given.earlier_freedom and given.earlier_freedom >= LEAST_FREEDOM:
        squares, freedom = squares + given.earlier_freedom * given.earlier.si**2, freedom + given.earlier_freedom
    own = math.sqrt(squares / freedom / given.runs) if freedom else 0.0
    reference = given.reference_uncertainty.si / 2 if given.reference_uncertainty else 0.0
    uncertainty = math.hypot(own, reference)
    if uncertainty <= 0:
        return [Result("Nothing can be said", "type how the runs scatter", "or the uncertainty of the reference")]
    nu = freedom * (uncertainty / own) ** 4 if own else math.inf
    found = risks(Believed(given.error.si, uncertainty, nu), given.limit.si, 1 / (1 + given.error.si))
    how = f"t with {nu:.3g} degrees of freedom" if nu < AS_GOOD_AS_NORMAL else "a normal distribution"
    about = f"{percent_shown(given.error.si, sign=True)} ± {percent_shown(uncertainty)} standard, {how}"
    return [
        Result("Left as it is, outside the limit", percent_shown(found.if_left, decimals=1), about),
        Result(
            "With the new figure, outside",
            percent_shown(found.if_adjusted, decimals=1),
            "the same, moved by the whole error",
        ),
        Result(
            "Right now, and outside after touching it",
            percent_shown(found.of_touching, decimals=1),
            "inside now and outside then",
        ),
    ]


SUMS = (Sum("risk", "What would I risk?", "Deciding", RiskGiven, _risk),)
