"""What a method's inputs are made of: typed fields that read a job file's text.

Every field may be absent: what is absent makes the call `not-ready`, never a refusal. What is
present and malformed raises ValueError with a sentence that says what was expected.
"""

import datetime
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

from wary.quantities import FAMILIES, Quantity, article, quantity, shown


class Inputs(BaseModel):
    """A block of a job file: unknown keys are refused, nothing is ever changed after reading."""

    model_config = ConfigDict(extra="forbid", frozen=True, arbitrary_types_allowed=True)

    @classmethod
    def contradicting(cls, raw: Mapping[str, Any]) -> list[tuple[str, str]]:
        """Fields of the raw block that contradict each other: the key, and what was expected."""
        return []


Kind = Literal[
    "mass", "length", "time", "speed", "rate", "mass per length", "mass per area", "mass per revolution",
    "mass per count", "density", "volume", "area", "angle", "temperature", "pressure", "signal", "voltage", "current",
    "frequency", "pulses per length", "percentage", "number", "integer", "boolean", "word", "string", "reading", "limit",
    "day", "block", "list",
]  # fmt: skip
"""What can be typed somewhere: a family of quantities, or something plainer."""

COUNTS = "counts"
"""The unit beside a reading that is a plain number of raw counts."""


class Parser:
    """Reads one JSON value with `read`, and tells a JSON Schema and a screen what it reads.

    `units` are those that a bare number can take, `words` the words to choose from with what they mean.
    """

    def __init__(
        self,
        read: Callable[[Any], Any],
        schema: dict[str, Any],
        kind: Kind,
        units: tuple[str, ...] = (),
        words: dict[str, str] | None = None,
    ) -> None:
        self.read, self.schema, self.kind, self.units, self.words = read, schema, kind, units, words or {}

    @property
    def signed(self) -> bool:
        """Whether it reads a figure that may be below zero."""
        return self.kind == "number" and not {"minimum", "exclusiveMinimum"} & set(self.schema)

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(self.read)

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return self.schema


class Of(Parser):
    """A quantity of one family; `above` and `least` bound it, in SI."""

    def __init__(self, family: Kind, above: float | None = None, least: float | None = None) -> None:
        self.family, self.above, self.least = family, above, least
        units = FAMILIES[family]
        schema = {"type": "string", "description": f"{family}: number, space, unit ({', '.join(units)})"}
        super().__init__(self.bounded, schema, family, units)

    @property
    def signed(self) -> bool:
        return self.above is None and self.least is None

    def bounded(self, found: Any) -> Quantity:
        # A quantity that was read once stays as it is.
        given = found if isinstance(found, Quantity) else quantity(found, self.family)
        if self.above is not None and not given.si > self.above:
            raise ValueError(f"“{given.text}” is not above zero; expected {article(self.family)} above zero")
        if self.least is not None and given.si < self.least:
            raise ValueError(f"“{given.text}” is below zero; expected {article(self.family)} of zero or more")
        return given


class Either(Parser):
    """A quantity of one of several families, above zero."""

    def __init__(self, kind: Kind, *families: str) -> None:
        self.families = families
        units = tuple(unit for family in families for unit in FAMILIES[family])
        schema = {"type": "string", "description": f"{' or '.join(families)}: number, space, unit ({', '.join(units)})"}
        super().__init__(self.bounded, schema, kind, units)

    def bounded(self, found: Any) -> Quantity:
        if isinstance(found, Quantity):
            return found
        unit = found.strip().rpartition(" ")[2] if isinstance(found, str) else ""
        family = next((family for family in self.families if unit in FAMILIES[family]), self.families[0])
        given = quantity(found, family)
        if not given.si > 0:
            raise ValueError(f"“{given.text}” is not above zero; expected {article(family)} above zero")
        return given


class AnyOf(Parser):
    """A quantity of one of several families, of either sign."""

    def __init__(self, kind: Kind, *families: str) -> None:
        self.families = families
        units = tuple(unit for family in families for unit in FAMILIES[family])
        schema = {"type": "string", "description": f"{' or '.join(families)}: number, space, unit ({', '.join(units)})"}
        super().__init__(self.read_any, schema, kind, units)

    @property
    def signed(self) -> bool:
        return True

    def read_any(self, found: Any) -> Quantity:
        if isinstance(found, Quantity):
            return found
        unit = found.strip().rpartition(" ")[2] if isinstance(found, str) else ""
        return quantity(found, next((family for family in self.families if unit in FAMILIES[family]), self.families[0]))


def _seconds(found: Any) -> float:
    """Seconds, as a plain number or as a time."""
    if isinstance(found, str):
        found = quantity(found, "time").si
    return _above_zero(found)


def _number(found: Any) -> float:
    if isinstance(found, bool) or not isinstance(found, (int, float)):
        what = f"“{found}”" if isinstance(found, str) else repr(found)
        raise ValueError(f"{what} is not a plain number; expected a number with no unit and no quotes")
    try:
        number = float(found)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise ValueError("the number is not finite; expected an ordinary number")
    return number


def _above_zero(found: Any) -> float:
    number = _number(found)
    if number <= 0:
        raise ValueError(f"{shown(number)} is not above zero; expected a number above zero")
    return number


class Reading(Parser):
    """A reading that is a plain number of raw counts, or a quantity of one of these families."""

    def __init__(self, *families: str) -> None:
        self.families = families
        schema = {"type": ["number", "string"], "description": " or ".join(families)}
        super().__init__(self.read_any, schema, "reading", ("mV/V", "kg", "t", "lb", COUNTS))

    def read_any(self, found: Any) -> "Quantity | float":
        if isinstance(found, Quantity):
            return found
        if not isinstance(found, str):
            return _number(found)
        unit = found.strip().rpartition(" ")[2]
        family = next((family for family in self.families if unit in FAMILIES[family]), self.families[0])
        return quantity(found, family)


def _fraction_or_more(found: Any) -> float:
    number = _number(found)
    if number < 0:
        raise ValueError(f"{shown(number)} is below zero; expected a number of zero or more")
    return number


def whole(low: int, high: int) -> Parser:
    def read(found: Any) -> int:
        number = _number(found)
        if number != int(number) or not low <= number <= high:
            raise ValueError(f"{found} is not usable here; expected a whole number from {low} to {high}")
        return int(number)

    return Parser(read, {"type": "integer", "minimum": low, "maximum": high}, "integer")


def choice(**words: str) -> Parser:
    """One word out of a few, each with what it means; an underscore stands for a hyphen."""
    known = {word.replace("_", "-"): says for word, says in words.items()}

    def read(found: Any) -> str:
        if not isinstance(found, str) or found not in known:
            raise ValueError(f"{found!r} is not one of the words known here; expected {', '.join(known)}")
        return found

    return Parser(read, {"type": "string", "enum": list(known)}, "word", words=known)


def _text(found: Any) -> str:
    if not isinstance(found, str):
        raise ValueError(f"{found!r} is not a text; expected words in quotes")
    return found


def _reason(found: Any) -> str:
    if not isinstance(found, str) or not any(letter.isalpha() for letter in found):
        raise ValueError(f"{found!r} is not a reason; expected why the run is set aside, in words")
    return found


def _flag(found: Any) -> bool:
    if not isinstance(found, bool):
        raise ValueError(f"{found!r} is neither true nor false; expected true or false")
    return found


def _day(found: Any) -> datetime.date:
    try:
        return datetime.date.fromisoformat(found)
    except (TypeError, ValueError):
        raise ValueError(f"{found!r} is not a day; expected one such as “2031-05-04”") from None


@dataclass(frozen=True)
class Limit:
    """How far off is still in order: a percentage, a mass, or two of them.

    `which` is `one`, `larger` (kept when either is kept) or `smaller` (only when both are).
    """

    which: str
    parts: tuple[Quantity, ...]

    def kept(self, relative: float, mass: float) -> bool:
        """Whether a mean relative error (a fraction) and a mean error in kg are within it."""
        within = [at_most(abs(relative if part.family == "percentage" else mass), part.si) for part in self.parts]
        return any(within) if self.which == "larger" else all(within)

    @property
    def percentage(self) -> float | None:
        """The percentage of it, as a fraction; of two percentages the one that decides."""
        shares = [part.si for part in self.parts if part.family == "percentage"]
        if not shares:
            return None
        return max(shares) if self.which == "larger" else min(shares)

    def relative_at(self, amount: float) -> float:
        """The whole limit as a fraction of `amount` (kg, above zero)."""
        shares = [part.si if part.family == "percentage" else part.si / amount for part in self.parts]
        return max(shares) if self.which == "larger" else min(shares)

    def __str__(self) -> str:
        words = [f"{shown(p.value)} {p.unit}" for p in self.parts]
        if self.which == "one":
            return f"± {words[0]}"
        return f"± {words[0]} or {words[1]}, whichever is {self.which}"

    def as_json(self) -> Any:
        texts = [part.text for part in self.parts]
        return texts[0] if self.which == "one" else {self.which: texts}


def at_most(value: float, limit: float) -> bool:
    """`value ≤ limit`, with the 1e-9 relative of slack that floating point needs."""
    return value <= limit * (1 + 1e-9) if limit >= 0 else value <= limit * (1 - 1e-9)


def limit(found: Any) -> Limit:
    """Reads a limit. Raises ValueError with what was expected."""
    wanted = "expected a percentage, a mass, or {“larger”: [two of them]} or {“smaller”: [two of them]}"
    if isinstance(found, Limit):
        return found
    if isinstance(found, dict):
        if len(found) != 1 or next(iter(found)) not in ("larger", "smaller"):
            raise ValueError(f"{', '.join(map(str, found)) or 'an empty block'} is not a limit; {wanted}")
        (which, parts), *_ = found.items()
        if not isinstance(parts, list) or len(parts) != 2:
            raise ValueError(f"“{which}” does not hold a list of two; {wanted}")
        return Limit(which, (_limit_part(parts[0], wanted), _limit_part(parts[1], wanted)))
    return Limit("one", (_limit_part(found, wanted),))


def _limit_part(found: Any, wanted: str) -> Quantity:
    family = "mass" if isinstance(found, str) and not found.strip().endswith("%") else "percentage"
    try:
        part = quantity(found, family)
    except ValueError as unread:
        raise ValueError(f"{str(unread).partition(';')[0]}; {wanted}") from None
    if part.si < 0:
        raise ValueError(f"“{found}” is below zero; {wanted}")
    return part


Mass = Annotated[Quantity, Of("mass")]
MassOrShare = Annotated[Quantity, AnyOf("mass", "mass", "percentage")]
MassOrRate = Annotated[Quantity, AnyOf("mass", "mass", "rate")]
PositiveMass = Annotated[Quantity, Of("mass", above=0)]
MassFromZero = Annotated[Quantity, Of("mass", least=0)]
PositiveLength = Annotated[Quantity, Of("length", above=0)]
PositiveTime = Annotated[Quantity, Of("time", above=0)]
TimeFromZero = Annotated[Quantity, Of("time", least=0)]
PositiveRate = Annotated[Quantity, Of("rate", above=0)]
Rate = Annotated[Quantity, Of("rate")]
PositiveSpeed = Annotated[Quantity, Of("speed", above=0)]
PositiveSignal = Annotated[Quantity, Of("signal", above=0)]
Angle = Annotated[Quantity, Of("angle", least=0)]
Latitude = Annotated[Quantity, Of("angle")]
Temperature = Annotated[Quantity, Of("temperature")]
Percentage = Annotated[Quantity, Of("percentage", least=0)]
SignedPercentage = Annotated[Quantity, Of("percentage")]
PositivePercentage = Annotated[Quantity, Of("percentage", above=0)]
MassPerLength = Annotated[Quantity, Of("mass per length", least=0)]
LengthFromZero = Annotated[Quantity, Of("length", least=0)]
Voltage = Annotated[Quantity, Of("voltage", above=0)]
Frequency = Annotated[Quantity, Of("frequency", above=0)]
Current = Annotated[Quantity, Of("current")]
Signal = Annotated[Quantity, Of("signal")]
Number = Annotated[float, Parser(_number, {"type": "number"}, "number")]
NumberFromZero = Annotated[float, Parser(_fraction_or_more, {"type": "number", "minimum": 0}, "number")]
CellReading = Annotated[Quantity | float, Reading("signal", "mass")]
AboveZero = Annotated[float, Parser(_above_zero, {"type": "number", "exclusiveMinimum": 0}, "number")]
PerTurn = Annotated[Quantity, Either("mass per revolution", "mass per revolution", "mass per count")]
PerTurnOrMass = Annotated[Quantity, Either("mass per revolution", "mass per revolution", "mass per count", "mass")]
PerCount = Annotated[Quantity, Of("mass per count", above=0)]
PerRevolution = Annotated[Quantity, Of("mass per revolution", above=0)]
PerLength = Annotated[Quantity, Of("mass per length", least=0)]
Density = Annotated[Quantity, Of("density", above=0)]
PositiveVolume = Annotated[Quantity, Of("volume", above=0)]
Seconds = Annotated[
    float, Parser(_seconds, {"type": ["number", "string"], "description": "seconds, or a time"}, "number")
]
Decimals = Annotated[int, whole(0, 12)]
Count = Annotated[int, whole(1, 100_000)]
CountFromZero = Annotated[int, whole(0, 100_000)]
Many = Annotated[int, whole(0, 1_000_000_000)]
Readings = Annotated[int, whole(1, 2)]
CellCount = Annotated[int, whole(1, 64)]
Words = Annotated[str, Parser(_text, {"type": "string"}, "string")]
WhyAside = Annotated[str, Parser(_reason, {"type": "string", "minLength": 1}, "string")]
Flag = Annotated[bool, Parser(_flag, {"type": "boolean"}, "boolean", words={"yes": "yes", "no": "no"})]
Day = Annotated[datetime.date, Parser(_day, {"type": "string", "format": "date"}, "day")]
Direction = Annotated[str, choice(multiplies="multiplies", divides="divides")]
OCCASIONS = {
    "routine": "routine visit",
    "first": "first calibration",
    "repair": "after a repair",
    "complaint": "after a complaint",
    "season": "start of season",
}
"""Why a job is done, in words."""

Occasion = Annotated[str, choice(**OCCASIONS)]
NONE = "none"
"""What is typed where a machine has no such thing."""


class OrNone(Of):
    """A quantity above zero, or the word `none`."""

    def __init__(self, family: Kind) -> None:
        super().__init__(family, above=0)
        self.schema = {"anyOf": [self.schema, {"const": NONE}]}
        self.read = self.read_any

    def read_any(self, found: Any) -> "Quantity | str":
        return NONE if isinstance(found, str) and found.strip().lower() == NONE else self.bounded(found)


MassOrNone = Annotated[Quantity | str, OrNone("mass")]
LimitField = Annotated[
    Limit,
    Parser(
        limit,
        {
            "description": "a percentage, a mass, or two of them",
            "anyOf": [
                {"type": "string"},
                {
                    "type": "object",
                    "additionalProperties": False,
                    "minProperties": 1,
                    "maxProperties": 1,
                    "properties": {
                        word: {"type": "array", "items": {"type": "string"}, "minItems": 2, "maxItems": 2}
                        for word in ("larger", "smaller")
                    },
                },
            ],
        },
        "limit",
    ),
]


def field(title: str, why: str = "", ask: str = "", among: str = "") -> Any:
    """A field that may be absent: what it is called, what it is for, and what to do where it is missing.

    `among` is a list of the same sheet and a place in its rows (`grades.name`), whose words are
    offered here; another may be typed all the same.
    """
    extra: dict[str, Any] = {key: text for key, text in (("ask", ask), ("among", among)) if text}
    return Field(default=None, title=title, description=why or None, json_schema_extra=extra or None)


def plate(title: str, why: str = "") -> Any:
    """A field that means the same in every method of a visit: typed once, it counts for all that take it."""
    return Field(default=None, title=title, description=why or None, json_schema_extra={"plate": True})


class Plates(Inputs):
    """What is read off the plates, for the search of slips. Every comparison method takes it."""

    cell_capacity: PositiveMass | None = field("Capacity of one load cell")
    cell_count: CellCount | None = field("Number of load cells")
    cell_sensitivity: PositiveSignal | None = field("Sensitivity of the cells")
    idler_spacing: PositiveLength | None = field("Idler spacing")
    weigh_idlers: Count | None = field("Weigh idlers")
    pulses_per_revolution: AboveZero | None = field("Pulses in one revolution")
    angle: Angle | None = field("Conveyor angle")
    tare: PositiveMass | None = field("Tare of the container")
    passes_per_load: Count | None = field("Passes that make one load")
    cell_kind: Words | None = field("Kind of cell", "analogue or digital")
    capacity: PositiveMass | None = field("Capacity")
    division: PositiveMass | None = field("Division of the display")
    belt_length: PositiveLength | None = field("Belt length")
    width: PositiveLength | None = field("Working width")
    row_spacing: PositiveLength | None = field("Row spacing")
    roller: Words | None = field("Roller or meter")
    unit_shown: Words | None = field("Unit of the display")
    decimals: CountFromZero | None = field("Decimals of the display")
    latitude: Latitude | None = field("Latitude of the site")
    height: LengthFromZero | None = field("Height of the site")


EXCLUSIVE = (
    ("reference", "gross", "the reference, or gross and tare, not both"),
    ("reference", "tare", "the reference, or gross and tare, not both"),
    ("indicated", "total_start", "what was indicated, or a total at start and end, not both"),
    ("indicated", "total_end", "what was indicated, or a total at start and end, not both"),
)


class Run(Inputs):
    """One comparison: what the reference says it should have been, and what was indicated."""

    reference: MassFromZero | None = field("Reference")
    gross: MassFromZero | None = field("Gross")
    tare: MassFromZero | None = field("Tare")
    zeroed: Flag | None = field("Scale zeroed with the container on it")
    indicated: Mass | None = field("Indicated")
    total_start: Mass | None = field("Total at the start")
    total_end: Mass | None = field("Total at the end")
    duration: PositiveTime | None = field("Duration")
    set_aside: WhyAside | None = field("Set aside because")

    @classmethod
    def contradicting(cls, raw: Mapping[str, Any]) -> list[tuple[str, str]]:
        """The fields that say again what another says, each with what was expected."""
        twice: dict[str, str] = {}
        for one, other, wanted in EXCLUSIVE:
            if raw.get(one) is not None and raw.get(other) is not None:
                twice.setdefault(other, f"stands beside “{one}” in the same run; expected {wanted}")
        if raw.get("tare") is not None and raw.get("zeroed") is True:
            twice.setdefault(
                "tare", "stands beside “zeroed”: true; expected a tare, or a scale zeroed with it on, not both"
            )
        return list(twice.items())

    @cached_property
    def remembered(self) -> dict[object, object]:
        """What was worked out of this run, by what it was worked out with: the same run is not worked out again."""
        return {}

    @cached_property
    def is_complete(self) -> bool:
        """Whether it says what it should have been, and what was indicated."""
        weighed = self.reference or (self.gross and (self.tare is not None or self.zeroed))
        return bool(weighed) and bool(self.readings_shown() or (self.total_start and self.total_end))

    def readings_shown(self) -> tuple[Quantity, ...]:
        """The displays that add up to what was indicated; empty where it was read in no such way."""
        return (self.indicated,) if self.indicated else ()

    @property
    def stands_for(self) -> int:
        """How many loads this run is the mean of."""
        return 1
