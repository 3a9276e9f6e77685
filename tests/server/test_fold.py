"""The fold of entries, paths of a visit, loose ends and what a part of a visit is judged by."""

import uuid

from beacon.bench.document import assess, begun, judged
from beacon.bench.fold import live_rows
from beacon.bench.keeping import Given, keep
from beacon.bench.loose import is_complete, loose_ends
from beacon.bench.models import Job
from beacon.bench.paths import lists, place, scalars
from tests.server.plant import AGREEING, PlantTestCase, enter, runs

PARTS = (("zero", "belt-zero"), ("weights", "belt-test-weight"), ("", "belt-material-test"))


class Places(PlantTestCase):
    def test_a_path_names_its_part_its_list_and_its_kind(self) -> None:
        row = place(PARTS, "zero/idle.r1.value")
        assert row is not None
        self.assertEqual((row.part, row.list, row.row, row.key, row.kind), ("zero", "idle", "r1", "value", "mass"))
        shared = place(PARTS, "inputs.test_mass")
        assert shared is not None
        self.assertEqual((shared.part, shared.kind), ("", "mass"))

    def test_what_is_no_place_is_none(self) -> None:
        for path in (
            "idle.r1.value", "zero/runs.r1.gross", "ghost/inputs.factor", "runs.R1.gross", "runs.r1.colour", "zero/occasion",
            "plates.colour", "inputs.", "zero/plates.angle", "references.r1.colour", "tick.look", "x" * 90,
        ):  # fmt: skip
            self.assertIsNone(place(PARTS, path), path)

    def test_lists_and_single_inputs_of_a_method(self) -> None:
        self.assertEqual(lists("belt-length"), {"revolution_times": {"value": "time"}})
        self.assertEqual(lists("corner-test")["positions"], {"label": "string", "indicated": "mass"})
        self.assertEqual(scalars("belt-zero")["revolutions_each"], "integer")


class Folding(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()

    def given(self, path: str, text: str, supersedes: uuid.UUID | None = None, undoes: bool = False) -> Given:
        return Given(uuid.uuid4(), path, text, supersedes=supersedes, undoes=undoes)

    def test_a_row_that_was_emptied_is_no_row_any_more(self) -> None:
        enter(self.job, self.plant.technician, {"runs.a.gross": "30 t", "runs.b.gross": "31 t"})
        enter(self.job, self.plant.technician, {"runs.a.gross": ""})
        self.assertEqual(live_rows(self.job.fold, "runs"), ["b"])

    def test_taking_everything_back_leaves_an_empty_field_that_shows_what_stood_there(self) -> None:
        first = self.given("runs.a.gross", "30 t")
        keep(self.plant.technician, self.job, [first])
        keep(self.plant.technician, self.job, [self.given("runs.a.gross", "", first.id, undoes=True)])
        field = self.job.fold["fields"]["runs.a.gross"]
        self.assertEqual((field["text"], field["previous"]["text"], field["earlier"]), ("", "30 t", 1))

    def test_there_is_nothing_to_take_back_twice_somewhere_else(self) -> None:
        first = self.given("runs.a.gross", "30 t")
        keep(self.plant.technician, self.job, [first])
        kept = keep(self.plant.technician, self.job, [self.given("runs.b.gross", "", first.id, undoes=True)])
        self.assertIn("nothing there to take back", kept.refused[0]["text"])

    def test_the_same_text_twice_is_no_clash(self) -> None:
        enter(self.job, self.plant.technician, {"runs.a.gross": "30 t"})
        enter(self.job, self.plant.lead, {"runs.a.gross": "30 t"})
        self.assertFalse(self.job.fold["fields"]["runs.a.gross"]["clash"])

    def test_typing_over_the_record_is_no_clash(self) -> None:
        enter(self.job, self.plant.technician, {"inputs.factor": "1.2"})
        field = self.job.fold["fields"]["inputs.factor"]
        self.assertEqual((field["clash"], field["previous"]["text"]), (False, "1.1420"))

    def test_a_text_too_long_or_with_a_nul_is_refused(self) -> None:
        kept = keep(self.plant.technician, self.job, [self.given("note", "x" * 2001), self.given("note", "a\x00b")])
        self.assertEqual(len(kept.refused), 2)

    def test_a_job_begins_with_what_the_record_knows_and_says_so(self) -> None:
        field = self.job.fold["fields"]["inputs.factor"]
        self.assertEqual((field["text"], field["source"]), ("1.1420", "record"))
        self.assertFalse(begun(self.job.fold, ""))


class LooseEnds(PlantTestCase):
    def test_a_figure_keyed_in_asks_for_its_as_left_runs(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job", "read_back": "1.1260"} | runs(AGREEING))
        ends = {end["key"]: end["done"] for end in loose_ends(job, assess(job, job.fold))}
        self.assertEqual(ends, {"read-back": True, "as-left": False})
        self.assertFalse(is_complete(job, assess(job, job.fold)))

    def test_a_tick_opens_a_loose_end_and_putting_back_ends_it(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"tick.look.decimals": "yes"})
        ends = loose_ends(job, assess(job, job.fold))
        self.assertEqual([(end["key"], end["done"]) for end in ends], [("loose.decimals", False)])
        enter(job, self.plant.technician, {"loose.decimals": "done"})
        self.assertTrue(loose_ends(job, assess(job, job.fold))[0]["done"])

    def test_a_visit_is_judged_by_its_main_part_once_that_is_begun(self) -> None:
        body = {"system": str(self.plant.system.id), "method": "visit"}
        job = Job.objects.get(id=self.send("/api/jobs", body).json()["id"])
        enter(job, self.plant.technician, {"zero/idle.a.value": "1 kg", "zero/idle.b.value": "1 kg"})
        self.assertEqual(judged(job, assess(job, job.fold)).file["method"], "belt-zero")
        enter(job, self.plant.technician, runs(AGREEING))
        self.assertEqual(judged(job, assess(job, job.fold)).file["method"], "belt-material-test")
