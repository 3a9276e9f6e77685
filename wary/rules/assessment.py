"""What is said of evidence: reasons, checks, figures, and the assessment that holds them."""

import math
from dataclasses import dataclass, field
from typing import Any, Literal

Call = Literal["not-ready", "keep-testing", "find-fault", "adjust", "leave"]
CheckState = Literal["pass", "note", "fail"]
Tone = Literal["", "good", "bad", "note"]

NOT_READY: Call = "not-ready"
KEEP_TESTING: Call = "keep-testing"
FIND_FAULT: Call = "find-fault"
ADJUST: Call = "adjust"
LEAVE: Call = "leave"


def value(number: float, unit: str = "") -> dict[str, Any]:
    """A result: a figure with its unit."""
    return {"value": number, "unit": unit}


def word(text: str) -> dict[str, Any]:
    """A result that is a word."""
    return {"value": text, "unit": ""}


@dataclass(frozen=True)
class Reason:
    """Why a call was made: its code, its sentence, and what else belongs to it."""

    code: str
    text: str
    more: dict[str, Any] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        return {"code": self.code, "text": self.text, **self.more}


def missing(path: str, text: str) -> Reason:
    """The reason for a required input that is absent; the sentence says what to do."""
    return Reason("missing", text, {"path": path})


@dataclass(frozen=True)
class Check:
    """One of a method's own checks: `state` is `pass`, `note` or `fail`."""

    code: str
    state: CheckState
    text: str

    def as_json(self) -> dict[str, str]:
        return {"code": self.code, "state": self.state, "text": self.text}


@dataclass(frozen=True)
class Remark:
    """What is said of one row of a list under one heading: words, the figure behind them, and its tone."""

    text: str
    figure: float | None = None
    tone: Tone = ""


RowRemarks = dict[str, list[dict[str, Remark]]]
"""By list, for each of its rows in their order: what is said of it, by name."""


@dataclass
class Assessment:
    """What a method answers; `as_json` is what a job file carries.

    `remarks` are for the screen and stand in no file: they are worked out from the results again.
    """

    method: str
    call: Call
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
    down: bool = False
    remarks: RowRemarks = field(default_factory=dict)
    as_found: "Assessment | None" = None

    @property
    def found(self) -> "Assessment":
        """The assessment of what was found, before any change of this part."""
        return self.as_found or self

    def figure(self, name: str) -> float | None:
        """A single result as a number, in the unit that it is given in; None where there is none."""
        result = self.results.get(name)
        number = result.get("value") if isinstance(result, dict) else None
        return float(number) if isinstance(number, (int, float)) and not isinstance(number, bool) else None

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


def finite(results: dict[str, Any]) -> dict[str, Any]:
    """Results without the figures that are not numbers, which no reader could use."""

    def usable(result: Any) -> bool:
        number = result.get("value") if isinstance(result, dict) else None
        return not (isinstance(number, float) and not math.isfinite(number))

    return {name: result for name, result in results.items() if usable(result)}
