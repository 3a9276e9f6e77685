"""What is the same from visit to visit is there again; what a job found goes into the lists on record."""

import json

from beacon.bench.models import Entry, Job
from beacon.plant.models import Reference, System
from tests.server.plant import PlantTestCase, enter, runs
from tests.server.test_closing import COMPLETE

GRADES = {
    "inputs.limit_kind": "lower",
    "inputs.reject_limit": "130 g",
    "inputs.batch_name": "North beds",
    "grades.a.name": "small",
    "grades.a.limit": "60 g",
    "grades.a.outlet": "1",
    "grades.b.name": "large",
    "grades.b.limit": "90 g",
    "grades.b.outlet": "2",
    "batch.a.grade": "small",
    "batch.a.count": "20",
    "batch.a.total_mass": "1.5 kg",
}


class LastTime(PlantTestCase):
    def typed(self, job: Job) -> dict[str, str]:
        return dict(Entry.objects.filter(job=job, source=Entry.Source.RECORD).values_list("path", "text"))

    def close(self, job: Job) -> None:
        answer = self.send(f"/api/jobs/{job.id}/close", COMPLETE)
        self.assertEqual(answer.status_code, 200, answer.content)

    def test_axle_groups_are_named_once(self) -> None:
        lorry = self.plant.add_system("Lorry", "axle", "axle", {})
        first = self.plant.job("axle-two-load", lorry)
        groups = {f"groups.{row}.{key}": text for row, name, light, heavy in (("g7", "steer", "6000", "7000"), ("g9", "drive", "5000", "9000")) for key, text in (("name", name), ("empty_ticket", f"{light} kg"), ("heavy_ticket", f"{heavy} kg"))}  # fmt: skip
        enter(first, self.plant.technician, groups | {"inputs.heavy_scale": "North quay"})
        self.close(first)
        again = self.typed(self.plant.job("axle-two-load", lorry))
        self.assertEqual((again["groups.g1.name"], again["groups.g2.name"]), ("steer", "drive"))
        self.assertEqual(again["inputs.heavy_scale"], "North quay")
        self.assertNotIn("groups.g1.empty_ticket", again)

    def test_what_was_remembered_says_from_when_it_is(self) -> None:
        lorry = self.plant.add_system("Lorry", "axle", "axle", {})
        first = self.plant.job("axle-two-load", lorry)
        self.assertIsNone(self.client.get(f"/api/jobs/{first.id}").json()["remembered"])
        enter(first, self.plant.technician, {"inputs.heavy_scale": "North quay"})
        self.send(f"/api/jobs/{first.id}/close", {"signed": "Ines", "outcome": "abandoned", "reason": "rain"})
        again = self.client.get(f"/api/jobs/{self.plant.job('axle-two-load', lorry).id}").json()
        self.assertEqual(again["remembered"]["paths"], ["inputs.heavy_scale"])
        first.refresh_from_db()
        self.assertEqual(again["remembered"]["on"][:19], first.closed_at.isoformat()[:19])

    def test_grades_as_left_and_the_days_total_go_on_record(self) -> None:
        grader = self.plant.add_system("Grader", "grader", "filling", {})
        job = self.plant.job("grade-check", grader)
        enter(job, self.plant.technician, GRADES | {"grades_left.a.name": "small", "grades_left.a.limit": "62 g", "grades_left.a.outlet": "1"})  # fmt: skip
        self.close(job)
        kept = System.objects.get(pk=grader.pk)
        self.assertEqual(kept.lists["grades"], [{"name": "small", "limit": "62 g", "outlet": "1"}])
        self.assertEqual((kept.lists["days"][0]["batch"], kept.lists["days"][0]["count"]), ("North beds", "20"))
        self.assertEqual(kept.plates["reject_limit"], "130 g")
        self.assertTrue(kept.changes.filter(field="list, grades").exists())
        again = self.plant.job("grade-check", kept)
        known = self.typed(again)
        self.assertEqual((known["grades.g1.limit"], known["inputs.reject_limit"]), ("62 g", "130 g"))
        self.assertEqual(known["earlier.d1.total_mass"], "1.5 kg")
        record = json.loads(job.record.content)
        self.assertTrue(record["closing"]["words"])

    def test_containers_of_the_organisation_are_known_to_a_comparison_and_those_of_another_are_not(self) -> None:
        mine = self.plant.system.site.organisation
        Reference.objects.create(organisation=mine, kind="container", name="Green bin", tare="40 kg")
        known = self.typed(self.plant.job("known-load", self.plant.add_system("Silo", "vessel", "vessel-fill", {})))
        self.assertEqual((known["containers.c1.name"], known["containers.c1.tare"]), ("Green bin", "40 kg"))

    def test_nothing_is_brought_into_a_first_job(self) -> None:
        lorry = self.plant.add_system("Lorry", "axle", "axle", {})
        self.assertFalse(
            [path for path in self.typed(self.plant.job("axle-two-load", lorry)) if path.startswith("groups.")]
        )

    def test_how_runs_scattered_within_the_last_visits_is_known_to_the_next(self) -> None:
        for _ in range(2):
            job = self.plant.job()
            rows = runs([("32.00", "12.00", "20.02"), ("33.00", "12.00", "21.04"), ("31.00", "12.00", "19.01")])
            enter(job, self.plant.technician, {"inputs.zero_done": "job"} | rows)
            self.close(job)
        known = self.typed(self.plant.job())
        # Errors of 0.1, 0.19048 and 0.05263 %: a deviation of 0.07004 %, of two visits with two degrees of freedom each.
        self.assertEqual(known["history_scatter.standard_deviation"], "0.07004 %")
        self.assertEqual(known["history_scatter.degrees_of_freedom"], "4")
        again = self.plant.job()
        enter(again, self.plant.technician, {"inputs.zero_done": "job"} | runs([("32.00", "12.00", "20.02")]))
        file = self.client.get(f"/api/jobs/{again.id}/job.json").json()
        self.assertEqual(file["history_scatter"], {"standard_deviation": "0.07004 %", "degrees_of_freedom": 4})
