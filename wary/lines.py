"""Lines of text from an instrument: a simple format of its own, and patterns for those that speak otherwise.

The simple format is one reading a line, in UTF-8, ended by a line feed: `weight=1234.5 kg steady`,
that is name, equals sign, figure with a decimal point, a space and the unit, a space and `steady` or
`moving`. Name and state may be left out. Where there is no figure stands `over`, `under` or `fault`.

Other instruments are taught: a lead points, on a line that was captured, at the figure, and at the
unit, the sign and the word for steady where it has them. What is between them is taken to be of the
same make on every line, be it longer or shorter.
"""

import re
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from wary.quantities import FAMILY_OF

LONGEST_LINE = 200
NAME = "weight"
"""What a reading is called where its line does not say."""

_SPELLED = {"kgs": "kg", "lbs": "lb", "gr": "g", "to": "t", "tn": "t", "c": "degC", "°c": "degC", "f": "degF"}
_SIMPLE = re.compile(
    r"^(?:(?P<name>[A-Za-z][A-Za-z0-9 -]{0,19})=)?(?P<figure>[+-]?\d{1,12}(?:\.\d{1,9})?|over|under|fault)"
    r"(?: (?P<unit>[^\s]{1,12}))??(?: (?P<state>steady|moving))?$"
)
_TOKEN = re.compile(r"\d+(?:[.,']\d+)*|[^\W\d_]+|[+-]| +|.", re.DOTALL)
WRONG = {"over": "over its range", "under": "under its range", "fault": "in fault"}

TokenKind = Literal["figure", "word", "sign", "space", "other"]
Text = Annotated[str, Field(max_length=LONGEST_LINE)]
Word = Annotated[str, Field(max_length=20)]


class LineRead(BaseModel):
    """What a line says: a name, a figure as text and number, its unit, steady or not (None: it does not say).

    `fault` is a sentence where it says that there is no figure; then there is none.
    """

    name: str = NAME
    text: str = ""
    value: float = 0.0
    unit: str = ""
    steady: bool | None = None
    fault: str = ""


class NotUnderstood(ValueError):
    """A line that the format does not fit; its message says what was expected."""


class Token(BaseModel):
    """A piece of a line that can be pointed at: its place, its text, and what it looks like."""

    start: int
    end: int
    text: str
    kind: TokenKind


class Pattern(BaseModel):
    """What was pointed at on a captured line: places of the figure, and of unit, sign and steadiness where it has them.

    `fixed_unit` stands for a line without a unit; `steady_is` is what a line says at that place when
    the figure stands, and `minus` what it says at the sign's place below zero.
    """

    line: Text
    figure: tuple[int, int]
    unit: tuple[int, int] | None = None
    sign: tuple[int, int] | None = None
    steady: tuple[int, int] | None = None
    fixed_unit: Annotated[str, Field(max_length=12)] = ""
    steady_is: Word = ""
    minus: Word = "-"


class Fault(BaseModel):
    """What is wrong with a pattern: which part of it, and in a sentence what to do."""

    path: str
    text: str


def cleaned(raw: bytes) -> str:
    """A line as it came, as text: marks that cannot be seen are left out, and it is no longer than it may be."""
    text = raw.decode("utf-8", "replace").replace("\ufffd", "?")
    return "".join(one for one in text if one.isprintable())[:LONGEST_LINE]


def tokens(line: str) -> list[Token]:
    """The pieces of a line that can be pointed at, in their order."""
    return [
        Token(start=found.start(), end=found.end(), text=found[0], kind=_kind(found[0]))
        for found in _TOKEN.finditer(line[:LONGEST_LINE])
    ]


def _kind(text: str) -> TokenKind:
    if text[0].isdigit():
        return "figure"
    if text.isalpha():
        return "word"
    return "sign" if text in "+-" else "space" if text.isspace() else "other"


def unit_of(text: str) -> str | None:
    """A unit as an instrument spells it, as it is spelled here; None where it is none."""
    plain = text.strip()
    for one in (plain, plain.lower(), _SPELLED.get(plain.lower(), "")):
        if one in FAMILY_OF:
            return one
    return None


def simple(line: str) -> LineRead:
    """A line of the simple format. Raises NotUnderstood."""
    found = _SIMPLE.match(line.strip())
    if not found:
        raise NotUnderstood("expected a line such as weight=1234.5 kg steady")
    name = (found["name"] or NAME).strip().lower()
    said = found["figure"]
    if said in WRONG:
        return LineRead(name=name, fault=f"The instrument says that it is {WRONG[said]}.")
    unit = unit_of(found["unit"]) if found["unit"] else ""
    if unit is None:
        raise NotUnderstood(f"“{found['unit']}” is no unit known here; expected one such as kg, t, lb")
    steady = {"steady": True, "moving": False}.get(found["state"] or "")
    return LineRead(name=name, text=said.lstrip("+"), value=float(said), unit=unit, steady=steady)


def faults(pattern: Pattern) -> list[Fault]:
    """What is wrong with a pattern; nothing where every line of its kind can be read by it."""
    found = []
    line, spans = pattern.line, _spans(pattern)
    pieces = {(one.start, one.end): one for one in tokens(line)}
    for name, span in spans.items():
        if span not in pieces:
            found.append(Fault(path=name, text="Point at one whole piece of the line."))
    if len(set(spans.values())) < len(spans):
        found.append(Fault(path="figure", text="One piece of the line cannot be two things. Point at another."))
    figure = pieces.get(pattern.figure)
    if figure and figure.kind != "figure":
        found.append(Fault(path="figure", text=f"“{figure.text}” is no figure. Point at the number that it shows."))
    said = line[slice(*pattern.unit)] if pattern.unit else pattern.fixed_unit
    if said and unit_of(said) is None:
        what = "Point at the unit, or choose one." if pattern.unit else "Choose one of the list."
        found.append(
            Fault(path="unit" if pattern.unit else "fixed_unit", text=f"“{said}” is no unit known here. {what}")
        )
    if pattern.steady and not pattern.steady_is:
        found.append(Fault(path="steady_is", text="Say what the line says there when the figure stands."))
    if not found:
        try:
            taught(pattern, line)
        except NotUnderstood as unread:
            found.append(Fault(path="line", text=f"This line itself cannot be read so: {unread}."))
    return found


def _spans(pattern: Pattern) -> dict[str, tuple[int, int]]:
    named = {"figure": pattern.figure, "unit": pattern.unit, "sign": pattern.sign, "steady": pattern.steady}
    return {name: span for name, span in named.items() if span is not None}


# Pieces take all that they can and give nothing back, so that no line, however long, is looked at twice.
_MADE = {"figure": r"\d++(?:[.,']\d++)*+", "word": r"[^\W\d_]++", "sign": r"[+-]?+", "space": r" *+"}
_POINTED = {
    "figure": r" *+(?P<before>[+-]?+) *+(?P<figure>\d++(?:[.,']\d++)*+)",
    "unit": r" *+(?P<unit>[^\W\d_]*+|%)",
    "sign": r"(?P<sign>[^\W\d_]++|[^\s\d]?+)",
    "steady": r"(?P<steady>[^\W\d_]++|\d++|[^\s\w,;:|]{0,4}+)",
}


def expression(pattern: Pattern) -> "re.Pattern[str]":
    """The pattern as an expression for whole lines; every piece is of the make that it has on the captured line."""
    spans = {span: name for name, span in _spans(pattern).items()}
    made: list[str] = []
    for token in tokens(pattern.line):
        name = spans.get((token.start, token.end))
        if name == "figure":
            # Blanks and a sign before a figure come and go with it.
            while made and made[-1] in (_MADE["space"], _MADE["sign"]):
                made.pop()
        if name:
            made.append(_POINTED[name])
        else:
            piece = _MADE.get(token.kind, re.escape(token.text))
            if not made or made[-1] != piece or token.kind == "other":
                made.append(piece)
    return re.compile(rf"^ *+{''.join(made)} *$")


def taught(pattern: Pattern, line: str) -> LineRead:
    """What a line says by a pattern. Raises NotUnderstood where it does not fit."""
    found = expression(pattern).match(line)
    if not found:
        raise NotUnderstood(f"it is not made as “{pattern.line}” is")
    text = _plain(found["figure"], pattern.line[slice(*pattern.figure)])
    parts = found.groupdict()
    # A sign's word may stand anywhere; without one pointed at it stands before the figure.
    below = (parts.get("sign") or "").strip() == pattern.minus if pattern.sign else parts.get("before") == "-"
    said = (parts.get("unit") or "").strip() if pattern.unit else pattern.fixed_unit
    unit = unit_of(said) if said else ""
    if unit is None:
        raise NotUnderstood(f"“{said}” is no unit known here")
    steady = None
    if pattern.steady:
        steady = (parts.get("steady") or "").strip().lower() == pattern.steady_is.strip().lower()
    value = float(text) * (-1 if below else 1)
    return LineRead(text=f"-{text}" if below and value else text, value=value + 0.0, unit=unit, steady=steady)


def _plain(figure: str, sample: str) -> str:
    """A figure with a decimal point and no marks between thousands; which mark is which, the captured line says."""
    marks = [one for one in sample if one in ".,'"]
    decimal = marks[-1] if marks and (len(set(marks)) > 1 or marks.count(marks[-1]) == 1) and marks[-1] != "'" else ""
    if not decimal:
        # The captured figure was whole: a point or comma that comes now is a decimal mark.
        decimal = figure[-1:] and next((one for one in reversed(figure) if one in ".,"), "")
    whole, _, rest = figure.rpartition(decimal) if decimal and decimal in figure else (figure, "", "")
    digits = "".join(one for one in whole if one.isdigit()).lstrip("0") or "0"
    return f"{digits}.{rest}" if rest else digits


def read(pattern: Pattern | None, line: str) -> LineRead:
    """What a line says, by a pattern, or in the simple format where there is none. Raises NotUnderstood."""
    return taught(pattern, line) if pattern else simple(line)


class Tried(BaseModel):
    """A line and what was made of it, or why nothing was."""

    line: str
    read: LineRead | None = None
    fault: str = ""


def tried(pattern: Pattern | None, lines: Sequence[str]) -> list[Tried]:
    """What a pattern makes of lines, one by one."""
    found = []
    for line in lines:
        try:
            found.append(Tried(line=line, read=read(pattern, line)))
        except NotUnderstood as unread:
            found.append(Tried(line=line, fault=str(unread)))
    return found
