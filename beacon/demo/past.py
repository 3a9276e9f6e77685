"""Writing a demo's past: jobs entered and closed as a technician would have, at times gone by."""

import datetime
import uuid
from typing import Any

from beacon.attachments.keeping import keep_attachment
from beacon.bench.keeping import Sent, enter
from beacon.bench.models import Job
from beacon.bench.opening import open_job
from beacon.bench.revisions import snapshot_of
from beacon.people.models import Person
from beacon.plant.models import Channel
from beacon.records.sealing import close
from wary.job.assess import Snapshot
from wary.job.closing import Asked, Outcome
from wary.job.places import LOOKED, joined
from wary.machines.machine import Part
from wary.methods import all_methods
from wary.methods.steps import Look
from wary.rules.assessment import KEEP_TESTING
from wary.suspects.suspect import FINE

MOST_LOOKS = 12


class Past:
    """One job of the past on a channel, a visit or one method; entries come a minute and a half apart."""

    def __init__(
        self, who: Person, channel: Channel, method: str, at: datetime.datetime, occasion: str = "routine"
    ) -> None:
        self.who, self.clock = who, at
        visit = channel.system.machine.visit if method == "visit" else (Part("", method),)
        self.job: Job = open_job(who, channel, visit, occasion, at=at).job

    @property
    def snapshot(self) -> Snapshot:
        """The job as it stands."""
        return snapshot_of(self.job)

    def enter(self, given: dict[str, str], unit: str = "") -> "Past":
        """Enters texts at paths."""
        entries = []
        fields = self.snapshot.fold.fields
        for path, text in given.items():
            self.clock += datetime.timedelta(seconds=90)
            seen = fields.get(path)
            supersedes = uuid.UUID(seen.id) if seen else None
            entries.append(Sent(uuid.uuid4(), path, text, unit, supersedes=supersedes, at=self.clock))
        kept = enter(self.who, self.job.id, entries)
        self.job = kept.job
        if kept.refused:
            raise ValueError(f"the demo's own entries were refused: {kept.refused}")
        return self

    def look(self, *loose: str, parts: tuple[str, ...] = ("",)) -> "Past":
        """Ticks what there is to look at and confirms the cautions; only the loose ends named are opened."""
        texts = {}
        for one in self.job.parts:
            part = one.key
            if part not in parts:
                continue
            for step in all_methods()[one.method].steps:
                for item in step.items:
                    if isinstance(step, Look) and (item.loose_end is None or item.key in loose):
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

    def photograph(self, path: str, picture: bytes, name: str, on_certificate: bool = False) -> "Past":
        """Keeps a photograph beside what it belongs to."""
        paper = keep_attachment(self.who, self.job, picture, id=uuid.uuid4(), name=name, path=path, at=self.clock)
        if on_certificate:
            paper.on_certificate = True
            paper.save(update_fields=["on_certificate"])
        return self

    def zero(self, part: str, idle: list[float], new: str) -> "Past":
        """An empty belt: the change of the total over each reading in kg, and the zero that it found."""
        self.look(parts=(part,))
        self.rows(f"{part}/idle", [{"value": f"{change:g} kg"} for change in idle])
        return self.enter({f"{part}/inputs.new_zero": new})

    def close(self, outcome: Outcome = "complete", **more: str) -> Job:
        """Closes the job, six minutes after its last entry; what is worth a look before it is looked at, and
        in order."""
        for _ in range(MOST_LOOKS):
            asked = self.snapshot.machine
            if outcome != "complete" or asked.call != KEEP_TESTING or asked.next_look is None:
                break
            self.enter({f"{LOOKED}.{asked.next_look.look.key}": FINE})
        self.clock += datetime.timedelta(minutes=6)
        self.job, _ = close(self.who, self.job, Asked(str(self.who), outcome, **more), at=self.clock)
        return self.job


def loads(pairs: list[tuple[Any, ...]]) -> list[dict[str, str]]:
    """Runs from (gross, tare, indicated) or (gross, tare, indicated, why it was set aside), in tonnes."""
    rows = []
    for pair in pairs:
        row = {"gross": f"{pair[0]} t", "tare": f"{pair[1]} t", "indicated": f"{pair[2]} t"}
        rows.append(row | ({"set_aside": pair[3]} if len(pair) > 3 else {}))
    return rows
