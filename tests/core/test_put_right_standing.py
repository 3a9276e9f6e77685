"""What was put right of scales that stand and of belts, each with figures of its own."""

import unittest

from tests.core.jobs import answered, codes, figure, figures, states
from tests.core.test_put_right import ONE
from wary.machines import all_machines
from wary.methods.cells.substitution_test import reach_of, uncertainty_of


class Cells(unittest.TestCase):
    """C2, C3, C5 to C9."""

    def test_running_is_judged_by_itself(self) -> None:
        cells = [
            {"empty": 100.0, "running_low": 95.0, "running_high": 105.0},
            {"empty": 98.0, "running_low": 40.0, "running_high": 44.0},
        ]
        answer = answered("cell-check", cells=cells)
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["running-balance"]))
        self.assertAlmostEqual(figure(answer, "running_balance"), 0.42, 9)
        cells[1] |= {"running_low": 70.0, "running_high": 74.0}
        self.assertEqual(states(answered("cell-check", cells=cells))["running-balance"], "note")

    def test_two_ranges_have_their_own_divisions(self) -> None:
        rows = {"capacity": "60000 kg", "division": "2 kg", "change_over": "16000 kg", "division_above": "10 kg"}
        settings = [{"name": name, "found": text} for name, text in rows.items()]
        # 16 000/2 = 8 000 and 60 000/10 = 6 000: neither is over 10 000, though 60 000/2 is.
        self.assertNotIn("divisions", states(answered("set-up-sheet", settings=settings)))
        one = [row for row in settings if row["name"] in ("capacity", "division")]
        self.assertEqual(states(answered("set-up-sheet", settings=one))["divisions"], "note")

    def test_an_offset_has_to_say_where_it_is_taken_off(self) -> None:
        answer = answered("known-load", runs=ONE, offset="20 kg")
        self.assertEqual((answer["call"], answer["reasons"][0]["path"]), ("not-ready", "inputs.offset_applied"))
        self.assertNotEqual(answered("known-load", runs=ONE, offset="0 kg")["call"], "not-ready")

    def test_the_least_load_is_told_with_its_rule(self) -> None:
        settings = [{"name": "division", "found": "1 kg"}, {"name": "minimum_load", "found": "10 kg"}]
        answer = answered("set-up-sheet", settings=settings)
        self.assertEqual(states(answer)["minimum-load"], "note")
        self.assertIn("own plate", next(one["text"] for one in answer["checks"] if one["code"] == "minimum-load"))

    def test_pads_and_their_total(self) -> None:
        pads = [
            {"label": name, "indicated": f"{kg} kg", "capacity": "5 t"}
            for name, kg in (("left", 1000), ("right", 1000))
        ]
        given = {"test_load": "1000 kg", "division": "5 kg", "positions": pads}
        self.assertEqual(
            answered("corner-test", **given, total_shown="2010 kg", total_capacity="10 t")["call"], "leave"
        )
        twice = answered("corner-test", **given, total_shown="3000 kg")
        self.assertEqual((twice["call"], codes(twice)), ("find-fault", ["total"]))
        self.assertEqual({slip["likely"] for slip in twice["slips"]}, {"added once"})
        self.assertEqual(codes(answered("corner-test", **given, total_capacity="5 t")), ["capacity"])

    def test_gains_are_turned_into_millivolts_a_volt_and_several_readings_count(self) -> None:
        points = [{"load": "0 kg", "readings": [100.0, 102.0]}, {"load": "10 kg", "readings": [5100.0, 5104.0]}]
        answer = answered(
            "span-points", points=points, adc_gain=128, adc_reference="5 V", excitation="5 V", adc_bits=16
        )
        # 5 V/128/5 V = 7.8125 mV/V; (5102 − 101)/10 = 500.1 counts a kg, 4 counts apart.
        self.assertAlmostEqual(figure(answer, "adc_range"), 7.8125, 9)
        self.assertAlmostEqual(figure(answer, "counts_per_unit"), 500.1, 9)
        self.assertAlmostEqual(figure(answer, "reading_spread"), 4 / 500.1, 9)

    def test_a_data_sheet_in_the_form_that_instruments_ask_for(self) -> None:
        given = {
            "cell_count": 4,
            "capacity": "1 t",
            "sensitivity": "2 mV/V",
            "live_capacity": "2 t",
            "division": "0.5 kg",
        }
        answer = answered(
            "data-sheet-span", **given, mains_frequency="50 Hz", known_load="500 kg", known_load_shown="503 kg"
        )
        self.assertEqual((figure(answer, "characteristic_value"), figure(answer, "nominal_load")), (2, 4000))
        self.assertEqual(answer["results"]["nominal_load"]["unit"], "kg")
        self.assertEqual((figure(answer, "cells_set"), figure(answer, "mains_filter")), (4, 50))
        self.assertAlmostEqual(figure(answer, "known_load_error"), 0.6, 9)


class Substitution(unittest.TestCase):
    """C11: the load growing in steps, and what is not known of it with it."""

    def test_loads_errors_and_uncertainties_round_by_round(self) -> None:
        rounds = [
            {"with_weights": "500.4 kg", "substituted": "501 kg"},
            {"with_weights": "1001.2 kg", "substituted": "1000.8 kg"},
            {"with_weights": "1500.6 kg"},
        ]
        answer = answered("substitution-test", weights="500 kg", weights_uncertainty="0.05 kg", division="0.2 kg", capacity="6 t", zero="0.2 kg", rounds=rounds)  # fmt: skip
        self.assertEqual([round(one, 9) for one in figures(answer, "loads")], [500, 1000.6, 1500.2])
        self.assertEqual([round(one, 9) for one in figures(answer, "errors")], [0.2, 0.4, 0.2])
        wanted = [2 * ((k * 0.025) ** 2 + (2 * k - 1) * 0.04 / 12) ** 0.5 for k in (1, 2, 3)]
        for one, other in zip(figures(answer, "uncertainties"), wanted, strict=True):
            self.assertAlmostEqual(one, other, 12)
        self.assertAlmostEqual(figure(answer, "proven_up_to"), 1500.2, 9)
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["within-limit"]))

    def test_what_was_put_on_instead_has_to_read_alike(self) -> None:
        rounds = [{"with_weights": "500 kg", "substituted": "511 kg"}, {"with_weights": "1011 kg"}]
        answer = answered("substitution-test", weights="500 kg", division="0.5 kg", rounds=rounds)
        self.assertEqual((answer["call"], codes(answer)), ("not-ready", ["not-alike"]))
        lacks = answered(
            "substitution-test", weights="500 kg", division="0.5 kg", rounds=[{"with_weights": "500 kg"}, {}]
        )
        self.assertEqual(
            [one["path"] for one in lacks["reasons"]], ["inputs.rounds[0].substituted", "inputs.rounds[1].with_weights"]
        )

    def test_below_a_quarter_of_the_capacity_it_proves_little(self) -> None:
        given = {"weights": "500 kg", "division": "0.5 kg", "rounds": [{"with_weights": "500 kg"}]}
        little = answered("substitution-test", **given, capacity="3 t")
        self.assertEqual(codes(little), ["within-limit", "proves-little"])
        self.assertEqual(figure(little, "next_material"), 500)
        self.assertEqual(codes(answered("substitution-test", **given, capacity="2 t")), ["within-limit"])

    def test_how_far_the_weights_reach_is_said_beforehand(self) -> None:
        answer = answered(
            "substitution-test", weights="500 kg", weights_uncertainty="0.05 kg", division="0.5 kg", capacity="3 t"
        )
        self.assertIn("With 500 kg you can prove 3000 kg", " ".join(answer["plan"]))
        # Weights that are not better than the limit reach as far as a division lets them: 0.5·k ≤ 1 kg, twice.
        self.assertEqual(reach_of(100, 0.5, 1.0, 0.001, None), 100)
        self.assertAlmostEqual(uncertainty_of(2, 0.5, 1.0), 2 * (0.25 + 3 / 12) ** 0.5, 12)

    def test_errors_off_the_straight_line_are_a_fault_and_another_slope_is_not(self) -> None:
        bent = [
            {"with_weights": "500 kg", "substituted": "500 kg"},
            {"with_weights": "1005 kg", "substituted": "1005 kg"},
            {"with_weights": "1500 kg"},
        ]
        self.assertEqual(
            codes(answered("substitution-test", weights="500 kg", division="0.5 kg", rounds=bent)), ["linearity"]
        )
        steep = [{"with_weights": "505 kg", "substituted": "505 kg"}, {"with_weights": "1010 kg"}]
        answer = answered("substitution-test", weights="500 kg", division="0.5 kg", rounds=steep)
        self.assertEqual((answer["call"], figures(answer, "corrections")), ("adjust", [-5, -10]))


class Belts(unittest.TestCase):
    """B1 to B7."""

    def test_a_zero_in_rates_needs_no_plate_but_the_rated_one(self) -> None:
        answer = answered("belt-zero", rated_rate="300 t/h", idle=["0.2 t/h", "-0.1 t/h"])
        self.assertEqual(answer["call"], "leave")
        self.assertAlmostEqual(figure(answer, "zero_error"), 0.05 / 3, 9)
        self.assertAlmostEqual(figure(answer, "zero_spread"), 0.1, 9)
        minutes = answered("belt-zero", rated_rate="300 t/h", duration_each="2 min", idle=["5 kg", "5 kg"])
        self.assertAlmostEqual(figure(minutes, "zero_error"), 0.05, 9)

    def test_what_changed_since_the_last_zero_as_a_share_of_the_rated_rate(self) -> None:
        # 1 kg on 0.9 m at 2 m/s is 8 t/h of 300.
        answer = answered("belt-zero", rated_rate="300 t/h", idle=["0 t/h", "0 t/h"], stored_zero="40 kg", new_zero="41 kg", idler_spacing="0.9 m", speed="2 m/s")  # fmt: skip
        self.assertAlmostEqual(figure(answer, "zero_shift_of_rated"), 800 / 300, 9)

    WEIGHTS = {
        "test_mass": "60 kg",
        "idler_spacing": "0.9 m",
        "speed": "2 m/s",
        "zero_done": "job",
        "revolutions": 3,
        "factor": 1.25,
    }

    def test_weights_as_left_are_judged_like_the_first(self) -> None:
        answer = answered(
            "belt-test-weight", **self.WEIGHTS, indicated_rate="500 t/h", as_left={"indicated_rate": "480 t/h"}
        )
        self.assertEqual((answer["call"], codes(answer), answer["as_found"]["call"]), ("leave", ["verified"], "adjust"))
        self.assertIn("stays the proof", answer["reasons"][0]["text"])
        again = answered(
            "belt-test-weight", **self.WEIGHTS, indicated_rate="500 t/h", as_left={"indicated_rate": "490 t/h"}
        )
        self.assertEqual(again["call"], "adjust")

    def test_the_factor_that_it_offers_may_stand_for_the_rate(self) -> None:
        # 1.25 to 1.2 by an instrument that multiplies: it read 1.25/1.2 of what it should.
        answer = answered("belt-test-weight", **self.WEIGHTS, offered_factor=1.2)
        self.assertAlmostEqual(figure(answer, "error"), (1.25 / 1.2 - 1) * 100, 9)
        self.assertAlmostEqual(figure(answer, "new_factor"), 1.2, 9)
        both = answered("belt-test-weight", **self.WEIGHTS, indicated_rate="500 t/h", offered_factor=1.21)
        self.assertEqual(states(both)["offered-factor"], "note")

    def test_what_the_instrument_has_against_what_was_measured(self) -> None:
        measured = {"revolution_times": ["30 s", "30 s"], "speed": "2 m/s"}
        answer = answered(
            "belt-length", **measured, found_length="61 m", found_revolution_time="30 s", pulses=100, found_pulses=50
        )
        self.assertEqual(
            [states(answer)[f"found-{one}"] for one in ("length", "revolution-time", "pulses")],
            ["note", "pass", "note"],
        )
        self.assertAlmostEqual(figure(answer, "found_length_error"), 100 / 60, 9)

    def test_a_bar_that_is_not_on_record_is_said_in_its_order(self) -> None:
        given = {key: found for key, found in self.WEIGHTS.items() if key != "factor"}
        self.assertIn(
            "bar in, then the zero with it", answered("belt-test-weight", **given, indicated_rate="480 t/h")["plan"][0]
        )

    def test_one_weigh_idler_begins_with_the_plain_limits(self) -> None:
        belt_scale = all_machines()["belt"]
        self.assertEqual(belt_scale.profile_for({"weigh_idlers": "1"}), "belt-plain")
        self.assertEqual(belt_scale.profile_for({"weigh_idlers": "4"}), "belt-fine")
