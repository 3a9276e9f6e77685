"""What lies outside is asked in one way: looked at before it is connected to, for so long in all, a few at a time."""

import socket
import threading
import time
from collections.abc import Callable
from functools import partial
from unittest import mock

from django.test import SimpleTestCase, override_settings

from beacon import outside
from beacon.outside import NotAsked, Turns, ask, may_be_asked
from tests.server.receiver import Receiver

EVERYWHERE = ["0.0.0.0/0", "::/0"]


class Dripping:
    """Answers anybody with a byte at a time, without end."""

    def __init__(self, first: bytes) -> None:
        self.over = threading.Event()
        self.came = 0
        self.listening = socket.create_server(("127.0.0.1", 0))
        self.port = self.listening.getsockname()[1]
        self.first = first
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        while not self.over.is_set():
            try:
                connection, _ = self.listening.accept()
            except OSError:
                return
            self.came += 1
            threading.Thread(target=self._drip, args=[connection], daemon=True).start()

    def _drip(self, connection: socket.socket) -> None:
        with connection:
            try:
                connection.sendall(self.first)
                while not self.over.wait(0.05):
                    connection.sendall(b"x")
            except OSError:
                pass

    def close(self) -> None:
        self.over.set()
        self.listening.close()


HEAD = b"HTTP/1.1 200 OK\r\nContent-Type: text/plain\r\nContent-Length: 100000\r\n\r\n"


@override_settings(WEBHOOK_NETWORKS=["127.0.0.0/8"])
class Asked(SimpleTestCase):
    def dripping(self, first: bytes) -> Dripping:
        made = Dripping(first)
        self.addCleanup(made.close)
        return made

    def took(self, asked: Callable[[], object]) -> float:
        began = time.monotonic()
        with self.assertRaises(NotAsked):
            asked()
        return time.monotonic() - began

    def test_whoever_answers_a_byte_at_a_time_is_waited_for_no_longer_than_anybody(self) -> None:
        for first in (b"", b"HTTP/1.1 200 OK\r\nX: ", HEAD):
            slow = self.dripping(first)
            place = f"http://127.0.0.1:{slow.port}/"
            self.assertLess(self.took(partial(ask, "GET", place, seconds=0.6, most=1 << 20)), 3.0, first)

    def test_one_that_says_it_is_secure_and_drips_is_left_as_soon(self) -> None:
        slow = self.dripping(b"\x16\x03\x03")
        self.assertLess(self.took(lambda: ask("GET", f"https://127.0.0.1:{slow.port}/", seconds=0.6)), 3.0)

    def test_what_is_cut_off_at_the_end_of_the_time_is_no_answer(self) -> None:
        slow = self.dripping(b"HTTP/1.1 200 OK\r\n\r\n")
        with self.assertRaisesMessage(NotAsked, "did not answer in"):
            ask("GET", f"http://127.0.0.1:{slow.port}/", seconds=0.5, most=1 << 20)

    def test_a_name_that_nobody_finds_in_time_holds_nobody(self) -> None:
        over = threading.Event()
        self.addCleanup(over.set)
        with mock.patch("socket.getaddrinfo", side_effect=lambda *_, **__: over.wait(20)):
            self.assertLess(self.took(lambda: ask("GET", "http://slow.example/", seconds=0.4)), 3.0)

    def test_nothing_is_connected_to_that_may_not_be_asked(self) -> None:
        receiver = Receiver()
        self.addCleanup(receiver.close)
        with override_settings(WEBHOOK_NETWORKS=EVERYWHERE), mock.patch("beacon.outside._to") as connected:
            self.took(lambda: ask("GET", receiver.url, seconds=1))
        connected.assert_not_called()

    def test_it_goes_to_the_very_address_that_was_looked_at(self) -> None:
        receiver = Receiver()
        self.addCleanup(receiver.close)
        found = [(socket.AF_INET, socket.SOCK_STREAM, 6, "", ("127.0.0.1", receiver.port))]
        elsewhere = [(socket.AF_INET, socket.SOCK_STREAM, 6, "", ("127.0.0.2", receiver.port))]
        with mock.patch("socket.getaddrinfo", side_effect=[found, elsewhere]) as looked:
            answer = ask("POST", f"http://told.example:{receiver.port}/told", seconds=5, body=b"x")
        self.assertEqual((answer.status, looked.call_count), (204, 1))
        self.assertEqual(receiver.told[0][0]["host"], f"told.example:{receiver.port}")

    def test_of_one_host_a_few_are_asked_at_a_time_and_another_is_not_held_up(self) -> None:
        slow, receiver = self.dripping(HEAD), Receiver()
        self.addCleanup(receiver.close)

        def ask_the_slow_one() -> None:
            with self.assertRaises(NotAsked):
                ask("GET", f"http://127.0.0.1:{slow.port}/", seconds=1.5, most=1 << 20)

        many = [threading.Thread(target=ask_the_slow_one) for _ in range(8)]
        for one in many:
            one.start()
        time.sleep(0.5)
        self.assertEqual(slow.came, outside.AT_ONCE)
        began = time.monotonic()
        ask("POST", receiver.url, seconds=5, body=b"x")
        self.assertLess(time.monotonic() - began, 1.0)
        for one in many:
            one.join()

    def test_for_one_organisation_a_few_are_asked_at_a_time_whatever_the_host(self) -> None:
        slow, receiver = [self.dripping(HEAD) for _ in range(outside.OF_ONE + 2)], Receiver()
        self.addCleanup(receiver.close)

        def ask_for_it(one: Dripping) -> None:
            with self.assertRaises(NotAsked):
                ask("GET", f"http://127.0.0.1:{one.port}/", seconds=1.5, most=1 << 20, whose="Rival")

        many = [threading.Thread(target=ask_for_it, args=[one]) for one in slow]
        for one in many:
            one.start()
        time.sleep(0.5)
        self.assertEqual(sum(one.came for one in slow), outside.OF_ONE)
        began = time.monotonic()
        ask("POST", receiver.url, seconds=5, body=b"x", whose="Gannet Ness")
        self.assertLess(time.monotonic() - began, 1.0)
        for one in many:
            one.join()

    def test_no_connection_of_the_database_is_held_meanwhile(self) -> None:
        receiver = Receiver()
        self.addCleanup(receiver.close)
        with mock.patch("beacon.outside.let_go") as let_go:
            ask("POST", receiver.url, seconds=5, body=b"x")
        let_go.assert_called_once_with()

    def test_turns_that_nobody_waits_for_are_forgotten(self) -> None:
        turns = Turns(1)
        with turns.turn("a", 0), self.assertRaises(TimeoutError), turns.turn("a", 0):
            pass
        self.assertEqual((turns._turns, dict(turns._wanted)), ({}, {}))


class Addresses(SimpleTestCase):
    def test_an_address_within_another_one_has_to_be_allowed_as_well(self) -> None:
        with override_settings(WEBHOOK_NETWORKS=EVERYWHERE):
            for inner, written in (
                ("10.1.2.3", "::ffff:10.1.2.3"), ("127.0.0.1", "::127.0.0.1"), ("10.1.2.3", "64:ff9b::10.1.2.3"),
                ("169.254.169.254", "64:ff9b::169.254.169.254"), ("10.1.2.3", "2002:0a01:0203::1"),
                ("192.168.7.7", "64:ff9b:1::192.168.7.7"), ("10.1.2.3", "2001:0:5db8:d822:0:0:f5fe:fdfc"),
                ("10.1.2.3", "64:ff9b:1:0a01:02:300::"),
            ):  # fmt: skip
                self.assertFalse(may_be_asked(written), f"{written} leads to {inner}")
            self.assertTrue(may_be_asked("64:ff9b::93.184.216.34"))
            self.assertTrue(may_be_asked("2606:2800:220:1:248:1893:25c8:1946"))
