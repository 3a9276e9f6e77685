"""What another organisation has answers 404: every endpoint, asked with ids that exist."""

import re
import uuid
from typing import Any

from allauth.socialaccount.models import SocialApp
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.http import HttpResponse
from django.test import Client

from beacon.accounts.models import House
from beacon.api import api
from beacon.archive.models import Archive, Bundle, Closing
from beacon.bench.models import Entry, Job
from beacon.links.models import Link
from beacon.loads.models import Load
from beacon.mail.models import Mail
from beacon.people.models import Device, Invitation, Membership, Role
from beacon.plant.models import Cell, Event, Site
from beacon.practice.models import Practice, ScenarioSet
from beacon.programs import tokens
from beacon.programs.models import Message, Scope, Webhook
from beacon.records.models import Door, Record
from beacon.setting_up.models import SetUp
from tests.server.pictures import photograph
from tests.server.plant import PlantTestCase, enter, runs
from tests.server.test_closing import IN_ORDER

CLOSING = {"signed": "x", "outcome": "complete"}
BODIES: dict[tuple[str, str], Any] = {
    ("post", "/api/jobs/{job_id}/entries"): [],
    ("post", "/api/jobs/{job_id}/left-behind"): [],
    ("post", "/api/jobs/{job_id}/close"): CLOSING,
    ("post", "/api/systems/{system_id}/events"): {"kind": "idler"},
    ("post", "/api/jobs/{job_id}/stand-in"): {"what": "run"},
    ("put", "/api/references/{reference_id}"): {"name": "x", "division": "1 kg"},
    ("put", "/api/systems/{system_id}/intervals"): {"calibration": [], "why": "x"},
    ("post", "/api/systems/{system_id}/copy"): {"name": "Theirs"},
    ("post", "/api/systems/{system_id}/counters"): {"kind": "hours", "figure": 1},
    ("post", "/api/systems/{system_id}/zero-checks"): {"id": "5d3f0b7e-6a55-4d8e-9f3a-0a3f5f0b7e6a", "text": "0"},
    ("post", "/api/references/{reference_id}/checks"): {
        "id": "5d3f0b7e-6a55-4d8e-9f3a-0a3f5f0b7e6b",
        "mass": "1 kg",
        "shown": "1 kg",
    },
    ("put", "/api/links/{link_id}"): {"name": "x", "way": "serial"},
    ("put", "/api/links/{link_id}/pattern"): {"lines": []},
    ("post", "/api/links/{link_id}/read"): {"lines": []},
    ("put", "/api/systems/{system_id}/plan"): {"day": "2099-01-01"},
    ("put", "/api/houses/{house_id}"): {
        "name": "x",
        "server": "https://x.example",
        "client_id": "x",
        "domains": ["x.example"],
    },
    ("post", "/api/records/{record_id}/put-right"): {"reason": "wrong ticket"},
    ("post", "/api/records/{record_id}/doors"): {"until": "2099-01-01"},
    ("post", "/api/records/{record_id}/late-attachments/{attachment_id}"): {"why": "it came late"},
    ("post", "/api/systems/{system_id}/loads/watch"): {"link": "5d3f0b7e-6a55-4d8e-9f3a-0a3f5f0b7e6a"},
    ("post", "/api/loads/{load_id}/take-out"): {"why": "loaded twice"},
}
SHARED = {"key", "sum_key", "secret"}
"""What is the same for everyone, or is named within one's own organisation."""
OPEN = {
    "/api/ready",
    "/api/alive",
    "/api/calendar/{secret}.ics",
    "/api/mail/stop/{secret}",
    "/api/paper/{secret}",
    "/api/paper/{secret}/{record_id}.pdf",
    "/api/invited/{secret}",
    "/api/ways",
    "/api/houses/{house_id}/begin",
    "/api/factor-lost",
}


class Isolation(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.theirs = self.other.job()
        enter(self.theirs, self.other.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        sealed = self.other.job()
        enter(sealed, self.other.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        client = self.signed_in(self.other.technician)
        self.assertEqual(self.send(f"/api/jobs/{sealed.id}/close", CLOSING, client).status_code, 200)
        self.record = Record.objects.get(job=sealed)
        channel = self.other.system.channels.get()
        Cell.objects.create(channel=channel, place=1, label="theirs")
        Event.objects.create(system=self.other.system, kind="idler", at=self.record.sealed_at, who=self.other.lead)
        practice = self.send("/api/practice?kind=belt", {}, client)
        self.assertEqual(practice.status_code, 201)
        self.practice = practice.json()["id"]
        self.cart = self.other.add_system("Trailer", "cart", "load-cart", {})
        load = self.send(f"/api/systems/{self.cart.id}/loads", {}, client)
        self.assertEqual(load.status_code, 201)
        paper = client.post(
            f"/api/jobs/{self.theirs.id}/attachments?name=x.jpg", photograph(), content_type="application/octet-stream"
        )
        self.assertEqual(paper.status_code, 201, paper.content)
        feed = self.send("/api/feeds", {}, client).json()
        link = Link.objects.create(organisation=self.other.organisation, name="theirs", host="127.0.0.1", address="127.0.0.1", port=1, changed_by=self.other.lead)  # fmt: skip
        link.systems.add(self.cart)
        scenarios = ScenarioSet.objects.create(organisation=self.other.organisation, name="theirs", given_by=self.other.lead)  # fmt: skip
        device = Device.objects.create(person=self.other.technician, session_key="theirs")
        invited = Invitation.objects.create(person=self.other.technician, address="x", organisation=self.other.organisation, role="reader", by=self.other.lead)  # fmt: skip
        program, self.token = tokens.make(self.plant.lead, self.plant.organisation, "ours", list(Scope))
        theirs, _ = tokens.make(self.other.lead, self.other.organisation, "theirs", list(Scope))
        hook = Webhook.objects.create(organisation=self.other.organisation, url="https://theirs.example/", topics=["job.closed"], secret="whsec_", made_by=self.other.lead)  # fmt: skip
        message = Message.objects.create(webhook=hook, topic="job.closed", text="{}")
        door = Door.objects.create(organisation=self.other.organisation, record=self.record, secret_sha256="x", until="2099-01-01", made_by=self.other.lead)  # fmt: skip
        archive = Archive.objects.create(organisation=self.other.organisation, by=self.other.lead, finished_at=self.record.sealed_at)  # fmt: skip
        default_storage.save(archive.name, ContentFile(b"PK"))
        closing = Closing.objects.create(
            pk=987654321, organisation=self.other.organisation, by=self.other.lead, why="x", archive=archive
        )
        mail = Mail.objects.create(organisation=self.other.organisation, person=self.other.lead, kind="due", subject="x", text="x", html="x")  # fmt: skip
        app = SocialApp.objects.create(
            provider="openid_connect", name="theirs", settings={"server_url": "https://x.example"}
        )
        house = House.objects.create(organisation=self.other.organisation, name="theirs", app=app)
        SocialApp.objects.filter(pk=app.pk).update(provider_id=str(house.id))
        bundle = Bundle.objects.create(
            organisation=self.other.organisation,
            by=self.other.lead,
            kind="zip",
            finished_at=self.record.sealed_at,
            of_sites=[self.other.site.pk],
        )
        default_storage.save(bundle.name, ContentFile(b"PK"))
        sheet = SetUp.objects.create(organisation=self.other.organisation, by=self.other.lead, file="x", found={"refused": 0}, finished_at=self.record.sealed_at)  # fmt: skip
        self.ids = {
            "set_up_id": str(sheet.id),
            "house_id": str(house.id),
            "bundle_id": str(bundle.id),
            "door_id": str(door.id),
            "mail_id": str(mail.id),
            "archive_id": str(archive.id),
            "closing_id": str(closing.pk),
            "program_id": str(theirs.id),
            "webhook_id": str(hook.id),
            "message_id": str(message.id),
            "invitation_id": str(invited.id),
            "feed_id": feed["id"],
            "session_id": str(device.id),
            "attachment_id": str(paper.json()["id"]),
            "job_id": str(self.theirs.id),
            "system_id": str(self.other.system.id),
            "reference_id": str(self.other.bridge.id),
            "channel_id": str(channel.id),
            "record_id": str(self.record.id),
            "username": self.other.lead.username,
            "load_id": str(load.json()["id"]),
            "link_id": str(link.id),
            "set_id": str(scenarios.id),
        }

    def urls(self) -> list[tuple[str, str, str]]:
        """Method, path as it is written, and address with ids that exist, for every endpoint that names something."""
        found = []
        for path, methods in api.get_openapi_schema()["paths"].items():
            names = set(re.findall(r"{(\w+)}", path))
            if not names or names & SHARED or path in OPEN:
                continue
            url = path
            for name in names:
                given = self.practice if name == "job_id" and re.search("stand-in|live|truth", path) else self.ids[name]
                if name == "system_id" and "/loads" in path:
                    given = str(self.cart.id)
                if name == "channel_id" and "card" in path:
                    given = str(self.cart.channels.get().id)
                url = url.replace(f"{{{name}}}", given)
            more = "?list=runs" if path.endswith("/rows") else ""
            found += [(method, path, url + more) for method in methods]
        return found

    def ask(self, client: Any, method: str, path: str, url: str) -> HttpResponse:
        if method == "get":
            return client.get(url)
        return self.send(url, BODIES.get((method, path), {}), client, method)

    def test_everything_is_there_for_its_own_people(self) -> None:
        """Otherwise a 404 to others would show nothing."""
        lead = self.signed_in(self.other.lead)
        asked = [one for one in self.urls() if one[0] == "get" and not one[1].endswith(("/live", "/truth"))]
        self.assertGreater(len(asked), 15)
        for method, path, url in asked:
            self.assertEqual(self.ask(lead, method, path, url).status_code, 200, url)

    def test_nothing_of_it_is_there_for_others_whatever_their_role(self) -> None:
        counts = [model.objects.count() for model in (Job, Entry, Record, Event, Cell, Practice, Membership, Load)]
        for role in (Role.TECHNICIAN, Role.LEAD, Role.READER):
            client = self.signed_in(self.plant.people[role])
            for method, path, url in self.urls():
                answer = self.ask(client, method, path, url)
                self.assertEqual(answer.status_code, 404, f"{role}: {method} {url}: {answer.content[:200]!r}")
        after = [model.objects.count() for model in (Job, Entry, Record, Event, Cell, Practice, Membership, Load)]
        self.assertEqual(after, counts)

    def test_nothing_of_it_is_there_for_another_s_token(self) -> None:
        client = Client(headers={"Authorization": f"Bearer {self.token}"})
        found = set()
        for method, path, url in self.urls():
            answer = self.ask(client, method, path, url)
            self.assertIn(answer.status_code, (403, 404), f"{method} {url}: {answer.content[:200]!r}")
            found.add(answer.status_code)
        # What its scopes name is asked for, and is not there; the rest it may not ask for at all.
        self.assertEqual(found, {403, 404})

    def test_nothing_at_all_is_there_for_nobody(self) -> None:
        client = self.client_class()
        for path, methods in api.get_openapi_schema()["paths"].items():
            for method in methods:
                if path in OPEN:
                    continue
                url = re.sub(r"{(\w+)}", lambda name: self.ids.get(name[1], "belt-fine"), path)
                answer = self.ask(client, method, path, url)
                self.assertIn(answer.status_code, (401, 403), f"{method} {url}")

    def test_lists_hold_nothing_of_theirs(self) -> None:
        words = [*self.ids.values(), self.practice, str(self.other.site.id), self.other.technician.username]
        lead = self.signed_in(self.plant.lead)
        for path in (
            "round",
            "system-names",
            "calendar?month_of=2031-03",
            "references",
            "log",
            "people",
            "profiles",
            "instruments",
            "me",
        ):
            text = lead.get(f"/api/{path}").content.decode()
            for word in words:
                self.assertNotIn(word, text, path)

    def test_their_things_cannot_be_named_from_ours(self) -> None:
        job, system = self.plant.job(), f"/api/systems/{self.plant.system.id}"
        refused = self.send_entries(job, {"references.r1.id": self.ids["reference_id"]})["refused"]
        self.assertEqual([one["path"] for one in refused], ["references.r1.id"])
        for body in ({"reference": self.ids["reference_id"]},):
            self.assertIn(self.send(f"{system}/record", body, method="patch").status_code, (404, 422))
        for body in (
            {"system": self.ids["system_id"]},
            {"system": str(self.plant.system.id), "channel": self.ids["channel_id"]},
        ):
            self.assertEqual(self.send("/api/jobs", body | {"method": "visit"}).status_code, 404)
        cell = {"channel": self.ids["channel_id"], "label": "a", "capacity": "1 t"}
        self.assertIn(self.send(f"{system}/cells", cell).status_code, (404, 422))
        self.assertEqual(
            self.send("/api/systems", {"name": "x", "kind": "belt", "site": str(self.other.site.id)}).status_code, 404
        )

    def test_a_reader_sees_records_of_their_sites_and_no_bench(self) -> None:
        reader = self.signed_in(self.other.people[Role.READER])
        self.assertEqual(reader.get(f"/api/records/{self.record.id}").status_code, 200)
        for path in (f"jobs/{self.theirs.id}", f"systems/{self.other.system.id}", f"jobs/{self.practice}"):
            self.assertEqual(reader.get(f"/api/{path}").status_code, 404, path)
        Membership.objects.get(person=self.other.people[Role.READER]).sites.clear()
        self.assertEqual(reader.get(f"/api/records/{self.record.id}").status_code, 404)

    def test_a_reader_of_another_site_has_nothing_of_it(self) -> None:
        reader = self.other.people[Role.READER]
        site = Site.objects.create(organisation=self.other.organisation, name="Elsewhere", time_zone="UTC")
        Membership.objects.get(person=reader).sites.set([site])
        client = self.signed_in(reader)
        for method, path, url in self.urls():
            answer = self.ask(client, method, path, url)
            self.assertEqual(answer.status_code, 404, f"{method} {url}: {answer.content[:200]!r}")
        self.assertEqual(client.get("/api/log").json()["rows"], [])
        self.assertEqual(client.get("/api/due-dates").json(), [])

    def test_what_a_lead_does_no_technician_does(self) -> None:
        technician, lead = self.signed_in(self.other.technician), self.signed_in(self.other.lead)
        for method, path, body in (
            ("get", "people", None), ("post", "people", {"username": "a@b.example", "name": "A", "role": "lead", "password": "kelp-on-rocks"}),
            ("delete", f"people/{self.other.lead.username}", None), ("post", f"people/{self.other.lead.username}/unlock", {}),
            ("post", "references", {"name": "x", "division": "1 kg"}), ("put", f"references/{self.ids['reference_id']}", {"name": "x", "division": "1 kg"}),
            ("put", "profiles/belt-fine", {"accept": "9 %", "repeat": "", "minimum_runs": 1, "plausible": "10 %"}),
            ("post", "instruments", {"name": "x", "fields": []}), ("get", "chain", None), ("post", "chain/verifications", {}), ("get", "chain/seals.csv", None),
            ("post", f"records/{self.ids['record_id']}/put-right", {"reason": "wrong ticket"}),
            ("post", f"references/{self.ids['reference_id']}/attachments", {}),
        ):  # fmt: skip
            ask = getattr(technician, method)
            answer = ask(f"/api/{path}") if body is None else self.send(f"/api/{path}", body, technician, method)
            self.assertEqual(answer.status_code, 404, f"{method} {path}")
        self.assertEqual(lead.get("/api/chain").status_code, 200)
        refused = self.send(
            f"/api/systems/{self.other.system.id}/record", {"profile": "belt-plain"}, technician, "patch"
        )
        self.assertEqual(refused.status_code, 422)

    def test_nothing_is_loosened_or_let_pass_by_another_way_in(self) -> None:
        """What an entry may not say, no file says for it."""
        technician = self.signed_in(self.other.technician)
        job = f"/api/jobs/{self.theirs.id}"
        for source in ("typed", "captured"):
            for path, text in (
                ("profile.accept", "9 %"),
                ("references.r1.allowed_by", "me"),
                ("references.r1.id", str(self.plant.bridge.id)),
            ):
                entry = {"id": str(uuid.uuid4()), "path": path, "text": text, "source": source}
                refused = self.send(f"{job}/entries", [entry], technician).json()["refused"]
                self.assertEqual([one["path"] for one in refused], [path], f"{source} {path}")
        for bad in ("imported", "record"):
            entry = {"id": str(uuid.uuid4()), "path": "references.r1.allowed_by", "text": "me", "source": bad}
            answer = self.send(f"{job}/entries", [entry], technician).json()
            self.assertEqual((answer["kept"], [one["path"] for one in answer["refused"]]), ([], [entry["path"]]))
        document = {"method": "belt-material-test", "inputs": {"runs": []}}
        for loose in (
            {"profile": {"name": "belt-fine", "accept": "9 %"}},
            {"references": [{"name": "x", "due": "2020-01-01", "allowed_by": "me"}]},
        ):
            answer = self.send(f"/api/systems/{self.other.system.id}/jobs/import", document | loose, technician)
            self.assertEqual(answer.status_code, 422, answer.content[:300])
        elsewhere = f"/api/systems/{self.other.system.id}/jobs/import?channel={self.plant.system.channels.get().id}"
        self.assertEqual(self.send(elsewhere, document, technician).status_code, 404)
        cart = f"/api/systems/{self.cart.id}/loads.csv?channel={self.ids['channel_id']}"
        answer = technician.post(cart, b"start,indicated\n2031-03-04 09:30,5 t\n", content_type="text/csv")
        self.assertEqual(answer.status_code, 404)
        rows = technician.post(f"{job}/rows?list=references", b"id\nx\n", content_type="text/csv")
        self.assertEqual(rows.status_code, 422)
