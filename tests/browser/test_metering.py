"""A drill, a controlled spreader and a free-running one at the screen."""

import io
import re

from playwright.sync_api import Page, expect
from pypdf import PdfReader

from beacon.plant.models import Channel, System
from tests.browser.base import BrowserTestCase
from tests.browser.test_steps import OVERLAPS
from tests.server.plant import enter


class Metering(BrowserTestCase):
    def machine(self, kind: str, figures: dict[str, object], **plates: object) -> System:
        system = self.plant.add_system(f"The {kind}", kind, "metered-feed", plates)
        System.objects.filter(pk=system.pk).update(reference=None)
        Channel.objects.filter(system=system).update(figures=figures, factor="", name="grit, small gate")
        return system

    def bench(self, method: str, system: System) -> Page:
        self.job = self.plant.job(method, system)
        self.page.goto(f"/jobs/{self.job.id}")
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()
        return self.page

    def verdict(self, words: str) -> None:
        expect(self.page.locator(".call .verdict")).to_contain_text(words)

    def listed(self, count: int) -> None:
        expect(self.page.locator(".list-table tbody tr:has(.tally-number)")).to_have_count(count)


class Drill(Metering):
    def test_catches_until_two_agree_and_what_jumped_is_said(self) -> None:
        page = self.bench("meter-catch", self.machine("meter", {"old_value": "0.1 kg/rev"}, reference_division="5 g"))
        self.go("Set-up")
        expect(page.get_by_role("textbox", name="In the controller now")).to_have_value("0.1")
        page.get_by_role("group", name="For one").get_by_role("button", name="revolution").click()
        self.go("Catches")
        self.in_dock("20", "2.5 kg", "0.5 kg")
        self.listed(1)
        self.verdict("Catch once more")
        self.in_dock("20", "2.7 kg", "0.5 kg")
        self.listed(2)
        self.verdict("Find the fault first")
        expect(page.locator(".call .reasons")).to_contain_text("not primed, turned past the mark")
        self.in_dock("20", "2.71 kg", "0.5 kg")
        self.listed(3)
        self.verdict("Look first")
        self.make_looks()
        self.verdict("Key in 0.11")
        expect(page.locator(".figure svg[role=img]")).to_have_attribute("aria-label", "3 values one after the other, against 0.1 kg/rev in the controller")  # fmt: skip
        self.assertEqual(page.evaluate(OVERLAPS), [])
        self.assert_accessible()

    def test_swapped_containers_are_named(self) -> None:
        page = self.bench("meter-catch", self.machine("meter", {"old_value": "0.1 kg/rev"}))
        texts = {"inputs.per": "revolution", "runs.a.amount": "20", "runs.a.gross": "4.5 kg", "runs.a.tare": "0.5 kg"}
        other = {"inputs.other_tank.old_value": "0.2 kg/rev", "inputs.other_tank.net": "2 kg", "inputs.other_tank.amount": "20"}  # fmt: skip
        enter(self.job, self.plant.technician, texts | other)
        page.reload()
        self.verdict("The containers changed places")


class Constant(Metering):
    def test_the_next_catch_begins_with_the_constant_that_was_worked_out(self) -> None:
        page = self.bench("constant-catch", self.machine("spreader", {"constant": 8000}))
        self.go("Catches")
        dock = page.locator(".dock").first
        for label, text in (("Constant in use", "8000"), ("Controller says", "105 kg"), ("Net", "100 kg")):
            field = dock.get_by_role("textbox", name=label)
            field.fill(text)
            field.press("Enter")
        self.verdict("Set 8400")
        page.locator(".list-table tbody").get_by_role("button").first.click()
        page.get_by_role("button", name="Catch 2, set as the call says").click()
        expect(page.locator(".call .not-valid")).to_contain_text("no catch shows yet that it closes")
        expect(dock.get_by_role("textbox", name="Constant in use")).to_have_value("8400")
        for label, text in (("Controller says", "100.4 kg"), ("Net", "100 kg")):
            field = page.locator(".dock").first.get_by_role("textbox", name=label)
            field.fill(text)
            field.press("Enter")
        self.verdict("Look first")
        self.make_looks()
        self.verdict("Closed: leave it alone")
        self.assertEqual(page.evaluate(OVERLAPS), [])
        self.assert_accessible()


class Chart(Metering):
    TEXTS = {
        "inputs.working.setting": "2",
        "inputs.working.speed": "30 km/h",
        **{f"speeds.s{n}.value": f"{kmh} km/h" for n, kmh in enumerate((20, 30, 40), 1)},
        **{f"gate_readings.g{n}.value": f"{mm} mm" for n, mm in enumerate((52, 54), 1)},
        **{f"settings.t{n}.{key}": text for n, row in enumerate((("1", "6"), ("2", "11"), ("3", "16")), 1) for key, text in zip(("setting", "revolutions"), row, strict=True)},
        **{f"settings.t{n}.seconds": "60" for n in (1, 2, 3)},
        "catches.c1.revolutions": "10",
        "catches.c1.net": "22.4 kg",
    }  # fmt: skip

    def test_the_chart_says_where_each_cell_lies_and_a_gate_that_was_tried_is_kept(self) -> None:
        gritter = self.machine("free-spreader", {"target_low": "30 kg/km", "target_high": "40 kg/km"})
        page = self.bench("rate-chart", gritter)
        enter(self.job, self.plant.technician, self.TEXTS)
        page.reload()
        table = page.get_by_role("table", name="What each setting gives at each speed, in kg/km")
        expect(table.locator(".rate-working")).to_contain_text("49.3")
        expect(table.locator(".rate-inside")).to_have_count(1)
        self.verdict("Look first")
        self.make_looks()
        self.verdict("Gate 53")
        self.assert_accessible()
        self.go("Gates tried")
        page.get_by_role("button", name="Keep the one that is measured as tried").click()
        self.listed(1)
        expect(page.locator(".list-table").first).to_contain_text("2.24")
        self.verdict("Now a catch")
        self.go("Gate", number=0)
        for text in ("42 mm", "42 mm"):
            self.in_dock(text)
        self.go("Catch")
        dock = page.locator(".dock").first
        for label, text in (("Turns", "10"), ("Net", "16 kg")):
            field = dock.get_by_role("textbox", name=label, exact=True)
            field.fill(text)
            field.press("Enter")
        self.verdict("The gate is right: leave it")
        expect(page.locator(".kept")).not_to_contain_text("on the way")

    def test_turns_are_counted_from_tone_to_tone_and_halves_count(self) -> None:
        gritter = self.machine("free-spreader", {"target_low": "30 kg/km", "target_high": "40 kg/km"})
        page = self.page
        page.clock.install()
        page = self.bench("rate-chart", gritter)
        self.go("Turns")
        setting = page.locator(".dock").get_by_role("textbox", name="Setting")
        setting.fill("1")
        setting.press("Enter")
        page.get_by_role("button", name="Start: 60 s from tone to tone").click()
        for _ in range(5):
            page.get_by_role("button", name="Count a turn").click()
        page.get_by_role("button", name="Half a turn more").click()
        expect(page.get_by_role("timer")).to_contain_text("5.5")
        page.clock.run_for(61_000)
        expect(page.get_by_role("button", name="Count a turn")).to_be_disabled()
        page.get_by_role("button", name="Enter 5.5 in 60 s").click()
        row = page.locator(".list-table tbody tr").first
        for words in ("1", "5.5", "60"):
            expect(row).to_contain_text(words)
        self.assert_accessible()

    def test_the_card_for_the_cab_holds_the_chart_on_one_side(self) -> None:
        gritter = self.machine("free-spreader", {"target_low": "30 kg/km", "target_high": "40 kg/km"})
        page = self.bench("rate-chart", gritter)
        enter(self.job, self.plant.technician, self.TEXTS | {"catches.c1.net": "16 kg"})
        page.reload()
        self.go("Close")
        page.get_by_label("Your name, to sign").fill("Ines")
        page.get_by_role("button", name="Close and seal").click()
        expect(page.get_by_role("link", name="To its record and certificate")).to_be_visible()
        page.goto(f"/systems/{gritter.id}")
        link = page.get_by_role("link", name=re.compile("Card for the cab")).get_attribute("href") or ""
        pages = PdfReader(io.BytesIO(page.request.get(link).body())).pages
        self.assertEqual(len(pages), 1)
        text = " ".join(pages[0].extract_text().split())
        for words in ("30 km/h", "35.2", "setting", "40 kg/km", "53 mm", "Too much harms soil and water"):
            self.assertIn(words, text)


class OnAPhone(Metering):
    size = {"width": 390, "height": 844}

    def test_the_chart_holds_at_arm_s_length(self) -> None:
        gritter = self.machine("free-spreader", {"target_low": "30 kg/km", "target_high": "40 kg/km"})
        job = self.plant.job("rate-chart", gritter)
        enter(job, self.plant.technician, Chart.TEXTS)
        page = self.page
        page.goto(f"/jobs/{job.id}")
        expect(page.locator(".call-bar")).to_contain_text("Look first")
        expect(page.locator(".rate-field table")).to_be_visible()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        self.assertEqual(page.evaluate(OVERLAPS), [])
