"""When a machine is wanted again, by every kind of interval, and in which words."""

import datetime
import unittest

from hypothesis import given
from hypothesis import strategies as st

from wary.rules.due import (
    Due,
    Every,
    Reading,
    by_days,
    counted,
    due,
    due_words,
    first,
    interval_for,
    rate,
    season_after,
    went_back,
)  # fmt: skip

TODAY = datetime.date(2031, 3, 10)


def ago(days: int) -> datetime.date:
    return TODAY - datetime.timedelta(days=days)


class ByDay(unittest.TestCase):
    def test_the_words_are_those_of_a_person(self) -> None:
        for days, words in (
            (0, "due today"), (1, "due in 1 day"), (12, "due in 12 days"), (-1, "1 day overdue"), (-9, "9 days overdue"),
            (90, "due 8 Jun 2031"),
        ):  # fmt: skip
            self.assertEqual(due_words(TODAY + datetime.timedelta(days=days), TODAY), words)
        self.assertEqual(due_words(None, TODAY), "no date set")

    def test_how_urgent_a_day_is(self) -> None:
        for days, urgency in ((-1, "overdue"), (0, "due"), (1, "soon"), (21, "soon"), (22, "far")):
            self.assertEqual(by_days(TODAY + datetime.timedelta(days=days), TODAY), urgency)

    def test_what_was_never_done_is_due(self) -> None:
        for interval in (Every("days", 90), Every("hours", 500)):
            self.assertEqual(due(interval, None, [], TODAY).urgency, "due")

    def test_an_interval_beyond_the_calendar_is_far_off(self) -> None:
        self.assertEqual(due(Every("days", 9e6), ago(3), [], TODAY).urgency, "far")


class BySeason(unittest.TestCase):
    def test_it_is_the_next_such_day_after_it_was_done(self) -> None:
        self.assertEqual(season_after("04-01", ago(10), TODAY), datetime.date(2031, 4, 1))
        self.assertEqual(season_after("03-01", ago(5), TODAY), datetime.date(2032, 3, 1))
        self.assertEqual(season_after("03-01", ago(20), TODAY), datetime.date(2031, 3, 1))
        self.assertEqual(due(Every("season", season="03-01"), ago(20), [], TODAY).urgency, "overdue")

    def test_the_leap_day_is_kept_in_other_years(self) -> None:
        self.assertEqual(season_after("02-29", None, TODAY), datetime.date(2031, 2, 28))


class ByCounter(unittest.TestCase):
    READ = [Reading(ago(40), 1000), Reading(ago(20), 1200), Reading(ago(10), 1300)]

    def test_what_is_left_and_when_it_will_be_used_up(self) -> None:
        found = due(Every("tonnes", 400), ago(40), self.READ, TODAY)
        self.assertEqual((found.left, found.urgency, found.on), (100, "soon", TODAY))
        self.assertEqual(found.words, "100 of 400 t left, about 10 Mar")
        self.assertTrue(found.expected)

    def test_beyond_it_it_is_overdue_and_says_by_how_much(self) -> None:
        found = due(Every("hours", 250), ago(40), self.READ, TODAY)
        self.assertEqual((found.urgency, found.words), ("overdue", "50 h over"))
        self.assertEqual(due(Every("hours", 300), ago(40), self.READ, TODAY).urgency, "due")

    def test_without_a_reading_since_it_asks_for_one(self) -> None:
        found = due(Every("cycles", 5000), ago(5), self.READ, TODAY)
        self.assertEqual((found.urgency, found.words), ("unknown", "every 5000 cycles: read the counter"))

    def test_a_counter_that_was_replaced_goes_on_counting(self) -> None:
        readings = [
            Reading(ago(40), 9000),
            Reading(ago(20), 9500),
            Reading(ago(10), 120, anew=True),
            Reading(ago(2), 200),
        ]
        self.assertEqual(counted(readings, ago(40)), 700)

    def test_a_counter_that_went_back_is_noticed(self) -> None:
        self.assertEqual(went_back(self.READ, 1299), self.READ[-1])
        self.assertIsNone(went_back(self.READ, 1300))
        self.assertIsNone(went_back([], 5))

    def test_nothing_is_expected_of_one_reading_or_of_a_counter_that_stands(self) -> None:
        self.assertIsNone(rate(self.READ[:1]))
        self.assertIsNone(rate([Reading(ago(9), 5), Reading(ago(1), 5)]))

    @given(st.lists(st.floats(0, 1e6), min_size=2, max_size=8))
    def test_what_was_counted_is_what_the_last_shows_beyond_the_first(self, figures: list[float]) -> None:
        readings = [Reading(ago(100 - number), figure) for number, figure in enumerate(sorted(figures))]
        self.assertAlmostEqual(counted(readings, readings[0].day) or 0, max(figures) - min(figures), places=3)


class WhicheverComesFirst(unittest.TestCase):
    def test_the_most_urgent_decides_and_of_those_the_earliest(self) -> None:
        late = Due("hours", "overdue", "50 h over")
        soon, sooner = Due("days", "soon", "a", ago(-9)), Due("season", "soon", "b", ago(-3))
        self.assertIs(first([soon, late, sooner]), late)
        self.assertIs(first([soon, sooner]), sooner)
        self.assertIsNone(first([]))


class Review(unittest.TestCase):
    def test_an_interval_uses_a_third_of_the_limit(self) -> None:
        self.assertEqual(interval_for(0.5 / 3 / 100, 0.5), 98)
        self.assertEqual(interval_for(-1.0, 0.5), 7)
        self.assertEqual(interval_for(0.0, 0.5), 1095)
        self.assertEqual(interval_for(1e-9, 0.5), 1092)
