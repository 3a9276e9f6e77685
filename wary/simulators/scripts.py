"""What stand-ins do by themselves, over and over: for an instrument on the line at which nobody works."""

from dataclasses import dataclass, replace

from wary.live import Readout
from wary.simulators import stand_ins
from wary.simulators.stand_in import Action


@dataclass(frozen=True)
class Script:
    """What is done to a stand-in again and again: each act with the second at which it is done, and how long one round takes."""

    acts: tuple[Action, ...]
    seconds: float

    def until(self, t: float) -> list[Action]:
        """Every act until a time, s."""
        rounds = int(t // self.seconds) + 1
        begins = [number * self.seconds for number in range(rounds)]
        return [replace(act, at=start + act.at) for start in begins for act in self.acts if start + act.at <= t]


SCRIPTS = {
    "cart": Script(
        (Action(6, "axle", 2400), Action(10, "rear", 800), Action(14, "front", 700), Action(32, "off"),
         Action(40, "axle", 3100), Action(45, "front", 900), Action(64, "off")), 70),
    "platform": Script((Action(8, "load", 500), Action(24, "add", 500), Action(44, "off")), 56),
    "vessel": Script((Action(10, "load", 4200), Action(50, "load", 6300), Action(90, "off")), 120),
    "meter": Script((Action(2, "run"), Action(100, "stop")), 110),
}  # fmt: skip
"""What each stand-in that can be put on the line does by itself."""


class Player:
    """A stand-in that goes through its script; what it shows at a time is a function of that time."""

    def __init__(self, name: str, seed: int = 7, fault: str = "none") -> None:
        self.script = SCRIPTS[name]
        self.machine = stand_ins()[name](seed, fault)

    def shows(self, t: float) -> list[Readout]:
        """The readouts at a time, s since it began; those of single cells are not sent."""
        # Rounds before the last two have left no trace: the machine was emptied at their end.
        begins = max(0.0, (t // self.script.seconds - 1) * self.script.seconds)
        acts = [replace(act, at=act.at - begins) for act in self.script.until(t) if act.at >= begins]
        live = self.machine.followed(acts).live(t - begins)
        return [one for one in live.readouts if not one.of]
