"""At the desk: what is to be written up, the week of an organisation, a customer's machines, certificates of a period."""

import datetime
import io
import zipfile
from typing import Any
from unittest import mock

from django.utils import timezone
from pypdf import PdfReader

from beacon.bench.models import Job
from beacon.people.models import Membership
from beacon.plant.models import Fault, Reference, System
from beacon.problems import Problem
from beacon.records.models import Record
from beacon.records.sealing import close
from tests.server.plant import PlantTestCase, enter, runs
from tests.server.test_closing import IN_ORDER
from wary.job.closing import Asked


class Desk(PlantTestCase):
    def closed(self, days: int = 0, system: System | None = None) -> Record:
        job = self.plant.job(system=system)
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        at = timezone.now() - datetime.timedelta(days=days)
        close(self.plant.technician, Job.objects.get(pk=job.pk), Asked("Ines", "complete"), at)
        return Record.objects.get(job=job)

    def got(self, url: str, client: Any = None) -> Any:
        answer = (client or self.client).get(url)
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return answer.json()

    def reader(self, *sites: Any) -> Any:
        person = self.plant.person("customer@gannetness.example", "reader")
        Membership.objects.get(person=person).sites.set(sites)
        return self.signed_in(person)


class WriteUp(Desk):
    def test_one_s_own_come_first_and_of_those_what_is_ready(self) -> None:
        first = self.plant.job()
        ready = self.plant.job()
        enter(ready, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        theirs = self.plant.job()
        Job.objects.filter(pk=theirs.pk).update(opened_by=self.plant.lead)
        rows = self.got("/api/write-up")
        self.assertEqual([row["job"] for row in rows], [str(ready.id), str(first.id), str(theirs.id)])
        self.assertEqual([row["ready"] for row in rows], [True, False, False])
        self.assertEqual([row["mine"] for row in rows], [True, True, False])

    def test_nothing_of_another_organisation_and_nothing_that_is_closed(self) -> None:
        self.closed()
        self.other.job()
        self.assertEqual(self.got("/api/write-up"), [])
        self.assertEqual(self.reader().get("/api/write-up").status_code, 404)


class Week(Desk):
    def test_a_week_has_what_was_done_and_found_and_what_is_open_now(self) -> None:
        lead = self.signed_in(self.plant.lead)
        record, system = self.closed(), self.plant.system
        self.closed(days=30)
        Fault.objects.create(system=system, job=record.job_id, suspect="idler", title="an idler out of line", at=timezone.now(), put_right=True, who=self.plant.lead)  # fmt: skip
        soon = timezone.now().date() + datetime.timedelta(days=10)
        Reference.objects.create(organisation=self.plant.organisation, kind="scale", name="Old scale", division="1 kg", due=soon)  # fmt: skip
        System.objects.filter(pk=system.pk).update(state="provisional")
        week = self.got("/api/week", lead)
        self.assertEqual([one["number"] for one in week["done"]], [record.number])
        self.assertEqual((week["done_count"], week["faults"][0]["title"]), (1, "an idler out of line"))
        self.assertEqual([one["name"] for one in week["provisional"]], [system.name])
        self.assertEqual(week["references"][0]["name"], "Old scale")
        before = (timezone.now() - datetime.timedelta(days=30)).date()
        self.assertEqual(self.got(f"/api/week?of={before.isoformat()}", lead)["done_count"], 1)
        self.assertEqual(self.got("/api/week?of=2031-05-07", lead)["monday"], "2031-05-05")

    def test_only_a_lead_sees_it_and_what_is_no_day_is_said(self) -> None:
        self.assertEqual(self.client.get("/api/week").status_code, 404)
        lead = self.signed_in(self.plant.lead)
        for day in ("yesterday", "0001-01-01", "2031-13-01"):
            answer = lead.get(f"/api/week?of={day}")
            self.assertEqual(answer.status_code, 422, day)
            self.assertIn("no day", answer.json()["errors"][0]["text"])
        mine = self.got("/api/week", self.signed_in(self.other.lead))
        self.assertEqual((mine["done"], mine["faults"]), ([], []))


class Portfolio(Desk):
    def test_a_reader_sees_what_is_due_and_out_of_their_sites_with_the_last_certificate(self) -> None:
        record = self.closed()
        system = self.plant.system
        rows = self.got("/api/due-dates", self.reader(system.site))
        self.assertEqual(
            [(row["name"], row["out"], row["record"]) for row in rows], [(system.name, False, str(record.id))]
        )
        System.objects.filter(pk=system.pk).update(state="fault")
        self.assertTrue(self.got("/api/due-dates")[0]["out"])

    def test_all_certificates_of_a_period_come_in_one_file(self) -> None:
        system = self.plant.system
        old, new = self.closed(days=40), self.closed()
        client = self.reader(system.site)
        answer = client.get("/api/certificates.zip")
        packed = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
        self.assertEqual(len(packed.namelist()), 2)
        self.assertIsNone(packed.testzip())
        self.assertIn(f"-{new.number}-", packed.namelist()[-1])
        text = PdfReader(io.BytesIO(packed.read(packed.namelist()[-1]))).pages[0].extract_text()
        self.assertIn(f"{new.number}", text)
        since = (timezone.now() - datetime.timedelta(days=10)).date().isoformat()
        whole = PdfReader(io.BytesIO(client.get(f"/api/certificates.pdf?since={since}").content))
        self.assertEqual(
            [one["/Title"] for one in whole.outline if not isinstance(one, list)], [f"{new.number}, {system.name}"]
        )
        self.assertNotEqual(old.number, new.number)

    def test_nothing_to_put_together_and_too_much_are_said(self) -> None:
        client = self.reader(self.plant.system.site)
        answer = client.get("/api/certificates.pdf?since=2031-01-01&until=2031-02-01")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("No certificate", answer.json()["title"])
        self.closed()
        with mock.patch("beacon.printing.api.MOST_IN_A_PDF", 0):
            self.assertIn("Too many", client.get("/api/certificates.pdf").json()["title"])

    def test_one_that_cannot_be_printed_does_not_break_the_others(self) -> None:
        self.closed(days=3)
        self.closed()
        client = self.reader(self.plant.system.site)
        printed: list[Record] = []

        def fails_once(record: Record) -> bytes:
            printed.append(record)
            if len(printed) == 1:
                raise Problem(422, "This is too long to be printed", "It is in the readings.")
            return b"%PDF"

        with mock.patch("beacon.printing.together.certificate", fails_once):
            content = b"".join(client.get("/api/certificates.zip").streaming_content)
        packed = zipfile.ZipFile(io.BytesIO(content))
        self.assertEqual([name.rpartition(".")[2] for name in packed.namelist()], ["txt", "pdf"])
        self.assertIn(b"too long", packed.read(packed.namelist()[0]))

    def test_nobody_gets_certificates_of_others(self) -> None:
        self.closed()
        stranger = self.reader()
        self.assertEqual(stranger.get("/api/certificates.zip").status_code, 422)
        elsewhere = self.signed_in(self.other.technician)
        self.assertEqual(elsewhere.get(f"/api/certificates.zip?site={self.plant.system.site_id}").status_code, 422)
