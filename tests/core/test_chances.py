"""Chances of suspects, of something other than the figure, and what a look is worth: against a plain enumeration of
all pairs."""

import itertools
import random
import unittest
from dataclasses import replace

from tests.core.test_machine_judged import FREE, NAMED, PLATES, codes, next_key, platform, states
from tests.core.visit import AtWork, loads
from wary.job.file import Refused, read
from wary.job.written import written
from wary.machines import all_machines
from wary.suspects.chances import (
    ERRS,
    MISFIT,
    TICKED,
    before,
    believed,
    cards,
    chances,
    in_words,
    one_in,
    out_before,
    together,
)
from wary.suspects.suspect import (
    FINDINGS,
    FINE,
    NOT_FINE,
    OFF,
    Finding,
    Known,
    Look,
    Past,
    Sign,
    Suspect,
    Tells,
    hints,
)
from wary.suspects.weighing import by_look

EYE = Look("eye", "Look.", 1, "Fine", "Not fine", finds=0.8)
HAND = Look("hand", "Feel.", 2, "Fine", "Not fine", finds=0.8)
READ = Look("read", "Read.", 4, "Fine", "Not fine")


def suspect(key: str, *tells: Tells, taken_for: tuple[Finding, ...] = OFF, usual: str = "at-times") -> Suspect:
    return Suspect(key, key, taken_for, usual, tells, "Mend it.")  # type: ignore[arg-type]  # a word of the literal


SUSPECTS = (
    suspect("a", Tells(EYE), hints(READ), usual="often"),
    suspect("b", Tells(HAND), hints(READ), taken_for=("light", "scatter")),
    suspect("c", Tells(READ), taken_for=("scatter", "in-order"), usual="seldom"),
    suspect("d", Tells(EYE), taken_for=("heavy", "in-order")),
)

SURE = tuple(replace(one, tells=tuple(tell for tell in one.tells if tell.sure)) for one in SUSPECTS)
"""The same without what can only speak for one: that it did not speak says nothing, here and in the chances."""


def plainly(signs: list[Sign], finding: Finding | None, known: Known) -> tuple[dict[str, float], float]:
    """All sets of none, one and two, with the figure out or not, each by itself."""
    out = out_before(known)
    weights: dict[tuple[frozenset[str], bool], float] = {}
    for many in range(3):
        for there in itertools.combinations(SUSPECTS, many):
            for is_out in (False, True):
                share = out if is_out else 1 - out
                for one in SUSPECTS:
                    chance = before(one, known)
                    share *= chance if one in there else 1 - chance
                    if one in there and finding is not None and finding not in one.taken_for:
                        share *= MISFIT
                if is_out and finding is not None and finding not in OFF:
                    share *= MISFIT
                if not there and not is_out and finding not in (None, "in-order"):
                    share *= MISFIT
                for sign in signs:
                    share *= _heard(sign, there, finding)
                weights[frozenset(one.key for one in there), is_out] = share
    whole = sum(weights.values())
    of = {one.key: sum(w for (there, _), w in weights.items() if one.key in there) / whole for one in SUSPECTS}
    return of, sum(w for (there, _), w in weights.items() if there) / whole


def _heard(sign: Sign, there: tuple[Suspect, ...], finding: Finding | None) -> float:
    speaks = [
        one for one in SUSPECTS for tell in one.tells
        if tell.look.key == sign.look and sign.result in tell.shows and (not tell.when or finding in tell.when)
    ]  # fmt: skip
    finds = {look.key: look.finds for look in (EYE, HAND, READ)}[sign.look]
    finds = TICKED if sign.ticked else finds
    share = 1.0
    if speaks:
        quiet = 1 - ERRS
        for _ in [one for one in there if one in speaks]:
            quiet *= 1 - finds
        share *= 1 - quiet
    for one in there:
        if any(tell.look.key == sign.look and sign.result in tell.clears for tell in one.tells):
            share *= 1 - finds
    return share


class Chances(unittest.TestCase):
    def test_they_are_what_a_plain_enumeration_of_all_pairs_comes_to(self) -> None:
        draw = random.Random(7)
        for _ in range(400):
            some = draw.sample((EYE, HAND, READ), draw.randint(0, 3))
            signs = [
                Sign(look.key, draw.choice((FINE, NOT_FINE)), look.key, ticked=draw.random() < 0.3) for look in some
            ]
            finding = draw.choice((None, *FINDINGS))
            past = Past(draw.randint(0, 9), draw.randint(0, 3), draw.randint(0, 40), {"a": draw.randint(0, 5)}, first=draw.random() < 0.2)  # fmt: skip
            known = Known(found={"b": draw.randint(0, 4)}, past=past)
            found = chances(SUSPECTS, by_look(signs), finding, known)
            of, otherwise = plainly(signs, finding, known)
            self.assertAlmostEqual(found.otherwise, otherwise, 9)
            for key, chance in of.items():
                self.assertAlmostEqual(found.of[key], chance, 9)

    def test_they_are_true_of_machines_that_are_drawn_with_them(self) -> None:
        draw = random.Random(11)
        bands: dict[float, tuple[int, int]] = {}
        known = Known(found={"a": 2, "b": 3, "c": 1, "d": 2}, past=Past(visits=4, adjusted=2))
        for _ in range(60_000):
            there = [one for one in SURE if draw.random() < before(one, known)][:2]
            is_out = draw.random() < out_before(known)
            finding = draw.choice(tuple(FINDINGS))
            if draw.random() > self.comes_to(finding, there, is_out):
                continue
            signs = [Sign(look.key, self.looked(look, there, draw), look.key) for look in (EYE, HAND, READ)]
            said = believed(chances(SURE, by_look(signs), finding, known).otherwise)
            right, times = bands.get(said, (0, 0))
            bands[said] = (right + bool(there), times + 1)
        many = {said: right / times for said, (right, times) in bands.items() if times > 400}
        self.assertGreater(len(many), 3)
        for said, share in many.items():
            self.assertLess(max(said, share) / max(1e-9, min(said, share)), 1.5, (said, share))

    def comes_to(self, finding: Finding, there: list[Suspect], is_out: bool) -> float:
        """How likely a machine of these comes to a finding."""
        share = MISFIT if is_out and finding not in OFF else 1.0
        for one in there:
            share *= 1.0 if finding in one.taken_for else MISFIT
        return share * (MISFIT if not there and not is_out and finding != "in-order" else 1.0)

    def looked(self, look: Look, there: list[Suspect], draw: random.Random) -> str:
        shows = any(draw.random() < look.finds for one in there for tell in one.tells if tell.look is look)
        return NOT_FINE if shows or draw.random() < ERRS else FINE

    def test_what_was_found_here_and_on_its_like_counts(self) -> None:
        plain, here = before(SUSPECTS[1], Known()), before(SUSPECTS[1], Known(found={"b": 2}, past=Past(visits=10)))
        self.assertAlmostEqual(plain, 1 / 100)
        self.assertAlmostEqual(here, (2 + 20 / 100) / 30)
        alike = before(SUSPECTS[1], Known(past=Past(visits_alike=80, found_alike={"b": 8})))
        self.assertAlmostEqual(alike, (8 + 0.2) / 100)

    def test_how_likely_a_figure_is_simply_out(self) -> None:
        self.assertAlmostEqual(out_before(Known(past=Past(first=True))), 0.5)
        self.assertAlmostEqual(out_before(Known(past=Past(visits=10, adjusted=2))), 6 / 30)
        drifts, jumped = Sign("history", NOT_FINE, "slowly"), Sign("history", NOT_FINE, "at once")
        self.assertAlmostEqual(out_before(Known(drifted=drifts)), 0.6)
        self.assertAlmostEqual(out_before(Known(jumped=jumped)), 0.2 / 3)

    def test_they_are_said_as_one_can_believe_them(self) -> None:
        self.assertEqual([one_in(chance) for chance in (0.5, 0.21, 0.034, 0.006, 0.001)], [2, 5, 30, 200, 0])
        self.assertEqual(in_words(0.034), "1 in 30")
        self.assertEqual(in_words(0.001), "under 1 in 200")
        self.assertEqual(in_words(0.93), "9 in 10")
        self.assertEqual([believed(chance) for chance in (0.034, 0.0004, 0.81)], [0.0333, 0.001, 0.8])


class Cards(unittest.TestCase):
    def test_looks_of_one_walk_take_the_longest_and_half_a_minute_for_each_other(self) -> None:
        walk = [Look(str(n), "", n, "", "", walk="round") for n in (1, 2, 3)]
        self.assertEqual(together(walk, {}), 4.0)
        self.assertEqual(together(walk[:1], {"round": 2}), 0.5)
        self.assertEqual(together(walk[2:], {"round": 2}), 1.5)

    def test_a_look_that_is_not_worth_a_minute_is_worth_half_a_one_on_the_way(self) -> None:
        often, seldom = Look("often", "", 1, "", "", walk="round"), Look("seldom", "", 1, "", "", walk="round")
        alone = Look("alone", "", 1, "", "")
        found = cards({often: 1.5, seldom: 0.7, alone: 0.9}, {})
        self.assertEqual([[one.key for one in card.looks] for card in found], [["often", "seldom"]])
        self.assertEqual((found[0].minutes, found[0].worth), (1.5, 2.2))

    def test_what_is_worth_most_a_minute_stands_first(self) -> None:
        long, short = Look("long", "", 5, "", ""), Look("short", "", 1, "", "")
        self.assertEqual([card.looks[0].key for card in cards({long: 9.0, short: 4.0}, {})], ["short", "long"])


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
