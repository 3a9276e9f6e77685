"""A practice at a stand-in, its bench open in a browser, and what one does there."""

import re

from playwright.sync_api import expect

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
