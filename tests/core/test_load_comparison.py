"""Whole loads against tickets: passes, means, an intercept told from a factor."""

import math
import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, job, runs, states
from wary.job.file import Refused, read
from wary.rules.evidence import student


def loads(pairs: list[tuple[str, str]], **inputs: Any) -> dict[str, Any]:
    return answered("load-comparison", runs=runs(pairs), **inputs)


class Loads(unittest.TestCase):
    SPREAD = [("10", "10.2"), ("12", "12.2"), ("14", "14.2"), ("16", "16.2")]

    def test_an_error_that_is_the_same_at_every_load_is_no_factor_s(self) -> None:
        answer = loads(self.SPREAD)
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["intercept"]))
        self.assertAlmostEqual(figure(answer, "intercept"), 0.2, places=9)
        self.assertAlmostEqual(figure(answer, "intercept_low"), 0.2, places=6)
        growing = loads([("4", "4.12"), ("8", "8.24"), ("12", "12.36"), ("16", "16.48")])
        self.assertEqual(growing["call"], "adjust")
        self.assertAlmostEqual(figure(growing, "intercept"), 0.0, places=9)

    def test_the_band_of_the_intercept(self) -> None:
        pairs = [("4", "4.1"), ("8", "8.3"), ("12", "12.3"), ("16", "16.6")]
        answer = loads(pairs, job_profile={"repeat": "10 %"})
        r, i = [4.0, 8.0, 12.0, 16.0], [4.1, 8.3, 12.3, 16.6]
        slope = sum((a - 10) * (b - 10.325) for a, b in zip(r, i, strict=True)) / 80
        cut = 10.325 - slope * 10
        left = sum((b - cut - slope * a) ** 2 for a, b in zip(r, i, strict=True))
        half = student(2) * math.sqrt(left / 2) * math.sqrt(1 / 4 + 100 / 80)
        self.assertAlmostEqual(figure(answer, "intercept"), cut, places=9)
        self.assertAlmostEqual(figure(answer, "intercept_high") - cut, half, places=9)
        # A coarse display leaves more open than the scatter.
        coarse = loads(pairs, job_profile={"repeat": "10 %"}, indicated_division="2 t")
        wide = 1.96 * 2 / math.sqrt(12) * math.sqrt(1 / 4 + 100 / 80)
        self.assertAlmostEqual(figure(coarse, "intercept_high") - cut, wide, places=9)

    def test_loads_that_are_alike_or_few_draw_no_line(self) -> None:
        self.assertNotIn("intercept", loads(self.SPREAD[:3])["results"])
        alike = loads([("10", "10"), ("10.5", "10.5"), ("11", "11"), ("10.2", "10.2")])
        self.assertNotIn("intercept", alike["results"])

    def test_passes_add_up_and_leave_more_open(self) -> None:
        run = {"reference": "9 t", "passes": ["3.01 t", "3.00 t", "3.02 t"]}
        answer = answered("load-comparison", runs=[run, run, run], indicated_division="20 kg")
        self.assertAlmostEqual(answer["results"]["runs"][0]["indicated"]["value"], 9.03, places=9)
        one = 0.02 / math.sqrt(12) / 9
        self.assertAlmostEqual(
            figure(answer, "expanded_uncertainty"), 1.96 * one * math.sqrt(3) / math.sqrt(3) * 100, places=9
        )
        with self.assertRaises(Refused) as refused:
            read(job("load-comparison", runs=[run | {"indicated": "9 t"}]))
        self.assertEqual(refused.exception.refusals[0].path, "inputs.runs[0].passes")
        short = {"reference": "12 t", "passes": ["3 t", "3 t", "3 t"]}
        missed = answered("load-comparison", runs=[short] * 3, plates={"passes_per_load": 4})
        self.assertIn("passes_per_load", [slip["parameter"] for slip in missed["slips"]])

    def test_moving_off_early_and_a_cart_that_was_not_empty_are_faults(self) -> None:
        good = [("4", "4"), ("8", "8"), ("12", "12")]
        self.assertEqual(loads(good, stood_still=True, zero_checked=True)["call"], "leave")
        for name in ("stood_still", "zero_checked"):
            answer = loads(good, **{name: False})
            self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["sanity"]))
            # It is said before more runs are asked for.
            self.assertEqual(codes(loads(good[:2], **{name: False})), ["sanity"])

    def test_the_mean_of_several_loads_says_nothing_of_their_spread(self) -> None:
        mean = {"reference": "10 t", "indicated": "10.2 t", "loads": 5}
        answer = answered("load-comparison", runs=[mean])
        self.assertEqual((answer["call"], codes(answer)), ("keep-testing", ["spread-unknown"]))
        self.assertEqual(codes(answered("load-comparison", runs=[mean], stood_still=False)), ["sanity"])
        mixed = answered("load-comparison", runs=[mean, *runs([("4", "4"), ("8", "8")])])
        self.assertEqual(states(mixed)["averages"], "note")
        self.assertNotIn("spread-unknown", codes(mixed))

    def test_as_left_and_one_freak_are_judged_as_everywhere(self) -> None:
        found = [("4", "4.12"), ("8", "8.24"), ("12", "12.36"), ("16", "17.9")]
        answer = loads(found)
        self.assertEqual(codes(answer), ["not-repeating"])
        self.assertEqual(answer["suggestions"][0]["run"], 3)
        left = answered(
            "load-comparison",
            runs=runs(found[:3]),
            as_left=runs([("4", "4"), ("8", "8.01"), ("12", "12")]),
            factor=1.03,
        )
        self.assertEqual((left["call"], left["as_found"]["call"]), ("leave", "adjust"))

    def test_the_hitch_s_share_is_watched(self) -> None:
        usual = {"hitch_low": "8 %", "hitch_high": "15 %"}
        for share, state in (("7 %", "note"), ("8 %", "pass"), ("16 %", "note")):
            self.assertEqual(states(loads(self.SPREAD, hitch_share=share, **usual))["hitch-share"], state)

    def test_its_limits_are_the_cart_s_or_those_named(self) -> None:
        pairs = [("4", "4.06"), ("8", "8.12"), ("12", "12.18")]
        self.assertEqual(loads(pairs)["call"], "adjust")
        self.assertEqual(loads(pairs, job_profile={"name": "lift-arm"})["call"], "leave")


if __name__ == "__main__":
    unittest.main()
