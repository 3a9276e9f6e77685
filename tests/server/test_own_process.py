"""What may take too much is done in a process of its own: bounded in memory and time, by turns, and without secrets."""

import io
import json
import os
import resource
import threading
import time
import zipfile
from typing import Any
from unittest import mock

from django.test import SimpleTestCase
from openpyxl import Workbook
from PIL import Image

from beacon.attachments import intake, unpacking
from beacon.attachments.intake import NotTaken, NotYet, taken
from beacon.own_process import MB, NoTurn, OwnProcess, Refused, TooMuch
from beacon.setting_up.reading import NotATable, rows_of
from tests.server.pictures import photograph


def process(**more: Any) -> OwnProcess:
    return OwnProcess("tests.server.odd_work", **({"seconds": 10.0, "memory": 100 * MB} | more))


class Processes(SimpleTestCase):
    def begun(self, **more: Any) -> OwnProcess:
        made = process(**more)
        self.addCleanup(made.end)
        return made

    def test_what_takes_too_much_ends_that_process_alone_and_the_next_is_done(self) -> None:
        one = self.begun(cpu=1.0)
        for asked in (b"memory", b"processor", b"end"):
            with self.subTest(asked), self.assertRaises(TooMuch):
                one.asked(asked)
            self.assertEqual(one.asked(b"echo"), b"echo")
        slow = self.begun(seconds=0.5)
        with self.assertRaises(TooMuch):
            slow.asked(b"sleep")

    def test_what_it_says_of_what_it_was_given_comes_back_and_a_fault_is_one(self) -> None:
        one = self.begun()
        with self.assertRaisesMessage(Refused, "This is none. Choose another."):
            one.asked(b"refuse")
        with self.assertRaises(RuntimeError):
            one.asked(b"fault")
        self.assertEqual(one.asked(b"print"), b"printed")

    def test_a_large_piece_goes_through_and_back(self) -> None:
        piece = os.urandom(1000) * 9000
        self.assertEqual(self.begun().asked(piece), piece)

    def test_it_knows_nothing_of_the_server_s_secrets(self) -> None:
        with mock.patch.dict(os.environ, {"BEACON_SECRET_KEY": "a", "DATABASE_URL": "b", "AWS_SECRET_ACCESS_KEY": "c"}):
            told = json.loads(self.begun().asked(b"environment"))
        self.assertFalse([key for key in told if key.startswith(("BEACON", "DATABASE", "AWS", "PG", "DJANGO"))])

    def test_after_so_many_pieces_it_is_a_new_one(self) -> None:
        one = self.begun(each=2)
        seen = [one.asked(b"id") for _ in range(4)]
        self.assertEqual((seen[0], seen[2]), (seen[1], seen[3]))
        self.assertNotEqual(seen[1], seen[2])

    def test_whoever_sends_many_holds_up_themselves(self) -> None:
        one = self.begun()
        one.asked(b"echo")
        ended: dict[str, float] = {}

        def ask(whose: str, name: str) -> None:
            one.asked(b"a moment", whose)
            ended[name] = time.monotonic()

        many = [threading.Thread(target=ask, args=("first", f"first {number}")) for number in range(8)]
        for each in many:
            each.start()
        time.sleep(0.1)
        other = threading.Thread(target=ask, args=("second", "second"))
        other.start()
        for each in (*many, other):
            each.join()
        later = sum(at > ended["second"] for name, at in ended.items() if name != "second")
        self.assertGreaterEqual(later, 4)
        self.assertEqual((dict(one._turns), dict(one._waiting)), ({}, {}))

    def test_whoever_waits_too_long_is_told(self) -> None:
        one = self.begun(waits=0.1)
        one.asked(b"echo")
        beside = threading.Thread(target=one.asked, args=(b"a moment",))
        beside.start()
        time.sleep(0.05)
        with self.assertRaises(NoTurn):
            one.asked(b"echo")
        beside.join()
        self.assertEqual(one.asked(b"echo"), b"echo")


class Pictures(SimpleTestCase):
    def test_large_pictures_of_every_kind_stay_within_their_memory_and_are_kept_or_refused_with_a_sentence(
        self,
    ) -> None:
        sent = (
            (_large("JPEG", (5000, 4000), progressive=True), True),
            (_large("JPEG", (3000, 2000), "CMYK"), True),
            (_large("PNG", (5000, 5000)), True),
            (_large("WEBP", (600, 600)), True),
            (as_if_of(6000, 6000), False),
        )
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        for content, kept in sent:
            if kept:
                found = taken(content)
                self.assertLessEqual(max(found.width, found.height), unpacking.LONGEST_SIDE)
            else:
                with self.assertRaises(NotTaken) as why:
                    taken(content)
                self.assertIn("smaller size", str(why.exception))
        self.assertLess(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before, 50 * 1024, "in the server itself")

    def test_one_whose_turn_does_not_come_is_sent_again(self) -> None:
        with mock.patch.object(intake.UNPACKING, "asked", side_effect=NoTurn), self.assertRaises(NotYet):
            taken(photograph())
        with mock.patch.object(intake.UNPACKING, "asked", side_effect=TooMuch), self.assertRaises(NotTaken):
            taken(photograph())


def as_if_of(width: int, height: int) -> bytes:
    """The head of a WebP of this size."""
    sides = (width - 1).to_bytes(3, "little") + (height - 1).to_bytes(3, "little")
    return b"RIFF\x00\x10\x00\x00WEBPVP8X\x0a\x00\x00\x00\x00\x00\x00\x00" + sides + bytes(400)


def _large(kind: str, size: tuple[int, int], mode: str = "RGB", **more: Any) -> bytes:
    kept = io.BytesIO()
    Image.new(mode, size).save(kept, kind, **more)
    return kept.getvalue()


class Workbooks(SimpleTestCase):
    def test_one_of_millions_of_texts_and_no_row_is_refused_at_once(self) -> None:
        whole = io.BytesIO()
        Workbook().save(whole)
        for text, many in ((b"<si><t>x</t></si>", 3_400_000), (b"<x:si/>", 1_000_000)):
            mangled = io.BytesIO()
            with zipfile.ZipFile(whole) as read, zipfile.ZipFile(mangled, "w", zipfile.ZIP_DEFLATED) as write:
                for one in read.namelist():
                    if one != "xl/sharedStrings.xml":
                        write.writestr(one, read.read(one))
                write.writestr("xl/sharedStrings.xml", b"<sst>" + text * many + b"</sst>")
            began = time.process_time()
            with self.assertRaisesMessage(NotATable, "too large"):
                rows_of(mangled.getvalue(), "plant.xlsx")
            self.assertLess(time.process_time() - began, 1.0, "of the server itself")
