"""Quantities: text as it was typed, and the number and unit that it stands for.

A quantity in a job file is a string, `"14.26 t"`: number, space, unit. It is kept as typed; the
core computes in SI (`Quantity.si`) and turns figures back into the unit of the entry only to show
them. The units are those of the job file's list and no others. Each is defined exactly, as a
fraction, from the SI (Bureau international des poids et mesures, The International System of Units,
9th edition, 2019) and from the international yard and pound of 1959, which are 0.9144 m and
0.45359237 kg (NIST Special Publication 811, 2008, appendix B).
"""

import math
import re
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from functools import cache, cached_property, lru_cache

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
    "density": ("kg/m3", "kg/L", "lb/ft3", "kg/hL", "lb/bu"),
    "volume": ("L", "m3", "ft3", "hL", "bu"),
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

_FOOT, _POUND = Fraction("0.3048"), Fraction("0.45359237")
_ACRE = 43_560 * _FOOT**2
_STANDARD_GRAVITY = Fraction("9.80665")
_MASSES = {
    "kg": Fraction(1), "g": Fraction(1, 1000), "mg": Fraction(1, 1_000_000), "t": Fraction(1000),
    "lb": _POUND, "oz": _POUND / 16, "ston": 2000 * _POUND, "lton": 2240 * _POUND,
}  # fmt: skip
_LENGTHS = {
    "m": Fraction(1), "mm": Fraction(1, 1000), "cm": Fraction(1, 100), "km": Fraction(1000),
    "in": _FOOT / 12, "ft": _FOOT, "mi": 5280 * _FOOT,
}  # fmt: skip
_TIMES = {"s": Fraction(1), "min": Fraction(60), "h": Fraction(3600)}
_AREAS = {"m2": Fraction(1), "ha": Fraction(10_000), "ac": _ACRE}
_VOLUMES = {
    "m3": Fraction(1),
    "L": Fraction(1, 1000),
    "ft3": _FOOT**3,
    "hL": Fraction(1, 10),
    "bu": Fraction("2150.42") * (_FOOT / 12) ** 3,
}
_PLAIN = {
    "rev": Fraction(1), "count": Fraction(1), "mV": Fraction(1, 1000), "V": Fraction(1), "mA": Fraction(1, 1000),
    "Hz": Fraction(1), "%": Fraction(1, 100), "mV/V": Fraction(1, 1000), "mph": 5280 * _FOOT / 3600,
    "kPa": Fraction(1000), "MPa": Fraction(1_000_000), "bar": Fraction(100_000),
    "psi": _POUND * _STANDARD_GRAVITY / (_FOOT / 12) ** 2,
}  # fmt: skip
_EXACT = {"1": Fraction(1)} | _MASSES | _LENGTHS | _TIMES | _AREAS | _VOLUMES | _PLAIN
"""What a unit is in SI, exactly. A quotient of two of them is the quotient of what they are."""
_TEMPERATURES = {"degC": (1.0, 273.15), "degF": (float(Fraction(5, 9)), float(Fraction("459.67") * Fraction(5, 9)))}
"""Slope and offset that turn a reading of a thermometer into kelvin."""
_DEGREE = math.pi / 180
_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
_QUANTITY = re.compile(rf"^({_NUMBER})\s+(\S+)$")
_POUNDS_AND_OUNCES = re.compile(rf"^({_NUMBER})\s+lb\s+({_NUMBER})\s+oz$")


class NotAQuantity(ValueError):
    """A text that cannot be read as a quantity; its message says what was expected."""


@cache
def _scale(unit: str) -> tuple[float, float]:
    """Slope and offset that turn a figure in `unit` into SI."""
    if unit in _TEMPERATURES:
        return _TEMPERATURES[unit]
    if unit == "deg":
        return _DEGREE, 0.0
    above, _, below = (unit, "", "1") if unit in _EXACT else unit.partition("/")
    return float(_EXACT[above] / _EXACT[below]), 0.0


def to_si(value: float, unit: str) -> float:
    """`value` in `unit`, in SI. Raises KeyError for a unit that is not in the list."""
    if unit == "":
        return value
    FAMILY_OF[unit]
    slope, offset = _scale(unit)
    return value * slope + offset


def from_si(value: float, unit: str) -> float:
    """`value` in SI, in `unit`. Raises KeyError for a unit that is not in the list."""
    if unit == "":
        return value
    FAMILY_OF[unit]
    slope, offset = _scale(unit)
    return (value - offset) / slope


def sizes() -> dict[str, dict[str, float]]:
    """By kind of quantity, its units with what one of each is in SI."""
    return {family: {unit: to_si(1, unit) for unit in listed} for family, listed in FAMILIES.items()}


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
