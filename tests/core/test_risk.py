"""What each choice risks: the distribution, the pooling, and whether what is stated is true."""

import math
import random
import unittest

from tests.core.jobs import AGREEING, answered, assess, belt, figure
from wary.rules.evidence import Evidence, Pair, student
from wary.rules.risk import Believed, Scatter, believed, in_words, pooled, risks, student_below
from wary.sums import SUMS

LIMIT, SCATTER = 0.005, 0.0015


def visit(draw: random.Random, true: float, count: int, scatter: float = SCATTER) -> Evidence:
    """So many runs of a machine that is off by `true`."""
    pairs = [Pair(n, 1000.0, 1000.0 * (1 + true + draw.gauss(0, scatter))) for n in range(count)]
    return Evidence(pairs)


class Student(unittest.TestCase):
    def test_it_agrees_with_the_series_for_whole_degrees(self) -> None:
        for freedom in (1, 2, 3, 5, 8, 30, 150):
            self.assertAlmostEqual(student_below(student(freedom), freedom), 0.975, 6)
            self.assertAlmostEqual(student_below(-student(freedom), freedom), 0.025, 6)
        self.assertAlmostEqual(student_below(1.959963985, math.inf), 0.975, 9)
        self.assertEqual(student_below(0, 3), 0.5)

    def test_between_whole_degrees_it_is_the_integral_of_its_density(self) -> None:
        freedom = 4.6
        front = math.exp(math.lgamma((freedom + 1) / 2) - math.lgamma(freedom / 2)) / math.sqrt(freedom * math.pi)
        step = 1e-3
        area = 0.5 + sum(
            front * (1 + (i * step + step / 2) ** 2 / freedom) ** (-(freedom + 1) / 2) * step for i in range(1500)
        )
        self.assertAlmostEqual(student_below(1.5, freedom), area, 6)

    def test_nothing_is_believed_where_nothing_says_how_certain_it_is(self) -> None:
        self.assertIsNone(believed(Evidence([Pair(0, 1000.0, 1010.0)])))
        known = believed(Evidence([Pair(0, 1000.0, 1010.0)]), Scatter(0.002, 8))
        assert known
        self.assertEqual((round(known.mean, 9), round(known.uncertainty, 9), known.freedom), (0.01, 0.002, 8))


class Pooling(unittest.TestCase):
    def test_the_runs_and_the_history_count_by_their_degrees_of_freedom(self) -> None:
        runs = Evidence([Pair(n, 1000.0, 1000.0 + off) for n, off in enumerate((1, 2, 3))])
        both = pooled(runs, Scatter(0.002, 8))
        assert both
        self.assertEqual(both.freedom, 10)
        self.assertAlmostEqual(both.deviation, math.sqrt((2 * 0.001**2 + 8 * 0.002**2) / 10), 12)
        alone = pooled(runs, Scatter(0.002, 3))
        assert alone
        self.assertEqual((alone.freedom, round(alone.deviation, 9)), (2, 0.001))

    def test_a_reference_of_its_own_uncertainty_makes_the_tails_lighter(self) -> None:
        pairs = [Pair(n, 1000.0, 1000.0 + off) for n, off in enumerate((1, 2, 3))]
        alone, with_reference = believed(Evidence(pairs)), believed(Evidence(pairs, 0.001))
        assert alone and with_reference
        self.assertEqual(alone.freedom, 2)
        by_scatter = 0.001 / math.sqrt(3)
        self.assertAlmostEqual(with_reference.freedom, 2 * (math.hypot(by_scatter, 0.001) / by_scatter) ** 4, 9)


class Chances(unittest.TestCase):
    def test_far_inside_far_outside_and_on_the_edge(self) -> None:
        inside = risks(Believed(0.0, 0.001, math.inf), LIMIT, 1.0)
        self.assertLess(max(inside.if_left, inside.if_adjusted, inside.of_touching), 1e-5)
        outside = risks(Believed(0.02, 0.001, math.inf), LIMIT, 1 / 1.02)
        self.assertGreater(outside.if_left, 0.999999)
        self.assertLess(outside.if_adjusted, 1e-5)
        edge = risks(Believed(LIMIT, 0.0001, math.inf), LIMIT, 1 / (1 + LIMIT))
        self.assertAlmostEqual(edge.if_left, 0.5, 6)

    def test_a_factor_the_wrong_way_puts_a_machine_that_is_right_outside(self) -> None:
        wrong = risks(Believed(0.0, 0.001, math.inf), LIMIT, 1.02)
        self.assertGreater(wrong.of_touching, 0.999)
        self.assertAlmostEqual(wrong.of_touching, wrong.if_adjusted, 4)

    def test_what_is_stated_is_true_where_the_scatter_is_known(self) -> None:
        self.assert_true(3, Scatter(SCATTER, 60), over=1.2, more=0.04)
        self.assert_true(1, Scatter(SCATTER, 60), over=1.2, more=0.04)

    def test_without_history_it_may_be_overstated_and_is_never_understated_by_much(self) -> None:
        # Three runs know little of their scatter: with two degrees of freedom the tails are wide.
        self.assert_true(3, None, over=2.0, more=0.11, under=0.03)

    def assert_true(self, count: int, history: Scatter | None, over: float, more: float, under: float = 0.04) -> None:
        """In each band of ten of the stated risk, the share of visits that are truly outside."""
        draw = random.Random(f"risk {count} {history}")
        names = ("if_left", "if_adjusted", "of_touching")
        said_of: dict[str, dict[int, list[float]]] = {name: {} for name in names}
        came_of: dict[str, dict[int, int]] = {name: {} for name in names}
        for _ in range(2500):
            true = draw.uniform(-0.012, 0.012)
            evidence = visit(draw, true, count)
            about = believed(evidence, history)
            assert about and evidence.pooled_ratio
            for name in names:
                # A factor of two decimals: rounding makes a difference that counts.
                gain = round(evidence.pooled_ratio, 2 if name == "of_touching" else 3)
                after = (1 + true) * gain - 1
                risk = getattr(risks(about, LIMIT, gain), name)
                outside = {"if_left": abs(true) > LIMIT, "if_adjusted": abs(after) > LIMIT, "of_touching": abs(true) <= LIMIT < abs(after)}[name]  # fmt: skip
                band = min(9, int(risk * 10))
                said_of[name].setdefault(band, []).append(risk)
                came_of[name][band] = came_of[name].get(band, 0) + outside
        for name in names:
            stated, came = said_of[name], came_of[name]
            for band, said in stated.items():
                if len(said) < 80:
                    continue
                mean, share = sum(said) / len(said), came.get(band, 0) / len(said)
                chance = 3 * math.sqrt(max(share * (1 - share), 0.001) / len(said))
                where = f"{name}, band {band}: stated {mean:.3f}, came {share:.3f} of {len(said)}"
                self.assertLessEqual(mean, max(share * over, share + more) + chance, where)
                self.assertGreaterEqual(mean, min(share / over, share - under) - chance, where)


class InAComparison(unittest.TestCase):
    def test_the_three_stand_in_the_results_and_in_one_line(self) -> None:
        answer = assess(belt(AGREEING, factor=1.25, factor_decimals=4))
        self.assertGreater(figure(answer, "risk_if_left"), 99)
        self.assertLess(figure(answer, "risk_if_adjusted"), 5)
        self.assertIn("With 1.2", answer["risk"])
        self.assertIn("in 100 that it is outside ± 0.5 %", answer["risk"])
        alone = answered("known-load", runs=[{"reference": "2 t", "indicated": "2 t"}])
        self.assertNotIn("risk_if_left", alone["results"])
        self.assertNotIn("risk", alone)

    def test_one_run_says_something_where_the_history_knows_the_scatter(self) -> None:
        run = [{"reference": "2000 kg", "indicated": "2004 kg"}]
        history = {"standard_deviation": "0.15 %", "degrees_of_freedom": 8}
        answer = answered("known-load", runs=run, indicated_division="1 kg", job_history_scatter=history)
        # 0.2 % off, 0.15 % of scatter, 0.5 % let pass: t = 2 and −4.67 with 8 degrees of freedom (and the display's share).
        self.assertAlmostEqual(
            figure(answer, "risk_if_left"), 100 * (1 - student_below(2, 8) + student_below(-14 / 3, 8)), 1
        )

    def test_words(self) -> None:
        found = risks(Believed(0.02, 0.001, math.inf), LIMIT, 1 / 1.02)
        self.assertEqual(in_words(found, "± 0.5 %", "1.1413", True), "Left as it is: more than 99 in 100 that it is outside ± 0.5 %. With 1.1413: less than 1 in 100.")  # fmt: skip


class BeforeTheDecision(unittest.TestCase):
    def test_a_sum_asks_for_what_is_known_and_says_the_three(self) -> None:
        typed = {"error": ("0.6", "%"), "runs": ("3", ""), "deviation": ("0.15", "%"), "limit": ("0.5", "%")}
        lines = {one.title: one for one in SUMS["risk"].work_out(typed).lines}
        own = 0.15 / math.sqrt(3)
        chance = student_below(0.1 / own, 2) + student_below(-1.1 / own, 2)
        self.assertEqual(lines["Left as it is, outside the limit"].figure, f"{chance * 100:.1f} %")
        self.assertIn("2 degrees of freedom", lines["Left as it is, outside the limit"].formula)
        nothing = SUMS["risk"].work_out({key: typed[key] for key in ("error", "runs", "limit")})
        self.assertEqual(nothing.lines[0].title, "Nothing can be said")
