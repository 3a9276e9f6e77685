"""Photographs on the bench: taken of what is in hand, read beside the field, waiting without a signal, refused with a word."""

import json
import re

from playwright.sync_api import expect

from beacon.attachments.models import Attachment
from beacon.bench.models import Job
from beacon.records.models import Record
from tests.browser.base import BrowserTestCase
from tests.server.pictures import document, photograph
from tests.server.plant import enter, runs
from tests.server.test_closing import IN_ORDER


def file(content: bytes, name: str = "ticket.jpg", kind: str = "image/jpeg") -> dict[str, object]:
    return {"name": name, "mimeType": kind, "buffer": content}


class OnTheBench(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()
        enter(self.job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER[:2]))
        self.page.goto(f"/jobs/{self.job.id}")
        expect(self.page.get_by_role("complementary", name="The call")).to_be_visible()

    def take(self, content: bytes, name: str = "ticket.jpg", kind: str = "image/jpeg") -> None:
        self.page.locator(".attachments input[type=file]").set_input_files([file(content, name, kind)])  # type: ignore[list-item]

    def kept(self, count: int) -> list[Attachment]:
        expect(self.page.locator(".paper:not(.paper-waits)")).to_have_count(count)
        return list(Attachment.objects.filter(job=self.job).order_by("at"))

    def test_it_belongs_to_the_field_in_hand_and_is_read_beside_it(self) -> None:
        page = self.page
        self.go("As found")
        page.get_by_role("button", name="Run 2: change or set aside").click()
        gross = page.get_by_role("textbox", name="Gross", exact=True)
        gross.focus()
        expect(page.get_by_label("What the photograph belongs to")).to_have_value("runs.r2.gross")
        self.take(photograph((900, 600)))
        self.assertEqual([paper.path for paper in self.kept(1)], ["runs.r2.gross"])
        gross.focus()
        page.get_by_role("button", name="Read it from the photograph").click()
        viewer = page.get_by_role("region", name="Photograph of Gross")
        expect(viewer.locator("img")).to_have_js_property("complete", True)
        # The field keeps the focus, so that what is read is typed at once; the drawing comes back after.
        expect(gross).to_be_focused()
        expect(page.locator(".figure")).to_have_count(0)
        before = viewer.locator("img").bounding_box()
        viewer.get_by_role("button", name="Larger").click()
        after = viewer.locator("img").bounding_box()
        assert before and after
        self.assertGreater(after["width"], before["width"] * 1.4)
        viewer.get_by_role("button", name="Put away").click()
        expect(page.locator(".figure svg")).to_be_visible()

    def test_it_can_belong_to_the_row_the_step_or_the_job(self) -> None:
        page = self.page
        self.go("As found")
        page.get_by_role("button", name="Run 1: change or set aside").click()
        page.get_by_role("textbox", name="Gross", exact=True).focus()
        for number, (words, path) in enumerate(
            (("this row", "runs.r1"), ("the step “As found”", "step.as-found"), ("the job as a whole", "")), 1
        ):
            page.get_by_label("What the photograph belongs to").select_option(label=words)
            self.take(photograph((100 + number, 80)))
            expect(page.locator(".paper-waits")).to_have_count(0)
            with_it = Attachment.objects.filter(job=self.job, path=path)
            self.wait_until(with_it.exists)

    def test_it_is_pasted_and_dropped(self) -> None:
        page = self.page
        self.go("As found")
        picture = list(photograph((120, 90)))
        for name, event in (("paste", "ClipboardEvent"), ("drop", "DragEvent")):
            page.evaluate(
                """([name, event, bytes]) => {
                  const data = new DataTransfer();
                  data.items.add(new File([new Uint8Array(bytes)], `${name}.jpg`, {type: 'image/jpeg'}));
                  const key = name === 'paste' ? 'clipboardData' : 'dataTransfer';
                  dispatchEvent(new window[event](name, {[key]: data, cancelable: true}));
                }""",
                [name, event, picture if name == "paste" else list(photograph((121, 90)))],
            )
        self.assertEqual({paper.name for paper in self.kept(2)}, {"paste.jpg", "drop.jpg"})

    def test_without_a_signal_it_waits_here_and_is_sent_by_itself(self) -> None:
        page = self.page
        self.go("As found")
        self.off()
        self.take(photograph())
        expect(page.locator(".kept")).to_contain_text("1 photograph waiting")
        expect(page.locator(".paper-waits img")).to_be_visible()
        self.assertEqual(Attachment.objects.count(), 0)
        self.on()
        # Another window begins with what the first one left in the browser's store.
        page.reload()
        self.kept(1)
        expect(page.locator(".kept")).not_to_contain_text("photograph")

    def test_what_is_no_photograph_is_said_with_its_name_and_nothing_else_is_lost(self) -> None:
        self.go("As found")
        self.take(b"MZ this is a program", "ticket.jpg")
        alert = self.page.locator(".attachments [role=alert]")
        expect(alert).to_contain_text("ticket.jpg is not kept on the server")
        expect(alert).to_contain_text("no photograph and no PDF")
        # It stays on this device until it is thrown away, also over a reload.
        self.page.reload()
        expect(alert).to_contain_text("no photograph and no PDF")
        with self.page.expect_download() as copy:
            alert.get_by_role("link", name="Save a copy").click()
        self.assertEqual(copy.value.suggested_filename, "ticket.jpg")
        alert.get_by_role("button", name="Throw it away").click()
        alert.get_by_role("button", name="Yes, throw it away").click()
        expect(alert).to_have_count(0)
        self.page.reload()
        expect(self.page.get_by_role("button", name="Photograph", exact=True)).to_be_visible()
        expect(alert).to_have_count(0)
        self.take(document(script="app.alert(1)"), "plate.pdf", "application/pdf")
        expect(self.page.locator(".attachments [role=alert]")).to_contain_text("a script")

    def test_at_the_close_it_is_chosen_for_the_certificate_or_set_aside_and_is_sealed(self) -> None:
        page = self.page
        enter(self.job, self.plant.technician, runs(IN_ORDER[2:], "runs") | {})
        self.go("As found")
        self.take(photograph((300, 200)), "good.jpg")
        self.take(photograph((310, 200)), "blurred.jpg")
        self.kept(2)
        self.go("Close")
        page.locator(".paper", has_text="on the certificate").first.get_by_role("checkbox").check()
        page.get_by_role("button", name="Set aside blurred.jpg").click()
        page.get_by_label("Why it is set aside").fill("blurred")
        page.get_by_label("Why it is set aside").press("Enter")
        expect(page.locator(".paper-aside")).to_contain_text("set aside: blurred")
        self.assert_accessible()
        page.get_by_label("Your name, to sign").fill("Ines Marrow")
        for reason in page.get_by_label("Why", exact=True).all():
            reason.fill("enough for now")
        outcome = page.get_by_label("Given up, nothing decided")
        if not outcome.count():
            page.get_by_role("button", name=re.compile("Why not")).click()
        page.get_by_text("Given up, nothing decided").first.click()
        page.get_by_label("Why", exact=True).fill("only to try the photographs")
        page.get_by_role("button", name="Close and seal").click()
        page.get_by_role("link", name="To its record and certificate").click()
        expect(page.locator(".record-attachments .paper")).to_have_count(2)
        sealed = json.loads(Record.objects.get(job=self.job).content)["papers"]
        self.assertEqual(
            {one["name"]: one["on_certificate"] for one in sealed}, {"good.jpg": True, "blurred.jpg": False}
        )


class OnAPhone(BrowserTestCase):
    size = {"width": 390, "height": 844}

    def test_a_ticket_is_photographed_and_looked_at_standing(self) -> None:
        job = self.plant.job()
        page = self.page
        page.goto(f"/jobs/{job.id}")
        page.locator(".step-picker").select_option(index=4)
        button = page.get_by_role("button", name="Photograph", exact=True)
        button.scroll_into_view_if_needed()
        box = button.bounding_box()
        assert box
        self.assertGreaterEqual(box["height"], 43)
        page.locator(".attachments input[type=file]").set_input_files([file(photograph((900, 1200)))])  # type: ignore[list-item]
        page.locator(".paper button").first.click()
        viewer = page.locator(".viewer")
        expect(viewer).to_be_visible()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        self.assertEqual(Job.objects.get(pk=job.pk).attachments.count(), 1)
