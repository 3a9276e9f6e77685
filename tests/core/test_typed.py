"""What a person types at a screen, as a job file would write it; and what every method must hold."""

import json
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.jobs import answered, assess, job
from tests.core.test_document import refused
from wary.job.file import Refused, read
from wary.methods import all_methods
from wary.methods.method import Seen
from wary.methods.steps import Listed, Sheet, Tally
from wary.methods.tree import spec
from wary.quantities import FAMILIES, quantity
from wary.typed import as_in_a_file


class TypedText(unittest.TestCase):
    def test_what_people_type_is_understood(self) -> None:
        for typed, unit, written in (
            ("12.4", "t", "12.4 t"), ("12,4", "t", "12.4 t"), (" 12.4 ston", "t", "12.4 ston"), ("12.4kg", "t", "12.4 kg"),
            ("12 lb 6 oz", "kg", "12 lb 6 oz"), ("12lbs 6oz", "kg", "12 lb 6 oz"), ("1 740", "kg", "1740 kg"),
            ("−0.4", "kg", "-0.4 kg"), ("3 tonnes", "kg", "3 t"), ("1e3", "kg", "1e3 kg"),
        ):  # fmt: skip
            self.assertEqual(as_in_a_file(typed, "mass", unit), written, typed)
        self.assertEqual(as_in_a_file("5,4", "angle", "deg"), "5.4 deg")
        self.assertEqual(as_in_a_file("5°", "angle", "deg"), "5 deg")

    def test_plain_numbers_words_and_readings(self) -> None:
        self.assertEqual(as_in_a_file("1,1420", "number"), 1.142)
        self.assertEqual(as_in_a_file("4", "integer"), 4)
        self.assertIs(as_in_a_file("yes", "boolean"), True)
        self.assertEqual(as_in_a_file("hung", "word"), "hung")
        self.assertEqual(as_in_a_file("8012", "reading"), 8012.0)
        self.assertEqual(as_in_a_file("0.21", "reading", "mV/V"), "0.21 mV/V")

    def test_what_cannot_be_understood_is_handed_on_as_it_is(self) -> None:
        for typed in ("about 12", "12,4,5", "12 stone", "", "t"):
            self.assertEqual(as_in_a_file(typed, "mass", "kg"), typed)

    @given(st.floats(0.001, 1e6), st.sampled_from(FAMILIES["mass"]))
    def test_a_figure_with_a_comma_is_the_figure_with_a_point(self, value: float, unit: str) -> None:
        point = f"{value:.3f}"
        written = as_in_a_file(point.replace(".", ","), "mass", unit)
        self.assertEqual(quantity(written, "mass").value, float(point))


# For each method: inputs that give an answer, and the call that they give.
ANSWERED: dict[str, tuple[dict[str, Any], str]] = {
    "axle-two-load": ({"groups": [{"empty_ticket": "5 t", "heavy_ticket": "9 t"}]}, "leave"),
    "constant-catch": ({"runs": [{"constant": 8000, "controller": "100 kg", "net": "100 kg"}], "reference_division": "0.1 kg"}, "leave"),
    "density-check": ({"volume": "10 L", "fills": [{"net": "9 kg"}, {"net": "9 kg"}], "density_keyed": "0.9 kg/L"}, "leave"),
    "feed-trim": (
        {"mix_value": "10 g/count", "samples": [{"time": "0 s", "vessel_mass": "100 kg", "count": 0}, {"time": "4 s", "vessel_mass": "99 kg", "count": 100}]},
        "leave",
    ),
    "meter-catch": ({"per": "revolution", "old_value": "0.1 kg/rev", "runs": [{"gross": "2.5 kg", "tare": "0.5 kg", "amount": 20}] * 2}, "leave"),
    "rate-chart": (
        {"speeds": ["10 km/h"], "target_low": "90 kg/km", "target_high": "110 kg/km", "settings": [{"setting": 1, "revolutions": 10, "seconds": 60}], "catches": [{"net": "16.67 kg", "revolutions": 10}], "gate_readings": ["40 mm", "42 mm"]},
        "leave",
    ),
    "dose-check": ({"check_mass": "400 g", "readings_before": ["400 g"]}, "leave"),
    "fill-check": (
        {"target": "1 kg", "over": "10 g", "under": "10 g", "division": "1 g", "bench_division": "0.1 g", "samples": [{"bench": "1001 g", "machine": "1001 g"}] * 6},
        "leave",
    ),
    "fill-precheck": ({"parts": [{"name": "gate", "as_expected": True}], "supplies": [{"name": "air", "read": 6}]}, "leave"),
    "fill-tuning": (
        {"target": "1 kg", "over": "10 g", "under": "10 g", "division": "1 g", "trials": [{"fast": "300 g", "medium": "100 g", "fine": "20 g", "fills": [{"weight": "1001 g"}] * 3}]},
        "leave",
    ),
    "grade-check": (
        {"limit_kind": "lower", "reject_limit": "130 g", "grades": [{"name": "small", "limit": "60 g", "outlet": 1}, {"name": "large", "limit": "90 g", "outlet": 2}], "batch": [{"grade": "small", "count": 4, "total_mass": "280 g"}]},
        "leave",
    ),
    "lift-repeat": (
        {"empty_weight": "200 kg", "heavy_weight": "340 kg", "seating_lifts": 10, "empty_lifts": [{"done": True}] * 5, "heavy_lifts": [{"done": True}] * 5},
        "leave",
    ),
    "lift-speed": (
        {"known_load": "1 t", "lifts": [{"load": load, "speed": speed, "raw": raw} for load, speed, raw in (("empty", "slow", 10), ("empty", "quick", 11), ("full", "slow", 30), ("full", "quick", 31), ("empty", "normal", 10), ("known", "normal", 20))]},
        "leave",
    ),
    "load-comparison": ({"runs": [{"reference": "4 t", "indicated": "4 t"}] * 3}, "leave"),
    "belt-length": ({"revolution_times": ["30 s"], "speed": "2 m/s"}, "leave"),
    "belt-material-test": ({"zero_done": "job", "runs": [{"reference": "20 t", "indicated": "20.01 t"}] * 3}, "leave"),
    "belt-test-weight": (
        {"test_mass": "60 kg", "idler_spacing": "1.2 m", "speed": "2 m/s", "indicated_rate": "360 t/h", "revolutions": 4, "zero_done": "today"},
        "leave",
    ),
    "belt-zero": ({"rated_rate": "360 t/h", "revolution_time": "30 s", "idle": ["1 kg", "1 kg"]}, "leave"),
    "cell-check": ({"cells": [{"capacity": "1 t", "sensitivity": "2 mV/V"}]}, "leave"),
    "corner-test": ({"test_load": "20 kg", "division": "1 g", "positions": [{"indicated": "20 kg"}] * 4}, "leave"),
    "data-sheet-span": ({"cell_count": 4, "capacity": "1 t", "sensitivity": "2 mV/V", "live_capacity": "2 t"}, "leave"),
    "known-load": ({"runs": [{"reference": "2 t", "indicated": "2 t"}]}, "leave"),
    "output-check": ({"full_load": "8 t", "points": [{"load": "4 t", "measured": "12 mA"}]}, "leave"),
    "set-up-sheet": ({"settings": [{"name": "filter", "found": "4"}]}, "leave"),
    "substitution-test": (
        {"weights": "500 kg", "division": "0.5 kg", "rounds": [{"with_weights": "500 kg", "substituted": "500 kg"}, {"with_weights": "1000 kg"}]},
        "leave",
    ),
    "span-points": ({"points": [{"load": "0 kg", "raw": 0}, {"load": "5 kg", "raw": 9000}]}, "leave"),
    "zero-span": (
        {"capacity": "1.5 t", "division": "0.5 kg", "test_load": "400 kg", "passes": [{"zero": "0 kg", "span": "400 kg"}]},
        "leave",
    ),
}  # fmt: skip


class EveryMethod(unittest.TestCase):
    def test_each_answers_and_nothing_missing_is_ever_a_refusal(self) -> None:
        self.assertEqual(set(ANSWERED), set(all_methods()))
        for key, (inputs, call) in ANSWERED.items():
            self.assertEqual(answered(key, **inputs)["call"], call, key)
            nothing = assess({"method": key})
            self.assertEqual(nothing["call"], "not-ready", key)
            self.assertTrue(all(reason["text"] for reason in nothing["reasons"]), key)

    def test_without_any_one_of_its_inputs_it_still_answers(self) -> None:
        """What is not there is asked for by its path, or the answer is the one that it was without it; never a fault."""
        asked_for = 0
        for key, (inputs, call) in ANSWERED.items():
            for absent in inputs:
                answer = answered(key, **{name: found for name, found in inputs.items() if name != absent})
                missing = [one.get("path", "") for one in answer["reasons"] if one["code"] == "missing"]
                named = any(path.partition(".")[2].startswith(absent) for path in missing)
                asked_for += named
                self.assertTrue(named or not missing, (key, absent, missing))
                self.assertTrue(answer["reasons"] or answer["call"] == call, (key, absent))
                json.dumps(answer, allow_nan=False)
        self.assertGreater(asked_for, len(ANSWERED))

    def test_an_overdue_reference_stops_each_of_them(self) -> None:
        for key, (inputs, _) in ANSWERED.items():
            late = {"name": "Weights", "due": "2031-04-30"}
            answer = answered(key, **inputs, job_date="2031-05-01", job_references=[late])
            self.assertEqual(answer["call"], "not-ready", key)
            self.assertIn("reference-out-of-date", [reason["code"] for reason in answer["reasons"]], key)

    def test_an_unknown_key_is_refused_by_its_path(self) -> None:
        for key in ANSWERED:
            self.assertIn("inputs.colour", refused(job(key, colour="grey")), key)

    def test_a_quantity_of_another_kind_is_refused_wherever_it_stands(self) -> None:
        wrong = {"mass": "3 m", "length": "3 kg", "time": "3 kg", "rate": "3 kg", "speed": "3 kg", "signal": "3 kg",
                 "current": "3 kg", "voltage": "3 kg", "percentage": "3 kg", "angle": "3 kg", "frequency": "3 kg"}  # fmt: skip
        for key, method in all_methods().items():
            given_wrong = {row.key: wrong[row.kind] for row in spec(method.inputs) if row.kind in wrong}
            found = refused(job(key, **given_wrong))
            self.assertEqual(set(found), {f"inputs.{name}" for name in given_wrong}, key)

    def test_steps_name_inputs_that_there_are_and_the_last_one_closes(self) -> None:
        for key, method in all_methods().items():
            names = set(method.inputs.model_fields)
            for step in method.steps:
                lists = [step.rows.list] if isinstance(step, Listed) else []
                lists += [step.list] if isinstance(step, Tally | Sheet) else []
                self.assertLessEqual({*step.fields, *lists}, names, (key, step.key))
            self.assertEqual(method.steps[-1].kind, "close", key)
            self.assertTrue(any(step.cautions for step in method.steps), key)

    def test_what_is_drawn_can_be_written_down(self) -> None:
        undrawn = set()
        for key, (inputs, _) in ANSWERED.items():
            found = read(job(key, **inputs))
            drawn = all_methods()[key].draw(found.given, Seen())
            if drawn is None:
                undrawn.add(key)
                continue
            written = json.loads(json.dumps(drawn.model_dump(mode="json"), allow_nan=False))
            self.assertEqual(written["shape"], drawn.shape, key)
        self.assertEqual(undrawn, {"set-up-sheet", "fill-precheck"})

    @given(st.sampled_from(sorted(ANSWERED)), st.data())
    def test_no_figure_however_odd_breaks_an_answer(self, key: str, data: st.DataObject) -> None:
        inputs = json.loads(json.dumps(ANSWERED[key][0]))
        name = data.draw(st.sampled_from(sorted(inputs)))
        found = inputs[name]
        odd = st.sampled_from(["0", "-1", "1e-9", "1e12", "-1e12", "0.5"])
        if isinstance(found, str) and " " in found:
            inputs[name] = f"{data.draw(odd)} {found.partition(' ')[2]}"
        elif isinstance(found, list) and found and isinstance(found[0], dict):
            inner = data.draw(st.sampled_from(sorted(found[0])))
            value = found[0][inner]
            if isinstance(value, str) and " " in value:
                found[0] = found[0] | {inner: f"{data.draw(odd)} {value.partition(' ')[2]}"}
        try:
            answer = assess(job(key, **inputs))
        except Refused as refusal:
            self.assertTrue(all(row.path.startswith("inputs.") for row in refusal.refusals))
            return
        json.dumps(answer, allow_nan=False)
        self.assertIn(answer["call"], ("not-ready", "keep-testing", "find-fault", "adjust", "leave"))
