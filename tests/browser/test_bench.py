"""The bench as a technician uses it: keys, call, undo, lost connections, two windows, small screens."""

import re

from playwright.sync_api import expect

from beacon.bench.models import Entry, Job
from beacon.records.models import Record
from tests.browser.base import BrowserTestCase


class WholeTest(BrowserTestCase):
    def test_a_full_test_from_the_round_to_the_record(self) -> None:
        page = self.page
        page.goto("/")
        page.get_by_role("button", name="Begin").click()
        expect(page.get_by_text("Not ready yet").first).to_be_visible()
        for box in page.locator(".look > div:first-child input").all():
            box.press("Enter")
        page.get_by_label("I have seen to it").check()
        self.go("Read off")
        page.locator("[data-path='inputs.revolution_time']").fill("30 s")
        self.go("Empty readings")
        self.in_dock("0.4 kg")
        self.in_dock("0.5 kg")
        expect(page.locator(".call .verdict")).to_contain_text("The zero holds")
        self.go("As found")
        self.type_run("34.10", "12.76", "21,66")
        self.type_run("32.61", "12.74", "20.13")
        expect(page.locator(".verdict").first).to_contain_text("Keep testing: one more run")
        self.type_run("33.35", "12.74", "20.91")
        expect(page.locator(".call .verdict")).to_contain_text("first")
        self.make_looks()
        expect(page.locator(".call .verdict")).to_contain_text("Adjust, down")
        expect(page.locator(".call .key-in strong")).to_have_text("1.1260")
        page.locator(".call").get_by_label("Instrument now shows").fill("11.260")
        page.keyboard.press("Enter")
        expect(page.locator(".call")).to_contain_text("has the decimal point moved?")
        page.locator(".call").get_by_label("Instrument now shows").fill("1.1260")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Go on to as left").click()
        self.type_run("34.12", "12.76", "21.36")
        self.type_run("32.60", "12.74", "19.87")
        self.type_run("33.36", "12.74", "20.62")
        expect(page.locator(".call .verdict")).to_contain_text("Leave it alone")
        page.get_by_role("button", name="Write it up").click()
        page.get_by_label("Your name, to sign").fill("Ines Marrow")
        page.get_by_role("button", name="Close and seal").click()
        expect(page.locator(".close-job")).to_contain_text("The span was changed: take the zero again")
        self.go("Empty readings", number=1)
        self.in_dock("0.3 kg")
        self.in_dock("0.4 kg")
        expect(page.locator(".call .verdict")).to_contain_text("The zero holds")
        self.go("Close")
        expect(page.locator(".close-job")).not_to_contain_text("take the zero again")
        # What was typed to close it is there after the look at another step, and after the page is loaded again.
        expect(page.get_by_label("Your name, to sign")).to_have_value("Ines Marrow")
        page.reload()
        expect(page.get_by_label("Your name, to sign")).to_have_value("Ines Marrow")
        page.get_by_role("button", name="Close and seal").click()
        page.get_by_role("link", name="To its record and certificate").click()
        expect(page.get_by_text("The record fits its seal")).to_be_visible()
        record = Record.objects.get()
        self.assertEqual(record.job.summary["factor_after"], "1.1260")
        self.assertEqual(self.plant.system.channels.get().factor, "1.1260")

    def test_a_run_that_stands_apart_is_set_aside_with_a_reason(self) -> None:
        page = self.open_bench()
        self.go("Zero")
        page.get_by_role("button", name="in this job").click()
        self.go("As found")
        for figures in (
            ("34.79", "12.74", "21.02"),
            ("34.10", "12.76", "21.66"),
            ("32.61", "12.74", "20.13"),
            ("33.35", "12.74", "20.91"),
        ):
            self.type_run(*figures)
        expect(page.locator(".call .verdict")).to_contain_text("Find the fault first")
        page.get_by_role("button", name="Set run 1 aside").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("What happened to it?").fill("hatch left open")
        dialog.get_by_role("button", name="Set aside").click()
        expect(page.locator(".call .verdict")).to_contain_text("Look first")
        expect(page.locator(".tally")).to_contain_text("set aside: hatch left open")


class Typing(BrowserTestCase):
    def test_what_is_understood_is_said_while_typing_and_what_was_typed_is_kept(self) -> None:
        page = self.open_bench()
        self.go("As found")
        gross = page.get_by_role("textbox", name="Gross", exact=True)
        gross.fill("12 lb 6 oz")
        expect(page.locator(".dock")).to_contain_text("= 0.00561321 t")
        gross.fill("34,10")
        expect(page.locator(".dock")).to_contain_text("= 34.1 t")
        gross.press("Enter")
        expect(page.get_by_role("textbox", name="Tare", exact=True)).to_be_focused()
        page.get_by_role("textbox", name="Tare", exact=True).press("Shift+Enter")
        expect(gross).to_be_focused()
        expect(page.get_by_text(re.compile(r"^\d+ entries kept$"))).to_be_visible()
        self.assertEqual(Entry.objects.get(path__endswith=".gross").text, "34,10")

    def test_letters_are_keys_in_an_empty_field_and_undo_takes_the_last_entry_back(self) -> None:
        page = self.open_bench()
        self.go("As found")
        self.type_run("34.10", "12.76", "21.66")
        expect(page.locator(".tally-run")).to_have_count(1)
        page.locator(".dock [data-entry]").first.press("x")
        expect(page.get_by_role("dialog")).to_contain_text("Set run 1 aside")
        page.get_by_role("button", name="Leave it in").click()
        page.locator(".tally-number").first.click()
        page.get_by_role("textbox", name="Shown", exact=True).fill("99")
        page.get_by_role("textbox", name="Shown", exact=True).press("Enter")
        expect(page.locator(".tally-run")).to_contain_text("99")
        page.keyboard.press("Control+z")
        expect(page.locator(".tally-run")).to_contain_text("21.66")
        expect(page.get_by_role("textbox", name="Shown", exact=True)).to_be_focused()
        page.reload()
        expect(page.locator(".tally-run")).to_contain_text("21.66")

    def test_a_text_that_cannot_be_read_says_what_is_expected_and_stays(self) -> None:
        page = self.open_bench()
        self.go("As found")
        page.get_by_role("textbox", name="Gross", exact=True).fill("about 34")
        page.get_by_role("textbox", name="Gross", exact=True).press("Enter")
        expect(page.locator(".dock")).to_contain_text("expected a mass")
        expect(page.get_by_role("textbox", name="Gross", exact=True)).to_have_value("about 34")

    def test_the_whole_sheet_is_remembered_for_the_person(self) -> None:
        page = self.open_bench()
        with page.expect_response(lambda answer: answer.request.method in ("PUT", "PATCH", "POST") and answer.ok):
            page.get_by_role("button", name="whole sheet").click()
        expect(page.get_by_role("heading", name="As found")).to_be_visible()
        expect(page.get_by_role("heading", name="Look first")).to_be_visible()
        self.plant.technician.refresh_from_db()
        self.assertEqual(self.plant.technician.sheet, "whole")


class LostConnections(BrowserTestCase):
    def test_entries_wait_while_the_server_is_away_survive_a_closed_tab_and_are_sent_when_it_is_back(self) -> None:
        page = self.open_bench()
        job = Job.objects.get()
        self.go("As found")
        page.route("**/api/**", lambda route: route.abort())
        for label, text in (("Gross", "34.10"), ("Tare", "12.76"), ("Shown", "21.66")):
            page.get_by_role("textbox", name=label, exact=True).fill(text)
            page.get_by_role("textbox", name=label, exact=True).press("Enter")
        expect(page.get_by_role("status").filter(has_text="3 waiting to be sent")).to_be_visible()
        expect(page.locator(".tally-run")).to_contain_text("waiting")
        self.assertFalse(Entry.objects.filter(path__startswith="runs.").exists())
        page.close()
        back = self.context.new_page()
        back.goto(f"/jobs/{job.id}")
        self.go("As found", back)
        expect(back.locator(".tally-run")).to_contain_text("+1.50 %")
        expect(back.get_by_text(re.compile(r"^\d+ entries kept$"))).to_be_visible()
        self.assertEqual(Entry.objects.filter(path__startswith="runs.").count(), 3)

    def test_an_entry_that_was_kept_but_never_answered_is_not_kept_twice(self) -> None:
        page = self.open_bench()
        self.go("As found")
        lost = {"one": False}

        def lose(route) -> None:  # type: ignore[no-untyped-def]
            if lost["one"]:
                route.continue_()
                return
            lost["one"] = True
            route.fetch()
            route.abort()

        page.route("**/entries", lose)
        page.get_by_role("textbox", name="Gross", exact=True).fill("34.10")
        page.get_by_role("textbox", name="Gross", exact=True).press("Enter")
        expect(page.get_by_text(re.compile(r"^\d+ entries kept$"))).to_be_visible()
        expect(page.locator(".tally-run")).to_have_count(1)
        self.assertEqual(Entry.objects.filter(path__endswith=".gross").count(), 1)


class TwoWindows(BrowserTestCase):
    def test_each_sees_the_other_s_entries_and_a_clash_is_said(self) -> None:
        page = self.open_bench()
        job = Job.objects.get()
        other = self.signed_in(self.new_context(), self.plant.lead)
        other.goto(f"/jobs/{job.id}")
        self.go("As found", other)
        self.go("As found", page)
        self.type_run("34.10", "12.76", "21.66", page=page)
        expect(other.locator(".tally-run")).to_contain_text("21.34")
        other.route("**/changes*", lambda route: route.abort())
        page.locator(".tally-number").first.click()
        page.get_by_role("textbox", name="Gross", exact=True).fill("34.30")
        page.get_by_role("textbox", name="Gross", exact=True).press("Enter")
        expect(page.locator(".tally-run")).to_contain_text("21.54")
        other.locator(".tally-number").first.click()
        other.get_by_role("textbox", name="Gross", exact=True).fill("34.20")
        other.get_by_role("textbox", name="Gross", exact=True).press("Enter")
        expect(other.locator(".dock")).to_contain_text("Technician typed 34.30 here too")
        expect(page.locator(".reasons")).to_contain_text("Two people typed differently")


class SmallScreens(BrowserTestCase):
    size = {"width": 390, "height": 844}

    def test_the_call_is_a_bar_at_the_bottom_that_opens(self) -> None:
        opened = self.plant.job()
        page = self.page
        page.goto(f"/jobs/{opened.id}")
        bar = page.locator(".call-bar")
        expect(bar).to_be_in_viewport()
        page.get_by_label("Step", exact=True).select_option(label="5 As found")
        self.type_run("34.10", "12.76", "21.66")
        expect(bar).to_be_in_viewport()
        wide = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        bar.click()
        expect(page.get_by_role("dialog")).to_contain_text("May I touch the factor?")
        self.assert_accessible()
