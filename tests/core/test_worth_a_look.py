"""What may speak for a suspect in a visit, what is worth a look, and what stands of it in a job file."""

import unittest

from tests.core.test_machine_judged import FREE, NAMED, PLATES, codes, next_key, platform, states
from tests.core.visit import AtWork, loads
from wary.job.closing import summary
from wary.job.file import Refused, read
from wary.job.written import written
from wary.machines import all_machines
from wary.suspects.chances import (
    believed,
)
from wary.suspects.suspect import (
    NOT_FINE,
    Past,
)


class WhatMaySpeak(unittest.TestCase):
    def test_a_note_of_a_method_shows_no_suspect(self) -> None:
        doses = {"inputs.target": "400 g", "inputs.indicated_division": "1 g"}
        work = AtWork("doser").enter(doses, "record")
        work.rows("settle_times", *({"value": one} for one in ("0.4 s", "2.9 s", "0.4 s")))
        self.assertNotIn(states(work.snapshot.machine)["shakes"], ("likely", "shown"))

    def test_a_set_up_of_which_nothing_was_compared_clears_nothing(self) -> None:
        rows = [{"name": "filter", "found": "5"}, {"name": "seal", "found": "whole"}]
        work = AtWork("belt").rows("set-up/settings", *rows)
        self.assertEqual(states(work.snapshot.machine)["spacing"], "open")
        said = work.snapshot.parts["set-up"].assessment.reasons[0].text
        self.assertIn("2 lines kept, 0 of them compared with a plate", said)

    def test_what_was_compared_clears_what_it_would_change_and_nothing_else(self) -> None:
        plates = {"plates.idler_spacing": "1 m", "plates.angle": "10 deg", "plates.pulses_per_revolution": "16", "plates.cell_sensitivity": "2 mV/V"}  # fmt: skip
        told = {"idler_spacing": "1 m", "angle": "10 deg", "pulses": "16", "characteristic_value": "2 mV/V"}
        for lacking in (None, *told):
            rows = [{"name": name, "found": text} for name, text in told.items() if name != lacking]
            work = AtWork("belt").enter(plates).rows("set-up/settings", *rows)
            state = states(work.snapshot.machine)["spacing"]
            self.assertEqual(state, "open" if lacking else "ruled-out", lacking)

    def test_a_sheet_that_was_compared_whole_stays_seen_and_one_that_was_not_does_not(self) -> None:
        plates = {"plates.idler_spacing": "1 m", "plates.angle": "10 deg"}
        told = [{"name": "idler_spacing", "found": "1 m"}, {"name": "angle", "found": "10 deg"}]
        whole = AtWork("belt").enter(plates).rows("set-up/settings", *told)
        self.assertIn("plates", summary(whole.snapshot)["seen"])
        half = AtWork("belt").enter(plates).rows("set-up/settings", told[0])
        self.assertNotIn("plates", summary(half.snapshot)["seen"])

    def test_the_total_of_pads_does_not_speak_for_a_corner(self) -> None:
        work = AtWork("pads").enter(NAMED)
        work.rows("corners/positions", *({"label": str(n), "indicated": "1000 kg"} for n in (1, 2)))
        pads = {"corners/inputs.total_shown": "2600 kg", "corners/inputs.division": "5 kg"}
        machine = work.enter(pads).snapshot.machine
        self.assertEqual(machine.call, "find-fault")
        self.assertNotIn(states(machine)["corner"], ("likely", "shown"))

    def test_a_container_that_was_not_taken_off_is_the_call_at_once(self) -> None:
        work = AtWork("cart", "load-comparison").enter({"inputs.indicated_division": "1 kg"}, "record")
        # The display still holds the container of 250 kg.
        rows = [
            {"gross": f"{load + 250} kg", "tare": "250 kg", "indicated": f"{load + 250} kg"}
            for load in (2000, 2001, 1999)
        ]
        machine = work.rows("runs", *rows).snapshot.machine
        self.assertEqual((machine.call, machine.shown), ("find-fault", "entry"))
        self.assertEqual(codes(machine)[0], "suspect")
        self.assertIn("container", machine.reasons[0].text)

    def test_a_factor_on_record_was_set_once_also_at_the_first_visit_that_is_written_down(self) -> None:
        known = platform("398.2 kg").enter(FREE).enter({"occasion": "first"}).snapshot.machine
        self.assertEqual(codes(known)[0], "look-first")

    def test_what_was_never_set_is_set_at_once(self) -> None:
        first = platform("398.2 kg").enter(FREE).enter({"occasion": "first", "inputs.factor": ""}).snapshot.machine
        self.assertEqual(first.call, "adjust")
        self.assertFalse({one.suspect.key for one in first.suspects if "zero-moved" in one.suspect.taken_for})
        shown = (
            platform("398.2 kg")
            .enter({"occasion": "first", "inputs.factor": "", "looked.gap": NOT_FINE})
            .snapshot.machine
        )
        self.assertEqual((shown.call, shown.shown), ("find-fault", "frame"))

    def test_what_is_not_there_is_not_suspected(self) -> None:
        work = AtWork("spreader").enter({"looked.drip": "not-here"})
        self.assertEqual(states(work.snapshot.machine)["leaks"], "not-here")
        kept = AtWork("spreader", past=Past(lacks=frozenset({"drip"})))
        self.assertEqual(states(kept.snapshot.machine)["leaks"], "not-here")
        self.assertEqual(kept.snapshot.machine.chances.of.get("leaks"), None)

    def test_what_was_seen_stays_seen(self) -> None:
        work = AtWork("platform", past=Past(visits=1, seen={"count": "on 4 May"})).enter(PLATES, "record").enter(NAMED)
        count = next(one for one in work.snapshot.machine.suspects if one.suspect.key == "cell-count")
        self.assertEqual(count.state, "said")
        self.assertIn("Seen on 4 May, nothing done since: the same number.", count.against[0].text)

    def test_a_zero_that_has_moved_is_said_in_a_sentence(self) -> None:
        machine = platform("398.2 kg", after="-1.5 kg").snapshot.machine
        self.assertIn("Its zero has moved. Before it is touched", machine.reasons[0].text)

    def test_no_look_waits_for_a_comparison_that_comes_later(self) -> None:
        work = AtWork("belt").enter({"zero/inputs.rated_rate": "400 t/h"}, "record")
        work.rows("zero/passes", *({"value": one} for one in ("1.2 t/h", "1.3 t/h", "1.2 t/h")))
        machine = work.snapshot.machine
        self.assertNotIn("same-again", {one.look.key for one in machine.looks})


class Priced(unittest.TestCase):
    def test_a_machine_that_was_looked_over_is_asked_less(self) -> None:
        lasting = {
            look.look.key: "on 4 May"
            for one in all_machines()["belt"].all_suspects()
            for look in one.tells
            if look.look.lasts
        }
        fresh, known = (
            AtWork("belt", "belt-material-test", past=past).enter({"inputs.zero_done": "job", "inputs.factor": "1.2", "inputs.factor_decimals": "4"}, "record").rows("runs", *loads(-2.5)).snapshot.machine
            for past in (Past(), Past(visits=1, seen=lasting))
        )  # fmt: skip
        self.assertEqual(fresh.call, "keep-testing")
        self.assertIn("plates", {one.look.key for one in fresh.looks})
        self.assertNotIn("plates", {one.look.key for one in known.looks})
        self.assertLess(known.chances.otherwise, fresh.chances.otherwise)

    def test_a_profile_says_what_it_costs_and_that_all_are_wanted(self) -> None:
        dear = platform("398.2 kg", profile={"name": "vessel", "harm_minutes": 600}).enter(FREE).snapshot.machine
        cheap = platform("398.2 kg", profile={"name": "vessel", "harm_minutes": 1}).enter(FREE).snapshot.machine
        self.assertGreater(len(dear.looks), len(cheap.looks))
        self.assertEqual([one.look.key for one in cheap.looks if not one.own], [])
        every = platform("398.2 kg", profile={"name": "vessel", "looks": "all"}).enter(FREE).snapshot.machine
        self.assertGreater(len(every.looks), len(dear.looks) - 1)

    def test_looks_of_one_walk_stand_on_one_card(self) -> None:
        dear = platform("398.2 kg", profile={"name": "vessel", "harm_minutes": 600}).enter({"skipped.corners": "later"})
        card = dear.snapshot.machine.card
        self.assertGreater(len(card), 1)
        self.assertEqual(len({one.look.walk for one in card}), 1)
        self.assertLess(dear.snapshot.machine.card_minutes, sum(one.look.minutes for one in card))

    def test_what_the_call_says_of_something_else_stands_with_it(self) -> None:
        work = platform("398.2 kg").enter(FREE)
        while (machine := work.snapshot.machine).call == "keep-testing":
            work.enter({f"looked.{next_key(machine)}": "fine"})
        said = next(one for one in machine.reasons if one.code == "otherwise")
        self.assertRegex(said.text, r"^Something other than the figure: about 1 in \d+\.$")
        self.assertEqual(said.more["chance"], believed(machine.chances.otherwise))

    def test_a_trial_is_moved_first_and_looked_at_before_it_is_closed(self) -> None:
        catch = {"constant": "8000", "controller": "200 kg", "gross": "202.4 kg", "tare": "12 kg"}
        work = AtWork("spreader").enter({"inputs.reference_division": "0.2 kg", "inputs.purged": "yes"}, "record").rows("runs", catch)  # fmt: skip
        self.assertEqual(work.snapshot.machine.call, "adjust")
        closed = work.rows("runs", catch | {"constant": "8403", "gross": "212.1 kg"}).snapshot.machine
        self.assertEqual((closed.call, codes(closed)[0]), ("keep-testing", "look-first"))
        self.assertIn("Before it is closed", closed.reasons[0].text)

    def test_a_trial_that_does_not_answer_is_looked_at_at_once(self) -> None:
        catch = {"constant": "8000", "controller": "200 kg", "gross": "202.4 kg", "tare": "12 kg"}
        work = AtWork("spreader").enter({"inputs.reference_division": "0.2 kg", "inputs.purged": "yes"}, "record")
        machine = work.rows("runs", catch, catch | {"constant": "8403", "gross": "203.5 kg"}).snapshot.machine
        self.assertEqual((machine.call, codes(machine)[0]), ("keep-testing", "look-first"))


class BesideOneMoreRun(unittest.TestCase):
    def cart(self, **looked: str) -> AtWork:
        work = AtWork("cart", "load-comparison").enter({"inputs.indicated_division": "1 kg"}, "record")
        work.rows("runs", {"reference": "2000 kg", "indicated": "1940 kg"})
        return work.enter({f"looked.{key}": text for key, text in looked.items()})

    def test_one_more_run_is_asked_for_and_no_look_beside_it(self) -> None:
        machine = self.cart().snapshot.machine
        self.assertEqual((machine.call, machine.looks), ("keep-testing", ()))

    def test_where_something_speaks_for_a_suspect_the_look_at_it_stands_beside_the_run(self) -> None:
        machine = self.cart(captured="not-fine").snapshot.machine
        likely = {one.suspect.key for one in machine.suspects if one.state == "likely"}
        self.assertTrue(likely)
        self.assertTrue(machine.looks)
        self.assertTrue(all(likely & set(one.of) for one in machine.looks))


class PutBack(unittest.TestCase):
    def test_the_settings_from_before_stand_first_whatever_they_are_called(self) -> None:
        catch = {"constant": "8000", "controller": "200 kg", "gross": "202.4 kg", "tare": "12 kg"}
        work = AtWork("spreader").rows("runs", catch, catch | {"constant": "8403", "gross": "212.1 kg"})
        machine = work.enter({"looked.drip": NOT_FINE}).snapshot.machine
        self.assertEqual(codes(machine)[:2], ["put-back", "suspect"])
        self.assertIn("put the old figure, 8000, back first", machine.reasons[0].text)


class InAFile(unittest.TestCase):
    def test_what_was_known_before_is_written_and_read_again(self) -> None:
        past = Past(3, 1, 40, {"water": 2.0}, {"count": "on 4 May"}, frozenset({"box"}))
        work = platform("398.2 kg", past=past, found={"frame": 1.0}, drifts=True).enter(FREE)
        file = written(work.snapshot)
        self.assertEqual(file["history"]["seen"], {"count": "on 4 May"})
        again = read(file).judge()["machine"]
        was = file["assessment"]["machine"]
        self.assertEqual((again["call"], again["otherwise"]), (was["call"], was["otherwise"]))
        for name in ("state", "chance"):
            self.assertEqual(
                {one["key"]: one[name] for one in again["suspects"]}, {one["key"]: one[name] for one in was["suspects"]}
            )

    def test_a_history_that_cannot_be_is_refused_in_a_sentence(self) -> None:
        for bad in ({"visits": -1}, {"found": {"frame": "often"}}, {"seen": {"count": 4}}, {"lacks": "box"}):
            with self.subTest(bad), self.assertRaises(Refused) as raised:
                read({"format": "wary-beacon/job", "version": 1, "method": "zero-span", "machine": "platform", "inputs": {}, "history": bad})  # fmt: skip
            self.assertIn("expected", raised.exception.refusals[0].text)
