"""What a person types at a screen, as a job file would write it.

At the screen a decimal comma, a true minus, groups of three and a unit without a space are
understood; a bare number takes the field's unit. What cannot be understood is handed on as it is,
so that the reading of the job file says what is wrong with it.
"""

import math
import re
from functools import lru_cache
from typing import Any

from wary.fields import COUNTS
from wary.quantities import FAMILY_OF, SHORT

_NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
_GROUPED = re.compile(r"(?<=\d)[ \u00a0\u202f](?=\d{3}(?:\D|$))")
_BARE = re.compile(rf"^{_NUMBER}$")
_WITH_UNIT = re.compile(rf"^({_NUMBER})\s*(\D\S*)$")
_POUNDS_AND_OUNCES = re.compile(rf"^({_NUMBER})\s*lbs?\.?\s*({_NUMBER})\s*oz\.?$")
_TWO_LIMITS = re.compile(r"^(larger|smaller) of (.+?) and (.+)$", re.IGNORECASE)
_SPELLINGS = {"°": "deg", "µ": "u", "tonne": "t", "tonnes": "t", "lbs": "lb", "mm.": "mm", "º": "deg"}


def as_in_a_file(text: str, kind: str, unit: str = "") -> Any:
    """The value that a job file would hold for this text.

    `kind` is the field's kind (`wary.fields.Kind`); `unit` is the field's unit, for a bare number.
    Two limits are typed as `larger of 1 % and 60 kg`.
    """
    remembered = len(text) <= SHORT and kind != "limit"
    return (_as_in_a_file if remembered else _as_in_a_file.__wrapped__)(text, kind, unit)


@lru_cache(maxsize=16_384)
def _as_in_a_file(text: str, kind: str, unit: str) -> Any:
    plain = text.strip().replace("−", "-")
    if kind == "boolean":
        return {"yes": True, "no": False}.get(plain.lower(), text)
    if kind in ("word", "string", "day"):
        return text
    two = _TWO_LIMITS.match(plain) if kind == "limit" else None
    if two:
        return {two[1].lower(): [as_in_a_file(two[2], kind, "%"), as_in_a_file(two[3], kind, "%")]}
    plain = _GROUPED.sub("", plain)
    if "," in plain and "." not in plain and plain.count(",") == 1:
        plain = plain.replace(",", ".")
    if kind in ("number", "integer"):
        if not _BARE.match(plain):
            return text
        number = float(plain)
        if not math.isfinite(number):
            return text
        return int(number) if number == int(number) and abs(number) < 1e15 and "." not in plain else number
    if _BARE.match(plain):
        if kind == "reading" and unit in ("", COUNTS):
            return float(plain) if math.isfinite(float(plain)) else text
        return f"{plain} {unit}" if unit else text
    both = _POUNDS_AND_OUNCES.match(plain)
    if both:
        return f"{both[1]} lb {both[2]} oz"
    joined = _WITH_UNIT.match(plain)
    if joined:
        spelled = _SPELLINGS.get(joined[2], joined[2])
        return f"{joined[1]} {spelled}" if spelled in FAMILY_OF else text
    return text
