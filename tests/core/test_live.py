"""Lines from instruments, readings gathered over time, and loads told by a live weight as it comes."""

import math
import random
import unittest

from wary.lines import (
    LONGEST_LINE,
    NotUnderstood,
    Pattern,
    cleaned,
    expression,
    faults,
    read,
    simple,
    taught,
    tokens,
    tried,
    unit_of,
)
from wary.live import Settling, gathered, watched
from wary.loads import LoadWatch, steady_changes


def pointed(line: str, figure: str, unit: str = "", sign: str = "", steady: str = "", **more: str) -> Pattern:
    """A pattern made by pointing at pieces of a line by what they say."""

    def span(text: str) -> tuple[int, int] | None:
        return (line.index(text), line.index(text) + len(text)) if text else None

    found = span(figure)
    assert found is not None
    return Pattern(line=line, figure=found, unit=span(unit), sign=span(sign), steady=span(steady), **more)  # type: ignore[arg-type]


class SimpleFormat(unittest.TestCase):
    def test_a_line_is_name_figure_unit_and_state(self) -> None:
        found = simple("weight=1234.5 kg steady")
        self.assertEqual((found.name, found.text, found.value, found.unit, found.steady), ("weight", "1234.5", 1234.5, "kg", True))  # fmt: skip
        self.assertIs(simple("on the hitch=8.0 % moving").steady, False)
        self.assertEqual(simple("on the hitch=8.0 % moving").name, "on the hitch")

    def test_name_unit_and_state_may_be_left_out(self) -> None:
        self.assertEqual((simple("-12 t").name, simple("-12 t").value, simple("-12 t").steady), ("weight", -12.0, None))
        self.assertEqual((simple("count=40").unit, simple("count=40 steady").steady), ("", True))

    def test_out_of_range_is_said_and_no_figure(self) -> None:
        for word in ("over", "under", "fault"):
            found = simple(f"weight={word}")
            self.assertIn(word, found.fault)
            self.assertEqual(found.text, "")

    def test_anything_else_is_not_understood_and_says_what_was_expected(self) -> None:
        for line in ("", "kg", "weight=", "weight=1e9 kg", "weight=12 zz", "weight=1 kg perhaps", "=1 kg", "weight=nan kg", "1234567890123 kg", "weight=12,5 kg"):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(NotUnderstood, "expected"):
                simple(line)

    def test_units_are_understood_as_instruments_spell_them(self) -> None:
        self.assertEqual([unit_of(said) for said in ("KG", "lbs", " t ", "degC", "c", "%", "mV/V", "zz")], ["kg", "lb", "t", "degC", "degC", "%", "mV/V", None])  # fmt: skip


class Pointing(unittest.TestCase):
    LINE = "[07] +    123.45 KG OK"

    def test_a_line_falls_into_pieces_that_can_be_pointed_at(self) -> None:
        pieces = [(one.text, one.kind) for one in tokens("A1 -12.5kg")]
        self.assertEqual(pieces, [("A", "word"), ("1", "figure"), (" ", "space"), ("-", "sign"), ("12.5", "figure"), ("kg", "word")])  # fmt: skip
        self.assertEqual("".join(one.text for one in tokens(self.LINE)), self.LINE)

    def test_figure_unit_and_word_for_steady_are_read_on_lines_of_the_same_make(self) -> None:
        pattern = pointed(self.LINE, "123.45", "KG", steady="OK", steady_is="OK")
        self.assertEqual(faults(pattern), [])
        for line, value, steady in (
            ("[07] +    123.45 KG OK", 123.45, True), ("[07] -      3.20 KG ..", -3.2, False),
            ("[12] + 120003.45 KG OK", 120003.45, True), ("[07]   0000.00 KG OK", 0.0, True),
        ):  # fmt: skip
            found = taught(pattern, line)
            self.assertEqual((found.value, found.unit, found.steady), (value, "kg", steady), line)

    def test_another_unit_is_told_as_it_comes(self) -> None:
        pattern = pointed(self.LINE, "123.45", "KG")
        self.assertEqual(taught(pattern, "[07] +    272.16 LB OK").unit, "lb")
        with self.assertRaisesRegex(NotUnderstood, "no unit"):
            taught(pattern, "[07] +    272.16 QQ OK")

    def test_a_line_without_a_unit_gets_the_one_that_was_chosen(self) -> None:
        pattern = pointed("000451 7", "000451", fixed_unit="kg")
        self.assertEqual((faults(pattern), taught(pattern, "000012 7").value, taught(pattern, "000012 7").unit), ([], 12.0, "kg"))  # fmt: skip
        self.assertEqual(taught(pattern, "000012 7").text, "12")

    def test_a_sign_may_stand_behind_or_be_a_word(self) -> None:
        behind = pointed("12.5 kg -", "12.5", "kg", sign="-")
        self.assertEqual([taught(behind, line).value for line in ("12.5 kg -", "12.5 kg +", "12.5 kg")], [-12.5, 12.5, 12.5])  # fmt: skip
        worded = pointed("minus 4 kg", "4", "kg", sign="minus", minus="minus")
        self.assertEqual([taught(worded, line).value for line in ("minus 4 kg", "plus 4 kg")], [-4.0, 4.0])

    def test_the_captured_line_says_which_mark_is_the_decimal_one(self) -> None:
        comma = pointed("N 1.234,5 kg", "1.234,5", "kg")
        self.assertEqual([taught(comma, line).text for line in ("N 2.000,0 kg", "N 17,5 kg", "N 1.000.000,5 kg")], ["2000.0", "17.5", "1000000.5"])  # fmt: skip
        point = pointed("12.50 kg", "12.50", "kg")
        self.assertEqual(taught(point, "1,212.50 kg").value, 1212.5)

    def test_a_line_of_another_make_is_not_understood(self) -> None:
        pattern = pointed(self.LINE, "123.45", "KG", steady="OK", steady_is="OK")
        for line in ("", "nonsense", "[07] +  ------ KG OK", "[07] 1 2 KG OK", "[07] +    123.45 KG OK and more", "07 +    123.45 KG OK"):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(NotUnderstood, "not made as"):
                taught(pattern, line)

    def test_what_cannot_be_pointed_at_is_said_by_its_part(self) -> None:
        for pattern, path in (
            (Pattern(line=self.LINE, figure=(11, 13)), "figure"),
            (pointed(self.LINE, "KG"), "figure"),
            (pointed(self.LINE, "123.45", "OK"), "unit"),
            (pointed(self.LINE, "123.45", fixed_unit="QQ"), "fixed_unit"),
            (pointed(self.LINE, "123.45", "KG", steady="OK"), "steady_is"),
            (pointed(self.LINE, "123.45", "KG", steady="KG", steady_is="x"), "figure"),
            (Pattern(line=self.LINE, figure=(500, 600)), "figure"),
        ):  # fmt: skip
            self.assertIn(path, [one.path for one in faults(pattern)])

    def test_lines_are_tried_one_by_one(self) -> None:
        found = tried(pointed(self.LINE, "123.45", "KG"), [self.LINE, "??"])
        self.assertEqual(([one.fault == "" for one in found], found[0].read and found[0].read.value), ([True, False], 123.45))  # fmt: skip
        self.assertEqual(read(None, "1 kg").value, 1.0)

    def test_whatever_comes_is_either_read_or_not_understood_and_never_looked_at_twice(self) -> None:
        draw = random.Random(5)
        alphabet = "0123456789.,+-' abkgKGOK[]#\u00e9"
        patterns = [pointed(self.LINE, "123.45", "KG", steady="OK", steady_is="OK"), pointed("a1 b2 c3 d4 e5 12.5 kg", "12.5", "kg")]  # fmt: skip
        for _ in range(3000):
            line = "".join(draw.choice(alphabet) for _ in range(draw.randint(0, LONGEST_LINE)))
            tried(patterns[draw.randint(0, 1)], [line])
            tried(None, [line])
        for line in ("a1 " * 66, "a" * 200, "1." * 100, " " * 200, "+-" * 100, "[" * 200):
            self.assertEqual(len(tried(patterns[1], [line] * 50)), 50)
        self.assertIn("++", expression(patterns[1]).pattern)

    def test_a_line_is_cleaned_of_what_cannot_be_seen_and_cut(self) -> None:
        self.assertEqual(cleaned(b"\x02 12.5 kg\x03"), " 12.5 kg")
        self.assertEqual(cleaned(b"\xff\xfe12"), "??12")
        self.assertEqual(len(cleaned(b"9" * 5000)), LONGEST_LINE)


def over_time(*figures: float, seconds: float = 60.0) -> list[tuple[float, str, str]]:
    """Readings in kg, one after the other over so many seconds."""
    return [(number * seconds / (len(figures) - 1), f"{one:.1f}", "kg") for number, one in enumerate(figures)]


class LeftAlone(unittest.TestCase):
    def test_what_flickers_about_one_figure_stands(self) -> None:
        found = watched("weight", over_time(*[20.0, 20.5, 20.0, 20.0, 20.5] * 12))
        self.assertTrue(found.stands)
        self.assertEqual(found.text, "weight stood between 20.0 and 20.5 kg for 60 s.")
        self.assertEqual(watched("weight", over_time(*[20.0] * 30)).text, "weight stood at 20.0 kg for 60 s.")

    def test_what_creeps_by_more_than_two_steps_runs_away(self) -> None:
        found = watched("weight", over_time(*[round(20 + number // 12 * 0.1, 1) for number in range(60)]))
        self.assertFalse(found.stands)
        self.assertRegex(found.text, r"^weight ran 0\.[45] kg up in 60 s, with nothing done to it\.$")
        down = watched("weight", over_time(*[20 - number * 0.1 for number in range(60)]))
        self.assertIn("down", down.text)

    def test_a_slow_swing_is_no_drift(self) -> None:
        swing = [20 + math.sin(number / 9) for number in range(120)]
        self.assertTrue(watched("weight", over_time(*swing)).stands)

    def test_readings_that_come_all_at_the_ends_are_two_stretches(self) -> None:
        ends = [(float(at), f"20.{at % 2}", "kg") for at in range(5)] + [(60.0 + at, "23.0", "kg") for at in range(5)]
        self.assertFalse(watched("weight", ends).stands)

    def test_too_short_two_units_and_no_number_are_refused_in_a_sentence(self) -> None:
        cases = ((over_time(*[1.0] * 20, seconds=9), "watched for 9 s"), (over_time(*[1.0] * 5), "5 readings"), ([], "0 s"),
                 ([*over_time(*[1.0] * 20), (61.0, "1", "lb")], "unit changed"), ([*over_time(*[1.0] * 20), (61.0, "over", "kg")], "no number"))  # fmt: skip
        for readings, words in cases:
            with self.assertRaisesRegex(ValueError, words):
                watched("weight", readings)


class Gathering(unittest.TestCase):
    def test_a_run_of_readings_comes_to_mean_spread_and_how_many(self) -> None:
        found = gathered([("10.0", "kg", True), ("10.2", "kg", True), ("10.4", "kg", False), ("10.2", "kg", True)])
        self.assertEqual((found.count, found.moving, found.unit, found.capture), (4, 1, "kg", "10.20"))
        self.assertAlmostEqual(found.spread, 0.4)
        self.assertAlmostEqual(found.deviation or 0, 0.1632993, 6)

    def test_one_reading_is_itself_and_has_no_deviation(self) -> None:
        found = gathered([("-3", "t", True)])
        self.assertEqual((found.capture, found.deviation, found.spread), ("-3", None, 0))

    def test_nothing_other_units_and_what_is_no_number_are_refused_in_a_sentence(self) -> None:
        for readings, words in (
            ([], "no reading yet"), ([("1", "kg", True), ("2", "lb", True)], "unit changed"), ([("over", "kg", True)], "no number"),
            ([("1", "kg", True)] * 3000, "at most"),
        ):  # fmt: skip
            with self.assertRaisesRegex(ValueError, words):
                gathered(readings)

    def test_a_figure_settles_once_it_has_stood_for_two_seconds(self) -> None:
        settling = Settling()
        said = [settling.steady(at / 2, f"{figure:.1f}", figure) for at, figure in enumerate([0.0, 5.0, 9.0, 9.1, 9.1, 9.0, 9.1, 9.1])]  # fmt: skip
        self.assertEqual(said[:5], [False] * 5)
        self.assertTrue(said[-1])
        self.assertFalse(settling.steady(4.0, "12.0", 12.0))


class Watching(unittest.TestCase):
    def weights(self, *stretches: tuple[float, float]) -> list[tuple[float, float]]:
        """Readings each half second: so many seconds at so many kg."""
        found, at = [], 0.0
        for seconds, weight in stretches:
            for _ in range(int(seconds * 2)):
                found.append((at, weight))
                at += 0.5
        return found

    def test_reading_by_reading_it_says_when_one_is_under_way_and_when_it_is_over(self) -> None:
        watch = LoadWatch(10, 100)
        began, over = [], []
        for at, weight in self.weights((5, 0), (3, 200), (3, 500), (6, 820), (5, 0)):
            told = watch.take(at, weight)
            began.append(watch.began is not None)
            over.append(told)
        self.assertFalse(any(began[:10]))
        self.assertTrue(began[10])
        done = [one for one in over if one]
        self.assertEqual([(round(one.mass), one.start, one.moved) for one in done], [(820, 5.0, False)])
        self.assertEqual(watch.base, 0)

    def test_it_finds_the_same_as_all_readings_at_once(self) -> None:
        readings = self.weights((5, 0), (2, 300), (6, 600), (2, 700), (6, 900), (4, 0), (5, 500))
        watch = LoadWatch(10, 100)
        one_by_one = [told for at, weight in readings if (told := watch.take(at, weight))]
        self.assertEqual(one_by_one, steady_changes(readings, 10, 100))
        self.assertEqual(len(one_by_one), 3)

    def test_noise_within_the_band_is_no_load(self) -> None:
        draw = random.Random(3)
        readings = [(at / 2, 400 + draw.uniform(-9, 9)) for at in range(600)]
        self.assertEqual(steady_changes(readings, 20, 100), [])
