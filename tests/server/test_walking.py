"""Many chains walked at once: by several processes, going on where a walk was stopped, and at a glance."""

import io
import os
import subprocess
import sys
from unittest.mock import patch

from django.core.management import call_command
from django.db import connection
from django.utils import timezone

from beacon.bench.models import Entry
from beacon.people.models import Organisation
from beacon.records import verifying
from beacon.records.models import Record, Verification
from beacon.records.verifying import Broken, verify
from beacon.records.walking import by_several
from tests.emptied import EmptiedTestCase
from tests.large.filling import Template, fill
from tests.server.plant import enter
from tests.server.tampering import untriggered as unguarded

EACH = 6


class Walking(EmptiedTestCase):
    def setUp(self) -> None:
        self.template = Template()
        fill(self.template, 0, 3, EACH)

    def spoilt(self, name: str) -> Organisation:
        """An organisation with one entry that was changed past the triggers."""
        here = Organisation.objects.get(name=name)
        entry = Entry.objects.filter(job__record__organisation=here, path="runs.r2.tare").first()
        assert entry
        with unguarded():
            Entry.objects.filter(pk=entry.pk).update(text="12.99 t")
        return here

    def said(self, *given: str) -> tuple[list[str], int]:
        out, code = io.StringIO(), 0
        try:
            call_command("verify", *given, stdout=out)
        except SystemExit as ended:
            code = int(str(ended.code))
        return out.getvalue().splitlines(), code

    def test_several_processes_say_what_one_says(self) -> None:
        self.spoilt("Filled 0001")
        alone = self.said("--workers", "1")
        begun = "import django; django.setup(); from beacon.records import walking; walking.ALONE = 0;"
        begun += "from django.core.management import call_command; call_command('verify', '--workers', '2')"
        address = os.environ["DATABASE_URL"].rpartition("/")[0]
        database = {"DATABASE_URL": f"{address}/{connection.settings_dict['NAME']}"}
        done = subprocess.run([sys.executable, "-c", begun], env=os.environ | database, capture_output=True, text=True)
        self.assertEqual((done.stdout.splitlines(), done.returncode), alone, done.stderr)
        self.assertEqual(alone[1], 1)
        self.assertEqual([line[:11] for line in alone[0]], ["Filled 0000", "Filled 0001", "Filled 0002", "Gannet Ness"])
        self.assertIn("the entries in the database are not those that were sealed", alone[0][1])

    def test_one_that_was_stopped_goes_on_where_it_ended(self) -> None:
        seen = []

        def stopped(here: Organisation, against: object = ()) -> verifying.Verified:
            if len(seen) == 2:
                raise KeyboardInterrupt
            seen.append(here.name)
            return walk(here)

        walk = verifying.verify_chain
        with patch.object(verifying, "verify_chain", stopped), self.assertRaises(KeyboardInterrupt):
            list(verify(walk=by_several(1)))
        self.assertEqual(Verification.objects.filter(who=None).count(), 2)
        lines, code = self.said("--go-on")
        self.assertEqual(code, 0)
        again = [line.partition(":")[0] for line in lines if "was not walked again" in line]
        self.assertEqual(again, seen)
        self.assertEqual(len(lines), 4)

    def test_what_did_not_fit_or_has_grown_is_walked_again(self) -> None:
        self.spoilt("Filled 0001")
        self.said()
        fill(self.template, 3, 1, EACH)
        lines, code = self.said("--go-on")
        self.assertEqual(code, 1)
        self.assertEqual([line[:11] for line in lines if "not walked again" not in line], ["Filled 0001", "Filled 0003"])  # fmt: skip

    def test_most_is_seen_at_a_glance_and_nothing_that_differs_is(self) -> None:
        here = Organisation.objects.get(name="Filled 0002")
        with patch.object(verifying, "breaks", side_effect=AssertionError("looked at thoroughly")):
            self.assertEqual(verifying.verify_chain(here).count, EACH)
        for change in (
            "update bench_entry set raw = 'x' where id = %s", "update bench_entry set steady = true where id = %s",
            "update bench_entry set clock_off = 1 where id = %s", "update bench_entry set unit = 't' where id = %s",
            "update bench_entry set undoes = true where id = %s", "update bench_entry set sequence = 999 where id = %s",
            "update bench_entry set at = at + interval '1 microsecond' where id = %s", "update bench_entry set source = 'imported' where id = %s",
            "update bench_entry set supersedes = gen_random_uuid() where id = %s", "update bench_entry set entry_id = gen_random_uuid() where id = %s",
            "update bench_entry set path = 'runs.r9.tare' where id = %s", "update bench_entry set who_id = (select min(id) from people_person) where id = %s",
            "delete from bench_entry where id = %s",
        ):  # fmt: skip
            entry = Entry.objects.filter(job__record__organisation=here, path="runs.r2.tare").order_by("job__record__number").last()  # fmt: skip
            assert entry
            with self.subTest(change), unguarded():
                try:
                    with connection.cursor() as cursor:
                        cursor.execute("begin")
                        cursor.execute(change, [entry.pk])
                    found = verifying.verify_chain(here)
                    self.assertEqual([one.number for one in found.broken][:1], [EACH], change)
                finally:
                    with connection.cursor() as cursor:
                        cursor.execute("rollback")
        self.assertEqual(verifying.verify_chain(here).broken, [])

    def test_whatever_was_typed_is_seen_at_a_glance_and_a_moved_boundary_of_texts_is_not(self) -> None:
        plant = self.template.plant
        job = plant.job()
        enter(job, plant.technician, {"note": 'a","undoes":true,"unit":"b \\ “é” 🙂, {[}] ,"who":"x"'})
        self.client.force_login(plant.technician)
        given = {"signed": "T", "outcome": "abandoned", "reason": "no lorry came"}
        answer = self.client.post(f"/api/jobs/{job.id}/close", given, content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content)
        with patch.object(verifying, "breaks", side_effect=AssertionError("looked at thoroughly")):
            self.assertEqual(verifying.verify_chain(plant.organisation).count, 2)
        for text, unit in (("a", "b"), ('a","undoes":true,"unit":"b \\ “é” 🙂, {[}] ,"who":"y"', "")):
            with self.subTest(text), unguarded():
                Entry.objects.filter(job=job, path="note").update(text=text, unit=unit)
                (broken,) = verifying.verify_chain(plant.organisation).broken
                self.assertIn("not those that were sealed", broken.why)

    def test_two_people_in_one_job_are_seen_at_a_glance_and_an_entry_of_the_other_is_not(self) -> None:
        plant = self.template.plant
        job = plant.job()
        enter(job, plant.technician, {"note": "mine", "runs.r1.gross": "34.10 t"})
        enter(job, plant.lead, {"runs.r1.tare": "12.76 t"})
        self.client.force_login(plant.technician)
        given = {"signed": "T", "outcome": "abandoned", "reason": "no lorry came"}
        self.client.post(f"/api/jobs/{job.id}/close", given, content_type="application/json")
        with patch.object(verifying, "breaks", side_effect=AssertionError("looked at thoroughly")):
            self.assertEqual(verifying.verify_chain(plant.organisation).count, 2)
        with unguarded():
            Entry.objects.filter(job=job, path="runs.r1.tare").update(who=plant.technician)
        (broken,) = verifying.verify_chain(plant.organisation).broken
        self.assertIn("not those that were sealed", broken.why)

    def test_an_entry_of_a_whole_second_is_seen_at_a_glance(self) -> None:
        plant = self.template.plant
        job = plant.job()
        enter(job, plant.technician, {"note": "on the second"})
        whole = timezone.now().replace(microsecond=0)
        with unguarded():
            Entry.objects.filter(job=job).update(at=whole)
        self.client.force_login(plant.technician)
        given = {"signed": "T", "outcome": "abandoned", "reason": "no lorry came"}
        self.client.post(f"/api/jobs/{job.id}/close", given, content_type="application/json")
        self.assertIn(f'"{whole.isoformat()}"', Record.objects.get(job=job).content)
        with patch.object(verifying, "breaks", side_effect=AssertionError("looked at thoroughly")):
            self.assertEqual(verifying.verify_chain(plant.organisation).count, 2)

    def test_a_job_whose_entries_were_folded_is_seen_at_a_glance_too(self) -> None:
        job = self.template.plant.job()
        enter(job, self.template.plant.technician, {f"runs.r{n}.gross": f"34.{10 + n % 60} t" for n in range(90)})
        client = self.client
        client.force_login(self.template.plant.technician)
        given = {"signed": "T", "outcome": "abandoned", "reason": "no lorry came"}
        answer = client.post(f"/api/jobs/{job.id}/close", given, content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content)
        record = Record.objects.get(job=job)
        self.assertGreater(record.job.folded, 0)
        here = self.template.plant.organisation
        with patch.object(verifying, "breaks", side_effect=AssertionError("looked at thoroughly")):
            self.assertEqual(verifying.verify_chain(here).count, 2)
        with unguarded(), connection.cursor() as cursor:
            cursor.execute("update bench_job set fold = jsonb_set(fold, '{fields,runs.r1.gross,text}', '\"9 t\"') where id = %s", [job.id])  # fmt: skip
        (broken,) = verifying.verify_chain(here).broken
        self.assertIn("what its page shows", broken.why)

    def test_records_that_are_gone_are_missed_wherever_they_stood(self) -> None:
        with unguarded():
            Record.objects.filter(organisation__name="Filled 0000", number__gte=EACH - 1).delete()
        said = [str(one) for one in verify() if isinstance(one, Broken)]
        self.assertTrue(any("2 of the records that were sealed here are not here any more" in one for one in said), said)  # fmt: skip
