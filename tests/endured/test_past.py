"""A backup that only adds what is new: the log, a copy now and then, the files; and back as of a moment, verified."""

import os
import shutil
import subprocess
import sys
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest.mock import patch

from django.conf import settings
from django.test import TransactionTestCase

from beacon.bench.models import Entry
from beacon.records.models import Record
from tests.clusters import Cluster, copied_into, free_port, room
from tests.large.filling import Template

ROOT = Path(settings.ROOT)


class Past(TransactionTestCase):
    def setUp(self) -> None:
        self.template = Template()
        self.room = room()
        self.addCleanup(shutil.rmtree, self.room, ignore_errors=True)
        self.kept, self.files = self.room / "kept", self.room / "papers"
        self.files.mkdir()
        (self.files / "photo.jpg").write_bytes(b"a photograph")
        self.first = Cluster(self.room / "first").made()
        self.addCleanup(self.first.kill)
        copied_into(self.first)

    def commanded(self, *given: str, code: int = 0) -> str:
        """What `./run past …` says."""
        environment = os.environ | {"DATABASE_URL": self.first.url(), "BEACON_FILES": str(self.files)}
        done = subprocess.run([str(ROOT / "run"), "past", *given], env=environment, capture_output=True, text=True, timeout=120)  # fmt: skip
        self.assertEqual(done.returncode, code, done.stdout + done.stderr)
        return done.stdout + done.stderr

    def noted(self, text: str) -> datetime:
        """An entry more, and a moment after it was kept and before anything else is."""
        self.first.ask(
            "insert into bench_entry (job_id, entry_id, sequence, path, text, unit, source, raw, undoes, who_id, at, kept_at)"
            f" select job_id, gen_random_uuid(), max(sequence) + 1, 'note', '{text}', '', 'typed', '', false, min(who_id), now(), now()"
            " from bench_entry group by job_id returning 1"
        )
        time.sleep(0.05)
        at: datetime = self.first.ask("select clock_timestamp()")
        time.sleep(0.05)
        return at

    def test_it_comes_back_as_of_any_moment_and_is_verified(self) -> None:
        self.assertIn("The log is not kept", self.commanded("base", str(self.room), code=1))
        self.assertIn("Begin PostgreSQL anew", self.commanded("begin", str(self.kept)))
        self.first.kill()
        self.first.begin()
        early = datetime.now(UTC)
        self.assertIn("1 new files; 0 older copies", self.commanded("base", str(self.kept)))
        before = self.noted("before the mistake")
        self.noted("the mistake")
        (self.files / "later.jpg").write_bytes(b"another photograph")
        piece = self.first.ask("select pg_walfile_name(pg_switch_wal())")
        for _ in range(300):
            if self.first.ask(f"select last_archived_wal >= '{piece}' from pg_stat_archiver"):
                break
            time.sleep(0.1)
        data, port = self.room / "back", free_port()
        back = Cluster(data, port)
        self.addCleanup(back.kill)
        texts = "select string_agg(text, ', ' order by sequence) from bench_entry where path = 'note'"
        self.assertEqual(self.first.ask(texts), "before the mistake, the mistake")
        # It is lost, too.
        self.first.kill()
        said = self.commanded("back", str(self.kept), before.isoformat(), str(data), "--port", str(port))
        self.assertIn(f"answers at port {port}", said)
        self.assertEqual(back.ask(texts), "before the mistake")
        self.assertEqual(back.ask("select count(*) from records_record"), Record.objects.count())
        self.assertEqual(back.ask("select count(*) from bench_entry"), Entry.objects.count() + 1)
        walked = subprocess.run([sys.executable, "manage.py", "verify"], env=os.environ | {"DATABASE_URL": back.url()}, capture_output=True, text=True)  # fmt: skip
        # The chain is walked there: it finds what was put in past it, after the job was sealed.
        self.assertEqual(walked.returncode, 1, walked.stderr)
        self.assertIn("the entries in the database are not those that were sealed", walked.stdout)
        self._refused(early, before)
        self._pruned()

    def _refused(self, early: datetime, before: datetime) -> None:
        kept = str(self.kept)
        other = str(self.room / "other")
        self.assertIn("does not reach back", self.commanded("back", kept, (early - timedelta(days=1)).isoformat(), other, code=1))  # fmt: skip
        self.assertIn("is not empty", self.commanded("back", kept, before.isoformat(), str(self.room / "back"), code=1))
        ahead = (datetime.now(UTC) + timedelta(days=1)).isoformat()
        self.assertIn("does not reach that moment", self.commanded("back", kept, ahead, other, code=1))
        from beacon.database import past

        self.first.begin()
        full = shutil._ntuple_diskusage(10, 10, 0)  # type: ignore[attr-defined]
        with patch.dict(os.environ, {"DATABASE_URL": self.first.url()}), patch.object(past.shutil, "disk_usage", return_value=full), self.assertRaises(past.Refused) as why:  # fmt: skip
            past.base(self.kept, 1)
        self.assertIn("There is no room", str(why.exception))

    def _pruned(self) -> None:
        pieces = len(list((self.kept / "log").iterdir()))
        time.sleep(1)
        self.assertIn("1 new files; 0 older", self.commanded("base", str(self.kept), "--keep", "2"))
        time.sleep(1)
        self.assertIn("0 new files; 2 older", self.commanded("base", str(self.kept), "--keep", "1"))
        self.assertEqual(len(list(self.kept.glob("base-*"))), 1)
        left = sorted(one.name for one in (self.kept / "log").iterdir())
        self.assertLessEqual(len(left), pieces + 4, left)
        self.assertEqual({one.name for one in (self.kept / "files").iterdir()}, {"photo.jpg", "later.jpg"})
        newest = Path(sorted(self.kept.glob("base-*"))[-1])
        self.assertTrue((newest / "base.tar.gz").exists())
