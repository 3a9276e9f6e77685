"""What a method is: inputs, steps of its run sheet, cautions, and `assess()`.

A method lives in one file under `wary/methods/`, named as its key. The server validates with it,
the screen lays out its run sheet from it, the job file's schema and the command line describe it.
"""

import datetime
import math
from dataclasses import dataclass, field
from typing import Any, ClassVar

from wary.call import Profile, Reason
from wary.fields import Inputs, Of, Reader
from wary.quantities import FAMILIES, Quantity, shown


def value(number: float, unit: str = "") -> dict[str, Any]:
    """A result: a figure with its unit."""
    return {"value": number, "unit": unit}


def drawn(number: float, unit: str, significant: int = 4) -> dict[str, Any]:
    """A figure for a drawing: value, unit, and the text beside it."""
    spoken = {"deg": "°", "": ""}.get(unit, f" {unit}")
    return value(number, unit) | {"text": f"{shown(number, significant)}{spoken}"}


@dataclass(frozen=True)
class Check:
    """One of a method's own checks: `state` is `pass`, `note` or `fail`."""

    code: str
    state: str
    text: str

    def as_json(self) -> dict[str, str]:
        return {"code": self.code, "state": self.state, "text": self.text}


@dataclass(frozen=True)
class Item:
    """Something to look at and tick. `loose_end` says what stays open from the tick until it is put back."""

    key: str
    text: str
    loose_end: str | None = None

    def as_json(self) -> dict[str, Any]:
        return {"key": self.key, "text": self.text, "loose_end": self.loose_end}


@dataclass(frozen=True)
class Step:
    """One step of a run sheet. `kind` is `look`, `enter`, `plan`, `runs`, `adjust` or `close`.

    `fields` names the inputs entered here, `runs` the list of runs; cautions are confirmed here.
    """

    key: str
    kind: str
    title: str
    text: str = ""
    items: tuple[Item, ...] = ()
    fields: tuple[str, ...] = ()
    runs: str | None = None
    cautions: tuple[str, ...] = ()

    def as_json(self) -> dict[str, Any]:
        return {
            "key": self.key,
            "kind": self.kind,
            "title": self.title,
            "text": self.text,
            "items": [item.as_json() for item in self.items],
            "fields": list(self.fields),
            "runs": self.runs,
            "cautions": list(self.cautions),
        }


@dataclass(frozen=True)
class Reference:
    """A reference that the job names; `range` in kg. `allowed_by` let an overdue one pass, on the record."""

    name: str
    certificate: str | None = None
    due: datetime.date | None = None
    range: float | None = None
    allowed_by: str | None = None


@dataclass(frozen=True)
class Setting:
    """What surrounds the inputs of a job: its profile, its occasion, the day, the references."""

    profile: Profile
    occasion: str = "routine"
    day: datetime.date | None = None
    references: tuple[Reference, ...] = ()

    def overdue(self) -> list[Reason]:
        """A reason for each reference that was out of date on the day and not let pass."""
        late = []
        for place, reference in enumerate(self.references):
            if reference.due and self.day and reference.due < self.day and not reference.allowed_by:
                text = (
                    f"{reference.name} was due for its own check on {reference.due.isoformat()}. "
                    "Use a reference that is in date, or let a lead allow it on the record."
                )
                late.append(Reason("reference-out-of-date", text, {"path": f"references[{place}].due"}))
        return late


@dataclass
class Assessment:
    """What a method answers; `as_json` is what a job file carries."""

    method: str
    call: str
    reasons: list[Reason]
    headline: str = ""
    lead: str = ""
    results: dict[str, Any] = field(default_factory=dict)
    suggestions: list[Reason] = field(default_factory=list)
    checks: list[Check] = field(default_factory=list)
    slips: list[dict[str, object]] = field(default_factory=list)
    look: list[str] = field(default_factory=list)
    questions: list[dict[str, str]] = field(default_factory=list)
    plan: list[str] = field(default_factory=list)
    budget: list[dict[str, Any]] = field(default_factory=list)
    key_in: dict[str, Any] | None = None
    as_found: "Assessment | None" = None

    def as_json(self) -> dict[str, Any]:
        answer: dict[str, Any] = {
            "method": self.method,
            "call": self.call,
            "headline": self.headline,
            "lead": self.lead,
            "reasons": [reason.as_json() for reason in self.reasons],
            "results": self.results,
            "suggestions": [suggestion.as_json() for suggestion in self.suggestions],
            "checks": [check.as_json() for check in self.checks],
            "slips": self.slips,
            "look": self.look,
            "questions": self.questions,
            "plan": self.plan,
            "budget": self.budget,
        }
        if self.key_in:
            answer["key_in"] = self.key_in
        if self.as_found:
            found = self.as_found.as_json()
            kept = ("call", "headline", "lead", "reasons", "results", "slips", "budget", "key_in")
            answer["as_found"] = {key: found[key] for key in kept if key in found}
        return answer


class Method:
    """Base of all methods. Subclasses fill the class variables and write `assess`.

    `figure` is the kind of drawing, `kinds` the kinds of system that the method is for.
    """

    key: ClassVar[str]
    title: ClassVar[str]
    summary: ClassVar[str]
    figure: ClassVar[str]
    kinds: ClassVar[tuple[str, ...]]
    profile: ClassVar[str]
    inputs: ClassVar[type[Inputs]]
    steps: ClassVar[tuple[Step, ...]]

    def assess(self, given: Any, setting: Setting) -> Assessment:
        """The assessment of these inputs: a pure function. Raises nothing for inputs that were read."""
        raise NotImplementedError

    def loose(self, given: Any) -> list[tuple[str, str]]:
        """Loose ends that follow from the inputs themselves: key and sentence."""
        return []

    def drawing(self, given: Any, plates: dict[str, Quantity | float]) -> dict[str, dict[str, Any]]:
        """Figures for this method's drawing, by name: value, unit and a text to write beside it."""
        return {}

    def contradictions(self, raw: dict[str, Any]) -> list[tuple[tuple[str | int, ...], str]]:
        """Fields of the raw inputs that contradict each other: place within inputs, and what was expected."""
        return []

    def describe(self) -> dict[str, Any]:
        """Inputs, steps and cautions, for the screen and the command line."""
        return {
            "key": self.key,
            "title": self.title,
            "summary": self.summary,
            "figure": self.figure,
            "kinds": list(self.kinds),
            "profile": self.profile,
            "inputs": describe_fields(self.inputs),
            "steps": [step.as_json() for step in self.steps],
        }


def describe_fields(model: type[Inputs]) -> list[dict[str, Any]]:
    """Each field of a block: its key, title, kind, units, words to choose from, and inner fields."""
    rows = []
    for key, info in model.model_fields.items():
        kind, family, words, inner, of = _kind(info.annotation, info.metadata)
        rows.append(
            {
                "key": key,
                "title": info.title or key.replace("_", " "),
                "why": info.description,
                "kind": kind,
                "units": list(FAMILIES[family]) if family else [],
                "words": words,
                "fields": describe_fields(inner) if inner else [],
                "of": of,
            }
        )
    return rows


Kind = tuple[str, str | None, list[str], type[Inputs] | None, str | None]
"""Kind, family, words to choose from, inner block, and of a plain list the kind of its elements."""


def _kind(annotation: Any, metadata: list[Any]) -> Kind:
    for reader in [*metadata, *_readers(annotation)]:
        if isinstance(reader, Of):
            return reader.family, reader.family, [], None, None
        if isinstance(reader, Reader):
            schema = reader.schema
            kind = "word" if "enum" in schema else schema.get("kind") or schema.get("type", "limit")
            return kind, None, schema.get("enum", []), None, None
    parts = [annotation, *getattr(annotation, "__args__", ())]
    for part in parts:
        if isinstance(part, type) and issubclass(part, Inputs):
            return "block", None, [], part, None
    for inner in [inner for part in parts for inner in getattr(part, "__args__", ())]:
        if isinstance(inner, type) and issubclass(inner, Inputs):
            return "list", None, [], inner, None
        if getattr(inner, "__metadata__", ()):
            kind, family, *_ = _kind(inner, list(inner.__metadata__))
            return "list", family, [], None, kind
    return "list", None, [], None, None


def _readers(annotation: Any) -> list[Any]:
    found: list[Any] = []
    for part in [annotation, *getattr(annotation, "__args__", ())]:
        found += getattr(part, "__metadata__", ())
    return found


def finite(results: dict[str, Any]) -> dict[str, Any]:
    """Results without the figures that are not numbers, which no reader could use."""

    def usable(result: Any) -> bool:
        number = result.get("value") if isinstance(result, dict) else None
        return not (isinstance(number, float) and not math.isfinite(number))

    return {name: result for name, result in results.items() if usable(result)}
