"""The call of the machine: of the visit as a whole, by all that is known of it, above what each part's readings show.

A suspect that is shown is a fault to be found, whatever the readings come to. A figure is touched only once
every suspect that passes for the same finding is ruled out, or three looks were asked for. What the
parts say stays what their methods say.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from wary.fields import Inputs
from wary.machines.machine import Machine, Part
from wary.methods import all_methods
from wary.methods.method import AnyMethod
from wary.methods.reads import in_words
from wary.quantities import Quantity, shown
from wary.results import JSON, Results, value_of
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, Assessment, Call, Reason
from wary.rules.call import HEADLINES
from wary.suspects import looks
from wary.suspects.suspect import FINDINGS, FINE, NOT_FINE, Finding, Known, Look, Sign, Weighed
from wary.suspects.weighing import by_look, decides, passing_for, tells_most, unexplained, weighed

SUSPECT, LOOK_FIRST, NOT_LOOKED_AT, UNEXPLAINED, CURED = (
    "suspect",
    "look-first",
    "not-looked-at",
    "unexplained",
    "cured",
)
LOOK_MINUTES = 10.0
"""A look that takes longer is not asked for before an adjustment."""
MOST_ASKED = 3
"""So many looks are asked for beyond what the visit makes anyway."""
AT_ONCE = 2.0
"""What a comparison cannot see is named below a call to leave it where a look takes no longer, min."""
FAR = 0.08
"""A cell that fails, or a wrong number of cells, makes more than this."""
OF_COUNT = frozenset({"cell_count"})
OF_PLATES = frozenset({"cell_capacity", "cell_sensitivity", "idler_spacing", "weigh_idlers", "angle", "speed", "belt_speed", "pulses_per_revolution", "roller", "width", "row_spacing", "passes_per_load"})  # fmt: skip


@dataclass(frozen=True)
class PartSeen:
    """A part of a visit as the machine is judged by it. `own`: the usual visit makes it anyway. `ticks` are `step.item`."""

    key: str
    method: AnyMethod
    given: Inputs
    assessment: Assessment[Results]
    own: bool = True
    ticks: frozenset[str] = frozenset()
    changed: bool = False


@dataclass(frozen=True)
class Looked:
    """A look that has no input of its own: what it came to, and what was noted."""

    look: str
    result: str
    note: str = ""


@dataclass(frozen=True)
class Case:
    """All that is known of a machine in a visit.

    `visit` are all parts that this job has, `parts` those that were begun. `decides` is the key of the part whose call decides. `found` counts the faults found here before. `factor_before` is
    what the instrument was set to before this visit changed it. `repaired` are suspects that were found last and left for repair. `may_skip`: a look may be skipped with a reason.
    """

    machine: Machine
    visit: Sequence[Part]
    parts: Sequence[PartSeen]
    decides: str
    plates: Mapping[str, Quantity | float] = field(default_factory=dict)
    looked: Sequence[Looked] = ()
    skipped: Mapping[str, str] = field(default_factory=dict)
    cured: frozenset[str] = frozenset()
    references: Sequence[Mapping[str, Any]] = ()
    found: Mapping[str, float] = field(default_factory=dict)
    factor_before: str = ""
    look_minutes: float = LOOK_MINUTES
    may_skip: bool = True
    drifts: bool = False
    repaired: tuple[str, ...] = ()
    again_wanted: bool = False


@dataclass(frozen=True)
class LookAsked:
    """A look that is open: where it is entered (empty: it is ticked), and the suspects it tells of."""

    look: Look
    path: str
    of: tuple[str, ...]


@dataclass(frozen=True)
class MachineCall:
    """What follows for the machine: the call, its reasons, the suspects with what speaks for and against each, the looks.

    `about` is the part whose readings it is about.
    """

    call: Call
    headline: str
    lead: str
    reasons: tuple[Reason, ...]
    suspects: tuple[Weighed, ...] = ()
    looks: tuple[LookAsked, ...] = ()
    aside: tuple[LookAsked, ...] = ()
    others: tuple[LookAsked, ...] = ()
    finding: Finding | None = None
    shown: str = ""
    looks_left: int = 0
    about: str = ""

    @property
    def next_look(self) -> LookAsked | None:
        """The look that tells most a minute, where one is to be made before anything else."""
        return self.looks[0] if self.looks else None

    def as_json(self) -> dict[str, JSON]:
        """The block `machine` of a job file."""
        following = self.next_look
        return {
            "call": self.call,
            "reasons": [reason.as_json() for reason in self.reasons],
            "suspects": [_suspect_json(one) for one in self.suspects],
            "next_look": _look_json(following) if following else None,
            "looks": [_look_json(one) for one in self.others],
        }


def _suspect_json(one: Weighed) -> JSON:
    return {
        "key": one.suspect.key,
        "title": one.suspect.title,
        "state": one.state,
        "for": [sign.text for sign in one.speaks_for],
        "against": [sign.text for sign in one.against],
    }


def _look_json(one: LookAsked) -> JSON:
    return {"key": one.look.key, "words": one.look.words, "minutes": one.look.minutes, "path": one.path}


def judged(case: Case) -> MachineCall:
    """The call of the machine: the rules in their order, the first that applies."""
    return _Judging(case).answer()


class _Judging:
    def __init__(self, case: Case) -> None:
        self.case = case
        self.suspects = case.machine.all_suspects()
        self.by_key = {part.key: part for part in case.parts}
        self.part = _about(case, self.by_key[case.decides])
        self.finding = finding_of(self.part)
        self.signs = by_look(self._signs())
        plates = {
            name: found.si if isinstance(found, Quantity) else float(found) for name, found in case.plates.items()
        }
        self.known = Known(plates, case.found, case.cured)
        self.found = weighed(self.suspects, self.signs, self.finding, self.known)
        self.made = {*self.signs, *case.skipped}

    # --- evidence -------------------------------------------------------------------------------

    def _signs(self) -> Iterable[Sign]:
        for part in self.case.parts:
            at = f"{part.key}/" if part.key else ""
            for sign in part.method.signs(part.given, part.assessment):
                yield Sign(sign.look, sign.result, sign.text, at + sign.path, sign.said) if at else sign
            for step in part.method.steps:
                for item in step.items:
                    if item.looks and f"{step.key}.{item.key}" in part.ticks:
                        yield from (Sign(look, FINE, f"{item.text}: ticked.", said=True) for look in item.looks)
        for one in self.case.looked:
            look = self._look(one.look)
            text = in_words(look, one.result) if look else one.result
            yield Sign(one.look, one.result, f"{text} {one.note}".strip(), said=True)
        yield from self._of_slips()
        yield from self._of_the_reference()
        yield from self._too_near()

    def _look(self, key: str) -> Look | None:
        return self.known_looks.get(key)

    @property
    def known_looks(self) -> dict[str, Look]:
        """Every look that tells of one of these suspects, by its key."""
        return {tell.look.key: tell.look for suspect in self.suspects for tell in suspect.tells}

    def _of_slips(self) -> Iterable[Sign]:
        """What arithmetic says of the entries: a usual slip explains the figure, or none does."""
        if self.part.assessment.call not in (ADJUST, FIND_FAULT, LEAVE):
            return
        slips = self.part.assessment.slips if self.part.assessment.call in (ADJUST, FIND_FAULT) else []
        kinds = {looks.SLIP: [], looks.SLIP_OF_COUNT: [], looks.SLIP_OF_PLATE: []}  # type: ignore[var-annotated]
        for slip in slips:
            name = slip.parameter
            of = looks.SLIP_OF_COUNT if name in OF_COUNT else looks.SLIP_OF_PLATE if name in OF_PLATES else looks.SLIP
            kinds[of].append(slip.text)
        for look, texts in kinds.items():
            if texts:
                yield Sign(look.key, NOT_FINE, texts[0])
        if not kinds[looks.SLIP]:
            yield Sign(looks.SLIP.key, FINE, "No usual slip of the typing explains it.")

    def _of_the_reference(self) -> Iterable[Sign]:
        """A reference that is named with its certificate and in date is said to be right."""
        named = [one for one in self.case.references if one.get("certificate")]
        if named and len(named) == len(self.case.references):
            names = ", ".join(str(one.get("name") or "the reference") for one in named)
            yield Sign(looks.REFERENCE_READ.key, FINE, f"{names}: named with its certificate.", said=True)

    def _too_near(self) -> Iterable[Sign]:
        """So small an error is not made by a cell that fails, nor by a wrong number of cells."""
        off = error_of(self.part)
        if off is None or self.part.assessment.call not in (ADJUST, LEAVE) or abs(off) > FAR * 100:
            return
        text = f"Off by {shown(abs(off), 2)} %: a cell that fails, or a wrong number of cells, makes far more."
        yield Sign(looks.FAR.key, FINE, text)

    # --- rules ----------------------------------------------------------------------------------

    def answer(self) -> MachineCall:
        part = self.part
        shown_ones = [one for one in self.found if one.state == "shown"]
        if shown_ones:
            return self._fault(shown_ones)
        if self.case.again_wanted:
            text = "It was put right: what was read before counts no longer. Take the comparison again."
            return self._call(KEEP_TESTING, "Take it again", text, [Reason(CURED, text)])
        failing = next((one for one in reversed(self.case.parts) if one.assessment.call == FIND_FAULT), None)
        if failing:
            return self._find(failing)
        if part.assessment.call == ADJUST:
            return self._touch()
        reasons = list(part.assessment.reasons)
        aside = self._unseen() if part.assessment.call == LEAVE else ()
        # After a repair it begins with the looks that would have shown it.
        again = [one for one in self.found if one.suspect.key in self.case.repaired and one.stands_out]
        call, headline, lead = part.assessment.call, part.assessment.headline, part.assessment.lead
        return self._call(call, headline, lead, reasons, self._open(again) if again else (), aside)

    def _call(
        self,
        call: Call,
        headline: str,
        lead: str,
        reasons: Sequence[Reason],
        looks: Sequence[LookAsked] = (),
        aside: Sequence[LookAsked] = (),
        shown_key: str = "",
        left: int = 0,
    ) -> MachineCall:
        return MachineCall(
            call,
            headline,
            lead,
            tuple(reasons),
            tuple(self.found),
            tuple(looks),
            tuple(aside),
            self._every(),
            self.finding,
            shown_key,
            left,
            self.part.key,
        )

    def _fault(self, found: Sequence[Weighed]) -> MachineCall:
        """Rule 1: a suspect is shown."""
        reasons = []
        for one in found:
            suspect = one.suspect
            why = " ".join(dict.fromkeys(sign.text for sign in one.speaks_for))
            text = f"{suspect.title[0].upper()}{suspect.title[1:]}. {why} {suspect.cure} {suspect.again}"
            reasons.append(Reason(SUSPECT, text, {"suspect": suspect.key}))
        if any(part.changed for part in self.case.parts):
            before = f", {self.case.factor_before}," if self.case.factor_before else ""
            text = f"Something was changed in this visit over it: put the old figure{before} back first."
            reasons.insert(0, Reason("put-back", text))
        title = found[0].suspect.title
        headline = f"{title[0].upper()}{title[1:]}"
        if len(found) > 1:
            headline += f", and {len(found) - 1} more"
        own = self.part.assessment
        if own.call == FIND_FAULT and own.headline != HEADLINES[FIND_FAULT]:
            # What the part says is nearer to the readings.
            headline = own.headline
        return self._call(
            FIND_FAULT, headline, found[0].suspect.cure, reasons, self._open(found), shown_key=found[0].suspect.key
        )

    def _find(self, part: PartSeen) -> MachineCall:
        """Rule 2: a part says that there is a fault."""
        self.finding = finding_of(part)
        self.found = weighed(self.suspects, self.signs, self.finding, self.known)
        passing = [one for one in passing_for(self.found, self.finding) if one.stands_out]
        return self._call(
            FIND_FAULT, part.assessment.headline, part.assessment.lead, part.assessment.reasons, self._open(passing)
        )

    def _touch(self) -> MachineCall:
        """Rule 3: a part says to adjust."""
        assessment = self.part.assessment
        left_over = unexplained(self.suspects, self.signs, self.finding, self.found)
        passing = [one for one in passing_for(self.found, self.finding) if one.stands_out]
        asked = self._open(passing)
        likely = [one for one in passing if one.state == "likely"]
        following = asked[:1] if not self._enough(asked, likely) else []
        if following or (asked and likely):
            return self._look_first(asked, passing)
        if left_over:
            text = f"{left_over[0].text} Nothing that was looked at explains it, and no figure cures it: go on looking."
            return self._call(FIND_FAULT, HEADLINES[FIND_FAULT], text, [Reason(UNEXPLAINED, text), *assessment.reasons])
        reasons = list(assessment.reasons)
        if passing:
            names = "; ".join(one.suspect.title for one in passing)
            why = "; ".join(dict.fromkeys(self.case.skipped.values()))
            text = f"Not looked at: {names}." + (f" Skipped: {why}." if why else "")
            reasons.append(Reason(NOT_LOOKED_AT, text, {"suspects": [one.suspect.key for one in passing]}))
        return self._call(ADJUST, assessment.headline, assessment.lead, reasons)

    def _enough(self, asked: Sequence[LookAsked], likely: Sequence[Weighed]) -> bool:
        """Whether no further look is asked for: what the visit makes anyway is made, and as many more as are asked of anybody."""
        if not asked:
            return True
        if likely or any(self._own(one) for one in asked):
            return False
        extra, in_lists = self._extra(), self._in_lists()
        return len(extra) >= (1 if self.case.drifts and in_lists <= self.made else MOST_ASKED)

    def _in_lists(self) -> set[str]:
        """The looks that the lists of the visit make anyway."""
        steps = [step for part in self.case.parts for step in part.method.steps]
        return {look for step in steps for item in step.items for look in item.looks}

    def _extra(self) -> set[str]:
        """The looks made or skipped beyond what the visit's own steps and lists make."""
        extra = {one.look for one in self.case.looked} | set(self.case.skipped)
        for part in self.case.parts:
            if not part.own:
                extra |= {sign.look for sign in part.method.signs(part.given, part.assessment)}
        return extra - self._in_lists()

    def _own(self, asked: LookAsked) -> bool:
        """Whether a look is made by a part that the usual visit makes anyway."""
        part, slash, _ = asked.path.partition("/")
        if not asked.path:
            return False
        spec = next((one for one in self.case.visit if one.key == (part if slash else "")), None)
        return spec is not None and not spec.optional

    def _look_first(self, asked: Sequence[LookAsked], passing: Sequence[Weighed]) -> MachineCall:
        following = asked[0]
        own = sum(self._own(one) for one in asked)
        left = own + min(len(asked) - own, max(0, MOST_ASKED - len(self._extra())))
        finding = FINDINGS[self.finding] if self.finding else "is off"
        first = passing[0]
        others = len(passing) - 1
        could = f"{first.suspect.title}{f', or one of {others} other things' if others > 1 else ', or one other thing' if others else ''}"
        text = f"It {finding}. Before it is touched: it could be that {could}. {following.look.words}"
        reason = Reason(LOOK_FIRST, text, {"look": following.look.key, "minutes": following.look.minutes})
        lead = f"It {finding}. No figure cures that unless nothing else does it."
        reasons = [reason, *self.part.assessment.reasons]
        return self._call(KEEP_TESTING, "Look first", lead, reasons, asked, left=max(1, left))

    def _open(self, passing: Sequence[Weighed]) -> list[LookAsked]:
        """Looks not made that tell of these: those that the visit makes anyway first, then what tells most a minute."""
        known = self.known
        found = tells_most(passing, self.made, known, self.case.look_minutes)
        asked = [self._asked(look, passing) for look in found]
        return sorted(asked, key=lambda one: not self._own(one)) if self.part.assessment.call == ADJUST else asked

    def _every(self) -> tuple[LookAsked, ...]:
        """Every look that was not made and would tell of a suspect that stands out, however long it takes."""
        standing = [one for one in self.found if one.stands_out]
        found = tells_most(standing, {*self.signs}, self.known, float("inf"))
        return tuple(self._asked(look, standing) for look in found)

    def _asked(self, look: Look, passing: Sequence[Weighed]) -> LookAsked:
        of = tuple(
            one.suspect.key for one in passing if any(t.look.key == look.key and decides(t) for t in one.suspect.tells)
        )
        return LookAsked(look, self._path(look.key), of)

    def _path(self, look: str) -> str:
        """Where a look is entered in this visit: the first part that takes it; empty where it is ticked."""
        for part in self.case.visit:
            for one in all_methods()[part.method].reads:
                if one.look.key == look:
                    return f"{part.key}/inputs.{one.at}" if part.key else f"inputs.{one.at}"
        return ""

    def _unseen(self) -> tuple[LookAsked, ...]:
        """Rule 4: what this comparison cannot see, and a look of two minutes would."""
        passing = [one for one in passing_for(self.found, "in-order") if one.state in ("open", "likely")]
        found = tells_most(passing, self.made, self.known, AT_ONCE)
        return tuple(self._asked(look, passing) for look in found if not self._own(self._asked(look, passing)))


def _about(case: Case, decides: PartSeen) -> PartSeen:
    """The part that the machine's call is about: the one that decides, or one before it that asks for a figure nobody keyed in."""
    if decides.assessment.call != LEAVE:
        return decides
    asking = [one for one in case.parts if one.method.compares and one.assessment.call == ADJUST and not one.changed]
    return asking[-1] if asking else decides


def error_of(part: PartSeen) -> float | None:
    """What a part's comparison came to last, in per cent; None where it compares nothing."""
    errors = part.method.errors(part.given, part.assessment)
    if errors is not None:
        return errors.left if errors.left is not None else errors.found
    change = value_of(getattr(part.assessment.results, "percent_change", None))
    return -change if change is not None else None


SCATTERED = frozenset({"not-repeating", "alternating", "not-agreeing", "jumped", "drift", "not-alike", "no-better"})
MOVED = frozenset({"zero-moved", "store-zero", "zero-jump"})
CURVED = frozenset({"intercept", "proof-off", "linearity"})


def finding_of(part: PartSeen) -> Finding | None:
    """What a part found, as suspects know it; None where it is off in no way that is told."""
    codes = {reason.code for reason in part.assessment.reasons}
    if part.assessment.call == LEAVE:
        return "in-order"
    if codes & SCATTERED:
        return "scatter"
    if codes & MOVED:
        return "zero-moved"
    if codes & CURVED:
        return "curve"
    off = error_of(part)
    return None if not off else "heavy" if off > 0 else "light"
