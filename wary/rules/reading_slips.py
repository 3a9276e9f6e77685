"""Which wrong reading explains a ratio this far off? Each reading, and what can have happened to it.

A slip in a reading is tried on that reading alone: the sums are worked out again with what it would
have been. The ratio that it predicts is the one found over the one that is left.
"""

import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from wary.quantities import Quantity, mass_shown, shown

Role = Literal["gross", "tare", "net", "indicated"]
UNIT_PAIRS = (("kg", "lb"), ("t", "ston"), ("t", "lton"), ("ston", "lton"), ("lb", "oz"), ("kg", "g"))


@dataclass(frozen=True)
class Container:
    """A container that is known: its name, and its tare in kg."""

    name: str
    tare: float


@dataclass(frozen=True)
class Weighing:
    """One comparison as it was read: gross and tare, or a net, and what was indicated; `called` is what to say for it."""

    called: str
    gross: Quantity | None = None
    tare: Quantity | None = None
    net: Quantity | None = None
    indicated: Quantity | None = None

    def read(self, role: Role) -> Quantity | None:
        """One of its readings."""
        return {"gross": self.gross, "tare": self.tare, "net": self.net, "indicated": self.indicated}[role]

    @property
    def reference(self) -> float | None:
        """The net in kg; None where it is not known."""
        if self.net is not None:
            return self.net.si
        if self.gross is None:
            return None
        return self.gross.si - (self.tare.si if self.tare else 0.0)

    def with_reading(self, role: Role, figure: Quantity) -> "Weighing":
        """The same with another reading in that place."""
        if role == "gross":
            return replace(self, gross=figure)
        if role == "tare":
            return replace(self, tare=figure)
        return replace(self, net=figure) if role == "net" else replace(self, indicated=figure)


@dataclass(frozen=True)
class ReadingSlip:
    """What may have happened to one reading or to all of a kind: what was read, what it would have been, and the ratio left then."""

    parameter: str
    entered: str
    likely: str
    left: float
    text: str
    doubtful: bool = False


def of_readings(weighings: Sequence[Weighing], containers: Sequence[Container]) -> Iterator[ReadingSlip]:
    """Every slip of one reading, with `ΣR/ΣI` as it would then be. Nothing where a sum is not known."""
    if not weighings or any(one.reference is None or one.indicated is None for one in weighings):
        return
    yield from _units(weighings)
    yield from _containers(weighings, containers)
    yield from _digits(weighings)


def _left(weighings: Sequence[Weighing]) -> float:
    """`ΣR/ΣI`; nought where that is no ratio."""
    over = math.fsum(one.reference or 0.0 for one in weighings)
    under = math.fsum(one.indicated.si if one.indicated else 0.0 for one in weighings)
    return over / under if over > 0 and under > 0 else 0.0


def _slip(parameter: str, entered: str, likely: str, then: Sequence[Weighing], text: str, doubtful: bool = False) -> Iterator[ReadingSlip]:  # fmt: skip
    left = _left(then)
    if left > 0:
        yield ReadingSlip(parameter, entered, likely, left, text, doubtful)


def _units(weighings: Sequence[Weighing]) -> Iterator[ReadingSlip]:
    """Gross or tare alone in another unit, in all of them."""
    roles: tuple[Role, ...] = ("gross", "tare")
    for role in roles:
        first = next((read for one in weighings if (read := one.read(role))), None)
        if first is None or not any(one.tare for one in weighings):
            continue
        for one, other in (*UNIT_PAIRS, *((b, a) for a, b in UNIT_PAIRS)):
            if first.unit != one:
                continue
            then = [w.with_reading(role, _in_unit(read, other)) if (read := w.read(role)) else w for w in weighings]
            would = _in_unit(first, other)
            text = (
                f"The {role} alone in {other} and not in {one}: {first.text} would have been {would.text}, "
                f"which is {mass_shown(would.si, one, 5)}. Look at the display it was read off."
            )
            yield from _slip(f"{role}_unit", one, other, then, text)


def _in_unit(read: Quantity, unit: str) -> Quantity:
    return Quantity(read.value, unit, f"{shown(read.value, 8)} {unit}")


def _containers(weighings: Sequence[Weighing], containers: Sequence[Container]) -> Iterator[ReadingSlip]:
    """A container whose tare was not taken off, and a tare that is another container's."""
    unit = next((one.indicated.unit for one in weighings if one.indicated), "kg")
    untared = [one for one in weighings if one.tare is None]
    for container in containers:
        said = f"{container.name}, {mass_shown(container.tare, unit)}"
        if untared and len(untared) == len(weighings):
            then = [_less(one, container.tare) for one in weighings]
            would = mass_shown(then[0].reference or 0.0, unit, 5)
            text = (
                f"{said} was not taken off: {weighings[0].called.lower()} would have been {would}. Was it zeroed off?"
            )
            yield from _slip("container", "container in the reference", f"less {said}", then, text)
        if not untared and any(abs(one.tare.si / container.tare - 1) > 1e-6 for one in weighings if one.tare):
            tare = Quantity(container.tare, "kg", mass_shown(container.tare, unit))
            then = [one.with_reading("tare", tare) for one in weighings]
            was = weighings[0].tare
            text = f"The tare is that of another container: {said} instead of {was.text if was else ''}. Look which one stood there."
            yield from _slip("other_container", was.text if was else "", said, then, text)


def _less(one: Weighing, tare: float) -> Weighing:
    reference = (one.reference or 0.0) - tare
    return replace(one, gross=None, tare=None, net=Quantity(reference, "kg", ""))


_DIGITS = re.compile(r"^([+-]?)(\d+)(?:([.])(\d+))?")


def _digits(weighings: Sequence[Weighing]) -> Iterator[ReadingSlip]:
    """One digit of one reading typed twice, or left out."""
    roles: tuple[Role, ...] = ("gross", "tare", "net", "indicated")
    for place, one in enumerate(weighings):
        for role in roles:
            read = one.read(role)
            match = _DIGITS.match(read.text) if read else None
            if read is None or match is None or read.ounces is not None:
                continue
            for how, figure in _otherwise(match[0]):
                would = Quantity(float(figure), read.unit, f"{figure} {read.unit}")
                then = [*weighings[:place], one.with_reading(role, would), *weighings[place + 1 :]]
                what = {"net": "reference"}.get(role, role)
                text = f"{one.called}, {what}: {read.text} with one digit {how} would have been {would.text}. Read it again."
                yield from _slip("digit", read.text, would.text, then, text, doubtful=True)


def _otherwise(text: str) -> Iterator[tuple[str, str]]:
    """What a figure would have been had one digit not been typed twice, or one been left out."""
    digits = [place for place, letter in enumerate(text) if letter.isdigit()]
    seen: set[str] = {text}
    for place in digits:
        doubled = place + 1 < len(text) and text[place + 1] == text[place]
        if doubled and len(digits) > 1:
            figure = text[:place] + text[place + 1 :]
            if figure not in seen:
                seen.add(figure)
                yield "typed twice", figure
    for place in range(len(text) - len(text.lstrip("+-")), len(text) + 1):
        for digit in "0123456789":
            figure = text[:place] + digit + text[place:]
            if figure not in seen and _plain(figure):
                seen.add(figure)
                yield "left out", figure


def _plain(figure: str) -> bool:
    """Whether a figure is one that somebody writes: no nought before its first digit."""
    bare = figure.lstrip("+-")
    return not (bare[:1] == "0" and bare[1:2].isdigit())
