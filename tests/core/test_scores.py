"""How a practice is scored, and that its scores hold whatever was drawn."""

import statistics
import unittest

from tests.core.at_a_stand_in import Session
from tests.core.test_practised import facts, good
from wary.simulators import stand_ins
from wary.simulators.score import TITLES, score


class Scores(unittest.TestCase):
    def test_every_state_of_every_stand_in_can_be_got_right_and_got_wrong(self) -> None:
        for name, machine in stand_ins().items():
            for fault, hidden in machine.faults.items():
                session = Session(name, fault)
                with self.subTest(name, fault=fault):
                    if hidden.right == "leave":
                        self.assertTrue(good(session))
                        if machine.settings:
                            session.do(sorted(machine.settings)[0], 7.0)
                            self.assertFalse(good(session))
                    elif hidden.right == "adjust":
                        self.assertFalse(good(session))
                        self.assertTrue(session.truth().right_figure)
                    else:
                        self.assertFalse(good(session))
                        self.assertTrue(good(session, call="find-fault"))
                        self.assertTrue(good(session, call="keep-testing", stopped=True))
                        for cure in hidden.cures[:1]:
                            self.assertTrue(good(session.do(cure)))

    def test_a_factor_touched_over_a_fault_hides_it_and_after_its_cure_it_does_not(self) -> None:
        hidden = Session("platform", "frame").do("load", 1000, 30).do("span", 1000)
        scored = score(hidden.truth(), facts(call="find-fault"), 30)
        self.assertFalse(scored.good)
        self.assertEqual(scored.verdict, "There was a fault, and a setting was changed: that hides it.")
        cured = Session("platform", "frame").do("free").do("load", 1000, 30).do("span", 1000)
        self.assertTrue(good(cured))

    def test_whoever_mends_everything_has_found_nothing(self) -> None:
        session = Session("platform", "frame").look("gap").do("free").do("wiring")
        self.assertTrue(good(session))
        scored = score(session.do("count").truth(), facts(), 30)
        self.assertEqual((scored.good, scored.verdict), (False, "Everything was mended at a venture."))

    def test_a_right_decision_on_too_little_says_so_in_its_verdict(self) -> None:
        scored = score(Session("meter").truth(), facts(call="keep-testing"), 30)
        self.assertEqual(
            scored.verdict,
            "Left alone, rightly. But: 3 rows of readings written down: the evidence was still short of a call.",
        )

    def test_a_read_back_counts_as_a_touch(self) -> None:
        self.assertFalse(good(Session("belt"), read_back=True))

    def test_too_little_weighed_or_something_unproven_spoils_a_right_guess(self) -> None:
        session = Session("vessel")
        for wrong in ({"call": "keep-testing"}, {"runs": 0}, {"unproven": True}):
            self.assertFalse(good(session, **wrong), wrong)
        self.assertTrue(good(session, unproven=True, stopped=True))

    def test_time_is_told_and_does_not_spoil_it(self) -> None:
        session = Session("vessel")
        scored = score(session.truth(), facts(minutes=500), session.machine.minutes)
        self.assertTrue(scored.good)
        self.assertEqual([one.right for one in scored.judged if one.decision == "time"], [False])

    def test_only_decisions_that_the_state_asks_for_are_judged(self) -> None:
        names = {
            fault: {one.decision for one in score(Session("cart", fault).truth(), facts(), 30).judged}
            for fault in ("none", "out", "mount")
        }
        common = {"enough", "proved", "time"}
        self.assertEqual(names["none"], common | {"left-alone"})
        self.assertEqual(names["out"], common | {"put-right"})
        self.assertEqual(names["mount"], common | {"found", "not-hidden"})
        self.assertLessEqual(set().union(*names.values()), set(TITLES))


class AcrossSeeds(unittest.TestCase):
    def test_out_is_out_whatever_the_seed(self) -> None:
        for seed in range(12):
            session = Session("platform", "out", seed).do("load", 1000, 60)
            self.assertGreater(abs(session.read("weight") - 1000), 2.5)
            cart = Session("cart", "out", seed).do("axle", 5000, 60)
            self.assertGreater(abs(cart.read("weight") / 5000 - 1), 0.012)

    def test_noise_of_one_in_order_stays_within_a_division(self) -> None:
        for seed in range(6):
            session = Session("platform", "none", seed).do("load", 1000, 60)
            read = [session.wait(0.3).read("weight") for _ in range(40)]
            self.assertLess(max(read) - min(read), 0.6)
            self.assertAlmostEqual(statistics.mean(read), 1000, delta=0.4)
