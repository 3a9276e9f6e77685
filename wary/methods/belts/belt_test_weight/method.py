"""Weights or a chain on the belt scale, empty belt running.

A test weight hangs under the belt, not on it: a tight or stiff belt is not in this test, and a
material test outranks it. When the weights give the expected rate, that was a verification.
"""

from dataclasses import dataclass
from typing import Annotated, Any

from wary.fields import (
    AboveZero,
    Angle,
    Count,
    Flag,
    Inputs,
    Mass,
    MassFromZero,
    MassPerLength,
    NumberFromZero,
    Plates,
    PositiveLength,
    PositiveSpeed,
    PositiveTime,
    Rate,
    choice,
    field,
    plate,
)
from wary.methods.belts.conveyor import ZERO_AGAIN, ZeroDone
from wary.methods.factor import LeftFactorInputs
from wary.methods.method import Errors, Marks, Method
from wary.methods.reads import Reads
from wary.methods.shared.cautions import BELT_RUNNING, BELT_WEIGHTS, OWN_RULES
from wary.methods.shared.results import FactorResults
from wary.methods.steps import Adjust, Close, Enter, Item, Look
from wary.results import Figure, figure, value_of
from wary.rules.assessment import (
    LEAVE,
    Assessment,
)
from wary.suspects import looks

WeightKind = Annotated[str, choice(hung="hung", built_in="built in", chain="chain")]
LiveIs = Annotated[str, choice(compensated="compensated", raw="raw")]


@dataclass(slots=True, eq=False)
class TestWeightResults(FactorResults):
    """Results of a test with weights."""

    effective_mass: Figure | None = figure("effective mass", "mass", summary=True)
    load_per_length: Figure | None = figure("load per length", "mass per length")
    expected_rate: Figure | None = figure("expected rate", "rate", summary=True)
    error: Figure | None = figure("error", "percentage", summary=True, signed=True)
    live_error: Figure | None = figure("error of the live weight", "percentage", summary=True, signed=True)


class WeightsLeft(Inputs):
    """What it shows with the weights on after the factor was keyed in."""

    indicated_rate: Rate | None = field("Rate shown")
    indicated_total: Mass | None = field("Total shown", "instead of the rate")
    duration: PositiveTime | None = field("Over how long")
    revolutions: NumberFromZero | None = field("Revolutions run")

    @property
    def is_read(self) -> bool:
        return self.indicated_rate is not None or self.indicated_total is not None


class TestWeightInputs(LeftFactorInputs):
    """Inputs of a test with weights."""

    weight_kind: WeightKind | None = field("Kind of weight")
    test_mass: MassFromZero | None = field(
        "Test mass", "all of it together", ask="Count the weights, and type their mass, all of it together."
    )
    chain_mass_per_length: MassPerLength | None = field("Chain, mass per length")
    carrier_mass: MassFromZero | None = field("Carrier", "the bar that the weights hang on")
    carrier_zeroed: Flag | None = field("Zero taken with the carrier in")
    idler_spacing: PositiveLength | None = plate("Idler spacing")
    weigh_idlers: Count | None = plate("Weigh idlers")
    weigh_length: PositiveLength | None = plate("Weigh length", "instead of spacing and idlers")
    angle: Angle | None = plate("Conveyor angle")
    speed: PositiveSpeed | None = plate("Belt speed")
    indicated_rate: Rate | None = field("Rate shown")
    indicated_total: Mass | None = field("Total shown", "instead of the rate")
    duration: PositiveTime | None = field("Over how long")
    offered_factor: AboveZero | None = field("Factor that it offers", "where the instrument works one out by itself")
    as_left: WeightsLeft | None = field("With the new figure")
    live_weight: Mass | None = field("Live weight shown")
    live_is: LiveIs | None = field("Live weight is", "compensated for the angle, or raw")
    revolutions: NumberFromZero | None = field("Revolutions run")
    zero_done: ZeroDone | None = field("Zero was taken", "in this job, earlier today, or longer ago")
    nominal_factor: AboveZero | None = plate("Factor it should be near")
    plates: Plates | None = field("Plates")

    @property
    def after_change(self) -> bool:
        return self.as_left is not None and self.as_left.is_read


class BeltTestWeight(Method[TestWeightInputs, TestWeightResults]):
    """`belt-test-weight`: expected rate `q·v` against the rate shown."""

    key = "belt-test-weight"
    title = "Test weights"
    summary = "Weights or a chain on the scale, empty belt running"
    subject = "The weights"
    profile = "belt-fine"
    compares = True
    takes = {"speed": "belt_speed"}
    hands = ("test_weight_factor",)
    remembers = ("weight_kind", "test_mass", "chain_mass_per_length", "carrier_mass")
    makes_stale = (ZERO_AGAIN,)
    against = ("test_mass", "chain_mass_per_length")
    inputs = TestWeightInputs
    results = TestWeightResults
    reads = (Reads(looks.HUNG, "test_mass", codes=("outside-limit", "implausible"), own=True),)
    steps = (
        Look(
            "hang",
            "Hang the weights",
            "Stopped and locked off.",
            items=(
                Item("counted", "Weights counted, their mass read off them"),
                Item("clear", "Carrier and weights hang free of the frame"),
                Item("weights-on", "Weights are on", "Weights are on the scale: take them off."),
                Item("carrier-in", "Carrier is in", "The carrier is in: take it out."),
                Item("guards", "Guards were taken off for this", "Guards are off: put them back."),
                Item("auto-correct", "Automatic correction switched off", "Automatic correction is off: put it back on."),
            ),
            cautions=(BELT_WEIGHTS,),
        ),
        Enter("weight", "The weight", "What it stands for on the belt.", fields=("weight_kind", "test_mass", "chain_mass_per_length", "carrier_mass", "carrier_zeroed")),
        Enter("plates", "Read off", "What the instrument is set to now, before anything is changed.", fields=("idler_spacing", "weigh_idlers", "weigh_length", "angle", "speed", "factor", "factor_decimals", "direction", "nominal_factor"), cautions=(OWN_RULES,)),
        Enter("zero", "Zero", "Empty and running, before any weight was hung.", fields=("zero_done",)),
        Enter("run", "Run", "Empty belt, weights on, three revolutions or more.", fields=("revolutions", "indicated_rate", "indicated_total", "duration", "offered_factor", "live_weight", "live_is"), cautions=(BELT_RUNNING,)),
        Adjust("adjust", "Adjust", "Key in the figure, then read back what the instrument shows."),
        Enter("left", "As left", "The same weights, with the new figure: does it read what it should?", fields=("as_left",), cautions=(BELT_RUNNING,)),
        Close("close", "Close", "Weights off, carrier out; then write it up."),
    )  # fmt: skip

    def loose(self, given: TestWeightInputs) -> list[tuple[str, str]]:
        if given.carrier_zeroed:
            return [
                (
                    "zero-without-carrier",
                    "The zero was taken with the carrier in: take it again without, or production reads light by it.",
                )
            ]
        return []  # fmt: skip

    def errors(self, given: TestWeightInputs, answer: Assessment[TestWeightResults]) -> Errors | None:
        """The errors found and left with the weights on."""
        found = value_of(answer.found.results.error)
        left = value_of(answer.results.error) if answer.as_found else None
        return None if found is None else Errors(found, left)

    def hands_on(self, given: TestWeightInputs, answer: Assessment[TestWeightResults], marks: Marks) -> dict[str, Any]:
        """What the weights gave, for the material to be held against; a zero with the carrier in counts no longer."""
        handed: dict[str, Any] = {}
        present = given.as_left_factor if given.after_change else given.factor
        gave = value_of(answer.found.results.new_factor) or (present if answer.call == LEAVE else None)
        if gave:
            handed["test_weight_factor"] = gave
        if given.carrier_zeroed:
            handed["zero_done"] = None
        return handed
