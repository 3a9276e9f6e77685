"""Writing a demo's past: jobs entered and closed as a technician would have, at times gone by."""

import datetime
import uuid
from typing import Any

from beacon.bench.document import Assessed
from beacon.bench.keeping import Given, keep, open_job
from beacon.bench.models import Job
from beacon.bench.paths import joined
from beacon.people.models import Person
from beacon.plant.models import Channel
from beacon.records.sealing import Closing, close
from wary.methods import all_methods
from wary.visits import VISITS


class Past:
    """One job of the past on a channel, a visit or one method; entries come a minute and a half apart."""

    def __init__(
        self, who: Person, channel: Channel, method: str, at: datetime.datetime, occasion: str = "routine"
    ) -> None:
        self.who, self.clock = who, at
        visit = None
        if method == "visit":
            visit = [part.as_json() for part in VISITS[channel.system.kind]]
            method = next(part.method for part in VISITS[channel.system.kind] if not part.key)
        self.job: Job = open_job(who, channel, method, occasion, at=at, visit=visit).job

    def enter(self, given: dict[str, str], unit: str = "") -> "Past":
        """Enters texts at paths."""
        entries = []
        for path, text in given.items():
            self.clock += datetime.timedelta(seconds=90)
            seen = self.job.fold["fields"].get(path)
            supersedes = uuid.UUID(seen["id"]) if seen else None
            entries.append(Given(uuid.uuid4(), path, text, unit, supersedes=supersedes, at=self.clock))
        kept = keep(self.who, self.job, entries)
        if kept.refused:
            raise ValueError(f"the demo's own entries were refused: {kept.refused}")
        return self

    def look(self, *loose: str, parts: tuple[str, ...] = ("",)) -> "Past":
        """Ticks what there is to look at and confirms the cautions; only the loose ends named are opened."""
        texts = {}
        for part, method in self.job.parts:
            if part not in parts:
                continue
            for step in all_methods()[method].steps:
                for item in step.items:
                    if item.key != "stored" and (item.loose_end is None or item.key in loose):
                        texts[joined(part, f"tick.{step.key}.{item.key}")] = "yes"
                if step.cautions:
                    texts[joined(part, f"caution.{step.key}")] = "yes"
        return self.enter(texts)

    def rows(self, name: str, rows: list[dict[str, str]]) -> "Past":
        """Enters the rows of a list, `row` naming one that is there already; other keys as they are."""
        texts: dict[str, str] = {}
        for number, row in enumerate(rows, 1):
            name_of_row = row.get("row", f"d{number}")
            texts |= {f"{name}.{name_of_row}.{key}": text for key, text in row.items() if key != "row"}
        return self.enter(texts)

    def zero(self, part: str, idle: list[float], new: str) -> "Past":
        """An empty belt: the change of the total over each reading in kg, and the zero that it found."""
        self.look(parts=(part,))
        self.rows(f"{part}/idle", [{"value": f"{change:g} kg"} for change in idle])
        return self.enter({f"{part}/inputs.new_zero": new})

    def close(self, outcome: str = "complete", reason: str = "", loose_reason: str = "") -> tuple[Job, Assessed]:
        self.clock += datetime.timedelta(minutes=6)
        return close(self.who, self.job, Closing(str(self.who), outcome, reason, loose_reason, at=self.clock))


def loads(pairs: list[tuple[Any, ...]]) -> list[dict[str, str]]:
    """Runs from (gross, tare, indicated) or (gross, tare, indicated, why it was set aside), in tonnes."""
    rows = []
    for pair in pairs:
        row = {"gross": f"{pair[0]} t", "tare": f"{pair[1]} t", "indicated": f"{pair[2]} t"}
        rows.append(row | ({"set_aside": pair[3]} if len(pair) > 3 else {}))
    return rows
