"""Belt length, zero, and test weights."""

import math
import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, states
from tests.core.test_document import refused
from wary.methods.belts.arithmetic import hovers, whole_revolutions


class BeltLength(unittest.TestCase):
    def test_length_from_speed_and_time(self) -> None:
        answer = answered("belt-length", revolution_times=["12.4 s", "12.5 s", "12.45 s"], speed="2 m/s", pulses=20)
        self.assertEqual(answer["call"], "leave")
        self.assertAlmostEqual(figure(answer, "revolution_time"), 12.45, 9)
        self.assertAlmostEqual(figure(answer, "belt_length"), 24.9, 9)
        self.assertAlmostEqual(figure(answer, "revolution_spread"), 0.1 / 12.45 * 100, 9)
        self.assertEqual(figure(answer, "whole_revolutions"), 3)
        self.assertAlmostEqual(figure(answer, "length_to_key"), 74.7, 9)
        self.assertAlmostEqual(figure(answer, "pulses_per_length"), 20 / 24.9, 9)

    def test_length_from_the_pulley(self) -> None:
        given = {
            "revolution_times": ["30 s"],
            "pulley_diameter": "500 mm",
            "belt_thickness": "10 mm",
            "pulley_turns": 38,
        }
        answer = answered("belt-length", **given)
        self.assertAlmostEqual(figure(answer, "belt_length"), math.pi * 0.51 * 38, 9)
        self.assertAlmostEqual(figure(answer, "belt_speed"), math.pi * 0.51 * 38 / 30, 9)
        self.assertEqual(figure(answer, "whole_revolutions"), 1)

    def test_revolutions_that_differ_are_a_fault_and_slow_pulses_a_note(self) -> None:
        slips = answered("belt-length", revolution_times=["30 s", "30.4 s"], speed="2 m/s")
        self.assertEqual((slips["call"], codes(slips)), ("find-fault", ["sanity"]))
        slow = answered("belt-length", revolution_times=["30 s"], speed="2 m/s", pulses=10)
        self.assertEqual((slow["call"], states(slow)["pulses"]), ("leave", "note"))

    def test_what_is_missing(self) -> None:
        self.assertEqual(answered("belt-length")["call"], "not-ready")
        half = answered("belt-length", revolution_times=["30 s"], pulley_diameter="0.5 m")
        self.assertEqual(half["reasons"][0]["path"], "inputs.pulley_turns")

    def test_whole_revolutions_last_half_a_minute(self) -> None:
        self.assertEqual([whole_revolutions(t) for t in (29.9, 30, 31, 7, 10)], [2, 1, 1, 5, 3])


ZERO = {"rated_rate": "360 t/h", "revolution_time": "30 s"}


def zero(*idle: float, **more: Any) -> dict[str, Any]:
    """360 t/h is 100 kg/s: one revolution at the rated rate would carry 3000 kg."""
    return answered("belt-zero", **ZERO | {"idle": [f"{i} kg" for i in idle]} | more)


class BeltZero(unittest.TestCase):
    def test_a_zero_that_holds(self) -> None:
        answer = zero(1.5, 2.1, stored_zero="41 kg", new_zero="41.5 kg")
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["within-limit"]))
        self.assertAlmostEqual(figure(answer, "zero_error"), 0.06, 9)
        self.assertAlmostEqual(figure(answer, "zero_rate"), 0.216, 9)
        self.assertAlmostEqual(figure(answer, "zero_spread"), 0.02, 9)
        self.assertAlmostEqual(figure(answer, "zero_shift"), 0.5, 9)
        self.assertAlmostEqual(figure(answer, "zero_shift_share"), 50 / 41, 9)

    def test_store_confirm_and_one_reading_is_too_few(self) -> None:
        self.assertEqual(codes(zero(6, 6.5)), ["store-zero"])
        self.assertEqual(zero(-6, -6.5)["call"], "adjust")
        self.assertEqual(zero(6)["call"], "keep-testing")
        self.assertEqual(zero(12, 13, revolutions_each=2)["call"], "adjust")
        self.assertEqual(zero(6, 6, revolutions_each=2)["call"], "leave")

    def test_readings_that_come_and_go_are_a_fault(self) -> None:
        answer = zero(-2, 2)
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["not-repeating"]))
        self.assertEqual(zero(-1.5, 1.5)["call"], "leave")

    def test_a_zero_that_jumped_sends_one_to_look_but_not_after_a_repair(self) -> None:
        risen = zero(6, 6.2, stored_zero="40 kg", new_zero="43 kg")
        self.assertEqual((risen["call"], codes(risen)), ("find-fault", ["sanity"]))
        self.assertIn("Build-up", risen["look"][0])
        self.assertEqual(zero(6, 6.2, stored_zero="40 kg", new_zero="42 kg")["call"], "adjust")
        fallen = zero(6, 6.2, stored_zero="40 kg", new_zero="36 kg")
        self.assertIn("cleaned", fallen["look"][0])
        for occasion in ("first", "repair"):
            self.assertEqual(
                zero(6, 6.2, stored_zero="40 kg", new_zero="60 kg", job_occasion=occasion)["call"], "adjust"
            )

    def test_earlier_zeros_say_what_to_expect(self) -> None:
        history = ["40 kg", "41 kg", "40 kg", "41 kg"]
        answer = zero(1, 1, history=history, new_zero="43 kg")
        spread = math.sqrt(1 / 3)
        self.assertAlmostEqual(figure(answer, "expected_zero_low"), 40.5 - 3 * spread, 9)
        self.assertAlmostEqual(figure(answer, "expected_zero_high"), 40.5 + 3 * spread, 9)
        self.assertEqual(answer["call"], "find-fault")
        self.assertNotIn("expected_zero_low", zero(1, 1, history=history[:3])["results"])

    def test_part_revolutions_are_refused(self) -> None:
        self.assertIn("inputs.revolutions_each", refused({"method": "belt-zero", "inputs": {"revolutions_each": 1.5}}))

    def test_the_total_over_a_revolution_hovers_or_creeps(self) -> None:
        round_and_back = [f"{kg} kg" for kg in (100, 103, 105, 102, 98, 97, 100)]
        self.assertEqual(states(zero(1, 1, trace=round_and_back))["hovers"], "pass")
        onward = [f"{100 + kg} kg" for kg in range(8)]
        self.assertEqual(states(zero(1, 1, trace=onward))["hovers"], "note")
        self.assertNotIn("hovers", states(zero(1, 1, trace=onward[:3])))

    def test_a_zero_that_moved_says_what_usually_moves_it(self) -> None:
        moved = zero(1, 1, stored_zero="40 kg", new_zero="41 kg")
        self.assertEqual((moved["call"], states(moved)["zero-moved"]), ("leave", "note"))
        self.assertNotIn("zero-moved", states(zero(1, 1, stored_zero="40 kg", new_zero="40.2 kg")))

    def test_hovering_and_creeping(self) -> None:
        self.assertTrue(hovers([0, 2, -1, 1, 0.2]))
        self.assertFalse(hovers([0, 1, 2, 3, 4]))


WEIGHTS: dict[str, Any] = {
    "weight_kind": "hung", "test_mass": "60 kg", "idler_spacing": "1.2 m", "speed": "2 m/s", "indicated_rate": "366 t/h",
    "revolutions": 3, "zero_done": "job", "factor": 1.2, "factor_decimals": 4,
}  # fmt: skip


def weighed(**more: Any) -> dict[str, Any]:
    given = WEIGHTS | more
    return answered("belt-test-weight", **{key: found for key, found in given.items() if found is not None})


class BeltTestWeight(unittest.TestCase):
    def test_expected_rate_and_the_new_factor(self) -> None:
        answer = weighed()
        self.assertEqual((answer["call"], codes(answer)), ("adjust", ["outside-limit"]))
        self.assertEqual(figure(answer, "effective_mass"), 60)
        self.assertAlmostEqual(figure(answer, "load_per_length"), 50, 9)
        self.assertAlmostEqual(figure(answer, "expected_rate"), 360, 9)
        self.assertAlmostEqual(figure(answer, "error"), 100 / 60, 9)
        self.assertEqual(figure(answer, "new_factor"), round(1.2 * 360 / 366, 4))

    def test_within_the_limit_it_was_a_verification(self) -> None:
        answer = weighed(indicated_rate="361 t/h")
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["verified"]))

    def test_the_carrier_counts_unless_the_zero_was_taken_with_it(self) -> None:
        self.assertEqual(figure(weighed(carrier_mass="5 kg"), "effective_mass"), 65)
        self.assertEqual(figure(weighed(carrier_mass="5 kg", carrier_zeroed=True), "effective_mass"), 60)

    def test_a_chain_gives_load_per_length_directly(self) -> None:
        answer = weighed(weight_kind="chain", test_mass=None, chain_mass_per_length="50 kg/m", weigh_idlers=2)
        self.assertAlmostEqual(figure(answer, "effective_mass"), 120, 9)
        self.assertAlmostEqual(figure(answer, "expected_rate"), 360, 9)

    def test_a_total_over_a_time(self) -> None:
        answer = weighed(indicated_rate=None, indicated_total="12.2 t", duration="2 min")
        self.assertAlmostEqual(figure(answer, "error"), 100 / 60, 9)

    def test_the_checks_in_their_order(self) -> None:
        self.assertEqual(codes(weighed(zero_done=None)), ["zero-first"])
        self.assertEqual(codes(weighed(zero_done="earlier", revolutions=1)), ["zero-first"])
        few = weighed(revolutions=2.5)
        self.assertEqual((few["call"], codes(few)), ("keep-testing", ["more-revolutions"]))
        # What the readings show is said before more of them are asked for.
        self.assertEqual(codes(weighed(revolutions=2.5, live_weight="70 kg")), ["live-weight"])
        self.assertEqual(codes(weighed(revolutions=None)), ["more-revolutions"])
        live = weighed(live_weight="62 kg")
        self.assertEqual((live["call"], codes(live)), ("find-fault", ["live-weight"]))
        self.assertAlmostEqual(figure(live, "live_error"), 100 / 30, 9)

    def test_a_raw_live_weight_feels_the_incline(self) -> None:
        raw = f"{60 * math.cos(math.radians(20))!r} kg"
        answer = weighed(angle="20 deg", live_weight=raw, live_is="raw")
        self.assertAlmostEqual(figure(answer, "live_error"), 0, 9)
        self.assertEqual(weighed(angle="20 deg", live_weight=raw)["call"], "find-fault")

    def test_implausible_lists_the_spacing_with_its_own_power(self) -> None:
        # Spacing typed 0.9, really 1.2: the expected rate is taken a third too high, k = 1.2/0.9.
        answer = weighed(idler_spacing="0.9 m", indicated_rate="360 t/h")
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["implausible"]))
        self.assertIn(("idler_spacing", "1.2 m"), [(slip["parameter"], slip["likely"]) for slip in answer["slips"]])
        self.assertEqual(weighed(indicated_rate="300 t/h", job_occasion="first")["call"], "adjust")
        self.assertEqual(codes(weighed(indicated_rate="0 t/h")), ["implausible"])

    def test_missing_and_no_load(self) -> None:
        paths = [reason.get("path") for reason in answered("belt-test-weight", zero_done="job")["reasons"]]
        self.assertEqual(paths, ["inputs.test_mass", "inputs.idler_spacing", "inputs.speed", "inputs.indicated_rate"])
        self.assertEqual(codes(weighed(test_mass="0 kg")), ["no-load"])
