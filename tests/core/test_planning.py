"""Visits, drift, sums, and forms of correction."""

import unittest
from typing import Any

from tests.core.jobs import AGREEING, belt, job
from wary.job.file import read
from wary.job.sheet import sections
from wary.machines import all_machines
from wary.machines.machine import Part
from wary.methods import all_methods
from wary.rules.drift import Visit, drift, intervals
from wary.rules.forms import Form, InForm, in_form
from wary.sums import SUMS
from wary.sums.examples import EXAMPLES


class Visits(unittest.TestCase):
    def test_a_belt_visit_is_zero_weights_material_adjust_zero_as_left(self) -> None:
        rows = sections(all_machines()["belt"].visit)
        self.assertEqual([(row.part, row.title) for row in rows], [
            ("set-up", "Set-up sheet"), ("length", "Belt length"), ("zero", "Zero"), ("weights", "Test weights"), ("", "Material test"),
            ("zero-left", "Zero again"), ("", "Material test"),
        ])  # fmt: skip
        self.assertEqual([row.optional for row in rows], [True, True, False, False, False, False, False])
        self.assertEqual(rows[4].steps[-1], "adjust")
        self.assertEqual(rows[6].steps, ("as-left", "close"))
        self.assertNotIn("zero", rows[4].steps)
        # A part that asks for a new figure has the step at which it is keyed in; only the main part closes.
        self.assertIn("adjust", rows[3].steps)
        self.assertNotIn("close", rows[3].steps)

    def test_one_method_alone_keeps_all_its_steps(self) -> None:
        rows = sections((Part("", "belt-material-test"),))
        self.assertEqual(len(rows), 1)
        self.assertIn("zero", rows[0].steps)

    def test_every_kind_has_a_visit_with_one_main_part_of_its_own_methods(self) -> None:
        for key, machine in all_machines().items():
            self.assertEqual(sum(not part.key for part in machine.visit), 1, key)
            self.assertLessEqual({part.method for part in machine.visit}, set(machine.methods()), key)
            for kind, event in machine.events.items():
                self.assertLessEqual(set(event.stale), set(all_methods()), (key, event.words))
                self.assertLessEqual(set(machine.stale_by(kind)), set(machine.methods()), (key, event.words))


class Drift(unittest.TestCase):
    VISITS = [Visit(100.0 * n, 0.05 * n, None) for n in range(6)]

    def test_drift_is_as_found_now_less_as_left_last_time(self) -> None:
        visits = [Visit(0, 0.3, 0.1), Visit(50, 0.4, None), Visit(90, -0.2, 0.0, anew=True), Visit(120, 0.1, None)]
        self.assertEqual([(i.days, round(i.moved, 9)) for i in intervals(visits)], [(50, 0.3), (30, 0.1)])

    def test_four_intervals_give_a_rate_and_when_the_limit_is_left(self) -> None:
        self.assertIsNone(drift(self.VISITS[:4], 0.5, 90))
        found = drift(self.VISITS, 0.5, 90)
        assert found is not None and found.leaves_in is not None
        # From one visit to the next 0.05 in 100 days, untouched: found − found before.
        self.assertAlmostEqual(found.rate, 0.0005, 12)
        self.assertAlmostEqual(found.leaves_in, (0.5 - 0.25) / 0.0005, 6)

    def test_a_drift_that_may_be_none_leads_nowhere(self) -> None:
        visits = [Visit(100.0 * n, (-1) ** n * 0.2, 0.0) for n in range(6)]
        found = drift(visits, 0.5, 90)
        assert found is not None
        self.assertIsNone(found.leaves_in)


class Sums(unittest.TestCase):
    def lines(self, key: str, **given: Any) -> dict[str, str]:
        one = SUMS[key]
        empty = dict.fromkeys(one.inputs.model_fields)
        read_in = one.inputs.model_validate({k: v for k, v in (empty | given).items() if v is not None})
        return {line.title: line.figure for line in one.work(read_in)}

    def test_each_has_an_example_that_it_can_work_out(self) -> None:
        self.assertEqual(set(EXAMPLES), set(SUMS))
        for key, one in SUMS.items():
            answer = one.work_out({name: (text, "") for name, text in EXAMPLES[key].items()})
            self.assertEqual(answer.problems, {}, key)
            self.assertTrue(answer.lines, key)

    def test_each_gives_its_figure_with_the_numbers_in_the_formula(self) -> None:
        self.assertEqual(
            self.lines("weight-rate", test_mass="60 kg", idler_spacing="1.2 m", speed="2 m/s")[
                "Rate that it stands for"
            ],
            "360 t/h",
        )
        cells = self.lines(
            "cells",
            cell_count=4,
            cell_capacity="5 t",
            cell_sensitivity="2 mV/V",
            dead_load="3 t",
            division="5 kg",
            excitation="10 V",
        )
        self.assertEqual(
            (cells["Signal when empty"], cells["and at this excitation"], cells["Usable capacity"]),
            ("0.3 mV/V", "5 µV", "17 t"),
        )
        self.assertEqual(
            self.lines("ladder", capacity="1500 kg", division="0.3 kg")["Division on the ladder"], "0.5 kg"
        )
        self.assertEqual(
            self.lines("loop", full_load="8 t", load="4 t", current="20 mA")["Current for this load"], "12 mA"
        )
        self.assertEqual(self.lines("amount", reference_division="20 kg", accept="0.5 %")["Weigh at least"], "9800 kg")
        self.assertEqual(
            self.lines("stops", low="1 t", inside="5.5 t", batch="1.5 t")["Batches left until the low stop"], "3"
        )
        self.assertIn("+0.381", self.lines("gravity", latitude="10 deg", latitude_used="60 deg")["It reads"])

    def test_vehicles_filling_tickets_payload_and_pace(self) -> None:
        self.assertEqual(
            self.lines("fill-target", empty_weight="200 kg"),
            {"Fill the heavy one to": "350 kg", "Add to the empty one": "150 kg"},
        )
        self.assertIn("nothing", self.lines("fill-target", empty_weight="40 kg")["Fill the heavy one to"])
        shows = self.lines("ticket-shows", ticket_division="20 kg", payload="4 t", accept="1 %")
        self.assertEqual((shows["One division is"], shows["Divisions in the payload"]), ("0.50 %", "200"))
        self.assertEqual(shows["Payload that this ticket can decide on"], "4900 kg")
        self.assertEqual(
            self.lines("payload", empty_ticket="11640 kg", heavy_ticket="23.34 t")["Payload"], "11\u202f700 kg"
        )
        self.assertIn("changed places", self.lines("payload", empty_ticket="9 t", heavy_ticket="8 t")["Payload"])
        pace = self.lines("pace", slow_time="8 s", quick_time="4 s", this_time="6 s")
        self.assertEqual(list(pace.values()), ["2 times as quick", "33 %"])
        self.assertIn("no quicker", self.lines("pace", slow_time="4 s", quick_time="4 s")["Pace"])

    def test_give_away_sampling_another_size_and_a_tolerance_both_ways(self) -> None:
        money = self.lines("give-away", mean_error="2 g", packs_per_year=250000, cost=2.4)
        self.assertEqual(money, {"Given away in a year": "500 kg", "In money": "1200"})
        self.assertEqual(self.lines("give-away", mean_error="-2 g", packs_per_year=10)["Given away in a year"], "0 kg")
        plan = self.lines("sampling-plan", every=60, target="1 kg", packs_per_hour=1200, cost=3)
        self.assertEqual(plan["Bad packs that may go unseen"], "59")
        self.assertEqual((plan["They hold"], plan["In money"], plan["A sample every"]), ("59 kg", "177", "3 min"))
        self.assertEqual(plan["Half of it would be unseen with one in"], "30")
        small = self.lines("another-size", target="100 g", bulk_limit="250 g", fast="60 g", medium="11 g", fine="3 g")
        self.assertEqual((small["Fast"], small["Medium"], small["Fine"]), ("100 g", "11 g", "3 g"))
        self.assertEqual(self.lines("another-size", target="1 kg", bulk_limit="250 g", fast="60 g", medium="11 g", fine="3 g")["Fast"], "0.06 kg")  # fmt: skip
        both = self.lines("tolerance-both-ways", amount="400 g", tolerance="0.3 %")
        self.assertEqual((both["As a mass"], both["As a share"]), ("± 1.2 g", "± 0.300 %"))
        self.assertEqual(
            self.lines("tolerance-both-ways", amount="400 g", tolerance="1.2 g")["As a share"], "± 0.300 %"
        )

    def test_drills_and_spreaders_in_metric_and_us(self) -> None:
        flow = self.lines("rate-width-speed", rate="120 kg/ha", width="6 m", speed="10 km/h", per_turn="0.5 kg/rev")
        # 120 · 6 · 10 / 600 = 12 kg a minute; 24 turns.
        self.assertEqual(list(flow.values()), ["12 kg/min", "24 a minute"])
        us = self.lines("rate-width-speed", rate="100 lb/ac", width="20 ft", speed="5 mph")
        self.assertEqual(us["It has to give"], "20.2 lb/min")
        field = self.lines("field", length="400 m", width="250 m", rate="120 kg/ha")
        self.assertEqual(field, {"Area": "10 ha", "Material": "1200 kg"})
        self.assertEqual(self.lines("field", area="3 ac", rate="100 lb/ac")["Material"], "300 lb")
        ground = self.lines("ground-per-turn", per_turn="0.5 kg/rev", rate="120 kg/ha", width="6 m")
        # 0.5 / 0.012 / 6.
        self.assertEqual(ground["Ground for one turn"], "6.944 m")
        turns = self.lines("turns-to-catch", division="0.05 kg", accept="1 %", per_turn="0.5 kg/rev")
        self.assertEqual(turns, {"Catch at least": "12.25 kg", "Turns to catch": "24.5"})

    def test_what_is_not_typed_asks_for_nothing(self) -> None:
        for key in SUMS:
            self.assertEqual(self.lines(key), {}, key)


class Forms(unittest.TestCase):
    def form(self, form: Form, document: dict[str, Any]) -> InForm:
        found = read(document)
        answer = found.assess()
        assert found.method and answer.key_in
        read_off = found.method.should_read(found.given, answer)
        return in_form(form, answer.key_in, "trim", read_off)

    def material(self, form: Form, **more: Any) -> InForm:
        return self.form(form, belt(AGREEING, factor=1.142, factor_decimals=4, **more))

    def test_a_correction_in_per_cent_as_a_reading_and_in_steps(self) -> None:
        self.assertEqual(self.material("percent").figure, "−1.38 %")
        self.assertEqual(self.material("reading").figure, "21.12 t")
        # 21.12 − 21.40 t in steps of 10 kg.
        self.assertEqual(self.material("steps", indicated_division="10 kg").figure, "28 down")
        self.assertIsNone(self.material("steps").figure)
        self.assertEqual(self.material("factor"), InForm("Key in as trim, 4 decimals", "1.1262"))

    def test_zero_and_span_make_it_show_the_test_load(self) -> None:
        row = {"zero": "0 kg", "span": "402 kg"}
        document = job("zero-span", capacity="1500 kg", division="0.5 kg", test_load="400 kg", passes=[row], factor=1.0)
        self.assertEqual(self.form("reading", document).figure, "400 kg")
