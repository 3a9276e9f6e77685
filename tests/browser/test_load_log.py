"""The load log at the screen: files in and out, finding, paging, what is changed afterwards, and another's loads."""

import datetime
import re

from django.utils import timezone
from playwright.sync_api import expect

from beacon.loads.models import Load
from beacon.plant.models import Channel
from tests.browser.base import BrowserTestCase

HEADER = "start,end,indicated,operator,destination,material,ticket,moved\n"


class LoadLog(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.cart = self.plant.add_system("Trailer", "cart", "load-cart", {"indicated_division": "20 kg"})
        self.url = f"/systems/{self.cart.id}/loads"

    def bring(self, text: str, name: str = "loads.csv") -> None:
        self.page.locator("input[type=file]").set_input_files(
            {"name": name, "mimeType": "text/csv", "buffer": text.encode()}
        )

    def stored(self, count: int, channel: Channel | None = None, **more: object) -> None:
        """So many loads as they were kept, one an hour; few of them all on the day before, whatever time it is now."""
        last = (timezone.now() - datetime.timedelta(days=1)).replace(hour=16, minute=0, second=0, microsecond=0)
        start = last - datetime.timedelta(hours=count)
        common = {
            "channel": channel or self.cart.channels.get(place=0),
            "state": "stored",
            "how": "hand",
            "by": self.plant.technician,
        }
        rows = [
            Load(
                number=number,
                started_at=start + datetime.timedelta(hours=number),
                ended_at=start + datetime.timedelta(hours=number, minutes=10),
                indicated=f"{5000 + number} kg",
                mass=5000 + number,
                **({"destination": "Drying House" if number % 2 else "Packing Loft"} | common | more),
            )
            for number in range(1, count + 1)
        ]
        Load.objects.bulk_create(rows)

    def test_a_file_comes_in_whole_and_goes_out_again(self) -> None:
        page = self.page
        page.goto(self.url)
        expect(page.get_by_text("No load yet: begin one, or bring in a file.")).to_be_visible()
        self.bring(
            HEADER
            + "2026-05-04 08:00,2026-05-04 08:12,7420 kg,Ada,Drying House,kelp,7400 kg,\n"
            + "2026-05-04 09:00,,5180,Ada,Packing Loft,dulse,,yes\n"
        )
        rows = page.locator(".load-table tbody tr")
        expect(rows).to_have_count(2)
        expect(rows.nth(0)).to_contain_text("moved first")
        expect(rows.nth(1)).to_contain_text("Drying House")
        expect(page.locator(".load-totals")).to_contain_text("2 loads, 1 ticket")
        with page.expect_download() as download:
            page.get_by_role("link", name="All as CSV").click()
        self.assertTrue(download.value.suggested_filename.endswith(".csv"))
        lines = download.value.path().read_text("utf-8-sig").splitlines()
        self.assertEqual(len(lines), 3)
        self.assertIn("7420 kg", lines[1])

    def test_a_file_with_a_bad_line_is_refused_whole_and_says_which(self) -> None:
        page = self.page
        page.goto(self.url)
        self.bring(HEADER + "2026-05-04 08:00,,7420 kg,,,,,\nyesterday,,heavy,,,,,\n")
        alert = page.get_by_role("alert")
        expect(alert).to_contain_text("line 3, start")
        expect(alert).to_contain_text("“yesterday” is no time")
        expect(alert).to_contain_text("line 3, indicated")
        self.assertFalse(Load.objects.exists())
        # Put right and brought in again: the alert goes.
        self.bring(HEADER + "2026-05-04 08:00,,7420 kg,,,,,\n")
        expect(page.locator(".load-table tbody tr")).to_have_count(1)
        expect(alert).to_have_count(0)

    def test_what_is_no_log_is_refused_in_one_sentence(self) -> None:
        page = self.page
        page.goto(self.url)
        for text, words in (("", "no row below the header"), ("a,b\n1,2\n", "is no column of a load log")):
            self.bring(text)
            expect(page.get_by_role("alert")).to_contain_text(words)

    def test_loads_are_found_by_word_and_by_number_and_the_totals_follow(self) -> None:
        self.stored(6)
        page = self.page
        page.goto(self.url)
        rows = page.locator(".load-table tbody tr")
        expect(rows).to_have_count(6)
        find = page.get_by_label("Find in the load log")
        find.fill("packing")
        expect(rows).to_have_count(3)
        # 5002 + 5004 + 5006 kg.
        expect(page.locator(".load-totals")).to_contain_text(re.compile(r"15\s?012 kg"))
        find.fill("4")
        expect(rows.filter(has_text="5004")).to_have_count(1)
        find.fill("nowhere")
        expect(page.get_by_text("No load is like that.")).to_be_visible()
        find.fill("")
        expect(rows).to_have_count(6)

    def test_earlier_ones_come_a_hundred_at_a_time(self) -> None:
        self.stored(230)
        page = self.page
        page.goto(self.url)
        rows = page.locator(".load-table tbody tr")
        expect(rows).to_have_count(100)
        expect(rows.first).to_contain_text("230")
        for count in (200, 230):
            page.get_by_role("button", name="Earlier").click()
            expect(rows).to_have_count(count)
        expect(page.get_by_role("button", name="Earlier")).to_have_count(0)

    def test_a_load_under_way_is_still_there_after_the_page_is_closed(self) -> None:
        page = self.page
        page.goto(self.url)
        page.get_by_label("Where to").fill("Drying House")
        page.get_by_label("What", exact=True).fill("wet kelp")
        page.get_by_role("button", name="Begin load 1").click()
        hand = page.get_by_role("form", name="Load 1")
        expect(hand).to_contain_text("wet kelp to Drying House")
        page.goto("/")
        page.goto(self.url)
        expect(hand).to_contain_text("being filled")
        hand.get_by_label("Shown").fill("heavy")
        hand.get_by_role("button", name="Standing still: store it").click()
        expect(hand).to_contain_text("expected a mass")
        expect(hand.get_by_label("Shown")).to_have_value("heavy")
        hand.get_by_label("Shown").fill("6,4 t")
        hand.get_by_role("button", name="Standing still: store it").click()
        expect(page.get_by_role("button", name="Begin load 2")).to_be_visible()
        self.assertEqual(Load.objects.get().mass, 6400)
        # The next one goes where the last one went, until something else is typed.
        expect(page.get_by_label("Where to")).to_have_value("Drying House")

    def test_each_channel_has_a_log_of_its_own(self) -> None:
        second = Channel.objects.create(system=self.cart, name="second trailer", place=1)
        self.stored(2)
        self.stored(1, second, destination="Shell Yard")
        page = self.page
        page.goto(self.url)
        rows = page.locator(".load-table tbody tr")
        expect(rows).to_have_count(2)
        page.get_by_label("Channel").select_option(label="second trailer")
        expect(rows).to_have_count(1)
        expect(rows).to_contain_text("Shell Yard")
        expect(page.get_by_role("button", name="Begin load 2")).to_be_visible()

    def test_a_machine_that_keeps_none_has_no_way_there(self) -> None:
        page = self.page
        page.goto(f"/systems/{self.plant.system.id}")
        expect(page.get_by_role("heading", name="Conveyor")).to_be_visible()
        expect(page.get_by_role("link", name="Load log")).to_have_count(0)
        page.goto(f"/systems/{self.plant.system.id}/loads")
        expect(page.get_by_role("alert").first).to_be_visible()
        page.goto("/systems/00000000-0000-0000-0000-000000000000/loads")
        expect(page.get_by_role("alert").first).to_be_visible()

    def test_it_is_accessible_and_fits_a_phone(self) -> None:
        self.stored(5)
        page = self.page
        page.set_viewport_size({"width": 390, "height": 844})
        page.goto(self.url)
        expect(page.locator(".load-table tbody tr")).to_have_count(5)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        self.assert_accessible()
