"""A free-running spreader: turns at each setting, mass for one turn, and the chart of settings by speeds."""

from dataclasses import dataclass

from wary.acts import Act
from wary.fields import (
    AboveZero,
    Flag,
    Inputs,
    LengthFromZero,
    Number,
    PerLength,
    PerRevolution,
    PositiveLength,
    PositiveMass,
    PositiveSpeed,
    Seconds,
    Words,
    field,
    plate,
)
from wary.methods.metering.arithmetic import CAUTIONS, Weighed
from wary.methods.method import Errors, HandsBack, Marks, Method
from wary.methods.reads import Reads
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, TapCounter, remark, typed
from wary.methods.tree import VALUE
from wary.results import Figure, Results, Word, figure
from wary.rules.assessment import (
    LEAVE,
    Assessment,
)
from wary.suspects import looks
from wary.suspects.suspect import keys


@dataclass(slots=True, eq=False)
class Recommended(Results):
    """A setting and a speed that fit."""

    setting: Figure | None = figure("setting")
    speed: Figure | None = figure("speed", "speed")


@dataclass(slots=True, eq=False)
class RateChartResults(Results):
    """Results of a rate chart."""

    gate_opening: Figure | None = figure("gate now", "length", summary=True, large=True, keeps="gate_opening")
    gate_skew: Figure | None = figure("gate, one side off the other", "length")
    rpms: list[Figure] | None = figure("turns a minute")
    mass_per_revolution: Figure | None = figure(
        "for one turn", "mass per revolution", summary=True, large=True, keeps="mass_per_revolution"
    )
    turns_to_catch: Figure | None = figure("turns to catch")
    shown: Figure | None = figure("what the scale shows of a catch", "percentage")
    discharges: list[Figure] | None = figure("discharge at each setting")
    table: list[list[Figure]] | None = figure("amount at each setting and speed", "mass per length")
    zones: list[list[Word]] | None = figure("zone at each setting and speed")
    recommended: list[Recommended] | None = figure("settings and speeds that fit")
    saturated_from: Figure | None = figure("saturated from setting")
    per_area: list[list[Figure]] | None = figure("amount per area", "mass per area")
    suggested_gate: Figure | None = figure("gate to try", "length", large=True)


class SettingIn(Inputs):
    """One setting of the lever, and the turns that were counted at it; halves count."""

    setting: Number | None = field("Setting", ask="say which setting.")
    revolutions: AboveZero | None = field("Turns", ask="count the turns, halves too.")
    seconds: Seconds | None = field("Seconds", ask="say in how many seconds.")


class CatchIn(Weighed):
    """What so many turns gave."""

    revolutions: AboveZero | None = field("Turns", ask="type how many turns it took.")


class GateTried(Inputs):
    """A gate that was tried before on this vehicle and material."""

    gate_opening: PositiveLength | None = field("Opening", ask="type how far it was open.")
    mass_per_revolution: PerRevolution | None = field("For one turn", ask="type what one turn gave.")


class Working(Inputs):
    """The setting and the speed at which the work is done."""

    setting: Number | None = field("Setting")
    speed: PositiveSpeed | None = field("Speed")


class RateChartInputs(Inputs):
    """Inputs of a rate chart."""

    vehicle: Words | None = field("Vehicle")
    material: Words | None = field("Material")
    gate_readings: list[LengthFromZero] | None = field("Gate, measured at both sides")
    settings: list[SettingIn] | None = field(
        "Turns at each setting", ask="Count the turns at the lowest setting for a minute."
    )
    catches: list[CatchIn] | None = field("Catches")
    reference_division: PositiveMass | None = plate("Division of the scale")
    speeds: list[PositiveSpeed] | None = field("Speeds", ask="Type the speeds at which the work is done.")
    earlier: list[GateTried] | None = field("Gates tried before")
    lanes: AboveZero | None = plate(
        "Lanes treated at once",
    )
    lane_width: PositiveLength | None = plate("Width of a lane")
    target_low: PerLength | None = plate("Target, at least")
    target_high: PerLength | None = plate("Target, at most")
    working: Working | None = field("The work is done at")
    engine_low: AboveZero | None = plate("Engine, at least")
    engine_high: AboveZero | None = plate("Engine, at most")
    engine: AboveZero | None = field("Engine, while counting")
    prepared: Flag | None = field(
        "Prepared",
        "spinner off, loaded to its resting heap; container and sheets on the scale when it was zeroed, or in the tare",
    )
    season_distance: PositiveLength | None = field("Distance in a season")
    price_per_tonne: AboveZero | None = field("A tonne costs")


GATE = Rows(list="gate_readings", name="Side", empty="Measure it at both sides; the lever's number is no measure.", columns=(typed(VALUE, "Opening"),), typed=(VALUE,), ends=(VALUE,))  # fmt: skip
SPEEDS = Rows(
    list="speeds", name="Speed", empty="No speed yet.", columns=(typed(VALUE, "Speed"),), typed=(VALUE,), ends=(VALUE,)
)
SETTINGS = Rows(
    list="settings",
    name="Setting",
    empty="No setting yet: the lowest first.",
    columns=(typed("setting", "Setting"), typed("revolutions", "Turns"), typed("seconds", "Seconds"), remark("rpm", "A minute"), remark("discharge", "Gives")),
    typed=("setting", "revolutions", "seconds"),
    ends=("seconds",),
    tool=TapCounter("turn", into="revolutions", seconds=60, timed="seconds"),
)  # fmt: skip
CATCHES = Rows(
    list="catches",
    name="Catch",
    empty="No catch yet: some whole turns into the container.",
    columns=(typed("revolutions", "Turns"), typed("gross", "Gross"), typed("tare", "Tare"), typed("net", "Net"), remark("per_turn", "For one turn")),
    typed=("revolutions", "gross", "tare", "net"),
    ends=("tare", "net"),
    either=("gross+tare", "net"),
)  # fmt: skip
EARLIER = Rows(
    list="earlier",
    name="Gate",
    empty="None tried before.",
    columns=(typed("gate_opening", "Opening"), typed("mass_per_revolution", "For one turn")),
    typed=("gate_opening", "mass_per_revolution"),
    ends=("mass_per_revolution",),
    keeps={"gate_opening": "gate_opening", "mass_per_revolution": "mass_per_revolution"},
    clears=("gate_readings", "catches"),
)


class RateChart(Method[RateChartInputs, RateChartResults]):
    """`rate-chart`: what each setting gives at each speed, and how far to open the gate."""

    key = "rate-chart"
    title = "Rate chart"
    summary = "Turns at each setting, one catch, the chart of settings by speeds"
    question = "Which setting gives the target?"
    subject = "The chart"
    half_done = "the gate was moved, and no catch shows yet what it gives"
    profile = "metered-feed"
    inputs = RateChartInputs
    results = RateChartResults
    compares = True
    confirms = True
    takes = {"vehicle": "channel"}
    remembers = (
        "settings.setting",
        "settings.seconds",
        "speeds.value",
        "target_low",
        "target_high",
        "lanes",
        "lane_width",
        "engine_low",
        "engine_high",
        "material",
    )
    against = ("reference_division", "target_low", "target_high")
    acts = {
        "gate_readings.value": (),
        "settings.setting": (Act("setting"), Act("count")),
        "settings.revolutions": (),
        "settings.seconds": (),
        "catches.revolutions": (Act("catch", shares=(2, 2.4)),),
        "catches.gross": (Act("weigh"),),
        "catches.tare": (),
        "inputs.engine": (),
    }
    change = (Act("move", "suggested_gate"),)
    reads = (
        Reads(looks.GATE_FAST, "gate_readings", by_itself=True),
        Reads(looks.ENGINE, "engine", ("engine",), ("engine",)),
        Reads(looks.MARK, "settings.revolutions", codes=("falling",), least=2),
        Reads(looks.SAME_AGAIN, "catches.revolutions", codes=("not-repeating",), least=2),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "Spinner off and out of the way; loaded to its resting heap, so that one turn in is one turn out.",
            items=(
                Item("spinner", "Spinner off", "The spinner is off: set it back."),
                Item("heap", "Loaded to its resting heap, material dry and free", looks=keys(looks.HOPPER, looks.DAMP)),
                Item("marker", "A marker on the shaft that can be counted from outside"),
                Item("two", "Two people, one at each end, who can hear each other"),
            ),
            cautions=CAUTIONS,
        ),
        Enter("vehicle", "Vehicle", fields=("vehicle", "material", "reference_division")),
        Listed("gate", "Gate", "Measured with a rule at both sides, not read off the lever.", rows=GATE),
        Enter("engine", "Engine", "At the speed that it has under load, and held there while turns are counted.", fields=("engine_low", "engine_high", "engine", "prepared")),
        Listed("settings", "Turns", "Count for a minute at each setting; half turns count.", rows=SETTINGS, cautions=(CAUTIONS[0],)),
        Listed("catches", "Catch", "Some whole turns; the sheets and the container are in the tare, or on the scale when it was zeroed.", rows=CATCHES, cautions=(CAUTIONS[1],)),
        Enter("wanted", "What is wanted", "Asked once the table is there.", fields=("target_low", "target_high", "lanes", "lane_width", "working")),
        Listed("speeds", "Speeds", "Those at which the work is done.", rows=SPEEDS),
        Listed("earlier", "Gates tried", "After a change of gate only the catch is made again; the turns stay.", rows=EARLIER),
        Enter("season", "A season", "Only for what too much would cost.", fields=("season_distance", "price_per_tonne")),
        Figures("figures", "What it comes to", ),
        Close("close", "Close", "Spinner back on, card in the cab, then write it up."),
    )  # fmt: skip

    def changed(self, given: RateChartInputs, answer: Assessment[RateChartResults], marks: Marks) -> bool:
        return bool(marks.read_back) or bool(given.earlier)

    def asks_for_change(self, answer: Assessment[RateChartResults]) -> bool:
        return False

    def errors(self, given: RateChartInputs, answer: Assessment[RateChartResults]) -> Errors | None:
        return None

    def hands_back(self, given: RateChartInputs, answer: Assessment[RateChartResults], plates: object) -> HandsBack:
        """Gate, mass for one turn and the working cell, for the card in the cab."""
        results = answer.results
        kept: dict[str, str] = {}
        if answer.call != LEAVE:
            return HandsBack()
        if results.gate_opening:
            kept["gate_opening"] = results.gate_opening.written(4)
        if results.mass_per_revolution:
            kept["mass_per_revolution"] = results.mass_per_revolution.written(4)
        best = results.recommended[0] if results.recommended else None
        if best and best.setting and best.speed:
            kept["setting"] = f"{best.setting.value:g}"
            kept["speed"] = best.speed.written()
        return HandsBack(plates=kept)
