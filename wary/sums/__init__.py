"""Sums: quick answers without a job, by family."""

from wary.sums import filling, load_cells, loads, metering, other_units, risking, vehicles, vessels
from wary.sums.sum import Sum

SUMS: dict[str, Sum] = {
    one.key: one
    for family in (loads, risking, load_cells, vessels, vehicles, filling, metering, other_units)
    for one in family.SUMS
}
"""Every sum by its key, in the order in which they stand on the page."""
