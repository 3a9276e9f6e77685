"""The chain of seals: walked, handed out, shortened, and held against what was sealed."""

import json
from unittest import mock

from django.core.management import CommandError, call_command
from django.db import connection
from django.test.utils import CaptureQueriesContext

from beacon.bench.models import Job
from beacon.records import verifying
from beacon.records.models import Record
from beacon.records.sealing import read_seals, seals
from beacon.records.verifying import verify
from tests.server.pictures import photograph
from tests.server.plant import enter, entries, runs
from tests.server.sealed import Sealed
from tests.server.tampering import untriggered
from tests.server.test_closing import IN_ORDER


class Chain(Sealed):
    def test_a_lead_sees_when_the_chain_was_last_verified_and_what_was_found(self) -> None:
        self.seal()
        lead = self.signed_in(self.plant.lead)
        self.assertIsNone(lead.get("/api/chain").json()["verified_at"])
        verified = self.send("/api/chain/verifications", {}, lead).json()
        self.assertEqual((verified["verified"], verified["breaks"]), (1, []))
        self.assertEqual(self.client.get("/api/chain").status_code, 404)

    def test_the_line_that_an_instrument_sent_is_sealed_with_what_was_taken_from_it(self) -> None:
        job = self.plant.job()
        (entry,) = entries({"runs.r1.gross": f"{IN_ORDER[0][0]} t"})
        captured = entry | {"source": "captured", "raw": "weight=34.10 t steady"}
        self.assertEqual(self.send(f"/api/jobs/{job.id}/entries", [captured]).json()["refused"], [])
        texts = {"inputs.zero_done": "job"} | runs(IN_ORDER)
        record = self.seal({path: text for path, text in texts.items() if path != "runs.r1.gross"}, job=job)
        trail = json.loads(record.content)["trail"]
        self.assertEqual([row["raw"] for row in trail if "raw" in row], ["weight=34.10 t steady"])
        shown = self.client.get(f"/api/records/{record.id}").json()["trail"]
        self.assertEqual({row["raw"] for row in shown}, {"", "weight=34.10 t steady"})
        self.assertIn("every link fits", str(next(one for one in verify() if "Ness" in str(one))))

    def test_sealing_does_not_count_the_records_of_the_server(self) -> None:
        self.seal()
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        with CaptureQueriesContext(connection) as asked:
            self.send(f"/api/jobs/{job.id}/close", {"signed": "x", "outcome": "complete"})
        self.assertTrue(Record.objects.filter(job=job).exists())
        counts = [one["sql"] for one in asked if "COUNT(" in one["sql"] and "records_record" in one["sql"]]
        self.assertEqual(counts, [])

    def test_that_a_clock_was_hours_off_is_sealed_with_what_was_typed_by_it(self) -> None:
        job = self.plant.job()
        (entry,) = entries({"runs.r1.gross": f"{IN_ORDER[0][0]} t"})
        self.assertEqual(
            self.send(f"/api/jobs/{job.id}/entries", [entry | {"clock_off": 18_000}]).json()["refused"], []
        )
        wrong = self.send(f"/api/jobs/{job.id}/entries", [entries({"note": "x"})[0] | {"clock_off": 9_000_000_000}])
        self.assertEqual(len(wrong.json()["refused"]), 1)
        texts = {"inputs.zero_done": "job"} | runs(IN_ORDER)
        record = self.seal({path: text for path, text in texts.items() if path != "runs.r1.gross"}, job=job)
        off = {row["path"]: row.get("clock_off") for row in json.loads(record.content)["trail"]}
        self.assertEqual({path for path, seconds in off.items() if seconds}, {"runs.r1.gross"})
        shown = self.client.get(f"/api/records/{record.id}").json()["trail"]
        self.assertEqual({row["clock_off"] for row in shown}, {0, 18_000})
        self.assertIn("every link fits", str(next(one for one in verify() if "Ness" in str(one))))

    def test_a_hundred_records_more_cost_the_same_few_questions_whatever_is_in_them(self) -> None:
        def questions() -> int:
            with CaptureQueriesContext(connection) as asked:
                self.assertIn("every link fits", " ".join(str(one) for one in verify()))
            return len(asked)

        def sealed(count: int) -> None:
            for _ in range(count):
                job = self.plant.job()
                self.client.post(
                    f"/api/jobs/{job.id}/attachments?path=runs.r1", photograph(), content_type="image/jpeg"
                )
                self.seal(job=job)

        # Read two at a time: what two more cost is what a hundred more cost.
        with mock.patch.object(verifying, "AT_ONCE", 2):
            sealed(2)
            few = questions()
            sealed(2)
            more = questions()
            sealed(2)
            self.assertEqual(questions() - more, more - few)
            self.assertLessEqual(more - few, 8)
        with mock.patch.object(verifying, "AT_ONCE", 6):
            self.assertLessEqual(questions(), few)

    def test_seals_that_were_handed_out_find_a_chain_that_was_shortened_or_made_anew(self) -> None:
        self.seal()
        self.seal()
        handed = read_seals(seals(self.plant.organisation))
        self.assertIn("2 seals kept elsewhere agree", str(list(verify(handed))))
        key = str(self.plant.organisation.id)
        longer = {key: [*handed[key], type(handed[key][0])(3, "a" * 64)]}
        self.assertIn("was shortened", str(list(verify(longer))))
        other = {key: [type(handed[key][0])(2, "b" * 64)]}
        self.assertIn("was made anew", str(list(verify(other))))

    def test_a_list_that_is_none_is_refused_with_its_line(self) -> None:
        for text in ("a,b\n", f"x,1,2031-01-01,{'g' * 64}\n", "\xff"):
            with self.assertRaises(ValueError):
                read_seals(text.encode("latin-1"))
        with self.assertRaises(CommandError):
            call_command("verify", "--against", "/nowhere/seals.csv")

    def test_what_was_handed_on_is_compared_with_what_was_sealed(self) -> None:
        record = self.seal()
        Job.objects.filter(pk=record.job_id).update(closing={"words": "complete"})
        self.assertIn("is not what was sealed", str(list(verify())))

    def test_a_verification_goes_on_after_what_does_not_fit_and_lists_all_of_it(self) -> None:
        for _ in range(5):
            self.seal()
        mine = "organisation_id = %s and number = %s"
        with untriggered(), connection.cursor() as cursor:
            for number, statement in (
                (2, f"update records_record set content = replace(content, 'belt', 'felt') where {mine}"),
                (3, f"delete from records_record where {mine}"),
                (
                    5,
                    f"update bench_job set call = 'adjust' where id = (select job_id from records_record where {mine})",
                ),
            ):
                cursor.execute(statement, [self.plant.organisation.id, number])
        lead = self.signed_in(self.plant.lead)
        found = self.send("/api/chain/verifications", {}, lead).json()
        self.assertEqual(found["verified"], 4)
        self.assertEqual({one["number"] for one in found["breaks"]}, {0, 2, 3, 5})
        self.assertTrue(all(one["why"] for one in found["breaks"]))
        self.assertIn("1 of the records that were sealed here are not here any more", str(list(verify())))

    def test_someone_may_be_called_otherwise_later(self) -> None:
        self.seal()
        self.plant.technician.name = "Ines Marrow-Hale"
        self.plant.technician.save()
        self.assertIn("every link fits", str(list(verify())))
