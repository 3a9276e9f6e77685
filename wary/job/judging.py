"""The call of the machine: of the visit as a whole, by all that is known of it, above what each part's readings show.

A suspect that is shown is a fault to be found, whatever the readings come to. A figure is touched only once
no look is left that is worth its minutes. What the parts say stays what their methods say.
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
from wary.methods import all_methods
from wary.quantities import Quantity
from wary.results import JSON
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, Call, Reason
from wary.rules.call import HEADLINES
from wary.suspects.chances import Chances, believed, cards, chances, in_words, to_be_shown, together
from wary.suspects.suspect import FINDINGS, OFF, Finding, Known, Look, Suspect, Weighed
from wary.suspects.weighing import BY_ARITHMETIC, by_look, passing_for, tells_most, unexplained, weighed

SUSPECT, LOOK_FIRST, NOT_LOOKED_AT = "suspect", "look-first", "not-looked-at"
PUT_BACK, UNEXPLAINED, CURED, AT_ONCE_CODE = "put-back", "unexplained", "cured", "came-at-once"
OTHERWISE = "otherwise"
"""Reasons of the machine, beside those of its parts."""
NO_CHANCES = Chances()
LEAST_ANSWER, MOST_ANSWER = 0.5, 2.0
"""A trial answers where it moves by so much of what the move said, and no other way."""
WORTH_NAMING = 0.1
"""What is not worth so much of its minutes is not even named below a call to leave it."""
ONE_RUN = 0.2
"""Another run of real material takes so much of a visit."""
MOST_ASKED = 3
"""So many looks are asked for beyond what the visit makes anyway."""
AT_ONCE = 2.0
"""What a comparison cannot see is named below a call to leave it where a look takes no longer, min."""


@dataclass(frozen=True)
class LookAsked:
    """A look that is open: where it is entered (empty: it is ticked), the suspects it tells of, its worth in minutes.

    `own`: the usual visit makes it anyway.
    """

    look: Look
    path: str
    of: tuple[str, ...]
    worth: float = 0.0
    own: bool = False


@dataclass(frozen=True)
class MachineCall:
    """What follows for the machine: the call, its reasons, the suspects with what speaks for and against each, the looks.

    `touched_over` is how likely that was where a figure was changed, by what was found before. `card` are looks
    that are made together now, in `card_minutes`. `chances` is how likely each suspect is, and
    something other than the figure. `about` is the part whose readings it is about.
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
    card: tuple[LookAsked, ...] = ()
    card_minutes: float = 0.0
    chances: Chances = NO_CHANCES
    touched_over: float | None = None

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
            "otherwise": believed(self.chances.otherwise),
            "suspects": [_suspect_json(one, self.chances) for one in self.suspects],
            "next_look": _look_json(following) if following else None,
            "looks": [_look_json(one) for one in self.others],
        }


def _suspect_json(one: Weighed, chances: Chances) -> JSON:
    return {
        "chance": believed(chances.of.get(one.suspect.key, 0.0)),
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
        self.suspects = _that_can_be(case)
        self.by_key = {part.key: part for part in case.parts}
        self.part = _about(case, self.by_key[case.decides])
        self.finding = finding_of(self.part)
        self.signs = by_look(evidence(case, self.part))
        plates = {
            name: found.si if isinstance(found, Quantity) else float(found) for name, found in case.plates.items()
        }
        self.jumped = jump_of(case, self.part)
        self.known = Known(plates, case.found, case.cured, self.jumped, drift_of(case), case.past)
        self._weigh()
        self.harm = case.machine.minutes if case.harm_minutes is None else case.harm_minutes
        # Where no look may be skipped, a reason makes none.
        self.skipped = set(case.skipped) if case.may_skip else set()
        self.made = {*self.signs, *self.skipped}
        self.paths = paths_of(tuple(case.visit))

    def _weigh(self) -> None:
        """Weighs the suspects for the finding that is in hand."""
        self.found = weighed(self.suspects, self.signs, self.finding, self.known)
        # What nobody ever set is expected to be off: that is no finding.
        finding = None if self.case.never_set and self.finding in OFF else self.finding
        self.chances = chances(self.suspects, self.signs, finding, self.known)
        standing = [one for one in self.found if one.stands_out]
        self.standing = {one.suspect.key for one in standing}
        self.shows = to_be_shown(standing, self.chances)

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
        later = self._before_closing() if part.assessment.call == LEAVE else None
        if later:
            return later
        reasons = list(part.assessment.reasons)
        aside = self._unseen() if part.assessment.call == LEAVE else ()
        # After a repair it begins with the looks that would have shown it.
        again = [one for one in self.found if one.suspect.key in self.case.repaired and one.stands_out]
        call, headline, lead = part.assessment.call, part.assessment.headline, part.assessment.lead
        looks = self._open(again) if again else self._spoken_for() if call == KEEP_TESTING else ()
        return self._call(call, headline, lead, reasons, looks, aside)

    def _spoken_for(self) -> list[LookAsked]:
        """Beside one more run that a part wants: looks at what something speaks for, where they are worth
        their minutes."""
        likely = {one.suspect.key for one in self.found if one.state == "likely"}
        if not likely:
            return []
        return [one for one in self._worth_it([]) if likely & set(one.of) and not one.own]

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
        card = tuple(looks[:1]) if self.case.all_looks or not looks else self._card(looks)
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
            card,
            together([one.look for one in card], self._begun()),
            self.chances,
            self._touched_over(),
        )

    def _touched_over(self) -> float | None:
        """How likely something other than the figure was when it was changed, by what was found before; None
        where nothing was."""
        part = self.part
        errors = part.method.errors(part.given, part.assessment) if part.changed else None
        if errors is None or not errors.found:
            return None
        finding: Finding = "heavy" if errors.found > 0 else "light"
        return chances(self.suspects, self.signs, finding, self.known).otherwise

    def _fault(self, found: Sequence[Weighed]) -> MachineCall:
        """Rule 1: a suspect is shown."""
        reasons = []
        for one in found:
            suspect = one.suspect
            why = " ".join(dict.fromkeys(sign.text for sign in one.speaks_for))
            text = f"{suspect.title[0].upper()}{suspect.title[1:]}. {why} {suspect.cure} {suspect.again}"
            reasons.append(Reason(SUSPECT, text, {"suspect": suspect.key}))
        if any(part.changed for part in self.case.parts):
            changed = next(part for part in self.case.parts if part.changed)
            was = changed.method.set_before(changed.given) or self.case.factor_before
            before = f", {was}," if was else ""
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
        self._weigh()
        passing = [one for one in passing_for(self.found, self.finding) if one.stands_out]
        return self._call(
            FIND_FAULT, part.assessment.headline, part.assessment.lead, part.assessment.reasons, self._open(passing)
        )

    def _touch(self) -> MachineCall:
        """Rule 3: a part says to adjust."""
        assessment = self.part.assessment
        left_over = unexplained(self.suspects, self.signs, self.finding, self.found)
        passing = [one for one in passing_for(self.found, self.finding) if one.stands_out]
        likely = [one for one in passing if one.state == "likely"]
        if not likely and not left_over and not self.case.all_looks and (self.case.never_set or self._may_try()):
            # What was never set is set, and a trial that costs minutes is made: then it is looked at.
            return self._adjust(passing)
        if self.case.all_looks:
            asked = self._open(passing)
            if asked and (likely or not self._enough(asked, likely)):
                return self._look_first(asked, passing)
        else:
            # What speaks, and none of those that were looked at explains: it is one of the others.
            asked = self._worth_it(passing) or (self._open(passing) if left_over else [])
            if asked:
                return self._look_first(asked, passing)
        if left_over:
            text = f"{left_over[0].text} Nothing that was looked at explains it, and no figure cures it: go on looking."
            return self._call(FIND_FAULT, HEADLINES[FIND_FAULT], text, [Reason(UNEXPLAINED, text), *assessment.reasons])
        return self._adjust(passing)

    def _adjust(self, passing: Sequence[Weighed]) -> MachineCall:
        """Nothing is left to look at before it is touched."""
        assessment = self.part.assessment
        reasons = [*assessment.reasons, *self._at_once()]
        if self.chances.otherwise:
            text = f"Something other than the figure: about {in_words(self.chances.otherwise)}."
            reasons.append(Reason(OTHERWISE, text, {"chance": believed(self.chances.otherwise)}))
        if passing and (self.case.all_looks or self.case.skipped):
            names = "; ".join(one.suspect.title for one in passing)
            # What was looked at after all is not skipped any more.
            whys = (reason for look, reason in self.case.skipped.items() if look not in self.signs)
            why = "; ".join(dict.fromkeys(whys))
            text = f"Not looked at: {names}." + (f" Skipped: {why}." if why else "")
            reasons.append(Reason(NOT_LOOKED_AT, text, {"suspects": [one.suspect.key for one in passing]}))
        return self._call(ADJUST, assessment.headline, assessment.lead, reasons)

    def _may_try(self) -> bool:
        """Whether a setting may be moved before anything is looked at: it is tried again within minutes, and
        trials answer as the last move said."""
        return self.part.method.trial and self._answers() is not False

    def _answers(self) -> bool | None:
        """Whether what was moved came to what the move said; None where nothing was moved yet."""
        tried = self.part.method.tried(self.part.given, self.part.assessment)
        if tried is None or not tried[0]:
            return None
        return LEAST_ANSWER <= tried[1] / tried[0] <= MOST_ANSWER

    def _before_closing(self) -> MachineCall | None:
        """What is worth a look before trials that came out in order are closed; None where nothing is."""
        part = self.part
        errors = part.method.errors(part.given, part.assessment)
        if not part.method.trial or not part.changed or errors is None or not errors.found or self.case.all_looks:
            return None
        self.finding = "heavy" if errors.found > 0 else "light"
        self._weigh()
        passing = [one for one in passing_for(self.found, self.finding) if one.stands_out]
        asked = self._worth_it(passing)
        if not asked:
            return None
        was = f"It read {self.finding} before it was set, and reads as it should now."
        return self._look_first(asked, passing, "Before it is closed", was)

    def _worth_it(self, passing: Sequence[Weighed]) -> list[LookAsked]:
        """Looks that the visit makes anyway, then those that are worth their minutes: by the card, what is
        worth most a minute first."""
        away = {*self.made, *self._not_now()}
        open_looks = tells_most(passing, away, self.known, self.case.look_minutes)
        own = [one for one in map(self._asked, open_looks) if one.own]
        standing = [one for one in self.found if one.stands_out]
        every = tells_most(standing, away, self.known, self.case.look_minutes)
        rest = {one.look: one.worth - self._again(one.look) for one in map(self._asked, every) if not one.own}
        found = [self._asked(look) for card in cards(rest, self._begun()) for look in card.looks]
        # What cannot be made where one is costs what it takes to get there again, and never stands first.
        return sorted([*own, *found], key=lambda one: self._again(one.look))

    def _again(self, look: Look) -> float:
        """What it takes to get a load there again, min: of real material another run's minutes."""
        return self.case.machine.minutes * ONE_RUN if look.needs == "a load" and self.case.machine.bulk else 0.0

    def _not_now(self) -> set[str]:
        """Looks that are made by a comparison which comes later in the visit: it waits for what this part is about."""
        order = [part.key for part in self.case.visit]
        if self.part.key not in order:
            return set()
        upto = order.index("") + 1 if "" in order else len(order)
        later = {key for key in order[order.index(self.part.key) + 1 : upto] if key not in self.by_key}
        comparing = {one.key for one in self.case.visit if all_methods()[one.method].compares} & later
        return {
            look
            for look, (path, _) in self.paths.items()
            if (path.partition("/")[0] if "/" in path else "") in comparing
        }

    def _begun(self) -> dict[str, float]:
        """The longest look of each walk that was made for its own sake already, min."""
        begun: dict[str, float] = {}
        for one in self.case.looked:
            known = looks_of(self.case.machine).get(one.look)
            if known and known[0].walk and one.look not in self._in_lists():
                begun[known[0].walk] = max(begun.get(known[0].walk, 0.0), known[0].minutes)
        return begun

    def _card(self, looks: Sequence[LookAsked]) -> tuple[LookAsked, ...]:
        """What is made together with the first look: the others of its walk."""
        first = looks[0]
        if not first.look.walk or first.path:
            return (first,)
        return tuple(one for one in looks if one is first or (one.look.walk == first.look.walk and not one.path))

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

    def _look_first(
        self, asked: Sequence[LookAsked], passing: Sequence[Weighed], when: str = "Before it is touched", it: str = ""
    ) -> MachineCall:
        following = asked[0]
        left = len(asked)
        if self.case.all_looks:
            own = sum(self._own(one) for one in asked)
            left = own + min(len(asked) - own, max(0, MOST_ASKED - len(self._extra())))
        it = it or _it(self.finding)
        first = (passing or [one for one in self.found if one.stands_out])[0]
        others = max(0, len(passing) - 1)
        could = f"{first.suspect.title}{f', or one of {others} other things' if others > 1 else ', or one other thing' if others else ''}"
        text = f"{it} {when}: it could be that {could}. {following.look.words}"
        reason = Reason(LOOK_FIRST, text, {"look": following.look.key, "minutes": following.look.minutes})
        lead = f"{it} A new figure is right only if nothing else makes it so."
        reasons = [reason, *self._at_once(), *self.part.assessment.reasons]
        walk = len(self._card(asked)) > 1 and not self.case.all_looks and following.look.walk in ("round", "running")
        headline = "One walk first" if walk else "Look first"
        return self._call(KEEP_TESTING, headline, lead, reasons, asked, left=max(1, left))

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
        path, own = self.paths.get(look.key, ("", False))
        worth = self.shows.get(look.key, 0.0) * look.finds * self.harm
        return LookAsked(look, path, tuple(key for key in of if key in self.standing), worth, own)

    def _unseen(self) -> tuple[LookAsked, ...]:
        """Rule 4: what this comparison cannot see, and a look of two minutes would."""
        passing = [one for one in passing_for(self.found, "in-order") if one.state in ("open", "likely")]
        found = [self._asked(look) for look in tells_most(passing, self.made, self.known, AT_ONCE)]
        return tuple(one for one in found if one.worth >= WORTH_NAMING * one.look.minutes)


def _that_can_be(case: Case) -> tuple[Suspect, ...]:
    """The suspects of a machine; what was never set has not moved."""
    every = case.machine.all_suspects()
    if not case.never_set:
        return every
    return tuple(replace(one, taken_for=tuple(f for f in one.taken_for if f != "zero-moved")) for one in every)


def _it(finding: Finding | None) -> str:
    """What was found, as a sentence."""
    if finding == "zero-moved":
        return "Its zero has moved."
    return f"It {FINDINGS[finding] if finding else 'is off'}."


def _about(case: Case, decides: PartSeen) -> PartSeen:
    """The part that the machine's call is about: the one that decides, or one before it that asks for a figure nobody keyed in."""
    if decides.assessment.call != LEAVE:
        return decides
    asking = [one for one in case.parts if one.method.compares and one.assessment.call == ADJUST and not one.changed]
    return asking[-1] if asking else decides
