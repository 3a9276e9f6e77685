"""What comes in malformed gets an answer, what is too much is refused at once, what is away is waited for."""

import asyncio
import json
import logging
import os
import re
import subprocess
import sys
import time
import uuid
from typing import Any
from unittest import mock

from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import OperationalError, connection
from django.test import Client, TestCase, override_settings
from django.test.utils import CaptureQueriesContext
from prometheus_client.parser import text_string_to_metric_families
from psycopg_pool import PoolTimeout

from beacon import asgi
from beacon.bench import keeping
from beacon.bench.models import Entry
from beacon.demo.seed import NotADemo, seed
from beacon.people.models import Organisation
from beacon.people.rate_limit import MOST
from beacon.plant.models import Reference
from tests.server.plant import ACCOUNT, SIGN_IN, PlantTestCase, entries
from tests.server.sealed import Sealed

NASTY = ["a\x00b", "\ud800", "x" * 100_000, 1e999, -(2**70), 2**63, [], {}, [[]], None, True, "", "\u2028", "𐀀", 0.1]


class Malformed(PlantTestCase):
    def raw(self, path: str, body: str | bytes, method: str = "post", client: Any = None) -> Any:
        return getattr(client or self.client, method)(path, body, content_type="application/json")

    def test_nasty_texts_and_numbers_in_every_field_of_every_endpoint_get_an_answer(self) -> None:
        lead, job = self.signed_in(self.plant.lead), self.plant.job()
        system = f"/api/systems/{self.plant.system.id}"
        bodies: list[tuple[str, str, dict[str, Any]]] = [
            ("post", SIGN_IN, {"username": "x", "password": "y"}),
            ("post", f"{ACCOUNT}/auth/password/request", {"email": "x@y.example"}),
            ("post", f"{ACCOUNT}/auth/password/reset", {"key": "x", "password": "y"}),
            ("post", f"{ACCOUNT}/auth/email/verify", {"key": "x"}),
            ("post", f"{ACCOUNT}/auth/2fa/authenticate", {"code": "123456"}),
            ("post", f"{ACCOUNT}/account/authenticators/totp", {"code": "123456"}),
            ("post", f"{ACCOUNT}/auth/webauthn/login", {"credential": {}}),
            ("post", "/api/invited/x", {"name": "x", "password": "y"}),
            ("post", "/api/factor-lost", {"secret": "x"}),
            ("post", "/api/houses", {"name": "x", "server": "https://x.example", "client_id": "x", "secret": "x", "domains": ["x.example"], "roles": {"a": "lead"}}),
            ("put", "/api/second-factor", {"of": "all"}),
            ("patch", "/api/me", {"sheet": "steps", "organisation": None}),
            ("post", "/api/me/password", {"old": "x", "new": "y"}),
            ("post", "/api/people", {"username": "a@b.c", "name": "x", "role": "lead", "sites": []}),
            ("post", "/api/jobs", {"system": str(self.plant.system.id), "method": "visit", "inputs": {"factor": "1"}}),
            ("post", f"/api/jobs/{job.id}/close", {"signed": "x", "outcome": "complete", "reason": "y", "fault": "", "told": ""}),
            ("patch", f"{system}/record", {"name": "x", "material": "y", "plates": {"angle": "1 deg"}, "factor": "1", "lists": {}}),
            ("post", "/api/systems", {"site": str(self.plant.site.id), "kind": "belt", "name": "x", "channels": ["a"]}),
            ("post", f"{system}/channels", {"name": "x", "figures": {}}),
            ("post", f"{system}/cells", {"label": "x", "capacity": "1 t", "serial": "y"}),
            ("post", f"{system}/events", {"kind": "idler", "note": "x", "stale": []}),
            ("put", f"{system}/intervals", {"calibration": [{"kind": "days", "every": 5}], "why": "x"}),
            ("post", f"{system}/counters", {"kind": "hours", "figure": 5}),
            ("put", f"{system}/plan", {"day": "2099-01-01", "username": "", "note": "x"}),
            ("post", "/api/references", {"name": "x", "division": "1 kg", "weights": [], "certificate": "y"}),
            ("post", f"/api/references/{self.plant.bridge.id}/checks", {"id": str(uuid.uuid4()), "mass": "1 kg", "shown": "1 kg"}),
            ("put", "/api/profiles/belt-fine", {"accept": "1 %", "repeat": "", "minimum_runs": 3, "plausible": "10 %"}),
            ("post", "/api/sums/how-much-to-weigh", {"division": {"text": "1 kg", "unit": ""}}),
            ("put", "/api/round/order", {"sites": []}),
            ("post", "/api/instruments", {"name": "x", "fields": []}),
        ]  # fmt: skip
        for method, path, body in bodies:
            for key in body:
                for nasty in NASTY:
                    text = json.dumps(body | {key: nasty})
                    answer = self.raw(path, text, method, lead)
                    self.assertLess(answer.status_code, 500, f"{method} {path} {key}={nasty!r:.60}")
            for whole in ("", "nonsense", "[" * 5000, "null", "[]", "7", '"x"', b"\xff\xfe", '{"a":1e999}'):
                self.assertLess(self.raw(path, whole, method, lead).status_code, 500, f"{path} {whole!r:.40}")

    def test_entries_with_any_time_path_text_and_unit_get_an_answer(self) -> None:
        job = self.plant.job()
        plain = entries({"inputs.factor": "1.1"})[0]
        for key, found in (
            *(("at", at) for at in ("2031-03-04T09:30:00", "2031-03-04T09:30:00+23:59", "0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-14:00", "soon", 1e20, -1)),
            *((key, nasty) for key in ("id", "path", "text", "unit", "source", "steady", "supersedes", "undoes") for nasty in NASTY),
            ("path", "references.r1.id"), ("path", "profile.accept"), ("path", "runs.r1.gross"),
        ):  # fmt: skip
            body = json.dumps([plain | {"id": str(uuid.uuid4())} | {key: found}])
            answer = self.raw(f"/api/jobs/{job.id}/entries", body)
            self.assertIn(answer.status_code, (200, 422), f"{key}={found!r:.60}: {answer.content[:200]!r}")
        self.assertEqual(self.client.get(f"/api/jobs/{job.id}").status_code, 200)

    def test_queries_and_addresses_that_are_none_get_an_answer(self) -> None:
        job, system, bridge = self.plant.job(), self.plant.system, self.plant.bridge
        channel = system.channels.get()
        for path in (
            "log?find=%00", "log?find=%ED%A0%80", "log?before=0669-08-16T03:43:21-23:28", f"references/{bridge.id}/jobs?before=-3504",
            f"references/{bridge.id}/jobs?before=99999999999999999999", f"jobs/{job.id}/changes?after=-1",
            f"jobs/{job.id}/changes?after=9999999999999999", f"jobs/{job.id}/entries?after=1&path=%00", "jobs/none", "records/%00",
            f"channels/{channel.id}/visits?before=0001-01-01T00:00:00", f"channels/{channel.id}/visits?before=0001-01-01T00:00:00%2B14:00",
            "sums/%00", "profiles/%00", "people/%00", "calendar?month_of=%00", "log?kind=%00", "log.csv?find=%00", "calendar/%00.ics",
            f"jobs/{job.id}/entries?path={'x' * 5000}", "log?reference=none",
        ):  # fmt: skip
            for method in ("get", "post", "put", "patch", "delete"):
                answer = getattr(self.client, method)(f"/api/{path}")
                self.assertLess(answer.status_code, 500, f"{method} {path}")
        for seed_ in ("99999999999999999999999", "-1", "x"):
            self.assertEqual(self.client.post(f"/api/practice?seed={seed_}").status_code, 422)

    def test_files_that_are_none_get_an_answer(self) -> None:
        job, system = self.plant.job(), self.plant.system
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {})
        for content in (
            b"", b"\x00", b"\xff\xfe\x00", b"{", b'{"method":"belt-material-test","inputs":{"factor":1e999}}', b'{"a":"\\ud800"}',
            b'{"method":"belt-material-test","inputs":{"runs":[{"gross":"1 t","note":"\\u0000"}]}}', b"[" * 60_000, b"null",
            b"a,b\r1,2\r", b'"a,b\n1', b"gross\n1e300 t\n", b"gross\n\xc3\x28\n", b"start,indicated\n2031,\x00\n",
        ):  # fmt: skip
            for path in (
                f"/api/systems/{system.id}/jobs/import", f"/api/jobs/{job.id}/rows?list=runs", f"/api/systems/{cart.id}/loads.csv",
                f"/api/jobs/{job.id}/rows?list=%00", f"/api/jobs/{job.id}/attachments", f"/api/jobs/{job.id}/rows?list=runs&columns=%7B",
            ):  # fmt: skip
                answer = self.client.post(path, content, content_type="application/octet-stream")
                self.assertIn(answer.status_code, (200, 404, 409, 422), f"{path} {content[:30]!r}")

    def test_a_word_longer_than_what_is_kept_of_it_is_said(self) -> None:
        with mock.patch(
            "beacon.people.api.me_view", side_effect=lambda user: Organisation.objects.create(name="x" * 500)
        ):
            answer = self.client.get("/api/me")
        self.assertEqual((answer.status_code, answer.json()["title"]), (422, "This cannot be kept"))


class TooMuch(PlantTestCase):
    def test_a_body_of_many_entries_is_refused_before_any_of_them_is_kept_or_assessed(self) -> None:
        job = self.plant.job()
        many = [{"id": str(uuid.uuid4()), "path": f"runs.r{n}.gross", "text": "1 t"} for n in range(40_000)]
        long = [{"id": str(uuid.uuid4()), "path": "note", "text": "x" * 2000} for _ in range(400)]
        for body in (many, long):
            with CaptureQueriesContext(connection) as asked:
                answer = self.send(f"/api/jobs/{job.id}/entries", body)
            self.assertEqual(answer.status_code, 413, answer.content[:200])
            # Who asks, and whether the job is theirs: nothing that grows with what was sent.
            self.assertLess(len(asked), 12)
        self.assertFalse(Entry.objects.filter(job=job, path="note").exists())

    def test_a_job_and_a_list_have_a_most_that_is_said_in_words(self) -> None:
        job = self.plant.job()
        with mock.patch.object(keeping, "MOST_ROWS", 3):
            refused = self.send_entries(job, {f"runs.r{n}.gross": "1 t" for n in range(5)})["refused"]
            self.assertEqual([one["path"] for one in refused], ["runs.r3.gross", "runs.r4.gross"])
            self.assertIn("at most 3 rows", refused[0]["text"])
            self.assertEqual(self.send_entries(job, {"runs.r1.indicated": "1 t"})["refused"], [])
        with mock.patch.object(keeping, "MOST_ENTRIES", job.trail.count() + 2):
            refused = self.send_entries(job, {"note": "a", "conditions": "b", "inputs.factor": "1.2"})["refused"]
            self.assertIn("Close this one, and open another", refused[0]["text"])

    def test_a_body_that_is_too_large_ends_before_anything_of_it_is_put_away(self) -> None:
        sent: list[dict[str, Any]] = []
        reached: list[int] = []

        async def behind(scope: Any, receive: Any, send: Any) -> None:
            while (await receive()).get("more_body"):
                reached.append(1)

        def ask(headers: list[tuple[bytes, bytes]], path: str, pieces: int) -> None:
            left = [{"type": "http.request", "body": b"x" * 2**20, "more_body": n + 1 < pieces} for n in range(pieces)]

            async def receive() -> dict[str, Any]:
                return left.pop(0)

            async def send(message: dict[str, Any]) -> None:
                sent.append(message)

            scope = {"type": "http", "path": path, "headers": headers}
            asyncio.run(asgi.bounded(behind)(scope, receive, send))

        ask([(b"content-length", b"999999999")], "/api/jobs/x/entries", 1)
        self.assertEqual((sent[0]["status"], reached), (413, []))
        ask([], "/api/jobs/x/entries", 30)
        self.assertEqual((sent[2]["status"], len(reached)), (413, 5))
        reached.clear()
        ask([], "/api/jobs/x/attachments", 20)
        self.assertEqual(len(reached), 19)
        ask([(b"content-length", b"many")], "/", 1)
        self.assertEqual(sent[-2]["status"], 413)


class Away(PlantTestCase):
    def test_while_the_database_is_away_it_is_said_to_wait(self) -> None:
        with mock.patch("beacon.people.api.seen", side_effect=OperationalError("the connection is lost")):
            answer = self.client.get("/api/me")
        self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "2"))
        self.assertEqual(answer["Content-Type"], "application/problem+json")
        self.assertEqual(self.client.get("/api/me").status_code, 200)

    def test_also_where_no_endpoint_was_reached_yet(self) -> None:
        client = Client(raise_request_exception=False)
        client.force_login(self.plant.technician)
        with mock.patch("django.contrib.sessions.backends.db.SessionStore.load", side_effect=OperationalError("gone")):
            answer = client.get("/api/me")
        self.assertEqual(answer.status_code, 503)
        with (
            mock.patch("beacon.web._page", side_effect=ValueError("broken")),
            self.assertLogs("django.request", logging.ERROR),
        ):
            answer = client.get("/")
        self.assertEqual((answer.status_code, answer.json()["title"]), (500, "The server could not answer"))

    def test_alive_asks_nothing_of_the_database_and_ready_does(self) -> None:
        with mock.patch.object(connection, "cursor", side_effect=OperationalError("gone")):
            self.assertEqual(Client().get("/api/alive").status_code, 200)
        for away in (OperationalError("gone"), PoolTimeout("none is free")):
            with mock.patch("beacon.api._reached", side_effect=away):
                self.assertEqual(Client().get("/api/ready").status_code, 503)
        began = time.monotonic()
        with mock.patch("beacon.api._reached", side_effect=lambda: time.sleep(2.5)):
            self.assertEqual(Client().get("/api/ready").status_code, 503)
        self.assertLess(time.monotonic() - began, 4.0)
        self.assertEqual(Client().get("/api/ready").status_code, 200)


class Observed(Sealed):
    def test_a_request_is_one_line_without_figures_ids_or_secrets(self) -> None:
        job = self.plant.job()
        with override_settings(REQUEST_LOG=True), self.assertLogs("beacon.requests", logging.INFO) as said:
            self.send(f"/api/jobs/{job.id}/entries", entries({"inputs.factor": "1.2345"}))
            self.send(SIGN_IN, {"username": "x@y.example", "password": "very-secret"}, Client())
        self.assertEqual(len(said.output), 2)
        self.assertRegex(
            said.output[0], rf"{self.plant.technician.username} POST /api/jobs/<job_id>/entries 200 \d+ ms"
        )
        for secret in (str(job.id), "1.2345", "very-secret", "x@y.example"):
            self.assertNotIn(secret, " ".join(said.output))

    def test_metrics_are_there_only_where_they_are_switched_on(self) -> None:
        self.assertEqual(self.client.get("/metrics").status_code, 404)
        with override_settings(METRICS=True):
            self.client.get("/api/me")
            text = self.client.get("/metrics").content.decode()
        names = {family.name for family in text_string_to_metric_families(text)}
        self.assertLessEqual(
            {"beacon_requests", "beacon_request_seconds", "beacon_entries_kept", "beacon_open_streams"}, names
        )

    def test_what_costs_much_is_limited_for_each_person(self) -> None:
        with mock.patch.dict(MOST, {"tables to take away": 2}):
            self.assertEqual([self.client.get("/api/log.csv").status_code for _ in range(3)], [200, 200, 429])
            self.assertEqual(self.signed_in(self.plant.lead).get("/api/log.csv").status_code, 200)
        answer = self.client.get("/api/log.csv")
        self.assertEqual(answer.status_code, 200)

    def test_nothing_typed_is_ever_markup_on_paper(self) -> None:
        self.plant.system.name = "<script>alert(1)</script>"
        self.plant.system.save()
        record = self.seal()
        text = self.text_of(f"/api/records/{record.id}/certificate.pdf")
        self.assertIn("<script>", text)


class Deployed(TestCase):
    def test_with_https_cookies_are_secure_and_browsers_are_told_to_stay_with_it(self) -> None:
        more = {
            "BEACON_HTTPS": "1",
            "BEACON_SECRET_KEY": "k" * 30 + "eptsecretandlongenough0123456789!",
            "DJANGO_SETTINGS_MODULE": "beacon.settings",
        }
        command = [sys.executable, "manage.py", "check", "--deploy"]
        done = subprocess.run(command, env=os.environ | more, capture_output=True, text=True, cwd=settings.ROOT)
        # Whose subdomains and whether for good is for the owner of the name to say.
        self.assertEqual(set(re.findall(r"security.(W\d+)", done.stderr + done.stdout)), {"W005", "W021"}, done.stderr)


class DemoAndReal(TestCase):
    def test_the_demo_s_accounts_are_never_made_beside_real_ones(self) -> None:
        Organisation.objects.create(name="Far Skerry")
        with self.assertRaises(NotADemo):
            seed()
        with self.assertRaises(CommandError):
            call_command("seed_demo")

    def test_nothing_begins_for_real_where_the_demo_is(self) -> None:
        Organisation.objects.create(name="Gannet Ness Kelp & Shell")
        for name in ("Far Skerry", "Gannet Ness Kelp & Shell"):
            with (
                mock.patch.dict("os.environ", {"BEACON_PASSWORD": "kelp-on-the-rocks"}),
                self.assertRaises(CommandError),
            ):
                call_command("begin", name, "lead@skerry.example")
        self.assertFalse(Reference.objects.exists())
