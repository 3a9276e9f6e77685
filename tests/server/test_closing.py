"""Closing seals; sealed records are chained, printed, exported, and show it when touched."""

import hashlib
import io
import json
from typing import Any

from django.core.management import call_command
from django.db import DatabaseError, connection, transaction
from pypdf import PdfReader

from beacon.bench.models import Job
from beacon.records.models import Record
from beacon.records.sealing import canonical
from beacon.records.verifying import Broken, verify
from tests.core.jobs import belt
from tests.server.plant import AGREEING, PlantTestCase, enter, runs

IN_ORDER = [("34.10", "12.76", "21.36"), ("32.61", "12.74", "19.87"), ("33.35", "12.74", "20.62")]
COMPLETE = {"signed": "Ines Marrow", "outcome": "complete"}


class Closing(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()

    def close(self, job: Job | None = None, **asked: str) -> Any:
        return self.send(f"/api/jobs/{(job or self.job).id}/close", COMPLETE | asked)

    def closed(self, loads: list[tuple[str, ...]] = IN_ORDER) -> Record:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(loads))
        self.assertEqual(self.close(job).status_code, 200)
        return Record.objects.get(job=job)

    def test_a_machine_left_alone_is_complete_and_its_factor_untouched(self) -> None:
        record = self.closed()
        self.plant.system.refresh_from_db()
        self.assertEqual(
            (self.plant.system.state, self.plant.system.last["outcome"]), ("in-order", "verified, left as found")
        )
        self.assertEqual(record.job.summary["factor_after"], "1.1420")
        row = self.client.get("/api/log").json()["rows"][0]
        self.assertEqual((row["number"], row["call"], row["system_name"]), (1, "leave", "Conveyor"))

    def test_a_job_is_not_complete_while_the_call_says_otherwise(self) -> None:
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        answer = self.close()
        self.assertEqual(answer.status_code, 409)
        self.assertEqual([error["path"] for error in answer.json()["errors"]], ["outcome"])
        self.assertEqual(self.close(outcome="not-confirmed").json()["errors"][0]["path"], "outcome")
        self.assertEqual(self.close(outcome="limited").json()["errors"][0]["path"], "reason")
        self.assertEqual(self.close(outcome="out-of-service", reason="frame bent").status_code, 200)
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.state, "out-of-service")

    def test_nobody_closes_without_a_name(self) -> None:
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        self.assertEqual(self.close(signed="  ").json()["errors"][0]["path"], "signed")

    def test_loose_ends_are_put_back_or_explained_and_leave_the_system_not_valid(self) -> None:
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job", "tick.look.guards": "yes"} | runs(IN_ORDER))
        answer = self.close()
        self.assertIn("Guards are off: put them back.", [error["text"] for error in answer.json()["errors"]])
        self.assertEqual(self.close(loose_reason="fitter comes at noon").status_code, 200)
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.state, "not-valid")

    def test_put_back_it_is_in_order(self) -> None:
        texts = {"inputs.zero_done": "job", "tick.look.guards": "yes", "loose.guards": "done"}
        enter(self.job, self.plant.technician, texts | runs(IN_ORDER))
        self.assertEqual(self.close().status_code, 200)
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.state, "in-order")

    def test_after_an_adjustment_the_as_left_runs_complete_it_and_the_factor_is_handed_on(self) -> None:
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        done = {"read_back": "1.1260", "loose.zero-again": "done"}
        enter(self.job, self.plant.technician, done | runs(IN_ORDER, "as_left"))
        self.assertEqual(self.close().status_code, 200)
        self.assertEqual(self.plant.system.channels.get().factor, "1.1260")
        change = self.client.get(f"/api/systems/{self.plant.system.id}").json()["changes"][0]
        self.assertEqual((change["field"], change["before"], change["after"]), ("factor", "1.1420", "1.1260"))

    def test_a_closed_job_takes_no_more_entries(self) -> None:
        record = self.closed()
        answer = self.send_entries(record.job, {"runs.r1.gross": "99 t"})
        self.assertIn("closed", answer["refused"][0]["text"])

    def test_the_seal_is_the_sha256_of_the_downloaded_bytes_and_chained(self) -> None:
        first, second = self.closed(), self.closed()
        data = self.client.get(f"/api/records/{second.id}/record.json").content
        self.assertEqual(hashlib.sha256(data).hexdigest(), second.sha256)
        self.assertEqual(json.loads(data)["chain"]["previous"], first.sha256)
        self.assertEqual(canonical(json.loads(data)), data.decode())
        self.assertTrue(all(isinstance(row, str) for row in verify()))

    def test_another_organisation_s_records_answer_404(self) -> None:
        record = self.closed()
        stranger = self.signed_in(self.other.lead)
        for end in ("", "/record.json", "/certificate.pdf"):
            self.assertEqual(stranger.get(f"/api/records/{record.id}{end}").status_code, 404)
        self.assertEqual(stranger.get("/api/log").json()["rows"], [])

    def test_a_tampered_record_is_named(self) -> None:
        self.closed()
        second = self.closed()
        self.closed()
        with self.assertRaises(DatabaseError), transaction.atomic():
            Record.objects.filter(pk=second.pk).update(content="{}")
        with connection.cursor() as cursor:
            cursor.execute("set constraints all immediate")
            cursor.execute("alter table records_record disable trigger append_only")
            changed = second.content.replace("21.36", "21.34")
            cursor.execute("update records_record set content = %s where id = %s", [changed, second.id])
        broken = next(row for row in verify() if isinstance(row, Broken))
        self.assertEqual((broken.number, broken.system), (2, "Conveyor"))
        said = io.StringIO()
        with self.assertRaises(SystemExit):
            call_command("verify", stdout=said)
        self.assertIn("record 2 (Conveyor) does not fit: its content", said.getvalue())
        view = self.client.get(f"/api/records/{second.id}").json()
        self.assertIn("changed after sealing", view["fits"])

    def test_entries_changed_in_the_database_no_longer_fit_their_record(self) -> None:
        record = self.closed()
        with connection.cursor() as cursor:
            cursor.execute("set constraints all immediate")
            cursor.execute("alter table bench_entry disable trigger append_only")
            cursor.execute(
                "update bench_entry set text = '30 t' where job_id = %s and path = 'runs.r1.gross'", [record.job_id]
            )
        broken = next(row for row in verify() if isinstance(row, Broken))
        self.assertIn("entries in the database", broken.why)


class Papers(PlantTestCase):
    def test_the_certificate_is_one_page_and_says_what_was_found(self) -> None:
        job = self.plant.job()
        freak = ("34.79", "12.74", "21.02")
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs([freak, *AGREEING]))
        enter(job, self.plant.technician, {"runs.r1.set_aside": "hatch left open", "read_back": "1.1260"})
        enter(job, self.plant.technician, {"loose.zero-again": "done"} | runs(IN_ORDER, "as_left"))
        self.send(f"/api/jobs/{job.id}/close", COMPLETE)
        record = Record.objects.get(job=job)
        answer = self.client.get(f"/api/records/{record.id}/certificate.pdf")
        pages = PdfReader(io.BytesIO(answer.content)).pages
        self.assertEqual(len(pages), 1)
        text = " ".join(pages[0].extract_text().split())
        for words in (
            "Conveyor", "Weighbridge", "set aside: hatch left open", "as found: Adjust, down", "as left: Leave it alone",
            "1.1420", "1.1260", "20 kg", "not a legal verification", record.sha256[:20], "Ines Marrow", "idler spacing",
        ):  # fmt: skip
            self.assertIn(words, text)


class Files(PlantTestCase):
    def test_a_job_file_goes_out_and_comes_in_again_with_the_same_call(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        out = self.client.get(f"/api/jobs/{job.id}/job.json").json()
        for extra in ("assessment", "trail", "system"):
            self.assertIn(extra, out)
        back = self.send(f"/api/systems/{self.plant.system.id}/jobs/import", out)
        self.assertEqual(back.status_code, 201, back.content)
        answer = back.json()["parts"][0]["assessment"]
        expected = {"form": "Key in as factor, 4 decimals", "figure": "1.1260"}
        self.assertEqual(answer["key_in"], out["assessment"]["key_in"] | expected)
        self.assertEqual(
            {field["source"] for path, field in back.json()["fields"].items() if path.startswith("runs.")}, {"imported"}
        )

    def test_a_malformed_file_is_refused_whole_with_every_field_named(self) -> None:
        before = Job.objects.count()
        file = belt(runs=[{"reference": "20 m", "indicated": "20"}], speed="fast")
        answer = self.send(f"/api/systems/{self.plant.system.id}/jobs/import", file)
        self.assertEqual(answer.status_code, 422)
        paths = {error["path"] for error in answer.json()["errors"]}
        self.assertEqual(paths, {"inputs.runs[0].reference", "inputs.runs[0].indicated", "inputs.speed"})
        self.assertEqual(Job.objects.count(), before)
