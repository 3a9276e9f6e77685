"""The stand-ins' physics against closed sums: what stands on load cells, and what rides on vehicles."""

import math
import statistics
import unittest

from tests.core.at_a_stand_in import Session
from wary.simulators.axle import LOADS
from wary.simulators.cart import Cart
from wary.simulators.cells import CREEP, NEAR, OnCells, shares
from wary.simulators.lift import COLD, EMPTY, PACED, WARM


class OnLoadCells(unittest.TestCase):
    def test_parallel_cells_give_the_sum_of_their_shares(self) -> None:
        # Each of four cells of 1000 kg at 2 mV/V carries a quarter of 220 kg dead load and 1000 kg on the middle.
        session = Session("platform").do("load", 1000, 20)
        for number in range(1, 5):
            self.assertAlmostEqual(session.read(f"cell-{number}"), 2 * (55 + 250) / 1000, delta=0.002)
        self.assertAlmostEqual(session.read("weight"), 1000, delta=0.5)

    def test_a_load_at_a_corner_leaves_its_lever_s_share_on_each_cell(self) -> None:
        # 0.9 of the way out on both sides of a square: 0.9², 0.9 · 0.1 twice, 0.1².
        self.assertEqual([round(share, 4) for share in shares(1, 4)], [0.81, 0.09, 0.01, 0.09])
        self.assertAlmostEqual(sum(shares(3, 4)), 1)
        session = Session("platform").do("load", 1000).do("place", 1, 20)
        self.assertAlmostEqual(session.read("cell-1"), 2 * (55 + NEAR * 1000) / 1000, delta=0.002)
        self.assertAlmostEqual(session.read("weight"), 1000, delta=0.5)

    def test_a_corner_that_is_out_reads_less_by_its_share_of_the_load(self) -> None:
        session = Session("platform", "corner").do("load", 1000)
        assert isinstance(session.machine, OnCells)
        read = {}
        for corner in range(1, 5):
            session.do("place", corner, 20)
            read[corner] = session.read("weight")
        bad = session.machine.bad
        # A cell at 98.5 % under 81 % of the load; its dead load went away with the zero.
        self.assertAlmostEqual(1000 - read[bad], 1000 * 0.81 * 0.015, delta=1.0)
        self.assertEqual(min(read, key=read.__getitem__), bad)
        session.do("trim", 0, 20)
        self.assertAlmostEqual(session.read("weight"), 1000, delta=4)

    def test_near_to_zero_it_tracks_zero_and_further_off_it_does_not(self) -> None:
        session = Session("platform").do("load", 0.2, 20)
        self.assertEqual({session.wait(0.3).read("weight") for _ in range(30)}, {0.0})
        self.assertAlmostEqual(session.do("load", 2.0, 20).read("weight"), 2.0, delta=0.5)

    def test_a_coarse_ticket_is_right_on_the_whole_and_says_little_of_a_small_fill(self) -> None:
        session = Session("vessel", "coarse")
        for load, most in ((500, 0.1), (10000, 0.005)):
            session.do("off", 0, 60).do("load", load, 60)
            weighed = float(session.weigh()["reference"].split()[0])
            self.assertEqual(weighed % 50, 0)
            self.assertLessEqual(abs(weighed / load - 1), most)
            self.assertAlmostEqual(session.read("weight"), load, delta=4)

    def test_the_filter_follows_in_its_time_and_says_when_it_is_steady(self) -> None:
        session = Session("platform").do("load", 1000, 0.9)
        self.assertAlmostEqual(session.read("weight"), 1000 * (1 - 1 / math.e), delta=1)
        self.assertFalse(session.steady("weight"))
        session.wait(12)
        self.assertTrue(session.steady("weight"))

    def test_a_heavy_filter_is_late_and_comes_to_the_same(self) -> None:
        early = Session("platform", "slow").do("load", 1000, 7)
        self.assertLess(early.read("weight"), 700)
        self.assertFalse(early.steady("weight"))
        self.assertAlmostEqual(early.wait(120).read("weight"), 1000, delta=0.5)

    def test_a_load_that_stays_creeps_by_its_share(self) -> None:
        session = Session("vessel").do("load", 10000, 20)
        soon = statistics.mean(session.wait(0.1).read("weight") for _ in range(60))
        late = statistics.mean(session.wait(900 if not n else 0.1).read("weight") for n in range(60))
        self.assertAlmostEqual(late - soon, 10000 * CREEP, delta=1.0)

    def test_the_span_is_taken_with_what_lies_on_it(self) -> None:
        session = Session("platform", "out").do("zero").do("load", 1000, 20)
        off = session.read("weight") - 1000
        self.assertGreater(abs(off), 3)
        session.do("span", 1000, 3)
        self.assertAlmostEqual(session.read("weight"), 1000, delta=0.5)
        self.assertTrue(session.truth().put_right)
        session.do("off", 0, 20)
        self.assertAlmostEqual(session.read("weight"), 0, delta=0.5)

    def test_a_pressed_frame_takes_part_of_the_load_and_does_not_come_back(self) -> None:
        session = Session("platform", "frame").do("load", 1000, 20)
        self.assertLess(session.read("weight"), 995)
        session.do("off", 0, 20)
        self.assertAlmostEqual(session.read("weight"), 4, delta=1)
        session.do("free", 0, 20)
        self.assertAlmostEqual(session.read("weight"), 0, delta=0.5)

    def test_a_swapped_pair_falls_and_an_open_wire_stays(self) -> None:
        swapped = Session("vessel", "swapped")
        opened = Session("vessel", "open-wire")
        for session, way in ((swapped, -1), (opened, 0)):
            assert isinstance(session.machine, OnCells)
            bad = session.machine.bad
            before = session.read(f"cell-{bad}")
            session.do("press", bad, 2)
            rise = session.read(f"cell-{bad}") - before
            self.assertEqual(round(rise, 2), way * 0.1)
        swapped.do("wiring").do("press", 0)
        self.assertGreater(swapped.read(f"cell-{swapped.machine.bad}"), 0)  # type: ignore[attr-defined]

    def test_told_of_one_cell_too_few_it_reads_a_ratio_of_whole_numbers(self) -> None:
        session = Session("platform", "count").do("load", 900, 20)
        self.assertAlmostEqual(session.read("weight"), 900 * 4 / 3, delta=1)
        session.do("count", 0, 20).do("off", 0, 20).do("zero").do("load", 900, 20)
        self.assertAlmostEqual(session.read("weight"), 900, delta=1)

    def test_counts_of_a_channel_lie_on_a_line_unless_its_cell_is_bent(self) -> None:
        bends = {}
        for fault in ("none", "bent"):
            session = Session("bench", fault)
            counts = []
            for load in (0, 25, 50):
                session.do("load", load, 20)
                counts.append(session.read("counts"))
            bends[fault] = abs(counts[1] - (counts[0] + counts[2]) / 2) / (counts[2] - counts[0])
        self.assertLess(bends["none"], 0.0005)
        # A bend of 6 % of load²/capacity: at half of 50 of 100 kg 0.06 · 25²/100 short of the chord.
        self.assertAlmostEqual(bends["bent"], 0.06 * 25**2 / 100 / (50 - 0.06 * 25), delta=0.001)

    def test_what_pulls_at_a_bag_frame_shows_in_the_zero_after(self) -> None:
        session = Session("bag-stand", "hose")
        zeros = []
        for _ in range(2):
            session.do("load", 500, 20).do("off", 0, 20)
            zeros.append(session.read("weight"))
        self.assertGreater(max(map(abs, zeros)), 1)
        self.assertNotAlmostEqual(zeros[0], zeros[1], delta=0.1)


class Axles(unittest.TestCase):
    def prepared(self, session: Session, load: int) -> Session:
        return session.do("load", load).do("brakes").do("dump", 0, 6).do("fill", 0, 20)

    def test_prepared_it_reads_what_the_groups_carry(self) -> None:
        session = Session("axle")
        for number, load in enumerate(("empty", "heavy", "part")):
            self.prepared(session, number)
            for group, carried in zip(("steer", "drive"), LOADS[load], strict=True):
                self.assertAlmostEqual(session.read(group), carried, delta=10)

    def test_unprepared_the_suspension_holds_back_and_brakes_wind_it_up(self) -> None:
        session = Session("axle", "sticky").do("load", 1).do("brakes", 0, 30)
        stuck = abs(session.read("drive") - 16240)
        self.assertGreater(stuck, 150)
        self.prepared(session, 1)
        self.assertAlmostEqual(session.read("drive"), 16240, delta=10)
        session.do("brakes", 1, 30)
        self.assertGreater(abs(session.read("drive") - 16240), 1)

    def test_on_a_slope_weight_leans_from_one_group_to_the_other_and_the_gross_stays(self) -> None:
        session = self.prepared(Session("axle"), 1)
        level = [session.read(group) for group in ("steer", "drive")]
        session.do("ground", 1, 20)
        sloping = [session.read(group) for group in ("steer", "drive")]
        lean = 0.018 * sum(LOADS["heavy"])
        self.assertAlmostEqual(sloping[1] - level[1], lean, delta=15)
        self.assertAlmostEqual(sum(sloping), sum(level), delta=25)

    def test_two_points_make_the_line_that_it_reads_along(self) -> None:
        session = Session("axle", "out")
        for number, load in enumerate(("empty", "heavy")):
            self.prepared(session, number)
            for group, carried in zip(("steer", "drive"), LOADS[load], strict=True):
                self.assertGreater(abs(session.read(group) - carried), 100)
                session.do(f"match-{group}", carried)
                self.assertAlmostEqual(session.read(group), carried, delta=10)
        self.prepared(session, 2)
        self.assertAlmostEqual(session.read("drive"), LOADS["part"][1], delta=10)
        self.assertTrue(session.truth().put_right)

    def test_a_leaking_valve_lets_it_sink_while_it_stands(self) -> None:
        session = self.prepared(Session("axle", "valve"), 1)
        soon = session.read("drive")
        self.assertFalse(session.steady("drive"))
        self.assertAlmostEqual(soon - session.wait(60).read("drive"), 1.1 * 60, delta=12)

    def test_a_sensor_turned_round_falls_and_exchanged_hoses_tell_of_the_other_group(self) -> None:
        turned = Session("axle", "reversed")
        light = self.prepared(turned, 0).read("drive-raw")
        self.assertLess(self.prepared(turned, 1).read("drive-raw"), light)
        crossed = Session("axle", "exchanged")
        before = self.prepared(crossed, 0).read("steer-raw")
        rise = self.prepared(crossed, 1).read("steer-raw") - before
        self.assertGreater(rise, 9000)

    def test_the_ground_scale_prints_whole_divisions_and_its_own_bias(self) -> None:
        session = self.prepared(Session("axle"), 1)
        printed = session.weigh()
        self.assertEqual(set(printed), {"steer.groups.heavy_ticket", "drive.groups.heavy_ticket", "heavy_gross"})
        mass = float(printed["drive.groups.heavy_ticket"].split()[0])
        self.assertEqual(mass % 20, 0)
        self.assertAlmostEqual(mass, 16240, delta=20)


class Lifts(unittest.TestCase):
    def test_pressure_grows_with_load_pace_and_cold_oil(self) -> None:
        session = Session("lift-arm").do("lift-normal", 0, 10)
        self.assertAlmostEqual(session.read("raw"), EMPTY + PACED / 6.1, delta=5)
        session.do("load", 1800).do("lift-slow", 0, 10)
        self.assertAlmostEqual(session.read("raw"), EMPTY + 1800 + PACED / 8.2, delta=12)
        slow = session.read("raw")
        session.do("lift-quick", 0, 10)
        self.assertAlmostEqual(session.read("raw") - slow, PACED / 4.2 - PACED / 8.2, delta=20)
        cold = Session("lift-arm", "cold").do("lift-normal", 0, 10)
        self.assertAlmostEqual(cold.read("raw"), EMPTY + PACED / 6.1 + COLD * (WARM - 18), delta=5)

    def test_whatever_the_pace_it_shows_the_load(self) -> None:
        session = Session("lift-arm").do("load", 1500)
        for pace in ("slow", "normal", "quick"):
            session.do(f"lift-{pace}", 0, 12)
            self.assertAlmostEqual(session.read("weight"), 1500, delta=20)

    def test_with_the_lever_held_back_no_two_lifts_take_the_same_time(self) -> None:
        session = Session("lift-arm").do("load", 1500)
        held = [session.do("lift-held", 0, 20).read("time") for _ in range(10)]
        free = [session.do("lift-normal", 0, 20).read("time") for _ in range(10)]
        self.assertGreater(statistics.stdev(held), 8 * statistics.stdev(free))

    def test_it_shows_a_lift_once_it_is_over(self) -> None:
        session = Session("lift-arm").do("load", 1500).do("lift-slow", 0, 2)
        self.assertFalse(session.steady("weight"))
        self.assertTrue(session.wait(10).steady("weight"))

    def test_hooks_seat_within_ten_lifts(self) -> None:
        session = Session("lift", "seating").do("load", 120)
        read = [session.do("lift-normal", 0, 8).read("weight") for _ in range(14)]
        self.assertGreater(abs(read[0] - 120), 1.5)
        self.assertLess(max(abs(one - 120) for one in read[10:]), 1.5)

    def test_a_dry_pin_scatters_and_greased_it_repeats(self) -> None:
        session = Session("lift-arm", "pin").do("load", 1500)
        dry = [session.do("lift-normal", 0, 8).read("weight") for _ in range(8)]
        session.do("grease")
        wet = [session.do("lift-normal", 0, 8).read("weight") for _ in range(8)]
        self.assertGreater(statistics.stdev(dry), 8 * statistics.stdev(wet))

    def test_a_sensor_that_drifts_reads_more_lift_after_lift(self) -> None:
        session = Session("lift-arm", "sensor").do("load", 1500)
        read = [session.do("lift-normal", 0, 8).read("weight") for _ in range(8)]
        self.assertGreater(read[-1] - read[0], 30)

    def test_what_was_tipped_is_what_the_ground_scale_finds(self) -> None:
        session = Session("lift-arm").do("load", 1500).do("lift-normal", 0, 8).do("tip")
        self.assertAlmostEqual(float(session.weigh()["reference"].split()[0]), 1500, delta=10)


class Carts(unittest.TestCase):
    def filled(self, session: Session, mass: float) -> Session:
        session.do("off", 0, 15).do("axle", mass * 0.6, 10)
        return session.do("rear", mass * 0.2, 10).do("front", mass * 0.2, 20)

    def test_it_shows_the_load_and_how_much_of_it_is_on_the_hitch(self) -> None:
        session = self.filled(Session("cart"), 5000)
        self.assertAlmostEqual(session.read("weight"), 5000, delta=20)
        # 0.6 · 6 % + 0.2 · 0 % + 0.2 · 24 % of the load, and 8 % of the cart itself.
        expected = (5000 * (0.6 * 0.06 + 0.2 * 0.24) + 0.08 * 3200) / 8200
        self.assertAlmostEqual(session.read("hitch"), 100 * expected, delta=0.1)

    def test_on_the_move_it_is_not_steady_and_wanders(self) -> None:
        session = self.filled(Session("cart"), 5000).do("drive", 0, 3)
        self.assertFalse(session.steady("weight"))
        read = [session.wait(0.4).read("weight") for _ in range(20)]
        self.assertGreater(max(read) - min(read), 100)
        session.do("stand", 0, 5)
        self.assertAlmostEqual(session.read("weight"), 5000, delta=20)

    def test_a_stuck_mount_keeps_the_same_mass_of_every_load(self) -> None:
        session = Session("cart", "mount")
        for mass in (2000, 5000):
            self.filled(session, mass)
            self.assertAlmostEqual(mass - session.read("weight"), Cart.stuck, delta=21)

    def test_a_tank_that_rubs_takes_from_large_loads_alone(self) -> None:
        session = self.filled(Session("cart", "rubbing"), 2500)
        self.assertAlmostEqual(session.read("weight"), 2500, delta=20)
        self.filled(session, 6000)
        self.assertAlmostEqual(6000 - session.read("weight"), 0.06 * 3000, delta=25)

    def test_the_ticket_is_gross_and_tare_in_whole_divisions(self) -> None:
        printed = self.filled(Session("cart"), 5000).weigh()
        gross, tare = (float(printed[key].split()[0]) for key in ("gross", "tare"))
        self.assertEqual((gross % 20, tare), (0, 4860))
        self.assertAlmostEqual(gross - tare, 5000, delta=20)
