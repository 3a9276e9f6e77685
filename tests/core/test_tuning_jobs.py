"""A filler that tunes itself, and tuning as a job."""

import statistics
import unittest
from typing import Any

from tests.core.test_tuning import PACK
from tests.core.visit import AtWork
from wary.job.closing import hands_back
from wary.job.loose import loose_ends
from wary.machines import all_machines
from wary.methods import all_methods
from wary.methods.filling.tuning import CutOffs, Pack, Trial, tune
from wary.rules.assessment import FIND_FAULT, LEAVE
from wary.simulators.filler import Filler


class TunesItself(unittest.TestCase):
    """The rules on a machine that fills: bad starts end tuned, soon, and faults are found."""

    STARTS = [(fast, medium, fine) for fast in (0.5, 0.6) for medium in (0.05, 0.10, 0.15, 0.20, 0.30) for fine in (0.005, 0.03)]  # fmt: skip

    def tuned(self, seed: int, start: tuple[float, float, float], fault: str = "none") -> list[Any]:
        machine = Filler(seed, fault=fault)

        def fill(cut_offs: CutOffs) -> Trial:
            made = [machine.fill(cut_offs.fast, cut_offs.medium, cut_offs.fine) for _ in range(3)]
            return Trial(cut_offs, tuple(one.weight - 1.0 for one in made), tuple(one.fine_time for one in made))

        return tune(CutOffs(*start), Pack(1.0, 0.006, 0.006, 0.001, 0.4 * 0.012), fill)

    def test_six_hundred_bad_starts_end_tuned_in_three_trials_or_fewer(self) -> None:
        self.assertEqual(len(self.STARTS), 20)
        ends = [
            (start, self.tuned(seed * 100 + at, start)) for at, start in enumerate(self.STARTS) for seed in range(30)
        ]
        tuned = [one for _, one in ends if one[-1].call == LEAVE]
        self.assertGreaterEqual(len(tuned) / len(ends), 0.99)
        self.assertLessEqual(statistics.median(len(one) for one in tuned), 3)
        # Where medium ends before fine can be seen at all, it is medium that is named.
        wrong = [(start, one) for start, one in ends if start[1] <= 0.10]
        named = [one for start, one in wrong if "medium" in one[0].moved(CutOffs(*start))]
        self.assertGreaterEqual(len(named) / len(wrong), 0.97)

    def test_a_fast_stage_that_runs_too_close_as_well_takes_longer(self) -> None:
        starts = [(0.35, medium, fine) for _, medium, fine in self.STARTS[:10]]
        ends = [self.tuned(seed * 100 + at, start) for at, start in enumerate(starts) for seed in range(30)]
        tuned = [one for one in ends if one[-1].call == LEAVE]
        self.assertGreaterEqual(len(tuned) / len(ends), 0.95)
        self.assertLessEqual(statistics.median(len(one) for one in tuned), 6)

    def test_a_machine_that_bridges_is_mostly_a_fault_and_never_goes_on_for_ever(self) -> None:
        ends = [self.tuned(seed, (0.6, 0.15, 0.02), "bridging") for seed in range(40)]
        self.assertGreater(sum(one[-1].call == FIND_FAULT for one in ends), 20)
        self.assertTrue(all(len(one) < 20 for one in ends))

    def test_the_same_seed_fills_the_same_and_another_does_not(self) -> None:
        one, again, other = (Filler(seed).fill(0.5, 0.16, 0.016) for seed in (7, 7, 8))
        self.assertEqual(one, again)
        self.assertNotEqual(one, other)
        with self.assertRaises(ValueError):
            Filler(1, fault="gremlins")

    def test_at_its_ideal_cut_offs_it_fills_near_the_target_and_fine_is_seen(self) -> None:
        machine = Filler(3)
        made = [machine.fill(*machine.ideal()) for _ in range(200)]
        self.assertAlmostEqual(statistics.mean(one.weight for one in made), 1.0, delta=0.003)
        self.assertGreater(statistics.mean(one.fine_time for one in made), 0.5)

    def test_what_fine_is_moved_by_the_mean_follows(self) -> None:
        machine = Filler(5)
        fast, medium, fine = machine.ideal()
        before, after = (statistics.mean(machine.fill(fast, medium + 0.05, at).weight for _ in range(200)) for at in (fine, fine + 0.01))  # fmt: skip
        self.assertAlmostEqual((after - before) / 0.01, -1, delta=0.15)


class AsAJob(unittest.TestCase):
    """Tuning in a job: half done, what is handed back, what is loose, two speeds."""

    def job(self, kind: str = "filler") -> AtWork:
        texts = {f"inputs.{key}": text for key, text in PACK.items()}
        return AtWork(kind, "fill-tuning").enter(texts)

    def trials(self, job: AtWork, number: int, fine: float, *weights: float, two_speeds: bool = False) -> AtWork:
        row = f"trials.t{number}"
        texts = {} if two_speeds else {f"{row}.fast": "300 g"}
        texts |= {f"{row}.medium": "100 g", f"{row}.fine": f"{fine} g"}
        texts |= {f"{row}.fills.f{n}.weight": f"{weight} g" for n, weight in enumerate(weights, 1)}
        return job.enter(texts)

    def test_a_cut_off_that_was_moved_is_not_valid_until_three_fills_show_it(self) -> None:
        job = self.trials(self.job(), 1, 20, 1012, 1011, 1013)
        self.assertFalse(job.snapshot.not_valid)
        self.trials(job, 2, 32)
        self.assertIn("do not show yet", job.snapshot.not_valid[0])
        self.trials(job, 2, 32, 1001, 1000, 999)
        self.assertFalse(job.snapshot.not_valid)
        handed = hands_back(job.snapshot).plates
        self.assertEqual((handed["fine"], handed["medium"], handed["target"]), ("32 g", "100 g", "1000 g"))

    def test_nothing_is_handed_back_before_it_is_tuned(self) -> None:
        job = self.trials(self.job(), 1, 20, 1012, 1011, 1013)
        self.assertEqual(hands_back(job.snapshot).plates, {})

    def test_automatic_correction_off_is_a_loose_end(self) -> None:
        job = self.trials(self.job(), 1, 20, 1001, 1000, 999).enter({"tick.look.correction": "yes"})
        self.assertIn("Automatic correction is off: put it back on.", [end.text for end in loose_ends(job.snapshot)])

    def test_two_speeds_have_no_fast_stage_of_their_own(self) -> None:
        job = self.trials(self.job("two-speed-filler"), 1, 20, 1012, 1011, 1013, two_speeds=True)
        self.assertEqual(job.part().assessment.call, "not-ready")
        job.enter({"inputs.two_speeds": "yes"})
        self.assertEqual(job.part().assessment.headline.replace("\u00a0", " "), "In flight 20 → 32 g")

    def test_each_machine_says_the_cut_offs_in_its_own_words(self) -> None:
        machine = all_machines()["two-speed-filler"]
        described = all_methods()["fill-tuning"].describe(machine.traits, machine.says)
        trials = next(one for one in described.inputs if one.key == "trials")
        self.assertEqual([one.title for one in trials.fields][1:3], ["Filled slowly", "In flight"])
        rows = next(step.rows for step in described.steps if step.key == "trials")
        self.assertEqual(rows.typed, ("medium", "fine"))
        plain = all_methods()["fill-tuning"].describe(all_machines()["filler"].traits)
        self.assertEqual(next(step.rows for step in plain.steps if step.key == "trials").typed, ("fast", "medium", "fine"))  # fmt: skip

    def test_what_is_drawn_are_the_cut_offs_where_they_bite_and_the_latest_trials(self) -> None:
        job = self.trials(self.job(), 1, 20, 1025, 1006, 1004)
        self.trials(job, 2, 32, 1012, 1011, 1013)
        drawn = all_methods()["fill-tuning"].draw(job.part().given, job.subject.seen)
        assert drawn and drawn.shape == "fills"
        self.assertEqual([(one.label, round(one.at, 3)) for one in drawn.cut_offs], [("fast", 0.7), ("medium", 0.9), ("fine", 0.968)])  # fmt: skip
        self.assertEqual([(one.are, one.note) for one in drawn.groups], [("scattered", ""), ("beside", "fine moved")])
        self.assertEqual([mark.out for mark in drawn.groups[0].marks], [True, False, False])
