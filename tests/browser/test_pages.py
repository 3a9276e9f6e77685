"""Every page: accessible in both themes, asking nothing of another host, light to load."""

import gzip
from urllib.parse import urlparse

from django.conf import settings
from playwright.sync_api import expect

from beacon.bench.models import Job
from tests.browser.base import BrowserTestCase
from tests.server.plant import AGREEING, enter, runs
from tests.server.test_closing import IN_ORDER
from tests.underway import none_under_way


class Pages(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job", "tick.look.guards": "yes"} | runs(AGREEING))

    def closed(self) -> str:
        from beacon.records.models import Record
        from beacon.records.sealing import close
        from wary.job.closing import Asked

        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        close(self.plant.technician, Job.objects.get(pk=job.pk), Asked("Ines", "complete"))
        return str(Record.objects.get(job=job).id)

    def test_each_page_is_accessible_in_daylight_and_at_night(self) -> None:
        page = self.signed_in(self.new_context(), self.plant.lead)
        record = self.closed()
        paths = {
            "/": "to bring", "/systems": "systems", f"/systems/{self.plant.system.id}": "on record", "/log": "log",
            f"/records/{record}": "seal", "/references": "references", "/people": "limits", f"/jobs/{self.job.id}": "look first",
            "/sums": "how much to weigh", "/practice": "a machine of your choice", "/practice/progress": "how i fare", "/practice/instructor": "give a set",
            "/instruments": "the simple format",
        }  # fmt: skip
        page.goto("/sums")
        for theme in ("light", "dark"):
            page.evaluate(f"localStorage.setItem('theme', '{theme}')")
            for path, words in paths.items():
                page.goto(path)
                expect(page.locator("body")).to_contain_text(words, ignore_case=True)
                none_under_way()
                self.assert_accessible(page)

    def test_every_step_of_the_bench_is_accessible(self) -> None:
        self.page.goto(f"/jobs/{self.job.id}")
        self.page.get_by_role("button", name="whole sheet").click()
        expect(self.page.get_by_role("heading", name="As left", exact=True)).to_be_visible()
        self.assert_accessible()

    def test_nothing_is_asked_of_another_host(self) -> None:
        asked: list[str] = []
        self.page.on("request", lambda request: asked.append(request.url))
        for path in ("/", f"/jobs/{self.job.id}", "/log"):
            self.page.goto(path)
            self.page.wait_for_load_state("networkidle")
        hosts = {urlparse(url).netloc for url in asked if not url.startswith(("data:", "blob:"))}
        self.assertEqual(hosts, {urlparse(self.live_server_url).netloc})
        policy = self.page.request.get("/").headers["content-security-policy"]
        self.assertIn("default-src 'self'", policy)

    def test_the_first_load_of_script_is_under_250_kb_gzipped(self) -> None:
        fetched: set[str] = set()
        self.page.on("request", lambda request: fetched.add(urlparse(request.url).path))
        self.page.goto("/")
        self.page.wait_for_load_state("networkidle")
        scripts = [settings.WEB_BUILD / path.removeprefix("/static/") for path in fetched if path.endswith(".js")]
        self.assertGreater(len(scripts), 2)
        self.assertLess(sum(len(gzip.compress(script.read_bytes())) for script in scripts), 250_000)

    def test_a_plate_is_changed_on_the_system_s_page(self) -> None:
        page = self.page
        page.goto(f"/systems/{self.plant.system.id}")
        page.get_by_role("button", name="Change what is on record").click()
        page.get_by_label("Idler spacing").fill("wide")
        page.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("expected a length")).to_be_visible()
        page.get_by_label("Idler spacing").fill("1.2 m")
        page.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("idler spacing: 0.9 m → 1.2 m")).to_be_visible()

    def test_someone_signed_out_comes_back_to_where_they_were(self) -> None:
        self.context.clear_cookies()
        self.page.goto("/references")
        expect(self.page.get_by_label("Address")).to_be_visible()
        self.page.get_by_label("Address").fill(self.plant.technician.username)
        self.page.get_by_label("Password").fill("wrong")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("alert")).to_contain_text("not right")
        self.page.get_by_label("Password").fill("a-long-enough-one")
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("heading", name="References")).to_be_visible()
