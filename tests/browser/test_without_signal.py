"""The application without signal: the core in the browser judges, a whole visit is done in a cellar, and nothing is lost."""

import json
import re
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.conf import settings
from django.db.models import QuerySet
from django.utils import timezone
from playwright.sync_api import Page, expect

from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from beacon.plant.models import Reference
from beacon.records.models import Record
from beacon.records.sealing import close
from beacon.web import keeper
from tests.both import DIST, InABrowser, differences, written
from tests.browser.base import BrowserTestCase, browser
from tests.core.test_worked import built
from tests.server.pictures import photograph
from tests.server.plant import enter
from tests.worked import WORKED
from wary.job.closing import Asked

AT_HAND = """() => new Promise((done) => {
  const asked = indexedDB.open("wary-beacon");
  asked.onsuccess = () => {
    const all = asked.result.transaction("hand").objectStore("hand").getAllKeys();
    all.onsuccess = () => { asked.result.close(); done(all.result.map(String)); };
  };
})"""


def ticked(job: Job) -> QuerySet[Entry]:
    """What was ticked in a job."""
    return Entry.objects.filter(job=job, source="typed").exclude(path="occasion")


class WithoutSignal(BrowserTestCase):
    """A person whose device holds the application and the core."""

    judges = True

    def setUp(self) -> None:
        super().setUp()
        # The application is kept by a browser only where it is opened; a test begins with neither.
        self.page.goto("/")

    def at_hand(self, *kinds: str) -> None:
        """Waits until the application, the core and what the round needs are on the device."""
        self.page.wait_for_function("() => document.documentElement.dataset.core === 'ready'", timeout=60_000)
        self.page.evaluate("navigator.serviceWorker.ready.then(() => 0)")
        self.page.wait_for_function("() => navigator.serviceWorker.controller !== null")
        for kind in kinds or ("along", "taken"):
            self.wait_until(lambda kind=kind: any(f" {kind} " in key for key in self.page.evaluate(AT_HAND)), 30)  # type: ignore[misc]

    def off(self) -> None:
        self.context.set_offline(True)

    def on(self) -> None:
        self.context.set_offline(False)

    def judged_here(self, page: Page | None = None) -> None:
        expect((page or self.page).locator("[data-judged=here]")).to_be_visible(timeout=60_000)


class TheCallAtOnce(WithoutSignal):
    def open_judged(self) -> Job:
        job = self.plant.job("belt-material-test")
        self.page.goto(f"/jobs/{job.id}")
        self.judged_here()
        self.go("As found")
        self.page.get_by_label("How it was weighed").select_option("net")
        return job

    def test_the_call_comes_without_the_server_and_is_the_servers_own(self) -> None:
        job = self.open_judged()
        self.context.route("**/api/jobs/*/entries**", lambda route: route.abort())
        for reference, shown in (("20", "20.3"), ("21", "21.3"), ("19", "19.3")):
            self.type_run(f"{reference} t", f"{shown} t")
        expect(self.page.locator(".tally-mean")).to_contain_text("3 runs")
        headline = self.page.locator(".call .verdict").inner_text()
        expect(self.page.get_by_role("status").filter(has_text="waiting to be sent")).to_contain_text(
            "judged on this device"
        )
        self.assertFalse(Entry.objects.filter(job=job, path__startswith="runs.").exists())
        self.context.unroute("**/api/jobs/*/entries**")
        self.wait_until(lambda: Entry.objects.filter(job=job, path__startswith="runs.").count() == 6)
        expect(self.page.get_by_role("status").filter(has_text="entries kept")).to_be_visible()
        self.assertEqual(self.page.locator(".call .verdict").inner_text(), headline)
        job.refresh_from_db()
        self.assertIn(job.headline, headline.replace("\n", " "))

    def test_what_another_enters_meanwhile_stands_beside_it(self) -> None:
        job = self.open_judged()
        self.context.route("**/api/jobs/*/**", lambda route: route.abort())
        self.type_run("20 t", "20.3 t")
        enter(job, self.plant.lead, {"runs.zz.reference": "21 t", "runs.zz.indicated": "21.3 t", "note": "wet"})
        expect(self.page.locator(".tally-run")).to_have_count(1)
        self.context.unroute("**/api/jobs/*/**")
        expect(self.page.locator(".tally-run")).to_have_count(2)
        self.wait_until(lambda: Entry.objects.filter(job=job, path__startswith="runs.").count() == 4)

    def test_what_is_taken_back_before_it_is_sent(self) -> None:
        job = self.open_judged()
        self.context.route("**/api/jobs/*/entries**", lambda route: route.abort())
        self.type_run("20 t", "20.3 t")
        expect(self.page.locator(".tally-run .tally-error")).to_contain_text("+1.5")
        self.page.keyboard.press("Control+z")
        expect(self.page.locator(".tally-run .tally-error")).not_to_contain_text("+1.5")
        self.context.unroute("**/api/jobs/*/entries**")
        self.wait_until(lambda: Entry.objects.filter(job=job, undoes=True).count() == 1)

    def test_typing_on_while_the_answers_come(self) -> None:
        job = self.open_judged()
        said: list[str] = []
        self.page.on("request", lambda asked: said.append(asked.url) if "core/differences" in asked.url else None)
        self.page.evaluate(
            """() => new MutationObserver(() => {
              if (document.querySelector("[data-judged=there]")) document.documentElement.dataset.left = "yes";
            }).observe(document, { subtree: true, attributes: true, attributeFilter: ["data-judged"] })"""
        )
        self.type_run("20 t", "20.3 t")
        self.page.locator(".tally-number").first.click()
        shown = self.page.get_by_role("textbox", name="Shown", exact=True)
        for number in range(40):
            # An answer comes while the next figure is on its way to the core, as does what others are asked for.
            shown.fill(f"20.{10 + number}")
            self.page.keyboard.press("Enter")
            if number % 8 == 0:
                self.page.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
        self.wait_until(lambda: Entry.objects.filter(job=job, path__endswith=".indicated", text="20.49").exists())
        expect(self.page.get_by_role("status").filter(has_text="entries kept")).to_be_visible()
        self.assertEqual((said, self.page.evaluate("document.documentElement.dataset.left")), ([], None))

    def test_where_it_disagrees_the_servers_word_stands_and_is_counted(self) -> None:
        self.open_judged()
        wrong: list[str] = []
        self.page.on(
            "request",
            lambda request: wrong.append(request.post_data or "") if "core/differences" in request.url else None,
        )

        def altered(route: Any) -> None:
            answer = route.fetch()
            said = answer.json()
            if said["changes"] and said["changes"].get("machine"):
                said["changes"]["machine"]["headline"] = "Something else"
            route.fulfill(response=answer, json=said)

        self.context.route("**/api/jobs/*/entries**", altered)
        self.type_run("20 t", "20.3 t")
        expect(self.page.get_by_text("the server says “Something else”")).to_be_visible()
        expect(self.page.locator(".call")).to_contain_text("Something else")
        self.wait_until(lambda: bool(wrong))
        self.assertIn("Something else", wrong[0])
        self.context.unroute_all(behavior="wait")


class AVisitInACellar(WithoutSignal):
    def give_up(self, why: str) -> None:
        """Says in the close step that nothing is decided."""
        self.page.get_by_label("Given up, nothing decided").check()
        self.page.get_by_label("Why", exact=True).fill(why)
        self.page.get_by_label("Your name, to sign").fill("Ines Marrow")

    def test_from_opening_to_the_seal(self) -> None:
        self.at_hand()
        self.off()
        # Cold: the page is opened anew, and the system begun from the round.
        self.page.goto("/")
        expect(self.page.get_by_text("Without signal: as of")).to_be_visible()
        self.page.get_by_role("link", name=self.plant.system.name).first.click()
        expect(self.page.get_by_role("heading", name=self.plant.system.name)).to_be_visible()
        self.page.get_by_role("button", name="One method alone").click()
        self.page.get_by_role("button", name="Material test").last.click()
        self.judged_here()
        expect(self.page.get_by_role("status").filter(has_text="begun on this device")).to_be_visible()
        self.go("As found")
        self.page.get_by_label("How it was weighed").select_option("net")
        self.type_run("20 t", "20.02 t")
        self.type_run("21 t", "21.02 t")
        # The page is loaded again in the middle; what was typed and what it comes to are there.
        self.page.reload()
        self.judged_here()
        expect(self.page.locator(".tally-run")).to_have_count(2)
        self.type_run("19 t", "19.01 t")
        self.page.locator(".attachments input[type=file]").set_input_files(
            [{"name": "ticket.jpg", "mimeType": "image/jpeg", "buffer": photograph()}]
        )
        expect(self.page.locator(".bench img").first).to_be_visible()
        expect(self.page.locator(".tally-mean")).to_contain_text("3 runs")
        self.go("Close")
        self.give_up("only a try")
        self.page.get_by_role("button", name="Close on this device").click()
        expect(self.page.get_by_text("Closed on this device by")).to_be_visible()
        self.assertEqual(Job.objects.count(), 0)
        url = self.page.url
        self.page.close()
        # The device is off, and on again where there is signal.
        self.on()
        self.page = self.new_page(self.context)
        self.page.goto("/")
        self.wait_until(lambda: Record.objects.count() == 1, 30)
        job = Job.objects.get()
        self.assertIn(str(job.id), url)
        self.assertEqual(Entry.objects.filter(job=job, path__startswith="runs.").count(), 6)
        self.assertEqual(job.opened_by, self.plant.technician)
        self.assertEqual(Attachment.objects.filter(job=job).count(), 1)
        self.page.goto(url)
        expect(self.page.get_by_text("closed, ")).to_be_visible()

    def test_two_jobs_side_by_side_and_a_reload(self) -> None:
        other = self.plant.add_system("Silo", "vessel", "vessel", {})
        self.page.reload()
        self.at_hand()
        self.wait_until(lambda: sum(" taken " in key for key in self.page.evaluate(AT_HAND)) >= 2)
        self.off()
        urls = []
        for system in (self.plant.system, other):
            self.page.goto(f"/systems/{system.id}")
            self.page.get_by_role("button", name="Begin a visit").or_(
                self.page.get_by_role("button", name="Begin")
            ).first.click()
            self.judged_here()
            self.page.get_by_role("checkbox").first.check()
            urls.append(self.page.url)
        self.page.goto(urls[0])
        self.judged_here()
        self.on()
        self.wait_until(lambda: Job.objects.count() == 2, 40)
        self.wait_until(
            lambda: Entry.objects.filter(source="typed", path__contains=".").exclude(path="occasion").count() == 2, 40
        )

    def test_what_others_entered_meanwhile_brings_it_back_to_whoever_closed_it(self) -> None:
        job = self.plant.job("belt-material-test")
        self.page.goto(f"/jobs/{job.id}")
        self.at_hand("job")
        self.judged_here()
        self.off()
        self.go("Close")
        self.give_up("no lorry came")
        self.page.get_by_role("button", name=re.compile("^Close (and seal|on this device)$")).click()
        expect(self.page.get_by_text("Closed on this device by")).to_be_visible()
        enter(job, self.plant.lead, {"note": "a lorry did come"})
        self.on()
        expect(self.page.get_by_text("It was closed on this device, and came back")).to_be_visible(timeout=40_000)
        expect(self.page.get_by_text("somebody entered something else meanwhile")).to_be_visible()
        self.assertFalse(Record.objects.exists())
        self.page.get_by_role("button", name="Close and seal").click()
        self.wait_until(lambda: Record.objects.count() == 1)

    def test_a_newer_version_between_opening_and_closing_waits(self) -> None:
        job = self.plant.job("belt-material-test")
        self.page.goto(f"/jobs/{job.id}")
        self.at_hand("job")
        self.judged_here()
        with mock.patch("beacon.web.keeper", return_value=f"{keeper()}// newer"):
            self.page.evaluate("navigator.serviceWorker.getRegistration().then((one) => one.update()).then(() => 0)")
            self.page.wait_for_function(
                "() => navigator.serviceWorker.getRegistration().then((one) => one.waiting !== null)"
            )
            self.off()
            self.page.get_by_role("checkbox").first.check()
            # What is there without signal is what it was opened with, and goes on.
            self.page.reload()
            self.judged_here()
            expect(self.page.get_by_role("status").filter(has_text="waiting to be sent")).to_be_visible()
            self.go("Close")
            self.give_up("no lorry came")
            self.page.get_by_role("button", name=re.compile("^Close (and seal|on this device)$")).click()
            expect(self.page.get_by_text("Closed on this device by")).to_be_visible()
            self.page.goto("/")
            expect(self.page.get_by_text("A newer version is here")).to_be_visible()
            self.on()
            self.wait_until(lambda: Record.objects.count() == 1, 40)
        self.assertEqual(ticked(job).count(), 1)

    def test_a_reference_that_ran_out_meanwhile_brings_it_back(self) -> None:
        self.at_hand()
        self.off()
        self.page.goto(f"/systems/{self.plant.system.id}")
        self.page.get_by_role("button", name="One method alone").click()
        self.page.get_by_role("button", name="Material test").last.click()
        self.judged_here()
        self.go("As found")
        self.page.get_by_label("How it was weighed").select_option("net")
        for load in (20, 21, 19):
            self.type_run(f"{load} t", f"{load}.01 t")
        self.go("Close")
        self.give_up("enough for today")
        self.page.get_by_role("button", name="Close on this device").click()
        expect(self.page.get_by_text("Closed on this device by")).to_be_visible()
        Reference.objects.filter(pk=self.plant.bridge.pk).update(due=timezone.now().date() - timedelta(days=1))
        self.on()
        expect(self.page.get_by_text("It was closed on this device, and came back")).to_be_visible(timeout=40_000)
        self.assertEqual((Job.objects.count(), Record.objects.count()), (1, 0))
        expect(self.page.locator(".call")).to_contain_text("was due for its own check")


class WhoseItIs(WithoutSignal):
    def test_signing_out_takes_what_was_at_hand_and_leaves_what_waits(self) -> None:
        job = self.plant.job("belt-material-test")
        self.page.goto(f"/jobs/{job.id}")
        self.at_hand("job")
        self.judged_here()
        self.off()
        self.page.get_by_role("checkbox").first.check()
        expect(self.page.get_by_role("status").filter(has_text="waiting to be sent")).to_be_visible()
        self.page.goto("/")
        self.page.get_by_role("button", name=str(self.plant.technician)).click()
        self.page.get_by_role("button", name="Sign out", exact=True).click()
        expect(self.page.get_by_role("heading", name="Sign in")).to_be_visible()
        self.assertEqual(self.page.evaluate(AT_HAND), [])
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
        job = self.plant.job("belt-material-test")
        self.page.goto(f"/jobs/{job.id}")
        self.at_hand("job")
        self.judged_here()
        self.off()
        self.page.get_by_role("checkbox").first.check()
        self.context.clear_cookies(name=settings.SESSION_COOKIE_NAME)
        self.on()
        self.page.get_by_role("link", name="Sign in").click()
        self.page.get_by_label("Address").fill(self.plant.technician.username)
        self.page.get_by_label("Password").fill("a-long-enough-one")
        self.page.keyboard.press("Enter")
        self.wait_until(lambda: ticked(job).count() == 1)


class TheSameOnBothSides(WithoutSignal):
    def test_every_worked_job_is_the_same_on_the_command_line_and_in_the_browser(self) -> None:
        documents = {one.method: built(one).file for one in WORKED}
        documents["refused"] = {"method": "nothing", "inputs": {"x": []}}
        documents["empty"] = {}
        folder = written(documents)
        page = browser().new_context().new_page()
        with folder:
            self.assertEqual(differences(InABrowser(page), sorted(Path(folder.name).glob("*.json"))), [])
        page.context.close()

    def test_what_is_on_the_way_is_small_enough_and_named_by_its_content(self) -> None:
        manifest = json.loads((DIST / "core/manifest.json").read_text())
        sent = sum(one["sent"] for one in manifest["files"].values())
        self.assertLess(sent, 12_000_000)
        for name in manifest["files"]:
            self.assertTrue((DIST / "core" / name).is_file(), name)


class Practised(WithoutSignal):
    def test_a_practice_is_begun_done_and_closed_without_signal_and_told_of_with_it(self) -> None:
        self.page.goto("/practice")
        self.at_hand("practice")
        self.wait_until(lambda: sum(" practice " in key for key in self.page.evaluate(AT_HAND)) >= 18, 40)
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
    def job_in_hand(self) -> Job:
        job = self.plant.job("belt-material-test")
        self.page.goto(f"/jobs/{job.id}")
        self.at_hand("job")
        self.judged_here()
        self.off()
        return job

    def test_what_came_after_a_colleague_closed_it_is_offered_for_a_job_that_puts_it_right(self) -> None:
        self.context.clear_cookies()
        self.page = self.signed_in(self.context, self.plant.lead)
        job = self.job_in_hand()
        self.page.get_by_role("checkbox").first.check()
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
        self.page.get_by_role("checkbox").first.check()
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
        self.page.get_by_role("checkbox").first.check()
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
        self.page.get_by_role("checkbox").first.check()
        self.plant.technician.memberships.all().delete()
        self.on()
        expect(self.page.get_by_text("you may not work on this job any more")).to_be_visible(timeout=40_000)
        expect(self.page.get_by_role("button", name="Keep what was typed as a file")).to_be_visible()

    def test_a_browser_without_room_says_that_nothing_is_kept(self) -> None:
        self.context.add_init_script(
            "IDBObjectStore.prototype.put = new Proxy(IDBObjectStore.prototype.put, { apply(put, store, given) {"
            " if (store.name === 'waiting') throw new DOMException('full', 'QuotaExceededError');"
            " return Reflect.apply(put, store, given); } })"
        )
        job = self.job_in_hand()
        self.page.get_by_role("checkbox").first.check()
        expect(self.page.get_by_text("this browser keeps nothing: leave the page open")).to_be_visible()
        self.on()
        self.wait_until(lambda: ticked(job).count() == 1, 40)

    def test_a_clock_that_is_hours_off_is_put_right(self) -> None:
        self.context.add_init_script(
            "{ const now = Date.now.bind(Date), Real = Date, off = 5 * 3600e3;"
            " globalThis.Date = class extends Real { constructor(...given) { given.length ? super(...given) : super(now() + off); }"
            " static now() { return now() + off; } }; }"
        )
        job = self.job_in_hand()
        self.page.get_by_role("checkbox").first.check()
        before = timezone.now()
        self.on()
        self.wait_until(lambda: ticked(job).count() == 1, 40)
        kept = ticked(job).get()
        self.assertLess(abs((before - kept.at).total_seconds()), 60)
        self.assertEqual(round((kept.clock_off or 0) / 3600), 5)
