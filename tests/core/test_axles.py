"""Axle groups: two loads against tickets, matched, and proved by a third weighing."""

import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, figures, job, states
from wary.job.file import Refused, read

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

    def known(self, **inputs: Any) -> dict[str, Any]:
        steer: dict[str, Any] = {"name": "steer", "empty_ticket": "6200 kg", "empty_raw": 7000, "known_slope": "1.1 kg"}
        drive: dict[str, Any] = {
            "name": "drive",
            "heavy_ticket": "16200 kg",
            "heavy_raw": 18000,
            "known_slope": "0.9 kg",
        }
        groups: list[dict[str, Any]] = [steer | inputs.pop("steer", {}), drive | inputs.pop("drive", {})]
        return axles(*groups, **inputs)

    def test_a_known_ratio_of_an_earlier_record_stands_for_the_other_load_as_provisional(self) -> None:
        answer = self.known(ratio_from="record 31")
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["provisional", "unproven"]))
        self.assertIn("record 31", answer["reasons"][0]["text"])
        # ticket = slope · raw + offset: 6200 − 1.1 · 7000, and 16200 − 0.9 · 18000.
        self.assertEqual(figures(answer, "slopes"), [1.1, 0.9])
        for found, offset in zip(figures(answer, "offsets"), (-1500.0, 0.0), strict=True):
            self.assertAlmostEqual(found, offset, 6)
        self.assertNotIn("total_payload", answer["results"])

    def test_a_third_weighing_proves_what_was_set_by_a_known_ratio(self) -> None:
        proof = {"steer": {"proof_ticket": "6600 kg", "proof_shown": "6600 kg"}, "drive": {"proof_ticket": "11000 kg", "proof_shown": "11060 kg"}}  # fmt: skip
        answer = self.known(**proof)
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["within-limit"]))
        proof["drive"]["proof_shown"] = "11400 kg"
        self.assertEqual(self.known(**proof)["call"], "adjust")

    def test_a_known_ratio_needs_the_raw_figure_of_the_one_load_and_gives_way_to_two(self) -> None:
        bare = {"name": "steer", "empty_ticket": "6200 kg", "known_slope": "1.1 kg"}
        self.assertEqual(codes(axles(bare, DRIVE)), ["half-entered"])
        both = STEER | {"empty_raw": 1000, "heavy_raw": 2000, "known_slope": "1.1 kg"}
        answer = axles(both, DRIVE | {"empty_raw": 1000, "heavy_raw": 13000})
        self.assertEqual((codes(answer), figures(answer, "slopes")), (["unproven"], [0.9, 0.9]))

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
