"""An organisation's archive: everything that is its own and nothing that is another's, made in the background."""

import hashlib
import io
import json
import zipfile
from typing import Any
from unittest import mock

from django.apps import apps
from django.core.files.storage import default_storage
from django.test import Client
from django.utils import timezone

from beacon.archive import making, tasks
from beacon.archive.models import Archive
from beacon.records.models import Record
from tests.emptied import EmptiedTestCase
from tests.server.background import work
from tests.server.pictures import photograph
from tests.server.plant import Plant, enter
from tests.server.together import at_once, send

GIVEN_UP = {"signed": "Ines Marrow", "outcome": "abandoned", "reason": "no lorry came"}
ELSEWHERE = {
    # Worked out of others, of one person alone, or of this very server.
    "Dates", "RoundOrder", "Feed", "Watch", "LoadMinute", "Invitation", "Device", "SignInTry", "RateCount", "Person", "Organisation",
    "Record", "Door", "SealCount", "Restored", "Program", "Webhook", "Message", "Wish", "Mail", "Archive", "House", "HouseDomain",
    # Practice is no evidence.
    "Practice", "ScenarioSet", "Score", "Seen", "Look", "Action",
}  # fmt: skip


class Archived(EmptiedTestCase):
    def setUp(self) -> None:
        self.plant, self.other = Plant("Gannet Ness"), Plant("Far Skerry")
        self.client.force_login(self.plant.lead)
        for plant in (self.plant, self.other):
            client = Client()
            client.force_login(plant.lead)
            job = plant.job()
            enter(job, plant.technician, {"note": f"of {plant.organisation}"})
            client.post(
                f"/api/jobs/{job.pk}/attachments?name=x.jpg", photograph(), content_type="application/octet-stream"
            )
            self.assertEqual(send(client, f"/api/jobs/{job.pk}/close", GIVEN_UP).status_code, 200)
            plant.job()

    def made(self) -> zipfile.ZipFile:
        answer = send(self.client, "/api/archives", {})
        self.assertEqual(answer.status_code, 202, answer.content)
        work()
        found = self.client.get(f"/api/archives/{answer.json()['id']}/file.zip")
        self.assertEqual(found.status_code, 200)
        return zipfile.ZipFile(io.BytesIO(b"".join(found.streaming_content)))  # type: ignore[arg-type]

    def test_all_that_is_its_own_and_nothing_of_another(self) -> None:
        held = self.made()
        names = held.namelist()
        record = Record.objects.get(organisation=self.plant.organisation)
        sealed = held.read("records/000001.json")
        self.assertEqual(hashlib.sha256(sealed).hexdigest(), record.sha256)
        self.assertIn(record.sha256, held.read("seals.csv").decode())
        self.assertEqual(sum(name.startswith("open/") for name in names), 1)
        (file,) = [name for name in names if name.startswith("files/")]
        self.assertEqual(hashlib.sha256(held.read(file)).hexdigest(), file[6:70])
        entries = [json.loads(line) for line in held.read("tables/entries.jsonl").decode().splitlines()]
        self.assertIn("of Gannet Ness", [one["fields"]["text"] for one in entries])
        for name in names:
            content = held.read(name)
            for word in (b"Far Skerry", str(self.other.system.pk).encode(), self.other.lead.username.encode()):
                self.assertNotIn(word, content, name)
            for secret in (b"pbkdf2", b"md5$", self.plant.lead.password.encode()):
                self.assertNotIn(secret, content, name)
        shown = self.client.get("/api/archives").json()[0]
        self.assertEqual(shown["done"], shown["of"])
        self.assertEqual(len(names), shown["of"])

    def test_every_table_is_in_it_or_is_named_as_left_out(self) -> None:
        there = {model for model, _ in making.TABLES.values()}
        for model in apps.get_models():
            if model.__module__.startswith("beacon.") and not model.__module__.startswith("beacon.practice"):
                self.assertTrue(model in there or model.__name__ in ELSEWHERE, model)

    def test_one_at_a_time_whoever_asks(self) -> None:
        clients = [Client() for _ in range(3)]
        for client in clients:
            client.force_login(self.plant.lead)
        found = at_once(*[lambda client=client: send(client, "/api/archives", {}) for client in clients])  # type: ignore[misc]
        self.assertEqual(sorted(one.status_code for one in found), [202, 409, 409])
        work()
        self.assertEqual(send(self.client, "/api/archives", {}).status_code, 202)

    def test_stopped_in_the_middle_it_is_made_again_whole(self) -> None:
        one = Archive.objects.create(organisation=self.plant.organisation, by=self.plant.lead)
        real = making._parts

        def stopped(here: Any) -> Any:
            for place, part in enumerate(real(here)):
                if place == 3:
                    raise KeyboardInterrupt
                yield part

        with mock.patch.object(making, "_parts", stopped), self.assertRaises(KeyboardInterrupt):
            tasks.make(str(one.pk))
        self.assertFalse(default_storage.exists(one.name))
        tasks.make(str(one.pk))
        one.refresh_from_db()
        self.assertIsNotNone(one.finished_at)
        size = one.size
        # A worker that comes back with it makes nothing anew.
        tasks.make(str(one.pk))
        self.assertEqual(default_storage.size(one.name), size)

    def test_how_far_it_is_is_seen_and_a_full_disk_is_said(self) -> None:
        one = Archive.objects.create(organisation=self.plant.organisation, by=self.plant.lead)
        with mock.patch.object(making, "TOLD_EVERY", 1), mock.patch.object(default_storage, "save", side_effect=OSError(28, "full")), self.assertLogs("beacon", "ERROR"):  # fmt: skip
            tasks.make(str(one.pk))
        one.refresh_from_db()
        self.assertGreater(one.done, 0)
        self.assertIn("no room", one.failed)
        self.assertEqual(self.client.get(f"/api/archives/{one.pk}/file.zip").status_code, 404)
        self.assertEqual(send(self.client, "/api/archives", {}).status_code, 202)

    def test_after_a_week_it_is_let_go_of(self) -> None:
        self.made()
        Archive.objects.update(at=timezone.now() - making.KEPT_FOR * 2)
        making.forget()
        one = Archive.objects.get()
        self.assertFalse(default_storage.exists(one.name))
        self.assertEqual(self.client.get(f"/api/archives/{one.pk}/file.zip").status_code, 410)

    def test_only_a_lead_of_its_own(self) -> None:
        self.made()
        one = Archive.objects.get()
        for who in (self.plant.technician, self.plant.people["reader"], self.other.lead):
            client = Client()
            client.force_login(who)
            self.assertEqual(client.get(f"/api/archives/{one.pk}/file.zip").status_code, 404)
            if who != self.other.lead:
                self.assertEqual(send(client, "/api/archives", {}).status_code, 404)
                self.assertEqual(client.get("/api/archives").status_code, 404)

    def test_everyone_has_what_is_known_of_them(self) -> None:
        client = Client()
        client.force_login(self.plant.technician)
        found = client.get("/api/me/data.json").json()
        self.assertEqual((found["address"], [one["machine"] for one in found["jobs"]]), (self.plant.technician.username, ["Conveyor"] * 2))  # fmt: skip
        self.assertNotIn("password", json.dumps(found))
