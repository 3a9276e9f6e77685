"""What every stand-in tells of itself: one shape, the same from the same seed, states that can be told apart."""

import importlib
import pkgutil
import unittest
from unittest import mock

from tests.core.at_a_stand_in import Session, every_state
from wary import simulators
from wary.machines import all_machines
from wary.methods.tree import Input, spec
from wary.quantities import FAMILIES
from wary.simulators import chain, has_stand_in, stand_in_of, stand_ins
from wary.simulators.folded import Lagged, digits, stepped
from wary.simulators.stand_in import KEY, LEVELS, SKIP, Action, StandIn


def inside(inputs: tuple[Input, ...], before: str = "") -> set[str]:
    """Every key of a tree of inputs, alone and after the list that holds it."""
    found = set()
    for one in inputs:
        found |= {one.key, f"{before}.{one.key}" if before else one.key}
        found |= inside(one.inside(), one.key) if one.kind in ("block", "list") else set()
    return found


def poked(session: Session) -> None:
    """Does everything that can be done, once, a few seconds apart."""
    for control in session.machine.controls:
        if control.does != SKIP:
            session.do(control.does, control.figure or 1.0, 3)


class OneShape(unittest.TestCase):
    def test_every_kind_of_machine_has_one_of_its_own(self) -> None:
        named = [key for key, machine in all_machines().items() if has_stand_in(machine)]
        self.assertEqual(sorted(named), sorted(stand_ins()))
        self.assertEqual(len(named), len(set(named)))

    def test_a_stand_in_that_is_in_no_file_s_table_is_missed(self) -> None:
        there = set(stand_ins().values())
        made = set()
        for module in pkgutil.iter_modules(simulators.__path__, "wary.simulators."):
            for one in vars(importlib.import_module(module.name)).values():
                if (
                    isinstance(one, type)
                    and issubclass(one, StandIn)
                    and one.__module__ == module.name
                    and getattr(one, "faults", None)
                ):
                    made.add(one)
        # What only others are made from is none by itself.
        self.assertEqual({one.__name__ for one in made - there if not one.__subclasses__()}, set())

    def test_two_files_with_one_of_a_kind_are_said(self) -> None:
        simulators.stand_ins.cache_clear()
        self.addCleanup(simulators.stand_ins.cache_clear)
        with mock.patch.object(chain, "STAND_INS", {"belt": chain.Chain}), self.assertRaisesRegex(ValueError, "belt"):
            stand_ins()

    def test_each_has_four_faults_two_states_in_order_and_something_that_is_simply_out(self) -> None:
        for name, machine in stand_ins().items():
            rights = [hidden.right for hidden in machine.faults.values()]
            with self.subTest(name):
                self.assertGreaterEqual(rights.count("find-fault"), 4)
                self.assertGreaterEqual(rights.count("leave"), 2)
                self.assertEqual({hidden.level for hidden in machine.faults.values()}, set(LEVELS))
                if name != "bench":  # a channel of raw counts has no factor that could be out
                    self.assertGreaterEqual(rights.count("adjust"), 1)

    def test_controls_have_names_of_their_own_and_cures_are_among_them(self) -> None:
        for name, machine in stand_ins().items():
            with self.subTest(name):
                names = [control.name for control in machine.controls]
                self.assertEqual(len(names), len(set(names)))
                cures = {cure for hidden in machine.faults.values() for cure in hidden.cures}
                self.assertLessEqual(cures, machine.actions())
                self.assertLessEqual({KEY} & machine.settings, machine.actions())
                self.assertTrue(any(control.does == SKIP for control in machine.controls))
                self.assertTrue(all(control.words for control in machine.controls))

    def test_what_is_done_by_hand_is_touched_on_its_drawing(self) -> None:
        for name, machine in stand_ins().items():
            with self.subTest(name):
                spots = {control.name: control.spot for control in machine.controls}
                for control in machine.controls:
                    if control.group in ("load", "run", "set") or control.name.startswith(("press-", "corner-")):
                        self.assertTrue(spots[control.name], control.name)
                cells = [spot for spot in spots.values() if spot.startswith(("cell-", "corner-"))]
                self.assertEqual(len(set(cells)), len(cells), "each cell and corner is a spot of its own")
                self.assertTrue(any(spot in ("load", "drive", "chute") for spot in spots.values()))

    def test_what_it_shows_and_prints_goes_into_inputs_of_its_methods(self) -> None:
        for key, kind in all_machines().items():
            known: set[str] = set()
            for method in kind.methods().values():
                known |= inside(spec(method.inputs))
            session = Session(kind.key)
            poked(session)
            for one in session.live().readouts:
                with self.subTest(key, readout=one.key):
                    self.assertLessEqual(set(one.into), known)
            for scale in range(len(session.machine.scales)):
                ticket = session.machine.ticket(session.actions, session.now, session.machine.scales[scale])
                with self.subTest(key, scale=scale):
                    self.assertTrue(ticket.title)
                    self.assertLessEqual({one.into for one in ticket.figures}, known)

    def test_its_plates_are_plates_of_its_kind(self) -> None:
        for key, kind in all_machines().items():
            known = stand_in_of(kind).on_record()
            with self.subTest(key):
                self.assertEqual(kind.read_plates({k: str(v) for k, v in known.plates.items()})[1], [])
                self.assertEqual(kind.read_plates({k: str(v) for k, v in known.figures.items()})[1], [])
                self.assertIn("practice", known.name.lower())
                self.assertIn("practice", known.reference.lower())

    def test_units_are_units_that_a_field_can_take(self) -> None:
        known = {unit for units in FAMILIES.values() for unit in units} | {""}
        for name, fault in every_state():
            session = Session(name, fault)
            poked(session)
            with self.subTest(name, fault=fault):
                self.assertLessEqual({one.unit for one in session.live().readouts if one.into} - known, {"bar"})


class FromTheSeed(unittest.TestCase):
    def test_the_same_seed_and_actions_give_the_same_readings_in_one_go_or_step_by_step(self) -> None:
        for name, fault in every_state():
            with self.subTest(name, fault=fault):
                one, other = Session(name, fault, 8), Session(name, fault, 8)
                poked(one)
                poked(other)
                following = one.machine.followed(one.actions)
                for t in (1.0, 7.7, 33.3, one.now):
                    last = following.live(t)
                self.assertEqual(last, other.live())

    def test_another_seed_is_another_machine(self) -> None:
        for name in stand_ins():
            one, other = Session(name, "none", 1), Session(name, "none", 2)
            poked(one)
            poked(other)
            with self.subTest(name):
                self.assertNotEqual(
                    [r.value for r in one.live().readouts] + list(one.machine.draw.sample(range(999), 3)),
                    [r.value for r in other.live().readouts] + list(other.machine.draw.sample(range(999), 3)),
                )

    def test_actions_that_came_in_another_order_are_taken_by_their_times(self) -> None:
        session = Session("platform")
        session.do("load", 1000, 5).do("off", 0, 5)
        turned = session.machine.followed(session.actions[::-1]).live(session.now)
        self.assertEqual(turned, session.live())

    def test_before_it_began_there_is_nothing_to_show_and_it_says_so(self) -> None:
        for name in stand_ins():
            with self.subTest(name), self.assertRaisesRegex(ValueError, "begins at 0 s"):
                Session(name).machine.followed([]).live(-1.0)
        with self.assertRaisesRegex(ValueError, "begins at 0 s"):
            Session("platform").machine.followed([]).live(float("nan"))

    def test_an_unknown_state_is_refused_with_the_known_ones(self) -> None:
        for name, machine in stand_ins().items():
            with self.subTest(name), self.assertRaisesRegex(ValueError, "expected one of none"):
                machine(1, "ghost")

    def test_wild_figures_break_nothing(self) -> None:
        for name in stand_ins():
            session = Session(name)
            with self.subTest(name):
                for control in session.machine.controls:
                    for figure in (-1e6, 0.0, 1e6):
                        session.actions.append(Action(session.now, control.does, figure))
                        session.wait(0.5)
                for one in session.live().readouts:
                    self.assertLess(abs(one.value), 1e12)
                session.truth()

    def test_an_action_has_words_that_a_reader_knows(self) -> None:
        platform = stand_ins()["platform"]
        self.assertEqual(platform.words(Action(0, "load", 1000)), "Put on 1000 kg")
        self.assertEqual(platform.words(Action(0, "place", 2)), "To corner 2")
        self.assertEqual(platform.words(Action(0, SKIP, 60)), "Waited 60 s")
        self.assertEqual(stand_ins()["vessel"].words(Action(0, "ticket", 0)), "Read the fill's ticket")
        for name, machine in stand_ins().items():
            for control in machine.controls:
                with self.subTest(name, control=control.name):
                    self.assertTrue(machine.words(Action(0, control.does, control.figure)))


class Parts(unittest.TestCase):
    def test_a_lagged_figure_follows_by_its_time_constant(self) -> None:
        felt = Lagged(2.0)
        felt.lead(10, 100)
        self.assertAlmostEqual(felt.at(12), 100 * (1 - 0.36787944), 4)
        self.assertFalse(felt.still(12, 1))
        self.assertTrue(felt.still(30, 1))
        felt.lead(12, 0)
        self.assertAlmostEqual(felt.at(14), 63.212056 * 0.36787944, 4)

    def test_a_display_steps_by_its_division_and_shows_no_minus_before_a_nought(self) -> None:
        self.assertEqual(stepped(1000.24, 0.5), 1000.0)
        self.assertEqual(str(stepped(-0.2, 0.5)), "0.0")
        self.assertEqual([digits(d) for d in (10, 5, 1, 0.5, 0.02, 0.001)], [0, 0, 0, 1, 2, 3])
