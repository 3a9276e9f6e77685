"""Signing in, locking out, roles, and what another organisation sees: nothing."""

import uuid
from ipaddress import ip_network
from unittest import mock

from django.test import Client
from django.utils import timezone

from beacon.people.models import Membership, Role, SignInTry
from tests.server.plant import PASSWORD, SIGN_IN, PlantTestCase


class SigningIn(PlantTestCase):
    def sign_in(self, client: Client, username: str, password: str) -> int:
        return int(self.send(SIGN_IN, {"username": username, "password": password}, client).status_code)

    def test_the_right_password_begins_a_session(self) -> None:
        client = Client()
        self.assertEqual(self.sign_in(client, self.plant.lead.username.upper(), PASSWORD), 200)
        self.assertTrue(client.get("/api/me").json()["leads"])

    def test_after_five_wrong_ones_the_right_one_waits_too_and_longer_each_time(self) -> None:
        client, name = Client(), self.plant.lead.username
        self.assertEqual([self.sign_in(client, name, "wrong") for _ in range(5)], [400] * 5)
        self.assertEqual(self.sign_in(client, name, PASSWORD), 429)
        waits = []
        for _ in range(3):
            tried = SignInTry.objects.get(name=name)
            waits.append(round((tried.until - tried.latest).total_seconds() / 60) if tried.until else 0)
            SignInTry.objects.update(until=timezone.now())
            self.assertEqual(self.sign_in(client, name, "wrong"), 400)
        self.assertEqual(waits, [1, 2, 4])
        SignInTry.objects.update(until=timezone.now())
        self.assertEqual(self.sign_in(client, name, PASSWORD), 200)
        self.assertFalse(SignInTry.objects.exists())

    def test_a_stranger_elsewhere_shuts_nobody_out_and_a_lead_unlocks(self) -> None:
        name = self.plant.technician.username
        stranger, colleague = Client(REMOTE_ADDR="203.0.113.9"), Client(REMOTE_ADDR="198.51.100.4")
        for _ in range(8):
            self.sign_in(stranger, name, "wrong")
        self.assertEqual(self.sign_in(stranger, name, PASSWORD), 429)
        self.assertEqual(self.sign_in(colleague, name, PASSWORD), 200)
        unlock = f"/api/people/{name}/unlock"
        self.assertEqual(self.send(unlock, {}, self.signed_in(self.other.lead)).status_code, 404)
        self.assertEqual(self.send(unlock, {}, self.signed_in(self.plant.lead)).status_code, 204)
        self.assertEqual(self.sign_in(stranger, name, PASSWORD), 200)

    def test_an_address_that_is_forwarded_is_believed_from_named_proxies_alone(self) -> None:
        for networks, forwarded, address in (
            ([], "203.0.113.9", "127.0.0.1"), (["127.0.0.1/32"], "203.0.113.9", "203.0.113.9"),
            (["127.0.0.1/32"], "6.6.6.6, 203.0.113.9", "203.0.113.9"), (["127.0.0.0/8", "10.0.0.0/8"], "203.0.113.9, 10.1.1.1", "203.0.113.9"),
            (["127.0.0.1/32"], "nonsense", "nonsense"),
        ):  # fmt: skip
            with mock.patch("beacon.metrics.NETWORKS", [ip_network(one) for one in networks]):
                SignInTry.objects.all().delete()
                self.sign_in(Client(headers={"x-forwarded-for": forwarded}), "nobody@x.example", "wrong")
            self.assertEqual(SignInTry.objects.get().address, address)

    def test_many_names_from_one_address_are_slowed_down(self) -> None:
        client = Client()
        statuses = [self.sign_in(client, f"n{number}@x.example", "wrong") for number in range(62)]
        self.assertEqual((statuses[59], statuses[60]), (400, 429))

    def test_a_plant_behind_one_address_signs_in_as_often_as_it_likes(self) -> None:
        name = self.plant.technician.username
        with mock.patch.dict("beacon.people.rate_limit.MOST", {"sign-ins": 3}):
            self.assertEqual([self.sign_in(Client(), name, PASSWORD) for _ in range(6)], [200] * 6)
            wrong = [self.sign_in(Client(), f"n{number}@x.example", "wrong") for number in range(5)]
            self.assertEqual(wrong, [400, 400, 400, 429, 429])

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
