"""Which wrong entry explains a ratio: each kind, with the ratio worked out here."""

import math
import unittest
from typing import Any

from tests.core.jobs import AGREEING, assess, belt


def slips(ratio: float, **inputs: Any) -> list[dict[str, Any]]:
    """The slips that three runs with weighed/indicated = ratio bring up."""
    reference = 20.0
    runs = [{"reference": f"{reference} t", "indicated": f"{reference / ratio!r} t"}] * 3
    return assess(belt(runs=runs, **inputs))["slips"]


def found(ratio: float, **inputs: Any) -> list[tuple[str, str]]:
    return [(slip["parameter"], slip["likely"]) for slip in slips(ratio, **inputs)]


class WhenToAsk(unittest.TestCase):
    def test_within_two_per_cent_nothing_is_asked(self) -> None:
        self.assertEqual(slips(1.0199, plates={"idler_spacing": "0.92 m"}), [])
        self.assertEqual(slips(0.985), [])

    def test_slips_are_listed_whatever_the_call(self) -> None:
        answer = assess(belt([("20", "21.5")] * 3, plates={"angle": "22 deg"}))
        self.assertEqual(answer["call"], "adjust")
        self.assertEqual([slip["parameter"] for slip in answer["slips"]], ["angle"])

    def test_a_third_of_the_error_must_be_explained_away(self) -> None:
        # ln(k/p) ≤ |ln k|/3: 4 % off is not explained by a slip of 2.5 %.
        self.assertNotIn("angle", [name for name, _ in found(0.96, plates={"angle": "13 deg"})])

    def test_at_most_five_closest_first(self) -> None:
        plates = {"idler_spacing": "1.8 m", "weigh_idlers": 2, "cell_count": 4, "pulses_per_revolution": 4}
        plates |= {"cell_sensitivity": "2 mV/V", "cell_capacity": "50 kg"}
        rows = slips(2.0, plates=plates)
        self.assertEqual(len(rows), 5)
        distances = [abs(math.log(2.0 / row["predicted_ratio"])) for row in rows]
        self.assertEqual(distances, sorted(distances))


class EachKind(unittest.TestCase):
    def test_units_and_the_decimal_point(self) -> None:
        pound, short, long = 0.45359237, 0.90718474, 1.0160469088
        for ratio, likely in (
            (1 / pound, "kg"), (pound, "lb"), (1 / short, "t"), (short, "ston"), (long / short, "lton"),
            (1 / 16, "oz"), (1000, "kg"), (10, "one place to the right"), (0.1, "one place to the left"),
        ):  # fmt: skip
            self.assertIn(likely, [word for _, word in found(ratio)], ratio)

    def test_a_long_ton_is_too_near_the_tonne_to_ask_about(self) -> None:
        self.assertEqual(slips(1 / 1.0160469088), [])

    def test_cells(self) -> None:
        self.assertIn(("cell_capacity", "75 kg"), found(1.5, plates={"cell_capacity": "50 kg"}))
        self.assertIn(("cell_capacity", "50 lb"), found(0.45359237, plates={"cell_capacity": "50 kg"}))
        self.assertIn(("cell_count", "3"), found(0.75, plates={"cell_count": 4}))
        self.assertIn(("cell_sensitivity", "3 mV/V"), found(2 / 3, plates={"cell_sensitivity": "2 mV/V"}))
        whole = slips(0.25, plates={"cell_capacity": "200 kg", "cell_count": 4})
        self.assertIn("50 kg a cell", [slip["likely"] for slip in whole])

    def test_a_capacity_beyond_five_times_is_not_tried(self) -> None:
        rows = found(10, plates={"cell_capacity": "50 kg"})
        self.assertNotIn("cell_capacity", [name for name, _ in rows])

    def test_the_belt_s_own_plates(self) -> None:
        self.assertIn(("idler_spacing", "1.2 m"), found(0.9 / 1.2, plates={"idler_spacing": "0.9 m"}))
        self.assertIn(("idler_spacing", "3 ft"), found(1.2 / 0.9144, plates={"idler_spacing": "1.2 m"}))
        self.assertIn(("weigh_idlers", "2"), found(0.5, plates={"weigh_idlers": 1}))
        self.assertIn(("pulses_per_revolution", "24"), found(0.5, plates={"pulses_per_revolution": 12}))
        self.assertIn(("pulses_per_revolution", "6"), found(2.0, plates={"pulses_per_revolution": 12}))

    def test_the_angle_left_in_or_left_out(self) -> None:
        cosine = math.cos(math.radians(20))
        self.assertIn(("angle", "0 deg"), found(cosine, plates={"angle": "20 deg"}))
        self.assertIn(("angle", "20 deg"), found(1 / cosine, plates={"angle": "0 deg"}))

    def test_the_container_on_the_display_or_in_the_reference(self) -> None:
        with_it = [{"gross": "34 t", "tare": "14 t", "indicated": "34 t"}] * 3
        rows = assess(belt(runs=with_it))["slips"]
        self.assertEqual(rows[0]["parameter"], "tare")
        self.assertAlmostEqual(rows[0]["predicted_ratio"], 20 / 34, 12)
        self.assertIn(("tare", "container off once"), found(20 / 16, plates={"tare": "4 t"}))

    def test_passes_missed_or_counted_twice(self) -> None:
        self.assertIn(("passes_per_load", "4"), found(5 / 4, plates={"passes_per_load": 5}))
        self.assertIn(("passes_per_load", "6"), found(5 / 6, plates={"passes_per_load": 5}))

    def test_pounds_and_ounces_read_as_decimals(self) -> None:
        runs = [{"reference": "12 lb 12 oz", "indicated": "12.12 lb"}] * 3
        rows = assess(belt(runs=runs))["slips"]
        self.assertIn("pounds_and_ounces", [slip["parameter"] for slip in rows])
        self.assertAlmostEqual(rows[0]["predicted_ratio"], 12.75 / 12.12, 9)


class AgainstTheNominal(unittest.TestCase):
    def test_a_factor_chased_away_from_its_nominal_shows_the_slip_behind_it(self) -> None:
        # In order today, but the factor is 4/3 of what it should be near: spacing typed 1.2 m, really 0.9 m.
        document = belt(
            [("20", "20.3")] * 3, factor=1.34, factor_decimals=3, nominal_factor=1.0, plates={"idler_spacing": "1.2 m"}
        )
        rows = assess(document)["slips"]
        self.assertIn(("idler_spacing", "0.9 m", "nominal"), [(s["parameter"], s["likely"], s.get("of")) for s in rows])

    def test_a_factor_that_divides_is_turned_over(self) -> None:
        document = belt(
            [("20", "20.3")] * 3, factor=74.0, nominal_factor=100.0, direction="divides",
            plates={"idler_spacing": "1.2 m"},
        )  # fmt: skip
        self.assertIn("0.9 m", [slip["likely"] for slip in assess(document)["slips"]])


class QuietQuestions(unittest.TestCase):
    def test_one_indication_in_the_wrong_unit_is_asked_about_at_its_own_field(self) -> None:
        rows = [{"reference": f"{r} t", "indicated": f"{i} t"} for r, i in AGREEING]
        rows[2]["indicated"] = "20910 t"
        answer = assess(belt(runs=rows))
        self.assertEqual([question["path"] for question in answer["questions"]], ["inputs.runs[2].indicated"])

    def test_runs_in_order_ask_nothing(self) -> None:
        self.assertEqual(assess(belt(AGREEING))["questions"], [])
