"""Samples, checks before product and bulk bags: every rule with the figures that it gives."""

import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, states
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.filling.sampling import beyond, cycles_since, difference, neighbour_deviation, one_sided, wilson

PACK = {"target": "1000 g", "over": "10 g", "under": "10 g", "division": "1 g"}


def samples(*errors: float, machine: tuple[float, ...] = ()) -> list[dict[str, str]]:
    rows = [{"bench": f"{1000 + error} g"} for error in errors]
    for row, extra in zip(rows, machine, strict=False):
        row["machine"] = f"{1000 + extra} g"
    return rows


def checked(*errors: float, **more: Any) -> dict[str, Any]:
    return answered("fill-check", **(PACK | {"bench_division": "0.1 g", "samples": samples(*errors)} | more))


class Watching(unittest.TestCase):
    """`fill-check`: drift, scales, shares, give-away."""

    def test_in_tolerance_and_near_the_middle_is_left(self) -> None:
        answer = checked(1, 3, 2, 4, 1, 2)
        self.assertEqual(answer["call"], "leave")
        # Neighbours differ by 2, 1, 2, 3, 1: mean 1.8, /1.128.
        self.assertAlmostEqual(figure(answer, "standard_deviation_mass"), 1.8 / 1.128, 9)
        mean = 13 / 6
        self.assertAlmostEqual(figure(answer, "mean_error_mass"), mean, 9)
        self.assertAlmostEqual(figure(answer, "capability"), (10 - mean) / (3 * 1.8 / 1.128), 9)
        self.assertAlmostEqual(figure(answer, "giveaway_per_pack"), mean, 9)

    def test_a_tolerance_left_or_a_mean_to_one_side_asks_for_tuning(self) -> None:
        for errors in ((1, 3, 2, 11, 5, 6, 3), (7, 5, 6, 5, 7)):
            answer = checked(*errors)
            self.assertEqual((answer["call"], codes(answer)), ("adjust", ["tune"]), errors)

    def test_fewer_than_five_say_nothing(self) -> None:
        self.assertEqual(checked(1, 2, 3, 4)["call"], "keep-testing")
        rows = samples(1, 2, 3, 4, 5)
        rows[0]["set_aside"] = "a torn pack"
        self.assertEqual(checked(samples=rows)["call"], "keep-testing")

    def test_a_sample_beyond_three_deviations_is_drift(self) -> None:
        answer = checked(0, 1, 0, 1, 0, 1, 0, 1, 9, 1, 0, 1, 0, 1, 0, 1)
        self.assertEqual((answer["call"], codes(answer), answer["reasons"][0]["sample"]), ("find-fault", ["drift"], 8))

    def test_eight_in_a_row_on_one_side_are_drift_and_seven_are_not(self) -> None:
        self.assertEqual(codes(checked(-3, 1, 2, 1, 2, 1, 2, 1, 2, -3)), ["drift"])
        self.assertEqual(checked(-3, 1, 2, 1, 2, 1, 2, 1, -3)["call"], "leave")

    def test_a_machine_scale_that_is_off_comes_before_any_cut_off(self) -> None:
        machine = (4, 6, 5, 7, 4, 5)
        answer = checked(samples=samples(1, 3, 2, 4, 1, 2, machine=machine))
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["machine-scale"]))
        self.assertAlmostEqual(figure(answer, "bench_difference"), 3, 9)
        # Within one division of the coarser scale it is none.
        self.assertEqual(checked(samples=samples(1, 3, 2, 4, 1, 2, machine=(2, 4, 3, 5, 2, 3)))["call"], "leave")
        # More than a division, and still no more than chance: differences of −14, 20, −14, 20, −14, 20.
        wild = checked(samples=samples(1, 3, 2, 4, 1, 2, machine=(-13, 23, -12, 24, -13, 22)))
        self.assertEqual(wild["call"], "leave")

    def test_the_error_is_the_bench_s_where_there_is_one(self) -> None:
        rows = samples(1, 3, 2, 4, 1)
        rows[2] = {"machine": "1009 g"}
        self.assertAlmostEqual(figure(checked(samples=rows), "mean_error_mass"), (1 + 3 + 9 + 4 + 1) / 5, 9)

    def test_the_share_out_of_tolerance_has_its_interval(self) -> None:
        answer = checked(1, 3, 2, 11, 5, 6, 3, 2, 1, 4)
        self.assertEqual(figure(answer, "out_of_tolerance"), 1)
        # Wilson for 1 of 10: (0.1 + 0.19208 ± 1.96·√(0.009 + 0.009604))/1.38416.
        self.assertAlmostEqual(figure(answer, "out_of_tolerance_low"), 1.787, 2)
        self.assertAlmostEqual(figure(answer, "out_of_tolerance_high"), 40.416, 2)
        self.assertEqual(wilson(0, 5)[0], 0.0)

    def test_give_away_in_a_year_in_mass_and_in_money(self) -> None:
        cost = {"amount": 2.4, "per": "1 kg"}
        answer = checked(1, 3, 2, 4, 0, cost_per_mass=cost, packs_per_year=250_000)
        self.assertAlmostEqual(figure(answer, "giveaway_per_year"), 2 * 250_000, 3)
        # 500 kg at 2.40.
        self.assertAlmostEqual(figure(answer, "giveaway_cost_per_year"), 1200, 6)
        light = checked(-1, -3, -2, -4, 0, cost_per_mass=cost, packs_per_year=250_000)
        self.assertEqual((figure(light, "giveaway_per_pack"), figure(light, "giveaway_cost_per_year")), (0, 0))

    def test_a_plan_says_what_goes_unseen_and_what_would_halve_it(self) -> None:
        answer = checked(1, 3, 2, 4, 0, sampling={"first": 5, "every": 50})
        self.assertEqual(figure(answer, "largest_unseen_run"), 49)
        self.assertTrue(any("One in 25 would halve it" in line for line in answer["plan"]), answer["plan"])

    def test_a_bench_scale_too_coarse_for_the_tolerance_is_noted(self) -> None:
        self.assertEqual(states(checked(1, 3, 2, 4, 0, bench_division="5 g"))["bench-division"], "note")
        self.assertNotIn("bench-division", states(checked(1, 3, 2, 4, 0, bench_division="2 g")))

    def test_counters_that_roll_over_and_one_that_went_back(self) -> None:
        counters = {"cycle_counter_before": 999_000, "cycle_counter": 500, "cycle_counter_most": 999_999, "care_every": 1000}  # fmt: skip
        answer = checked(1, 3, 2, 4, 0, **counters)
        # 999 999 − 999 000 + 1 + 500.
        self.assertEqual((figure(answer, "cycles_since_care"), states(answer)["care"]), (1500, "note"))
        self.assertEqual(states(checked(1, 3, 2, 4, 0, cycle_counter_before=900, cycle_counter=500))["cycles"], "note")
        self.assertIsNone(cycles_since(900, 500, None))
        self.assertEqual(cycles_since(500, 900, None), 400)

    def test_a_bad_pack_that_went_out_says_who_and_why(self) -> None:
        answer = checked(1, 3, 2, 4, 0, released=[{"pack": "417", "did": "held"}])
        self.assertEqual([reason["path"] for reason in answer["reasons"]], ["inputs.released[0].who", "inputs.released[0].why"])  # fmt: skip

    def test_each_sample_reads_something(self) -> None:
        answer = checked(samples=[{}, {"bench": "1000 g"}])
        self.assertEqual(answer["reasons"][0]["path"], "inputs.samples[0].bench")
        self.assertEqual(checked(samples=[{}])["reasons"][0]["path"], "inputs.samples[0].machine")

    def test_the_sums_beneath(self) -> None:
        self.assertIsNone(neighbour_deviation([1.0]))
        self.assertEqual(beyond([1, 1, 1], 1, 0.0), [])
        self.assertEqual(one_sided([1.0] * 7 + [-1.0], 0.0), None)
        self.assertEqual(one_sided([-1.0] + [1.0] * 8, 0.0), (1, 8))
        self.assertIsNone(one_sided([1.0] * 4 + [0.0] + [1.0] * 4, 0.0))
        one = difference([3.0])
        assert one
        self.assertFalse(one.stands_out(1.0))
        self.assertIsNone(difference([]))

    def test_ten_thousand_samples_are_judged_and_only_the_latest_drawn(self) -> None:
        errors = [(n * 7919 % 13) / 3 for n in range(10_000)]
        answer = checked(*errors)
        self.assertEqual(figure(answer, "out_of_tolerance"), 0)
        self.assertIn(answer["call"], ("leave", "find-fault"))


class Precheck(unittest.TestCase):
    """`fill-precheck`: one failed row, and it is not ready."""

    def rows(self, *did: bool | None) -> list[dict[str, Any]]:
        return [{"name": f"gate {n}", "expected": "shuts"} | ({} if one is None else {"as_expected": one}) for n, one in enumerate(did)]  # fmt: skip

    def test_all_as_expected_is_ready(self) -> None:
        self.assertEqual(answered("fill-precheck", parts=self.rows(True, True))["call"], "leave")

    def test_one_failed_row_is_not_ready_and_says_which(self) -> None:
        answer = answered("fill-precheck", parts=self.rows(True, False))
        self.assertEqual((answer["call"], codes(answer)), ("not-ready", ["failed"]))
        self.assertIn("gate 1", answer["reasons"][0]["text"])

    def test_what_is_not_tried_yet_is_asked_for(self) -> None:
        answer = answered("fill-precheck", parts=self.rows(True, None))
        self.assertEqual((answer["call"], answer["reasons"][0]["path"]), ("not-ready", "inputs.parts[1].as_expected"))

    def test_supplies_lie_in_their_bands(self) -> None:
        air = {"name": "air", "low": 5, "high": 7, "unit": "bar"}
        for read, call in ((5, "leave"), (7, "leave"), (4.9, "not-ready"), (7.1, "not-ready")):
            answer = answered("fill-precheck", parts=self.rows(True), supplies=[air | {"read": read}])
            self.assertEqual(answer["call"], call, read)
        self.assertEqual(answered("fill-precheck", parts=self.rows(True), supplies=[air])["call"], "not-ready")

    def test_every_machine_that_has_one_begins_with_a_plain_list(self) -> None:
        for kind, machine in all_machines().items():
            if "fill-precheck" in machine.does:
                self.assertTrue(machine.lists["checklist"].rows, kind)


class BulkBags(unittest.TestCase):
    """`zero-span` with the load hung from the hangers."""

    def span(self, **more: Any) -> dict[str, Any]:
        one = {"zero": "0 kg", "span": "500 kg"} | more
        return answered("zero-span", capacity="1500 kg", division="0.5 kg", test_load="500 kg", hung="hangers", passes=[one])  # fmt: skip

    def test_the_return_to_zero_is_required(self) -> None:
        without = self.span()
        self.assertEqual((without["call"], without["reasons"][0]["path"]), ("not-ready", "inputs.passes[0].zero_after"))
        self.assertEqual(self.span(zero_after="0 kg")["call"], "leave")

    def test_the_caution_of_what_hangs_stands_on_a_bag_stand_alone(self) -> None:
        method = all_methods()["zero-span"]
        for kind, hung in (("bag-stand", True), ("platform", False)):
            described = method.describe(all_machines()[kind].traits)
            cautions = " ".join(text for step in described.steps for text in step.cautions)
            self.assertEqual("hanging bag" in cautions, hung, kind)
            fields = [name for step in described.steps for name in step.fields]
            self.assertEqual("hung" in fields, hung, kind)
