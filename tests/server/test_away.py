"""Where the database has two hosts and both are away: one lets nobody in, the other lets in and says nothing."""

import socket
import threading
import time
from contextlib import suppress
from urllib.parse import urlsplit

import httpx

from tests.emptied import EmptiedTestCase
from tests.served import database_of_tests, served
from tests.server.plant import Plant


class Host:
    """A port of its own before the tests' database, which can go away in two ways and come back."""

    def __init__(self, at: tuple[str, int]) -> None:
        self.at = at
        self.silent = False
        self._open: list[socket.socket] = []
        self._listening = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._listening.getsockname()[1])
        self._let_in(self._listening)

    def goes_silent(self) -> None:
        """Ends every connection; lets everybody in again, and says nothing."""
        self.silent = True
        self._end_all()

    def lets_nobody_in(self) -> None:
        """Ends every connection, and takes none."""
        # Closed alone, a socket that a thread waits at takes one more.
        with suppress(OSError):
            self._listening.shutdown(socket.SHUT_RDWR)
        self._listening.close()
        self._end_all()

    def _end_all(self) -> None:
        while self._open:
            with suppress(OSError):
                self._open.pop().shutdown(socket.SHUT_RDWR)

    def comes_back(self) -> None:
        self.silent = False
        if self._listening.fileno() < 0:
            self._listening = socket.create_server(("127.0.0.1", self.port))
            self._let_in(self._listening)

    def _let_in(self, listening: socket.socket) -> None:
        threading.Thread(target=self._listen, args=[listening], daemon=True).start()

    def _listen(self, listening: socket.socket) -> None:
        with suppress(OSError):
            while True:
                here = listening.accept()[0]
                self._open.append(here)
                if self.silent:
                    continue
                there = socket.create_connection(self.at)
                self._open.append(there)
                for one, other in ((here, there), (there, here)):
                    threading.Thread(target=self._pass_on, args=[one, other], daemon=True).start()

    def _pass_on(self, one: socket.socket, other: socket.socket) -> None:
        with suppress(OSError):
            while piece := one.recv(65536):
                other.sendall(piece)
            other.shutdown(socket.SHUT_WR)


class Away(EmptiedTestCase):
    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")
        parts = urlsplit(database_of_tests())
        real = (parts.hostname or "127.0.0.1", parts.port or 5432)
        self.hosts = [Host(real), Host(real)]
        for host in self.hosts:
            self.addCleanup(host.lets_nobody_in)
        named = f"127.0.0.1:{self.hosts[0].port},127.0.0.1:{self.hosts[1].port}"
        self.url = parts._replace(netloc=f"{parts.username}:{parts.password}@{named}").geturl()

    def test_it_is_said_within_a_second_and_to_who_works_in_a_few_and_goes_on_by_itself(self) -> None:
        with served(DATABASE_URL=self.url) as address:
            self.client.force_login(self.plant.technician)
            cookies = {name: one.value for name, one in self.client.cookies.items()}
            with httpx.Client(base_url=address, cookies=cookies, timeout=60) as here:
                self.assertEqual(here.get("/api/round").status_code, 200)
                self.hosts[0].goes_silent()
                self.hosts[1].lets_nobody_in()
                for path, within in (("/api/ready", 3), ("/api/round", 15), ("/api/ready", 3)):
                    began = time.monotonic()
                    answer = here.get(path)
                    with self.subTest(path):
                        self.assertEqual(answer.status_code, 503, answer.text)
                        self.assertLess(time.monotonic() - began, within)
                self.assertEqual(here.get("/api/alive").status_code, 200)
                for host in self.hosts:
                    host.comes_back()
                until = time.monotonic() + 60
                while here.get("/api/round").status_code != 200 and time.monotonic() < until:
                    time.sleep(0.2)
                self.assertEqual(here.get("/api/ready").status_code, 200)
