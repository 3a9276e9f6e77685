"""What a device asks of the core, in JSON: jobs as they are typed, sums, and practice on stand-ins."""

import datetime
import json
import uuid
from typing import Any

from pydantic import TypeAdapter

from wary.fields import OCCASIONS
from wary.job.assess import Stage
from wary.job.closing import Asked, closed_as, in_the_way
from wary.job.device import Held, opening_id, settled, taken, typed, whole
from wary.job.file import answered
from wary.job.models import Bench, Changes, Layout, Partial
from wary.job.written import written
from wary.practising import Practising, told_of
from wary.sums import SUMS

TOLD: TypeAdapter[Any] = TypeAdapter(Any)


class Device:
    """The jobs that a device has in hand, called with JSON and answering in JSON. Raises KeyError for a job that it has not."""

    def __init__(self) -> None:
        self.jobs: dict[str, Held] = {}
        self.practices: dict[str, Practising] = {}

    def call(self, name: str, said: str) -> str:
        """Does what is asked: `name` is one of its acts, `said` its arguments by name."""
        return str(ACTS[name](self, **json.loads(said)))

    def take(self, job: str, document: dict[str, Any], day: str, show: bool = False) -> str:
        """Takes a job in hand, as the server or this device has it; answers with the whole bench where it is to be shown."""
        held = self.jobs[job] = taken(document, datetime.date.fromisoformat(day))
        if not show:
            return "{}"
        return BenchWhole(**whole(held), stage=held.snapshot.stage).model_dump_json()

    def enter(self, job: str, entries: list[dict[str, Any]], day: str) -> str:
        """What is typed, and what is other than before."""
        held = self.jobs[job]
        changed = typed(held, entries, datetime.date.fromisoformat(day))
        return _answer(held, changed)

    def settle(self, job: str, kept: list[str], refused: list[str], log: list[dict[str, Any]], day: str) -> str:
        """What the server said of what waited, and what is other than shown."""
        held = self.jobs[job]
        return _answer(held, settled(held, kept, refused, log, datetime.date.fromisoformat(day)))

    def open(self, job: str, opening: dict[str, Any], occasion: str, who: str, at: str, day: str) -> str:
        """Opens a job on this device, as the server would; answers with its bench, its log and the words of its occasion."""
        first = [*opening["first"], ["occasion", occasion, "typed"]]
        log = [
            {
                "id": str(opening_id(uuid.UUID(job), path)),
                "path": path,
                "text": text,
                "source": source,
                "who": who,
                "at": at,
            }
            for path, text, source in first
        ]
        document = {name: opening[name] for name in ("subject", "visit", "references")} | {"entries": log}
        held = self.jobs[job] = taken(document, datetime.date.fromisoformat(day))
        answer = json.loads(BenchWhole(**whole(held), stage=held.snapshot.stage).model_dump_json())
        return json.dumps({"bench": answer, "log": log, "occasion_words": OCCASIONS.get(occasion, "")})

    def log(self, job: str) -> str:
        """What the server has of a job, as this device knows it."""
        held = self.jobs[job]
        return json.dumps([one.as_json() for one in held.log[: held.kept]])

    def last(self, job: str, who: str) -> str:
        """The last thing that somebody typed here and did not take back: its id and path, or null."""
        held = self.jobs[job]
        undone = {one.supersedes for one in held.log if one.undoes}
        own = (
            one
            for one in reversed(held.log)
            if one.who == who and one.source in ("typed", "captured") and not one.undoes and one.entry_id not in undone
        )
        found = next(own, None)
        return json.dumps(found and {"id": str(found.entry_id), "path": found.path})

    def closing(self, job: str, asked: dict[str, str]) -> str:
        """What is in the way of closing a job so, and what would be sealed: its entries and its call."""
        held = self.jobs[job]
        errors = in_the_way(held.snapshot, Asked(**asked))  # type: ignore[arg-type]
        call = held.snapshot.machine
        codes = sorted({reason.code for reason in call.reasons})
        expected = {"entries": len(held.log), "call": call.call, "headline": call.headline, "reasons": codes}
        words = closed_as(held.snapshot, asked["outcome"])  # type: ignore[arg-type]
        return json.dumps({"errors": errors, "expected": expected, "words": words})

    def file(self, job: str) -> str:
        """The job as a job file, to be kept where it cannot be sent."""
        held = self.jobs[job]
        content = dict(written(held.snapshot)) | {"trail": [one.as_json() for one in held.log]}
        return json.dumps(content, ensure_ascii=False, indent=2)

    def sums(self) -> str:
        """Every sum of the sums page."""
        return json.dumps([json.loads(one.describe().model_dump_json()) for one in SUMS.values()])

    def sum(self, key: str, given: dict[str, dict[str, str]]) -> str:
        """A sum worked out from texts as they were typed, with their units."""
        texts = {name: (one.get("text", ""), one.get("unit", "")) for name, one in given.items()}
        return SUMS[key].work_out(texts).model_dump_json()

    def practise(self, job: str, kind: str, level: str, opening: dict[str, Any], who: str, at: str, day: str) -> str:
        """Begins a practice on this device: opens its job, and draws what is hidden."""
        answer = json.loads(self.open(job, opening, "routine", who, at, day))
        practice = self.practices[job] = Practising.begun(kind, level)
        return json.dumps(answer | {"practice": practice.as_document()})

    def stand_in(self, job: str, practice: dict[str, Any]) -> str:
        """Takes a practice in hand as it was kept, and says what can be done to its stand-in."""
        held = self.practices[job] = Practising.of_document(practice)
        return str(TOLD.dump_json(told_of(held.kind, held.machine, held.level)), "utf-8")

    def live(self, job: str, elapsed: float) -> str:
        """What the stand-in of a practice shows now."""
        return self.practices[job].live(elapsed).model_dump_json()

    def act(self, job: str, what: str, figure: float, elapsed: float) -> str:
        """Does something to a stand-in."""
        return self.practices[job].act(what, figure, elapsed).model_dump_json()

    def look(self, job: str, at: str, elapsed: float) -> str:
        """Looks at something of a stand-in."""
        return json.dumps(self.practices[job].look(at, elapsed))

    def ticket(self, job: str, scale: str, elapsed: float) -> str:
        """What an outside scale prints of what stands there."""
        return str(TOLD.dump_json(self.practices[job].ticket(scale, elapsed)), "utf-8")

    def practised(self, job: str) -> str:
        """A practice with all that was done so far, to be kept."""
        return json.dumps(self.practices[job].as_document())

    def drop(self, job: str) -> str:
        """Lets go of a job."""
        self.jobs.pop(job, None)
        return "{}"

    def assess(self, text: str) -> str:
        """What the command line says of a job file."""
        return answered(text)


class BenchWhole(Bench, Layout):
    """All that a bench shows of a job."""

    stage: Stage


class Answer(Partial):
    """What of a job is other than shown, how far it is, and how many entries it has, with those that wait."""

    changes: Changes
    stage: Stage
    entries: int
    """How many entries are shown here; of them the server has `kept`."""
    kept: int


def _answer(held: Held, changed: Changes) -> str:
    return Answer(changes=changed, stage=held.snapshot.stage, entries=len(held.log), kept=held.kept).model_dump_json()


ACTS = {
    name: getattr(Device, name)
    for name in (
        "take",
        "open",
        "enter",
        "settle",
        "log",
        "last",
        "closing",
        "file",
        "sums",
        "sum",
        "practise",
        "stand_in",
        "live",
        "act",
        "look",
        "ticket",
        "practised",
        "drop",
        "assess",
    )
}
