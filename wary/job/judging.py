"""The call of the machine: of the visit as a whole, by all that is known of it, above what each part's readings show.

A suspect that is shown is a fault to be found, whatever the readings come to. A figure is touched only once
every suspect that passes for the same finding is ruled out, or three looks were asked for. What the
parts say stays what their methods say.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from wary.job.evidence import (
    Case,
    PartSeen,
    drift_of,
    evidence,
    finding_of,
    jump_of,
    looks_in_lists,
    looks_of,
    paths_of,
    signs_in,
)
from wary.quantities import Quantity
from wary.results import JSON
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, Call, Reason
from wary.rules.call import HEADLINES
from wary.suspects.suspect import FINDINGS, Finding, Known, Look, Weighed
from wary.suspects.weighing import BY_ARITHMETIC, by_look, passing_for, tells_most, unexplained, weighed

SUSPECT, LOOK_FIRST, NOT_LOOKED_AT = "suspect", "look-first", "not-looked-at"
PUT_BACK, UNEXPLAINED, CURED, AT_ONCE_CODE = "put-back", "unexplained", "cured", "came-at-once"
"""Reasons of the machine, beside those of its parts."""
MOST_ASKED = 3
"""So many looks are asked for beyond what the visit makes anyway."""
AT_ONCE = 2.0
"""What a comparison cannot see is named below a call to leave it where a look takes no longer, min."""


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
        self.signs = by_look(evidence(case, self.part))
        plates = {
            name: found.si if isinstance(found, Quantity) else float(found) for name, found in case.plates.items()
        }
        self.jumped = jump_of(case, self.part)
        self.known = Known(plates, case.found, case.cured, self.jumped, drift_of(case))
        self.found = weighed(self.suspects, self.signs, self.finding, self.known)
        self.standing = {one.suspect.key for one in self.found if one.stands_out}
        # Where no look may be skipped, a reason makes none.
        self.skipped = set(case.skipped) if case.may_skip else set()
        self.made = {*self.signs, *self.skipped}
        self.paths = paths_of(tuple(case.visit))

    # --- rules ----------------------------------------------------------------------------------

    def answer(self) -> MachineCall:
        part = self.part
        shown_ones = [one for one in self.found if one.state == "shown"]
        if shown_ones:
            return self._fault(shown_ones)
        if self.case.again is not None:
            text = "It was put right: what was read before counts no longer. Take the comparison again."
            return replace(
                self._call(KEEP_TESTING, "Take it again", text, [Reason(CURED, text)]), about=self.case.again
            )
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
            reasons.insert(0, Reason(PUT_BACK, text))
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
        reasons = [*assessment.reasons, *self._at_once()]
        if passing:
            names = "; ".join(one.suspect.title for one in passing)
            # What was looked at after all is not skipped any more.
            whys = (reason for look, reason in self.case.skipped.items() if look not in self.signs)
            why = "; ".join(dict.fromkeys(whys))
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

    def _in_lists(self) -> frozenset[str]:
        begun = [part.method.key for part in self.case.parts]
        return looks_in_lists(tuple({*begun, *(part.method for part in self.case.visit if not part.optional)}))

    def _extra(self) -> set[str]:
        """The looks made or skipped beyond what the visit's own steps and lists make."""
        extra = {one.look for one in self.case.looked if one.look not in BY_ARITHMETIC} | self.skipped
        for part in self.case.parts:
            if not part.own:
                extra |= {sign.look for sign in signs_in(part)}
        return {look for look in extra - self._in_lists() if not self.paths.get(look, ("", False))[1]}

    def _own(self, asked: LookAsked) -> bool:
        """Whether a look is made by a part that the usual visit makes anyway."""
        return self.paths.get(asked.look.key, ("", False))[1]

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
        lead = f"It {finding}. A new figure is right only if nothing else makes it so."
        reasons = [reason, *self._at_once(), *self.part.assessment.reasons]
        return self._call(KEEP_TESTING, "Look first", lead, reasons, asked, left=max(1, left))

    def _at_once(self) -> list[Reason]:
        """What its history says against a span that has moved."""
        if self.jumped is None:
            return []
        return [Reason(AT_ONCE_CODE, f"{self.jumped.text} A span does not move so; what happened since?")]

    def _open(self, passing: Sequence[Weighed]) -> list[LookAsked]:
        """Looks not made that tell of these: those that the visit makes anyway first, then what tells most a minute."""
        known = self.known
        found = tells_most(passing, self.made, known, self.case.look_minutes)
        asked = [self._asked(look) for look in found]
        return sorted(asked, key=lambda one: not self._own(one)) if self.part.assessment.call == ADJUST else asked

    def _every(self) -> tuple[LookAsked, ...]:
        """Every look that was not made and would tell of a suspect that stands out, however long it takes."""
        standing = [one for one in self.found if one.stands_out]
        found = tells_most(standing, {*self.signs}, self.known, float("inf"))
        return tuple(self._asked(look) for look in found)

    def _asked(self, look: Look) -> LookAsked:
        of = looks_of(self.case.machine)[look.key][1]
        return LookAsked(
            look, self.paths.get(look.key, ("", False))[0], tuple(key for key in of if key in self.standing)
        )

    def _unseen(self) -> tuple[LookAsked, ...]:
        """Rule 4: what this comparison cannot see, and a look of two minutes would."""
        passing = [one for one in passing_for(self.found, "in-order") if one.state in ("open", "likely")]
        found = tells_most(passing, self.made, self.known, AT_ONCE)
        return tuple(self._asked(look) for look in found)


def _about(case: Case, decides: PartSeen) -> PartSeen:
    """The part that the machine's call is about: the one that decides, or one before it that asks for a figure nobody keyed in."""
    if decides.assessment.call != LEAVE:
        return decides
    asking = [one for one in case.parts if one.method.compares and one.assessment.call == ADJUST and not one.changed]
    return asking[-1] if asking else decides
