"""Backups: of one moment, looked at whole before they are put back, put back whole or not at all."""

import fcntl
import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
import threading
import time
from pathlib import Path

from django.conf import settings
from django.db import connections
from django.test import Client

from beacon import backups
from beacon.bench.models import Job
from beacon.records.models import Restored
from beacon.records.sealing import close
from beacon.records.verifying import verify
from tests.emptied import EmptiedTestCase
from tests.endure import Typist
from tests.endured.test_endure import judged
from tests.server.landed import LANDED
from tests.server.pictures import photograph
from tests.server.plant import Plant, enter, runs
from tests.server.test_closing import IN_ORDER
from wary.job.closing import Asked


def kept_files() -> list[Path]:
    """The files of which a backup is made: archives, which can be made anew, are none."""
    found = (path for path in Path(settings.FILES).rglob("*") if path.is_file())
    return [path for path in found if backups.MADE_ANEW not in path.parts]


class Backups(EmptiedTestCase):
    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")
        self.client.force_login(self.plant.technician)
        name = settings.DATABASES["default"]["NAME"]
        address = os.environ["DATABASE_URL"].rpartition("/")[0]
        self.before = dict(os.environ)
        os.environ["DATABASE_URL"] = f"{address}/{name}"
        self.folder = Path(tempfile.mkdtemp())
        self.file = self.folder / "backup.tar"

    def tearDown(self) -> None:
        os.environ.clear()
        os.environ.update(self.before)

    def test_the_key_travels_under_a_pass_phrase_and_a_server_with_another_says_so(self) -> None:
        key = os.environ["BEACON_SECRET_KEY"]
        os.environ["BEACON_BACKUP_PHRASE"] = "gannets nest on the ness"
        backups.make(self.file)
        self.assertNotIn(key.encode(), self.file.read_bytes())
        self.assertEqual((backups.key_of(self.file), backups._other_key(self.file)), (key, ""))
        os.environ["BEACON_SECRET_KEY"] = "of the new machine"
        self.assertIn("BEACON_SECRET_KEYS_BEFORE", backups._other_key(self.file))
        os.environ["BEACON_SECRET_KEYS_BEFORE"] = f"older,{key}"
        self.assertEqual(backups._other_key(self.file), "")
        os.environ["BEACON_BACKUP_PHRASE"] = "another"
        with self.assertRaisesRegex(backups.Unfit, "not the pass phrase"):
            backups.key_of(self.file)
        del os.environ["BEACON_BACKUP_PHRASE"]
        backups.make(self.file)
        with self.assertRaisesRegex(backups.Unfit, "not in this backup"):
            backups.key_of(self.file)

    def test_what_is_packed_is_no_backup(self) -> None:
        with tarfile.open(self.file, "w:gz") as tar:
            tar.add(__file__, backups.MANIFEST)
        with self.assertRaisesRegex(backups.Unfit, "no whole backup"):
            backups.look_at(self.file, self.folder / "x")

    def sealed(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        sent = self.client.post(f"/api/jobs/{job.id}/attachments?path=runs.r1", photograph(), content_type="image/jpeg")
        self.assertEqual(sent.status_code, 201)
        close(self.plant.technician, Job.objects.get(pk=job.pk), Asked("x", "complete"))

    def put(self, file: Path) -> str:
        connections.close_all()
        return backups.put(file)

    def test_what_was_backed_up_is_put_back_with_its_files_and_verified(self) -> None:
        self.sealed()
        made = Path(settings.FILES) / backups.MADE_ANEW / "one.zip"
        made.parent.mkdir(exist_ok=True)
        made.write_bytes(b"PK")
        self.addCleanup(shutil.rmtree, made.parent)
        held = kept_files()
        self.assertGreaterEqual(len(held), 2)
        self.assertTrue(backups.make(self.file).endswith(f"the database and {len(held)} files."))
        for path in Path(settings.FILES).rglob("*"):
            if path.is_file():
                path.unlink()
        late = self.plant.job()
        said = self.put(self.file)
        self.assertIn("1 record, every link fits", said)
        self.assertFalse(Job.objects.filter(pk=late.pk).exists())
        self.assertIn("every link fits", str(list(verify())))
        self.assertEqual(Client().get("/api/ready").status_code, 200)

    def test_a_backup_made_while_people_type_is_of_one_moment(self) -> None:
        self.sealed()
        job = self.plant.job()
        stopped = threading.Event()

        def type_on() -> None:
            number = 0
            while not stopped.is_set():
                number += 1
                enter(job, self.plant.technician, {f"runs.r{number}.gross": f"{number} t"})
            connections.close_all()

        typing = threading.Thread(target=type_on)
        typing.start()
        time.sleep(0.3)
        backups.make(self.file)
        stopped.set()
        typing.join()
        self.put(self.file)
        self.assertEqual(judged([Typist("", "", "", str(job.id))]), [])

    def test_a_file_that_is_cut_off_changed_or_foreign_leaves_all_as_it_was(self) -> None:
        self.sealed()
        backups.make(self.file)
        whole = self.file.read_bytes()
        jobs = Job.objects.count()
        changed = self.folder / "changed"
        changed.mkdir()
        with tarfile.open(self.file) as tar:
            tar.extractall(changed, filter="data")
        dump = changed / backups.DUMP
        dump.write_bytes(dump.read_bytes()[:-200] + b"x" * 200)
        with tarfile.open(self.folder / "changed.tar", "w") as tar:
            for one in changed.iterdir():
                tar.add(one, one.name)
        for name, content in (
            ("cut", whole[: len(whole) // 2]),
            ("foreign", b"hello"),
            ("none", b""),
            ("changed", None),
        ):
            file = self.folder / f"{name}.tar"
            if content is not None:
                file.write_bytes(content)
            with self.subTest(name), self.assertRaises(backups.Unfit) as why:
                self.put(file)
            self.assertIn("Nothing was touched", str(why.exception))
            self.assertEqual(Job.objects.count(), jobs)

    def test_it_is_not_put_back_while_anyone_is_connected(self) -> None:
        self.sealed()
        backups.make(self.file)
        self.assertTrue(Job.objects.exists())
        with self.assertRaises(backups.Unfit) as why:
            backups.put(self.file)
        self.assertIn("connections are open", str(why.exception))

    def test_records_that_do_not_fit_are_named_and_put_back_only_where_somebody_says_why(self) -> None:
        self.sealed()
        self.sealed()
        Job.objects.update(closing={"words": "something else"})
        backups.make(self.file)
        with self.assertRaises(backups.Unfit) as why:
            self.put(self.file)
        for words in ("do not fit", "record 1 (Conveyor)", "record 2 (Conveyor)", "--although"):
            self.assertIn(words, str(why.exception))
        self.assertFalse(Restored.objects.exists())
        connections.close_all()
        self.assertEqual(backups.main(["put", str(self.file), "--although", "12"]), 1)
        self.assertEqual(backups.main(["put", str(self.file), "--although", "the disk died, it is all there is"]), 0)
        noted = Restored.objects.get()
        self.assertEqual((noted.why, len(noted.breaks) >= 2), ("the disk died, it is all there is", True))
        self.assertIn("put a backup back although", str(list(verify())[-1]))

    def test_where_the_second_name_cannot_be_given_the_first_is_there_still(self) -> None:
        self.sealed()
        backups.make(self.file)
        jobs = Job.objects.count()
        name = settings.DATABASES["default"]["NAME"]
        connections.close_all()
        with self.assertRaises(backups.Unfit):
            # There is no such database to be put in its place.
            backups._exchange(name, f"{name}_before", f"{name}_nowhere")
        self.assertEqual(Job.objects.count(), jobs)

    def test_a_damaged_file_on_the_disk_is_replaced_by_the_one_of_the_backup(self) -> None:
        self.sealed()
        backups.make(self.file)
        held = {path: path.read_bytes() for path in kept_files()}
        for path in held:
            path.write_bytes(path.read_bytes()[:50])
        self.assertIn("every link fits", self.put(self.file))
        self.assertEqual({path: path.read_bytes() for path in held}, held)

    def test_what_a_backup_that_was_killed_left_behind_is_cleared_by_the_next(self) -> None:
        left = self.folder / ".wary-beacon-backup-left"
        left.mkdir()
        (left / "database.dump").write_bytes(b"half")
        busy = self.folder / ".wary-beacon-backup-busy"
        busy.mkdir()
        with (busy / "held").open("a") as held:
            fcntl.flock(held, fcntl.LOCK_EX)
            backups.make(self.file)
            # One that is being made by somebody else is left to them.
            self.assertEqual(sorted(path.name for path in self.folder.iterdir()), [busy.name, self.file.name])

    def test_a_backup_of_an_earlier_version_comes_up_with_its_files_and_one_of_a_later_is_left(self) -> None:
        for version in (4, 5) if os.environ.get("BEACON_ALL_LANDED") else (5,):
            with self.subTest(version):
                self.assertIn("Gannet Ness: 31 records, every link fits", self.put(LANDED / f"v{version}.backup"))
                self.assertEqual([str(one) for one in verify() if "not fit" in str(one)], [])
        with connections["default"].cursor() as cursor:
            cursor.execute("insert into django_migrations (app, name, applied) values ('bench', '9999_later', now())")
        backups.make(self.file)
        with self.assertRaises(backups.Unfit) as why:
            self.put(self.file)
        with connections["default"].cursor() as cursor:
            cursor.execute("delete from django_migrations where name = '9999_later'")
        self.assertIn("of a newer version than this: ", str(why.exception))
        self.assertIn("bench.9999_later", str(why.exception))

    def test_the_command_says_in_a_sentence_what_hindered_it(self) -> None:
        command = [sys.executable, "-m", "beacon.backups", "put", str(self.folder / "nothing.tar")]
        done = subprocess.run(command, capture_output=True, text=True, cwd=settings.ROOT)
        self.assertEqual(done.returncode, 1)
        self.assertNotIn("Traceback", done.stderr)
        self.assertIn("is no whole backup", done.stderr)
