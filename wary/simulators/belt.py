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
from dataclasses import dataclass
from typing import Any

FAULTS = ("none", "out", "spacing", "build-up", "tight-belt", "seized-idler", "wind", "slipping")
"""What can be true of it. `none`: in order. `out`: simply out, by its factor."""

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


@dataclass(frozen=True)
class Action:
    """Something done at a time: what, and with which figure."""

    at: float
    what: str
    figure: float = 0.0

    @classmethod
    def from_json(cls, row: dict[str, Any]) -> "Action":
        return cls(float(row["at"]), str(row["what"]), float(row.get("figure", 0.0)))

    def as_json(self) -> dict[str, Any]:
        return {"at": self.at, "what": self.what, "figure": self.figure}


ACTIONS = ("run", "stop", "feed", "hang", "unhang", "zero", "key", "clean", "tension", "decimals")


@dataclass(frozen=True)
class Live:
    """What its display shows: rate t/h, total t, live weight kg, speed m/s; and whether it stands still."""

    at: float
    rate: float
    total: float
    live: float
    speed: float
    steady: bool
    running: bool
    revolutions: float
    factor: float

    def as_json(self) -> dict[str, Any]:
        return vars(self)


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


class Belt:
    """A stand-in belt: the same seed and fault give the same belt for ever."""

    def __init__(self, seed: int, fault: str, plates: Plates | None = None) -> None:
        if fault not in FAULTS:
            raise ValueError(f"“{fault}” is no fault of a belt; expected one of {', '.join(FAULTS)}")
        self.seed, self.fault, self.plates = seed, fault, plates or Plates()
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

    def truth(self) -> dict[str, Any]:
        """What was true of it, for after the practice."""
        return {
            "fault": self.fault,
            "text": TITLES[self.fault],
            "right_factor": round(self.true_factor, self.plates.decimals) if self.fault in ("none", "out") else None,
            "may_adjust": self.fault == "out",
        }

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

    def live(self, actions: list[Action], t: float) -> Live:
        """What the display shows at `t`."""
        return Following(self, actions).live(t)

    def delivered(self, actions: list[Action], start: float, end: float) -> float:
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

    def ticket(self, actions: list[Action], start: float, end: float) -> tuple[float, float]:
        """Gross and tare of the lorry that took what was delivered, kg, by the reference weighbridge."""
        division = self.plates.bridge_division
        net = self.delivered(actions, start, end) * (1 + self.bridge_bias)
        tare = self.plates.tare + self._noise(end, 8, "tare")
        return round((net + tare) / division) * division, round(tare / division) * division


STEP = 0.25
"""Time step of the integration, s; actions take effect on it."""


class Following:
    """One belt followed through its actions, forwards only; asking again for a later time costs little."""

    def __init__(self, belt: Belt, actions: list[Action]) -> None:
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
        """What the display shows at `t`, not before the time asked for last."""
        self._forward(t)
        belt, state = self.belt, self.state
        turns = state.ran / belt.plates.revolution
        rate = belt._rate(state, t, turns) if state.running else 0.0
        on_it, material = belt._on_scale(state, t, turns)
        felt = (on_it + material - state.zero) * belt._gain(state, t) + belt._noise(t, 0.02, "live")
        division = belt.plates.total_division / (100 if state.raised else 1)
        return Live(
            at=t,
            rate=round(rate * 3.6 + (belt._noise(t, 0.15, "rate") if state.running else 0.0), 1),
            total=round(round(self.total / division) * division / 1000, 6),
            live=round(felt, 2),
            speed=belt.plates.speed if state.running else 0.0,
            steady=not state.running or state.feed == 0,
            running=state.running,
            revolutions=round(turns, 3),
            factor=state.factor,
        )
