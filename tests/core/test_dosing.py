"""Doses and grades: every rule with the figures that it gives."""

import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, figures, states
from tests.core.test_document import refused
from tests.core.visit import AtWork
from wary.job.loose import loose_ends

PACK = {"target": "1000 g", "over": "10 g", "under": "10 g", "division": "1 g"}


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
        self.assertFalse([end for end in loose_ends(job.snapshot) if "tares" in end.key])
        job.enter({"readings_after.r1.value": "400.1 g"})
        self.assertTrue([end for end in loose_ends(job.snapshot) if "tares" in end.key])
        self.assertTrue(job.snapshot.not_valid)


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
        averages = answer["results"]["averages"]
        self.assertEqual((averages[0], averages[1]["value"]), (None, 0.09))
        self.assertEqual(figures(answer, "shares"), [0, 100])

    def test_what_is_missing_and_a_batch_without_a_name(self) -> None:
        paths = [reason["path"] for reason in answered("grade-check")["reasons"]]
        self.assertEqual(paths, ["inputs.grades", "inputs.limit_kind", "inputs.reject_limit"])
        bare = graded(grades=[{"name": "small"}])
        self.assertEqual([reason["path"] for reason in bare["reasons"]], ["inputs.grades[0].limit", "inputs.grades[0].outlet"])  # fmt: skip
        job = AtWork("grader", "grade-check").enter({"batch.b1.grade": "small", "batch.b1.count": "4"})
        self.assertIn("no name", " ".join(end.text for end in loose_ends(job.snapshot)))

    def test_pieces_of_a_grade_that_is_none(self) -> None:
        self.assertEqual(graded(batch=batch(huge=(2, "300 g")))["call"], "not-ready")
