"""The stand-ins' physics against closed sums: a fill's mass in the air, a controller's constant, a gate's law, a roller's first turns."""

import math
import statistics
import unittest
from dataclasses import replace

from wary.simulators.filler import Build, Filler
from wary.simulators.metering import BeltSpreader, GateSpreader, Meter

STILL = replace(Build(), scatter=(0.0, 0.0, 0.0), head=0.0, shake=0.0, noise=0.0, division=1e-9)
"""A filler without chance; only its gate's lag wanders by three in a hundred."""


class Fillers(unittest.TestCase):
    def mean(self, fast: float, medium: float, fine: float, build: Build = STILL) -> float:
        machine = Filler(4, build)
        return statistics.mean(machine.fill(fast, medium, fine).weight for _ in range(400))

    def test_what_lands_after_the_gate_shuts_is_flow_times_lag_and_fall(self) -> None:
        # Fine runs: the fill ends its own product in the air, and the filter's share, above where fine stopped.
        build = STILL
        expected = 1.0 - 0.02 + build.fine * (build.lag + build.fall) + build.fine * build.filter * 0.2
        self.assertAlmostEqual(self.mean(0.527, 0.2, 0.02), expected, 4)

    def test_a_stage_at_the_target_is_never_used(self) -> None:
        self.assertAlmostEqual(self.mean(1.0, 0.2, 0.02), self.mean(0.527, 0.2, 0.02), 4)

    def test_where_medium_runs_too_close_its_own_product_decides(self) -> None:
        build = STILL
        # Medium ends 10 g before, and lets fall flow·(filter + lag + fall) after that: fine is never seen.
        machine = Filler(4, build)
        made = [machine.fill(0.527, 0.01, 0.005) for _ in range(200)]
        self.assertTrue(all(one.fine_time == 0 for one in made))
        lands = (
            1.0 - 0.01 + build.medium * (build.filter + build.lag + build.fall) + build.fine * (build.lag + build.fall)
        )
        self.assertAlmostEqual(statistics.mean(one.weight for one in made), lands, 3)

    def test_the_fine_stage_lasts_as_long_as_its_flow_needs(self) -> None:
        build = STILL
        machine = Filler(4, build)
        landed = 1.0 - 0.2 + build.medium * (build.filter + build.lag + build.fall)
        seconds = statistics.mean(machine.fill(0.8, 0.2, 0.02).fine_time for _ in range(200))
        self.assertAlmostEqual(seconds, (1.0 - 0.02 - landed) / build.fine, 1)

    def test_the_shake_of_the_stage_before_dies_away_while_fine_runs(self) -> None:
        shaken = replace(STILL, shake=0.5)
        near, far = Filler(4, shaken), Filler(4, shaken)
        close = statistics.stdev(near.fill(0.527, 0.13, 0.02).weight for _ in range(300))
        apart = statistics.stdev(far.fill(0.527, 0.30, 0.02).weight for _ in range(300))
        self.assertGreater(close, 5 * apart)

    def test_product_that_bridges_scatters_more(self) -> None:
        spreads = {}
        for fault in Filler.FAULTS:
            machine = Filler(9, fault=fault)
            spreads[fault] = statistics.stdev(machine.fill(*machine.ideal()).weight for _ in range(200))
        self.assertGreater(spreads["bridging"], 3 * spreads["none"])
        self.assertGreater(spreads["air"], 1.5 * spreads["none"])


class Spreaders(unittest.TestCase):
    def test_a_controller_is_right_at_its_true_constant(self) -> None:
        machine = BeltSpreader(2, truth=8000, division=1e-6, scatter=0.0)
        caught = machine.catch(8000)
        self.assertAlmostEqual(caught.net, caught.controller, 4)

    def test_a_constant_too_high_by_a_tenth_gives_a_tenth_more(self) -> None:
        machine = BeltSpreader(2, truth=8000, division=1e-6, scatter=0.0)
        caught = machine.catch(8800)
        self.assertAlmostEqual(caught.net / caught.controller, 1.1, 6)

    def test_the_scale_shows_whole_divisions(self) -> None:
        machine = BeltSpreader(2, division=0.5)
        for _ in range(20):
            net = machine.catch(8100).net
            self.assertAlmostEqual(net / 0.5, round(net / 0.5), 9)

    def test_a_gate_gives_by_its_power_and_the_drive_has_its_end(self) -> None:
        machine = GateSpreader(3, law=1.5)
        ratio = statistics.mean(machine.one_turn(0.08) for _ in range(300)) / statistics.mean(machine.one_turn(0.04) for _ in range(300))  # fmt: skip
        self.assertAlmostEqual(ratio, 2**1.5, delta=0.01)
        self.assertEqual(machine.turns(7), machine.turns(9))
        self.assertGreater(machine.turns(3), machine.turns(2))


class Meters(unittest.TestCase):
    def test_a_full_roller_gives_turns_times_a_turn(self) -> None:
        machine = Meter(5, per_turn=0.12)
        self.assertAlmostEqual(statistics.mean(machine.catch(20, 1e-6) for _ in range(300)), 2.4, 2)

    def test_an_empty_one_lacks_what_fills_it_and_less_with_each_turn(self) -> None:
        machine = Meter(5, per_turn=0.12, primed=False)
        first = machine.catch(20, 1e-6)
        self.assertAlmostEqual(2.4 - first, 0.2, delta=0.03)
        self.assertAlmostEqual(machine.lacks, 0.2 * math.exp(-5), 9)

    def test_the_same_seed_gives_the_same(self) -> None:
        self.assertEqual([Meter(7).catch(10) for _ in range(3)], [Meter(7).catch(10) for _ in range(3)])
        self.assertNotEqual(BeltSpreader(1).catch(8000).net, BeltSpreader(2).catch(8000).net)
