"""Samples, doses, grades and checks before product: every rule with the figures that it gives."""

import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, figures, states
from tests.core.test_document import refused
from tests.core.visit import AtWork
from wary.job.loose import loose_ends
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


def dosed(before: list[float], after: list[float] | None = None, doses: list[float] | None = None, **more: Any) -> dict[str, Any]:  # fmt: skip
    inputs: dict[str, Any] = {"check_mass": "400 g", "readings_before": [f"{one} g" for one in before]}
    if after is not None:
        inputs["readings_after"] = [f"{one} g" for one in after]
    if doses is not None:
        inputs |= {"doses": [f"{one} g" for one in doses], "target": "200 g"}
    return answered("dose-check", **(inputs | more))


class Dosing(unittest.TestCase):
    """`dose-check`: the check mass, then the doses."""

    def test_a_tolerance_stands_in_both_forms(self) -> None:
        self.assertIn("0.30 %, which is 1.2 g of 400 g", dosed([400])["plan"][0])

    def test_within_tolerance_as_found_is_left(self) -> None:
        answer = dosed([401.2, 401.2])
        self.assertEqual(answer["call"], "leave")
        self.assertAlmostEqual(figure(answer, "error_before"), 1.2, 9)
        self.assertAlmostEqual(figure(answer, "error_before_share"), 0.3, 9)

    def test_off_takes_the_span_and_far_off_finds_the_fault_first(self) -> None:
        off = dosed([404, 404])
        self.assertEqual(off["call"], "adjust")
        self.assertAlmostEqual(figure(off, "new_factor_ratio"), 400 / 404, 9)
        self.assertEqual(dosed([412])["call"], "adjust")
        self.assertEqual(dosed([412.1])["call"], "find-fault")
        self.assertEqual(dosed([1000])["call"], "find-fault")
        self.assertEqual(dosed([1000], job_occasion="first")["call"], "adjust")

    def test_a_wrong_unit_is_named_as_the_slip(self) -> None:
        # 2 kg are 4.409 lb: the display reads in pounds, and was noted as kilograms.
        slips = answered("dose-check", check_mass="2 kg", readings_before=["4.41 kg"])["slips"]
        self.assertTrue(any("lb" in slip["text"] for slip in slips), slips)
        moved = dosed([4000])["slips"]
        self.assertTrue(any(slip["parameter"] == "decimal_place" for slip in moved), moved)

    def test_after_the_span_doses_come_next_and_three_in_a_row_settle_it(self) -> None:
        self.assertEqual(codes(dosed([404], [400.2])), ["dose-next"])
        answer = dosed([404], [400.2], [206, 201, 199.5, 200.5])
        self.assertEqual((answer["call"], figure(answer, "doses_to_settle")), ("leave", 2))
        self.assertEqual(dosed([404], [400.2], [206, 201, 204, 201, 200])["call"], "keep-testing")
        never = dosed([404], [400.2], [206, 201, 204, 201, 204, 201])
        self.assertEqual((never["call"], "doses_to_settle" in never["results"]), ("find-fault", False))

    def test_after_that_is_still_off_is_taken_again_or_is_a_fault(self) -> None:
        self.assertEqual(dosed([408], [402])["call"], "adjust")
        self.assertEqual(dosed([408], [404])["call"], "find-fault")
        self.assertEqual(dosed([408], [393])["call"], "find-fault")

    def test_the_tolerance_of_a_dose_is_one_per_cent_or_two_divisions(self) -> None:
        doses = [204.1, 204.1, 204.1]
        self.assertEqual(dosed([404], [400], doses)["call"], "keep-testing")
        # Two divisions of 2.05 g are 4.1 g, which is more than 1 % of 200 g.
        self.assertEqual(dosed([404], [400], doses, bench_division="2.05 g")["call"], "leave")
        self.assertEqual(dosed([404], [400], doses, dose_tolerance="5 g")["call"], "leave")

    def test_doses_off_by_another_ratio_are_not_the_cell_alone(self) -> None:
        # The check mass reads 2 % heavy: doses should come to 1/1.02 of what is wanted.
        same = dosed([408], doses_before=["196 g", "196.2 g"], target="200 g")
        self.assertEqual(states(same)["same-ratio"], "pass")
        self.assertAlmostEqual(figure(same, "dose_ratio"), 0.9805, 9)
        other = dosed([408], doses_before=["180 g"], target="200 g")
        self.assertEqual(states(other)["same-ratio"], "note")

    def test_settling_over_three_seconds_is_noted_before_the_cell_is_blamed(self) -> None:
        slow = dosed([400], settle_times=["3 s", "3.4 s"], settling="strict")
        self.assertEqual(states(slow)["settling"], "note")
        self.assertAlmostEqual(figure(slow, "settle_time_mean"), 3.2, 9)
        self.assertEqual(states(dosed([400], settle_times=["3 s"]))["settling"], "pass")

    def test_what_is_missing_and_a_mass_of_nothing(self) -> None:
        paths = [reason["path"] for reason in answered("dose-check")["reasons"]]
        self.assertEqual(paths, ["inputs.check_mass", "inputs.readings_before"])
        self.assertEqual(codes(answered("dose-check", check_mass="0 g", readings_before=["1 g"])), ["no-load"])
        without = answered("dose-check", check_mass="400 g", readings_before=["400 g"], doses=["200 g"])
        self.assertEqual(without["reasons"][0]["path"], "inputs.target")
        self.assertIn("inputs.check_mass", refused({"method": "dose-check", "inputs": {"check_mass": "-1 g"}}))

    def test_remembered_containers_are_stale_once_the_span_was_taken(self) -> None:
        job = AtWork("doser", "dose-check").enter({"inputs.check_mass": "400 g", "readings_before.r1.value": "404 g"})
        self.assertFalse([end for end in loose_ends(job.standing) if "tares" in end.key])
        job.enter({"readings_after.r1.value": "400.1 g"})
        self.assertTrue([end for end in loose_ends(job.standing) if "tares" in end.key])
        self.assertTrue(job.standing.not_valid)


GRADES = [{"name": name, "limit": f"{limit} g", "outlet": place} for place, (name, limit) in enumerate((("small", 60), ("medium", 80), ("large", 100)), 1)]  # fmt: skip


def graded(**more: Any) -> dict[str, Any]:
    return answered("grade-check", **({"grades": GRADES, "limit_kind": "lower", "reject_limit": "130 g", "outlets": 4} | more))  # fmt: skip


def batch(**counts: tuple[int | None, str | None]) -> list[dict[str, Any]]:
    rows = []
    for name, (count, total) in counts.items():
        row: dict[str, Any] = {"grade": name}
        row |= {} if count is None else {"count": count}
        rows.append(row | ({} if total is None else {"total_mass": total}))
    return rows


class Grading(unittest.TestCase):
    """`grade-check`: limits, outlets, averages."""

    def test_limits_may_go_up_or_down_and_not_both(self) -> None:
        self.assertEqual(graded()["call"], "leave")
        self.assertEqual(graded(grades=GRADES[::-1])["call"], "leave")
        for order in ((0, 2, 1), (1, 0, 2)):
            answer = graded(grades=[GRADES[at] for at in order])
            self.assertEqual((answer["call"], states(answer)["limits"]), ("not-ready", "fail"), order)
        self.assertEqual(graded(grades=[GRADES[0], GRADES[0] | {"outlet": 2, "name": "again"}])["call"], "not-ready")

    def test_a_reject_weight_below_the_heaviest_grade_opens_no_outlet(self) -> None:
        for reject in ("90 g", "100 g"):
            self.assertEqual(codes(graded(reject_limit=reject)), ["reject-first"], reject)

    def test_each_outlet_exists_and_is_used_once(self) -> None:
        self.assertEqual(graded(outlets=2)["call"], "not-ready")
        twice = [*GRADES[:2], GRADES[2] | {"outlet": 2}]
        answer = graded(grades=twice)
        self.assertEqual((answer["call"], answer["reasons"][0]["path"]), ("not-ready", "inputs.grades[2].outlet"))

    def test_counts_cleared_apart_from_their_totals(self) -> None:
        for row in ((10, None), (None, "700 g"), (0, "700 g"), (10, "0 g")):
            self.assertEqual(codes(graded(batch=batch(small=row))), ["cleared-apart"], row)
        self.assertEqual(graded(batch=batch(small=(0, "0 g"), medium=(2, "180 g")))["call"], "leave")

    def test_averages_lie_within_their_own_limits(self) -> None:
        good = graded(batch=batch(small=(10, "700 g"), medium=(20, "1.8 kg"), large=(5, "550 g")))
        self.assertEqual(good["call"], "leave")
        self.assertEqual([round(one, 6) for one in figures(good, "averages")], [70, 90, 110])
        self.assertEqual([round(one, 3) for one in figures(good, "shares")], [28.571, 57.143, 14.286])
        for name, total in (("small", "590 g"), ("small", "810 g"), ("large", "1310 g")):
            self.assertEqual(graded(batch=batch(**{name: (10, total)}))["call"], "find-fault", (name, total))
        self.assertEqual(graded(batch=batch(small=(10, "600 g")))["call"], "leave")

    def test_upper_limits_leave_the_light_end_open(self) -> None:
        upper = {"limit_kind": "upper"}
        self.assertEqual(graded(**upper, batch=batch(small=(10, "100 g")))["call"], "leave")
        self.assertEqual(graded(**upper, batch=batch(small=(10, "610 g")))["call"], "find-fault")
        self.assertEqual(graded(**upper, batch=batch(large=(10, "810 g")))["call"], "leave")
        self.assertEqual(graded(**upper, batch=batch(large=(10, "1010 g")))["call"], "find-fault")

    def test_the_share_likely_in_the_wrong_grade(self) -> None:
        rows = batch(small=(10, "700 g"), medium=(20, "1.8 kg"), large=(5, "550 g"))
        answer = graded(batch=rows, scale_noise="0.5 g")
        # small: one inner edge, 1/20 of 10; medium: two, 2/20 of 20; large: one, 1/30 of 5; of 35 pieces.
        self.assertAlmostEqual(figure(answer, "misgraded_share"), (0.5 + 2 + 5 / 30) / 35 * 100, 9)
        # Upper limits: the lightest is open and not counted; medium has two edges, large one.
        upper = graded(batch=batch(small=(10, "500 g"), medium=(20, "1.4 kg"), large=(5, "450 g")), scale_noise="0.5 g", limit_kind="upper")  # fmt: skip
        self.assertAlmostEqual(figure(upper, "misgraded_share"), (2 + 5 / 20) / 35 * 100, 9)
        coarse = graded(batch=rows, scale_noise="50 g")
        self.assertAlmostEqual(figure(coarse, "misgraded_share"), 100, 9)

    def test_a_grade_without_pieces_has_no_average(self) -> None:
        answer = graded(batch=batch(small=(0, None), medium=(20, "1.8 kg")))
        self.assertEqual((len(figures(answer, "averages")), figures(answer, "shares")), (1, [0, 100]))

    def test_what_is_missing_and_a_batch_without_a_name(self) -> None:
        paths = [reason["path"] for reason in answered("grade-check")["reasons"]]
        self.assertEqual(paths, ["inputs.grades", "inputs.limit_kind"])
        bare = graded(grades=[{"name": "small"}])
        self.assertEqual([reason["path"] for reason in bare["reasons"]], ["inputs.grades[0].limit", "inputs.grades[0].outlet"])  # fmt: skip
        job = AtWork("grader", "grade-check").enter({"batch.b1.grade": "small", "batch.b1.count": "4"})
        self.assertIn("no name", " ".join(end.text for end in loose_ends(job.standing)))

    def test_pieces_of_a_grade_that_is_none(self) -> None:
        self.assertEqual(graded(batch=batch(huge=(2, "300 g")))["call"], "not-ready")


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
        for kind in all_methods()["fill-precheck"].kinds:
            self.assertTrue(all_machines()[kind].lists["checklist"].rows, kind)


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
