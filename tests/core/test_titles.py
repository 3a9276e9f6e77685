"""What a place of a job is called, for people to read."""

import unittest

from wary.job.places import joined
from wary.job.titles import belongs_to
from wary.methods import all_methods

VISIT = (("", "belt-material-test"), ("zero", "belt-zero"))


class Titles(unittest.TestCase):
    def test_a_field_a_row_a_step_and_the_job_have_names(self) -> None:
        for path, words in (
            ("", "the job"), ("runs.r1", "Runs, one row"), ("runs.r1.gross", "Gross"), ("note", "Note"),
            ("inputs.factor", "Factor in the instrument"), ("references.r1.due", "due"),
            ("zero/note", "Note"),
        ):  # fmt: skip
            with self.subTest(path):
                self.assertEqual(belongs_to(VISIT, path), words)

    def test_the_one_figure_of_a_plain_list_is_called_as_its_list(self) -> None:
        self.assertEqual(belongs_to(VISIT, "zero/idle.a.value"), _title("belt-zero", "idle"))

    def test_a_list_inside_a_row_is_followed(self) -> None:
        parts = (("", "fill-tuning"),)
        self.assertEqual(belongs_to(parts, "trials.t1.fills.f1.weight"), belongs_to(parts, "trials.t9.fills.f2.weight"))

    def test_what_is_no_place_has_no_name(self) -> None:
        for path in ("nothing", "runs.r1.nothing", "other/runs.r1", "step.nothing", "runs.R1", "x" * 200, "runs.", "/"):
            with self.subTest(path):
                self.assertIsNone(belongs_to(VISIT, path))

    def test_every_step_of_every_method_can_hold_a_photograph(self) -> None:
        for key, method in all_methods().items():
            parts = (("", all_methods()[key].key), ("p", key))
            for step in method.steps:
                self.assertEqual(belongs_to(parts, joined("p", f"step.{step.key}")), step.title)


def _title(method: str, key: str) -> str:
    return next(one.title for one in all_methods()[method].describe().inputs if one.key == key)
