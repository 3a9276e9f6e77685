"""Chances of suspects, of something other than the figure, and what a look is worth: against a plain enumeration of
all pairs."""

import itertools
import random
import unittest
from dataclasses import replace

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
