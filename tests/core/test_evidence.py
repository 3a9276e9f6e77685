"""Evidence that nobody types: readings captured as they stood or moved, and how the machine moved between its visits."""

import unittest
from typing import Any

from tests.core.test_machine_judged import FREE, NAMED, PLATES, codes, platform, states
from tests.core.visit import AtWork
from wary.job.captured import as_they_stood, must_stand
from wary.job.file import read
from wary.job.view import bench
from wary.job.written import written
from wary.rules.drift import Moved, Visit, came_at_once, usual_move


def captured(*spans: tuple[str, bool], typed: str = "", **subject: Any) -> AtWork:
    """A platform's visit whose passes were captured: the span of each, and whether it stood."""
    work = AtWork("platform", **subject).enter(PLATES, "record").enter(NAMED).enter(FREE)
    for number, (span, steady) in enumerate(spans, 1):
        work.enter({f"passes.p{number}.zero": "0.0 kg"}, "captured", True)
        work.enter({f"passes.p{number}.span": span}, "captured", steady)
        work.enter({f"passes.p{number}.zero_after": typed or "0.0 kg"}, *([] if typed else ["captured", True]))
    return work


class Captured(unittest.TestCase):
    def test_a_method_says_by_its_acts_which_readings_must_stand(self) -> None:
        self.assertEqual(must_stand("zero-span"), {"passes.zero", "passes.span", "passes.zero_after"})
        self.assertEqual(must_stand("belt-material-test"), frozenset(), "a total is read while the belt may still run")

    def test_what_was_captured_while_it_moved_speaks_for_a_reading_taken_too_early(self) -> None:
        call = captured(("398.2 kg", False)).snapshot.machine
        self.assertEqual(states(call)["early"], "likely")
        early = next(one for one in call.suspects if one.suspect.key == "early")
        self.assertEqual([one.text for one in early.speaks_for], ["Captured while it moved: Shown with the load on."])
        self.assertEqual(call.call, "keep-testing")
        self.assertEqual(states(call)["water"], "likely", "what never stands may also run away by itself")

    def test_where_all_stood_as_they_were_captured_it_was_not_too_early(self) -> None:
        call = captured(("398.2 kg", True), ("398.3 kg", True)).snapshot.machine
        early = next(one for one in call.suspects if one.suspect.key == "early")
        self.assertEqual(early.state, "ruled-out")
        self.assertIn("6 readings, each captured as it stood.", [one.text for one in early.against])

    def test_one_typed_among_them_says_nothing_and_neither_do_typed_ones_alone(self) -> None:
        work = captured(("398.2 kg", True), typed="0.0 kg")
        self.assertIsNone(as_they_stood(work.snapshot.fold, work.snapshot.order))
        self.assertIsNone(as_they_stood(platform("398.2 kg").snapshot.fold, work.snapshot.order))

    def test_a_reading_taken_again_as_it_stands_takes_the_place_of_the_one_that_moved(self) -> None:
        work = captured(("398.2 kg", False)).enter({"passes.p1.span": "398.4 kg"}, "captured", True)
        self.assertNotEqual(states(work.snapshot.machine)["early"], "likely")

    def test_many_that_moved_are_counted_and_not_listed(self) -> None:
        work = captured(*[("398.2 kg", False)] * 4)
        found = as_they_stood(work.snapshot.fold, work.snapshot.order)
        self.assertEqual(found, (False, "4 readings were captured while it moved."))

    def test_it_is_no_look_that_was_asked_for(self) -> None:
        whole = {"profile": {"name": "vessel", "looks": "all"}}
        one, other = captured(("398.2 kg", True), **whole), captured(("398.2 kg", True), typed="0.0 kg", **whole)
        for work in (one, other):
            for key in ("corners", "plates"):
                work.enter({f"looked.{key}": "fine"})
        self.assertEqual(one.snapshot.machine.looks_left, other.snapshot.machine.looks_left)

    def test_the_job_file_says_it_and_is_judged_alike(self) -> None:
        shot = captured(("398.2 kg", False)).snapshot
        file = written(shot)
        self.assertIn({"look": "captured", "result": "not-fine", "note": "Captured while it moved: Shown with the load on."}, file["looked"])  # fmt: skip
        block: Any = read(file).judge()["machine"]
        self.assertEqual(block["call"], shot.machine.call)
        self.assertEqual({one["key"]: one["state"] for one in block["suspects"]}, states(shot.machine))


class HowItMoved(unittest.TestCase):
    BEFORE = Moved(0.05, 4, -0.02)

    def test_the_most_that_it_moved_is_taken_between_its_last_visits(self) -> None:
        days = [Visit(day * 30.0, found, left) for day, (found, left) in enumerate([(9.0, 0.0), (0.1, None), (0.15, None), (0.1, 0.0), (-0.3, 0.02)])]  # fmt: skip
        found = usual_move(days)
        assert found is not None
        self.assertAlmostEqual(found.most, 0.3)
        self.assertEqual((found.visits, found.left), (4, 0.02))

    def test_too_few_visits_and_those_after_a_repair_say_nothing(self) -> None:
        self.assertIsNone(usual_move([]))
        self.assertIsNone(usual_move([Visit(0, 0.1, None), Visit(30, 0.2, None), Visit(60, 0.1, None)]))
        self.assertIsNone(usual_move([Visit(day, 0.1, None, anew=day > 0) for day in range(0, 150, 30)]))

    def test_a_jump_is_three_times_the_most_and_more_than_is_uncertain(self) -> None:
        self.assertTrue(came_at_once(-0.45, self.BEFORE, 0.1))
        self.assertFalse(came_at_once(-0.16, self.BEFORE, 0.1), "three times the most that it moved")
        self.assertFalse(came_at_once(-0.45, self.BEFORE, 0.5), "within its own uncertainty")

    def test_what_came_at_once_is_said_and_what_comes_slowly_is_less_usual(self) -> None:
        plain, jumped = platform("398.2 kg").enter(FREE), platform("398.2 kg", moved=self.BEFORE).enter(FREE)
        call = jumped.snapshot.machine
        self.assertEqual(codes(call)[:2], ["look-first", "came-at-once"])
        self.assertIn("0.05 % at most between the 5 before: it came at once.", call.reasons[1].text)
        water = next(one for one in call.suspects if one.suspect.key == "water")
        self.assertEqual(water.state, "open")
        self.assertIn("it came at once", water.against[-1].text)
        order = [one.suspect.key for one in call.suspects if one.state == "open"]
        self.assertEqual(order[-1], "water", "listed last of those that are open")
        self.assertNotIn("came-at-once", codes(plain.snapshot.machine))

    def test_what_drifts_speaks_for_what_comes_slowly_and_shows_nothing(self) -> None:
        call = platform("398.2 kg", drifts=True).enter(FREE).snapshot.machine
        water = next(one for one in call.suspects if one.suspect.key == "water")
        self.assertEqual(water.state, "open")
        self.assertIn("the same way", water.speaks_for[0].text)

    def test_a_machine_in_order_is_not_told_of_a_jump(self) -> None:
        call = platform("400.0 kg", "400.0 kg", moved=Moved(0.0001, 4, 0.9)).enter(FREE).snapshot.machine
        self.assertEqual(call.call, "leave")
        self.assertNotIn("came-at-once", codes(call))

    def test_the_bench_shows_it(self) -> None:
        view = bench(platform("398.2 kg", moved=self.BEFORE).enter(FREE).snapshot)
        self.assertIn("came-at-once", [reason.code for reason in view.machine.reasons])


if __name__ == "__main__":
    unittest.main()
