"""Somebody who does only what the page says: at a stand-in, from the first reading to the last call.

It asks the job what to do next (the step in hand, the look, the call), does that at the stand-in by the
acts that steps declare, enters what is read, and goes on until the call is final. It knows no kind of
machine and no method, and never reads the hidden state.
"""

import datetime
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from wary.acts import Act
from wary.job.assess import Snapshot, assess, assess_again, parts_of
from wary.job.evidence import SINCE_AN_EVENT, looks_of
from wary.job.fold import Folding
from wary.job.judging import CURED, LookAsked, MachineCall
from wary.job.places import VALUE, inputs_of, is_plain, joined, lists_of
from wary.job.record import Record, brought_by, first_entries
from wary.job.subject import Subject
from wary.job.visit import Assessed
from wary.live import Readout
from wary.log import Entry, Fold
from wary.machines import all_machines
from wary.machines.machine import Machine, Part
from wary.methods.method import AnyMethod
from wary.methods.steps import Countdown, Listed, Look
from wary.quantities import Quantity, from_si
from wary.references import ReferenceOnRecord
from wary.results import Figure
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY, Call
from wary.simulators import stand_in_of
from wary.simulators.stand_in import INSPECT, KEY, SKIP, TICKET, Action, StandIn, TicketFigure, Truth
from wary.simulators.stand_in import Followed as SomethingFollowed
from wary.suspects.chances import together
from wary.suspects.suspect import FINE, NO_PAST, NOT_FINE, Past

DAY = datetime.date(2031, 5, 4)
MOST_TURNS = 40
"""So often the job is asked what to do next before somebody gives up."""
MOST_DEPTH = 3
MOST_ROWS, MOST_CHANGES, INNER_ROWS = 7, 8, 5
STEADY = 120.0
"""How long one waits for a reading to stand, s."""
ACT_TAKES = 4.0
NAMES = ("label", "name", "grade")
"""What a row is called, in whatever list."""


@dataclass(frozen=True)
class Followed:
    """A visit that was followed to its end: the call, what was touched, named and cured, whether that was right, minutes and acts.

    `suspect` is what was named, `named` whether it is one that what could be seen shows. `looked` counts the looks that
    were asked for beyond what the visit's own lists make, `looked_minutes` is what they took. `left_changed`: a setting
    was changed over a fault, or where nothing was wrong, and stands so at the end; `ended_well`: put right, or
    stopped at what is there and was named; `stuck`: it wants something still and never ends.
    """

    call: Call
    touched: bool
    suspect: str
    cured: bool
    right: bool
    minutes: float
    acts: int
    named: bool = False
    looked: int = 0
    looked_minutes: float = 0.0
    left_changed: bool = False
    ended_well: bool = False
    stuck: bool = False
    asked: tuple[str, ...] = ()


def follow(
    kind: str, fault: str = "none", seed: int = 0, machine: StandIn | None = None, *, seen: bool = False
) -> Followed:
    """One visit to a stand-in of a kind in a state, or to one that somebody else made.

    `seen`: there was a visit before it, at which all was looked at and in order.
    """
    known = all_machines()[kind]
    return _Technician(known, machine or stand_in_of(known)(seed, fault), seen=seen).visited()


@dataclass
class _Ticket:
    figures: tuple[TicketFigure, ...] = ()


@dataclass
class _Technician:
    machine: Machine
    stand_in: StandIn
    actions: list[Action] = field(default_factory=list)
    now: float = 0.0
    entries: list[Entry] = field(default_factory=list)
    ticket: _Ticket = field(default_factory=_Ticket)
    cured: list[str] = field(default_factory=list)
    named: str = ""
    repeated: frozenset[str] = frozenset({"cold"})
    changes: int = 0
    numbers: int = 0
    seen: bool = False
    put_back: float | None = None
    asked: list[str] = field(default_factory=list)
    asked_minutes: float = 0.0

    def __post_init__(self) -> None:
        self.visit = self.machine.visit
        self.order = parts_of(self.visit)
        since = {one.key: SINCE_AN_EVENT for one in self.machine.all_suspects() if one.event in self.stand_in.logged}
        plates = self.stand_in.on_record().plates
        profile = {"name": self.machine.profile_for(plates)}
        self.subject = Subject(self.machine, plates, profile, found=since, past=self._past())
        self.folding = Folding(self.order)
        self.depth = 0
        self.following: SomethingFollowed | None = None
        self._snapshot: Snapshot | None = None
        self._paths: list[str] = []
        self.units = {c.does: c.unit for c in self.stand_in.controls if c.typed}

    def _past(self) -> Past:
        if not self.seen:
            return NO_PAST
        lasting = {look.key: "a year ago" for look, _ in looks_of(self.machine).values() if look.lasts}
        return Past(visits=1, visits_alike=1, seen=lasting)

    # --- the visit ------------------------------------------------------------------------------

    def visited(self) -> Followed:
        self._begin()
        self._work_all()
        call = self._decide()
        truth = self.stand_in.truth(self.actions)
        acts = len([one for one in self.actions if one.what != SKIP])
        suspects = {one.key: one for one in self.machine.all_suspects()}
        shows = self.stand_in.hidden.seen
        fits = bool(self.named) and any(tell.look.key in shows and tell.sure for tell in suspects[self.named].tells)
        right = (
            (not truth.touched and call == LEAVE)
            if truth.right == LEAVE
            else truth.put_right
            if truth.right == ADJUST
            else fits and not truth.touched
        )
        left = self._left_changed(truth)
        well = not left and (truth.put_right if call == LEAVE else call == FIND_FAULT and fits)
        return Followed(
            call, truth.touched, self.named, truth.cured, right, self.now / 60, acts, fits, len(self.asked),
            self.asked_minutes, left, well, call in (KEEP_TESTING, NOT_READY), tuple(self.asked),
        )  # fmt: skip

    def _left_changed(self, truth: Truth) -> bool:
        """Whether a setting was changed over a fault, or where nothing was wrong, and not put back."""
        ended = self.stand_in.ended(self.actions)
        since = self.put_back if self.put_back is not None else -1.0
        until = ended if ended is not None else float("inf")
        changed = [one for one in self.actions if one.what in self.stand_in.settings and since < one.at < until]
        # What is put back takes a moment for each setting.
        changed = [one for one in changed if one.figure != self._figures_before().get(one.what)]
        return truth.right != ADJUST and bool(changed)

    def _work_all(self) -> None:
        """Goes through the parts that the visit makes anyway, until something is found."""
        for part in self.machine.visit:
            if not part.optional and part.title != "Zero again":
                self._work(part)
                # What a part asks for is done before the next one is begun.
                if self.snapshot.machine.call in (ADJUST, FIND_FAULT, KEEP_TESTING) and self.depth < MOST_DEPTH:
                    self.depth += 1
                    call = self._decide(False)
                    self.depth -= 1
                    if call == FIND_FAULT:
                        return

    def _begin(self) -> None:
        """What the record of the machine knows, as its first entries."""
        known = self.stand_in.on_record()
        plates: dict[str, object] = {**self.machine.fixed, **known.plates, **known.figures}
        texts = {key: str(found) for key, found in plates.items()}
        texts |= {"factor": known.factor, "factor_decimals": str(known.factor_decimals), "zero": known.zero}
        cells: list[Mapping[str, str]] = [
            {"label": one, "capacity": known.cell_capacity, "sensitivity": known.cell_sensitivity}
            for one in known.cells
        ]
        record = Record(texts={key: text for key, text in texts.items() if text}, rows={"cells": cells})
        for path, text in first_entries(record, self.order).items():
            self.enter(path, text, source="record")
        kind = known.reference_kind
        reference = ReferenceOnRecord(
            kind,
            known.reference,
            "practice",
            range=known.reference_range,
            division=known.reference_division,
            nominal=known.reference_nominal,
        )
        for path, text in known.known.items():
            self.enter(path, text, source="typed")
        for path, text in brought_by(reference, self.order, "r1").items():
            if text:
                self.enter(path, text, source="record")

    def _decide(self, last: bool = True) -> Call:
        """Does what the call asks for until nothing is left; what a comparison cannot see is looked at last."""
        seen: set[str] = set()
        for _ in range(MOST_TURNS):
            machine = self.snapshot.machine
            if machine.call == FIND_FAULT and machine.shown:
                if not self._cure(machine):
                    return machine.call
            elif machine.looks:
                self._asked(machine.looks[0])
                self._look(machine.looks[0].look.key, machine.looks[0].path)
            elif machine.call == FIND_FAULT:
                return machine.call
            elif machine.call == ADJUST:
                if self.changes >= MOST_CHANGES or not self._change(machine):
                    return machine.call
            elif machine.call == LEAVE and not last:
                return machine.call
            elif machine.call == LEAVE:
                aside = next((one for one in machine.aside if one.look.key not in seen), None)
                if aside is None:
                    return machine.call
                seen.add(aside.look.key)
                self._asked(aside)
                self._look(aside.look.key, aside.path)
            elif machine.reasons and machine.reasons[0].code == CURED:
                # What was read before a cure is read again, in the order of the visit.
                spec = next(one for one in self.machine.visit if one.key == machine.about)
                before = len(self.entries)
                if last:
                    self._work(spec)
                if len(self.entries) == before:
                    return machine.call
            elif not self._more(machine):
                return machine.call
        return self.snapshot.machine.call

    def _cure(self, machine: MachineCall) -> bool:
        """Puts right what is shown, and does again what was done; False where nobody here can."""
        shown = [one.suspect.key for one in machine.suspects if one.state == "shown"]
        self.named = self.named or machine.shown
        anew = {one.key for one in self.machine.all_suspects() if one.by_reading}
        can = [key for key in shown if (key in self.stand_in.mending or key in anew) and key not in self.cured]
        if not can or (self.changes and not self._put_back()):
            return False
        for key in can:
            mend = self.stand_in.mending.get(key, "")
            for _ in range(4 if key in self.repeated else 1):
                self.act(mend, 0.0, 300)
            self.cured.append(key)
            self.enter(f"cured.{key}", "yes")
        again = " ".join(one.suspect.again for one in machine.suspects if one.suspect.key in can)
        if "zero" in again.lower() and {"zero", "unload"} <= self.stand_in.doing.keys():
            self._do((Act("unload"), Act("settle"), Act("zero")), "", 0)
        self._work_all()
        return True

    def _asked(self, one: LookAsked) -> None:
        """Counts a look that the visit does not make anyway, with what it adds to a walk that was begun."""
        if one.own or one.look.key in self.asked:
            return
        known = [looks_of(self.machine)[key][0] for key in self.asked]
        walked = max((look.minutes for look in known if look.walk and look.walk == one.look.walk), default=0.0)
        self.asked_minutes += together([one.look], {one.look.walk: walked})
        self.asked.append(one.look.key)

    def _put_back(self) -> bool:
        """Puts the figures back that were changed in this visit; what the record has no figure of is set anew
        after the cure."""
        before = self._figures_before()
        since = self.put_back if self.put_back is not None else -1.0
        done = [one for one in self.actions if one.what in self.stand_in.settings and one.at > since]
        changed = dict.fromkeys(one.what for one in done if one.figure != before.get(one.what))
        if not changed:
            return False
        self.put_back = self.now
        for what in changed.keys() & before.keys():
            self.act(what, before[what])
        for path in [
            path for path in self.fold.fields if path.rpartition("/")[2] in ("read_back", "inputs.keyed_value")
        ]:
            self.enter(path, "")
        self.changes = 0
        return True

    def _figures_before(self) -> dict[str, float]:
        """What it was set to as the record has it."""
        known = self.stand_in.on_record()
        found = {key: number for key, text in known.figures.items() if (number := _number(text)) is not None}
        factor = _number(known.factor) if known.factor else found.get("constant", found.get("old_value"))
        return found | ({KEY: factor} if factor is not None else {})

    def _look(self, key: str, path: str) -> None:
        """Makes a look: where it is entered, or with one's eyes."""
        part = path.partition("/")[0] if "/" in path else ""
        spec = next((one for one in self.machine.visit if one.key == part), None)
        if path and spec and not self.snapshot.parts[part].begun and self.snapshot.parts[part].method.acts:
            self._work(spec)
            if key not in {one.look.key for one in self.snapshot.machine.looks}:
                return
        elif path and spec:
            name = path.rpartition("/")[2].removeprefix("inputs.").split(".")[0]
            places = [one for one in self.snapshot.parts[part].method.acts if one.startswith(f"{name}.")]
            if (
                places
                and not _fixed(self.snapshot.parts[part].method, name)
                and self.snapshot.parts[part].assessment.call == ADJUST
            ):
                full = joined(part, name)
                self._row(part, name, full, self._new_row(), len(self.snapshot.read.live_rows(full)), places)
                if key not in {one.look.key for one in self.snapshot.machine.looks}:
                    return
        self._inspect(key)

    def _inspect(self, key: str) -> None:
        look = looks_of(self.machine)[key][0]
        found = self.stand_in.inspect(self.actions, look)
        self._did(Action(round(self.now, 2), f"{INSPECT}{key}"))
        self.now += look.minutes * 60
        if found.note:
            self.enter(f"look_noted.{key}", found.note)
        self.enter(f"looked.{key}", found.result)

    # --- parts ----------------------------------------------------------------------------------

    def _work(self, spec: Part) -> None:
        """Goes through the steps of a part: looks first, then reads what its acts say can be read."""
        method = self.snapshot.parts[spec.key].method
        if not method.acts or self._is_read(spec.key):
            return
        for step in method.steps:
            if isinstance(step, Look):
                for item in step.items:
                    if item.loose_end is None:
                        self._tick(spec.key, step.key, item.key, item.looks)
        for name in dict.fromkeys(place.split(".")[0] for place in method.acts):
            if name == "inputs":
                for place in [one for one in method.acts if one.startswith("inputs.")]:
                    self._single(spec.key, place.removeprefix("inputs."), method.acts[place])
            else:
                self._list(spec.key, name, name)

    def _is_read(self, part: str) -> bool:
        """Whether a part was read since the last cure, and says what is to be done."""
        now = self.snapshot.parts[part]
        first = next((place for place in now.method.acts if not place.startswith("inputs.")), "")
        if not first or now.assessment.call == NOT_READY:
            return False
        full, key = joined(part, first.split(".")[0]), first.partition(".")[2]
        rows = self.snapshot.read.live_rows(full)
        return any(self.snapshot.read.text(f"{full}.{row}.{key}") for row in rows)

    def _tick(self, part: str, step: str, item: str, looks: Sequence[str]) -> None:
        """Ticks an item of a list, once its looks showed nothing; what one of them shows is entered instead."""
        path = joined(part, f"tick.{step}.{item}")
        if self.fold.text(path):
            return
        known = looks_of(self.machine)
        # Each of them is looked at, also where one showed something.
        fine = [self._is_fine(key) for key in looks if key in known]
        if all(fine):
            self.enter(path, "yes")

    def _is_fine(self, key: str) -> bool:
        """Looks there; what is fine is said by what asked for it, what is not stands by itself."""
        if self.snapshot.read.text(f"looked.{key}") != FINE:
            self._inspect(key)
            if self.fold.text(f"looked.{key}") == NOT_FINE:
                return False
            self.enter(f"looked.{key}", "")
        return True

    def _single(self, part: str, name: str, acts: tuple[Act, ...]) -> None:
        """One figure that is not in a list: read, or what the acts for it came to."""
        path = joined(part, f"inputs.{name}")
        if self.fold.text(f"inputs.{name}") or self.fold.text(path):
            return
        readout = self._readout(name, "", "")
        if readout is not None:
            self.enter(path, readout.capture, readout.unit, steady=readout.steady)
            return
        method = self.snapshot.parts[part].method
        for one in acts:
            for step in self.stand_in.doing.get(one.do, ()):
                figure = one.figure or self.stand_in.usual_figure(step.action)
                if one.do == "raise":
                    for _ in range(round(figure)):
                        self.act(step.action)
                elif one.do == "load":
                    self._figure = (figure, self.units.get(step.action, ""))
                    if one is not acts[-1]:
                        self.act(step.action, figure)
                else:
                    self.act(step.action, figure)
        last = acts[-1] if acts else None
        if inputs_of(method.key)[name].kind == "boolean":
            known = looks_of(self.machine)
            said = [one.look.key for one in method.reads if one.at == name and one.said and one.look.key in known]
            if all(self._is_fine(key) for key in said):
                self.enter(path, "yes")
        elif last and last.do == "raise":
            self.enter(path, f"{last.figure:g}")
        elif self._figure is not None:
            self.enter(path, f"{self._figure[0]:g} {self._figure[1]}".strip())

    def _list(self, part: str, name: str, into: str) -> None:
        """Fills rows of a list until the part asks for no more of them."""
        method = self.snapshot.parts[part].method
        places = [place for place in method.acts if place.startswith(f"{name}.")]
        full = joined(part, into)
        there = self.snapshot.read.live_rows(full)
        first = not self._is_filled(full, there, [place.removeprefix(f"{name}.") for place in places])
        if there and first:
            self._columns(part, name, full, there, places)
            return
        through = max((len(act.shares) for place in places for act in method.acts[place] if act.through), default=0)
        for number in range(max(MOST_ROWS, through)):
            row = self._new_row()
            self._row(part, name, full, row, number, places)
            if number + 1 >= through and not self._wants_more(part, name, number + 1):
                return

    def _is_filled(self, full: str, rows: Sequence[str], keys: Sequence[str]) -> bool:
        return any(self.snapshot.read.text(f"{full}.{row}.{key}") for row in rows for key in keys if "." not in key)

    def _columns(self, part: str, name: str, full: str, rows: Sequence[str], places: Sequence[str]) -> None:
        """Fills rows that are there already: a row after the other where acts go by the row, else a column after the other."""
        acts = self.snapshot.parts[part].method.acts
        by_row = any(one.of == "row" for place in places for one in acts[place])
        order = [(r, p) for r in rows for p in places] if by_row else [(r, p) for p in places for r in rows]
        done: set[str] = set()
        for row, place in order:
            if by_row or place not in done:
                self._do(acts[place], part, rows.index(row))
                done.add(place)
            self._fill(part, name, full, row, place, rows.index(row))

    def _row(self, part: str, name: str, full: str, row: str, number: int, places: Sequence[str]) -> None:
        acts = self.snapshot.parts[part].method.acts
        tool = next(
            (
                s.rows.tool
                for s in self.snapshot.parts[part].method.steps
                if isinstance(s, Listed) and s.rows.list == name
            ),
            None,
        )
        inner = [place for place in places if place.count(".") > 1]
        for place in places:
            if place in inner:
                continue
            if isinstance(tool, Countdown) and tool.reads:
                self._do(acts[place], part, number)
                self._change_over_a_turn(full, row, tool, part)
                continue
            self._do(acts[place], part, number)
            self._fill(part, name, full, row, place, number)
        if inner:
            listed = inner[0].split(".")[1]
            for _ in range(INNER_ROWS):
                own = self._new_row()
                for place in inner:
                    self._do(acts[place], part, number)
                    key = place.split(".")[2]
                    self._read_into(f"{full}.{row}.{listed}.{own}.{key}", key, listed, "")

    def _change_over_a_turn(self, full: str, row: str, tool: Countdown, part: str) -> None:
        given = self.snapshot.parts[part].given
        time = getattr(given, tool.time, None)
        seconds = time.si if isinstance(time, Quantity) else 60.0
        self.wait(5)
        before = self._named(tool.reads)
        self.wait(seconds)
        after = self._named(tool.reads)
        self.enter(f"{full}.{row}.{VALUE}", f"{after.value - before.value:.6f}", after.unit)

    def _fill(self, part: str, name: str, full: str, row: str, place: str, number: int) -> None:
        key = place.removeprefix(f"{name}.")
        if self.snapshot.read.text(f"{full}.{row}.{key}"):
            return
        named = (self.snapshot.read.text(f"{full}.{row}.{one}") for one in NAMES)
        of = next((text for text in named if text), "")
        self._read_into(f"{full}.{row}.{key}", key, name, of, number)

    def _read_into(self, path: str, key: str, name: str, of: str, number: int = 0) -> None:
        """Enters what is shown for a place, or what the ticket says."""
        printed = next(
            (one for one in self.ticket.figures if one.into in (key, f"{name}.{key}") and one.of in ("", of)), None
        )
        readout = self._readout(key, name, of, number)
        if printed is not None:
            self.enter(path, printed.text, printed.unit)
        elif readout is not None:
            self.enter(path, readout.capture, readout.unit, steady=readout.steady)
        elif self._figure is not None:
            self.enter(path, f"{self._figure[0]:g}", self._figure[1])

    _figure: tuple[float, str] | None = None

    def _readout(self, key: str, name: str, of: str, number: int = 0) -> Readout | None:
        found = [one for one in self.live() if (key in one.into or f"{name}.{key}" in one.into)]
        exact = [one for one in found if one.of == of] if of else [one for one in found if not one.of]
        chosen = exact or ([one for one in found if not one.of] if of else [])
        return chosen[number % len(chosen)] if chosen else None

    def _wants_more(self, part: str, name: str, rows: int) -> bool:
        """Whether a part asks for another row of a list."""
        now = self.snapshot.parts[part]
        answer = now.assessment
        lists = {place.split(".")[0] for place in now.method.acts if not place.startswith("inputs.")}
        if is_plain(lists_of(now.method.key)[name]) and len(lists) > 1 and rows < 2:
            return True
        if answer.call in (LEAVE, ADJUST, FIND_FAULT):
            return False
        if any(reason.wanted for reason in answer.reasons) and len(lists) == 1:
            return True
        if answer.call == NOT_READY:
            return any(f".{name}" in (reason.path or "") for reason in answer.reasons)
        return answer.call == KEEP_TESTING and len(lists) == 1

    def _more(self, machine: MachineCall) -> bool:
        """One more row where the part that the call is about asks for it; False where nothing more can be read."""
        part = self.snapshot.parts[machine.about]
        rows = [place.split(".")[0] for place in part.method.acts if not place.startswith("inputs.")]
        if not rows or self.numbers > 60:
            return False
        name = part.method.read_again if part.assessment.as_found else rows[0]
        asked = [
            one
            for one in dict.fromkeys(rows)
            if any(f".{one}" in (reason.path or "") for reason in part.assessment.reasons)
        ]
        if not asked and machine.call == NOT_READY:
            return False
        lists = asked or [rows[-1] if len(set(rows)) > 1 else rows[0]]
        before = len(self.entries)
        for one in dict.fromkeys(lists):
            full = joined(machine.about, one)
            lacking = [place for place in part.method.acts if place.startswith(f"{one}.")]
            there = self.snapshot.read.live_rows(full)
            if there and not self._is_filled(full, there, [place.removeprefix(f"{one}.") for place in lacking]):
                self._columns(machine.about, one, full, there, lacking)
                continue
            into = name if one == rows[0] and part.method.read_again else one
            places = [place for place in part.method.acts if place.startswith(f"{one}.")]
            full = joined(machine.about, into)
            self._row(machine.about, one, full, self._new_row(), len(self.fold.live_rows(full)), places)
        return len(self.entries) > before

    # --- changing -------------------------------------------------------------------------------

    def _change(self, machine: MachineCall) -> bool:
        """Keys in what the part asks for, reads it back, and takes the proof."""
        part = self.snapshot.parts[machine.about]
        method = part.method
        begins = next(
            (s.rows.begins_with or _begins(method, s.rows.list) for s in method.steps if isinstance(s, Listed)), {}
        )
        self.changes += 1
        wanted = _singles(part)
        moved = False
        if method.change:
            moved = self._do_change(part, method.change, wanted)
        else:
            for key, result in begins.items():
                figure = wanted.get(result)
                if figure is not None and key in self.stand_in.actions():
                    self.act(key, _in_unit(figure, self.units.get(key, "")))
                    moved = True
        if not moved:
            return False
        shown = _singles(part).get("new_factor")
        if shown is not None and f"{machine.about}" in self.snapshot.parts and _takes(part, "factor"):
            keyed = part.assessment.key_in.factor if part.assessment.key_in else None
            if keyed:
                self.enter(joined(machine.about, "read_back"), keyed)
        elif (
            method.change
            and any(one.do == "zero" for one in method.change)
            and not any(one.do == "span" for one in method.change)
        ):
            self.enter(joined(machine.about, "tick.new-zero.stored"), "yes")
        if _takes(part, "keyed_value"):
            value = self._readout("keyed_value", "", "")
            if value is not None:
                self.enter(joined(machine.about, "inputs.keyed_value"), value.capture, value.unit)
        self._prove(machine.about, part)
        return True

    def _prove(self, key: str, part: Assessed) -> None:
        """Takes the readings again that show whether a change did what it should."""
        method = part.method
        lists = list(dict.fromkeys(place.split(".")[0] for place in method.acts if not place.startswith("inputs.")))
        name = lists[0]
        into = method.read_again or name
        if _fixed(method, name):
            full = joined(key, name)
            for row in self.fold.live_rows(full):
                for place in method.acts:
                    self.enter(f"{full}.{row}.{place.removeprefix(f'{name}.')}", "")
            self._columns(
                key, name, full, self.fold.live_rows(full), [p for p in method.acts if p.startswith(f"{name}.")]
            )
            return
        for one in lists:
            if one != name and not method.read_again:
                self._clear(key, one)
        if len(lists) > 1 and not method.read_again:
            self._clear(key, name)
            for one in lists:
                self._list(key, one, one)
            return
        self._list(key, name, into)

    def _clear(self, part: str, name: str) -> None:
        full = joined(part, name)
        for path in [path for path, one in self.fold.fields.items() if path.startswith(f"{full}.") and one.text]:
            self.enter(path, "")

    def _do_change(self, part: Assessed, change: tuple[Act, ...], wanted: Mapping[str, Figure]) -> bool:
        did = False
        for one in change:
            if one.do == "match":
                for row in part.built.inputs.get("groups") or []:
                    text = str(row.get(one.of, "")).split(" ")[0]
                    action = f"{self.stand_in.doing['match'][0].action}{row.get('name', '')}"
                    if text and action in self.stand_in.actions():
                        self.act(action, float(text))
                        did = True
                continue
            figure = wanted.get(one.of)
            for step in self.stand_in.doing.get(one.do, ()):
                if figure is not None:
                    self.act(step.action, _in_unit(figure, self.units.get(step.action, "")))
                    did = True
                else:
                    self._do((one,), part.key, 0)
                    did = did or one.do in ("zero", "span", "key", "move")
                    break
            if one.do == "settle":
                self._settle()
        return did

    # --- acts -----------------------------------------------------------------------------------

    def _do(self, acts: Sequence[Act], part: str, number: int) -> None:
        self._figure = None
        for one in acts:
            if one.do == "settle":
                self._settle()
            elif one.do == "wait":
                self.wait(one.figure or 0.0)
            elif one.do == "weigh":
                self._weigh()
            else:
                for step in self.stand_in.doing.get(one.do, ()):
                    figure = (
                        step.figure
                        if step.figure is not None
                        else self._amount(one, step.action, part, number) * step.share
                    )
                    self.act(step.action, figure)
                    if one.do in ("load", "catch"):
                        self._figure = (figure / step.share if step.share else figure, self.units.get(step.action, ""))

    def _amount(self, act: Act, action: str, part: str, number: int) -> float:
        if act.of == "row":
            return number + 1
        if act.of:
            given = getattr(self.snapshot.parts[part].given, act.of, None)
            if isinstance(given, Quantity):
                return from_si(given.si, self.units.get(action, given.unit))
        usual = self.stand_in.usual_figure(action)
        return usual * act.shares[number % len(act.shares)] if act.shares else usual

    def act(self, what: str, figure: float = 0.0, takes: float = ACT_TAKES) -> None:
        """Does something at the stand-in."""
        if what in self.stand_in.actions():
            self._did(Action(round(self.now, 2), what, round(figure, 9)))
            self.wait(8.0 if what in ("dump",) else takes)
            self.ticket = _Ticket() if what not in ("tip",) else self.ticket

    def _did(self, action: Action) -> None:
        self.actions.append(action)
        if self.following is not None and not self.following.then(action):
            self.following = None

    def wait(self, seconds: float) -> None:
        self.now += seconds

    def _settle(self) -> None:
        for _ in range(int(STEADY / 10)):
            self.wait(10)
            if all(one.steady for one in self.live()):
                break
        self.wait(20)

    def _weigh(self) -> None:
        if self.stand_in.scales:
            self.wait(1)
            printed = self.stand_in.ticket(self.actions, self.now, self.stand_in.scales[0])
            self._did(Action(round(self.now, 2), TICKET, 0))
            self.ticket = _Ticket(printed.figures)
            self.wait(30)

    def live(self) -> tuple[Readout, ...]:
        """What the stand-in shows now."""
        if self.following is None:
            self.following = self.stand_in.followed(self.actions)
        return self.following.live(self.now).readouts

    def _named(self, key: str) -> Readout:
        return next(one for one in self.live() if one.key == key)

    # --- the job --------------------------------------------------------------------------------

    def enter(self, path: str, text: str, unit: str = "", source: str = "captured", steady: bool | None = None) -> None:
        """Writes something down; of what is captured, whether it stood."""
        number = len(self.entries) + 1
        entry = Entry(uuid.UUID(int=number), number, path, text, unit, source, who="follower", steady=steady)
        self.entries.append(entry)
        self.folding.take(entry, lambda _: ())
        self._paths.append(path)

    @property
    def fold(self) -> Fold:
        """What was written down so far."""
        return self.folding.now

    @property
    def snapshot(self) -> Snapshot:
        """The job as it stands."""
        if self._snapshot is None:
            self._snapshot = assess(self.subject, self.visit, self.folding.fold(), DAY)
        elif self._paths:
            self._snapshot = assess_again(self._snapshot, self.folding.fold(), self._paths, DAY)
        self._paths = []
        return self._snapshot

    def _new_row(self) -> str:
        self.numbers += 1
        return f"f{self.numbers}"


def _singles(part: Assessed) -> dict[str, Figure]:
    found = part.assessment.found if part.assessment.call != ADJUST else part.assessment
    return {about.key: one for about, one in found.results.singles() if isinstance(one, Figure)}


def _number(text: object) -> float | None:
    try:
        return float(str(text).split(" ")[0])
    except ValueError:
        return None


def _takes(part: Assessed, name: str) -> bool:
    return name in inputs_of(part.method.key)


def _fixed(method: AnyMethod, name: str) -> bool:
    return any(isinstance(s, Listed) and s.rows.list == name and s.rows.fixed for s in method.steps)


def _begins(method: AnyMethod, name: str) -> dict[str, str]:
    steps = method.describe().steps
    return next((s.rows.begins_with for s in steps if isinstance(s, Listed) and s.rows.list == name), {})


def _in_unit(figure: Figure, unit: str) -> float:
    """A result in the unit of a control; as it is where that has another kind of unit."""
    try:
        return from_si(figure.si, unit) if unit else figure.value
    except (KeyError, ValueError):
        return figure.value
