"""Entries: append-only, harmless to resend, folded, assessed on every one."""

import uuid

from django.db import DatabaseError, connection, transaction

from beacon.bench.models import Entry, Job
from tests.server.plant import AGREEING, PlantTestCase, entries, runs, snapshot
from wary.job.assess import parts_of
from wary.job.fold import rebuilt


class Keeping(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()

    def test_an_entry_comes_back_with_the_new_call(self) -> None:
        answer = self.send_entries(self.job, {"inputs.zero_done": "job"} | runs(AGREEING))
        part = answer["job"]["parts"][0]
        self.assertEqual(part["assessment"]["call"], "adjust")
        # ΣR/ΣI = 61.82/62.70; 1.1420 × 0.98596 = 1.12597, four decimals.
        self.assertEqual(part["assessment"]["key_in"]["factor"], "1.1260")
        self.assertEqual([row["net"] for row in answer["job"]["rows"]["runs"]], ["21.34 t", "19.87 t", "20.61 t"])

    def test_a_resend_is_harmless_and_another_text_under_the_same_id_is_refused(self) -> None:
        one = entries({"runs.a.gross": "34,10"})
        path = f"/api/jobs/{self.job.id}/entries"
        first, second = self.send(path, one).json(), self.send(path, one).json()
        self.assertEqual(first["entries"], second["entries"])
        self.assertEqual(second["kept"], [one[0]["id"]])
        other = self.send(path, [one[0] | {"text": "99"}]).json()
        self.assertEqual(len(other["refused"]), 1)

    def test_what_was_typed_is_kept_as_typed(self) -> None:
        self.send_entries(self.job, {"runs.a.gross": "34,10", "runs.a.tare": "12 lb 6 oz"})
        field = self.client.get(f"/api/jobs/{self.job.id}").json()["fields"]["runs.a.gross"]
        self.assertEqual(field["text"], "34,10")

    def test_a_correction_supersedes_and_the_old_entry_stays_in_the_trail(self) -> None:
        self.send_entries(self.job, {"runs.a.gross": "34.10"})
        self.send_entries(self.job, {"runs.a.gross": "34.20"})
        field = self.client.get(f"/api/jobs/{self.job.id}").json()["fields"]["runs.a.gross"]
        self.assertEqual((field["text"], field["previous"]["text"], field["earlier"]), ("34.20", "34.10", 1))
        trail = self.client.get(f"/api/jobs/{self.job.id}/entries?path=runs.a.gross").json()
        self.assertEqual([entry["text"] for entry in trail], ["34.10", "34.20"])

    def test_undo_is_an_entry_and_what_stood_before_is_in_force_again(self) -> None:
        first = entries({"runs.a.gross": "34.10"})
        second = entries({"runs.a.gross": "43.10"})
        path = f"/api/jobs/{self.job.id}/entries"
        self.send(path, first + second)
        undo = {"id": str(uuid.uuid4()), "path": "runs.a.gross", "undoes": True, "supersedes": second[0]["id"]}
        answer = self.send(path, [undo]).json()
        self.assertEqual(answer["changes"]["fields"]["runs.a.gross"]["text"], "34.10")
        self.assertEqual(Entry.objects.filter(job=self.job, path="runs.a.gross").count(), 3)

    def test_a_path_that_is_no_place_is_refused_and_the_others_are_kept(self) -> None:
        answer = self.send_entries(self.job, {"inputs.colour": "grey", "inputs.zero_done": "job"})
        self.assertEqual([row["path"] for row in answer["refused"]], ["inputs.colour"])
        self.assertEqual(answer["job"]["fields"]["inputs.zero_done"]["text"], "job")

    def test_a_text_that_cannot_be_read_is_kept_with_a_sentence_beside_it(self) -> None:
        answer = self.send_entries(self.job, {"runs.a.gross": "about 34"})
        field = answer["job"]["fields"]["runs.a.gross"]
        self.assertEqual(field["text"], "about 34")
        self.assertIn("expected", field["problem"])

    def test_two_windows_that_did_not_see_each_other_clash_until_one_says_which_holds(self) -> None:
        self.send_entries(self.job, {"runs.a.gross": "34.10"})
        answer = self.send_entries(self.job, {"runs.a.gross": "34.70"}, self.signed_in(self.plant.lead))
        field = answer["job"]["fields"]["runs.a.gross"]
        self.assertTrue(field["clash"])
        self.assertEqual(field["previous"]["text"], "34.10")
        settled = entries({"runs.a.gross": "34.10"})
        settled[0]["supersedes"] = field["id"]
        answer = self.send(f"/api/jobs/{self.job.id}/entries", settled).json()
        self.assertFalse(answer["changes"]["fields"]["runs.a.gross"]["clash"])

    def test_the_fold_can_be_made_again_from_the_entries(self) -> None:
        self.send_entries(self.job, {"inputs.zero_done": "job"} | runs(AGREEING))
        self.send_entries(self.job, {"runs.r1.gross": "34.30 t"})
        stored = Job.objects.get(pk=self.job.pk)
        trail = Entry.objects.filter(job=stored).order_by("sequence")
        self.assertEqual(rebuilt((one.logged for one in trail), parts_of(stored.parts)), snapshot(stored).fold)

    def test_the_database_itself_refuses_to_change_or_remove_an_entry(self) -> None:
        self.send_entries(self.job, {"runs.a.gross": "34.10"})
        for statement in ("update bench_entry set text = '99'", "delete from bench_entry"):
            with self.assertRaises(DatabaseError), transaction.atomic(), connection.cursor() as cursor:
                cursor.execute(statement)

    def test_malformed_requests_are_answered_by_the_path_of_the_field(self) -> None:
        answer = self.send(f"/api/jobs/{self.job.id}/entries", {"id": "no"})
        self.assertEqual(answer.status_code, 422)
        self.assertEqual(answer["Content-Type"], "application/problem+json")

    def test_an_entry_that_cannot_be_read_is_refused_alone_and_the_others_are_kept(self) -> None:
        good = entries({"runs.a.gross": "34.10", "inputs.zero_done": "job"})
        bad = [
            {"id": "no", "path": "runs.a.tare", "text": "1"},
            {"id": str(uuid.uuid4()), "path": "x" * 130, "text": "1"},
            {"id": str(uuid.uuid4()), "path": "note", "text": "a\x00b"},
            {"id": str(uuid.uuid4()), "path": "note", "text": "late", "at": "2199-01-01T00:00:00Z"},
            {"id": str(uuid.uuid4()), "path": "note", "text": "early", "at": "0001-01-01T00:00+14:00"},
            {"id": str(uuid.uuid4()), "path": "note", "text": 10**30},
            17, None, [], "entry",
        ]  # fmt: skip
        answer = self.send(f"/api/jobs/{self.job.id}/entries", [bad[0], good[0], *bad[1:], good[1]])
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(answer.json()["kept"], [one["id"] for one in good])
        refused = answer.json()["refused"]
        self.assertEqual([one["id"] for one in refused], [one["id"] if isinstance(one, dict) else "" for one in bad])
        self.assertTrue(all(one["text"].startswith("This entry cannot be read: ") for one in refused), refused)
        self.assertFalse(Entry.objects.filter(job=self.job, path="note").exists())

    def test_an_entry_and_what_takes_it_back_may_come_in_one_batch(self) -> None:
        first, second = entries({"runs.a.gross": "34.10"}), entries({"runs.a.gross": "43.10"})
        undo = {"id": str(uuid.uuid4()), "path": "runs.a.gross", "undoes": True, "supersedes": second[0]["id"]}
        answer = self.send(f"/api/jobs/{self.job.id}/entries", [*first, *second, undo]).json()
        self.assertEqual((answer["refused"], len(answer["kept"])), ([], 3))
        self.assertEqual(answer["changes"]["fields"]["runs.a.gross"]["text"], "34.10")
        trail = Entry.objects.filter(job=self.job).order_by("sequence")
        self.assertEqual(
            rebuilt((one.logged for one in trail), parts_of(self.job.parts)),
            snapshot(Job.objects.get(pk=self.job.pk)).fold,
        )
        # What was never there cannot be taken back, in a batch either.
        stray = {"id": str(uuid.uuid4()), "path": "runs.a.tare", "undoes": True, "supersedes": first[0]["id"]}
        answer = self.send(f"/api/jobs/{self.job.id}/entries", [*entries({"runs.a.tare": "1 t"}), stray]).json()
        self.assertEqual([one["text"] for one in answer["refused"]], ["There is nothing there to take back."])


class Limits(PlantTestCase):
    def test_a_technician_may_tighten_and_only_a_lead_may_loosen(self) -> None:
        job = self.plant.job()
        tight = self.send_entries(job, {"profile.accept": "0.3 %"})
        self.assertEqual(tight["refused"], [])
        loose = self.send_entries(job, {"profile.accept": "1 %"})
        self.assertIn("only tighten", loose["refused"][0]["text"])
        by_lead = self.send_entries(job, {"profile.accept": "1 %"}, self.signed_in(self.plant.lead))
        self.assertEqual(by_lead["refused"], [])
        self.assertTrue(by_lead["job"]["parts"][0]["limits"]["changed"])

    def test_an_overdue_reference_stops_the_job_until_a_lead_lets_it_pass(self) -> None:
        self.plant.bridge.due = "2020-01-01"
        self.plant.bridge.save()
        job = self.plant.job()
        answer = self.send_entries(job, {"inputs.zero_done": "job"} | runs(AGREEING))
        codes = [reason["code"] for reason in answer["job"]["parts"][0]["assessment"]["reasons"]]
        self.assertEqual(codes, ["reference-out-of-date"])
        passed = {"references.r1.allowed_by": "the lead, until Friday"}
        self.assertEqual(len(self.send_entries(job, passed)["refused"]), 1)
        answer = self.send_entries(job, passed, self.signed_in(self.plant.lead))
        self.assertEqual(answer["job"]["parts"][0]["assessment"]["call"], "adjust")

    def test_naming_another_reference_brings_its_figures(self) -> None:
        lead = self.signed_in(self.plant.lead)
        body = {"name": "Platform", "division": "0.5 kg", "uncertainty": "0.02 %", "range": "3 t"}
        added = self.send("/api/references", body, lead).json()
        job = self.plant.job()
        answer = self.send_entries(job, {"references.r1.id": added["id"]})
        fields = answer["job"]["fields"]
        self.assertEqual(fields["inputs.reference_division"]["text"], "0.5 kg")
        self.assertEqual(fields["references.r1.name"]["text"], "Platform")
        used = self.client.get(f"/api/references/{added['id']}/jobs").json()
        self.assertEqual([row["job"] for row in used], [str(job.id)])


class Asking(PlantTestCase):
    def test_an_indication_in_the_wrong_unit_is_asked_about_and_the_slip_is_named(self) -> None:
        job = self.plant.job()
        # Short tons on the display, noted as tonnes: 21.34 t is 23.52 short tons.
        loads = [("34.10", "12.76", "23.52"), ("32.61", "12.74", "21.90"), ("33.35", "12.74", "22.72")]
        answer = self.send_entries(job, {"inputs.zero_done": "job"} | runs(loads))
        fields = answer["job"]["fields"]
        self.assertEqual(fields["runs.r1.indicated"]["question"], "Is this ston, not t?")
        slips = answer["job"]["parts"][0]["assessment"]["slips"]
        self.assertEqual(slips[0]["likely"], "ston")

    def test_a_read_back_with_a_moved_point_is_asked_about(self) -> None:
        job = self.plant.job()
        self.send_entries(job, {"inputs.zero_done": "job"} | runs(AGREEING))
        for text, words in (("11.260", "decimal point"), ("1.1206", "changed places"), ("1.12601", "more decimals")):
            answer = self.send_entries(job, {"read_back": text})
            self.assertIn(words, answer["job"]["fields"]["read_back"]["question"])
        right = self.send_entries(job, {"read_back": "1.1260"})["job"]["fields"]["read_back"]
        self.assertIsNone(right["question"])
