"""How a job can be closed, and what it then hands on to the history and to its machine's record."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from wary.job.assess import Snapshot, case_of
from wary.job.cured import cures
from wary.job.evidence import evidence, looks_of
from wary.job.loose import still_loose
from wary.job.places import REFERENCES
from wary.job.visit import Comparison, as_found_as_left, factor_at_the_end, scatter_of, unread
from wary.methods.factor import FactorInputs
from wary.methods.method import HandsBack
from wary.quantities import shown
from wary.results import Figure
from wary.rules.assessment import FIND_FAULT, LEAVE
from wary.rules.call import NOT_SHOWN, PROVES_LITTLE
from wary.rules.correction import as_keyed
from wary.rules.due import CounterKind
from wary.suspects.chances import in_words
from wary.suspects.suspect import FINE, NOT_HERE, Suspect

Outcome = Literal["complete", "not-confirmed", "limited", "left-for-repair", "out-of-service", "abandoned"]
MachineState = Literal[
    "in-order",
    "in-part",
    "not-tested",
    "not-valid",
    "provisional",
    "not-confirmed",
    "limited",
    "fault",
    "stale",
    "out-of-service",
]

OUTCOMES: dict[Outcome, str] = {
    "complete": "complete",
    "not-confirmed": "adjusted, not confirmed",
    "limited": "limited by the reference",
    "left-for-repair": "fault found, left for repair",
    "out-of-service": "taken out of service",
    "abandoned": "given up, nothing decided",
}
STATES: dict[MachineState, str] = {
    "in-order": "in order",
    "in-part": "in order as far as it was shown",
    "not-tested": "not tested yet",
    "not-valid": "half entered: not valid",
    "provisional": "provisional: no real load has confirmed it yet",
    "not-confirmed": "adjusted, not confirmed",
    "limited": "limited by the reference",
    "fault": "a fault was found",
    "stale": "stale: something was changed",
    "out-of-service": "out of service",
}
"""The states of a machine, in words."""


def state_in_words(state: MachineState, last: Mapping[str, Any] | None) -> str:
    """A state in words; of a machine that was shown in part, how far. `last` is what its last closed job came to."""
    shown_to = str((last or {}).get("shown_up_to") or "")
    return shown_to if state == "in-part" and shown_to else STATES[state]


STATE_AFTER: dict[Outcome, MachineState] = {
    "not-confirmed": "not-confirmed",
    "limited": "limited",
    "left-for-repair": "fault",
    "out-of-service": "out-of-service",
}
UNCONFIRMED = frozenset({"provisional", "unproven"})
"""Reasons for which a machine is left alone, and is still provisional."""
VERIFIED = frozenset({"within-limit", "verified", "below-reference-division"})


@dataclass(frozen=True)
class Way:
    """One way to close a job: its key, in words, why it is not possible, and whether the evidence speaks for it."""

    outcome: Outcome
    words: str
    why_not: str = ""
    spoken_for: bool = False


def ways(snapshot: Snapshot) -> list[Way]:
    """Every way to close this job, what is possible first and the likeliest at the top."""
    changed = any(part.changed for part in snapshot.parts.values())
    fault = snapshot.machine.call == FIND_FAULT
    complete = ""
    if snapshot.not_valid:
        complete = f"{snapshot.not_valid[0]} Go on, or close it as something else, with the reason."
    elif not snapshot.complete:
        headline = snapshot.machine.headline
        complete = f"The call is “{headline}”, so the job is not complete. Go on, or close it as something else, with the reason."
    why_not: dict[Outcome, str] = {
        "complete": complete,
        "not-confirmed": "" if changed else "Nothing was adjusted in this job.",
    }
    order: list[Outcome] = ["complete", "not-confirmed", "limited", "left-for-repair", "out-of-service", "abandoned"]
    if fault and not changed:
        order = ["left-for-repair", "out-of-service", "limited", "not-confirmed", "abandoned", "complete"]
    likely: list[Outcome] = ["left-for-repair"] if fault and not changed else ["complete", "not-confirmed"]
    speaks = next((outcome for outcome in likely if not why_not.get(outcome)), None)
    found = [Way(outcome, OUTCOMES[outcome], why_not.get(outcome, ""), outcome == speaks) for outcome in order]
    return sorted(found, key=lambda way: way.why_not != "")


@dataclass(frozen=True)
class Asked:
    """How a job is to be closed. `suspect` is which of the suspects was found, `fault` what was found in words and `told` who was told, where it is left for repair."""

    signed: str
    outcome: Outcome
    reason: str = ""
    loose_reason: str = ""
    fault: str = ""
    told: str = ""
    suspect: str = ""


def in_the_way(snapshot: Snapshot, asked: Asked) -> list[dict[str, str]]:
    """What is in the way of closing a job so: path and sentence of each; empty where nothing is."""
    errors = []
    if not asked.signed.strip():
        errors.append({"path": "signed", "text": "Who closes this job? Type your name."})
    why_not = next((way.why_not for way in ways(snapshot) if way.outcome == asked.outcome), "")
    if why_not:
        errors.append({"path": "outcome", "text": why_not})
    if asked.outcome == "left-for-repair":
        if not _words(asked.fault) and not fault_named(snapshot, asked):
            errors.append({"path": "fault", "text": "What is wrong with it? In words."})
        if not _words(asked.told):
            errors.append({"path": "told", "text": "Who was told? Type a name."})
    elif asked.outcome != "complete" and not _words(asked.reason):
        errors.append({"path": "reason", "text": "Say why it is closed this way, in words."})
    loose = still_loose(snapshot) if asked.outcome != "abandoned" else []
    if loose and not _words(asked.loose_reason):
        errors += [{"path": f"loose.{end.key}", "text": end.text} for end in loose]
        errors.append({"path": "loose_reason", "text": "Put these back, or say why they stay as they are."})
    return errors


def fault_named(snapshot: Snapshot, asked: Asked) -> Suspect | None:
    """The suspect that a job left for repair names; the one that is shown where none is said."""
    key = asked.suspect or snapshot.machine.shown
    return next((one for one in snapshot.subject.machine.all_suspects() if one.key == key), None)


@dataclass(frozen=True)
class Faulty:
    """A fault that a job found: its suspect (empty for none of them), in words, and whether it was put right in it."""

    suspect: str
    title: str
    put_right: bool


def faults_found(snapshot: Snapshot, asked: Asked) -> list[Faulty]:
    """The faults that a closed job found: what was put right in it, and what it was left for repair with."""
    known = {one.key: one for one in snapshot.subject.machine.all_suspects()}
    found = [Faulty(key, known[key].title, True) for key in cures(snapshot.fold) if key in known]
    if asked.outcome == "left-for-repair":
        named = fault_named(snapshot, asked)
        title = (
            named.title if named and not _words(asked.fault) else asked.fault.strip() or (named.title if named else "")
        )
        if not named or named.key not in {one.suspect for one in found}:
            found.append(Faulty(named.key if named else "", title, False))
    return found


def _words(text: str) -> bool:
    return any(letter.isalpha() for letter in text)


def closed_as(snapshot: Snapshot, outcome: Outcome) -> str:
    """What a job was closed as, in words; one that touched nothing was a verification."""
    if outcome != "complete":
        return OUTCOMES[outcome]
    codes = {reason.code for reason in snapshot.decides.assessment.reasons}
    if codes & UNCONFIRMED:
        return "provisional"
    touched = any(part.changed for part in snapshot.parts.values())
    words = "verified, left as found" if codes & (VERIFIED | NOT_SHOWN) and not touched else OUTCOMES[outcome]
    words += "; not read before it was set" if _unread(snapshot) else ""
    as_far = shown_up_to(snapshot)
    return f"{words}: {as_far}" if as_far else words


def _unread(snapshot: Snapshot) -> bool:
    """Whether it was set before it was read; on a first calibration there is nothing to be found."""
    return (snapshot.fold.text("occasion") or "routine") != "first" and unread(snapshot.parts)


def shown_up_to(snapshot: Snapshot) -> str:
    """How far what decides was shown, in words: `in order, shown up to 24 kg of 300 kg`; empty where it was shown as a whole."""
    decides = snapshot.decides
    if decides.assessment.call != LEAVE or snapshot.machine.call != LEAVE or decides.shown:
        return ""
    little = next((one for one in decides.assessment.reasons if one.code == PROVES_LITTLE), None)
    if little is None:
        return "repeats, not proven: read with the load that set it"
    up_to, of = little.more.get("up_to"), little.more.get("of")
    return (
        f"in order, shown up to {up_to}{f' of {of}' if of else ''}"
        if up_to
        else "in order as far as it was shown: an error as large as the limit could hide"
    )


def factor_after(snapshot: Snapshot) -> str:
    """The factor in the instrument at the end of the job, with the decimals that it takes; empty if unknown."""
    factor = factor_at_the_end(snapshot.parts)
    if factor is None:
        return ""
    for path in ("read_back", "inputs.factor", *(f"{key}/read_back" for key in snapshot.parts if key)):
        text = snapshot.fold.text(path).replace(",", ".")
        if _same(text, factor):
            return text
    known = [part.given for part in snapshot.parts.values()]
    decimals = next((given.factor_decimals for given in known if isinstance(given, FactorInputs)), None)
    return as_keyed(factor, decimals)


def _same(text: str, factor: float) -> bool:
    try:
        return float(text) == factor
    except ValueError:
        return False


def summary(snapshot: Snapshot) -> dict[str, Any]:
    """What a closed job hands to the history of its channel; errors in per cent."""
    decides = snapshot.decides
    found, left = as_found_as_left(snapshot.parts)
    before = as_found_as_left(snapshot.found.parts)[0] if snapshot.found else None
    if before:
        # Something was put right in this visit: as found is what was read before.
        found, left = before, left or found
    accept = decides.built.setting.profile.accept
    share = accept.percentage if accept else None
    names = [snapshot.fold.text(f"{REFERENCES}.{row}.name") for row in snapshot.fold.live_rows(REFERENCES)]
    return {
        "method": decides.method.key,
        "visit": len(snapshot.parts) > 1,
        "occasion": snapshot.fold.text("occasion") or "routine",
        "call": snapshot.machine.call,
        "call_found": _call_found(snapshot.found if before and snapshot.found else snapshot, found),
        "down": decides.assessment.found.down,
        "provisional": _unconfirmed(snapshot),
        "chart": _chart(snapshot, found, left),
        "shown_up_to": shown_up_to(snapshot),
        "unread": _unread(snapshot),
        "scatter": {method: list(one) for method, one in scatter_of(snapshot.parts).items()},
        "factor_before": snapshot.fold.text("inputs.factor").replace(",", "."),
        "factor_after": factor_after(snapshot),
        "reference": ", ".join(name for name in names if name),
        "accept": share * 100 if share is not None else None,
        "zero": hands_back(snapshot).zero,
        "method_found": found.method if found else None,
        "error_found": found.error if found else None,
        "uncertainty_found": found.uncertainty if found else None,
        "method_left": left.method if left else None,
        "error_left": left.error if left else None,
        "uncertainty_left": left.uncertainty if left else None,
        "counters": _counters(snapshot),
        "suspect": snapshot.machine.shown,
        "cured": sorted(cures(snapshot.fold)),
        "not_looked_at": not_looked_at(snapshot),
        "adjusted": any(part.changed for part in snapshot.parts.values()),
        "otherwise": otherwise(snapshot),
        "seen": sorted(looks_that_came_to(snapshot, FINE)),
        "lacks": sorted(looks_that_came_to(snapshot, NOT_HERE)),
    }


def otherwise(snapshot: Snapshot) -> str:
    """How likely something other than the figure was where one was changed, in words; empty where none was."""
    touched = snapshot.machine.touched_over
    return in_words(touched) if touched is not None else ""


def looks_that_came_to(snapshot: Snapshot, result: str) -> set[str]:
    """The looks of this visit that came to a result: fine ones of what does not change by itself, and what is not
    there."""
    known = looks_of(snapshot.subject.machine)
    case = case_of(snapshot)
    signs = evidence(case, next(part for part in case.parts if part.key == case.decides))
    found = {
        sign.look for sign in signs if sign.result == result and not sign.ticked and sign.whole and sign.look in known
    }
    return {look for look in found if result == NOT_HERE or known[look][0].lasts}


def _chart(snapshot: Snapshot, found: Comparison | None, left: Comparison | None) -> dict[str, float | None] | None:
    """What a history draws of the job, in per cent: as found, as left, and how far off it might be, below and above."""
    parts = [part for part in snapshot.parts.values() if part.begun and part.method.compares]
    for part in parts:
        if found and part.method.key != found.method:
            continue
        own = part.method.charted(part.given, part.assessment)
        first, last = (found.error, left.error if left else None) if found else (own.found, own.left) if own else (None, None)  # fmt: skip
        if first is None:
            continue
        low, high = part.method.tolerance(part.given, part.built.setting.profile.accept) or (None, None)
        return {"found": first, "left": last, "low": low, "high": high}
    return None


def _call_found(first: Snapshot, found: Comparison | None) -> str:
    """What was said of what was found, in the job as it stood then."""
    return (first.parts[_part_of(first, found.method)] if found else first.decides).assessment.found.call


def not_looked_at(snapshot: Snapshot) -> str:
    """What was not looked at before a figure was touched, though it was asked for, in words; empty where nothing
    was skipped, or nothing touched."""
    if not any(part.changed for part in snapshot.parts.values()) or not case_of(snapshot).skipped:
        return ""
    return "; ".join(one.suspect.title for one in snapshot.machine.suspects if one.state in ("open", "likely"))


def _counters(snapshot: Snapshot) -> dict[CounterKind, float]:
    """What the machine's own counters showed, where a part read one."""
    found: dict[CounterKind, float] = {}
    for part in snapshot.parts.values():
        if part.begun:
            found |= part.method.counters(part.given)
    return found


def _unconfirmed(snapshot: Snapshot) -> bool:
    return any(reason.code in UNCONFIRMED for reason in snapshot.decides.assessment.reasons)


def _part_of(snapshot: Snapshot, method: str) -> str:
    return next(key for key, part in snapshot.parts.items() if part.method.key == method and part.begun)


def hands_back(snapshot: Snapshot) -> HandsBack:
    """What the parts of a job give to the machine's record; the last that gives a thing decides it."""
    zero, event = None, None
    plates: dict[str, str] = {}
    lists: dict[str, Sequence[Mapping[str, str]]] = {}
    rows: dict[str, Mapping[str, str]] = {}
    for part in snapshot.parts.values():
        if part.begun:
            given = part.method.hands_back(part.given, part.assessment, snapshot.subject.figures)
            zero, event = given.zero or zero, given.event or event
            plates |= given.plates
            lists |= given.lists
            rows |= given.rows
    return HandsBack(zero, plates, event, lists, rows)


def done_methods(snapshot: Snapshot) -> set[str]:
    """The methods that this job did: those of its parts that were begun."""
    alone = len(snapshot.parts) == 1
    return {part.method.key for part in snapshot.parts.values() if part.begun or alone}


def settles(snapshot: Snapshot) -> set[str]:
    """The methods of which this job takes a due off: done, and not only in a way that proves little."""
    little = {part.method.key for part in snapshot.parts.values() if part.begun and part.proved and not part.shown}
    return done_methods(snapshot) - little


def state_after(snapshot: Snapshot, outcome: Outcome, state: MachineState) -> MachineState:
    """The state in which a closed job leaves its machine, that was in `state`."""
    if outcome != "complete":
        return STATE_AFTER.get(outcome, state)
    if still_loose(snapshot):
        return "not-valid"
    if _unconfirmed(snapshot):
        return "provisional"
    if state == "fault" and snapshot.fold.text("occasion") != "repair":
        return state
    confirmed = any(part.method.confirms and part.shown for part in snapshot.parts.values())
    if state in ("provisional", "not-confirmed", "not-valid") and not confirmed:
        return state
    return "in-part" if shown_up_to(snapshot) and not confirmed else "in-order"


def in_one_line(snapshot: Snapshot) -> str:
    """What decided a job in one line: its call, and the figures that its method names."""
    decides = snapshot.decides
    said = []
    for about, one in decides.assessment.results.singles():
        if about.summary and isinstance(one, Figure):
            said.append(f"{about.title} {shown(one.value, 3)} {one.unit}".strip())
    return "; ".join([snapshot.machine.headline, *said])
