"""The fold of entries, paths of a visit, loose ends and what a part of a visit is judged by."""

import uuid

from beacon.bench.keeping import Sent
from beacon.bench.keeping import enter as keep
from beacon.bench.models import Job
from tests.server.plant import AGREEING, PlantTestCase, enter, runs, snapshot
from wary.job.loose import loose_ends
from wary.job.places import inputs_of, list_at, lists_of, place

PARTS = (("zero", "belt-zero"), ("weights", "belt-test-weight"), ("", "belt-material-test"))


class Places(PlantTestCase):
    def test_a_path_names_its_part_its_list_and_its_kind(self) -> None:
        row = place(PARTS, "zero/idle.r1.value")
        assert row is not None
        self.assertEqual((row.part, row.rows, row.key, row.kind), ("zero", (("zero/idle", "r1"),), "value", "mass"))
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
        self.assertEqual(list(lists_of("belt-length")), ["revolution_times"])
        positions = lists_of("corner-test")["positions"].inside()
        self.assertEqual(
            {one.key: one.kind for one in positions}, {"label": "string", "indicated": "mass", "capacity": "mass"}
        )
        self.assertEqual(inputs_of("belt-zero")["revolutions_each"].kind, "integer")
        listed = list_at(PARTS, "zero/idle")
        assert listed
        self.assertEqual([(one.key, one.kind) for one in listed.inside()], [("value", "mass")])
        self.assertIsNone(list_at(PARTS, "zero/idle.r1"))


class Folding(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()

    def given(self, path: str, text: str, supersedes: uuid.UUID | None = None, undoes: bool = False) -> Sent:
        return Sent(uuid.uuid4(), path, text, supersedes=supersedes, undoes=undoes)

    def test_a_row_that_was_emptied_is_no_row_any_more(self) -> None:
        enter(self.job, self.plant.technician, {"runs.a.gross": "30 t", "runs.b.gross": "31 t"})
        enter(self.job, self.plant.technician, {"runs.a.gross": ""})
        self.assertEqual(snapshot(self.job).fold.live_rows("runs"), ["b"])

    def test_what_was_captured_says_whether_it_stood_and_what_was_typed_does_not(self) -> None:
        sent = [Sent(uuid.uuid4(), f"runs.a.{key}", "30 t", source=source, steady=steady) for key, source, steady in (("gross", "captured", False), ("tare", "typed", None))]  # fmt: skip
        keep(self.plant.technician, self.job.id, sent)
        fields = snapshot(self.job).fold.fields
        self.assertIs(fields["runs.a.gross"].steady, False)
        self.assertIsNone(fields["runs.a.tare"].steady)

    def test_taking_everything_back_leaves_an_empty_field_that_shows_what_stood_there(self) -> None:
        first = self.given("runs.a.gross", "30 t")
        keep(self.plant.technician, self.job.id, [first])
        keep(self.plant.technician, self.job.id, [self.given("runs.a.gross", "", first.id, undoes=True)])
        field = snapshot(self.job).fold.fields["runs.a.gross"]
        self.assertEqual((field.text, field.previous and field.previous.text, field.earlier), ("", "30 t", 1))

    def test_there_is_nothing_to_take_back_twice_somewhere_else(self) -> None:
        first = self.given("runs.a.gross", "30 t")
        keep(self.plant.technician, self.job.id, [first])
        kept = keep(self.plant.technician, self.job.id, [self.given("runs.b.gross", "", first.id, undoes=True)])
        self.assertIn("nothing there to take back", kept.refused[0]["text"])

    def test_the_same_text_twice_is_no_clash(self) -> None:
        enter(self.job, self.plant.technician, {"runs.a.gross": "30 t"})
        enter(self.job, self.plant.lead, {"runs.a.gross": "30 t"})
        self.assertFalse(snapshot(self.job).fold.fields["runs.a.gross"].clash)

    def test_typing_over_the_record_is_no_clash(self) -> None:
        enter(self.job, self.plant.technician, {"inputs.factor": "1.2"})
        field = snapshot(self.job).fold.fields["inputs.factor"]
        self.assertEqual((field.clash, field.previous and field.previous.text), (False, "1.1420"))

    def test_a_text_too_long_or_with_a_nul_is_refused(self) -> None:
        kept = keep(self.plant.technician, self.job.id, [self.given("note", "x" * 2001), self.given("note", "a\x00b")])
        self.assertEqual(len(kept.refused), 2)

    def test_a_job_begins_with_what_the_record_knows_and_says_so(self) -> None:
        field = snapshot(self.job).fold.fields["inputs.factor"]
        self.assertEqual((field.text, field.source), ("1.1420", "record"))
        self.assertFalse(snapshot(self.job).main.begun)


class LooseEnds(PlantTestCase):
    def ends(self, job: Job) -> dict[str, bool]:
        return {end.key: end.done for end in loose_ends(snapshot(job))}

    def test_a_figure_keyed_in_asks_for_its_as_left_runs(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job", "read_back": "1.1260"} | runs(AGREEING))
        self.assertEqual(self.ends(job), {"as-left": False, "loose.zero-again": False})
        self.assertFalse(snapshot(job).complete)

    def test_as_left_runs_without_a_read_back_ask_whether_it_was_keyed_in(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        self.assertEqual(self.ends(job), {})
        enter(job, self.plant.technician, {"as_left.r1.reference": "20 t", "as_left.r1.indicated": "20 t"})
        ends = [end.text for end in loose_ends(snapshot(job))]
        self.assertIn("The material asked for a new factor: was it keyed in?", ends)

    def test_a_tick_opens_a_loose_end_and_putting_back_ends_it(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"tick.look.decimals": "yes"})
        self.assertEqual(self.ends(job), {"loose.decimals": False})
        enter(job, self.plant.technician, {"loose.decimals": "done"})
        self.assertEqual(self.ends(job), {"loose.decimals": True})

    def test_the_last_part_that_was_begun_and_compares_decides(self) -> None:
        job = self.plant.job("visit")
        enter(job, self.plant.technician, {"zero/idle.a.value": "1 kg", "zero/idle.b.value": "1 kg"})
        self.assertEqual(snapshot(job).decides.method.key, "belt-zero")
        enter(job, self.plant.technician, {"weights/inputs.test_mass": "60 kg"})
        self.assertEqual(snapshot(job).decides.method.key, "belt-test-weight")
        enter(job, self.plant.technician, runs(AGREEING))
        self.assertEqual(snapshot(job).decides.method.key, "belt-material-test")
