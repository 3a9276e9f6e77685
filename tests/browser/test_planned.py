"""Round, month, intervals, references, log and record as their pages show what is planned and proven."""

import datetime
import re

from playwright.sync_api import expect

from beacon.bench.models import HeaderName
from beacon.people.models import Membership, Role
from beacon.planner.models import Interval, Planned, RoundOrder, ZeroCheck
from beacon.plant.models import CheckMass, Reference, Site, System
from beacon.records.models import Record
from tests.browser.test_rooms_of_the_page import WithHistory
from tests.server.plant import enter, runs, today
from tests.server.test_closing import IN_ORDER


class TheRound(WithHistory):
    def test_a_zero_is_looked_at_in_three_keystrokes(self) -> None:
        page = self.page
        other = self.plant.add_system("Silo north", "vessel", "vessel", {"capacity": "24 t"})
        for system in (self.plant.system, other):
            Interval.objects.create(system=system, purpose="zero", kind="days", every=1, band="2 kg")
        page.goto("/")
        expect(page.locator(".zero-row")).to_have_count(2)
        page.locator("h1").click()
        for key in ("z", "1", "Enter"):
            page.keyboard.press(key)
        expect(page.locator(".zero-row").filter(has_text="1 kg, holds")).to_have_count(1)
        # The next one is in hand already.
        page.keyboard.type("much")
        page.keyboard.press("Enter")
        expect(page.locator(".zero-row [role=alert]")).to_contain_text("expected a mass")
        page.locator(".zero-row input").fill("3,5")
        page.keyboard.press("Enter")
        expect(page.locator(".zero-row").filter(has_text="3.5 kg, off")).to_have_count(1)
        expect(page.locator(".zero-list h2")).to_contain_text("all looked at")
        self.assertEqual({check.holds for check in ZeroCheck.objects.all()}, {True, False})
        expect(page.locator(".stop-row .urgent").filter(has_text="Zero is off")).to_have_count(1)
        self.assert_accessible()

    def test_sites_are_put_in_the_order_of_driving_by_arrow_and_by_hand(self) -> None:
        page = self.page
        for place, name in enumerate(("Loft", "Shed"), 1):
            site = Site.objects.create(organisation=self.plant.organisation, name=name, time_zone="UTC", place=place)
            System.objects.filter(pk=self.plant.add_system(f"In the {name}", "belt", "belt-fine", {}).pk).update(
                site=site
            )
        page.goto("/")
        sites = page.locator(".stop h2")
        expect(sites).to_have_text([re.compile("yard"), re.compile("Loft"), re.compile("Shed")])
        page.get_by_role("button", name="Drive to Shed earlier").click()
        expect(sites).to_have_text([re.compile("yard"), re.compile("Shed"), re.compile("Loft")])
        sites.nth(2).drag_to(sites.nth(0))
        expect(sites).to_have_text([re.compile("Loft"), re.compile("yard"), re.compile("Shed")])
        page.wait_for_load_state("networkidle")
        self.assertEqual(len(RoundOrder.objects.get().sites), 3)
        page.reload()
        expect(sites.first).to_contain_text("Loft")

    def test_it_says_why_what_was_meant_to_be_brought_does_not_do(self) -> None:
        Reference.objects.filter(pk=self.plant.bridge.pk).update(due=today() - datetime.timedelta(days=1))
        Reference.objects.create(organisation=self.plant.organisation, name="Platform", division="1 kg", range="3 t")
        self.page.goto("/")
        beside = self.page.get_by_role("complementary", name="To bring and to arrange")
        expect(beside).to_contain_text("Conveyor: out of date; Platform would do")
        expect(beside).to_contain_text("A second pair of hands")
        expect(beside).to_contain_text("t in all")


class TheMonth(WithHistory):
    def test_it_shows_what_is_due_and_planned_and_leads_there(self) -> None:
        self.closed(runs(IN_ORDER), 170)
        page = self.page
        # It stays this day for the page, whenever this is run.
        page.clock.set_fixed_time(datetime.datetime.combine(today(), datetime.time(12)))
        Planned.objects.create(system=self.plant.system, day=today(), person=self.plant.lead, note="lorry at nine")
        page.goto("/")
        page.get_by_role("link", name="The month").click()
        expect(page.locator("td.today")).to_contain_text("Lead: lorry at nine")
        day = today() + datetime.timedelta(days=10)
        if day.month != today().month:
            page.get_by_role("button", name="After").click()
        expect(page.locator("table .month-item.due").filter(has_text="Conveyor")).to_have_count(1)
        self.assert_accessible()
        page.locator("table .month-item.due").first.click()
        expect(page.get_by_role("heading", name="Conveyor")).to_be_visible()

    def test_a_feed_is_made_shown_once_and_revoked(self) -> None:
        page = self.page
        page.goto("/calendar")
        page.wait_for_load_state("networkidle")
        page.get_by_role("button", name="Make a link").click()
        link = page.locator("code").inner_text()
        path = "/api" + link.partition("/api")[2]
        self.assertIn("BEGIN:VCALENDAR", page.request.get(path).text())
        page.reload()
        expect(page.get_by_text("last asked for")).to_be_visible()
        expect(page.locator("code")).to_have_count(0)
        page.get_by_role("button", name="Revoke").click()
        expect(page.get_by_role("button", name="Revoke")).to_have_count(0)
        self.assertEqual(page.request.get(path).status, 410)


class OneSystem(WithHistory):
    def test_its_intervals_are_changed_with_why_and_a_visit_is_planned(self) -> None:
        self.closed(runs(IN_ORDER), 20)
        page = self.page
        page.goto(f"/systems/{self.plant.system.id}")
        page.get_by_role("button", name="Change its intervals").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Running hours").fill("0")
        dialog.get_by_label("Look at it every so many days").fill("1")
        dialog.get_by_label("It holds within").fill("2 kg")
        dialog.get_by_role("button", name="Keep").click()
        expect(dialog.get_by_role("alert").first).to_be_visible()
        dialog.get_by_label("Running hours").fill("400")
        dialog.get_by_label("Why it is changed").fill("the zero creeps")
        dialog.get_by_role("button", name="Keep").click()
        expect(page.locator("dd").filter(has_text="every 400 h: read the counter")).to_be_visible()
        expect(page.get_by_text("the zero creeps").first).to_be_visible()
        page.get_by_role("button", name="Read a counter").click()
        dialog.get_by_label("It shows, in h").fill("1200")
        dialog.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("Last read: 1200 h")).to_be_visible()
        page.get_by_role("button", name="Read a counter").click()
        dialog.get_by_label("It shows, in h").fill("12")
        dialog.get_by_role("button", name="Keep").click()
        expect(dialog).to_contain_text("12 is less")
        dialog.get_by_label("The counter was replaced, or began anew").check()
        dialog.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("Last read: 12 h")).to_be_visible()
        page.get_by_role("button", name="Plan a visit").click()
        dialog.get_by_label("Day").fill(str(today() + datetime.timedelta(days=4)))
        dialog.get_by_label("Who goes").select_option(label=str(self.plant.technician))
        dialog.get_by_role("button", name="Plan it").click()
        expect(page.locator("dd").filter(has_text=str(self.plant.technician))).to_be_visible()
        self.assertEqual(Planned.objects.get().person, self.plant.technician)


class OneReference(WithHistory):
    def test_a_set_is_named_weight_by_weight_and_those_used_are_chosen_on_the_bench(self) -> None:
        page = self.signed_in(self.new_context(), self.plant.lead)
        page.goto("/references")
        page.get_by_role("button", name="Add a reference").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Kind").select_option("weights")
        dialog.get_by_label("Name").fill("Set W")
        for number, (label, mass) in enumerate((("A", "20 kg"), ("B", "20 kg"), ("C", "ten")), 1):
            dialog.get_by_role("button", name=re.compile("Another weight|It is a set")).click()
            dialog.get_by_label(f"Marked, weight {number}").fill(label)
            dialog.get_by_label(f"Mass, weight {number}").fill(mass)
        dialog.get_by_role("button", name="Keep").click()
        expect(dialog.get_by_role("alert").filter(has_text="expected a mass")).to_be_visible()
        dialog.get_by_label("Mass, weight 3").fill("10 kg")
        dialog.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("50 kg").first).to_be_visible()
        job = self.plant.job()
        enter(job, self.plant.technician, {"references.r1.id": str(Reference.objects.get(name="Set W").id)})
        self.page.goto(f"/jobs/{job.id}")
        self.go("How much to weigh")
        used = self.page.get_by_role("group", name="Which of the set")
        for label in ("A", "C"):
            used.get_by_role("button", name=re.compile(f"^{label} ")).click()
        expect(used.locator("[aria-pressed=true]")).to_have_count(2)
        expect(self.page.locator(".kept")).not_to_contain_text("on the way")
        self.assertEqual(job.trail.filter(path="references.r1.used").last().text, "A, C")

    def test_its_check_mass_is_looked_at_and_drawn_and_its_jobs_are_listed(self) -> None:
        self.closed(runs(IN_ORDER), 3)
        for day, off in ((3, 0.0), (2, 20.0), (1, 60.0)):
            CheckMass.objects.create(
                reference=self.plant.bridge, mass="500 kg", shown=f"{500 + off} kg", off_kg=off, holds=off <= 20,
                at=datetime.datetime.now(datetime.UTC) - datetime.timedelta(days=day), who=self.plant.lead,
            )  # fmt: skip
        page = self.page
        page.goto("/references")
        expect(page.get_by_text("its check mass is off")).to_be_visible()
        page.get_by_role("link", name="Weighbridge", exact=True).click()
        chart = page.locator(".check-chart")
        expect(chart).to_have_attribute("aria-label", re.compile("3 looks, 1 of them off"))
        expect(page.locator("table").first).to_contain_text("No. 1")
        page.get_by_role("button", name="Look at it now").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_label("What lies on it")).to_have_value("500 kg")
        dialog.get_by_label("What it shows").fill("500")
        dialog.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("500 kg with 500 kg on it, holds")).to_be_visible()
        self.assert_accessible()


class TheLog(WithHistory):
    def test_it_is_asked_by_more_than_words(self) -> None:
        self.closed(runs(IN_ORDER), 40)
        self.closed(runs(IN_ORDER), 2)
        page = self.page
        page.goto("/log")
        expect(page.locator("tbody tr")).to_have_count(2)
        page.get_by_role("button", name="More to ask for").click()
        page.get_by_label("From").fill(str(today() - datetime.timedelta(days=10)))
        expect(page.locator("tbody tr")).to_have_count(1)
        self.assertIn("since=", page.url)
        self.assertIn("since=", page.get_by_role("link", name="CSV").get_attribute("href") or "")
        page.get_by_label("Call as left").select_option("find-fault")
        expect(page.get_by_text("Nothing answers to that.")).to_be_visible()
        self.assert_accessible()
        page.get_by_role("button", name="Show all").click()
        expect(page.locator("tbody tr")).to_have_count(2)

    def test_a_record_is_put_right_by_a_lead_and_says_so(self) -> None:
        record = self.closed(runs(IN_ORDER), 5)
        page = self.signed_in(self.new_context(), self.plant.lead)
        page.goto(f"/records/{record.id}")
        page.get_by_role("button", name="Something in it is wrong: put it right").click()
        page.get_by_role("dialog").get_by_label("What was wrong").fill("the tickets were exchanged")
        page.get_by_role("dialog").get_by_role("button", name="Open it again").click()
        expect(page).to_have_url(re.compile("/jobs/"))
        page.locator(".sheet-step", has_text="Close").click()
        page.get_by_label("Your name, to sign").fill("Corin Hale")
        page.get_by_role("button", name="Close and seal").click()
        page.get_by_role("link", name="To its record and certificate").click()
        expect(page.get_by_text("the tickets were exchanged")).to_be_visible()
        page.get_by_role("link", name="record 1").click()
        expect(page.get_by_role("alert")).to_contain_text("Do not rely on this one")
        self.assertEqual(Record.objects.get(number=2).supersedes, record)

    def test_a_code_that_carries_another_seal_is_noticed(self) -> None:
        record = self.closed(runs(IN_ORDER), 5)
        self.page.goto(f"/records/{record.id}#{record.sha256}")
        expect(self.page.get_by_text("The record fits its seal")).to_be_visible()
        expect(self.page.get_by_text("not the record that the certificate was made from")).to_have_count(0)
        self.page.goto("about:blank")
        self.page.goto(f"/records/{record.id}#{'0' * 64}")
        expect(self.page.get_by_text("not the record that the certificate was made from")).to_be_visible()

    def test_a_lead_walks_the_chain(self) -> None:
        self.closed(runs(IN_ORDER), 5)
        page = self.signed_in(self.new_context(), self.plant.lead)
        page.goto("/log")
        page.get_by_role("link", name="Seals").click()
        page.get_by_role("button", name="Verify it now").click()
        expect(page.get_by_role("status")).to_contain_text("Every link fits")
        self.assert_accessible(page)


class Headers(WithHistory):
    def test_unknown_headers_are_asked_about_once(self) -> None:
        page = self.open_bench()
        self.go("As found")
        text = b"Brutto (t);Leer (t);Anzeige (t);Fahrer\n34,10;12,76;21,66;Ines\n"
        table = {"name": "loads.csv", "mimeType": "text/csv", "buffer": text}
        page.locator(".bring-rows input[type=file]").set_input_files([table])  # type: ignore[list-item]
        asks = page.get_by_role("group", name="What the headers mean")
        for header, column in (
            ("brutto", "Gross"),
            ("leer", "Tare"),
            ("anzeige", "Indicated"),
            ("fahrer", "leave this column out"),
        ):
            asks.locator(".header-row", has_text=header).get_by_role("combobox").select_option(label=column)
        asks.get_by_role("button", name="Bring it in").click()
        expect(page.locator(".tally-run")).to_have_count(1)
        self.assertEqual(HeaderName.objects.count(), 4)
        page.locator(".bring-rows input[type=file]").set_input_files([table])  # type: ignore[list-item]
        expect(page.locator(".tally-run")).to_have_count(2)


class Someone(WithHistory):
    def test_in_two_organisations_switches_between_them(self) -> None:
        from tests.server.plant import Plant

        other = Plant("Far Skerry")
        Membership.objects.create(person=self.plant.technician, organisation=other.organisation, role=Role.TECHNICIAN)
        page = self.page
        page.goto("/")
        page.locator(".who-menu").get_by_role("button").click()
        page.get_by_role("button", name="Gannet Ness").click()
        expect(page.locator(".stop h2")).to_contain_text("Gannet Ness yard")
        page.locator(".who-menu").get_by_role("button").click()
        page.get_by_role("button", name="Far Skerry").click()
        expect(page.locator(".stop h2")).to_contain_text("Far Skerry yard")

    def test_signs_another_device_out(self) -> None:
        there = self.sign_in(self.new_page(self.new_context()), self.plant.technician)
        page = self.sign_in(self.new_page(self.new_context()), self.plant.technician)
        page.goto("/people")
        expect(page.get_by_text("this one")).to_be_visible()
        page.get_by_role("button", name=re.compile("^Sign out")).last.click()
        expect(page.get_by_role("button", name=re.compile("^Sign out Linux"))).to_have_count(0)
        self.assertEqual(there.request.get("/api/me").status, 401)

    def test_who_only_reads_sees_due_dates_and_nothing_of_the_round(self) -> None:
        self.closed(runs(IN_ORDER), 5)
        page = self.signed_in(self.new_context(), self.plant.people[Role.READER])
        page.goto("/")
        page.get_by_role("link", name="Your machines").click()
        expect(page.locator("tbody tr")).to_contain_text("Conveyor")
        self.assert_accessible(page)
