"""What looking costs: the goals over a sample of kinds, two states at once, and what is said of it after a practice."""

import datetime
import unittest
import uuid

from tests.price import pairs_of, price_of, states
from wary.job.assess import parts_of
from wary.job.story import story
from wary.job.subject import Subject
from wary.log import Entry
from wary.machines import all_machines
from wary.simulators import stand_in_of, stand_ins
from wary.simulators.follow import follow
from wary.simulators.stand_in import Action
from wary.simulators.static import Platform
from wary.suspects.suspect import Past


class Price(unittest.TestCase):
    def test_the_goals_are_met_by_kinds_of_each_sort(self) -> None:
        for kind in ("platform", "belt", "filler", "grader", "spreader", "lift"):
            with self.subTest(kind):
                found = price_of(kind, range(1))
                self.assertLessEqual(found.minutes, 8)
                self.assertLessEqual(found.seen_minutes, found.minutes)
                self.assertEqual((found.left_changed, found.in_order_touched), (0, 0))
                self.assertEqual((found.pairs_touched, found.pairs_stuck), (0, 0))
                self.assertGreaterEqual(found.pairs_right, found.pairs - 1)

    def test_pairs_are_all_of_two_faults_and_of_a_fault_with_a_wrong_setting(self) -> None:
        faults, out = states("platform", "find-fault"), states("platform", "adjust")
        self.assertEqual(len(pairs_of("platform")), len(faults) * (len(faults) - 1) // 2 + len(faults) * len(out))
        self.assertEqual(pairs_of("bench"), [pair for pair in pairs_of("bench") if "+" in pair])

    def test_what_keeps_wanting_something_ends(self) -> None:
        for kind, pair in (("belt", "build-up+wind"), ("free-spreader", "engine+marker"), ("grader", "limits+counts"), ("lift", "hose+out")):  # fmt: skip
            with self.subTest(kind):
                done = follow(kind, pair, 0)
                self.assertFalse(done.stuck or done.left_changed)
                self.assertTrue(done.ended_well)

    def test_over_a_fault_that_is_found_late_the_old_figures_stand_first_again(self) -> None:
        done = follow("meter", "leaks+out", 0)
        self.assertTrue(done.touched)
        self.assertFalse(done.left_changed)
        self.assertEqual((done.call, done.suspect), ("leave", "leaks"))


class TwoAtOnce(unittest.TestCase):
    def test_each_is_ended_by_its_own_cure(self) -> None:
        machine = Platform(3, "frame+corner")
        freed = [Action(10.0, "free")]
        self.assertIsNone(machine.ended(freed))
        self.assertEqual(machine.ended([*freed, Action(20.0, "trim")]), 20.0)
        state = machine.after(freed)
        self.assertEqual((machine.wrong(state, "frame"), machine.wrong(state, "corner")), (False, True))
        self.assertFalse(machine.hale(state))

    def test_both_are_seen_and_a_fault_stands_before_a_wrong_setting(self) -> None:
        machine = Platform(3, "out+corner")
        self.assertEqual(machine.truth([]).right, "find-fault")
        self.assertEqual(set(machine.hidden.seen), set(Platform.faults["corner"].seen))

    def test_a_state_that_is_none_is_refused_by_its_name(self) -> None:
        with self.assertRaisesRegex(ValueError, "moon"):
            Platform(3, "out+moon")

    def test_one_state_alone_is_what_it_was(self) -> None:
        for kind in stand_ins():
            machine = stand_in_of(all_machines()[kind])
            for fault in machine.faults:
                self.assertEqual(machine(1, fault).hidden, machine.faults[fault])


class Told(unittest.TestCase):
    """A practice at a loader, told: what the best next look was worth, and what was made in its place."""

    def told(self, *entries: tuple[str, str]) -> list[str]:
        machine = all_machines()["lift-arm"]
        visit = tuple(part for part in machine.visit if part.key == "")
        start = datetime.datetime(2031, 5, 4, 9, 0, tzinfo=datetime.UTC)
        rows = [(f"runs.r{n}.{name}", f"{kg * off:.0f} kg") for n, kg in enumerate((804, 1206, 655)) for name, off in (("reference", 1.0), ("indicated", 1.052))]  # fmt: skip
        made = [
            Entry(uuid.UUID(int=n + 1), n + 1, path, text, at=start + datetime.timedelta(minutes=n))
            for n, (path, text) in enumerate([*rows, *entries])
        ]
        subject = Subject(machine, {}, {"name": machine.profile}, past=Past())
        stand_in = stand_in_of(machine)(1, "out")
        self.assertEqual(parts_of(visit)[0][0], "")
        return [row.words for row in story(stand_in, [], made, subject, visit, start.date(), start).rows]

    def test_another_look_than_the_best_is_told_with_what_both_were_worth(self) -> None:
        words = "".join(self.told(("looked.sensor", "fine")))
        self.assertIn("The best next look was another: “Read the oil's temperature", words)
        self.assertIn("the one that was made", words)
        self.assertIn("does the raw figure stand where it stood? Where it stood.", words)

    def test_the_best_look_and_those_of_its_walk_are_not_spoken_of(self) -> None:
        words = "".join(self.told(("looked.oil", "fine"), ("looked.pin", "fine")))
        self.assertNotIn("best next look", words)

    def test_a_figure_that_was_set_before_it_was_looked_at_is_told(self) -> None:
        self.assertIn("A figure was set before it was looked at", "".join(self.told(("read_back", "0.951"))))
