"""Whole visits on stand-ins of several kinds, and what was true afterwards."""

import re

from playwright.sync_api import expect

from beacon.bench.models import Entry, Job
from beacon.practice.models import Practice
from tests.browser.stand_ins import AtStandIns


class WholeVisits(AtStandIns):
    # --- a belt ---------------------------------------------------------------------------------

    def test_a_whole_visit_on_a_belt_that_is_out(self) -> None:
        page = self.page
        job = self.begin("belt", "out")
        expect(self.stand_in.get_by_role("button", name="Take zero")).to_have_count(0)
        self.stand_in.get_by_role("button", name="All its controls").click()
        self.act("Run")
        expect(self.stand_in.get_by_role("button", name="Stop")).to_be_visible()
        self.act("Decimals up")
        self.act("Take zero")
        self.go("Empty readings")
        for count in (1, 2):
            self.settled()
            page.get_by_role("button", name="Run 1 revolution").click()
            self.act("Wait one turn")
            expect(page.locator(".list-table tbody tr")).to_have_count(count)
        expect(page.locator(".call")).to_contain_text("The zero holds")
        read = Entry.objects.filter(job=job, path__contains="zero/idle", source="captured").values_list(
            "text", flat=True
        )
        self.assertEqual(len(read), 2)
        # Over exactly one turn an empty belt's unevenness is gone, however late the reading comes that ends it.
        self.assertLess(abs(float(read[0]) - float(read[1])), 0.0005, list(read))
        self.go("As found")
        page.get_by_label("Display read as").select_option("totals")
        for _ in range(3):
            self.a_lorry()
        expect(page.locator(".call .verdict")).to_contain_text("first")
        self.make_looks()
        expect(page.locator(".call .verdict")).to_contain_text("Adjust")
        figure = page.locator(".call .key-in strong").inner_text()
        self.act("Key in", figure)
        page.locator(".call").get_by_label("Instrument now shows").fill(figure)
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Go on to as left").click()
        for _ in range(3):
            self.a_lorry()
        # The whole call, so that one that is another says why.
        expect(page.locator(".call")).to_contain_text("Leave it alone")
        self.close()
        expect(page.get_by_text("Adjusted, and rightly.")).to_be_visible()
        self.assertEqual(Job.objects.get(id=job).state, "closed")

    def a_lorry(self) -> None:
        """One run: total at the start captured, fed for ten minutes, the lorry weighed, total at the end captured."""
        page = self.page
        self.act("Weigh the lorry")
        self.capture("Total at start")
        expect(page.get_by_role("textbox", name="Total at start")).not_to_have_value("")
        for name in ("Feed t/h", "Wait 5 min", "Wait 5 min", "Feed off", "Wait one turn"):
            self.act(name)
        expect(self.stand_in).to_contain_text("steady")
        # Some readings more, so that the total shown is that of after the last wait.
        for _ in range(2):
            self.next_reading()
        self.capture("Total at end")
        self.act("Weigh the lorry")
        expect(page.locator(".tally-run").last.locator(".tally-error")).to_contain_text("%")
        page.locator(".dock").get_by_role("button", name="New run").click()

    # --- a platform -----------------------------------------------------------------------------

    def a_pass(self) -> None:
        """Empty, load on, load off: each read when it stands, with one key."""
        for acts, field in (
            (("Take off",), "Shown empty"), (("Put on kg",), "Shown with the load on"), (("Take off",), "Shown with it off again"),
        ):  # fmt: skip
            for act in acts:
                self.act(act)
            self.act("Wait 1 min")
            self.settled()
            self.capture(field)

    def test_a_whole_visit_on_a_platform_whose_frame_is_pressed(self) -> None:
        page = self.page
        job = self.begin("platform", "frame")
        expect(self.stand_in).to_contain_text("They say that it reads low.")
        self.go("The test load")
        page.locator("[data-path='inputs.test_load']").fill("1000 kg")
        page.keyboard.press("Enter")
        self.go("Passes")
        # Cells are not read here: neither their figures nor what presses them is in view.
        expect(self.stand_in.get_by_role("button", name="Press cell 1")).to_have_count(0)
        expect(self.stand_in.locator(".live-figure")).to_have_count(1)
        self.a_pass()
        expect(page.locator(".list-table")).to_contain_text("980.5")
        entry = Entry.objects.filter(job=job, path__endswith=".span").latest("sequence")
        self.assertEqual((entry.source, entry.unit, entry.steady), ("captured", "kg", True))
        self.go("Look first")
        # What is mended is offered once somebody has looked there.
        expect(self.stand_in.get_by_role("button", name="Free the frame")).to_have_count(0)
        could = page.get_by_role("region", name="What it could be")
        could.get_by_role("button", name=re.compile("^The frame is pressed")).click()
        look = could.locator(".suspect-more").get_by_text("Look round the frame").locator("xpath=../..")
        look.get_by_role("button", name="Look there").click()
        expect(look).to_contain_text("A stone is wedged")
        look.get_by_role("button", name="Something touches").click()
        expect(page.locator(".call .verdict")).to_contain_text("The frame is pressed")
        self.act("Free the frame")
        self.close("Left for repair", What_is_wrong_with_it="the frame bears on the kerb", Who_was_told="Corin")
        expect(page.get_by_text("The fault was found and cured, and the factor left alone.")).to_be_visible()
        story = page.locator(".story")
        expect(story).to_contain_text("Put on 1000 kg")
        expect(story).to_contain_text("Here it could have been known.")
        expect(story).to_contain_text("Free the frame")
        self.assert_accessible()
        page.get_by_role("button", name="The same machine again").click()
        expect(page.get_by_role("complementary", name="The call")).to_be_visible()
        first, again = Practice.objects.order_by("started_at")
        self.assertEqual((again.seed, again.fault, again.job.state), (first.seed, first.fault, "open"))

    # --- a lorry --------------------------------------------------------------------------------

    def test_a_whole_visit_on_a_lorry_whose_air_bags_are_new(self) -> None:
        page = self.page
        job = self.begin("axle", "out")
        expect(self.stand_in).to_contain_text("New air bags were fitted.")
        self.go("The ground scale")
        page.locator("[data-path='inputs.empty_scale']").fill("Practice")
        page.keyboard.press("Enter")
        for load, step, drive in (
            ("empty", "Empty", "Drive it empty"),
            ("heavy", "Heavy", "A heavy load"),
            ("proof", "Proof", "Half a load"),
        ):
            self.go(step, number=-1)
            for name in (
                drive,
                "Chocks in, brakes off",
                "Empty the suspension",
                "Wait 10 s",
                "Fill to ride height",
                "Wait 1 min",
            ):
                self.act(name)
            with page.expect_response(lambda answer: "/entries" in answer.url):
                self.act("Weigh on the ground scale")
            expect(page.locator(".kept")).not_to_contain_text("on the way")
            fields = {row.path: row.text for row in Entry.objects.filter(job=job, path__endswith=f"{load}_ticket")}
            self.assertEqual(len(fields), 2, f"two tickets for {load}")
            if load != "proof":
                self.stand_in.get_by_role("button", name="All its controls").click()
                for group in ("steer", "drive"):
                    row = next(
                        path for path in fields
                        if Entry.objects.filter(job=job, path=f"{path.rpartition('.')[0]}.name", text=group).exists()
                    )  # fmt: skip
                    self.act(f"Step {group} to kg", fields[row])
                self.stand_in.get_by_role("button", name="Only what this step needs").click()
            self.settled()
            for path in fields:
                # Each group's own reading goes into its own row.
                field = page.locator(f"[data-path='{path.replace('_ticket', '_shown')}']")
                if not field.is_visible():
                    page.locator(".list-table").get_by_role("button", name=re.compile("^Row")).nth(
                        list(fields).index(path)
                    ).click()
                field.focus()
                expect(self.stand_in.get_by_role("button", name=re.compile("^Capture "))).to_be_enabled()
                with page.expect_response(lambda answer: "/entries" in answer.url):
                    page.keyboard.press("c")
        shown = {row.path: row.text for row in Entry.objects.filter(job=job, path__endswith="_shown")}
        tickets = {row.path: row.text for row in Entry.objects.filter(job=job, path__endswith="_ticket")}
        for path, text in shown.items():
            # Each reading went into the row of its own group.
            self.assertAlmostEqual(float(text), float(tickets[path.replace("_shown", "_ticket")]), delta=40)
        self.assertEqual(len(shown), 6)
        expect(page.locator(".kept")).not_to_contain_text("on the way")
        expect(page.locator(".call .verdict")).to_contain_text("leave it alone", ignore_case=True)
        names = {row.text for row in Entry.objects.filter(job=job, path__startswith="groups.", path__endswith=".name")}
        self.assertEqual(names, {"steer", "drive"})
        self.close()
        expect(page.get_by_text("Adjusted, and rightly.")).to_be_visible()

    # --- a drill that runs ----------------------------------------------------------------------

    def test_a_trim_is_worked_out_from_the_stream_of_a_running_drill(self) -> None:
        page = self.page
        job = self.begin("meter", "out")
        page.get_by_role("navigation", name="Run sheet").get_by_role("button", name=re.compile("Trim")).first.click()
        self.go("The mix")
        page.locator("[data-path$='inputs.mix_value']").fill("120 g/count")
        page.keyboard.press("Enter")
        self.go("Samples")
        self.act("Run at field speed")
        page.get_by_role("button", name="Sample the stream").click()
        expect(page.locator(".list-table tbody tr:nth-child(7)")).to_be_visible()
        page.get_by_role("button", name="Stop sampling").click()
        expect(page.locator(".kept")).not_to_contain_text("on the way")
        expect(page.locator(".call .verdict")).not_to_contain_text("Not ready")
        rows = Entry.objects.filter(job=job, path__startswith="trim/samples", source="captured")
        self.assertGreaterEqual(rows.count(), 21)
        self.assertEqual({row.unit for row in rows}, {"s", "kg", ""})
