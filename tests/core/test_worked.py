"""One worked job of every method in the core: its call, its figures, its drawing, its file."""

import json
import unittest
from collections.abc import Iterator
from typing import Any

import jsonschema_rs
from pydantic import TypeAdapter

from tests.core.visit import AtWork
from tests.worked import WORKED, Worked
from wary import drawings
from wary.drawings import Axles, Belt, Cells, Fit, Lifts, Line, Load, Repeats, Vessel
from wary.job.build import Built
from wary.job.file import read, schema
from wary.job.subject import Subject
from wary.job.taking_in import taken_in
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.method import Seen
from wary.results import in_digits

Drawing: TypeAdapter[drawings.Drawing] = TypeAdapter(drawings.Drawing)


def begun(one: Worked) -> AtWork:
    """The job of a worked job with what its machine's record brings, and nothing typed."""
    method = all_methods()[one.method]
    known = {one.key: method.takes.get(one.key, one.key) for one in method.describe().inputs}
    record = {f"inputs.{key}": str(one.plates[of]) for key, of in known.items() if of in one.plates}
    job = AtWork(one.kind, one.method, profile={"name": one.profile})
    return job.enter(record, "record")


def at_work(one: Worked) -> AtWork:
    """The job of a worked job, with what its machine's record brings."""
    return begun(one).enter(one.texts)


def built(one: Worked) -> Built:
    return at_work(one).part().built


class Walks(unittest.TestCase):
    def test_there_is_one_for_every_method(self) -> None:
        self.assertEqual([one.method for one in WORKED], sorted([one.method for one in WORKED], key=order))
        self.assertEqual({one.method for one in WORKED}, set(all_methods()))

    def test_each_comes_to_its_call_and_its_figures(self) -> None:
        for one in WORKED:
            with self.subTest(one.method):
                answer = at_work(one).part().assessment
                self.assertEqual((answer.call, answer.headline), (one.call, one.headline))
                worked_out = answer.as_json()["results"]
                for name, wanted in one.results.items():
                    self.assertAlmostEqual(worked_out[name]["value"], wanted, 6)  # type: ignore[call-overload,index]

    def test_half_of_it_is_never_more_than_the_whole(self) -> None:
        """Whatever is typed first, what is not enough says by its path what is missing, until nothing is."""
        for one in WORKED:
            job = begun(one)
            self.assertEqual(job.part().assessment.call, "not-ready", one.method)
            for path, text in one.texts.items():
                answer = job.enter({path: text}).part().assessment
                for reason in answer.reasons:
                    self.assertTrue(reason.text, f"{one.method} after {path}")
                    if reason.code == "missing":
                        self.assertTrue(reason.more["path"].startswith("inputs"), f"{one.method} after {path}")
            self.assertEqual(answer.call, one.call, one.method)

    def test_the_files_that_are_written_fit_the_schema_and_come_to_the_same_call(self) -> None:
        validator = jsonschema_rs.validator_for(schema())
        for one in WORKED:
            with self.subTest(one.method):
                document = json.loads(json.dumps(built(one).file))
                self.assertEqual([str(error) for error in validator.iter_errors(document)], [])
                self.assertEqual(read(document).assess().call, one.call)

    def test_every_figure_that_is_written_has_twelve_significant_digits_at_most(self) -> None:
        def figures(found: Any) -> Iterator[float]:
            if isinstance(found, float):
                yield found
            elif isinstance(found, dict | list):
                for each in found.values() if isinstance(found, dict) else found:
                    yield from figures(each)

        self.assertEqual(in_digits({"a": [0.1 + 0.2, 20.000000000000004]}), {"a": [0.3, 20.0]})
        counted = 0
        for one in WORKED:
            with self.subTest(one.method):
                written = list(figures(read(built(one).file).judge()))
                counted += len(written)
                self.assertEqual([each for each in written if each != float(f"{each:.12g}")], [])
        self.assertGreater(counted, 100)

    def test_a_file_with_a_stray_key_or_a_wrong_word_does_not_fit_the_schema(self) -> None:
        validator = jsonschema_rs.validator_for(schema())
        for one in WORKED:
            document = json.loads(json.dumps(built(one).file))
            self.assertTrue(validator.is_valid(document))
            document["inputs"]["colour"] = "red"
            self.assertFalse(validator.is_valid(document), one.method)

    def test_each_file_is_taken_in_again_with_nothing_dropped(self) -> None:
        for one in WORKED:
            with self.subTest(one.method):
                file = built(one).file
                subject = Subject(all_machines()[one.kind], profile={"name": one.profile})
                taken = taken_in(json.loads(json.dumps(file)), subject)
                again = AtWork(one.kind, one.method, profile={"name": one.profile}).enter(taken.texts, "imported")
                self.assertEqual(again.part().built.file["inputs"], file["inputs"])

    def test_a_negative_load_or_capacity_is_refused_with_its_path(self) -> None:
        cases = {
            "known-load": ("runs", {"reference": "-5 kg", "indicated": "5 kg"}, "inputs.runs[0].reference"),
            "belt-material-test": (
                "runs",
                {"gross": "-5 t", "tare": "1 t", "indicated": "5 t", "set_aside": "spilt"},
                "inputs.runs[0].gross",
            ),
            "zero-span": ("test_load", "-500 kg", "inputs.test_load"),
            "output-check": ("full_load", "-1 kg", "inputs.full_load"),
            "belt-test-weight": ("test_mass", "-60 kg", "inputs.test_mass"),
            "corner-test": ("test_load", "-1 kg", "inputs.test_load"),
        }
        for method, (key, given, path) in cases.items():
            found = [given] if isinstance(given, dict) else given
            with self.assertRaises(ValueError, msg=method) as raised:
                read({"method": method, "inputs": {key: found}})
            self.assertIn(path, [one.path for one in raised.exception.refusals])  # type: ignore[attr-defined]


def order(key: str) -> tuple[bool, str]:
    """Belts first, as their walks stand."""
    return (not key.startswith("belt"), "" if key.startswith("belt") else key)


class Drawn(unittest.TestCase):
    """What each method draws of its worked job, figure by figure."""

    def drawing(self, method: str, **plates: object):  # type: ignore[no-untyped-def]
        one = next(one for one in WORKED if one.method == method)
        part = at_work(one).part()
        given = read(json.loads(json.dumps(part.built.file))).given
        figures = all_machines()[one.kind].figures(one.plates)
        return all_methods()[method].draw(given, Seen(figures, all_machines()[one.kind].outline))

    def test_a_belt_s_spacing_idlers_and_angle(self) -> None:
        for method in ("belt-zero", "belt-test-weight", "belt-material-test"):
            drawn = self.drawing(method)
            self.assertIsInstance(drawn, Belt)
            self.assertEqual((drawn.spacing.size, drawn.spacing.text, drawn.weigh_idlers), (0.9, "0.9 m", 1), method)
            self.assertTrue(drawn.headlines, method)
        hung = self.drawing("belt-test-weight")
        self.assertEqual((hung.hung.text, hung.laden), ("36 kg", False))
        self.assertTrue(self.drawing("belt-material-test").laden)

    def test_cells_by_name_with_how_they_answered(self) -> None:
        drawn = self.drawing("cell-check")
        self.assertIsInstance(drawn, Cells)
        self.assertEqual([cell.label for cell in drawn.cells], ["north", "east", "west"])
        self.assertEqual({cell.answers for cell in drawn.cells}, {"in-order"})
        self.assertEqual(drawn.outline, "round")

    def test_corners_by_what_they_showed_and_the_furthest_marked(self) -> None:
        drawn = self.drawing("corner-test")
        self.assertEqual([cell.text for cell in drawn.cells], ["400 kg", "400.5 kg", "400 kg"])
        self.assertEqual([cell.furthest for cell in drawn.cells], [False, True, False])
        self.assertEqual(drawn.outline, "square")

    def test_the_load_on_its_scale(self) -> None:
        drawn = self.drawing("zero-span")
        self.assertIsInstance(drawn, Load)
        self.assertEqual((drawn.capacity.size, drawn.load.size, drawn.load.text), (1500.0, 500.0, "500 kg"))

    def test_points_about_their_line(self) -> None:
        for method in ("output-check", "span-points"):
            drawn = self.drawing(method)
            self.assertIsInstance(drawn, Line)
            self.assertEqual(len(drawn.points), 3, method)
            self.assertEqual([round(point.share) for point in drawn.points][0], 0)
        loop = self.drawing("output-check")
        self.assertAlmostEqual(loop.points[1].off, 0.03125, 5)

    def test_a_vessel_filled_as_far_as_its_load(self) -> None:
        drawn = self.drawing("known-load")
        self.assertIsInstance(drawn, Vessel)
        self.assertEqual(drawn.capacity.size, 1500.0)

    def test_axle_groups_with_what_they_carry_and_lack(self) -> None:
        drawn = self.drawing("axle-two-load")
        self.assertIsInstance(drawn, Axles)
        self.assertEqual(
            [(one.label, one.carries.text, one.missing) for one in drawn.groups],
            [("steer", "6600 kg", None), ("drive", "11\u202f000 kg", None)],
        )
        self.assertTrue(drawn.valid)
        half = read({"method": "axle-two-load", "inputs": {"groups": [{"empty_ticket": "6 t"}, {}]}}).given
        drawn = all_methods()["axle-two-load"].draw(half, Seen())
        self.assertIsInstance(drawn, Axles)
        assert isinstance(drawn, Axles)
        self.assertEqual(([one.missing for one in drawn.groups], drawn.valid), (["heavy", "both"], False))

    def test_lifts_by_load_and_speed_and_the_two_lines(self) -> None:
        drawn = self.drawing("lift-speed")
        self.assertIsInstance(drawn, Lifts)
        self.assertEqual({(one.load, one.speed): one.count for one in drawn.kinds}[("known", "normal")], 1)
        self.assertEqual(
            (drawn.empty.start.y, drawn.empty.end.y, drawn.full.end.y, drawn.known.y), (1000.0, 1100.0, 3180.0, 2050.0)
        )
        self.assertAlmostEqual(drawn.full.end.x, 0.25)

    def test_repeats_about_their_mean_and_the_filling_target(self) -> None:
        drawn = self.drawing("lift-repeat")
        self.assertIsInstance(drawn, Repeats)
        self.assertEqual(drawn.target.text, "350 kg")
        heavy, empty = drawn.strips
        self.assertEqual((heavy.label, len(heavy.marks), empty.spread), ("heavy", 5, "0.57 %"))
        self.assertAlmostEqual(heavy.marks[1].off, 3 / 700 * 100)

    def test_loads_about_the_line_through_them(self) -> None:
        drawn = self.drawing("load-comparison")
        self.assertIsInstance(drawn, Fit)
        self.assertEqual((len(drawn.points), drawn.to_text), (4, "11.96 t"))
        self.assertTrue(drawn.low <= drawn.intercept.size <= drawn.high)

    def test_every_drawing_can_be_sent_and_says_its_shape(self) -> None:
        for one in WORKED:
            drawn = self.drawing(one.method)
            if drawn is not None:
                sent = json.loads(drawn.model_dump_json())
                self.assertEqual(Drawing.validate_python(sent), drawn, one.method)

    def test_fills_beside_each_other_and_the_cut_offs_where_they_bite(self) -> None:
        drawn = self.drawing("fill-tuning")
        self.assertEqual((drawn.shape, drawn.target.text, drawn.low_text, drawn.high_text), ("fills", "1000 g", "−10 g", "+10 g"))  # fmt: skip
        self.assertEqual([(one.label, round(one.at, 6), one.text) for one in drawn.cut_offs], [("fast", 0.7, "300 g"), ("medium", 0.9, "100 g"), ("fine", 0.98, "20 g")])  # fmt: skip
        group = drawn.groups[0]
        self.assertEqual(([mark.text for mark in group.marks], group.are), (["3 g", "1 g", "−2 g"], "in-order"))
        self.assertAlmostEqual(group.mean, 2 / 3000, 9)

    def test_check_mass_and_doses_in_per_cent_of_what_each_should_be(self) -> None:
        drawn = self.drawing("dose-check")
        self.assertEqual((drawn.shape, [group.label for group in drawn.groups]), ("fills", ["as found"]))
        self.assertAlmostEqual(drawn.high, 0.3, 9)
        self.assertEqual([round(mark.off, 6) for mark in drawn.groups[0].marks], [0.05, 0.1, 0.075])

    def test_samples_in_their_order_with_tolerance_mean_and_zones(self) -> None:
        drawn = self.drawing("fill-check")
        self.assertEqual((drawn.shape, len(drawn.marks), drawn.before), ("samples", 6, 0))
        self.assertEqual([mark.number for mark in drawn.marks], [1, 2, 3, 4, 5, 6])
        self.assertAlmostEqual(drawn.deviation * 1000, 1.8 / 1.128, 6)
        self.assertEqual((drawn.mean_text, drawn.low), ("+2.17 g", -0.01))

    def test_grades_as_a_ruler_with_what_was_sorted(self) -> None:
        drawn = self.drawing("grade-check")
        self.assertEqual([edge.text for edge in drawn.edges], ["60 g", "80 g", "100 g"])
        self.assertEqual([(one.label, one.outlet, one.count) for one in drawn.grades], [("small", "1", 10), ("medium", "2", 20), ("large", "3", 5)])  # fmt: skip
        self.assertEqual([round(one.mean, 6) for one in drawn.grades], [0.07, 0.09, 0.11])
        self.assertEqual((drawn.reject.text, any(one.wrong for one in drawn.grades)), ("130 g", False))

    def test_catches_as_a_staircase_against_what_is_wanted(self) -> None:
        for method, values, wanted in (
            ("meter-catch", [0.1, 0.1005], "0.1 kg/rev"),
            ("constant-catch", [100 / 105, 100 / 100.2], "scale"),
            ("density-check", [900.0, 905.0], "0.9 kg/L"),
        ):
            drawn = self.drawing(method)
            self.assertEqual((drawn.shape, drawn.wanted.text), ("stairs", wanted))
            for step, value in zip(drawn.steps, values, strict=True):
                self.assertAlmostEqual(step.value, value, 6, method)

    def test_a_rate_chart_and_a_trail_of_samples(self) -> None:
        chart = self.drawing("rate-chart")
        self.assertEqual((chart.speeds, chart.unit, chart.gate), (("20 km/h", "30 km/h", "40 km/h"), "kg/km", ("40 mm", "44 mm")))  # fmt: skip
        self.assertEqual([cell.text for cell in chart.rows[0].cells], ["28.8", "19.2", "14.4"])
        trail = self.drawing("feed-trim")
        self.assertEqual((trail.taken_text, trail.counted_text, len(trail.marks)), ("1 kg", "1 kg", 3))
