"""The round as its page shows it: what is urgent, what is under way, what to bring, and finding a machine by a word."""

import datetime
import re

from playwright.sync_api import Locator, expect

from beacon.bench.models import Job
from beacon.plant.models import Event, Reference, System
from tests.browser.base import BrowserTestCase
from tests.server.plant import AGREEING, enter, runs, today


class Round(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.silo = self.plant.add_system("Silo north", "vessel", "vessel", {"capacity": "24 t"}, material="flake")
        self.lorry = self.plant.add_system("Lorry", "axle", "axle", {})

    def state(self, system: System, **changes: object) -> None:
        System.objects.filter(pk=system.pk).update(**changes)

    def stop(self, name: str) -> Locator:
        return self.page.locator(".stop-row").filter(has_text=name)

    def open(self) -> None:
        self.page.goto("/")
        expect(self.page.locator(".stop-row")).to_have_count(3)

    def test_what_is_late_or_at_fault_is_urgent_and_what_is_well_stands_last(self) -> None:
        self.state(self.plant.system, state="in-order", due=today() + datetime.timedelta(days=60))
        self.state(self.silo, state="in-order", due=today() - datetime.timedelta(days=4))
        self.state(self.lorry, state="fault", due=today() + datetime.timedelta(days=60))
        self.open()
        expect(self.stop("Silo north").locator(".urgent")).to_contain_text("overdue")
        expect(self.stop("Lorry").locator(".urgent")).to_contain_text("fault")
        expect(self.stop("Conveyor").locator(".urgent")).to_have_count(0)
        expect(self.page.locator(".stop-row").last).to_contain_text("Conveyor")
        expect(self.page.get_by_role("heading", level=1)).to_contain_text("2 stops at 1 site")

    def test_a_job_under_way_is_carried_on_where_it_was_left(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        self.open()
        stop = self.stop("Conveyor")
        expect(stop).to_contain_text("Material test under way")
        expect(stop).to_contain_text("Look first")
        stop.get_by_role("link", name="Carry on").click()
        expect(self.page).to_have_url(re.compile(f"/jobs/{job.id}"))
        expect(self.page.locator(".call .verdict")).to_contain_text("Look first")

    def test_a_visit_is_begun_from_its_stop(self) -> None:
        self.open()
        self.stop("Lorry").get_by_role("button", name="Begin").click()
        expect(self.page.get_by_role("complementary", name="The call")).to_contain_text("Do the axles read")
        self.assertEqual(Job.objects.get().channel.system, self.lorry)

    def test_what_was_changed_on_a_machine_says_what_to_do_again(self) -> None:
        self.state(self.lorry, state="stale")
        Event.objects.create(
            system=self.lorry,
            kind="suspension",
            note="air bags renewed",
            at=datetime.datetime.now(datetime.UTC),
            who=self.plant.lead,
            stale=["axle-two-load"],
        )
        self.open()
        expect(self.stop("Lorry").locator(".stop-why")).to_contain_text("two loads to do again")
        self.page.get_by_role("link", name="Lorry").click()
        expect(self.page.get_by_text("To do again: two loads.")).to_be_visible()

    def test_a_slash_finds_and_words_of_name_kind_material_and_site_all_count(self) -> None:
        self.open()
        find = self.page.get_by_label("Find a system")
        self.page.keyboard.press("/")
        expect(find).to_be_focused()
        expect(find).to_have_value("")
        for words, name in (("flake", "Silo north"), ("AXLE", "Lorry"), ("north silo", "Silo north")):
            find.fill(words)
            expect(self.page.locator(".stop-row")).to_have_count(1)
            expect(self.stop(name)).to_be_visible()
        find.fill("zeppelin")
        expect(self.page.get_by_text("No system of that name.")).to_be_visible()
        # In the field itself a slash is a letter like any other.
        find.fill("")
        find.press("/")
        expect(find).to_have_value("/")

    def test_what_to_bring_stands_once_for_all_that_need_it(self) -> None:
        self.state(self.plant.system, state="not-tested")
        self.open()
        beside = self.page.get_by_role("complementary", name="To bring and to arrange")
        bring = beside.locator("li").filter(has_text="Weighbridge").first
        expect(bring).to_contain_text("Conveyor: at least 9.8 t a run")
        expect(bring.locator("small:not(.wrong-text)")).to_have_count(3)

    def test_a_reference_that_runs_out_is_spoken_of_a_month_before(self) -> None:
        for name, days in (("Far bridge", 200), ("Near bridge", 12), ("Late bridge", -3)):
            due = today() + datetime.timedelta(days=days)
            Reference.objects.create(organisation=self.plant.organisation, name=name, division="20 kg", due=due)
        self.open()
        beside = self.page.get_by_role("complementary", name="To bring and to arrange")
        expect(beside).to_contain_text("due in 12 days")
        expect(beside.locator(".urgent")).to_contain_text("3 days overdue")
        expect(beside).not_to_contain_text("Far bridge")

    def test_a_reader_begins_with_the_log_and_a_machine_is_not_theirs_to_see(self) -> None:
        page = self.signed_in(self.new_context(), self.plant.people["reader"])
        page.goto("/")
        expect(page.get_by_text("Nothing here yet: a job stands here once it is closed.")).to_be_visible()
        expect(page.get_by_role("link", name="Systems")).to_have_count(0)
        page.goto(f"/systems/{self.plant.system.id}")
        expect(page.get_by_role("button", name="Begin a visit")).to_have_count(0)
        expect(page.get_by_role("heading", name="Conveyor")).to_have_count(0)


class OnAPhone(BrowserTestCase):
    size = {"width": 390, "height": 844}

    def test_a_stop_fits_and_its_button_is_big_enough_for_a_glove(self) -> None:
        self.plant.add_system("Second conveyor with a long name beside the drying house", "belt", "belt-fine", {})
        page = self.page
        page.goto("/")
        expect(page.locator(".stop-row")).to_have_count(2)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        for box in page.get_by_role("button", name="Begin").all():
            size = box.bounding_box()
            assert size
            self.assertGreaterEqual(size["height"], 44)
        self.assert_accessible()
