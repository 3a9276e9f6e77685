"""Static scales on the bench, each laid out for its own work; sums."""

import re

from playwright.sync_api import Page, expect

from beacon.bench.models import Entry
from beacon.plant.models import Cell, Channel, System
from tests.browser.base import BrowserTestCase
from tests.server.test_visits import PLATFORM


class StandingScales(BrowserTestCase):
    def system(self, name: str, kind: str, **plates: str) -> System:
        system = self.plant.add_system(name, kind, "vessel", PLATFORM | plates)
        channel = Channel.objects.get(system=system)
        for place, label in enumerate(("front left", "front right", "back right", "back left"), 1):
            Cell.objects.create(channel=channel, place=place, label=label, capacity="1000 kg", sensitivity="2 mV/V")
        return system

    def visit(self, system: System) -> Page:
        self.page.goto(f"/systems/{system.id}")
        self.page.get_by_role("button", name=re.compile("Begin a visit")).click()
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()
        return self.page

    def test_a_platform_zero_span_passes_until_both_hold_then_its_corners(self) -> None:
        page = self.visit(self.system("Platform", "platform"))
        self.go("The test load")
        page.locator("[data-path='inputs.test_load']").fill("400 kg")
        self.go("Passes")
        self.in_dock("0.0", "402.5", "0.0")
        expect(page.locator(".call .verdict")).to_contain_text("Look first")
        self.make_looks()
        expect(page.locator(".call .verdict")).to_contain_text("Take the span")
        expect(page.locator(".call-lead")).to_contain_text("key the value in, take span")
        self.in_dock("0.0", "400.0", "0.0")
        expect(page.locator(".list-table")).to_contain_text("holds")
        expect(page.locator(".call .verdict")).to_contain_text("Leave it alone")
        self.go("Each corner in turn")
        for shown in ("400.0", "400.5", "399.5", "402.0"):
            page.locator(".list-table").get_by_role("button", name=re.compile("Row")).nth(
                ("400.0", "400.5", "399.5", "402.0").index(shown)
            ).click()
            page.get_by_role("textbox", name="Indicated").fill(shown)
            page.get_by_role("textbox", name="Indicated").press("Enter")
        expect(page.locator(".call .verdict")).to_contain_text("One corner is weak")
        expect(page.locator(".call .reasons")).to_contain_text("Trim back left")
        self.assert_accessible()

    def test_cells_are_pressed_in_turn_and_the_wiring_is_found_by_behaviour(self) -> None:
        silo = self.system("Silo", "vessel")
        page = self.visit(silo)
        self.go("Press each in turn")
        self.in_dock("0.21 mV/V", "0.25 mV/V", "0.21 mV/V")
        expect(page.locator(".dock strong")).to_contain_text("front right")
        self.in_dock("0.20 mV/V", "0.17 mV/V")
        expect(page.locator(".list-table")).to_contain_text("falls when pressed")
        expect(page.locator(".call .verdict")).to_contain_text("A cell's signal pair is swapped")
        self.assert_accessible()

    def test_a_data_sheet_span_is_provisional_wherever_the_system_appears(self) -> None:
        silo = self.system("Silo", "vessel", live_capacity="1.2 t", dead_load="0.4 t")
        page = self.page
        page.goto(f"/systems/{silo.id}")
        page.get_by_role("button", name="One method alone").click()
        page.get_by_role("button", name=re.compile("Span from the data sheet")).click()
        self.go("Key in")
        expect(page.locator(".key-figures")).to_contain_text("0.2 mV/V")
        self.go("Close")
        page.get_by_label("Your name, to sign").fill("Ines")
        page.get_by_role("button", name="Close and seal").click()
        expect(page.get_by_text("Closed as provisional")).to_be_visible()
        page.goto("/")
        expect(page.locator(".stop-row").filter(has_text="Silo")).to_contain_text("Provisional")

    def test_points_of_counts_and_the_set_up_sheet(self) -> None:
        bench = self.system("Bench", "bench")
        page = self.page
        page.goto(f"/systems/{bench.id}")
        page.get_by_role("button", name="One method alone").click()
        page.get_by_role("button", name=re.compile("Several loads")).click()
        self.go("Points")
        for load, counts in (("0 kg", "8000"), ("10 kg", "270000")):
            fields = page.locator(".dock input[data-entry]")
            fields.nth(0).fill(load)
            fields.nth(0).press("Enter")
            fields.nth(1).fill(counts)
            fields.nth(1).press("Enter")
            expect(page.locator(".list-table tbody tr")).to_have_count(1 if load == "0 kg" else 2)
        expect(page.locator(".call-lead")).to_contain_text("26200 counts per kg".replace("26200", "26\u202f200"))
        page.goto(f"/systems/{bench.id}")
        page.get_by_role("button", name="One method alone").click()
        page.get_by_role("button", name=re.compile("Set-up sheet")).click()
        page.get_by_label("Filter: heavier is steadier and slower, as found").fill("4")
        page.get_by_label("Filter: heavier is steadier and slower, as left").fill("6")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Filter: 4 → 6")).to_be_visible()
        self.assert_accessible()

    def test_a_cell_is_replaced_and_an_event_logged_on_the_system_s_page(self) -> None:
        silo = self.system("Silo", "vessel")
        page = self.page
        page.goto(f"/systems/{silo.id}")
        page.get_by_role("button", name="Replace cell front left").click()
        page.get_by_label("Why was it replaced?").fill("dead when pressed")
        page.get_by_role("button", name="Replace it").click()
        expect(page.get_by_text("dead when pressed").first).to_be_visible()
        page.get_by_role("button", name="Log an event").click()
        page.get_by_label("What", exact=True).select_option(label="frame welded or moved")
        expect(page.get_by_label("Corner test")).to_be_checked()
        page.get_by_role("button", name="Log it").click()
        expect(page.get_by_role("dialog")).to_be_hidden()


class SumsPage(BrowserTestCase):
    def test_a_sum_shows_its_formula_and_is_carried_into_a_job(self) -> None:
        page = self.page
        page.goto("/sums?sum=weight-rate")
        page.get_by_role("textbox", name="Test mass, with its carrier").fill("60")
        page.get_by_role("textbox", name="Idler spacing").fill("1,2")
        page.get_by_role("textbox", name="Belt speed").fill("2")
        expect(page.get_by_text("360 t/h")).to_be_visible()
        expect(page.get_by_text("= 60 kg / 1.2 m")).to_be_visible()
        page.get_by_role("button", name="Carry it into a job").click()
        page.get_by_role("button", name=re.compile("^Conveyor")).click()
        expect(page.get_by_role("complementary", name="The call")).to_be_visible()
        self.assertEqual(Entry.objects.filter(path="inputs.test_mass").latest("sequence").text, "60 kg")


class PutRight(BrowserTestCase):
    """What proves little, what was set before it was read, and whether the instrument is told what the machine is."""

    system, visit = StandingScales.system, StandingScales.visit

    def test_a_small_weight_offers_a_substitution_test_which_grows_round_by_round(self) -> None:
        page = self.visit(self.system("Platform", "platform"))
        self.go("The test load")
        page.locator("[data-path='inputs.test_load']").fill("40 kg")
        self.go("Passes")
        self.in_dock("0.0", "40.0", "0.0")
        expect(page.locator(".call .reasons")).to_contain_text("In order is shown up to 40 kg")
        page.get_by_role("button", name="Go to substitution test").click()
        self.go("The weights")
        page.locator("[data-path$='inputs.weights']").fill("300 kg")
        page.keyboard.press("Enter")
        expect(page.get_by_text("With 300 kg you can prove 1500 kg")).to_be_visible()
        self.go("Rounds")
        dock = page.locator("#step-further-rounds .dock").first
        dock.get_by_role("textbox", name="Shown with the weights on").fill("300.0")
        page.keyboard.press("Enter")
        expect(page.get_by_text("The next round wants about 300 kg of material")).to_be_visible()
        dock.get_by_role("textbox", name="Shown with material instead").fill("300.5")
        page.keyboard.press("Enter")
        dock.get_by_role("textbox", name="Shown with the weights on").fill("600.5")
        page.keyboard.press("Enter")
        expect(page.get_by_role("img", name="2 rounds, up to 600.5 kg of 1500 kg")).to_be_visible()
        expect(page.locator(".call .verdict")).to_contain_text("Leave it alone")
        self.assert_accessible()

    def test_what_was_captured_before_it_was_read_repeats_and_another_load_proves_it(self) -> None:
        page = self.visit(self.system("Platform", "platform"))
        self.go("The test load")
        page.locator("[data-path='inputs.test_load']").fill("400 kg")
        self.go("Passes")
        self.in_dock("0.0", "402.5", "0.0")
        self.in_dock("0.0", "400.0", "0.0")
        page.locator(".list-table").get_by_role("button", name=re.compile("Row 2|2")).last.click()
        page.locator(".dock").get_by_role("button", name="zero and span", exact=True).click()
        expect(page.locator(".call .reasons")).to_contain_text("It repeats; it is not proven")
        self.go("Prove it")
        page.get_by_role("textbox", name="Another load", exact=True).fill("200 kg")
        page.keyboard.press("Enter")
        page.get_by_role("textbox", name="Shown with it on", exact=True).fill("200 kg")
        page.keyboard.press("Enter")
        expect(page.locator(".call .reasons")).not_to_contain_text("not proven")
        expect(page.locator(".call .verdict")).to_contain_text("Leave it alone")

    def test_a_sheet_says_whether_the_instrument_is_told_what_the_machine_is(self) -> None:
        page = self.visit(self.system("Platform", "platform", cell_count="4", cell_sensitivity="2 mV/V"))
        self.go("Set-up sheet")
        page.get_by_label("Cells or points of support, as found", exact=True).fill("3")
        page.keyboard.press("Enter")
        told = page.get_by_role("table", name="Is the instrument told what the machine is?")
        expect(told.get_by_role("row", name="Cells or points of support")).to_contain_text("differs")
        expect(page.locator(".call .verdict")).to_contain_text("A figure in the instrument is not the one on the plate")
        page.get_by_label("Cells or points of support, as left", exact=True).fill("4")
        page.keyboard.press("Enter")
        expect(told.get_by_role("row", name="Cells or points of support")).to_contain_text("agrees")
        expect(page.get_by_label("Working width, as found")).to_have_count(0)
        self.assert_accessible()
