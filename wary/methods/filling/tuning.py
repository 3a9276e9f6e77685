"""Which cut-off of a filling machine to move, and by how much: the rules of tuning, in kg and s.

Fast, medium and fine are what each stage ends before the target; fine is what is still in the air
when the gate shuts. Fills that scatter are the work of the stage before fine; fills that are beside
the target every time are the work of fine.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from wary.fields import at_most
from wary.quantities import round_half_up
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, Call

LEAST_FILLS = 3
RESTLESS = 6
FINE_SHORT, FINE_SEEN, FINE_LONG = 0.8, 1.0, 1.5
"""The fine stage should be seen for about a second, in s."""
UNSEEN = 0.2
"""A fine stage shorter than this, in s, was not seen: the pack was full before it began."""
MOVED_DIVISIONS, LEAST_ANSWER, MOST_ANSWER = 3, 0.5, 3.0
"""A move of fine by so many divisions says how the mean answers it, where it answers by between these."""
NOTHING = 1e-9
"""Less than this share of the target is what floating point makes of nothing."""

Stage = Literal["fast", "medium", "fine"]
Why = Literal[
    "tuned",
    "restless",
    "scattered",
    "scattered-light",
    "not-fine",
    "beside",
    "before-fine",
    "not-seen",
    "below-nothing",
    "beyond-target",
    "below-division",
]
"""Why something is moved, or nothing is."""
STAGES: tuple[Stage, ...] = ("fast", "medium", "fine")


@dataclass(frozen=True)
class Pack:
    """What is filled: its target, its tolerances, the division, the spread that is too much, and the most that fine usually is."""

    target: float
    over: float
    under: float
    division: float
    erratic: float
    fine_high: float | None = None

    def nearest(self, mass: float) -> float:
        """The nearest whole division."""
        return round_half_up(mass / self.division, 0) * self.division

    def up(self, mass: float) -> float:
        """The next whole division at or above, at most the target."""
        return min(math.ceil(mass / self.division - 1e-9) * self.division, self.target)

    def within(self, error: float) -> bool:
        """Whether a fill that is so far off is within tolerance."""
        return at_most(-self.under, error) and at_most(error, self.over)

    def centred(self, mean: float) -> bool:
        """Whether a mean error lies within half of the tolerance."""
        return at_most(-self.under / 2, mean) and at_most(mean, self.over / 2)


@dataclass(frozen=True)
class CutOffs:
    """The settings of one trial: how much before the target each stage ends."""

    fast: float
    medium: float
    fine: float

    def at(self, stage: Stage) -> float:
        """The cut-off of a stage."""
        return self.fast if stage == "fast" else self.medium if stage == "medium" else self.fine

    def ordered(self, target: float) -> bool:
        """`target ≥ fast ≥ medium ≥ fine ≥ 0`."""
        steps = (target, self.fast, self.medium, self.fine, 0.0)
        return all(at_most(low, high) for high, low in zip(steps, steps[1:], strict=False))

    def moved_since(self, before: "CutOffs") -> tuple[Stage, ...]:
        """The stages whose cut-off is another than before."""
        return tuple(s for s in STAGES if not math.isclose(self.at(s), before.at(s), rel_tol=1e-9, abs_tol=1e-12))  # fmt: skip


@dataclass(frozen=True)
class Trial:
    """Fills made at one setting: by how much each in the set was off the target, and the times of the fine stage."""

    cut_offs: CutOffs
    errors: tuple[float, ...]
    times: tuple[float, ...] = ()

    @property
    def mean(self) -> float:
        return math.fsum(self.errors) / len(self.errors)

    @property
    def spread(self) -> float:
        return max(self.errors) - min(self.errors) if self.errors else 0.0

    @property
    def fine_time(self) -> float | None:
        return math.fsum(self.times) / len(self.times) if self.times else None


@dataclass(frozen=True)
class Decision:
    """What to do: the call, why (a code), and the settings to go on with, equal to the present ones where nothing moves."""

    call: Call
    why: Why
    cut_offs: CutOffs

    def moved(self, present: CutOffs) -> tuple[Stage, ...]:
        """Which of medium and fine it moves; fast only ever moves out of the way."""
        return tuple(stage for stage in self.cut_offs.moved_since(present) if stage != "fast")


def snapped(mean: float, pack: Pack) -> float:
    """A mean error without what floating point left of nothing."""
    return 0.0 if abs(mean) < NOTHING * pack.target else mean


def erratic_in_a_row(trials: Sequence[Trial], pack: Pack) -> int:
    """How many trials up to the last scatter by more than is let pass."""
    count = 0
    for trial in reversed(trials):
        if at_most(trial.spread, pack.erratic):
            break
        count += 1
    return count


def decide(trials: Sequence[Trial], pack: Pack) -> Decision:
    """The rules of tuning over the trials, the last of which is judged. It has three fills at least, and its order is right."""
    last = trials[-1]
    present = last.cut_offs
    mean, spread = snapped(last.mean, pack), last.spread
    quiet = at_most(spread, pack.erratic)
    if quiet and all(pack.within(error) for error in last.errors[-LEAST_FILLS:]) and pack.centred(mean):
        return Decision(LEAVE, "tuned", _seen(last, pack))
    row = erratic_in_a_row(trials, pack)
    if row >= RESTLESS:
        return Decision(FIND_FAULT, "restless", present)
    if not quiet:
        return _scattered(present, mean, row * spread / 2, pack)
    if mean > 0 and len(trials) > 1 and _fine_is_not_it(trials[-2], last, pack):
        return _medium_up(present, mean + spread / 2, pack, "not-fine")
    if mean > 0 and _before_fine(last, mean, pack):
        return _medium_up(present, mean + spread / 2, pack, "before-fine")
    if mean < 0 and last.fine_time is not None and last.fine_time < UNSEEN and pack.target > present.medium:
        seen = _seen(last, pack)
        if seen.moved_since(present):
            return Decision(ADJUST, "not-seen", seen)
    return _beside(present, mean / abs(answer_of(trials, pack) or 1.0), pack)


def may_probe(trial: Trial, pack: Pack) -> bool:
    """Whether one fill or two are enough: all of them off the target on one side by more than the whole tolerance."""
    far = pack.over + pack.under
    return bool(trial.errors) and (min(trial.errors) > far * (1 + 1e-9) or max(trial.errors) < -far * (1 + 1e-9))


def _before_fine(last: Trial, mean: float, pack: Pack) -> bool:
    """Whether heavy fills that agree are the work of the stage before fine: fine was not seen, or could not be so large."""
    wanted = last.cut_offs.fine + mean
    unseen = last.fine_time is not None and last.fine_time < UNSEEN
    beyond = wanted > last.cut_offs.medium * (1 + 1e-9)
    unusual = pack.fine_high is not None and not at_most(wanted, pack.fine_high)
    return unseen or beyond or unusual


def answer_of(trials: Sequence[Trial], pack: Pack) -> float | None:
    """How the mean answered the last move of fine alone, about −1 in health; None where that says nothing of the next."""
    if len(trials) < 2:
        return None
    before, last = trials[-2], trials[-1]
    answered = sensitivity(before, last)
    moved = abs(last.cut_offs.fine - before.cut_offs.fine)
    if answered is None or not at_most(MOVED_DIVISIONS * pack.division, moved):
        return None
    return answered if -MOST_ANSWER * (1 + 1e-9) <= answered <= -LEAST_ANSWER * (1 - 1e-9) else None


def back_to(trials: Sequence[Trial], cut_offs: CutOffs, pack: Pack) -> int | None:
    """The place of an earlier trial with these settings that was in tolerance; None where there is none."""
    for place, trial in enumerate(trials[:-1]):
        if trial.errors and not trial.cut_offs.moved_since(cut_offs) and all(pack.within(one) for one in trial.errors):
            return place
    return None


def _scattered(present: CutOffs, mean: float, room: float, pack: Pack) -> Decision:
    if mean > 0:
        return _medium_up(present, mean + room, pack, "scattered")
    if present.fine + mean <= NOTHING * pack.target:
        return Decision(FIND_FAULT, "below-nothing", present)
    return _medium_up(present, room, pack, "scattered-light", pack.nearest(present.fine + mean))


def _medium_up(present: CutOffs, by: float, pack: Pack, why: Why, fine: float | None = None) -> Decision:
    medium = pack.up(present.medium + by)
    fine = present.fine if fine is None else fine
    cut_offs = CutOffs(max(present.fast, medium), medium, fine)
    if not cut_offs.moved_since(present):
        # The whole pack is filled by fine already: there is nothing left to move.
        return Decision(FIND_FAULT, "restless", present)
    return Decision(ADJUST, why, cut_offs)


def _fine_is_not_it(before: Trial, last: Trial, pack: Pack) -> bool:
    """Whether fine alone was moved, by half of the tolerance or more, and the mean hardly followed."""
    if not before.errors or last.cut_offs.moved_since(before.cut_offs) != ("fine",):
        return False
    moved = abs(last.cut_offs.fine - before.cut_offs.fine)
    followed = abs(last.mean - before.mean)
    return at_most((pack.over + pack.under) / 2, moved) and followed < moved / 2 * (1 - 1e-9)


def _beside(present: CutOffs, mean: float, pack: Pack) -> Decision:
    if present.fine + mean < -NOTHING * pack.target:
        return Decision(FIND_FAULT, "below-nothing", present)
    fine = pack.nearest(present.fine + mean)
    if fine > pack.target:
        return Decision(FIND_FAULT, "beyond-target", present)
    medium = present.medium
    if fine > medium * (1 + 1e-9):
        medium = min(fine + present.medium - present.fine, pack.target)
    cut_offs = CutOffs(max(present.fast, medium), medium, fine)
    if not cut_offs.moved_since(present):
        return Decision(KEEP_TESTING, "below-division", present)
    return Decision(ADJUST, "beside", cut_offs)


def _seen(trial: Trial, pack: Pack) -> CutOffs:
    """The settings with medium moved so that the fine stage is seen for about a second."""
    present, time = trial.cut_offs, trial.fine_time
    room = present.medium - present.fine
    by = 0.0
    if time is not None and time < FINE_SHORT * (1 - 1e-9):
        by = min((FINE_SEEN - time) * room / time, room / 4) if time > 0 else max(pack.erratic, room / 4)
    elif time is not None and not at_most(time, FINE_LONG):
        by = -min((time - FINE_SEEN) * room / time, room / 4)
    if not by:
        return present
    medium = max(min(pack.nearest(present.medium + by), pack.target), present.fine)
    return replace(present, medium=medium, fast=max(present.fast, medium))


def sensitivity(before: Trial, last: Trial) -> float | None:
    """Change of the mean error for a change of fine, about −1 in health; None unless fine alone was moved."""
    if not before.errors or not last.errors or last.cut_offs.moved_since(before.cut_offs) != ("fine",):
        return None
    return (last.mean - before.mean) / (last.cut_offs.fine - before.cut_offs.fine)


def deviation(figures: Sequence[float]) -> float | None:
    """The sample standard deviation; None below two."""
    if len(figures) < 2:
        return None
    mean = math.fsum(figures) / len(figures)
    return math.sqrt(math.fsum((one - mean) ** 2 for one in figures) / (len(figures) - 1))


def another_size(target: float, fast: float, medium: float, bulk_limit: float | None) -> float:
    """The fast cut-off of another size on the same machine and product, in kg.

    Medium and fine stay, since flows and heights do. Below the bulk limit fast is never used: it
    stands at the target.
    """
    if bulk_limit is not None and target < bulk_limit:
        return target
    return min(max(fast, medium), target)


def tune(first: CutOffs, pack: Pack, fill: Callable[[CutOffs], Trial], most: int = 20) -> list[Decision]:
    """Tunes as the rules say until they leave it or find a fault: the decision after each trial."""
    decisions: list[Decision] = []
    trials: list[Trial] = []
    present = first
    while len(trials) < most:
        trials.append(fill(present))
        decisions.append(decide(trials, pack))
        if decisions[-1].call in (LEAVE, FIND_FAULT):
            break
        present = decisions[-1].cut_offs
    return decisions
