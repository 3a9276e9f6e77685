"""The application without signal: the core in the browser judges, a whole visit is done in a cellar, and nothing is lost."""

import re
from datetime import timedelta
from typing import Any
from unittest import mock

from django.utils import timezone
from playwright.sync_api import expect

from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from beacon.plant.models import Reference
from beacon.records.models import Record
from beacon.web import keeper
from tests.browser.without_signal import WithoutSignal, ticked
from tests.server.pictures import photograph
from tests.server.plant import enter


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
        self.wait_until(lambda: sum(" taken " in key for key in self.stored("hand")) >= 2)
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

    def test_what_is_closed_on_the_device_may_be_taken_back_and_stands_there_as_it_was(self) -> None:
        job = self.job_taken_along()
        self.off()
        self.go("Close")
        self.give_up("no lorry came")
        close = self.page.get_by_role("button", name=re.compile("^Close (and seal|on this device)$"))
        close.click()
        self.page.get_by_role("button", name="Take it back and go on").click()
        expect(self.page.get_by_label("Given up, nothing decided")).to_be_checked()
        expect(self.page.get_by_label("Why", exact=True)).to_have_value("no lorry came")
        self.page.get_by_label("Why", exact=True).fill("no lorry came before dark")
        close.click()
        expect(self.page.get_by_text("Closed on this device by")).to_be_visible()
        self.on()
        self.wait_until(lambda: Record.objects.filter(job=job).exists(), 40)
        self.assertEqual((Job.objects.get(id=job.id).closing or {})["reason"], "no lorry came before dark")

    def test_what_others_entered_meanwhile_brings_it_back_to_whoever_closed_it(self) -> None:
        job = self.job_taken_along()
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


class ANewerVersion(WithoutSignal):
    fresh = True

    def test_a_newer_version_between_opening_and_closing_waits(self) -> None:
        job = self.job_taken_along()
        with mock.patch("beacon.web.keeper", return_value=f"{keeper()}// newer"):
            self.page.evaluate("navigator.serviceWorker.getRegistration().then((one) => one.update()).then(() => 0)")
            waits = "navigator.serviceWorker.getRegistration().then((one) => one.waiting !== null)"
            self.wait_until(lambda: self.page.evaluate(waits))
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

    def test_a_newer_version_that_is_on_its_way_as_a_page_opens_is_said(self) -> None:
        self.at_hand()
        with mock.patch("beacon.web.keeper", return_value=f"{keeper()}// newer"):
            self.page.evaluate("navigator.serviceWorker.getRegistration().then((one) => one.update()).then(() => 0)")
            self.page.goto("/systems")
            expect(self.page.get_by_text("A newer version is here")).to_be_visible()

    def test_what_the_version_before_begins_from_stays_until_the_newer_one_takes_over(self) -> None:
        self.at_hand()
        there = "caches.open('core').then((store) => store.match('/static/core/of-before.bin')).then((one) => !!one)"
        self.page.evaluate(
            "caches.open('core').then((store) => store.put('/static/core/of-before.bin', new Response('x')))"
        )
        with mock.patch("beacon.web.keeper", return_value=f"{keeper()}// newer"):
            # The newer page is here, with its own core, while the older one is still in charge of what is kept.
            self.page.goto("/systems")
            self.at_hand()
            self.page.evaluate("navigator.serviceWorker.getRegistration().then((one) => one.update()).then(() => 0)")
            waits = "navigator.serviceWorker.getRegistration().then((one) => one.waiting !== null)"
            self.wait_until(lambda: self.page.evaluate(waits))
            self.assertTrue(self.page.evaluate(there))
            self.page.evaluate(
                "navigator.serviceWorker.getRegistration().then((one) => "
                "one.waiting.postMessage({ type: 'SKIP_WAITING' }))"
            )
            self.wait_until(lambda: not self.page.evaluate(there))
        # What it begins from itself is there.
        own = "caches.open('core').then((store) => store.keys()).then((all) => all.length)"
        self.assertGreaterEqual(int(self.page.evaluate(own)), 3)
