"""The call of the machine over HTTP: on the bench, in the record and on paper; found faults; looks at a stand-in."""

import datetime
import io
import json
from typing import Any

from django.utils import timezone
from pypdf import PdfReader

from beacon.bench.models import Job
from beacon.bench.opening import open_job
from beacon.plant.models import Channel, Event, Fault, System
from beacon.records.models import Record
from tests.server.plant import AGREEING, Plant, PlantTestCase, enter, runs
from tests.server.test_closing import IN_ORDER
from tests.server.test_practice import PracticeTestCase
from wary.machines.machine import Part

REPAIR = {"signed": "x", "outcome": "left-for-repair", "told": "Corin"}


class Judged(PlantTestCase):
    def job(self, texts: dict[str, str], occasion: str = "routine") -> Job:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job", "occasion": occasion} | texts)
        return job

    def seen(self, job: Job) -> dict[str, Any]:
        return dict(self.client.get(f"/api/jobs/{job.id}").json()["machine"])

    def close(self, job: Job, asked: dict[str, str]) -> Any:
        return self.send(f"/api/jobs/{job.id}/close", asked)

    def page_of(self, url: str) -> str:
        answer = self.client.get(url)
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return " ".join(" ".join(page.extract_text().split()) for page in PdfReader(io.BytesIO(answer.content)).pages)


class OnTheBench(Judged):
    def test_a_machine_that_is_off_is_looked_at_first_and_the_round_says_so(self) -> None:
        job = self.job(runs(AGREEING))
        machine = self.seen(job)
        self.assertEqual((machine["call"], machine["headline"]), ("keep-testing", "Look first"))
        self.assertTrue(machine["looks"][0]["words"])
        job.refresh_from_db()
        self.assertEqual((job.call, job.headline), ("keep-testing", "Look first"))

    def test_a_look_is_an_entry_and_its_answer_brings_the_machine_and_no_part(self) -> None:
        job = self.job(runs(AGREEING))
        first = self.seen(job)["looks"][0]
        body = [{"id": "5f0e6c1e-0000-4000-8000-000000000001", "path": f"looked.{first['key']}", "text": "fine"}]
        changes = self.send(f"/api/jobs/{job.id}/entries", body).json()["changes"]
        # How the job may be closed says the call by its name.
        self.assertEqual(set(changes) - {"ways"}, {"fields", "machine"})
        self.assertNotIn(first["key"], [one["key"] for one in changes["machine"]["looks"]])

    def test_a_place_that_is_no_look_is_refused(self) -> None:
        job = self.job({})
        for path in ("looked.gap.more", "weights/looked.gap", "skipped.", "cured.A", "looked.corners", "cured.corner"):
            body = [{"id": "5f0e6c1e-0000-4000-8000-000000000002", "path": path, "text": "fine"}]
            self.assertTrue(self.send(f"/api/jobs/{job.id}/entries", body).json()["refused"], path)

    def test_it_is_not_complete_while_a_suspect_is_shown(self) -> None:
        job = self.job(runs(IN_ORDER) | {"looked.idlers": "not-fine"})
        answer = self.close(job, {"signed": "x", "outcome": "complete"})
        self.assertEqual(answer.status_code, 409)
        self.assertIn("An idler is seized", answer.content.decode())


class Limits(Judged):
    def test_a_lead_says_how_long_a_look_may_take_and_that_none_is_skipped(self) -> None:
        lead = self.signed_in(self.plant.lead)
        body = {"accept": "0.5 %", "repeat": "0.5 %", "minimum_runs": 3, "plausible": "10 %", "look_minutes": 3, "skip_looks": False}  # fmt: skip
        answer = lead.put("/api/profiles/belt-fine", json.dumps(body), content_type="application/json")
        self.assertEqual((answer.status_code, answer.json()["skip_looks"]), (200, False))
        machine = self.seen(self.job(runs(AGREEING)))
        self.assertFalse(machine["may_skip"])
        self.assertLessEqual(max(one["minutes"] for one in machine["looks"]), 3)
        answer = self.client.put("/api/profiles/belt-fine", json.dumps(body), content_type="application/json")
        self.assertEqual(answer.status_code, 404)


class Found(Judged):
    def test_a_job_left_for_repair_names_what_is_shown_and_the_page_of_the_system_says_when(self) -> None:
        job = self.job(runs(AGREEING) | {"looked.idlers": "not-fine", "look_noted.idlers": "the second one"})
        self.assertEqual(self.close(job, REPAIR).status_code, 200)
        fault = Fault.objects.get()
        self.assertEqual((fault.suspect, fault.put_right, fault.who), ("idler", False, self.plant.technician))
        faults = self.client.get(f"/api/systems/{self.plant.system.id}").json()["faults"]
        self.assertEqual([(one["title"], one["put_right"]) for one in faults], [(fault.title, False)])
        record = Record.objects.get(job=job)
        content = json.loads(record.content)
        self.assertEqual(content["machine"], "belt")
        self.assertEqual(content["assessment"]["machine"]["call"], "find-fault")
        self.assertEqual(content["looked"], [{"look": "idlers", "result": "not-fine", "note": "the second one"}])
        self.assertEqual(content["closing"]["fault"], "an idler is seized or out of line")
        self.assertIn("the second one", self.page_of(f"/api/records/{record.id}/certificate.pdf"))

    def test_something_that_is_no_suspect_is_kept_in_its_words(self) -> None:
        job = self.job(runs(AGREEING) | {"looked.idlers": "not-fine"})
        self.assertEqual(self.close(job, REPAIR | {"suspect": "-", "fault": "a gull's nest"}).status_code, 200)
        self.assertEqual([(one.suspect, one.title) for one in Fault.objects.all()], [("", "a gull's nest")])

    def test_what_is_put_right_in_the_visit_is_logged_and_the_comparison_after_it_counts(self) -> None:
        job = self.job(runs(AGREEING) | {"looked.idlers": "not-fine"})
        enter(job, self.plant.technician, {"cured.idler": "yes"})
        self.assertEqual(self.seen(job)["headline"], "Take it again")
        fresh = {path.replace("runs.r", "runs.s"): text for path, text in runs(IN_ORDER).items()}
        enter(job, self.plant.technician, fresh)
        self.assertEqual(self.seen(job)["call"], "leave")
        self.assertEqual(self.close(job, {"signed": "x", "outcome": "complete"}).status_code, 200)
        self.assertEqual([(one.suspect, one.put_right) for one in Fault.objects.all()], [("idler", True)])
        self.assertEqual([one.kind for one in Event.objects.all()], ["idler"])
        job.refresh_from_db()
        assert job.summary
        self.assertAlmostEqual(job.summary["error_found"], 1.42, delta=0.02)
        self.assertLess(abs(job.summary["error_left"]), 0.5)
        record = Record.objects.get(job=job)
        self.assertIn("Put right in this visit", self.page_of(f"/api/records/{record.id}/certificate.pdf"))
        self.assertIn("Put right: an idler", self.page_of(f"/api/records/{record.id}/work-sheet.pdf"))

    def test_what_was_skipped_stands_on_the_certificate_of_what_was_adjusted(self) -> None:
        job = self.job(runs(AGREEING))
        for _ in range(12):
            looks = self.seen(job)["looks"]
            if not looks:
                break
            enter(job, self.plant.technician, {f"skipped.{looks[0]['key']}": "no time before the ship"})
        self.assertEqual(self.seen(job)["call"], "adjust")
        enter(job, self.plant.technician, {"read_back": "1.1260"})
        closing = {"signed": "x", "outcome": "not-confirmed", "reason": "the ship sails", "loose_reason": "tomorrow"}
        answer = self.close(job, closing)
        self.assertEqual(answer.status_code, 200, answer.content)
        record = Record.objects.get(job=job)
        self.assertIn("no time before the ship", self.page_of(f"/api/records/{record.id}/certificate.pdf"))

    def test_after_a_repair_it_begins_with_the_look_that_would_have_shown_it(self) -> None:
        self.close(self.job(runs(AGREEING) | {"looked.idlers": "not-fine"}), REPAIR)
        after = self.job({}, "repair")
        self.assertEqual(self.seen(after)["looks"][0]["key"], "idlers")
        self.assertGreaterEqual(after.found["idler"], 1)

    def test_what_fails_most_is_counted_for_one_s_own_organisation_alone(self) -> None:
        for _ in range(2):
            self.close(self.job(runs(AGREEING) | {"looked.idlers": "not-fine"}), REPAIR)
        self.close(self.job(runs(AGREEING) | {"looked.caked": "not-fine"}), REPAIR)
        other = Plant("Other")
        Fault.objects.create(system=other.system, job=self.plant.system.id, suspect="idler", title="theirs", at=Fault.objects.all()[0].at, who=other.lead)  # fmt: skip
        answer = self.client.get("/api/faults").json()
        self.assertEqual([(one["title"], one["times"], one["machines"]) for one in answer["rows"]], [("an idler is seized or out of line", 2, 1), ("material has built up on the weigh idlers or under them", 1, 1)])  # fmt: skip
        self.assertEqual(sum(one["times"] for one in answer["months"]), 3)
        self.assertEqual(self.client.get("/api/faults?months=0").status_code, 422)
        before = self.plant.job()
        self.assertEqual(before.found, {"idler": 2, "build-up": 1})


class AtAStandIn(PracticeTestCase):
    def look(self, job: str, at: str) -> Any:
        return self.send(f"/api/jobs/{job}/stand-in/look?at={at}", {})

    def test_an_eye_finds_what_is_there_and_no_more_and_it_takes_its_minutes(self) -> None:
        job = self.begin("seized-idler")
        self.assertEqual(self.look(job, "caked").json(), {"result": "fine", "text": "Clean and empty."})
        found = self.look(job, "idlers").json()
        self.assertEqual(found["result"], "not-fine")
        self.assertIn("stands still", found["text"])
        self.assertEqual(self.look(job, "moon").status_code, 422)

    def test_the_debrief_says_which_look_would_have_told_and_when_it_was_made(self) -> None:
        job = self.begin("seized-idler")
        self.look(job, "idlers")
        self.assertIn("You looked after", self.close(job)["would_have_told"][0])
        other = self.begin("seized-idler")
        self.assertIn("It was not looked at.", self.close(other)["would_have_told"][0])
        self.assertEqual(self.close(self.begin("none"))["would_have_told"], [])

    def test_what_is_overlooked_most_stands_with_how_one_fares(self) -> None:
        job = self.begin("seized-idler")
        self.act(job, "key", 1.3)
        self.close(job)
        page = self.client.get("/api/practice/progress").json()
        self.assertEqual([one["times"] for one in page["overlooked"]], [1])
        self.assertIn("weigh idlers", page["overlooked"][0]["words"])


class KnownOfIt(Judged):
    def sealed(self, error: float, days: int, system: System | None = None) -> Job:
        """A closed comparison on a machine that found so many per cent, so many days ago."""
        at = timezone.now() - datetime.timedelta(days=days)
        channel = Channel.objects.filter(system=system or self.plant.system).select_related("system__site")[0]
        job = open_job(self.plant.technician, channel, (Part("", "belt-material-test"),), "routine", at).job
        said = {
            "error_found": error,
            "error_left": error,
            "uncertainty_found": 0.4,
            "occasion": "routine",
            "suspect": "",
        }
        Job.objects.filter(pk=job.pk).update(closed_at=at, state="closed", summary=said, reference_ids=[self.plant.bridge.id])  # fmt: skip
        Record.objects.create(
            organisation=self.plant.organisation, job=job, number=Record.objects.count() + 1, content="{}", sha256="0" * 64,
            sealed_at=at, sealed_by=self.plant.technician,
        )  # fmt: skip
        job.refresh_from_db()
        return job

    def test_machines_that_are_off_alike_against_one_reference_speak_for_the_reference(self) -> None:
        other = self.plant.add_system("Other belt", "belt", "belt-fine", {})
        self.sealed(1.5, 2, other)
        self.sealed(-3.0, 30, other)
        job = self.job(runs(AGREEING))
        self.assertEqual(job.beside, [["Other belt", 1.5, 0.4]])
        reference = next(one for one in self.seen(job)["suspects"] if one["key"] == "reference")
        self.assertEqual(reference["state"], "likely")
        self.assertIn("Other belt +1.5 %", reference["speaks_for"][0])

    def test_one_whose_own_history_explains_it_says_nothing_of_the_reference(self) -> None:
        other = self.plant.add_system("Drifting belt", "belt", "belt-fine", {})
        for error, days in ((0.1, 60), (0.5, 45), (1.0, 30), (1.4, 3)):
            last = self.sealed(error, days, other)
        Job.objects.filter(pk=last.pk).update(drifts=True)
        self.assertEqual(self.job({}).beside, [])

    def test_a_machine_that_drifts_the_same_way_each_time_is_known_to(self) -> None:
        for error, days in ((0.1, 60), (0.5, 45), (0.9, 30), (1.3, 5)):
            self.sealed(error, days)
        self.assertTrue(self.job({}).drifts)

    def test_what_came_at_once_against_its_own_history_is_said(self) -> None:
        for error, days in ((0.1, 60), (0.0, 45), (0.1, 30), (0.05, 5)):
            self.sealed(error, days)
        job = self.job(runs(AGREEING))
        self.assertEqual((job.moved["visits"], job.moved["left"]), (3, 0.05))
        codes = [one["code"] for one in self.seen(job)["reasons"]]
        self.assertIn("came-at-once", codes)

    def test_what_happened_since_it_was_last_right_counts_for_more(self) -> None:
        Event.objects.create(system=self.plant.system, kind="splice", who=self.plant.lead, stale=["belt-length"], settled=[])  # fmt: skip
        self.assertEqual(self.job({}).found, {"tension": 4.0})

    def test_five_visits_a_day_and_none_at_all_can_be_asked(self) -> None:
        self.assertEqual((self.job({}).drifts, self.plant.job().found), (False, {}))
        for _ in range(5):
            self.sealed(0.3, 0)
        self.assertFalse(self.job({}).drifts)
