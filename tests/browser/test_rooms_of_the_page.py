"""The pages beside the bench: history, log and record, references, people, sums, practice."""

import datetime
import re
import uuid

from django.db import connection
from django.utils import timezone
from playwright.sync_api import expect

from beacon.bench.models import Job
from beacon.people.models import Invitation
from beacon.plant.models import Event, Fault, Reference
from beacon.records.models import Record
from beacon.records.sealing import close
from tests.browser.base import BrowserTestCase
from tests.browser.test_steps import OVERLAPS
from tests.server.plant import AGREEING, enter, runs, today
from tests.server.test_closing import IN_ORDER
from wary.job.closing import Asked as AskedToClose


class WithHistory(BrowserTestCase):
    def closed(self, texts: dict[str, str], days: int = 0, outcome: str = "complete") -> Record:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | texts)
        at = timezone.now() - datetime.timedelta(days=days)
        asked = AskedToClose("Ines", outcome, "as agreed", "seen to")  # type: ignore[arg-type]
        close(self.plant.technician, Job.objects.get(pk=job.pk), asked, at)
        return Record.objects.get(job=job)

    def adjusted(self, days: int) -> Record:
        return self.closed(runs(AGREEING) | {"read_back": "1.1260"} | runs(IN_ORDER, "as_left"), days)


class History(WithHistory):
    def test_limits_take_a_third_and_a_far_one_is_marked_beyond(self) -> None:
        far = [("34.10", "12.76", "22.81"), ("32.61", "12.74", "21.23"), ("33.35", "12.74", "22.03")]
        self.closed(runs(far), 300, "limited")
        for days in (200, 100, 50):
            self.closed(runs(IN_ORDER), days)
        page = self.page
        page.goto(f"/systems/{self.plant.system.id}")
        chart = page.locator(".history svg")
        expect(chart).to_have_attribute("aria-label", "History of 4 visits")
        expect(chart).to_contain_text("+6.9 %")
        band = chart.locator("rect").first.bounding_box()
        points = chart.locator("circle").evaluate_all("all => all.map(one => one.getBoundingClientRect().y)")
        assert band
        self.assertGreater(band["height"], 30)
        self.assertTrue(all(band["y"] < y < band["y"] + band["height"] for y in points[:3]), points)

    def test_a_few_visits_are_not_stretched_a_fault_is_marked_and_another_machine_stands_beside(self) -> None:
        self.closed(runs(IN_ORDER), 100)
        self.closed(runs(IN_ORDER), 50)
        mine = self.plant.system
        Fault.objects.create(system=mine, job=uuid.uuid4(), suspect="idler", title="a weigh idler out of line", at=timezone.now() - datetime.timedelta(days=50), put_right=True, who=self.plant.lead)  # fmt: skip
        twin = self.plant.add_system("Lower belt", "belt", "belt-fine", mine.plates)
        job = self.plant.job(system=twin)
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        close(self.plant.technician, Job.objects.get(pk=job.pk), AskedToClose("Ines", "complete"))
        page = self.page
        page.goto(f"/systems/{mine.id}")
        chart = page.locator(".history svg")
        box = chart.bounding_box()
        assert box
        self.assertLess(box["width"], 640, "two visits are not drawn across the page")
        expect(chart.locator(".fault-mark title")).to_have_text(re.compile("a weigh idler out of line, .* put right"))
        beside = page.get_by_label("Beside another")
        beside.focus()
        beside.select_option(label=f"Lower belt, {twin.site.name}")
        expect(chart).to_have_count(2)
        expect(page.locator(".charts-beside")).to_contain_text("Lower belt, ")
        one, two = (chart.nth(n).bounding_box() for n in (0, 1))
        assert one and two
        self.assertLess(abs(one["y"] - two["y"]), 4)
        self.assertLess(one["x"] + one["width"], two["x"] + 1)
        heights = chart.locator("rect").evaluate_all("all => all.map(one => one.getBoundingClientRect().height)")
        self.assertAlmostEqual(heights[0], heights[1], delta=0.5, msg="drawn on the same scale")
        self.assert_accessible()

    def test_words_of_events_do_not_lie_over_each_other(self) -> None:
        self.closed(runs(IN_ORDER), 120)
        for days, kind in ((100, "idler"), (99, "idler"), (98, "cleaned"), (97, "idler"), (40, "idler")):
            at = timezone.now() - datetime.timedelta(days=days)
            Event.objects.create(system=self.plant.system, kind=kind, at=at, who=self.plant.lead, note="seen to")
        page = self.page
        page.goto(f"/systems/{self.plant.system.id}")
        expect(page.locator(".history svg")).to_be_visible()
        over = page.evaluate(OVERLAPS.replace(".figure text, .drawing-heads b, .drawing-heads small", ".history text"))
        self.assertEqual([one for one in over if "cut off" not in one], [])

    def test_the_table_says_each_visit_and_leads_to_its_record(self) -> None:
        record = self.adjusted(30)
        page = self.page
        page.goto(f"/systems/{self.plant.system.id}")
        page.get_by_role("button", name="As a table").click()
        table = page.locator(".history table")
        expect(table).to_contain_text("+1.42 % ± 0.25")
        expect(table).to_contain_text("was 1.1420")
        table.get_by_role("link", name="Material test").click()
        expect(page).to_have_url(re.compile(str(record.id)))


class LogAndRecord(WithHistory):
    def test_adjusted_provisional_and_left_alone_are_told_apart(self) -> None:
        self.closed(runs(IN_ORDER), 20)
        self.adjusted(10)
        page = self.page
        page.goto("/log")
        rows = page.locator("tbody tr")
        expect(rows.nth(0).get_by_role("img", name="adjust, then leave alone")).to_be_visible()
        expect(rows.nth(1).get_by_role("img", name="leave alone", exact=True)).to_be_visible()
        page.get_by_label("Find in the log").fill("no such thing")
        page.get_by_role("button", name="Find", exact=True).click()
        expect(page.get_by_text("Nothing answers to that.")).to_be_visible()
        page.get_by_role("button", name="Show all").click()
        expect(rows).to_have_count(2)

    def test_a_record_says_its_parts_its_seal_and_a_read_back_that_differs(self) -> None:
        record = self.closed(runs(AGREEING) | {"read_back": "1.1250"} | runs(IN_ORDER, "as_left"))
        page = self.page
        page.goto(f"/records/{record.id}")
        expect(page.get_by_role("heading", name="Material test: Leave it alone")).to_be_visible()
        expect(page.get_by_text("What was read back, 1.1250, is not what was worked out, 1.1260.")).to_be_visible()
        expect(page.get_by_text("The record fits its seal")).to_be_visible()
        expect(page.locator(".trail tbody")).to_contain_text("Runs 1, gross")
        with page.expect_download() as download:
            page.get_by_role("link", name="The sealed job file").click()
        self.assertTrue(download.value.suggested_filename.endswith(".json"))

    def test_a_record_that_was_touched_says_so(self) -> None:
        record = self.closed(runs(IN_ORDER))
        # As someone would who has the database itself in hand.
        with connection.cursor() as cursor:
            cursor.execute("ALTER TABLE records_record DISABLE TRIGGER USER")
            cursor.execute("UPDATE records_record SET sha256 = %s WHERE id = %s", ["0" * 64, record.pk])
            cursor.execute("ALTER TABLE records_record ENABLE TRIGGER USER")
        self.page.goto(f"/records/{record.id}")
        expect(self.page.get_by_role("alert")).to_contain_text("does not fit its seal")


class References(WithHistory):
    def test_dates_stand_once_and_a_container_shows_its_tare(self) -> None:
        Reference.objects.create(
            organisation=self.plant.organisation,
            kind="container",
            name="Skip 4",
            tare="82.4 kg",
            due=today() + datetime.timedelta(days=12),
        )
        page = self.page
        page.goto("/references")
        row = page.get_by_role("row", name=re.compile("Skip 4"))
        expect(row).to_contain_text("82.4 kg")
        expect(row).not_to_contain_text("–")
        self.assertEqual(row.inner_text().count("due in 12 days"), 1)
        self.assertEqual(page.get_by_role("row", name=re.compile("Weighbridge")).inner_text().lower().count("due"), 1)

    def test_a_lead_adds_one_and_a_slip_is_said_by_its_field_with_nothing_lost(self) -> None:
        page = self.signed_in(self.new_context(), self.plant.lead)
        page.goto("/references")
        page.get_by_role("button", name="Add a reference").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_label("Kind")).to_be_focused()
        dialog.get_by_label("Kind").select_option(label="Test weights")
        dialog.get_by_label("Name", exact=True).fill("Weights W-20")
        dialog.get_by_label("Mass in all, such as 400 kg").fill("heavy")
        dialog.get_by_role("button", name="Keep").click()
        expect(dialog.get_by_role("alert")).to_contain_text("expected a mass")
        expect(dialog.get_by_label("Name", exact=True)).to_have_value("Weights W-20")
        dialog.get_by_label("Mass in all, such as 400 kg").fill("400 kg")
        dialog.get_by_role("button", name="Keep").click()
        expect(page.get_by_role("row", name=re.compile("Weights W-20"))).to_be_visible()

    def test_every_job_that_used_one_is_found(self) -> None:
        self.closed(runs(IN_ORDER))
        page = self.page
        page.goto("/references")
        page.get_by_role("link", name="Jobs with Weighbridge").click()
        expect(page.locator("tbody tr").first).to_contain_text("Conveyor")
        expect(page.locator("tbody tr").first).to_contain_text("Material test")


class PeopleAndLimits(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.signed_in(self.new_context(), self.plant.lead)
        # What comes later moves what stands below it: nothing is pressed before all is there.
        self.page.goto("/people", wait_until="networkidle")

    def test_someone_is_invited_changed_and_taken_out(self) -> None:
        page = self.page
        page.get_by_role("button", name="Invite someone").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Address that they sign in with").fill("ada at gannet")
        dialog.get_by_label("Name", exact=True).fill("Ada Quill")
        dialog.get_by_role("button", name="Invite").click()
        expect(dialog.get_by_role("alert").first).to_be_visible()
        expect(dialog.get_by_label("Name", exact=True)).to_have_value("Ada Quill")
        dialog.get_by_label("Address that they sign in with").fill("ada@gannet.example")
        dialog.get_by_label("Role").select_option(label="reader: the log of the sites given")
        dialog.get_by_label(self.plant.site.name).check()
        dialog.get_by_role("button", name="Invite").click()
        expect(dialog).to_contain_text("/invited/")
        dialog.get_by_role("button", name="It is handed over").click()
        expect(dialog).to_be_hidden()
        expect(page.get_by_role("row", name=re.compile("ada@gannet.example"))).to_contain_text("invited, until")
        self.assertEqual(Invitation.objects.get().sites.count(), 1)
        page.get_by_role("button", name="Change ada@gannet.example").click()
        page.get_by_role("button", name="Take the invitation back").click()
        expect(page.get_by_role("row", name=re.compile("ada@gannet.example"))).to_have_count(0)
        name = str(self.plant.technician)
        page.get_by_role("button", name=f"Change {name}").click()
        page.get_by_role("dialog").get_by_label("Role").select_option(label="lead: also limits, references, people")
        page.get_by_role("dialog").get_by_role("button", name="Keep").click()
        expect(page.get_by_role("row", name=re.compile(name))).to_contain_text("lead: also")
        page.get_by_role("button", name=f"Change {name}").click()
        page.get_by_role("button", name="Take out of the organisation").click()
        expect(page.get_by_role("row", name=re.compile(name))).to_have_count(0)

    def test_limits_of_two_parts_are_changed_and_a_slip_is_said(self) -> None:
        page = self.page
        page.get_by_role("button", name=re.compile("^Change .*belt", re.I)).first.click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Left alone within").fill("a lot")
        dialog.get_by_role("button", name="Keep").click()
        expect(dialog.get_by_role("alert")).to_be_visible()
        dialog.get_by_label("Left alone within").fill("1 % or 160 kg, the smaller")
        dialog.get_by_role("button", name="Keep").click()
        expect(dialog).to_be_hidden()
        expect(page.get_by_text("± 1 % or 160 kg, whichever is smaller")).to_be_visible()

    def test_a_kind_of_instrument_gets_settings_of_its_own(self) -> None:
        page = self.page
        page.get_by_role("button", name="Add a kind").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Name, in your own words").fill("Grey box by the hopper")
        dialog.get_by_label("Setting 1", exact=True).fill("filter word")
        dialog.get_by_label("Digits of setting 1").fill("unit | filter")
        expect(dialog.get_by_label("Setting 2", exact=True)).to_be_visible()
        dialog.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("filter word (unit | filter)")).to_be_visible()


class SumsAndSystems(BrowserTestCase):
    def test_a_sum_says_what_it_cannot_read_and_keeps_what_was_typed(self) -> None:
        page = self.page
        page.goto("/sums?sum=weight-rate")
        mass = page.get_by_role("textbox", name="Test mass, with its carrier")
        mass.fill("sixty")
        expect(page.get_by_text("expected a mass")).to_be_visible()
        page.reload()
        expect(mass).to_have_value("sixty")

    def test_every_sum_is_opened_and_asks_for_its_figures(self) -> None:
        page = self.page
        page.goto("/sums")
        buttons = page.get_by_role("navigation", name="Sums").get_by_role("button")
        expect(buttons.first).to_be_visible()
        self.assertGreater(buttons.count(), 6)
        for place in range(buttons.count()):
            buttons.nth(place).click()
            title = buttons.nth(place).inner_text()
            expect(page.get_by_role("heading", name=title, exact=True)).to_be_visible()
            self.assertGreater(page.locator(".fields input").count(), 0, title)

    def test_a_system_is_added_with_the_kinds_that_there_are(self) -> None:
        page = self.page
        page.goto("/systems")
        page.get_by_role("button", name="Add a system").click()
        dialog = page.get_by_role("dialog")
        kinds = dialog.get_by_label("Kind").locator("option")
        expect(kinds.filter(has_text="platform scale")).to_have_count(1)
        expect(kinds.filter(has_text="load cart or trailer")).to_have_count(1)
        dialog.get_by_label("Name, as it is called on site").fill("Creel platform")
        dialog.get_by_label("Kind").select_option(label="platform scale")
        dialog.get_by_role("button", name="Add it").click()
        expect(page.get_by_role("heading", name=re.compile("Creel platform"))).to_be_visible()
        expect(page.get_by_text("Not tested yet").first).to_be_visible()

    def test_systems_are_found_by_any_of_their_words(self) -> None:
        self.plant.add_system("Creel platform", "platform", "vessel", {}, material="creels")
        page = self.page
        page.goto("/systems")
        expect(page.locator("tbody tr")).to_have_count(2)
        page.get_by_label("Find a system").fill("creels PLATFORM")
        expect(page.locator("tbody tr")).to_have_count(1)
        page.get_by_label("Find a system").fill("nothing like it")
        expect(page.get_by_text("No system of that name.")).to_be_visible()

    def test_a_practice_begins_with_the_machine_running_beside_the_sheet(self) -> None:
        page = self.page
        page.goto("/practice")
        page.get_by_role("group", name="Practise on a belt scale").get_by_role("button", name="easy").click()
        expect(page.locator(".practice-flag")).to_be_visible()
        expect(page.get_by_role("navigation", name="Run sheet")).to_be_visible()


class Visits(BrowserTestCase):
    """The factor through a visit, as it is seen on the screen."""

    def test_each_part_starts_from_the_factor_in_force(self) -> None:
        system = self.plant.add_system(
            "Stockpile conveyor",
            "belt",
            "belt-fine",
            {"idler_spacing": "1.2 m", "weigh_idlers": 1, "angle": "0 deg", "belt_speed": "2 m/s", "rated_rate": "360 t/h", "revolution_time": "30 s"},
        )  # fmt: skip
        system.channels.update(factor="0.9786")
        job = self.plant.job("visit", system)
        page = self.page
        zero = {"zero/idle.a.value": "0.5 kg", "zero/idle.b.value": "0.6 kg"}
        weights = {"weight_kind": "hung", "test_mass": "60 kg", "revolutions": "4", "indicated_rate": "367.2 t/h"}
        enter(job, self.plant.technician, zero | {f"weights/inputs.{key}": text for key, text in weights.items()})
        page.goto(f"/jobs/{job.id}")
        self.go("Adjust")
        expect(page.locator(".call .key-in strong")).to_have_text("0.9594")
        page.locator(".call").get_by_label("Instrument now shows").fill("0.9594")
        page.keyboard.press("Enter")
        expect(page.locator(".call")).to_contain_text("Not valid.")
        self.go("As found")
        page.get_by_label("How it was weighed").select_option("net")
        for shows in ("20.2", "20.21", "20.19"):
            self.type_run("20.00", shows)
        expect(page.locator(".call .key-in strong")).to_have_text("0.9499")
        expect(page.locator(".call .key-in")).to_contain_text("was 0.9594, in force since the weights")
        page.locator(".call").get_by_label("Instrument now shows").fill("0.9499")
        page.keyboard.press("Enter")
        expect(page.get_by_text(re.compile(r"^\d+ entries kept$"))).to_be_visible()
        file = page.request.get(f"/api/jobs/{job.id}/job.json").json()
        self.assertEqual(file["inputs"]["factor"], 0.9594)
