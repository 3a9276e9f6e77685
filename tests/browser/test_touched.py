"""A stand-in is touched, weighed and read: what was done shows at once, and each figure goes where it belongs."""

import json
import re

from playwright.sync_api import expect

from beacon.bench.models import Entry
from tests.browser.stand_ins import AtStandIns


class Touched(AtStandIns):
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
