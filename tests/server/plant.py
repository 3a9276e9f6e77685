"""A small plant for the tests: two organisations, people of each role, a belt scale each."""

import datetime
import json
import uuid
from typing import Any

from django.test import Client, TestCase

from beacon.bench.keeping import Given, keep, open_job
from beacon.bench.models import Job
from beacon.people.models import Membership, Organisation, Person, Role
from beacon.plant.models import Channel, LimitProfile, Reference, Site, System, starting_profiles

PASSWORD = "a-long-enough-one"
PLATES = {"idler_spacing": "0.9 m", "weigh_idlers": 1, "angle": "0 deg", "belt_speed": "2 m/s", "rated_rate": "300 t/h"}
AGREEING = [("34.10", "12.76", "21.66"), ("32.61", "12.74", "20.13"), ("33.35", "12.74", "20.91")]


class Plant:
    """An organisation with one site, one weighbridge and one belt scale."""

    def __init__(self, name: str) -> None:
        self.organisation = Organisation.objects.create(name=name)
        starting_profiles(self.organisation)
        self.site = Site.objects.create(organisation=self.organisation, name=f"{name} yard", time_zone="Europe/London")
        self.bridge = Reference.objects.create(
            organisation=self.organisation,
            name="Weighbridge",
            division="20 kg",
            range="60 t",
            due=datetime.date.today() + datetime.timedelta(days=90),
        )
        self.system = self.add_system("Conveyor", "belt", "belt-fine", PLATES)
        self.people = {
            role: self.person(f"{role}@{name}.example".replace(" ", "").lower(), role)
            for role in (Role.TECHNICIAN, Role.LEAD, Role.READER)
        }
        Membership.objects.get(person=self.people[Role.READER]).sites.add(self.site)

    def add_system(self, name: str, kind: str, profile: str, plates: dict[str, Any], **more: Any) -> System:
        system = System.objects.create(
            site=self.site,
            kind=kind,
            name=name,
            plates=plates,
            profile=LimitProfile.objects.get(organisation=self.organisation, key=profile),
            reference=self.bridge,
            **more,
        )
        Channel.objects.create(system=system, name="main", factor="1.1420")
        return system

    def person(self, address: str, role: str) -> Person:
        person = Person.objects.create_user(address, address, PASSWORD, name=address.partition("@")[0].title())
        Membership.objects.create(person=person, organisation=self.organisation, role=role)
        return person

    @property
    def technician(self) -> Person:
        return self.people[Role.TECHNICIAN]

    @property
    def lead(self) -> Person:
        return self.people[Role.LEAD]

    def job(self, method: str = "belt-material-test", system: System | None = None) -> Job:
        channel = Channel.objects.select_related(
            "system__site__organisation", "system__profile", "system__reference"
        ).get(system=system or self.system, place=0)
        return open_job(self.technician, channel, method, "routine").job


def entries(texts: dict[str, str]) -> list[dict[str, Any]]:
    """Entries as a device sends them."""
    return [{"id": str(uuid.uuid4()), "path": path, "text": text} for path, text in texts.items()]


def runs(loads: list[tuple[str, ...]], name: str = "runs") -> dict[str, str]:
    """Texts of runs from (gross, tare, indicated), in tonnes."""
    texts: dict[str, str] = {}
    for number, (gross, tare, indicated) in enumerate(loads, 1):
        row = f"{name}.r{number}"
        texts |= {f"{row}.gross": f"{gross} t", f"{row}.tare": f"{tare} t", f"{row}.indicated": f"{indicated} t"}
    return texts


def enter(job: Job, who: Person, texts: dict[str, str]) -> None:
    kept = keep(who, job, [Given(uuid.uuid4(), path, text) for path, text in texts.items()])
    assert not kept.refused, kept.refused


class PlantTestCase(TestCase):
    """Two plants, and a client signed in as the first one's technician."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.plant = Plant("Gannet Ness")
        cls.other = Plant("Far Skerry")

    def setUp(self) -> None:
        self.client.force_login(self.plant.technician)

    def signed_in(self, person: Person) -> Client:
        client = Client()
        client.force_login(person)
        return client

    def send(self, path: str, body: Any, client: Client | None = None, method: str = "post") -> Any:
        send = getattr(client or self.client, method)
        return send(path, json.dumps(body), content_type="application/json")

    def send_entries(self, job: Job, texts: dict[str, str], client: Client | None = None) -> dict[str, Any]:
        answer = self.send(f"/api/jobs/{job.id}/entries", entries(texts), client)
        self.assertEqual(answer.status_code, 200, answer.content)
        return dict(answer.json())
