"""Several people on one device: what each typed waits for them alone, and is sent as theirs and nobody else's."""

import json
import uuid
from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import Page, expect

from beacon.attachments.models import Attachment
from beacon.bench.models import Entry, Job
from tests.browser.base import BrowserTestCase, browser
from tests.browser.test_attachments import file
from tests.server.pictures import photograph
from tests.server.plant import GIVEN_UP, enter, runs
from tests.server.test_closing import IN_ORDER


class OneDevice(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()
        self.bench = f"/jobs/{self.job.id}"

    def away(self, page: Page) -> None:
        """The server takes nothing in; who is signed in can still change."""
        page.route("**/api/jobs/*/entries*", lambda route: route.abort())
        page.route("**/api/jobs/*/attachments?*", lambda route: route.abort())

    def refusing(self, page: Page) -> None:
        """The server takes no entry, and says why."""
        said = json.dumps({"title": "x", "errors": [{"path": "[0].text", "text": "That cannot be kept."}]})
        kind = "application/problem+json"
        page.route("**/api/jobs/*/entries*", lambda route: route.fulfill(status=422, content_type=kind, body=said))

    def back(self, page: Page) -> None:
        page.unroute("**/api/jobs/*/entries*")
        page.unroute("**/api/jobs/*/attachments?*")

    def open(self, page: Page) -> None:
        page.goto(self.bench)
        expect(page.get_by_role("complementary", name="The call")).to_be_visible()

    def note(self, text: str) -> None:
        self.go("Close")
        self.page.get_by_label("Note for the record").fill(text)
        self.page.get_by_label("Note for the record").press("Enter")

    def sign_out(self, page: Page) -> None:
        page.locator(".top-who button").click()
        page.get_by_role("button", name="Sign out", exact=True).click()
        expect(page.get_by_label("Address")).to_be_visible()

    def test_what_waits_is_sent_in_its_author_s_session_and_shown_to_nobody_else(self) -> None:
        page = self.page
        self.open(page)
        self.away(page)
        self.note("typed by the technician")
        page.locator(".attachments input[type=file]").set_input_files([file(photograph())])  # type: ignore[list-item]
        expect(page.locator(".kept")).to_contain_text("1 waiting to be sent, 1 photograph waiting")
        self.sign_out(page)
        self.back(page)
        # Somebody else signs in on the same device, and works on the same job.
        self.sign_in(page, self.plant.lead)
        self.open(page)
        self.go("Close")
        expect(page.locator(".kept")).not_to_contain_text("wait")
        expect(page.get_by_label("Note for the record")).to_have_value("")
        expect(page.locator(".paper")).to_have_count(0)
        page.get_by_label("Conditions").fill("dry")
        page.get_by_label("Conditions").press("Enter")
        self.wait_until(Entry.objects.filter(job=self.job, path="conditions").exists)
        self.assertEqual(
            set(Entry.objects.filter(path="conditions").values_list("who", flat=True)), {self.plant.lead.pk}
        )
        self.assertFalse(Entry.objects.filter(path="note").exists())
        self.assertFalse(Attachment.objects.exists())
        # Undo takes back one's own: the lead's, and nothing of the technician's.
        page.locator("body").press("Control+z")
        self.wait_until(Entry.objects.filter(path="conditions", undoes=True).exists)
        self.sign_out(page)
        self.sign_in(page, self.plant.technician)
        self.open(page)
        self.wait_until(Entry.objects.filter(job=self.job, path="note").exists)
        self.assertEqual(Entry.objects.get(path="note").who, self.plant.technician)
        self.wait_until(Attachment.objects.filter(job=self.job).exists)
        self.assertEqual(Attachment.objects.get().who, self.plant.technician)
        expect(page.locator(".kept")).not_to_contain_text("wait")

    def test_a_window_of_one_person_sends_nothing_once_another_signed_in_in_the_same_browser(self) -> None:
        self.open(self.page)
        other = self.new_page(self.context)
        self.sign_in(other, self.plant.lead)
        self.note("typed in the old window")
        # It is not kept as the lead's: the page asks who is there.
        expect(self.page.locator(".kept, input[type=email]").first).to_be_visible()
        self.page.wait_for_function(
            "() => document.querySelector('input[type=email]') || document.body.innerText.includes('sign in again')"
        )
        self.assertFalse(Entry.objects.filter(path="note").exists())
        self.sign_in(other, self.plant.technician)
        self.open(other)
        self.wait_until(Entry.objects.filter(path="note").exists)
        self.assertEqual(Entry.objects.get(path="note").who, self.plant.technician)

    def test_what_waits_since_before_is_asked_for_and_sent_as_whose_it_is_said_to_be(self) -> None:
        page = self.page
        # No page of the application: it would have the store open.
        page.goto("/static/licences.json")
        entry = {"id": "5d3f0b7e-6a55-4d8e-9f3a-0a3f5f0b7e6a", "path": "note", "text": "from before", "job": str(self.job.id), "order": 1}  # fmt: skip
        # The store as an older page left it: its entries say of nobody who typed them.
        page.evaluate(
            """async (entry) => {
              const gone = indexedDB.deleteDatabase("wary-beacon");
              await new Promise((done) => { gone.onsuccess = done; gone.onerror = done; gone.onblocked = done; });
              const asked = indexedDB.open("wary-beacon", 2);
              asked.onupgradeneeded = () => {
                for (const name of ["waiting", "papers"])
                  asked.result.createObjectStore(name, { keyPath: "id" }).createIndex("job", "job");
              };
              const db = await new Promise((done, failed) => {
                asked.onsuccess = () => done(asked.result); asked.onerror = () => failed(asked.error);
              });
              const change = db.transaction("waiting", "readwrite");
              change.objectStore("waiting").put(entry);
              await new Promise((done) => { change.oncomplete = done; });
              db.close();
            }""",
            entry,
        )
        self.open(page)
        expect(page.locator(".kept")).to_contain_text("nobody knows any more by whom")
        self.assertFalse(Entry.objects.filter(path="note").exists())
        page.get_by_role("button", name="By me: send").click()
        self.wait_until(Entry.objects.filter(path="note").exists)
        self.assertEqual(Entry.objects.get(path="note").text, "from before")

    def test_an_entry_that_the_server_cannot_work_with_holds_none_of_the_others_up(self) -> None:
        page = self.page
        self.open(page)
        bad: list[str] = []

        def answer(route) -> None:  # type: ignore[no-untyped-def]
            sent = route.request.post_data_json
            if any(one["path"] == "note" for one in sent):
                bad.append(str(len(sent)))
                route.fulfill(status=500, content_type="application/problem+json", body=json.dumps({"title": "x"}))
            else:
                route.fallback()

        page.route("**/api/jobs/*/entries*", answer)
        self.note("odd")
        page.get_by_label("Conditions").fill("dry")
        page.get_by_label("Conditions").press("Enter")
        expect(page.get_by_text("The server could not work with this")).to_be_visible()
        self.wait_until(Entry.objects.filter(job=self.job, path="conditions").exists)
        self.assertGreaterEqual(bad.count("1"), 3)

    def test_what_was_not_taken_stays_with_its_reason_until_it_is_laid_aside(self) -> None:
        page = self.page
        self.open(page)
        self.refusing(page)
        self.note("typed with care")
        note = page.get_by_label("Note for the record")
        expect(page.get_by_text("That cannot be kept.")).to_be_visible()
        expect(note).to_have_value("typed with care")
        self.back(page)
        page.reload()
        self.go("Close")
        expect(note).to_have_value("typed with care")
        expect(page.get_by_text("That cannot be kept.")).to_be_visible()
        expect(page.locator(".kept")).to_contain_text("1 entry not taken")
        self.assertFalse(Entry.objects.filter(path="note").exists(), "it is not sent again by itself")
        # Nobody else on this device sees it, and it is there when its author comes back.
        self.sign_out(page)
        self.sign_in(page, self.plant.lead)
        self.open(page)
        expect(page.locator(".kept")).not_to_contain_text("not taken")
        self.sign_out(page)
        self.sign_in(page, self.plant.technician)
        self.open(page)
        page.get_by_role("button", name="Lay it aside").click()
        expect(page.locator(".kept")).not_to_contain_text("not taken")
        self.go("Close")
        expect(note).to_have_value("")
        self.assertEqual(self.stored("waiting"), [])
        page.reload()
        expect(page.locator(".kept")).to_contain_text("kept")
        expect(page.locator(".kept")).not_to_contain_text("not taken")

    def test_what_is_typed_anew_where_something_was_not_taken_takes_its_place(self) -> None:
        page = self.page
        self.open(page)
        self.refusing(page)
        self.note("odd")
        expect(page.get_by_text("That cannot be kept.")).to_be_visible()
        self.back(page)
        self.note("plain")
        self.wait_until(Entry.objects.filter(job=self.job, path="note", text="plain").exists)
        expect(page.locator(".kept")).not_to_contain_text("not taken")
        self.assertEqual(self.stored("waiting"), [])

    def test_a_store_that_the_browser_ended_is_opened_anew(self) -> None:
        page = self.page
        self.open(page)
        self.away(page)
        # Whoever clears what the page keeps ends its store as well.
        page.evaluate("""() => new Promise((done) => {
          const gone = indexedDB.deleteDatabase("wary-beacon"); gone.onsuccess = gone.onerror = () => done();
        })""")
        self.note("typed afterwards")
        expect(page.locator(".kept")).to_contain_text("1 waiting to be sent")
        expect(page.get_by_text("this browser keeps nothing")).to_have_count(0)
        self.wait_until(lambda: len(self.stored("waiting")) == 1)

    def test_a_store_that_opens_late_takes_what_was_typed_meanwhile(self) -> None:
        holds = self.new_page(self.context)
        holds.goto("/static/licences.json")
        holds.evaluate("""() => new Promise((done) => {
          const asked = indexedDB.open("wary-beacon", 1);
          asked.onupgradeneeded = () =>
            asked.result.createObjectStore("waiting", { keyPath: "id" }).createIndex("job", "job");
          asked.onsuccess = () => { window.held = asked.result; done(); };
        })""")
        page = self.page
        self.away(page)
        self.open(page)
        self.note("typed before there was a store")
        expect(page.get_by_text("this browser keeps nothing")).to_be_visible()
        holds.evaluate("window.held.close()")
        expect(page.get_by_text("this browser keeps nothing")).to_have_count(0)
        self.wait_until(lambda: len(self.stored("waiting")) == 1)

    def test_a_device_that_is_days_ahead_opens_and_closes_its_jobs_all_the_same(self) -> None:
        # The clock is the whole browser context's.
        context = browser().new_context(base_url=self.live_server_url, service_workers="block")
        self.addCleanup(context.close)
        page = self.signed_in(context, self.plant.technician)
        ahead = timezone.now() + timedelta(days=3)
        page.clock.install(time=ahead)
        opened, person = str(uuid.uuid4()), str(self.plant.technician.pk)
        self.open(page)
        page.evaluate(
            """([opening, sealing]) => new Promise((done, failed) => {
              const asked = indexedDB.open("wary-beacon");
              asked.onerror = failed;
              asked.onsuccess = () => {
                const put = asked.result.transaction(["opening", "sealing"], "readwrite");
                put.objectStore("opening").put(opening);
                put.objectStore("sealing").put(sealing);
                put.oncomplete = () => { asked.result.close(); done(); };
              };
            })""",
            [
                {"job": opened, "name": "Conveyor", "person": person, "at": ahead.isoformat(),
                 "open": {"id": opened, "system": str(self.plant.system.pk), "method": "belt-material-test", "occasion": "routine", "inputs": {}, "at": ahead.isoformat()}},
                {"job": str(self.job.pk), "name": "Conveyor", "person": person, "at": ahead.isoformat(), "close": GIVEN_UP},
            ],
        )  # fmt: skip
        page.reload()
        expect(page.get_by_role("complementary", name="The call")).to_be_visible()

        def both_there() -> bool:
            # What waits is looked at every ten seconds of the page's own clock.
            page.clock.run_for(11_000)
            closed = Job.objects.filter(pk=self.job.pk, closed_at__isnull=False)
            return Job.objects.filter(pk=opened).exists() and closed.exists()

        self.wait_until(both_there, 40)
        for at in (Job.objects.get(pk=opened).opened_at, Job.objects.get(pk=self.job.pk).closed_at):
            assert at is not None
            self.assertLess(abs(at - timezone.now()), timedelta(minutes=5))

    def test_closing_waits_for_photographs_as_it_does_for_entries(self) -> None:
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        page = self.page
        self.open(page)
        self.go("Close")
        close = page.get_by_role("button", name="Close and seal")
        expect(close).to_be_enabled()
        page.route("**/api/jobs/*/attachments?*", lambda route: route.abort())
        page.locator(".attachments input[type=file]").set_input_files([file(photograph())])  # type: ignore[list-item]
        expect(page.get_by_text("1 photograph must be kept first")).to_be_visible()
        expect(close).to_be_disabled()
        page.unroute("**/api/jobs/*/attachments?*")
        expect(close).to_be_enabled(timeout=30_000)
        page.get_by_label("Your name, to sign").fill("Ines Marrow")
        close.click()
        expect(page.get_by_text("Closed as")).to_be_visible()
        self.assertEqual(Attachment.objects.get(job=self.job).job.state, "closed")
        self.assertEqual(Job.objects.get(pk=self.job.pk).record.number, 1)


class TwoOfAPlate(BrowserTestCase):
    def test_the_second_is_shown_what_the_first_typed_and_chooses(self) -> None:
        page = self.page
        page.goto(f"/systems/{self.plant.system.id}")
        page.get_by_role("button", name="Change").first.click()
        speed = page.get_by_label("Belt speed")
        expect(speed).to_have_value("2 m/s")
        system = self.plant.system
        lead = self.signed_in(self.new_context(), self.plant.lead)
        lead.goto(f"/systems/{system.id}")
        lead.get_by_role("button", name="Change").first.click()
        lead.get_by_label("Belt speed").fill("2.2 m/s")
        lead.get_by_label("Serial number").fill("GN-7")
        lead.get_by_role("button", name="Keep", exact=True).click()
        expect(lead.get_by_label("Belt speed")).to_have_count(0)
        speed.fill("2.4 m/s")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.get_by_text("Lead typed “2.2 m/s” here since you opened this")).to_be_visible()
        # What was typed is still there, and nothing was changed.
        expect(speed).to_have_value("2.4 m/s")
        system.refresh_from_db()
        self.assertEqual(system.plates["belt_speed"], "2.2 m/s")
        page.get_by_role("button", name="Keep mine").click()
        expect(speed).to_have_count(0)
        system.refresh_from_db()
        self.assertEqual((system.plates["belt_speed"], system.serial), ("2.4 m/s", "GN-7"))


class Invited(BrowserTestCase):
    def test_somebody_of_another_organisation_accepts_on_their_own_page(self) -> None:
        from tests.server.plant import Plant

        other = Plant("Far Skerry")
        lead = self.signed_in(self.new_context(), self.plant.lead)
        lead.goto("/people")
        lead.get_by_role("button", name="Invite someone").click()
        lead.get_by_label("Address that they sign in with").fill(other.technician.username)
        lead.get_by_label("Name", exact=True).fill("Somebody")
        lead.get_by_role("button", name="Invite", exact=True).click()
        lead.get_by_role("button", name="It is handed over").click()
        row = lead.locator("tbody tr", has_text=other.technician.username)
        expect(row).to_contain_text("invited")
        self.assert_accessible(lead)
        theirs = self.signed_in(self.new_context(), other.technician)
        theirs.goto("/")
        asked = theirs.locator(".invitation")
        expect(asked).to_contain_text("Lead invites you to Gannet Ness as technician.")
        self.assert_accessible(theirs)
        asked.get_by_role("button", name="Accept").click()
        expect(asked).to_have_count(0)
        theirs.locator(".top-who button").click()
        expect(theirs.get_by_role("button", name="Gannet Ness")).to_be_visible()
