"""A replica: it is read from while it follows closely, and takes over where the first is lost, with all that was kept."""

import os
import random
import shutil
import subprocess
import threading
import time
import uuid
from contextlib import suppress
from pathlib import Path
from typing import Any
from unittest.mock import patch

import psycopg
from django.conf import settings
from django.db import connections
from django.test import TransactionTestCase

from beacon import backups
from tests.clusters import SECRET, Cluster, copied_into, room
from tests.endure import Typist
from tests.endured.test_endure import judged, plant
from tests.served import begun

ROOT = Path(settings.ROOT)


class WithReplica(TransactionTestCase):
    """A first database with a replica, and servers at both."""

    def place(self) -> Path:
        """The folder of the replica."""
        return self.room / "second"

    def setUp(self) -> None:
        self.jobs, self.people, _ = plant()
        self.room = room()
        self.addCleanup(shutil.rmtree, self.room, ignore_errors=True)
        self.first = Cluster(self.room / "first").made()
        self.addCleanup(self.first.kill)
        copied_into(self.first)
        self.second = Cluster(self.place())
        self.environment = {"DATABASE_URL": self.first.url(self.second), "BEACON_REPLICA": self.second.url()}
        made = self.commanded("make", str(self.second.folder), "--port", str(self.second.port))
        self.addCleanup(self.second.kill)
        self.assertIn("lies on both", made)

    def commanded(self, *given: str, code: int = 0) -> str:
        """What `./run replica …` says."""
        command = [str(ROOT / "run"), *([] if given[0] == "promote" else ["replica"]), *given]
        done = subprocess.run(command, env=os.environ | self.environment, capture_output=True, text=True, timeout=120)
        self.assertEqual(done.returncode, code, done.stdout + done.stderr)
        return done.stdout + done.stderr

    def server(self) -> str:
        address, process = begun(**self.environment)

        def end() -> None:
            process.kill()
            process.wait()

        self.addCleanup(end)
        return address

    def typist(self, address: str, number: int = 0) -> Typist:
        one = Typist(address, *self.people[number % len(self.people)], self.jobs[number % len(self.jobs)], pause=0.02)
        one.sign_in()
        one.sign_in = lambda: None  # type: ignore[method-assign]
        return one

    def at(self, cluster: Cluster) -> None:
        """Has this test's own questions go to one of the clusters."""
        held = connections["default"].settings_dict
        before = {key: held[key] for key in ("HOST", "PORT", "NAME", "PASSWORD", "USER")}

        def back() -> None:
            connections["default"].close()
            held.update(before)

        connections["default"].close()
        held.update({"HOST": "127.0.0.1", "PORT": str(cluster.port), "NAME": "beacon", "PASSWORD": SECRET, "USER": "beacon"})  # fmt: skip
        self.addCleanup(back)

    def _kept(self, one: Typist, text: str = "waits") -> int:
        """Sends an entry until it is answered as kept."""
        batch = [{"id": str(uuid.uuid4()), "path": "note", "text": text}]
        for _ in range(20):
            with suppress(OSError):
                status, _answer = one.ask(f"jobs/{one.job}/entries", batch)
                if status == 200:
                    return status
            time.sleep(0.2)
        return 0


class Replica(WithReplica):
    def test_the_first_is_killed_under_typing_and_its_replica_takes_over_with_all_that_was_kept(self) -> None:
        addresses = [self.server(), self.server()]
        typists = [self.typist(addresses[n % 2], n) for n in range(4)]
        until = time.monotonic() + 120
        threads = [threading.Thread(target=one.type, args=(until, random.Random(n)), daemon=True) for n, one in enumerate(typists)]  # fmt: skip
        for one in threads:
            one.start()
        self._until_kept(typists, 40)
        self.assertIn("is still the first, and answers", self.commanded("promote", code=1))
        self.first.kill()
        before = sum(len(one.kept) for one in typists)
        time.sleep(1)
        self.assertIn("is the first now", self.commanded("promote"))
        self.assertIn("is the first already", self.commanded("promote"))
        self._until_kept(typists, before + 40)
        for typist in typists:
            typist.done = True
        for one in threads:
            one.join(60)
        self.at(self.second)
        self.assertEqual(judged(typists), [])
        connections["default"].close()
        self._two_that_believe_they_are_the_first(addresses)

    def test_a_lost_first_that_comes_back_is_told_by_its_timeline_and_nothing_goes_to_it(self) -> None:
        self.first.kill()
        self.assertIn("is the first now", self.commanded("promote"))
        self.first.begin()
        self.assertFalse(self.first.ask("select pg_is_in_recovery()"))
        # Two can be written to: every command says which is which, and does nothing.
        for given in (["state"], ["alone"], ["make", str(self.room / "third")]):
            said = self.commanded(*given, code=1)
            self.assertIn(f"127.0.0.1:{self.second.port} is the first: it was promoted last (timeline 2)", said, given)
            self.assertIn(f"127.0.0.1:{self.first.port} was the first before (timeline 1)", said, given)
        with (
            patch.dict(os.environ, self.environment),
            self.assertRaisesRegex(backups.Unfit, "Two take what is written"),
        ):
            backups.make(self.room / "of.backup")
        self.assertIn("takes nothing any more", self.commanded("fence"))
        self.assertIn("there is nothing to be done", self.commanded("fence"))
        self.assertIn(f"127.0.0.1:{self.second.port} is the first", self.commanded("state"))
        with patch.dict(os.environ, self.environment | {"PGPASSWORD": SECRET}):
            self.assertEqual(backups._sql("beacon", "select inet_server_port()"), str(self.second.port))
        # A server that is there fences it as soon as it comes back, with nobody writing anything and no server begun.
        one = self.typist(self.server())
        with self.first.connect("postgres") as before:
            # It waits for a replica that follows another one by now.
            before.execute("set synchronous_commit = local")
            before.execute("alter database beacon reset default_transaction_read_only")
        for _ in range(60):
            if (
                self.first.ask("show default_transaction_read_only", "postgres")
                and self.first.ask("show default_transaction_read_only") == "on"
            ):
                break
            time.sleep(0.1)
        else:
            self.fail("it was not fenced within six seconds")
        self.assertEqual(self._kept(one), 200)

    def _until_kept(self, typists: list[Typist], count: int) -> None:
        for _ in range(600):
            if sum(len(one.kept) for one in typists) >= count:
                return
            time.sleep(0.1)
        self.fail(f"{sum(len(one.kept) for one in typists)} entries were kept within a minute, and {count} were wanted")

    def _two_that_believe_they_are_the_first(self, addresses: list[str]) -> None:
        self.first.begin()
        self.assertFalse(self.first.ask("select pg_is_in_recovery()"))
        # One that was begun before, and one that knows nothing of what was: both write to the one that was promoted.
        kept = []
        for address in (*addresses, self.server()):
            one = self.typist(address)
            batch = [{"id": str(uuid.uuid4()), "path": "note", "text": address}]
            for _ in range(50):
                status, answer = one.ask(f"jobs/{one.job}/entries", batch)
                if status == 200:
                    break
                time.sleep(0.2)
            self.assertEqual(status, 200)
            kept += answer["kept"]
        there = "select count(*) from bench_entry where entry_id = any(%s)"
        with self.second.connect() as second:
            found: Any = second.execute(there, [kept]).fetchone()
        self.assertEqual(found[0], len(kept))
        with self.first.connect() as before:
            found = before.execute(there, [kept]).fetchone()
            self.assertEqual(found[0], 0)
            with self.assertRaises(psycopg.errors.ReadOnlySqlTransaction):
                before.execute("update bench_job set entries = entries")

    def test_it_is_read_from_while_it_follows_closely_and_not_when_it_is_behind(self) -> None:
        one = self.typist(self.server())

        def as_of(path: str = "log") -> str | None:
            asked = one.opener.open(f"{one.address}/api/{path}", timeout=20)
            if path == "log":
                import json

                return str(json.loads(asked.read())["as_of"] or "") or None
            return asked.headers.get("Beacon-As-Of")

        def until(wanted: bool, path: str = "log") -> None:
            for _ in range(100):
                if (as_of(path) is not None) == wanted:
                    return
                time.sleep(0.1)
            self.fail(f"{path} is {'not ' if wanted else ''}read from the replica")

        # Whoever signed in a moment ago wrote; their device forgets that after some seconds.
        self.assertIsNone(as_of())
        until(True)
        until(True, "log.csv")
        cart = self.first.ask("select id from plant_system where kind = 'cart'")
        until(True, f"systems/{cart}/loads.csv")
        # The month is worked out once a day, which is kept by the first.
        self.assertEqual(one.ask("calendar?month_of=2031-03")[0], 200)
        batch = [{"id": str(uuid.uuid4()), "path": "note", "text": "just now"}]
        self.assertEqual(one.ask(f"jobs/{one.job}/entries", batch)[0], 200)
        self.assertIsNone(as_of(), "who wrote reads what they wrote")
        until(True)
        with self.second.connect() as there:
            there.execute("select pg_wal_replay_pause()")
            self.first.ask("update bench_job set touched_at = now() where id = (select min(id::text)::uuid from bench_job) returning 1")  # fmt: skip
            until(False)
            self.assertIn("bytes behind", self.commanded("state"))
            there.execute("select pg_wal_replay_resume()")
        until(True)
        given = {"signed": "T", "outcome": "abandoned", "reason": "no lorry came"}
        self.assertEqual(one.ask(f"jobs/{self.jobs[1]}/close", given)[0], 200)
        record = self.first.ask("select id from records_record")
        until(True, f"records/{record}/certificate.pdf")
        until(True, "certificates.zip")
        # It is gone: what is read is read from the first, and what is kept waits until somebody lets the replica go.
        self.second.kill()
        until(False)
        kept: list[int] = []
        waiting = threading.Thread(target=lambda: kept.append(self._kept(one)), daemon=True)
        waiting.start()
        time.sleep(2)
        self.assertEqual(kept, [], "kept once, and answered as kept")
        self.assertIn("it waits for one, and answers nothing as kept", self.commanded("state"))
        self.assertIn("goes on alone", self.commanded("alone"))
        waiting.join(20)
        self.assertEqual(kept, [200])

    def test_what_cannot_be_made_or_promoted_says_why(self) -> None:
        self.assertIn("is not empty", self.commanded("make", str(self.second.folder), code=1))
        self.assertIn("follows the first already", self.commanded("make", str(self.room / "third"), code=1))
        self.second.kill()
        self.assertIn("cannot be reached", self.commanded("promote", code=1))
        self.first.kill()
        self.assertIn("No database of DATABASE_URL takes what is written", self.commanded("state", code=1))
        self.environment["BEACON_REPLICA"] = ""
        self.assertIn("Name it in BEACON_REPLICA", self.commanded("promote", code=1))

    def test_one_of_another_version_or_without_room_is_not_made(self) -> None:
        from beacon.database import replica

        with patch.dict(os.environ, self.environment):
            other = subprocess.CompletedProcess([], 0, "postgres (PostgreSQL) 14.9\n", "")
            with patch.object(replica.subprocess, "run", return_value=other), self.assertRaises(replica.Refused) as why:
                replica.make(self.room / "older", 5433)
            self.assertIn("The first is PostgreSQL 15, and this is 14", str(why.exception))
            with (
                patch.object(replica.shutil, "disk_usage", return_value=shutil._ntuple_diskusage(10, 9, 1)),  # type: ignore[attr-defined]
                self.assertRaises(replica.Refused) as why,
            ):
                replica.make(self.room / "full", 5433)
            self.assertIn("There is no room", str(why.exception))


class FullReplica(WithReplica):
    """The disk of the replica is really full: a small one of its own, which only root may mount."""

    def place(self) -> Path:
        if os.geteuid():
            self.skipTest("only root may mount a disk")
        small = self.room / "small"
        small.mkdir()
        done = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=400m", "tmpfs", str(small)], capture_output=True)
        if done.returncode:
            self.skipTest("no disk can be mounted here")
        self.addCleanup(subprocess.run, ["umount", "-l", str(small)], check=False)
        shutil.chown(small, "postgres", "postgres")
        return small / "second"

    def test_nothing_is_answered_as_kept_until_there_is_room_again_and_then_it_is_kept_twice(self) -> None:
        one = self.typist(self.server())
        self.assertEqual(self._kept(one, "before"), 200)
        filler = self.second.folder.parent / "filler"
        with filler.open("wb", 0) as full, suppress(OSError):
            while True:
                full.write(bytes(1 << 20))
        self.assertEqual(shutil.disk_usage(filler.parent).free, 0)
        self._until_it_does_not_follow()
        kept: list[int] = []
        waiting = threading.Thread(target=lambda: kept.append(self._kept(one, "while it is full")), daemon=True)
        waiting.start()
        time.sleep(3)
        self.assertEqual(kept, [], "kept once, and answered as kept")
        self.assertIn("it waits for one, and answers nothing as kept", self.commanded("state"))
        filler.unlink()
        # PostgreSQL gives up where it cannot write at all; docs/server.md has it started again.
        for _ in range(40):
            if kept:
                break
            self.second.begin_again()
            time.sleep(0.5)
        waiting.join(30)
        self.assertEqual(kept, [200])
        there = "select count(*) from bench_entry where text = 'while it is full'"
        self.assertEqual((self.first.ask(there), self.second.ask(there)), (1, 1))

    def _until_it_does_not_follow(self) -> None:
        """Has the first write more of its log, a piece after the other, until the replica has no room for it."""
        for _ in range(60):
            with self.first.connect() as first:
                first.execute("set synchronous_commit = local")
                first.execute("create table if not exists filling (one text)")
                first.execute("insert into filling select repeat('x', 500) from generate_series(1, 20000)")
                first.execute("select pg_switch_wal()")
                found: Any = first.execute(
                    "select count(*) from pg_stat_replication where state = 'streaming'"
                ).fetchone()
            if not found[0]:
                return
            time.sleep(0.2)
        self.fail("the replica found room for all of it")
