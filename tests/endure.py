"""`./run endure MINUTES`: clients type while the server and the database are killed; then every kept entry is counted.

What an answer said was kept has to be there, once, and what the job stands at has to be what a
rebuild of its entries gives.
"""

import json
import os
import random
import shlex
import signal
import socket
import subprocess
import sys
import threading
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from http.client import HTTPException
from http.cookiejar import CookieJar
from pathlib import Path
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.request import HTTPCookieProcessor, OpenerDirector, Request, build_opener

from django.db import connections

from tests.served import database_of_tests, until_it_answers

CLIENTS = 6
SEALERS = 2
LEAST_KILLS, LEAST_KEPT, LEAST_SEALED = 2, 51, 3
LONGEST = 240
"""So many seconds longer it goes on at most where the machine is so slow that less than that was done, s."""
PATHS = ("inputs.factor", "note", "conditions", "inputs.belt_speed", "inputs.reference_division")


@dataclass
class Server:
    """A server process that is killed and begun again, on one port."""

    port: int = 0
    process: Any = None
    kills: int = 0

    def begin(self) -> None:
        """Begins a process and waits until it answers at all."""
        if not self.port:
            with socket.socket() as free:
                free.bind(("127.0.0.1", 0))
                self.port = free.getsockname()[1]
        environment = os.environ | {
            "DATABASE_URL": database_of_tests(),
            "BEACON_POOL": "1",
            "BEACON_REQUEST_LOG": "0",
        }
        command = [
            sys.executable,
            "-m",
            "uvicorn",
            "beacon.asgi:application",
            "--port",
            str(self.port),
            "--log-level",
            "critical",
        ]
        self.process = subprocess.Popen(command, env=environment, stderr=subprocess.DEVNULL)
        until_it_answers(f"http://127.0.0.1:{self.port}/api/alive", self.process)

    def kill(self) -> None:
        """Kills the process as a power cut would, and begins another."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()
        self.kills += 1
        self.begin()

    def end(self) -> None:
        self.process.terminate()
        self.process.wait()


@dataclass
class Typist:
    """A client that types, and sends again under the same id until it is told that it was kept."""

    address: str
    username: str
    password: str
    job: str
    kept: set[str] = field(default_factory=set)
    said: list[int] = field(default_factory=list)
    opener: OpenerDirector = field(default_factory=lambda: build_opener(HTTPCookieProcessor(CookieJar())))
    token: str = ""
    pause: float = 0.0
    done: bool = False
    """Whether it is to end before its time."""

    def ask(self, path: str, body: Any = None) -> tuple[int, Any]:
        headers = {"Content-Type": "application/json", "X-CSRFToken": self.token, "Referer": self.address}
        asked = Request(f"{self.address}/api/{path}", None if body is None else json.dumps(body).encode(), headers)
        try:
            with self.opener.open(asked, timeout=10) as answer:
                return answer.status, json.loads(answer.read() or b"null")
        except HTTPError as refused:
            # A proxy in between speaks no JSON.
            said = refused.read()
            return refused.code, json.loads(said) if said[:1] in (b"{", b"[") else None
        except (URLError, OSError, ValueError, HTTPException):
            return 0, None

    def sign_in(self) -> None:
        # The first answer brings the token that signing in has to carry; a server that was just killed gives none.
        while self.ask("account/browser/v1/config")[0] == 0 or not self._took_token():
            time.sleep(0.2)
        while (
            self.ask("account/browser/v1/auth/login", {"username": self.username, "password": self.password})[0] != 200
        ):
            time.sleep(0.2)
        self._took_token()

    def _took_token(self) -> bool:
        jar = next(one for one in self.opener.handlers if isinstance(one, HTTPCookieProcessor)).cookiejar
        self.token = next((cookie.value or "" for cookie in jar if cookie.name == "csrftoken"), "")
        return bool(self.token)

    def type(self, until: float, draw: random.Random) -> None:
        """Types until a time; every answer's status is noted, since none may be a fault of the server."""
        self.sign_in()
        number = 0
        while time.monotonic() < until and not self.done:
            number += 1
            paths = [f"runs.r{number % 40}.gross", draw.choice(PATHS)]
            batch = [{"id": str(uuid.uuid4()), "path": path, "text": f"{draw.randrange(1, 99)}"} for path in paths]
            while True:
                status, answer = self.ask(f"jobs/{self.job}/entries", batch)
                self.said.append(status)
                if status == 200:
                    self.kept |= set(answer["kept"])
                    time.sleep(self.pause)
                    break
                if time.monotonic() > until + 30 or self.done:
                    return
                time.sleep(0.1)


@dataclass
class Sealer(Typist):
    """A client that opens a job under an id, types a whole test and closes it, over and over, each until it is told."""

    system: str = ""
    sealed: set[str] = field(default_factory=set)
    """The jobs of which it was told that they are closed."""
    left: str = ""
    """The job that it was at when it ended."""

    def work(self, until: float, texts: dict[str, str]) -> None:
        """Seals jobs until a time. `texts` is what one of them holds: it can be closed as complete."""
        self.sign_in()
        while time.monotonic() < until and not self.done:
            self.left = self.job = str(uuid.uuid4())
            opening = {"id": self.job, "system": self.system, "method": "belt-material-test", "inputs": {}}
            if not self._until_told("jobs", opening, (201,)):
                return
            batch = [{"id": str(uuid.uuid4()), "path": path, "text": text} for path, text in texts.items()]
            if not (kept := self._until_told(f"jobs/{self.job}/entries", batch, (200,))):
                return
            self.kept |= set(kept["kept"])
            # Closed and killed before it answered: whoever asks again is told that it is closed.
            closing = {"signed": "Ines Marrow", "outcome": "complete"}
            if not self._until_told(f"jobs/{self.job}/close", closing, (200, 409), "This job is closed already"):
                return
            self.sealed.add(self.job)
            self.left = ""

    def _until_told(self, path: str, body: Any, good: tuple[int, ...], title: str = "") -> Any:
        """The answer once it is a good one; None where this client ends before. A 409 is good with its title alone."""
        while not self.done:
            status, answer = self.ask(path, body)
            told = status == 409 and isinstance(answer, dict) and answer.get("title") == title
            self.said.append(200 if status in (201, 200) or told else status)
            if status in good and (status != 409 or told):
                return answer
            time.sleep(0.1)
        return None


def restart_database(meanwhile: Callable[[], None] = lambda: None) -> None:
    """Kills the database as a power cut would, and begins it again on its port; `meanwhile` is done while it is away."""
    for connection in connections.all(initialized_only=True):
        connection.close()
    data = f"{os.environ['CLUSTER']}/data"
    program = f"{os.environ.get('PG_BIN', '/usr/lib/postgresql/15/bin')}/pg_ctl"
    # As it was begun: its folder is named by itself.
    given = " ".join(shlex.split((Path(data) / "postmaster.opts").read_text())[3:])
    stop = [program, "-D", data, "-m", "immediate", "-w", "stop"]
    start = [program, "-D", data, "-w", "-l", f"{os.environ['CLUSTER']}/log", "-o", given, "start"]
    for command in (stop, start):
        if os.geteuid() == 0:
            command = ["runuser", "-u", "postgres", "--", *command]
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL, cwd="/")
        if "stop" in command:
            meanwhile()


def _little(clients: list[Typist], until: float) -> bool:
    """Whether too little was done yet to say anything of it."""
    sealed = [len(one.sealed) for one in clients if isinstance(one, Sealer)]
    little = sum(len(one.kept) for one in clients) < LEAST_KEPT or bool(sealed) and sum(sealed) < LEAST_SEALED
    return little and time.monotonic() < until + LONGEST


def endured(
    jobs: list[str],
    people: list[tuple[str, str]],
    seconds: float,
    databases: int,
    seals: tuple[str, dict[str, str]] | None = None,
) -> tuple[list[Typist], Server]:
    """Lets clients type for so many seconds while the server is killed at random, and the database so many times.

    With `seals`, a system and what a whole test of it is typed as, more of them open, fill and close jobs on it.

    For longer where the machine is so slow that less than two kills fell into that time, or little was kept.
    """
    server = Server()
    server.begin()
    draw = random.Random("endure")
    address = f"http://127.0.0.1:{server.port}"
    typists = [Typist(address, *people[n % len(people)], jobs[n % len(jobs)]) for n in range(CLIENTS)]
    until = time.monotonic() + seconds
    threads = [
        threading.Thread(target=one.type, args=(until + 600, random.Random(number)), daemon=True)
        for number, one in enumerate(typists)
    ]
    if seals:
        sealers = [Sealer(address, *people[n % len(people)], "", system=seals[0]) for n in range(SEALERS)]
        threads += [threading.Thread(target=one.work, args=(until + 600, seals[1]), daemon=True) for one in sealers]
        typists = [*typists, *sealers]
    for thread in threads:
        thread.start()
    falls = sorted(draw.uniform(seconds * 0.2, seconds * 0.8) for _ in range(databases))
    began = time.monotonic()
    while time.monotonic() < until or server.kills < LEAST_KILLS or falls or _little(typists, until):
        # Where little was done in that time, each server is given a longer life.
        time.sleep(draw.uniform(0.6, 2.0) if time.monotonic() < until else draw.uniform(2.0, 6.0))
        if falls and time.monotonic() - began > falls[0]:
            falls.pop(0)
            restart_database()
        else:
            server.kill()
    for one in typists:
        one.done = True
    for thread in threads:
        thread.join(60)
    server.end()
    return typists, server


def main(minutes: float) -> int:
    """Endures for so many minutes on a database of its own, and says what it came to."""
    import django

    django.setup()
    from django.test.utils import setup_databases, teardown_databases

    from tests.endured.test_endure import judged, plant

    held = setup_databases(0, interactive=False)
    try:
        jobs, people, seals = plant()
        databases = max(1, int(minutes * 2))
        typists, server = endured(jobs, people, minutes * 60, databases, seals)
        wrong = judged(typists)
        kept = sum(len(one.kept) for one in typists)
        sealed = sum(len(one.sealed) for one in typists if isinstance(one, Sealer))
        print(
            f"{kept} entries kept and {sealed} jobs sealed under {server.kills} kills of the server and {databases} of "
            f"the database; {'; '.join(wrong) or 'none lost, none twice'}."
        )
        return 1 if wrong else 0
    finally:
        teardown_databases(held, 0)


if __name__ == "__main__":
    # Who judges means the same by a client as this module does.
    from tests.endure import main as endure

    sys.exit(endure(float(sys.argv[1])))
