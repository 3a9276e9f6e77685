"""Quantities: text as it was typed, and the number and unit that it stands for.

A quantity in a job file is a string, `"14.26 t"`: number, space, unit. It is kept as typed; the
core computes in SI (`Quantity.si`) and turns figures back into the unit of the entry only to show
them. The units are those of the job file's list and no others, defined here for pint from the
international yard and pound (0.9144 m and 0.45359237 kg exactly).
"""

import math
import re
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from functools import cache, cached_property, lru_cache

import pint

DEFINITIONS = """
m = [length]
kg = [mass]
s = [time]
A = [current]
V = [voltage]
K = [temperature]; offset: 0
rev = [revolution]
count = [count]
rad = []
mm = 0.001 m
cm = 0.01 m
km = 1000 m
in = 0.0254 m
ft = 0.3048 m
mi = 1609.344 m
g = 0.001 kg
mg = 0.000001 kg
t = 1000 kg
lb = 0.45359237 kg
oz = lb / 16
ston = 2000 lb
lton = 2240 lb
min = 60 s
h = 3600 s
L = 0.001 m**3
ha = 10000 m**2
ac = 4046.8564224 m**2
deg = 0.017453292519943295 rad
degC = K; offset: 273.15
degF = 5 / 9 * K; offset: 255.3722222222222
Pa = kg / m / s**2
kPa = 1000 Pa
MPa = 1000000 Pa
bar = 100000 Pa
psi = 6894.757293168361 Pa
mV = 0.001 V
mA = 0.001 A
Hz = 1 / s
percent = 0.01
""".strip().splitlines()

FAMILIES: dict[str, tuple[str, ...]] = {
    "mass": ("kg", "g", "mg", "t", "lb", "oz", "ston", "lton"),
    "length": ("m", "mm", "cm", "km", "in", "ft", "mi"),
    "time": ("s", "min", "h"),
    "speed": ("m/s", "m/min", "km/h", "ft/min", "ft/s", "mph"),
    "rate": ("kg/s", "kg/min", "kg/h", "t/h", "lb/min", "lb/h", "ston/h", "lton/h"),
    "mass per length": ("kg/m", "lb/ft", "kg/km", "lb/mi"),
    "mass per area": ("kg/ha", "g/m2", "lb/ac"),
    "mass per revolution": ("kg/rev", "g/rev", "lb/rev"),
    "mass per count": ("kg/count", "g/count", "lb/count"),
    "density": ("kg/m3", "kg/L", "lb/ft3"),
    "volume": ("L", "m3", "ft3"),
    "area": ("ha", "ac", "m2"),
    "angle": ("deg",),
    "temperature": ("degC", "degF"),
    "pressure": ("kPa", "MPa", "bar", "psi"),
    "signal": ("mV/V",),
    "voltage": ("mV", "V"),
    "current": ("mA",),
    "frequency": ("Hz",),
    "pulses per length": ("1/m", "1/ft"),
    "percentage": ("%",),
}
"""Every unit that a job file may use, by the kind of quantity it measures."""

FAMILY_OF = {unit: family for family, units in FAMILIES.items() for unit in units}

_SPELLED = {"mph": "mi/h", "%": "percent", "1/m": "1/m", "1/ft": "1/ft"}
_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
_QUANTITY = re.compile(rf"^({_NUMBER})\s+(\S+)$")
_POUNDS_AND_OUNCES = re.compile(rf"^({_NUMBER})\s+lb\s+({_NUMBER})\s+oz$")


class NotAQuantity(ValueError):
    """A text that cannot be read as a quantity; its message says what was expected."""


@lru_cache(maxsize=1)
def _registry() -> pint.UnitRegistry[float]:
    registry: pint.UnitRegistry[float] = pint.UnitRegistry(None, autoconvert_offset_to_baseunit=True)
    registry.load_definitions(DEFINITIONS)
    return registry


@cache
def _line(unit: str) -> tuple[float, float]:
    """Slope and offset that turn a figure in `unit` into SI."""
    spelled = re.sub(r"([a-zA-Z])([23])$", r"\1**\2", _SPELLED.get(unit, unit))
    registry = _registry()
    if FAMILY_OF.get(unit) == "temperature":
        at_zero = registry.Quantity(0.0, spelled).to_base_units().magnitude
        at_one = registry.Quantity(1.0, spelled).to_base_units().magnitude
        return at_one - at_zero, at_zero
    return float(registry.Quantity(1.0, spelled).to_base_units().magnitude), 0.0


def to_si(value: float, unit: str) -> float:
    """`value` in `unit`, in SI. Raises KeyError for a unit that is not in the list."""
    if unit == "":
        return value
    FAMILY_OF[unit]
    slope, offset = _line(unit)
    return value * slope + offset


def from_si(value: float, unit: str) -> float:
    """`value` in SI, in `unit`. Raises KeyError for a unit that is not in the list."""
    if unit == "":
        return value
    FAMILY_OF[unit]
    slope, offset = _line(unit)
    return (value - offset) / slope


@dataclass(frozen=True)
class Quantity:
    """A number with its unit, and the very text in which it was given.

    `pounds` and `ounces` are kept apart where a mass was given in both.
    """

    value: float
    unit: str
    text: str
    pounds: float | None = None
    ounces: float | None = None

    @cached_property
    def si(self) -> float:
        return to_si(self.value, self.unit)

    @property
    def family(self) -> str:
        return FAMILY_OF[self.unit]


def quantity(text: object, family: str) -> Quantity:
    """Reads a quantity of the given family, as a job file writes it.

    Raises NotAQuantity with a sentence that says what was found and what was expected.
    """
    if isinstance(text, bool) or not isinstance(text, (str, int, float)):
        raise NotAQuantity(f"{_shown(text)} is not a quantity; {_wanted(family)}")
    if not isinstance(text, str):
        raise NotAQuantity(f"{_shown(text)} has no unit; {_wanted(family)}")
    return (_read if len(text) <= SHORT else _read.__wrapped__)(text, family)


SHORT = 40
"""How long a text may be whose reading is remembered; with every entry, all texts of its job are read again."""


@cache
def _wanted(family: str) -> str:
    example = {"mass": "12.4 kg", "percentage": "0.5 %", "signal": "2.0 mV/V", "length": "0.9 m"}.get(
        family, f"12.4 {FAMILIES[family][0]}"
    )
    return f"expected {article(family)} such as “{example}”"


@lru_cache(maxsize=16_384)
def _read(text: str, family: str) -> Quantity:
    wanted, trimmed = _wanted(family), text.strip()
    both = _POUNDS_AND_OUNCES.match(trimmed)
    if both:
        pounds, ounces = float(both[1]), float(both[2])
        if family != "mass":
            raise NotAQuantity(f"“{text}” is a mass; {wanted}")
        if not (math.isfinite(pounds) and math.isfinite(ounces)):
            raise NotAQuantity(f"“{text}” is not a finite number; {wanted}")
        if not 0 <= ounces < 16:
            raise NotAQuantity(f"“{text}”: ounces beside pounds run from 0 to below 16; {wanted}")
        sign = -1 if trimmed.startswith("-") else 1
        return Quantity(pounds + sign * ounces / 16, "lb", text, pounds, ounces)
    match = _QUANTITY.match(trimmed)
    if not match:
        raise NotAQuantity(_why_unread(text, trimmed, wanted))
    number, unit = float(match[1]), match[2]
    if unit not in FAMILY_OF:
        units = ", ".join(FAMILIES[family])
        raise NotAQuantity(f"“{unit}” is not a unit known here; {wanted}, in one of {units}")
    if FAMILY_OF[unit] != family:
        raise NotAQuantity(f"“{text}” is {article(FAMILY_OF[unit])}; {wanted}")
    if not math.isfinite(number) or not math.isfinite(to_si(number, unit)):
        raise NotAQuantity(f"“{text}” is not a finite number; {wanted}")
    return Quantity(number, unit, text)


def _why_unread(text: str, trimmed: str, wanted: str) -> str:
    if not trimmed:
        return f"the text is empty; {wanted}"
    if re.fullmatch(_NUMBER, trimmed):
        return f"“{text}” has no unit; {wanted}"
    if trimmed in FAMILY_OF:
        return f"“{text}” is a unit without a number; {wanted}"
    if re.match(r"^[+-]?\d+,\d+", trimmed):
        return f"“{text}” has a decimal comma, which a file writes as a point; {wanted}"
    joined = re.match(rf"^({_NUMBER})(\D\S*)$", trimmed)
    if joined and joined[2] in FAMILY_OF:
        return f"“{text}” has no space before the unit; {wanted}"
    return f"“{text}” cannot be read; {wanted}"


def article(family: str) -> str:
    """The family's name with its article, for a sentence."""
    return f"{'an' if family[0] in 'aeiou' else 'a'} {family}"


def _shown(found: object) -> str:
    text = repr(found)
    return text if len(text) <= 40 else text[:37] + "…"


def round_half_up(value: float, decimals: int) -> float:
    """`value` rounded half up to `decimals`, as a technician rounds what is keyed in.

    Twelve significant digits are taken first, so that binary noise below an exact half does not
    decide the last digit.
    """
    if abs(value) >= 1e15:
        # Beyond what has decimals at all.
        return value
    exact = Decimal(format(value, ".12g"))
    return float(exact.quantize(Decimal(1).scaleb(-decimals), rounding=ROUND_HALF_UP))


def decimals_of(value: float) -> int:
    """How many decimals a number has as it was written in a job file."""
    exponent = Decimal(repr(value)).normalize().as_tuple().exponent
    return max(0, -exponent) if isinstance(exponent, int) else 0


def shown(value: float, significant: int = 4, sign: bool = False) -> str:
    """A figure for a sentence: so many significant digits, a true minus, thin groups of three."""
    if not math.isfinite(value):
        return "–"
    magnitude = abs(value)
    places = 0
    if magnitude > 0:
        places = max(0, significant - 1 - math.floor(math.log10(magnitude)))
    text = f"{magnitude:.{min(places, 9)}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    whole, _, fraction = text.partition(".")
    if len(whole) > 4:
        groups: list[str] = []
        while whole:
            groups.insert(0, whole[-3:])
            whole = whole[:-3]
        whole = "\u202f".join(groups)
    text = whole + ("." + fraction if fraction else "")
    nothing = not any(digit in text for digit in "123456789")
    return ("" if nothing else "−" if value < 0 else "+" if sign else "") + text


def mass_shown(kilograms: float, unit: str, significant: int = 4) -> str:
    """A mass for a sentence, in the unit in which it is spoken of."""
    return f"{shown(from_si(kilograms, unit), significant)} {unit}"


def percent_shown(fraction: float, sign: bool = False, decimals: int = 2) -> str:
    """A fraction as a percentage, two decimals, more where two would show nothing."""
    percent = fraction * 100
    while decimals < 4 and percent != 0 and abs(percent) < 0.5 * 10.0**-decimals * 10:
        decimals += 1
    text = f"{abs(percent):.{decimals}f}"
    negative = percent < 0 and float(text) != 0
    return f"{'−' if negative else '+' if sign else ''}{text} %"


def ladder_step(at_least: float) -> float:
    """The smallest step of the 1-2-5 × 10ⁿ ladder that is not below `at_least` (above zero)."""
    decade = math.floor(math.log10(at_least) + 1e-12)
    for step in (1, 2, 5, 10):
        candidate = step * 10.0**decade
        if candidate >= at_least * (1 - 1e-9):
            return float(Decimal(repr(step)).scaleb(decade))
    raise AssertionError("the ladder has no gap")
