"""Watching a running filling machine by samples: is it still where it was tuned, and what does it give away?"""

from dataclasses import dataclass
from typing import Annotated

from wary.fields import (
    AboveZero,
    Count,
    CountFromZero,
    Inputs,
    Limit,
    Many,
    MassFromZero,
    PositiveMass,
    WhyAside,
    Words,
    choice,
    field,
    plate,
)
from wary.methods.filling.filler import CAUTIONS, tolerance_of_target
from wary.methods.method import Errors, HandsBack, Method
from wary.methods.reads import Reads
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, remark, typed
from wary.quantities import from_si
from wary.results import Figure, Results, figure
from wary.rules.assessment import (
    Assessment,
)
from wary.rules.due import CounterKind
from wary.suspects import looks


@dataclass(slots=True, eq=False)
class FillCheckResults(Results):
    """Results of a fill check."""

    mean_error_mass: Figure | None = figure("mean off the target", "mass", summary=True, large=True, signed=True)
    standard_deviation_mass: Figure | None = figure("standard deviation", "mass", summary=True)
    capability: Figure | None = figure("capability", summary=True, large=True)
    bench_difference: Figure | None = figure("off the bench scale", "mass", signed=True)
    giveaway_per_pack: Figure | None = figure("given away a pack", "mass", large=True)
    giveaway_per_year: Figure | None = figure("given away in a year", "mass")
    giveaway_cost_per_year: Figure | None = figure("cost of what is given away in a year")
    out_of_tolerance: Figure | None = figure("out of tolerance", "integer")
    out_of_tolerance_low: Figure | None = figure("out of tolerance of all, from", "percentage")
    out_of_tolerance_high: Figure | None = figure("out of tolerance of all, to", "percentage")
    largest_unseen_run: Figure | None = figure("largest run unseen", "integer")
    cycles_since_care: Figure | None = figure("cycles since the last care", "integer")
    cycles_to_care: Figure | None = figure("cycles to the next care", "integer")


class Sample(Inputs):
    """One pack: what the machine said, what the bench scale says, or both."""

    machine: MassFromZero | None = field("Machine says", ask="type what the machine showed.")
    bench: MassFromZero | None = field("Bench scale", ask="weigh the pack, and type what it weighs.")
    set_aside: WhyAside | None = field("Why it is set aside")


class SamplingPlan(Inputs):
    """How often a pack is taken: each of the first few, then one in so many."""

    first: CountFromZero | None = field("Each of the first")
    every: Count | None = field("Then one in")


class Cost(Inputs):
    """What so much of the product costs."""

    amount: AboveZero | None = field("Costs")
    per: PositiveMass | None = field("For each")


Done = Annotated[str, choice(held="held it", alarm="gave an alarm", counted="counted it", nothing="nothing")]


class Released(Inputs):
    """A bad pack: what the machine did with it, and who let it go, and why."""

    pack: Words | None = field("Which pack")
    did: Done | None = field("The machine did")
    who: Words | None = field("Released by", ask="say who released it.")
    why: WhyAside | None = field("Why", ask="say why it was released.")


class FillCheckInputs(Inputs):
    """Inputs of a check by samples."""

    recipe: Words | None = field("Recipe", "its number and name on the machine")
    target: PositiveMass | None = plate("Target")
    over: MassFromZero | None = plate("May be over by")
    under: MassFromZero | None = plate("May be under by")
    division: PositiveMass | None = plate("Division of the display")
    bench_division: PositiveMass | None = plate("Division of the bench scale")
    samples: list[Sample] | None = field(
        "Samples", ask="Take a pack, and type what the machine and the bench scale say."
    )
    sampling: SamplingPlan | None = field("Sampling plan")
    auto_zero: SamplingPlan | None = field("Automatic zero", "the same kind of plan")
    cost_per_mass: Cost | None = field("What the product costs")
    packs_per_year: Many | None = field("Packs in a year")
    released: list[Released] | None = field("Bad packs that were released")
    batch_counter: Many | None = field("Batch counter", "the one that can be cleared")
    cycle_counter: Many | None = field("Cycle counter", "the one that cannot")
    cycle_counter_before: Many | None = field("Cycle counter at the last care")
    cycle_counter_most: Many | None = field("It begins again after")
    care_every: Many | None = field("Care is due every so many cycles")


SAMPLES = Rows(
    list="samples",
    name="Sample",
    empty="No sample yet: each of the first few, then one in so many.",
    columns=(typed("machine", "Machine"), typed("bench", "Bench"), remark("off", "Off"), remark("differ", "Machine less bench")),
    typed=("machine", "bench"),
    ends=("bench",),
)  # fmt: skip
RELEASED = Rows(
    list="released",
    name="Pack",
    empty="None. A bad pack that goes out says who let it, and why.",
    columns=(typed("pack", "Pack"), typed("did", "The machine"), typed("who", "Released by"), typed("why", "Why")),
    typed=("pack", "did", "who", "why"),
    ends=("why",),
)


class FillCheck(Method[FillCheckInputs, FillCheckResults]):
    """`fill-check`: samples against the tolerance, drift, capability, and what is given away."""

    key = "fill-check"
    title = "Watching by samples"
    summary = "Packs taken while it runs: tolerance, drift, capability, give-away"
    question = "Is it still where it was tuned?"
    subject = "The samples"
    passes_for = {"drift": "scatter"}
    profile = "filling"
    inputs = FillCheckInputs
    results = FillCheckResults
    compares = True
    confirms = True
    takes = {
        "recipe": "channel",
        "sampling.first": "sample_first",
        "sampling.every": "sample_every",
        "auto_zero.first": "zero_first",
        "auto_zero.every": "zero_every",
    }
    against = ("target",)
    reads = (Reads(looks.OWN_SCALE, "samples.bench", ("machine-scale",)),)
    steps = (
        Look(
            "look",
            "Look first",
            "The machine runs as it always does; only the packs are taken off.",
            items=(
                Item("recipe", "The recipe that runs is this one"),
                Item("bench", "The bench scale shows zero, and its check mass reads right"),
                Item("batch", "Batch counter cleared for this run", "The batch counter was cleared: note what it showed."),
            ),
            cautions=CAUTIONS,
        ),
        Enter("plan", "The pack and the plan", "Target and tolerances of this recipe, both divisions, and how often a pack is taken.", fields=("recipe", "target", "over", "under", "division", "bench_division", "sampling", "auto_zero")),
        Listed("samples", "Samples", "In the order in which they were filled: what the machine said, then what the bench scale says.", rows=SAMPLES),
        Enter("cost", "What it costs", "Only for what is given away in money.", fields=("cost_per_mass", "packs_per_year")),
        Listed("released", "Bad packs", "What the machine did with each, who released it, and why.", rows=RELEASED),
        Enter("counters", "Counters", "The batch counter clears, the cycle counter does not; care is due by cycles.", fields=("batch_counter", "cycle_counter", "cycle_counter_before", "cycle_counter_most", "care_every")),
        Figures("figures", "What it comes to", ),
        Close("close", "Close", "Write it up."),
    )  # fmt: skip

    def asks_for_change(self, answer: Assessment[FillCheckResults]) -> bool:
        return False

    def hands_back(self, given: FillCheckInputs, answer: Assessment[FillCheckResults], plates: object) -> HandsBack:
        """The plans of sampling and of automatic zero, which belong to the recipe."""
        kept: dict[str, int | None] = {}
        for name, plan in (("sample", given.sampling), ("zero", given.auto_zero)):
            if plan:
                kept |= {f"{name}_first": plan.first, f"{name}_every": plan.every}
        return HandsBack(plates={key: str(count) for key, count in kept.items() if count is not None})

    def counters(self, given: FillCheckInputs) -> dict[CounterKind, float]:
        return {} if given.cycle_counter is None else {"cycles": float(given.cycle_counter)}

    def tolerance(self, given: FillCheckInputs, accept: Limit | None) -> tuple[float, float] | None:
        return tolerance_of_target(given.target, given.over, given.under)

    def errors(self, given: FillCheckInputs, answer: Assessment[FillCheckResults]) -> Errors | None:
        mean = answer.results.mean_error_mass
        if mean is None or not given.target:
            return None
        return Errors(mean.value / from_si(given.target.si, mean.unit) * 100)
