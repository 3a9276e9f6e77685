"""References: sets of weights of which some were used, check masses, a proven system as a reference, several in one job."""

import datetime
import uuid
from typing import Any

from beacon.bench.models import HeaderName, Job
from beacon.plant.models import Reference, System
from tests.server.plant import PlantTestCase
from tests.server.sealed import Sealed

TODAY = datetime.date.today()
SET = [
    {"label": "A", "nominal": "20 kg", "uncertainty": "1 g", "certificate": "GN-M-1", "due": str(TODAY + datetime.timedelta(days=90))},
    {"label": "B", "nominal": "20 kg", "uncertainty": "1.5 g", "certificate": "GN-M-2", "due": str(TODAY - datetime.timedelta(days=2))},
    {"label": "C", "nominal": "10 kg", "uncertainty": "0.5 g", "certificate": "GN-M-1", "due": None},
]  # fmt: skip


class Sets(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.lead = self.signed_in(self.plant.lead)
        body = {"kind": "weights", "name": "Set W", "weights": SET, "due": str(TODAY + datetime.timedelta(days=200))}
        answer = self.send("/api/references", body, self.lead)
        self.assertEqual(answer.status_code, 201, answer.content)
        self.set = answer.json()
        platform = self.plant.add_system(
            "Platform", "platform", "vessel", {"capacity": "1500 kg", "division": "0.5 kg"}
        )
        self.job = self.plant.job("corner-test", platform)

    def name(self, texts: dict[str, str]) -> dict[str, Any]:
        return self.send_entries(self.job, texts)

    def test_the_whole_set_is_what_its_weights_come_to(self) -> None:
        self.assertEqual(self.set["nominal"], "50 kg")
        twice = [SET[0], SET[0] | {"label": "a"}]
        refused = self.send("/api/references", {"kind": "weights", "name": "x", "weights": twice}, self.lead)
        self.assertEqual(refused.json()["errors"][0]["path"], "weights")
        broken = [SET[0] | {"nominal": "two stones"}]
        refused = self.send("/api/references", {"kind": "weights", "name": "x", "weights": broken}, self.lead)
        self.assertEqual(refused.json()["errors"][0]["path"], "weights[0].nominal")

    def test_naming_those_used_brings_their_sum_and_the_first_date(self) -> None:
        fields = self.name({"references.r1.id": self.set["id"]})["job"]["fields"]
        self.assertEqual(fields["inputs.test_load"]["text"], "50 kg")
        fields = self.name({"references.r1.used": "a, C"})["job"]["fields"]
        self.assertEqual(fields["inputs.test_load"]["text"], "30 kg")
        self.assertEqual(fields["references.r1.due"]["text"], SET[0]["due"])
        self.assertEqual(fields["references.r1.certificate"]["text"], "GN-M-1")

    def test_a_set_and_those_used_may_be_named_in_one_batch(self) -> None:
        view = self.name({"references.r1.id": self.set["id"], "references.r1.used": "a, C"})
        self.assertEqual(view["refused"], [])
        self.assertEqual(view["job"]["fields"]["inputs.test_load"]["text"], "30 kg")

    def test_a_weight_that_is_out_of_date_is_found(self) -> None:
        self.name({"references.r1.id": self.set["id"]})
        view = self.name({"references.r1.used": "A,B"})["job"]
        codes = [reason["code"] for part in view["parts"] for reason in part["assessment"]["reasons"]]
        self.assertEqual(view["fields"]["references.r1.due"]["text"], SET[1]["due"])
        self.assertIn("reference-out-of-date", codes)

    def test_what_is_none_of_the_set_is_refused_with_what_it_has(self) -> None:
        refused = self.name({"references.r1.used": "A"})["refused"]
        self.assertIn("Name a set of weights first", refused[0]["text"])
        self.name({"references.r1.id": self.set["id"]})
        self.assertIn("it has A, B, C", self.name({"references.r1.used": "A, K"})["refused"][0]["text"])

    def test_another_set_takes_back_which_weights_were_used(self) -> None:
        self.name({"references.r1.id": self.set["id"]})
        self.name({"references.r1.used": "A"})
        fields = self.name({"references.r1.id": str(self.plant.bridge.id)})["job"]["fields"]
        self.assertEqual(fields["references.r1.used"]["text"], "")

    def test_a_second_reference_fills_what_the_first_left_open(self) -> None:
        before = self.name({"references.r1.id": self.set["id"]})["job"]["fields"]["inputs.test_load"]["text"]
        other = Reference.objects.create(
            organisation=self.plant.organisation, kind="weights", name="W", nominal="400 kg"
        )
        view = self.name({"references.r2.id": str(other.id)})["job"]
        self.assertEqual(view["fields"]["inputs.test_load"]["text"], before)
        self.assertEqual(view["fields"]["references.r2.name"]["text"], "W")
        self.job.refresh_from_db()
        self.assertEqual(len(self.job.reference_ids), 3 if self.plant.bridge.id in self.job.reference_ids else 2)

    def test_a_captured_entry_names_no_other_organisation_s_reference_either(self) -> None:
        for source in ("typed", "captured"):
            for text in (str(self.other.bridge.id), "no id", "-3504"):
                entry = {"id": str(uuid.uuid4()), "path": "references.r1.id", "text": text, "source": source}
                answer = self.send(f"/api/jobs/{self.job.id}/entries", [entry])
                self.assertEqual((answer.status_code, len(answer.json()["refused"])), (200, 1), text)


class CheckMasses(PlantTestCase):
    def check(self, shown: str, mass: str = "500 kg", **more: str) -> Any:
        body = {"id": str(uuid.uuid4()), "mass": mass, "shown": shown} | more
        return self.send(f"/api/references/{self.plant.bridge.id}/checks", body)

    def test_it_holds_within_a_division(self) -> None:
        for shown, holds, off in (("500 kg", True, 0), ("520", True, 20), ("0.48 t", True, -20), ("530 kg", False, 30)):
            answer = self.check(shown).json()
            self.assertEqual(answer["holds"], holds, shown)
            self.assertAlmostEqual(answer["off"], off)
        listed = self.client.get("/api/references").json()[0]
        self.assertEqual(listed["check_holds"], False)
        self.assertEqual(len(self.client.get(f"/api/references/{self.plant.bridge.id}/checks").json()), 4)

    def test_sent_again_it_is_kept_once_and_what_cannot_be_read_is_said(self) -> None:
        name = str(uuid.uuid4())
        self.assertEqual(self.check("500 kg", id=name).json(), self.check("500 kg", id=name).json())
        self.assertEqual(self.check("five").json()["errors"][0]["path"], "shown")
        self.assertEqual(self.check("0", mass="0 kg").json()["errors"][0]["path"], "mass")


class SystemsAsReferences(Sealed):
    def setUp(self) -> None:
        super().setUp()
        self.seal()
        body = {"kind": "system", "name": "Conveyor, proven", "system": str(self.plant.system.id)}
        answer = self.send("/api/references", body, self.signed_in(self.plant.lead))
        self.assertEqual(answer.status_code, 201, answer.content)
        self.reference = answer.json()

    def test_it_hands_down_what_its_last_record_left(self) -> None:
        last = System.objects.get(pk=self.plant.system.pk).last
        expected = abs(last["error_found"]) + last["uncertainty_found"]
        self.assertAlmostEqual(float(self.reference["uncertainty"].split()[0]), expected, delta=expected / 100)
        self.assertFalse(self.reference["overdue"])
        System.objects.filter(pk=self.plant.system.pk).update(state="fault")
        listed = {one["name"]: one for one in self.client.get("/api/references").json()}
        self.assertTrue(listed["Conveyor, proven"]["overdue"])
        self.assertIn("a fault was found", listed["Conveyor, proven"]["certificate"])

    def test_it_is_named_in_a_job_on_another_and_never_on_itself(self) -> None:
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {"indicated_division": "20 kg"})
        view = self.send_entries(self.plant.job("load-comparison", cart), {"references.r1.id": self.reference["id"]})[
            "job"
        ]
        self.assertEqual(view["fields"]["inputs.reference_uncertainty"]["text"], self.reference["uncertainty"])
        refused = self.send_entries(self.plant.job(), {"references.r1.id": self.reference["id"]})["refused"]
        self.assertIn("no reference for itself", refused[0]["text"])

    def test_a_system_is_a_reference_once_and_only_one_s_own(self) -> None:
        lead = self.signed_in(self.plant.lead)
        for system in (self.plant.system, self.other.system):
            body = {"kind": "system", "name": "again", "system": str(system.id)}
            self.assertEqual(self.send("/api/references", body, lead).json()["errors"][0]["path"], "system")


class Headers(PlantTestCase):
    def bring(self, content: bytes, columns: str = "", job: Job | None = None) -> Any:
        self.job = job or self.plant.job()
        query = f"?list=runs&columns={columns}"
        return self.client.post(f"/api/jobs/{self.job.id}/rows{query}", content, content_type="text/csv")

    def test_a_file_in_latin_1_with_semicolons_and_decimal_commas_is_read(self) -> None:
        text = "Gross (t);Tare (t);Indicated (t);Reason\n34,10;12,76;21,66;nass gewogen, Tür offen\n"
        self.assertEqual(self.bring(text.encode("latin-1")).status_code, 200)
        fields = self.client.get(f"/api/jobs/{self.job.id}").json()["fields"]
        texts = [field["text"] for path, field in fields.items() if path.startswith("runs.")]
        self.assertIn("34,10", texts)
        self.assertIn("nass gewogen, Tür offen", texts)

    def test_header_names_are_said_once_and_remembered(self) -> None:
        text = b"Brutto (t);Leer (t);Anzeige (t);Fahrer\n34,10;12,76;21,66;Ines\n"
        refused = self.bring(text).json()["errors"]
        self.assertEqual(
            [one["path"] for one in refused], ["header.brutto", "header.leer", "header.anzeige", "header.fahrer"]
        )
        columns = '{"Brutto (t)":"gross","leer":"tare","Anzeige":"indicated","Fahrer":""}'
        self.assertEqual(self.bring(text, columns).status_code, 200)
        self.assertEqual(self.bring(text).status_code, 200)
        self.assertEqual(HeaderName.objects.count(), 4)
        client, self.client = self.client, self.signed_in(self.other.technician)
        self.assertEqual(self.bring(text, job=self.other.job()).status_code, 422)
        self.client = client
        self.assertEqual(self.bring(text, "nonsense").json()["errors"][0]["path"], "columns")

    def test_a_refused_file_leaves_nothing_and_remembers_nothing(self) -> None:
        columns = '{"Brutto":"gross"}'
        answer = self.bring(b"Brutto,indicated\n34 t,21 t\nmuch,1 t\n", columns)
        self.assertEqual(answer.json()["errors"][0]["path"], "line 3")
        self.assertEqual(HeaderName.objects.count(), 0)
        self.assertFalse(
            [path for path in self.client.get(f"/api/jobs/{self.job.id}").json()["fields"] if path.startswith("runs.")]
        )

    def test_what_is_no_csv_gets_a_sentence(self) -> None:
        for content in (
            b"gross,indicated\r1 t,2 t\r", b'gross,indicated\n"1 t,2 t\n', b"\x00\x01\x02", b"", b"gross\n" + b"x" * 5000,
            b"gross," * 400 + b"\n1", b"\xff\xfe" + "gross\n1 t\n".encode("utf-16-le"), b'"' * 300_000,
        ):  # fmt: skip
            with self.subTest(content[:20]):
                self.assertIn(self.bring(content).status_code, (200, 422))
