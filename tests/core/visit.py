"""A job for the tests of the core: entries at paths, with no server."""

import datetime
import uuid
from typing import Any

from wary.job.assess import Snapshot, assess, parts_of
from wary.job.fold import rebuilt
from wary.job.subject import Subject
from wary.job.visit import Assessed
from wary.log import Entry
from wary.machines import all_machines
from wary.machines.machine import Part
from wary.results import Figure, Results
from wary.rules.assessment import Assessment

DAY = datetime.date(2031, 5, 4)


class AtWork:
    """A job under way on a machine: its usual visit, or one method."""

    def __init__(self, kind: str, method: str = "", /, **subject: Any) -> None:
        machine = all_machines()[kind]
        self.visit = (Part("", method),) if method else machine.visit
        given = {"profile": {"name": machine.profile}} | subject
        self.subject = Subject(machine, **given)
        self.entries: list[Entry] = []

    def enter(self, texts: dict[str, str], source: str = "typed", steady: bool | None = None) -> "AtWork":
        for path, text in texts.items():
            number = len(self.entries) + 1
            self.entries.append(Entry(uuid.uuid4(), number, path, text, source=source, who="Ines", steady=steady))
        return self

    def rows(self, name: str, *rows: dict[str, str]) -> "AtWork":
        """Rows of a list, each by its texts; row names follow on from those that are there."""
        begun = len({entry.path.split(".")[1] for entry in self.entries if entry.path.startswith(f"{name}.")})
        for number, row in enumerate(rows, begun + 1):
            self.enter({f"{name}.r{number}.{key}": text for key, text in row.items()})
        return self

    @property
    def snapshot(self) -> Snapshot:
        return assess(self.subject, self.visit, rebuilt(self.entries, parts_of(self.visit)), DAY)

    def part(self, key: str = "") -> Assessed:
        return self.snapshot.parts[key]


def loads(error: float, *references: float) -> list[dict[str, str]]:
    """Runs that read so many per cent off, in tonnes; three of 20 t where no reference is given."""
    return [
        {"reference": f"{reference} t", "indicated": f"{reference * (1 + error / 100):.5f} t"}
        for reference in references or (20.0, 20.0, 20.0)
    ]


def figure(answer: Assessment[Results], name: str) -> float | None:
    """A single result by its name, in the unit that it is given in; None where it was not worked out."""
    found = {about.key: one for about, one in answer.results.singles()}.get(name)
    return found.value if isinstance(found, Figure) else None
