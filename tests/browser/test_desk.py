"""At the desk and on a phone: places and lists, filters, a plant from a spreadsheet, the day written up, the week."""

import re

from playwright.sync_api import Page, expect

from beacon.bench.models import Job
from beacon.people.models import Membership
from beacon.plant.models import System
from beacon.records.models import Record
from beacon.setting_up.api import AT_ONCE
from beacon.tables import XLSX
from tests.browser.base import BrowserTestCase
from tests.browser.test_rooms_of_the_page import WithHistory
from tests.server.background import work
from tests.server.plant import enter, runs
from tests.server.test_closing import IN_ORDER
from tests.server.test_setting_up import BELT, MARA, book


class OnAPhone(WithHistory):
    size = {"width": 390, "height": 844}

    def test_the_head_is_one_line_and_every_place_stands_under_the_thumb(self) -> None:
        page = self.page
        for address in ("/", "/systems", "/log", "/references", "/sums", "/practice", "/calendar"):
            page.goto(address)
            nav = page.get_by_role("navigation", name="Pages")
            expect(nav.get_by_role("link")).to_have_count(6)
            boxes = [link.bounding_box() for link in nav.get_by_role("link").all()]
            for box in boxes:
                assert box
                self.assertTrue(box["x"] >= 0 and box["x"] + box["width"] <= 390.5, (address, box))
                self.assertGreaterEqual(box["height"], 48)
                self.assertLessEqual(box["y"] + box["height"], 844.5)
            head = page.locator("header.top").bounding_box()
            assert head
            self.assertLess(head["height"], 64, address)
            wide = page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(wide, 390, address)
            self.assert_accessible()
        # Whoever is signed in can sign out on a phone too.
        page.locator(".top-who").get_by_role("button").click()
        expect(page.get_by_role("button", name="Sign out", exact=True)).to_be_visible()

    def test_the_places_give_way_to_the_keyboard(self) -> None:
        self.page.goto("/systems")
        self.page.get_by_label("Find a system").focus()
        expect(self.page.get_by_role("navigation", name="Pages")).to_be_hidden()

    def test_lists_of_things_are_lists_and_no_date_breaks(self) -> None:
        self.closed(runs(IN_ORDER), 20)
        for address in ("/systems", "/log"):
            self.page.goto(address)
            row = self.page.locator(".as-list tbody tr").first
            expect(row).to_be_visible()
            box = row.bounding_box()
            assert box
            self.assertLessEqual(box["x"] + box["width"], 390)
            tall = self.page.locator(".as-list .text-nowrap").evaluate_all(
                "all => all.map(one => one.getClientRects().length)"
            )
            self.assertTrue(all(lines == 1 for lines in tall), (address, tall))


class AskedFor(WithHistory):
    def test_what_systems_are_asked_for_stays_in_the_address(self) -> None:
        self.plant.add_system("Grader", "grader", "filling", {})
        page = self.page
        page.goto("/systems")
        page.get_by_label("Kind", exact=True).select_option(label="weight grader")
        expect(page.locator(".as-list tbody tr")).to_have_count(1)
        expect(page).to_have_url(re.compile(r"/systems\?kind=grader"))
        page.get_by_label("Find a system").fill("gra")
        expect(page).to_have_url(re.compile("find=gra"))
        address = page.url
        page.goto("/")
        page.goto(address)
        expect(page.locator(".as-list tbody tr")).to_have_count(1)
        expect(page.get_by_label("Find a system")).to_have_value("gra")
        page.get_by_label("Kind", exact=True).select_option(label="belt scale")
        expect(page.get_by_text("No system of that name.")).to_be_visible()

    def test_an_empty_sum_offers_an_example(self) -> None:
        page = self.page
        page.goto("/sums?sum=belt-run")
        page.get_by_role("button", name="Try it with these").click()
        expect(page.locator(".sum-lines")).to_contain_text("4.8 min")
        expect(page.get_by_role("button", name="Try it with these")).to_have_count(0)


class SettingUp(BrowserTestCase):
    def lead(self) -> Page:
        return self.signed_in(self.new_context(), self.plant.lead)

    def choose(self, page: Page, content: bytes) -> None:
        page.locator("input[type=file]").set_input_files({"name": "plant.xlsx", "mimeType": XLSX, "buffer": content})

    def test_a_plant_is_looked_at_put_right_and_kept_as_a_whole(self) -> None:
        page = self.lead()
        page.goto("/systems")
        page.get_by_role("link", name="From a spreadsheet").click()
        self.choose(page, book(Belt_scale=[BELT, {**BELT, "Name": "Third", "Rated rate": "very much"}], People=[MARA]))
        expect(page.get_by_text("1 line of 3 cannot be kept, so nothing was.")).to_be_visible()
        expect(page.get_by_role("row", name=re.compile("Belt scale, 3"))).to_contain_text("very much")
        expect(page.get_by_role("button", name="Keep all of it")).to_have_count(0)
        self.assert_accessible(page)
        self.choose(page, book(Belt_scale=[BELT], People=[MARA]))
        expect(page.get_by_text("2 lines, and all of them can be kept. Nothing is kept yet.")).to_be_visible()
        expect(page.get_by_text("Sites that are made: North quay.")).to_be_visible()
        page.get_by_role("button", name="Keep all of it").click()
        expect(page.get_by_text("Invited: hand each their link, shown this once")).to_be_visible()
        page.get_by_role("link", name="To the systems").click()
        expect(page.get_by_role("link", name="Upper belt")).to_be_visible()

    def test_a_long_one_is_gone_through_while_the_page_is_closed(self) -> None:
        page = self.lead()
        page.goto("/set-up")
        lines = "".join(f"Belt {number},North quay,belt,250 t/h\n" for number in range(AT_ONCE + 1))
        content = f"Name,Site,Kind,Rated rate\n{lines}".encode()
        page.locator("input[type=file]").set_input_files({"name": "belts.csv", "mimeType": "text/csv", "buffer": content})  # fmt: skip
        expect(page.get_by_text(f"belts.csv: {AT_ONCE + 1} lines being looked at")).to_be_visible()
        expect(page.get_by_role("progressbar")).to_have_attribute("aria-valuenow", "0")
        self.assert_accessible(page)
        page.goto("/systems")
        work()
        page.goto("/set-up")
        expect(page.get_by_text(f"{AT_ONCE + 1} lines, and all of them can be kept. Nothing is kept yet.")).to_be_visible()  # fmt: skip
        page.get_by_role("button", name="Keep all of it").click()
        expect(page.get_by_text(f"belts.csv: {AT_ONCE + 1} lines being kept")).to_be_visible()
        work()
        expect(page.get_by_text(f"{AT_ONCE + 1} lines kept")).to_be_visible()
        page.get_by_role("link", name="To the systems").click()
        expect(page.get_by_role("link", name="Belt 150")).to_be_visible()

    def test_a_file_that_is_no_table_is_said(self) -> None:
        page = self.lead()
        page.goto("/set-up")
        self.choose(page, b"PK nothing")
        expect(page.get_by_role("alert")).to_contain_text("Save it as XLSX or CSV")

    def test_one_like_it_is_added_with_a_name(self) -> None:
        page = self.page
        page.goto(f"/systems/{self.plant.system.id}")
        page.get_by_role("button", name="Add one like it").click()
        page.get_by_label("What it is called").fill("Lower belt")
        page.get_by_role("button", name="Add it", exact=True).click()
        expect(page.get_by_role("heading", name="Lower belt")).to_be_visible()

    def test_an_empty_organisation_is_told_what_to_do_in_three_lines(self) -> None:
        System.objects.filter(site__organisation=self.plant.organisation).delete()
        page = self.lead()
        for address in ("/", "/systems"):
            page.goto(address)
            expect(page.locator(".first-steps li")).to_have_count(3)
            expect(page.locator(".first-steps").get_by_role("link", name="from a spreadsheet")).to_be_visible()
        self.assert_accessible(page)


class AtTheDesk(WithHistory):
    def ready(self) -> Job:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        return job

    def test_a_day_s_jobs_are_written_up_one_after_the_other_by_keyboard(self) -> None:
        jobs = [self.ready() for _ in range(3)]
        page = self.page
        page.goto("/write-up")
        rows = page.locator(".write-up button")
        expect(rows).to_have_count(3)
        expect(rows.first).to_be_focused()
        page.keyboard.press("ArrowDown")
        expect(rows.nth(1)).to_be_focused()
        page.keyboard.press("ArrowUp")
        self.assert_accessible()
        page.keyboard.press("Enter")
        for number in range(3):
            seal = page.get_by_role("button", name="Close and seal")
            expect(seal).to_be_visible()
            # Who closes it is signed in, and stands there.
            sign = page.get_by_label("Your name, to sign")
            expect(sign).not_to_have_value("")
            sign.press("Enter")
            expect(page.get_by_text("Closed as")).to_be_visible()
            onward = page.get_by_role("button", name="Next to write up")
            if number < 2:
                expect(onward).to_be_focused()
                page.keyboard.press("Enter")
            else:
                expect(onward).to_have_count(0)
        self.assertEqual(Record.objects.filter(job__in=jobs).count(), 3)

    def test_a_lead_s_week_and_a_reader_s_machines(self) -> None:
        self.closed(runs(IN_ORDER))
        page = self.signed_in(self.new_context(), self.plant.lead)
        page.goto("/week")
        expect(page.get_by_role("heading", name=re.compile("The week from"))).to_contain_text("1 job closed")
        expect(page.get_by_text("No fault was found in this week.")).to_be_visible()
        page.get_by_role("button", name="The one before").click()
        expect(page.get_by_text("Nothing was closed in this week.")).to_be_visible()
        self.assert_accessible(page)
        reader = self.plant.person("customer@gannetness.example", "reader")
        Membership.objects.get(person=reader).sites.set([self.plant.system.site])
        page = self.signed_in(self.new_context(), reader)
        page.goto("/due")
        expect(page.get_by_role("heading", name=re.compile("Your machines"))).to_contain_text("1 machine")
        page.get_by_label("Which").select_option(label="Not in order")
        expect(page).to_have_url(re.compile("only=out"))
        expect(page.get_by_text("None of them.")).to_be_visible()
        page.get_by_role("button", name="Each in a ZIP").click()
        expect(page.get_by_text("waits for its turn")).to_be_visible()
        work()
        with page.expect_download() as taken:
            page.get_by_role("link", name="Take it").click()
        self.assertRegex(taken.value.suggested_filename, r"certificates-.*\.zip")
        expect(page.get_by_text("1 certificate, ready")).to_be_visible()
        self.assert_accessible(page)
