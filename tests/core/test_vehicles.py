"""Scales that ride on vehicles: axle groups, lifting arms, bin lifts, whole loads against tickets."""

import math
import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, figures, job, runs, states
from wary.job.file import Refused, read
from wary.rules.evidence import student

STEER = {"name": "steer", "empty_ticket": "6200 kg", "heavy_ticket": "7100 kg"}
DRIVE = {"name": "drive", "empty_ticket": "5400 kg", "heavy_ticket": "16200 kg"}


def axles(*groups: dict[str, Any], **inputs: Any) -> dict[str, Any]:
    return answered("axle-two-load", **{"groups": list(groups) or [STEER, DRIVE], "ticket_division": "20 kg"} | inputs)


def proved(*shown: str, **inputs: Any) -> dict[str, Any]:
    tickets = ("6600 kg", "11000 kg")
    groups = [
        group | {"proof_ticket": ticket, "proof_shown": shows}
        for group, ticket, shows in zip((STEER, DRIVE), tickets, shown, strict=True)
    ]
    return axles(*groups, **inputs)


class Axles(unittest.TestCase):
    def test_two_loads_that_are_in_are_set_and_not_proven(self) -> None:
        answer = axles()
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["unproven"]))
        self.assertEqual(figures(answer, "payloads"), [900.0, 10800.0])
        self.assertEqual(figure(answer, "total_payload"), 11700.0)

    def test_either_load_may_come_first_and_nothing_is_valid_until_both_are_in(self) -> None:
        for gone in ("empty_ticket", "heavy_ticket"):
            half = [{key: text for key, text in group.items() if key != gone} for group in (STEER, DRIVE)]
            answer = axles(*half)
            self.assertEqual((answer["call"], codes(answer)), ("keep-testing", ["half-entered"] * 2))
            self.assertEqual(answer["reasons"][1]["path"], f"inputs.groups[1].{gone}")
            self.assertIn("Half entered: weigh it", answer["headline"])
        answer = axles(STEER, {"name": "drive", "empty_ticket": "5400 kg"})
        self.assertEqual([reason["path"] for reason in answer["reasons"]], ["inputs.groups[1].heavy_ticket"])
        nothing = axles({"name": "steer"})
        self.assertEqual((nothing["call"], codes(nothing)), ("not-ready", ["missing"]))
        self.assertEqual(codes(answered("axle-two-load", groups=[])), ["missing"])

    def test_slope_and_offset_where_raw_figures_exist(self) -> None:
        answer = axles(STEER | {"empty_raw": 1240, "heavy_raw": 1420}, DRIVE | {"empty_raw": 2000, "heavy_raw": 5000})
        self.assertEqual(figures(answer, "slopes"), [5.0, 3.6])
        self.assertEqual(figures(answer, "offsets"), [0.0, -1800.0])
        self.assertEqual(answer["results"]["slopes"][0]["unit"], "kg")

    def test_a_preparation_left_out_is_not_asked_for_and_one_that_failed_stops_it(self) -> None:
        answer = axles(empty_prepared=True, heavy_prepared=False)
        self.assertEqual(answer["call"], "not-ready")
        self.assertEqual(answer["reasons"][0]["path"], "inputs.heavy_prepared")
        self.assertEqual(axles(empty_prepared=True)["call"], "leave")

    def test_swapped_tickets_and_sensors_the_wrong_way_round_are_found(self) -> None:
        swapped = STEER | {"empty_ticket": "7100 kg", "heavy_ticket": "6200 kg"}
        self.assertEqual((axles(swapped, DRIVE)["call"], codes(axles(swapped, DRIVE))), ("find-fault", ["sanity"]))
        for heavy in (1240, 1100):
            answer = axles(STEER | {"empty_raw": 1240, "heavy_raw": heavy}, DRIVE)
            self.assertEqual(answer["call"], "find-fault")
            self.assertIn("valve", answer["reasons"][0]["text"])
            self.assertTrue(answer["look"])

    def test_a_reading_away_from_its_ticket_is_matched_again(self) -> None:
        answer = axles(STEER | {"empty_shown": "6220 kg", "heavy_shown": "7140 kg"}, DRIVE)
        self.assertEqual((answer["call"], codes(answer)), ("adjust", ["match-again"]))
        self.assertEqual(answer["reasons"][0]["path"], "inputs.groups[0].heavy_shown")
        self.assertEqual(figures(answer, "match_errors"), [20.0, 40.0])
        self.assertEqual(axles(STEER | {"empty_shown": "6180 kg"}, DRIVE)["call"], "leave")
        self.assertEqual(codes(axles(STEER | {"empty_shown": "6200 kg"}, DRIVE, ticket_division=None)), ["missing"])

    def test_groups_have_to_add_up_to_the_printed_gross(self) -> None:
        within = axles(empty_gross="11640 kg", heavy_gross="23340 kg")
        self.assertEqual(within["call"], "leave")
        self.assertAlmostEqual(figure(within, "empty_mismatch"), -40.0, places=6)
        self.assertAlmostEqual(figure(within, "heavy_mismatch"), -40.0, places=6)
        beyond = axles(heavy_gross="23341 kg")
        self.assertEqual((beyond["call"], codes(beyond)), ("find-fault", ["sanity"]))
        self.assertIn("misread", beyond["reasons"][0]["text"])

    def test_a_small_payload_and_two_scales_are_noted(self) -> None:
        light = axles(STEER | {"heavy_ticket": "6590 kg"}, DRIVE, empty_scale="Quay", heavy_scale="Ness")
        self.assertEqual(light["call"], "leave")
        notes = states(light)
        self.assertEqual((notes["small-lever"], notes["two-scales"]), ("note", "note"))
        self.assertIn("150 kg", next(check["text"] for check in light["checks"] if check["code"] == "two-scales"))
        same = axles(empty_scale="Quay", heavy_scale=" quay")
        self.assertNotIn("two-scales", states(same))
        told = axles(empty_scale="Quay", heavy_scale="Ness", scales_differ_by="80 kg")
        self.assertIn("80 kg", next(check["text"] for check in told["checks"] if check["code"] == "two-scales"))

    def test_a_third_weighing_proves_it_by_gross_and_by_group(self) -> None:
        good = proved("6620 kg", "11080 kg")
        self.assertEqual((good["call"], codes(good)), ("leave", ["within-limit"]))
        self.assertEqual(figures(good, "proof_errors"), [20.0, 80.0])
        self.assertEqual(figure(good, "proof_error"), 100.0)
        self.assertAlmostEqual(figure(good, "proof_error_share"), 100 / 17600 * 100, places=9)
        heavy = proved("6600 kg", "11200 kg")
        self.assertEqual((heavy["call"], codes(heavy)), ("adjust", ["outside-limit"]))
        against = proved("6900 kg", "10700 kg")
        self.assertEqual(against["call"], "adjust")
        self.assertEqual(
            [reason.get("path") for reason in against["reasons"]], [f"inputs.groups[{n}].proof_shown" for n in (0, 1)]
        )
        self.assertEqual(codes(proved("9000 kg", "15000 kg")), ["implausible"])
        # A group within one division of the ticket is near enough, whatever its share.
        coarse = proved("6850 kg", "10750 kg", ticket_division="250 kg")
        self.assertEqual(coarse["call"], "leave")

    def test_a_display_in_pounds_is_named_as_the_slip(self) -> None:
        answer = proved("14550 kg", "24250 kg")
        self.assertEqual(codes(answer), ["implausible"])
        self.assertEqual((answer["slips"][0]["entered"], answer["slips"][0]["likely"]), ("kg", "lb"))
        self.assertEqual(proved("6620 kg", "11080 kg")["slips"], [])

    def test_a_ticket_of_nothing_is_no_load_and_a_negative_one_is_refused(self) -> None:
        self.assertEqual(codes(axles(STEER | {"empty_ticket": "0 kg"}, DRIVE)), ["no-load"])
        with self.assertRaises(Refused) as refused:
            read(job("axle-two-load", groups=[STEER | {"empty_ticket": "-5 kg"}]))
        self.assertEqual(refused.exception.refusals[0].path, "inputs.groups[0].empty_ticket")

    def test_pounds_and_tonnes_may_stand_beside_each_other(self) -> None:
        answer = axles(STEER | {"empty_ticket": "6.2 t", "heavy_ticket": "7100 kg"}, DRIVE)
        self.assertEqual(answer["results"]["payloads"][0]["unit"], "t")
        self.assertAlmostEqual(figure(answer, "total_payload"), 11.7, places=9)


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
        unread = arm([*warm[:-1], ALL[-1]], minimum_temperature="40 degC")
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
        self.assertEqual(codes(bin_lift(empty_lifts=[])), ["missing"])


def loads(pairs: list[tuple[str, str]], **inputs: Any) -> dict[str, Any]:
    return answered("load-comparison", runs=runs(pairs), **inputs)


class Loads(unittest.TestCase):
    SPREAD = [("10", "10.2"), ("12", "12.2"), ("14", "14.2"), ("16", "16.2")]

    def test_an_error_that_is_the_same_at_every_load_is_no_factor_s(self) -> None:
        answer = loads(self.SPREAD)
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["intercept"]))
        self.assertAlmostEqual(figure(answer, "intercept"), 0.2, places=9)
        self.assertAlmostEqual(figure(answer, "intercept_low"), 0.2, places=6)
        growing = loads([("4", "4.12"), ("8", "8.24"), ("12", "12.36"), ("16", "16.48")])
        self.assertEqual(growing["call"], "adjust")
        self.assertAlmostEqual(figure(growing, "intercept"), 0.0, places=9)

    def test_the_band_of_the_intercept(self) -> None:
        pairs = [("4", "4.1"), ("8", "8.3"), ("12", "12.3"), ("16", "16.6")]
        answer = loads(pairs, job_profile={"repeat": "10 %"})
        r, i = [4.0, 8.0, 12.0, 16.0], [4.1, 8.3, 12.3, 16.6]
        slope = sum((a - 10) * (b - 10.325) for a, b in zip(r, i, strict=True)) / 80
        cut = 10.325 - slope * 10
        left = sum((b - cut - slope * a) ** 2 for a, b in zip(r, i, strict=True))
        half = student(2) * math.sqrt(left / 2) * math.sqrt(1 / 4 + 100 / 80)
        self.assertAlmostEqual(figure(answer, "intercept"), cut, places=9)
        self.assertAlmostEqual(figure(answer, "intercept_high") - cut, half, places=9)
        # A coarse display leaves more open than the scatter.
        coarse = loads(pairs, job_profile={"repeat": "10 %"}, indicated_division="2 t")
        wide = 1.96 * 2 / math.sqrt(12) * math.sqrt(1 / 4 + 100 / 80)
        self.assertAlmostEqual(figure(coarse, "intercept_high") - cut, wide, places=9)

    def test_loads_that_are_alike_or_few_draw_no_line(self) -> None:
        self.assertNotIn("intercept", loads(self.SPREAD[:3])["results"])
        alike = loads([("10", "10"), ("10.5", "10.5"), ("11", "11"), ("10.2", "10.2")])
        self.assertNotIn("intercept", alike["results"])

    def test_passes_add_up_and_leave_more_open(self) -> None:
        run = {"reference": "9 t", "passes": ["3.01 t", "3.00 t", "3.02 t"]}
        answer = answered("load-comparison", runs=[run, run, run], indicated_division="20 kg")
        self.assertAlmostEqual(answer["results"]["runs"][0]["indicated"]["value"], 9.03, places=9)
        one = 0.02 / math.sqrt(12) / 9
        self.assertAlmostEqual(
            figure(answer, "expanded_uncertainty"), 1.96 * one * math.sqrt(3) / math.sqrt(3) * 100, places=9
        )
        with self.assertRaises(Refused) as refused:
            read(job("load-comparison", runs=[run | {"indicated": "9 t"}]))
        self.assertEqual(refused.exception.refusals[0].path, "inputs.runs[0].passes")
        short = {"reference": "12 t", "passes": ["3 t", "3 t", "3 t"]}
        missed = answered("load-comparison", runs=[short] * 3, plates={"passes_per_load": 4})
        self.assertIn("passes_per_load", [slip["parameter"] for slip in missed["slips"]])

    def test_moving_off_early_and_a_cart_that_was_not_empty_are_faults(self) -> None:
        good = [("4", "4"), ("8", "8"), ("12", "12")]
        self.assertEqual(loads(good, stood_still=True, zero_checked=True)["call"], "leave")
        for name in ("stood_still", "zero_checked"):
            answer = loads(good, **{name: False})
            self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["sanity"]))
            # Too few runs are asked for before that.
            self.assertEqual(codes(loads(good[:2], **{name: False})), ["too-few-runs"])

    def test_the_mean_of_several_loads_says_nothing_of_their_spread(self) -> None:
        mean = {"reference": "10 t", "indicated": "10.2 t", "loads": 5}
        answer = answered("load-comparison", runs=[mean])
        self.assertEqual((answer["call"], codes(answer)), ("keep-testing", ["spread-unknown"]))
        self.assertEqual(codes(answered("load-comparison", runs=[mean], stood_still=False)), ["sanity"])
        mixed = answered("load-comparison", runs=[mean, *runs([("4", "4"), ("8", "8")])])
        self.assertEqual(states(mixed)["averages"], "note")
        self.assertNotIn("spread-unknown", codes(mixed))

    def test_as_left_and_one_freak_are_judged_as_everywhere(self) -> None:
        found = [("4", "4.12"), ("8", "8.24"), ("12", "12.36"), ("16", "17.9")]
        answer = loads(found)
        self.assertEqual(codes(answer), ["not-repeating"])
        self.assertEqual(answer["suggestions"][0]["run"], 3)
        left = answered(
            "load-comparison",
            runs=runs(found[:3]),
            as_left=runs([("4", "4"), ("8", "8.01"), ("12", "12")]),
            factor=1.03,
        )
        self.assertEqual((left["call"], left["as_found"]["call"]), ("leave", "adjust"))

    def test_the_hitch_s_share_is_watched(self) -> None:
        usual = {"hitch_low": "8 %", "hitch_high": "15 %"}
        for share, state in (("7 %", "note"), ("8 %", "pass"), ("16 %", "note")):
            self.assertEqual(states(loads(self.SPREAD, hitch_share=share, **usual))["hitch-share"], state)

    def test_its_limits_are_the_cart_s_or_those_named(self) -> None:
        pairs = [("4", "4.06"), ("8", "8.12"), ("12", "12.18")]
        self.assertEqual(loads(pairs)["call"], "adjust")
        self.assertEqual(loads(pairs, job_profile={"name": "lift-arm"})["call"], "leave")


if __name__ == "__main__":
    unittest.main()
