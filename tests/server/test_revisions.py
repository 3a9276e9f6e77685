"""Jobs held in memory: what is held is only ever taken where it is what the database says."""

import uuid
from concurrent.futures import ThreadPoolExecutor
from typing import Any
from unittest import mock

from django.db import connection
from django.test import Client

from beacon.bench import revisions as held
from beacon.bench.models import Entry, Job
from beacon.bench.revisions import JOBS_HELD, REVISIONS, REVISIONS_HELD, revision_of
from beacon.plant import channel_cache
from beacon.plant.channel_cache import CHANNELS_HELD, cached_channel, versions
from tests.emptied import EmptiedTestCase
from tests.server.plant import AGREEING, BENCH, Plant, enter, entries, patched, runs, without_nothing


class Shelf(EmptiedTestCase):
    def setUp(self) -> None:
        REVISIONS.clear()
        self.plant = Plant("Gannet Ness")
        self.job = self.plant.job("visit")
        self.client.force_login(self.plant.technician)

    def fresh(self) -> Job:
        return Job.objects.select_related("channel__system__site__organisation").get(pk=self.job.pk)

    def view(self, client: Client | None = None) -> dict[str, Any]:
        return dict((client or self.client).get(f"/api/jobs/{self.job.id}").json())

    def post(self, texts: dict[str, str], after: int | None = None, client: Client | None = None) -> dict[str, Any]:
        path = f"/api/jobs/{self.job.id}/entries" + (f"?after={after}" if after is not None else "")
        answer = (client or self.client).post(path, entries(texts), content_type="application/json")
        self.assertEqual(answer.status_code, 200, answer.content)
        return dict(answer.json())

    def test_a_server_that_holds_nothing_answers_the_same(self) -> None:
        before = self.view()
        self.post(runs(AGREEING))
        warm = self.view()
        REVISIONS.clear()
        cold = self.view()
        self.assertEqual(warm, cold)
        self.assertGreater(cold["entries"], before["entries"])

    def test_what_another_process_kept_is_seen_at_once(self) -> None:
        revision_of(self.fresh())
        # As another process would: the entries are kept, and nothing is remembered here.
        with mock.patch.object(held, "REVISIONS", held._Revisions()):
            enter(self.job, self.plant.lead, runs(AGREEING))
        rows = self.view()["rows"]["runs"]
        self.assertEqual([row["row"] for row in rows], ["r1", "r2", "r3"])

    def test_changes_after_any_moment_come_to_the_same_page_held_or_not(self) -> None:
        pages = [self.view()]
        for row in range(1, 5):
            self.post({f"runs.r{row}.reference": "20 t", f"runs.r{row}.indicated": f"{20 + row / 100} t"})
            pages.append(self.view())
        for clear in (False, True):
            for page in pages:
                if clear:
                    REVISIONS.clear()
                answer = self.client.get(f"/api/jobs/{self.job.id}/changes?after={page['entries']}").json()
                taken = patched(page, answer)
                for key in BENCH:
                    self.assertEqual(without_nothing(taken[key]), without_nothing(pages[-1][key]), key)

    def test_nothing_new_is_said_in_a_few_bytes(self) -> None:
        count = self.view()["entries"]
        answer = self.client.get(f"/api/jobs/{self.job.id}/changes?after={count}")
        self.assertIsNone(answer.json()["changes"])
        self.assertLess(len(answer.content), 200)

    def test_so_many_jobs_and_moments_are_held_and_no_more(self) -> None:
        revision = revision_of(self.fresh())
        for _ in range(REVISIONS_HELD + 3):
            REVISIONS.put(self.job.pk, revision)
        self.assertEqual(len(REVISIONS._jobs[self.job.pk]), REVISIONS_HELD)
        for _ in range(JOBS_HELD + 10):
            REVISIONS.put(uuid.uuid4(), revision)
        self.assertEqual(len(REVISIONS._jobs), JOBS_HELD)
        self.assertNotIn(self.job.pk, REVISIONS._jobs)
        self.assertEqual(self.view()["entries"], revision.count)

    def test_limits_changed_while_a_job_is_open_count_with_its_next_entry(self) -> None:
        self.post(runs(AGREEING))
        seen = self.view()["entries"]
        profile = self.plant.system.profile
        for accept, minimum in (("3 %", 3), ("0.5 %", 5), ("0.5 %", 3)):
            profile.accept, profile.minimum_runs = accept, minimum
            profile.save()
            answer = self.post({"runs.r3.indicated": "20.92 t"}, seen)
            seen = answer["entries"]
            part = next(part for part in answer["changes"]["parts"] if part["key"] == "")
            self.assertEqual(part["limits"]["minimum_runs"], minimum)
            self.assertIn(accept, part["limits"]["accept"])
            whole = next(part for part in self.view()["parts"] if part["key"] == "")
            self.assertEqual(without_nothing(part), without_nothing(whole))

    def test_a_channel_is_read_again_after_a_change_of_anything_behind_it_and_not_otherwise(self) -> None:
        channel = self.plant.system.channels.get()

        stands = Job.objects.annotate(plant=versions("channel")).filter(pk=self.job.pk)
        held = cached_channel(channel.pk, stands.get().plant)
        with self.assertNumQueries(1):
            self.assertIs(cached_channel(channel.pk, stands.get().plant), held)
        system = self.plant.system
        behind: list[tuple[Any, str]] = [
            (channel, "factor"), (system, "material"), (system.site, "name"),
            (system.site.organisation, "name"), (system.profile, "title"),
        ]  # fmt: skip
        for thing, name in behind:
            before = stands.get().plant
            setattr(thing, name, f"other {name}"[:20])
            thing.save()
            self.assertNotEqual(stands.get().plant, before, name)
            self.assertIsNot(cached_channel(channel.pk, stands.get().plant), held)
        read = cached_channel(channel.pk, stands.get().plant)
        self.assertEqual((read.factor, read.system.site.name), ("other factor", "other name"))
        for _ in range(CHANNELS_HELD + 5):
            channel_cache._held[uuid.uuid4()] = ("", held)
        cached_channel(channel.pk, "another")
        self.assertLessEqual(len(channel_cache._held), CHANNELS_HELD)

    def test_parts_whose_inputs_did_not_change_are_not_assessed_again(self) -> None:
        self.post({"zero/idle.a.value": "0.4 kg", "zero/idle.b.value": "0.5 kg", **runs(AGREEING)})
        self.view()
        asked: list[str] = []

        def noting(real: Any) -> Any:
            def assess(method: Any, given: Any, setting: Any) -> Any:
                asked.append(method.key)
                return real(method, given, setting)

            return assess

        for part in revision_of(self.fresh()).snapshot.parts.values():
            kind = type(part.method)
            patch = mock.patch.object(kind, "assess", noting(kind.assess))
            patch.start()
            self.addCleanup(patch.stop)
        self.post({"runs.r3.indicated": "20.92 t"})
        self.assertEqual(set(asked), {"belt-material-test"})

    def test_many_at_once_are_all_kept_and_each_page_ends_the_same(self) -> None:
        clients = []
        for _ in range(4):
            client = Client()
            client.force_login(self.plant.technician)
            clients.append(client)
        pages = [self.view(client) for client in clients]

        def work(number: int) -> None:
            try:
                for row in range(5):
                    texts = {f"runs.p{number}r{row}.reference": "20 t", f"runs.p{number}r{row}.indicated": "20.1 t"}
                    answer = self.post(texts, pages[number]["entries"], clients[number])
                    pages[number] = {**pages[number], **patched(pages[number], answer), "entries": answer["entries"]}
            finally:
                connection.close()

        with ThreadPoolExecutor(4) as pool:
            list(pool.map(work, range(4)))
        self.assertEqual(Entry.objects.filter(job=self.job, path__startswith="runs.").count(), 40)
        whole = self.view()
        self.assertEqual(len(whole["rows"]["runs"]), 20)
        for number, page in enumerate(pages):
            answer = self.client.get(f"/api/jobs/{self.job.id}/changes?after={page['entries']}").json()
            taken = patched(page, answer)
            for key in BENCH:
                self.assertEqual(without_nothing(taken[key]), without_nothing(whole[key]), f"{number}: {key}")

    def test_the_answer_to_one_entry_holds_one_entry_s_worth(self) -> None:
        self.post({f"runs.r{n}.{key}": f"{20 + n / 1000} t" for n in range(60) for key in ("reference", "indicated")})
        count = self.view()["entries"]
        before = len(self.client.get(f"/api/jobs/{self.job.id}").content)
        path = f"/api/jobs/{self.job.id}/entries?after={count}"
        one = self.client.post(path, entries({"runs.r59.indicated": "20.06 t"}), content_type="application/json")
        changes = one.json()["changes"]
        self.assertEqual(set(changes["fields"]), {"runs.r59.indicated"})
        self.assertEqual([part["key"] for part in changes["parts"]], [""])
        self.assertLess(len(one.content), before / 4)

    def test_answers_are_compressed_for_whoever_takes_them_so(self) -> None:
        self.post(runs(AGREEING))
        plain = self.client.get(f"/api/jobs/{self.job.id}")
        small = self.client.get(f"/api/jobs/{self.job.id}", headers={"accept-encoding": "gzip"})
        self.assertEqual(small["Content-Encoding"], "gzip")
        self.assertLess(len(small.content), len(plain.content) / 3)


class Assessing(EmptiedTestCase):
    def test_a_job_that_is_assessed_again_stands_as_one_assessed_from_nothing(self) -> None:
        plant = Plant("Gannet Ness")
        job = plant.job("visit")
        for texts in (
            {"zero/idle.a.value": "0.4 kg"},
            runs(AGREEING),
            {"read_back": "1.1260"},
            {"inputs.factor": "1.2"},
            {"weights/read_back": "1.1"},
            {"inputs.factor": ""},
        ):
            enter(job, plant.technician, texts)
            fresh = Job.objects.select_related("channel__system__site__organisation").get(pk=job.pk)
            again = revision_of(fresh).snapshot
            REVISIONS.clear()
            whole = revision_of(fresh).snapshot
            for key, part in whole.parts.items():
                self.assertEqual(again.parts[key].assessment.as_json(), part.assessment.as_json(), (key, texts))
                self.assertEqual(again.parts[key].built.file, part.built.file, (key, texts))
