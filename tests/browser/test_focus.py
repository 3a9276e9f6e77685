"""Where the focus stands, what the keys do, and what stays in view on a phone and a tablet."""

import re

from playwright.sync_api import Page, expect

from beacon.bench.models import Entry, Job
from tests.browser.base import BrowserTestCase
from tests.browser.test_steps import OVERLAPS
from tests.server.plant import AGREEING, enter, runs
from tests.worked import WORKED


class Focus(BrowserTestCase):
    def test_whoever_opens_the_bench_can_type_at_once(self) -> None:
        page = self.open_bench()
        first = page.locator(".look > div:first-child input").first
        expect(first).to_be_focused()
        page.keyboard.press("Enter")
        expect(first).to_be_checked()
        self.wait_until(lambda: Entry.objects.filter(path__startswith="tick.look").exists())
        page.reload()
        expect(page.locator(".look > div:first-child input").nth(1)).to_be_focused()

    def test_it_goes_on_after_what_is_not_sent_yet(self) -> None:
        page = self.open_bench()
        looks = page.locator(".look > div:first-child input")
        expect(looks.first).to_be_focused()
        page.route("**/entries*", lambda route: route.abort())
        page.keyboard.press("Enter")
        self.wait_until(lambda: len(self.stored("waiting")) == 1)
        page.reload()
        expect(looks.nth(1)).to_be_focused()
        expect(looks.first).to_be_checked()
        self.assertFalse(Entry.objects.filter(path__startswith="tick.look").exists())

    def test_enter_ticks_and_goes_on_but_leaves_a_loose_end_to_a_tap(self) -> None:
        page = self.open_bench()
        plain = page.locator(".look > div:first-child input")
        loose = page.locator(".tick-loose input")
        for number in range(plain.count()):
            expect(plain.nth(number)).to_be_focused()
            page.keyboard.press("Enter")
        expect(loose.first).to_be_focused()
        for number in range(loose.count()):
            expect(loose.nth(number)).to_be_focused()
            page.keyboard.press("Enter")
            expect(loose.nth(number)).not_to_be_checked()
        expect(page.locator(".next-step")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="Read off")).to_be_visible()
        loose_texts = [end for end in page.locator(".reasons .loose").all_inner_texts() if "put" in end]
        self.assertEqual(loose_texts, [])

    def test_going_to_a_step_passes_its_caution(self) -> None:
        page = self.open_bench()
        self.go("As found")
        expect(page.get_by_label("I have seen to it")).not_to_be_focused()
        expect(page.get_by_role("textbox", name="Gross", exact=True)).to_be_focused()
        page.keyboard.type("34.10")
        expect(page.get_by_role("textbox", name="Gross", exact=True)).to_have_value("34.10")

    def test_a_digit_with_no_field_in_hand_goes_into_the_first_open_one(self) -> None:
        page = self.open_bench()
        self.go("As found")
        page.evaluate("document.activeElement.blur()")
        page.keyboard.type("34.10")
        page.keyboard.press("Enter")
        page.keyboard.type("12.76")
        page.keyboard.press("Enter")
        expect(page.locator(".tally-run")).to_contain_text("34.10 − 12.76")
        page.locator(".step-head h2").first.click()
        page.keyboard.type("21.66")
        page.keyboard.press("Enter")
        expect(page.locator(".tally-error").first).to_contain_text("+1.50 %")
        typed = {e.path.rpartition(".")[2]: e.text for e in Entry.objects.filter(path__startswith="runs.")}
        self.assertEqual(typed, {"gross": "34.10", "tare": "12.76", "indicated": "21.66"})

    def test_the_keys_make_a_row_set_one_aside_and_are_told(self) -> None:
        page = self.open_bench()
        self.go("As found")
        self.type_run("34.10", "12.76", "21.66")
        page.locator(".tally-number").first.click()
        expect(page.locator(".dock strong")).to_have_text("Run 1")
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("n")
        expect(page.locator(".dock strong")).to_have_text("Run 2")
        page.keyboard.press("ArrowUp")
        expect(page.locator(".dock strong")).to_have_text("Run 1")
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("x")
        expect(page.get_by_role("dialog")).to_contain_text("Set run 1 aside")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_be_hidden()
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("take back the last entry")

    def test_a_figure_stands_alone_and_its_unit_once_beside_it(self) -> None:
        page = self.open_bench(method="belt-test-weight")
        self.go("Read off")
        for key, figure in (("idler_spacing", "0.9"), ("angle", "0"), ("factor", "1.1420")):
            expect(page.locator(f"[data-path='inputs.{key}']")).to_have_value(figure)
        page.locator("[data-path='inputs.idler_spacing']").fill("36 in")
        page.keyboard.press("Enter")
        expect(page.locator("[data-path='inputs.idler_spacing']")).to_have_value("36")
        expect(page.get_by_label("Unit of idler spacing")).to_have_value("in")
        expect(page.locator(".figure")).to_contain_text("36 in")
        self.assertEqual(Entry.objects.filter(path="inputs.idler_spacing").latest("sequence").text, "36 in")

    def test_another_s_entries_arrive_while_one_types(self) -> None:
        page = self.open_bench()
        self.go("As found")
        field = page.get_by_role("textbox", name="Gross", exact=True)
        field.fill("34.")
        enter(Job.objects.get(), self.plant.lead, runs(AGREEING))
        expect(page.locator(".tally-run")).to_have_count(3)
        expect(field).to_have_value("34.")
        expect(field).to_be_focused()


class Closing(BrowserTestCase):
    def at_close(self, loads: list[tuple[str, ...]]) -> Page:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(loads))
        self.page.goto(f"/jobs/{job.id}")
        self.go("Close")
        return self.page

    def test_what_cannot_be_is_not_offered_as_chosen_and_says_why(self) -> None:
        page = self.at_close(AGREEING)
        expect(page.locator(".outcomes input:checked")).to_have_count(0)
        expect(page.get_by_label("Complete", exact=True)).to_have_count(0)
        page.get_by_label("Your name, to sign").fill("Ines")
        page.get_by_role("button", name="Close and seal").click()
        expect(page.get_by_text("Choose how it is closed.")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Why not complete")).click()
        expect(page.locator(".outcomes")).to_contain_text("so the job is not complete")

    def test_a_fault_is_left_for_repair_with_what_it_is_and_who_was_told(self) -> None:
        apart = [("34.79", "12.74", "21.02"), *AGREEING]
        page = self.at_close(apart)
        expect(page.locator(".call .verdict")).to_contain_text("Find the fault first")
        expect(page.get_by_label("Fault found, left for repair")).to_be_checked()
        page.get_by_label("Your name, to sign").fill("Ines")
        page.get_by_role("button", name="Close and seal").click()
        expect(page.locator(".close-job")).to_contain_text("What is wrong with it? In words.")
        page.get_by_label("What is wrong with it").fill("an idler on the weigh frame has seized")
        page.get_by_label("Who was told").fill("Corin Hale")
        page.get_by_role("button", name="Close and seal").click()
        expect(page.get_by_text("Told: Corin Hale.")).to_be_visible()
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.state, "fault")
        sheet = page.get_by_role("navigation", name="Run sheet")
        found = sheet.get_by_role("button", name=re.compile("As found"))
        expect(found.get_by_label("done")).to_have_count(0)


class SmallScreens(BrowserTestCase):
    size = {"width": 390, "height": 844}

    def no_wider(self, page: Page) -> None:
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), self.size["width"], page.url)

    def test_every_page_fits_and_the_navigation_does_not_break(self) -> None:
        page = self.page
        for path in ("/", "/systems", f"/systems/{self.plant.system.id}", "/log", "/references", "/sums", "/practice"):
            page.goto(path)
            page.wait_for_load_state("networkidle")
            self.no_wider(page)
            heights = page.locator(".top-nav a").evaluate_all(
                "links => links.map(link => link.getBoundingClientRect().height)"
            )
            self.assertEqual(len(set(heights)), 1, path)
            self.assertLess(heights[0], 60, path)

    def test_no_figure_of_a_tally_breaks_and_the_strip_lies_under_its_run(self) -> None:
        job = self.plant.job()
        texts = {"inputs.zero_done": "job"} | runs([*AGREEING, ("134.79", "112.74", "22.02")])
        enter(job, self.plant.technician, texts)
        page = self.page
        page.goto(f"/jobs/{job.id}")
        steps = page.get_by_label("Step", exact=True)
        steps.select_option(label=steps.locator("option", has_text="As found").inner_text())
        expect(page.locator(".tally-run")).to_have_count(4)
        self.no_wider(page)
        for reading in page.locator(".tally .reading").all():
            box = reading.bounding_box()
            assert box
            self.assertLess(box["height"], 36, reading.inner_text())
            self.assertLessEqual(box["x"] + box["width"], 390)
        # Both ends in one look: a page that still moves between two looks shows a place that never was.
        gaps = page.locator(".tally-run").evaluate_all(
            """rows => rows.map((row) => row.querySelector("td.strip").getBoundingClientRect().top
              - row.querySelectorAll("td")[1].getBoundingClientRect().bottom)"""
        )
        self.assertEqual(len(gaps), 4)
        self.assertGreaterEqual(min(gaps), -2, gaps)

    def test_drawings_keep_their_words_readable_and_apart(self) -> None:
        for one in WORKED:
            system = self.plant.add_system(f"For {one.method}", one.kind, one.profile, one.plates)
            job = self.plant.job(one.method, system)
            enter(job, self.plant.technician, one.texts)
            self.page.goto(f"/jobs/{job.id}")
            expect(self.page.locator(".call-bar")).to_be_in_viewport()
            self.assertEqual(self.page.evaluate(OVERLAPS), [], one.method)
            self.no_wider(self.page)
            sizes = self.page.locator(".figure text").evaluate_all(
                "texts => texts.map(text => parseFloat(getComputedStyle(text).fontSize) * text.getCTM().a)"
            )
            self.assertTrue(all(size > 11 for size in sizes), f"{one.method}: {sizes}")


class Tablet(BrowserTestCase):
    size = {"width": 820, "height": 1180}

    def test_the_call_stays_in_view_on_every_step(self) -> None:
        job = self.plant.job("visit")
        page = self.page
        page.goto(f"/jobs/{job.id}")
        bar = page.locator(".call-bar")
        for _title in self.each_step(page):
            expect(bar).to_be_in_viewport()
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 820)
            self.assertEqual(page.evaluate(OVERLAPS), [])
