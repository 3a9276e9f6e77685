"""What a method's results are made of: typed figures, each with its title, its kind and how it is rounded.

The results of a method are a dataclass with a field a figure. What is None was not worked out, and
stands in no file; so does a figure that is not finite, which nobody could use.
"""

import dataclasses
import math
import types
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, ClassVar, Literal, TypeAlias, Union, get_args, get_origin, get_type_hints

from pydantic import BaseModel, ConfigDict

from wary.fields import Kind
from wary.quantities import Quantity, from_si, percent_shown, shown, to_si

JSON: TypeAlias = "str | float | bool | None | list[JSON] | dict[str, JSON]"
"""What can be written as JSON."""
DIGITS = 12
"""Significant digits of a figure in a file: those after them depend on the machine's library of mathematics."""


def to_digits(figure: float) -> float:
    """A figure rounded to the digits that a file has."""
    return float(f"{figure:.{DIGITS}g}")


def in_digits(found: JSON) -> JSON:
    """The same with every figure in it rounded so."""
    if isinstance(found, float):
        return to_digits(found)
    if isinstance(found, dict):
        return {key: in_digits(each) for key, each in found.items()}
    if isinstance(found, list):
        return [in_digits(each) for each in found]
    return found


@dataclass(frozen=True, slots=True)
class Figure:
    """A number with its unit; a plain one has none."""

    value: float
    unit: str = ""

    @property
    def quantity(self) -> Quantity:
        """The same as a quantity that nobody typed. Its unit has to be one that a job file may use."""
        return Quantity(self.value, self.unit, "")

    def written(self, digits: int = 6) -> str:
        """The same as a job file writes a quantity, with so many significant digits."""
        return f"{self.value:.{digits}g} {self.unit}"

    @property
    def si(self) -> float:
        """Its size in SI. Raises KeyError for a unit that no job file may use."""
        return to_si(self.value, self.unit)


@dataclass(frozen=True, slots=True)
class Word:
    """A result that is a word."""

    value: str
    unit: ClassVar[str] = ""


@dataclass(frozen=True, slots=True)
class YesNo:
    """A result that is yes or no."""

    value: bool
    unit: ClassVar[str] = ""


Single = Figure | Word | YesNo
Shape = Literal["single", "list", "table", "rows"]


def in_unit(si: float, unit: str) -> Figure:
    """A figure given in SI, in `unit`."""
    return Figure(from_si(si, unit), unit)


def value_of(one: Figure | None) -> float | None:
    """The number of a figure; None where there is none, or none that can be used."""
    return one.value if one is not None and math.isfinite(one.value) else None


def percent(fraction: float) -> Figure:
    """A fraction as a figure in per cent."""
    return Figure(fraction * 100, "%")


class ResultField(BaseModel):
    """One field of a method's results, as `describe` lists it.

    `digits` are the significant digits that are worth reading, `decimals` those of a percentage;
    `signed`: shown with its sign. `large`: shown large where the method shows what to key in, on machines
    of the trait `where` alone if that says so. `summary`: the one line on a certificate gives it.
    `begins` is the key of a row that a further row of the method's list begins with this, `keeps` the
    one in which it is kept. `gaps`: a list may hold nothing in a place, to keep the order. `fields` are those of each row in a list of rows.
    """

    model_config = ConfigDict(frozen=True)

    key: str
    title: str
    kind: Kind
    shape: Shape = "single"
    digits: int = 5
    decimals: int = 2
    signed: bool = False
    large: bool = False
    where: str = ""
    summary: bool = False
    begins: str = ""
    keeps: str = ""
    gaps: bool = False
    fields: tuple["ResultField", ...] = ()


def figure(
    title: str,
    kind: Kind = "number",
    *,
    digits: int = 5,
    decimals: int = 2,
    signed: bool = False,
    large: bool = False,
    where: str = "",
    summary: bool = False,
    begins: str = "",
    keeps: str = "",
) -> Any:
    """A field of results: what it is called, what kind of thing it is, and how it is read (see `ResultField`)."""
    said = {"title": title, "kind": kind, "digits": digits, "decimals": decimals, "signed": signed, "large": large,
            "where": where, "summary": summary, "begins": begins, "keeps": keeps}  # fmt: skip
    return dataclasses.field(default=None, metadata=said)


@dataclass(slots=True, eq=False)
class Results:
    """Base of the results of a method, and of the rows in them."""

    def as_json(self) -> dict[str, JSON]:
        """The results as a job file carries them: what was worked out, and is finite."""
        found: dict[str, JSON] = {}
        for about in fields_of(type(self)):
            one = getattr(self, about.key)
            if one is not None and not (isinstance(one, Figure) and not math.isfinite(one.value)):
                found[about.key] = _written(one)
        return found

    def singles(self) -> Iterator[tuple[ResultField, Single]]:
        """Each single result that was worked out and is finite, with its field."""
        for about in fields_of(type(self)):
            one = getattr(self, about.key)
            if isinstance(one, (Figure, Word, YesNo)) and not (
                isinstance(one, Figure) and not math.isfinite(one.value)
            ):
                yield about, one

    def rows(self, about: ResultField) -> "list[Results] | None":
        """The rows in one of its fields; None where it holds none."""
        found = getattr(self, about.key) if about.shape == "rows" else None
        return found if isinstance(found, list) else None

    def is_finite(self) -> bool:
        """Whether every figure inside its lists can be used; a single one that cannot is left out and spoils nothing."""
        return all(_finite(one) for about in fields_of(type(self)) if about.shape != "single" and (one := getattr(self, about.key)) is not None)  # fmt: skip


def _written(one: Any) -> JSON:
    if one is None:
        return None
    if isinstance(one, list):
        return [_written(inner) for inner in one]
    if isinstance(one, Results):
        return one.as_json()
    return {"value": one.value, "unit": one.unit}


def _finite(one: Any) -> bool:
    if isinstance(one, Figure):
        return math.isfinite(one.value)
    if isinstance(one, list):
        return all(_finite(inner) for inner in one)
    if isinstance(one, Results):
        return all(_finite(getattr(one, about.key)) for about in fields_of(type(one)))
    return True


_FIELDS: dict[type[Results], tuple[ResultField, ...]] = {}


def fields_of(of: type[Results]) -> tuple[ResultField, ...]:
    """The fields of some results. Raises TypeError for an annotation that it does not know."""
    found = _FIELDS.get(of)
    if found is None:
        hints = get_type_hints(of)
        found = _FIELDS[of] = tuple(_field(of, one, hints[one.name]) for one in dataclasses.fields(of))
    return found


def _field(of: type[Results], one: "dataclasses.Field[Any]", annotation: Any) -> ResultField:
    depth, bare, gaps = 0, _without_none(annotation), False
    while get_origin(bare) is list:
        inner = get_args(bare)[0]
        depth, bare, gaps = depth + 1, _without_none(inner), gaps or type(None) in get_args(inner)
    if not isinstance(bare, type) or "title" not in one.metadata:
        raise TypeError(f"{of.__name__}.{one.name}: a result is a Figure, a Word, a YesNo, a row, or a list of them")
    if issubclass(bare, Results):
        return ResultField(key=one.name, **{**one.metadata, "kind": "list"}, shape="rows", fields=fields_of(bare))
    kind = {Word: "word", YesNo: "boolean"}.get(bare, one.metadata["kind"])
    shape: Shape = "single" if depth == 0 else "list" if depth == 1 else "table"
    return ResultField(key=one.name, **{**one.metadata, "kind": kind}, shape=shape, gaps=gaps)


def _without_none(annotation: Any) -> Any:
    if get_origin(annotation) in (Union, types.UnionType):
        return next(part for part in get_args(annotation) if part is not type(None))
    return annotation


def text_of(one: Single, about: ResultField) -> str:
    """A result for reading, as its field says."""
    if isinstance(one, YesNo):
        return "yes" if one.value else "no"
    if isinstance(one, Word):
        return one.value
    if one.unit == "%":
        return percent_shown(one.value / 100, sign=about.signed, decimals=about.decimals)
    return f"{shown(one.value, about.digits, sign=about.signed)} {one.unit}".strip()


# --- the JSON Schema --------------------------------------------------------------------------

_VALUES: dict[str, JSON] = {"word": {"type": "string"}, "boolean": {"type": "boolean"}, "integer": {"type": "number"}}


def schema_of(of: type[Results]) -> dict[str, JSON]:
    """The JSON Schema of some results: each may be absent, and nothing else may stand there."""
    properties: dict[str, JSON] = {one.key: _schema(one) for one in fields_of(of)}
    return {"type": "object", "additionalProperties": False, "properties": properties}


def _schema(one: ResultField) -> JSON:
    if one.shape == "rows":
        inner: dict[str, JSON] = {row.key: _schema(row) for row in one.fields}
        items: JSON = {"type": "object", "additionalProperties": False, "properties": inner}
        return {"title": one.title, "type": "array", "items": items}
    single: JSON = {
        "type": "object",
        "additionalProperties": False,
        "required": ["value", "unit"],
        "properties": {"value": _VALUES.get(one.kind, {"type": "number"}), "unit": {"type": "string"}},
    }
    if one.shape == "single":
        return {"title": one.title, "description": one.kind, **single}  # type: ignore[dict-item]
    listed: JSON = {"type": "array", "items": {"anyOf": [single, {"type": "null"}]} if one.gaps else single}
    if one.shape == "table":
        listed = {"type": "array", "items": listed}
    return {"title": one.title, "description": one.kind, **listed}  # type: ignore[dict-item]
