"""Every drawing at the screen: what was entered stands on it, and it changes with the next entry."""

import datetime

from playwright.sync_api import Locator, expect

from beacon.plant.models import Cell, System
from tests.browser.base import BrowserTestCase
from tests.browser.test_steps import OVERLAPS
from tests.server.plant import AGREEING, enter, runs
from tests.worked import WORKED, Worked


class Drawn(BrowserTestCase):
    def worked(self, method: str) -> Worked:
        return next(one for one in WORKED if one.method == method)

    def system(self, one: Worked) -> System:
        return self.plant.add_system(f"For {one.method}", one.kind, one.profile, one.plates)

    def figure(self, method: str, texts: dict[str, str] | None = None, step: str = "", **more: str) -> Locator:
        """The figure of a job in which a worked job, or these texts, were entered."""
        one = self.worked(method)
        system = self.system(one)
        names = sorted({path.split(".")[1] for path in one.texts if path.startswith("cells.")})
        for place, _ in enumerate(names, 1):
            Cell.objects.create(channel=system.channels.get(), place=place, label=f"{place}", source="plate")
        self.job = self.plant.job(method, system)
        enter(self.job, self.plant.technician, (one.texts if texts is None else texts) | more)
        self.page.goto(f"/jobs/{self.job.id}")
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()
        if step:
            self.go(step)
        figure = self.page.locator(".figure")
        expect(figure).to_be_visible()
        self.assertEqual(self.page.evaluate(OVERLAPS), [], method)
        return figure

    def svg(self, figure: Locator) -> Locator:
        return figure.locator("svg[role=img]").first

    # --- vehicles ---------------------------------------------------------------------------------

    def test_a_lorry_carries_what_was_typed_and_says_what_it_lacks(self) -> None:
        half = {
            "groups.g1.name": "steer", "groups.g1.empty_ticket": "6200 kg",
            "groups.g2.name": "drive", "groups.g2.empty_ticket": "5400 kg",
        }  # fmt: skip
        figure = self.figure("axle-two-load", half)
        expect(self.svg(figure)).to_have_attribute(
            "aria-label",
            "Vehicle from the side. steer: 6200 kg, heavy missing; drive: 5400 kg, heavy missing. Not valid until both loads are in.",
        )
        expect(figure.locator("circle")).to_have_count(4)
        expect(figure.locator("rect[stroke-dasharray]")).to_have_count(1)
        enter(
            self.job, self.plant.technician, {"groups.g1.heavy_ticket": "7100 kg", "groups.g2.heavy_ticket": "16.2 t"}
        )
        self.page.reload()
        expect(self.svg(figure)).to_have_attribute("aria-label", "Vehicle from the side. steer: 7100 kg; drive: 16.2 t. Both loads are in.")  # fmt: skip
        expect(figure.locator("rect[stroke-dasharray]")).to_have_count(0)

    def test_a_lorry_of_five_groups_keeps_its_words_apart(self) -> None:
        names = ("steer", "drive", "lift axle", "trailer front", "trailer rear")
        texts = {}
        for number, name in enumerate(names, 1):
            texts |= {f"groups.g{number}.name": name, f"groups.g{number}.empty_ticket": f"{number}400 kg"}
        figure = self.figure("axle-two-load", texts)
        expect(figure.locator("circle")).to_have_count(10)
        for name in names:
            expect(figure).to_contain_text(name)

    def test_lifts_fill_their_field_and_the_oil_stands_against_its_gate(self) -> None:
        one = self.worked("lift-speed")
        figure = self.figure("lift-speed", one.texts | {"inputs.minimum_temperature": "40 degC"})
        table = figure.get_by_role("table", name="Lifts that are in, of those that are wanted")
        for load, counts in (("empty", "1 of 1"), ("full", "1 of 1"), ("known", "1 of 1")):
            expect(table.get_by_role("row", name=load)).to_contain_text(counts)
        # Full at normal speed is not among the lifts that are asked for.
        expect(table.locator("td.lift-none")).to_have_count(3)
        expect(figure.get_by_role("img", name="40 °C at least")).to_have_count(1)

    def test_cold_oil_is_said_on_the_gauge(self) -> None:
        texts = {"inputs.minimum_temperature": "40 degC", "lifts.l1.load": "empty", "lifts.l1.speed": "slow",
                 "lifts.l1.raw": "1004", "lifts.l1.temperature": "31 degC"}  # fmt: skip
        figure = self.figure("lift-speed", texts)
        gauge = figure.get_by_role("img", name="Oil at 31 °C, 40 °C at least")
        expect(gauge).to_contain_text("too cold")
        enter(self.job, self.plant.technician, {"lifts.l1.temperature": "46 degC"})
        self.page.reload()
        warm = figure.get_by_role("img", name="Oil at 46 °C, 40 °C at least")
        expect(warm).not_to_contain_text("too cold")

    def test_oil_that_was_read_twenty_minutes_ago_is_asked_for_again(self) -> None:
        texts = {"inputs.minimum_temperature": "40 degC", "lifts.l1.load": "empty", "lifts.l1.speed": "slow",
                 "lifts.l1.raw": "1004", "lifts.l1.temperature": "46 degC"}  # fmt: skip
        self.figure("lift-speed", texts)
        self.go("Lifts")
        asked = self.page.get_by_role("status").filter(has_text="The oil cools between the lifts")
        expect(self.page.get_by_role("table", name="Lifts", exact=True)).to_be_visible()
        expect(asked).to_have_count(0)
        self.page.clock.install(time=datetime.datetime.now() + datetime.timedelta(minutes=24))
        self.page.reload()
        expect(asked).to_contain_text("It was read 24 minutes ago.")
        self.assert_accessible()

    def test_the_two_lines_of_the_speed_come_with_the_times(self) -> None:
        rows = (("empty", "slow", 1004, 8.1), ("empty", "quick", 1096, 4.2), ("full", "slow", 2988, 8.4),
                ("full", "quick", 3161, 4.3), ("empty", "normal", 1047, 6.1), ("known", "normal", 2051, 6.2))  # fmt: skip
        texts = {"inputs.known_load": "1000 kg", "inputs.known_load_source": "estimated"}
        for number, (load, speed, raw, time) in enumerate(rows, 1):
            texts |= {f"lifts.l{number}.load": load, f"lifts.l{number}.speed": speed, f"lifts.l{number}.raw": str(raw),
                      f"lifts.l{number}.time": f"{time} s"}  # fmt: skip
        figure = self.figure("lift-speed", texts)
        lines = figure.locator("svg.lift-lines")
        expect(lines).to_contain_text("known")
        # An estimated load is an open, dashed spot until a ground scale has spoken.
        expect(lines.locator("circle[stroke-dasharray]")).to_have_count(1)
        enter(self.job, self.plant.technician, {"inputs.known_load_source": "weighed"})
        self.page.reload()
        expect(lines.locator("circle")).to_have_count(1)
        expect(lines.locator("circle[stroke-dasharray]")).to_have_count(0)

    def test_counted_lifts_lie_about_their_mean_and_one_set_aside_is_open(self) -> None:
        texts = {"inputs.empty_weight": "20 kg", "inputs.heavy_weight": "32 kg", "inputs.seating_lifts": "10"}
        for number, raw in enumerate((1520, 1522, 1519, 1521, 1700), 1):
            texts[f"heavy_lifts.h{number}.raw"] = str(raw)
        for number, raw in enumerate((1000, 1001, 999, 1000), 1):
            texts[f"empty_lifts.e{number}.raw"] = str(raw)
        texts["heavy_lifts.h5.set_aside"] = "touched the ground"
        figure = self.figure("lift-repeat", texts)
        strips = self.svg(figure)
        expect(strips.locator("circle")).to_have_count(9)
        expect(strips.locator("circle[fill='var(--paper)']")).to_have_count(1)
        # 2·20 kg less 5 kg to be on the safe side is what to fill in to; the range of 3 counts of 520.5 is 0.58 %.
        expect(strips).to_have_attribute("aria-label", "Lifts about their mean. heavy: 5 lifts, range 0.58 %; empty: 4 lifts, range 0.38 %")  # fmt: skip
        expect(figure.locator(".drawing-heads")).to_contain_text("32 kg")

    def test_loads_lie_about_the_line_through_them(self) -> None:
        one = self.worked("load-comparison")
        figure = self.figure("load-comparison", one.texts)
        count = len({path.split(".")[1] for path in one.texts if path.startswith("runs.")})
        expect(self.svg(figure).locator("circle")).to_have_count(count)
        expect(figure).to_contain_text("too little")

    # --- belts and cells --------------------------------------------------------------------------

    def test_a_belt_says_its_spacing_and_what_hangs_on_it(self) -> None:
        figure = self.figure("belt-test-weight")
        expect(figure).to_contain_text("0.9 m")
        expect(figure).to_contain_text("36 kg")
        enter(self.job, self.plant.technician, {"inputs.idler_spacing": "1.2 m"})
        self.page.reload()
        expect(figure).to_contain_text("1.2 m")

    def test_a_belt_with_material_on_it_in_a_material_test(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        self.page.goto(f"/jobs/{job.id}")
        expect(self.page.locator(".figure")).to_contain_text("0.9 m")
        expect(self.page.locator(".figure svg").first).to_be_visible()

    def test_cells_stand_where_they_are_with_how_they_answered(self) -> None:
        figure = self.figure("cell-check")
        for name in ("north", "east", "west"):
            expect(figure).to_contain_text(name)
        label = self.svg(figure).get_attribute("aria-label") or ""
        self.assertIn("north", label)

    def test_the_furthest_corner_is_the_marked_one(self) -> None:
        figure = self.figure("corner-test")
        expect(figure).to_contain_text("400.5 kg")
        one = self.worked("corner-test")
        row = sorted({path.split(".")[1] for path in one.texts if path.startswith("positions.")})[0]
        enter(self.job, self.plant.technician, {f"positions.{row}.indicated": "404 kg"})
        self.page.reload()
        expect(figure).to_contain_text("404 kg")

    def test_points_stand_about_their_line(self) -> None:
        for method in ("span-points", "output-check"):
            figure = self.figure(method)
            expect(self.svg(figure).locator("circle, rect.point")).not_to_have_count(0)

    def test_a_load_stands_on_its_scale_as_far_as_it_weighs(self) -> None:
        figure = self.figure("zero-span")
        expect(figure).to_contain_text("500 kg")
        expect(figure).to_contain_text(self.worked("zero-span").plates["capacity"])
