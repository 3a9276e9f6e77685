"""Whoever does only what the page says: at every stand-in, at machines that nobody listed, with two faults at once."""

import unittest
from typing import Any

from tests.following import GOALS, in_all, rows
from wary.acts import Act
from wary.machines import all_machines
from wary.methods import all_methods
from wary.simulators import stand_ins
from wary.simulators.belt import Belt
from wary.simulators.doser import Doser
from wary.simulators.drill import Drill
from wary.simulators.follow import follow
from wary.simulators.stand_in import Action, Hidden, Seen, StandIn
from wary.simulators.static import Pads, Platform, Vessel
from wary.suspects.suspect import Look

UNLISTED = Hidden(
    "A rope was caught under its edge.", "It did not come back to zero, now by this and now by that.", "find-fault",
    cures=("free",), seen={"gap": "A rope is caught under the edge."},
)  # fmt: skip


class Roped(Platform):
    """A state that no list has: part of each load goes past the cells, and some of it stays."""

    faults = Platform.faults | {"rope": UNLISTED}

    def _carried(self, state: Any) -> float:
        return 0.993 if self.wrong(state, "rope") else super()._carried(state)

    def _kept(self, state: Any) -> float:
        return 0.003 * state.most if self.wrong(state, "rope") and state.load < state.most else super()._kept(state)


def both(base: type[StandIn], first: str, second: str) -> type[StandIn]:
    """A stand-in in two of its states at once; each is ended by its own cure."""

    class Both(base):  # type: ignore[valid-type,misc]
        def wrong(self, state: Any, fault: str) -> bool:
            cures = set(self.faults[fault].cures) if fault in self.faults else set()
            return fault in (first, second) and not state.mended & cures

        def inspect(self, actions: list[Action], look: Look) -> Seen:
            mended = {one.what for one in actions}
            for fault in (first, second):
                hidden = self.faults[fault]
                if look.key in hidden.seen and not mended & set(hidden.cures):
                    note, _, text = hidden.seen[look.key].rpartition(": ")
                    return Seen("not-fine", text, dict(look.more).get(note, ""))
            return Seen("fine", "nothing")

    return Both


class ToTheLetter(unittest.TestCase):
    def test_the_goals_are_met_over_every_kind_and_state(self) -> None:
        found = rows(stand_ins(), range(3, 5))
        whole = in_all(found)
        self.assertLessEqual(whole.touched_over, GOALS.touched_over)
        self.assertGreaterEqual(whole.named, GOALS.named)
        self.assertLessEqual(whole.in_order_touched, GOALS.in_order_touched)
        self.assertGreaterEqual(whole.put_right, GOALS.put_right - 3, "a sample of so few may miss one")
        self.assertLessEqual(whole.slow, GOALS.slow)

    def test_the_same_seed_is_followed_the_same_way(self) -> None:
        self.assertEqual(follow("belt", "out", 7), follow("belt", "out", 7))

    def test_what_is_out_is_keyed_in_and_proved(self) -> None:
        done = follow("cart", "out", 11)
        self.assertEqual((done.call, done.touched, done.right), ("leave", True, True))

    def test_what_is_shown_is_cured_and_read_again(self) -> None:
        done = follow("vessel", "pipe", 11)
        self.assertEqual((done.call, done.suspect, done.cured, done.touched), ("leave", "lines", True, False))

    def test_a_fault_that_nobody_can_mend_there_is_left_for_repair_untouched(self) -> None:
        done = follow("belt", "seized-idler", 11)
        self.assertEqual((done.call, done.suspect, done.cured, done.touched), ("find-fault", "idler", False, False))


class NotListed(unittest.TestCase):
    def test_a_state_that_no_list_has_is_found_by_the_look_that_shows_it(self) -> None:
        for seed in range(6):
            done = follow("platform", machine=Roped(seed, "rope"))
            self.assertEqual((done.touched, done.suspect), (False, "frame"), seed)

    def test_two_faults_at_once_are_not_adjusted_over(self) -> None:
        pairs: list[tuple[str, type[StandIn], str, str]] = [
            ("platform", Platform, "frame", "corner"), ("pads", Pads, "frame", "open-wire"), ("vessel", Vessel, "pipe", "swapped"),
            ("doser", Doser, "bearing", "shaking"), ("meter", Drill, "slips", "bridging"),
        ]  # fmt: skip
        for kind, base, first, second in pairs:
            for seed in range(3):
                with self.subTest(kind, seed=seed):
                    done = follow(kind, machine=both(base, first, second)(seed, first))
                    self.assertFalse(done.left_changed)
                    self.assertTrue(done.suspect)


class Acts(unittest.TestCase):
    def test_acts_stand_at_places_that_the_method_has(self) -> None:
        for method in all_methods().values():
            for place, acts in method.acts.items():
                way = place.removeprefix("inputs.").split(".")
                self.assertIn(way[0], method.inputs.model_fields, (method.key, place))
                self.assertTrue(all(isinstance(one, Act) for one in acts))

    def test_every_stand_in_maps_acts_to_its_own_actions_and_cures_to_its_own_suspects(self) -> None:
        for kind, stand_in in stand_ins().items():
            actions = stand_in.actions() | {"match-"}
            suspects = {one.key for one in all_machines()[kind].all_suspects()}
            with self.subTest(kind):
                self.assertTrue(stand_in.doing)
                for do, steps in stand_in.doing.items():
                    if do not in ("place", "span", "key"):
                        self.assertTrue({one.action for one in steps} <= actions, do)
                known = {key: mend for key, mend in stand_in.mending.items() if key in suspects}
                self.assertTrue(known or issubclass(stand_in, Belt))

    def test_what_can_be_seen_of_a_fault_is_a_look_of_its_kind_and_shows_a_suspect(self) -> None:
        for kind, stand_in in stand_ins().items():
            suspects = all_machines()[kind].all_suspects()
            for fault, hidden in stand_in.faults.items():
                if hidden.right == "find-fault":
                    shows = [
                        one.key for one in suspects for tell in one.tells if tell.look.key in hidden.seen and tell.sure
                    ]
                    self.assertTrue(shows, (kind, fault))
