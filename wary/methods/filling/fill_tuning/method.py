"""Tuning a filling machine: which cut-off to move, and by how much, from trials of several fills each.

Scattered fills are the work of the stage before fine, fills beside the target every time that of
fine: to tell the two apart is the whole skill.
"""

import math
from dataclasses import dataclass

from wary.acts import SETTLE, Act
from wary.fields import (
    Flag,
    Inputs,
    Limit,
    Mass,
    MassFromZero,
    PositiveMass,
    TimeFromZero,
    WhyAside,
    Words,
    field,
    plate,
)
from wary.methods.filling.filler import CAUTIONS, tolerance_of_target
from wary.methods.filling.tuning import (
    STAGES,
    Stage,
)
from wary.methods.method import Errors, HandsBack, Method, RowsFrom
from wary.methods.reads import Reads
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, Stopwatch, remark, typed
from wary.quantities import Quantity
from wary.results import Figure, Results, Word, figure
from wary.rules.assessment import (
    LEAVE,
    Assessment,
)
from wary.suspects import looks
from wary.suspects.suspect import keys


@dataclass(slots=True, eq=False)
class FillTuningResults(Results):
    """Results of a tuning of cut-offs."""

    mean_error_mass: Figure | None = figure("mean off the target", "mass", summary=True, signed=True)
    spread_mass: Figure | None = figure("spread", "mass", summary=True)
    standard_deviation_mass: Figure | None = figure("standard deviation", "mass")
    suggested_fast: Figure | None = figure("fast", "mass", large=True, where="three-speeds", begins="fast")
    suggested_medium: Figure | None = figure("medium", "mass", large=True, begins="medium")
    suggested_fine: Figure | None = figure("fine", "mass", large=True, begins="fine")
    setting_changed: Word | None = figure("setting to change")
    sensitivity: Figure | None = figure("how the fill follows the cut-off")
    bench_difference: Figure | None = figure("machine less bench", "mass", signed=True)
    fine_time_mean: Figure | None = figure("fine time, mean", "time")


class Fill(Inputs):
    """One fill: what it weighs, and how long the fine stage was seen."""

    weight: MassFromZero | None = field("Weight", ask="weigh the fill, and type what it weighs.")
    fine_time: TimeFromZero | None = field("Fine stage", "how long it ran; nothing where it was not seen")
    bench: MassFromZero | None = field("On the bench scale", "of one fill, to see whether the two scales agree")
    set_aside: WhyAside | None = field("Why it is set aside")


class TrialIn(Inputs):
    """Fills at one setting of the cut-offs, each so much before the target."""

    fast: Mass | None = field("Fast ends before", ask="read it off the machine, and type it.")
    medium: Mass | None = field("Medium ends before", ask="read it off the machine, and type it.")
    fine: Mass | None = field("Fine ends before", ask="read it off the machine, and type it.")
    fills: list[Fill] | None = field("Fills", ask="make three fills, and type what each weighs.")

    def at(self, stage: Stage) -> Quantity | None:
        """The cut-off of a stage."""
        return self.fast if stage == "fast" else self.medium if stage == "medium" else self.fine


class Usual(Inputs):
    """Where the cut-offs of this machine and product usually lie."""

    medium_low: MassFromZero | None = field("Medium, from")
    medium_high: MassFromZero | None = field("Medium, to")
    fine_low: MassFromZero | None = field("Fine, from")
    fine_high: MassFromZero | None = field("Fine, to")

    def band(self, stage: Stage) -> tuple[Quantity | None, Quantity | None]:
        """Where the cut-off of a stage usually lies, from and to."""
        return (self.medium_low, self.medium_high) if stage == "medium" else (self.fine_low, self.fine_high)


class FillTuningInputs(Inputs):
    """Inputs of tuning a filling machine."""

    recipe: Words | None = field("Recipe", "its number and name on the machine")
    target: PositiveMass | None = plate("Target")
    over: MassFromZero | None = plate("May be over by")
    under: MassFromZero | None = plate("May be under by")
    division: PositiveMass | None = plate("Division of the display")
    bench_division: PositiveMass | None = plate("Division of the bench scale")
    erratic: PositiveMass | None = field("Spread that is too much", "worked out from tolerance, division and target where nothing is said")  # fmt: skip
    two_speeds: Flag | None = field("It has two speeds", "then it has no fast stage of its own")
    usual: Usual | None = field("Usual cut-offs")
    trials: list[TrialIn] | None = field(
        "Trials", ask="Read the cut-offs off, type them as the first trial, and make three fills."
    )


FILLS = Rows(
    list="fills",
    name="Fill",
    empty="No fill yet: three at least at this setting.",
    columns=(
        typed("weight", "Weight"),
        remark("off", "Off"),
        typed("fine_time", "Fine stage"),
        typed("bench", "Bench"),
    ),
    typed=("fine_time", "weight", "bench"),
    ends=("weight",),
    tool=Stopwatch("fine stage", into="fine_time"),
)
TRIALS = Rows(
    list="trials",
    name="Trial",
    empty="No trial yet: the cut-offs as they are now are the first.",
    columns=(
        typed("fast", "Fast"),
        typed("medium", "Medium"),
        typed("fine", "Fine"),
        remark("switch", "Switches at"),
        remark("mean", "Mean off"),
        remark("spread", "Spread"),
        remark("is", "It is"),
    ),
    typed=("fast", "medium", "fine"),
    where={"fast": "three-speeds"},
    inner=FILLS,
    begins_with={"fast": "suggested_fast", "medium": "suggested_medium", "fine": "suggested_fine"},
)


def _mean_off(trial: TrialIn, target: Quantity | None) -> float | None:
    """How far the fills of a trial are off the target in the mean, in per cent of it."""
    weighed = [fill.weight.si for fill in trial.fills or [] if fill.weight and fill.set_aside is None]
    if target is None or not weighed:
        return None
    return (math.fsum(weighed) / len(weighed) / target.si - 1) * 100


class FillTuning(Method[FillTuningInputs, FillTuningResults]):
    """`fill-tuning`: the cut-off to move, from scatter and mean of the last trial."""

    key = "fill-tuning"
    title = "Tuning the cut-offs"
    summary = "Trials of three fills: which cut-off to move, and by how much"
    question = "Which cut-off is wrong, and by how much?"
    subject = "The cut-offs"
    half_done = "a cut-off was moved, and three fills do not show yet that it is right"
    profile = "filling"
    inputs = FillTuningInputs
    results = FillTuningResults
    compares = True
    trial = True
    confirms = True
    takes = {"recipe": "channel"}
    takes_rows = {"trials": RowsFrom("own_figures", {stage: stage for stage in STAGES})}
    remembers = ("over", "under", "erratic")
    against = ("target",)
    acts = {
        "trials.fast": (),
        "trials.medium": (),
        "trials.fine": (),
        "trials.fills.weight": (Act("cycle"), SETTLE, Act("weigh")),
        "trials.fills.fine_time": (),
    }
    reads = (Reads(looks.OWN_SCALE, "trials.fills.bench", ("bench",)),)
    steps = (
        Look(
            "look",
            "Look first",
            "What moves the figure under the hand is off while it is tuned.",
            items=(
                Item("product", "The right product, the hopper full, and it runs as usual", looks=keys(looks.HOPPER)),
                Item("clean", "Gates, nozzles and weigh hopper clean; nothing touches the hopper", looks=keys(looks.SHAKES, looks.GATES)),
                Item("recipe", "The recipe that is shown is this one"),
                Item("correction", "Automatic correction of what is in flight off", "Automatic correction is off: put it back on.", looks=keys(looks.CORRECTION)),
                Item("auto-zero", "Automatic zero off", "Automatic zero is off: put it back on."),
            ),
            cautions=CAUTIONS,
        ),
        Enter("pack", "The pack", "Target and tolerances of this recipe, and the machine's own division.", fields=("recipe", "target", "over", "under", "division", "bench_division", "erratic", "usual")),
        Listed("trials", "Trials", "One setting a trial, three fills at least. Then do what the call says, and try again.", rows=TRIALS, cautions=(CAUTIONS[0],)),
        Figures("settings", "What to set", where={"suggested_fast": "three-speeds"}),
        Close("close", "Close", "Automatic correction and zero back on, then write it up."),
    )  # fmt: skip

    def asks_for_change(self, answer: Assessment[FillTuningResults]) -> bool:
        """The next trial shows that it was done; no figure is read back."""
        return False

    def charted(self, given: FillTuningInputs, answer: Assessment[FillTuningResults]) -> Errors | None:
        """The mean of the first trial, and of the last one, off the target."""
        means = [mean for trial in given.trials or [] if (mean := _mean_off(trial, given.target)) is not None]
        return Errors(means[0], means[-1] if len(means) > 1 else None) if means else None

    def tolerance(self, given: FillTuningInputs, accept: Limit | None) -> tuple[float, float] | None:
        return tolerance_of_target(given.target, given.over, given.under)

    def hands_back(self, given: FillTuningInputs, answer: Assessment[FillTuningResults], plates: object) -> HandsBack:
        """The recipe as it was left: the cut-offs of the last trial that was made, once it is tuned."""
        if answer.call != LEAVE or not given.trials:
            return HandsBack()
        last = given.trials[-1]
        kept = {"target": given.target, "over": given.over, "under": given.under}
        kept |= {stage: last.at(stage) for stage in STAGES}
        return HandsBack(plates={key: one.text for key, one in kept.items() if one})
