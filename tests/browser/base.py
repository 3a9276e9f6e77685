"""The real interface in one headless Chromium, kept open for all browser tests of a process.

So is the server, and so are the browser's contexts: what a browser would keep of a page (its scripts) is kept
from test to test, and what people leave in it (cookies, its store) is cleared before each.
"""

import atexit
import os
import re
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.handlers.wsgi import WSGIHandler
from django.core.servers.basehttp import ThreadedWSGIServer
from django.test import Client, LiveServerTestCase
from django.test.testcases import LiveServerThread, QuietWSGIRequestHandler
from playwright.sync_api import (
    Browser,
    BrowserContext,
    Locator,
    Page,
    Playwright,
    ViewportSize,
    expect,
    sync_playwright,
)
from playwright.sync_api import Error as PlaywrightError

from beacon.people.models import Person
from tests.emptied import EmptiedTestCase
from tests.served import server_that_streams
from tests.server.plant import PASSWORD, Plant
from tests.underway import none_under_way

CHROMIUM = os.environ.get("BEACON_CHROMIUM", "/usr/bin/chromium-headless-shell")
FLAGS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
AXE = Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js"
STORED = """(store) => new Promise((done) => {
  const asked = indexedDB.open("wary-beacon");
  asked.onsuccess = () => {
    const all = asked.result.transaction(store).objectStore(store).getAllKeys();
    all.onsuccess = () => { asked.result.close(); done(all.result.map(String)); };
  };
})"""
LEFT = "file_systems,indexeddb,local_storage"
"""What a test may leave in a browser, beside cookies; the application itself is kept there, as it is for real."""

_playwright: Playwright | None = None
_browser: Browser | None = None
_contexts: dict[str, list[BrowserContext]] = {}
_server: Any = None

expect.set_options(timeout=20_000)


def browser() -> Browser:
    """The one browser of this process."""
    global _playwright, _browser
    if _browser is None:
        _playwright = sync_playwright().start()
        _browser = _playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        atexit.register(_playwright.stop)
        atexit.register(_browser.close)
    return _browser


class Way(QuietWSGIRequestHandler):
    """What stands before the application: while it is shut, every connection is dropped without an answer."""

    shut = False

    def parse_request(self) -> bool:
        known = super().parse_request()
        if known and Way.shut:
            self.close_connection = True
        return known and not Way.shut


class Server(ThreadedWSGIServer):
    """A test's server, which may be out of reach."""

    def __init__(self, address: tuple[str, int], handler: object, **given: Any) -> None:
        super().__init__(address, Way, **given)


class ServerThread(LiveServerThread):
    server_class = Server


class BrowserTestCase(EmptiedTestCase, LiveServerTestCase):
    """A plant, and a page on which its technician is signed in; a real server process where it `streams`."""

    size: ViewportSize = {"width": 1280, "height": 800}
    touch = False
    """Whether it is worked with fingers."""
    streams = False
    judges = False
    """Whether the core runs in the browser and the application is kept in it, as it is for real; most tests are about other things."""
    fresh = False
    """Whether each test begins with a browser that never saw the application; it leaves another version of it, say."""

    server_thread_class = ServerThread

    @staticmethod
    def static_handler(application: WSGIHandler) -> WSGIHandler:
        """Static files are served as they are for real, by the application itself."""
        return application

    @classmethod
    def _start_server_thread(cls) -> None:
        global _server
        if _server is None:
            super()._start_server_thread()  # type: ignore[misc]
            _server = cls.server_thread
        cls.server_thread = _server

    @classmethod
    def _terminate_thread(cls) -> None:
        """It goes on for the tests after this class."""

    @property
    def live_server_url(self) -> str:  # type: ignore[override]
        return server_that_streams() if self.streams else f"http://127.0.0.1:{_server.port}"

    def setUp(self) -> None:
        self.faults: list[str] = []
        self.taken = 0
        self.plant = Plant("Gannet Ness")
        self.context = self.new_context()
        self.page = self.signed_in(self.context, self.plant.technician)

    def new_context(self) -> BrowserContext:
        """A browser of somebody's own, in which nobody is signed in and nothing was left."""
        if self.fresh:
            own = browser().new_context(viewport=self.size, base_url=self.live_server_url)
            self.addCleanup(own.close)
            return own
        kept = _contexts.setdefault(f"{self.live_server_url} {self.size} {self.touch} {self.judges}", [])
        if self.taken == len(kept):
            fingers = {"has_touch": True, "is_mobile": True} if self.touch else {}
            workers = "allow" if self.judges else "block"
            made = browser().new_context(
                viewport=self.size,
                base_url=self.live_server_url,
                service_workers=workers,
                reduced_motion="reduce",
                **fingers,
            )
            if not self.judges:
                made.add_init_script("delete window.Worker")
            kept.append(made)
        context = kept[self.taken]
        self.taken += 1
        context.clear_cookies()
        page = context.new_page()
        session = context.new_cdp_session(page)
        session.send("Storage.clearDataForOrigin", {"origin": self.live_server_url, "storageTypes": LEFT})
        page.close()
        return context

    def signed_in(self, context: BrowserContext, person: Person) -> Page:
        """A page of somebody who is signed in, by the session's cookie; where it goes first is up to the test."""
        client = Client()
        client.force_login(person)
        session = {"name": settings.SESSION_COOKIE_NAME, "value": client.cookies[settings.SESSION_COOKIE_NAME].value}
        context.add_cookies([{**session, "url": self.live_server_url}])  # type: ignore[typeddict-item]
        return self.new_page(context)

    def new_page(self, context: BrowserContext) -> Page:
        """A page whose faults fail the test."""
        page = context.new_page()
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        return page

    def sign_in(self, page: Page, person: Person, sees: str = "Systems") -> Page:
        """Signs somebody in by hand, as people do."""
        page.goto("/sign-in")
        page.get_by_label("Address").fill(person.username)
        page.get_by_label("Password").fill(PASSWORD)
        page.keyboard.press("Enter")
        expect(page.get_by_role("link", name=sees)).to_be_visible()
        return page

    def tearDown(self) -> None:
        # Requests still under way would meet the emptying of the database.
        for contexts in [*_contexts.values(), [self.context]]:
            for context in contexts:
                for page in context.pages:
                    with suppress(PlaywrightError):
                        page.goto("about:blank")
                        page.close()
                context.set_offline(False)
                context.unroute_all(behavior="ignoreErrors")
        Way.shut = False
        none_under_way()
        self.assertEqual(self.faults, [])

    def still_there(self, box: Locator) -> bool:
        """Whether something stands on the page; between two answers it may be gone for a moment."""
        if not box.count():
            self.page.wait_for_timeout(400)
        return box.count() > 0

    def make_looks(self) -> None:
        """Makes the look that stands next until none does: nothing is found; one with a place of its own is skipped, with a reason."""
        box = self.page.get_by_role("region", name="Look next")
        expect(box).to_be_visible()
        kept = self.page.locator(".kept")
        while self.still_there(box):
            expect(kept).not_to_contain_text("on the way")
            words = box.locator("h3").inner_text()
            if box.locator(".walk").count():
                self.make_walk(box)
                continue
            answer = box.locator(".look-answers button").first
            if answer.inner_text() == "Go there":
                box.get_by_role("button", name="skip it, and why").click()
                self.page.get_by_label("Why it is not looked at").fill("it was looked at yesterday")
                self.page.get_by_role("dialog").get_by_role("button", name="Skip it").click()
                expect(self.page.get_by_role("dialog")).to_have_count(0)
            else:
                if answer.inner_text() == "Look there":
                    answer.click()
                    expect(box.locator(".look-seen")).to_be_visible()
                answer.click()
            expect(box.locator("h3").filter(has_text=words)).to_have_count(0)

    def make_walk(self, box: Locator) -> None:
        """Makes the looks of one walk: nothing is found, and all are kept together."""
        first = box.locator(".walk label").first.inner_text()
        for tick in box.get_by_role("checkbox").all():
            tick.check()
        box.get_by_role("button", name=re.compile("^All .* in order")).click()
        expect(box.locator(".walk label").filter(has_text=first)).to_have_count(0)

    def answer_look(self, box: Locator) -> None:
        """Says of what is to be looked at next that nothing is wrong there."""
        if box.locator(".walk").count():
            self.make_walk(box)
        else:
            box.locator(".look-answers button").first.click()

    def wait_until(self, so: Callable[[], bool], seconds: float = 20) -> None:
        """Waits until something in the database is so."""
        until = time.monotonic() + seconds
        while not so():
            self.assertLess(time.monotonic(), until, "it never came to be so")
            self.page.wait_for_timeout(50)

    def stored(self, store: str) -> list[str]:
        """The keys of what this browser holds in one of its stores."""
        return list(self.page.evaluate(STORED, store))

    def off(self) -> None:
        """Takes the signal away. What a browser that says it is off sends all the same does not come in."""
        Way.shut = True
        self.context.set_offline(True)

    def on(self) -> None:
        """Gives the signal back."""
        Way.shut = False
        self.context.set_offline(False)

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

    def each_step(self, page: Page | None = None) -> Iterator[str]:
        """Goes through every step of a job by its picker, and says each one's title once it is on the page."""
        page = page or self.page
        options = page.get_by_label("Step", exact=True).locator("option")
        expect(options.first).to_be_attached()
        steps = [option.get_attribute("value") or "" for option in options.all()]
        self.assertGreater(len(steps), 1)
        for step in steps:
            page.get_by_label("Step", exact=True).select_option(step)
            shown = page.locator(f"[id='step-{step.replace(' ', '-')}']")
            expect(shown).to_be_visible()
            yield shown.get_attribute("aria-label") or ""

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
