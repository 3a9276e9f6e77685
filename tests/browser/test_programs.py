"""Other programs and a customer's door as their pages show them; the clients of docs/integrating.md as they stand there."""

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.test import Client, override_settings
from playwright.sync_api import expect

from beacon.programs.models import Program, Webhook
from beacon.records.models import Door
from tests.browser.base import BrowserTestCase
from tests.server.background import work
from tests.server.plant import enter, runs
from tests.server.receiver import Receiver
from tests.server.test_closing import IN_ORDER
from tests.server.together import send

DOCS = Path(settings.ROOT) / "docs/integrating.md"


def blocks() -> list[str]:
    return re.findall(r"```python\n(.*?)```", DOCS.read_text(encoding="utf-8"), re.DOTALL)


class WithRecord(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.lead = self.signed_in(self.new_context(), self.plant.lead)

    def close_one(self) -> str:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        client = Client()
        client.force_login(self.plant.lead)
        answer: Any = send(client, f"/api/jobs/{job.pk}/close", {"signed": "x", "outcome": "complete"})
        self.assertEqual(answer.status_code, 200, answer.content)
        job.refresh_from_db()
        return str(job.record.id)


@override_settings(WEBHOOK_NETWORKS=["127.0.0.0/8"])
class OtherPrograms(WithRecord):
    def test_a_token_is_made_used_by_the_client_of_the_docs_and_revoked(self) -> None:
        self.close_one()
        page = self.lead
        page.goto("/programs")
        page.get_by_role("button", name="Make a token").click()
        page.get_by_label("Which program?").fill("Maintenance")
        page.get_by_role("button", name="Make it").click()
        token = page.locator("code.seal-code").inner_text()
        self.assert_accessible(page)
        page.reload()
        expect(page.locator("code.seal-code")).to_have_count(0)
        with tempfile.TemporaryDirectory() as folder:
            known = os.environ | {
                "BEACON_URL": self.live_server_url,
                "BEACON_TOKEN": token,
                "BEACON_KEPT": f"{folder}/since",
            }
            run = [sys.executable, "-c", blocks()[0]]
            first = subprocess.run(run, env=known, capture_output=True, text=True, timeout=60, check=False)
            self.assertEqual(first.returncode, 0, first.stderr)
            self.assertIn("Conveyor: due", first.stdout)
        page.reload()
        expect(page.get_by_text("not used yet")).to_have_count(0)
        page.get_by_role("button", name="Revoke Maintenance").click()
        page.get_by_role("button", name="Yes, revoke it").click()
        expect(page.get_by_text("revoked", exact=False).first).to_be_visible()
        self.assertIsNotNone(Program.objects.get().revoked_at)

    def test_an_address_is_told_seen_and_sent_again(self) -> None:
        receiver = Receiver()
        self.addCleanup(receiver.close)
        receiver.answers = [500]
        page = self.lead
        page.goto("/programs")
        page.get_by_role("button", name="Add an address").click()
        page.get_by_label("Where to").fill("nowhere")
        page.get_by_role("button", name="Add it").click()
        expect(page.get_by_role("alert").filter(has_text="expected an address")).to_be_visible()
        page.get_by_label("Where to").fill(receiver.url)
        page.get_by_role("button", name="Add it").click()
        secret = page.locator("code.seal-code").inner_text()
        self.close_one()
        work()
        page.reload()
        told = page.get_by_role("listitem").filter(has_text="Conveyor a job was closed")
        expect(told).to_contain_text("1 try: 500")
        told.get_by_role("button", name="Send again").click()
        expect(told).to_contain_text("on its way")
        work()
        page.reload()
        expect(told).to_contain_text("taken")
        names: dict[str, Any] = {}
        exec(blocks()[1], names)
        headers, body = receiver.told[-1]
        self.assertTrue(names["fits"](secret, headers, body.encode()))
        self.assertFalse(names["fits"](secret, headers, body.encode() + b" "))
        self.assert_accessible(page)
        page.get_by_role("button", name="End it").click()
        page.get_by_role("button", name="Yes, end it").click()
        expect(page.get_by_role("button", name="End it")).to_have_count(0)
        self.assertIsNotNone(Webhook.objects.get().ended_at)

    def test_what_may_be_asked_is_described(self) -> None:
        page = self.lead
        page.goto("/programs/description")
        page.get_by_text("POST /api/jobs/{job_id}/entries").click()
        expect(page.get_by_text("It is sent: list of", exact=False).first).to_be_visible()
        self.assert_accessible(page)

    def test_who_is_no_lead_is_not_led_there(self) -> None:
        self.page.goto("/programs")
        expect(self.page.get_by_text("There is nothing of that name", exact=False).or_(self.page.get_by_role("alert")).first).to_be_visible()  # fmt: skip


class ACustomersDoor(WithRecord):
    def test_a_link_opens_the_certificate_and_is_revoked(self) -> None:
        record = self.close_one()
        page = self.lead
        page.goto(f"/records/{record}")
        page.get_by_role("button", name="Make a link").click()
        page.get_by_label("Until").fill("2001-01-01")
        page.get_by_role("button", name="Make it").click()
        expect(page.get_by_role("alert").filter(has_text="from today on")).to_be_visible()
        page.get_by_label("Until").fill("2027-06-30")
        page.get_by_role("button", name="Make it").click()
        link = page.get_by_role("status").locator("code").inner_text()
        path = "/paper/" + link.partition("/paper/")[2]
        self.assert_accessible(page)
        stranger = self.new_page(self.new_context())
        stranger.goto(path)
        expect(stranger.get_by_text("Its seal fits")).to_be_visible()
        self.assert_accessible(stranger)
        address = stranger.get_by_role("link", name="Open the certificate").get_attribute("href") or ""
        self.assertEqual(stranger.request.get(address).body()[:4], b"%PDF")
        page.reload()
        expect(page.get_by_text("opened 1 time")).to_be_visible()
        page.get_by_role("button", name="Revoke").click()
        expect(page.get_by_text("revoked", exact=True)).to_be_visible()
        stranger.reload()
        expect(stranger.get_by_text("This link is not open any more")).to_be_visible()
        self.assertIsNotNone(Door.objects.get().revoked_at)
