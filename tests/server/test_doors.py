"""A customer's door: a link that opens a certificate, or those of one machine, without signing in, and nothing else."""

import datetime
from typing import Any

from django.db import connection
from django.test import Client
from django.utils import timezone

from beacon.records.models import Door, Record
from tests.server.plant import PlantTestCase, enter, runs, today
from tests.server.tampering import untriggered
from tests.server.test_closing import IN_ORDER


class Doors(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.lead, self.nobody = self.signed_in(self.plant.lead), Client()
        self.first, self.second = self.sealed(), self.sealed()

    def sealed(self, system: Any = None) -> Record:
        job = self.plant.job(system=system)
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        answer = self.send(f"/api/jobs/{job.pk}/close", {"signed": "x", "outcome": "complete"})
        self.assertEqual(answer.status_code, 200, answer.content)
        return Record.objects.get(job=job)

    def door(self, days: int = 30, **more: Any) -> str:
        until = str(self.plant.site.day_of(timezone.now()) + datetime.timedelta(days=days))
        made = self.send(f"/api/records/{self.first.pk}/doors", {"until": until} | more, self.lead)
        self.assertEqual(made.status_code, 201, made.content)
        return str(made.json()["link"]).rpartition("/")[2]

    def behind(self, secret: str) -> Any:
        return self.nobody.get(f"/api/paper/{secret}")

    def test_one_certificate_and_nothing_else(self) -> None:
        secret = self.door()
        found = self.behind(secret).json()
        (paper,) = found["records"]
        self.assertEqual((found["organisation"], paper["number"], paper["fits"]), ("Gannet Ness", 1, True))
        self.assertEqual(paper["sha256"], self.first.sha256)
        pdf = self.nobody.get(f"/api/paper/{secret}/{self.first.pk}.pdf")
        self.assertEqual((pdf.status_code, pdf.content[:4]), (200, b"%PDF"))
        self.assertEqual(self.nobody.get(f"/api/paper/{secret}/{self.second.pk}.pdf").status_code, 404)
        for path in (f"records/{self.first.pk}", f"records/{self.first.pk}/certificate.pdf", "log", "me"):
            self.assertEqual(self.nobody.get(f"/api/{path}").status_code, 401)

    def test_all_of_one_machine_and_of_no_other(self) -> None:
        elsewhere = self.sealed(self.plant.add_system("Far belt", "belt", "belt-fine", self.plant.system.plates))
        secret = self.door(of_machine=True)
        self.assertEqual([one["number"] for one in self.behind(secret).json()["records"]], [2, 1])
        third = self.sealed()
        self.assertEqual(self.behind(secret).json()["records"][0]["id"], str(third.pk))
        self.assertEqual(self.nobody.get(f"/api/paper/{secret}/{elsewhere.pk}.pdf").status_code, 404)

    def test_it_says_where_a_seal_does_not_fit(self) -> None:
        secret = self.door()
        with untriggered(), connection.cursor() as cursor:
            cursor.execute(
                "update records_record set content = replace(content, 'Conveyor', 'Another') where number = 1"
            )
        self.assertFalse(self.behind(secret).json()["records"][0]["fits"])

    def test_ended_revoked_or_none_it_is_shut(self) -> None:
        secret = self.door(0)
        self.assertEqual(self.behind(secret).status_code, 200)
        Door.objects.update(until=today() - datetime.timedelta(days=1))
        for path in (secret, f"{secret}/{self.first.pk}.pdf"):
            answer = self.behind(path)
            self.assertEqual((answer.status_code, answer.json()["title"]), (410, "This link is not open any more"))
        secret = self.door()
        door = Door.objects.latest("made_at")
        self.assertEqual(self.lead.delete(f"/api/doors/{door.pk}").status_code, 204)
        self.assertEqual(self.behind(secret).status_code, 410)
        self.assertEqual(self.behind("none").status_code, 404)
        self.assertEqual(self.behind(Door.objects.latest("made_at").secret_sha256).status_code, 404)

    def test_it_is_open_until_the_end_of_a_day_where_the_machine_stands(self) -> None:
        there = self.plant.goes_far_away()
        for more in ({}, {"of_machine": True}):
            secret = self.door(0, **more)
            self.assertEqual({one["day"] for one in self.behind(secret).json()["records"]}, {str(there)})
            Door.objects.update(until=there - datetime.timedelta(days=1))
            self.assertEqual(self.behind(secret).status_code, 410)
            listed = self.lead.get(f"/api/records/{self.first.pk}/doors").json()
            self.assertTrue(all(one["over"] for one in listed))

    def test_a_lead_makes_sees_and_revokes_them_and_nobody_else(self) -> None:
        self.behind(self.door())
        (listed,) = self.lead.get(f"/api/records/{self.first.pk}/doors").json()
        self.assertEqual((listed["opened"], listed["link"], listed["over"]), (1, "", False))
        until = {"until": str(timezone.now().date())}
        for who in (self.plant.technician, self.plant.people["reader"], self.other.lead):
            client = self.signed_in(who)
            self.assertEqual(client.get(f"/api/records/{self.first.pk}/doors").status_code, 404)
            self.assertEqual(self.send(f"/api/records/{self.first.pk}/doors", until, client).status_code, 404)
            self.assertEqual(client.delete(f"/api/doors/{listed['id']}").status_code, 404)
        self.assertIsNone(Door.objects.get().revoked_at)

    def test_a_day_that_is_none_is_refused(self) -> None:
        for day in ("2001-01-01", "2199-01-01", "soon"):
            answer = self.send(f"/api/records/{self.first.pk}/doors", {"until": day}, self.lead)
            self.assertEqual(answer.status_code, 422, day)
        self.assertFalse(Door.objects.exists())

    def test_guessing_is_slowed(self) -> None:
        found = {self.behind(f"guess-{number}").status_code for number in range(125)}
        self.assertEqual(found, {404, 429})
