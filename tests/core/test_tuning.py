"""Tuning a filler: every rule with the figures that it gives, in a job, and machines that tune themselves."""

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.jobs import answered, codes, figure, states
from wary.methods.filling.tuning import CutOffs, Pack, Trial, decide
from wary.rules.assessment import LEAVE

PACK = {"target": "1000 g", "over": "10 g", "under": "10 g", "division": "1 g"}


def trial(fast: float, medium: float, fine: float, *weights: float, times: tuple[float, ...] = ()) -> dict[str, Any]:
    fills: list[dict[str, Any]] = [{"weight": f"{weight} g"} for weight in weights]
    for fill, time in zip(fills, times, strict=False):
        fill["fine_time"] = f"{time} s"
    return {"fast": f"{fast} g", "medium": f"{medium} g", "fine": f"{fine} g", "fills": fills}


def tuning(*trials: dict[str, Any], **more: Any) -> dict[str, Any]:
    return answered("fill-tuning", **(PACK | {"trials": list(trials)} | more))


def settings(answer: dict[str, Any]) -> tuple[float, ...]:
    return tuple(round(figure(answer, f"suggested_{stage}"), 6) for stage in ("fast", "medium", "fine"))


class Tuned(unittest.TestCase):
    """Rules 1 to 3: what is asked for, too few, in order."""

    def test_three_in_tolerance_and_near_the_middle_are_left(self) -> None:
        answer = tuning(trial(300, 100, 20, 1003, 1001, 998))
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["tuned"]))
        # (3 + 1 − 2)/3 = 0.667; 1003 − 998; deviations 2.333, 0.333, −2.667.
        self.assertAlmostEqual(figure(answer, "mean_error_mass"), 2 / 3, 9)
        self.assertAlmostEqual(figure(answer, "spread_mass"), 5, 9)
        self.assertAlmostEqual(figure(answer, "standard_deviation_mass"), 2.5166114784, 9)
        self.assertEqual(settings(answer), (300, 100, 20))
        self.assertNotIn("setting_changed", answer["results"])

    def test_the_edges_of_half_the_tolerance_and_of_the_spread_belong_to_it(self) -> None:
        self.assertEqual(tuning(trial(300, 100, 20, 1005, 1005, 1005))["call"], "leave")
        self.assertEqual(tuning(trial(300, 100, 20, 995, 995, 995))["call"], "leave")
        self.assertEqual(tuning(trial(300, 100, 20, 996, 1004, 1000))["call"], "leave")
        self.assertEqual(tuning(trial(300, 100, 20, 1006, 1005, 1005))["call"], "adjust")

    def test_only_the_last_three_have_to_be_within_tolerance(self) -> None:
        early = tuning(trial(300, 100, 20, 1011, 1004, 1005, 1004), over="10 g", erratic="8 g")
        self.assertEqual(early["call"], "adjust")
        self.assertEqual(
            tuning(trial(300, 100, 20, 1011, 1004, 1004, 1004, 1004, 1003), erratic="8 g")["call"], "leave"
        )

    def test_fewer_than_three_fill_on(self) -> None:
        answer = tuning(trial(300, 100, 20, 1003, 1001))
        self.assertEqual((answer["call"], answer["reasons"][0]["runs"]), ("keep-testing", 2))
        self.assertEqual(settings(answer), (300, 100, 20))
        aside = trial(300, 100, 20, 1003, 1001, 600)
        aside["fills"][2]["set_aside"] = "the hopper ran empty"
        self.assertEqual(tuning(aside)["call"], "keep-testing")

    def test_what_is_missing_is_named_where_it_belongs(self) -> None:
        nothing = answered("fill-tuning")
        paths = [reason["path"] for reason in nothing["reasons"]]
        self.assertEqual(paths, ["inputs.target", "inputs.division", "inputs.trials"])
        half = tuning({"fast": "300 g", "fine": "20 g", "fills": [{"fine_time": "1 s"}]})
        paths = [reason["path"] for reason in half["reasons"]]
        self.assertEqual(paths, ["inputs.trials[0].medium", "inputs.trials[0].fills[0].weight"])
        empty = tuning({"fast": "300 g", "medium": "100 g", "fine": "20 g", "fills": []})
        self.assertEqual([reason["path"] for reason in empty["reasons"]], ["inputs.trials[0].fills"])

    def test_cut_offs_out_of_order_are_not_ready_and_none_is_a_refusal(self) -> None:
        for fast, medium, fine in ((300, 100, 120), (90, 100, 20), (1001, 100, 20), (300, 100, -1)):
            answer = tuning(trial(fast, medium, fine, 1000, 1000, 1000))
            self.assertEqual((answer["call"], states(answer)["cut-offs"]), ("not-ready", "fail"), (fast, medium, fine))
        # An earlier trial that was out of order is put right by the next.
        self.assertEqual(tuning(trial(300, 20, 100, 1000), trial(300, 100, 20, 1000, 1000, 1000))["call"], "leave")
        self.assertEqual(tuning(trial(1000, 1000, 0, 1000, 1000, 1000))["call"], "leave")

    def test_a_target_in_ounces_is_spoken_of_in_ounces(self) -> None:
        answer = answered("fill-tuning", target="35.274 oz", over="0.35 oz", under="0.35 oz", division="1 g", trials=[trial(300, 100, 20, 1003, 1001, 1002)])  # fmt: skip
        self.assertEqual(answer["results"]["mean_error_mass"]["unit"], "oz")
        self.assertEqual(answer["results"]["suggested_fine"]["unit"], "g")
        # 1002 g is 35.3445 oz.
        self.assertAlmostEqual(figure(answer, "mean_error_mass"), 1002 / 28.349523125 - 35.274, 6)


class Scattered(unittest.TestCase):
    """Rules 4 and 5: the stage before fine."""

    def test_scattered_and_heavy_moves_medium_and_leaves_fine(self) -> None:
        answer = tuning(trial(300, 100, 20, 1025, 1006, 1004))
        # m = 35/3, w = 21: 100 + 11.667 + 10.5 = 122.17, up to 123.
        self.assertEqual((answer["call"], settings(answer)), ("adjust", (300, 123, 20)))
        self.assertEqual(answer["results"]["setting_changed"]["value"], "medium")
        self.assertEqual(answer["headline"].replace("\u00a0", " "), "Medium 100 → 123 g")

    def test_each_further_erratic_trial_in_a_row_gives_more_room(self) -> None:
        one, two = trial(300, 100, 20, 1025, 1006, 1004), trial(300, 123, 20, 1016, 1001, 1004)
        # m = 7, w = 15, c = 2: 123 + 7 + 15 = 145.
        self.assertEqual(settings(tuning(one, two)), (300, 145, 20))
        quiet = trial(300, 110, 20, 1012, 1011, 1012)
        self.assertEqual(settings(tuning(one, quiet, two)), (300, 138, 20))

    def test_medium_pushes_fast_out_of_the_way_and_stops_at_the_target(self) -> None:
        self.assertEqual(settings(tuning(trial(110, 100, 20, 1025, 1006, 1004))), (123, 123, 20))
        small = answered("fill-tuning", target="100 g", over="2 g", under="2 g", division="0.5 g", trials=[trial(100, 95, 3, 112, 101, 103)])  # fmt: skip
        self.assertEqual(settings(small), (100, 100, 3))

    def test_scattered_and_light_moves_fine_and_with_it_medium(self) -> None:
        answer = tuning(trial(300, 100, 20, 984, 1000, 992))
        # m = −8, w = 16: fine 20 − 8 = 12, medium 100 + 8 = 108.
        self.assertEqual((answer["call"], settings(answer)), ("adjust", (300, 108, 12)))
        self.assertEqual(answer["results"]["setting_changed"]["value"], "fine and medium")

    def test_scattered_and_lighter_than_fine_can_give_is_a_fault(self) -> None:
        answer = tuning(trial(300, 100, 8, 984, 1000, 992))
        self.assertEqual((answer["call"], settings(answer)), ("find-fault", (300, 100, 8)))
        self.assertTrue(answer["look"])

    def test_six_restless_trials_in_a_row_are_a_fault(self) -> None:
        rows = [trial(300, 100 + 10 * n, 20, 1025, 1006, 1004) for n in range(6)]
        answer = tuning(*rows)
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["restless"]))
        self.assertEqual(tuning(*rows[:5])["call"], "adjust")
        rows[2] = trial(300, 120, 20, 1012, 1011, 1012)
        self.assertEqual(tuning(*rows)["call"], "adjust")

    def test_where_fine_fills_the_whole_pack_no_cut_off_is_left(self) -> None:
        answer = tuning(trial(1000, 1000, 20, 1025, 1006, 1004))
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["restless"]))

    def test_fine_that_was_moved_and_did_nothing_is_not_fine(self) -> None:
        before, after = trial(300, 100, 20, 1012, 1013, 1011), trial(300, 100, 33, 1010, 1011, 1009)
        answer = tuning(before, after)
        # Fine by 13, the mean by −2: 100 + 10 + 1 = 111.
        self.assertEqual((answer["call"], settings(answer)), ("adjust", (300, 111, 33)))
        self.assertEqual(answer["results"]["setting_changed"]["value"], "medium")
        self.assertAlmostEqual(figure(answer, "sensitivity"), -2 / 13, 9)
        self.assertIn("it is not fine that is wrong", answer["reasons"][0]["text"])

    def test_it_takes_a_move_of_half_the_tolerance_and_a_mean_that_hardly_follows(self) -> None:
        small = tuning(trial(300, 100, 20, 1012, 1013, 1011), trial(300, 100, 29, 1011, 1012, 1010))
        self.assertEqual(small["results"]["setting_changed"]["value"], "fine")
        followed = tuning(trial(300, 100, 20, 1020, 1021, 1019), trial(300, 100, 32, 1013, 1014, 1012))
        # −7 of 12 is more than half.
        self.assertEqual(followed["results"]["setting_changed"]["value"], "fine")
        both = tuning(trial(300, 105, 20, 1012, 1013, 1011), trial(300, 100, 33, 1010, 1011, 1009))
        self.assertEqual(both["results"]["setting_changed"]["value"], "fine")
        self.assertNotIn("sensitivity", both["results"])
        self.assertEqual(states(both)["one-setting"], "note")


class Beside(unittest.TestCase):
    """Rules 6 and 7: fine, and how long it is seen."""

    def test_the_whole_error_goes_onto_fine(self) -> None:
        heavy = tuning(trial(300, 100, 20, 1012, 1011, 1013))
        self.assertEqual((heavy["call"], settings(heavy)), ("adjust", (300, 100, 32)))
        self.assertEqual(heavy["results"]["setting_changed"]["value"], "fine")
        light = tuning(trial(300, 100, 20, 991, 990, 992))
        self.assertEqual(settings(light), (300, 100, 11))
        self.assertIn("try again and see", light["reasons"][0]["text"])

    def test_it_is_rounded_to_the_nearest_division_half_up(self) -> None:
        for weights, fine in (((1006.4, 1006.4, 1006.4), 26), ((1006.5, 1006.5, 1006.5), 27), ((1007.4, 1007.5, 1007.6), 28)):  # fmt: skip
            self.assertEqual(settings(tuning(trial(300, 100, 20, *weights)))[2], fine, weights)
        self.assertEqual(settings(tuning(trial(300, 100, 20, 1006, 1007, 1008), division="5 g"))[2], 25)

    def test_below_nothing_is_a_fault(self) -> None:
        answer = tuning(trial(300, 100, 5, 991, 990, 992))
        self.assertEqual(answer["call"], "find-fault")
        self.assertEqual(settings(tuning(trial(300, 100, 9, 991, 990, 992)))[2], 0)

    def test_fine_above_medium_is_the_work_of_the_stage_before(self) -> None:
        answer = tuning(trial(40, 30, 20, 1020, 1021, 1022))
        # Fine would have to be 41, above medium: medium 30 + 21 + 1, fast out of the way, fine stays.
        self.assertEqual((settings(answer), answer["results"]["setting_changed"]["value"]), ((52, 52, 20), "medium"))
        pack = {"target": "500 g", "over": "4 g", "under": "4 g", "erratic": "4 g"}
        other = tuning(trial(300, 40, 8, 541, 543, 542), **pack)
        # 40 + 42 + 1 = 83.
        self.assertEqual((settings(other), codes(other)), ((300, 83, 8), ["before-fine"]))

    def test_an_error_below_half_a_division_fills_on(self) -> None:
        answer = tuning(trial(300, 100, 20, 1002, 1001, 1002), over="1.5 g", under="1.5 g", division="10 g", erratic="2 g")  # fmt: skip
        self.assertEqual((answer["call"], settings(answer)), ("keep-testing", (300, 100, 20)))

    def test_a_fine_stage_of_a_second_is_wanted_and_changes_no_call(self) -> None:
        short = tuning(trial(300, 100, 20, 1000, 1001, 999, times=(0.5, 0.5, 0.5)))
        # min((1 − 0.5)·80/0.5, 80/4) = 20.
        self.assertEqual((short["call"], settings(short), states(short)["fine-short"]), ("leave", (300, 120, 20), "note"))  # fmt: skip
        self.assertNotIn("setting_changed", short["results"])
        a_little = tuning(trial(300, 100, 20, 1000, 1001, 999, times=(0.7, 0.8, 0.75)))
        # min(0.25·80/0.75, 20) = 20; with 0.79 s min(0.21·80/0.79 = 21.3, 20).
        self.assertEqual(settings(a_little), (300, 120, 20))
        unseen = tuning(trial(300, 100, 96, 1000, 1001, 999, times=(0, 0, 0)))
        # Not seen at all: max(8, 4/4) = 8.
        self.assertEqual(settings(unseen), (300, 108, 96))
        long = tuning(trial(300, 100, 20, 1000, 1001, 999, times=(1.6, 1.6, 1.6)))
        # min(0.6·80/1.6 = 30, 20) = 20 less.
        self.assertEqual((settings(long), states(long)["fine-long"]), ((300, 80, 20), "note"))
        for times in ((0.8, 0.8, 0.8), (1.5, 1.5, 1.5), (1, 1, 1)):
            seen = tuning(trial(300, 100, 20, 1000, 1001, 999, times=times))
            self.assertEqual((settings(seen), states(seen)["fine-seen"]), ((300, 100, 20), "pass"), times)

    def test_with_any_other_call_the_fine_stage_waits(self) -> None:
        answer = tuning(trial(300, 100, 20, 1012, 1011, 1013, times=(0.5, 0.5, 0.5)))
        self.assertEqual(settings(answer), (300, 100, 32))
        self.assertAlmostEqual(figure(answer, "fine_time_mean"), 0.5, 9)

    def test_outside_what_is_usual_is_a_note(self) -> None:
        usual = {"medium_low": "80 g", "medium_high": "110 g", "fine_high": "30 g"}
        answer = tuning(trial(300, 120, 20, 1003, 1002, 1004), usual=usual | {"fine_high": "60 g"}, over="4 g")
        self.assertEqual((states(answer).get("usual-fine"), states(answer).get("usual-medium")), (None, "note"))
        # Heavy, and fine would lie above what it usually is: it is medium.
        self.assertEqual(codes(tuning(trial(300, 100, 20, 1012, 1011, 1013), usual=usual)), ["before-fine"])

    @given(st.lists(st.integers(900, 1100), min_size=3, max_size=8), st.integers(0, 60), st.integers(0, 60))
    def test_what_is_suggested_is_always_in_order_and_whole_divisions(self, weights: list[int], fine: int, room: int) -> None:  # fmt: skip
        pack = Pack(1.0, 0.01, 0.01, 0.001, 0.008)
        last = Trial(CutOffs(0.3, (fine + room) / 1000, fine / 1000), tuple(w / 1000 - 1 for w in weights))
        decision = decide([last], pack)
        self.assertTrue(decision.cut_offs.ordered(1.0), decision)
        for mass in (decision.cut_offs.medium, decision.cut_offs.fine):
            self.assertAlmostEqual(mass * 1000, round(mass * 1000), 6)
        if decision.call == "adjust":
            self.assertTrue(decision.moved(last.cut_offs))
        elif decision.call != LEAVE:
            self.assertEqual(decision.cut_offs, last.cut_offs)
