"""What the demo's machines have lived through, as their records tell it: each made by the code of real work."""

import datetime
from typing import Any

from django.template.loader import render_to_string
from django.test import Client, TestCase
from django.utils import timezone

from beacon.bench.models import Entry, Job
from beacon.demo import scenario
from beacon.demo.seed import seed
from beacon.loads.models import Load
from beacon.people.models import Person
from beacon.plant.models import Event, System
from beacon.printing.certificate import about
from beacon.records.models import Record
from tests.server.landed import plain
from wary.machines import all_machines


class Stories(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        seed()

    def setUp(self) -> None:
        self.client = Client()
        self.client.force_login(Person.objects.get(username="ines@gannetness.example"))

    def system(self, name: str) -> System:
        return System.objects.get(name=name)

    def view(self, name: str) -> dict[str, Any]:
        return dict(self.client.get(f"/api/systems/{self.system(name).id}").json())

    def closed(self, name: str) -> list[dict[str, Any]]:
        """The summaries of a machine's closed jobs, oldest first."""
        jobs = Job.objects.filter(channel__system__name=name).exclude(closed_at=None).order_by("closed_at")
        return [job.summary for job in jobs]

    # --- the whole --------------------------------------------------------------------------------

    def test_every_machine_of_the_scenario_is_there_on_its_site_with_its_cells(self) -> None:
        for one in scenario.SYSTEMS:
            system = self.system(one.name)
            self.assertEqual((system.kind, system.site.name), (one.kind, one.site))
            self.assertEqual(system.channels.count(), len(one.channels), one.name)
            here = system.channels.get(place=0).cells.filter(removed=None)
            self.assertEqual(here.count(), len(one.cells), one.name)

    def test_every_kind_of_machine_stands_in_it(self) -> None:
        self.assertEqual({one.kind for one in scenario.SYSTEMS}, set(all_machines()))

    def test_records_are_numbered_as_they_were_sealed_and_none_lies_ahead(self) -> None:
        sealed = list(Record.objects.order_by("number").values_list("sealed_at", flat=True))
        self.assertEqual(sealed, sorted(sealed))
        self.assertLessEqual(max(sealed), timezone.now())

    def test_entries_were_made_before_their_job_was_sealed(self) -> None:
        for record in Record.objects.select_related("job"):
            latest = Entry.objects.filter(job=record.job).order_by("-at").first()
            assert latest
            self.assertLessEqual(latest.at, record.sealed_at, record.job.channel.system.name)

    def test_nothing_in_it_is_refused_or_clashes(self) -> None:
        for job in Job.objects.filter(closed_at=None):
            view = self.client.get(f"/api/jobs/{job.id}").json()
            self.assertFalse([path for path, field in view["fields"].items() if field.get("clash")])

    def test_the_round_shows_every_machine_with_a_reason(self) -> None:
        rows = self.client.get("/api/round").json()["systems"]
        self.assertEqual({row["name"] for row in rows}, {one.name for one in scenario.SYSTEMS})
        self.assertTrue(all(row["why"] for row in rows))

    def test_every_record_has_its_certificate(self) -> None:
        records = list(Record.objects.select_related("job__channel__system__site", "organisation"))
        for record in records:
            text = plain(render_to_string("records/certificate.html", about(record)))
            self.assertIn(record.sha256, text)
        answer = self.client.get(f"/api/records/{records[0].id}/certificate.pdf")
        self.assertEqual((answer.status_code, answer.content[:5]), (200, b"%PDF-"))

    # --- one by one -------------------------------------------------------------------------------

    def test_the_shell_conveyor_was_chased_until_its_spacing_was_put_right(self) -> None:
        story = self.closed("Shell conveyor C2")
        chased = [row for row in story if row["factor_before"] != row["factor_after"]]
        self.assertGreaterEqual(len(chased), 4)
        self.assertTrue(all(abs(row["error_found"]) > 1 for row in chased[:4]))
        self.assertTrue(all(abs(row["error_left"]) < 0.5 for row in chased[:4]))
        events = Event.objects.filter(system__name="Shell conveyor C2")
        self.assertTrue(events.filter(note__contains="spacing had been typed as 1.0 m").exists())

    def test_the_stockpile_conveyor_is_simply_fine_and_never_touched(self) -> None:
        story = self.closed("Stockpile conveyor C5")
        self.assertGreaterEqual(len(story), 4)
        self.assertEqual({row["call"] for row in story}, {"leave"})
        self.assertEqual({row["factor_after"] for row in story}, {"0.9786"})

    def test_the_silo_is_provisional_since_its_cell_died(self) -> None:
        silo = self.view("Alginate silo")
        self.assertEqual(silo["state"], "provisional")
        cells = self.client.get(f"/api/systems/{self.system('Alginate silo').id}/cells").json()
        south = [cell for cell in cells if cell["label"] == "south"]
        self.assertEqual(len([cell for cell in south if cell["removed"]]), 1)
        self.assertEqual(len([cell for cell in south if not cell["removed"]]), 1)

    def test_the_lorry_is_half_entered_and_says_so_on_the_round(self) -> None:
        row = next(one for one in self.client.get("/api/round").json()["systems"] if one["name"] == "Haulage lorry")
        self.assertEqual(len(row["open_jobs"]), 1)
        job = self.client.get(f"/api/jobs/{row['open_jobs'][0]['id']}").json()
        self.assertTrue(job["not_valid"])
        self.assertEqual(len(self.closed("Haulage lorry")), 1)

    def test_the_loader_was_cold_once_and_then_right(self) -> None:
        story = self.closed("Shell loader")
        self.assertEqual(len(story), 2)
        contents = [record.content for record in Record.objects.filter(job__channel__system__name="Shell loader")]
        self.assertTrue(any("cold" in content for content in contents))
        self.assertTrue(story[-1]["provisional"])

    def test_the_creel_lift_has_a_lift_that_touched_the_ground(self) -> None:
        record = Record.objects.get(job__channel__system__name="Creel lift")
        self.assertIn("ground", record.content)
        self.assertEqual(record.job.summary["call"], "leave")

    def test_the_trailer_has_a_freak_load_and_a_season_of_its_log(self) -> None:
        record = Record.objects.get(job__channel__system__name="Harvest trailer")
        self.assertIn("set_aside", record.content)
        loads = Load.objects.filter(channel__system__name="Harvest trailer")
        self.assertGreater(loads.count(), 100)
        self.assertEqual(loads.filter(moved=True).count(), 1)
        waiting = loads.filter(job=None).exclude(ticket="")
        self.assertEqual(waiting.count(), 3)
        answer = self.client.get(f"/api/systems/{self.system('Harvest trailer').id}/loads").json()
        self.assertEqual(answer["to_compare"], 3)

    def test_references_run_out_at_different_times_and_one_is_late(self) -> None:
        rows = self.client.get("/api/references").json()
        late = [row["name"] for row in rows if row["overdue"]]
        self.assertEqual(late, ["Hanging scale H-2"])
        soon = datetime.date.today() + datetime.timedelta(days=31)
        self.assertIn("Weights W-5, 4 × 5 kg", [row["name"] for row in rows if row["due"] and row["due"] <= str(soon)])
