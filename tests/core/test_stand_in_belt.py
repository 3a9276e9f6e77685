"""The stand-in belt: its physics, its faults, what it tells of itself."""

import statistics
import unittest

from wary.live import Live
from wary.simulators.belt import FAULTS, Belt, Following
from wary.simulators.stand_in import Action


def readout(live: Live, key: str) -> float:
    return next(one.value for one in live.readouts if one.key == key)


def total(belt_: Belt, actions: list[Action], t: float) -> float:
    """What the totaliser shows at a time, t."""
    return readout(belt_.followed(actions).live(t), "total")


def errors(fault: str, seed: int = 3) -> list[float]:
    """Three material runs on a stand-in, each against its lorry's ticket, in per cent."""
    belt_ = Belt(seed, fault)
    actions = [Action(0, "run"), Action(4, "zero")]
    found = []
    for number in range(3):
        start, end = 60 + number * 700, 700 + number * 700
        actions += [Action(start, "feed", 220.0), Action(end - 40, "feed", 0.0)]
    for number in range(3):
        start, end = 60 + number * 700 - 5, 700 + number * 700
        shown = total(belt_, actions, end) - total(belt_, actions, start)
        gross, tare = belt_.weighed(actions, start, end)
        found.append((shown * 1000 / (gross - tare) - 1) * 100)
    return found


class StandInBelt(unittest.TestCase):
    def test_the_same_seed_and_actions_give_the_same_readings(self) -> None:
        actions = [Action(0, "run"), Action(5, "feed", 200.0)]
        one, other = Belt(5, "out"), Belt(5, "out")
        self.assertEqual(one.followed(actions).live(77.3), other.followed(actions).live(77.3))
        following = Following(one, actions)
        for t in (10.0, 33.3, 77.3):
            last = following.live(t)
        self.assertEqual(last, other.followed(actions).live(77.3))

    def test_in_order_it_reads_right_and_repeats(self) -> None:
        found = errors("none")
        self.assertLess(max(map(abs, found)), 0.3)

    def test_simply_out_it_is_off_the_same_way_and_the_right_factor_cures_it(self) -> None:
        found = errors("out")
        self.assertGreater(min(map(abs, found)), 0.7)
        self.assertLess(max(found) - min(found), 0.4)
        cured = Belt(3, "out")
        actions = [
            Action(0, "run"),
            Action(4, "zero"),
            Action(6, "key", cured.true_factor),
            Action(10, "feed", 220.0),
            Action(500, "feed", 0.0),
        ]
        gross, tare = cured.weighed(actions, 5, 560)
        shown = (total(cured, actions, 560) - total(cured, actions, 5)) * 1000
        self.assertAlmostEqual(shown / (gross - tare), 1, 2)

    def test_a_wrong_spacing_is_far_off_and_a_tight_belt_reads_light(self) -> None:
        self.assertGreater(min(map(abs, errors("spacing"))), 8)
        self.assertLess(max(errors("tight-belt")), -1.5)

    def test_build_up_shows_on_the_empty_belt_and_is_gone_when_cleaned(self) -> None:
        belt_ = Belt(3, "build-up")
        caked = [Action(0, "run"), Action(1, "decimals", 1)]
        turn = belt_.plates.revolution
        creeping = total(belt_, caked, 3 * turn) - total(belt_, caked, 2 * turn)
        clean = [*caked, Action(1, "clean")]
        hovering = total(belt_, clean, 3 * turn) - total(belt_, clean, 2 * turn)
        self.assertGreater(creeping * 1000, 20)
        self.assertLess(abs(hovering) * 1000, 2)

    def test_some_faults_do_not_repeat(self) -> None:
        spreads = {
            fault: max(found) - min(found) for fault in ("seized-idler", "slipping") for found in [errors(fault, 8)]
        }
        self.assertTrue(all(spread > 0.35 for spread in spreads.values()), spreads)

    def test_weights_hung_are_felt_and_a_tight_belt_does_not_change_them(self) -> None:
        for fault in ("none", "tight-belt"):
            belt_ = Belt(3, fault)
            actions = [Action(0, "zero"), Action(1, "hang", 60.0)]
            self.assertAlmostEqual(readout(belt_.followed(actions).live(5), "live"), 60, 0)

    def test_every_fault_has_a_truth_and_an_unknown_one_is_refused(self) -> None:
        for fault in FAULTS:
            self.assertEqual(Belt(1, fault).truth().fault, fault)
        with self.assertRaises(ValueError):
            Belt(1, "ghost")

    def test_it_tells_of_itself_in_the_one_shape_of_all_stand_ins(self) -> None:
        belt_ = Belt(3, "none")
        names = [control.name for control in belt_.controls]
        self.assertEqual(len(names), len(set(names)))
        still = belt_.followed([]).live(1)
        self.assertIn("run", still.offers)
        self.assertNotIn("stop", still.offers)
        running = belt_.followed([Action(0, "run")]).live(5)
        self.assertIn("stop", running.offers)
        self.assertNotIn("run", running.offers)
        into = {name for one in running.readouts for name in one.into}
        self.assertLessEqual({"total_start", "total_end", "indicated_rate", "live_weight", "revolutions"}, into)
        ticket = belt_.ticket([Action(0, "run"), Action(1, "feed", 200.0)], 300, belt_.scales[0])
        self.assertEqual([figure.into for figure in ticket.figures], ["gross", "tare"])

    def test_a_ticket_holds_what_came_since_the_one_before(self) -> None:
        belt_ = Belt(3, "none")
        actions = [Action(0, "run"), Action(1, "feed", 180.0), Action(201, "ticket"), Action(301, "feed", 0.0)]
        nets = []
        for t in (201.0, 401.0):
            gross, tare = (float(one.text) for one in belt_.ticket(actions, t, belt_.scales[0]).figures)
            nets.append(gross - tare)
        # 180 t/h are 50 kg/s: for 200 s, then for 100 s.
        self.assertAlmostEqual(nets[0], 10.0, delta=0.03)
        self.assertAlmostEqual(nets[1], 5.0, delta=0.03)

    def test_the_rate_is_load_per_length_times_speed_and_the_total_its_sum(self) -> None:
        belt_ = Belt(3, "none")
        actions = [Action(0, "run"), Action(30, "zero"), Action(30, "feed", 216.0)]
        # 216 t/h at 2 m/s are 30 kg/m; the feed swings by six in a hundred about that.
        following = belt_.followed(actions)
        rates = [readout(following.live(60 + second), "rate") for second in range(0, 600, 3)]
        self.assertAlmostEqual(statistics.mean(rates), 216, delta=3)
        self.assertAlmostEqual(total(belt_, actions, 660) - total(belt_, actions, 60), 36.0, delta=0.5)

    def test_a_first_run_that_reads_low_is_no_reason_to_touch_it(self) -> None:
        belt_ = Belt(3, "first")
        actions = [Action(0, "run"), Action(4, "zero"), Action(30, "feed", 210.0)]
        early = total(belt_, actions, 400) - total(belt_, actions, 100)
        late = total(belt_, actions, 1300) - total(belt_, actions, 1000)
        self.assertAlmostEqual(early / late, 0.985, delta=0.004)
        self.assertEqual(belt_.truth(actions).right, "leave")

    def test_a_right_factor_keyed_in_puts_it_right_and_another_does_not(self) -> None:
        belt_ = Belt(3, "out")
        self.assertTrue(belt_.truth([Action(5, "key", belt_.true_factor * 1.002)]).put_right)
        self.assertFalse(belt_.truth([Action(5, "key", belt_.true_factor * 1.02)]).put_right)
        self.assertFalse(belt_.truth().put_right)
        self.assertTrue(belt_.truth([Action(5, "key", 1.3)]).touched)
