"""Learning by practice, on the page."""

import re

from playwright.sync_api import Page, expect

from beacon.practice.models import Practice
from tests.browser.base import BrowserTestCase


class Learning(BrowserTestCase):
    def lead(self) -> Page:
        return self.signed_in(self.new_context(), self.plant.lead)

    def test_a_machine_is_chosen_by_kind_and_by_how_hard_it_is(self) -> None:
        page = self.page
        page.goto("/practice")
        expect(page.get_by_text("None yet. Begin with an easy one")).to_be_visible()
        self.assert_accessible()
        page.get_by_role("group", name="Practise on a doser").get_by_role("button", name="fair").click()
        expect(page.locator(".practice-flag")).to_be_visible()
        practice = Practice.objects.get()
        self.assertEqual((practice.job.channel.system.kind, practice.level), ("doser", "fair"))
        page.goto("/practice")
        page.get_by_role("link", name="Go on").click()
        expect(page.locator(".bench-name")).to_contain_text("Practice doser")

    def test_a_lead_gives_a_set_it_is_begun_and_the_lead_sees_how_it_went(self) -> None:
        lead = self.lead()
        lead.goto("/practice")
        lead.get_by_role("link", name="How my people fare").click()
        lead.get_by_role("button", name="Give a set").click()
        lead.get_by_role("button", name="Give it").click()
        expect(lead.get_by_text("What is the set called? Type a name.")).to_be_visible()
        expect(lead.get_by_text("Choose who is to do it.")).to_be_visible()
        expect(lead.get_by_text("Choose at least one machine.")).to_be_visible()
        lead.get_by_label("What it is called").fill("First week")
        lead.get_by_label("Technician").check()
        for number, (kind, level) in enumerate((("platform scale", "easy"), ("doser", "hard")), 1):
            lead.get_by_role("button", name="Add a machine").click()
            lead.get_by_label(f"Machine {number}", exact=True).select_option(label=kind)
            lead.get_by_label(f"How hard is machine {number}").select_option(level)
        lead.get_by_role("button", name="Give it").click()
        expect(lead.get_by_role("heading", name=re.compile("First week"))).to_be_visible()
        expect(lead.get_by_text("not begun")).to_have_count(2)
        self.assert_accessible(lead)
        page = self.page
        page.goto("/practice")
        page.get_by_role("button", name="Begin: doser, hard").click()
        expect(page.locator(".bench-name")).to_contain_text("Practice doser")
        self.go("Close")
        page.get_by_label("Given up").check() if page.get_by_label("Given up").count() else page.get_by_label(
            re.compile("bandon")
        ).check()
        page.get_by_label("Why").fill("to see it")
        page.get_by_label("Your name, to sign").fill("Technician")
        page.get_by_role("button", name="Close the practice").click()
        expect(page.get_by_role("heading", name="What was true")).to_be_visible()
        lead.reload()
        expect(lead.get_by_text("not begun")).to_have_count(1)
        lead.get_by_role("link", name="Technician").first.click()
        expect(lead.get_by_role("heading", name="How Technician fares")).to_be_visible()
        expect(lead.get_by_text("1 practice right", exact=False)).to_be_visible()
        self.assert_accessible(lead)

    def test_one_s_own_page_says_what_is_missed_most(self) -> None:
        page = self.page
        page.goto("/practice/progress")
        expect(page.get_by_text("Nothing to say yet")).to_be_visible()
