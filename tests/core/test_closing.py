"""How a job can be closed, what is in the way, what it was closed as, and the state that it leaves."""

import unittest

from tests.core.visit import AtWork, loads
from wary.job.closing import (
    OUTCOMES,
    STATES,
    Asked,
    closed_as,
    done_methods,
    factor_after,
    hands_back,
    in_the_way,
    state_after,
    summary,
    ways,
)

PLATES = {"inputs.factor": "1.1420", "inputs.factor_decimals": "4", "inputs.idler_spacing": "0.9 m"}


def material(error: float, **more: str) -> AtWork:
    """A material test that found so many per cent, on a factor of 1.1420."""
    job = AtWork("belt", "belt-material-test").enter(PLATES, "record").enter({"inputs.zero_done": "job"} | more)
    return job.rows("runs", *loads(error))


def adjusted() -> AtWork:
    """1.4 % heavy: 1.1420/1.014 = 1.12623, keyed in as 1.1262."""
    return material(1.4).enter({"read_back": "1.1262"})


def confirmed(left: float = 0.05) -> AtWork:
    return adjusted().rows("as_left", *loads(left)).enter({"loose.zero-again": "done"})


def scattered() -> AtWork:
    job = AtWork("belt", "belt-material-test").enter(PLATES, "record").enter({"inputs.zero_done": "job"})
    rows = [("20", "20.1"), ("20", "20.9"), ("20", "19.4"), ("20", "20.3"), ("20", "19.8")]
    return job.rows("runs", *({"reference": f"{r} t", "indicated": f"{i} t"} for r, i in rows))


def paths(job: AtWork, outcome: str, signed: str = "Ines", **more: str) -> list[str]:
    asked = Asked(signed, outcome, **more)  # type: ignore[arg-type]
    return [error["path"] for error in in_the_way(job.snapshot, asked)]


class Ways(unittest.TestCase):
    def test_one_left_alone_is_complete_and_nothing_else_was_adjusted(self) -> None:
        found = ways(material(0.05).snapshot)
        self.assertEqual((found[0].outcome, found[0].why_not, found[0].spoken_for), ("complete", "", True))
        self.assertEqual(found[-1].outcome, "not-confirmed")
        self.assertEqual(found[-1].why_not, "Nothing was adjusted in this job.")
        self.assertEqual({way.outcome for way in found}, set(OUTCOMES))

    def test_one_that_asks_for_more_is_not_complete_and_says_what_the_call_is(self) -> None:
        complete = next(way for way in ways(material(1.4).snapshot) if way.outcome == "complete")
        self.assertIn("The call is “Look first”, so the job is not complete.", complete.why_not)
        self.assertFalse(any(way.spoken_for for way in ways(material(1.4).snapshot)))

    def test_one_keyed_in_and_not_proved_speaks_for_not_confirmed(self) -> None:
        found = ways(adjusted().snapshot)
        self.assertEqual([way.outcome for way in found if way.spoken_for], ["not-confirmed"])
        complete = next(way for way in found if way.outcome == "complete")
        self.assertIn("Go on, or close it as something else, with the reason.", complete.why_not)

    def test_a_fault_that_touched_nothing_is_left_for_repair_before_all(self) -> None:
        found = ways(scattered().snapshot)
        self.assertEqual((found[0].outcome, found[0].spoken_for), ("left-for-repair", True))
        self.assertIn("complete", [way.outcome for way in found if way.why_not])

    def test_a_single_way_at_most_is_spoken_for(self) -> None:
        for job in (material(0.05), material(1.4), adjusted(), confirmed(), confirmed(1.2), scattered()):
            self.assertLessEqual(sum(way.spoken_for for way in ways(job.snapshot)), 1)


class InTheWay(unittest.TestCase):
    def test_a_name_and_a_reason_are_asked_for_by_their_fields(self) -> None:
        job = material(0.05)
        self.assertEqual(paths(job, "complete"), [])
        self.assertEqual(paths(job, "complete", " "), ["signed"])
        self.assertEqual(paths(job, "limited"), ["reason"])
        # A full stop is no reason.
        self.assertEqual(paths(job, "limited", reason=" ... "), ["reason"])
        self.assertEqual(paths(job, "limited", reason="the bridge is coarse"), [])

    def test_what_is_left_for_repair_says_what_and_who_was_told(self) -> None:
        self.assertEqual(paths(scattered(), "left-for-repair"), ["fault", "told"])
        self.assertEqual(paths(scattered(), "left-for-repair", fault="idler seized"), ["told"])
        self.assertEqual(paths(scattered(), "left-for-repair", fault="idler seized", told="Corin"), [])

    def test_loose_ends_are_put_back_or_explained_unless_it_is_given_up(self) -> None:
        job = material(0.05).enter({"tick.look.guards": "yes"})
        self.assertEqual(paths(job, "complete"), ["loose.loose.guards", "loose_reason"])
        self.assertEqual(paths(job, "complete", loose_reason="the fitter has them"), [])
        self.assertEqual(paths(job, "abandoned", reason="called away"), [])
        self.assertEqual(paths(job.enter({"loose.guards": "done"}), "complete"), [])

    def test_what_cannot_be_is_refused_with_the_sentence_that_the_page_shows(self) -> None:
        job = material(1.4)
        asked = Asked("Ines", "complete")
        said = {error["path"]: error["text"] for error in in_the_way(job.snapshot, asked)}
        shown = next(way.why_not for way in ways(job.snapshot) if way.outcome == "complete")
        self.assertEqual(said["outcome"], shown)


class ClosedAs(unittest.TestCase):
    def test_one_that_touched_nothing_was_a_verification(self) -> None:
        self.assertEqual(closed_as(material(0.05).snapshot, "complete"), "verified, left as found")
        self.assertEqual(closed_as(confirmed().snapshot, "complete"), "complete")

    def test_any_other_way_says_itself(self) -> None:
        for outcome, words in OUTCOMES.items():
            if outcome != "complete":
                self.assertEqual(closed_as(confirmed().snapshot, outcome), words)

    def test_lifts_that_no_real_load_confirmed_are_provisional(self) -> None:
        job = AtWork("lift", "lift-repeat")
        job.enter({"inputs.empty_weight": "20 kg", "inputs.heavy_weight": "32 kg", "inputs.seating_lifts": "10"})
        job.rows("heavy_lifts", *({"done": "yes"} for _ in range(5)))
        job.rows("empty_lifts", *({"done": "yes"} for _ in range(5)))
        self.assertEqual(closed_as(job.snapshot, "complete"), "provisional")
        self.assertEqual(state_after(job.snapshot, "complete", "in-order"), "provisional")


class HandedOn(unittest.TestCase):
    def test_the_factor_after_is_what_stood_untouched_or_what_was_read_back_as_typed(self) -> None:
        self.assertEqual(factor_after(material(0.05).snapshot), "1.1420")
        self.assertEqual(factor_after(material(1.4).snapshot), "1.1420")
        self.assertEqual(factor_after(adjusted().snapshot), "1.1262")
        comma = material(1.4).enter({"read_back": "1,1260"})
        self.assertEqual(factor_after(comma.snapshot), "1.1260")

    def test_the_summary_has_as_found_and_as_left_side_by_side(self) -> None:
        said = summary(confirmed().snapshot)
        self.assertEqual((said["call_found"], said["call"], said["down"]), ("adjust", "leave", True))
        self.assertEqual((said["factor_before"], said["factor_after"]), ("1.1420", "1.1262"))
        self.assertAlmostEqual(said["error_found"], 1.4, 6)
        self.assertAlmostEqual(said["error_left"], 0.05, 6)
        self.assertFalse(said["visit"] or said["provisional"])

    def test_one_as_found_alone_has_no_as_left(self) -> None:
        said = summary(material(0.05).snapshot)
        self.assertIsNone(said["error_left"])
        self.assertAlmostEqual(said["error_found"], 0.05, 6)

    def test_a_zero_that_was_noted_goes_on_record(self) -> None:
        job = AtWork("belt", "belt-zero").enter({"inputs.rated_rate": "350 t/h", "inputs.revolution_time": "30 s"})
        job.enter({"inputs.new_zero": "38.2 kg"}).rows("idle", {"value": "0.2 kg"}, {"value": "0.3 kg"})
        self.assertEqual(hands_back(job.snapshot).zero, "38.2 kg")
        self.assertEqual(done_methods(job.snapshot), {"belt-zero"})

    def test_a_part_that_was_never_begun_is_not_among_what_was_done(self) -> None:
        visit = AtWork("belt").enter(PLATES, "record").rows("runs", *loads(0.05))
        self.assertEqual(done_methods(visit.snapshot), {"belt-material-test"})


class StateAfter(unittest.TestCase):
    def test_in_order_once_it_is_proved(self) -> None:
        for before in ("in-order", "not-tested", "provisional", "not-confirmed", "not-valid", "stale", "limited"):
            self.assertEqual(state_after(confirmed().snapshot, "complete", before), "in-order", before)  # type: ignore[arg-type]

    def test_a_fault_stays_one_until_it_was_repaired(self) -> None:
        self.assertEqual(state_after(confirmed().snapshot, "complete", "fault"), "fault")
        repaired = confirmed().enter({"occasion": "repair"})
        self.assertEqual(state_after(repaired.snapshot, "complete", "fault"), "in-order")

    def test_a_method_that_confirms_nothing_leaves_a_provisional_machine_provisional(self) -> None:
        job = AtWork("belt", "belt-length").enter({"inputs.speed": "2 m/s"})
        job.rows("revolution_times", {"value": "30 s"}, {"value": "30.1 s"}, {"value": "29.9 s"})
        self.assertEqual(state_after(job.snapshot, "complete", "provisional"), "provisional")
        self.assertEqual(state_after(job.snapshot, "complete", "in-order"), "in-order")

    def test_every_other_way_leaves_the_state_of_its_name(self) -> None:
        snapshot = adjusted().snapshot
        expected = {
            "not-confirmed": "not-confirmed",
            "limited": "limited",
            "left-for-repair": "fault",
            "out-of-service": "out-of-service",
            "abandoned": "in-order",
        }
        for outcome, state in expected.items():
            self.assertEqual(state_after(snapshot, outcome, "in-order"), state)  # type: ignore[arg-type]
            self.assertIn(state, STATES)

    def test_what_is_not_put_back_leaves_it_not_valid(self) -> None:
        job = confirmed().enter({"tick.look.auto-zero": "yes"})
        self.assertEqual(state_after(job.snapshot, "complete", "in-order"), "not-valid")


class Charted(unittest.TestCase):
    """What a history draws: figures of its own, and the tolerance where it is the pack's or the check mass's."""

    def chart(self, kind: str, method: str, texts: dict[str, str]) -> dict[str, float | None]:
        found = summary(AtWork(kind, method).enter(texts).snapshot)["chart"]
        assert found is not None
        return dict(found)

    def test_a_belt_has_its_accept_limit_on_both_sides(self) -> None:
        chart = summary(material(0.2).snapshot)["chart"]
        self.assertAlmostEqual(chart["found"], 0.2, 6)
        self.assertEqual((chart["left"], chart["low"], chart["high"]), (None, -0.5, 0.5))

    def test_a_filler_has_the_tolerance_of_its_pack_which_may_differ_above_and_below(self) -> None:
        pack = {"inputs.target": "500 g", "inputs.over": "10 g", "inputs.under": "5 g", "inputs.division": "1 g"}
        samples = {f"samples.s{n}.bench": f"{g} g" for n, g in enumerate((501, 502, 503, 501, 503), 1)}
        chart = self.chart("filler", "fill-check", pack | {"inputs.bench_division": "0.1 g"} | samples)
        self.assertAlmostEqual(chart["found"] or 0, 0.4, 6)
        self.assertEqual((chart["low"], chart["high"]), (-1.0, 2.0))

    def test_a_tuning_draws_its_first_trial_as_found_and_its_last_as_left(self) -> None:
        pack = {"inputs.target": "1000 g", "inputs.over": "10 g", "inputs.under": "10 g", "inputs.division": "1 g"}
        trials = {}
        for trial, fine, weights in (("t1", "17 g", (1018, 1016, 1017)), ("t2", "32 g", (1001, 999, 1003))):
            trials |= {f"trials.{trial}.fast": "528 g", f"trials.{trial}.medium": "159 g", f"trials.{trial}.fine": fine}
            trials |= {f"trials.{trial}.fills.f{n}.weight": f"{g} g" for n, g in enumerate(weights, 1)}
        chart = self.chart("filler", "fill-tuning", pack | trials)
        self.assertAlmostEqual(chart["found"] or 0, 1.7, 6)
        self.assertAlmostEqual(chart["left"] or 0, 0.1, 6)
        self.assertEqual((chart["low"], chart["high"]), (-1.0, 1.0))

    def test_a_doser_has_the_tolerance_of_its_check_mass(self) -> None:
        texts = {"inputs.check_mass": "400 g"} | {f"readings_before.r{n}.value": "401.2 g" for n in (1, 2, 3)}
        self.assertAlmostEqual(self.chart("doser", "dose-check", texts)["high"] or 0, 0.3, 9)
        wide = self.chart("doser", "dose-check", texts | {"inputs.tolerance": "4 g"})
        self.assertAlmostEqual(wide["low"] or 0, -1.0, 9)

    def test_a_grader_draws_its_span_with_the_limit_that_it_was_judged_by(self) -> None:
        job = AtWork("grader").enter(
            {"inputs.division": "0.5 g", "span/inputs.test_load": "200 g", "span/inputs.capacity": "1 kg"}
        )
        job.rows("span/passes", {"zero": "0 g", "span": "200.5 g", "zero_after": "0 g"})
        chart = summary(job.snapshot)["chart"]
        self.assertAlmostEqual(chart["found"], 0.25, 6)
        self.assertGreater(chart["high"], 0)
