"""Practice: which hidden state is drawn, what is told of a stand-in, and what was done to it when, on a device."""

import random
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from wary.job.evidence import looks_of
from wary.live import Live
from wary.machines import all_machines
from wary.simulators import has_stand_in, stand_in_of
from wary.simulators.stand_in import INSPECT, LEVELS, SKIP, TICKET, Action, StandIn, Ticket, not_before, written

SEEDS = 1 << 31
LONGEST_SKIP = 3600.0
MOST_ACTIONS = 5000


def kinds() -> list[str]:
    """Every kind of machine that can be practised on."""
    return [key for key, machine in all_machines().items() if has_stand_in(machine)]


def drawn(kind: str, level: str, draw: random.Random) -> str:
    """A hidden state of a machine: of those up to this level, its own twice as likely as an easier one."""
    faults = stand_in_of(all_machines()[kind]).faults
    most = LEVELS.index(level) if level in LEVELS else len(LEVELS) - 1
    pool = {key: hidden for key, hidden in faults.items() if LEVELS.index(hidden.level) <= most}
    weights = [2 if LEVELS.index(hidden.level) == most else 1 for hidden in pool.values()]
    return draw.choices(list(pool), weights)[0]


def told_of(kind: str, machine: StandIn, level: str) -> dict[str, Any]:
    """What a stand-in tells of itself: what can be done to it and where, and with what words it was handed over."""
    mends: dict[str, list[str]] = {}
    for one in all_machines()[kind].all_suspects():
        if one.key in machine.mending:
            mends.setdefault(machine.mending[one.key], []).extend(tell.look.key for tell in one.tells if tell.sure)
    return {
        "controls": machine.controls,
        "scales": machine.scales,
        "doing": {do: [step.action for step in steps] for do, steps in machine.doing.items()},
        "mends": mends,
        "shape": machine.shape,
        "spots": {control.name: control.spot for control in machine.controls if control.spot},
        "handed_over": machine.hidden.handed_over,
        "level": level,
        "minutes": machine.minutes,
    }


@dataclass
class Practising:
    """A practice on a device. Times are seconds of real time since it began; its clock adds what was skipped.

    What is asked for raises ValueError, with a sentence, where it may not be done.
    """

    kind: str
    seed: int
    fault: str
    level: str
    actions: list[Action] = field(default_factory=list)
    skipped: float = 0.0

    @classmethod
    def begun(cls, kind: str, level: str) -> "Practising":
        """A practice with a hidden state that is drawn at random."""
        draw = random.SystemRandom()
        fault = drawn(kind, level, draw)
        return cls(kind, draw.randrange(SEEDS), fault, level or stand_in_of(all_machines()[kind]).faults[fault].level)

    @classmethod
    def of_document(cls, document: Mapping[str, Any]) -> "Practising":
        """The practice that was written as such a document. Raises ValueError where it is none."""
        kind, fault = str(document["kind"]), str(document["fault"])
        if kind not in kinds() or fault not in stand_in_of(all_machines()[kind]).faults:
            raise ValueError(f"there is no stand-in “{kind}” with a state “{fault}”")
        actions = [Action.from_json(row) for row in document["actions"]]
        if len(actions) > MOST_ACTIONS or any(b.at < a.at for a, b in zip(actions, actions[1:], strict=False)):
            raise ValueError(f"expected at most {MOST_ACTIONS} acts in the order of time")
        level = str(document["level"])
        return cls(kind, int(document["seed"]) % SEEDS, fault, level, actions, float(document["skipped"]))

    def as_document(self) -> dict[str, Any]:
        """The practice as one JSON document."""
        plain = {name: getattr(self, name) for name in ("kind", "seed", "fault", "level", "skipped")}
        return plain | {"actions": [one.as_json() for one in self.actions]}

    @property
    def machine(self) -> StandIn:
        """The stand-in itself."""
        return stand_in_of(all_machines()[self.kind])(self.seed, self.fault)

    def live(self, elapsed: float) -> Live:
        """What it shows now."""
        shown = self.machine.followed(self.actions).live(self._now(elapsed))
        return shown.model_copy(update={"turn": len(self.actions)})

    def act(self, what: str, figure: float, elapsed: float) -> Live:
        """Does something to it, or skips some time."""
        known = self.machine.actions() | {SKIP}
        if what not in known:
            raise ValueError(f"expected one of {', '.join(sorted(known))}")
        self._did(what, max(0.0, min(figure, LONGEST_SKIP)) if what == SKIP else figure, elapsed)
        return self.live(elapsed)

    def look(self, at: str, elapsed: float) -> dict[str, Any]:
        """What is found at a look; it takes its minutes on the stand-in's clock."""
        known = looks_of(all_machines()[self.kind])
        if at not in known:
            raise ValueError(f"expected one of {', '.join(sorted(known))}")
        asked = known[at][0]
        found = self.machine.inspect(self.actions, asked)
        self._did(f"{INSPECT}{at}", 0.0, elapsed)
        self._did(SKIP, asked.minutes * 60, elapsed)
        return vars(found)

    def ticket(self, scale: str, elapsed: float) -> Ticket:
        """What an outside scale prints now; without a name it is the first that stands there."""
        machine = self.machine
        names = [one.name for one in machine.scales]
        if not names or (scale and scale not in names):
            raise ValueError("there is no such scale here")
        place = names.index(scale) if scale else 0
        before = list(self.actions)
        now = self._did(TICKET, place, elapsed)
        return machine.ticket(before, now, machine.scales[place])

    def _now(self, elapsed: float) -> float:
        return not_before(self.actions, elapsed + self.skipped)

    def _did(self, what: str, figure: float, elapsed: float) -> float:
        if len(self.actions) >= MOST_ACTIONS:
            raise ValueError(f"a practice takes at most {MOST_ACTIONS} acts")
        now = self._now(elapsed)
        self.actions.append(Action(written(now), what, figure))
        if what == SKIP:
            self.skipped += figure
        return now
