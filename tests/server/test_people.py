"""Signing in, locking out, roles, and what another organisation sees: nothing."""

import uuid

from django.test import Client

from beacon.people.models import Membership, Role
from tests.server.plant import PASSWORD, PlantTestCase


class SigningIn(PlantTestCase):
    def sign_in(self, client: Client, username: str, password: str) -> int:
        return int(self.send("/api/sign-in", {"username": username, "password": password}, client).status_code)

    def test_the_right_password_begins_a_session(self) -> None:
        client = Client()
        self.assertEqual(self.sign_in(client, self.plant.lead.username.upper(), PASSWORD), 200)
        self.assertTrue(client.get("/api/me").json()["leads"])

    def test_five_wrong_ones_lock_the_address_even_for_the_right_one(self) -> None:
        client = Client()
        statuses = [self.sign_in(client, self.plant.lead.username, "wrong") for _ in range(5)]
        self.assertEqual(statuses[:4], [401] * 4)
        self.assertEqual(self.sign_in(client, self.plant.lead.username, PASSWORD), 429)

    def test_without_a_session_everything_answers_401(self) -> None:
        for path in ("/api/me", "/api/round", "/api/log", f"/api/jobs/{uuid.uuid4()}"):
            self.assertEqual(Client().get(path).status_code, 401, path)

    def test_a_request_without_its_token_is_refused(self) -> None:
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.plant.technician)
        answer = self.send("/api/sign-out", {}, client)
        self.assertEqual(answer.status_code, 403)

    def test_signing_out_everywhere_ends_the_other_session_too(self) -> None:
        here, there = self.signed_in(self.plant.lead), self.signed_in(self.plant.lead)
        self.send("/api/sign-out-everywhere", {}, here)
        self.assertEqual(there.get("/api/me").status_code, 401)

    def test_a_new_password_must_be_a_good_one(self) -> None:
        refused = self.send("/api/me/password", {"old": PASSWORD, "new": "short"})
        self.assertEqual([e["path"] for e in refused.json()["errors"]][0], "new")
        self.assertEqual(self.send("/api/me/password", {"old": "no", "new": "long-enough-now"}).status_code, 422)
        self.assertEqual(self.send("/api/me/password", {"old": PASSWORD, "new": "long-enough-now"}).status_code, 204)


class PeopleOfAnOrganisation(PlantTestCase):
    def test_only_a_lead_sees_and_changes_people(self) -> None:
        self.assertEqual(self.client.get("/api/people").status_code, 404)
        lead = self.signed_in(self.plant.lead)
        new = {"username": "ada@x.example", "name": "Ada", "role": "reader", "password": "kelp-on-the-rocks"}
        self.assertEqual(self.send("/api/people", new | {"sites": [str(self.plant.site.id)]}, lead).status_code, 200)
        self.assertEqual(len(lead.get("/api/people").json()), 4)
        stranger = self.send("/api/people", new | {"sites": [str(self.other.site.id)]}, lead)
        self.assertEqual(stranger.status_code, 404)
        self.assertEqual(lead.delete("/api/people/ada@x.example").status_code, 204)

    def test_a_lead_cannot_take_the_role_from_themselves(self) -> None:
        lead = self.signed_in(self.plant.lead)
        me = {"username": self.plant.lead.username, "name": "Lead", "role": "technician"}
        self.assertEqual(self.send("/api/people", me, lead).status_code, 422)


class Readers(PlantTestCase):
    def test_a_reader_sees_the_log_of_their_sites_and_nothing_else(self) -> None:
        reader = self.signed_in(self.plant.people[Role.READER])
        job = self.plant.job()
        self.assertEqual(reader.get("/api/log").status_code, 200)
        self.assertEqual(reader.get("/api/round").status_code, 404)
        self.assertEqual(reader.get(f"/api/jobs/{job.id}").status_code, 404)
        self.assertEqual(self.send(f"/api/jobs/{job.id}/entries", [], reader).status_code, 404)
        self.assertEqual(reader.get(f"/api/systems/{self.plant.system.id}").status_code, 404)

    def test_a_site_taken_away_is_gone(self) -> None:
        Membership.objects.get(person=self.plant.people[Role.READER]).sites.clear()
        reader = self.signed_in(self.plant.people[Role.READER])
        self.assertEqual(reader.get("/api/log").json()["rows"], [])
