"""A job on a device: typed one by one it is what it is at the server, and what the server says is taken in between."""

import datetime
import json
import random
import unittest
import uuid
from typing import Any

from tests.core.test_worked import at_work, begun
from tests.core.visit import DAY, AtWork, loads
from tests.worked import WORKED
from wary.device import Device
from wary.job.device import settled, taken, typed, whole
from wary.job.models import Bench
from wary.job.subject import Subject
from wary.job.view import bench
from wary.log import Entry
from wary.machines import all_machines
from wary.references import ReferenceOnRecord, Weight
from wary.rules.drift import Moved

AT = "2031-05-04T09:00:00+00:00"
SCALE = ReferenceOnRecord("scale", "Weighbridge", "C-1", "2032-01-01", "60 t", "20 kg", "0.05 %")
SET = ReferenceOnRecord("weights", "Set", weights=(Weight("A", "20 kg", "1 g"), Weight("B", "20 kg", "1 g")))


def row(path: str, text: str, **more: Any) -> dict[str, Any]:
    return {"id": str(uuid.uuid4()), "path": path, "text": text, "at": AT, "who": "Ines"} | more


def rows_of(texts: dict[str, str]) -> list[dict[str, Any]]:
    return [row(path, text) for path, text in texts.items()]


def numbered(rows: list[dict[str, Any]], begin: int = 1) -> list[dict[str, Any]]:
    return [one | {"sequence": place} for place, one in enumerate(rows, begin)]


def document(job: AtWork, log: list[dict[str, Any]]) -> dict[str, Any]:
    return {
        "subject": job.subject.as_document(),
        "visit": [vars(part) for part in job.visit],
        "entries": log,
        "references": {"scale": SCALE.as_document(), "set": SET.as_document()},
    }


def logged(entries: list[Entry]) -> list[dict[str, Any]]:
    return [
        row(one.path, one.text, id=str(one.entry_id), who=one.who, source=one.source, at=one.at.isoformat())
        for one in entries
    ]


def as_json(view: Bench) -> Any:
    return json.loads(view.model_dump_json())


class TypedOnADevice(unittest.TestCase):
    def test_every_method_comes_to_the_same_bench_entry_by_entry(self) -> None:
        for one in WORKED:
            with self.subTest(one.method):
                job = begun(one)
                held = taken(json.loads(json.dumps(document(job, logged(job.entries)))), DAY)
                for path, text in one.texts.items():
                    typed(
                        held,
                        [row(path, text, who="Ines", at=job.entries[0].at.isoformat() if job.entries else AT)],
                        DAY,
                    )
                whole_job = at_work(one)
                self.assertEqual(held.snapshot.machine.call, whole_job.snapshot.machine.call)
                self.assertEqual(_without_ids(held.view), _without_ids(bench(whole_job.snapshot)))

    def test_what_changed_makes_the_bench_that_it_is(self) -> None:
        job = AtWork("belt", "belt-material-test")
        device = Device()
        taken_in = device.call("take", json.dumps({"job": "j", "document": document(job, []), "day": str(DAY), "show": True}))  # fmt: skip
        shown = json.loads(taken_in)["machine"]
        for one in loads(1.4, 20, 21, 19):
            for key, text in one.items():
                said = json.loads(device.call("enter", json.dumps({"job": "j", "entries": [row(f"runs.r{one['reference'][:2]}.{key}", text)], "day": str(DAY)})))  # fmt: skip
                shown |= said["changes"].get("machine", {})
        self.assertEqual((said["stage"], said["entries"]), ("as-found", 6))
        call = device.jobs["j"].snapshot.machine
        self.assertEqual((shown["call"], shown["headline"], shown["lead"]), (call.call, call.headline, call.lead))
        self.assertNotIn("fields", json.loads(device.call("settle", json.dumps({"job": "j", "kept": [], "refused": [], "log": [], "day": str(DAY)})))["changes"])  # fmt: skip

    def test_a_subject_comes_back_from_its_document(self) -> None:
        machine = all_machines()["belt"]
        whole_one = Subject(machine, {"rated_rate": "350 t/h"}, {"name": machine.profile}, moved=Moved(0.4, 5, 0.1), found={"frame": 1.0}, repaired=("frame",), drifts=True)  # fmt: skip
        self.assertEqual(Subject.of_document(json.loads(json.dumps(whole_one.as_document()))), whole_one)


class TakenBack(unittest.TestCase):
    def test_what_takes_back_an_entry_that_is_refused_goes_with_it(self) -> None:
        held = taken(document(AtWork("belt", "belt-material-test"), []), DAY)
        first = row("note", "wet")
        typed(held, [first], DAY)
        typed(held, [row("note", "", supersedes=first["id"], undoes=True)], DAY)
        settled(held, [], [first["id"]], [], DAY)
        self.assertEqual((held.log, dict(held.fold.fields)), ([], {}))


class NamingAReference(unittest.TestCase):
    def setUp(self) -> None:
        self.held = taken(document(AtWork("belt", "belt-material-test"), []), DAY)

    def test_its_figures_are_entered_under_ids_that_come_from_the_entry_that_names_it(self) -> None:
        naming = row("references.r1.id", "scale")
        typed(self.held, [naming], DAY)
        texts = {one.path: one for one in self.held.log}
        self.assertEqual(texts["inputs.reference_division"].text, "20 kg")
        self.assertEqual(texts["inputs.reference_division"].source, "record")
        known = uuid.uuid5(uuid.UUID(naming["id"]), "inputs.reference_division")
        self.assertEqual(texts["inputs.reference_division"].entry_id, known)

    def test_a_second_one_leaves_alone_what_is_there(self) -> None:
        typed(self.held, [row("references.r1.id", "scale"), row("references.r2.id", "set")], DAY)
        self.assertEqual(sum(one.path == "inputs.reference_division" for one in self.held.log), 1)

    def test_one_that_is_not_at_hand_brings_nothing(self) -> None:
        typed(self.held, [row("references.r1.id", "unknown")], DAY)
        self.assertEqual(len(self.held.log), 1)

    def test_refused_it_takes_what_followed_with_it(self) -> None:
        naming = row("references.r1.id", "scale")
        typed(self.held, [naming], DAY)
        settled(self.held, [], [naming["id"]], [], DAY)
        self.assertEqual(self.held.log, [])


class WhatTheServerSays(unittest.TestCase):
    def setUp(self) -> None:
        self.job = AtWork("belt", "belt-material-test")
        self.before = rows_of({"runs.r1.reference": "20 t", "runs.r1.indicated": "20.3 t"})
        self.held = taken(document(self.job, self.before), DAY)
        self.mine = rows_of({"runs.r2.reference": "21 t", "runs.r2.indicated": "21.3 t", "note": "wet"})
        typed(self.held, self.mine, DAY)

    def fits(self, log: list[dict[str, Any]]) -> None:
        """The bench is the one that this log comes to."""
        self.assertEqual(as_json(self.held.view), as_json(taken(document(self.job, log), DAY).view))

    def test_what_is_kept_as_it_was_typed_changes_nothing(self) -> None:
        changed = settled(self.held, [one["id"] for one in self.mine[:2]], [], [], DAY)
        self.assertEqual(changed.model_fields_set, set())
        self.assertEqual((self.held.kept, len(self.held.waiting)), (4, 1))

    def test_what_another_entered_stands_where_the_server_has_it(self) -> None:
        theirs = row("runs.zz.reference", "19 t", who="Corin", sequence=3)
        changed = settled(self.held, [one["id"] for one in self.mine[:2]], [], [theirs], DAY)
        self.assertIn("runs.zz.reference", changed.fields)
        self.fits([*self.before, theirs, *self.mine])
        self.assertEqual((self.held.kept, len(self.held.waiting)), (5, 1))

    def test_what_is_refused_is_gone(self) -> None:
        settled(self.held, [self.mine[0]["id"]], [self.mine[1]["id"]], [], DAY)
        self.fits([*self.before, self.mine[0], self.mine[2]])

    def test_two_at_one_place_are_a_clash_as_at_the_server(self) -> None:
        theirs = row("note", "dry", who="Corin", sequence=3)
        settled(self.held, [one["id"] for one in self.mine], [], [theirs], DAY)
        self.assertTrue(self.held.view.fields["note"].clash)
        self.fits([*self.before, theirs, *self.mine])

    def test_what_was_kept_before_and_is_sent_again_stands_once(self) -> None:
        """The answer was lost on its way: the server has it, and another's after it."""
        theirs = row("runs.zz.reference", "19 t", who="Corin", sequence=4)
        settled(self.held, [one["id"] for one in self.mine], [], [theirs], DAY)
        self.fits([*self.before, self.mine[0], theirs, *self.mine[1:]])

    def test_taken_back_before_it_was_kept(self) -> None:
        undo = row("note", "", undoes=True, supersedes=self.mine[2]["id"])
        typed(self.held, [undo], DAY)
        self.assertEqual(self.held.view.fields["note"].text, "")
        self.fits([*self.before, *self.mine, undo])

    def test_in_whatever_order_it_comes_it_is_what_the_server_has(self) -> None:
        """A hundred small stories: typing, others typing, answers in part, and in the end the server's own log."""
        for seed in range(100):
            chance = random.Random(seed)
            server, waiting = list(self.before), list[dict[str, Any]]()
            held, known = taken(document(self.job, server), DAY), len(server)
            for _ in range(12):
                what = chance.choice(("type", "type", "other", "answer"))
                if what == "type":
                    one = row(
                        f"runs.r{chance.randint(1, 4)}.{chance.choice(('reference', 'indicated'))}",
                        f"{chance.randint(18, 22)} t",
                    )
                    waiting.append(one)
                    typed(held, [one], DAY)
                elif what == "other":
                    server.append(row(f"runs.o{chance.randint(1, 2)}.reference", "20 t", who="Corin"))
                else:
                    sent = waiting[: chance.randint(0, len(waiting))]
                    waiting = waiting[len(sent) :]
                    server += sent
                    ids = {one["id"] for one in sent}
                    others = [one for one in numbered(server)[known:] if one["id"] not in ids]
                    known = len(server)
                    settled(held, [one["id"] for one in sent], [], others, DAY)
                    self.assertEqual(held.kept, len(server), seed)
            self.assertEqual(as_json(held.view), as_json(taken(document(self.job, [*server[:known], *waiting]), DAY).view), seed)  # fmt: skip


class AnotherDay(unittest.TestCase):
    def test_a_job_that_goes_on_after_midnight_is_judged_on_that_day(self) -> None:
        job = AtWork("belt", "belt-material-test")
        held = taken(document(job, [row("references.r1.due", "2031-05-04"), row("references.r1.name", "X")]), DAY)
        typed(held, [row("note", "on")], DAY + datetime.timedelta(days=1))
        self.assertEqual(held.snapshot.day, DAY + datetime.timedelta(days=1))

    def test_all_that_a_bench_is_drawn_from(self) -> None:
        held = taken(document(AtWork("belt"), []), DAY)
        self.assertLessEqual({"methods", "sheet", "look_first", "read_off", "parts", "machine"}, whole(held).keys())

    def test_an_entry_keeps_what_it_says(self) -> None:
        one = Entry.of_json(row("note", "x", supersedes=str(uuid.uuid4()), steady=True, unit="kg"), 7)
        self.assertEqual((one.sequence, one.unit, one.steady), (7, "kg", True))


def _without_ids(view: Bench) -> Any:
    found = as_json(view)
    for one in found["fields"].values():
        for key in ("id", "at"):
            one[key] = ""
        if one["previous"]:
            one["previous"] |= {"id": "", "at": ""}
    return found
