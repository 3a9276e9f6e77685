"""Back in reach: whose what waits is, that both sides say the same, and what else may be done without signal."""

import json
import re
import unittest
from pathlib import Path

from django.conf import settings
from django.utils import timezone
from playwright.sync_api import expect

from beacon.bench.models import Job
from beacon.records.models import Record
from beacon.records.sealing import close
from tests.both import DIST, InABrowser, differences, files_served, written
from tests.browser.base import browser
from tests.browser.without_signal import WithoutSignal, ticked
from tests.core.test_worked import built
from tests.worked import WORKED
from wary.job.closing import Asked


class WhoseItIs(WithoutSignal):
    def test_signing_out_takes_what_was_at_hand_and_leaves_what_waits(self) -> None:
        job = self.job_in_hand()
        expect(self.page.get_by_role("status").filter(has_text="waiting to be sent")).to_be_visible()
        self.page.goto("/")
        self.page.get_by_role("button", name=str(self.plant.technician)).click()
        self.page.get_by_role("button", name="Sign out", exact=True).click()
        expect(self.page.get_by_role("heading", name="Sign in")).to_be_visible()
        self.assertEqual(self.stored("hand"), [])
        self.on()
        # Somebody else on the device sees none of it, and sends none of it.
        self.sign_in(self.page, self.plant.lead)
        self.page.goto(f"/jobs/{job.id}")
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()
        self.assertFalse(ticked(job).exists())
        self.page.goto("/")
        self.page.get_by_role("button", name=str(self.plant.lead)).click()
        self.page.get_by_role("button", name="Sign out", exact=True).click()
        self.sign_in(self.page, self.plant.technician)
        self.wait_until(lambda: ticked(job).count() == 1)
        self.assertEqual(ticked(job).get().who, self.plant.technician)

    def test_a_session_that_ran_out_meanwhile_loses_nothing(self) -> None:
        job = self.job_in_hand()
        self.context.clear_cookies(name=settings.SESSION_COOKIE_NAME)
        self.on()
        self.page.get_by_role("link", name="Sign in").click()
        self.page.get_by_label("Address").fill(self.plant.technician.username)
        self.page.get_by_label("Password").fill("a-long-enough-one")
        self.page.keyboard.press("Enter")
        self.wait_until(lambda: ticked(job).count() == 1)


class TheSameOnBothSides(unittest.TestCase):
    def test_every_worked_job_is_the_same_on_the_command_line_and_in_the_browser(self) -> None:
        documents = {one.method: built(one).file for one in WORKED}
        documents["refused"] = {"method": "nothing", "inputs": {"x": []}}
        documents["empty"] = {}
        folder = written(documents)
        page = browser().new_context().new_page()
        with folder, files_served() as address:
            self.assertEqual(differences(InABrowser(page, address), sorted(Path(folder.name).glob("*.json"))), [])
        page.context.close()

    def test_what_is_on_the_way_is_small_enough_and_named_by_its_content(self) -> None:
        manifest = json.loads((DIST / "core/manifest.json").read_text())
        # What is only there for a device that cannot use the snapshot is not on the way.
        instead = (manifest["site"], manifest["wary"], f"{manifest['runtime']}python_stdlib.zip")
        sent = sum(one["sent"] for file, one in manifest["files"].items() if file not in instead)
        self.assertLess(sent, 15_000_000)
        for name in manifest["files"]:
            self.assertTrue((DIST / "core" / name).is_file(), name)


class Practised(WithoutSignal):
    def test_a_practice_is_begun_done_and_closed_without_signal_and_told_of_with_it(self) -> None:
        self.page.goto("/practice")
        self.at_hand("practice")
        self.wait_until(lambda: sum(" practice " in key for key in self.stored("hand")) >= 18, 40)
        self.off()
        self.page.get_by_role("group", name="Practise on a platform scale").get_by_role("button", name="easy").click()
        self.judged_here()
        self.go("Passes")
        expect(self.page.locator(".live-display")).to_contain_text("kg", timeout=30_000)
        self.page.get_by_role("button", name="Put on kg").click()
        expect(self.page.locator(".live-display")).to_contain_text(re.compile(r"[1-9]\d\d\.\d kg"), timeout=30_000)
        self.go("Close")
        self.page.get_by_label("Given up, nothing decided").check()
        self.page.get_by_label("Why", exact=True).fill("only a try")
        self.page.get_by_role("button", name="Close on this device").click()
        expect(self.page.get_by_text("Closed on this device by")).to_be_visible()
        job = self.page.url.rpartition("/")[2]
        self.on()
        self.wait_until(lambda: Job.objects.filter(pk=job, state="abandoned").exists(), 40)
        self.page.goto(f"/practice/{job}")
        expect(self.page.get_by_role("heading", name="What was true")).to_be_visible()


class BackInReach(WithoutSignal):
    def test_what_was_shown_from_the_device_is_asked_anew(self) -> None:
        self.at_hand("query")
        self.off()
        self.page.goto("/")
        expect(self.page.get_by_text("Without signal: as of")).to_be_visible()
        self.plant.add_system("Silo", "vessel", "vessel", {})
        self.on()
        expect(self.page.get_by_text("Without signal: as of")).to_have_count(0)
        expect(self.page.get_by_text("Silo").first).to_be_visible()


class Worked(WithoutSignal):
    def test_a_sum_is_worked_out_without_signal(self) -> None:
        self.page.goto("/sums")
        expect(self.page.get_by_role("heading", name="Sums")).to_be_visible()
        self.at_hand("query")
        self.off()
        self.page.goto("/sums?sum=amount")
        self.page.wait_for_function("() => document.documentElement.dataset.core === 'ready'", timeout=60_000)
        self.page.get_by_role("button", name="Try it with these").click()
        expect(self.page.locator(".sum-lines dd").first).to_be_visible()


class WhatElseMayBe(WithoutSignal):
    def test_what_came_after_a_colleague_closed_it_is_offered_for_a_job_that_puts_it_right(self) -> None:
        self.context.clear_cookies()
        self.page = self.signed_in(self.context, self.plant.lead)
        job = self.job_in_hand()
        close(self.plant.technician, job, Asked("Ines Marrow", "abandoned", "no lorry came"))
        self.on()
        late = self.page.get_by_role("region", name="Typed after it was closed")
        expect(late).to_contain_text("1 entry of yours came after this job was closed by", timeout=40_000)
        self.assertEqual(ticked(job).count(), 0)
        late.get_by_role("button", name="Put the record right with them").click()
        self.wait_until(lambda: Job.objects.count() == 2)
        again = Job.objects.exclude(pk=job.pk).get()
        self.wait_until(lambda: ticked(again).count() == 1)
        self.assertEqual(again.puts_right, Record.objects.get().pk)
        self.assert_accessible()

    def test_for_somebody_who_is_no_lead_it_waits_and_says_so(self) -> None:
        job = self.job_in_hand()
        close(self.plant.lead, job, Asked("Corin Hale", "abandoned", "no lorry came"))
        self.on()
        late = self.page.get_by_role("region", name="Typed after it was closed")
        expect(late).to_contain_text("A lead can put the record right", timeout=40_000)
        with self.page.expect_download() as saved:
            self.page.get_by_role("button", name="Keep what was typed as a file").click()
        self.assertIn("caution", Path(saved.value.path()).read_text())
        self.page.reload()
        expect(late).to_be_visible(timeout=40_000)
        late.get_by_role("button", name="Throw them away").click()
        expect(late).to_have_count(0)

    def test_rights_that_were_taken_away_meanwhile_drop_nothing(self) -> None:
        job = self.job_in_hand()
        self.plant.technician.memberships.all().delete()
        self.on()
        expect(self.page.get_by_text("you may not work on this job any more")).to_be_visible(timeout=40_000)
        expect(self.page.get_by_text("1 entry left for a lead to look at")).to_be_visible()
        self.assertEqual(ticked(job).count(), 0)
        lead = self.signed_in(self.new_context(), self.plant.lead)
        lead.goto("/week")
        left = lead.get_by_role("listitem").filter(has_text="1 entry by Technician")
        expect(left).to_contain_text("seen to")
        left.get_by_role("button", name="Lay aside").click()
        expect(left).to_have_count(0)

    def test_who_never_worked_there_keeps_it_on_the_device(self) -> None:
        self.job_in_hand()
        self.context.route("**/api/jobs/*/left-behind", lambda route: route.fulfill(status=404, body="{}"))
        self.plant.technician.memberships.all().delete()
        self.on()
        expect(self.page.get_by_text("you may not work on this job any more")).to_be_visible(timeout=40_000)
        expect(self.page.get_by_role("button", name="Keep what was typed as a file")).to_be_visible()

    def test_a_browser_without_room_says_that_nothing_is_kept(self) -> None:
        self.page.add_init_script(
            "IDBObjectStore.prototype.put = new Proxy(IDBObjectStore.prototype.put, { apply(put, store, given) {"
            " if (store.name === 'waiting') throw new DOMException('full', 'QuotaExceededError');"
            " return Reflect.apply(put, store, given); } })"
        )
        job = self.job_in_hand()
        expect(self.page.get_by_text("this browser keeps nothing: leave the page open")).to_be_visible()
        self.on()
        self.wait_until(lambda: ticked(job).count() == 1, 40)

    def test_a_clock_that_is_hours_off_is_put_right(self) -> None:
        self.page.add_init_script(
            "{ const now = Date.now.bind(Date), Real = Date, off = 5 * 3600e3;"
            " globalThis.Date = class extends Real { constructor(...given) { given.length ? super(...given) : super(now() + off); }"
            " static now() { return now() + off; } }; }"
        )
        job = self.job_in_hand()
        before = timezone.now()
        self.on()
        self.wait_until(lambda: ticked(job).count() == 1, 40)
        kept = ticked(job).get()
        self.assertLess(abs((before - kept.at).total_seconds()), 60)
        self.assertEqual(round((kept.clock_off or 0) / 3600), 5)
