"""A meter's mass for one turn or count: turned, caught, weighed, until two catches agree."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any

from wary.acts import Act
from wary.fields import (
    AboveZero,
    Count,
    Flag,
    Inputs,
    MassFromZero,
    Percentage,
    PerTurn,
    PerTurnOrMass,
    PositiveLength,
    PositiveMass,
    WhyAside,
    Words,
    choice,
    field,
    plate,
)
from wary.methods.metering.arithmetic import CAUTIONS
from wary.methods.method import Errors, HandsBack, Marks, Method
from wary.methods.reads import Reads
from wary.methods.shared.containers import CONTAINERS_ON_RECORD, KnownContainer
from wary.methods.steps import Close, Enter, Figures, Item, Listed, Look, Rows, remark, typed
from wary.results import Figure, Results, figure, value_of
from wary.rules.assessment import (
    LEAVE,
    Assessment,
)
from wary.suspects import looks
from wary.suspects.suspect import keys

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
    key_in_value: Figure | None = figure("to key in", "mass", large=True)
    vessel_now: Figure | None = figure("the vessel after the last catch", "mass", begins="start_mass")
    other_mean: Figure | None = figure("for one, of the second tank")
    other_difference: Figure | None = figure("the second tank's, off by", "percentage", signed=True)
    smallest_amount: Figure | None = figure("smallest amount", "mass")


class Catch(Inputs):
    """One catch: what it weighs on a scale, or by the vessel's own, and how many turns or counts it took."""

    gross: MassFromZero | None = field("Gross")
    tare: MassFromZero | None = field("Tare of the container")
    zeroed: Flag | None = field("Scale zeroed with the container on it")
    start_mass: MassFromZero | None = field("Vessel at the start")
    end_mass: MassFromZero | None = field("Vessel at the end")
    amount: AboveZero | None = field("Turns or counts", ask="type how many turns or counts it took.")
    shown_value: PerTurn | None = field("Value that the controller gives", "where it counts the turns by itself")
    set_aside: WhyAside | None = field("Why it is set aside")

    @property
    def weighed(self) -> float | None:
        """Its net, kg: of the container, or what the vessel lost; None while it cannot be told."""
        if self.start_mass is not None and self.end_mass is not None:
            return self.start_mass.si - self.end_mass.si
        if self.gross is None:
            return None
        if self.zeroed:
            return self.gross.si
        return self.gross.si - self.tare.si if self.tare is not None else None

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
    runs: list[Catch] | None = field("Its catches")

    @property
    def caught(self) -> tuple[float, float] | None:
        """The net (kg) and the turns of its last catch that counts; None where there is none."""
        if self.net is not None and self.amount is not None:
            return self.net.si, self.amount
        rows = [one for one in self.runs or [] if not one.set_aside and one.amount and one.weighed is not None]
        return (weighed, rows[-1].amount or 0.0) if rows and (weighed := rows[-1].weighed) is not None else None


class MeterCatchInputs(Inputs):
    """Inputs of a catch test."""

    tank: Words | None = field("Tank")
    per: Per | None = plate("For one")
    old_value: PerTurnOrMass | None = field(
        "In the controller now", "for one; a plain mass is for as many as its display stands for"
    )
    value_per: Count | None = plate(
        "The display's value stands for", "so many turns or counts; one where nothing is said"
    )
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
    expected_value: PerTurnOrMass | None = plate("Value that it should be near")
    containers: list[KnownContainer] | None = field("Containers known here")
    roller: Words | None = plate("Roller or meter", "as it is called, on the machine")
    roller_set: Words | None = field("Roller or meter in the controller")
    width: PositiveLength | None = plate("Working width")
    width_set: PositiveLength | None = field("Working width in the controller")
    row_spacing: PositiveLength | None = plate("Row spacing")
    row_spacing_set: PositiveLength | None = field("Row spacing in the controller")
    vessel_in_date: Flag | None = field("The vessel's own scale is in date", "where catches are weighed by it")
    keyed_value: PerTurnOrMass | None = field("In the controller now, keyed in", "read back off the controller")


RUNS = Rows(
    list="runs",
    name="Catch",
    empty="No catch yet: prime it first, and put that material back.",
    columns=(typed("amount", "Turns"), typed("gross", "Gross"), typed("tare", "Tare"), typed("start_mass", "Vessel before"), typed("end_mass", "Vessel after"), typed("shown_value", "Controller gives"), remark("net", "Net"), remark("value", "For one"), remark("change", "Change")),
    typed=("amount", "zeroed", "gross", "tare", "start_mass", "end_mass", "shown_value"),
    ends=("tare", "end_mass", "shown_value"),
    goes_on=True,
    either=("gross+tare+zeroed", "start_mass+end_mass"),
)  # fmt: skip


class MeterCatch(Method[MeterCatchInputs, MeterResults]):
    """`meter-catch`: mass for one turn or count, from catches that agree."""

    key = "meter-catch"
    title = "Catches"
    summary = "So many turns over a container, weighed, until two agree"
    question = "What does one turn give?"
    subject = "The meter"
    passes_for = {"not-agreeing": "scatter", "jumped": "scatter"}
    half_done = "a new value is keyed in, and no catch shows yet what it gives"
    profile = "metered-feed"
    inputs = MeterCatchInputs
    results = MeterResults
    compares = True
    confirms = True
    takes = {"tank": "channel"}
    takes_rows = {"containers": CONTAINERS_ON_RECORD}
    remembers = ("per", "display_unit", "agree")
    against = ("reference_division",)
    acts = {
        "inputs.primed": (Act("prime"),),
        "runs.amount": (
            Act("prime"),
            Act("catch", shares=(3, 3, 2, 4, 3)),
        ),
        "runs.gross": (Act("weigh"),),
        "runs.tare": (),
    }
    change = (Act("key", "new_value"),)
    reads = (
        Reads(looks.PRIMED, "primed", ("primed",), ("not-primed",)),
        Reads(looks.CONTAINERS, "other_tank.net", ("containers",)),
        Reads(looks.ROLLER, "roller_set", ("set-up",)),
        Reads(looks.SAME_AGAIN, "runs.amount", codes=("not-agreeing", "jumped"), least=2),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "Which tank, which roller, which product; and who stands where.",
            items=(
                Item("roller", "Roller or meter fitted is the one that is set", looks=keys(looks.ROLLER)),
                Item("product", "The right product, dry and free, enough of it in the tank", looks=keys(looks.HOPPER)),
                Item("container", "An empty container of known tare under this tank's outlet, and no other", looks=keys(looks.CONTAINERS)),
                Item("trim", "Automatic trim of the feeder off", "Automatic trim is off: put it back on."),
                Item("guard", "A guard was taken off", "A guard is off: put it back."),
            ),
            cautions=CAUTIONS,
        ),
        Enter("set-up", "Set-up", "What the controller holds, and what its display wants.", fields=("tank", "per", "old_value", "value_per", "display_unit", "reference_division", "agree")),
        Enter("as-set", "As set", "What the controller is told of the machine, held against its plates.", fields=("roller_set", "width_set", "row_spacing_set", "set_up_matches"), where={"roller_set": "plate:roller", "width_set": "plate:width", "row_spacing_set": "plate:row_spacing"}),
        Enter("prime", "Prime", "Turn until it runs full; put that material back and do not count it.", fields=("primed",), cautions=(CAUTIONS[1],)),
        Listed("runs", "Catches", "Turn it at about its speed in the field. A tare is taken off once: on the scale, or here.", rows=RUNS, cautions=(CAUTIONS[0],)),
        Enter("other", "A second tank", "Only where two were caught at once: then swapped containers are found.", fields=("other_tank",)),
        Enter("vessel", "The vessel's own scale", "Only where a catch was weighed by it.", fields=("vessel_in_date",)),
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

    def set_before(self, given: MeterCatchInputs) -> str:
        return given.old_value.text if given.old_value else ""

    def hands_back(self, given: MeterCatchInputs, answer: Assessment[MeterResults], plates: object) -> HandsBack:
        """The value for one turn, once it is keyed in."""
        return (
            HandsBack(plates={"old_value": given.keyed_value.text})
            if given.keyed_value and answer.call == LEAVE
            else HandsBack()
        )
