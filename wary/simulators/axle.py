"""A lorry that weighs its axle groups through its suspension.

A group's sensor feels what the group carries, but the suspension holds back: after every change of
load it sticks to one side until it is emptied and filled to ride height again; brakes wind it up.
The instrument knows two points a group (empty, heavy) and reads along the line through them. Masses
in kg, times in s.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from wary.live import Readout
from wary.simulators.folded import Folded, Lagged, Mendable, readout, stepped
from wary.simulators.stand_in import (
    Action,
    Control,
    Does,
    Hidden,
    OnRecord,
    Scale,
    StandIn,
    Ticket,
    TicketFigure,
    does,
    waits,
)

GROUPS = ("steer", "drive")
LOADS = {"empty": (6240.0, 5420.0), "heavy": (7120.0, 16240.0), "part": (6680.0, 11040.0)}
"""What the two groups carry in each state of loading, kg."""
PROOF = "part"
DIVISION, TICKET_DIVISION = 10.0, 20.0
SLOPE = 0.018
"""Share of the gross that leans from the one group to the other on the slope."""
READY = "The driver says that it does not agree with the weighbridge."

FAULTS = {
    "none": Hidden("It was in order.", "Both loads read as the tickets say.", "leave"),
    "sticky": Hidden(
        "It was in order: its suspension is stiff, and holds back until it is emptied and filled again.",
        "The reading jumped when the suspension was emptied.", "leave", "hard", READY),
    "out": Hidden(
        "It had moved: the air bags are new, and neither load read right.",
        "Both loads were off, each by its own amount, and stood still.", "adjust", "easy", "New air bags were fitted."),
    "heavy-out": Hidden(
        "Only the heavy end had moved.", "Empty it agreed; heavy it did not.", "adjust", "hard", READY),
    "valve": Hidden(
        "The levelling valve leaked: the drive group sank while it stood.",
        "The drive group's reading ran away while it was watched.", "find-fault", "fair", READY, ("valve",), seen={"still": "The drive group's reading runs away while it stands."}),
    "reversed": Hidden(
        "The drive group's sensor was mounted the wrong way round.",
        "The raw figure fell as the load grew.", "find-fault", "easy", "A sensor was replaced.", ("sensor",), seen={"rises": "With the load on the drive group's raw figure falls."}, logged=("sensor",)),
    "exchanged": Hidden(
        "The hoses of the two groups were exchanged.",
        "The steering group grew as the drive group should.", "find-fault", "fair", "The hoses were renewed.", ("hoses",), seen={"bag-hoses": "The hose of the drive group ends at the other group's sensor."}, logged=("sensor",)),
    "brake": Hidden(
        "A brake did not let go: the drive group was wound up.",
        "Brakes off changed nothing, and the reading came otherwise each time.", "find-fault", "hard", READY, ("brake",), seen={"brakes": "A wheel of the drive group does not come free."}),
}  # fmt: skip

MENDS = {"valve": "Mend the levelling valve", "sensor": "Turn the sensor round", "hoses": "Put the hoses right", "brake": "Free the brake"}  # fmt: skip

CONTROLS = (
    Control(name="empty", group="load", words="Drive it empty", does="load", figure=0),
    Control(name="part", group="load", words="Half a load", does="load", figure=2),
    Control(name="heavy", group="load", words="A heavy load", does="load", figure=1),
    Control(name="brakes-off", group="run", words="Chocks in, brakes off", does="brakes"),
    Control(name="brakes-on", group="run", words="Brakes on", does="brakes", figure=1),
    Control(name="dump", group="run", words="Empty the suspension", does="dump"),
    Control(name="fill", group="run", words="Fill to ride height", does="fill"),
    Control(name="match-steer", group="set", words="Step steer to", does="match-steer", typed=True, unit="kg"),
    Control(name="match-drive", group="set", words="Step drive to", does="match-drive", typed=True, unit="kg"),
    Control(name="slope", group="load", words="Onto the slope", does="ground", figure=1, serves=("proof_shown",)),
    Control(name="level", group="load", words="Onto level ground", does="ground", serves=("proof_shown",)),
    *(Control(name=name, group="fault-finding", words=words, does=name) for name, words in MENDS.items()),
    *waits(("Wait 10 s", 10), ("Wait 1 min", 60)),
)


@dataclass
class Rolling(Mendable):
    """Which load is on, what holds back, and the two points that the instrument knows of each group."""

    felt: dict[str, Lagged]
    points: dict[str, list[tuple[float, float]]]
    load: str = "empty"
    changes: int = 0
    sticks: bool = True
    flat: bool = False
    brakes: bool = True
    sloping: bool = False
    since: float = 0.0


class Axle(Folded[Rolling]):
    """A stand-in lorry with two axle groups and a ground scale."""

    doing = {
        "empty-weight": (Does("load", 0),),
        "heavy-weight": (Does("load", 1),),
        "half-weight": (Does("load", 2),),
        "prepare": (Does("ground", 0), Does("brakes", 0), Does("dump", 0), Does("fill", 0)),
        "match": does("match-"),
    }
    mending = {"valve": "valve", "reversed": "sensor", "exchanged": "hoses", "brake": "brake"}

    shape = "vehicle"
    faults = FAULTS
    controls = CONTROLS
    settings = frozenset({"match-steer", "match-drive"})
    scales = (Scale(name="ground", words="Weigh on the ground scale"),)
    minutes = 60

    def __init__(self, seed: int, fault: str) -> None:
        super().__init__(seed, fault)
        draw = self.draw
        self.gain = {name: draw.uniform(0.9, 1.1) for name in GROUPS}
        self.base = {name: draw.uniform(700, 1100) for name in GROUPS}
        self.stick = {name: draw.uniform(90, 160) * (2.2 if self.has("sticky") else 1) for name in GROUPS}
        self.bias = draw.uniform(-8, 8)
        self.off = {name: (draw.choice((-1, 1)) * draw.uniform(120, 260), draw.choice((-1, 1)) * draw.uniform(220, 480)) for name in GROUPS}  # fmt: skip

    # --- physics ----------------------------------------------------------------------------------

    def carried(self, load: str) -> dict[str, float]:
        """What each group carries, kg."""
        return dict(zip(GROUPS, LOADS[load], strict=True))

    def raw(self, state: Rolling, group: str, t: float) -> float:
        """What a group's sensor gives, as a plain number: one for a kilogram, more or less."""
        felt = self.felt(state, group)
        if group == "drive" and self.wrong(state, "valve"):
            felt -= 1.1 * min(600.0, max(0.0, t - state.since))
        of = group
        if self.wrong(state, "exchanged"):
            of = GROUPS[1 - GROUPS.index(group)]
            felt = self.felt(state, of)
        if group == "drive" and self.wrong(state, "reversed"):
            return 24_000 - felt * self.gain[group]
        return self.base[of] + felt * self.gain[of]

    def felt(self, state: Rolling, group: str) -> float:
        """What a group's suspension passes on, kg: what it carries, what it holds back, what a brake winds up."""
        groups = self.carried(state.load)
        carried = groups[group]
        if state.sloping:
            # On a slope part of the weight leans onto the group that stands lower.
            carried += SLOPE * sum(groups.values()) * (1 if group == "drive" else -1)
        if state.flat:
            return 0.3 * carried
        number = state.changes
        if state.sticks:
            carried += self.stick[group] * (1 if self.chance(group, number).random() < 0.5 else -1)
        wound = state.brakes or (group == "drive" and self.wrong(state, "brake"))
        if wound:
            carried += self.chance(f"brake {group}", number).uniform(-260, 260)
        return carried

    def shown(self, state: Rolling, group: str, raw: float) -> float:
        """What the instrument makes of a raw figure, kg: along the line through its two points."""
        (low, at_low), (high, at_high) = state.points[group]
        if high == low:
            return at_low
        return at_low + (raw - low) * (at_high - at_low) / (high - low)

    # --- the stand-in -----------------------------------------------------------------------------

    def at_first(self) -> Rolling:
        points = {}
        for group in GROUPS:
            empty, heavy = self.carried("empty")[group], self.carried("heavy")[group]
            heavy_off = (0.0, self.off[group][1] if self.has("heavy-out") else 0.0)
            off = self.off[group] if self.has("out") else heavy_off
            raws = [self.base[group] + felt * self.gain[group] for felt in (empty, heavy)]
            points[group] = [(raws[0], empty + off[0]), (raws[1], heavy + off[1])]
        state = Rolling({group: Lagged(1.5) for group in GROUPS}, points)
        for group, felt in state.felt.items():
            felt.aim = self.raw(state, group, 0.0)
        return state

    def act(self, state: Rolling, action: Action) -> None:
        what, t = action.what, action.at
        if what == "load":
            state.load = ("empty", "heavy", PROOF)[max(0, min(2, int(action.figure)))]
            state.changes += 1
            state.sticks, state.brakes, state.flat = True, True, False
        elif what == "brakes":
            state.brakes = action.figure > 0
        elif what == "ground":
            state.sloping = action.figure > 0
        elif what == "dump":
            state.flat = True
        elif what == "fill":
            state.sticks, state.flat = state.sticks and not state.flat, False
        elif what in ("match-steer", "match-drive"):
            self._match(state, what.removeprefix("match-"), action.figure, t)
            return
        elif what not in MENDS:
            return
        state.since = t
        for group, felt in state.felt.items():
            felt.lead(t, self.raw(state, group, t))

    def _match(self, state: Rolling, group: str, ticket: float, t: float) -> None:
        """Steps a group's reading until it is what the ticket says: the point of the load that is on moves."""
        points = state.points[group]
        place = 1 if state.load == "heavy" else 0
        points[place] = (self._reads(state, group, t), ticket)

    def _reads(self, state: Rolling, group: str, t: float) -> float:
        leaks = group == "drive" and self.wrong(state, "valve")
        return self.raw(state, group, t) if leaks else state.felt[group].at(t)

    def shows(self, state: Rolling, t: float) -> Sequence[Readout]:
        found = []
        for group in GROUPS:
            raw = self._reads(state, group, t)
            leaks = group == "drive" and self.wrong(state, "valve")
            steady = state.felt[group].still(t, DIVISION / 2) and not leaks
            weight = self.shown(state, group, raw) + self.noise(t, 2.5, group)
            into = ("empty_shown", "heavy_shown", "proof_shown")
            found.append(readout(group, group, weight, DIVISION, "kg", *into, steady=steady, of=group))
            found.append(readout(f"{group}-raw", f"{group}, raw", raw, 1, "", "empty_raw", "heavy_raw", steady=steady, of=group))  # fmt: skip
        return found

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """Both groups and the gross, by the ground scale, for the load that is on."""
        load = self.after(actions, t).load
        kind = "proof" if load == PROOF else load
        weighed = {group: stepped(mass + self.bias, TICKET_DIVISION) for group, mass in self.carried(load).items()}
        gross = stepped(sum(weighed.values()) + self.noise(t, 9, "gross"), TICKET_DIVISION)
        figures = [TicketFigure(into=f"groups.{kind}_ticket", text=f"{mass:g}", unit="kg", of=group) for group, mass in weighed.items()]  # fmt: skip
        if kind != "proof":
            figures.append(TicketFigure(into=f"{kind}_gross", text=f"{gross:g}", unit="kg"))
        words = ", ".join(f"{group} {mass:g} kg" for group, mass in weighed.items())
        return Ticket(title=f"{words}, gross {gross:g} kg", figures=tuple(figures))

    def reads_right(self, actions: Sequence[Action]) -> bool:
        state = self.after(actions)
        if not self.hale(state):
            return False
        for load in LOADS:
            for group, carried in self.carried(load).items():
                raw = self.base[group] + carried * self.gain[group]
                if abs(self.shown(state, group, raw) - carried) > 60:
                    return False
        return True

    def right_figure(self) -> str:
        return "each group stepped to its ticket, empty and heavy"

    @staticmethod
    def on_record() -> OnRecord:
        return OnRecord(
            name="Practice lorry",
            material="practice shell",
            plates={
                "capacity": "26000 kg", "indicated_division": f"{DIVISION:g} kg",
                "ticket_division": f"{TICKET_DIVISION:g} kg", "axle_groups": 2,
            },
            channel="lorry",
            known={"groups.k1.name": "steer", "groups.k2.name": "drive"},
            reference="Practice ground scale",
            reference_division=f"{TICKET_DIVISION:g} kg",
            reference_range="60 t",
        )  # fmt: skip


STAND_INS: dict[str, type[StandIn]] = {"axle": Axle}
