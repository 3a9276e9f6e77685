"""The core in a browser goes on from a snapshot of memory: every act and every method, with no file behind it."""

import json
import unittest
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page

from tests.both import Files, InABrowser, files_served
from tests.browser.base import browser
from tests.core.test_device import AT, document, row
from tests.core.test_practising import opening_of
from tests.core.test_worked import begun, built
from tests.core.visit import DAY
from tests.worked import WORKED
from wary.device import ACTS, Device
from wary.job.evidence import looks_of
from wary.machines import all_machines
from wary.practising import Practising, kinds
from wary.simulators import stand_in_of

Acts = list[tuple[str, dict[str, Any]]]


def worked() -> Acts:
    """A job of every method: taken in hand, typed, taken back, looked at, closed as it would be, and let go of."""
    acts: Acts = []
    for one in WORKED:
        job, day = {"job": one.method}, {"day": str(DAY)}
        rows = [row(path, text) for path, text in one.texts.items()]
        back = row(rows[-1]["path"], "", supersedes=rows[-1]["id"], undoes=True)
        acts += [
            ("take", job | day | {"document": document(begun(one), []), "show": True}),
            *(("enter", job | day | {"entries": [each]}) for each in rows),
            ("last", job | {"who": "Ines"}),
            ("closing", job | {"asked": {"outcome": "complete", "signed": "Ines Marrow"}}),
            ("file", job),
            ("enter", job | day | {"entries": [back]}),
            ("settle", job | day | {"kept": [rows[0]["id"]], "refused": [rows[-1]["id"]], "log": []}),
            ("log", job),
            ("assess", {"text": json.dumps(built(one).file)}),
            ("drop", job),
        ]
    return acts


def practised() -> Acts:
    """A practice of every kind of machine that has a stand-in, as one that was kept."""
    acts: Acts = []
    for kind in kinds():
        machine, job = all_machines()[kind], {"job": kind}
        first = {"who": "Ines", "at": AT, "day": str(DAY), "occasion": "routine", "opening": opening_of(kind)}
        stand_in = stand_in_of(machine)
        for fault in stand_in.faults:
            kept = Practising(kind, 7, fault, "easy").as_document()
            control = stand_in(7, fault).controls[0]
            acts += [
                ("stand_in", job | {"practice": kept}),
                ("live", job | {"elapsed": 1.0}),
                ("act", job | {"what": control.does, "figure": control.figure or 0, "elapsed": 2.0}),
                ("look", job | {"at": next(iter(looks_of(machine))), "elapsed": 3.0}),
                *(("ticket", job | {"scale": scale.name, "elapsed": 4.0}) for scale in stand_in(7, fault).scales[:1]),
                ("practised", job),
            ]
        acts.append(("open", {"job": str(uuid.uuid5(uuid.NAMESPACE_URL, kind))} | first))
    return acts


def sums() -> Acts:
    """Every sum, worked out from its example."""
    listed = json.loads(Device().call("sums", "{}"))
    given = {one["key"]: {key: {"text": text, "unit": ""} for key, text in one["example"].items()} for one in listed}
    return [("sums", {}), *(("sum", {"key": key, "given": texts}) for key, texts in given.items())]


class FromASnapshot(unittest.TestCase):
    address: str

    @classmethod
    def setUpClass(cls) -> None:
        cls.address = cls.enterClassContext(files_served())

    def new_page(self) -> Page:
        context = browser().new_context()
        self.addCleanup(context.close)
        return context.new_page()

    def test_every_act_and_every_method_answers_as_the_core_beside_its_files_does(self) -> None:
        here, asked = Device(), [*worked(), *practised(), *sums()]
        core = InABrowser(self.new_page(), self.address)
        self.assertIsNone(core.began["slow"])
        self.assertEqual({act for act, _ in asked} | {"practise"}, set(ACTS))
        for (act, said), answer in zip(asked, core.call(asked), strict=True):
            with self.subTest(act, of=said.get("job") or said.get("key")):
                self.assertEqual(answer, here.call(act, json.dumps(said)))

    def test_what_is_drawn_at_random_is_another_on_each_device(self) -> None:
        said = {"job": "j", "kind": "belt", "level": "easy", "opening": opening_of("belt")}
        said |= {"job": str(uuid.UUID(int=7)), "who": "Ines", "at": AT, "day": str(DAY)}
        seeds = set()
        for _ in range(2):
            core = InABrowser(self.new_page(), self.address)
            answers = core.call([("practise", said)] * 3)
            seeds |= {json.loads(answer)["practice"]["seed"] for answer in answers}
        self.assertEqual(len(seeds), 6)

    def test_one_that_is_not_what_was_packed_is_not_used_and_the_core_is_put_together_from_its_files(self) -> None:
        said = {"text": json.dumps(built(WORKED[0]).file)}
        for broken in (_altered, _cut, _gone):
            with self.subTest(broken.__name__), files_served(_with_snapshot(broken)) as address:
                core = InABrowser(self.new_page(), address)
                self.assertTrue(core.began["slow"])
                self.assertEqual(core.call([("assess", said)]), [Device().call("assess", json.dumps(said))])


def _altered(snapshot: bytes) -> bytes:
    middle = len(snapshot) // 2
    return snapshot[:middle] + bytes([snapshot[middle] ^ 1]) + snapshot[middle + 1 :]


def _cut(snapshot: bytes) -> bytes:
    return snapshot[: len(snapshot) // 2]


def _gone(snapshot: bytes) -> None:
    return None


def _with_snapshot(made: Callable[[bytes], bytes | None]) -> type[Files]:
    """What serves the built files, with something else in the snapshot's place."""

    class Serving(Files):
        def do_GET(self) -> None:
            if "/core/snapshot-" not in self.path:
                return super().do_GET()
            body = made(Path(self.translate_path(self.path)).read_bytes())
            self.send_response(404 if body is None else 200)
            self.send_header("Content-Length", str(len(body or b"")))
            self.end_headers()
            self.wfile.write(body or b"")

    return Serving
