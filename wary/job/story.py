"""What was done in a practice, told in the order of time: acts at the stand-in, what was written down, what the call said.

Beside it stands when the right decision could have been known: the first moment at which the
readings that were taken came to the call that was right.
"""

import datetime
from collections.abc import Callable, Sequence
from functools import partial
from typing import Literal

from pydantic import BaseModel

from wary.job.assess import Snapshot, assess, assess_again, parts_of
from wary.job.evidence import looks_of
from wary.job.fold import Folding
from wary.job.places import LOOKED, list_at
from wary.job.subject import Subject
from wary.job.titles import belongs_to
from wary.log import EMPTY, Entry
from wary.machines.machine import Machine, Part
from wary.methods.reads import in_words
from wary.rules.assessment import ADJUST, FIND_FAULT, LEAVE, Call
from wary.simulators.stand_in import SKIP, Action, Right, StandIn, Truth, by_time

MOST_FOLLOWED = 2000
"""So many entries are followed one by one; those after them are told by what they come to."""
_SAYS: dict[Right, Call] = {"leave": LEAVE, "adjust": ADJUST, "find-fault": FIND_FAULT}


class StoryRow(BaseModel):
    """One thing at a time (s on the machine's clock): done at the stand-in, written down, or said by the call.

    `call` stands where the call became another; `known` marks the first at which the right decision
    could have been known.
    """

    at: float
    kind: Literal["did", "wrote", "said"]
    words: str
    call: Call | None = None
    known: bool = False


class Story(BaseModel):
    """What was done, in the order of time, and in a sentence when it could have been known."""

    rows: list[StoryRow]
    known: str


def clock(started: datetime.datetime, actions: Sequence[Action]) -> Callable[[datetime.datetime], float]:
    """Turns a time of the day into the machine's own, s: time that was skipped before it is on it too.

    The time of an act is the machine's; what was skipped before it has gone into it already.
    """
    skips: list[tuple[float, float]] = []
    skipped = 0.0
    for action in by_time(actions):
        if action.what == SKIP:
            skips.append((action.at - skipped, action.figure))
            skipped += action.figure

    def at(moment: datetime.datetime) -> float:
        passed = max(0.0, (moment - started).total_seconds())
        return passed + sum(figure for when, figure in skips if when <= passed)

    return at


def story(
    machine: StandIn, actions: Sequence[Action], entries: Sequence[Entry], subject: Subject, visit: tuple[Part, ...],
    day: datetime.date, started: datetime.datetime,
) -> Story:  # fmt: skip
    """Tells a practice: the job's entries in their order beside the acts at the stand-in."""
    at = clock(started, actions)
    rows = [StoryRow(at=action.at, kind="did", words=machine.words(action)) for action in by_time(actions)]
    truth = machine.truth(actions)
    order = parts_of(visit)
    snapshot = assess(subject, visit, EMPTY, day)
    folding = Folding(order)
    calls = _calls(snapshot)
    numbers: dict[str, list[str]] = {}
    known = False
    for place, entry in enumerate(entries[:MOST_FOLLOWED]):
        worth = _worth(snapshot, entry)
        folding.take(entry, partial(_at_path, entries[: place + 1]))
        snapshot = assess_again(snapshot, folding.fold(), [entry.path], day)
        now = at(entry.at)
        words = _seen(subject.machine, entry) or _written(order, entry, numbers)
        if words:
            rows.append(StoryRow(at=now, kind="wrote", words=words))
        if worth:
            rows.append(StoryRow(at=now, kind="said", words=worth))
        after = _calls(snapshot)
        for part, (call, said) in after.items():
            shows = entry.source != "record" and _shows(snapshot, part, truth, machine.hidden.codes)
            if call != calls.get(part, (None, ""))[0] or (shows and not known):
                rows.append(StoryRow(at=now, kind="said", words=said, call=call, known=shows and not known))
                known = known or shows
        calls = after
    rows.sort(key=lambda row: (row.at, row.kind == "did"))
    return Story(rows=rows, known=_known(rows, truth))


def _worth(snapshot: Snapshot, entry: Entry) -> str:
    """What the best next look was worth as something else was looked at, or a figure set; empty where it was the
    best, or none was asked for."""
    machine = snapshot.machine
    best = machine.next_look
    head, _, key = entry.path.partition(".")
    if best is None or best.own or not entry.text or entry.source == "record":
        return ""
    about = f"“{best.look.words}” was worth {_about(best.worth)} for its {_about(best.look.minutes)}"
    if entry.path.rpartition("/")[2] == "read_back":
        return f"A figure was set before it was looked at: {about}."
    made = next((one for one in machine.others if one.look.key == key), None)
    if head != LOOKED or made is None or made.look.key in {one.look.key for one in machine.card}:
        return ""
    return f"The best next look was another: {about}; the one that was made {_about(made.worth)}."


def _about(minutes: float) -> str:
    """Minutes as one speaks of them."""
    if minutes < 0.75:
        return "less than a minute"
    return "a minute" if minutes < 1.5 else f"{minutes:.0f} minutes"


def _at_path(entries: Sequence[Entry], path: str) -> list[Entry]:
    return [one for one in entries if one.path == path]


def _calls(snapshot: Snapshot) -> dict[str, tuple[Call, str]]:
    """The call of every part that was begun, and its first reason."""
    found = {}
    for key, part in snapshot.parts.items():
        if part.begun:
            answer = part.assessment
            why = answer.found.reasons[0].text if answer.found.reasons else ""
            found[key] = (answer.call, f"{answer.headline}. {why}".strip())
    return found


def _shows(snapshot: Snapshot, part: str, truth: Truth, codes: tuple[str, ...]) -> bool:
    """Whether the right decision could be known from a part: by its call, or by a reason in which the fault shows."""
    answer, method = snapshot.parts[part].assessment, snapshot.parts[part].method
    given = {reason.code for reason in answer.found.reasons} | {reason.code for reason in answer.reasons}
    if any(code in given or code in {f"{method.key}:{one}" for one in given} for code in codes):
        return True
    return answer.call == _SAYS[truth.right] and (answer.call == FIND_FAULT or method.compares)


def _seen(machine: Machine, entry: Entry) -> str:
    """A look with what it came to, as a sentence; empty for another entry."""
    head, _, key = entry.path.partition(".")
    look = looks_of(machine).get(key) if head == LOOKED and entry.text else None
    return in_words(look[0], entry.text) if look else ""


def _written(order: tuple[tuple[str, str], ...], entry: Entry, numbers: dict[str, list[str]]) -> str:
    """An entry in words: which row of which list, what it is called, what was written; empty for one that says nothing."""
    _, _, rest = entry.path.rpartition("/")
    if entry.source == "record" or rest == "occasion" or rest.startswith(("tick.", "caution.", "loose.", "row.")):
        return ""
    title = belongs_to(order, entry.path)
    if title is None:
        return ""
    said = f"{entry.text} {entry.unit}".strip() or "taken out"
    above = entry.path.rpartition(".")[0]
    listing, _, row = above.rpartition(".")
    listed = list_at(order, listing) if listing else None
    if listed is None:
        return f"{title}: {said}"
    rows = numbers.setdefault(listing, [])
    if row not in rows:
        rows.append(row)
    return f"{listed.title} {rows.index(row) + 1}, {title.lower()}: {said}"


def _known(rows: Sequence[StoryRow], truth: Truth) -> str:
    first = next((row for row in rows if row.known), None)
    if first is None:
        return f"What was entered never came to it. The sign to look for: {truth.sign}"
    return f"It could have been known after {_minutes(first.at)}: {first.words}"


def _minutes(seconds: float) -> str:
    return f"{seconds / 60:.0f} min" if seconds >= 60 else f"{seconds:.0f} s"
