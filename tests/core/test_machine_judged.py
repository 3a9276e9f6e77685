"""The machine is judged, not the list: suspects, looks, the call of the machine, skipped looks, cures, the block in a job file."""

import unittest
from typing import Any

from tests.core.jobs import job
from tests.core.visit import AtWork, loads
from wary.job.closing import Asked, faults_found, in_the_way, summary
from wary.job.file import Refused, read
from wary.job.judging import MachineCall
from wary.job.view import bench, bench_again, changes
from wary.machines import all_machines
from wary.suspects.suspect import FINDINGS, NOT_FINE
from wary.suspects.weighing import decides

PLATES = {"inputs.capacity": "1500 kg", "inputs.division": "0.5 kg", "inputs.test_load": "400 kg", "inputs.factor": "1.0042", "inputs.factor_decimals": "4"}  # fmt: skip
NAMED = {"references.r1.name": "Weights A", "references.r1.certificate": "C 12"}
FREE = {"tick.look.free": "yes"}
CELLS = [{"label": str(n), "capacity": "500 kg", "sensitivity": "2 mV/V", "empty": "0.2 mV/V", "pressed": "0.3 mV/V", "released": "0.2 mV/V"} for n in range(1, 5)]  # fmt: skip


def platform(*spans: str, after: str = "0.0 kg", **subject: Any) -> AtWork:
    """A platform's visit whose passes showed these with 400 kg on; its look-first list is not ticked."""
    work = AtWork("platform", **subject).enter(PLATES, "record").enter(NAMED)
    return work.rows("passes", *({"zero": "0.0 kg", "span": span, "zero_after": after} for span in spans))


def corners(work: AtWork, *shown: str) -> AtWork:
    return work.rows("corners/positions", *({"label": str(n), "indicated": one} for n, one in enumerate(shown, 1)))


def codes(call: MachineCall) -> list[str]:
    return [reason.code for reason in call.reasons]


def states(call: MachineCall) -> dict[str, str]:
    return {one.suspect.key: one.state for one in call.suspects}


def next_key(call: MachineCall) -> str:
    return call.next_look.look.key if call.next_look else ""


class Suspects(unittest.TestCase):
    def test_every_kind_lists_suspects_that_can_be_looked_at(self) -> None:
        for key, kind in all_machines().items():
            suspects = kind.all_suspects()
            with self.subTest(key):
                self.assertGreaterEqual(len(kind.suspects), 5)
                self.assertEqual(len({one.key for one in suspects}), len(suspects))
                for one in suspects:
                    self.assertTrue(set(one.taken_for) <= set(FINDINGS), one.key)
                    self.assertTrue(any(tell.sure or tell.clears for tell in one.tells), one.key)
                    self.assertTrue(any(decides(tell) and 0 < tell.look.minutes <= 10 for tell in one.tells), one.key)
                    self.assertTrue(
                        one.title[0].islower() and one.cure.endswith(".") and one.again.endswith("."), one.key
                    )
                    self.assertTrue(one.event in kind.events or one.event in FALLS_BACK, (one.key, one.event))

    def test_a_look_has_one_meaning_wherever_it_is_used(self) -> None:
        looks = {t.look for kind in all_machines().values() for one in kind.all_suspects() for t in one.tells}
        self.assertEqual(len({look.key for look in looks}), len(looks))
        for look in looks:
            self.assertTrue(look.words and look.fine and look.not_fine and look.minutes >= 0, look.key)

    def test_the_looks_that_ticks_and_inputs_hold_are_looks_that_exist(self) -> None:
        for kind in all_machines().values():
            known = {tell.look.key for one in kind.all_suspects() for tell in one.tells}
            everywhere = {t.look.key for k in all_machines().values() for one in k.all_suspects() for t in one.tells}
            for method in kind.methods().values():
                keys = {look for step in method.steps for item in step.items for look in item.looks}
                self.assertTrue(keys <= everywhere, (method.key, keys - everywhere))
                for one in method.reads:
                    self.assertIn(one.look.key, everywhere, method.key)
            self.assertTrue(known)


FALLS_BACK = frozenset({"instrument", "cleaned", "frame", "carrier"})
"""Events that are logged as something else where a kind has none of that name."""


class LookFirst(unittest.TestCase):
    def test_a_span_that_is_off_is_not_touched_before_the_corners(self) -> None:
        call = platform("398.2 kg").snapshot.machine
        self.assertEqual((call.call, codes(call)[0]), ("keep-testing", "look-first"))
        self.assertEqual(next_key(call), "corners")
        self.assertEqual(call.next_look and call.next_look.path, "corners/inputs.positions.indicated")
        self.assertEqual(
            states(call)["cell-count"], "ruled-out", "0.45 % is far less than a wrong number of cells makes"
        )

    def test_the_method_s_own_call_stays_what_it_is(self) -> None:
        self.assertEqual(platform("398.2 kg").part().assessment.call, "adjust")

    def test_what_is_ticked_in_the_list_is_not_asked_again(self) -> None:
        before, after = platform("398.2 kg"), platform("398.2 kg").enter(FREE)
        self.assertEqual(states(before.snapshot.machine)["frame"], "open")
        self.assertEqual(states(after.snapshot.machine)["frame"], "said")
        self.assertNotIn("gap", {one.look.key for one in after.snapshot.machine.looks})

    def looked(self, work: AtWork, most: int = 12) -> list[str]:
        """Makes the look that is asked for next until none is, each fine; those that were asked for."""
        asked: list[str] = []
        while (call := work.snapshot.machine).call == "keep-testing" and call.next_look and len(asked) < most:
            key = call.next_look.look.key
            asked.append(key)
            if key == "corners":
                corners(work, "398.2 kg", "398.2 kg", "398.0 kg", "398.2 kg").enter({"corners/inputs.test_load": "400 kg", "corners/inputs.division": "0.5 kg"})  # fmt: skip
            else:
                work.enter({f"looked.{key}": "fine"})
        return asked

    def test_looks_that_are_worth_their_minutes_and_then_it_may_be_adjusted(self) -> None:
        work = platform("398.2 kg").enter(FREE)
        asked = self.looked(work)
        self.assertEqual(asked[0], "corners")
        self.assertLessEqual(len(asked), 3)
        call = work.snapshot.machine
        self.assertEqual(call.call, "adjust")
        self.assertTrue({"within-limit", "span-off"} & set(codes(call)))

    def test_where_all_are_wanted_three_are_asked_for_beyond_the_visit_s_own_and_one_of_what_drifts(self) -> None:
        whole = {"profile": {"name": "vessel", "looks": "all"}}
        plain, drifting = (
            platform("398.2 kg", **whole).enter(FREE),
            platform("398.2 kg", drifts=True, **whole).enter(FREE),
        )
        drifting.enter({"tick.look.tracking": "yes", "corners/tick.look.free": "yes"})
        asked = self.looked(plain)
        self.assertEqual((asked[0], len(asked)), ("corners", 4))
        self.assertLess(len(self.looked(drifting)), 4)

    def test_a_look_may_be_skipped_for_a_reason_that_stands_with_the_call(self) -> None:
        work = platform("398.2 kg").enter(FREE)
        for _ in range(8):
            call = work.snapshot.machine
            if not call.next_look:
                break
            work.enter({f"skipped.{call.next_look.look.key}": "no weights at hand"})
        call = work.snapshot.machine
        self.assertEqual((call.call, codes(call)[-1]), ("adjust", "not-looked-at"))
        self.assertIn("no weights at hand", call.reasons[-1].text)
        self.assertIn("corner", str(call.reasons[-1].more["suspects"]))

    def test_a_look_that_was_made_after_all_is_not_called_skipped(self) -> None:
        work = platform("398.2 kg").enter(FREE)
        first = next_key(work.enter({"skipped.corners": "no weights at hand"}).snapshot.machine)
        work.enter({f"skipped.{first}": "no time"}).enter({f"looked.{first}": "fine"})
        self.looked(work)
        self.assertEqual(work.snapshot.machine.call, "adjust")
        said = work.snapshot.machine.reasons[-1].text
        self.assertIn("Skipped: no weights at hand.", said)
        self.assertNotIn("no time", said)

    def test_an_organisation_may_say_that_none_is_skipped_and_how_long_one_may_take(self) -> None:
        strict = platform("398.2 kg", profile={"name": "vessel", "skip_looks": False}).enter(FREE)
        before = next_key(strict.snapshot.machine)
        self.assertEqual(next_key(strict.enter({f"skipped.{before}": "no time"}).snapshot.machine), before)
        quick = platform("398.2 kg", profile={"name": "vessel", "look_minutes": 2}).enter(FREE).snapshot.machine
        self.assertLessEqual(max(one.look.minutes for one in quick.looks), 2)

    def test_what_was_found_here_before_is_looked_at_first(self) -> None:
        plain = platform("398.2 kg", found={}).enter({"skipped.corners": "later"}).snapshot.machine
        before = platform("398.2 kg", found={"water": 5}).enter({"skipped.corners": "later"}).snapshot.machine
        self.assertNotEqual(next_key(plain), "still")
        self.assertEqual(next_key(before), "still")

    def test_the_usual_visit_of_a_machine_in_order_asks_for_nothing_more(self) -> None:
        call = platform("400.0 kg").snapshot.machine
        self.assertEqual((call.call, call.looks), ("leave", ()))


class Shown(unittest.TestCase):
    def test_a_weak_corner_is_a_fault_and_not_a_span(self) -> None:
        work = corners(platform("398.2 kg"), "400.0 kg", "400.0 kg", "392.5 kg", "400.0 kg")
        call = work.enter({"corners/inputs.test_load": "400 kg", "corners/inputs.division": "0.5 kg"}).snapshot.machine
        self.assertEqual((call.call, call.shown), ("find-fault", "corner"))
        self.assertIn("Trim that corner", call.reasons[0].text)
        self.assertIn("The corners differ by 7.5 kg", call.reasons[0].text)

    def test_what_an_eye_finds_is_shown_whatever_the_readings_say(self) -> None:
        call = platform("400.0 kg").enter({"looked.lines": NOT_FINE}).snapshot.machine
        self.assertEqual((call.call, call.shown), ("find-fault", "lines"))

    def test_a_zero_that_does_not_come_back_is_likely_of_several_until_one_is_left(self) -> None:
        work = platform("398.2 kg", after="-1.5 kg")
        found = states(work.snapshot.machine)
        self.assertEqual([found[key] for key in ("frame", "lines", "left-in")], ["likely"] * 3)
        work.enter({"looked.gap": "fine", "looked.caked": "fine"})
        self.assertEqual(states(work.snapshot.machine)["lines"], "likely", "others pass for it, and were not looked at")
        work.enter({f"looked.{key}": "fine" for key in ("settled", "still", "knock", "straight")})
        call = work.snapshot.machine
        self.assertEqual((call.shown, states(call)["frame"]), ("lines", "said"))

    def test_where_nothing_that_was_looked_at_explains_it_no_figure_is_touched(self) -> None:
        work = platform("398.2 kg", after="-1.5 kg")
        work.enter({f"looked.{key}": "fine" for key in ("gap", "lines", "caked", "settled", "still", "box", "corners", "press", "plates")})  # fmt: skip
        call = work.snapshot.machine
        self.assertEqual(codes(call)[0], "look-first", "it could still be one that nobody looked for")
        work.enter({f"looked.{one.look.key}": "fine" for one in call.looks})
        call = work.snapshot.machine
        self.assertEqual((call.call, codes(call)[0]), ("find-fault", "unexplained"))

    def test_two_at_once_are_both_named(self) -> None:
        call = platform("398.2 kg").enter({"looked.gap": NOT_FINE, "looked.box": NOT_FINE}).snapshot.machine
        self.assertEqual(
            {str(one.more["suspect"]) for one in call.reasons if one.code == "suspect"}, {"frame", "water"}
        )

    def test_corners_that_are_fine_do_not_clear_a_dead_cell(self) -> None:
        rows = [dict(row) for row in CELLS]
        rows[2]["pressed"] = "0.2 mV/V"
        work = AtWork("vessel").rows("cells/cells", *rows)
        call = work.enter({"looked.corners": "fine"}).snapshot.machine
        self.assertEqual((call.call, call.shown), ("find-fault", "open-wire"))
        self.assertEqual(states(call)["corner"], "said")

    def test_a_fault_shown_after_the_factor_was_changed_wants_the_old_one_back_first(self) -> None:
        work = platform("398.2 kg").enter({"read_back": "1.0087", "looked.gap": NOT_FINE})
        call = work.snapshot.machine
        self.assertEqual(codes(call)[:2], ["put-back", "suspect"])
        self.assertIn("1.0042", call.reasons[0].text)

    def test_a_machine_without_such_a_part_cannot_have_it(self) -> None:
        call = AtWork("platform", plates={"cell_count": 1}).enter(PLATES, "record").snapshot.machine
        self.assertEqual(states(call)["corner"], "not-here")

    def test_a_part_that_finds_a_fault_names_what_passes_for_it(self) -> None:
        work = AtWork("belt", "belt-material-test").enter({"inputs.zero_done": "job"}, "record")
        rows = [("20", "20.1"), ("20", "20.9"), ("20", "19.4"), ("20", "20.3"), ("20", "19.8")]
        call = work.rows("runs", *({"reference": f"{r} t", "indicated": f"{i} t"} for r, i in rows)).snapshot.machine
        self.assertEqual((call.call, call.finding), ("find-fault", "scatter"))
        self.assertIn("idlers", {one.look.key for one in call.looks[:3]})
        self.assertEqual(states(call)["idler"], "likely")

    def test_weights_that_read_right_speak_for_a_tight_belt_where_material_reads_light(self) -> None:
        work = AtWork("belt").enter({"inputs.zero_done": "job", "inputs.factor": "1.142", "inputs.factor_decimals": "4", "inputs.reference_division": "20 kg"}, "record")  # fmt: skip
        weights = {"weights/inputs.test_mass": "60 kg", "weights/inputs.idler_spacing": "1 m", "weights/inputs.speed": "2 m/s", "weights/inputs.weight_kind": "hung", "weights/inputs.indicated_rate": "432 t/h", "weights/inputs.revolutions": "5"}  # fmt: skip
        call = work.enter(weights).rows("runs", *loads(-2.5)).snapshot.machine
        self.assertIn(states(call)["tension"], ("likely", "shown"))
        self.assertEqual(call.finding, "light")


class Cured(unittest.TestCase):
    def test_after_a_cure_the_comparison_is_taken_again_and_only_that_counts(self) -> None:
        work = platform("398.2 kg").enter({"looked.gap": NOT_FINE})
        self.assertEqual(work.snapshot.machine.shown, "frame")
        work.enter({"cured.frame": "yes"})
        call = work.snapshot.machine
        self.assertEqual((call.call, codes(call)), ("keep-testing", ["cured"]))
        work.rows("passes", {"zero": "0.0 kg", "span": "400.0 kg", "zero_after": "0.0 kg"})
        snapshot = work.snapshot
        self.assertEqual((snapshot.machine.call, len(snapshot.parts[""].built.inputs["passes"])), ("leave", 1))

    def test_what_was_read_before_it_is_what_was_found(self) -> None:
        work = platform("398.2 kg").enter({"looked.gap": NOT_FINE, "cured.frame": "yes"})
        found = summary(work.rows("passes", {"zero": "0.0 kg", "span": "400.0 kg", "zero_after": "0.0 kg"}).snapshot)
        self.assertAlmostEqual(found["error_found"], -0.45, places=6)
        self.assertAlmostEqual(found["error_left"], 0.0, places=6)
        self.assertEqual(found["cured"], ["frame"])

    def test_what_is_put_right_before_anything_was_read_leaves_the_first_reading_as_found(self) -> None:
        work = AtWork("platform").enter(PLATES, "record").enter({"looked.gap": NOT_FINE, "cured.frame": "yes"})
        found = summary(work.rows("passes", {"zero": "0.0 kg", "span": "398.2 kg", "zero_after": "0.0 kg"}).snapshot)
        self.assertAlmostEqual(found["error_found"], -0.45, places=6)
        self.assertEqual((found["error_left"], found["call_found"]), (None, "adjust"))

    def test_what_is_put_right_and_what_is_left_for_repair_are_kept_as_found(self) -> None:
        cured = platform("398.2 kg").enter({"looked.gap": NOT_FINE, "cured.frame": "yes"}).snapshot
        self.assertEqual([(one.suspect, one.put_right) for one in faults_found(cured, Asked("Ines", "complete"))], [("frame", True)])  # fmt: skip
        left = platform("398.2 kg").enter({"looked.gap": NOT_FINE}).snapshot
        asked = Asked("Ines", "left-for-repair", told="Corin")
        self.assertEqual(in_the_way(left, asked), [])
        self.assertEqual([(one.suspect, one.put_right) for one in faults_found(left, asked)], [("frame", False)])
        other = Asked("Ines", "left-for-repair", fault="a bird's nest", told="Corin", suspect="-")
        self.assertEqual([(one.suspect, one.title) for one in faults_found(left, other)], [("", "a bird's nest")])

    def test_after_a_repair_it_begins_with_the_look_that_would_have_shown_it(self) -> None:
        work = AtWork("platform", repaired=("frame",)).enter(PLATES, "record").enter({"occasion": "repair"})
        self.assertEqual(next_key(work.snapshot.machine), "gap")
        self.assertEqual(next_key(AtWork("platform", repaired=("frame",)).snapshot.machine), "")


class InAJobFile(unittest.TestCase):
    def said(self, **more: Any) -> dict[str, Any]:
        rows = [{"zero": "0 kg", "span": "398.2 kg", "zero_after": "0 kg"}]
        given = {"passes": rows, "test_load": "400 kg", "capacity": "1500 kg", "division": "0.5 kg", "factor": 1.0042}
        return read(job("zero-span", **given, **{f"job_{key}": found for key, found in more.items()})).judge()

    def test_a_file_that_names_its_kind_gets_the_call_of_the_machine_beside_its_own(self) -> None:
        found = self.said(machine="platform")
        self.assertEqual((found["call"], found["machine"]["call"]), ("adjust", "keep-testing"))
        self.assertEqual(set(found["machine"]), {"call", "reasons", "otherwise", "suspects", "next_look", "looks"})
        self.assertEqual(set(found["machine"]["suspects"][0]), {"key", "title", "state", "chance", "for", "against"})
        self.assertEqual(set(found["machine"]["next_look"]), {"key", "words", "minutes", "path"})

    def test_a_file_of_before_is_read_as_it_was(self) -> None:
        self.assertNotIn("machine", self.said())

    def test_what_was_looked_at_and_skipped_stands_in_it(self) -> None:
        found = self.said(machine="platform", looked=[{"look": "gap", "result": "not-fine", "note": "a stone"}])
        self.assertEqual(found["machine"]["call"], "find-fault")
        self.assertIn("a stone", found["machine"]["reasons"][0]["text"])

    def refused(self, **more: Any) -> list[str]:
        with self.assertRaises(Refused) as raised:
            self.said(**more)
        return [one.path for one in raised.exception.refusals]

    def test_bad_looks_are_refused_by_their_paths(self) -> None:
        self.assertEqual(self.refused(machine="platform", skipped_looks=[{"look": "gap"}]), ["skipped_looks[0].reason"])
        self.assertEqual(self.refused(machine="platform", skipped_looks=[{"look": "gap", "reason": " - "}]), ["skipped_looks[0].reason"])  # fmt: skip
        self.assertEqual(self.refused(machine="platform", looked=[{"look": "idlers", "result": "fine"}]), ["looked[0].look"])  # fmt: skip
        self.assertEqual(self.refused(machine="platform", looked=[{"look": "gap"}]), ["looked[0].result"])
        self.assertEqual(self.refused(machine="platform", cured=[{"suspect": "moon"}]), ["cured[0].suspect"])
        self.assertEqual(self.refused(machine="zeppelin"), ["machine"])

    def test_a_visit_s_kind_is_known_by_its_parts(self) -> None:
        work = corners(platform("398.2 kg"), "400.0 kg", "400.0 kg", "392.5 kg", "400.0 kg")
        work.enter({"corners/inputs.test_load": "400 kg", "corners/inputs.division": "0.5 kg"})
        from wary.job.written import written

        document = {key: found for key, found in written(work.snapshot).items() if key != "machine"}
        self.assertEqual(read(document).judge()["machine"]["call"], "find-fault")

    def test_what_is_written_says_the_same_when_it_is_read_again(self) -> None:
        from wary.job.written import written

        for work in (platform("398.2 kg").enter(FREE), platform("398.2 kg").enter({"looked.gap": NOT_FINE}), platform("398.2 kg").enter({"skipped.corners": "no weights"})):  # fmt: skip
            content = written(work.snapshot)
            again = read(content).judge()["machine"]
            self.assertEqual(again["call"], content["assessment"]["machine"]["call"])
            self.assertEqual(again["next_look"], content["assessment"]["machine"]["next_look"])


class OnTheBench(unittest.TestCase):
    def test_a_look_changes_the_machine_and_no_part(self) -> None:
        work = platform("398.2 kg")
        was = work.snapshot
        before = bench(was)
        now = work.enter({"looked.settled": "fine"}).snapshot
        changed = changes(before, bench_again(before, was, now, ["looked.settled"]))
        self.assertEqual(set(changed.model_fields_set), {"fields", "machine"})
        assert changed.machine
        self.assertEqual({one.key: one.state for one in changed.machine.suspects}["early"], "said")
        # Of the suspects only those are said that are other than before.
        known = {one.key: one for one in before.machine.suspects}
        self.assertTrue(all(known[one.key] != one for one in changed.machine.suspects))
        self.assertLess(len(changed.machine.suspects), len(known))

    def test_looks_that_are_ticked_have_no_path_and_say_what_one_answers(self) -> None:
        call = bench(platform("398.2 kg").enter({"skipped.corners": "later"}).snapshot).machine
        first = call.looks[0]
        self.assertEqual((first.path, bool(first.fine and first.not_fine and first.tells_of)), ("", True))
