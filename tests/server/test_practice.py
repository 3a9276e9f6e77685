"""Practice over HTTP: stand-ins of every kind, what is kept apart from real work, the truth afterwards, sets and how people fare."""

import uuid
from typing import Any

from django.test import Client

from beacon.bench.models import Entry
from beacon.plant.models import Reference, System
from beacon.practice.models import Practice
from beacon.records.models import Record
from tests.server.plant import PlantTestCase
from tests.server.test_closing import COMPLETE
from wary.machines import all_machines
from wary.simulators import stand_in_of, stand_ins

GIVEN_UP = COMPLETE | {"outcome": "abandoned", "reason": "just looking"}


class PracticeTestCase(PlantTestCase):
    def begin(self, fault: str = "none", kind: str = "belt", client: Client | None = None, **more: Any) -> str:
        asked = "&".join(f"{key}={value}" for key, value in {"kind": kind, "seed": 3, "fault": fault, **more}.items())
        answer = self.send(f"/api/practice?{asked}", {}, client)
        self.assertEqual(answer.status_code, 201, answer.content)
        return str(answer.json()["id"])

    def act(self, job: str, what: str, figure: float = 0.0) -> Any:
        return self.send(f"/api/jobs/{job}/stand-in", {"what": what, "figure": figure})

    def shown(self, job: str, seconds: float = 60) -> dict[str, Any]:
        live = self.act(job, "skip", seconds).json()
        return {one["key"]: one for one in live["readouts"]}

    def close(self, job: str, asked: dict[str, str] = GIVEN_UP, client: Client | None = None) -> dict[str, Any]:
        answer = self.send(f"/api/jobs/{job}/close", asked, client)
        self.assertEqual(answer.status_code, 200, answer.content)
        return dict((client or self.client).get(f"/api/jobs/{job}/truth").json())

    def write(self, job: str, **texts: str) -> None:
        batch = [
            {
                "id": str(uuid.uuid4()),
                "path": path.replace("__", "."),
                "text": text,
                "source": "captured",
                "raw": "weight=1",
            }
            for path, text in texts.items()
        ]
        answer = self.send(f"/api/jobs/{job}/entries", batch).json()
        self.assertEqual(answer["refused"], [])


class Practising(PracticeTestCase):
    def test_a_practice_is_told_apart_and_never_sealed(self) -> None:
        job = self.begin()
        self.assertTrue(self.client.get(f"/api/jobs/{job}").json()["practice"])
        names = [system["name"] for system in self.client.get("/api/round").json()["systems"]]
        self.assertEqual(names, ["Conveyor"])
        self.assertEqual(self.client.get(f"/api/jobs/{job}/truth").status_code, 409)
        truth = self.close(job)
        self.assertEqual(Record.objects.count(), 0)
        self.assertEqual((truth["fault"], truth["right"], truth["good"]), ("none", "leave", False))
        self.assertIn("Left alone, rightly. But: nothing was weighed", truth["verdict"])

    def test_every_kind_can_be_begun_worked_and_closed(self) -> None:
        for kind in all_machines():
            machine = stand_in_of(all_machines()[kind])
            with self.subTest(kind):
                job = self.begin(kind=kind)
                told = self.client.get(f"/api/jobs/{job}/stand-in").json()
                self.assertEqual([one["name"] for one in told["controls"]], [one.name for one in machine.controls])
                self.assertTrue(told["handed_over"])
                for control in told["controls"]:
                    self.assertEqual(self.act(job, control["does"], control["figure"] or 1).status_code, 200)
                for scale in told["scales"]:
                    answer = self.send(f"/api/jobs/{job}/stand-in/ticket?scale={scale['name']}", {})
                    self.assertTrue(answer.json()["figures"])
                truth = self.close(job)
                self.assertEqual(truth["kind"], all_machines()[kind].title)
                self.assertGreaterEqual(len(truth["rows"]), len(told["controls"]))

    def test_its_machine_and_reference_are_listed_nowhere_else(self) -> None:
        self.begin(kind="vessel")
        names = [one["name"] for one in self.client.get("/api/references").json()]
        self.assertNotIn("Practice weighbridge", names)
        found = Reference.objects.get(name="Practice weighbridge")
        self.assertTrue(found.practice)
        real = str(self.plant.job().id)
        entry = {"id": "5d3f0b7e-6a55-4d8e-9f3a-0a3f5f0b7e70", "path": "references.r2.id", "text": str(found.id)}
        self.assertEqual(len(self.send(f"/api/jobs/{real}/entries", [entry]).json()["refused"]), 1)
        machine = System.objects.get(practice=True)
        opened = self.send("/api/jobs", {"system": str(machine.id)})
        self.assertEqual(opened.status_code, 422)
        self.assertIn("practice page", opened.json()["errors"][0]["text"])

    def test_an_hour_can_be_skipped_and_the_plates_stay_those_of_the_stand_in(self) -> None:
        job = self.begin()
        self.act(job, "run")
        self.act(job, "feed", 200)
        shown = self.shown(job, 300)
        self.assertAlmostEqual(shown["total"]["value"], 200 * 300 / 3600, 0)
        ticket = self.send(f"/api/jobs/{job}/stand-in/ticket", {}).json()
        gross, tare = (float(figure["text"]) for figure in ticket["figures"])
        self.assertAlmostEqual(gross - tare, 16.7, 0)
        machine = System.objects.get(practice=True)
        machine.plates = {}
        machine.save()
        self.begin()
        machine.refresh_from_db()
        self.assertEqual(machine.plates["belt_speed"], "2 m/s")
        self.assertEqual(System.objects.filter(practice=True).count(), 1)

    def test_what_cannot_be_done_is_said(self) -> None:
        job = self.begin(kind="grader")
        self.assertEqual(self.act(job, "explode").status_code, 422)
        nowhere = self.send(f"/api/jobs/{job}/stand-in/ticket", {})
        self.assertEqual((nowhere.status_code, "no outside scale" in nowhere.json()["errors"][0]["text"]), (422, True))
        self.assertEqual(self.send("/api/practice?kind=ghost", {}).status_code, 422)
        self.close(job)
        self.assertEqual(self.act(job, "batch").status_code, 409)
        vessel = self.begin(kind="vessel")
        wrong = self.send(f"/api/jobs/{vessel}/stand-in/ticket?scale=moon", {})
        self.assertIn("expected one of ticket", wrong.json()["errors"][0]["text"])

    def test_a_factor_touched_over_a_fault_is_not_good(self) -> None:
        job = self.begin("wind")
        self.act(job, "key", 1.3)
        truth = self.close(job)
        self.assertFalse(truth["good"])
        self.assertIn("hides it", truth["verdict"])

    def test_cells_stand_in_the_job_so_that_each_is_read_beside_its_label(self) -> None:
        fields = self.client.get(f"/api/jobs/{self.begin(kind='vessel')}").json()["fields"]
        labels = {field["text"] for path, field in fields.items() if path.endswith(".label")}
        self.assertEqual(labels, {"1", "2", "3"})

    def test_a_level_draws_states_no_harder_than_it(self) -> None:
        for level, most in (("easy", {"easy"}), ("fair", {"easy", "fair"})):
            for _ in range(6):
                answer = self.send(f"/api/practice?kind=cart&level={level}", {}).json()
                practice = Practice.objects.get(job=answer["id"])
                self.assertIn(stand_ins()["cart"].faults[practice.fault].level, most)
                self.assertEqual(practice.level, level)

    def test_without_a_kind_any_is_drawn(self) -> None:
        kinds = {self.send("/api/practice", {}).json()["system"]["kind_name"] for _ in range(5)}
        self.assertLessEqual(kinds, {machine.title for machine in all_machines().values()})


class Afterwards(PracticeTestCase):
    def platform(self, fault: str) -> str:
        """A pass on the stand-in platform, captured as it shows."""
        job = self.begin(fault, "platform")
        zero = self.shown(job)["weight"]["capture"]
        self.act(job, "load", 1000)
        span = self.shown(job)["weight"]["capture"]
        self.act(job, "off")
        after = self.shown(job)["weight"]["capture"]
        self.write(job, inputs__test_load="1000 kg")
        self.write(job, passes__p1__zero=f"{zero} kg")
        self.write(job, passes__p1__span=f"{span} kg")
        self.write(job, passes__p1__zero_after=f"{after} kg")
        return job

    def test_the_story_tells_what_was_done_and_when_it_could_have_been_known(self) -> None:
        job = self.platform("frame")
        self.act(job, "free")
        truth = self.close(job, COMPLETE | {"outcome": "left-for-repair", "fault": "frame", "told": "Wilma", "loose_reason": "left"})  # fmt: skip
        words = [row["words"] for row in truth["rows"]]
        self.assertIn("Put on 1000 kg", words)
        self.assertIn("Free the frame", words)
        self.assertTrue(any(word.startswith("Passes 1, shown with the load on: ") for word in words), words)
        self.assertEqual([row["at"] for row in truth["rows"]], sorted(row["at"] for row in truth["rows"]))
        said = [row["call"] for row in truth["rows"] if row["kind"] == "said"]
        self.assertIn("adjust", said)
        # What was written before a minute was skipped stands before what was written after it.
        wrote = [row["at"] for row in truth["rows"] if row["kind"] == "wrote"]
        self.assertTrue(all(at >= 180 for at in wrote), wrote)
        self.assertTrue(truth["good"])
        # The call was to adjust; that the zero had moved is where the fault showed.
        self.assertEqual([row["call"] for row in truth["rows"] if row["known"]], ["adjust"])
        self.assertIn("with the load off again", truth["known"])

    def test_what_never_showed_is_said_with_the_sign_to_look_for(self) -> None:
        truth = self.close(self.begin("corner", "platform"))
        self.assertIn("never came to it", truth["known"])
        self.assertIn(truth["sign"], truth["known"])
        self.assertFalse(any(row["known"] for row in truth["rows"]))

    def test_the_moment_at_which_it_could_have_been_known_is_the_entry_that_made_the_call(self) -> None:
        truth = self.close(self.platform("none"))
        marked = [row for row in truth["rows"] if row["known"]]
        self.assertEqual([row["call"] for row in marked], ["leave"])
        self.assertIn("It could have been known after", truth["known"])

    def test_the_same_seed_again_is_the_same_machine(self) -> None:
        job = self.platform("out")
        first = self.close(job)
        again = self.send(f"/api/practice?again={job}", {})
        self.assertEqual(again.status_code, 201)
        second = self.close(str(again.json()["id"]))
        for key in ("seed", "fault", "right_figure", "kind"):
            self.assertEqual(first[key], second[key])

    def test_one_that_is_open_is_not_begun_again_and_another_s_is_not_there(self) -> None:
        job = self.begin()
        self.assertEqual(self.send(f"/api/practice?again={job}", {}).status_code, 409)
        stranger = self.signed_in(self.other.technician)
        self.assertEqual(self.send(f"/api/practice?again={job}", {}, stranger).status_code, 404)

    def test_the_line_that_was_captured_stands_in_the_trail(self) -> None:
        job = self.platform("none")
        trail = self.client.get(f"/api/jobs/{job}/entries").json()
        self.assertEqual({row["raw"] for row in trail if row["source"] == "captured"}, {"weight=1"})
        self.assertEqual(Entry.objects.filter(raw="").exclude(source="captured").count(), Entry.objects.exclude(source="captured").count())  # fmt: skip

    def test_decisions_are_told_one_by_one(self) -> None:
        truth = self.close(self.platform("out"))
        self.assertEqual(
            {row["decision"]: row["right"] for row in truth["judged"]},
            {"put-right": False, "enough": False, "proved": True, "time": True},
        )
        self.assertIn("factor ", truth["right_figure"])
