"""Whole visits on stand-ins of three kinds, what was true afterwards, sets that a lead gives, how people fare."""

import json
import re

from playwright.sync_api import expect

from beacon.bench.models import Entry, Job
from beacon.practice.models import Practice
from tests.browser.base import BrowserTestCase


class AtStandIns(BrowserTestCase):
    """Against a real server process, since readings are streamed."""

    streams = True

    def begin(self, kind: str, fault: str) -> str:
        """A practice with a known state, its bench open and its readings coming."""
        page = self.page
        page.request.get("/")
        token = next(c["value"] for c in self.context.cookies() if c["name"] == "csrftoken")
        answer = page.request.post(
            f"/api/practice?kind={kind}&seed=3&fault={fault}",
            headers={"X-CSRFToken": token, "Origin": self.live_server_url},
        )
        job = str(answer.json()["id"])
        page.goto(f"/jobs/{job}")
        expect(self.stand_in).to_contain_text("steady")
        return job

    @property
    def stand_in(self):  # type: ignore[no-untyped-def]
        return self.page.get_by_role("region", name="Stand-in")

    def act(self, name: str, figure: str = "") -> None:
        """Does something to the stand-in and waits until it is done."""
        button = self.stand_in.get_by_role("button", name=name, exact=True)
        if figure:
            inside = self.page.get_by_role("button", name=name, exact=True)
            self.stand_in.locator(".live-press", has=inside).locator("input").fill(figure)
        with self.page.expect_response(lambda answer: "/stand-in" in answer.url):
            button.click()

    def settled(self, text: str = "steady") -> None:
        """Waits until what is shown is that of now, and stands."""
        for _ in range(2):
            self.next_reading()
        expect(self.stand_in).to_contain_text(text)

    def next_reading(self) -> None:
        """Waits until another reading came than those that had come by now."""
        self.page.evaluate(
            """() => new Promise((done) => {
              const source = new EventSource(location.pathname.replace("/jobs/", "/api/jobs/") + "/live");
              source.onmessage = () => { source.close(); setTimeout(done, 450); };
            })"""
        )

    def touch(self, spot: str) -> None:
        """Touches a spot of the machine's drawing, and waits until that is done."""
        with self.page.expect_response(lambda answer: "/stand-in" in answer.url):
            self.page.locator(f".machine-panel [data-spot='{spot}'] .spot-touch").click()

    def done(self, job: str) -> list[tuple[str, float]]:
        """What was done to the stand-in so far, and with which figure."""
        return [(one.what, one.figure) for one in Practice.objects.get(job=job).done]

    def capture(self, field: str) -> None:
        """Captures the live reading into a field by its key."""
        self.page.get_by_role("textbox", name=field).focus()
        expect(self.stand_in.get_by_role("button", name=re.compile("^Capture "))).to_be_enabled()
        self.page.keyboard.press("c")
        expect(self.page.locator(".kept")).not_to_contain_text("on the way")

    def close(self, outcome: str = "", **texts: str) -> None:
        self.go("Close", number=-1)
        page = self.page
        if outcome:
            if not page.get_by_label(outcome).is_visible():
                page.get_by_role("button", name=re.compile("^Why not")).click()
            page.get_by_label(outcome).check()
        for label, text in texts.items():
            page.get_by_label(label.replace("_", " ")).fill(text)
        loose = page.get_by_label("Or why they stay as they are")
        if loose.count():
            loose.fill("the shift is over")
        page.get_by_label("Your name, to sign").fill("Ines")
        page.get_by_role("button", name="Close the practice").click()
        expect(page.get_by_role("heading", name="What was true")).to_be_visible()

    # --- a belt ---------------------------------------------------------------------------------

    def test_the_machine_is_touched_on_its_drawing_and_what_the_step_wants_is_lit(self) -> None:
        job = self.begin("platform", "none")
        self.go("Passes")
        self.page.get_by_role("textbox", name="Shown with the load on").focus()
        load = self.page.locator(".machine-panel [data-spot='load']")
        expect(load).to_have_class(re.compile("spot-lit"))
        expect(load).to_contain_text("Put on 1000 kg")
        self.touch("load")
        expect(load).to_contain_text("Take off")
        self.touch("corner-2")
        # A cell that is pressed is let go by the next touch, and by a touch of another.
        self.touch("cell-1")
        expect(self.page.locator(".machine-panel [data-spot='cell-1'] title")).to_have_text("Let go")
        self.touch("cell-1")
        self.touch("cell-3")
        self.assertEqual(self.done(job), [("load", 1000), ("place", 2), ("press", 1), ("press", 0), ("press", 3)])
        self.assert_accessible()

    def test_readings_from_before_an_act_that_come_after_it_undo_nothing(self) -> None:
        job = self.begin("platform", "none")
        before = self.page.evaluate(
            """(address) => new Promise((done) => {
                 const source = new EventSource(address);
                 source.onmessage = (event) => { source.close(); done(event.data); };
               })""",
            f"/api/jobs/{job}/live",
        )
        # A stream that lags: it says again and again, as of now, what was shown before anything was done.
        late = f"retry: 100\n\ndata: {json.dumps(json.loads(before) | {'at': 1e6})}\n\n"
        self.page.route("**/live", lambda route: route.fulfill(content_type="text/event-stream", body=late))
        self.page.reload()
        expect(self.stand_in).to_contain_text("steady")
        self.touch("cell-1")
        cell = self.page.locator(".machine-panel [data-spot='cell-1'] title")
        for _ in range(3):
            with self.page.expect_response("**/live"):
                pass
            expect(cell).to_have_text("Let go")
        self.touch("cell-1")
        self.assertEqual(self.done(job), [("press", 1), ("press", 0)])

    def test_a_ticket_is_taken_by_touching_the_scale(self) -> None:
        job = self.begin("vessel", "none")
        self.go("As found")
        self.touch("load")
        with self.page.expect_response(lambda answer: "/ticket" in answer.url):
            self.page.locator(".machine-panel [data-spot='scale'] .spot-touch").click()
        self.wait_until(lambda: Entry.objects.filter(job=job, source="captured", path__startswith="runs.").exists())

    def test_a_ticket_goes_into_the_run_in_hand_also_where_no_field_of_it_has_the_focus_yet(self) -> None:
        job = self.begin("belt", "none")
        self.go("How much to weigh")
        self.page.locator("[data-path='inputs.reference_division']").focus()
        # The focus follows a step with the next frame: on a busy device one weighs before that.
        self.page.evaluate("() => { window.requestAnimationFrame = (draw) => setTimeout(draw, 3000); }")
        self.go("As found")
        self.act("Weigh the lorry")
        tare = Entry.objects.filter(job=job, source="captured", path__startswith="runs.")
        self.wait_until(tare.exists)
        row = self.page.locator(".dock").get_attribute("data-row")
        self.assertLessEqual({entry.path for entry in tare}, {f"runs.{row}.tare", f"runs.{row}.gross"})

    def test_what_is_captured_goes_into_a_field_that_is_seen_and_into_no_other(self) -> None:
        job = self.begin("platform", "none")
        page = self.page
        self.go("Passes")
        page.get_by_role("textbox", name="Shown empty").focus()
        capture = self.stand_in.get_by_role("button", name=re.compile("^Capture"))
        expect(capture).to_be_enabled()
        page.evaluate("() => { window.requestAnimationFrame = (draw) => setTimeout(draw, 5000); }")
        self.go("Close")
        expect(capture).to_be_disabled()
        page.locator("body").press("c")
        self.assertFalse(Entry.objects.filter(job=job, source="captured").exists())

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
        expect(page.locator(".call .verdict")).to_contain_text("Look first")
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

    # --- a doser --------------------------------------------------------------------------------

    def test_two_tickets_asked_for_at_once_go_into_two_rows(self) -> None:
        job = self.begin("doser", "none")
        self.go("As found, doses")
        self.act("Dose one")
        self.settled()
        weigh = self.stand_in.get_by_role("button", name="Weigh the dose on the bench scale")
        weigh.evaluate("(button) => { button.click(); button.click(); }")
        expect(self.page.locator(".list-table tbody tr")).to_have_count(2)
        expect(self.page.locator(".kept")).not_to_contain_text("on the way")
        self.assertEqual(Entry.objects.filter(job=job, source="captured").count(), 2)

    def test_a_ticket_goes_into_the_list_of_the_step_and_into_no_other(self) -> None:
        job = self.begin("doser", "none")
        self.go("As found, doses")
        for count in (1, 2):
            self.act("Dose one")
            self.settled()
            with self.page.expect_response(lambda answer: "/entries" in answer.url):
                self.act("Weigh the dose on the bench scale")
            expect(self.page.locator(".list-table tbody tr")).to_have_count(count)
        expect(self.page.locator(".kept")).not_to_contain_text("on the way")
        rows = Entry.objects.filter(job=job, source="captured").exclude(path__startswith="doses_before.")
        self.assertEqual([row.path for row in rows], [])

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

    # --- silence --------------------------------------------------------------------------------

    def test_when_it_falls_silent_the_page_says_so_and_typing_goes_on(self) -> None:
        page = self.page
        page.request.get("/")
        token = next(c["value"] for c in self.context.cookies() if c["name"] == "csrftoken")
        page.route("**/live", lambda route: route.abort())
        answer = page.request.post(
            "/api/practice?kind=belt&seed=3&fault=none", headers={"X-CSRFToken": token, "Origin": self.live_server_url}
        )
        page.goto(f"/jobs/{answer.json()['id']}")
        expect(page.get_by_text("The stand-in is silent.")).to_be_visible()
        self.go("Empty readings")
        self.in_dock("0.4 kg")
        expect(page.locator(".list-table tbody tr")).to_have_count(1)
        self.assert_accessible()
