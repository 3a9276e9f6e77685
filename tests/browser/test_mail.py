"""What somebody would like to hear of by mail, the mails of an organisation, and the link that ends them."""

import datetime
import re
from pathlib import Path

from playwright.sync_api import expect

from beacon.mail import telling
from beacon.mail.models import Mail, Wish
from beacon.plant.models import Reference, System
from tests.browser.base import BrowserTestCase
from tests.server.background import work

MONDAY_SEVEN = datetime.datetime(2031, 5, 5, 6, 5, tzinfo=datetime.UTC)


class ToTakeAway(BrowserTestCase):
    def test_everything_of_the_organisation_is_made_while_one_goes_on(self) -> None:
        page = self.signed_in(self.new_context(), self.plant.lead)
        page.goto("/people")
        # What stands above it has come, and moves it no more.
        page.wait_for_load_state("networkidle")
        page.get_by_role("button", name="Make an archive").click()
        expect(page.get_by_text("waits for its turn")).to_be_visible()
        expect(page.get_by_role("button", name="Make an archive")).to_be_disabled()
        self.assert_accessible(page)
        page.goto("/")
        work()
        page.goto("/people")
        link = page.get_by_role("link", name="Take it, ZIP")
        self.assertEqual(page.request.get(link.get_attribute("href") or "").body()[:2], b"PK")
        with page.expect_download() as known:
            page.get_by_role("link", name="What is known of you").click()
        self.assertIn("lead@", Path(known.value.path()).read_text())


class ByMail(BrowserTestCase):
    def test_what_is_due_is_asked_for_sent_seen_and_ended(self) -> None:
        System.objects.filter(pk=self.plant.system.pk).update(due=datetime.date(2031, 5, 6), state="in-order")
        Reference.objects.update(due=None)
        page = self.signed_in(self.new_context(), self.plant.lead)
        page.goto("/people")
        page.wait_for_load_state("networkidle")
        page.get_by_role("button", name="Mon", exact=True).click()
        page.get_by_label("at", exact=True).select_option("07:00")
        page.get_by_label("A fault is found, at once").check()
        self.wait_until(lambda: Wish.objects.filter(days=[0], hour=7, faults=True, chain=True).exists())
        self.assert_accessible(page)
        telling.due_now(MONDAY_SEVEN)
        page.get_by_role("link", name="The mails that were sent").click()
        sent = page.get_by_role("listitem").filter(has_text="Gannet Ness: 1 due")
        expect(sent).to_contain_text("on its way")
        work()
        page.reload()
        expect(sent).to_contain_text("handed over")
        sent.locator("summary").click()
        expect(sent).to_contain_text("6 May 2031: Conveyor")
        self.assert_accessible(page)
        link = re.findall(r"/mail/stop/(\S+)", Mail.objects.get().text)[0]
        stranger = self.new_page(self.new_context())
        stranger.goto(f"/mail/stop/{link}")
        self.assertEqual(Wish.objects.get().days, [0])
        stranger.get_by_role("button", name="End them").click()
        expect(stranger.get_by_role("status")).to_contain_text("no more mails of this kind: what is due")
        self.assert_accessible(stranger)
        self.assertEqual(Wish.objects.get().days, [])
