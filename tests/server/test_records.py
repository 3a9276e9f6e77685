"""What leaves on paper, what is looked for in the log, and records that are put right without hiding what was wrong."""

import csv
import datetime
import io
import json
from typing import Any
from unittest import mock

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from openpyxl import load_workbook
from pypdf import PdfReader

from beacon.bench.models import Job
from beacon.people.models import Membership, Role
from beacon.printing.sheets import about_work_sheet
from beacon.records.models import Record
from beacon.records.verifying import verify
from tests.server.pictures import photograph
from tests.server.plant import AGREEING, GIVEN_UP, enter, entries, runs
from tests.server.sealed import Sealed
from tests.server.test_closing import IN_ORDER
from wary.fields import OCCASIONS


class OnPaper(Sealed):
    def test_the_work_sheet_has_every_reading_with_who_and_when_and_what_was_replaced(self) -> None:
        job = self.plant.job()
        wrong, right = (entries({"runs.r1.gross": text})[0] for text in ("99.9 t", f"{IN_ORDER[0][0]} t"))
        sent = self.send(f"/api/jobs/{job.id}/entries", [wrong, right | {"supersedes": wrong["id"]}])
        self.assertEqual(sent.json()["refused"], [])
        texts = {"inputs.zero_done": "job"} | runs(IN_ORDER)
        record = self.seal({path: text for path, text in texts.items() if path != "runs.r1.gross"}, job=job)
        said = about_work_sheet(record)
        rows = [row for section in said["sections"] for row in section["rows"]]
        self.assertEqual(len(rows), job.trail.count())
        replaced = [row for row in rows if row["gone"]]
        self.assertIn("99.9 t", [row["text"] for row in replaced])
        self.assertIn("Runs 1, gross", [row["where"] for row in rows])
        self.assertIn("Runs 3, gross", [row["where"] for row in rows])
        text = self.text_of(f"/api/records/{record.id}/work-sheet.pdf")
        for words in ("99.9 t", "Technician@Gannetness"[:10], f"Work sheet of record {record.number}"):
            self.assertIn(words, text)

    def test_the_trail_is_in_words_ticks_and_choices_too(self) -> None:
        ticks = {"tick.look.guards": "yes", "caution.look": "yes", "tick.look.belt": "no", "loose.guards": "done"}
        record = self.seal({"inputs.zero_done": "job", **ticks} | runs(IN_ORDER), job=self.plant.job())
        view = self.client.get(f"/api/records/{record.id}").json()
        said = {row["where"]: row["says"] for row in view["trail"]}
        self.assertEqual(said["Look first: Guards were taken off for this"], "ticked")
        self.assertEqual(said["Look first: Belt tracks, tension right, scraper clean"], "not ticked")
        self.assertEqual(said["Look first: what to beware of"], "seen to")
        self.assertEqual(said["Put back: Guards were taken off for this"], "put back")
        self.assertEqual(said["Zero was taken"], "in this job")
        self.assertEqual(said["Occasion"], OCCASIONS["routine"])
        words = " ".join([*said, *said.values()])
        for key in ("inputs.", "tick.", "_", "zero_done"):
            self.assertNotIn(key, words)
        sheet = about_work_sheet(record)
        texts = {row["where"]: row["text"] for section in sheet["sections"] for row in section["rows"]}
        self.assertEqual(texts["Zero was taken"], "in this job")

    def test_a_record_opens_with_its_figures_and_what_was_changed(self) -> None:
        record = self.seal({"inputs.zero_done": "job"} | runs(IN_ORDER), job=self.plant.job())
        part = self.client.get(f"/api/records/{record.id}").json()["parts"][-1]
        self.assertEqual(len(part["stages"][0]["rows"]), 3)
        self.assertTrue(part["stages"][0]["mean"])
        self.assertEqual(part["adjustment"], [])
        self.assertTrue(part["line"])

    def test_stickers_come_in_two_sizes_with_date_due_by_factor_and_a_code(self) -> None:
        record = self.seal()
        for size, width in (("62x29", 62), ("a7", 105)):
            url = f"/api/records/{record.id}/sticker.pdf?size={size}"
            text = self.text_of(url)
            self.assertIn("due", text)
            self.assertIn("1.1420", text)
            box = PdfReader(io.BytesIO(self.client.get(url).content)).pages
            self.assertEqual(len(box), 1)
            self.assertAlmostEqual(float(box[0].mediabox.width) / 72 * 25.4, width, delta=0.5)
        self.assertEqual(self.client.get(f"/api/records/{record.id}/sticker.pdf?size=a1").status_code, 422)
        self.seal()
        # The next date is that of the latest record; an older sticker does not promise it.
        self.assertNotIn("due", self.text_of(f"/api/records/{record.id}/sticker.pdf"))

    def test_the_label_of_a_system_opens_its_page(self) -> None:
        self.assertIn("Conveyor", self.text_of(f"/api/systems/{self.plant.system.id}/label.pdf"))


class PutRight(Sealed):
    def begin(self, record: Record, client: Any = None, reason: str = "the tickets were exchanged") -> Any:
        client = client or self.signed_in(self.plant.lead)
        return self.send(f"/api/records/{record.id}/put-right", {"reason": reason}, client)

    def test_the_new_record_points_back_and_is_pointed_to(self) -> None:
        record = self.seal()
        answer = self.begin(record)
        self.assertEqual(answer.status_code, 201, answer.content)
        job = Job.objects.get(id=answer.json()["id"])
        lead = self.signed_in(self.plant.lead)
        second = self.seal({"runs.r1.indicated": IN_ORDER[0][2] + " t"}, lead, job)
        self.assertEqual(second.supersedes, record)
        sealed = json.loads(second.content)["supersedes"]
        self.assertEqual((sealed["number"], sealed["sha256"]), (record.number, record.sha256))
        old, new = (self.client.get(f"/api/records/{one.id}").json() for one in (record, second))
        self.assertEqual(old["put_right_by"]["number"], second.number)
        self.assertEqual(new["puts_right"]["reason"], "the tickets were exchanged")
        self.assertIn("put right by record", self.text_of(f"/api/records/{record.id}/certificate.pdf"))
        self.assertIn("every link fits", str(list(verify())[-1]))

    def test_what_was_said_is_there_again_with_its_photographs_and_nothing_of_the_old_is_changed(self) -> None:
        job = self.plant.job()
        self.client.post(f"/api/jobs/{job.id}/attachments?path=runs.r1", photograph(), content_type="image/jpeg")
        record = self.seal(job=job)
        before = Record.objects.values().get(pk=record.pk)
        answer = self.begin(record).json()
        self.assertEqual(answer["fields"]["runs.r1.gross"]["text"], job_text(record, "runs.r1.gross"))
        self.assertEqual(answer["fields"]["runs.r1.gross"]["source"], "imported")
        self.assertEqual(len(self.client.get(f"/api/jobs/{answer['id']}/attachments").json()), 1)
        self.assertEqual(Record.objects.values().get(pk=record.pk), before)

    def test_a_record_is_put_right_once_and_by_a_lead(self) -> None:
        record = self.seal()
        self.assertEqual(self.begin(record, self.client).status_code, 404)
        self.assertEqual(self.begin(record, reason="12").status_code, 422)
        first, second = self.begin(record).json(), self.begin(record).json()
        self.assertEqual(first["id"], second["id"], "one at a time: the second goes on with the first")
        lead = self.signed_in(self.plant.lead)
        closing = {"signed": "x", "outcome": "complete"}
        self.assertEqual(self.send(f"/api/jobs/{first['id']}/close", closing, lead).status_code, 200)
        self.assertEqual(self.begin(record).status_code, 409)

    def test_of_two_that_were_open_from_before_one_puts_it_right_and_the_other_can_be_given_up(self) -> None:
        record = self.seal()
        first = Job.objects.get(pk=self.begin(record).json()["id"])
        Job.objects.filter(pk=first.pk).update(puts_right=None)
        second = Job.objects.get(pk=self.begin(record).json()["id"])
        Job.objects.filter(pk=first.pk).update(puts_right=record.pk)
        self.assertNotEqual(first, second)
        lead = self.signed_in(self.plant.lead)
        closing, closed = {"signed": "x", "outcome": "complete"}, "/api/jobs/{}/close"
        self.assertEqual(self.send(closed.format(first.pk), closing, lead).status_code, 200)
        self.assertEqual(self.send(closed.format(second.pk), closing, lead).status_code, 409)
        given_up = self.send(closed.format(second.pk), GIVEN_UP, lead)
        self.assertEqual(given_up.status_code, 200, given_up.content)
        self.assertIn("every link fits", str(list(verify())[-1]))

    def test_one_that_is_given_up_puts_nothing_right(self) -> None:
        record, lead = self.seal(), self.signed_in(self.plant.lead)
        begun = self.begin(record).json()["id"]
        self.assertEqual(self.send(f"/api/jobs/{begun}/close", GIVEN_UP, lead).status_code, 200)
        self.assertIsNone(self.client.get(f"/api/records/{record.id}").json()["put_right_by"])
        self.assertEqual(self.begin(record).status_code, 201)
        self.assertIn("every link fits", str(list(verify())[-1]))

    def test_what_was_closed_without_signal_and_comes_in_late_hands_nothing_on_over_a_later_one(self) -> None:
        late = self.plant.job()
        enter(late, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        then = timezone.now() - datetime.timedelta(hours=3)
        Job.objects.filter(pk=late.pk).update(opened_at=then, touched_at=then)
        later = self.plant.job()
        enter(later, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        enter(later, self.plant.technician, {"read_back": "1.1260", "loose.zero-again": "done"})
        enter(later, self.plant.technician, runs(IN_ORDER, "as_left"))
        closing = {"signed": "x", "outcome": "complete"}
        self.assertEqual(self.send(f"/api/jobs/{later.pk}/close", closing).status_code, 200)
        channel, system = self.plant.system.channels.get(), self.plant.system
        system.refresh_from_db()
        before = (channel.factor, system.state, system.last, system.due)
        self.assertEqual(before[0], "1.1260")
        came = self.send(
            f"/api/jobs/{late.pk}/close", closing | {"at": (then + datetime.timedelta(minutes=5)).isoformat()}
        )
        self.assertEqual(came.status_code, 200, came.content)
        self.assertEqual(Job.objects.get(pk=late.pk).closed_at, then + datetime.timedelta(minutes=5))
        channel.refresh_from_db()
        system.refresh_from_db()
        self.assertEqual((channel.factor, system.state, system.last, system.due), before)
        self.assertIn("every link fits", str(list(verify())[-1]))

    def test_the_history_has_the_right_one_at_the_time_of_the_wrong_one(self) -> None:
        record = self.seal()
        channel = self.plant.system.channels.get()
        history = f"/api/channels/{channel.id}/history"
        before = self.client.get(history).json()["points"]
        answer = self.begin(record).json()
        self.seal({"note": "tickets in their order"}, self.signed_in(self.plant.lead), Job.objects.get(id=answer["id"]))
        after = self.client.get(history).json()["points"]
        self.assertEqual(len(after), len(before))
        self.assertEqual(after[-1]["closed_at"], before[-1]["closed_at"])

    def test_a_later_visit_keeps_its_word_about_the_machine(self) -> None:
        first = self.seal()
        self.seal()
        self.plant.system.refresh_from_db()
        last = self.plant.system.last
        answer = self.begin(first).json()
        self.seal({"note": "x y"}, self.signed_in(self.plant.lead), Job.objects.get(id=answer["id"]))
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.last, last)


def job_text(record: Record, path: str) -> str:
    return str([entry["text"] for entry in json.loads(record.content)["trail"] if entry["path"] == path][-1])


class Log(Sealed):
    def numbers(self, query: str, client: Any = None) -> list[int]:
        answer = (client or self.client).get(f"/api/log?{query}")
        self.assertEqual(answer.status_code, 200, answer.content)
        return [row["number"] for row in answer.json()["rows"]]

    def setUp(self) -> None:
        super().setUp()
        self.first = self.seal()
        self.plant.technician.name = "Ines Marrow"
        self.plant.technician.save()
        self.second = self.seal()

    def test_it_is_searched_by_words_days_site_kind_call_person_and_reference(self) -> None:
        today = timezone.now().date()
        both, none = [self.second.number, self.first.number], []
        for query, found in (
            ("find=conveyor+yard", both), ("find=nothing", none), ("find=belt", both), ("person=ines", both),
            (f"since={today}", both), (f"until={today - datetime.timedelta(days=1)}", none),
            (f"since={today}&until={today}", both), (f"site={self.plant.site.id}", both), (f"site={self.other.site.id}", none),
            ("kind=belt", both), ("kind=axle", none), ("call=leave", both), ("call=find-fault", none),
            (f"reference={self.plant.bridge.id}", both), (f"reference={self.other.bridge.id}", none),
            (f"system={self.plant.system.id}", both), (f"find={self.first.number}", [self.first.number]),
        ):  # fmt: skip
            for named in (500, 0):
                # Machines are named in the question where they are few, and looked up in it where they are many.
                with self.subTest(query, named=named), mock.patch("beacon.history.log.MOST_NAMED", named):
                    self.assertEqual(self.numbers(query), found)

    def test_what_cannot_be_asked_is_answered(self) -> None:
        for query in (
            "before=0669-08-16T03:43:21-23:28", "before=-3504", "before=x~1", "since=tomorrow", "call=maybe", "site=1",
            "before=9999-12-31T23:59:59%2B00:00", "until=9999-12-31",
        ):  # fmt: skip
            with self.subTest(query):
                self.assertIn(self.client.get(f"/api/log?{query}").status_code, (200, 422))

    def test_a_page_begins_where_the_one_before_ended_even_at_the_same_moment(self) -> None:
        at = timezone.now()
        jobs = [self.plant.job() for _ in range(40)]
        Job.objects.filter(id__in=[job.id for job in jobs]).update(
            summary=Job.objects.get(pk=self.first.job_id).summary
        )
        rows = [
            Record(organisation=self.plant.organisation, job=jobs[one], number=100 + one, content="{}", sha256="0" * 64, sealed_at=at, sealed_by=self.plant.technician)
            for one in range(40)
        ]  # fmt: skip
        Record.objects.bulk_create(rows)
        seen: list[int] = []
        before = ""
        with CaptureQueriesContext(connection) as asked:
            while True:
                answer = self.client.get("/api/log", {"before": before}).json()
                seen += [row["number"] for row in answer["rows"]]
                before = answer["earlier"]
                if not before:
                    break
        self.assertEqual(seen, sorted(seen, reverse=True))
        self.assertEqual(len(seen), 42)
        self.assertFalse([one for one in asked.captured_queries if "COUNT(" in one["sql"].upper()])

    def test_it_is_taken_away_as_csv_and_as_a_workbook(self) -> None:
        self.plant.system.name = "=1+1"
        self.plant.system.save()
        rows = list(csv.reader(io.StringIO(self.client.get("/api/log.csv?kind=belt").content.decode("utf-8-sig"))))
        self.assertEqual(len(rows), 3)
        self.assertIn("'=1+1", rows[1])
        book = load_workbook(io.BytesIO(self.client.get("/api/log.xlsx").content)).active
        assert book is not None
        self.assertEqual(book.max_row, 3)

    def test_a_records_page_asks_as_often_for_many_entries_as_for_few(self) -> None:
        asked = []
        for lorries in (IN_ORDER, [*IN_ORDER, *IN_ORDER, *IN_ORDER]):
            record = self.seal({"inputs.zero_done": "job"} | runs(lorries))
            self.client.get(f"/api/records/{record.id}")
            with CaptureQueriesContext(connection) as queries:
                self.assertEqual(self.client.get(f"/api/records/{record.id}").json()["fits"], None)
            asked.append(len(queries))
        self.assertEqual(asked[0], asked[1])

    def test_a_reader_finds_only_what_is_of_their_sites(self) -> None:
        reader = self.signed_in(self.plant.people[Role.READER])
        self.assertEqual(len(self.numbers("find=conveyor", reader)), 2)
        Membership.objects.get(person=self.plant.people[Role.READER]).sites.clear()
        self.assertEqual(self.numbers("find=conveyor", reader), [])
        self.assertEqual(reader.get(f"/api/records/{self.first.id}/work-sheet.pdf").status_code, 404)
