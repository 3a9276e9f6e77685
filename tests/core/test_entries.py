"""How little is typed: each visit of the table under its figures, and one look first for a visit."""

import unittest

from tests.core.visit import AtWork
from tests.entered import VISITS
from tests.entries import counted
from wary.job.places import split
from wary.job.sheet import look_first, read_off, sections
from wary.machines import all_machines
from wary.machines.machine import Part
from wary.methods import all_methods


class Entries(unittest.TestCase):
    def test_each_visit_takes_no_more_than_it_may(self) -> None:
        self.assertEqual(len(VISITS), 19)
        for visit in VISITS:
            with self.subTest(visit.words):
                found = counted(visit)
                self.assertLessEqual(len(found.typed), visit.most, found.typed)
                self.assertLessEqual(len(found.taps), visit.taps, found.taps)

    def test_each_comes_to_a_call_and_can_be_closed(self) -> None:
        for visit in VISITS:
            with self.subTest(visit.words):
                found = counted(visit)
                self.assertTrue(found.call.startswith("leave"), found.call)
                self.assertEqual(found.in_the_way, [])
                self.assertTrue(found.typed)


class LookFirst(unittest.TestCase):
    def test_it_is_one_step_of_the_visit_in_the_first_part_that_has_one(self) -> None:
        rows = sections(all_machines()["belt"].visit)
        self.assertEqual([row.part for row in rows if "look" in row.steps], ["zero"])
        whole = look_first(all_machines()["belt"].visit)
        assert whole is not None
        self.assertEqual(whole.part, "zero")

    def test_each_thing_is_asked_for_once_by_what_covers_most(self) -> None:
        for key, machine in all_machines().items():
            whole = look_first(machine.visit)
            if whole is None:
                continue
            with self.subTest(key):
                names = [item.path.rpartition(".")[2] for item in whole.items if item.loose_end]
                self.assertEqual(len(set(names)), len(names))
                parts = {part.key: part.method for part in machine.visit}
                asked: set[str] = set()
                kept: set[str] = set()
                for part in machine.visit:
                    for step in all_methods()[part.method].steps:
                        if step.key == "look" and not part.optional:
                            asked |= {look for item in step.items for look in item.looks}
                for item in whole.items:
                    of, rest = split(item.path)
                    steps = all_methods()[parts[of]].steps
                    kept |= {k for s in steps for i in s.items if rest == f"tick.{s.key}.{i.key}" for k in i.looks}
                self.assertEqual(kept, asked, "every look of every part is made by one of its items")

    def test_what_is_read_off_is_one_step_each_figure_once_and_what_is_handed_on_is_not_asked(self) -> None:
        visit = all_machines()["belt"].visit
        whole = read_off(visit)
        assert whole is not None
        keys = [key for _, key in whole.fields]
        self.assertEqual(len(set(keys)), len(keys))
        self.assertLessEqual({"rated_rate", "factor", "angle", "stored_zero", "indicated_division"}, set(keys))
        self.assertNotIn("test_weight_factor", keys, "the weights hand it on")
        self.assertEqual([row.part for row in sections(visit) if "plates" in row.steps], [whole.part])
        self.assertIsNone(read_off((Part("", "belt-material-test"),)))

    def test_a_part_alone_and_one_that_is_done_now_and_then_keep_their_own(self) -> None:
        self.assertIsNone(look_first((Part("", "belt-material-test"),)))
        rows = sections(all_machines()["vessel"].visit)
        own = [row.part for row in rows if "look" in row.steps]
        self.assertIn("data-sheet", own)

    def test_ticks_of_parts_that_are_not_begun_count_as_looked_and_begin_nothing(self) -> None:
        whole = {"profile": {"name": "vessel", "looks": "all"}}
        work = AtWork("vessel", **whole).enter({"cells/tick.look.boxes": "yes", "cells/caution.look": "yes"})
        self.assertFalse(work.part("cells").begun)
        runs = [{"reference": "1000 kg", "indicated": shown} for shown in ("1008 kg", "1008.5 kg", "1008 kg")]
        plates = {"inputs.capacity": "1500 kg", "inputs.division": "0.5 kg", "inputs.factor": "1.0042", "inputs.factor_decimals": "4"}  # fmt: skip
        work.enter(plates, "record").rows("runs", *runs)
        before = AtWork("vessel", **whole).enter(plates, "record").rows("runs", *runs)
        asked = {one.look.key for one in before.snapshot.machine.looks}
        self.assertIn("box", asked)
        self.assertNotIn("box", {one.look.key for one in work.snapshot.machine.looks})
