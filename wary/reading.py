"""What an instrument's lines say, put together as a page shows it: readouts, and why one cannot be taken."""

from dataclasses import dataclass, field
from typing import Any

from wary.lines import LineRead, NotUnderstood, Pattern, read
from wary.live import ANY_FIELD, Live, Readout, Settling
from wary.quantities import FAMILY_OF, NotAQuantity, quantity, to_si

FORGOTTEN = 5.0
"""A name that an instrument no longer says is left out after so many seconds."""
MOST_NAMES = 8


@dataclass(frozen=True)
class Taught:
    """What a lead said of an instrument: its pattern, the unit that it sent then, where its range ends."""

    pattern: Pattern | None = None
    unit: str = ""
    most: str = ""

    @classmethod
    def of(cls, pattern: Any, unit: str = "", most: str = "") -> "Taught":
        return cls(Pattern.model_validate(pattern) if pattern else None, unit, most)


@dataclass
class _Held:
    read: LineRead
    raw: str
    at: float
    steady: bool


@dataclass
class Display:
    """What an instrument shows: its lines read one after the other, the latest of each name."""

    taught: Taught
    fault: str = ""
    raw: str = ""
    _held: dict[str, _Held] = field(default_factory=dict)
    _settling: dict[str, Settling] = field(default_factory=dict)

    def take(self, line: str, at: float) -> bool:
        """Takes a line at a time (s); whether anything could be made of it."""
        self.raw = line
        try:
            found = read(self.taught.pattern, line)
        except NotUnderstood as unread:
            self.fault = f"A line came that is not understood ({unread}): “{line[:60]}”"
            return False
        self.fault = ""
        if found.name not in self._held and len(self._held) >= MOST_NAMES:
            return True
        steady = found.steady
        settling = self._settling.setdefault(found.name, Settling())
        if not found.fault and steady is None:
            steady = settling.steady(at, found.text, found.value)
        self._held[found.name] = _Held(found, line, at, bool(steady))
        return True

    def live(self, at: float) -> Live:
        """What it shows at a time (s)."""
        self._held = {name: one for name, one in self._held.items() if at - one.at <= FORGOTTEN}
        return Live(at=at, readouts=tuple(self._readout(one) for one in self._held.values()), raw=self.raw, fault=self.fault)  # fmt: skip

    def _readout(self, one: _Held) -> Readout:
        found = one.read
        fault, caution = found.fault, ""
        if not fault and self._over(found):
            fault = f"It shows {found.text} {found.unit}, which is over its range of {self.taught.most}."
        if self.taught.unit and found.unit and found.unit != self.taught.unit:
            caution = f"It sends {found.unit}; when it was taught it sent {self.taught.unit}. Look at its display."
        return Readout(
            key=found.name, title=found.name, text=found.text or "–", value=found.value, unit=found.unit, steady=one.steady,
            into=(ANY_FIELD,), capture=found.text, fault=fault, caution=caution, raw=one.raw,
        )  # fmt: skip

    def _over(self, found: LineRead) -> bool:
        try:
            most = quantity(self.taught.most, "mass") if self.taught.most else None
        except NotAQuantity:
            return False
        if most is None or FAMILY_OF.get(found.unit) != "mass":
            return False
        return abs(to_si(found.value, found.unit)) > most.si
