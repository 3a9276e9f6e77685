"""The job file: what is refused, with which path, and what is only absent."""

import json
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.jobs import AGREEING, assess, belt, runs
from wary.job.file import Refused, decode, read, schema
from wary.quantities import (
    FAMILY_OF,
    NotAQuantity,
    from_si,
    ladder_step,
    percent_shown,
    quantity,
    round_half_up,
    shown,
    to_si,
)


def refused(document: Any) -> dict[str, str]:
    try:
        read(document)
    except Refused as refusal:
        return {row.path: row.text for row in refusal.refusals}
    return {}


class Refusals(unittest.TestCase):
    def test_every_malformed_field_is_named_at_once(self) -> None:
        document = belt(
            runs=[
                {"reference": "14 m", "indicated": "20 t"},
                {"reference": "20 t", "gross": "30 t", "indicated": 20},
                {"gross": "30 t", "tare": "-1 t", "zeroed": "yes", "indicated": "20t", "colour": "grey"},
                "21 t",
            ],
            factor="1.14",
            factor_decimals=-1,
            direction="times",
            speed="2 m/s",
            job_profile={"accept": "0.5", "minimum_runs": 0, "name": "belt"},
            job_occasion="weekly",
        )
        found = refused(document)
        self.assertEqual(
            set(found),
            {
                "inputs.runs[0].reference", "inputs.runs[1].gross", "inputs.runs[1].indicated", "inputs.runs[2].tare",
                "inputs.runs[2].zeroed", "inputs.runs[2].indicated", "inputs.runs[2].colour", "inputs.runs[3]",
                "inputs.factor", "inputs.factor_decimals", "inputs.direction", "inputs.speed",
                "profile.accept", "profile.minimum_runs", "profile.name", "occasion",
            },
        )  # fmt: skip
        for text in found.values():
            self.assertIn("expected", text)

    def test_what_is_wrong_is_said(self) -> None:
        for text, says in (
            ("14 m", "is a length"), ("14", "no unit"), (14, "no unit"), ("t", "without a number"), ("1e999 t", "finite"),
            ("12,4 t", "decimal comma"), ("14t", "no space"), ("", "empty"), ("14 stone", "not a unit known"),
            ("nan t", "cannot be read"), (True, "not a quantity"), (["14 t"], "not a quantity"), ("12 lb 16 oz", "below 16"),
        ):  # fmt: skip
            found = refused(belt(runs=[{"reference": text, "indicated": "1 t"}]))
            self.assertIn(says, found.get("inputs.runs[0].reference", ""), text)

    def test_a_run_says_a_thing_once(self) -> None:
        for run, path in (
            ({"reference": "1 t", "gross": "2 t"}, "gross"),
            ({"reference": "1 t", "tare": "2 t"}, "tare"),
            ({"gross": "2 t", "tare": "1 t", "zeroed": True}, "tare"),
            ({"indicated": "1 t", "total_start": "2 t"}, "total_start"),
            ({"indicated": "1 t", "total_end": "2 t"}, "total_end"),
        ):
            for name in ("runs", "as_left"):
                self.assertEqual(list(refused(belt(**{name: [run]}))), [f"inputs.{name}[0].{path}"])
        self.assertEqual(refused(belt(runs=[{"gross": "2 t", "tare": "1 t", "zeroed": False, "indicated": "1 t"}])), {})

    def test_setting_aside_wants_a_reason_in_words(self) -> None:
        for reason in (True, "", "  ", "3", 3, ["slipped"]):
            self.assertIn("inputs.runs[0].set_aside", refused(belt(runs=[{"set_aside": reason}])), reason)
        self.assertEqual(refused(belt(runs=[{"set_aside": "belt slipped"}])), {})

    def test_a_run_set_aside_is_still_checked_for_form(self) -> None:
        found = refused(belt(runs=[{"reference": "14 m", "set_aside": "belt slipped"}]))
        self.assertEqual(list(found), ["inputs.runs[0].reference"])

    def test_lists_blocks_and_the_frame_of_the_file(self) -> None:
        self.assertIn("inputs.runs", refused(belt(runs="21 t")))
        self.assertIn("inputs.plates", refused(belt(plates="0.9 m")))
        self.assertIn("inputs.plates.idlers", refused(belt(plates={"idlers": 2})))
        self.assertIn("inputs", refused({"method": "belt-material-test", "inputs": []}))
        self.assertEqual(
            list(refused({"format": "a/b", "version": 2, "method": "guess"})), ["format", "version", "method"]
        )
        self.assertEqual(list(refused([])), [""])
        for limit in ({"larger": ["1 %"]}, {"least": ["1 %", "2 kg"]}, {"larger": "1 %"}, 1, "1 m", "-1 %", {}):
            self.assertIn("profile.accept", refused(belt(job_profile={"accept": limit})), limit)
        self.assertIn("profile.repeat", refused(belt(job_profile={"repeat": "5 kg"})))

    def test_what_is_absent_is_never_refused(self) -> None:
        for document in ({}, {"method": "belt-material-test"}, {"inputs": {}}, belt(runs=[{}]), belt(profile=None)):
            self.assertEqual(refused(document), {})
            self.assertEqual(assess(document)["call"], "not-ready")

    def test_text_that_is_not_json_or_says_a_key_twice(self) -> None:
        for text in ("{", "", "[" * 100_000, '{"version": 1' + "0" * 5000 + "}", '{"method": "a", "method": "b"}'):
            with self.assertRaises(Refused):
                decode(text)
        self.assertIn("inputs.factor", refused(decode('{"method": "belt-material-test", "inputs": {"factor": NaN}}')))
        self.assertIn("inputs.factor", refused(decode('{"method": "belt-material-test", "inputs": {"factor": 1e999}}')))

    @given(st.recursive(st.none() | st.booleans() | st.floats() | st.text(), lambda inner: st.lists(inner) | st.dictionaries(st.sampled_from(["runs", "reference", "gross", "profile", "accept", "inputs", "x"]), inner), max_leaves=12))  # fmt: skip
    def test_nothing_that_json_can_hold_breaks_the_reader(self, found: Any) -> None:
        for document in (
            found,
            {"method": "belt-material-test", "inputs": found},
            belt(runs=found),
            belt(runs=[found]),
        ):
            try:
                json.dumps(read(document).assess().as_json(), allow_nan=False)
            except Refused as refusal:
                self.assertTrue(all(row.text for row in refusal.refusals))


class Extremes(unittest.TestCase):
    def test_figures_too_far_apart_for_arithmetic_still_get_an_answer(self) -> None:
        answer = assess(belt(runs=[{"reference": "1e-300 kg", "indicated": "1e300 kg"}] * 3))
        self.assertEqual(answer["call"], "find-fault")
        json.dumps(answer, allow_nan=False)


class Quantities(unittest.TestCase):
    def test_the_units_are_what_their_definitions_say(self) -> None:
        for text, family, si in (
            ("1 lton", "mass", 1016.0469088), ("1 ston", "mass", 907.18474), ("5 lb 3 oz", "mass", 5.1875 * 0.45359237),
            ("3 ft", "length", 0.9144), ("1 mph", "speed", 0.44704), ("3.6 t/h", "rate", 1.0), ("212 degF", "temperature", 373.15),
            ("1 lb/ft", "mass per length", 1.488163943569554), ("1 psi", "pressure", 6894.757293168), ("50 %", "percentage", 0.5),
            ("1 lb/ac", "mass per area", 0.45359237 / 4046.8564224), ("2 mV/V", "signal", 0.002), ("-.5 kg", "mass", -0.5),
        ):  # fmt: skip
            self.assertAlmostEqual(quantity(text, family).si, si, 9, text)

    def test_every_unit_goes_to_si_and_back(self) -> None:
        for unit in FAMILY_OF:
            self.assertAlmostEqual(from_si(to_si(12.5, unit), unit), 12.5, 9, unit)
        with self.assertRaises(KeyError):
            to_si(1, "stone")

    def test_a_mass_is_no_length(self) -> None:
        with self.assertRaises(NotAQuantity):
            quantity("5 lb 3 oz", "length")

    def test_figures_for_sentences(self) -> None:
        self.assertEqual(
            [shown(21.340001), shown(-1740), shown(12345.6), shown(0)], ["21.34", "−1740", "12\u202f346", "0"]
        )
        self.assertEqual([percent_shown(0.014), percent_shown(-0.00006), percent_shown(0.005, sign=True)], ["1.40 %", "−0.006 %", "+0.50 %"])  # fmt: skip
        self.assertEqual([round_half_up(1.26685, 4), round_half_up(0.125, 2)], [1.2669, 0.13])
        self.assertEqual([ladder_step(0.011), ladder_step(0.02), ladder_step(3), ladder_step(70)], [0.02, 0.02, 5, 100])


class Schema(unittest.TestCase):
    def test_it_names_every_input_of_the_method_and_allows_no_other(self) -> None:
        whole = schema()
        inner = whole["$defs"]["belt-material-test.inputs"]
        self.assertFalse(inner["additionalProperties"])
        self.assertIn("test_weight_factor", inner["properties"])
        json.dumps(whole)


class Beside(unittest.TestCase):
    def test_notes_on_amount_duration_and_rate(self) -> None:
        rows = [{**run, "duration": "2 min"} for run in runs(AGREEING)]
        document = belt(
            runs=rows,
            reference_division="100 kg",
            rated_rate="400 t/h",
            revolution_time="50 s",
            factor=1.14205,
            factor_decimals=4,
        )
        states = {check["code"]: check["state"] for check in assess(document)["checks"]}
        # R_min 34.7 t for 0.5 %; 120 s are 2.4 turns; 82.94 t in 8 min are 622 t/h.
        wanted = {"zero-first": "pass", "enough-weighed": "note", "three-revolutions": "note", "ten-minutes": "note"}
        self.assertEqual(states, wanted | {"rate-in-range": "note", "factor-decimals": "note"})

    def test_the_plan_says_what_to_arrange(self) -> None:
        document = belt(rated_rate="350 t/h", revolution_time="45 s", reference_division="20 kg", reference_readings=2)
        plan = " ".join(assess(document)["plan"])
        # 2·20·√(2/12)/(0.005/3) = 9798 kg → 9.8 t; ten minutes at 245 t/h are 40.8 t.
        self.assertIn("9800 kg", plan)
        self.assertIn("40.8 t", plan)

    def test_no_amount_suffices_for_a_poor_reference(self) -> None:
        document = belt(AGREEING, reference_division="20 kg", reference_uncertainty="0.2 %")
        self.assertIn("No amount suffices", " ".join(assess(document)["plan"]))
        self.assertNotIn("smallest_amount", assess(document)["results"])
