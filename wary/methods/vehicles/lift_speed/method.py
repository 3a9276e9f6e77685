"""A lifting arm over lift speeds and loads, so that a quick lift and a slow one read alike.

Pressure in the cylinder goes with the load and with the speed of the lift. Slow and quick lifts,
empty and full, give the speed's share; a known load at normal speed gives the size.
"""

from dataclasses import dataclass
from typing import Annotated

from wary.fields import (
    AboveZero,
    Count,
    Flag,
    Inputs,
    Mass,
    MassFromZero,
    Number,
    PositiveTime,
    Temperature,
    WhyAside,
    Words,
    choice,
    field,
    plate,
)
from wary.methods.factor import FactorInputs
from wary.methods.method import Errors, Marks, Method, RowsFrom
from wary.methods.reads import Reads
from wary.methods.shared.cautions import ARM_RAISED, LIFT_CAPACITY, OWN_RULES
from wary.methods.shared.service import SERVICE_MODE
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, ReadAgain, Rows, Stopwatch, remark, typed
from wary.results import Figure, Results, Word, figure, value_of
from wary.rules.assessment import Assessment
from wary.suspects import looks
from wary.suspects.suspect import keys

LoadLifted = Annotated[str, choice(empty="empty", full="full", known="known load")]
LiftSpeed = Annotated[str, choice(slow="slow", quick="quick", normal="normal")]
LiftDirection = Annotated[str, choice(up="up", down="down")]
KnownFrom = Annotated[str, choice(weighed="weighed on a ground scale", estimated="estimated")]


@dataclass(slots=True, eq=False)
class LiftSpeedResults(Results):
    """Results of lifts at several speeds."""

    lifts_missing: Figure | None = figure("lifts missing", "integer")
    next_load: Word | None = figure("load of the next lift", begins="load")
    next_speed: Word | None = figure("speed of the next lift", begins="speed")
    next_direction: Word | None = figure("way of the next lift", begins="direction")
    estimate_error: Figure | None = figure("the machine's own estimate, off by", "percentage", signed=True)
    left_error: Figure | None = figure("off with the known load, started anew", "percentage", signed=True)
    mass_per_raw: Figure | None = figure("mass for one raw count", "mass", summary=True, large=True)
    speed_effect_empty: Figure | None = figure("effect of the speed, empty", "mass", signed=True)
    speed_effect_full: Figure | None = figure("effect of the speed, full", "mass", signed=True)
    speed_effect_share: Figure | None = figure(
        "the speed's share of the known load", "percentage", summary=True, large=True
    )
    repeatability: Figure | None = figure("lifts alike range over", "mass", summary=True, large=True)
    full_load: Figure | None = figure("full load", "mass")
    compensated_known: Figure | None = figure("known load, compensated", "mass")
    compensated: list[Figure] | None = figure("other lifts, compensated", "mass")


class Lift(Inputs):
    """One lift: what was lifted, how fast, which way, and what the instrument read."""

    load: LoadLifted | None = field("Load", ask="say what was in it: empty, full, or the known load.")
    speed: LiftSpeed | None = field("Speed", ask="say how fast: slow, quick or normal.")
    direction: LiftDirection | None = field("Way")
    raw: Number | None = field("Raw figure", ask="type the raw figure, or that the lift was done.")
    done: Flag | None = field("Done", "where the instrument keeps its figures to itself")
    time: PositiveTime | None = field("Time of the lift")
    temperature: Temperature | None = field("Oil", ask="read the oil's temperature, and type it.")
    set_aside: WhyAside | None = field("Why it is set aside")


class Wanted(Inputs):
    """Lifts that this system asks for."""

    load: LoadLifted | None = field("Load", ask="say what is lifted.")
    speed: LiftSpeed | None = field("Speed", ask="say how fast.")
    direction: LiftDirection | None = field("Way")
    count: Count | None = field("How many")


class Restarted(Inputs):
    """What it shows once it was started anew: empty, and with the known load."""

    empty: Mass | None = field("Shown empty")
    known: Mass | None = field(
        "Shown with the known load", ask="Lift the known load once more, and type what it shows."
    )


class LiftSpeedInputs(FactorInputs):
    """Inputs of a calibration over lift speeds; `factor` is the one in the instrument as found."""

    as_left_factor: AboveZero | None = field("Factor in the instrument, as left")
    slow_is: Words | None = plate("What slow was", "an engine speed, or the machine's own limit")
    quick_is: Words | None = plate("What quick was", "an engine speed, or the machine's own limit")
    service_state: Words | None = plate(
        "State that it needs for this",
        "engine speed, ride control off, which channel first, and whether it is lifted or held",
    )
    estimated_load: MassFromZero | None = field(
        "Known load, by the machine itself", "what it made of it before the load was keyed in"
    )
    as_left: Restarted | None = field("Once it was started anew")

    lifts: list[Lift] | None = field("Lifts", ask="Make the first lift, empty and slow.")
    required: list[Wanted] | None = field("Lifts that this system asks for")
    minimum_temperature: Temperature | None = plate("Least temperature of the oil")
    known_load: MassFromZero | None = field("Known load", ask="Say what the known load weighs.")
    known_load_source: KnownFrom | None = field("Known from")
    attachment_fitted: Words | None = field("Bucket or fork that is fitted")
    attachment_calibrated: Words | None = field("Bucket or fork of this channel")
    prepared: Flag | None = field(
        "Prepared", "level, warm, loose material shaken off, the lever to its stop at every lift"
    )


LIFTS = Rows(
    list="lifts",
    name="Lift",
    empty="No lift yet: empty and slow is a good first one.",
    columns=(typed("load", "Load"), typed("speed", "Speed"), typed("raw", "Raw"), typed("time", "Time"), typed("temperature", "Oil"), remark("weighs", "As mass"), typed("direction", "Way")),
    typed=("load", "speed", "time", "temperature", "raw", "done", "direction"),
    ends=("raw", "done"),
    either=("raw", "done"),
    again=ReadAgain("temperature", 20, "The oil cools between the lifts: read it again, and type it with the next one."),
    goes_on=True,
    tool=Stopwatch("lift", into="time"),
)  # fmt: skip
REQUIRED = Rows(
    list="required",
    name="Kind of lift",
    empty="One each of empty and full at slow and quick, one empty and one known at normal.",
    columns=(typed("load", "Load"), typed("speed", "Speed"), typed("direction", "Way"), typed("count", "How many")),
    typed=("load", "speed", "direction", "count"),
    ends=("count",),
)


class LiftSpeedMethod(Method[LiftSpeedInputs, LiftSpeedResults]):
    """`lift-speed`: the size of a raw figure and the speed's share in it, from lifts."""

    key = "lift-speed"
    title = "Lifts over speed"
    summary = "Empty, full and a known load, lifted slowly, quickly and as usual"
    question = "Do quick and slow lifts read alike?"
    subject = "The lifts"
    half_done = "not all of its lifts are in yet"
    profile = "lift-arm"
    inputs = LiftSpeedInputs
    results = LiftSpeedResults
    takes = {"attachment_calibrated": "channel"}
    takes_rows = {"required": RowsFrom("required", {key: key for key in ("load", "speed", "direction", "count")})}
    remembers = (
        "required.load",
        "required.speed",
        "required.direction",
        "required.count",
        "slow_is",
        "quick_is",
        "service_state",
    )
    against = ("known_load",)
    reads = (
        Reads(looks.OIL, "lifts.temperature", ("cold",)),
        Reads(looks.ATTACHMENT, "attachment_fitted", ("attachment",)),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "Which machine, which bucket or fork, and what was done to its hydraulics since.",
            items=(
                Item("attachment", "The bucket or fork is that of this channel, and empty", looks=keys(looks.ATTACHMENT)),
                Item("level", "Level ground, tyres as usual"),
                Item("hoses", "Sensors, hoses and plugs sound; nothing leaks, no air in them"),
                Item("adding", "Automatic adding of lifts off", "Automatic adding is off: put it back on."),
            ),
            cautions=(ARM_RAISED, OWN_RULES),
        ),
        Enter("fitted", "What is fitted", fields=("attachment_fitted", "attachment_calibrated", "known_load", "known_load_source", "estimated_load", "minimum_temperature", "factor"), cautions=(LIFT_CAPACITY,)),
        Enter("state", "Its state for this", "As this machine asks for it: engine speed, ride control, which channel first.", fields=("service_state", "slow_is", "quick_is"), items=(Item("state", "It is in that state"), SERVICE_MODE)),
        Enter("warm", "Warm up", "Lift and lower until the oil is warm; on a cold day 5 °C more than the least. Read it again after twenty minutes.", fields=("prepared",)),
        Listed("required", "What it asks for", "Which lifts this system wants, and how many of each.", rows=REQUIRED),
        Listed("lifts", "Lifts", "The lever to its stop at every lift. Shake off what is loose first, so that the load stays the same.", rows=LIFTS, cautions=(ARM_RAISED,)),
        Figures("figures", "What it comes to", ),
        Enter("left", "As left", "Switch it off and on again; then empty and the known load once more.", fields=("as_left_factor", "as_left")),
        Close("close", "Close", "Bucket down, then write it up."),
    )  # fmt: skip

    def changed(self, given: LiftSpeedInputs, answer: Assessment[LiftSpeedResults], marks: Marks) -> bool:
        """The instrument learns from the lifts themselves, from the first one on."""
        return bool(marks.read_back) or any(lift.set_aside is None for lift in given.lifts or [])

    def errors(self, given: LiftSpeedInputs, answer: Assessment[LiftSpeedResults]) -> Errors | None:
        """The error with the known load, once it was started anew."""
        left = value_of(answer.results.left_error)
        return None if left is None else Errors(None, left, unread=True)
