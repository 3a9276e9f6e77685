"""What was put right of vehicles, filling and metering, each with figures of its own."""

import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, figures, states
from wary.machines import all_machines


class Vehicles(unittest.TestCase):
    """V1 to V4, V7, V9, V10."""

    def axles(self, *groups: dict[str, str], **more: Any) -> dict[str, Any]:
        return answered("axle-two-load", groups=list(groups), ticket_division="20 kg", **more)

    FULL = {"empty_ticket": "5000 kg", "heavy_ticket": "9000 kg"}

    def test_a_ticket_without_what_was_shown_is_not_matched(self) -> None:
        answer = self.axles({"name": "drive", **self.FULL})
        self.assertEqual((answer["call"], states(answer)["match-unknown"]), ("leave", "note"))
        self.assertNotIn("and matched", answer["reasons"][0]["text"])
        known = self.axles({"name": "drive", **self.FULL, "empty_shown": "5000 kg", "heavy_shown": "9020 kg"})
        self.assertNotIn("match-unknown", states(known))

    def test_a_proof_on_another_scale_has_what_two_scales_may_differ_by(self) -> None:
        group = {**self.FULL, "proof_ticket": "8000 kg", "proof_shown": "8200 kg"}
        self.assertEqual(self.axles(group, heavy_scale="North", proof_scale="North")["call"], "adjust")
        other = self.axles(group, heavy_scale="North", proof_scale="South")
        self.assertEqual(other["call"], "leave")
        self.assertIn("150 kg", other["reasons"][0]["text"])

    def test_it_may_be_verified_without_any_old_ticket(self) -> None:
        groups = [{"name": "steer", "proof_ticket": "6000 kg", "proof_shown": "6020 kg"}, {"name": "drive", "proof_ticket": "9000 kg", "proof_shown": "9010 kg"}]  # fmt: skip
        answer = answered("axle-two-load", groups=groups)
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["within-limit"]))
        groups[1]["proof_shown"] = "9500 kg"
        off = answered("axle-two-load", groups=groups)
        self.assertEqual((off["call"], codes(off)), ("adjust", ["match-again", "match-again"]))

    def test_what_it_showed_before_it_was_stepped_is_as_found(self) -> None:
        answer = self.axles({**self.FULL, "heavy_before": "9180 kg"})
        self.assertAlmostEqual(figure(answer, "found_error_share"), 2, 9)

    def test_how_much_to_load_is_said_before_the_heavy_ticket(self) -> None:
        answer = self.axles({"name": "drive", "empty_ticket": "5000 kg"}, {"name": "steer", "empty_ticket": "3000 kg"})
        self.assertIn("drive 500 kg, steer 400 kg", " ".join(answer["plan"]))
        small = self.axles({"name": "steer", "empty_ticket": "5000 kg", "heavy_ticket": "5100 kg"})
        self.assertIn("as usual", next(one["text"] for one in small["checks"] if one["code"] == "small-lever"))

    def test_the_margin_in_pounds_and_a_lift_that_is_nudged_after(self) -> None:
        lifts = {"seating_lifts": 10, "empty_lifts": [{"done": True}] * 5, "heavy_lifts": [{"done": True}] * 5}
        answer = answered("lift-repeat", empty_weight="500 lb", heavy_weight="850 lb", **lifts)
        self.assertEqual(figure(answer, "heavy_target"), 900)
        self.assertEqual([one["code"] for one in answer["suggestions"]], ["known-load"])

    def test_the_hitch_load_by_load_and_bushels_beside_masses(self) -> None:
        load = {"reference": "10 t", "indicated": "10 t", "hitch": "2 t", "volume": "400 bu"}
        answer = answered("load-comparison", runs=[load] * 3, hitch_low="5 %", hitch_high="15 %", test_weight="56 lb/bu", full_volume="500 bu")  # fmt: skip
        said = {one["code"]: one for one in answer["checks"]}
        self.assertEqual(
            (said["hitch-share"]["state"], said["volume"]["text"]),
            ("note", "Load 3: 400 bu of 56 lb/bu are 22\u202f400 lb, 80 % full."),
        )

    def test_the_machines_own_estimate_and_what_it_shows_started_anew(self) -> None:
        lifts = [{"load": load, "speed": speed, "raw": raw} for load, speed, raw in (("empty", "slow", 1000), ("empty", "quick", 1100), ("full", "slow", 3000), ("full", "quick", 3180), ("empty", "normal", 1050), ("known", "normal", 2050))]  # fmt: skip
        answer = answered("lift-speed", lifts=lifts, known_load="1000 kg", estimated_load="1200 kg", as_left={"empty": "0 kg", "known": "1010 kg"})  # fmt: skip
        self.assertEqual(answer["questions"][0]["path"], "inputs.known_load")
        self.assertAlmostEqual(figure(answer, "estimate_error"), 20, 9)
        self.assertAlmostEqual(figure(answer, "left_error"), 1, 9)
        first = answered("lift-speed", lifts=lifts[:1], known_load="1000 kg")["results"]
        self.assertEqual((first["next_load"]["value"], first["next_speed"]["value"]), ("empty", "quick"))


class Filling(unittest.TestCase):
    """F1 to F8."""

    PACK = {"target": "1000 g", "over": "10 g", "under": "10 g", "division": "1 g"}

    def tuned(self, *trials: tuple[Any, ...], **more: Any) -> dict[str, Any]:
        rows = []
        for fast, medium, fine, fills, *times in trials:
            made = [{"weight": f"{weight} g"} | ({"fine_time": f"{times[0]} s"} if times else {}) for weight in fills]
            rows.append({"fast": f"{fast} g", "medium": f"{medium} g", "fine": f"{fine} g", "fills": made})
        return answered("fill-tuning", trials=rows, **self.PACK | more)

    def setting(self, answer: dict[str, Any]) -> tuple[float, float]:
        return figure(answer, "suggested_medium"), figure(answer, "suggested_fine")

    def test_heavy_and_alike_with_fine_not_seen_is_the_stage_before(self) -> None:
        answer = self.tuned((300, 100, 20, (1012, 1011, 1013), 0.1))
        self.assertEqual((codes(answer), self.setting(answer)), (["before-fine"], (113, 20)))
        light = self.tuned((300, 100, 20, (988, 989, 987), 0.0))
        # Not seen at all: medium up by the larger of 8 g (erratic) and a quarter of 80 g.
        self.assertEqual((codes(light), self.setting(light)), (["not-seen"], (120, 20)))

    def test_the_next_move_is_divided_by_how_the_last_was_answered(self) -> None:
        # Fine by 12 g more, and the mean went down by 18 g: one and a half for one, so 6/1.5 more.
        answer = self.tuned((300, 150, 20, (1024, 1024, 1024), 1.0), (300, 150, 32, (1006, 1006, 1006), 1.0))
        self.assertEqual(self.setting(answer), (150, 36))
        back = self.tuned((300, 150, 36, (1001, 1001, 1001), 1.0), (300, 150, 32, (1006, 1006, 1006), 1.0))
        self.assertEqual(self.setting(back), (150, 37))
        small = self.tuned((300, 150, 30, (1009, 1009, 1009), 1.0), (300, 150, 32, (1006, 1006, 1006), 1.0))
        self.assertEqual(self.setting(small), (150, 38))

    def test_a_spread_that_is_too_much_where_nothing_is_typed(self) -> None:
        # 0.4·(10 + 10) = 8 g; four divisions are 4 g, one per cent 10 g: the smaller of 8 and 10.
        self.assertEqual(self.tuned((300, 100, 20, (1001, 1002, 1009)))["call"], "leave")
        # Of a pack of 200 g: the larger of 4 g and 2 g, and that is less than 8 g.
        rows = [
            {"fast": "60 g", "medium": "20 g", "fine": "4 g", "fills": [{"weight": f"{g} g"} for g in (199, 200, 204)]}
        ]
        self.assertEqual(codes(answered("fill-tuning", trials=rows, **self.PACK | {"target": "200 g"})), ["scattered"])

    def test_one_fill_that_is_far_off_is_enough_to_go_on_with(self) -> None:
        answer = self.tuned((300, 150, 20, (1030,), 1.0))
        self.assertEqual((codes(answer), self.setting(answer)), (["beside", "probe"], (150, 50)))
        self.assertEqual(self.tuned((300, 150, 20, (1020,), 1.0))["call"], "keep-testing")

    def test_tolerances_may_come_later(self) -> None:
        answer = self.tuned((300, 100, 20, (1012, 1011, 1013)), over=None)
        self.assertEqual((answer["call"], answer["reasons"][0]["path"]), ("keep-testing", "inputs.over"))
        self.assertAlmostEqual(figure(answer, "mean_error_mass"), 12, 9)

    def test_a_bench_weighing_of_one_fill_asks_for_four_more_only_where_it_differs(self) -> None:
        def benched(bench: str) -> dict[str, Any]:
            rows = [{"fast": "300 g", "medium": "100 g", "fine": "20 g", "fills": [{"weight": "1001 g", "bench": bench}, {"weight": "1000 g"}, {"weight": "1001 g"}]}]  # fmt: skip
            return answered("fill-tuning", trials=rows, **self.PACK)

        self.assertEqual(states(benched("1000.4 g"))["bench"], "pass")
        off = benched("995 g")
        self.assertEqual(states(off)["bench"], "note")
        self.assertIn("weigh 4 more", next(one["text"] for one in off["checks"] if one["code"] == "bench"))

    def test_a_dose_may_come_first_and_may_not_be_the_scale(self) -> None:
        doses = {"target": "400 g", "doses_before": ["380 g", "381 g", "379 g"]}
        begun = answered("dose-check", **doses)
        self.assertEqual((begun["call"], codes(begun)), ("keep-testing", ["check-mass-next"]))
        right = answered("dose-check", **doses, check_mass="400 g", readings_before=["400.2 g"])
        self.assertEqual((right["call"], codes(right)), ("find-fault", ["not-the-scale"]))

    GRADES = {
        "limit_kind": "lower",
        "grades": [{"name": "small", "limit": "60 g", "outlet": 1}, {"name": "large", "limit": "90 g", "outlet": 2}],
    }

    def test_rejects_count_in_the_shares_and_none_is_a_word(self) -> None:
        batch = [
            {"grade": "small", "count": 6, "total_mass": "450 g"},
            {"grade": "large", "count": 0},
            {"grade": "reject", "count": 2},
        ]
        answer = answered("grade-check", **self.GRADES, reject_limit="130 g", batch=batch)
        self.assertEqual((answer["call"], figures(answer, "shares")), ("leave", [75, 0, 25]))
        self.assertEqual([one and round(one["value"], 9) for one in answer["results"]["averages"]], [75, None, None])
        self.assertEqual(answered("grade-check", **self.GRADES, reject_limit="none")["call"], "leave")
        unsaid = answered("grade-check", **self.GRADES)
        self.assertEqual((unsaid["call"], unsaid["reasons"][0]["path"]), ("not-ready", "inputs.reject_limit"))

    def test_as_left_and_the_days_before(self) -> None:
        batch = [{"grade": "small", "count": 10, "total_mass": "770 g"}]
        before = [
            {"day": "2031-05-03", "batch": "North", "count": 20, "total_mass": "1400 g"},
            {"batch": "South", "count": 5, "total_mass": "9 kg"},
        ]
        left = [{"name": "small", "limit": "62 g", "outlet": 1}]
        answer = answered(
            "grade-check",
            **self.GRADES,
            reject_limit="130 g",
            batch=batch,
            batch_name="north",
            earlier=before,
            grades_left=left,
        )
        self.assertAlmostEqual(figure(answer, "mean_change"), 10, 9)
        self.assertEqual([row["name"]["value"] for row in answer["results"]["changed"]], ["small, limit"])

    def test_each_kind_tries_its_own_stages_and_supplies_begin_empty(self) -> None:
        tried = {
            key: [row["part"] for row in all_machines()[key].lists["checklist"].rows]
            for key in ("filler", "two-speed-filler", "bag-stand")
        }
        self.assertIn("Medium stage", tried["filler"])
        self.assertNotIn("Fast stage", tried["two-speed-filler"])
        self.assertNotIn("Discharge", tried["bag-stand"])
        for key in tried:
            self.assertTrue(
                all(not row["low"] and not row["high"] for row in all_machines()[key].lists["supplies"].rows), key
            )


class Metering(unittest.TestCase):
    """M2 to M4; M1 stands with the constants."""

    def test_the_controller_counts_by_itself(self) -> None:
        rows = [{"gross": "2.1 kg", "tare": "0.1 kg", "shown_value": f"{value} g/rev"} for value in (100, 100.5)]
        answer = answered("meter-catch", per="revolution", runs=rows, old_value="0.1 kg/rev")
        self.assertEqual(answer["call"], "leave")
        self.assertAlmostEqual(figure(answer, "change_last"), 0.5, 9)

    def test_what_the_controller_is_told_of_the_machine(self) -> None:
        catch = {"gross": "2.5 kg", "tare": "0.5 kg", "amount": 20}
        given = {"per": "revolution", "old_value": "0.1 kg/rev", "runs": [catch, catch], "width": "6 m"}
        self.assertEqual(answered("meter-catch", **given, width_set="6 m")["call"], "leave")
        wrong = answered("meter-catch", **given, width_set="3 m")
        self.assertEqual((wrong["call"], codes(wrong)), ("find-fault", ["set-up"]))
        self.assertEqual(codes(answered("meter-catch", **given, roller="coarse", roller_set="fine")), ["set-up"])

    def test_a_second_tank_has_catches_of_its_own(self) -> None:
        catch = {"gross": "2.5 kg", "tare": "0.5 kg", "amount": 20}
        other = {"old_value": "0.2 kg/rev", "runs": [{"gross": "4.5 kg", "tare": "0.5 kg", "amount": 20}]}
        answer = answered(
            "meter-catch", per="revolution", old_value="0.1 kg/rev", runs=[catch, catch], other_tank=other
        )
        self.assertAlmostEqual(figure(answer, "other_mean"), 0.2, 9)
        self.assertEqual(states(answer)["containers"], "pass")
        swapped = answered("meter-catch", per="revolution", old_value="0.2 kg/rev", runs=[catch, catch], other_tank=other | {"old_value": "0.1 kg/rev"})  # fmt: skip
        self.assertEqual(codes(swapped), ["containers-swapped"])

    def test_a_catch_by_the_vessel_says_whether_its_scale_is_in_date(self) -> None:
        catches = [
            {"start_mass": "100 kg", "end_mass": "98 kg", "amount": 20},
            {"start_mass": "98 kg", "end_mass": "96 kg", "amount": 20},
        ]
        unsaid = answered("meter-catch", per="revolution", old_value="0.1 kg/rev", runs=catches)
        self.assertEqual((unsaid["call"], states(unsaid)["vessel-scale"]), ("leave", "note"))
        self.assertEqual(figure(unsaid, "vessel_now"), 96)
        late = answered("meter-catch", per="revolution", runs=catches, vessel_in_date=False)
        self.assertEqual((late["call"], codes(late)), ("not-ready", ["reference-out-of-date"]))

    CHART = {"settings": [{"setting": 1, "revolutions": 10, "seconds": 60}, {"setting": 2, "revolutions": 12, "seconds": 60}], "catches": [{"net": "20 kg", "revolutions": 10}]}  # fmt: skip

    def test_a_working_speed_becomes_a_column_and_a_setting_has_to_be_counted(self) -> None:
        wanted = {"target_low": "90 kg/km", "target_high": "130 kg/km"}
        answer = answered("rate-chart", **self.CHART, **wanted, working={"setting": 1, "speed": "12 km/h"})
        self.assertEqual((len(answer["results"]["table"][0]), answer["call"]), (1, "leave"))
        uncounted = answered(
            "rate-chart", **self.CHART, **wanted, speeds=["10 km/h"], working={"setting": 5, "speed": "10 km/h"}
        )
        self.assertEqual((uncounted["call"], codes(uncounted)), ("not-ready", ["not-counted"]))

    def test_a_gate_that_no_line_gives_and_one_that_is_very_small(self) -> None:
        given = {
            **self.CHART,
            "speeds": ["10 km/h"],
            "target_low": "20 kg/km",
            "target_high": "24 kg/km",
            "gate_readings": ["60 mm", "60 mm"],
        }
        steep = answered(
            "rate-chart", **given, earlier=[{"gate_opening": "62 mm", "mass_per_revolution": "2.05 kg/rev"}]
        )
        self.assertIn("in proportion", steep["reasons"][0]["text"])
        self.assertIn("material may hang", steep["reasons"][0]["text"])


if __name__ == "__main__":
    unittest.main()
