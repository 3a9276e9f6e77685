"""What is said of evidence: reasons, checks, figures, and the assessment that holds them."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Generic, Literal, TypeVar

from wary.results import JSON, Figure, Results, in_digits
from wary.rules.correction import KeyIn
from wary.rules.slips import Slip

Call = Literal["not-ready", "keep-testing", "find-fault", "adjust", "leave"]
CheckState = Literal["pass", "note", "fail"]
Tone = Literal["", "good", "bad", "note"]

NOT_READY: Call = "not-ready"
KEEP_TESTING: Call = "keep-testing"
FIND_FAULT: Call = "find-fault"
ADJUST: Call = "adjust"
LEAVE: Call = "leave"


@dataclass(frozen=True)
class Reason:
    """Why a call was made: its code, its sentence, and what else belongs to it."""

    code: str
    text: str
    more: Mapping[str, JSON] = field(default_factory=dict)

    @property
    def path(self) -> str | None:
        """The place that it speaks of, where it speaks of one."""
        found = self.more.get("path")
        return found if isinstance(found, str) else None

    @property
    def run(self) -> int | None:
        """The run that it speaks of, where it speaks of one."""
        found = self.more.get("run")
        return found if isinstance(found, int) else None

    @property
    def wanted(self) -> int:
        """How many runs are wanted beyond those that are there, where it speaks of too few."""
        there, least = self.more.get("runs"), self.more.get("minimum")
        return least - there if isinstance(there, int) and isinstance(least, int) else 0

    def as_json(self) -> dict[str, JSON]:
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

    def as_json(self) -> dict[str, JSON]:
        return {"code": self.code, "state": self.state, "text": self.text}


@dataclass(frozen=True)
class Remark:
    """What is said of one row of a list under one heading: words, the figure behind them, and its tone."""

    text: str
    figure: float | None = None
    tone: Tone = ""


RowRemarks = dict[str, list[dict[str, Remark]]]
"""By list, for each of its rows in their order: what is said of it, by name."""


@dataclass(frozen=True)
class FieldQuestion:
    """A quiet question about what was typed at a path."""

    path: str
    text: str


@dataclass(frozen=True)
class BudgetTerm:
    """A term of the uncertainty: its size and its share of `U²`, both in per cent."""

    term: str
    size: Figure
    share: Figure
    text: str


Found = TypeVar("Found", bound=Results, covariant=True)


@dataclass
class Assessment(Generic[Found]):
    """What a method answers; `as_json` is what a job file carries.

    `remarks` are for the screen and stand in no file: they are worked out from the results again. So is
    `believed`, how widely the true error is believed to lie round its mean: per cent, degrees of freedom.
    """

    method: str
    call: Call
    reasons: list[Reason]
    results: Found
    headline: str = ""
    lead: str = ""
    suggestions: list[Reason] = field(default_factory=list)
    checks: list[Check] = field(default_factory=list)
    slips: list[Slip] = field(default_factory=list)
    look: list[str] = field(default_factory=list)
    questions: list[FieldQuestion] = field(default_factory=list)
    plan: list[str] = field(default_factory=list)
    budget: list[BudgetTerm] = field(default_factory=list)
    key_in: KeyIn | None = None
    down: bool = False
    risk: str = ""
    remarks: RowRemarks = field(default_factory=dict)
    believed: tuple[float, float] | None = None
    as_found: "Assessment[Found] | None" = None

    @property
    def found(self) -> "Assessment[Found]":
        """The assessment of what was found, before any change of this part."""
        return self.as_found or self

    def as_json(self) -> dict[str, JSON]:
        answer: dict[str, JSON] = {
            "method": self.method,
            "call": self.call,
            "headline": self.headline,
            "lead": self.lead,
            "reasons": [reason.as_json() for reason in self.reasons],
            "results": self.results.as_json(),
            "suggestions": [suggestion.as_json() for suggestion in self.suggestions],
            "checks": [check.as_json() for check in self.checks],
            "slips": [slip.as_json() for slip in self.slips],
            "look": list(self.look),
            "questions": [{"path": one.path, "text": one.text} for one in self.questions],
            "plan": list(self.plan),
            "budget": [_term(one) for one in self.budget],
        }
        if self.risk:
            answer["risk"] = self.risk
        if self.key_in:
            answer["key_in"] = self.key_in.as_json()
        if self.as_found:
            found = self.as_found.as_json()
            kept = ("call", "headline", "lead", "risk", "reasons", "results", "slips", "budget", "key_in")
            answer["as_found"] = {key: found[key] for key in kept if key in found}
        return {key: in_digits(each) for key, each in answer.items()}


def _term(one: BudgetTerm) -> JSON:
    def written(figure: Figure) -> JSON:
        return {"value": figure.value, "unit": figure.unit}

    return {"term": one.term, "size": written(one.size), "share": written(one.share), "text": one.text}
