"""Practice on a device: every stand-in is begun, acted on, looked at and weighed there, and comes back as it was kept."""

import json
import random
import unittest
import uuid
from typing import Any

from wary.device import Device
from wary.job.evidence import looks_of
from wary.job.subject import Subject
from wary.machines import all_machines
from wary.practising import MOST_ACTIONS, Practising, drawn, kinds
from wary.simulators import stand_in_of
from wary.simulators.stand_in import LEVELS, SKIP

AT = "2031-05-04T09:00:00+00:00"


def opening_of(kind: str) -> dict[str, Any]:
    """What a visit to a machine of a kind is opened with."""
    machine = all_machines()[kind]
    subject = Subject(machine, profile={"name": machine.profile}).as_document()
    return {"subject": subject, "visit": [vars(part) for part in machine.visit], "references": {}, "first": []}


def begun(device: Device, kind: str, level: str = "easy") -> tuple[str, dict[str, Any]]:
    """A practice of a kind on a device."""
    job = str(uuid.uuid4())
    said = {"job": job, "kind": kind, "level": level, "opening": opening_of(kind)}
    said |= {"who": "Ines", "at": AT, "day": "2031-05-04"}
    return job, json.loads(device.call("practise", json.dumps(said)))


class OnADevice(unittest.TestCase):
    def setUp(self) -> None:
        self.device = Device()

    def ask(self, act: str, job: str, **said: Any) -> Any:
        return json.loads(self.device.call(act, json.dumps({"job": job} | said)))

    def test_every_kind_is_practised_on(self) -> None:
        for kind in kinds():
            with self.subTest(kind):
                job, found = begun(self.device, kind)
                self.assertTrue(found["bench"]["methods"])
                told = self.ask("stand_in", job, practice=found["practice"])
                self.assertTrue(told["controls"] and told["handed_over"])
                self.assertTrue(self.ask("live", job, elapsed=1.0)["readouts"])
                control = told["controls"][0]
                live = self.ask("act", job, what=control["does"], figure=control["figure"] or 0, elapsed=2.0)
                self.assertTrue(live["readouts"])
                look = next(iter(looks_of(all_machines()[kind])))
                self.assertIn(self.ask("look", job, at=look, elapsed=3.0)["result"], ("fine", "not-fine"))
                if told["scales"]:
                    self.ask("ticket", job, scale=told["scales"][0]["name"], elapsed=4.0)
                kept = self.ask("practised", job)
                self.assertGreaterEqual(len(kept["actions"]), 3)
                # As it was kept it shows the same, on whatever device.
                other = Practising.of_document(json.loads(json.dumps(kept)))
                self.assertEqual(other.live(9.0).model_dump(), self.device.practices[job].live(9.0).model_dump())

    def test_what_is_skipped_counts_to_its_clock(self) -> None:
        one = Practising("belt", 7, next(iter(stand_in_of(all_machines()["belt"]).faults)), "easy")
        one.act(SKIP, 60.0, 1.0)
        self.assertEqual((one.skipped, one.actions[0].at), (60.0, 1.0))
        one.act(SKIP, 1e9, 2.0)
        self.assertEqual((one.skipped, one.actions[1].at), (3660.0, 62.0))

    def test_what_may_not_be_done_says_what_may(self) -> None:
        one = Practising.begun("platform", "easy")
        for ask in (lambda: one.act("fly", 0, 1.0), lambda: one.look("moon", 1.0), lambda: one.ticket("none", 1.0)):
            with self.assertRaises(ValueError):
                ask()
        self.assertEqual(one.actions, [])
        one.actions = one.act(SKIP, 1, 1.0) and one.actions * MOST_ACTIONS
        with self.assertRaisesRegex(ValueError, "at most"):
            one.act(SKIP, 1, 2.0)

    def test_a_document_that_is_none_is_refused(self) -> None:
        good = Practising.begun("platform", "fair").as_document()
        for wrong in ({"kind": "rocket"}, {"fault": "none of it"}, {"actions": [{"at": 5, "what": "x"}, {"at": 1, "what": "x"}]}):  # fmt: skip
            with self.assertRaises(ValueError):
                Practising.of_document(good | wrong)
        self.assertEqual(Practising.of_document(good).as_document(), good)

    def test_what_is_drawn_is_no_harder_than_asked(self) -> None:
        for level in LEVELS:
            for seed in range(40):
                fault = drawn("belt", level, random.Random(seed))
                found = stand_in_of(all_machines()["belt"]).faults[fault].level
                self.assertLessEqual(LEVELS.index(found), LEVELS.index(level))


class Sums(unittest.TestCase):
    def test_every_sum_is_worked_out_from_its_example(self) -> None:
        device = Device()
        for one in json.loads(device.call("sums", "{}")):
            with self.subTest(one["key"]):
                given = {key: {"text": text, "unit": ""} for key, text in one["example"].items()}
                answer = json.loads(device.call("sum", json.dumps({"key": one["key"], "given": given})))
                self.assertTrue(answer["lines"])
                self.assertEqual(answer["problems"], {})
