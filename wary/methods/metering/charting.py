"""A rate chart: turns by setting, mass for one turn, and what each setting gives at each speed. SI throughout."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary.drawings import RateZone
from wary.fields import at_most

SATURATED = 1.03
"""A setting that turns less than this much quicker than the one before: the drive is at its end."""
FALLS = 0.97


@dataclass(frozen=True)
class Turned:
    """One setting: its number, and its turns a minute."""

    setting: float
    rpm: float


@dataclass(frozen=True)
class Tried:
    """A gate that was tried: its opening in m, and kg for one turn."""

    opening: float
    per_turn: float


@dataclass(frozen=True)
class Chart:
    """Settings by speeds (m/s), kg for one turn, and the target in kg/m of one lane."""

    turned: tuple[Turned, ...]
    speeds: tuple[float, ...]
    per_turn: float
    lanes: float
    low: float
    high: float

    def given(self, turned: Turned, speed: float) -> float:
        """`discharge × 60/(speed per hour)/lanes`: kg/m of one lane."""
        return turned.rpm / 60 * self.per_turn / speed / self.lanes

    @property
    def table(self) -> list[list[float]]:
        return [[self.given(turned, speed) for speed in self.speeds] for turned in self.turned]

    def zone(self, amount: float) -> RateZone:
        if not at_most(self.low, amount):
            return "below"
        return "inside" if at_most(amount, self.high) else "above"

    @property
    def middle(self) -> float:
        return (self.low + self.high) / 2

    def recommended(self) -> list[tuple[int, int]]:
        """The cells inside the target, by their places, nearest its middle first; of equals the lower setting."""
        inside = [
            (round(abs(amount - self.middle), 15), self.turned[row].setting, row, column)
            for row, amounts in enumerate(self.table)
            for column, amount in enumerate(amounts)
            if self.zone(amount) == "inside"
        ]
        return [(row, column) for _, _, row, column in sorted(inside)]

    def falling(self) -> Turned | None:
        """The first setting that turns more slowly than the one before, by more than 3 %; None where none does."""
        rising = sorted(self.turned, key=lambda one: one.setting)
        return next((b for a, b in zip(rising, rising[1:], strict=False) if b.rpm < a.rpm * FALLS * (1 - 1e-9)), None)

    def saturated_from(self) -> Turned | None:
        """The first setting at which the drive is at its end; None where it follows to the last."""
        rising = sorted(self.turned, key=lambda one: one.setting)
        return next(
            (b for a, b in zip(rising, rising[1:], strict=False) if b.rpm < a.rpm * SATURATED * (1 - 1e-9)), None
        )

    def place(self, setting: float | None, speed: float | None) -> tuple[int, int] | None:
        """The places of a setting and a speed in the table; None where it is not among them."""
        rows = [at for at, one in enumerate(self.turned) if setting is not None and math.isclose(one.setting, setting)]
        columns = [
            at for at, one in enumerate(self.speeds) if speed is not None and math.isclose(one, speed, rel_tol=1e-9)
        ]
        return (rows[0], columns[0]) if rows and columns else None

    def reference_cell(self, working: tuple[int, int] | None) -> tuple[int, int]:
        """The cell from which a gate is suggested: the working one, or the lowest setting at the middle speed."""
        if working:
            return working
        row = min(range(len(self.turned)), key=lambda at: self.turned[at].setting)
        by_speed = sorted(range(len(self.speeds)), key=lambda at: self.speeds[at])
        return row, by_speed[(len(by_speed) - 1) // 2]


def suggested_gate(now: Tried, amount: float, middle: float, earlier: Sequence[Tried]) -> tuple[float, bool]:
    """The opening that gives the middle of the target, in m, and whether a straight line gave it.

    In proportion from this gate; with a gate tried before, on the straight line through the two,
    since an opening rarely flows in proportion.
    """
    wanted = now.per_turn * middle / amount
    if earlier:
        other = earlier[-1]
        if not math.isclose(other.per_turn, now.per_turn, rel_tol=1e-9) and not math.isclose(
            other.opening, now.opening, rel_tol=1e-9
        ):
            slope = (now.opening - other.opening) / (now.per_turn - other.per_turn)
            gate = other.opening + (wanted - other.per_turn) * slope
            if gate > 0:
                return gate, True
    return now.opening * middle / amount, False


def half_turns(turns: float) -> float:
    """Up to a half turn."""
    return math.ceil(turns * 2 * (1 - 1e-9)) / 2
