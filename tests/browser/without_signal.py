"""A person whose device holds the application and the core."""

from django.db.models import QuerySet
from playwright.sync_api import Page, expect

from beacon.bench.models import Entry, Job
from tests.browser.base import BrowserTestCase


def ticked(job: Job) -> QuerySet[Entry]:
    """What was ticked in a job."""
    return Entry.objects.filter(job=job, source="typed").exclude(path="occasion")


class WithoutSignal(BrowserTestCase):
    """A person whose device holds the application and the core."""

    judges = True

    def setUp(self) -> None:
        super().setUp()
        # The application is kept by a browser only where it is opened; a test begins with neither.
        self.page.goto("/")

    def at_hand(self, *kinds: str) -> None:
        """Waits until the application, the core and what the round needs are on the device."""
        self.page.wait_for_function("() => document.documentElement.dataset.core === 'ready'", timeout=60_000)
        self.page.evaluate("navigator.serviceWorker.ready.then(() => 0)")
        self.page.wait_for_function("() => navigator.serviceWorker.controller !== null")
        for kind in kinds or ("along", "taken"):
            self.wait_until(lambda kind=kind: any(f" {kind} " in key for key in self.stored("hand")), 30)  # type: ignore[misc]

    def judged_here(self, page: Page | None = None) -> None:
        expect((page or self.page).locator("[data-judged=here]")).to_be_visible(timeout=60_000)

    def job_taken_along(self) -> Job:
        """A job that is open and judged on the device, as far as it needs to go on without signal."""
        job = self.plant.job("belt-material-test")
        self.page.goto(f"/jobs/{job.id}")
        self.at_hand("job")
        self.judged_here()
        return job

    def job_in_hand(self) -> Job:
        """Such a job without signal, with one thing ticked."""
        job = self.job_taken_along()
        self.off()
        self.page.get_by_role("checkbox").first.check()
        return job

    def give_up(self, why: str) -> None:
        """Says in the close step that nothing is decided."""
        self.page.get_by_label("Given up, nothing decided").check()
        self.page.get_by_label("Why", exact=True).fill(why)
        self.page.get_by_label("Your name, to sign").fill("Ines Marrow")
