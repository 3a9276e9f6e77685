"""What leaves as a file: histories as CSV and XLSX, sealed records, job files; safe names, safe cells, readable figures."""

import csv
import io
import json
from typing import Any

from django.http import HttpResponse
from openpyxl import load_workbook

from beacon.bench.models import Job
from beacon.records.models import Record
from tests.server.plant import AGREEING, PlantTestCase, enter, runs
from tests.server.test_closing import COMPLETE, IN_ORDER


class Exports(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.channel = self.plant.system.channels.get()

    def closed(self, loads: list[tuple[str, ...]] = IN_ORDER, **texts: str) -> Job:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(loads) | texts)
        answer = self.send(f"/api/jobs/{job.id}/close", COMPLETE)
        self.assertEqual(answer.status_code, 200, answer.content)
        return job

    def adjusted(self) -> Job:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        enter(job, self.plant.technician, {"read_back": "1.1260", "loose.zero-again": "done"})
        enter(job, self.plant.technician, runs(IN_ORDER, "as_left"))
        self.assertEqual(self.send(f"/api/jobs/{job.id}/close", COMPLETE).status_code, 200)
        return job

    def file(self, end: str) -> HttpResponse:
        answer = self.client.get(f"/api/channels/{self.channel.id}/{end}")
        self.assertEqual(answer.status_code, 200)
        return answer

    def table(self) -> list[dict[str, str]]:
        text = self.file("history.csv").content.decode("utf-8-sig")
        return list(csv.DictReader(io.StringIO(text)))

    def test_a_history_has_one_row_a_closed_job_with_factor_before_and_after(self) -> None:
        self.closed()
        self.adjusted()
        table = self.table()
        self.assertEqual(len(table), 2)
        flat = [" ".join(str(cell) for cell in row.values()) for row in table]
        self.assertTrue(any("1.1420" in row and "1.1260" in row for row in flat), flat)

    def test_the_workbook_says_what_the_csv_says(self) -> None:
        self.closed()
        self.adjusted()
        sheet = load_workbook(io.BytesIO(self.file("history.xlsx").content)).active
        assert sheet is not None
        rows = list(sheet.iter_rows(values_only=True))
        table = self.table()
        self.assertEqual(len(rows), len(table) + 1)
        self.assertEqual([str(title) for title in rows[0]], list(table[0]))

    def test_an_empty_history_is_a_header_alone(self) -> None:
        self.assertEqual(self.table(), [])
        self.assertTrue(self.file("history.xlsx").content.startswith(b"PK"))

    def test_words_that_begin_like_a_formula_are_neutralised(self) -> None:
        system = self.plant.system
        system.name = "=1+1|cmd"
        system.save()
        self.plant.technician.name = "+Ines"
        self.plant.technician.save()
        self.closed()
        text = self.file("history.csv").content.decode("utf-8-sig")
        for cell in (cell for row in csv.reader(io.StringIO(text)) for cell in row):
            self.assertFalse(cell[:1] in ("=", "@") or cell.startswith("+I"), cell)

    def test_file_names_are_plain_and_say_what_is_in_them(self) -> None:
        system = self.plant.system
        system.name = 'Belt "7"; rm\r\nX: y'
        system.save()
        job = self.closed()
        record = Record.objects.get(job=job)
        for url in (f"/api/channels/{self.channel.id}/history.csv", f"/api/records/{record.id}/record.json",
                    f"/api/records/{record.id}/certificate.pdf", f"/api/jobs/{job.id}/job.json"):  # fmt: skip
            said = self.client.get(url).headers["Content-Disposition"]
            self.assertNotIn("\n", said)
            self.assertNotIn('"7"', said)
            self.assertIn("filename=", said)

    def test_a_sealed_record_can_be_assessed_again_from_its_file_alone(self) -> None:
        job = self.closed()
        record = Record.objects.get(job=job)
        content: dict[str, Any] = json.loads(self.client.get(f"/api/records/{record.id}/record.json").content)
        self.assertEqual(content["chain"]["number"], record.number)
        self.assertNotIn("password", json.dumps(content).lower())

    def test_the_log_is_searched_by_words_and_by_machine(self) -> None:
        self.closed()
        other = self.plant.add_system("Silo", "vessel", "vessel", {})
        rows = self.client.get("/api/log").json()["rows"]
        self.assertEqual(len(rows), 1)
        for query, count in (("find=conveyor", 1), ("find=silo", 0), (f"system={self.plant.system.id}", 1), (f"system={other.id}", 0)):  # fmt: skip
            self.assertEqual(len(self.client.get(f"/api/log?{query}").json()["rows"]), count, query)
