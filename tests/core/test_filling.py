"""Filling, dosing and grading: every rule of the pages with the figures that it gives, and the machines that tune themselves."""

import statistics
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.jobs import answered, codes, figure, figures, states
from tests.core.test_document import refused
from tests.core.visit import AtWork
from wary.job.closing import hands_back
from wary.job.loose import loose_ends
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.filling.sampling import beyond, cycles_since, difference, neighbour_deviation, one_sided, wilson
from wary.methods.filling.tuning import CutOffs, Pack, Trial, decide, tune
from wary.rules.assessment import FIND_FAULT, LEAVE
from wary.simulators.filler import Filler

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
        self.assertEqual(paths, ["inputs.target", "inputs.over", "inputs.under", "inputs.division", "inputs.trials"])
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

    def test_fine_above_medium_takes_medium_and_fast_along(self) -> None:
        answer = tuning(trial(40, 30, 20, 1020, 1021, 1022))
        # Fine 41; medium 41 + 10; fast out of the way.
        self.assertEqual((settings(answer), answer["results"]["setting_changed"]["value"]), ((51, 51, 41), "fine and medium"))  # fmt: skip

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
        answer = tuning(trial(300, 100, 20, 1012, 1011, 1013), usual=usual)
        self.assertEqual((states(answer).get("usual-fine"), states(answer).get("usual-medium")), ("note", None))

    @given(st.lists(st.integers(900, 1100), min_size=3, max_size=8), st.integers(0, 60), st.integers(0, 60))
    def test_what_is_suggested_is_always_in_order_and_whole_divisions(self, weights: list[int], fine: int, room: int) -> None:  # fmt: skip
        pack = Pack(1.0, 0.01, 0.01, 0.001, 0.008)
        last = Trial(CutOffs(0.3, (fine + room) / 1000, fine / 1000), tuple(w / 1000 - 1 for w in weights))
        decision = decide([last], pack)
        self.assertTrue(decision.cut_offs.ordered(1.0), decision)
        for mass in (decision.cut_offs.medium, decision.cut_offs.fine):
            self.assertAlmostEqual(mass * 1000, round(mass * 1000), 6)
        moved = decision.moved(last.cut_offs)
        self.assertEqual(bool(moved), decision.call == "adjust" or (decision.call == LEAVE and bool(moved)))


class TunesItself(unittest.TestCase):
    """The rules on a machine that fills: bad starts end tuned, soon, and faults are found."""

    STARTS = [(fast, medium, fine) for fast in (0.35, 0.6) for medium in (0.05, 0.10, 0.15, 0.20, 0.30) for fine in (0.005, 0.03)]  # fmt: skip

    def tuned(self, seed: int, start: tuple[float, float, float], fault: str = "none") -> list[Any]:
        machine = Filler(seed, fault=fault)

        def fill(cut_offs: CutOffs) -> Trial:
            made = [machine.fill(cut_offs.fast, cut_offs.medium, cut_offs.fine) for _ in range(3)]
            return Trial(cut_offs, tuple(one.weight - 1.0 for one in made), tuple(one.fine_time for one in made))

        return tune(CutOffs(*start), Pack(1.0, 0.006, 0.006, 0.001, 0.4 * 0.012), fill)

    def test_twenty_bad_starts_end_tuned_in_six_trials_or_fewer(self) -> None:
        self.assertEqual(len(self.STARTS), 20)
        ends = [self.tuned(seed * 100 + at, start) for at, start in enumerate(self.STARTS) for seed in range(30)]
        tuned = [one for one in ends if one[-1].call == LEAVE]
        self.assertGreaterEqual(len(tuned) / len(ends), 0.98)
        self.assertLessEqual(statistics.median(len(one) for one in tuned), 6)

    def test_a_machine_that_bridges_is_mostly_a_fault_and_never_goes_on_for_ever(self) -> None:
        ends = [self.tuned(seed, (0.6, 0.15, 0.02), "bridging") for seed in range(40)]
        self.assertGreater(sum(one[-1].call == FIND_FAULT for one in ends), 20)
        self.assertTrue(all(len(one) < 20 for one in ends))

    def test_the_same_seed_fills_the_same_and_another_does_not(self) -> None:
        one, again, other = (Filler(seed).fill(0.5, 0.16, 0.016) for seed in (7, 7, 8))
        self.assertEqual(one, again)
        self.assertNotEqual(one, other)
        with self.assertRaises(ValueError):
            Filler(1, fault="gremlins")

    def test_at_its_ideal_cut_offs_it_fills_near_the_target_and_fine_is_seen(self) -> None:
        machine = Filler(3)
        made = [machine.fill(*machine.ideal()) for _ in range(200)]
        self.assertAlmostEqual(statistics.mean(one.weight for one in made), 1.0, delta=0.003)
        self.assertGreater(statistics.mean(one.fine_time for one in made), 0.5)

    def test_what_fine_is_moved_by_the_mean_follows(self) -> None:
        machine = Filler(5)
        fast, medium, fine = machine.ideal()
        before, after = (statistics.mean(machine.fill(fast, medium + 0.05, at).weight for _ in range(200)) for at in (fine, fine + 0.01))  # fmt: skip
        self.assertAlmostEqual((after - before) / 0.01, -1, delta=0.15)


class AsAJob(unittest.TestCase):
    """Tuning in a job: half done, what is handed back, what is loose, two speeds."""

    def job(self, kind: str = "filler") -> AtWork:
        texts = {f"inputs.{key}": text for key, text in PACK.items()}
        return AtWork(kind, "fill-tuning").enter(texts)

    def trials(self, job: AtWork, number: int, fine: float, *weights: float, two_speeds: bool = False) -> AtWork:
        row = f"trials.t{number}"
        texts = {} if two_speeds else {f"{row}.fast": "300 g"}
        texts |= {f"{row}.medium": "100 g", f"{row}.fine": f"{fine} g"}
        texts |= {f"{row}.fills.f{n}.weight": f"{weight} g" for n, weight in enumerate(weights, 1)}
        return job.enter(texts)

    def test_a_cut_off_that_was_moved_is_not_valid_until_three_fills_show_it(self) -> None:
        job = self.trials(self.job(), 1, 20, 1012, 1011, 1013)
        self.assertFalse(job.standing.not_valid)
        self.trials(job, 2, 32)
        self.assertIn("do not show yet", job.standing.not_valid[0])
        self.trials(job, 2, 32, 1001, 1000, 999)
        self.assertFalse(job.standing.not_valid)
        handed = hands_back(job.standing).plates
        self.assertEqual((handed["fine"], handed["medium"], handed["target"]), ("32 g", "100 g", "1000 g"))

    def test_nothing_is_handed_back_before_it_is_tuned(self) -> None:
        job = self.trials(self.job(), 1, 20, 1012, 1011, 1013)
        self.assertEqual(hands_back(job.standing).plates, {})

    def test_automatic_correction_off_is_a_loose_end(self) -> None:
        job = self.trials(self.job(), 1, 20, 1001, 1000, 999).enter({"tick.look.correction": "yes"})
        self.assertIn("Automatic correction is off: put it back on.", [end.text for end in loose_ends(job.standing)])

    def test_two_speeds_have_no_fast_stage_of_their_own(self) -> None:
        job = self.trials(self.job("two-speed-filler"), 1, 20, 1012, 1011, 1013, two_speeds=True)
        self.assertEqual(job.part().assessment.call, "not-ready")
        job.enter({"inputs.two_speeds": "yes"})
        self.assertEqual(job.part().assessment.headline.replace("\u00a0", " "), "In flight 20 → 32 g")

    def test_each_machine_says_the_cut_offs_in_its_own_words(self) -> None:
        machine = all_machines()["two-speed-filler"]
        described = all_methods()["fill-tuning"].describe(machine.traits, machine.says)
        trials = next(one for one in described.inputs if one.key == "trials")
        self.assertEqual([one.title for one in trials.fields][1:3], ["Filled slowly", "In flight"])
        rows = next(step.rows for step in described.steps if step.key == "trials")
        self.assertEqual(rows.typed, ("medium", "fine"))
        plain = all_methods()["fill-tuning"].describe(all_machines()["filler"].traits)
        self.assertEqual(next(step.rows for step in plain.steps if step.key == "trials").typed, ("fast", "medium", "fine"))  # fmt: skip

    def test_what_is_drawn_are_the_cut_offs_where_they_bite_and_the_latest_trials(self) -> None:
        job = self.trials(self.job(), 1, 20, 1025, 1006, 1004)
        self.trials(job, 2, 32, 1012, 1011, 1013)
        drawn = all_methods()["fill-tuning"].draw(job.part().given, job.subject.seen)
        assert drawn and drawn.shape == "fills"
        self.assertEqual([(one.label, round(one.at, 3)) for one in drawn.cut_offs], [("fast", 0.7), ("medium", 0.9), ("fine", 0.968)])  # fmt: skip
        self.assertEqual([(one.are, one.note) for one in drawn.groups], [("scattered", ""), ("beside", "fine moved")])
        self.assertEqual([mark.out for mark in drawn.groups[0].marks], [True, False, False])


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
        # 400 g is 14.11 oz; a display in ounces noted as grams.
        slips = answered("dose-check", check_mass="400 g", readings_before=["14.11 oz", "4000 g"])["slips"]
        self.assertTrue(slips is not None)
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
