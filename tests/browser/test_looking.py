"""The look to make next, what it could be, what is put right, and what fails: at the screen, on a tablet and a phone."""

import re

from playwright.sync_api import Locator, expect

from beacon.bench.models import Entry, Job
from beacon.plant.models import Fault
from tests.browser.base import BrowserTestCase
from tests.server.plant import AGREEING, enter, runs


class Looking(BrowserTestCase):
    def bench(self, texts: dict[str, str] | None = None) -> Job:
        self.job = self.plant.job()
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job"} | (texts or runs(AGREEING)))
        self.page.goto(f"/jobs/{self.job.id}")
        expect(self.page.locator(".kept")).to_contain_text("kept")
        return self.job

    @property
    def next(self) -> Locator:
        return self.page.get_by_role("region", name="Look next")

    def kept(self, path: str) -> str:
        expect(self.page.locator(".kept")).not_to_contain_text("on the way")
        return Entry.objects.filter(job=self.job, path=path).order_by("-sequence")[0].text


class OnTheBench(Looking):
    def test_one_look_stands_under_the_call_and_a_tap_answers_it(self) -> None:
        self.bench()
        page = self.page
        expect(page.locator(".call .verdict")).to_contain_text("Look first")
        expect(self.next).to_contain_text("about")
        words = self.next.locator("h3").inner_text()
        key = page.locator(".key-in-later")
        expect(key).to_contain_text("Only if nothing else is left")
        expect(key.get_by_label("Instrument now shows")).to_be_visible()
        self.next.locator(".look-answers button").first.click()
        expect(self.next.locator("h3")).not_to_have_text(words)
        self.assert_accessible()

    def test_the_drawing_marks_the_place_where_the_next_look_is_made(self) -> None:
        self.bench()
        spots = self.page.locator(".figure-svg .spot circle")
        seen = set()
        for _ in range(8):
            words = self.next.locator("h3").inner_text()
            where = self.page.locator(".figure-look")
            if where.count():
                seen.add((where.inner_text().strip(), spots.count()))
            self.answer_look(self.next)
            expect(self.next.locator("h3").filter(has_text=words)).to_have_count(0)
            if not self.still_there(self.next):
                break
        self.assertLessEqual({("Look at the weigh idlers", 1), ("Look at the frame, all round", 1)}, seen)
        expect(spots).to_have_count(0)

    def test_the_key_l_says_that_nothing_is_wrong_there_and_undo_takes_it_back(self) -> None:
        self.bench()
        page = self.page
        words = self.next.locator("h3").inner_text()
        expect(page.locator(".keys")).to_contain_text("look next")
        page.locator("body").press("l")
        expect(self.next.locator("h3")).not_to_have_text(words)
        page.locator("body").press("Control+z")
        expect(self.next.locator("h3")).to_have_text(words)

    def test_a_skipped_look_asks_why_and_stands_with_the_call(self) -> None:
        self.bench()
        words = self.next.locator("h3").inner_text()
        self.next.get_by_role("button", name="skip it, and why").click()
        dialog = self.page.get_by_role("dialog")
        expect(dialog.get_by_role("button", name="Skip it")).to_be_disabled()
        dialog.get_by_label("Why it is not looked at").fill("the ship sails")
        dialog.get_by_role("button", name="Skip it").click()
        expect(dialog).to_have_count(0)
        expect(self.next.locator("h3")).not_to_have_text(words)
        self.make_looks()
        expect(self.page.locator(".call .verdict")).to_contain_text("Adjust, down")
        expect(self.page.locator(".call .reasons")).to_contain_text("the ship sails")

    def test_a_reason_that_is_being_typed_stays_whatever_answer_comes_meanwhile(self) -> None:
        self.bench()
        words = self.next.locator("h3").inner_text()
        self.next.get_by_role("button", name="skip it, and why").click()
        dialog = self.page.get_by_role("dialog")
        dialog.get_by_label("Why it is not looked at").fill("the ship sails")
        before = self.page.locator(".call .verdict").inner_text()
        enter(self.job, self.plant.lead, {"looked.idlers": "not-fine"})
        expect(self.page.locator(".call .verdict")).not_to_have_text(before)
        expect(self.next.locator("h3").filter(has_text=words)).to_have_count(0)
        expect(dialog).to_contain_text(f"{words}. What was not looked at")
        expect(dialog.get_by_label("Why it is not looked at")).to_have_value("the ship sails")
        dialog.get_by_role("button", name="Skip it").click()
        expect(dialog).to_have_count(0)
        self.wait_until(lambda: Entry.objects.filter(job=self.job, path__startswith="skipped.").exists())
        self.assertEqual(Entry.objects.get(job=self.job, path__startswith="skipped.").text, "the ship sails")

    def test_what_it_could_be_says_what_speaks_for_and_against_each(self) -> None:
        self.bench()
        could = self.page.get_by_role("region", name="What it could be")
        line = could.get_by_role("button", name=re.compile("^An idler is seized"))
        expect(line).to_contain_text("not looked at")
        line.click()
        expect(could).to_contain_text("Walk along the weigh idlers")
        could.get_by_role("button", name="One is seized or out of line").click()
        expect(self.page.locator(".call .verdict")).to_contain_text("An idler is seized or out of line")
        expect(line).to_contain_text("shown")
        expect(self.page.locator(".call .reasons")).to_contain_text("Change or line up the idler.")
        self.assert_accessible()

    def test_what_is_put_right_is_read_again_and_only_that_counts(self) -> None:
        self.bench(runs(AGREEING) | {"looked.idlers": "not-fine"})
        page = self.page
        page.get_by_role("button", name="Put right").click()
        expect(page.locator(".call .verdict")).to_contain_text("Take it again")
        self.go("As found")
        expect(page.locator(".tally tbody tr:has(.tally-number)")).to_have_count(0)
        for figures in (("34.10", "12.76", "21.35"), ("32.61", "12.74", "19.86"), ("33.35", "12.74", "20.62")):
            self.type_run(*figures)
        expect(page.locator(".call .verdict")).to_contain_text("Leave it alone")
        self.go("Close")
        page.get_by_label("Your name, to sign").fill("Ines")
        page.get_by_role("button", name="Close and seal").click()
        page.get_by_role("link", name="To its record and certificate").wait_for()
        page.goto(f"/systems/{self.plant.system.id}")
        found = page.locator(".found-faults")
        expect(found).to_contain_text("An idler is seized or out of line")
        expect(found).to_contain_text("put right in that visit")

    def test_closing_for_repair_names_what_is_shown_and_what_fails_counts_it(self) -> None:
        self.bench(runs(AGREEING) | {"looked.idlers": "not-fine"})
        page = self.page
        self.go("Close")
        page.get_by_label("Fault found, left for repair").check()
        expect(page.get_by_label("What was found")).to_have_value("idler")
        page.get_by_label("Who was told").fill("Corin")
        page.get_by_label("Your name, to sign").fill("Ines")
        page.get_by_role("button", name="Close and seal").click()
        page.get_by_role("link", name="To its record and certificate").wait_for()
        self.assertEqual(Fault.objects.get().suspect, "idler")
        page.goto("/log")
        page.get_by_role("link", name="What fails").click()
        row = page.get_by_role("row").filter(has_text="An idler is seized")
        expect(row).to_contain_text("belt scale")
        self.assert_accessible()

    def test_a_machine_in_order_is_asked_nothing_and_may_be_asked_what_else_it_could_be(self) -> None:
        self.bench(runs([("34.10", "12.76", "21.35"), ("32.61", "12.74", "19.86"), ("33.35", "12.74", "20.62")]))
        expect(self.page.locator(".call .verdict")).to_contain_text("Leave it alone")
        expect(self.next).to_have_count(0)
        expect(self.page.get_by_role("region", name="What it could be")).to_have_count(0)
        self.page.get_by_role("button", name="What else it could be").click()
        expect(self.page.get_by_role("region", name="What it could be")).to_be_visible()

    def test_a_look_with_a_place_of_its_own_leads_there(self) -> None:
        platform = self.plant.add_system(
            "Platform", "platform", "vessel", {"capacity": "1500 kg", "division": "0.5 kg"}
        )
        page = self.page
        page.goto(f"/jobs/{self.plant.job('visit', platform).id}")
        self.go("The test load")
        page.locator("[data-path='inputs.test_load']").fill("400 kg")
        self.go("Passes")
        self.in_dock("0.0", "402.5", "0.0")
        expect(self.next).to_contain_text("The same load on each corner")
        expect(page.locator(".figure-look")).to_contain_text("each corner")
        self.next.get_by_role("button", name="Go there").click()
        expect(page.get_by_role("heading", name="Each corner in turn")).to_be_visible()


class OnOneWalk(Looking):
    """A loader that nobody looked over yet, and that is out: what is worth a look is seen in one walk round it."""

    def bench(self, texts: dict[str, str] | None = None) -> Job:
        loader = self.plant.add_system("Loader", "lift-arm", "lift-arm", {})
        self.job = self.plant.job("load-comparison", loader)
        rows = {f"runs.r{n}.reference": f"{kg} kg" for n, kg in enumerate((804, 1206, 655))}
        rows |= {f"runs.r{n}.indicated": f"{kg * 1.052:.0f} kg" for n, kg in enumerate((804, 1206, 655))}
        enter(self.job, self.plant.technician, rows | (texts or {}))
        self.page.goto(f"/jobs/{self.job.id}")
        expect(self.page.locator(".kept")).to_contain_text("kept")
        return self.job

    def looked(self) -> dict[str, str]:
        expect(self.page.locator(".kept")).not_to_contain_text("on the way")
        return dict(Entry.objects.filter(job=self.job, path__startswith="looked.").values_list("path", "text"))

    def test_all_are_ticked_and_kept_together_and_one_number_stands_under_them(self) -> None:
        self.bench()
        page = self.page
        expect(page.locator(".call .verdict")).to_contain_text("One walk first")
        expect(self.next).to_contain_text("Round the machine")
        could = page.get_by_role("region", name="What it could be")
        expect(could).to_contain_text(re.compile(r"Something other than the figure\s*1 in \d"))
        expect(could.get_by_role("listitem")).to_have_count(3)
        ticks = self.next.get_by_role("checkbox")
        many = ticks.count()
        self.assertGreater(many, 2)
        all_of_them = self.next.get_by_role("button", name=f"All {many} in order")
        expect(all_of_them).to_be_disabled()
        self.assert_accessible()
        for tick in ticks.all():
            tick.check()
        self.assertEqual(self.looked(), {}, "nothing is kept before all are")
        all_of_them.click()
        self.wait_until(lambda: len(self.looked()) == many)
        self.assertEqual(set(self.looked().values()), {"fine"})
        expect(self.next.locator(".walk")).to_have_count(0)

    def test_something_that_is_not_in_order_is_said_where_it_is(self) -> None:
        self.bench()
        self.next.get_by_role("checkbox", name="Read the oil's temperature").check()
        self.next.get_by_role("button", name="something is not").click()
        self.next.get_by_role("listitem").filter(has_text="Look at the pins").get_by_role(
            "button", name="Dry or worn"
        ).click()
        expect(self.page.locator(".call .verdict")).to_contain_text("A pin is dry")
        self.wait_until(lambda: self.looked() == {"looked.pin": "not-fine"})

    def test_what_somebody_else_saw_meanwhile_goes_and_the_ticks_stay(self) -> None:
        self.bench()
        oil = self.next.get_by_role("checkbox", name="Read the oil's temperature")
        oil.check()
        enter(self.job, self.plant.lead, {"looked.pin": "fine"})
        expect(self.next.locator(".walk")).not_to_contain_text("Look at the pins")
        expect(oil).to_be_checked()

    def test_what_the_machine_has_not_is_said_once(self) -> None:
        self.bench()
        self.next.get_by_role("button", name="something is not").click()
        valve = self.next.get_by_role("listitem").filter(has_text="Look at the flow valve")
        valve.get_by_role("button", name="It has none").click()
        self.wait_until(lambda: self.looked() == {"looked.flow": "not-here"})
        expect(self.next).not_to_contain_text("flow valve")


class OnOneWalkStanding(OnOneWalk):
    """The same on a phone: the call is a sheet that is drawn up."""

    size = {"width": 390, "height": 844}

    def bench(self, texts: dict[str, str] | None = None) -> Job:
        job = super().bench(texts)
        self.page.locator(".call-bar").click()
        expect(self.next).to_be_visible()
        return job

    def test_all_are_ticked_and_kept_together_and_one_number_stands_under_them(self) -> None:
        self.bench()
        self.assertLessEqual(self.page.evaluate("document.documentElement.scrollWidth"), self.size["width"])
        self.answer_look(self.next)
        self.wait_until(lambda: len(self.looked()) > 2)

    def test_something_that_is_not_in_order_is_said_where_it_is(self) -> None:
        self.bench()
        self.next.get_by_role("button", name="something is not").click()
        self.next.get_by_role("listitem").filter(has_text="Watch the lever").get_by_role("button").nth(1).click()
        self.wait_until(lambda: self.looked() == {"looked.lever": "not-fine"})


class OnATablet(Looking):
    size = {"width": 820, "height": 1180}

    def test_the_bar_says_what_to_look_at_and_opens(self) -> None:
        self.bench()
        page = self.page
        bar = page.locator(".call-bar")
        expect(bar).to_contain_text("Look first")
        bar.click()
        box = page.get_by_role("dialog").get_by_role("region", name="Look next")
        expect(box).to_be_visible()
        words = box.locator("h3").inner_text()
        box.get_by_role("button", name="skip it, and why").click()
        page.get_by_label("Why it is not looked at").fill("no ladder here")
        page.get_by_role("button", name="Skip it", exact=True).click()
        expect(box.locator("h3")).not_to_have_text(words)
        self.answer_look(box)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), self.size["width"])


class OnAPhone(OnATablet):
    size = {"width": 390, "height": 844}
