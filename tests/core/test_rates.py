"""Rate charts and trims: every rule with its figures, and a gate that converges."""

import math
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.jobs import answered, codes, figure, figures, states
from wary.methods import all_methods
from wary.methods.metering.charting import Chart, Tried, Turned, half_turns, suggested_gate
from wary.methods.method import Seen
from wary.simulators.metering import GateSpreader

SETTINGS = [{"setting": n, "revolutions": turns, "seconds": 60} for n, turns in ((1, 6), (2, 11), (3, 16))]


def charted(**more: Any) -> dict[str, Any]:
    inputs = {
        "speeds": ["20 km/h", "30 km/h", "40 km/h"],
        "target_low": "30 kg/km",
        "target_high": "40 kg/km",
        "settings": SETTINGS,
        "catches": [{"net": "16 kg", "revolutions": 10}],
        "gate_readings": ["40 mm", "44 mm"],
    }
    return answered("rate-chart", **(inputs | more))


class RateCharts(unittest.TestCase):
    def test_the_table_is_turns_times_a_turn_over_speed(self) -> None:
        answer = charted()
        # 6 turns a minute of 1.6 kg are 9.6 kg a minute; at 20 km/h a km takes three minutes: 28.8 kg/km.
        self.assertEqual([round(one, 9) for one in figures(answer, "discharges")], [9.6, 17.6, 25.6])
        table = [[round(cell["value"], 9) for cell in row] for row in answer["results"]["table"]]
        self.assertEqual(table[0], [28.8, 19.2, 14.4])
        self.assertEqual(table[2], [76.8, 51.2, 38.4])
        zones = [[cell["value"] for cell in row] for row in answer["results"]["zones"]]
        self.assertEqual(
            zones, [["below", "below", "below"], ["above", "inside", "below"], ["above", "above", "inside"]]
        )
        self.assertAlmostEqual(figure(answer, "gate_opening"), 42, 9)
        self.assertAlmostEqual(figure(answer, "gate_skew"), 4, 9)
        self.assertAlmostEqual(figure(answer, "mass_per_revolution"), 1.6, 9)

    def test_a_cell_inside_is_left_and_the_nearest_to_the_middle_comes_first(self) -> None:
        answer = charted()
        self.assertEqual(answer["call"], "leave")
        # 35.2 at setting 2 and 30 km/h is 0.2 from the middle; 38.4 at setting 3 and 40 km/h is 3.4.
        said = [(one["setting"]["value"], one["speed"]["value"]) for one in answer["results"]["recommended"]]
        self.assertEqual(said, [(2, 30), (3, 40)])
        self.assertNotIn("suggested_gate", answer["results"])

    def test_the_working_cell_decides_where_there_is_one(self) -> None:
        outside = charted(working={"setting": 2, "speed": "20 km/h"})
        self.assertEqual((outside["call"], codes(outside)), ("adjust", ["move-gate"]))
        # 52.8 kg/km there: 42 mm · 35/52.8.
        self.assertAlmostEqual(figure(outside, "suggested_gate"), 42 * 35 / 52.8, 9)
        self.assertEqual(charted(working={"setting": 2, "speed": "30 km/h"})["call"], "leave")

    def test_without_one_the_gate_is_from_the_lowest_setting_at_the_middle_speed(self) -> None:
        high = charted(target_low="300 kg/km", target_high="340 kg/km")
        self.assertAlmostEqual(figure(high, "suggested_gate"), 42 * 320 / 19.2, 6)
        two = charted(target_low="300 kg/km", target_high="340 kg/km", speeds=["20 km/h", "30 km/h"])
        self.assertAlmostEqual(figure(two, "suggested_gate"), 42 * 320 / 28.8, 6)

    def test_with_a_gate_tried_before_it_is_the_straight_line(self) -> None:
        earlier = [{"gate_opening": "50 mm", "mass_per_revolution": "2.2 kg/rev"}]
        answer = charted(working={"setting": 2, "speed": "20 km/h"}, earlier=earlier)
        wanted = 1.6 * 35 / 52.8
        self.assertAlmostEqual(figure(answer, "suggested_gate"), 50 + (wanted - 2.2) * (42 - 50) / (1.6 - 2.2), 6)

    def test_lanes_and_their_width(self) -> None:
        answer = charted(lanes=2, lane_width="3.5 m")
        self.assertAlmostEqual(answer["results"]["table"][0][0]["value"], 14.4, 9)
        # 14.4 kg/km over 3.5 m: a hectare is 10 000/3.5 m long.
        cell = answer["results"]["per_area"][0][0]
        self.assertEqual(cell["unit"], "kg/ha")
        self.assertAlmostEqual(cell["value"], 14.4 / 3.5 * 10, 9)

    def test_turns_that_fall_are_a_fault_and_a_drive_at_its_end_is_noted(self) -> None:
        falling = [*SETTINGS, {"setting": 4, "revolutions": 15, "seconds": 60}]
        self.assertEqual(charted(settings=falling)["call"], "find-fault")
        little = [*SETTINGS, {"setting": 4, "revolutions": 15.6, "seconds": 60}]
        self.assertEqual(charted(settings=little)["call"], "leave")
        end = charted(settings=[*SETTINGS, {"setting": 4, "revolutions": 16.4, "seconds": 60}])
        self.assertEqual((figure(end, "saturated_from"), states(end)["drive"]), (4, "note"))
        self.assertNotIn("saturated_from", charted()["results"])

    def test_what_is_not_there_yet_goes_on(self) -> None:
        self.assertEqual(charted(catches=[])["call"], "keep-testing")
        self.assertEqual(charted(settings=None)["call"], "keep-testing")
        paths = [reason["path"] for reason in answered("rate-chart")["reasons"]]
        self.assertEqual(paths, ["inputs.settings"])
        # Discharges are there before it is said what is wanted.
        unsaid = charted(speeds=None, target_low=None, target_high=None)
        self.assertEqual((unsaid["call"], codes(unsaid)), ("keep-testing", ["say-what-is-wanted"]))
        self.assertEqual(len(figures(unsaid, "discharges")), len(SETTINGS))

    def test_engine_and_preparation_come_first(self) -> None:
        self.assertEqual(codes(charted(engine=1400, engine_low=1700, engine_high=1900)), ["engine"])
        self.assertEqual(charted(engine=1700, engine_low=1700, engine_high=1900)["call"], "leave")
        self.assertEqual(codes(charted(prepared=False)), ["not-prepared"])

    def test_how_many_turns_and_what_the_scale_shows(self) -> None:
        answer = charted(reference_division="0.1 kg", catches=[{"gross": "18 kg", "tare": "2 kg", "revolutions": 10}])
        # R_min = 2·0.1·√(2/12)/(0.01/3) = 24.49, up to 24.5 kg: 15.3 turns, up to 15.5.
        self.assertEqual(figure(answer, "turns_to_catch"), 15.5)
        self.assertAlmostEqual(figure(answer, "shown"), 2 * 0.1 * math.sqrt(2 / 12) / 16 * 100, 9)
        self.assertEqual([half_turns(x) for x in (1.0, 1.01, 1.5, 1.6)], [1.0, 1.5, 1.5, 2.0])

    def test_half_turns_and_seconds_as_a_time(self) -> None:
        rows = [{"setting": 1, "revolutions": 3.5, "seconds": "30 s"}]
        self.assertEqual(figures(charted(settings=rows), "rpms"), [7.0])

    def test_a_season_of_too_much_is_said_in_money(self) -> None:
        answer = charted(working={"setting": 2, "speed": "20 km/h"}, season_distance="1000 km", price_per_tonne=90)
        # 52.8 − 40 = 12.8 kg/km over 1000 km: 12.8 t at 90.
        self.assertTrue(any("12.8 t, which costs 1152" in line for line in answer["plan"]), answer["plan"])

    def test_the_gate_converges_on_a_machine_whose_opening_is_not_in_proportion(self) -> None:
        for seed in range(60):
            machine = GateSpreader(seed, law=1.1 + 0.6 * (seed % 10) / 10)
            gate, earlier = 0.025 + 0.03 * (seed * 7 % 10) / 10, []
            for _ in range(6):
                turn = machine.one_turn(gate)
                settings = [{"setting": s, "revolutions": machine.turns(s), "seconds": 60} for s in (1, 2, 3, 4)]
                answer = charted(
                    settings=settings,
                    catches=[{"net": f"{turn * 10:.3f} kg", "revolutions": 10}],
                    gate_readings=[f"{gate * 1000:.3f} mm"],
                    earlier=earlier or None,
                    working={"setting": 2, "speed": "30 km/h"},
                )
                if answer["call"] == "leave":
                    break
                earlier = [
                    *earlier,
                    {"gate_opening": f"{gate * 1000:.3f} mm", "mass_per_revolution": f"{turn:.6f} kg/rev"},
                ]
                gate = figure(answer, "suggested_gate") / 1000
            self.assertEqual(answer["call"], "leave", seed)

    @given(st.lists(st.floats(1, 50), min_size=1, max_size=5, unique=True), st.floats(0.1, 10))
    def test_what_is_recommended_lies_inside_and_nothing_inside_is_left_out(
        self, rpms: list[float], turn: float
    ) -> None:
        chart = Chart(tuple(Turned(n, rpm) for n, rpm in enumerate(sorted(rpms))), (5.0, 8.0), turn, 1.0, 0.02, 0.05)
        inside = {
            (r, c)
            for r, row in enumerate(chart.table)
            for c, amount in enumerate(row)
            if chart.zone(amount) == "inside"
        }
        self.assertEqual(set(chart.recommended()), inside)

    def test_a_line_through_gates_that_are_the_same_falls_back_to_proportion(self) -> None:
        now = Tried(0.04, 1.6)
        self.assertAlmostEqual(suggested_gate(now, 2.0, 1.0, [Tried(0.04, 1.5)])[0], 0.02, 12)
        self.assertAlmostEqual(suggested_gate(now, 2.0, 1.0, [Tried(0.05, 1.6)])[0], 0.02, 12)

    def test_what_is_drawn_is_the_chart(self) -> None:
        given_ = {"speeds": ["20 km/h"], "target_low": "30 kg/km", "target_high": "40 kg/km", "settings": SETTINGS, "catches": [{"net": "16 kg", "revolutions": 10}], "working": {"setting": 1, "speed": "20 km/h"}}  # fmt: skip
        from wary.job.file import read

        drawn = all_methods()["rate-chart"].draw(read({"method": "rate-chart", "inputs": given_}).given, Seen())
        assert drawn and drawn.shape == "rates"
        self.assertEqual([(row.setting, row.cells[0].zone, row.cells[0].working) for row in drawn.rows], [("1", "below", True), ("2", "above", False), ("3", "above", False)])  # fmt: skip


def trimmed(*rows: tuple[float, float, float], **more: Any) -> dict[str, Any]:
    samples = [{"time": f"{t} s", "vessel_mass": f"{m} kg", "count": c} for t, m, c in rows]
    return answered("feed-trim", **({"mix_value": "10 g/count", "samples": samples} | more))


class Trims(unittest.TestCase):
    def test_on_the_mix_is_left_alone(self) -> None:
        answer = trimmed((0, 100, 0), (2, 99.5, 50), (4, 99, 100))
        self.assertEqual(answer["call"], "leave")
        self.assertAlmostEqual(figure(answer, "measured"), 10, 9)
        self.assertEqual(answer["results"]["at_limit"]["value"], False)

    def test_off_is_trimmed_the_other_way(self) -> None:
        answer = trimmed((0, 100, 0), (4, 98.95, 100))
        # 10.5 g for a count: +5 %, and 10/10.5 − 1 of speed.
        self.assertEqual(answer["call"], "adjust")
        self.assertAlmostEqual(figure(answer, "deviation"), 5, 9)
        self.assertAlmostEqual(figure(answer, "trim"), (10 / 10.5 - 1) * 100, 9)

    def test_beyond_the_band_the_trim_is_held_and_it_is_a_fault(self) -> None:
        answer = trimmed((0, 100, 0), (4, 99.2, 100))
        self.assertEqual((answer["call"], figure(answer, "trim"), answer["results"]["at_limit"]["value"]), ("find-fault", 10, True))  # fmt: skip
        self.assertEqual(trimmed((0, 100, 0), (4, 99.2, 100), band="30 %")["call"], "adjust")
        self.assertEqual(trimmed((0, 100, 0), (4, 100, 100))["call"], "find-fault")

    def test_only_the_window_counts(self) -> None:
        answer = trimmed((0, 100, 0), (10, 97, 200), (14, 96, 300))
        self.assertAlmostEqual(figure(answer, "measured"), 10, 9)
        wide = trimmed((0, 100, 0), (10, 97, 200), (14, 96, 300), window="20 s")
        self.assertAlmostEqual(figure(wide, "measured"), 4000 / 300, 9)

    def test_a_vessel_refilled_or_no_counts_samples_on(self) -> None:
        self.assertEqual(codes(trimmed((0, 100, 0), (2, 120, 50), (4, 119, 100))), ["refilled"])
        self.assertEqual(trimmed((0, 100, 0))["call"], "keep-testing")
        self.assertEqual(trimmed((0, 100, 0), (4, 99, 0))["call"], "keep-testing")
        self.assertEqual(trimmed((0, 100, 0), (9, 99, 100))["call"], "keep-testing")

    def test_samples_out_of_order_are_put_in_order(self) -> None:
        self.assertEqual(trimmed((4, 99, 100), (0, 100, 0))["call"], "leave")

    def test_what_is_missing(self) -> None:
        paths = [reason["path"] for reason in answered("feed-trim")["reasons"]]
        self.assertEqual(paths, ["inputs.mix_value", "inputs.samples"])
