"""Photographs and papers: looked at by their content, kept once, sealed with the record, and missed when they are gone."""

import hashlib
import io
import json
import os
import subprocess
import sys
import uuid
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import DatabaseError, connection, transaction
from django.test import SimpleTestCase, override_settings
from pypdf import PdfReader

from beacon.attachments import intake, unpacking
from beacon.attachments.intake import NotTaken, taken
from beacon.attachments.keeping import clean_name, kept_at, why_gone
from beacon.attachments.models import Attachment
from beacon.bench.models import Job
from beacon.printing.certificate import about
from beacon.records.models import Record
from beacon.records.verifying import verify
from tests.server.pictures import by_hand, document, opened, photograph
from tests.server.plant import PlantTestCase, enter, runs
from tests.server.test_closing import IN_ORDER


class Intake(SimpleTestCase):
    def refused(self, content: bytes) -> str:
        with self.assertRaises(NotTaken) as why:
            taken(content)
        return str(why.exception)

    def test_every_kind_of_photograph_is_read_by_its_content(self) -> None:
        for kind, kept in (
            ("JPEG", "image/jpeg"),
            ("PNG", "image/png"),
            ("WEBP", "image/jpeg"),
            ("HEIF", "image/jpeg"),
        ):
            with self.subTest(kind):
                found = taken(photograph(kind=kind))
                self.assertEqual((found.kind, found.width, found.height), (kept, 640, 480))
                self.assertLessEqual(max(opened(found.small).size), 480)

    def test_a_photograph_stands_upright_and_does_not_say_where_it_was_taken(self) -> None:
        sent = photograph(turned=True, place=True)
        self.assertIn(0x8825, opened(sent).getexif())
        found = taken(sent)
        self.assertEqual((found.width, found.height), (480, 640))
        kept = opened(found.content)
        self.assertFalse(dict(kept.getexif()))
        # What lay on the left of the sensor is now on top.
        self.assertLess(sum(kept.convert("RGB").getpixel((240, 40))), sum(kept.convert("RGB").getpixel((240, 600))))  # type: ignore[arg-type]

    def test_what_is_no_photograph_says_so_whatever_its_name(self) -> None:
        for content in (b"MZ\x90\x00not a picture", b"<svg onload='x'></svg>", b"GIF89a" + b"0" * 40, b"<html>"):
            self.assertIn("no photograph and no PDF", self.refused(content))
        self.assertIn("empty", self.refused(b""))

    def test_a_file_that_was_cut_off_is_not_kept(self) -> None:
        for whole in (photograph(), photograph(kind="PNG"), document()):
            self.assertRegex(self.refused(whole[: len(whole) // 2]), "cut off")

    def test_fifty_megapixels_are_kept_smaller_and_more_are_refused_before_they_are_unpacked(self) -> None:
        found = taken(photograph((8700, 5800)))
        self.assertEqual(max(found.width, found.height), unpacking.LONGEST_SIDE)
        self.assertIn("100 megapixels", self.refused(photograph((10000, 10000))))

    def test_a_pdf_is_written_anew_unless_it_does_something(self) -> None:
        plain = document(pages=3)
        found = taken(plain)
        self.assertEqual((found.kind, found.pages), ("application/pdf", 3))
        self.assertEqual(len(PdfReader(io.BytesIO(found.content)).pages), 3)
        self.assertEqual(found.content, taken(plain).content)
        # What lies behind its end is of no page.
        self.assertNotIn(b"MZ and", taken(plain + b"\nMZ and the rest").content)
        self.assertIn("a script", self.refused(document(script="app.alert(1)")))
        self.assertIn("another file inside it", self.refused(document(attached=True)))
        self.assertIn("password", self.refused(document(password="x")))

    def test_what_a_pdf_does_is_found_whatever_number_its_piece_has(self) -> None:
        for generation in (0, 1, 7):
            with self.subTest(generation):
                self.assertIn("a script", self.refused(by_hand(generation)))

    def test_names_are_made_harmless(self) -> None:
        for name, kept in (
            ("../../etc/passwd", "passwd"), ("C:\\x\\ticket.jpg", "ticket.jpg"), ('a"b<c>\x00.jpg', "abc.jpg"), ("..", "photograph"),
        ):  # fmt: skip
            self.assertEqual(clean_name(name), kept)


class Papers(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))

    def add(self, content: bytes, path: str = "runs.r1", to: str = "", client: Any = None, **said: str) -> Any:
        to = to or f"/api/jobs/{self.job.id}/attachments"
        query = "&".join(f"{key}={value}" for key, value in ({"path": path, "name": "ticket.jpg"} | said).items())
        return (client or self.client).post(f"{to}?{query}", content, content_type="application/octet-stream")

    def close(self) -> Record:
        answer = self.send(f"/api/jobs/{self.job.id}/close", {"signed": "x", "outcome": "complete"})
        self.assertEqual(answer.status_code, 200, answer.content)
        return Record.objects.get(job=self.job)

    def test_a_photograph_stands_beside_what_it_belongs_to(self) -> None:
        for path, words in (
            ("", "the job"), ("runs.r1", "Runs, one row"), ("runs.r1.gross", "Gross"), ("inputs.factor", "Factor in the instrument"),
            ("step.look", "Look first"), ("note", "Note"),
        ):  # fmt: skip
            with self.subTest(path):
                answer = self.add(photograph((60 + len(path), 50)), path)
                self.assertEqual(answer.status_code, 201, answer.content)
                self.assertEqual((answer.json()["path"], answer.json()["belongs_to"]), (path, words))
        self.assertEqual(self.add(photograph(), "inputs.nothing").status_code, 422)
        self.assertGreaterEqual(len(self.client.get(f"/api/jobs/{self.job.id}/attachments").json()), 4)

    def test_the_same_file_twice_is_one_paper(self) -> None:
        first, again = self.add(photograph()).json(), self.add(photograph()).json()
        self.assertEqual(first["id"], again["id"])
        named = {"id": str(uuid.uuid4())}
        self.assertEqual(self.add(photograph((99, 99)), **named).json()["id"], named["id"])
        self.assertEqual(self.add(photograph((99, 99)), **named).status_code, 201)
        self.assertEqual(self.add(photograph((98, 98)), **named).status_code, 422)
        self.assertEqual(Attachment.objects.count(), 2)

    def test_a_file_that_did_not_arrive_whole_is_not_kept(self) -> None:
        whole = photograph()
        answer = self.add(whole[:-900], sha256=hashlib.sha256(whole).hexdigest())
        self.assertEqual(answer.status_code, 422)
        self.assertIn("did not arrive whole", answer.json()["detail"])

    def test_it_is_shown_as_what_it_is_and_runs_nothing(self) -> None:
        picture, paper = self.add(photograph()).json(), self.add(document(), name="plate.pdf").json()
        shown = self.client.get(f"/api/attachments/{picture['id']}/file")
        self.assertEqual((shown["Content-Type"], shown["X-Content-Type-Options"]), ("image/jpeg", "nosniff"))
        self.assertIn("sandbox", shown["Content-Security-Policy"])
        self.assertTrue(shown["Content-Disposition"].startswith("inline"))
        self.assertEqual(self.client.get(f"/api/attachments/{picture['id']}/small").status_code, 200)
        kept = self.client.get(f"/api/attachments/{paper['id']}/file")
        self.assertTrue(kept["Content-Disposition"].startswith("attachment"))
        self.assertEqual(self.client.get(f"/api/attachments/{paper['id']}/small").status_code, 404)

    def test_its_hash_is_sealed_and_a_changed_file_is_found(self) -> None:
        paper = Attachment.objects.get(id=self.add(photograph()).json()["id"])
        record = self.close()
        sealed = json.loads(record.content)["papers"]
        self.assertEqual([(one["sha256"], one["path"]) for one in sealed], [(paper.sha256, "runs.r1")])
        self.assertIn("every link fits", str(list(verify())[-1]))
        where = Path(settings.FILES) / kept_at(paper.organisation_id, paper.sha256)
        kept = where.read_bytes()
        try:
            where.write_bytes(kept + b"x")
            self.assertIn("was changed after it was kept", str(list(verify())))
            where.unlink()
            self.assertIn("is gone", str(list(verify())))
            self.assertEqual(self.client.get(f"/api/attachments/{paper.id}/file").status_code, 410)
        finally:
            where.write_bytes(kept)

    def test_a_closed_job_takes_no_more_and_lets_nothing_go(self) -> None:
        paper = self.add(photograph()).json()
        self.close()
        self.assertEqual(self.add(photograph((9, 9))).status_code, 409)
        changed = self.send(f"/api/attachments/{paper['id']}", {"set_aside": "blurred"}, method="patch")
        self.assertEqual(changed.status_code, 409)
        for sql in ("delete from papers_paper", "update papers_paper set sha256 = 'x'"):
            with self.assertRaises(DatabaseError), transaction.atomic(), connection.cursor() as cursor:
                cursor.execute(sql)

    def test_chosen_ones_go_on_the_certificate_and_one_set_aside_does_not(self) -> None:
        chosen, aside = self.add(photograph()).json()["id"], self.add(photograph((70, 70))).json()["id"]
        self.send(f"/api/attachments/{chosen}", {"on_certificate": True}, method="patch")
        said = self.send(f"/api/attachments/{aside}", {"on_certificate": True, "set_aside": "blurred"}, method="patch")
        self.assertFalse(said.json()["on_certificate"])
        record = self.close()
        self.assertEqual([one["id"] for one in about(record)["shown"]], [chosen])
        self.assertTrue(self.client.get(f"/api/records/{record.id}/certificate.pdf").content.startswith(b"%PDF"))
        self.assertEqual(len(self.client.get(f"/api/records/{record.id}").json()["papers"]), 2)

    def test_a_certificate_is_kept_with_its_reference_by_a_lead(self) -> None:
        to = f"/api/references/{self.plant.bridge.id}/attachments"
        self.assertEqual(self.add(document(), to=to, name="GN-W-118.pdf").status_code, 404)
        lead = self.signed_in(self.plant.lead)
        self.assertEqual(self.add(document(), to=to, client=lead, name="GN-W-118.pdf").status_code, 201)
        self.assertEqual([one["name"] for one in self.client.get(to).json()], ["GN-W-118.pdf"])

    def test_any_store_will_do(self) -> None:
        memory = {"BACKEND": "django.core.files.storage.InMemoryStorage"}
        with override_settings(STORAGES=settings.STORAGES | {"default": memory}):
            paper = self.add(photograph((77, 55))).json()
            self.assertEqual(self.client.get(f"/api/attachments/{paper['id']}/file").status_code, 200)
            self.assertEqual(why_gone(Attachment.objects.get(id=paper["id"])), "")
        self.assertEqual(self.client.get(f"/api/attachments/{paper['id']}/file").status_code, 410)

    def test_a_bucket_is_used_where_one_is_named(self) -> None:
        said = "from django.core.files.storage import default_storage as s; print(type(s._wrapped or s).__name__, s.bucket_name)"
        code = f"import django; django.setup(); {said}"
        more = {
            "BEACON_S3_BUCKET": "papers",
            "BEACON_S3_ENDPOINT": "http://127.0.0.1:9",
            "AWS_ACCESS_KEY_ID": "x",
            "AWS_SECRET_ACCESS_KEY": "y",
        }
        environment = os.environ | more | {"DJANGO_SETTINGS_MODULE": "beacon.settings"}
        done = subprocess.run(
            [sys.executable, "-c", code], env=environment, capture_output=True, text=True, cwd=settings.ROOT
        )
        self.assertEqual(done.returncode, 0, done.stderr[-500:])
        self.assertTrue(done.stdout.strip().endswith("papers"), done.stdout)

    def test_more_than_twenty_megabytes_are_refused(self) -> None:
        answer = self.add(b"\xff\xd8\xff" + b"0" * (intake.MOST_BYTES + 1))
        self.assertIn(answer.status_code, (413, 422))
        self.assertEqual(Job.objects.get(pk=self.job.pk).attachments.count(), 0)
