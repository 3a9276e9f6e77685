"""Scales that ride on vehicles, at the screen: half entered, timed lifts, passes that add up, the load log."""

import re

from playwright.sync_api import APIResponse, Page, Route, expect

from beacon.bench.models import Entry, Job
from beacon.loads.models import Load
from beacon.plant.models import System
from tests.browser.base import BrowserTestCase


class OnWheels(BrowserTestCase):
    def alone(self, system: System, method: str) -> Page:
        self.page.goto(f"/systems/{system.id}")
        self.page.get_by_role("button", name="One method alone").click()
        self.page.get_by_role("button", name=re.compile(f"^{method}")).click()
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()
        return self.page

    def test_a_lorry_half_entered_is_not_valid_wherever_it_stands(self) -> None:
        lorry = self.plant.add_system("Lorry", "axle", "axle", {"ticket_division": "20 kg"})
        page = self.alone(lorry, "Two loads")
        page.get_by_role("navigation", name="Run sheet").get_by_role("button", name=re.compile(r"Empty")).last.click()
        for name, kg in (("steer", "6260"), ("drive", "5440")):
            self.in_dock(name, f"{kg} kg", f"{kg} kg")
        expect(page.locator(".call .verdict")).to_contain_text("Half entered: weigh it heavy")
        expect(page.locator(".call")).to_contain_text("Not valid")
        expect(page.get_by_role("img", name=re.compile("Not valid until both loads are in"))).to_be_visible()
        self.assert_accessible()
        for address in ("/", f"/systems/{lorry.id}"):
            page.goto(address)
            expect(page.get_by_text(re.compile("not valid", re.IGNORECASE)).first).to_be_visible()

    def test_a_lift_is_timed_into_the_row_in_hand(self) -> None:
        loader = self.plant.add_system("Loader", "lift-arm", "lift-arm", {})
        page = self.alone(loader, "Lifts over speed")
        page.get_by_role("navigation", name="Run sheet").get_by_role("button", name=re.compile(r"Lifts")).last.click()
        dock = page.locator(".dock")
        dock.get_by_role("group", name="Load").get_by_role("button", name="empty").click()
        dock.get_by_role("group", name="Speed").get_by_role("button", name="slow").click()
        page.get_by_role("button", name="Start: lift").click()
        page.get_by_role("button", name="Stop: lift").click()
        page.get_by_role("textbox", name="Raw figure").fill("1004")
        page.get_by_role("textbox", name="Raw figure").press("Enter")
        expect(page.locator(".list-table tbody tr")).to_have_count(1)
        expect(page.get_by_role("table", name="Lifts that are in, of those that are wanted")).to_contain_text("1 of 1")
        job = Job.objects.get(channel__system=loader)
        paths = {entry.path.split(".")[-1] for entry in Entry.objects.filter(job=job, path__startswith="lifts.")}
        self.assertEqual(paths, {"load", "speed", "time", "raw"})
        self.assertEqual(
            len({e.path.split(".")[1] for e in Entry.objects.filter(job=job, path__startswith="lifts.")}), 1
        )
        self.assert_accessible()

    def test_seating_lifts_are_counted_by_tap_and_each_is_kept_at_once(self) -> None:
        lift = self.plant.add_system("Creel lift", "lift", "lift-arm", {})
        page = self.alone(lift, "Counted lifts")
        page.get_by_role("navigation", name="Run sheet").get_by_role("button", name=re.compile("Seat it")).click()
        for _ in range(11):
            page.get_by_role("button", name="Count a lift").click()
        page.get_by_role("button", name="One less").click()
        expect(page.get_by_role("textbox", name="Seating lifts made")).to_have_value("10")
        expect(page.locator(".call")).not_to_contain_text("seating lifts are made")
        expect(page.locator(".kept")).not_to_contain_text("on the way")
        self.assertEqual(Entry.objects.filter(path="inputs.seating_lifts", source="captured").count(), 12)
        page.reload()
        expect(page.get_by_role("textbox", name="Seating lifts made")).to_have_value("10")
        self.assert_accessible()

    def test_a_load_in_passes_is_their_sum(self) -> None:
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {})
        page = self.alone(cart, "Loads against tickets")
        self.go("As found")
        page.get_by_label("How it was weighed").select_option("net")
        page.get_by_label("Display read as").select_option("passes that add up")
        page.get_by_role("textbox", name="Net weighed").fill("9 t")
        page.get_by_role("textbox", name="Net weighed").press("Enter")
        for number, shows in ((1, "3.01 t"), (2, "3.00 t"), (3, "3.02 t")):
            page.get_by_role("textbox", name=f"Pass {number}").fill(shows)
            page.get_by_role("textbox", name=f"Pass {number}").press("Enter")
        expect(page.locator(".tally-run .reading").nth(1)).to_contain_text("9.03")
        self.assert_accessible()

    def test_totals_that_were_asked_for_before_a_load_was_stored_do_not_stand(self) -> None:
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {"indicated_division": "0.02 t"})
        page = self.page
        page.goto(f"/systems/{cart.id}")
        page.get_by_role("link", name="Load log").click()
        expect(page.get_by_text("Nothing stored yet.")).to_be_visible()
        under_way: list[tuple[Route, APIResponse]] = []
        stored = False

        def late(route: Route) -> None:
            if stored:
                route.continue_()
            else:
                under_way.append((route, route.fetch()))

        page.route("**/loads/totals**", late)
        page.get_by_role("button", name="Begin load 1").click()
        expect(page.locator(".load-table tbody tr")).to_have_count(1)
        page.get_by_label("Shown").fill("7.42")
        # Asked for once before the load was there, and once with it: both while it was not stored.
        while len(under_way) < 2:
            page.wait_for_timeout(20)
        stored = True
        page.get_by_role("button", name="Standing still: store it").click()
        expect(page.get_by_role("button", name="Begin load 2")).to_be_visible()
        for route, before in under_way:
            self.assertEqual(before.json(), [])
            route.fulfill(response=before)
        expect(page.locator(".load-totals")).to_contain_text("7.42 t")

    def test_loads_are_logged_and_compared_once_their_tickets_come(self) -> None:
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {"indicated_division": "0.02 t"})
        page = self.page
        page.goto(f"/systems/{cart.id}")
        page.get_by_role("link", name="Load log").click()
        page.get_by_label("Where to").fill("Drying House")
        for number, shows in ((1, "7,42"), (2, "5.18"), (3, "8.06")):
            page.get_by_role("button", name=f"Begin load {number}").click()
            page.get_by_label("Shown").fill(shows)
            if number == 2:
                page.get_by_label("It moved before it was stored").check()
            page.get_by_role("button", name="Standing still: store it").click()
            expect(page.get_by_role("button", name=f"Begin load {number + 1}")).to_be_visible()
        expect(page.locator(".load-table tbody tr")).to_have_count(3)
        expect(page.locator(".load-table")).to_contain_text("moved first")
        expect(page.locator(".load-totals")).to_contain_text("20.66 t")
        page.get_by_label("Ticket of load 1").fill("7 m")
        page.get_by_label("Ticket of load 1").press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("7 m")
        for number, ticket in ((1, "7.40"), (2, "5.16"), (3, "8.04")):
            page.get_by_label(f"Ticket of load {number}").fill(ticket)
            page.get_by_label(f"Ticket of load {number}").press("Enter")
            expect(page.get_by_role("button", name=re.compile(rf"Compare {number} load"))).to_be_visible()
        self.assert_accessible()
        page.get_by_role("button", name="Compare 3 loads with their tickets").click()
        expect(page.get_by_role("complementary", name="The call")).to_be_visible()
        self.go("As found")
        expect(page.locator(".tally-run")).to_have_count(3)
        self.assertEqual(Load.objects.exclude(job=None).count(), 3)
