"""Results that several methods have in common: those with a new factor, and those of a comparison of runs."""

import math
from dataclasses import dataclass

from wary.results import Figure, Results, YesNo, figure, value_of


@dataclass(slots=True, eq=False)
class FactorResults(Results):
    """What methods that may ask for a new factor have in common."""

    percent_change: Figure | None = figure("change", "percentage", signed=True)
    new_factor: Figure | None = figure("new factor")


def new_factor_of(results: Results) -> float | None:
    """The new factor that a method worked out; None where there is none."""
    return value_of(results.new_factor) if isinstance(results, FactorResults) else None


@dataclass(slots=True, eq=False)
class RunResults(Results):
    """One run as it was, and as it would have read with the factor to key in."""

    in_set: YesNo = figure("in the set")
    reference: Figure | None = figure("reference", "mass")
    indicated: Figure | None = figure("indicated", "mass")
    error: Figure | None = figure("error", "percentage", signed=True)
    predicted_error: Figure | None = figure("error with the figure to key in", "percentage", signed=True)


@dataclass(slots=True, eq=False)
class ComparisonResults(FactorResults):
    """What runs against a reference come to."""

    runs_in_set: Figure | None = figure("runs in the set", "integer")
    minimum_runs: Figure | None = figure("runs wanted at least", "integer")
    smallest_amount: Figure | None = figure("smallest amount", "mass")
    pooled_ratio: Figure | None = figure("weighed over indicated, pooled", digits=6)
    mean_of_ratios: Figure | None = figure("weighed over indicated, mean", digits=6)
    mean_error: Figure | None = figure("mean error", "percentage", signed=True, summary=True)
    spread: Figure | None = figure("spread", "percentage")
    standard_deviation: Figure | None = figure("standard deviation", "percentage")
    mean_error_mass: Figure | None = figure("mean error", "mass", signed=True)
    expanded_uncertainty: Figure | None = figure("expanded uncertainty", "percentage")
    risk_if_left: Figure | None = figure("chance of being outside, left as it is", "percentage", decimals=0)
    risk_if_adjusted: Figure | None = figure("chance of being outside with the new figure", "percentage", decimals=0)
    risk_of_touching: Figure | None = figure("chance that touching puts it outside", "percentage", decimals=0)
    coverage_factor: Figure | None = figure("coverage factor", digits=3)
    runs_needed: Figure | None = figure("runs needed", "integer")
    predicted_error: Figure | None = figure("mean error with the figure to key in", "percentage", signed=True)
    runs: list[RunResults] | None = figure("runs")

    def is_finite(self) -> bool:
        """Whether every figure of the runs can be used: a sum with one that cannot is none either."""
        total = 0.0
        for row in self.runs or []:
            for one in (row.reference, row.indicated, row.error, row.predicted_error):
                if one is not None:
                    total += one.value
        return math.isfinite(total)
