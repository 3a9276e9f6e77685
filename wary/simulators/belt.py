"""A belt conveyor with its scale, that behaves like one.

It has plates, a true state that nobody sees, settings that can be changed, noise, and perhaps a
fault. Its reading at a time `t` (s since the start) is a function of the seed and of the actions
before `t`: `run`, `stop`, `feed` (t/h), `hang` (kg), `unhang`, `zero`, `key` (factor), `clean`,
`tension`, `decimals` (1 raised, 0 back). Masses in kg, rates in kg/s, lengths in m inside; what it shows is in the units of its
display.
"""

import hashlib
import math
import random
from collections.abc import Sequence
from dataclasses import dataclass

from wary.simulators.stand_in import (
    SKIP,
    Action,
    Control,
    Followed,
    Live,
    OnRecord,
    Readout,
    StandIn,
    Ticket,
    TicketFigure,
    Truth,
)

TITLES = {
    "none": "It was in order.",
    "out": "It was simply out: the factor was wrong, and nothing else.",
    "spacing": "The idler spacing typed into the instrument was not the one on the frame.",
    "build-up": "Material had built up on the weigh idlers since the last zero.",
    "tight-belt": "The belt was too tight: it carried part of the load past the scale.",
    "seized-idler": "A weigh idler had seized: it let go and gripped again.",
    "wind": "Wind lifted and pressed the belt.",
    "slipping": "The tachometer slipped: speed, and so the total, came and went.",
}
"""What can be true of it. `none`: in order. `out`: simply out, by its factor."""

CURES = {"build-up": ("clean",), "tight-belt": ("tension",)}

CONTROLS = (
    Control(name="run", group="run", words="Run", does="run"),
    Control(name="stop", group="run", words="Stop", does="stop"),
    Control(name="feed", group="load", words="Feed", does="feed", figure=210, typed=True, unit="t/h"),
    Control(name="feed-off", group="load", words="Feed off", does="feed"),
    Control(name="hang", group="load", words="Hang", does="hang", figure=60, typed=True, unit="kg"),
    Control(name="unhang", group="load", words="Take off", does="unhang"),
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
    ran: float = 0.0


class Belt(StandIn):
    """A stand-in belt."""

    faults = TITLES
    controls = CONTROLS

    def __init__(self, seed: int, fault: str, plates: Plates | None = None) -> None:
        super().__init__(seed, fault)
        self.plates = plates or Plates()
        draw = random.Random(f"{seed}/{fault}")
        self.heavy = [(draw.uniform(0.15, 0.5), draw.randint(1, 3), draw.uniform(0, 2 * math.pi)) for _ in range(3)]
        self.bare = draw.uniform(38, 44)
        self.off = draw.choice((-1, 1)) * draw.uniform(0.012, 0.034)
        self.cake = draw.uniform(0.5, 1.1)
        self.uneasy = [draw.uniform(-1, 1) for _ in range(64)]
        self.bridge_bias = draw.uniform(-0.0002, 0.0002)
        self.true_spacing = draw.choice((0.75, 1.0, 1.2))

    # --- what is true -----------------------------------------------------------------------------

    @property
    def true_factor(self) -> float:
        """The factor that would make it read right, as things stand."""
        plates = self.plates
        if self.fault == "out":
            return plates.factor * (1 + self.off)
        if self.fault == "spacing":
            return plates.factor * plates.idler_spacing / self.true_spacing
        return plates.factor

    def truth(self) -> Truth:
        right = round(self.true_factor, self.plates.decimals) if self.fault in ("none", "out") else None
        return Truth(self.fault, TITLES[self.fault], right, self.fault == "out", CURES.get(self.fault, ()))

    @staticmethod
    def on_record() -> OnRecord:
        """What can be read off its plates."""
        plates = Plates()
        return OnRecord(
            name="Practice belt",
            material="practice shell",
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
            channel="belt",
            factor=f"{plates.factor:.{plates.decimals}f}",
            factor_decimals=plates.decimals,
            zero="41 kg",
            reference="Practice weighbridge",
            reference_division=f"{plates.bridge_division:g} kg",
            reference_range="60 t",
        )

    def _noise(self, t: float, scale: float, name: str) -> float:
        """Noise that depends on the time alone, in steps of a tenth of a second."""
        digest = hashlib.blake2b(f"{self.seed}/{name}/{round(t * 10)}".encode(), digest_size=8).digest()
        return (int.from_bytes(digest, "big") / 2**64 - 0.5) * 2 * scale

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
        if self.fault == "seized-idler":
            gain *= 1 + 0.03 * self._by_turns(t)
        if self.fault == "slipping":
            gain *= 1 - 0.06 * abs(self._by_turns(t / 3))
        return gain

    def _carried(self, state: _State, t: float) -> float:
        """The share of the material that the scale feels: a tight belt carries some of it past, a hung weight not."""
        return 0.972 + 0.004 * self._by_turns(t) if self.fault == "tight-belt" and not state.slack else 1.0

    def _extra(self, state: _State, t: float) -> float:
        """Mass on the scale that is neither belt nor load, kg."""
        extra = 0.0
        if self.fault == "build-up" and not state.clean:
            extra += self.cake
        if self.fault == "wind":
            extra += 0.35 * self._by_turns(t * 8) + 0.15 * math.sin(t / 9.1 + 1)
        return extra

    def _on_scale(self, state: _State, t: float, turns: float) -> tuple[float, float]:
        """Belt and hung weight on the scale, and material on it; kg."""
        spacing = self.plates.idler_spacing * self.plates.weigh_idlers
        if self.fault == "spacing":
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
        elif action.what == "decimals":
            state.raised = action.figure > 0

    def _rate(self, state: _State, t: float, turns: float) -> float:
        """Rate by the instrument, kg/s: what it feels, by the spacing that it was told."""
        belt, material = self._on_scale(state, t, turns)
        told = self.plates.idler_spacing * self.plates.weigh_idlers
        felt = (belt - state.zero) + material
        return felt * self._gain(state, t) / told * self.plates.speed

    def followed(self, actions: Sequence[Action]) -> "Following":
        return Following(self, actions)

    def delivered(self, actions: Sequence[Action], start: float, end: float) -> float:
        """Material that went over the belt between two times, kg, as it truly was."""
        rate, since, running, sum_ = 0.0, start, False, 0.0
        for action in sorted(actions, key=lambda a: a.at):
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

    def ticket(self, actions: Sequence[Action], start: float, end: float) -> Ticket:
        """Gross and tare of the lorry that took what was delivered, by the reference weighbridge."""
        gross, tare = (mass / 1000 for mass in self.weighed(actions, start, end))
        figures = (
            TicketFigure(into="gross", text=f"{gross:.2f}", unit="t"),
            TicketFigure(into="tare", text=f"{tare:.2f}", unit="t"),
        )
        return Ticket(title=f"gross {gross:.2f} t, tare {tare:.2f} t", figures=figures)

    def weighed(self, actions: Sequence[Action], start: float, end: float) -> tuple[float, float]:
        """Gross and tare in kg, to the weighbridge's division."""
        division = self.plates.bridge_division
        net = self.delivered(actions, start, end) * (1 + self.bridge_bias)
        tare = self.plates.tare + self._noise(end, 8, "tare")
        return round((net + tare) / division) * division, round(tare / division) * division


STEP = 0.25
"""Time step of the integration, s; actions take effect on it."""


class Following(Followed):
    """One belt followed through its actions, forwards only; asking again for a later time costs little."""

    def __init__(self, belt: Belt, actions: Sequence[Action]) -> None:
        self.belt = belt
        self.pending = sorted(actions, key=lambda action: action.at)
        self.state = _State(zero=belt.bare, factor=belt.plates.factor)
        self.now, self.total = 0.0, 0.0

    def _forward(self, t: float) -> None:
        """As far as the last whole step that is not after `t`."""
        belt, state = self.belt, self.state
        while True:
            while self.pending and self.pending[0].at <= self.now + STEP / 2 and self.pending[0].at <= t:
                belt._act(state, self.pending.pop(0), self.now)
            if self.now + STEP > t + 1e-9:
                return
            if state.running:
                self.total += belt._rate(state, self.now, state.ran / belt.plates.revolution) * STEP
                state.ran += STEP
            self.now += STEP

    def live(self, t: float) -> Live:
        self._forward(t)
        belt, state = self.belt, self.state
        turns = state.ran / belt.plates.revolution
        rate = belt._rate(state, t, turns) if state.running else 0.0
        rate = round(rate * 3.6 + (belt._noise(t, 0.15, "rate") if state.running else 0.0), 1)
        on_it, material = belt._on_scale(state, t, turns)
        felt = round((on_it + material - state.zero) * belt._gain(state, t) + belt._noise(t, 0.02, "live"), 2)
        division = belt.plates.total_division / (100 if state.raised else 1)
        total = round(round(self.total / division) * division / 1000, 6)
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
            ),
            offers=self._offers(),
        )

    def _offers(self) -> tuple[str, ...]:
        """What can be done now: a running belt can be stopped, a stopped one run."""
        state = self.state
        away = {"run" if state.running else "stop", "decimals" if state.raised else "decimals-back"}
        away |= set() if state.hung else {"unhang"}
        away |= set() if state.feed else {"feed-off"}
        return tuple(control.name for control in CONTROLS if control.name not in away)
