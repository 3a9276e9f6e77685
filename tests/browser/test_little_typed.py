"""How little is typed, at the screen: one look first, what did not change, the next row, one tap for what is alike."""

import re

from playwright.sync_api import Page, expect

from beacon.bench.models import Entry, Job
from beacon.plant.models import Cell, System
from beacon.records.sealing import close
from tests.browser.base import BrowserTestCase
from tests.server.plant import enter
from wary.job.closing import Asked

TICKETS = {f"groups.{row}.{key}": text for row, name, light, heavy in (("g7", "steer", "6000 kg", "7000 kg"), ("g9", "drive", "5000 kg", "9000 kg")) for key, text in (("name", name), ("empty_ticket", light), ("heavy_ticket", heavy))}  # fmt: skip


class LittleTyped(BrowserTestCase):
    def sheet(self, step: str, page: Page | None = None) -> None:
        rail = (page or self.page).get_by_role("navigation", name="Run sheet")
        rail.get_by_role("button", name=re.compile(step)).first.click()

    def at(self, system: System, method: str = "") -> Job:
        job = self.plant.job(method or "visit", system)
        self.page.goto(f"/jobs/{job.id}")
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()
        return job

    def kept(self, job: Job, path: str) -> str:
        entry = Entry.objects.filter(job=job, path=path).order_by("sequence").last()
        return entry.text if entry else ""

    def test_a_visit_of_several_parts_looks_first_once(self) -> None:
        job = self.at(self.plant.add_system("Silo", "vessel", "vessel", {"capacity": "12 t", "division": "2 kg"}))
        rail = self.page.get_by_role("navigation", name="Run sheet")
        expect(rail.get_by_role("button", name="Look first")).to_have_count(1)
        self.sheet("Look first")
        look = self.page.get_by_role("region", name="Look first")
        expect(look.get_by_text("Nothing touch")).to_have_count(1)
        for text in ("Nothing touching, hanging or caked on", "Every mount is upright", "Junction boxes dry"):
            look.get_by_text(text).click()
        expect(rail.get_by_role("button", name="Look first")).to_contain_text("3 of 5")
        self.wait_until(lambda: self.kept(job, "cells/tick.look.boxes") == "yes")
        self.assertEqual(self.kept(job, "tick.look.free"), "yes")
        self.assert_accessible()

    def test_a_caution_that_was_seen_is_not_asked_again(self) -> None:
        job = self.at(self.plant.add_system("Trailer", "lift", "lift-arm", {}), "lift-repeat")
        self.sheet("The containers")
        expect(self.page.locator(".cautions p")).to_have_count(1)
        self.sheet("Look first")
        own = self.page.locator(".cautions p").all_inner_texts()
        self.page.locator(".cautions").get_by_text("I have seen to it").click()
        self.wait_until(lambda: self.kept(job, "caution.look") == "yes")
        self.sheet("Heavy")
        for text in own:
            expect(self.page.locator(".cautions").get_by_text(text)).to_have_count(0)

    def test_what_the_visit_before_left_is_there_with_its_date_and_one_key_takes_it(self) -> None:
        lorry = self.plant.add_system("Lorry", "axle", "axle", {"ticket_division": "20 kg"})
        first = self.plant.job("axle-two-load", lorry)
        enter(first, self.plant.technician, TICKETS | {"inputs.heavy_scale": "North quay"})
        close(self.plant.technician, first, Asked("Ines", "complete"))
        job = self.at(lorry, "axle-two-load")
        self.sheet("The ground scale")
        expect(self.page.get_by_role("textbox", name="Ground scale, heavy")).to_have_value("North quay")
        before = self.page.locator(".as-before")
        expect(before).to_contain_text(re.compile(r"1 figure as on \d+ \w+ \d{4}"))
        self.assert_accessible()
        before.get_by_role("button", name="Still so").click()
        expect(before).to_have_count(0)
        self.wait_until(lambda: Entry.objects.filter(job=job, path="inputs.heavy_scale", source="typed").exists())
        # The groups are named; one tap says of both that they show their tickets.
        self.sheet("Empty")
        expect(self.page.locator(".list-table tbody tr")).to_have_count(2)
        expect(self.page.get_by_role("button", name="Each group shows its ticket")).to_have_count(0)
        enter(job, self.plant.technician, {"groups.g1.empty_ticket": "6020 kg", "groups.g2.empty_ticket": "5000 kg"})
        self.page.get_by_role("button", name="Each group shows its ticket").click()
        self.wait_until(lambda: self.kept(job, "groups.g1.empty_shown").startswith("6020"))
        self.assertTrue(self.kept(job, "groups.g2.empty_shown").startswith("5000"))

    def test_the_next_lift_begins_itself_and_goes_in_with_its_raw_figure(self) -> None:
        loader = self.plant.add_system("Loader", "lift-arm", "lift-arm", {})
        job = self.at(loader, "lift-speed")
        enter(job, self.plant.technician, {"inputs.known_load": "1000 kg"})
        self.sheet("Lifts")
        dock = self.page.locator(".dock")
        raw = self.page.get_by_role("textbox", name="Raw figure")
        chosen = dock.locator(".choice .active")
        expect(chosen).to_have_text(["empty", "slow", "up"])
        raw.fill("1000")
        raw.press("Enter")
        expect(chosen).to_have_text(["empty", "quick", "up"])
        expect(raw).to_be_focused()
        raw.fill("1100")
        raw.press("Enter")
        expect(chosen).to_have_text(["full", "slow", "up"])
        # What the call asks for is an offer: another may be chosen.
        dock.get_by_role("group", name="Speed").get_by_role("button", name="quick").click()
        raw.fill("3180")
        raw.press("Enter")
        expect(self.page.locator(".list-table tbody tr")).to_have_count(3)
        self.wait_until(lambda: Entry.objects.filter(job=job, path__endswith=".raw").count() == 3)
        rows = {entry.path.split(".")[1] for entry in Entry.objects.filter(job=job, path__startswith="lifts.")}
        self.assertEqual(len(rows), 3)
        lifts = [
            [self.kept(job, f"lifts.{row}.{key}") for key in ("load", "speed")]
            for row in sorted(rows, key=lambda row: self.kept(job, f"lifts.{row}.raw"))
        ]
        self.assertEqual(sorted(lifts), [["empty", "quick"], ["empty", "slow"], ["full", "quick"]])

    def test_where_the_instrument_keeps_its_figures_a_lift_is_one_tap(self) -> None:
        loader = self.plant.add_system("Loader", "lift-arm", "lift-arm", {})
        job = self.at(loader, "lift-speed")
        enter(job, self.plant.technician, {f"required.r{n}.{key}": text for n, speed in enumerate(("slow", "quick"), 1) for key, text in (("load", "empty"), ("speed", speed), ("count", "2"))})  # fmt: skip
        self.page.get_by_role("navigation", name="Run sheet").get_by_role("button", name="Lifts").last.click()
        chosen = self.page.locator(".dock .choice .active")
        for speed in ("slow", "slow", "quick", "quick"):
            expect(chosen).to_have_text(["empty", speed, "up"])
            self.page.locator(".dock").get_by_role("group", name="Done").get_by_role("button", name="yes").click()
        expect(self.page.locator(".list-table tbody tr")).to_have_count(4)
        self.wait_until(lambda: Entry.objects.filter(job=job, path__endswith=".done", text="yes").count() == 4)

    def test_cells_that_came_back_are_one_tap(self) -> None:
        silo = self.plant.add_system("Silo", "vessel", "vessel", {})
        for place in (1, 2):
            Cell.objects.create(channel=silo.channels.get(), place=place, label=str(place), source="plate", capacity="5 t", sensitivity="2 mV/V")  # fmt: skip
        job = self.at(silo, "cell-check")
        self.sheet("Press")
        for name, figure in (("Empty", "0.21"), ("Pressed", "0.26")):
            self.page.get_by_role("textbox", name=name).fill(figure)
            self.page.get_by_role("textbox", name=name).press("Enter")
        self.page.get_by_role("button", name="Each came back to what it was empty").click()
        self.wait_until(lambda: Entry.objects.filter(job=job, path__endswith=".released", text="0.21").count() == 1)
