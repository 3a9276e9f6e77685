"""Whole loads of a cart, a loader or a lorry against certified tickets.

What a ticket says of a whole load is the independent proof of a scale that rides on a vehicle. A
straight line through the loads tells an error of the zero from one of the factor.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from wary import drawings
from wary.acts import LOADS, SETTLE, UNLOAD, Act
from wary.fields import Count, Density, Flag, Limit, Mass, MassOrShare, Percentage, PositiveVolume, Run, field, plate
from wary.methods.cells.record import TARES_STALE
from wary.methods.method import NO_LIMITS, Seen, Setting
from wary.methods.shared.cautions import CART_STANDS, OWN_RULES
from wary.methods.shared.comparison import ComparisonMethod, compare, factor_check, reference_plan
from wary.methods.shared.results import ComparisonResults
from wary.methods.shared.stages import ComparisonInputs, Stage, read_stage
from wary.methods.steps import Adjust, Close, Enter, Item, Look, Plan, Tally
from wary.quantities import Quantity, mass_shown, percent_shown
from wary.results import Figure, figure, in_unit
from wary.rules.assessment import FIND_FAULT, KEEP_TESTING, Assessment, Check, Reason
from wary.rules.call import Question, Rule, Verdict, with_rule
from wary.rules.evidence import NORMAL_95, Evidence, student
from wary.suspects import looks
from wary.suspects.suspect import keys

LEAST_FOR_A_LINE = 4
LEAST_RANGE = 0.25
"""A line is drawn through so many runs or more that range over this share of their mean."""

WHERE_TO_LOOK = (
    "The zero: was it empty and at zero before each load, and is nothing caked in it?",
    "Standing still: was the load recorded before anything moved, on level ground?",
    "The ticket: the right lorry, its tare of the same day, the unit.",
    "Passes: each counted once, none left out.",
    "The cells and their mounts: nothing rubs, none carries less than it should.",
)


@dataclass(slots=True, eq=False)
class LoadResults(ComparisonResults):
    """Results of loads against tickets."""

    intercept: Figure | None = figure("intercept", "mass", summary=True, signed=True)
    intercept_low: Figure | None = figure("intercept, from", "mass", signed=True)
    intercept_high: Figure | None = figure("intercept, to", "mass", signed=True)


class Load(Run):
    """One load: what its ticket says, and what was indicated, at once or in passes that add up."""

    passes: list[Mass] | None = field("Passes that add up")
    hitch: MassOrShare | None = field("On the hitch", "of this load, as a mass or in per cent")
    volume: PositiveVolume | None = field("Volume shown", "where the display counts bushels or hectolitres")
    loads: Count | None = field("Loads that this is the mean of")

    @classmethod
    def contradicting(cls, raw: Mapping[str, Any]) -> list[tuple[str, str]]:
        found = super().contradicting(raw)
        twice = next((key for key in ("indicated", "total_start", "total_end") if raw.get(key) is not None), None)
        if raw.get("passes") is not None and twice:
            text = (
                f"stands beside “{twice}” in the same run; expected passes that add up, or what was indicated, not both"
            )
            found.append(("passes", text))
        return found

    def readings_shown(self) -> tuple[Quantity, ...]:
        return tuple(self.passes) if self.passes else super().readings_shown()

    @property
    def stands_for(self) -> int:
        return self.loads or 1


class LoadInputs(ComparisonInputs):
    """Inputs of a load comparison, beside those of every comparison."""

    runs: list[Load] | None = field("Loads")  # type: ignore[assignment]
    as_left: list[Load] | None = field("Loads after the adjustment")  # type: ignore[assignment]
    stood_still: Flag | None = field("It stood still until each load was recorded")
    zero_checked: Flag | None = field("Empty and at zero before each load")
    test_weight: Density | None = plate("Test weight", "a bushel or a hectolitre weighs so much")
    full_volume: PositiveVolume | None = plate("Volume when full")
    hitch_share: Percentage | None = field("Share of the load on the hitch")
    hitch_low: Percentage | None = plate("Least share on the hitch")
    hitch_high: Percentage | None = plate("Greatest share on the hitch")


@dataclass(frozen=True)
class Fitted:
    """A straight line of indicated on reference: slope, and where it meets zero with its 95 % half-width, in kg."""

    slope: float
    intercept: float
    half: float

    @property
    def off_zero(self) -> bool:
        """Whether its band leaves zero out."""
        return abs(self.intercept) > self.half


def fitted(evidence: Evidence) -> Fitted | None:
    """The line by least squares; None with too few runs, or with loads that are too much alike.

    The half-width is the larger of `t(n−2)·se` and `1.96·u₁·√(1/n + R̄²/Σ(R−R̄)²)`, `u₁` being the
    standard uncertainty that the displays leave in one run, in the mean of the squares.
    """
    count = evidence.count
    if count < LEAST_FOR_A_LINE or not evidence.usable():
        return None
    weighed = [pair.reference for pair in evidence.pairs]
    shows = [pair.indicated for pair in evidence.pairs]
    mean_r, mean_i = math.fsum(weighed) / count, math.fsum(shows) / count
    if max(weighed) - min(weighed) < LEAST_RANGE * mean_r * (1 - 1e-9):
        return None
    across = math.fsum((r - mean_r) * (r - mean_r) for r in weighed)
    slope = math.fsum((r - mean_r) * (i - mean_i) for r, i in zip(weighed, shows, strict=True)) / across
    intercept = mean_i - slope * mean_r
    left = math.fsum((i - intercept - slope * r) ** 2 for r, i in zip(weighed, shows, strict=True))
    lever = math.sqrt(1 / count + mean_r * mean_r / across)
    scatter = student(count - 2) * math.sqrt(left / (count - 2)) * lever
    displays = math.sqrt(math.fsum(p.u_reference**2 + p.u_indicated**2 for p in evidence.pairs) / count)
    return Fitted(slope, intercept, max(scatter, NORMAL_95 * displays * lever))


def _averages(ask: Question) -> Verdict | None:
    """Means of several loads say nothing of how loads range; the method's own checks come before that."""
    if not ask.evidence.pairs or not all(pair.loads > 1 for pair in ask.evidence.pairs):
        return None
    if ask.failed:
        return Verdict(FIND_FAULT, list(ask.failed))
    count = sum(pair.loads for pair in ask.evidence.pairs)
    text = f"{count} loads are given as their mean: how they range is unknown. Type the loads one by one."
    return Verdict(KEEP_TESTING, [Reason("spread-unknown", text)])


def _zero_fault(ask: Question) -> Verdict | None:
    """An error that is the same at every load is one of zero or of holding still, and no factor cures it."""
    line, accept = fitted(ask.evidence), ask.profile.accept
    if line is None or accept is None or not line.off_zero:
        return None
    if abs(line.intercept) <= accept_mass(accept, ask.evidence) * (1 + 1e-9):
        return None
    way = "too much" if line.intercept > 0 else "too little"
    text = (
        f"Whatever the load, it shows about {mass_shown(abs(line.intercept), ask.unit, 3)} {way} "
        f"(± {mass_shown(line.half, ask.unit, 3)}): that is the zero, or it did not stand still. No factor cures it."
    )
    return Verdict(FIND_FAULT, [Reason("intercept", text)])


def accept_mass(accept: Limit, evidence: Evidence) -> float:
    """The accept limit at the mean reference, in kg."""
    mean = evidence.reference_sum / evidence.count
    return accept.relative_at(mean) * mean


class LoadComparison(ComparisonMethod[LoadInputs, LoadResults]):
    """`load-comparison`: whole loads against tickets; the zero's error told from the factor's."""

    key = "load-comparison"
    title = "Loads against tickets"
    summary = "Whole loads, weighed again on a certified scale"
    subject = "The loads"
    profile = "load-cart"
    also_profiles = ("axle", "lift-arm")
    inputs = LoadInputs
    results = LoadResults
    confirms = True
    makes_stale = (TARES_STALE,)
    rules = with_rule(
        Rule("spread-unknown", _averages), "too-few-runs", with_rule(Rule("intercept", _zero_fault), "outside-limit")
    )
    acts = {
        "runs.indicated": (UNLOAD, SETTLE, Act("load", shares=LOADS), Act("raise"), SETTLE),
        "runs.reference": (Act("tip"), Act("weigh")),
        "runs.gross": (),
        "runs.tare": (),
    }
    change = (Act("key", "new_factor"),)
    read_again = "as_left"
    steps = (
        Look(
            "look",
            "Look first",
            "Which cart or machine, and what is hitched to it.",
            items=(
                Item("free", "Nothing rubs or rests on the frame; nothing caked in it", looks=keys(looks.GAP, looks.CAKED)),
                Item("level", "Level ground, tyres as usual, hitched as usual", looks=keys(looks.LEVEL)),
                Item("cells", "Cells and mounts sound, cables whole", looks=keys(looks.MOUNTS)),
                Item("adding", "Automatic adding of loads off", "Automatic adding is off: put it back on."),
            ),
            cautions=(CART_STANDS, OWN_RULES),
        ),
        Enter("plates", "Read off", "What the instrument is set to now, before anything is changed.", fields=("factor", "factor_decimals", "direction", "nominal_factor", "indicated_division")),
        Enter("habits", "How it is loaded", "Empty at zero before each load; still until it is recorded. Over the axle first, then the rear, then the front.", fields=("zero_checked", "stood_still", "test_weight", "full_volume", "hitch_share", "hitch_low", "hitch_high")),
        Plan("amount", "How much to weigh", "What this ticket can show, and what to arrange. Loads of different size tell the zero from the factor.", fields=("reference_division", "reference_readings", "reference_uncertainty")),
        Tally("as-found", "As found", "Whole loads, each with its ticket.", list="runs", cautions=(CART_STANDS,)),
        Adjust("adjust", "Adjust", "Key in the figure, then read back what the instrument shows."),
        Tally("as-left", "As left", "More loads, with the new figure.", list="as_left", stage="left", cautions=(CART_STANDS,)),
        Close("close", "Close", "Put back what was changed, then write it up."),
    )  # fmt: skip

    def assess(self, given: LoadInputs, setting: Setting) -> Assessment[LoadResults]:
        def looks(stage: Stage, smallest: float | None) -> tuple[list[Check], list[Reason]]:
            return [
                *_habits(given),
                *_hitch(given),
                *_hitches(given, stage),
                *_volumes(given, stage),
                *_mixed(stage),
                *factor_check(given),
            ], []

        answer = compare(self, given, setting, looks, WHERE_TO_LOOK)
        _tell_line(answer.results, read_stage("as_left" if given.as_left else "runs", given, setting, None))
        if answer.as_found:
            _tell_line(answer.as_found.results, read_stage("runs", given, setting, None))
        answer.plan = reference_plan(given, setting, answer)
        return answer

    def draw(self, given: LoadInputs, seen: Seen) -> drawings.Fit:
        """Indicated against reference, with the line through the loads of the stage in hand."""
        name = "as_left" if given.as_left else "runs"
        stage = read_stage(name, given, NO_LIMITS, None)
        line = fitted(stage.evidence)
        points = [
            drawings.FitMark(reference=pair.reference, indicated=pair.indicated, text=str(pair.index + 1))
            for pair in stage.evidence.pairs
        ]
        largest = max((pair.reference for pair in stage.evidence.pairs), default=None)
        return drawings.Fit(
            points=tuple(points),
            slope=line.slope if line else None,
            intercept=drawings.Figure(size=line.intercept, text=mass_shown(line.intercept, stage.unit, 3)) if line else None,
            low=line.intercept - line.half if line else None,
            high=line.intercept + line.half if line else None,
            to_text=mass_shown(largest, stage.unit, 4) if largest else "",
        )  # fmt: skip


def _habits(given: LoadInputs) -> list[Check]:
    checks = []
    for code, said, good, bad in (
        (
            "stood-still",
            given.stood_still,
            "It stood still until each load was recorded.",
            "It moved off before a load was recorded: what it showed then is not what was in it.",
        ),
        (
            "zero-checked",
            given.zero_checked,
            "It was empty and at zero before each load.",
            "It was not empty and at zero at the start: every load carries that with it.",
        ),
    ):
        if said is not None:
            checks.append(Check(code, "pass" if said else "fail", good if said else bad))
    return checks  # fmt: skip


def _hitch(given: LoadInputs) -> list[Check]:
    share, low, high = given.hitch_share, given.hitch_low, given.hitch_high
    if share is None or (low is None and high is None):
        return []
    outside = (low is not None and share.si < low.si * (1 - 1e-9)) or (
        high is not None and share.si > high.si * (1 + 1e-9)
    )
    band = " to ".join(percent_shown(end.si, decimals=0) for end in (low, high) if end)
    text = f"{percent_shown(share.si, decimals=0)} of the load is on the hitch; {band} is wanted."
    if outside:
        text += " Fill over the axle first, then the rear, then the front."
    return [Check("hitch-share", "note" if outside else "pass", text)]  # fmt: skip


def _hitches(given: LoadInputs, stage: Stage) -> list[Check]:
    """The share on the hitch, load by load."""
    checks = []
    for place, run in enumerate(stage.runs):
        if not isinstance(run, Load) or run.hitch is None:
            continue
        shown = run.readings_shown()
        whole = math.fsum(one.si for one in shown) if shown else 0.0
        if run.hitch.family == "mass" and whole <= 0:
            continue
        share = run.hitch.si / whole if run.hitch.family == "mass" else run.hitch.si
        low, high = given.hitch_low, given.hitch_high
        outside = (low is not None and share < low.si * (1 - 1e-9)) or (
            high is not None and share > high.si * (1 + 1e-9)
        )
        text = f"Load {place + 1}: {percent_shown(share, decimals=0)} of it on the hitch."
        checks.append(Check("hitch-share", "note" if outside else "pass", text))
    return checks


def _volumes(given: LoadInputs, stage: Stage) -> list[Check]:
    """Volumes beside masses: what a bushel or a hectolitre of this weighs, and how full it was."""
    checks = []
    for place, run in enumerate(stage.runs):
        if not isinstance(run, Load) or run.volume is None:
            continue
        said = []
        if given.test_weight:
            weighs = run.volume.si * given.test_weight.si
            unit = given.test_weight.unit.partition("/")[0]
            said.append(f"{run.volume.text} of {given.test_weight.text} are {mass_shown(weighs, unit, 5)}")
        if given.full_volume:
            said.append(f"{percent_shown(run.volume.si / given.full_volume.si, decimals=0)} full")
        if not given.test_weight:
            text = f"Load {place + 1}: {run.volume.text}, and no test weight: type what one {run.volume.unit} weighs, to see it as a mass."
            checks.append(Check("volume", "note", text))
        elif said:
            checks.append(Check("volume", "pass", f"Load {place + 1}: {', '.join(said)}."))
    return checks


def _mixed(stage: Stage) -> list[Check]:
    means = [pair.index + 1 for pair in stage.evidence.pairs if pair.loads > 1]
    if not means or len(means) == stage.evidence.count:
        return []
    which = ", ".join(map(str, means))
    return [Check("averages", "note", f"Run {which} is the mean of several loads, and counts here as one.")]


def _tell_line(results: LoadResults, stage: Stage) -> None:
    line = fitted(stage.evidence)
    if line is None:
        return
    results.intercept = in_unit(line.intercept, stage.unit)
    results.intercept_low = in_unit(line.intercept - line.half, stage.unit)
    results.intercept_high = in_unit(line.intercept + line.half, stage.unit)


METHOD = LoadComparison()
