"""A log of loads: rows in from CSV, and where a live weight says that a load begins and ends."""

import datetime
import unittest

from wary.job.file import Refused
from wary.loads import loads_in, mass_text, steady_changes
from wary.quantities import NotAQuantity

ZONE = datetime.timezone(datetime.timedelta(hours=1))
NOW = datetime.datetime(2031, 5, 6, 9, tzinfo=datetime.UTC)


def refused(text: str) -> list[tuple[str, str]]:
    try:
        loads_in(text.encode(), "t", ZONE, NOW)
    except Refused as refusal:
        return [(one.path, one.text) for one in refusal.refusals]
    raise AssertionError("it was taken in")


class RowsIn(unittest.TestCase):
    def test_a_file_as_people_keep_one(self) -> None:
        text = "No;Begin;Until;Weight;Driver;To;Ticket;Moved\n7;2031-05-04 14:20;2031-05-04 14:31;7,42;Ines;Drying House;7420 kg;\n;2031-05-04T15:00+00:00;;5.1 ston;;;;yes\n"
        first, second = loads_in(text.encode("utf-8-sig"), "t", ZONE, NOW)
        self.assertEqual((first.number, first.indicated, first.ticket, first.moved), (7, "7.42 t", "7420 kg", False))
        self.assertEqual((first.operator, first.destination), ("Ines", "Drying House"))
        self.assertEqual(first.start.isoformat(), "2031-05-04T13:20:00+00:00")
        self.assertEqual((second.number, second.indicated, second.end, second.moved), (None, "5.1 ston", None, True))
        self.assertEqual(second.start.utcoffset(), datetime.timedelta(0))

    def test_every_row_that_cannot_be_taken_is_named_by_its_line(self) -> None:
        said = refused(
            "start,indicated,end,number\n2031-05-04,7 m,,\nyesterday,7 t,,\n2031-05-04,7 t,2031-05-03,x\n,-1 t,,\n"
        )
        self.assertEqual(
            [path for path, _ in said],
            [
                "line 2, indicated",
                "line 3, start",
                "line 4, number",
                "line 4, end",
                "line 5, start",
                "line 5, indicated",
            ],
        )
        self.assertIn("below zero", said[-1][1])

    def test_a_time_that_no_clock_shows_is_refused_by_its_line(self) -> None:
        beyond = ("0001-01-01T00:00+14:00", "1969-12-31", "2031-05-09", "9999-12-31T23:59-12:00")
        said = refused("start,indicated\n" + "".join(f"{time},7 t\n" for time in beyond) + "2031-05-08T08:00Z,7 t\n")
        self.assertEqual([path for path, _ in said], [f"line {line}, start" for line in (2, 3, 4, 5)])

    def test_a_number_that_is_none_is_refused_by_its_line(self) -> None:
        said = refused(
            "number,start,indicated\n²,2031-05-04,7 t\n" + "9" * 500 + ",2031-05-04,7 t\n4294967296,2031-05-04,7 t\n"
        )
        self.assertEqual([path for path, _ in said], [f"line {line}, number" for line in (2, 3, 4)])

    def test_a_file_that_is_none_is_refused_whole(self) -> None:
        self.assertEqual(refused("start,indicated\n")[0][0], "line 1")
        self.assertIn("colour", refused("start,indicated,colour\n2031-05-04,7 t,red\n")[0][1])
        self.assertIn("wanted at least", refused("start,ticket\n2031-05-04,7 t\n")[0][1])
        with self.assertRaises(Refused):
            loads_in(b"\xff\xfe\x00", "t", ZONE, NOW)
        with self.assertRaises(Refused):
            loads_in(b"start,indicated\n" + b"2031-05-04,7 t\n" * 20_001, "t", ZONE, NOW)

    def test_a_mass_is_kept_as_it_was_typed(self) -> None:
        self.assertEqual(mass_text("7,42", "t"), "7.42 t")
        self.assertRaises(NotAQuantity, mass_text, "-7", "t")
        self.assertRaises(NotAQuantity, mass_text, "seven", "t")


def weights(*stretches: tuple[float, float]) -> list[tuple[float, float]]:
    """Readings a second apart: (seconds, kg) for each stretch, one after the other."""
    found: list[tuple[float, float]] = []
    for seconds, kg in stretches:
        found += [(float(len(found) + n), kg) for n in range(int(seconds))]
    return found


class ByWeight(unittest.TestCase):
    def test_a_load_is_what_is_added_between_two_steady_stretches(self) -> None:
        (load,) = steady_changes(weights((5, 0), (3, 200), (3, 500), (6, 820)), band=10, least=100)
        self.assertEqual((load.mass, load.moved), (820.0, False))
        self.assertEqual(load.start, 5.0)

    def test_emptying_and_small_changes_are_no_loads(self) -> None:
        self.assertEqual(steady_changes(weights((6, 800), (6, 760), (6, 0)), band=10, least=100), [])
        self.assertEqual(steady_changes(weights((6, 0), (6, 80)), band=10, least=100), [])
        self.assertEqual(steady_changes([], band=10, least=100), [])

    def test_two_loads_one_after_the_other(self) -> None:
        loads = steady_changes(weights((5, 0), (2, 300), (6, 600), (2, 700), (6, 900)), band=10, least=100)
        self.assertEqual([round(load.mass) for load in loads], [600, 300])

    def test_one_that_fell_back_before_it_stood_had_moved(self) -> None:
        (load,) = steady_changes(weights((5, 0), (2, 850), (6, 820)), band=10, least=100)
        self.assertTrue(load.moved)
        (gone,) = steady_changes(weights((5, 0), (2, 850), (6, 0)), band=10, least=100)
        self.assertEqual((gone.mass, gone.moved), (850.0, True))


if __name__ == "__main__":
    unittest.main()
