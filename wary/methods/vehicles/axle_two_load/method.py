"""Axle groups of a vehicle, empty and heavy, against the tickets of a ground scale.

Most instruments of this kind show no raw figure: the reading of each group is stepped until it
equals the ticket, and the record is the match. Two loads set both ends of a line; with one of
them alone nothing is valid.
"""

from dataclasses import dataclass

from wary.acts import SETTLE, Act
from wary.fields import Flag, Inputs, Mass, MassFromZero, Number, PositiveMass, PositiveTime, Words, field, plate
from wary.methods.method import Marks, Method
from wary.methods.reads import Reads
from wary.methods.shared.cautions import AXLE_AIR, AXLE_LEVEL, OWN_RULES
from wary.methods.steps import Alike, Close, Column, Countdown, Enter, Figures, Item, Listed, Look, Rows, remark, typed
from wary.quantities import Quantity
from wary.results import Figure, Results, figure
from wary.rules.assessment import LEAVE, Assessment
from wary.suspects import looks
from wary.suspects.suspect import keys


@dataclass(slots=True, eq=False)
class AxleResults(Results):
    """Results of two loads on axles."""

    payloads: list[Figure] | None = figure("payload of each group", "mass")
    total_payload: Figure | None = figure("payload between the two loads", "mass", summary=True, large=True)
    slopes: list[Figure] | None = figure("slope of each group", "mass")
    offsets: list[Figure] | None = figure("offset of each group", "mass", signed=True)
    empty_mismatch: Figure | None = figure("empty: groups less gross", "mass", signed=True)
    heavy_mismatch: Figure | None = figure("heavy: groups less gross", "mass", signed=True)
    match_errors: list[Figure] | None = figure("off after matching", "mass", signed=True)
    found_errors: list[Figure] | None = figure("off as found, each group", "mass", signed=True)
    found_error_share: Figure | None = figure("off as found, share", "percentage", signed=True)
    proof_errors: list[Figure] | None = figure("off at the third weighing, each group", "mass", signed=True)
    proof_error: Figure | None = figure("off at the third weighing", "mass", summary=True, large=True, signed=True)
    proof_error_share: Figure | None = figure(
        "off at the third weighing, share", "percentage", summary=True, signed=True
    )


class Group(Inputs):
    """One axle group: its two tickets, and what the instrument showed of it."""

    name: Words | None = field("Group")
    empty_ticket: MassFromZero | None = field(
        "Empty, on the ticket", ask="weigh it empty on a ground scale, and type the ticket."
    )
    heavy_ticket: MassFromZero | None = field(
        "Heavy, on the ticket", ask="weigh it heavy on the same scale, and type the ticket."
    )
    empty_before: Mass | None = field("Empty, before it was stepped", "what it showed as found")
    heavy_before: Mass | None = field("Heavy, before it was stepped", "what it showed as found")
    empty_shown: Mass | None = field("Empty, after it was matched")
    heavy_shown: Mass | None = field("Heavy, after it was matched")
    empty_raw: Number | None = field("Empty, raw figure", "where the instrument shows one")
    heavy_raw: Number | None = field("Heavy, raw figure", "where the instrument shows one")
    known_slope: PositiveMass | None = field(
        "A count is, by an earlier record", "provisional until a third weighing proves it"
    )
    proof_ticket: MassFromZero | None = field("Proof, on the ticket")
    proof_shown: Mass | None = field("Proof, as shown")

    def weighings(self) -> tuple[tuple[str, Quantity | None, Quantity | None], ...]:
        """Each weighing by name, with its ticket and what was shown."""
        return (
            ("empty", self.empty_ticket, self.empty_shown),
            ("heavy", self.heavy_ticket, self.heavy_shown),
            ("proof", self.proof_ticket, self.proof_shown),
        )


class AxleInputs(Inputs):
    """Inputs of an axle calibration with two loads."""

    groups: list[Group] | None = field(
        "Axle groups", ask="Name the axle groups, and type what the ticket says of each."
    )
    ticket_division: PositiveMass | None = plate("Division of the ticket")
    empty_scale: Words | None = field("Ground scale, empty")
    heavy_scale: Words | None = field("Ground scale, heavy")
    proof_scale: Words | None = field("Ground scale of the proof")
    scales_differ_by: MassFromZero | None = field("Two ground scales may differ by", "150 kg where nothing is said")
    empty_gross: PositiveMass | None = field("Printed gross, empty")
    heavy_gross: PositiveMass | None = field("Printed gross, heavy")
    empty_prepared: Flag | None = field(
        "Prepared, empty", "level, chocked, brakes off, suspension emptied and filled, at ride height"
    )
    heavy_prepared: Flag | None = field("Prepared, heavy", "the same again, driver and fuel as on the ticket")
    empty_for: PositiveTime | None = plate("Empty the suspension for", "as long as this vehicle asks")
    ratio_from: Words | None = field("Which record the known ratios are from")


BOTH = (typed("name", "Group"), typed("empty_ticket", "Empty"), typed("empty_before", "Found"), remark("empty_off", "Off"), typed("heavy_ticket", "Heavy"), typed("heavy_before", "Found"), remark("heavy_off", "Off"))  # fmt: skip
PROVED = (
    typed("name", "Group"),
    typed("proof_ticket", "Ticket"),
    typed("proof_shown", "Shown"),
    remark("proof_off", "Off"),
)
RAW = (typed("name", "Group"), typed("empty_raw", "Empty"), typed("heavy_raw", "Heavy"), typed("known_slope", "By an earlier record"), remark("slope", "A count is"))  # fmt: skip


EMPTIED = Countdown(title="emptying of the suspension", time="empty_for", times="")
ACCEPTED_EMPTY = Item("accepted-empty", "Each press of a key was answered: the instrument accepted it")
ACCEPTED_HEAVY = Item("accepted-heavy", "Each press of a key was answered: the instrument accepted it")


MATCHED = "Each group shows its ticket"


def _rows(columns: tuple[Column, ...], *keys: str, fixed: bool = True, alike: tuple[Alike, ...] = ()) -> Rows:
    return Rows(
        alike=alike,
        list="groups",
        name="Group",
        empty="No groups yet: name the first, from the front.",
        columns=columns,
        typed=keys,
        ends=keys[-1:],
        fixed=fixed,
        resume=not fixed,
        spare=("empty_before", "heavy_before"),
    )


class AxleTwoLoad(Method[AxleInputs, AxleResults]):
    """`axle-two-load`: two loads matched group by group, proved by a third weighing."""

    key = "axle-two-load"
    title = "Two loads"
    summary = "Each axle group empty and heavy, against tickets of a ground scale"
    question = "Do the axles read what the tickets say?"
    subject = "The axles"
    half_done = "its two loads are not both in and matched yet"
    profile = "axle"
    inputs = AxleInputs
    results = AxleResults
    compares = True
    confirms = True
    remembers = ("groups.name", "empty_scale", "heavy_scale", "scales_differ_by", "empty_for")
    against = ("ticket_division",)
    acts = {
        "inputs.empty_prepared": (),
        "inputs.heavy_prepared": (),
        "groups.empty_ticket": (Act("empty-weight"), Act("prepare"), Act("weigh")),
        "groups.empty_shown": (SETTLE,),
        "groups.empty_raw": (),
        "groups.heavy_ticket": (Act("heavy-weight"), Act("prepare"), Act("weigh")),
        "groups.heavy_shown": (SETTLE,),
        "groups.heavy_raw": (),
        "groups.proof_ticket": (Act("half-weight"), Act("prepare"), Act("weigh")),
        "groups.proof_shown": (SETTLE,),
    }
    change = (
        Act("empty-weight"),
        Act("prepare"),
        SETTLE,
        Act("match", "empty_ticket"),
        Act("heavy-weight"),
        Act("prepare"),
        SETTLE,
        Act("match", "heavy_ticket"),
    )
    reads = (
        Reads(looks.EMPTIED, "heavy_prepared", ("prepared",), said=True),
        Reads(looks.LEVEL, "heavy_prepared", ("prepared",), said=True),
        Reads(looks.BRAKES, "heavy_prepared", ("prepared",), said=True),
        Reads(looks.RISES, "groups.heavy_raw", ("heavier",)),
    )
    steps = (
        Look(
            "look",
            "Look first",
            "Which vehicle, which trailer, and what was changed on it since.",
            items=(
                Item("identity", "Vehicle and trailer are those of this channel"),
                Item("tyres", "Tyres, springs and air bags as they were; nothing leaks", looks=keys(looks.TYRES)),
                Item("sensors", "Hoses and plugs of the sensors sound and dry"),
                Item("chocked", "Wheels chocked", "The chocks are in: take them away before driving off."),
            ),
            cautions=(AXLE_LEVEL, AXLE_AIR, OWN_RULES),
        ),
        Enter("tickets", "The ground scale", "One scale for both loads, weighed group by group.", fields=("ticket_division", "empty_scale", "heavy_scale", "proof_scale", "scales_differ_by")),
        Enter("prepare-empty", "Prepare, empty", "Level, chocked, then the brakes off; empty the suspension for some seconds, fill it again to ride height; driver and fuel as on the ticket.", fields=("empty_for", "empty_prepared", "empty_gross"), cautions=(AXLE_AIR,), tool=EMPTIED),
        Listed("empty", "Empty", "Step each group's reading until it equals the ticket.", rows=_rows(BOTH, "name", "empty_ticket", "empty_before", "empty_shown", fixed=False, alike=(Alike("empty_shown", "empty_ticket", MATCHED),)), items=(ACCEPTED_EMPTY,)),
        Enter("prepare-heavy", "Prepare, heavy", "The same again with the load on. It need not be the full one.", fields=("heavy_prepared", "heavy_gross"), cautions=(AXLE_AIR,), tool=EMPTIED),
        Listed("heavy", "Heavy", "The other end of the line: step each group's reading until it equals the ticket.", rows=_rows(BOTH, "name", "heavy_ticket", "heavy_before", "heavy_shown", fixed=False, alike=(Alike("heavy_shown", "heavy_ticket", MATCHED),)), items=(ACCEPTED_HEAVY,)),
        Listed("proof", "Proof", "A third weighing, with another load: nothing is stepped any more.", rows=_rows(PROVED, "proof_ticket", "proof_shown")),
        Listed("raw", "Raw figures", "Where the instrument shows them: they give slope and offset of each group. A known ratio of an earlier record may stand for the second load, as provisional.", fields=("ratio_from",), rows=_rows(RAW, "empty_raw", "heavy_raw", "known_slope")),
        Figures("figures", "What it comes to", ),
        Close("close", "Close", "Chocks away, card in the cab, then write it up."),
    )  # fmt: skip

    def changed(self, given: AxleInputs, answer: Assessment[AxleResults], marks: Marks) -> bool:
        """From the first ticket on that a group is stepped to, the instrument is no longer as it was found."""
        return bool(marks.read_back) or any(g.empty_ticket or g.heavy_ticket for g in given.groups or [])

    def proved(self, given: AxleInputs, answer: Assessment[AxleResults]) -> bool:
        return answer.call == LEAVE
