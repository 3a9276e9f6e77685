"""Counted lifts of an empty and of a heavy container on a bin or creel lift.

The lift is seated first, so that everything lies where it will lie; then both containers are
lifted a number of times, whose means give the line and whose spread says whether to trust it.
"""

from dataclasses import dataclass
from typing import Annotated

from wary.acts import Act
from wary.fields import (
    Count,
    CountFromZero,
    Flag,
    Inputs,
    Mass,
    MassFromZero,
    Number,
    Percentage,
    PositiveMass,
    WhyAside,
    choice,
    field,
    plate,
)
from wary.methods.factor import FactorInputs
from wary.methods.reads import Reads
from wary.methods.shared.cautions import ARM_RAISED, LIFT_CAPACITY, OWN_RULES
from wary.methods.shared.comparison import ComparisonMethod
from wary.methods.shared.results import ComparisonResults
from wary.methods.steps import Adjust, Close, Enter, Figures, Item, Listed, Look, Rows, TapCounter, remark, typed
from wary.results import Figure, figure
from wary.suspects import looks
from wary.suspects.suspect import keys

Way = Annotated[
    str, choice(one_container="one container, empty, then filled", two_containers="two alike, one left empty")
]


@dataclass(slots=True, eq=False)
class LiftRepeatResults(ComparisonResults):
    """Results of lifts that repeat."""

    heavy_target: Figure | None = figure("fill the heavy one to", "mass", large=True)
    lifts_missing: Figure | None = figure("lifts missing", "integer")
    empty_mean: Figure | None = figure("empty, mean")
    empty_spread: Figure | None = figure("empty, spread")
    heavy_mean: Figure | None = figure("heavy, mean")
    heavy_spread: Figure | None = figure("heavy, spread")
    mass_per_raw: Figure | None = figure("mass for one raw count", "mass", summary=True, large=True)
    raw_at_zero: Figure | None = figure("raw count at zero")
    repeatability: Figure | None = figure("lifts alike range over", "mass", summary=True, large=True)
    repeatability_share: Figure | None = figure("lifts alike range over, share", "percentage")


class CountedLift(Inputs):
    """One lift: a raw figure, what was indicated, or that it was done."""

    raw: Number | None = field("Raw figure")
    indicated: Mass | None = field("Shown")
    done: Flag | None = field("Done", "where the instrument keeps its figures to itself")
    set_aside: WhyAside | None = field("Why it does not count")


class LiftRepeatInputs(FactorInputs):
    """Inputs of counted lifts."""

    way: Way | None = field("Containers")
    seating_lifts: CountFromZero | None = field(
        "Seating lifts made", ask="Lift the container in hand to seat it, and count: type how many lifts were made."
    )
    seating_needed: Count | None = plate("Seating lifts wanted", "ten where nothing is said")
    lifts_needed: Count | None = plate("Lifts wanted of each", "five where nothing is said")
    empty_weight: MassFromZero | None = field(
        "Empty container",
        "on the reference scale",
        ask="Weigh the empty container on the reference scale, and type it.",
    )
    heavy_weight: MassFromZero | None = field(
        "Heavy container",
        "on the reference scale",
        ask="Fill the container, weigh it on the reference scale, and type it.",
    )
    second_container_weight: MassFromZero | None = field(
        "Second container, empty", ask="Weigh the second container empty, and type it."
    )
    fill_margin: MassFromZero | None = plate(
        "Margin when filling", "50 kg where nothing is said, or 100 lb where masses are in pounds"
    )
    empty_lifts: list[CountedLift] | None = field("Empty lifts", ask="Lift the empty container, and type what it read.")
    heavy_lifts: list[CountedLift] | None = field("Heavy lifts", ask="Lift the heavy container, and type what it read.")
    reference_division: PositiveMass | None = plate("Division of the reference scale")
    reference_uncertainty: Percentage | None = plate("Uncertainty of the reference", "expanded, from its certificate")
    indicated_division: PositiveMass | None = plate("Division of the display")


def _rows(name: str, which: str) -> Rows:
    return Rows(
        list=name,
        name="Lift",
        empty=f"No {which} lift yet.",
        columns=(typed("raw", "Raw"), typed("indicated", "Shown"), remark("off", "From the mean")),
        typed=("raw", "indicated", "done"),
        ends=("raw", "indicated", "done"),
        either=("raw", "indicated", "done"),
    )


class LiftRepeat(ComparisonMethod[LiftRepeatInputs, LiftRepeatResults]):
    """`lift-repeat`: the line through empty and heavy, and whether lifts alike read alike."""

    key = "lift-repeat"
    title = "Counted lifts"
    summary = "An empty and a heavy container, lifted a number of times"
    question = "Do lifts alike read alike?"
    subject = "The lifts"
    half_done = "not all of its lifts are in yet"
    profile = "lift-arm"
    inputs = LiftRepeatInputs
    results = LiftRepeatResults
    remembers = ("way", "seating_needed", "lifts_needed", "fill_margin")
    against = ("empty_weight", "heavy_weight")
    acts = {"inputs.seating_lifts": (Act("load"), Act("raise", figure=10))}
    reads = (
        Reads(looks.HOOKS, "seating_lifts", ("seated",)),
        Reads(looks.SAME_LIFT, "heavy_lifts.raw", ("repeats",), least=3),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "Which vehicle, which lift, and what was done to it since.",
            items=(
                Item("forks", "Forks, comb and hooks sound; nothing rubs", looks=keys(looks.HOOKS)),
                Item("level", "Level ground"),
                Item("hoses", "Sensors, hoses and plugs sound; nothing leaks", looks=keys(looks.LINES)),
                Item("adding", "Automatic adding of lifts off", "Automatic adding is off: put it back on."),
            ),
            cautions=(ARM_RAISED, OWN_RULES),
        ),
        Enter("container", "The containers", "Weighed on the reference scale, and keyed in before the lifts.", fields=("way", "empty_weight", "second_container_weight", "fill_margin", "heavy_weight"), cautions=(LIFT_CAPACITY,)),
        Enter("seat", "Seat it", "Lift and set down the container in hand until everything lies where it will lie; count the lifts.", fields=("seating_lifts", "seating_needed", "lifts_needed"), cautions=(ARM_RAISED,), tool=TapCounter("lift", into="seating_lifts")),
        Enter("plates", "Read off", "Where it shows a mass: what it is set to now.", fields=("factor", "factor_decimals", "direction", "indicated_division", "reference_division", "reference_uncertainty")),
        Listed("heavy", "Heavy", "The heavy container. Off the ground and still; read while it hangs still, lower at once when it shows that it has read. Too long, and it starts over.", rows=_rows("heavy_lifts", "heavy"), cautions=(ARM_RAISED,)),
        Listed("empty", "Empty", "The empty container. Off the ground and still; read while it hangs still, lower at once when it shows that it has read. Too long, and it starts over.", rows=_rows("empty_lifts", "empty"), cautions=(ARM_RAISED,)),
        Figures("figures", "What it comes to", ),
        Adjust("adjust", "Adjust", "Where the call asks for it: key in the figure, then read back what it shows."),
        Close("close", "Close", "Container down, then write it up."),
    )  # fmt: skip
