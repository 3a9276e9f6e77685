"""A server set up by `./run server`, as far as a machine without systemd allows: its own units begun, nginx really in front.

People type meanwhile: through a server that is killed, through an upgrade, and through one that does not come up.
"""

import os
import random
import shutil
import signal
import socket
import ssl
import stat
import subprocess
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import httpx
from django.conf import settings
from django.contrib.auth.hashers import PBKDF2PasswordHasher
from django.db import connection
from django.test import TransactionTestCase

from beacon.people.models import Organisation, Person, SignInTry
from tests.endure import Typist
from tests.endured.test_endure import judged
from tests.server.pictures import photograph
from tests.server.plant import PASSWORD, SIGN_IN, Plant

ROOT = Path(settings.ROOT)
NGINX = """
worker_processes 1;
pid {prefix}/run/nginx.pid;
error_log {prefix}/run/nginx.log;
events {{ worker_connections 256; }}
http {{
  access_log off;
  client_body_temp_path {prefix}/run/body;
  proxy_temp_path {prefix}/run/proxy;
  fastcgi_temp_path {prefix}/run/fastcgi;
  uwsgi_temp_path {prefix}/run/uwsgi;
  scgi_temp_path {prefix}/run/scgi;
  include {prefix}/etc/nginx/sites-enabled/*;
}}
"""


def free_ports(count: int) -> int:
    """The first of so many free ports in a row."""
    while True:
        first = random.randrange(20000, 50000)
        with suppress(OSError):
            taken = []
            for port in range(first, first + count):
                one = socket.socket()
                taken.append(one)
                one.bind(("127.0.0.1", port))
            return first


class Server(TransactionTestCase):
    prefix: Path

    def setUp(self) -> None:
        if os.geteuid() != 0:
            self.skipTest("a server is set up by root")
        self.prefix = Path(tempfile.mkdtemp(prefix="beacon-server-", dir=ROOT / ".state"))
        self.addCleanup(shutil.rmtree, self.prefix, ignore_errors=True)
        self.addCleanup(self.end)
        (self.prefix / "bin").mkdir()
        (self.prefix / "run").mkdir()
        shutil.copy(ROOT / "tests/systemctl.py", self.prefix / "bin/systemctl")
        (self.prefix / "etc/nginx").mkdir(parents=True)
        (self.prefix / "etc/nginx/nginx.conf").write_text("user root;" + NGINX.format(prefix=self.prefix))
        self.port = free_ports(4)
        self.address = f"http://localhost:{self.port}"

    def end(self) -> None:
        for at in (self.prefix / "run").glob("*.pid"):
            with suppress(ProcessLookupError, ValueError, FileNotFoundError):
                os.kill(int(at.read_text()), signal.SIGTERM)
        time.sleep(1.5)

    def run_server(self, *given: str, code: Path = ROOT, **more: str) -> "subprocess.CompletedProcess[str]":
        """`./run server` after everything is built."""
        database = os.environ["DATABASE_URL"].rpartition("/")[0] + "/" + settings.DATABASES["default"]["NAME"]
        kept = {key: os.environ[key] for key in ("PG_BIN", "HOME", "LANG") if key in os.environ}
        env = kept | {
            "PATH": f"{self.prefix}/bin:{os.environ['PATH']}",
            "BEACON_PREFIX": str(self.prefix),
            "BEACON_USER": "root",
            "BEACON_FIRST_PORT": str(self.port + 2),
            "BEACON_LISTEN": str(self.port),
            "BEACON_LISTEN_PLAIN": str(self.port + 1),
            "BEACON_URL": self.address,
            "BEACON_LEAST_ROOM": "50",
            "BEACON_PASSWORD": PASSWORD,
            "BEACON_WAIT": "90",
            "DATABASE_URL": database,
            **more,
        }
        return subprocess.run([str(code / "deploy/server"), "localhost", *given], env=env, capture_output=True, text=True, timeout=480)  # fmt: skip

    def done(self, *given: str, **more: Any) -> str:
        found = self.run_server(*given, **more)
        if found.returncode:
            print(found.stdout, found.stderr, self.logs())
        self.assertEqual(found.returncode, 0)
        return found.stdout

    def logs(self) -> str:
        return "\n".join(at.read_text()[-2000:] for at in (self.prefix / "run").glob("*.log"))

    def copied(self, name: str, text: str) -> Path:
        """Another version: this one with something added to one of its files."""
        at = self.prefix / f"version-{len(list(self.prefix.glob('version-*')))}"
        at.mkdir()
        for part in (".venv", "beacon", "wary", "web/dist", "deploy", "manage.py"):
            (at / part).parent.mkdir(parents=True, exist_ok=True)
            subprocess.run(["cp", "-al", str(ROOT / part), str(at / part)], check=True)
        before = (at / name).read_text()
        # Not the file that both versions share.
        (at / name).unlink()
        (at / name).write_text(before + text)
        return at

    def plant(self) -> Plant:
        made = Plant("Gannet Ness")
        # A real server knows no hash that is quick.
        Person.objects.update(password=PBKDF2PasswordHasher().encode(PASSWORD, "salt"))
        return made

    def typing(self, made: Plant) -> tuple[list[Typist], list[threading.Thread]]:
        """People who type until they are told to end."""
        jobs = [str(made.job().id) for _ in range(2)]
        people = [made.technician, made.lead]
        typists = [Typist(self.address, people[n % 2].username, PASSWORD, jobs[n % 2], pause=0.25) for n in range(2)]
        until = time.monotonic() + 300
        threads = [threading.Thread(target=one.type, args=(until, random.Random(n)), daemon=True) for n, one in enumerate(typists)]  # fmt: skip
        for one in threads:
            one.start()
        return typists, threads

    @contextmanager
    def occupied(self, port: int) -> Iterator[None]:
        """Something else takes this port as soon as its server lets go of it."""
        done = threading.Event()

        def take() -> None:
            while not done.is_set():
                with socket.socket() as taken, suppress(OSError):
                    # As a server that is begun anew: what it was asked last may be closing still.
                    taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
                    taken.bind(("127.0.0.1", port))
                    taken.listen()
                    done.wait()
                done.wait(0.02)

        taker = threading.Thread(target=take, daemon=True)
        taker.start()
        try:
            yield
        finally:
            done.set()
            taker.join()

    def test_set_up_upgraded_and_taken_back_while_people_type(self) -> None:
        said = self.done("Kelp Works", "Mara@kelp.example")
        self.assertIn("Kelp Works begins, with", said)
        self.assertIn("Without a certificate", said)
        settings_file = self.prefix / "etc/wary-beacon/settings"
        self.assertEqual(stat.S_IMODE(settings_file.stat().st_mode), 0o640)
        # What whoever runs it writes there is read as it stands.
        text = settings_file.read_text().replace("#BEACON_MAIL_FROM=", "BEACON_MAIL_FROM=Kelp & Works $(false) <scales@kelp.example>")  # fmt: skip
        settings_file.write_text(text)
        secret = settings_file.read_text()
        self.assertIn("scales@kelp.example", secret)
        self.assertRegex(secret, r"BEACON_SECRET_KEY=\S{40,}")
        self.assertEqual(httpx.get(f"{self.address}/api/ready").json(), {"ready": True})
        self.assertTrue(Organisation.objects.filter(name="Kelp Works").exists())
        self.units_and_backup()
        made = self.plant()
        typists, threads = self.typing(made)
        # One server is killed: the other goes on.
        time.sleep(4)
        first = self.prefix / f"run/wary-beacon@{self.port + 2}.pid"
        os.kill(int(first.read_text()), signal.SIGKILL)
        time.sleep(4)
        # A newer version, while people type.
        newer = self.copied("wary/__init__.py", '\nVERSION = "99.1.0"\n')
        # It needs longer than it is given: it is told from one that does not come up, as it is at work all the while.
        said = self.done(code=newer, BEACON_WAIT="1")
        self.assertIn("Wary Beacon 99.1.0 is at", said)
        self.assertEqual(settings_file.read_text(), secret, "settings are written once")
        self.assertIn('content="99.1.0"', httpx.get(f"{self.address}/").text)
        backups = list((self.prefix / "srv/wary-beacon/backups").glob("before-*.backup"))
        self.assertEqual(len(backups), 2, "one of before, and one that was there")
        now = os.readlink(self.prefix / "opt/wary-beacon/current")
        # One that does not come up: the version of before goes on.
        broken = self.copied("beacon/asgi.py", '\nraise RuntimeError("it does not come up")\n')
        failed = self.run_server(code=broken, BEACON_WAIT="15")
        self.assertEqual(failed.returncode, 1, failed.stdout)
        self.assertIn("The version of before goes on;", failed.stderr, self.logs())
        restarted = (self.prefix / "said").read_text().splitlines()[-4:]
        self.assertNotIn(
            f"restart wary-beacon@{self.port + 3}", restarted, "the other one was of that version all the time"
        )
        self.assertEqual(os.readlink(self.prefix / "opt/wary-beacon/current"), now)
        self.assertIn('content="99.1.0"', httpx.get(f"{self.address}/").text)
        # Its port was taken meanwhile: the other server goes on, and that is what is said.
        with self.occupied(self.port + 2):
            failed = self.run_server(code=broken, BEACON_WAIT="2")
        self.assertEqual(failed.returncode, 1, failed.stdout)
        self.assertIn(
            f"goes on with one server, on port {self.port + 3}; the one on port {self.port + 2}",
            failed.stderr,
            self.logs(),
        )
        self.assertEqual(os.readlink(self.prefix / "opt/wary-beacon/current"), now)
        self.assertIn('content="99.1.0"', httpx.get(f"{self.address}/").text)
        # No backup can be made: nothing is changed either.
        unsaved = self.run_server(code=newer, PG_BIN="/nowhere")
        self.assertEqual((unsaved.returncode, "No backup could be made" in unsaved.stderr), (1, True), unsaved.stderr)
        self.assertEqual(os.readlink(self.prefix / "opt/wary-beacon/current"), now)
        # A disk that is too full, and a second one at the same time: nothing is changed.
        full = self.run_server(BEACON_LEAST_ROOM="999999999")
        self.assertEqual((full.returncode, "nothing was changed" in full.stderr), (1, True))
        for one in typists:
            one.done = True
        for one in threads:
            one.join(40)
        for one in typists:
            # Between two servers the proxy may say that it reached neither: the device sends again.
            one.said = [status for status in one.said if status not in (502, 504)]
        self.assertEqual(judged(typists), [])
        self.assertGreater(sum(len(one.kept) for one in typists), 60)
        self.assertEqual(
            len(list((self.prefix / "opt/wary-beacon/releases").iterdir())), 2, "what did not come up is gone"
        )
        self.with_a_certificate(made)

    def with_a_certificate(self, made: Plant) -> None:
        """The same once more, with a certificate: TLS ends at the proxy."""
        tls = self.prefix / "etc/wary-beacon/tls"
        tls.mkdir(parents=True, exist_ok=True)
        subprocess.run(["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=localhost", "-addext", "subjectAltName=DNS:localhost", "-keyout", str(tls / "key.pem"), "-out", str(tls / "fullchain.pem")], check=True, capture_output=True)  # fmt: skip
        self.address = f"https://localhost:{self.port}"
        self.assertNotIn("Without a certificate", self.done())
        job = made.job()
        trusted = ssl.create_default_context(cafile=str(tls / "fullchain.pem"))
        plain = httpx.get(f"http://localhost:{self.port + 1}/log")
        self.assertEqual((plain.status_code, plain.headers["location"]), (301, "https://localhost/log"))
        # From an address that is no proxy's; what it says of itself is not believed.
        transport = httpx.HTTPTransport(verify=trusted, local_address="127.0.0.2")
        with httpx.Client(base_url=self.address, transport=transport, timeout=30) as client:
            page = client.get("/sign-in")
            self.assertIn("max-age", page.headers["strict-transport-security"])
            self.assertIn("Secure", page.headers["set-cookie"])
            headers = {"X-CSRFToken": client.cookies["csrftoken"], "Origin": self.address, "Referer": self.address}
            wrong = {"username": made.technician.username, "password": "wrong"}
            client.post(SIGN_IN, json=wrong, headers=headers | {"X-Forwarded-For": "6.6.6.6"})
            self.assertEqual(SignInTry.objects.get().address, "127.0.0.2")
            self.assertEqual(
                client.post(SIGN_IN, json=wrong | {"password": PASSWORD}, headers=headers).status_code, 200
            )
            headers["X-CSRFToken"] = client.cookies["csrftoken"]
            # Twenty megabytes of a photograph go through, more is refused.
            picture = photograph()
            large = picture[:-2] + b"\xff\xfe\xff\xf0" + bytes(0xFFEE) + picture[-2:]
            url = f"/api/jobs/{job.id}/attachments?name=x.jpg"
            kind = headers | {"Content-Type": "application/octet-stream"}
            self.assertEqual(client.post(url, content=large, headers=kind).status_code, 201)
            self.assertIn(client.post(url, content=bytes(20 * 1024 * 1024), headers=kind).status_code, (413, 422))
            self.assertEqual(client.post(url, content=bytes(23 * 1024 * 1024), headers=kind).status_code, 413)
            # A stream comes as it is told.
            practice = client.post("/api/practice?kind=belt", json={}, headers=headers).json()["id"]
            began = time.monotonic()
            with client.stream("GET", f"/api/jobs/{practice}/live") as stream:
                for line in stream.iter_lines():
                    if line.startswith("data"):
                        break
            self.assertLess(time.monotonic() - began, 5)

    def units_and_backup(self) -> None:
        """Its units are ones, and the night's backup is made and pruned."""
        units = sorted((self.prefix / "etc/systemd/system").iterdir())
        self.assertEqual(len(units), 5)
        for unit in units:
            self.assertNotRegex(unit.read_text(), r"@[A-Z]+@", unit.name)
        if shutil.which("systemd-analyze", path="/usr/bin:/bin"):
            named = [str(one) for one in units if "@" not in one.name]
            named.append(f"{self.prefix}/etc/systemd/system/wary-beacon@{self.port + 2}.service")
            shutil.copy(units[-1].parent / "wary-beacon@.service", named[-1])
            checked = subprocess.run(["/usr/bin/systemd-analyze", "verify", "--man=no", *named], capture_output=True, text=True, env={"SYSTEMD_UNIT_PATH": f"{self.prefix}/etc/systemd/system:", "PATH": "/usr/bin:/bin"})  # fmt: skip
            self.assertNotIn(str(self.prefix), "".join(line for line in checked.stderr.splitlines() if "Failed" in line or "Unknown" in line))  # fmt: skip
        folder = self.prefix / "srv/wary-beacon/backups"
        for day in range(1, 20):
            (folder / f"night-2026-01-{day:02}-013000.backup").write_bytes(b"old")
        (folder / "before-2026-01-01-013000.backup").write_bytes(b"another's")
        said = {key: value for key, _, value in (line.partition("=") for line in (self.prefix / "etc/systemd/system/wary-beacon-backup.service").read_text().splitlines())}  # fmt: skip
        environment = dict(line.split("=", 1) for line in (self.prefix / "etc/wary-beacon/settings").read_text().splitlines() if "=" in line and line[0] != "#")  # fmt: skip
        subprocess.run(said["ExecStart"].split(), check=True, cwd=said["WorkingDirectory"], env={"PATH": os.environ["PATH"], **environment}, capture_output=True)  # fmt: skip
        kept = sorted(one.name for one in folder.glob("night-*"))
        self.assertEqual((len(kept), kept[-1].startswith("night-2026-01")), (14, False))
        self.assertTrue((folder / "before-2026-01-01-013000.backup").exists())

    def tearDown(self) -> None:
        self.end()
        with connection.cursor() as cursor:
            cursor.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()")  # fmt: skip
