"""Server and database are killed while people type, backups are made and put back: nothing that was kept is lost."""

import time
import uuid
from collections import Counter

from django.db import connections
from django.test import TransactionTestCase

from beacon.bench.models import Entry, Job
from beacon.bench.revisions import REVISIONS, fold_of
from beacon.records.models import Record
from beacon.records.verifying import Broken, verify
from tests.endure import Sealer, Typist, endured, restart_database
from tests.served import served
from tests.server.plant import PASSWORD, PLATES, Plant, runs
from tests.server.test_closing import IN_ORDER
from wary.job.assess import parts_of
from wary.job.fold import rebuilt


def plant() -> tuple[list[str], list[tuple[str, str]], tuple[str, dict[str, str]]]:
    """Two jobs, three people who may type in them, and a load cart, which keeps a log; and a belt of its own with what
    a whole test of it is typed as."""
    made = Plant("Gannet Ness")
    made.add_system("Harvest trailer", "cart", "load-cart", {})
    jobs = [str(made.job().id) for _ in range(2)]
    more = made.person("more@gannetness.example", "technician")
    sealed = made.add_system("Return belt", "belt", "belt-fine", PLATES)
    people = [(one.username, PASSWORD) for one in (made.technician, made.lead, more)]
    return jobs, people, (str(sealed.pk), {"inputs.factor": "1.1420", "inputs.zero_done": "job"} | runs(IN_ORDER))


def judged(typists: list[Typist]) -> list[str]:
    """What is wrong after all of it: entries that were kept and are gone or there twice, folds, answers that are faults."""
    REVISIONS.clear()
    wrong = []
    sealers = [one for one in typists if isinstance(one, Sealer)]
    typing = [one for one in typists if not isinstance(one, Sealer)]
    for job in Job.objects.filter(id__in={one.job for one in typing}):
        counts = Counter(str(name) for name in Entry.objects.filter(job=job).values_list("entry_id", flat=True))
        kept = {name for one in typing if one.job == str(job.id) for name in one.kept}
        wrong += [f"{name} was kept and is there {counts[name]} times" for name in kept if counts[name] != 1]
        entries = Entry.objects.filter(job=job).select_related("who").order_by("sequence")
        if fold_of(job) != rebuilt((one.logged for one in entries.iterator()), parts_of(job.parts)):
            wrong.append(f"the fold of {job.id} is other than a rebuild of its entries")
        if job.entries != entries.count():
            wrong.append(f"{job.id} counts {job.entries} entries and has {entries.count()}")
    for one in sealers:
        wrong += sealed_wrong(one)
    wrong += [str(said) for said in verify() if isinstance(said, Broken)]
    faults = Counter(status for one in typists for status in one.said if status not in (0, 200, 503))
    return wrong + [f"{count} answers were {status}" for status, count in faults.items()]


def sealed_wrong(sealer: Sealer) -> list[str]:
    """What is wrong with the jobs that a client sealed: each has one record and is closed; the last it was at can be
    taken up where it was left."""
    records = Counter(str(job) for job in Record.objects.filter(job__in=sealer.sealed).values_list("job", flat=True))
    wrong = [f"{job} was sealed and has {records[job]} records" for job in sealer.sealed if records[job] != 1]
    there = Counter(
        str(one) for one in Entry.objects.filter(entry_id__in=sealer.kept).values_list("entry_id", flat=True)
    )
    wrong += [f"{name} was kept and is there {there[name]} times" for name in sealer.kept if there[name] != 1]
    left = Job.objects.filter(id=sealer.left).first() if sealer.left else None
    if left is not None and (left.closed_at is not None) != Record.objects.filter(job=left).exists():
        wrong.append(f"{left.id} is closed without a record, or has one and is open")
    return wrong


class Endure(TransactionTestCase):
    def test_nothing_that_was_kept_is_lost_and_nothing_is_there_twice(self) -> None:
        jobs, people, seals = plant()
        typists, server = endured(jobs, people, 20, 2, seals)
        self.assertEqual(judged(typists), [])
        self.assertGreaterEqual(server.kills, 2)
        self.assertGreater(sum(len(one.kept) for one in typists), 50)
        self.assertGreater(sum(len(one.sealed) for one in typists if isinstance(one, Sealer)), 2)

    def test_after_the_database_fell_the_server_goes_on_by_itself(self) -> None:
        made = Plant("Gannet Ness")
        with served() as address:
            typist = Typist(address, made.technician.username, PASSWORD, str(made.job().id))
            typist.sign_in()
            took: dict[str, float] = {}

            def asked_meanwhile() -> None:
                for path, status in (("alive", 200), ("ready", 503), ("round", 503), ("ready", 503)):
                    began = time.monotonic()
                    self.assertEqual(typist.ask(path)[0], status, path)
                    took[path] = max(took.get(path, 0.0), time.monotonic() - began)

            restart_database(asked_meanwhile)
            said = []
            for _ in range(60):
                status, _answer = typist.ask("sign-out-everywhere", {})
                said.append(status)
                if status in (200, 204):
                    break
                time.sleep(0.2)
        # Whoever asks while it is away is told so, and not kept waiting.
        self.assertLess(took["ready"], 2.0, took)
        self.assertLess(took["round"], 6.0, took)
        self.assertIn(said[-1], (200, 204))
        self.assertLessEqual(set(said), {200, 204, 503}, said)


class Streams(TransactionTestCase):
    def test_many_open_streams_starve_nobody_and_hold_no_connection(self) -> None:
        made = Plant("Gannet Ness")
        self.client.force_login(made.technician)
        practice = self.client.post("/api/practice?kind=belt").json()["id"]
        with served() as address:
            typist = Typist(address, made.technician.username, PASSWORD, str(made.job().id))
            typist.sign_in()
            streams = []
            for _ in range(200):
                stream = typist.opener.open(f"{address}/api/jobs/{practice}/live", timeout=20)
                self.assertEqual(stream.readline(), b"retry: 500\n")
                streams.append(stream)
            waits = []
            for number in range(20):
                began = time.monotonic()
                batch = [{"id": str(uuid.uuid4()), "path": "note", "text": str(number)}]
                self.assertEqual(typist.ask(f"jobs/{typist.job}/entries", batch)[0], 200)
                waits.append(time.monotonic() - began)
            with connections["default"].cursor() as cursor:
                cursor.execute("select count(*) from pg_stat_activity where datname = current_database()")
                held = cursor.fetchone()[0]
            self.assertTrue(all(stream.readline() is not None for stream in streams))
            for stream in streams:
                stream.close()
        self.assertLess(sorted(waits)[10], 2.0)
        # A pool of sixteen serves them all; none of the two hundred has one of its own.
        self.assertLess(held, 25)
