"""What an attack on a running demo found, each as it was done."""

import datetime
import errno
import io
import json
import uuid
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.db import connection
from django.test import Client, SimpleTestCase
from django.utils import timezone
from pypdf import PdfReader

from beacon.attachments import unpacking
from beacon.attachments.intake import taken
from beacon.attachments.keeping import kept_at
from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from beacon.loads.models import Load
from beacon.own_process import MB, OwnProcess, Refused, TooMuch
from beacon.people.models import Invitation, Membership, Person
from beacon.planner.models import Planned
from beacon.plant.models import System
from beacon.practice.models import Practice
from beacon.printing import pdf as printing
from tests.server.pictures import document, photograph
from tests.server.plant import PASSWORD, SIGN_IN, PlantTestCase, entries, runs
from tests.server.sealed import Sealed
from wary.methods.belts.belt_material_test import BeltMaterialTest

NINES = "9" * 2000


class Files(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()
        self.url = f"/api/jobs/{self.job.id}/attachments?path=runs.r1"

    def post(self) -> Any:
        return self.client.post(self.url, photograph(), content_type="image/jpeg")

    def at(self, paper: Attachment, what: str = "") -> Path:
        return Path(settings.STORAGES["default"]["OPTIONS"]["location"]) / kept_at(
            paper.organisation_id, paper.sha256, what
        )

    def test_a_full_disk_keeps_nothing_under_its_name_and_the_next_try_is_whole(self) -> None:
        full = OSError(errno.ENOSPC, "No space left on device")
        with (
            mock.patch("beacon.whole.os.fsync", side_effect=full),
            self.assertLogs("beacon.attachments.keeping", "ERROR"),
        ):
            answer = self.post()
        self.assertEqual((answer.status_code, answer.json()["title"]), (507, "This file is not kept yet"))
        self.assertFalse(Attachment.objects.exists())
        folder = Path(settings.STORAGES["default"]["OPTIONS"]["location"]) / f"papers/{self.plant.organisation.id}"
        self.assertEqual([path for path in folder.rglob("*") if path.is_file()], [])
        self.assertEqual(self.post().status_code, 201)

    def test_half_a_file_that_lies_under_its_name_is_not_trusted(self) -> None:
        found = taken(photograph())
        paper = Attachment(organisation=self.plant.organisation, sha256=found.sha256)
        for what in ("", "small"):
            self.at(paper, what).parent.mkdir(parents=True, exist_ok=True)
            self.at(paper, what).write_bytes(found.content[:100])
        self.assertEqual(self.post().status_code, 201)
        self.assertEqual(self.at(paper).read_bytes(), found.content)
        self.assertEqual(self.at(paper, "small").read_bytes(), found.small)

    def test_a_pdf_that_leads_to_an_address_is_kept_without_the_link(self) -> None:
        self.assertIn(b"/URI", document(link="https://example.invalid/x"))
        found = taken(document(link="https://example.invalid/x", pages=2))
        self.assertEqual(found.pages, 2)
        self.assertNotIn(b"example.invalid", found.content)
        self.assertNotIn(b"/URI", found.content)
        self.assertEqual(len(PdfReader(io.BytesIO(found.content)).pages), 2)

    def test_what_can_only_be_unpacked_whole_is_refused_by_what_that_would_take(self) -> None:
        few = 2_600_000
        for kind, taken_so in (("JPEG", True), ("PNG", True), ("WEBP", False), ("HEIF", False)):
            with self.subTest(kind), mock.patch.object(unpacking, "MOST_MEMORY", few):
                if taken_so:
                    self.assertTrue(unpacking.work(photograph((640, 480), kind)))
                else:
                    with self.assertRaises(Refused) as why:
                        unpacking.work(photograph((640, 480), kind))
                    self.assertIn("megapixels", str(why.exception))


class Loads(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.cart = self.plant.add_system("Trailer", "cart", "load-cart", {})
        self.url = f"/api/systems/{self.cart.id}/loads"

    def test_a_time_that_no_clock_shows_is_refused_and_one_that_is_there_can_be_taken_out(self) -> None:
        for time in ("0001-01-01T00:00+14:00", "9999-12-31T23:59-12:00", "1969-01-01", "2199-01-01"):
            body = f"start,indicated\n2026-03-01 10:00,5 t\n{time},7 t\n".encode()
            answer = self.client.post(f"{self.url}.csv", body, content_type="text/csv")
            self.assertEqual((answer.status_code, answer.json()["errors"][0]["path"]), (422, "line 3, start"), time)
        channel = self.cart.channels.get()
        for number in (1, 2, 3):
            Load.objects.create(channel=channel, number=number, state="stored", started_at=timezone.now(), ended_at=timezone.now(), indicated="7 t", mass=7000.0, by=self.plant.technician)  # fmt: skip
        with connection.cursor() as cursor:
            cursor.execute("update loads_load set started_at = '0001-12-31 10:00:00+00 BC' where number = 1")
            cursor.execute("update loads_load set ended_at = '20000-01-01 00:00:00+00' where number = 2")
        log = self.client.get(self.url)
        self.assertEqual(log.status_code, 200, log.content)
        by = {one["number"]: one for one in log.json()["loads"]}
        self.assertEqual((by[1]["start"], by[2]["end"], by[3]["start"] is None), (None, None, False))
        for path in ("", "/totals", "/totals?by=material", ".csv", "?find=7"):
            self.assertEqual(self.client.get(f"{self.url}{path}").status_code, 200, path)
        self.assertEqual(self.send(f"/api/loads/{by[1]['id']}", {"material": "kelp"}, method="patch").status_code, 200)
        out = self.send(f"/api/loads/{by[1]['id']}/take-out", {"why": "its time is none"})
        self.assertEqual((out.status_code, out.json()["taken_out"]), (200, "its time is none"))
        self.assertEqual(sum(one["loads"] for one in self.client.get(f"{self.url}/totals").json()), 2)
        self.assertEqual(len(self.client.get(self.url).json()["loads"]), 3)
        self.assertEqual(self.send(f"/api/loads/{by[2]['id']}/take-out", {"why": "7"}).status_code, 422)

    def test_what_is_looked_for_is_bounded_and_a_raised_two_is_no_number(self) -> None:
        for query in ("find=²", "find=" + "a+" * 60):
            for path in ("", "/totals"):
                self.assertEqual(self.client.get(f"{self.url}{path}?{query}").status_code, 200, query[:20])
        for path in ("", "/totals"):
            self.assertEqual(self.client.get(f"{self.url}{path}", {"find": "a " * 2000}).status_code, 422)
        wrong = self.client.post(
            f"{self.url}.csv", "number,start,indicated\n²,2026-03-01,5 t\n".encode(), content_type="text/csv"
        )
        self.assertEqual((wrong.status_code, wrong.json()["errors"][0]["path"]), (422, "line 2, number"))


class Numbers(PlantTestCase):
    def test_plain_numbers_without_end_are_said_to_be_none_wherever_they_are_typed(self) -> None:
        job = self.plant.job()
        for text in (NINES[:1999], "1e" + "9" * 100, "-" + NINES[:1500], "0." + NINES[:1500] + "e999"):
            for path in (
                "inputs.factor",
                "inputs.factor_decimals",
                "runs.r1.gross",
                "profile.minimum_runs",
                "read_back",
            ):
                answer = self.send(f"/api/jobs/{job.id}/entries", entries({path: text}))
                self.assertEqual(answer.status_code, 200, f"{path} {text[:20]}")
            self.assertEqual(self.client.get(f"/api/jobs/{job.id}").status_code, 200)
        for key in ("factor", "nominal_factor"):
            body = {key: "1e" + "9" * 20}
            self.assertEqual(
                self.send(f"/api/systems/{self.plant.system.id}/record", body, method="patch").status_code, 422
            )

    def test_files_of_visits_that_are_none_get_an_answer(self) -> None:
        url = f"/api/systems/{self.plant.system.id}/jobs/import"
        plain = {"method": "belt-material-test", "inputs": {}}
        for file in (
            {"method": "visit", "parts": [{}]}, {"method": "visit"}, plain | {"visit": [{}]}, plain | {"visit": [None]},
            plain | {"visit": [{"part": 7}]}, plain | {"visit": [{"part": "zero", "method": []}]}, plain | {"visit": [{"part": "x" * 500}]},
            plain | {"trail": [{}]}, plain | {"trail": [7]}, plain | {"references": [{}] * 300}, {"method": ["visit"]}, {},
        ):  # fmt: skip
            answer = self.send(url, file)
            self.assertIn(answer.status_code, (201, 422), f"{json.dumps(file)[:80]} {answer.content[:200]!r}")

    def test_days_beyond_what_is_planned_are_refused_and_do_no_harm_where_they_are_there(self) -> None:
        lead = self.signed_in(self.plant.lead)
        plan = f"/api/systems/{self.plant.system.id}/plan"
        self.assertEqual(self.send(plan, {"day": "9999-12-31"}, method="put").status_code, 422)
        bridge = {"name": "x", "division": "1 kg", "due": "9999-12-31"}
        self.assertEqual(self.send("/api/references", bridge, lead).status_code, 422)
        System.objects.filter(pk=self.plant.system.pk).update(due=datetime.date.max)
        Planned.objects.create(system=self.plant.system, day=datetime.date.max)
        self.plant.bridge.due = datetime.date.max
        self.plant.bridge.save()
        link = self.send("/api/feeds", {}).json()["link"]
        for path in (link.partition("8400")[2] or f"/api/{link.partition('/api/')[2]}", "/api/round", "/api/due-dates", "/api/calendar?month_of=2199-12"):  # fmt: skip
            self.assertEqual(self.client.get(path).status_code, 200, path)

    def test_a_fault_of_ours_is_answered_and_logged_and_hides_behind_no_call(self) -> None:
        client = Client(raise_request_exception=False)
        client.force_login(self.plant.technician)
        job = self.plant.job()
        with mock.patch.object(BeltMaterialTest, "assess", side_effect=ValueError("a fault")), self.assertLogs("django.request", "ERROR"):  # fmt: skip
            answer = self.send(f"/api/jobs/{job.id}/entries", entries({"note": "dry"}), client)
        self.assertEqual((answer.status_code, answer["Content-Type"]), (500, "application/problem+json"))
        self.assertFalse(Entry.objects.filter(job=job, path="note").exists())


class OnPaper(Sealed):
    def long(self) -> Any:
        job = self.plant.job()
        loads = [(f"{34 + n / 1000:.3f}", "12.740", f"{21.27 + n / 1000:.3f}") for n in range(400)]
        texts = [("inputs.zero_done", "job"), *runs(loads).items()]
        for begin in range(0, len(texts), 400):
            answer = self.send(f"/api/jobs/{job.id}/entries", entries(dict(texts[begin : begin + 400])))
            self.assertEqual(answer.json()["refused"], [])
        asked = {"signed": "x", "outcome": "out-of-service", "reason": "frame bent"}
        closed = self.send(f"/api/jobs/{job.id}/close", asked)
        self.assertEqual(closed.status_code, 200, closed.content[:300])
        return closed.json()["record"]

    def test_a_long_job_is_printed_in_part_and_says_where_the_rest_is(self) -> None:
        record = self.long()
        text = self.text_of(f"/api/records/{record}/certificate.pdf")
        self.assertIn("280 more rows, up to row 400, are in the readings of this record (CSV)", " ".join(text.split()))
        view = self.client.get(f"/api/records/{record}").json()
        self.assertEqual(view["sheets"], 3)
        first = self.client.get(f"/api/records/{record}/work-sheet.pdf")
        self.assertLess(len(PdfReader(io.BytesIO(first.content)).pages), 15)
        last = self.text_of(f"/api/records/{record}/work-sheet.pdf?sheet=3")
        self.assertIn("Sheet 3 of 3", " ".join(last.split()))
        self.assertIn("Runs 400, gross", " ".join(last.split()))
        rows = self.client.get(f"/api/records/{record}/readings.csv").content.decode("utf-8-sig").splitlines()
        self.assertEqual(len(rows), 1 + len(view["trail"]))
        self.assertIn("Runs 400", rows[-1])

    def test_what_takes_too_much_is_said_and_the_next_page_is_printed(self) -> None:
        record = self.seal()
        tight = OwnProcess("beacon.printing.press", seconds=0.01, memory=1300 * MB)
        with mock.patch.object(printing, "PRESS", tight):
            answer = self.client.get(f"/api/records/{record.id}/certificate.pdf")
        self.assertEqual((answer.status_code, answer.json()["title"]), (422, "This is too long to be printed"))
        self.assertEqual(self.client.get(f"/api/records/{record.id}/certificate.pdf").status_code, 200)


class Printing(SimpleTestCase):
    def test_a_press_that_runs_out_of_memory_or_time_is_replaced(self) -> None:
        press = OwnProcess("beacon.printing.press", seconds=20, memory=1300 * MB)
        page = b"<!doctype html><title>x</title><p>12.4 kg</p>"
        self.assertEqual(press.asked(page)[:5], b"%PDF-")
        press.seconds = 0.001
        with self.assertRaises(TooMuch):
            press.asked(page)
        press.seconds = 20
        self.assertEqual(press.asked(page)[:5], b"%PDF-")
        press.end()
        small = OwnProcess("beacon.printing.press", seconds=20, memory=100 * MB)
        with self.assertRaises(TooMuch):
            small.asked(page + b"12.4 kg " * 8_000_000)
        small.end()


class SigningIn(PlantTestCase):
    def test_another_site_s_page_signs_nobody_in_and_replaces_no_session(self) -> None:
        given = {"username": self.plant.lead.username, "password": PASSWORD}
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.plant.technician)
        client.get("/sign-in")
        token = client.cookies["csrftoken"].value
        # A form or a script of another origin has no token; one that was overheard is of no use with another origin.
        for headers in ({}, {"X-CSRFToken": "x" * 64}, {"X-CSRFToken": token, "Origin": "https://elsewhere.invalid"}, {"X-CSRFToken": token, "Origin": "null"}):  # fmt: skip
            for kind in ("application/json", "text/plain"):
                answer = client.post(SIGN_IN, json.dumps(given), content_type=kind, headers=headers)
                self.assertEqual((answer.status_code, answer.json()["title"]), (403, "Not from here"), headers)
        self.assertEqual(client.get("/api/me").json()["username"], self.plant.technician.username)
        own = client.post(SIGN_IN, json.dumps(given), content_type="application/json", headers={"X-CSRFToken": token, "Origin": "http://testserver"})  # fmt: skip
        self.assertEqual(own.status_code, 409, "whoever is signed in signs out first")

    def test_someone_of_another_organisation_is_invited_and_says_for_themselves_whether_they_come(self) -> None:
        lead, stranger = self.signed_in(self.plant.lead), self.other.technician
        stranger.name = "Corin Hale"
        stranger.save()
        given = {"username": stranger.username, "name": "x", "role": "lead", "sites": []}
        answer = self.send("/api/people", given, lead)
        self.assertEqual(answer.status_code, 200)
        self.assertEqual((answer.json()["invited"], answer.json()["name"]), (True, ""))
        self.assertNotIn("Corin", lead.get("/api/people").content.decode())
        self.assertEqual(self.send(f"/api/people/{stranger.username}/unlock", {}, lead).status_code, 404)
        self.assertFalse(Membership.objects.filter(person=stranger, organisation=self.plant.organisation).exists())
        theirs = self.signed_in(stranger)
        (invitation,) = theirs.get("/api/me").json()["invitations"]
        self.assertEqual((invitation["organisation"], invitation["role"]), ("Gannet Ness", "lead"))
        url = f"/api/invitations/{invitation['id']}"
        self.assertEqual(self.send(f"{url}/accept", {}).status_code, 404)
        me = self.send(f"{url}/accept", {}, theirs).json()
        self.assertEqual(({one["organisation"] for one in me["memberships"]}, me["invitations"]), ({"Gannet Ness", "Far Skerry"}, []))  # fmt: skip
        again = self.send("/api/people", given | {"username": self.other.lead.username}, lead)
        self.assertTrue(again.json()["invited"])
        declined = self.signed_in(self.other.lead)
        (second,) = declined.get("/api/me").json()["invitations"]
        self.assertEqual(self.send(f"/api/invitations/{second['id']}/decline", {}, declined).json()["invitations"], [])
        self.send("/api/people", given | {"username": self.other.lead.username}, lead)
        self.assertEqual(lead.delete(f"/api/people/{self.other.lead.username}").status_code, 204)
        self.assertFalse(Invitation.objects.filter(used_at=None).exists())

    def test_wrong_old_passwords_wait_longer_each_time(self) -> None:
        wrong = {"old": "not-this-one", "new": "kelp-on-the-rocks"}
        said = [self.send("/api/me/password", wrong).status_code for _ in range(7)]
        self.assertEqual(said, [422] * 5 + [429] * 2)
        right = {"old": PASSWORD, "new": "kelp-on-the-rocks"}
        self.assertEqual(self.send("/api/me/password", right).status_code, 429)
        # Signing in is another matter: nobody is locked out of that by it.
        self.assertEqual(Client().post(SIGN_IN, json.dumps({"username": self.plant.technician.username, "password": PASSWORD}), content_type="application/json").status_code, 200)  # fmt: skip

    def test_answers_of_the_api_are_kept_by_no_cache(self) -> None:
        for path in ("/api/me", "/api/round", "/api/log.csv", "/api/nothing", f"/api/systems/{uuid.uuid4()}"):
            self.assertEqual(self.client.get(path)["Cache-Control"], "no-store", path)

    def test_a_page_that_means_another_person_is_answered_as_nobody(self) -> None:
        me = self.client.get("/api/me").json()["id"]
        other = str(Person.objects.get(pk=self.plant.lead.pk).pk)
        self.assertEqual(self.client.get("/api/me", headers={"X-Person": me}).status_code, 200)
        self.assertEqual(self.client.get("/api/me", headers={"X-Person": other}).status_code, 401)
        job = self.plant.job()
        sent = json.dumps(entries({"note": "typed by the lead"}))
        answer = self.client.post(f"/api/jobs/{job.id}/entries", sent, content_type="application/json", headers={"X-Person": other})  # fmt: skip
        self.assertEqual(answer.status_code, 401)
        self.assertFalse(Entry.objects.filter(path="note").exists())


class Scores(PlantTestCase):
    def test_looking_changes_nothing_and_closing_keeps_the_score(self) -> None:
        job = self.send("/api/practice?kind=belt", {}).json()["id"]
        asked = {"signed": "x", "outcome": "abandoned", "reason": "enough of it"}
        self.assertEqual(self.send(f"/api/jobs/{job}/close", asked).status_code, 200)
        kept = Practice.objects.get(job_id=job).scored
        self.assertIn("verdict", kept)
        Practice.objects.filter(job_id=job).update(scored=None)
        for path in (f"jobs/{job}/truth", "practice/page", "practice/progress"):
            self.assertEqual(self.client.get(f"/api/{path}").status_code, 200, path)
        self.assertIsNone(Practice.objects.get(job_id=job).scored)
        self.assertEqual(Job.objects.get(pk=job).state, "abandoned")
