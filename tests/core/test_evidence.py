"""What runs show: ratios, errors, spread and uncertainty, against sums written out here."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests.core.jobs import AGREEING, assess, belt, figure, runs
from wary.rules.evidence import Evidence, Pair, range_factor, student

# The four agreeing lorries, by hand.
ERRORS = [21.66 / 21.34 - 1, 20.13 / 19.87 - 1, 20.91 / 20.61 - 1, 21.40 / 21.12 - 1]
MEAN = sum(ERRORS) / 4
DEVIATION = math.sqrt(sum((e - MEAN) ** 2 for e in ERRORS) / 3)


class CommonResults(unittest.TestCase):
    def test_ratios_errors_and_spread_are_those_of_the_sums(self) -> None:
        answer = assess(belt(AGREEING))
        self.assertAlmostEqual(figure(answer, "pooled_ratio"), 82.94 / 84.10, 12)
        ratios = [21.34 / 21.66, 19.87 / 20.13, 20.61 / 20.91, 21.12 / 21.40]
        self.assertAlmostEqual(figure(answer, "mean_of_ratios"), sum(ratios) / 4, 12)
        self.assertAlmostEqual(figure(answer, "mean_error"), 100 * MEAN, 10)
        self.assertAlmostEqual(figure(answer, "spread"), 100 * (max(ERRORS) - min(ERRORS)), 10)
        self.assertAlmostEqual(figure(answer, "standard_deviation"), 100 * DEVIATION, 10)
        self.assertAlmostEqual(figure(answer, "mean_error_mass"), (84.10 - 82.94) / 4, 10)
        self.assertEqual(answer["results"]["mean_error_mass"]["unit"], "t")
        self.assertEqual(figure(answer, "runs_in_set"), 4)

    def test_uncertainty_without_divisions_is_student_times_the_scatter(self) -> None:
        answer = assess(belt(AGREEING))
        self.assertAlmostEqual(figure(answer, "coverage_factor"), 3.1824, 3)
        self.assertAlmostEqual(figure(answer, "expanded_uncertainty"), 100 * 3.182446 * DEVIATION / 2, 6)

    def test_the_reference_s_own_uncertainty_does_not_average_out(self) -> None:
        answer = assess(belt(AGREEING, reference_uncertainty="0.1 %"))
        scatter = 3.182446 * DEVIATION / 2
        expected = math.sqrt(scatter**2 + (1.96 * 0.0005) ** 2)
        self.assertAlmostEqual(figure(answer, "expanded_uncertainty"), 100 * expected, 6)

    def test_the_budget_gives_each_term_that_counts_and_its_share(self) -> None:
        answer = assess(belt(AGREEING, reference_uncertainty="0.1 %"))
        scatter, own = 3.182446 * DEVIATION / 2, 1.96 * 0.0005
        sizes = [row["size"]["value"] for row in answer["budget"]]
        self.assertAlmostEqual(sizes[0], 100 * scatter, 6)
        self.assertAlmostEqual(sizes[1], 100 * own, 9)
        shares = [row["share"]["value"] for row in answer["budget"]]
        self.assertAlmostEqual(shares[0], 100 * scatter**2 / (scatter**2 + own**2), 5)
        self.assertAlmostEqual(sum(shares), 100, 9)

    def test_coarse_displays_take_the_place_of_a_small_scatter_and_are_not_added(self) -> None:
        answer = assess(belt(AGREEING, reference_division="500 kg", indicated_division="100 kg"))
        u_reference, u_indicated = 500 / math.sqrt(12), 100 / math.sqrt(12)
        loads = [21340, 19870, 20610, 21120]
        b = math.sqrt(sum((u_reference / r) ** 2 + (u_indicated / r) ** 2 for r in loads)) / 4
        self.assertAlmostEqual(figure(answer, "expanded_uncertainty"), 196 * b, 8)
        self.assertEqual(figure(answer, "coverage_factor"), 1.96)

    def test_a_difference_of_two_readings_counts_twice(self) -> None:
        weighed = [
            {"gross": "34.10 t", "tare": "12.76 t", "total_start": "100.00 t", "total_end": "121.66 t"},
            {"gross": "19.87 t", "zeroed": True, "indicated": "20.13 t"},
        ]
        answer = assess(belt(runs=weighed, reference_division="500 kg", indicated_division="200 kg"))
        u_r, u_i = 500 / math.sqrt(12), 200 / math.sqrt(12)
        first = 2 * (u_r / 21340) ** 2 + 2 * (u_i / 21340) ** 2
        second = (u_r / 19870) ** 2 + (u_i / 19870) ** 2
        scatter = 12.706205 * abs(21.66 / 21.34 - 20.13 / 19.87) / math.sqrt(2) / math.sqrt(2)
        expected = max(scatter, 1.96 * math.sqrt(first + second) / 2)
        self.assertAlmostEqual(figure(answer, "expanded_uncertainty"), 100 * expected, 5)

    def test_reference_readings_say_how_often_a_plain_reference_was_read(self) -> None:
        coarse = {"reference_division": "2 t"}
        once = figure(assess(belt(AGREEING, **coarse)), "expanded_uncertainty")
        twice = figure(assess(belt(AGREEING, reference_readings=2, **coarse)), "expanded_uncertainty")
        self.assertAlmostEqual(twice / once, math.sqrt(2), 9)

    def test_one_run_has_no_deviation_and_is_marked(self) -> None:
        answer = assess(belt(AGREEING[:1]))
        self.assertNotIn("standard_deviation", answer["results"])
        self.assertIn("single-run", [check["code"] for check in answer["checks"]])

    def test_each_run_is_listed_with_its_error_and_what_it_would_have_read(self) -> None:
        answer = assess(belt(AGREEING, factor=1.1420, factor_decimals=4))
        row = answer["results"]["runs"][1]
        self.assertAlmostEqual(row["error"]["value"], 100 * ERRORS[1], 10)
        self.assertAlmostEqual(row["predicted_error"]["value"], 100 * (20.13 / 19.87 * 1.1262 / 1.1420 - 1), 10)

    def test_a_run_set_aside_is_listed_but_not_counted(self) -> None:
        freak = {"reference": "22.05 t", "indicated": "21.02 t", "set_aside": "hatch left open"}
        answer = assess(belt(runs=[freak, *runs(AGREEING)]))
        self.assertEqual(figure(answer, "runs_in_set"), 4)
        self.assertAlmostEqual(answer["results"]["runs"][0]["error"]["value"], 100 * (21.02 / 22.05 - 1), 10)
        self.assertFalse(answer["results"]["runs"][0]["in_set"]["value"])


class Student(unittest.TestCase):
    def test_the_factor_is_that_of_the_printed_tables(self) -> None:
        table = {1: 12.706, 2: 4.303, 3: 3.182, 4: 2.776, 5: 2.571, 9: 2.262, 10: 2.228, 19: 2.093}
        table |= {29: 2.045, 40: 2.021, 60: 2.000, 120: 1.980, 199: 1.972, 201: 1.972, 1000: 1.962}
        for freedom, factor in table.items():
            self.assertAlmostEqual(student(freedom), factor, delta=0.0006, msg=str(freedom))

    def test_it_falls_all_the_way_also_across_the_change_of_formula(self) -> None:
        factors = [student(freedom) for freedom in range(1, 260)]
        self.assertEqual(factors, sorted(factors, reverse=True))


class RangeFactor(unittest.TestCase):
    def test_more_runs_may_range_wider_up_to_twenty_five(self) -> None:
        self.assertEqual(range_factor(2), 1)
        self.assertEqual(range_factor(3), 1)
        self.assertAlmostEqual(range_factor(4), 2.059 / 1.693)
        self.assertAlmostEqual(range_factor(10), 3.078 / 1.693)
        self.assertAlmostEqual(range_factor(200), 3.931 / 1.693)


masses = st.floats(min_value=100, max_value=50_000)
ratios = st.floats(min_value=0.8, max_value=1.25)
many = st.lists(st.tuples(masses, ratios), min_size=2, max_size=12)


def evidence(
    pairs: list[tuple[float, float]], scale: float = 1.0, scatter: float = 1.0, division: float = 0.0
) -> Evidence:
    mean = sum(ratio for _, ratio in pairs) / len(pairs)
    made = [
        Pair(n, r * scale, r * scale * (mean + (ratio - mean) * scatter), division, division)
        for n, (r, ratio) in enumerate(pairs)
    ]
    return Evidence(made)


class Properties(unittest.TestCase):
    @given(many, st.floats(min_value=1e-3, max_value=1e3))
    def test_scaling_all_masses_scales_nothing_but_masses(self, pairs: list[tuple[float, float]], scale: float) -> None:
        one, other = evidence(pairs), evidence(pairs, scale)
        self.assertAlmostEqual(one.mean_error, other.mean_error, 9)
        self.assertAlmostEqual(one.expanded_uncertainty, other.expanded_uncertainty, 8)
        self.assertTrue(math.isclose(one.mean_error_mass * scale, other.mean_error_mass, rel_tol=1e-6, abs_tol=1e-6))

    @given(many, st.floats(min_value=1, max_value=3), st.floats(min_value=0, max_value=100))
    def test_worse_evidence_never_makes_the_uncertainty_smaller(
        self, pairs: list[tuple[float, float]], scatter: float, division: float
    ) -> None:
        plain = evidence(pairs).expanded_uncertainty
        self.assertGreaterEqual(evidence(pairs, scatter=scatter).expanded_uncertainty, plain * (1 - 1e-9) - 1e-12)
        self.assertGreaterEqual(evidence(pairs, division=division).expanded_uncertainty, plain * (1 - 1e-9) - 1e-12)
