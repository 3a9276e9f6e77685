"""Material test of a belt scale: real material over the belt, weighed again on a better scale.

It does not matter which way the scale is off, only that it is off the same way each time. A
material test outranks test weights: belt tension and stiffness are in it.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from wary.acts import RUN, Act
from wary.drawings import Belt, Headline, spoken
from wary.fields import AboveZero, PositiveRate, PositiveTime, Run, field, plate
from wary.methods.belts.conveyor import ZERO_AGAIN, ZeroDone, drawn_belt, headline, not_ready_zero
from wary.methods.method import Seen, Setting
from wary.methods.shared.cautions import BELT_ISOLATE, BELT_TRAFFIC, OWN_RULES
from wary.methods.shared.comparison import ComparisonMethod, compare, factor_check, reference_plan
from wary.methods.shared.results import ComparisonResults
from wary.methods.shared.stages import ComparisonInputs, Stage, net_of_run
from wary.methods.steps import Adjust, Close, Enter, Item, Look, Plan, Tally
from wary.quantities import from_si, mass_shown, percent_shown, shown
from wary.results import Figure, figure, percent, value_of
from wary.rules.assessment import Assessment, Check, Reason
from wary.rules.evidence import Evidence
from wary.rules.planning import ASKED_SECONDS, LEAST_REVOLUTIONS, belt_plan, shows
from wary.suspects import looks
from wary.suspects.suspect import keys

LEAST_RATE, MOST_RATE = 0.35, 0.98
USUAL_RATE = 0.7

WHERE_TO_LOOK = (
    "Zero again, empty and running: has something built up on the belt, the frame or the idlers, or fallen off?",
    "Anything that rests against the weighbridge: spillage, a skirt, a guard, a cable.",
    "The weigh idlers and two on either side: turning, in line, none lower than the others.",
    "The speed sensor: wheel slipping or caked, target loose.",
    "The conveyor's angle as the instrument has it, and its angle sensor where it luffs.",
    "The load cells: each read by itself, empty and running, in a cell check.",
    "The weighing itself: was the lorry's tare taken again, did all of the material reach it, was the belt run empty before and after?",
)


@dataclass(slots=True, eq=False)
class MaterialResults(ComparisonResults):
    """Results of a material test."""

    weights_differ: Figure | None = figure("off what the test weights gave", "percentage", signed=True)


class MaterialInputs(ComparisonInputs):
    """Inputs of a belt material test, beside those of every comparison."""

    rated_rate: PositiveRate | None = plate("Rated rate")
    revolution_time: PositiveTime | None = plate("Time of one belt revolution")
    zero_done: ZeroDone | None = field("Zero was taken", "in this job, earlier today, or longer ago")
    test_weight_factor: AboveZero | None = field("Factor that the test weights last gave")


class BeltMaterialTest(ComparisonMethod[MaterialInputs, MaterialResults]):
    """`belt-material-test`: comparison runs of material against a reference scale."""

    key = "belt-material-test"
    title = "Material test"
    summary = "Real material over the belt, weighed again on a better scale"
    subject = "The material"
    profile = "belt-fine"
    confirms = True
    makes_stale = (ZERO_AGAIN,)
    inputs = MaterialInputs
    results = MaterialResults
    least_runs = 2

    acts = {
        "runs.total_start": (RUN, Act("feed-off"), Act("wait", figure=40), Act("weigh")),
        "runs.total_end": (Act("feed"), Act("wait", figure=600), Act("feed-off"), Act("wait", figure=60)),
        "runs.gross": (Act("weigh"),),
        "runs.tare": (),
    }
    change = (Act("key", "new_factor"),)
    read_again = "as_left"
    steps = (
        Look(
            "look",
            "Look first",
            "Stopped and locked off, walk the weigh area.",
            items=(
                Item("touching", "Nothing touches, hangs on or cakes the weighbridge", looks=keys(looks.GAP)),
                Item("idlers", "Weigh idlers and their neighbours turn and line up", looks=keys(looks.IDLERS)),
                Item("belt", "Belt tracks, tension right, scraper clean", looks=keys(looks.TENSION)),
                Item("speed", "Speed sensor clean and driven", looks=keys(looks.SPEED)),
                Item("guards", "Guards were taken off for this", "Guards are off: put them back."),
                Item("auto-zero", "Automatic zero switched off for the test", "Automatic zero is off: put it back on."),
                Item(
                    "decimals",
                    "Display's decimals raised for the test",
                    "The display's decimals are raised: put them back.",
                ),
                Item("seal", "Seal opened", "The seal is open: seal again, or note who will."),
            ),
            cautions=(BELT_ISOLATE,),
        ),
        Enter(
            "plates",
            "Read off",
            "What the instrument is set to now, before anything is changed.",
            fields=(
                "factor",
                "factor_decimals",
                "direction",
                "nominal_factor",
                "rated_rate",
                "revolution_time",
                "indicated_division",
                "test_weight_factor",
            ),
            cautions=(OWN_RULES,),
        ),
        Enter("zero", "Zero", "Empty and running, whole revolutions, more than once.", fields=("zero_done",)),
        Plan(
            "amount",
            "How much to weigh",
            "What this reference can show, and what to arrange.",
            fields=("reference_division", "reference_readings", "reference_uncertainty"),
        ),
        Tally(
            "as-found",
            "As found",
            "Run the belt empty before each lorry, and again before it drives off.",
            list="runs",
            cautions=(BELT_TRAFFIC,),
        ),
        Adjust("adjust", "Adjust", "Key in the figure, then read back what the instrument shows."),
        Tally(
            "as-left",
            "As left",
            "Zero again, then the same test with the new figure.",
            list="as_left",
            stage="left",
            cautions=(BELT_TRAFFIC,),
        ),
        Close("close", "Close", "Put back what was changed, then write it up."),
    )

    def assess(self, given: MaterialInputs, setting: Setting) -> Assessment[MaterialResults]:
        zero, unready = not_ready_zero(given.zero_done)

        def looks(stage: Stage, smallest: float | None) -> tuple[list[Check], list[Reason]]:
            checks = [
                zero,
                *_enough_weighed(stage, smallest),
                *_long_enough(stage, given),
                *_rate_in_range(stage, given),
            ]
            return [*checks, *factor_check(given)], unready

        answer = compare(self, given, setting, looks, WHERE_TO_LOOK)
        for stage_answer in (answer, answer.as_found):
            if stage_answer:
                _weights_differ(stage_answer, given)
        answer.plan = _plan(given, setting, answer)
        return answer

    def draw(self, given: MaterialInputs, seen: Seen) -> Belt:
        """The laden belt: mean rate of the runs, load per length at that rate (`q = Q/v`), and the plates."""
        above: list[Headline] = []
        rate = _mean_rate([*(given.runs or []), *(given.as_left or [])])
        speed, unit = seen.quantity("belt_speed"), given.rated_rate.unit if given.rated_rate else "t/h"
        if rate:
            share = f", {percent_shown(rate / given.rated_rate.si, decimals=0)} of rated" if given.rated_rate else ""
            above.append(Headline(text=spoken(from_si(rate, unit), unit), title=f"mean rate of the runs{share}"))
            if speed and speed.si > 0:
                above.append(Headline(text=spoken(rate / speed.si, "kg/m", 3), title="on the belt"))
        else:
            above += headline(given.rated_rate, "rated rate")
        return drawn_belt(seen, above + headline(speed, "belt speed", 3), laden=True)


def _mean_rate(runs: Sequence[Run]) -> float | None:
    """Material over time of the runs whose weight and duration are both known, kg/s."""
    weighed, seconds = 0.0, 0.0
    for run in runs:
        if run.duration and run.set_aside is None and (net := net_of_run(run)):
            weighed, seconds = weighed + net.mass, seconds + run.duration.si
    return weighed / seconds if seconds and weighed > 0 else None


def _enough_weighed(stage: Stage, smallest: float | None) -> list[Check]:
    if smallest is None or not stage.evidence.pairs:
        return []
    light = [pair for pair in stage.evidence.pairs if pair.reference < smallest * (1 - 1e-9)]
    least = mass_shown(smallest, stage.unit)
    if not light:
        return [Check("enough-weighed", "pass", f"Each run is over the {least} that this reference needs.")]
    which = ", ".join(str(pair.index + 1) for pair in light)
    text = f"Run {which}: less than the {least} that this reference needs for a third of the limit."
    return [Check("enough-weighed", "note", text)]


def _long_enough(stage: Stage, given: MaterialInputs) -> list[Check]:
    timed = [(pair.index, pair.duration) for pair in stage.evidence.pairs if pair.duration]
    if not timed:
        return []
    checks = []
    index, shortest = min(timed, key=lambda row: row[1])
    if given.revolution_time:
        turns = shortest / given.revolution_time.si
        enough = turns >= LEAST_REVOLUTIONS * (1 - 1e-9)
        text = f"The shortest run, {index + 1}, lasted {shown(turns, 3)} belt revolutions; at least {LEAST_REVOLUTIONS} are wanted."
        checks.append(Check("three-revolutions", "pass" if enough else "note", text))
    enough = shortest >= ASKED_SECONDS * (1 - 1e-9)
    text = f"The shortest run, {index + 1}, lasted {shown(shortest / 60, 3)} min; ten minutes are asked for."
    checks.append(Check("ten-minutes", "pass" if enough else "note", text))
    return checks


def _rate_in_range(stage: Stage, given: MaterialInputs) -> list[Check]:
    timed = Evidence([pair for pair in stage.evidence.pairs if pair.duration])
    if not timed.pairs or not given.rated_rate:
        return []
    rate = timed.reference_sum / math.fsum(pair.duration or 0 for pair in timed.pairs)
    share = rate / given.rated_rate.si
    inside = LEAST_RATE * (1 - 1e-9) <= share <= MOST_RATE * (1 + 1e-9)
    text = (
        f"The runs came at {percent_shown(share, decimals=0)} of the rated rate; between "
        f"{percent_shown(LEAST_RATE, decimals=0)} and {percent_shown(MOST_RATE, decimals=0)} a test speaks for the work."
    )
    return [Check("rate-in-range", "pass" if inside else "note", text)]


def _weights_differ(answer: Assessment[MaterialResults], given: MaterialInputs) -> None:
    is_left = answer.as_found is not None or not given.runs
    keyed = value_of(answer.results.new_factor)
    found = value_of(answer.as_found.results.new_factor) if answer.as_found else None
    present = keyed or ((given.as_left_factor or found) if is_left else None) or given.factor
    if present and given.test_weight_factor:
        answer.results.weights_differ = percent(present / given.test_weight_factor - 1)


def _plan(given: MaterialInputs, setting: Setting, answer: Assessment[MaterialResults]) -> list[str]:
    """What to arrange before a run, in sentences."""
    sentences = reference_plan(given, setting, answer)[:1]
    if not given.rated_rate:
        return sentences
    smallest = answer.results.smallest_amount
    least = smallest.si if smallest else None
    unit = smallest.unit if smallest else "t"
    rate = _mean_rate(given.runs or []) or USUAL_RATE * given.rated_rate.si
    plan = belt_plan(rate, given.revolution_time.si if given.revolution_time else None, least)
    turns = f", {shown(plan.revolutions, 3)} belt revolutions" if plan.revolutions else ""
    spoken = "t" if unit in ("kg", "g", "mg") and plan.amount >= 2000 else unit
    sentences.append(
        f"Better {mass_shown(plan.amount, spoken, 3)}: {shown(plan.seconds / 60, 3)} min at "
        f"{shown(from_si(rate, given.rated_rate.unit), 3)} {given.rated_rate.unit}{turns}."
    )
    if given.reference_division:
        own = given.reference_uncertainty.si / 2 if given.reference_uncertainty else 0.0
        sure = shows(given.reference_division.si, given.reference_readings or 2, own, plan.amount)
        sentences.append(f"On that amount this reference can show ± {percent_shown(sure)}.")
    return sentences


METHOD = BeltMaterialTest()
