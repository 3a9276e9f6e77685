"""Zero and span, several loads, known loads, corners, the output, the set-up sheet."""

import math
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.jobs import answered, assess, codes, figure, figures, job, states
from tests.core.test_document import refused
from wary.quantities import from_si, to_si

PLATFORM = {"capacity": "1500 kg", "division": "0.5 kg", "test_load": "500 kg"}


def a_pass(zero: float, span: float, after: float | None = None) -> dict[str, str]:
    row = {"zero": f"{zero} kg", "span": f"{span} kg"}
    return row | ({"zero_after": f"{after} kg"} if after is not None else {})


def spans(*passes: dict[str, str], **more: Any) -> dict[str, Any]:
    return answered("zero-span", **PLATFORM | {"passes": list(passes)} | more)


class ZeroSpan(unittest.TestCase):
    def test_in_order_as_found(self) -> None:
        answer = spans(a_pass(0, 500.5, 0.0))
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["within-limit"]))
        row = answer["results"]["passes"][0]
        self.assertEqual(
            (row["span_error"]["value"], row["net_error"]["value"], row["holds"]["value"]), (0.5, 0.5, True)
        )
        self.assertAlmostEqual(figure(answer, "test_share"), 100 / 3, 9)
        self.assertEqual(figure(answer, "divisions_tested"), 1000)
        # max(0.25, 0.1 % of 500) = 0.5 kg, three times as much at capacity.
        self.assertAlmostEqual(figure(answer, "proven_at_capacity"), 1.5, 9)

    def test_span_off_gives_the_factor_and_the_next_act(self) -> None:
        answer = spans(a_pass(0.25, 503.25), factor=2.0, factor_decimals=4)
        self.assertEqual((answer["call"], codes(answer)), ("adjust", ["span-off"]))
        self.assertEqual(figure(answer, "new_factor"), round(2 * 500 / 503, 4))
        self.assertAlmostEqual(figure(answer, "percent_change"), 100 * (500 / 503 - 1), 9)
        divides = spans(a_pass(0, 505), factor=2.0, direction="divides")
        self.assertAlmostEqual(figure(divides, "new_factor"), 2 * 505 / 500, 9)

    def test_a_zero_that_moved_comes_before_the_span(self) -> None:
        self.assertEqual(codes(spans(a_pass(0.5, 503))), ["zero-moved"])
        self.assertEqual(codes(spans(a_pass(0, 500, 0.3))), ["zero-moved"])

    def test_the_last_pass_is_judged(self) -> None:
        answer = spans(a_pass(4, 512), a_pass(0, 500.25, 0.25))
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["holds-after-adjustment"]))

    def test_four_passes_that_do_not_hold_are_a_fault(self) -> None:
        self.assertEqual(spans(*[a_pass(0, 503)] * 3)["call"], "adjust")
        answer = spans(*[a_pass(0, 503)] * 4)
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["sanity"]))

    def test_reversed_and_implausible(self) -> None:
        self.assertEqual(codes(spans(a_pass(0, -480))), ["reversed"])
        self.assertEqual(codes(spans(a_pass(0, 0))), ["reversed"])
        wide = spans(a_pass(0, 1500))
        self.assertEqual((wide["call"], codes(wide)), ("find-fault", ["implausible"]))
        self.assertEqual(wide["slips"][0]["parameter"], "test_load")
        self.assertEqual(spans(a_pass(0, 600), job_occasion="first")["call"], "adjust")
        # What captures its own span may show anything before a first one.
        self.assertEqual(spans(a_pass(0, 1600), job_occasion="first")["call"], "adjust")
        self.assertEqual(spans(a_pass(0, 1500), a_pass(0, 520))["call"], "adjust")

    def test_a_small_test_weight_proves_little_and_says_how_much(self) -> None:
        small = spans(a_pass(0, 20), test_load="20 kg", test_load_uncertainty="2 g")
        self.assertEqual(codes(small), ["within-limit", "proves-little"])
        self.assertAlmostEqual(figure(small, "proven_at_capacity"), (0.25 + 0.002) * 75, 9)
        self.assertEqual((small["reasons"][1]["up_to"], small["reasons"][1]["of"]), ("20 kg", "1500 kg"))
        self.assertEqual([one["code"] for one in small["suggestions"]], ["substitution-test"])
        # A quarter of the capacity, 375 kg, is the least that proves it.
        self.assertEqual(codes(spans(a_pass(0, 374), test_load="374 kg")), ["within-limit", "proves-little"])
        self.assertEqual(codes(spans(a_pass(0, 375), test_load="375 kg")), ["within-limit"])

    def test_a_value_keyed_wrongly_is_seen(self) -> None:
        answer = spans(a_pass(0, 500), test_load_keyed="501 kg")
        self.assertAlmostEqual(figure(answer, "keyed_error"), 0.2, 9)
        self.assertEqual(states(answer)["keyed-load"], "note")

    def test_a_limit_may_be_typed_or_come_from_the_profile_as_a_mass(self) -> None:
        self.assertEqual(spans(a_pass(0, 502), accept="0.5 %")["call"], "leave")
        self.assertEqual(spans(a_pass(0, 502), job_profile={"accept": "2 kg"})["call"], "leave")
        self.assertEqual(spans(a_pass(0, 502), job_profile={"accept": "1.9 kg"})["call"], "adjust")

    def test_missing_and_no_load(self) -> None:
        paths = [reason["path"] for reason in answered("zero-span", passes=[{"zero": "0 kg"}])["reasons"]]
        self.assertEqual(paths, ["inputs.division", "inputs.test_load", "inputs.passes[0].span"])
        self.assertEqual(codes(spans(a_pass(0, 1), test_load="0 kg")), ["no-load"])


class SpanPoints(unittest.TestCase):
    def test_counts_per_unit_noise_and_the_fit(self) -> None:
        loads, raw = [0, 2, 4, 6], [8000.0, 18010.0, 28000.0, 38000.0]
        points = [{"load": f"{load} kg", "raw": r} for load, r in zip(loads, raw, strict=True)]
        points.append({"load": "0 kg", "raw": 8004.0, "going": "down"})
        noise = [18000.0, 18006.0, 17994.0, 18000.0]
        answer = answered("span-points", points=points, noise=noise, job_profile={"accept": "0.2 %"})
        self.assertEqual(answer["call"], "leave")
        self.assertAlmostEqual(figure(answer, "counts_per_unit"), 5000, 9)
        self.assertEqual(figure(answer, "zero_raw"), 8000)
        self.assertAlmostEqual(figure(answer, "linearity"), 10 / 5000 / 6 * 100, 9)
        self.assertAlmostEqual(figure(answer, "zero_return"), 4 / 5000, 12)
        self.assertAlmostEqual(figure(answer, "hysteresis"), 4 / 5000 / 6 * 100, 9)
        self.assertAlmostEqual(figure(answer, "noise_sd"), math.sqrt(72 / 3) / 5000, 12)
        self.assertEqual(figure(answer, "smallest_useful_division"), 0.01)
        x, y = [*loads, 0], [*raw, 8004.0]
        mx, my = sum(x) / 5, sum(y) / 5
        sxx = sum((a - mx) ** 2 for a in x)
        slope = sum((a - mx) * (b - my) for a, b in zip(x, y, strict=True)) / sxx
        residual = math.sqrt(sum((b - my - slope * (a - mx)) ** 2 for a, b in zip(x, y, strict=True)) / 3)
        self.assertAlmostEqual(figure(answer, "fit_slope"), slope, 8)
        self.assertAlmostEqual(figure(answer, "fit_intercept"), my - slope * mx, 6)
        self.assertAlmostEqual(figure(answer, "fit_residual_sd"), residual, 8)
        self.assertAlmostEqual(figure(answer, "fit_slope_se"), residual / math.sqrt(sxx), 8)

    def test_expected_counts_come_from_the_plates(self) -> None:
        cells = [{"capacity": "10 kg", "sensitivity": "2 mV/V"}]
        points = [{"load": "0 kg", "raw": 0}, {"load": "5 kg", "raw": 262144}]
        given: dict[str, Any] = {"cells": cells, "adc_range": "4 mV/V", "adc_bits": 21, "points": points}
        answer = answered("span-points", **given)
        self.assertAlmostEqual(figure(answer, "expected_counts_per_unit"), 0.2 / 4 * 2**20, 6)
        self.assertEqual(answer["call"], "leave")
        half = answered("span-points", **given | {"cells": [{"capacity": "20 kg", "sensitivity": "2 mV/V"}]})
        self.assertEqual((half["call"], codes(half)), ("find-fault", ["sanity"]))
        self.assertTrue(half["slips"])

    def test_reversed_no_signal_and_too_few_loads(self) -> None:
        falls = answered("span-points", points=[{"load": "0 kg", "raw": 900}, {"load": "5 kg", "raw": 100}])
        self.assertEqual(codes(falls), ["reversed"])
        still = [{"load": "0 kg", "raw": 900}, {"load": "5 kg", "raw": 901}]
        self.assertEqual(codes(answered("span-points", points=still, adc_bits=16)), ["no-signal"])
        same = answered("span-points", points=[{"load": "5 kg", "raw": 1}, {"load": "5 kg", "raw": 2}])
        self.assertEqual((same["call"], codes(same)), ("not-ready", ["too-few-loads"]))

    def test_indicated_points_within_and_outside(self) -> None:
        points = [
            {"load": f"{load} kg", "indicated": f"{shown} kg"} for load, shown in ((0, 0), (500, 500.4), (1000, 1000.8))
        ]
        answer = answered("span-points", points=points, division="0.5 kg")
        self.assertEqual(answer["call"], "leave")
        self.assertEqual([round(e, 9) for e in figures(answer, "errors")], [0, 0.4, 0.8])
        points[2]["indicated"] = "1003 kg"
        points[1]["indicated"] = "501.5 kg"
        off = answered("span-points", points=points, division="0.5 kg")
        self.assertEqual((off["call"], codes(off)), ("adjust", ["outside-limit"]))
        points[1]["indicated"] = "504 kg"
        self.assertEqual(codes(answered("span-points", points=points)), ["linearity"])

    def test_two_kinds_of_reading_are_refused(self) -> None:
        points = [
            {"load": "0 kg", "raw": 1},
            {"load": "1 kg", "indicated": "1 kg"},
            {"load": "2 kg", "raw": 2, "indicated": "2 kg"},
        ]
        found = refused(job("span-points", points=points))
        self.assertEqual(set(found), {"inputs.points[1].indicated", "inputs.points[2].indicated"})


class KnownLoad(unittest.TestCase):
    ONE = [{"reference": "2000 kg", "indicated": "2030 kg"}]

    def test_one_run_adjusts_and_asks_to_be_confirmed(self) -> None:
        answer = answered("known-load", runs=self.ONE, factor=1.5, factor_decimals=3)
        self.assertEqual(
            (answer["call"], codes(answer)), ("adjust", ["outside-limit", "uncertainty-unknown", "single-run"])
        )
        self.assertEqual(figure(answer, "new_factor"), 1.478)
        self.assertNotIn("expanded_uncertainty", answer["results"])
        self.assertNotIn("certain:", answer["reasons"][0]["text"])
        known = answered("known-load", runs=self.ONE, factor=1.5, factor_decimals=3, indicated_division="10 kg")
        self.assertEqual(codes(known), ["outside-limit", "single-run"])

    def test_an_offset_taken_off_after_the_factor_is_counted_once_a_run(self) -> None:
        runs = self.ONE * 2
        after = answered("known-load", runs=runs, factor=1.5, offset="100 kg", offset_applied="after")
        self.assertAlmostEqual(figure(after, "new_factor"), 1.5 * 4200 / 4260, 9)
        self.assertAlmostEqual(figure(after, "predicted_error"), 0, 9)
        before = answered("known-load", runs=runs, factor=1.5, offset="100 kg", offset_applied="before")
        self.assertAlmostEqual(figure(before, "new_factor"), 1.5 * 4000 / 4060, 9)

    def test_the_example_of_the_job_file(self) -> None:
        runs = [("3154", "3195"), ("3306", "3350"), ("3078", "3120"), ("3190", "3235")]
        given = [{"reference": f"{r} kg", "indicated": f"{i} kg"} for r, i in runs]
        answer = answered("known-load", runs=given, factor=1.2840, factor_decimals=4, job_profile={"minimum_runs": 3})
        self.assertAlmostEqual(figure(answer, "pooled_ratio"), 12728 / 12900, 12)
        self.assertEqual(figure(answer, "new_factor"), 1.2669)
        self.assertAlmostEqual(figure(answer, "mean_error"), 1.3515, 4)
        self.assertAlmostEqual(figure(answer, "expanded_uncertainty"), 0.0755, 4)
        self.assertAlmostEqual(figure(answer, "predicted_error"), 0.0017, 4)


class CornerTest(unittest.TestCase):
    def corners(self, *shown: float, **more: Any) -> dict[str, Any]:
        positions = [{"label": label, "indicated": f"{s} kg"} for label, s in zip("ABCD", shown, strict=False)]
        return answered("corner-test", test_load="200 kg", division="0.5 kg", positions=positions, **more)

    def test_within_a_division_and_the_worst_named(self) -> None:
        answer = self.corners(200, 200.5, 200, 200)
        self.assertEqual((answer["call"], answer["results"]["worst"]["value"]), ("leave", "B"))
        off = self.corners(200, 199.5, 201, 200.5)
        self.assertEqual((off["call"], off["results"]["worst"]["value"]), ("adjust", "B"))
        self.assertEqual(figure(off, "range"), 1.5)
        self.assertEqual(figures(off, "errors"), [0, -0.5, 1, 0.5])
        self.assertAlmostEqual(figures(off, "trim_ratios")[1], 200.25 / 199.5, 10)
        self.assertEqual(self.corners(200, 199.5, 201, 200.5, limit="1.5 kg")["call"], "leave")

    def test_a_corner_that_does_not_carry_is_a_fault(self) -> None:
        self.assertEqual(self.corners(200, 99, 200, 200)["call"], "find-fault")
        self.assertEqual(self.corners(200, 100, 200, 200)["call"], "adjust")

    def test_fewer_than_two_is_not_ready(self) -> None:
        self.assertEqual(self.corners(200)["call"], "not-ready")
        self.assertEqual(codes(answered("corner-test", test_load="2 kg", division="1 g")), ["missing"])


class OutputCheck(unittest.TestCase):
    def test_errors_gain_and_zero(self) -> None:
        points = [{"load": f"{load} t", "measured": f"{4.02 + 1.99 * load} mA"} for load in (0, 4, 8)]
        answer = answered("output-check", full_load="8 t", points=points)
        self.assertEqual(answer["call"], "adjust")
        self.assertEqual(figures(answer, "expected"), [4, 12, 20])
        # measured = 0.995·expected + 0.04.
        self.assertAlmostEqual(figure(answer, "output_gain"), 1 / 0.995, 9)
        self.assertAlmostEqual(figure(answer, "output_zero"), -0.04 / 0.995, 9)
        self.assertAlmostEqual(figures(answer, "errors_of_span")[2], -0.06 / 16 * 100, 9)
        self.assertEqual(answered("output-check", full_load="8 t", points=points, tolerance="0.5 %")["call"], "leave")


class SetUpSheet(unittest.TestCase):
    def sheet(self, **settings: tuple[str, ...]) -> dict[str, Any]:
        rows = [
            dict(zip(("name", "found", "left", "digits"), (name, *texts), strict=False))
            for name, texts in settings.items()
        ]
        return answered("set-up-sheet", settings=rows)

    def test_what_differs_is_the_list_to_put_back_digit_by_digit(self) -> None:
        answer = self.sheet(capacity=("1500 kg",), filter=("4", "6"), code=("132", "142", "unit | filter | decimals"))
        names = [row["name"]["value"] for row in answer["results"]["differences"]]
        self.assertEqual((answer["call"], names), ("leave", ["Filter", "code, filter"]))

    def test_settings_that_cannot_stand(self) -> None:
        self.assertEqual(self.sheet(zero_tracking=("3",))["call"], "find-fault")
        self.assertEqual(self.sheet(power_up_zero=("30 %",))["call"], "find-fault")
        above = self.sheet(capacity=("1500 kg",), division=("0.5 kg",), change_over=("2000 kg",))
        self.assertEqual(states(above)["change-over"], "fail")
        self.assertEqual(states(self.sheet(capacity=("1500 kg",), division=("0.3 kg",)))["ladder"], "note")

    def test_back_to_factory_settings_only_with_a_complete_sheet(self) -> None:
        rows = [{"name": "capacity", "found": "1500 kg"}]
        answer = answered("set-up-sheet", settings=rows, factory_reset=True)
        self.assertEqual(codes(answer), ["sheet-incomplete"])


MASS_UNITS = st.sampled_from(["kg", "g", "t", "lb", "ston"])


class Properties(unittest.TestCase):
    @given(st.floats(0.01, 100), st.floats(-0.004, 0.004))
    def test_scaling_all_masses_scales_nothing_but_masses(self, scale: float, off: float) -> None:
        def at(factor: float) -> dict[str, Any]:
            mass = lambda m: f"{m * factor!r} kg"  # noqa: E731
            row = {"zero": mass(0), "span": mass(500 * (1 + off))}
            return answered("zero-span", capacity=mass(1500), division=mass(0.5), test_load=mass(500), passes=[row])

        plain, scaled = at(1), at(scale)
        self.assertEqual((plain["call"], codes(plain)), (scaled["call"], codes(scaled)))
        for name in ("test_share", "divisions_tested"):
            self.assertAlmostEqual(figure(plain, name), figure(scaled, name), 6)
        self.assertAlmostEqual(figure(plain, "proven_at_capacity") * scale, figure(scaled, "proven_at_capacity"), 6)

    @given(MASS_UNITS, MASS_UNITS, st.lists(st.floats(0.97, 1.03), min_size=3, max_size=6))
    def test_swapping_units_changes_no_call(self, one: str, other: str, ratios: list[float]) -> None:
        def runs(reference: str, indicated: str) -> list[dict[str, str]]:
            return [
                {
                    "reference": f"{from_si(2000, reference)!r} {reference}",
                    "indicated": f"{from_si(2000 * r, indicated)!r} {indicated}",
                }
                for r in ratios
            ]

        plain, swapped = (assess(job("known-load", runs=runs(*units))) for units in (("kg", "kg"), (one, other)))
        self.assertEqual((plain["call"], codes(plain)), (swapped["call"], codes(swapped)))
        self.assertAlmostEqual(to_si(1, one), to_si(1, one))
