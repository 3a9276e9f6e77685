"""The real interface in one headless Chromium, kept open for all browser tests."""

import atexit
import os
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.test import LiveServerTestCase
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect, sync_playwright
from playwright.sync_api import Error as PlaywrightError

from beacon.people.models import Person
from tests.server.plant import PASSWORD, Plant

CHROMIUM = os.environ.get("BEACON_CHROMIUM", "/usr/bin/chromium")
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
AXE = Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js"

_playwright: Playwright | None = None
_browser: Browser | None = None

expect.set_options(timeout=20_000)


def browser() -> Browser:
    """The one browser of this test run."""
    global _playwright, _browser
    if _browser is None:
        _playwright = sync_playwright().start()
        _browser = _playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        atexit.register(_playwright.stop)
        atexit.register(_browser.close)
    return _browser


class BrowserTestCase(LiveServerTestCase):
    """A plant, and a page on which its technician is signed in."""

    size = {"width": 1280, "height": 800}

    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")
        self.context = self.new_context()
        self.page = self.signed_in(self.context, self.plant.technician)

    def new_context(self) -> BrowserContext:
        context = browser().new_context(viewport=self.size, base_url=self.live_server_url)
        self.addCleanup(context.close)
        return context

    def signed_in(self, context: BrowserContext, person: Person, sees: str = "Systems") -> Page:
        page = context.new_page()
        self.faults: list[str] = []
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.goto("/sign-in")
        page.get_by_label("Address").fill(person.username)
        page.get_by_label("Password").fill(PASSWORD)
        page.keyboard.press("Enter")
        expect(page.get_by_role("link", name=sees)).to_be_visible()
        return page

    def tearDown(self) -> None:
        # Requests still under way would meet the emptying of the database.
        for context in browser().contexts:
            for page in context.pages:
                with suppress(PlaywrightError):
                    page.goto("about:blank")
        time.sleep(0.3)
        self.assertEqual(self.faults, [])

    def open_bench(self, page: Page | None = None, **job: Any) -> Page:
        """A fresh job's bench, at its first step."""
        page = page or self.page
        opened = self.plant.job(**job)
        page.goto(f"/jobs/{opened.id}")
        expect(page.get_by_role("complementary", name="The call")).to_be_visible()
        return page

    def go(self, step: str, page: Page | None = None, number: int = 0) -> None:
        """Goes to a step of the run sheet; `number` counts those of the same name in a visit."""
        sheet = (page or self.page).get_by_role("navigation", name="Run sheet")
        sheet.get_by_role("button", name=step).nth(number).click()

    def in_dock(self, *figures: str, page: Page | None = None) -> None:
        """Types a row into the dock of a list, Enter after each figure."""
        fields = (page or self.page).locator(".dock input[data-entry]")
        for number, figure in enumerate(figures):
            fields.nth(number).fill(figure)
            fields.nth(number).press("Enter")

    def type_run(self, *figures: str, page: Page | None = None) -> None:
        """Types figures into the dock with Enter after each, then goes to a new run."""
        page = page or self.page
        fields = page.locator(".dock [data-entry]")
        for number, figure in enumerate(figures):
            fields.nth(number).fill(figure)
            fields.nth(number).press("Enter")
        page.locator(".dock [data-entry]").last.press("Enter")

    def assert_accessible(self, page: Page | None = None) -> None:
        """Checks the page against WCAG 2.2 A and AA with axe."""
        page = page or self.page
        page.evaluate(AXE.read_text())
        found = page.evaluate(
            "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})"
            ".then(r => r.violations.map(v => `${v.id}: ${v.nodes.map(n => n.target + ' ' + n.failureSummary).join('; ')}`))"
        )
        self.assertEqual(found, [], page.url)
