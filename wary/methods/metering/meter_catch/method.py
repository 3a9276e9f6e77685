"""A meter's mass for one turn or count: turned, caught, weighed, until two catches agree."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from wary.fields import (
    AboveZero,
    Flag,
    Inputs,
    MassFromZero,
    Percentage,
    PerTurn,
    PositiveMass,
    WhyAside,
    Words,
    choice,
    field,
    plate,
)
from wary.methods.metering.arithmetic import CAUTIONS
from wary.methods.method import Errors, HandsBack, Marks, Method
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, remark, typed
from wary.results import Figure, Results, figure, value_of
from wary.rules.assessment import (
    LEAVE,
    Assessment,
)

Per = Annotated[str, choice(revolution="revolution", count="count")]
DisplayUnit = Annotated[str, choice(kg="kilograms", g="grams", lb="pounds", oz="ounces")]


@dataclass(slots=True, eq=False)
class MeterResults(Results):
    """Results of a catch at a meter."""

    values: list[Figure] | None = figure("value of each catch")
    mean: Figure | None = figure("for one", summary=True, large=True)
    difference: Figure | None = figure(
        "the controller has it off by", "percentage", summary=True, large=True, signed=True
    )
    change_last: Figure | None = figure("change of the last catch", "percentage", signed=True)
    new_value: Figure | None = figure("new value")
    smallest_amount: Figure | None = figure("smallest amount", "mass")


class Catch(Inputs):
    """One catch: what it weighs on a scale, or by the vessel's own, and how many turns or counts it took."""

    gross: MassFromZero | None = field("Gross")
    tare: MassFromZero | None = field("Tare of the container")
    zeroed: Flag | None = field("Scale zeroed with the container on it")
    start_mass: MassFromZero | None = field("Vessel at the start")
    end_mass: MassFromZero | None = field("Vessel at the end")
    amount: AboveZero | None = field("Turns or counts", ask="type how many turns or counts it took.")
    set_aside: WhyAside | None = field("Why it is set aside")

    @classmethod
    def contradicting(cls, raw: Mapping[str, Any]) -> list[tuple[str, str]]:
        found = []
        if raw.get("zeroed") is True and raw.get("tare") is not None:
            text = "stands beside “zeroed”: true; expected a tare, or a scale zeroed with the container on it, not both"
            found.append(("tare", text))
        for key in ("start_mass", "end_mass"):
            if raw.get(key) is not None and raw.get("gross") is not None:
                text = "stands beside “gross” in the same catch; expected a container's weight, or the vessel's own, not both"
                found.append((key, text))
        return found


class OtherTank(Inputs):
    """A second tank that was caught at the same time."""

    old_value: PerTurn | None = field("Its value in the controller")
    net: MassFromZero | None = field("Its net")
    amount: AboveZero | None = field("Its turns or counts")


class MeterCatchInputs(Inputs):
    """Inputs of a catch test."""

    tank: Words | None = field("Tank")
    per: Per | None = plate("For one")
    old_value: PerTurn | None = field("In the controller now")
    runs: list[Catch] | None = field(
        "Catches", ask="Turn the meter over a container, weigh it, and type what it weighs."
    )
    reference_division: PositiveMass | None = plate("Division of the scale")
    display_unit: DisplayUnit | None = field("The display wants")
    agree: Percentage | None = field("Two catches agree within", "1 % where nothing is said")
    primed: Flag | None = field("Primed", "the meter full first; that material put back and not counted")
    set_up_matches: Flag | None = field(
        "As set", "roller or meter, width, spacing, product and tank as the controller has them"
    )
    other_tank: OtherTank | None = field("A second tank, caught at the same time")
    keyed_value: PerTurn | None = field("In the controller now, keyed in", "read back off the controller")


RUNS = Rows(
    list="runs",
    name="Catch",
    empty="No catch yet: prime it first, and put that material back.",
    columns=(typed("amount", "Turns"), typed("gross", "Gross"), typed("tare", "Tare"), typed("start_mass", "Vessel before"), typed("end_mass", "Vessel after"), remark("net", "Net"), remark("value", "For one"), remark("change", "Change")),
    typed=("amount", "zeroed", "gross", "tare", "start_mass", "end_mass"),
    ends=("tare", "end_mass"),
    either=("gross+tare+zeroed", "start_mass+end_mass"),
)  # fmt: skip


class MeterCatch(Method[MeterCatchInputs, MeterResults]):
    """`meter-catch`: mass for one turn or count, from catches that agree."""

    key = "meter-catch"
    title = "Catches"
    summary = "So many turns over a container, weighed, until two agree"
    question = "What does one turn give?"
    subject = "The meter"
    half_done = "a new value is keyed in, and no catch shows yet what it gives"
    profile = "metered-feed"
    inputs = MeterCatchInputs
    results = MeterResults
    compares = True
    confirms = True
    takes = {"tank": "channel"}
    against = ("reference_division",)
    steps = (
        Look(
            "look",
            "Look first",
            "Which tank, which roller, which product; and who stands where.",
            items=(
                Item("roller", "Roller or meter fitted is the one that is set"),
                Item("product", "The right product, dry and free, enough of it in the tank"),
                Item("container", "An empty container of known tare under this tank's outlet, and no other"),
                Item("trim", "Automatic trim of the feeder off", "Automatic trim is off: put it back on."),
                Item("guard", "A guard was taken off", "A guard is off: put it back."),
            ),
            cautions=CAUTIONS,
        ),
        Enter("set-up", "Set-up", "What the controller holds, and what its display wants.", fields=("tank", "per", "old_value", "display_unit", "reference_division", "agree", "set_up_matches")),
        Enter("prime", "Prime", "Turn until it runs full; put that material back and do not count it.", fields=("primed",), cautions=(CAUTIONS[1],)),
        Listed("runs", "Catches", "Turn it at about its speed in the field. A tare is taken off once: on the scale, or here.", rows=RUNS, cautions=(CAUTIONS[0],)),
        Enter("other", "A second tank", "Only where two were caught at once: then swapped containers are found.", fields=("other_tank",)),
        Figures("figures", "What to key in", fields=("keyed_value",)),
        Close("close", "Close", "Guards on, automatic trim back on, then write it up."),
    )  # fmt: skip

    def changed(self, given: MeterCatchInputs, answer: Assessment[MeterResults], marks: Marks) -> bool:
        return bool(marks.read_back) or given.keyed_value is not None

    def asks_for_change(self, answer: Assessment[MeterResults]) -> bool:
        return False

    def errors(self, given: MeterCatchInputs, answer: Assessment[MeterResults]) -> Errors | None:
        off = value_of(answer.results.difference)
        return None if off is None else Errors(off)

    def hands_back(self, given: MeterCatchInputs, answer: Assessment[MeterResults], plates: object) -> HandsBack:
        """The value for one turn, once it is keyed in."""
        return (
            HandsBack(plates={"old_value": given.keyed_value.text})
            if given.keyed_value and answer.call == LEAVE
            else HandsBack()
        )
