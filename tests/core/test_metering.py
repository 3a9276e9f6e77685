"""Catches, constants and densities: every rule with its figures, and a constant that closes."""

import math
import unittest
from typing import Any

from tests.core.jobs import answered, codes, figure, figures, states
from tests.core.test_document import refused
from tests.core.visit import AtWork
from wary.drawings import Stairs
from wary.job.closing import hands_back
from wary.methods import all_methods
from wary.methods.method import Seen
from wary.simulators.metering import BeltSpreader, Meter


def catches(*nets: float, turns: float = 20, tare: float = 0.5, unit: str = "kg") -> list[dict[str, Any]]:
    return [{"gross": f"{round(net + tare, 6)} {unit}", "tare": f"{tare} {unit}", "amount": turns} for net in nets]


def metered(*nets: float, **more: Any) -> dict[str, Any]:
    inputs = {"per": "revolution", "old_value": "0.1 kg/rev", "runs": catches(*nets)}
    return answered("meter-catch", **(inputs | more))


class MeterCatches(unittest.TestCase):
    def test_two_that_agree_with_each_other_and_the_controller_are_left(self) -> None:
        answer = metered(2.0, 2.01)
        self.assertEqual(answer["call"], "leave")
        self.assertEqual([round(one, 9) for one in figures(answer, "values")], [0.1, 0.1005])
        # 4.01 kg over 40 turns; the controller's 0.1 against 0.10025.
        self.assertAlmostEqual(figure(answer, "mean"), 0.10025, 9)
        self.assertAlmostEqual(figure(answer, "difference"), (0.1 / 0.10025 - 1) * 100, 9)
        self.assertAlmostEqual(figure(answer, "change_last"), 0.5, 9)
        self.assertNotIn("new_value", answer["results"])

    def test_one_catch_says_nothing_of_the_next(self) -> None:
        self.assertEqual(metered(2.0)["call"], "keep-testing")
        aside = catches(2.0, 2.0)
        aside[0]["set_aside"] = "turned past the mark"
        self.assertEqual(metered(runs=aside)["call"], "keep-testing")

    def test_more_than_agreeing_catches_again_and_a_jump_is_a_fault(self) -> None:
        self.assertEqual(metered(2.0, 2.02)["call"], "leave")
        self.assertEqual(metered(2.0, 2.021)["call"], "keep-testing")
        self.assertEqual(metered(2.0, 2.06)["call"], "keep-testing")
        jumped = metered(2.0, 2.07)
        self.assertEqual((jumped["call"], codes(jumped)), ("find-fault", ["jumped"]))
        self.assertEqual(metered(2.0, 2.07, agree="2 %")["call"], "keep-testing")

    def test_the_mean_is_of_the_last_that_agree_one_with_the_next(self) -> None:
        # 1.90 is far from 2.00, which agrees with 2.01, which agrees with 2.015.
        answer = metered(1.90, 2.00, 2.01, 2.015)
        self.assertAlmostEqual(figure(answer, "mean"), 6.025 / 60, 9)
        alone = metered(2.0, 2.05)
        self.assertAlmostEqual(figure(alone, "mean"), 2.05 / 20, 9)

    def test_off_by_more_than_the_limit_keys_in_the_mean(self) -> None:
        answer = metered(2.1, 2.1)
        self.assertEqual(answer["call"], "adjust")
        self.assertAlmostEqual(figure(answer, "new_value"), 0.105, 9)
        self.assertEqual(answer["results"]["new_value"]["unit"], "kg/rev")
        fresh = answered("meter-catch", per="count", runs=catches(2.1, 2.1))
        self.assertEqual((fresh["call"], fresh["results"]["new_value"]["unit"]), ("adjust", "kg/count"))

    def test_far_from_the_old_value_is_implausible_but_not_at_first(self) -> None:
        self.assertEqual(metered(2.4, 2.4)["call"], "find-fault")
        self.assertEqual(metered(2.4, 2.4, job_occasion="first")["call"], "adjust")
        # |ln(0.1161/0.1)| = 0.1493, within 0.15.
        self.assertEqual(metered(2.322, 2.322)["call"], "adjust")

    def test_pounds_for_kilograms_are_named_as_the_slip(self) -> None:
        answer = metered(4.409, 4.409)
        self.assertTrue(any("lb" in slip["text"] for slip in answer["slips"]), answer["slips"])

    def test_swapped_containers_are_named_at_the_first_catch(self) -> None:
        other = {"old_value": "0.2 kg/rev", "net": "2 kg", "amount": 20}
        answer = metered(4.0, other_tank=other)
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["containers-swapped"]))
        right = metered(2.0, 2.0, other_tank=other | {"net": "4 kg"})
        self.assertEqual((right["call"], states(right)["containers"]), ("leave", "pass"))

    def test_both_tanks_are_drawn_beside_each_other_and_crossed_where_they_were_exchanged(self) -> None:
        method = all_methods()["meter-catch"]
        for net, crossed in (("2 kg", True), ("4 kg", False)):
            other = {"old_value": "0.2 kg/rev", "net": net, "amount": 20}
            run = {"gross": "4 kg" if crossed else "2 kg", "zeroed": True, "amount": 20}
            inputs = {
                "per": "revolution",
                "old_value": "0.1 kg/rev",
                "tank": "front",
                "runs": [run],
                "other_tank": other,
            }
            drawn = method.draw(method.inputs.model_validate(inputs), Seen())
            assert isinstance(drawn, Stairs) and drawn.beside and drawn.meter
            self.assertEqual((drawn.exchanged, drawn.beside.net, drawn.meter.label), (crossed, net, "front"))
        alone = method.draw(method.inputs.model_validate({"runs": [{"gross": "2 kg", "amount": 20}]}), Seen())
        assert isinstance(alone, Stairs)
        self.assertIsNone(alone.beside)

    def test_a_scale_zeroed_with_the_container_on_it_takes_no_tare(self) -> None:
        zeroed = [{"gross": "2 kg", "zeroed": True, "amount": 20}] * 2
        self.assertEqual(metered(runs=zeroed)["call"], "leave")
        both = [{"gross": "2 kg", "zeroed": True, "tare": "1 kg", "amount": 20}]
        self.assertIn("inputs.runs[0].tare", refused({"method": "meter-catch", "inputs": {"runs": both}}))
        vessel = [{"start_mass": "502 kg", "end_mass": "500 kg", "amount": 20}] * 2
        self.assertEqual(metered(runs=vessel)["call"], "leave")
        mixed = [{"gross": "2 kg", "start_mass": "502 kg"}]
        self.assertIn("inputs.runs[0].start_mass", refused({"method": "meter-catch", "inputs": {"runs": mixed}}))
        unlike = {"per": "count", "old_value": "0.1 kg/rev"}
        self.assertIn("inputs.old_value", refused({"method": "meter-catch", "inputs": unlike}))

    def test_not_primed_not_as_set_or_nothing_left_after_the_tare(self) -> None:
        self.assertEqual(codes(metered(2.0, 2.0, primed=False)), ["not-primed"])
        self.assertEqual(codes(metered(2.0, 2.0, set_up_matches=False)), ["set-up"])
        self.assertEqual(codes(metered(0.0)), ["no-load"])
        missing = answered("meter-catch", runs=[{"gross": "2 kg"}])
        self.assertEqual([reason["path"] for reason in missing["reasons"]], ["inputs.per", "inputs.runs[0].tare", "inputs.runs[0].amount"])  # fmt: skip

    def test_a_catch_smaller_than_its_scale_can_show_is_noted(self) -> None:
        # 2·0.05·√(2/12)/(0.01/3) = 12.25 kg.
        answer = metered(2.0, 2.0, reference_division="0.05 kg")
        self.assertEqual(states(answer)["enough-caught"], "note")
        self.assertAlmostEqual(figure(answer, "smallest_amount"), 12.25, 9)

    def test_pounds_and_ounces_on_a_display_that_wants_pounds_are_warned_about(self) -> None:
        runs = [{"gross": "5 lb 8 oz", "tare": "1 lb", "amount": 20}] * 2
        answer = answered("meter-catch", per="revolution", runs=runs, display_unit="lb")
        self.assertEqual(states(answer)["display-unit"], "note")
        self.assertAlmostEqual(figure(answer, "mean"), 4.5 / 20, 9)
        plain = answered("meter-catch", per="revolution", runs=catches(2, 2, unit="lb"), display_unit="lb")
        self.assertNotIn("display-unit", states(plain))

    def test_a_meter_that_is_not_primed_jumps_and_a_primed_one_agrees(self) -> None:
        empty, full = Meter(1, primed=False), Meter(1)
        jumped = [empty.catch(10) for _ in range(2)]
        self.assertGreater(abs(jumped[1] / jumped[0] - 1), 0.03)
        nets = [full.catch(20) for _ in range(3)]
        self.assertEqual(metered(runs=catches(*nets), old_value="0.12 kg/rev")["call"], "leave")

    def test_the_meter_is_drawn_with_its_turns_its_container_and_what_was_caught(self) -> None:
        job = AtWork("meter", "meter-catch").enter({"inputs.per": "revolution"})
        job.rows("runs", {"gross": "2.5 kg", "tare": "0.5 kg", "amount": "20"})
        drawn = all_methods()["meter-catch"].draw(job.part().given, Seen())
        assert drawn and drawn.shape == "stairs" and drawn.meter
        self.assertEqual((drawn.meter.turns, drawn.meter.net, drawn.meter.tare), ("20 turns", "2 kg", "tare 0.5 kg"))
        job.rows("runs", {"gross": "2 kg", "zeroed": "yes", "amount": "20"})
        drawn = all_methods()["meter-catch"].draw(job.part().given, Seen())
        assert drawn and drawn.shape == "stairs" and drawn.meter
        self.assertEqual(drawn.meter.tare, "zeroed with it on")

    def test_what_was_caught_goes_back_to_the_tank(self) -> None:
        job = AtWork("meter", "meter-catch").enter({"inputs.per": "revolution", "inputs.old_value": "0.1 kg/rev"})
        job.rows("runs", *({"gross": "2.6 kg", "tare": "0.5 kg", "amount": "20"} for _ in range(2)))
        self.assertEqual((job.part().assessment.call, hands_back(job.snapshot).plates), ("adjust", {}))
        job.enter({"inputs.keyed_value": "0.15 kg/rev"})
        self.assertEqual(job.part().assessment.call, "adjust")
        self.assertTrue(job.snapshot.not_valid)
        job.enter({"inputs.keyed_value": "0.105 kg/rev"})
        self.assertEqual((job.part().assessment.call, job.snapshot.not_valid), ("leave", []))
        self.assertEqual(hands_back(job.snapshot).plates, {"old_value": "0.105 kg/rev"})


def constant(*runs: tuple[float, float, float], **more: Any) -> dict[str, Any]:
    rows = [{"constant": c, "controller": f"{k} kg", "net": f"{n} kg"} for c, k, n in runs]
    return answered("constant-catch", **({"runs": rows} | more))


class Constants(unittest.TestCase):
    def test_each_catch_gives_the_next_constant(self) -> None:
        answer = constant((8000, 105, 100))
        self.assertEqual(answer["call"], "adjust")
        # 8000·105/100.
        self.assertEqual((figures(answer, "nexts"), figure(answer, "new_factor")), ([8400], 8400))
        self.assertEqual((figures(answer, "differences"), figures(answer, "difference_shares")), ([5], [5]))
        other = constant((8000, 105, 100), direction="multiplies")
        self.assertEqual(figure(other, "new_factor"), round(8000 * 100 / 105))

    def test_from_three_on_it_is_the_best_of_all(self) -> None:
        answer = constant((8000, 105, 100), (8400, 104, 102), (8500, 103, 101.5))
        nexts = [8400, 8400 * 104 / 102, 8500 * 103 / 101.5]
        best = (nexts[0] * 100 + nexts[1] * 102 + nexts[2] * 101.5) / 303.5
        self.assertEqual(figure(answer, "best_constant"), math.floor(best + 0.5))
        self.assertEqual(figure(answer, "new_factor"), figure(answer, "best_constant"))
        two = constant((8000, 105, 100), (8400, 104, 102))
        self.assertEqual(figure(two, "new_factor"), math.floor(nexts[1] + 0.5))

    def test_within_the_limit_it_is_closed(self) -> None:
        closed = constant((8000, 101, 100))
        self.assertEqual((closed["call"], codes(closed)), ("leave", ["closed"]))
        self.assertEqual(constant((8000, 101.1, 100))["call"], "adjust")

    def test_a_catch_that_cannot_prove_it_right_can_still_show_it_wrong(self) -> None:
        # 2·0.5·√(1/12)/(0.01/3) = 86.6, up to 87 kg.
        small = constant((8000, 55, 50), reference_division="0.5 kg")
        self.assertEqual((small["call"], codes(small)), ("adjust", ["outside-limit", "coarse"]))
        self.assertEqual(figure(small, "smallest_amount"), 87)
        # A division of 2 kg needs 347 kg: 318 for 300 is wrong all the same, 301 is within its step.
        wrong = constant((8000, 300, 318), reference_division="2 kg")
        self.assertEqual((wrong["call"], codes(wrong)), ("adjust", ["outside-limit", "coarse"]))
        near = constant((8000, 300, 301), reference_division="2 kg")
        self.assertEqual((near["call"], codes(near)), ("leave", ["below-reference-division", "proves-little"]))
        self.assertEqual(near["reasons"][1]["up_to"], "301 kg")
        self.assertEqual(constant((8000, 105, 100), reference_division="0.5 kg")["call"], "adjust")

    def test_a_digit_missing_is_far_off_and_says_where_to_look(self) -> None:
        self.assertEqual(constant((800, 10, 100))["call"], "find-fault")
        self.assertEqual(constant((800, 10, 100), job_occasion="first")["call"], "adjust")
        self.assertTrue(constant((8000, 220.46, 100))["slips"])

    def test_steps_that_alternate_and_do_not_shrink_are_a_fault(self) -> None:
        answer = constant((8000, 105, 100), (8400, 95, 100), (8000, 105, 100))
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["alternating"]))
        shrinking = constant((8000, 105, 100), (8400, 97, 100), (8200, 102, 100))
        self.assertEqual(shrinking["call"], "adjust")
        same_way = constant((8000, 105, 100), (8100, 105, 100), (8200, 106, 100))
        self.assertEqual(same_way["call"], "adjust")

    def test_not_purged_and_a_density_keyed_wrongly_come_first(self) -> None:
        self.assertEqual(codes(constant((8000, 105, 100), purged=False)), ["not-purged"])
        wrong = constant((8000, 105, 100), density="0.9 kg/L", density_keyed="0.92 kg/L")
        self.assertEqual(codes(wrong), ["density"])
        self.assertEqual(constant((8000, 105, 100), density="0.9 kg/L", density_keyed="0.905 kg/L")["call"], "adjust")

    def test_the_machine_s_own_weight_and_two_ways_of_one_thing(self) -> None:
        own = [{"constant": 8000, "controller": "100 kg", "start": "900 kg", "end": "800 kg"}]
        self.assertEqual(answered("constant-catch", runs=own)["call"], "leave")
        both = [{"net": "100 kg", "gross": "120 kg"}]
        self.assertIn("inputs.runs[0].gross", refused({"method": "constant-catch", "inputs": {"runs": both}}))

    def test_it_closes_within_one_per_cent_in_nearly_every_made_up_visit(self) -> None:
        closed = 0
        visits = 200
        for seed in range(visits):
            machine = BeltSpreader(seed)
            at = 8000 * (0.88 + 0.24 * (seed * 37 % 100) / 100)
            rows: list[dict[str, Any]] = []
            for _ in range(8):
                caught = machine.catch(at)
                rows.append({"constant": at, "controller": f"{caught.controller} kg", "gross": f"{caught.net + 18.4:.1f} kg", "tare": "18.4 kg"})  # fmt: skip
                answer = answered("constant-catch", runs=rows, reference_division="0.2 kg")
                if answer["call"] != "adjust":
                    break
                at = figure(answer, "new_factor")
            closed += answer["call"] == "leave" and abs(at / 8000 - 1) <= 0.011
        self.assertGreaterEqual(closed / visits, 0.94)

    def test_a_constant_keyed_in_and_not_caught_again_is_not_valid(self) -> None:
        job = AtWork("spreader", "constant-catch")
        job.rows("runs", {"constant": "8000", "controller": "105 kg", "net": "100 kg"})
        self.assertFalse(job.snapshot.not_valid)
        job.rows("runs", {"constant": "8400"})
        self.assertTrue(job.snapshot.not_valid)
        job.enter({"runs.r2.controller": "100.2 kg", "runs.r2.net": "100 kg"})
        self.assertFalse(job.snapshot.not_valid)
        self.assertEqual(hands_back(job.snapshot).plates, {"constant": "8400"})


def filled(*nets: float, **more: Any) -> dict[str, Any]:
    rows = [{"net": f"{net} kg"} for net in nets]
    return answered("density-check", **({"volume": "10 L", "fills": rows} | more))


class Densities(unittest.TestCase):
    def test_fills_that_agree_with_the_keyed_density(self) -> None:
        answer = filled(9.0, 9.05, density_keyed="0.9 kg/L")
        self.assertEqual(answer["call"], "leave")
        self.assertAlmostEqual(figure(answer, "density"), 0.9025, 9)
        self.assertAlmostEqual(figure(answer, "spread"), 0.05 / 9.025 * 100, 9)
        self.assertAlmostEqual(figure(answer, "difference"), (0.9 / 0.9025 - 1) * 100, 9)

    def test_none_keyed_or_another_is_keyed_in(self) -> None:
        self.assertEqual(filled(9.0, 9.05)["call"], "adjust")
        self.assertEqual(filled(9.0, 9.05, density_keyed="0.95 kg/L")["call"], "adjust")

    def test_fills_that_range_are_filled_again_and_then_a_fault(self) -> None:
        self.assertEqual(filled(9.0)["call"], "keep-testing")
        self.assertEqual(filled(9.0, 9.2)["call"], "keep-testing")
        self.assertEqual(filled(9.0, 9.2, 9.1)["call"], "keep-testing")
        self.assertEqual(filled(9.0, 9.2, 9.1, 9.0)["call"], "find-fault")
        rows = [{"net": "9 kg"}, {"net": "9.4 kg", "set_aside": "not struck level"}, {"net": "9.02 kg"}]
        self.assertEqual(answered("density-check", volume="10 L", fills=rows)["call"], "adjust")

    def test_in_pounds_and_cubic_feet(self) -> None:
        rows = [{"gross": "61 lb", "tare": "5 lb"}, {"gross": "61.2 lb", "tare": "5 lb"}]
        answer = answered("density-check", volume="1 ft3", fills=rows)
        self.assertEqual(answer["results"]["density"]["unit"], "lb/ft3")
        self.assertAlmostEqual(figure(answer, "density"), 56.1, 6)

    def test_the_density_measured_in_a_visit_counts_for_the_constant(self) -> None:
        job = AtWork("spreader").enter({"density/inputs.volume": "10 L", "inputs.density_keyed": "0.95 kg/L"})
        job.rows("density/fills", {"net": "9 kg"}, {"net": "9.02 kg"})
        job.rows("runs", {"constant": "8000", "controller": "100 kg", "net": "100 kg"})
        self.assertEqual(job.part().built.file["inputs"]["density"].rpartition(" ")[2], "kg/L")
        self.assertEqual([reason.code for reason in job.part().assessment.reasons], ["density"])
