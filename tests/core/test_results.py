"""Results that say what they are: listed, written, rounded, in the schema, and refused where they could not be told."""

import json
import math
import re
import unittest
from dataclasses import dataclass
from typing import Any

import jsonschema_rs

from tests.core.jobs import AGREEING, assess, belt
from tests.worked import WORKED
from wary import VERSION
from wary.job.file import read, schema
from wary.job.words import words_of
from wary.methods import all_methods
from wary.methods.belts.belt_zero import BeltZeroResults
from wary.results import Figure, Results, Word, YesNo, fields_of, figure, in_unit, percent, schema_of, text_of, value_of


@dataclass(slots=True, eq=False)
class Bag(Results):
    """One row of those below."""

    mass: Figure | None = figure("mass", "mass", digits=3)
    whole: YesNo | None = figure("whole")


@dataclass(slots=True, eq=False)
class Bags(Results):
    """Results with one of each shape."""

    mean: Figure | None = figure("mean bag", "mass", digits=4, large=True, summary=True)
    error: Figure | None = figure("mean error", "percentage", signed=True, decimals=1)
    worst: Word | None = figure("worst bag")
    masses: list[Figure] | None = figure("masses", "mass")
    table: list[list[Figure]] | None = figure("by hopper", "mass")
    bags: list[Bag] | None = figure("bags")


class Shapes(unittest.TestCase):
    def test_each_field_says_its_shape_its_kind_and_what_is_inside(self) -> None:
        found = {one.key: (one.shape, one.kind) for one in fields_of(Bags)}
        self.assertEqual(
            found,
            {
                "mean": ("single", "mass"), "error": ("single", "percentage"), "worst": ("single", "word"),
                "masses": ("list", "mass"), "table": ("table", "mass"), "bags": ("rows", "list"),
            },
        )  # fmt: skip
        (rows,) = [one for one in fields_of(Bags) if one.key == "bags"]
        self.assertEqual([(one.key, one.kind) for one in rows.fields], [("mass", "mass"), ("whole", "boolean")])

    def test_a_field_that_says_nothing_of_itself_stops_the_program_when_it_starts(self) -> None:
        @dataclass(slots=True, eq=False)
        class Mute(Results):
            mean: Figure | None = None

        with self.assertRaisesRegex(TypeError, "Mute.mean"):
            fields_of(Mute)

    def test_a_name_that_is_no_result_cannot_be_filled(self) -> None:
        with self.assertRaises(AttributeError):
            Bags().mean_of_all = Figure(1.0)  # type: ignore[attr-defined]

    def test_what_was_not_worked_out_or_is_not_finite_stands_in_no_file(self) -> None:
        some = Bags(mean=Figure(25.02, "kg"), error=Figure(math.nan, "%"), bags=[Bag(Figure(25.0, "kg"), YesNo(True))])
        row = {"mass": {"value": 25.0, "unit": "kg"}, "whole": {"value": True, "unit": ""}}
        self.assertEqual(some.as_json(), {"mean": {"value": 25.02, "unit": "kg"}, "bags": [row]})
        self.assertTrue(some.is_finite())
        self.assertEqual([about.key for about, _ in some.singles()], ["mean"])
        self.assertFalse(Bags(masses=[Figure(math.inf, "kg")]).is_finite())
        self.assertFalse(Bags(bags=[Bag(Figure(math.nan, "kg"))]).is_finite())
        self.assertIsNone(value_of(some.error))

    def test_each_is_read_as_its_field_says(self) -> None:
        about = {one.key: one for one in fields_of(Bags)}
        self.assertEqual(text_of(in_unit(25.0248, "kg"), about["mean"]), "25.02 kg")
        self.assertEqual(text_of(percent(0.0814), about["error"]), "+8.1 %")
        self.assertEqual(text_of(percent(-0.0814), about["error"]), "−8.1 %")
        self.assertEqual(text_of(Word("left"), about["worst"]), "left")
        self.assertEqual(text_of(YesNo(False), fields_of(Bag)[1]), "no")

    def test_its_schema_takes_what_it_writes_and_nothing_else(self) -> None:
        validator = jsonschema_rs.validator_for(schema_of(Bags))
        whole: Any = Bags(
            Figure(25.02, "kg"),
            percent(0.01),
            Word("b"),
            [Figure(25, "kg")],
            [[Figure(1, "kg")]],
            [Bag(Figure(25, "kg"))],
        ).as_json()
        self.assertTrue(validator.is_valid(whole))
        for wrong in (
            {"mean_of_all": {"value": 1, "unit": ""}}, {"mean": 25.02}, {"mean": {"value": "25", "unit": "kg"}}, {"mean": {"value": 1}},
            {"bags": [{"mass": {"value": 1, "unit": "kg"}, "weight": 2}]}, {"masses": [[{"value": 1, "unit": "kg"}]]},
        ):  # fmt: skip
            self.assertFalse(validator.is_valid(wrong), wrong)


class Methods(unittest.TestCase):
    def test_every_method_lists_its_results_with_titles_that_a_person_reads(self) -> None:
        for key, method in all_methods().items():
            listed = method.describe().results
            self.assertEqual(len({one.key for one in listed}), len(listed), key)
            for one in listed:
                self.assertNotIn("_", one.title, f"{key}: {one.key}")
            shown = [step for step in method.describe().steps if step.kind == "figures"]
            self.assertEqual(bool(shown and shown[0].figures), bool(shown), key)
            for step in shown:
                self.assertLessEqual(
                    {large.result for large in step.figures}, {one.key for one in listed if one.large}, key
                )

    def test_what_every_method_works_out_is_what_its_schema_has(self) -> None:
        whole = schema()
        for one in WORKED:
            definition = {"$defs": whole["$defs"], "$ref": f"#/$defs/{one.method}.results"}
            document = {"method": one.method, "inputs": {}}
            self.assertTrue(jsonschema_rs.is_valid(definition, read(document).assess().results.as_json()), one.method)
        answer = assess(belt([*AGREEING, AGREEING[0]], factor=1.142, factor_decimals=4, reference_division="20 kg"))
        definition = {"$defs": whole["$defs"], "$ref": "#/$defs/belt-material-test.results"}
        validator = jsonschema_rs.validator_for(definition)
        self.assertEqual([str(error) for error in validator.iter_errors(answer["results"])], [])
        self.assertTrue(answer["results"]["runs"][0]["error"])

    def test_a_certificate_takes_its_titles_from_there(self) -> None:
        words = words_of("belt-zero")
        self.assertEqual(words.line, tuple(one.key for one in fields_of(BeltZeroResults) if one.summary))
        self.assertIn("zero error", [one.title for one in words.results])

    def test_a_document_with_another_name_among_its_results_does_not_fit_the_schema(self) -> None:
        validator = jsonschema_rs.validator_for(schema())
        document = {
            "method": "belt-zero",
            "inputs": {},
            "assessment": {"results": {"zero_error": {"value": 0.01, "unit": "%"}}},
        }
        self.assertTrue(validator.is_valid(document))
        other = json.loads(json.dumps(document).replace("zero_error", "error_of_the_zero"))
        self.assertFalse(validator.is_valid(other))


class Version(unittest.TestCase):
    def test_the_version_is_the_latest_of_the_changelog(self) -> None:
        from tests.core.test_rooms import ROOT

        found = re.findall(r"(?m)^## (\S+), (\d{4}-\d\d-\d\d)$", (ROOT / "CHANGELOG.md").read_text(encoding="utf-8"))
        self.assertEqual(found[0][0], VERSION)
        self.assertEqual(found, sorted(found, key=lambda one: [int(part) for part in one[0].split(".")], reverse=True))
