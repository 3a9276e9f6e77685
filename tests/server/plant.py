"""A small plant for the tests: two organisations, people of each role, a belt scale each."""

import datetime
import json
import uuid
from typing import Any

from django.test import Client, TestCase
from django.utils import timezone

from beacon.bench.keeping import Kept, Sent
from beacon.bench.keeping import enter as keep_entries
from beacon.bench.models import Job
from beacon.bench.opening import open_job
from beacon.bench.revisions import snapshot_of
from beacon.people.models import Membership, Organisation, Person, Role
from beacon.plant.models import Channel, LimitProfile, Reference, Site, System, starting_profiles
from beacon.plant.view import today_at
from wary.job.assess import Snapshot
from wary.machines.machine import Part

GIVEN_UP = {"signed": "Ines Marrow", "outcome": "abandoned", "reason": "no lorry came"}
"""What a job is closed with of which nothing came."""
PASSWORD = "a-long-enough-one"
ACCOUNT = "/api/account/browser/v1"
"""Where the library answers: signing in, second factors, links by mail."""
SIGN_IN = f"{ACCOUNT}/auth/login"
PLATES = {"idler_spacing": "0.9 m", "weigh_idlers": 1, "angle": "0 deg", "belt_speed": "2 m/s", "rated_rate": "300 t/h"}
ZONE = "Europe/London"
AGREEING = [("34.10", "12.76", "21.66"), ("32.61", "12.74", "20.13"), ("33.35", "12.74", "20.91")]


def today() -> datetime.date:
    """The day that it is at a plant's yard, which is not the server's for an hour of a summer's night."""
    return today_at(ZONE)


class Plant:
    """An organisation with one site, one weighbridge and one belt scale."""

    def __init__(self, name: str) -> None:
        self.organisation = Organisation.objects.create(name=name)
        starting_profiles(self.organisation)
        self.site = Site.objects.create(organisation=self.organisation, name=f"{name} yard", time_zone=ZONE)
        self.bridge = Reference.objects.create(
            organisation=self.organisation,
            name="Weighbridge",
            division="20 kg",
            range="60 t",
            due=today() + datetime.timedelta(days=90),
        )
        self.system = self.add_system("Conveyor", "belt", "belt-fine", PLATES)
        self.people = {
            role: self.person(f"{role}@{name}.example".replace(" ", "").lower(), role)
            for role in (Role.TECHNICIAN, Role.LEAD, Role.READER)
        }
        Membership.objects.get(person=self.people[Role.READER]).sites.add(self.site)

    def goes_far_away(self) -> datetime.date:
        """The yard stands where it is another day than at the server, whenever this is asked; that day."""
        now = timezone.now()
        for zone in ("Pacific/Kiritimati", "Pacific/Pago_Pago"):
            self.site.time_zone = zone
            if self.site.day_of(now) != now.date():
                break
        self.site.save()
        return self.site.day_of(now)

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
        """A job of one method, or the usual visit of the system's kind."""
        channel = Channel.objects.select_related(
            "system__site__organisation", "system__profile", "system__reference"
        ).get(system=system or self.system, place=0)
        visit = channel.system.machine.visit if method == "visit" else (Part("", method),)
        return open_job(self.technician, channel, visit, "routine").job


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


def enter(job: Job, who: Person, texts: dict[str, str]) -> Kept:
    """Keeps texts at paths, all of which must be kept."""
    kept = keep_entries(who, job.id, [Sent(uuid.uuid4(), path, text) for path, text in texts.items()])
    assert not kept.refused, kept.refused
    return kept


def looked_over(job: Job, who: Person) -> None:
    """Makes every look that is asked for, each in order: what is worth one before trials are closed."""
    for _ in range(12):
        asked = snapshot(job).machine.next_look
        if asked is None:
            return
        enter(job, who, {f"looked.{asked.look.key}": "fine"})


def snapshot(job: Job) -> Snapshot:
    """The job as it stands in the database."""
    return snapshot_of(Job.objects.select_related("channel__system__site__organisation").get(pk=job.pk))


BENCH = ("fields", "rows", "parts", "loose_ends", "ways", "not_valid", "decides", "machine")


def patched(view: dict[str, Any], answer: dict[str, Any]) -> dict[str, Any]:
    """A job as a page holds it after the changes of an answer."""
    changes = answer["changes"] or {}
    held: dict[str, Any] = {key: json.loads(json.dumps(view[key])) for key in BENCH}
    held["fields"] |= changes.get("fields", {})
    empty = {"in_set": True, "net": None, "shown": None, "error": None, "predicted_error": None, "told": {}}
    for name, order in changes.get("order", {}).items():
        known = {row["row"]: row for row in held["rows"].get(name, [])}
        held["rows"][name] = [known.get(row, {"row": row, **empty}) for row in order]
    for name, rows in changes.get("rows", {}).items():
        held["rows"][name] = [row | rows.get(row["row"], {}) for row in held["rows"][name]]
    parts = {part["key"]: part for part in changes.get("parts", [])}
    held["parts"] = [parts.get(part["key"], part) for part in held["parts"]]
    machine = dict(changes.get("machine", {}))
    suspects = {one["key"]: one for one in (*held["machine"]["suspects"], *machine.pop("suspects", []))}
    order = machine.pop("order", [one["key"] for one in held["machine"]["suspects"]])
    held["machine"] |= machine | {"suspects": [suspects[key] for key in order]}
    return held | {key: changes[key] for key in ("loose_ends", "ways", "not_valid", "decides") if key in changes}


def without_nothing(found: Any) -> Any:
    """An answer without what it does not say, so that what is left out equals what is nothing."""
    if isinstance(found, dict):
        return {key: without_nothing(one) for key, one in found.items() if one not in (None, {}, [])}
    return [without_nothing(one) for one in found] if isinstance(found, list) else found


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
        """What the server answers to entries, with the job as it then stands under `job`.

        Whatever the test is about, the page that takes in what changed holds just that job.
        """
        client = client or self.client
        before = client.get(f"/api/jobs/{job.id}").json()
        answer = self.send(f"/api/jobs/{job.id}/entries?after={before['entries']}", entries(texts), client)
        self.assertEqual(answer.status_code, 200, answer.content)
        after = client.get(f"/api/jobs/{job.id}").json()
        held = patched(before, answer.json())
        for key in BENCH:
            self.assertEqual(without_nothing(held[key]), without_nothing(after[key]), key)
        return dict(answer.json()) | {"job": after}
