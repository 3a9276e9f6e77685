"""Entries at any depth: one tree of inputs, by which they are folded, filed, brought in, set aside and taken back."""

import json
import subprocess
import sys
import unittest
import uuid
from typing import Annotated, Any

from tests.added import added
from tests.core.visit import AtWork
from wary.fields import Inputs, Mass, field
from wary.job.file import read, schema
from wary.job.fold import rebuilt
from wary.job.loose import still_loose
from wary.job.places import place
from wary.job.rows_in import RowText, rows_in
from wary.job.subject import Subject
from wary.job.taking_in import taken_in
from wary.log import Entry
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.tree import spec

PARTS = (("", "tray-fill"),)
TEXTS = {
    "inputs.nominal": "500 g",
    "inputs.working.speed": "30",
    "trials.t1.label": "stroke 4",
    "trials.t1.trays.a.weight": "505 g",
    "trials.t1.trays.b.weight": "507 g",
    "trials.t2.label": "stroke 5",
    "trials.t2.trays.a.weight": "498 g",
    "strokes.s1.value": "2.1 s",
}


class WithTheAdded(unittest.TestCase):
    def setUp(self) -> None:
        known = added()
        known.__enter__()
        self.addCleanup(known.__exit__, None, None, None)


class Tree(WithTheAdded):
    def test_every_place_has_its_kind_and_the_rows_that_it_lies_in(self) -> None:
        found = place(PARTS, "trials.t2.trays.f3.weight")
        assert found
        self.assertEqual((found.kind, found.key), ("mass", "weight"))
        self.assertEqual(found.rows, (("trials", "t2"), ("trials.t2.trays", "f3")))
        inside = place(PARTS, "inputs.working.speed")
        assert inside
        self.assertEqual((inside.kind, inside.rows), ("number", ()))
        plain = place(PARTS, "strokes.s1.value")
        assert plain
        self.assertEqual(plain.kind, "time")

    def test_a_path_that_leads_nowhere_is_no_place(self) -> None:
        for path in (
            "trials.t2.trays.f3",
            "trials.t2.trays.f3.height",
            "trials.t2",
            "trials.T2.label",
            "trials.t2.trays.f3.weight.more",
            "inputs.working",
            "inputs.working.colour",
            "inputs.trials",
            "strokes.s1.label",
            "strokes.s1",
            "other/inputs.nominal",
            "trials." + "t" * 200 + ".label",
            "",
        ):
            self.assertIsNone(place(PARTS, path), path)

    def test_every_place_of_every_method_can_be_typed_into(self) -> None:
        def walk(method: str, fields: Any, above: str) -> int:
            count = 0
            for one in fields:
                if one.kind == "list":
                    top = above.removeprefix("inputs.") if above == "inputs." else above
                    count += walk(method, one.inside(), f"{top}{one.key}.r1.")
                elif one.kind == "block":
                    count += walk(method, one.fields, f"{above}{one.key}.")
                else:
                    self.assertIsNotNone(place((("", method),), f"{above}{one.key}"), f"{method}: {above}{one.key}")
                    count += 1
            return count

        for key, method in all_methods().items():
            fields = [one for one in method.describe().inputs if one.key != "plates"]
            self.assertGreater(walk(key, fields, "inputs."), 2, key)

    def test_an_annotation_that_is_not_known_is_refused_when_the_program_starts(self) -> None:
        class Plain(Inputs):
            weight: float | None = field("Weight")

        class Several(Inputs):
            weight: int | str | None = field("Weight")

        class PlainRows(Inputs):
            weights: list[float] | None = field("Weights")

        class Known(Inputs):
            weight: Annotated[Mass | None, "said twice"] = field("Weight")

        for model in (Plain, Several, PlainRows):
            with self.assertRaisesRegex(TypeError, model.__name__):
                spec(model)
        self.assertEqual(spec(Known)[0].kind, "mass")

    def test_a_plain_list_has_one_place_in_a_row(self) -> None:
        strokes = next(one for one in all_methods()["tray-fill"].describe().inputs if one.key == "strokes")
        self.assertEqual((strokes.kind, strokes.of, strokes.units[0]), ("list", "time", strokes.units[0]))
        self.assertEqual([one.key for one in strokes.inside()], ["value"])


class Folded(WithTheAdded):
    def work(self) -> AtWork:
        return AtWork("tray-filler", "tray-fill").enter(TEXTS)

    def test_rows_inside_rows_stand_in_the_file_in_their_order(self) -> None:
        inputs = self.work().part().built.file["inputs"]
        self.assertEqual(inputs["working"], {"speed": 30})
        self.assertEqual(inputs["strokes"], ["2.1 s"])
        self.assertEqual(
            inputs["trials"],
            [
                {"label": "stroke 4", "trays": [{"weight": "505 g"}, {"weight": "507 g"}]},
                {"label": "stroke 5", "trays": [{"weight": "498 g"}]},
            ],
        )
        answer = self.work().part().assessment
        self.assertEqual(answer.call, "leave")
        self.assertAlmostEqual(answer.as_json()["results"]["mean_fill"]["value"], (505 + 507 + 498) / 3, 9)

    def test_an_inner_row_is_set_aside_with_its_reason_and_counts_no_more(self) -> None:
        job = self.work().enter({"trials.t1.trays.b.set_aside": "spilt on the way"})
        self.assertAlmostEqual(job.part().assessment.as_json()["results"]["mean_fill"]["value"], (505 + 498) / 2, 9)
        tray = job.part().built.file["inputs"]["trials"][0]["trays"][1]
        self.assertEqual(tray, {"weight": "507 g", "set_aside": "spilt on the way"})
        job.enter({"trials.t1.trays.b.set_aside": ""})
        self.assertAlmostEqual(
            job.part().assessment.as_json()["results"]["mean_fill"]["value"], (505 + 507 + 498) / 3, 9
        )
        job.enter({"trials.t1.set_aside": "wrong nozzle"})
        self.assertAlmostEqual(job.part().assessment.as_json()["results"]["mean_fill"]["value"], 498, 9)

    def test_what_is_taken_back_at_depth_brings_back_what_stood_there(self) -> None:
        first = Entry(uuid.uuid4(), 1, "trials.t1.trays.a.weight", "505 g")
        second = Entry(uuid.uuid4(), 2, "trials.t1.trays.a.weight", "550 g", supersedes=first.entry_id)
        back = Entry(uuid.uuid4(), 3, "trials.t1.trays.a.weight", "", supersedes=second.entry_id, undoes=True)
        fold = rebuilt([first, second], PARTS)
        self.assertEqual(fold.text("trials.t1.trays.a.weight"), "550 g")
        self.assertEqual(rebuilt([first, second, back], PARTS).text("trials.t1.trays.a.weight"), "505 g")

    def test_a_row_of_which_everything_is_emptied_is_gone(self) -> None:
        job = self.work()
        fold = rebuilt(job.entries, PARTS)
        self.assertEqual(fold.live_rows("trials"), ["t1", "t2"])
        self.assertEqual(fold.live_rows("trials.t1.trays"), ["a", "b"])
        job.enter({"trials.t1.trays.b.weight": ""})
        self.assertEqual(rebuilt(job.entries, PARTS).live_rows("trials.t1.trays"), ["a"])
        job.enter({"trials.t2.label": "", "trials.t2.trays.a.weight": ""})
        self.assertEqual(rebuilt(job.entries, PARTS).live_rows("trials"), ["t1"])

    def test_what_is_not_ready_is_said_at_its_own_place(self) -> None:
        answer = AtWork("tray-filler", "tray-fill").enter({"inputs.nominal": "500 g", "trials.t1.label": "a"})
        reasons = {reason.more.get("path"): reason.text for reason in answer.part().assessment.reasons}
        self.assertEqual(reasons["inputs.trials[0].trays"], "Trial 1: weigh the first tray.")
        self.assertIn("inputs.working", reasons)

    def test_a_loose_end_of_a_tick_stays_until_it_is_put_back(self) -> None:
        job = self.work().enter({"tick.look.guard": "yes"})
        self.assertIn("The guard is off: put it back.", [end.text for end in still_loose(job.snapshot)])

    def test_what_was_changed_and_not_proved_is_not_valid(self) -> None:
        job = AtWork("tray-filler", "tray-fill").enter({**TEXTS, "trials.t2.trays.a.weight": "560 g"})
        self.assertEqual(job.part().assessment.call, "adjust")
        job.enter({"tick.trials.turned": "yes"})
        self.assertIn("its stroke was turned, and no tray was weighed after it", job.snapshot.not_valid[0])


class BroughtIn(WithTheAdded):
    def test_a_job_file_comes_back_as_the_same_file(self) -> None:
        file = AtWork("tray-filler", "tray-fill").enter(TEXTS).part().built.file
        document = json.loads(json.dumps(file | {"profile": {"name": "vessel"}}))
        subject = Subject(all_machines()["tray-filler"], profile={"name": "vessel"})
        taken = taken_in(document, subject)
        self.assertEqual(len([path for path in taken.texts if ".trays." in path and path.endswith("weight")]), 3)
        again = AtWork("tray-filler", "tray-fill").enter(taken.texts, "imported")
        self.assertEqual(again.part().built.file["inputs"], file["inputs"])

    def test_rows_of_an_inner_list_come_in_from_csv(self) -> None:
        brought = rows_in(PARTS, "trials.t1.trays", b"weight\n505 g\n507 g\n")
        self.assertEqual(len(brought), 2)
        self.assertTrue(all(isinstance(one, RowText) for one in brought))

    def test_a_file_is_refused_at_the_path_of_what_is_wrong(self) -> None:
        document = AtWork("tray-filler", "tray-fill").enter(TEXTS).part().built.file
        document["inputs"]["trials"][1]["trays"][0]["weight"] = "heavy"
        with self.assertRaises(ValueError) as raised:
            read(document)
        self.assertIn("inputs.trials[1].trays[0].weight", json.dumps([r.as_json() for r in raised.exception.refusals]))  # type: ignore[attr-defined]

    def test_the_schema_holds_inner_blocks_of_one_name_apart(self) -> None:
        defined = schema()["$defs"]
        owners = {name.rpartition(".")[0] for name in defined}
        self.assertIn("tray-fill", owners)
        self.assertEqual(len(defined), len(set(defined)))
        self.assertIn("tray-fill.Tray", defined)


class OnTheCommandLine(unittest.TestCase):
    CODE = "import sys; from tests.added import added; from wary.__main__ import main\nwith added(): sys.exit(main(sys.argv[1:]))"

    def wary(self, *arguments: str, typed: str = "") -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-c", self.CODE, *arguments]
        return subprocess.run(command, input=typed, capture_output=True, text=True)

    def test_the_added_method_is_listed_described_and_assessed(self) -> None:
        self.assertIn("tray-fill", self.wary("methods").stdout)
        described = self.wary("describe", "tray-fill").stdout
        for word in ("nominal", "working", "trays", "Strokes a minute"):
            self.assertIn(word, described)
        document = {
            "method": "tray-fill",
            "inputs": {
                "nominal": "500 g",
                "working": {"speed": 30},
                "trials": [{"label": "a", "trays": [{"weight": "520 g"}, {"weight": "522 g"}]}],
            },
        }
        done = self.wary("assess", "-", typed=json.dumps(document))
        answer = json.loads(done.stdout)
        self.assertEqual((answer["call"], answer["results"]["mean_fill"]), ("adjust", {"value": 521.0, "unit": "g"}))
        self.assertIn("tray-fill.Trial", json.loads(self.wary("schema").stdout)["$defs"])

    def test_without_its_file_nobody_knows_it(self) -> None:
        self.assertNotIn("tray-fill", all_methods())
        with self.assertRaises(ValueError):
            read({"method": "tray-fill", "inputs": {}})
