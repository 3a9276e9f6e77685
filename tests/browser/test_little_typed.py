"""How little is typed, at the screen: one look first, what did not change, the next row, one tap for what is alike."""

import re

from playwright.sync_api import Page, expect

from beacon.bench.models import Entry, Job
from beacon.plant.models import Cell, Reference, System
from beacon.records.sealing import close
from tests.browser.base import BrowserTestCase
from tests.server.plant import AGREEING, enter, runs
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

    def test_the_tare_of_the_container_in_hand_stands_in_the_next_run(self) -> None:
        for name, tare in (("Crate", "42 kg"), ("Blue crate", "38 kg")):
            Reference.objects.create(organisation=self.plant.organisation, kind="container", name=name, tare=tare)
        job = self.plant.job("known-load", self.plant.add_system("Silo", "vessel", "vessel", {}))
        enter(job, self.plant.technician, {"runs.r1.gross": "1042 kg", "runs.r1.tare": "42 kg", "runs.r1.indicated": "1001 kg"})  # fmt: skip
        self.page.goto(f"/jobs/{job.id}")
        self.sheet("As found")
        self.page.get_by_label("How it was weighed").select_option("gross")
        dock = self.page.locator(".dock")
        tare = dock.get_by_role("textbox", name="Tare")
        expect(tare).to_have_value("42")
        # Nothing of it is kept before anything is typed.
        self.assertEqual(Entry.objects.filter(job=job, path__startswith="runs.", path__endswith=".tare").count(), 1)
        dock.get_by_role("textbox", name="Gross").fill("1052 kg")
        dock.get_by_role("textbox", name="Gross").press("Enter")
        self.wait_until(
            lambda: (
                Entry.objects.filter(job=job, path__startswith="runs.", path__endswith=".tare", text="42 kg").count()
                == 2
            )
        )
        # Another is a tap; one that is no container on record is typed each time.
        dock.get_by_role("button", name="New run").click()
        expect(tare).to_have_value("42")
        self.page.get_by_role("button", name=re.compile("Blue crate")).click()
        expect(tare).to_have_value("38")
        self.wait_until(lambda: Entry.objects.filter(job=job, path__startswith="runs.", text="38 kg").exists())
        enter(job, self.plant.technician, {"runs.zz.gross": "900 kg", "runs.zz.tare": "55 kg"})
        expect(self.page.locator(".tally-run")).to_have_count(4)
        dock.get_by_role("button", name="New run").click()
        expect(tare).to_have_value("")

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


class WithTheKeyboardUp(BrowserTestCase):
    """What is left of a phone while its keyboard is up: the field in hand, the row before it, the call."""

    size = {"width": 390, "height": 500}

    def in_view(self, page: Page) -> None:
        """The field in hand lies above the call, once what stands above it is drawn."""
        page.wait_for_function(
            """() => { const held = document.activeElement, box = held.getBoundingClientRect();
              const bar = document.querySelector('.call-bar').getBoundingClientRect();
              return held.dataset.path && box.top >= 0 && box.bottom <= bar.top + 1; }""",
            timeout=5000,
        )

    def test_the_field_in_hand_the_last_run_and_the_call_are_in_view(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        page = self.page
        page.goto(f"/jobs/{job.id}")
        steps = page.get_by_label("Step", exact=True)
        steps.select_option(label=steps.locator("option", has_text="Close").inner_text())
        steps.select_option(label=steps.locator("option", has_text="As found").inner_text())
        gross = page.locator(".dock").get_by_role("textbox", name="Gross")
        expect(gross).to_be_focused()
        expect(page.locator(".figure")).to_be_hidden()
        self.in_view(page)
        expect(page.locator(".tally-run").last.locator("td").nth(1)).to_be_in_viewport()
        expect(page.locator(".call-bar")).to_be_in_viewport()
        # From field to field it stays so.
        for figure in ("34.10", "12.76", "21.66"):
            page.keyboard.type(figure)
            page.keyboard.press("Enter")
            page.wait_for_timeout(100)
            self.in_view(page)

    def test_every_step_of_a_visit_opens_with_its_field_in_view(self) -> None:
        page = self.page
        for kind, profile in (("belt", "belt-fine"), ("axle", "axle"), ("filler", "filling"), ("platform", "vessel")):
            system = self.plant.add_system(f"A {kind}", kind, profile, {})
            page.goto(f"/jobs/{self.plant.job('visit', system).id}")
            for title in self.each_step(page):
                page.wait_for_timeout(60)
                if page.evaluate("!!document.activeElement?.dataset.path"):
                    self.in_view(page)
                wide = page.evaluate("document.documentElement.scrollWidth")
                self.assertLessEqual(wide, 390, f"{kind}, {title}")


class UnderAThumb(BrowserTestCase):
    size = {"width": 390, "height": 844}
    touch = True

    def test_a_sign_has_a_key_of_its_own_where_one_can_be(self) -> None:
        job = self.plant.job("zero-span", self.plant.add_system("Platform", "platform", "vessel", {}))
        page = self.page
        page.goto(f"/jobs/{job.id}")
        steps = page.get_by_label("Step", exact=True)
        steps.select_option(label=steps.locator("option", has_text="Passes").first.inner_text())
        zero = page.locator(".dock").get_by_role("textbox", name="Shown empty")
        zero.fill("0.5")
        page.get_by_role("button", name="Other sign of shown empty").click()
        expect(zero).to_have_value("−0.5")
        expect(zero).to_be_focused()
        zero.press("Enter")
        self.wait_until(lambda: Entry.objects.filter(job=job, path__endswith=".zero").exists())
        steps.select_option(label=steps.locator("option", has_text="Read off").first.inner_text())
        expect(page.get_by_role("button", name="Other sign of capacity")).to_have_count(0)

    def test_everything_is_as_large_as_a_thumb(self) -> None:
        job = self.plant.job()
        page = self.page
        page.goto(f"/jobs/{job.id}")
        small: list[str] = []
        for _title in self.each_step(page):
            small += page.evaluate(
                """() => [...document.querySelectorAll('.mid :is(button, select, input)')]
                  .filter((one) => one.offsetParent && one.type !== 'checkbox' && !one.closest('.visually-hidden'))
                  .filter((one) => (one.type === 'radio' ? one.labels[0] : one).getBoundingClientRect().height < 43.5)
                  .map((one) => one.outerHTML.slice(0, 120))"""
            )
        self.assertEqual(small, [])
        self.assertGreater(page.get_by_role("radio").count(), 1)
