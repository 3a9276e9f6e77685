"""A belt conveyor with its scale, that behaves like one.

It has plates, a true state that nobody sees, settings that can be changed, noise, and perhaps a
fault. Its reading at a time `t` (s since the start) is a function of the seed and of the actions
before `t`: `run`, `stop`, `feed` (t/h), `hang` (kg), `unhang`, `zero`, `key` (factor), `clean`,
`tension`, `decimals` (1 raised, 0 back). Masses in kg, rates in kg/s, lengths in m inside; what it shows is in the units of its
display.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar

from wary.live import Live, Readout
from wary.simulators.stand_in import (
    KEY,
    SKIP,
    TICKET,
    Action,
    Control,
    Does,
    Followed,
    Hidden,
    OnRecord,
    Scale,
    StandIn,
    Ticket,
    begun,
    by_time,
    does,
    gross_and_tare,
)

UNSURE = "They say that it does not agree with the weighbridge."

FAULTS = {
    "none": Hidden("It was in order.", "The errors of the runs stayed within the limit, on either side of nought.", "leave"),
    "first": Hidden(
        "It was in order: the first minutes after the start, with the belt half empty, read low.",
        "One run beside the others, and the others agreed.", "leave", "hard", UNSURE, seen={"run-in": "Weighed again it reads otherwise than at first."}),
    "out": Hidden(
        "It was simply out: the factor was wrong, and nothing else.",
        "Every run was off by the same share, whatever its size.", "adjust", "easy", UNSURE),
    "spacing": Hidden(
        "The idler spacing typed into the instrument was not the one on the frame.",
        "Every run was off by the same large share: a ratio of two spacings.", "find-fault", "easy", UNSURE, seen={"spacing": "The tape says another spacing than the one that is set.", "plates": "The spacing that is set is not the one on the frame."}),
    "build-up": Hidden(
        "Material had built up on the weigh idlers since the last zero.",
        "The empty belt showed a rate, and the zero was not where it was left.", "find-fault", "fair", cures=("clean",), seen={"caked": "Material lies a hand high on the weigh frame."}),
    "tight-belt": Hidden(
        "The belt was too tight: it carried part of the load past the scale.",
        "The hung weight read right, and real material read low.", "find-fault", "hard", UNSURE, ("tension",), seen={"tension": "The take-up stands at its end: the belt is as tight as a drum."}),
    "seized-idler": Hidden(
        "A weigh idler had seized: it let go and gripped again.",
        "The runs did not repeat, with the same material.", "find-fault", "fair", UNSURE, seen={"idlers": "A weigh idler stands still while the belt runs over it."}),
    "wind": Hidden(
        "Wind lifted and pressed the belt.",
        "The empty belt's readings wandered from one revolution to the next.", "find-fault", "hard", "It was never steady here.", seen={"wind": "Wind comes under the empty belt and lifts it."}),
    "slipping": Hidden(
        "The tachometer slipped: speed, and so the total, came and went.",
        "The runs did not repeat, and all of them read low.", "find-fault", "fair", UNSURE, seen={"speed": "Ten turns of the belt, and the instrument counts fewer."}),
}  # fmt: skip
"""What can be true of it."""

CONTROLS: tuple[Control, ...] = (
    Control(name="run", group="run", words="Run", does="run"),
    Control(name="stop", group="run", words="Stop", does="stop"),
    Control(name="feed", group="load", words="Feed", does="feed", figure=210, typed=True, unit="t/h", at="chute"),
    Control(name="feed-off", group="load", words="Feed off", does="feed", at="chute"),
    Control(name="hang", group="load", words="Hang", does="hang", figure=60, typed=True, unit="kg", at="frame"),
    Control(name="unhang", group="load", words="Take off", does="unhang", at="frame"),
    Control(name="zero", group="set", words="Take zero", does="zero"),
    Control(name="key", group="set", words="Key in", does="key", typed=True, unit="factor"),
    Control(name="decimals", group="set", words="Decimals up", does="decimals", figure=1),
    Control(name="decimals-back", group="set", words="Decimals back", does="decimals"),
    Control(name="clean", group="fault-finding", words="Clean it", does="clean"),
    Control(name="tension", group="fault-finding", words="Ease the belt", does="tension"),
    Control(name="turn", group="time", words="Wait one turn", does=SKIP, figure=30),
    Control(name="five", group="time", words="Wait 5 min", does=SKIP, figure=300),
)


@dataclass(frozen=True)
class Plates:
    """What can be read off it."""

    idler_spacing: float = 0.9
    weigh_idlers: int = 1
    angle: float = 6.0
    speed: float = 2.0
    length: float = 60.0
    rated: float = 300 / 3.6
    factor: float = 1.25
    decimals: int = 4
    total_division: float = 10.0
    bridge_division: float = 20.0
    tare: float = 12_740.0
    kind: str = "belt"
    name: str = "Practice belt"
    material: str = "practice shell"

    @property
    def revolution(self) -> float:
        """Time of one revolution, s."""
        return self.length / self.speed


@dataclass
class _State:
    """The settings in force between two actions."""

    running: bool = False
    feed: float = 0.0
    hung: float = 0.0
    zero: float = 0.0
    factor: float = 1.0
    clean: bool = False
    slack: bool = False
    raised: bool = False
    pressed: int = 0
    ran: float = 0.0


class Belt(StandIn):
    """A stand-in belt."""

    doing = {
        "run": does("run"),
        "stop": does("stop"),
        "feed": does("feed"),
        "feed-off": (Does("feed", 0),),
        "zero": does("zero"),
        "key": does(KEY),
    }
    mending = {"build-up": "clean", "tension": "tension"}

    shape = "belt"
    faults = FAULTS
    controls = CONTROLS
    scales = (Scale(name="lorry", words="Weigh the lorry"),)
    minutes = 75
    plated: ClassVar[Plates] = Plates()

    def __init__(self, seed: int, fault: str, plates: Plates | None = None) -> None:
        super().__init__(seed, fault)
        self.plates = plates or self.plated
        draw = self.draw
        self.heavy = [(draw.uniform(0.15, 0.5), draw.randint(1, 3), draw.uniform(0, 2 * math.pi)) for _ in range(3)]
        self.bare = draw.uniform(38, 44)
        self.off = draw.choice((-1, 1)) * draw.uniform(0.012, 0.034)
        self.cake = draw.uniform(0.5, 1.1)
        self.uneasy = [draw.uniform(-1, 1) for _ in range(64)]
        self.bridge_bias = draw.uniform(-0.0002, 0.0002)
        self.true_spacing = draw.choice([one for one in (0.75, 1.0, 1.2) if one != self.plates.idler_spacing])

    # --- what is true -----------------------------------------------------------------------------

    @property
    def true_factor(self) -> float:
        """The factor that would make it read right, as things stand."""
        plates = self.plates
        factor = plates.factor * (1 + self.off if self.has("out") else 1.0)
        return factor * plates.idler_spacing / self.true_spacing if self.has("spacing") else factor

    def right_figure(self) -> str:
        return f"factor {self.true_factor:.{self.plates.decimals}f}"

    def reads_right(self, actions: Sequence[Action]) -> bool:
        keyed = [one.figure for one in by_time(actions) if one.what == KEY]
        factor = keyed[-1] if keyed else self.plates.factor
        return abs(factor / self.true_factor - 1) <= CLOSE_ENOUGH

    @classmethod
    def on_record(cls) -> OnRecord:
        """What can be read off its plates."""
        plates = cls.plated
        return OnRecord(
            name=plates.name,
            material=plates.material,
            plates={
                "idler_spacing": f"{plates.idler_spacing:g} m",
                "weigh_idlers": plates.weigh_idlers,
                "angle": f"{plates.angle:g} deg",
                "belt_speed": f"{plates.speed:g} m/s",
                "belt_length": f"{plates.length:g} m",
                "revolution_time": f"{plates.revolution:g} s",
                "rated_rate": f"{plates.rated * 3.6:g} t/h",
                "indicated_division": f"{plates.total_division:g} kg",
            },
            channel=plates.kind,
            factor=f"{plates.factor:.{plates.decimals}f}",
            factor_decimals=plates.decimals,
            zero="41 kg",
            reference="Practice weighbridge",
            reference_division=f"{plates.bridge_division:g} kg",
            reference_range="60 t",
        )

    def _uneven(self, turns: float) -> float:
        """What the empty belt weighs on the scale beyond its mean, kg; nothing over a whole revolution."""
        return sum(size * math.sin(2 * math.pi * waves * turns + phase) for size, waves, phase in self.heavy)

    def _by_turns(self, t: float) -> float:
        """Something that stays for minutes and then is otherwise, between −1 and 1."""
        block = t / 220
        here, after = self.uneasy[int(block) % 64], self.uneasy[(int(block) + 1) % 64]
        return here + (after - here) * (block % 1) ** 4

    def _gain(self, state: _State, t: float) -> float:
        """By how much the scale reads what lies on it."""
        gain = state.factor / self.true_factor
        if self.has("seized-idler"):
            gain *= 1 + 0.05 * self._by_turns(t)
        if self.has("slipping"):
            gain *= 1 - 0.06 * abs(self._by_turns(t / 3))
        if self.has("first") and state.ran < FIRST:
            gain *= 0.985
        return gain

    def _carried(self, state: _State, t: float) -> float:
        """The share of the material that the scale feels: a tight belt carries some of it past, a hung weight not."""
        return 0.972 + 0.004 * self._by_turns(t) if self.has("tight-belt") and not state.slack else 1.0

    def _extra(self, state: _State, t: float) -> float:
        """Mass on the scale that is neither belt nor load, kg."""
        extra = 0.0
        if self.has("build-up") and not state.clean:
            extra += self.cake
        if self.has("wind"):
            extra += 0.35 * self._by_turns(t * 8) + 0.15 * math.sin(t / 9.1 + 1)
        return extra

    def _on_scale(self, state: _State, t: float, turns: float) -> tuple[float, float]:
        """Belt and hung weight on the scale, and material on it; kg."""
        spacing = self.plates.idler_spacing * self.plates.weigh_idlers
        if self.has("spacing"):
            spacing = self.true_spacing * self.plates.weigh_idlers
        material = state.feed / self.plates.speed * spacing if state.running else 0.0
        material *= 1 + (0.06 * math.sin(t / 7.3) + 0.03 * math.sin(t / 2.1) if state.feed else 0.0)
        uneven = self._uneven(turns) if state.running or turns else 0.0
        material *= self._carried(state, t)
        return self.bare + uneven + state.hung + self._extra(state, t), material

    # --- what is shown ----------------------------------------------------------------------------

    def _act(self, state: _State, action: Action, now: float) -> None:
        if action.what == "run":
            state.running = True
        elif action.what == "stop":
            state.running, state.feed = False, 0.0
        elif action.what == "feed":
            state.feed = action.figure / 3.6
        elif action.what == "hang":
            state.hung = action.figure
        elif action.what == "unhang":
            state.hung = 0.0
        elif action.what == "zero":
            state.zero = self.bare + state.hung + self._extra(state, now)
        elif action.what == "key":
            state.factor = action.figure
        elif action.what == "clean":
            state.clean = True
        elif action.what == "tension":
            state.slack = True
        elif action.what == "press":
            state.pressed = int(action.figure)
        elif action.what == "decimals":
            state.raised = action.figure > 0

    def _rate(self, state: _State, t: float, turns: float) -> float:
        """Rate by the instrument, kg/s: what it feels, by the spacing that it was told."""
        belt, material = self._on_scale(state, t, turns)
        told = self.plates.idler_spacing * self.plates.weigh_idlers
        felt = (belt - state.zero) + material
        return felt * self._gain(state, t) / told * self.plates.speed

    def cells(self, on_it: float, pressed: int, t: float) -> tuple[Readout, ...]:
        """The signals of its cells, where they can be read one by one, with so many kg on the scale and one of them pressed."""
        return ()

    def followed(self, actions: Sequence[Action]) -> "Following":
        return Following(self, actions)

    def delivered(self, actions: Sequence[Action], start: float, end: float) -> float:
        """Material that went over the belt between two times, kg, as it truly was."""
        rate, since, running, sum_ = 0.0, start, False, 0.0
        for action in by_time(actions):
            if action.at > end:
                break
            if running and rate:
                sum_ += rate * max(0.0, action.at - max(since, start))
            since = action.at
            if action.what == "run":
                running = True
            elif action.what == "stop":
                running, rate = False, 0.0
            elif action.what == "feed":
                rate = action.figure / 3.6
        if running and rate:
            sum_ += rate * max(0.0, end - max(since, start))
        return sum_

    def ticket(self, actions: Sequence[Action], t: float, scale: Scale) -> Ticket:
        """Gross and tare of the lorry that took what was delivered since the last ticket, by the reference weighbridge."""
        since = max((one.at for one in actions if one.what == TICKET and one.at < t), default=0.0)
        gross, tare = (mass / 1000 for mass in self.weighed(actions, since, t))
        figures = gross_and_tare(gross, tare, "t", 2)
        return Ticket(title=f"gross {gross:.2f} t, tare {tare:.2f} t", figures=figures)

    def weighed(self, actions: Sequence[Action], start: float, end: float) -> tuple[float, float]:
        """Gross and tare in kg, to the weighbridge's division."""
        division = self.plates.bridge_division
        net = self.delivered(actions, start, end) * (1 + self.bridge_bias)
        tare = self.plates.tare + self.noise(end, 8, "tare")
        return round((net + tare) / division) * division, round(tare / division) * division


STEP = 1.0
"""Longest time step of the integration, s; every action begins a step of its own."""
CLOSE_ENOUGH = 0.004
FIRST = 420.0
"""For so long after its first start a belt in the state `first` reads low, s."""


class Following(Followed):
    """One belt followed through its actions, forwards only; asking again for a later time costs little."""

    def __init__(self, belt: Belt, actions: Sequence[Action]) -> None:
        self.belt = belt
        self.pending = by_time(actions)
        self.state = _State(zero=belt.bare, factor=belt.plates.factor)
        self.now, self.total = 0.0, 0.0

    def then(self, action: Action) -> bool:
        # Steps that began before it are not gone again.
        if action.at < self.now - 1e-9:
            return False
        self.pending.append(action)
        return True

    def _forward(self, t: float) -> None:
        """As far as the last whole step that is not after `t`; steps depend on the actions alone."""
        belt, state = self.belt, self.state
        while True:
            while self.pending and self.pending[0].at <= self.now + 1e-9:
                belt._act(state, self.pending.pop(0), self.now)
            step = min(STEP, self.pending[0].at - self.now) if self.pending else STEP
            if self.now + step > t + 1e-9:
                return
            if state.running:
                # By the middle of the step: where its ends lie, which the actions say, then makes no figure.
                self.total += (
                    belt._rate(state, self.now + step / 2, (state.ran + step / 2) / belt.plates.revolution) * step
                )
                state.ran += step
            self.now += step

    def live(self, t: float) -> Live:
        self._forward(begun(t))
        belt, state = self.belt, self.state
        part = t - self.now if state.running else 0.0
        turns = (state.ran + part) / belt.plates.revolution
        rate = belt._rate(state, t, turns) if state.running else 0.0
        half = (state.ran + part / 2) / belt.plates.revolution
        run = self.total + (belt._rate(state, self.now + part / 2, half) * part if part else 0.0)
        rate = round(rate * 3.6 + (belt.noise(t, 0.15, "rate") if state.running else 0.0), 1)
        on_it, material = belt._on_scale(state, t, turns)
        felt = round((on_it + material - state.zero) * belt._gain(state, t) + belt.noise(t, 0.02, "live"), 2)
        division = belt.plates.total_division / (100 if state.raised else 1)
        total = round(round(run / division) * division / 1000, 6)
        steady = not state.running or state.feed == 0
        speed = belt.plates.speed if state.running else 0.0

        def readout(key: str, title: str, value: float, decimals: int, unit: str, *into: str) -> Readout:
            # A display shows no minus before a nought.
            text = f"{round(value, decimals) + 0.0:.{decimals}f}"
            return Readout(
                key=key, title=title, text=text, value=value, unit=unit, steady=steady, into=into, capture=text
            )

        ran = readout("revolutions", "revolutions", round(turns, 3), 1, "", "revolutions")
        return Live(
            at=t,
            readouts=(
                readout("rate", "rate", rate, 1, "t/h", "indicated_rate"),
                readout(
                    "total",
                    "total",
                    total,
                    4 if state.raised else 2,
                    "t",
                    "total_start",
                    "total_end",
                    "indicated_total",
                ),
                readout("live", "live weight", felt, 2, "kg", "live_weight"),
                readout("speed", "belt speed", speed, 2, "m/s", "speed"),
                ran.model_copy(update={"capture": str(math.floor(turns))}),
                *belt.cells(on_it + material, state.pressed, t),
            ),
            offers=self._offers(),
        )

    def _offers(self) -> tuple[str, ...]:
        """What can be done now: a running belt can be stopped, a stopped one run."""
        state = self.state
        away = {"run" if state.running else "stop", "decimals" if state.raised else "decimals-back"}
        away |= set() if state.hung else {"unhang"}
        away |= set() if state.feed else {"feed-off"}
        return tuple(control.name for control in self.belt.controls if control.name not in away)


STAND_INS: dict[str, type[StandIn]] = {"belt": Belt}
