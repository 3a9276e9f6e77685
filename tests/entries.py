"""`./run entries`: what a person types, ticks and taps in a visit to a machine that was visited before, a row for each visit.

Going on to the next field or step is not counted: Enter does it. A caution counts once for a visit, and so does
each step whose figures of the last visit are taken over.
"""

import argparse
import datetime
import uuid
from collections.abc import Iterator
from dataclasses import dataclass, field

from tests.entered import BEGINS, VISITS, Written
from wary.job.assess import Snapshot, assess, parts_of
from wary.job.closing import Asked, in_the_way
from wary.job.fold import Folding
from wary.job.loose import still_loose
from wary.job.places import joined, place, split
from wary.job.record import Record, brought_by, first_entries, remembered
from wary.job.sheet import LOOK_FIRST, look_first
from wary.job.subject import Subject
from wary.log import EMPTY, Entry, Fold
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.steps import AnyStep, Listed, Look, Rows, Tally
from wary.results import Figure

DAY = datetime.date(2031, 5, 4)
MOST_LOOKS = 12


@dataclass
class Counted:
    """What one visit took: figures and texts typed or captured, ticks and taps, and how it ended."""

    typed: list[str] = field(default_factory=list)
    taps: list[str] = field(default_factory=list)
    call: str = ""
    in_the_way: list[str] = field(default_factory=list)
    fold: Fold = EMPTY


class _Visit:
    """One visit at work; what its record and the visit before know is there when it opens."""

    def __init__(self, visit: Written, before: Fold | None) -> None:
        machine = all_machines()[visit.kind]
        self.visit = visit
        self.parts, self.texts, again = visit.opened(machine)
        self.order = parts_of(self.parts)
        self.subject = Subject(machine, visit.plates, {"name": machine.profile_for(visit.plates)})
        self.count = Counted()
        self.folding = Folding(self.order)
        self.numbers = 0
        self.texts |= again if before else {}
        self.taken_over: set[str] = set()
        self.heeded: set[str] = set()
        texts = {key: str(text) for key, text in {**machine.fixed, **visit.plates, **visit.known}.items()}
        known = first_entries(Record(texts, rows=visit.rows), self.order)
        self.greyed: dict[str, str] = {}
        if before:
            self.greyed = remembered(before, self.order, self.order, known)
        for path, text in {**known, **self.greyed}.items():
            self._enter(path, text, "record")
        if visit.reference:
            for path, text in brought_by(visit.reference, self.order, "r1").items():
                if text:
                    self._enter(path, text, "record")

    def _enter(self, path: str, text: str, source: str = "typed") -> None:
        self.numbers += 1
        entry = Entry(uuid.uuid4(), self.numbers, path, text, source=source, who="Ines")
        self.folding.take(entry, lambda _: ())
        self.count.fold = self.folding.now

    @property
    def snapshot(self) -> Snapshot:
        return assess(self.subject, self.parts, self.count.fold, DAY)

    def worked(self) -> Counted:
        self.count.taps.append("open it")
        if len(self.parts) == 1 < len(self.subject.machine.visit):
            self.count.taps.append("one method alone")
        for path in self._ticks():
            self._tap(path)
        self._heed(self._first_cautions(), "look")
        for path in self.visit.loosens:
            self._tap(path)
        for path, text in self.texts.items():
            self._write(self._there(path), text)
        self._look_on()
        self._close()
        return self.count

    def _tap(self, path: str, text: str = "yes") -> None:
        self._enter(path, text)
        self.count.taps.append(path)

    def _ticks(self) -> Iterator[str]:
        """What the parts that are done look at first, each thing once."""
        whole = look_first(self.parts)
        if whole:
            yield from (item.path for item in whole.items if not item.loose_end)
            return
        for part in self.parts:
            for step in all_methods()[part.method].steps:
                if isinstance(step, Look) and step.key == LOOK_FIRST:
                    yield from (joined(part.key, f"tick.{step.key}.{i.key}") for i in step.items if i.loose_end is None)

    def _first_cautions(self) -> tuple[str, ...]:
        whole = look_first(self.parts)
        steps = [step for part in self.parts for step in all_methods()[part.method].steps if step.key == LOOK_FIRST]
        return whole.cautions if whole else steps[0].cautions if steps else ()

    def _heed(self, cautions: tuple[str, ...], step: str) -> None:
        """Says that the cautions of a step were seen, where one of them was not seen in this visit."""
        if not set(cautions) <= self.heeded:
            self.heeded |= set(cautions)
            self.count.taps.append(f"seen: {step}")

    def _write(self, path: str, text: str) -> None:
        """One thing to be written: there already, taken over, begun by what the call says, as another place, chosen, or typed."""
        if text == BEGINS:
            self._begin(path.rpartition(".")[0])
            return
        if self.count.fold.text(path) == text:
            if path in self.greyed:
                self.taken_over.add(self._step_of(path))
            return
        of = place(self.order, path)
        assert of is not None, path
        for step in self._steps_of(path):
            self._heed(step.cautions, step.key)
        if self._as_another(path) == text:
            alike = f"alike: {self._step_of(path)} {path.rpartition('.')[2]}"
            if alike not in self.count.taps:
                self.count.taps.append(alike)
            self._enter(path, text)
        elif of.kind in ("word", "boolean"):
            self._tap(path, text)
        else:
            self._enter(path, text)
            self.count.typed.append(path)

    def _there(self, path: str) -> str:
        """A path with the row that is there already: `runs.r2` is the second of its list, however it is called."""
        words = path.split(".")
        number = int("".join(one for one in words[1] if one.isdigit()) or 0) if len(words) > 2 else 0
        rows = self.count.fold.live_rows(words[0])
        if number and not words[0].endswith("inputs") and number <= len(rows):
            words[1] = rows[number - 1]
        return ".".join(words)

    def _step_of(self, path: str) -> str:
        """The step in which a path is entered, as one knows it."""
        part, _ = split(path)
        return f"{part} {' '.join(step.key for step in self._steps_of(path)[:1])}".strip()

    def _steps_of(self, path: str) -> list[AnyStep]:
        """The step in which a place is typed; of several the first."""
        part, rest = split(path)
        name, _, key = rest.removeprefix("inputs.").partition(".")
        key = key.partition(".")[2]
        methods = [all_methods()[one.method].describe() for one in self.parts if not part or one.key == part]
        steps = [step for method in methods for step in method.steps]
        own = [one for one in steps if isinstance(one, Listed) and one.rows.list == name and key in one.rows.typed]
        lists = [one for one in steps if isinstance(one, Listed) and one.rows.list == name]
        fields = [one for one in steps if name in one.fields]
        tallies = [one for one in steps if isinstance(one, Tally) and one.list == name]
        return (own or lists or tallies or fields)[:1]

    def _begin(self, row: str) -> None:
        """Begins a further row with all that the call says of it, by one tap."""
        if any(path.startswith(f"{row}.") for path in self.count.fold.fields):
            return
        part, _ = split(row)
        results = {about.key: one for about, one in self.snapshot.parts[part].assessment.results.singles()}
        for rows, _ in self._rows_of(f"{row}."):
            for key, name in rows.begins_with.items():
                found = results.get(name)
                if found is not None:
                    text = f"{found.value:.8g} {found.unit}".strip() if isinstance(found, Figure) else str(found.value)
                    self._enter(f"{row}.{key}", text)
            if rows.goes_on and rows.begins_with:
                # What the call asks for next stands in the row, and goes in with what is entered in it.
                return
            if rows.begins_with:
                self.count.taps.append(f"{row} begins itself")
                return

    def _as_another(self, path: str) -> str:
        """What another place of the row holds, where one tap says that this holds the same."""
        for rows, key in self._rows_of(path):
            for one in rows.alike:
                if one.key == key:
                    return self.count.fold.text(f"{path.removesuffix(key)}{one.of}")
        return ""

    def _rows_of(self, path: str) -> Iterator[tuple[Rows, str]]:
        """Every layout of the list that a path lies in, with its key in the row."""
        part, rest = split(path)
        name, _, key = rest.partition(".")
        spec = next(one for one in self.parts if one.key == part)
        for step in all_methods()[spec.method].describe().steps:
            if isinstance(step, Listed) and step.rows.list == name:
                yield step.rows, key.partition(".")[2]

    def _look_on(self) -> None:
        """Makes the looks that the call asks for, each fine."""
        for _ in range(MOST_LOOKS):
            call = self.snapshot.machine
            if not call.looks:
                return
            self._tap(f"looked.{call.looks[0].look.key}", "fine")

    def _close(self) -> None:
        """Puts back what is loose, and closes; who does it is known."""
        for end in still_loose(self.snapshot):
            self._tap(end.key, "done")
        if self.taken_over:
            self.count.taps += [f"as last time: {step}" for step in self.taken_over]
        machine = self.snapshot.machine
        self.count.call = f"{machine.call}: {machine.headline}"
        self.count.in_the_way = [one["text"] for one in in_the_way(self.snapshot, Asked("Ines", "complete"))]
        self.count.taps.append("close it")


def counted(visit: Written) -> Counted:
    """What a visit took, on a machine at which the same visit was made before."""
    before = _Visit(visit, None).worked()
    return _Visit(visit, before.fold).worked()


def main() -> None:
    """Prints the table."""
    parser = argparse.ArgumentParser(
        prog="./run entries", description="Counts what is typed, ticked and tapped in a visit."
    )
    parser.add_argument("--each", action="store_true", help="name each of them")
    asked = parser.parse_args()
    print(f"{'visit':60}{'by hand':>8}{'typed':>13}{'taps':>13}  call")
    for visit in VISITS:
        found = counted(visit)
        typed, taps = len(found.typed), len(found.taps)
        marks = ["meets" if n <= most else "MISSES" for n, most in ((typed, visit.most), (taps, visit.taps))]
        print(
            f"{visit.words:60}{visit.by_hand:8}{typed:5} {marks[0]:>6} {visit.most:<3}{taps:3} {marks[1]:>6} {visit.taps:<3} {found.call} {' '.join(found.in_the_way)}"
        )
        if asked.each:
            print("   typed:", ", ".join(found.typed), "\n   taps:", ", ".join(found.taps))


if __name__ == "__main__":
    main()
