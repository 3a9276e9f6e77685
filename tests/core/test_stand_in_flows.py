"""The stand-ins' physics against closed sums: what fills, doses, grades, meters and conveys."""

import math
import statistics
import unittest

from tests.core.at_a_stand_in import Session
from wary.simulators.drill import GRAMS, OTHER_GRAMS
from wary.simulators.free_spreader import LAW, ONE_TURN
from wary.simulators.spreader import CONSTANT, DENSITY, KEYED_WRONG


class FillersAndDosers(unittest.TestCase):
    def fills(self, session: Session, count: int) -> list[float]:
        return [float(session.do("fill", 0, 6).weigh()["weight"].split()[0]) for _ in range(count)]

    def test_in_order_it_fills_its_target(self) -> None:
        for name in ("filler", "two-speed-filler"):
            made = self.fills(Session(name), 20)
            self.assertAlmostEqual(statistics.mean(made), 1000, delta=4)

    def test_more_fine_gives_less_one_for_one(self) -> None:
        session = Session("filler")
        before = statistics.mean(self.fills(session, 20))
        session.do("fine", session.read("fine") + 5)
        self.assertAlmostEqual(statistics.mean(self.fills(session, 20)) - before, -5, delta=1.5)

    def test_a_medium_that_ends_too_close_is_seen_by_its_fine_time_and_cured_by_itself(self) -> None:
        session = Session("filler", "medium-close")
        self.fills(session, 1)
        self.assertLess(session.read("fine-time"), 0.6)
        before = statistics.stdev(self.fills(session, 12))
        session.do("medium", session.read("fine") + 142)
        self.fills(session, 1)
        self.assertGreater(session.read("fine-time"), 0.8)
        self.assertLess(statistics.stdev(self.fills(session, 12)), before / 2)

    def test_low_air_stands_on_its_gauge(self) -> None:
        session = Session("filler", "air")
        self.assertLess(session.read("air"), 4.2)
        self.assertGreater(session.do("air-supply").read("air"), 5.3)

    def test_a_hopper_that_rubs_tells_the_machine_other_than_the_bench(self) -> None:
        session = Session("filler", "scale").do("fill", 0, 6)
        self.assertGreater(float(session.weigh()["bench"].split()[0]) - session.read("machine"), 3)

    def test_a_doser_that_reads_short_gives_too_much_by_the_same_share(self) -> None:
        session = Session("doser", "out").do("zero").do("put", 400, 4)
        read = session.read("weight") / 400
        session.do("off", 0, 4)
        doses = [float(session.do("dose", 0, 4).weigh()["doses.value"].split()[0]) for _ in range(12)]
        self.assertAlmostEqual(statistics.mean(doses) / 400 * read, 1, delta=0.002)
        session.do("off", 0, 4).do("put", 400, 4).do("span", 400, 3)
        self.assertAlmostEqual(session.read("weight"), 400, delta=0.4)
        after = [float(session.do("dose", 0, 4).weigh()["doses.value"].split()[0]) for _ in range(12)]
        self.assertAlmostEqual(statistics.mean(after), 400, delta=0.8)

    def test_a_dripping_valve_leaves_the_check_mass_right(self) -> None:
        session = Session("doser", "valve").do("put", 400, 4)
        self.assertAlmostEqual(session.read("weight"), 400, delta=0.4)
        dose = float(session.do("dose", 0, 4).weigh()["doses.value"].split()[0])
        self.assertAlmostEqual(dose / 400, 1.035, delta=0.006)


class Graders(unittest.TestCase):
    def test_grades_hold_the_share_of_the_bell_that_lies_between_their_limits(self) -> None:
        session = Session("grader")
        for _ in range(10):
            session.do("batch")

        def below(mass: float) -> float:
            return 0.5 * (1 + math.erf((mass - 200) / 45 / math.sqrt(2)))

        for grade, low, high in (("small", 120, 180), ("middle", 180, 240), ("large", 240, 320)):
            share = session.read(f"{grade}-count") / 2000
            self.assertAlmostEqual(share, below(high) - below(low), delta=0.03)
            mean = session.read(f"{grade}-total") / session.read(f"{grade}-count")
            self.assertTrue(low < mean < high)

    def test_caked_it_does_not_stand_at_zero_and_old_counts_have_no_total(self) -> None:
        self.assertGreater(Session("grader", "caked").read("weight"), 2)
        old = Session("grader", "counts")
        self.assertGreater(old.read("middle-count"), 0)
        self.assertEqual(old.read("middle-total"), 0)
        self.assertEqual(old.do("clear").read("middle-count"), 0)


class Metering(unittest.TestCase):
    def test_a_full_roller_gives_turns_times_a_turn(self) -> None:
        session = Session("meter").do("prime")
        for turns in (20, 40):
            printed = session.do("turn", turns).weigh()
            net = float(printed["gross"].split()[0]) - float(printed["tare"].split()[0])
            self.assertAlmostEqual(net / turns, GRAMS, delta=0.6)
            self.assertEqual(printed["amount"], f"{turns}")

    def test_two_tanks_turn_on_one_shaft_and_exchanged_containers_tell_each_of_the_other(self) -> None:
        nets = {}
        for fault in ("none", "swapped"):
            session = Session("meter", fault).do("prime").do("turn", 40)
            printed, other = session.weigh(), session.weigh(1)
            nets[fault] = (float(printed["gross"].split()[0]) - 340, float(other["other_tank.net"].split()[0]))
        self.assertAlmostEqual(nets["none"][0], 40 * GRAMS, delta=25)
        self.assertAlmostEqual(nets["none"][1], 40 * OTHER_GRAMS, delta=25)
        for one, turned in zip(nets["none"], reversed(nets["swapped"]), strict=True):
            self.assertAlmostEqual(one, turned, delta=40)

    def test_an_empty_one_fills_first(self) -> None:
        session = Session("meter", "empty")
        nets = []
        for _ in range(2):
            printed = session.do("turn", 20).weigh()
            nets.append(float(printed["gross"].split()[0]) - 340)
        self.assertAlmostEqual(nets[1] - nets[0], 0.45 * GRAMS * 10 * (1 - math.exp(-5)), delta=15)

    def test_at_the_speed_of_the_field_the_tank_falls_by_the_count(self) -> None:
        session = Session("meter").do("run", 0, 0)
        start, first = session.read("tank"), session.read("count")
        session.wait(100)
        counts = session.read("count") - first
        self.assertAlmostEqual(counts, 50, delta=0.2)
        self.assertAlmostEqual((start - session.read("tank")) * 1000, counts * GRAMS, delta=12)
        session.do("stop", 0, 50)
        self.assertAlmostEqual(session.read("count"), 50, delta=0.2)

    def test_a_controller_gives_by_its_constant_over_the_true_one(self) -> None:
        session = Session("spreader").do("purge")
        for constant in (CONSTANT, CONSTANT * 1.1):
            printed = session.do("key", constant).do("run", 200).weigh()
            net = float(printed["gross"].split()[0]) - float(printed["tare"].split()[0])
            self.assertAlmostEqual(net, 200 * constant / CONSTANT, delta=1.0)

    def test_a_wrong_density_gives_too_much_and_a_full_measure_tells(self) -> None:
        session = Session("spreader", "density").do("purge").do("run", 200)
        net = float(session.weigh()["gross"].split()[0]) - 18.4
        self.assertAlmostEqual(net / 200, DENSITY / KEYED_WRONG, delta=0.006)
        measure = session.weigh(1)
        full = float(measure["gross"].split()[0]) - float(measure["tare"].split()[0])
        self.assertAlmostEqual(full / 10, DENSITY, delta=0.005)

    def test_an_opening_gives_by_its_power_and_a_drive_has_its_end(self) -> None:
        session = Session("free-spreader")
        nets = []
        for gate in (40, 60):
            printed = session.do("open", gate).do("catch", 20).weigh()
            nets.append((float(printed["gross"].split()[0]) - 12) / 20)
        self.assertAlmostEqual(nets[0], ONE_TURN, delta=0.03)
        self.assertAlmostEqual(nets[1] / nets[0], 1.5**LAW, delta=0.04)
        turned = [session.do("setting", setting).do("count", 60).read("turns") for setting in (3, 7, 9)]
        self.assertGreater(turned[1], turned[0] + 5)
        self.assertAlmostEqual(turned[1], turned[2], delta=1)

    def test_a_crooked_gate_is_not_alike_on_both_sides(self) -> None:
        session = Session("free-spreader", "skew")
        self.assertAlmostEqual(session.read("left") - session.read("right"), 5, delta=0.5)
        session.do("gate")
        self.assertLessEqual(session.read("left") - session.read("right"), 0.5)


class Chains(unittest.TestCase):
    def test_its_cells_carry_half_each_and_swing_with_the_chain(self) -> None:
        session = Session("chain").do("run")
        read = [session.wait(3).read("cell-left") for _ in range(16)]
        self.assertAlmostEqual(statistics.mean(read), statistics.mean([session.read("cell-right")] * 2), delta=0.02)
        self.assertGreater(max(read) - min(read), 0.001)
        before = session.read("cell-left")
        session.do("stop").do("press", 1)
        self.assertGreater(session.read("cell-left") - before, 0.2)
