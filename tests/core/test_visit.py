"""A visit: the factor in force through its parts, what is carried, as found and as left, and who decides."""

import unittest
from typing import Any

from tests.core.visit import AtWork, figure, loads
from wary.job.closing import Asked, in_the_way, state_after, summary, ways
from wary.job.loose import loose_ends, still_loose
from wary.job.visit import as_found_as_left

ZERO = {"zero/inputs.rated_rate": "360 t/h", "zero/inputs.revolution_time": "30 s", "zero/idle.a.value": "0.5 kg",
        "zero/idle.b.value": "0.6 kg"}  # fmt: skip
PLATES = {
    "inputs.factor": "0.9786",
    "inputs.factor_decimals": "4",
    "inputs.idler_spacing": "1.2 m",
    "inputs.speed": "2 m/s",
}


def weights(rate: str, **more: str) -> dict[str, str]:
    """A hung weight of 60 kg, which stands for 360 t/h on these plates."""
    texts = {
        "inputs.weight_kind": "hung",
        "inputs.test_mass": "60 kg",
        "inputs.revolutions": "4",
        "inputs.indicated_rate": rate,
    }
    return {f"weights/{path}": text for path, text in texts.items()} | more


def belt(**subject: Any) -> AtWork:
    return AtWork("belt", **subject).enter(PLATES, "record").enter(ZERO)


class FactorInForce(unittest.TestCase):
    def adjusted(self, **subject: Any) -> AtWork:
        """The weights ask for 0.9594 where 0.9786 stood (360 t/h shown as 367.2), and it is keyed in."""
        return belt(**subject).enter(weights("367.2 t/h", **{"weights/read_back": "0.9594"}))

    def test_a_later_part_starts_from_the_factor_that_was_keyed_in(self) -> None:
        job = belt().enter(weights("367.2 t/h"))
        self.assertEqual(figure(job.part("weights").assessment, "new_factor"), 0.9594)
        job.enter({"weights/read_back": "0.9594"}).rows("runs", *loads(1.0))
        main = job.part()
        self.assertEqual(main.built.file["inputs"]["factor"], 0.9594)
        # 0.9594/1.01 = 0.94990, and not 0.9786/1.01 = 0.96891.
        self.assertEqual(figure(main.assessment, "new_factor"), 0.9499)
        self.assertEqual(main.assessment.key_in and main.assessment.key_in.was, "0.9594")
        self.assertEqual(main.carried.factor_by, "the weights")

    def test_until_it_is_read_back_the_old_one_is_in_force(self) -> None:
        job = belt().enter(weights("367.2 t/h")).rows("runs", *loads(1.0))
        self.assertEqual(job.part().built.file["inputs"]["factor"], 0.9786)
        texts = [end.text for end in still_loose(job.snapshot)]
        self.assertIn("The weights asked for a new factor: was it keyed in?", texts)

    def test_the_as_left_of_a_part_starts_from_its_own_read_back(self) -> None:
        job = self.adjusted().rows("runs", *loads(1.0)).enter({"read_back": "0.9490"}).rows("as_left", *loads(0.9))
        main = job.part()
        self.assertEqual(main.built.file["inputs"]["as_left_factor"], 0.9490)
        self.assertEqual(figure(main.assessment, "new_factor"), round(0.9490 / 1.009, 4))
        self.assertIn("What it shows is what counts from here on", main.questions["read_back"])

    def test_a_second_figure_keyed_in_does_not_change_what_the_as_left_runs_started_from(self) -> None:
        job = self.adjusted().rows("runs", *loads(1.0)).enter({"read_back": "0.9490"}).rows("as_left", *loads(0.9))
        second = figure(job.part().assessment, "new_factor")
        assert second is not None
        job.enter({"read_back": f"{second:.4f}"})
        main = job.part()
        self.assertEqual(main.built.file["inputs"]["as_left_factor"], 0.9490)
        self.assertEqual(figure(main.assessment, "new_factor"), second)
        self.assertNotIn("read_back", main.questions)

    def test_a_figure_typed_in_a_part_stands_before_what_is_handed_on_and_is_asked_about(self) -> None:
        job = AtWork("chain").enter(PLATES, "record").enter(ZERO)
        job.enter(weights("367.2 t/h", **{"weights/inputs.factor": "0.98"}))
        self.assertEqual(job.part("weights").factor_in_force, 0.98)
        self.assertEqual(job.part().factor_in_force, 0.98)

    def test_what_differs_from_what_is_in_force_is_asked_about(self) -> None:
        two = AtWork("belt")
        place = [part.key for part in two.visit].index("weights") + 1
        two.visit = (*two.visit[:place], two.visit[0].__class__("again", "belt-test-weight"), *two.visit[place:])
        two.enter(PLATES, "record").enter(ZERO).enter(weights("367.2 t/h", **{"weights/read_back": "0.9594"}))
        two.enter({"again/inputs.factor": "0.9600"})
        part = two.part("again")
        self.assertEqual(part.factor_in_force, 0.96)
        self.assertIn("0.9594 is in force since the weights", part.questions["again/inputs.factor"])

    def test_a_change_in_per_cent_read_back_as_one_goes_on_from_there(self) -> None:
        job = self.adjusted(form="percent")
        self.assertEqual(job.part().factor_in_force, 0.9594)
        read = belt(form="percent").enter(weights("367.2 t/h", **{"weights/read_back": "-1.96 %"}))
        self.assertAlmostEqual(read.part().factor_in_force or 0, 0.9786 * (1 - 0.0196), 9)

    def test_where_the_instrument_is_made_to_show_a_reading_the_old_factor_is_in_force_no_more(self) -> None:
        job = belt(form="reading").enter(weights("367.2 t/h", **{"weights/read_back": "360 t/h"}))
        self.assertIsNone(job.part().factor_in_force)
        job.rows("runs", *loads(1.0))
        self.assertIsNone(figure(job.part().assessment, "new_factor"))
        self.assertAlmostEqual(figure(job.part().assessment, "percent_change") or 0, 100 * (1 / 1.01 - 1), 3)

    def test_a_figure_keyed_in_between_passes_is_what_the_next_one_starts_from(self) -> None:
        job = AtWork("platform").enter({"inputs.factor": "1.0042", "inputs.factor_decimals": "4", "inputs.capacity": "1500 kg",
                                        "inputs.division": "0.5 kg", "inputs.test_load": "400 kg"})  # fmt: skip
        job.rows("passes", {"zero": "0 kg", "span": "404 kg"})
        self.assertEqual(figure(job.part().assessment, "new_factor"), round(1.0042 * 400 / 404, 4))
        job.enter({"read_back": "0.9943"}).rows("passes", {"zero": "0 kg", "span": "401 kg"})
        self.assertEqual(figure(job.part().assessment, "new_factor"), round(0.9943 * 400 / 401, 4))


class Carried(unittest.TestCase):
    def test_plates_typed_in_one_part_count_for_all_that_take_them(self) -> None:
        job = AtWork("belt").enter(ZERO)
        self.assertEqual(job.part().built.file["inputs"]["rated_rate"], "360 t/h")
        self.assertEqual(job.part("zero-left").built.file["inputs"]["revolution_time"], "30 s")
        job.enter({"inputs.rated_rate": "350 t/h"})
        self.assertEqual(job.part().built.file["inputs"]["rated_rate"], "350 t/h")
        self.assertEqual(job.part("zero").built.file["inputs"]["rated_rate"], "360 t/h")

    def test_a_length_measured_gives_its_time_and_speed_to_the_parts_after_it(self) -> None:
        job = AtWork("belt").enter({"inputs.revolution_time": "31 s", "inputs.speed": "1.9 m/s"}, "record")
        job.enter({"length/inputs.speed": "2 m/s"}).rows(
            "length/revolution_times", {"value": "32 s"}, {"value": "32.1 s"}
        )
        self.assertEqual(job.part("zero").built.file["inputs"]["revolution_time"], "32.05 s")
        self.assertEqual(job.part("weights").built.file["inputs"]["speed"], "2 m/s")
        # What a person types for the visit stands over what was measured in it.
        job.enter({"inputs.revolution_time": "33 s"})
        self.assertEqual(job.part("zero").built.file["inputs"]["revolution_time"], "33 s")

    def test_a_zero_with_the_carrier_in_does_not_count_once_the_carrier_is_out(self) -> None:
        job = belt().enter(weights("360 t/h", **{"weights/inputs.carrier_zeroed": "yes"}))
        self.assertEqual(job.part("weights").assessment.reasons[0].code, "verified")
        job.rows("runs", *loads(0.1))
        self.assertEqual(job.part().assessment.reasons[0].code, "zero-first")
        job.enter({"inputs.zero_done": "job"})
        self.assertEqual(job.part().assessment.call, "leave")

    def test_the_weights_hand_on_what_they_gave(self) -> None:
        job = belt().enter(weights("367.2 t/h", **{"weights/read_back": "0.9594"})).rows("runs", *loads(1.0))
        self.assertAlmostEqual(figure(job.part().assessment, "weights_differ") or 0, (0.9499 / 0.9594 - 1) * 100, 6)


class FoundAndLeft(unittest.TestCase):
    def test_as_found_is_the_first_comparison_and_as_left_the_last_after_the_last_change(self) -> None:
        job = belt().enter(weights("367.2 t/h", **{"weights/read_back": "0.9594"}))
        job.rows("runs", *loads(1.0)).enter({"read_back": "0.9499"}).rows("as_left", *loads(0.1))
        found, left = as_found_as_left(job.snapshot.parts)
        assert found and left
        self.assertEqual((found.method, round(found.error, 6)), ("belt-test-weight", 2.0))
        self.assertEqual((left.method, round(left.error, 4)), ("belt-material-test", 0.1))
        handed = summary(job.snapshot)
        self.assertEqual((handed["factor_before"], handed["factor_after"]), ("0.9786", "0.9499"))
        self.assertEqual((handed["method_found"], handed["method_left"]), ("belt-test-weight", "belt-material-test"))
        self.assertEqual((handed["call_found"], handed["call"]), ("adjust", "leave"))

    def test_a_later_part_that_reads_right_is_the_as_left_of_the_one_before(self) -> None:
        job = belt().enter(weights("367.2 t/h", **{"weights/read_back": "0.9594"})).rows("runs", *loads(0.2))
        found, left = as_found_as_left(job.snapshot.parts)
        assert found and left
        self.assertEqual((round(found.error, 6), round(left.error, 4)), (2.0, 0.2))

    def test_nothing_changed_leaves_nothing_as_left(self) -> None:
        job = belt().enter(weights("360.5 t/h")).rows("runs", *loads(0.2))
        found, left = as_found_as_left(job.snapshot.parts)
        assert found
        self.assertEqual((found.method, left), ("belt-test-weight", None))


class NotValid(unittest.TestCase):
    def test_from_the_keying_in_until_something_proves_it(self) -> None:
        job = belt().enter(weights("367.2 t/h"))
        self.assertEqual(job.snapshot.not_valid, [])
        job.enter({"weights/read_back": "0.9594"})
        self.assertEqual(job.snapshot.not_valid, ["The weights: a new figure is keyed in and not proved yet."])
        job.rows("runs", *loads(0.2))
        self.assertEqual(job.snapshot.not_valid, [])
        self.assertEqual(job.snapshot.decides.key, "")

    def test_a_part_that_reads_right_only_then_does_not_prove_a_later_change(self) -> None:
        job = belt().enter(weights("360.5 t/h")).rows("runs", *loads(1.0)).enter({"read_back": "0.9689"})
        self.assertEqual(len(job.snapshot.not_valid), 1)
        job.rows("as_left", *loads(0.1))
        self.assertEqual(job.snapshot.not_valid, [])

    def test_a_span_taken_and_not_proved(self) -> None:
        job = AtWork("platform").enter(
            {"inputs.capacity": "1500 kg", "inputs.division": "0.5 kg", "inputs.test_load": "400 kg"}
        )
        job.rows("passes", {"zero": "0 kg", "span": "404 kg"})
        self.assertEqual(job.snapshot.not_valid, [])
        job.enter({"tick.take.taken": "yes"})
        self.assertEqual(len(job.snapshot.not_valid), 1)
        job.rows("passes", {"zero": "0 kg"})
        self.assertEqual(len(job.snapshot.not_valid), 1)
        job.enter({"passes.r2.span": "400 kg"})
        self.assertEqual(job.snapshot.not_valid, [])
        self.assertTrue(job.snapshot.complete)

    def test_a_zero_stored_and_not_confirmed(self) -> None:
        job = AtWork("belt", "belt-zero").enter({"inputs.rated_rate": "360 t/h", "inputs.revolution_time": "30 s"})
        job.rows("idle", {"value": "6 kg"}, {"value": "6.2 kg"}).enter({"tick.new-zero.stored": "yes"})
        self.assertIn("not confirmed by another reading", job.snapshot.not_valid[0])

    def test_a_corner_trimmed(self) -> None:
        job = AtWork("platform").enter({"inputs.division": "0.5 kg", "corners/inputs.test_load": "400 kg"})
        job.rows("corners/positions", {"label": "a", "indicated": "400 kg"}, {"label": "b", "indicated": "402 kg"})
        job.enter({"corners/tick.corners.trimmed": "yes"})
        self.assertIn("trimmed", job.snapshot.not_valid[0])
        self.assertIn("corners/loose.span-after-trim", [end.key for end in loose_ends(job.snapshot)])


class Deciding(unittest.TestCase):
    def test_a_part_that_was_begun_and_is_not_finished_says_what_is_missing(self) -> None:
        job = belt().enter({"weights/inputs.test_mass": "60 kg"}).rows("runs", *loads(0.2))
        text = next(end.text for end in loose_ends(job.snapshot) if end.key == "part-weights")
        self.assertEqual(text, "Test weights was begun and is not finished. Run it with the weights on, and type the rate it shows, or a total with its time.")  # fmt: skip

    def test_what_a_changed_span_makes_stale_is_a_loose_end_until_it_is_done_again(self) -> None:
        job = belt().rows("runs", *loads(1.0)).enter({"read_back": "0.9689"}).rows("as_left", *loads(0.1))
        self.assertIn("loose.zero-again", [end.key for end in still_loose(job.snapshot)])
        job.enter({"zero-left/idle.a.value": "0.4 kg", "zero-left/idle.b.value": "0.5 kg"})
        self.assertEqual(still_loose(job.snapshot), [])

    def test_only_what_is_possible_is_offered_first(self) -> None:
        job = belt().rows("runs", *loads(1.0))
        offered = ways(job.snapshot)
        self.assertEqual([way.outcome for way in offered[:2]], ["limited", "left-for-repair"])
        self.assertIn("not complete", next(way.why_not for way in offered if way.outcome == "complete"))
        fault = belt().rows("runs", *loads(0.0, 20, 20), *loads(3.0, 20))
        self.assertEqual(fault.snapshot.decides.assessment.call, "find-fault")
        self.assertEqual(ways(fault.snapshot)[0].outcome, "left-for-repair")
        right = belt().rows("runs", *loads(0.1))
        self.assertEqual(ways(right.snapshot)[0].outcome, "complete")

    def test_a_fault_left_for_repair_says_what_and_who_was_told(self) -> None:
        job = belt().rows("runs", *loads(0.0, 20, 20), *loads(3.0, 20))
        paths = [error["path"] for error in in_the_way(job.snapshot, Asked("Ines", "left-for-repair"))]
        self.assertEqual(paths, ["fault", "told"])
        said = Asked("Ines", "left-for-repair", fault="idler seized", told="Corin")
        self.assertEqual(in_the_way(job.snapshot, said), [])
        self.assertEqual(state_after(job.snapshot, "left-for-repair", "in-order"), "fault")

    def test_a_fault_stays_until_a_job_after_the_repair_is_complete(self) -> None:
        right = belt().rows("runs", *loads(0.1))
        self.assertEqual(state_after(right.snapshot, "complete", "fault"), "fault")
        right.enter({"occasion": "repair"})
        self.assertEqual(state_after(right.snapshot, "complete", "fault"), "in-order")

    def test_a_part_that_was_not_begun_decides_nothing(self) -> None:
        job = belt().enter(weights("360.5 t/h"))
        self.assertEqual(job.snapshot.decides.key, "weights")
        self.assertTrue(job.snapshot.complete)
