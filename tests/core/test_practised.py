"""Work at the stand-ins as a technician would do it: what the methods say of their readings, and how it is scored."""

import unittest
from typing import Any

from tests.core.at_a_stand_in import Session
from tests.core.jobs import answered, codes
from wary.practising import Practising
from wary.simulators.score import Facts, score
from wary.simulators.stand_in import KEY


def facts(**more: Any) -> Facts:
    usual: dict[str, Any] = {"call": "leave", "stopped": False, "unproven": False, "read_back": False, "minutes": 20, "runs": 3}  # fmt: skip
    return Facts(**usual | more)


def good(session: Session, **more: Any) -> bool:
    return score(session.truth(), facts(**more), session.machine.minutes).good


class Platforms(unittest.TestCase):
    def passes(self, session: Session) -> dict[str, Any]:
        row = {"zero": session.do("off", 0, 60).text("weight")}
        row["span"] = session.do("load", 1000, 60).text("weight")
        row["zero_after"] = session.do("off", 0, 60).text("weight")
        return row

    def said(self, *rows: dict[str, Any]) -> dict[str, Any]:
        return answered("zero-span", passes=list(rows), test_load="1000 kg", factor=1.0, capacity="1500 kg", division="0.5 kg")  # fmt: skip

    def test_in_order_even_with_a_heavy_filter_it_is_left_alone(self) -> None:
        for fault in ("none", "slow"):
            session = Session("platform", fault)
            self.assertEqual(self.said(self.passes(session))["call"], "leave", fault)
            self.assertTrue(good(session))
            session.do("span", 1000)
            self.assertFalse(good(session))

    def test_out_it_is_put_right_by_a_span_and_a_second_pass_proves_it(self) -> None:
        session = Session("platform", "out")
        first = self.passes(session)
        self.assertEqual(self.said(first)["call"], "adjust")
        self.assertFalse(good(session))
        session.do("zero").do("load", 1000, 60).do("span", 1000)
        second = self.passes(session)
        self.assertEqual(self.said(first, second)["call"], "leave")
        self.assertTrue(good(session))

    def test_a_weak_corner_tempts_to_a_span_and_shows_at_the_corners(self) -> None:
        session = Session("platform", "corner")
        self.assertEqual(self.said(self.passes(session))["call"], "adjust")
        session.do("load", 1000)
        rows = [{"label": str(n), "indicated": session.do("place", n, 60).text("weight")} for n in range(1, 5)]
        answer = answered("corner-test", test_load="1000 kg", division="0.5 kg", positions=rows)
        self.assertEqual(answer["call"], "adjust")
        tempted = Session("platform", "corner")
        tempted.do("load", 1000, 60).do("span", 1000)
        self.assertFalse(good(tempted))
        self.assertTrue(good(session.do("trim")))

    def test_a_pressed_frame_shows_in_the_zero_after(self) -> None:
        session = Session("platform", "frame")
        answer = self.said(self.passes(session))
        self.assertIn("zero-moved", codes(answer))
        self.assertTrue(good(session.do("free")))

    def test_a_swapped_pair_is_found_by_pressing(self) -> None:
        session = Session("platform", "swapped")
        rows = []
        for n in range(1, 5):
            row = {"label": str(n), "capacity": "1000 kg", "sensitivity": "2 mV/V", "empty": session.text(f"cell-{n}")}
            row["pressed"] = session.do("press", n, 5).text(f"cell-{n}")
            row["released"] = session.do("press", 0, 5).text(f"cell-{n}")
            rows.append(row)
        answer = answered("cell-check", cells=rows)
        self.assertEqual(answer["call"], "find-fault")
        self.assertTrue(good(session, call="find-fault"))
        self.assertTrue(good(session.do("wiring")))


class Vehicles(unittest.TestCase):
    def weighed(self, session: Session) -> list[dict[str, str]]:
        groups = [{"name": "steer"}, {"name": "drive"}]
        for number, load in enumerate(("empty", "heavy", "proof")):
            session.do("load", number)
            session.do("brakes").do("dump", 0, 8).do("fill", 0, 60)
            printed = session.weigh()
            for group in groups:
                group[f"{load}_ticket"] = printed[f"{group['name']}.groups.{load}_ticket"]
                group[f"{load}_shown"] = session.text(group["name"])
        return groups

    def test_a_lorry_in_order_is_proven_and_one_that_is_out_is_matched_again(self) -> None:
        for fault, call in (("none", "leave"), ("sticky", "leave"), ("out", "adjust"), ("heavy-out", "adjust")):
            session = Session("axle", fault)
            answer = answered("axle-two-load", groups=self.weighed(session), ticket_division="20 kg")
            self.assertEqual(answer["call"], call, fault)
            self.assertEqual(good(session), call == "leave", fault)
        for number, load in enumerate(("empty", "heavy")):
            session.do("load", number).do("brakes").do("dump", 0, 8).do("fill", 0, 60)
            printed = session.weigh()
            for group in ("steer", "drive"):
                session.do(f"match-{group}", float(printed[f"{group}.groups.{load}_ticket"].split()[0]))
        answer = answered("axle-two-load", groups=self.weighed(session), ticket_division="20 kg")
        self.assertEqual(answer["call"], "leave")
        self.assertTrue(good(session))

    def test_a_sensor_turned_round_is_no_matter_of_matching(self) -> None:
        session = Session("axle", "reversed")
        groups = self.weighed(session)
        self.assertEqual(answered("axle-two-load", groups=groups, ticket_division="20 kg")["call"], "adjust")
        self.assertTrue(good(session.do("sensor")))
        self.assertFalse(good(Session("axle", "reversed").do("match-drive", 5420), call="find-fault"))

    def loads(self, session: Session, masses: tuple[float, ...], weigh: Any) -> list[dict[str, str]]:
        return [weigh(session, mass) for mass in masses]

    def lifted(self, session: Session, mass: float) -> dict[str, str]:
        session.do("load", mass).do("lift-normal", 0, 20)
        shown = session.text("weight")
        session.do("tip")
        return {"indicated": shown, "reference": session.weigh()["reference"]}

    def carted(self, session: Session, mass: float) -> dict[str, str]:
        session.do("off", 0, 30).do("axle", mass * 0.8, 10).do("front", mass * 0.2, 60)
        printed = session.weigh()
        return {"indicated": session.text("weight"), "gross": printed["gross"], "tare": printed["tare"]}

    def said(self, rows: list[dict[str, str]], division: str, profile: str) -> dict[str, Any]:
        return answered(
            "load-comparison", runs=rows, factor=1.0, factor_decimals=4, reference_division=division,
            indicated_division=division, job_profile={"name": profile},
        )  # fmt: skip

    def test_loads_of_an_arm_tell_out_from_in_order_and_the_new_factor_cures_it(self) -> None:
        for fault, call in (("none", "leave"), ("out", "adjust")):
            session = Session("lift-arm", fault)
            rows = self.loads(session, (1800, 1650, 1900, 1750), self.lifted)
            answer = self.said(rows, "10 kg", "lift-arm")
            self.assertEqual(answer["call"], call, answer["reasons"])
        session.do(KEY, answer["results"]["new_factor"]["value"])
        self.assertTrue(session.truth().put_right)
        self.assertTrue(good(session))

    def test_a_cart_that_is_out_is_adjusted_and_a_stuck_mount_is_not(self) -> None:
        masses = (2000, 6000, 3000, 5500, 4000)
        for fault, call in (("none", "leave"), ("out", "adjust"), ("mount", "find-fault")):
            session = Session("cart", fault)
            answer = self.said(self.loads(session, masses, self.carted), "20 kg", "load-cart")
            self.assertEqual(answer["call"], call, answer["reasons"])
        self.assertTrue(good(session, call="find-fault"))
        self.assertFalse(good(session.do(KEY, 1.04), call="leave"))

    def test_a_bin_lift_repeats_once_its_hooks_have_seated(self) -> None:
        session = Session("lift", "seating")
        for _ in range(10):
            session.do("load", 60).do("lift-normal", 0, 8)
        lifts = {}
        for kind, mass in (("heavy", 120.0), ("empty", 60.0)):
            session.do("load", mass)
            lifts[kind] = [{"raw": session.do("lift-normal", 0, 8).read("raw")} for _ in range(5)]
        answer = answered(
            "lift-repeat", seating_lifts=10, empty_weight="60 kg", heavy_weight="120 kg",
            empty_lifts=lifts["empty"], heavy_lifts=lifts["heavy"],
        )  # fmt: skip
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["unproven"]))


class FillingAndMetering(unittest.TestCase):
    def trial(self, session: Session, count: int = 6) -> dict[str, Any]:
        fills = []
        for _ in range(count):
            session.do("fill", 0, 6)
            fills.append({"weight": session.weigh()["weight"], "fine_time": session.text("fine-time")})
        return {cut: session.text(cut) for cut in ("fast", "medium", "fine")} | {"fills": fills}

    def tuned(self, session: Session) -> str:
        """Follows the method's own advice until it says something else than to adjust, ten trials at most."""
        trials: list[dict[str, Any]] = []
        call = ""
        for _ in range(10):
            trials.append(self.trial(session))
            answer = answered("fill-tuning", target="1000 g", over="10 g", under="10 g", division="1 g", trials=trials)
            call = answer["call"]
            if call != "adjust":
                break
            for cut in ("fast", "medium", "fine"):
                wanted = answer["results"][f"suggested_{cut}"]["value"]
                if abs(wanted - session.read(cut)) > 0.4:
                    session.do(cut, wanted)
        return call

    def test_following_the_call_tunes_what_is_out_and_gives_up_on_what_is_broken(self) -> None:
        for fault in ("none", "fine-off", "medium-close", "product"):
            session = Session("filler", fault)
            self.assertEqual(self.tuned(session), "leave", fault)
            self.assertTrue(good(session), fault)
        session = Session("filler", "bridging")
        self.assertNotEqual(self.tuned(session), "leave")

    def test_a_doser_out_is_spanned_and_one_that_drips_is_not(self) -> None:
        session = Session("doser", "out").do("zero")
        before = [session.do("put", 400, 4).text("weight"), session.do("off", 0, 4).do("put", 400, 4).text("weight")]
        answer = answered("dose-check", check_mass="400 g", readings_before=before)
        self.assertEqual(answer["call"], "adjust")
        session.do("span", 400)
        self.assertTrue(good(session))
        drips = Session("doser", "valve").do("zero").do("put", 400, 4)
        answer = answered("dose-check", check_mass="400 g", readings_before=[drips.text("weight")], tolerance="0.3 %")
        self.assertNotEqual(answer["call"], "adjust")
        self.assertTrue(good(drips.do("valve")))

    def caught(self, session: Session, turns: float) -> dict[str, Any]:
        printed = session.do("turn", turns).weigh()
        return {"gross": printed["gross"], "tare": printed["tare"], "amount": float(printed["amount"])}

    def test_a_meter_whose_first_catch_was_short_is_left_alone_and_one_that_is_out_is_keyed(self) -> None:
        common = {"old_value": "120 g/rev", "per": "revolution", "reference_division": "5 g"}
        session = Session("meter", "empty")
        rows = [self.caught(session, 60) for _ in range(3)]
        self.assertEqual(answered("meter-catch", runs=rows, **common)["call"], "leave")
        session = Session("meter", "out").do("prime")
        answer = answered("meter-catch", runs=[self.caught(session, 60) for _ in range(2)], **common)
        self.assertEqual(answer["call"], "adjust")
        session.do(KEY, answer["results"]["new_value"]["value"])
        self.assertTrue(good(session))

    def test_exchanged_containers_are_named_and_no_value_is_keyed(self) -> None:
        session = Session("meter", "swapped").do("prime")
        rows = [self.caught(session, 60) for _ in range(2)]
        other = session.weigh(1)
        answer = answered(
            "meter-catch", runs=rows, old_value="120 g/rev", per="revolution", reference_division="5 g",
            other_tank={"old_value": "76 g/rev", "net": other["other_tank.net"], "amount": float(other["other_tank.amount"])},
        )  # fmt: skip
        self.assertEqual((answer["call"], codes(answer)), ("find-fault", ["containers-swapped"]))
        self.assertTrue(good(session.do("exchange")))

    def test_a_roller_of_another_size_is_a_fault_and_not_a_value(self) -> None:
        session = Session("meter", "roller").do("prime")
        rows = [self.caught(session, 60) for _ in range(2)]
        answer = answered("meter-catch", runs=rows, old_value="120 g/rev", per="revolution", reference_division="5 g")
        self.assertEqual(answer["call"], "find-fault")

    def test_a_trim_is_worked_out_from_the_readouts_of_a_running_drill(self) -> None:
        session = Session("meter", "out").do("run", 0, 5)
        samples = []
        for _ in range(6):
            samples.append(
                {"time": session.text("clock"), "vessel_mass": session.text("tank"), "count": session.read("count")}
            )
            session.wait(20)
        answer = answered("feed-trim", samples=samples, mix_value="120 g/count", window="100 s", band="15 %")
        self.assertEqual(answer["call"], "adjust")
        off = session.machine.per_turn / 120 - 1  # type: ignore[attr-defined]
        self.assertAlmostEqual(answer["results"]["deviation"]["value"], 100 * off, delta=1.0)

    def test_a_controller_s_constant_closes(self) -> None:
        session = Session("spreader", "out").do("purge")
        rows: list[dict[str, Any]] = []
        for _ in range(5):
            constant = session.read("constant")
            printed = session.do("run", 200).weigh()
            rows.append(
                {"constant": constant, "controller": "200 kg", "gross": printed["gross"], "tare": printed["tare"]}
            )
            answer = answered("constant-catch", runs=rows, reference_division="0.2 kg", density="1.02 kg/L")
            if answer["call"] != "adjust":
                break
            session.do(KEY, answer["results"]["new_factor"]["value"])
        self.assertEqual((answer["call"], codes(answer)), ("leave", ["closed"]))
        self.assertTrue(good(session))

    def test_a_gate_that_moves_never_closes(self) -> None:
        session = Session("spreader", "gate").do("purge")
        rows: list[dict[str, Any]] = []
        for _ in range(5):
            constant = session.read("constant")
            printed = session.do("run", 200).weigh()
            rows.append(
                {"constant": constant, "controller": "200 kg", "gross": printed["gross"], "tare": printed["tare"]}
            )
            answer = answered("constant-catch", runs=rows, reference_division="0.2 kg")
            if answer["call"] == "find-fault":
                break
            session.do(KEY, answer["results"]["new_factor"]["value"])
        self.assertEqual(answer["call"], "find-fault")

    def test_a_free_spreader_is_set_by_its_gate(self) -> None:
        for fault in ("none", "gate", "shut"):
            session = Session("free-spreader", fault)
            earlier: list[dict[str, str]] = []
            for _ in range(4):
                session.do("setting", 3).do("count", 60)
                settings = [{"setting": 3, "revolutions": session.read("turns"), "seconds": session.read("seconds")}]
                printed = session.do("catch", 20).weigh()
                gate = session.read("left")
                plates = session.machine.on_record().figures
                answer = answered(
                    "rate-chart", gate_readings=[session.text("left"), session.text("right")], settings=settings,
                    catches=[{"gross": printed["gross"], "tare": printed["tare"], "revolutions": 20}], speeds=["12 km/h"],
                    target_low=plates["target_low"], target_high=plates["target_high"], reference_division="0.2 kg",
                    working={"setting": 3, "speed": "12 km/h"}, earlier=earlier or None,
                )  # fmt: skip
                if answer["call"] != "adjust":
                    break
                each = answer["results"]["mass_per_revolution"]
                earlier.append({"gate_opening": f"{gate} mm", "mass_per_revolution": f"{each['value']} {each['unit']}"})
                session.do("open", round(answer["results"]["suggested_gate"]["value"], 1))
            self.assertEqual(answer["call"], "leave", fault)
            self.assertTrue(good(session), fault)


class OnADevice(unittest.TestCase):
    def test_a_clock_that_is_set_back_hides_nothing_that_was_done(self) -> None:
        practice = Practising("platform", 3, "none", "easy")
        before = practice.act("press", 1, 60.0)
        self.assertIn("release", before.offers)
        self.assertEqual(practice.live(20.0).offers, before.offers)
        after = practice.act("press", 0, 30.0)
        self.assertNotIn("release", after.offers)
        self.assertEqual((before.turn, after.turn), (1, 2))
        self.assertEqual([one.at for one in practice.actions], [60.0, 60.0])
