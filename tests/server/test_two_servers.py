"""Two server processes behind nginx, each request to the other one: what is kept by one is known to both."""

import os
import shutil
import subprocess
import tempfile
import time
import uuid
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest.mock import patch

import httpx
from django.conf import settings
from django.test import Client
from django.utils import timezone

from beacon.archive.models import Archive
from beacon.database import clock
from beacon.links.models import Link
from beacon.loads.models import Load
from beacon.people.models import Person
from tests.clusters import free_port
from tests.emptied import EmptiedTestCase
from tests.served import begun
from tests.server.on_the_line import on_the_line
from tests.server.plant import Plant, enter, runs

ROOT = Path(settings.ROOT)
CONF = """
user root; worker_processes 1; daemon off; pid {at}/pid; error_log {at}/log;
events {{ worker_connections 256; }}
http {{ access_log off;
  client_body_temp_path {at}/body; proxy_temp_path {at}/proxy; fastcgi_temp_path {at}/f; uwsgi_temp_path {at}/u; scgi_temp_path {at}/s;
  {site} }}
"""


class TwoServers(EmptiedTestCase):
    """The proxy's own configuration, with two of our servers behind it and nobody who is kept at one of them."""

    servers: list[tuple[str, Any]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        if os.geteuid() != 0:
            return
        # What is done in the background is the second one's; the first leaves it to others.
        cls.servers = [begun(BEACON_PROXIES="127.0.0.1"), begun(BEACON_WORKS="1", BEACON_PROXIES="127.0.0.1")]
        cls.at = Path(tempfile.mkdtemp(prefix="beacon-proxy-"))
        ports = [address.rpartition(":")[2] for address, _ in cls.servers]
        listen = free_port()
        site = (ROOT / "deploy/nginx.conf").read_text()
        for key, text in (("FIRST", ports[0]), ("SECOND", ports[1]), ("LISTEN", str(listen)), ("HOST", "localhost"), ("TLS", ""), ("PLAIN", "")):  # fmt: skip
            site = site.replace(f"@{key}@", text)
        (cls.at / "nginx.conf").write_text(CONF.format(at=cls.at, site=site))
        cls.proxy = subprocess.Popen(["/usr/sbin/nginx", "-c", str(cls.at / "nginx.conf")], stderr=subprocess.DEVNULL)
        cls.url = f"http://localhost:{listen}"
        for _ in range(100):
            with suppress(httpx.HTTPError):
                if httpx.get(f"{cls.url}/api/ready").status_code == 200:
                    break
            time.sleep(0.1)

    @classmethod
    def tearDownClass(cls) -> None:
        if os.geteuid() == 0:
            cls.proxy.terminate()
            cls.proxy.wait()
            for _, process in cls.servers:
                process.kill()
                process.wait()
            shutil.rmtree(cls.at, ignore_errors=True)
        super().tearDownClass()

    def setUp(self) -> None:
        if os.geteuid() != 0:
            self.skipTest("the proxy is begun by root")
        self.plant = Plant("Gannet Ness")

    def client_of(self, person: Person, url: str | None = None) -> httpx.Client:
        """Somebody's device, at the proxy or at one of the servers."""
        beside = Client()
        beside.force_login(person)
        client = httpx.Client(base_url=url or self.url, timeout=30)
        self.addCleanup(client.close)
        client.cookies.set("sessionid", beside.cookies["sessionid"].value)
        client.get("/sign-in")
        client.headers.update({"X-CSRFToken": client.cookies["csrftoken"], "Origin": str(client.base_url).rstrip("/")})
        return client

    def both(self, person: Person) -> list[httpx.Client]:
        """The same device at each of the two servers."""
        first = self.client_of(person, self.servers[0][0])
        second = httpx.Client(base_url=self.servers[1][0], timeout=30, cookies=first.cookies)
        self.addCleanup(second.close)
        second.headers.update({"X-CSRFToken": first.headers["X-CSRFToken"], "Origin": self.servers[1][0]})
        return [first, second]

    def test_what_is_typed_at_one_is_judged_at_the_other_with_what_came_before_it(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"})
        two = self.both(self.plant.technician)
        texts = list(runs([("34.10", "12.76", "21.66"), ("32.61", "12.74", "20.13"), ("33.35", "12.74", "20.91")]).items())  # fmt: skip
        after = two[0].get(f"/api/jobs/{job.id}").json()["entries"]
        for number, (path, text) in enumerate(texts):
            sent = [{"id": str(uuid.uuid4()), "path": path, "text": text}]
            answer = two[number % 2].post(f"/api/jobs/{job.id}/entries?after={after}", json=sent)
            self.assertEqual(answer.status_code, 200, answer.text)
            after = answer.json()["entries"]
        seen = [one.get(f"/api/jobs/{job.id}").json() for one in two]
        self.assertEqual(seen[0]["parts"], seen[1]["parts"])
        self.assertEqual(seen[0]["entries"], after)
        self.assertEqual(seen[0]["parts"][0]["assessment"]["call"], "adjust")
        missed = two[0].get(f"/api/jobs/{job.id}/changes?after={after - 1}").json()
        self.assertEqual(missed["entries"], after)

    def test_through_the_proxy_nothing_is_kept_at_one_of_them(self) -> None:
        job = self.plant.job()
        client = self.client_of(self.plant.technician)
        kept = []
        for number in range(12):
            sent = [{"id": str(uuid.uuid4()), "path": f"runs.r{number}.gross", "text": "34.10 t"}]
            kept += client.post(f"/api/jobs/{job.id}/entries", json=sent).json()["kept"]
        self.assertEqual(len(set(kept)), 12)
        self.assertEqual(len(client.get(f"/api/jobs/{job.id}/entries").json()), job.trail.count())

    def test_a_session_and_its_end_and_what_is_counted_hold_at_both(self) -> None:
        two = self.both(self.plant.technician)
        asked = [two[number % 2].get("/api/log.csv").status_code for number in range(62)]
        self.assertEqual((asked[:60], asked[60:]), ([200] * 60, [429] * 2))
        ended = two[0].post("/api/sign-out-everywhere", json={})
        self.assertIn(ended.status_code, (200, 204), ended.text)
        other = self.both(self.plant.lead)
        out = other[0].delete("/api/account/browser/v1/auth/session")
        self.assertEqual(out.status_code, 401)
        self.assertEqual(other[1].get("/api/me").status_code, 401)

    def test_a_stand_in_that_is_handled_at_one_is_seen_live_at_the_other(self) -> None:
        two = self.both(self.plant.technician)
        practice = two[0].post("/api/practice?kind=platform").json()["id"]
        path = f"/api/jobs/{practice}"
        controls = two[0].get(f"{path}/stand-in")
        self.assertEqual(controls.status_code, 200, controls.text)
        act = next(one for one in controls.json()["controls"] if one["does"] == "load")
        with two[1].stream("GET", f"{path}/live") as stream:
            lines = stream.iter_lines()
            self.assertTrue(next(line for line in lines if line.startswith("data:")))
            done = two[0].post(f"{path}/stand-in", json={"what": act["does"], "figure": 200})
            self.assertEqual(done.status_code, 200, done.text)
            seen = [next(line for line in lines if line.startswith("data:")) for _ in range(40)]
        self.assertGreater(len(set(seen)), 1, seen[:3])

    def test_a_live_weight_that_both_watch_makes_one_load(self) -> None:
        plates = {"indicated_division": "20 kg", "capacity": "14 t"}
        cart = self.plant.add_system("Harvest trailer", "cart", "load-cart", plates)
        two = self.both(self.plant.technician)
        with on_the_line("cart", held_at=None) as (_, port):
            link = Link.objects.create(organisation=self.plant.organisation, name="Trailer", host="127.0.0.1", address="127.0.0.1", port=port, most="14 t", changed_by=self.plant.lead)  # fmt: skip
            link.systems.add(cart)
            begun_at = two[0].post(f"/api/systems/{cart.pk}/loads/watch", json={"link": str(link.pk)})
            self.assertEqual(begun_at.status_code, 201, begun_at.text)
            again = two[1].post(f"/api/systems/{cart.pk}/loads/watch", json={"link": str(link.pk)})
            self.assertIn(again.status_code, (201, 409))
            for _ in range(300):
                if Load.objects.filter(channel__system=cart).exists():
                    break
                time.sleep(0.1)
            time.sleep(1)
            self.assertEqual(Load.objects.filter(channel__system=cart).count(), 1)
            ended = two[1].delete(f"/api/systems/{cart.pk}/loads/watch")
            self.assertEqual(ended.status_code, 204)

    def test_what_one_copied_for_a_place_without_signal_is_kept_by_the_other(self) -> None:
        job = self.plant.job()
        two = self.both(self.plant.technician)
        copy = two[0].get(f"/api/jobs/{job.id}/at-hand")
        self.assertEqual(copy.status_code, 200, copy.text)
        at = (timezone.now()).isoformat()
        sent = [{"id": str(uuid.uuid4()), "path": "note", "text": "typed out there", "at": at}]
        for one in two:
            self.assertEqual(one.post(f"/api/jobs/{job.id}/entries", json=sent).status_code, 200)
        self.assertEqual(job.trail.filter(path="note").count(), 1)

    def test_what_is_asked_for_at_one_is_made_by_the_other_and_taken_from_either(self) -> None:
        two = self.both(self.plant.lead)
        made = two[0].post("/api/archives", json={})
        self.assertEqual(made.status_code, 202, made.text)
        for _ in range(200):
            if Archive.objects.exclude(finished_at=None).exists():
                break
            time.sleep(0.1)
        for one in two:
            file = one.get(f"/api/archives/{made.json()['id']}/file.zip")
            self.assertEqual((file.status_code, file.content[:2]), (200, b"PK"))

    def test_of_two_clocks_a_minute_apart_the_one_that_is_off_is_not_ready_and_entries_stay_in_their_order(
        self,
    ) -> None:
        self.assertEqual([httpx.get(f"{address}/api/ready").status_code for address, _ in self.servers], [200, 200])
        job = self.plant.job()
        real = time.time
        with patch.object(clock.time, "time", lambda: real() + 60), self.assertLogs(clock.LOG, "WARNING"):
            answer = Client().get("/api/ready")
            self.assertEqual((answer.status_code, answer.json()["title"]), (503, "The clock is off"))
            self.assertIn("60 s ahead of the database's", answer.json()["detail"])
        (ahead,) = self.both(self.plant.technician)[1:]
        with patch.object(timezone, "now", lambda: datetime.now(UTC) + timedelta(minutes=1)):
            enter(job, self.plant.technician, {"note": "of the clock that is ahead"})
        sent = [{"id": str(uuid.uuid4()), "path": "note", "text": "after it"}]
        self.assertEqual(ahead.post(f"/api/jobs/{job.id}/entries", json=sent).status_code, 200)
        self.assertEqual([one.text for one in job.trail.filter(path="note").order_by("sequence")], ["of the clock that is ahead", "after it"])  # fmt: skip
        self.assertEqual(ahead.get(f"/api/jobs/{job.id}").json()["fields"]["note"]["text"], "after it")
