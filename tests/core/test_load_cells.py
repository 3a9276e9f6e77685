"""Load cells, gravity, the current loop; cell checks and spans from the data sheet."""

import math
import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, figures, states
from tests.core.test_document import refused
from wary.methods.cells.arithmetic import Cells, gravity, loop_current, loop_load, next_step


def cell(empty: Any = None, pressed: Any = None, released: Any = None, **more: Any) -> dict[str, Any]:
    row = {"capacity": "1000 kg", "sensitivity": "2 mV/V", "empty": empty, "pressed": pressed, "released": released}
    return {key: found for key, found in (row | more).items() if found is not None}


class Arithmetic(unittest.TestCase):
    def test_signal_of_equal_cells_is_mean_sensitivity_times_load_over_all_capacity(self) -> None:
        cells = Cells([1000.0] * 4, [2.0] * 4)
        self.assertAlmostEqual(cells.signal(1500), 2.0 * 1500 / 4000, 12)
        # 0.2 kg of 4 t at 2 mV/V and 5 V: 0.0001 mV/V, 0.5 µV.
        self.assertAlmostEqual(cells.microvolts(0.2, 5), 0.5, 12)

    def test_unlike_cells_each_bring_their_own_share(self) -> None:
        cells = Cells([1000.0, 2000.0], [2.0, 3.0])
        self.assertAlmostEqual(cells.signal(600), 600 / 4 * (2 / 1000 + 3 / 2000), 12)

    def test_gravity_between_equator_and_pole(self) -> None:
        self.assertAlmostEqual(gravity(0, 0), 9.780327, 6)
        self.assertAlmostEqual(gravity(90, 0), 9.780327 * 1.0053024, 6)
        self.assertAlmostEqual(gravity(45, 0) - gravity(45, 1000), 3.086e-3, 9)

    def test_the_loop_both_ways_and_the_ladder(self) -> None:
        self.assertEqual([loop_current(w, 8) for w in (0, 4, 8)], [4, 12, 20])
        self.assertAlmostEqual(loop_load(7.2, 8), 1.6, 12)
        self.assertEqual([next_step(d) for d in (0.1, 0.2, 0.5, 1, 20)], [0.2, 0.5, 1, 2, 50])


class CellCheck(unittest.TestCase):
    def test_cells_in_order(self) -> None:
        cells = [cell(f"{e} mV/V", f"{e + 0.05} mV/V", f"{e + 0.001} mV/V") for e in (0.50, 0.46, 0.52, 0.49)]
        answer = answered(
            "cell-check",
            cells=cells,
            cell_count=4,
            dead_load="1000 kg",
            live_capacity="2000 kg",
            division="1 kg",
            excitation="10 V",
        )
        self.assertEqual(answer["call"], "leave")
        self.assertEqual(figure(answer, "mean_sensitivity"), 2)
        self.assertEqual(figure(answer, "rated_load"), 4000)
        self.assertEqual(figure(answer, "usable_capacity"), 3000)
        self.assertEqual(figure(answer, "share_used"), 75)
        self.assertAlmostEqual(figure(answer, "signal_at_capacity"), 1.5, 12)
        self.assertAlmostEqual(figure(answer, "signal_per_division"), 5, 9)
        self.assertAlmostEqual(figure(answer, "expected_empty_signal"), 0.5, 12)
        for share, e in zip(figures(answer, "shares"), (0.50, 0.46, 0.52, 0.49), strict=True):
            self.assertAlmostEqual(share, 100 * e / 1.97, 9)
        self.assertAlmostEqual(figure(answer, "balance"), 0.46 / 0.52, 12)
        self.assertEqual(set(states(answer).values()), {"pass"})

    def test_what_is_missing_is_named_by_its_path(self) -> None:
        answer = answered("cell-check", cells=[cell(), {"label": "B", "capacity": "1 t"}])
        self.assertEqual(
            [(r["code"], r["path"]) for r in answer["reasons"]], [("missing", "inputs.cells[1].sensitivity")]
        )
        self.assertEqual(answered("cell-check")["reasons"][0]["path"], "inputs.cells")

    def test_each_check_fails_by_its_own_code(self) -> None:
        low = "0.2 mV/V"
        for code, given in (
            ("sensitivity-range", {"cells": [cell(sensitivity="20 mV/V")]}),
            ("cell-count", {"cells": [cell()] * 3, "cell_count": 4}),
            ("responds", {"cells": [cell("0.5 mV/V", "0.4 mV/V")]}),
            ("returns", {"cells": [cell("0.5 mV/V", "0.6 mV/V", "0.506 mV/V")]}),
            ("balance", {"cells": [cell("0.5 mV/V"), cell("0.24 mV/V")]}),
            ("empty-signal", {"cells": [cell(low), cell(low)], "dead_load": "500 kg"}),
            ("empty-signal", {"cells": [cell(8000), cell(9400)], "expected_raw": 8200, "raw_band": 1000}),
            ("running-swing", {"cells": [cell(running_low="80 kg", running_high="104 kg")]}),
        ):
            answer = answered("cell-check", **given)
            self.assertEqual((answer["call"], codes(answer)), ("find-fault", [code]), given)
            self.assertTrue(answer["look"])

    def test_the_edges_are_inclusive(self) -> None:
        for given in (
            {"cells": [cell(sensitivity="0.4 mV/V"), cell(sensitivity="4.5 mV/V")]},
            {"cells": [cell("0.5 mV/V", "0.6 mV/V", "0.505 mV/V")]},
            {"cells": [cell("0.5 mV/V"), cell("0.25 mV/V")]},
            {"cells": [cell("0.3 mV/V"), cell("0.3 mV/V")], "dead_load": "250 kg"},
            {"cells": [cell(running_low="70 kg", running_high="90 kg")]},
        ):
            self.assertEqual(answered("cell-check", **given)["call"], "leave", given)

    def test_a_balance_between_a_half_and_four_fifths_is_a_note(self) -> None:
        answer = answered("cell-check", cells=[cell("0.5 mV/V"), cell("0.35 mV/V")])
        self.assertEqual((answer["call"], states(answer)["balance"]), ("leave", "note"))

    def test_more_live_load_than_the_cells_carry_is_not_ready(self) -> None:
        answer = answered("cell-check", cells=[cell()] * 2, dead_load="500 kg", live_capacity="1501 kg")
        self.assertEqual((answer["call"], codes(answer)), ("not-ready", ["overload"]))
        full = answered("cell-check", cells=[cell()] * 2, dead_load="500 kg", live_capacity="1500 kg")
        self.assertEqual((full["call"], states(full)["headroom"]), ("leave", "note"))

    def test_a_wrong_count_and_a_sensitivity_off_by_ten_are_slips(self) -> None:
        count = answered("cell-check", cells=[cell()] * 3, cell_count=4)["slips"][0]
        self.assertEqual((count["parameter"], count["likely"], count["predicted_ratio"]), ("cell_count", "3", 0.75))
        tenfold = answered("cell-check", cells=[cell(sensitivity="20 mV/V")])["slips"][0]
        self.assertEqual((tenfold["likely"], tenfold["predicted_ratio"]), ("2 mV/V", 10))

    def test_readings_of_two_kinds_are_refused_where_they_differ(self) -> None:
        found = refused({"method": "cell-check", "inputs": {"cells": [cell("0.5 mV/V"), cell(8000, "3 kg")]}})
        self.assertEqual(set(found), {"inputs.cells[1].empty", "inputs.cells[1].pressed"})

    def test_how_a_cell_behaves_is_said(self) -> None:
        answer = answered("cell-check", cells=[cell(100, 90), cell(100, 100), cell(100, 140, 120)])
        text = " ".join(reason["text"] for reason in answer["reasons"])
        for words in ("upside down", "open, or the load goes past", "does not fall back"):
            self.assertIn(words, text)

    def test_an_assumed_sensitivity_makes_it_provisional(self) -> None:
        self.assertIn("provisional", codes(answered("cell-check", cells=[cell(sensitivity_source="assumed")])))


class DataSheetSpan(unittest.TestCase):
    SHEET = {
        "cell_count": 4, "capacity": "5 t", "sensitivity": "2 mV/V", "dead_load": "3 t", "live_capacity": "12 t",
        "division": "5 kg", "excitation": "10 V", "mains_frequency": "50 Hz",
    }  # fmt: skip

    def test_the_signals_to_key_in_and_always_provisional(self) -> None:
        answer = answered("data-sheet-span", **self.SHEET)
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["provisional"]))
        self.assertAlmostEqual(figure(answer, "zero_signal"), 2 * 3 / 20, 12)
        self.assertAlmostEqual(figure(answer, "span_signal"), 2 * 12 / 20, 12)
        self.assertEqual(answer["results"]["usable_capacity"], {"value": 17, "unit": "t"})
        self.assertAlmostEqual(figure(answer, "signal_per_division"), 2 * 0.005 / 20 * 10 * 1000, 9)

    def test_cells_one_by_one_give_the_same(self) -> None:
        cells = [{"capacity": "5 t", "sensitivity": "2 mV/V"}] * 4
        sheet = {
            key: found for key, found in self.SHEET.items() if key not in ("cell_count", "capacity", "sensitivity")
        }
        one_by_one = answered("data-sheet-span", cells=cells, **sheet)
        self.assertEqual(one_by_one["results"], answered("data-sheet-span", **self.SHEET)["results"])

    def test_what_is_missing_overloaded_or_impossible(self) -> None:
        paths = [reason["path"] for reason in answered("data-sheet-span", capacity="5 t")["reasons"]]
        self.assertEqual(paths, ["inputs.cell_count", "inputs.sensitivity", "inputs.live_capacity"])
        over = answered("data-sheet-span", **self.SHEET | {"live_capacity": "18 t"})
        self.assertEqual(codes(over), ["overload"])
        off = answered("data-sheet-span", **self.SHEET | {"sensitivity": "0.2 mV/V"})
        self.assertEqual(
            (off["call"], codes(off), off["slips"][0]["likely"]), ("find-fault", ["sensitivity-range"], "2 mV/V")
        )

    def test_noise_is_warned_of(self) -> None:
        fine = answered("data-sheet-span", **self.SHEET | {"division": "0.2 kg"})
        self.assertEqual({states(fine)["divisions"], states(fine)["signal-per-division"]}, {"note"})
        odd = answered("data-sheet-span", **self.SHEET | {"division": "3 kg"})
        self.assertEqual(states(odd)["ladder"], "note")
        self.assertTrue(math.isfinite(figure(odd, "mean_sensitivity")))


if __name__ == "__main__":
    unittest.main()
