"""Lifting arms and bin lifts: loads over speeds, repeats, what a container still takes."""

import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, figures, states


def lift(load: str, speed: str, raw: float | None, **more: Any) -> dict[str, Any]:
    return {"load": load, "speed": speed, **({"raw": raw} if raw is not None else {"done": True}), **more}


ALL = [
    lift("empty", "slow", 1000.0, time="8 s"),
    lift("empty", "quick", 1100.0, time="4 s"),
    lift("full", "slow", 3000.0, time="8 s"),
    lift("full", "quick", 3180.0, time="4 s"),
    lift("empty", "normal", 1050.0, time="6 s"),
    lift("known", "normal", 2050.0, time="6 s"),
]


def arm(lifts: list[dict[str, Any]], **inputs: Any) -> dict[str, Any]:
    return answered("lift-speed", **{"lifts": lifts, "known_load": "1000 kg"} | inputs)


def changed(place: int, **more: Any) -> list[dict[str, Any]]:
    return [one | more if number == place else one for number, one in enumerate(ALL)]


class Arms(unittest.TestCase):
    def test_all_lifts_give_the_size_and_the_speed_s_share(self) -> None:
        answer = arm(ALL)
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["unproven"]))
        self.assertEqual(figure(answer, "mass_per_raw"), 1.0)
        self.assertEqual(figure(answer, "speed_effect_empty"), 100.0)
        self.assertEqual(figure(answer, "speed_effect_full"), 180.0)
        self.assertEqual(figure(answer, "speed_effect_share"), 18.0)
        self.assertEqual(figure(answer, "lifts_missing"), 0)
        self.assertNotIn("repeatability", answer["results"])

    def test_the_known_lift_reads_the_known_load_once_the_speed_is_taken_out(self) -> None:
        answer = arm(ALL)
        # At 6 s the pace lies a third of the way from 1/8 to 1/4.
        low, high = 1000 + 100 / 3, 3000 + 180 / 3
        full = 1000 * (high - low) / (2050 - low)
        self.assertAlmostEqual(figure(answer, "full_load"), full, places=6)
        self.assertAlmostEqual(figure(answer, "compensated_known"), 1000.0, places=6)
        self.assertAlmostEqual(figures(answer, "compensated")[0], full * (1050 - low) / (high - low), places=6)
        untimed = arm([{key: found for key, found in one.items() if key != "time"} for one in ALL])
        self.assertNotIn("compensated", untimed["results"])
        self.assertIn("mass_per_raw", untimed["results"])

    def test_repeats_are_averaged_and_their_range_is_told_as_mass(self) -> None:
        answer = arm(
            [*ALL, lift("empty", "slow", 1012.0, time="8 s"), lift("full", "slow", 4000.0, set_aside="spilled")]
        )
        self.assertEqual(figure(answer, "repeatability"), 12.0)
        self.assertEqual(figure(answer, "speed_effect_empty"), 94.0)

    def test_a_lift_that_is_missing_keeps_testing_and_is_counted(self) -> None:
        answer = arm(ALL[:-1], known_load="1000 kg")
        self.assertEqual((answer["call"], codes(answer)), ("keep-testing", ["too-few-runs"]))
        self.assertEqual(figure(answer, "lifts_missing"), 1)
        self.assertIn("known normal", answer["reasons"][0]["text"])
        required = [
            {"load": "empty", "speed": "slow", "count": 3},
            {"load": "full", "speed": "slow", "direction": "down"},
        ]
        self.assertEqual(figure(arm(ALL, required=required), "lifts_missing"), 3)

    def test_oil_under_its_gate_makes_no_lift_count(self) -> None:
        warm = [one | {"temperature": "42 degC"} for one in ALL]
        self.assertEqual(arm(warm, minimum_temperature="40 degC")["call"], "leave")
        cold = [*warm[:-1], warm[-1] | {"temperature": "39.5 degC"}]
        answer = arm(cold, minimum_temperature="40 degC")
        self.assertEqual((answer["call"], codes(answer)), ("not-ready", ["cold"]))
        self.assertEqual(answer["reasons"][0]["path"], "inputs.lifts[5].temperature")
        self.assertIn("45 °C", answer["plan"][0])
        # A temperature counts for the lifts after it; the first lift needs one, and the last is asked for it again.
        since = arm([warm[0], *ALL[1:]], minimum_temperature="40 degC")
        self.assertEqual((since["call"], states(since)["cold"]), ("leave", "note"))
        unread = arm([ALL[0], *warm[1:]], minimum_temperature="40 degC")
        self.assertEqual((unread["call"], codes(unread)), ("not-ready", ["missing"]))
        self.assertEqual(arm(cold)["call"], "leave")

    def test_another_bucket_and_a_machine_that_is_not_prepared_stop_it(self) -> None:
        answer = arm(ALL, attachment_fitted="forks", attachment_calibrated="bucket")
        self.assertEqual((answer["call"], codes(answer)), ("not-ready", ["wrong-attachment"]))
        self.assertEqual(arm(ALL, attachment_fitted="Bucket ", attachment_calibrated="bucket")["call"], "leave")
        self.assertEqual(codes(arm(ALL, prepared=False)), ["not-prepared"])

    def test_lifts_out_of_order_are_a_fault(self) -> None:
        cases = {
            "full not above empty": changed(2, raw=1000.0),
            "known below empty": changed(5, raw=1050.0),
            "known beyond full": changed(5, raw=3180.0 + 0.02 * 2180 + 1),
            "empty normal beside": changed(4, raw=1100.0 + 0.02 * 2180 + 1),
            "a quick lift as slow as a slow one": changed(1, time="8 s"),
        }
        for name, lifts in cases.items():
            answer = arm(lifts)
            self.assertEqual((answer["call"], set(codes(answer))), ("find-fault", {"sanity"}), name)
            self.assertTrue(answer["look"], name)
        for raw in (1100.0 + 0.02 * 2180, 1000.0 - 0.02 * 2180):
            self.assertEqual(arm(changed(4, raw=raw))["call"], "leave")

    def test_done_lifts_make_the_same_calls_without_figures(self) -> None:
        done = [lift(one["load"], one["speed"], None) for one in ALL]
        answer = answered("lift-speed", lifts=done)
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["unproven"]))
        self.assertEqual(set(answer["results"]), {"lifts_missing"})
        self.assertEqual(answered("lift-speed", lifts=done[:-1])["call"], "keep-testing")

    def test_an_estimated_load_is_provisional_and_an_absent_one_is_asked_for(self) -> None:
        self.assertEqual(codes(arm(ALL, known_load_source="estimated")), ["unproven", "provisional"])
        self.assertEqual(codes(arm(ALL, known_load_source="weighed")), ["unproven"])
        answer = arm(ALL, known_load=None)
        self.assertEqual((answer["call"], answer["reasons"][0]["path"]), ("not-ready", "inputs.known_load"))
        self.assertEqual(codes(arm(ALL, known_load="0 kg")), ["no-load"])
        self.assertEqual(codes(arm([{"load": "empty"}])), ["missing", "missing"])


def lifted(*figures: float, key: str = "raw", unit: str = "") -> list[dict[str, Any]]:
    return [{key: f"{one} {unit}" if unit else one} for one in figures]


def bin_lift(**inputs: Any) -> dict[str, Any]:
    usual = {
        "seating_lifts": 10,
        "empty_weight": "200 kg",
        "heavy_weight": "340 kg",
        "empty_lifts": lifted(1000, 1002, 998, 1001, 999),
        "heavy_lifts": lifted(1700, 1703, 1697, 1701, 1699),
    }
    return answered("lift-repeat", **usual | inputs)


class BinLifts(unittest.TestCase):
    def test_ten_lifts_give_the_line_and_its_repeatability(self) -> None:
        answer = bin_lift()
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["unproven"]))
        self.assertAlmostEqual(figure(answer, "mass_per_raw"), 0.2, places=12)
        self.assertAlmostEqual(figure(answer, "raw_at_zero"), 0.0, places=9)
        self.assertAlmostEqual(figure(answer, "repeatability"), 1.2, places=9)
        self.assertAlmostEqual(figure(answer, "repeatability_share"), 1.2 / 140 * 100, places=9)
        self.assertEqual((figure(answer, "empty_mean"), figure(answer, "heavy_mean")), (1000.0, 1700.0))
        self.assertEqual((figure(answer, "empty_spread"), figure(answer, "heavy_spread")), (4.0, 6.0))
        self.assertEqual(figure(answer, "heavy_target"), 350.0)
        self.assertIn("add 150 kg", answer["plan"][0])
        self.assertEqual(figure(bin_lift(fill_margin="20 kg"), "heavy_target"), 380.0)

    def test_it_is_seated_first(self) -> None:
        answer = bin_lift(seating_lifts=9)
        self.assertEqual((answer["call"], codes(answer)), ("not-ready", ["not-seated"]))
        self.assertEqual(bin_lift(seating_lifts=4, seating_needed=4)["call"], "leave")
        self.assertEqual(codes(bin_lift(seating_lifts=None)), ["missing"])

    def test_two_containers_have_to_be_alike(self) -> None:
        two = {"way": "two-containers"}
        self.assertEqual(bin_lift(**two, second_container_weight="210 kg")["call"], "leave")
        answer = bin_lift(**two, second_container_weight="211 kg")
        self.assertEqual((answer["call"], codes(answer)), ("not-ready", ["containers-differ"]))
        self.assertEqual(codes(bin_lift(**two)), ["missing"])

    def test_too_little_in_the_heavy_one_asks_for_more(self) -> None:
        answer = bin_lift(heavy_weight="299 kg")
        self.assertEqual(
            (answer["call"], codes(answer), answer["headline"]), ("not-ready", ["fill-more"], "Fill more in")
        )
        self.assertEqual(
            bin_lift(heavy_weight="300 kg", empty_lifts=lifted(*[1000] * 5), heavy_lifts=lifted(*[1500] * 5))["call"],
            "leave",
        )

    def test_lifts_that_do_not_count_are_made_again(self) -> None:
        lifts = lifted(1000, 1002, 998, 1001, 999)
        lifts[2]["set_aside"] = "touched the ground"
        answer = bin_lift(empty_lifts=lifts)
        self.assertEqual((answer["call"], codes(answer)), ("keep-testing", ["too-few-runs"]))
        self.assertEqual(figure(answer, "lifts_missing"), 1)
        self.assertEqual(bin_lift(empty_lifts=lifts, lifts_needed=4)["call"], "leave")

    def test_containers_that_changed_places_and_lifts_that_range_are_faults(self) -> None:
        swapped = bin_lift(empty_lifts=lifted(*[1700] * 5), heavy_lifts=lifted(*[1000] * 5))
        self.assertEqual((swapped["call"], codes(swapped)), ("find-fault", ["sanity"]))
        ranging = bin_lift(heavy_lifts=lifted(1700, 1708, 1693, 1700, 1700))
        self.assertEqual((ranging["call"], codes(ranging)), ("find-fault", ["not-repeating"]))

    def test_masses_shown_are_judged_by_the_common_rules(self) -> None:
        empty = lifted(201, 202, 201, 202, 201, key="indicated", unit="kg")
        heavy = lifted(342, 343, 342, 343, 342, key="indicated", unit="kg")
        answer = bin_lift(empty_lifts=empty, heavy_lifts=heavy)
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["within-limit"]))
        self.assertEqual(figure(answer, "runs_in_set"), 10)
        self.assertAlmostEqual(figure(answer, "pooled_ratio"), 2700 / 2719, places=12)
        self.assertEqual(answer["results"]["heavy_mean"], {"value": 342.4, "unit": "kg"})
        self.assertNotIn("mass_per_raw", answer["results"])
        off = bin_lift(
            empty_lifts=lifted(*[210] * 5, key="indicated", unit="kg"),
            heavy_lifts=lifted(*[357] * 5, key="indicated", unit="kg"),
            factor=1.0,
            factor_decimals=3,
        )
        self.assertEqual(off["call"], "adjust")
        self.assertEqual(figure(off, "new_factor"), 0.952)

    def test_done_lifts_need_no_figures(self) -> None:
        done = [{"done": True}] * 5
        answer = bin_lift(empty_lifts=done, heavy_lifts=done)
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["unproven"]))
        self.assertEqual(codes(bin_lift(empty_lifts=[*done[:-1], {}], heavy_lifts=done)), ["missing"])
        # Either container may come first: what is missing is still to be done.
        for first in ({"empty_lifts": []}, {"heavy_lifts": [], "heavy_weight": None}):
            half = bin_lift(**first)
            self.assertEqual((half["call"], codes(half)), ("keep-testing", ["too-few-runs"]))
