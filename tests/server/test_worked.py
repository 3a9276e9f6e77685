"""Every method over HTTP: opened, typed, closed, sealed, printed, handed out and taken in again."""

import io
import json
from typing import Any, ClassVar

import jsonschema_rs
from django.template.loader import render_to_string
from django.test import Client
from pypdf import PdfReader

from beacon.bench.models import Job
from beacon.printing.certificate import about
from beacon.records.models import Record
from tests.added import added
from tests.server.landed import plain
from tests.server.plant import PlantTestCase, enter, looked_over
from tests.worked import WORKED
from wary.job.file import schema

ASKED = {"signed": "Ines Marrow", "outcome": "complete", "loose_reason": "seen to tomorrow, told the shift"}


class Walked(PlantTestCase):
    """Every method worked once, its file as it was taken out, and then closed, for all of these tests."""

    records: ClassVar[dict[str, Record]]
    files: ClassVar[dict[str, bytes]]

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.records, cls.files = {}, {}
        client = Client()
        client.force_login(cls.plant.technician)
        for one in WORKED:
            system = cls.plant.add_system(f"For {one.method}", one.kind, one.profile, one.plates)
            job = cls.plant.job(one.method, system)
            enter(job, cls.plant.technician, one.texts)
            looked_over(job, cls.plant.technician)
            cls.files[one.method] = client.get(f"/api/jobs/{job.id}/job.json").content
            answer = client.post(f"/api/jobs/{job.id}/close", json.dumps(ASKED), content_type="application/json")
            assert answer.status_code == 200, f"{one.method}: {answer.content!r}"
            cls.records[one.method] = Record.objects.select_related("job__channel__system__site").get(job=job)

    def view(self, job: Job) -> dict[str, Any]:
        return dict(self.client.get(f"/api/jobs/{job.id}").json())

    def test_each_comes_to_its_call(self) -> None:
        """Typed over HTTP in one batch: what the page takes in is what the job then is."""
        for one in WORKED:
            system = self.plant.add_system(f"Again {one.method}", one.kind, one.profile, one.plates)
            job = self.plant.job(one.method, system)
            with self.subTest(one.method):
                part = self.send_entries(job, one.texts)["job"]["parts"][0]
                self.assertEqual((part["assessment"]["call"], part["assessment"]["headline"]), (one.call, one.headline))
                for name, wanted in one.results.items():
                    self.assertAlmostEqual(part["assessment"]["results"][name]["value"], wanted, 6)

    def test_each_certificate_says_what_was_done_on_what_and_by_whom(self) -> None:
        for one in WORKED:
            record = self.records[one.method]
            with self.subTest(one.method):
                text = plain(render_to_string("records/certificate.html", about(record))).replace("\u202f", " ")
                title = self.view(record.job)["methods"][0]["title"]
                for words in (title, f"For {one.method}", "Ines Marrow", record.sha256[:8], *one.paper):
                    self.assertIn(words.lower(), text.lower())
                for machinery in ("None", "null", "{", "inputs."):
                    self.assertNotIn(machinery, text)

    def test_a_certificate_is_a_pdf_that_says_the_same(self) -> None:
        record = self.records["belt-material-test"]
        answer = self.client.get(f"/api/records/{record.id}/certificate.pdf")
        self.assertEqual(answer["Content-Type"], "application/pdf")
        pages = PdfReader(io.BytesIO(answer.content)).pages
        text = " ".join(" ".join(page.extract_text() for page in pages).split())
        for words in ("For belt-material-test", "Ines Marrow", record.sha256[:8]):
            self.assertIn(words, text)

    def test_each_sealed_file_fits_the_schema(self) -> None:
        validator = jsonschema_rs.validator_for(schema())
        for one in WORKED:
            record = self.records[one.method]
            content = json.loads(self.client.get(f"/api/records/{record.id}/record.json").content)
            self.assertEqual([str(error) for error in validator.iter_errors(content)], [], one.method)
            self.assertEqual(len(content["trail"]), record.job.entries, one.method)

    def test_each_file_comes_in_again_as_a_job_of_its_own(self) -> None:
        for one in WORKED:
            job = self.records[one.method].job
            with self.subTest(one.method):
                path = f"/api/systems/{job.channel.system_id}/jobs/import"
                answer = self.client.post(path, self.files[one.method], content_type="application/json")
                self.assertEqual(answer.status_code, 201, answer.content)
                again = answer.json()["parts"][0]["assessment"]
                before = self.view(job)["parts"][0]["assessment"]
                self.assertEqual((again["call"], again["results"]), (before["call"], before["results"]))

    def test_each_record_can_be_looked_at_with_its_entries(self) -> None:
        for one in WORKED:
            view = self.client.get(f"/api/records/{self.records[one.method].id}").json()
            self.assertIsNone(view["fits"], one.method)
            self.assertEqual(view["parts"][0]["headline"], one.headline)
            typed = {entry["path"]: entry["text"] for entry in view["trail"]}
            self.assertLessEqual(one.texts.items(), typed.items())
            # Where each entry stands is said in words, never by its path.
            self.assertFalse([one["where"] for one in view["trail"] if not one["where"] or "inputs." in one["where"]])

    def test_each_closed_job_stands_in_the_log_the_history_and_on_the_round(self) -> None:
        rows = {row["id"]: row for row in self.client.get("/api/round").json()["systems"]}
        for one in WORKED:
            record = self.records[one.method]
            system = record.job.channel.system
            self.assertEqual(self.client.get(f"/api/log?system={system.id}").json()["rows"][0]["method"], one.method)
            history = self.client.get(f"/api/channels/{record.job.channel_id}/history").json()
            self.assertEqual(history["visits"], 1, one.method)
            visits = self.client.get(f"/api/channels/{record.job.channel_id}/visits").json()
            self.assertEqual(visits[0]["record"], str(record.id))
            self.assertEqual(rows[str(system.id)]["last"]["record"], str(record.id))


class AddedOnly(PlantTestCase):
    """The method and the machine of the tests alone, through the server: no other file knows of them."""

    TEXTS = {
        "inputs.working.speed": "30",
        "trials.t1.label": "stroke 4",
        "trials.t1.trays.a.weight": "505 g",
        "trials.t1.trays.b.weight": "507 g",
        "trials.t1.trays.c.weight": "1.2 kg",
        "strokes.s1.value": "2.1 s",
    }

    def setUp(self) -> None:
        super().setUp()
        known = added()
        known.__enter__()
        self.addCleanup(known.__exit__, None, None, None)
        body = {"name": "Tray filler 2", "kind": "tray-filler", "site": str(self.plant.site.id)}
        made = self.send("/api/systems", body)
        self.assertEqual(made.status_code, 201, made.content)
        self.system_id = made.json()["id"]
        plates = {"plates": {"nominal": "500 g"}}
        self.assertEqual(self.send(f"/api/systems/{self.system_id}/record", plates, method="patch").status_code, 200)

    def opened(self) -> Job:
        answer = self.send("/api/jobs", {"system": self.system_id, "method": "visit"})
        self.assertEqual(answer.status_code, 201, answer.content)
        return Job.objects.get(id=answer.json()["id"])

    def test_the_kind_is_listed_with_its_plates_and_channels(self) -> None:
        machines = {one["key"]: one for one in self.client.get("/api/machines").json()}
        self.assertEqual(machines["tray-filler"]["channels"], ["left", "right"])
        self.assertEqual(machines["tray-filler"]["plates"][0]["title"], "Nominal fill")
        system = self.client.get(f"/api/systems/{self.system_id}").json()
        self.assertEqual([channel["name"] for channel in system["channels"]], ["left", "right"])
        self.assertEqual([method["key"] for method in system["methods"]], ["tray-fill"])

    def test_rows_inside_rows_are_typed_set_aside_and_taken_back(self) -> None:
        job = self.opened()
        view = self.send_entries(job, self.TEXTS)["job"]
        part = view["parts"][0]
        self.assertEqual([row["row"] for row in view["rows"]["trials.t1.trays"]], ["a", "b", "c"])
        self.assertEqual(part["drawing"]["shape"], "load")
        self.assertEqual(part["assessment"]["call"], "adjust")
        aside = self.send_entries(job, {"trials.t1.trays.c.set_aside": "two trays at once"})["job"]
        self.assertEqual(aside["parts"][0]["assessment"]["headline"], "It fills what it should")
        self.assertEqual(aside["rows"]["trials"][0]["remarks"]["mean"]["text"], "506 g")
        last = self.client.get(f"/api/jobs/{job.id}/entries").json()[-1]
        undo = {"id": "0d8a4e0e-5a2c-4d7a-9a0e-2b3a67a8c001", "path": last["path"], "text": "", "undoes": True}
        self.send(f"/api/jobs/{job.id}/entries", [undo | {"supersedes": last["id"]}])
        back = self.client.get(f"/api/jobs/{job.id}").json()
        self.assertEqual(back["parts"][0]["assessment"]["call"], "adjust")

    def test_inner_rows_are_brought_in_and_a_bad_line_is_named(self) -> None:
        job = self.opened()
        self.send_entries(job, {"inputs.working.speed": "30", "trials.t1.label": "stroke 4"})
        path = f"/api/jobs/{job.id}/rows?list=trials.t1.trays"
        answer = self.client.post(path, "weight\n505 g\n507 g\n", content_type="text/csv")
        self.assertEqual(answer.status_code, 200, answer.content)
        view = self.client.get(f"/api/jobs/{job.id}").json()
        self.assertEqual(len(view["rows"]["trials.t1.trays"]), 2)
        refused = self.client.post(path, "weight\nheavy\n", content_type="text/csv")
        self.assertEqual(refused.status_code, 422)
        self.assertEqual(len(self.client.get(f"/api/jobs/{job.id}").json()["rows"]["trials.t1.trays"]), 2)

    def test_it_is_closed_sealed_printed_and_comes_in_again(self) -> None:
        job = self.opened()
        self.send_entries(job, self.TEXTS | {"trials.t1.trays.c.set_aside": "two trays at once"})
        looked_over(job, self.plant.technician)
        answer = self.send(f"/api/jobs/{job.id}/close", {"signed": "Ines", "outcome": "complete"})
        self.assertEqual(answer.status_code, 200, answer.content)
        record = Record.objects.get(job=job)
        content = json.loads(self.client.get(f"/api/records/{record.id}/record.json").content)
        self.assertEqual(content["inputs"]["trials"][0]["trays"][2]["set_aside"], "two trays at once")
        validator = jsonschema_rs.validator_for(schema())
        self.assertEqual([str(error) for error in validator.iter_errors(content)], [])
        pdf = self.client.get(f"/api/records/{record.id}/certificate.pdf").content
        text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)
        for words in ("Tray fill", "Tray filler 2", "It fills what it should", "505", "two trays at once"):
            self.assertIn(words, text)
        taken = self.send(f"/api/systems/{self.system_id}/jobs/import", content)
        self.assertEqual(taken.status_code, 201, taken.content)
        self.assertEqual(taken.json()["parts"][0]["assessment"]["results"], content["assessment"]["results"])

    def test_what_happened_to_it_makes_its_method_stale(self) -> None:
        path = f"/api/systems/{self.system_id}/events"
        self.assertEqual(self.send(path, {"kind": "nozzle", "note": "worn"}).status_code, 201)
        system = self.client.get(f"/api/systems/{self.system_id}").json()
        self.assertEqual((system["state"], system["stale"]), ("not-tested", ["Tray fill"]))

    def test_entries_are_kept_for_the_page_as_they_are_for_the_core(self) -> None:
        job = self.opened()
        enter(job, self.plant.technician, self.TEXTS)
        self.assertEqual(self.client.get(f"/api/jobs/{job.id}").json()["methods"][0]["key"], "tray-fill")
