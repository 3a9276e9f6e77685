"""An organisation's archive: everything that is its own and nothing that is another's, made in the background."""

import hashlib
import io
import json
import shutil
import tempfile
import zipfile
from pathlib import Path
from typing import Any
from unittest import mock

from django.apps import apps
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from beacon.archive import bringing, making, tasks
from beacon.archive.models import Archive, Bundle, Closing
from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from beacon.people.models import Membership, Organisation, Person
from beacon.records.models import Record
from beacon.records.verifying import Broken, verify
from tests.emptied import EmptiedTestCase
from tests.server.background import work
from tests.server.pictures import photograph
from tests.server.plant import GIVEN_UP, Plant, enter
from tests.server.together import at_once, send

ELSEWHERE = {
    # Worked out of others, of one person alone, or of this very server.
    "Dates", "RoundOrder", "Feed", "Watch", "LoadMinute", "Invitation", "Device", "SignInTry", "RateCount", "Person", "Organisation",
    "Door", "SealCount", "Restored", "Program", "Webhook", "Message", "Wish", "Mail", "Archive", "House", "HouseDomain", "OwnLink", "Closing", "Bundle", "SetUp",
    # Practice is no evidence.
    "Practice", "ScenarioSet", "Score", "Seen", "Look", "Action",
}  # fmt: skip


class ArchivedTestCase(EmptiedTestCase):
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


class Archived(ArchivedTestCase):
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
        mine = Entry.objects.filter(who=self.plant.technician, job__practice=False)
        self.assertEqual(sum(one["entries"] for one in found["jobs"]), mine.count())
        with CaptureQueriesContext(connection) as few:
            client.get("/api/me/data.json")
        for _ in range(3):
            enter(self.plant.job(), self.plant.technician, {"note": "another"})
        with CaptureQueriesContext(connection) as more:
            self.assertEqual(len(client.get("/api/me/data.json").json()["jobs"]), 5)
        self.assertEqual(len(more), len(few))


class BroughtBack(ArchivedTestCase):
    """An archive on a server that has nothing of it: this one, with all of it taken out."""

    def setUp(self) -> None:
        super().setUp()
        load = Client()
        load.force_login(self.plant.technician)
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {})
        self.assertEqual(send(load, f"/api/systems/{cart.id}/loads", {}).status_code, 201)
        self.left = self.plant.technician
        Membership.objects.filter(person=self.left).delete()
        self.here = self.plant.organisation
        self.file = Path(tempfile.mkstemp(suffix=".zip")[1])
        self.addCleanup(self.file.unlink)
        self.keep(self.made())

    def keep(self, held: zipfile.ZipFile, **changed: bytes) -> None:
        """Keeps an archive as a file, some of it changed."""
        names = {name.replace("/", "_").replace(".", "_"): name for name in held.namelist()}
        with zipfile.ZipFile(self.file, "w") as into:
            for key, name in names.items():
                into.writestr(name, changed.get(key, held.read(name)))

    def held(self) -> zipfile.ZipFile:
        return zipfile.ZipFile(io.BytesIO(self.file.read_bytes()))

    def empty(self) -> None:
        """As on a server of its own: no row and no file of anybody."""
        with connection.cursor() as cursor:
            cursor.execute("truncate people_person, people_organisation, records_sealcount cascade")
        for plant in (self.plant, self.other):
            shutil.rmtree(default_storage.path(f"papers/{plant.organisation.pk}"))

    def test_it_is_what_it_was_and_goes_on(self) -> None:
        before = {name: model._default_manager.filter(**{way: self.here}).count() for name, (model, way) in making.TABLES.items()}  # fmt: skip
        record = Record.objects.get(organisation=self.here)
        self.empty()
        said = io.StringIO()
        call_command("bring_back", self.file, stdout=said)
        self.assertIn("Gannet Ness is here again: 1 records, 2 people.", said.getvalue())
        after = {name: model._default_manager.filter(**{way: self.here}).count() for name, (model, way) in making.TABLES.items()}  # fmt: skip
        self.assertEqual(after, before)
        found = Record.objects.get()
        self.assertEqual((found.pk, found.sha256, found.content), (record.pk, record.sha256, record.content))
        self.assertEqual([str(one) for one in verify()][:1], ["Gannet Ness: 1 record, every link fits."])
        lead = Person.objects.get(username=self.plant.lead.username)
        self.assertFalse(lead.has_usable_password(), "a password is asked for by mail")
        self.assertEqual(Person.objects.get(username=self.left.username).memberships.count(), 0)
        # New rows get numbers of their own, the chain goes on, and its photographs are there.
        client = Client()
        client.force_login(lead)
        job = Job.objects.get(closed_at=None, channel__system__name="Conveyor")
        self.assertEqual(send(client, f"/api/jobs/{job.pk}/close", GIVEN_UP).status_code, 200)
        self.assertEqual(Record.objects.count(), 2)
        paper = Attachment.objects.get()
        self.assertEqual(client.get(f"/api/attachments/{paper.pk}/file").status_code, 200)
        self.assertEqual([one for one in verify() if isinstance(one, Broken)], [])

    def test_what_is_here_already_is_left_alone(self) -> None:
        with self.assertRaisesMessage(CommandError, "Gannet Ness is on this server already"):
            call_command("bring_back", self.file)
        self.empty()
        Person.objects.create(pk=self.plant.lead.pk, username="else@x.example")
        with self.assertRaisesMessage(CommandError, "bring it back on a server of its own"):
            call_command("bring_back", self.file)
        self.assertFalse(Organisation.objects.exists())

    def test_what_was_changed_in_it_is_found_and_nothing_is_kept(self) -> None:
        held = self.held()
        record = held.read("records/000001.json")
        entries = held.read("tables/entries.jsonl")
        self.empty()
        for changed, why in (
            ({"records_000001_json": record.replace(b"no lorry came", b"two lorries came")}, "is not as it was sealed"),
            ({"tables_entries_jsonl": entries.replace(b"of Gannet Ness", b"of Gannet Moor")}, "Its chain does not fit"),
            ({"tables_systems_jsonl": b"nonsense"}, "no whole archive"),
        ):
            self.keep(held, **changed)
            with self.assertRaisesMessage(CommandError, why):
                call_command("bring_back", self.file)
            self.assertFalse(Organisation.objects.exists() or Person.objects.exists(), why)
        self.keep(held, tables_entries_jsonl=entries.replace(b"of Gannet Ness", b"of Gannet Moor"))
        call_command("bring_back", self.file, although="the note was mended by hand", stdout=io.StringIO())
        self.assertIn("the note was mended by hand", " ".join(str(one) for one in verify()))

    def test_what_would_come_to_far_more_than_an_archive_does_is_left_packed(self) -> None:
        file = Path(tempfile.mkdtemp()) / "bomb.zip"
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("organisation.json", b" " * 250_000_000)
        with self.assertRaisesRegex(bringing.NotBrought, "unpacked it would come to"):
            bringing.bring_back(file)


class Closed(ArchivedTestCase):
    given = {"name": "Gannet Ness", "why": "sold"}

    def test_it_is_closed_and_nobody_sees_any_of_it_and_opened_again_it_says_what_does_not_come_back(self) -> None:
        self.assertEqual(
            send(self.client, "/api/programs", {"name": "Maintenance", "scopes": ["read"]}).status_code, 201
        )
        wrong = send(self.client, "/api/organisation/close", self.given | {"name": "Gannet"})
        self.assertEqual((wrong.status_code, wrong.json()["errors"][0]["path"]), (422, "name"))
        technician = Client()
        technician.force_login(self.plant.technician)
        self.assertEqual(send(technician, "/api/organisation/close", self.given).status_code, 404)
        all_open = self.given | {"with_open_jobs": True}
        self.assertEqual(send(self.client, "/api/organisation/close", all_open).status_code, 204)
        for client in (self.client, technician):
            self.assertEqual((client.get("/api/round").status_code, client.get("/api/me").json()["memberships"]), (404, []))  # fmt: skip
            self.assertEqual(client.get(f"/api/systems/{self.plant.system.pk}").status_code, 404)
        self.assertEqual([one for one in verify() if isinstance(one, Broken)], [], "what was sealed stays sealed")
        said = io.StringIO()
        call_command("reopen", "Gannet Ness", stdout=said)
        self.assertIn("does not come back", said.getvalue())
        self.assertIn("token: Maintenance", said.getvalue())
        self.assertEqual(technician.get("/api/round").status_code, 200)
        self.assertEqual(Membership.objects.get(person=self.plant.people["reader"]).sites.count(), 1)
        with self.assertRaisesMessage(CommandError, "is closed"):
            call_command("reopen", "Gannet Ness")

    def test_jobs_that_are_open_are_named_first(self) -> None:
        for job in Job.objects.filter(closed_at=None, practice=False):
            send(self.client, f"/api/jobs/{job.pk}/close", GIVEN_UP)
        job = self.plant.job()
        enter(job, self.plant.technician, {"note": "half done"})
        answer = send(self.client, "/api/organisation/close", self.given)
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Jobs are open"))
        (row,) = answer.json()["errors"]
        self.assertIn("Conveyor, begun by", row["text"])
        send(self.client, f"/api/jobs/{job.pk}/close", GIVEN_UP)
        self.assertEqual(send(self.client, "/api/organisation/close", self.given).status_code, 204)

    def test_its_archive_is_of_its_very_end_and_for_whoever_closed_it(self) -> None:
        Archive.objects.create(organisation=self.plant.organisation, by=self.plant.lead)
        enter(self.plant.job(), self.plant.technician, {"note": "the last word"})
        self.assertEqual(
            send(self.client, "/api/organisation/close", self.given | {"with_open_jobs": True}).status_code, 204
        )
        (told,) = self.client.get("/api/closed").json()
        self.assertEqual((told["name"], told["archive"]["finished_at"]), ("Gannet Ness", None))
        work()
        (told,) = self.client.get("/api/closed").json()
        url = f"/api/closed/{told['id']}/file.zip"
        content = b"".join(self.client.get(url).streaming_content)  # type: ignore[arg-type]
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            self.assertIn(b"the last word", packed.read("tables/entries.jsonl"))
            members = [json.loads(line) for line in packed.read("tables/members.jsonl").splitlines()]
            self.assertEqual(len(members), 3)
            people = {one["username"]: one["role"] for one in json.loads(packed.read("people.json"))}
        self.assertEqual(people[self.plant.lead.username], "lead")
        for other in (self.plant.technician, self.other.lead):
            client = Client()
            client.force_login(other)
            self.assertEqual((client.get("/api/closed").json(), client.get(url).status_code), ([], 404))
        call_command("reopen", "Gannet Ness", stdout=io.StringIO())
        self.assertEqual((self.client.get("/api/closed").json(), self.client.get(url).status_code), ([], 404))

    def test_two_leads_at_once_close_it_once(self) -> None:
        second = self.plant.person("second@gannet.example", "lead")
        clients = [self.client, Client()]
        clients[1].force_login(second)
        given = self.given | {"with_open_jobs": True}
        said = at_once(
            *[lambda client=client: send(client, "/api/organisation/close", given).status_code for client in clients]
        )  # type: ignore[misc]
        self.assertEqual(sorted(said)[0], 204)
        self.assertIn(sorted(said)[1], (404, 409))
        self.assertEqual(Closing.objects.count(), 1)


class Bundles(ArchivedTestCase):
    def asked(self, client: Client | None = None, **given: Any) -> dict[str, Any]:
        answer = send(client or self.client, "/api/bundles", {"kind": "zip"} | given)
        self.assertEqual(answer.status_code, 202, answer.content)
        work()
        return next(one for one in (client or self.client).get("/api/bundles").json() if one["id"] == answer.json()["id"])  # fmt: skip

    def test_certificates_are_put_together_in_the_background_for_whom_may_see_them(self) -> None:
        found = self.asked()
        self.assertEqual((found["of"], found["done"], found["failed"]), (1, 1, ""))
        file = b"".join(self.client.get(f"/api/bundles/{found['id']}/file").streaming_content)  # type: ignore[arg-type]
        (name,) = zipfile.ZipFile(io.BytesIO(file)).namelist()
        self.assertTrue(name.endswith("-1-Conveyor.pdf"))
        whole = self.asked(kind="pdf")
        self.assertEqual(b"".join(self.client.get(f"/api/bundles/{whole['id']}/file").streaming_content)[:5], b"%PDF-")  # type: ignore[arg-type]
        self.assertIn("No certificate in this period", self.asked(until="2001-01-01")["failed"])
        for other in (self.plant.technician, self.other.lead):
            client = Client()
            client.force_login(other)
            self.assertEqual(client.get("/api/bundles").json(), [])
            self.assertEqual(client.get(f"/api/bundles/{found['id']}/file").status_code, 404)
            self.assertEqual(send(client, "/api/bundles", {"kind": "zip", "site": str(self.other.site.pk)}).status_code, 404 if other == self.plant.technician else 202)  # fmt: skip
        Membership.objects.filter(person=self.plant.lead).delete()
        self.assertEqual(self.client.get(f"/api/bundles/{found['id']}/file").status_code, 404)

    def test_a_worker_that_dies_makes_it_once_and_a_reader_who_may_see_nothing_gets_nothing(self) -> None:
        reader = Client()
        reader.force_login(self.plant.people["reader"])
        before = self.asked(reader)
        self.assertEqual(before["of"], 1)
        self.assertEqual(reader.get(f"/api/bundles/{before['id']}/file").status_code, 200)
        Membership.objects.get(person=self.plant.people["reader"]).sites.clear()
        self.assertEqual(reader.get(f"/api/bundles/{before['id']}/file").status_code, 410)
        self.assertIn("No certificate", self.asked(reader)["failed"])
        one = Bundle.objects.create(organisation=self.plant.organisation, by=self.plant.lead, kind="zip")
        with mock.patch.object(making, "as_zip", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
            tasks.put_together(str(one.pk))
        self.assertFalse(default_storage.exists(one.name))
        tasks.put_together(str(one.pk))
        one.refresh_from_db()
        self.assertEqual((bool(one.finished_at), one.of), (True, 1))
        with mock.patch.object(making, "as_zip") as again:
            tasks.put_together(str(one.pk))
        again.assert_not_called()
