"""A stand-in instrument on the line: a machine that behaves like one, and sends its readings over TCP.

It plays one of the stand-ins over and over, and can misbehave in the ways in which instruments do.
"""

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator, Callable
from dataclasses import dataclass, replace
from typing import Literal

from wary.live import Readout
from wary.quantities import from_si, to_si
from wary.simulators import STAND_INS
from wary.simulators.stand_in import Action

Trouble = Literal["", "nonsense", "flood", "half", "silent", "pounds", "over"]
TROUBLES: tuple[Trouble, ...] = ("", "nonsense", "flood", "half", "silent", "pounds", "over")
Speech = Literal["simple", "columns"]
EVERY = 0.2


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
        self.machine = STAND_INS[name](seed, fault)

    def shows(self, t: float) -> list[Readout]:
        """The readouts at a time, s since it began; those of single cells are not sent."""
        # Rounds before the last two have left no trace: the machine was emptied at their end.
        begins = max(0.0, (t // self.script.seconds - 1) * self.script.seconds)
        acts = [replace(act, at=act.at - begins) for act in self.script.until(t) if act.at >= begins]
        live = self.machine.followed(acts).live(t - begins)
        return [one for one in live.readouts if not one.of]


def simple(readouts: list[Readout]) -> list[str]:
    """The simple format: name, figure, unit, whether it stands."""
    made = []
    for one in readouts:
        unit = f" {one.unit}" if one.unit else ""
        made.append(f"{one.title.replace(',', '')}={one.text}{unit} {'steady' if one.steady else 'moving'}")
    return made


def columns(readouts: list[Readout]) -> list[str]:
    """A format of its own that has to be taught: a count, the sign apart, the figure in nine columns, unit, a mark."""
    one = readouts[0]
    sign = "-" if one.value < 0 else "+"
    return [f"[07] {sign}{one.text.lstrip('-'):>9} {one.unit.upper()} {'OK' if one.steady else '..'}"]


SPEECHES: dict[Speech, Callable[[list[Readout]], list[str]]] = {"simple": simple, "columns": columns}


def troubled(readouts: list[Readout], trouble: Trouble) -> list[Readout]:
    """The readouts of an instrument that was switched to pounds."""
    if trouble != "pounds":
        return readouts
    changed = []
    for one in readouts:
        if one.unit == "kg":
            pounds = from_si(to_si(one.value, "kg"), "lb")
            one = one.model_copy(update={"text": f"{pounds:.0f}", "value": pounds, "unit": "lb"})
        changed.append(one)
    return changed


class Instrument:
    """A server that sends a stand-in's readings to whoever connects. `trouble` may be changed while it runs."""

    def __init__(self, player: Player, speech: Speech = "simple", trouble: Trouble = "") -> None:
        self.player, self.speech, self.trouble = player, SPEECHES[speech], trouble
        self.began = time.monotonic()
        self.connections = 0

    def lines(self) -> str:
        """What is sent now."""
        if self.trouble == "nonsense":
            return "\x00\xff~~ ## 12..34 ###\r\n"
        if self.trouble == "over":
            return "weight=over\n"
        shown = troubled(self.player.shows(time.monotonic() - self.began), self.trouble)
        text = "".join(f"{line}\r\n" for line in self.speech(shown))
        return text[: len(text) // 2] if self.trouble == "half" else text * (20_000 if self.trouble == "flood" else 1)

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        """Sends readings until the other side goes away; what it says is not listened to."""
        self.connections += 1
        try:
            while True:
                if self.trouble != "silent":
                    writer.write(self.lines().encode("latin-1", "replace"))
                    await writer.drain()
                await asyncio.sleep(0 if self.trouble == "flood" else EVERY)
        except OSError:
            pass
        finally:
            self.connections -= 1
            writer.close()

    @contextlib.asynccontextmanager
    async def listening(self, port: int = 0) -> AsyncIterator[int]:
        """Listens on loopback; gives the port."""
        server = await asyncio.start_server(self.serve, "127.0.0.1", port)
        try:
            yield server.sockets[0].getsockname()[1]
        finally:
            server.close()
