"""What a device takes along, and what it brings back: jobs opened and closed on it, and the log that it holds."""

import json
import uuid
from datetime import timedelta
from typing import Any
from unittest import mock

from django.utils import timezone

from beacon.bench.models import Entry, Job
from beacon.bench.revisions import revision_of
from beacon.people.models import Role
from beacon.plant.models import Reference
from beacon.records.models import Record
from tests.emptied import EmptiedTestCase
from tests.server.plant import AGREEING, GIVEN_UP, Plant, PlantTestCase, enter, entries, runs
from tests.server.together import at_once, send
from wary.device import Device
from wary.job.device import Held, settled, taken, typed

DAY = timezone.now().date()


def at_hand_of(client: Any, job: Job) -> Held:
    """The job as a device has it that took it along."""
    found = client.get(f"/api/jobs/{job.pk}/at-hand").json()
    return taken(json.loads(found["document"]) | {"entries": found["log"]}, DAY)


def without_times(view: Any) -> Any:
    found = json.loads(view.model_dump_json())
    for one in found["fields"].values():
        one["at"] = ""
        if one["previous"]:
            one["previous"]["at"] = ""
    return found


class TakenAlong(PlantTestCase):
    def test_a_job_on_a_device_is_the_one_at_the_server(self) -> None:
        job = self.plant.job("visit")
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(AGREEING))
        held = at_hand_of(self.client, job)
        job.refresh_from_db()
        self.assertEqual(without_times(held.view), without_times(revision_of(Job.objects.get(pk=job.pk)).bench))

    def test_a_job_opened_on_a_device_is_what_the_server_opens_under_its_id(self) -> None:
        for method in ("visit", "belt-material-test"):
            with self.subTest(method):
                along = self.client.get(f"/api/systems/{self.plant.system.pk}/at-hand").json()
                opening = next(one for one in along["openings"] if one["method"] == method)
                device, job_id = Device(), str(uuid.uuid4())
                said = {"job": job_id, "opening": json.loads(opening["document"]) | {"first": opening["first"]}, "occasion": "routine", "who": "Ines", "at": timezone.now().isoformat(), "day": str(DAY)}  # fmt: skip
                here = json.loads(device.call("open", json.dumps(said)))
                there = self.send("/api/jobs", {"id": job_id, "system": str(self.plant.system.pk), "method": method, "at": timezone.now().isoformat()})  # fmt: skip
                self.assertEqual(there.status_code, 201, there.content)
                log = self.client.get(f"/api/jobs/{job_id}/at-hand").json()["log"]
                self.assertEqual({(one["id"], one["path"], one["text"]) for one in log}, {(one["id"], one["path"], one["text"]) for one in here["log"]})  # fmt: skip
                view = there.json()
                for name in ("methods", "sheet", "look_first", "read_off", "rows", "loose_ends", "ways", "decides"):
                    self.assertEqual(here["bench"][name], view[name], name)
                self.assertEqual(here["occasion_words"], view["occasion_words"])

    def test_what_is_another_organisations_is_not_to_be_had(self) -> None:
        other = self.other
        job = other.job()
        for path in (f"/api/jobs/{job.pk}/at-hand", f"/api/systems/{other.system.pk}/at-hand"):
            self.assertEqual(self.client.get(path).status_code, 404)
        answer = self.send("/api/core/differences", {"job": str(job.pk), "entries": 3, "said": "x"})
        self.assertEqual(answer.status_code, 404)

    def test_only_references_of_the_organisation_are_taken_along(self) -> None:
        other = self.other
        Reference.objects.create(organisation=other.organisation, kind="scale", name="Theirs")
        Reference.objects.create(organisation=self.plant.organisation, kind="scale", name="Ours", division="20 kg")
        text = json.dumps(self.client.get(f"/api/systems/{self.plant.system.pk}/at-hand").json())
        self.assertIn("Ours", text)
        self.assertNotIn("Theirs", text)

    def test_a_difference_is_taken_note_of(self) -> None:
        job = self.plant.job()
        with self.assertLogs("beacon.bench.api", "WARNING") as said:
            answer = self.send(
                "/api/core/differences", {"job": str(job.pk), "entries": 3, "said": "This device said A"}
            )
        self.assertEqual(answer.status_code, 204)
        self.assertIn("This device said A", said.output[0])


class TheLog(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()
        self.held = at_hand_of(self.client, self.job)

    def post(self, rows: list[dict[str, Any]], after: int) -> dict[str, Any]:
        answer: dict[str, Any] = self.send(f"/api/jobs/{self.job.pk}/entries?after={after}&log=true", rows).json()
        return answer

    def typed(self, texts: dict[str, str]) -> list[dict[str, Any]]:
        rows = [one | {"who": str(self.plant.technician), "at": timezone.now().isoformat()} for one in entries(texts)]
        typed(self.held, rows, DAY)
        return [{key: one[key] for key in ("id", "path", "text", "at")} for one in rows]

    def test_what_others_entered_and_what_followed_come_with_the_answer(self) -> None:
        scale = Reference.objects.create(organisation=self.plant.organisation, kind="scale", name="W", division="20 kg", uncertainty="0.1 %")  # fmt: skip
        self.held = at_hand_of(self.client, self.job)
        rows = self.typed({"references.r1.id": str(scale.pk), "runs.a.reference": "20 t"})
        enter(self.job, self.plant.lead, {"note": "wet"})
        before = self.held.kept
        answer = self.post(rows, before)
        paths = [one["path"] for one in answer["log"]]
        self.assertIn("note", paths)
        self.assertIn("inputs.reference_division", paths)
        self.assertNotIn("runs.a.reference", paths)
        settled(self.held, answer["kept"], [], answer["log"], DAY)
        self.assertEqual(self.held.kept, answer["entries"])
        self.assertEqual(
            without_times(self.held.view), without_times(revision_of(Job.objects.get(pk=self.job.pk)).bench)
        )

    def test_the_same_is_asked_every_few_seconds(self) -> None:
        enter(self.job, self.plant.lead, {"note": "wet"})
        answer = self.client.get(f"/api/jobs/{self.job.pk}/changes?after={self.held.kept}&log=true").json()
        settled(self.held, [], [], answer["log"], DAY)
        self.assertEqual(self.held.kept, answer["entries"])
        plain = self.client.get(f"/api/jobs/{self.job.pk}/changes?after=2").json()
        self.assertIsNone(plain["log"])

    def test_what_is_refused_is_gone_on_the_device(self) -> None:
        rows = self.typed({"inputs.colour": "grey", "note": "dry"})
        answer = self.post(rows, self.held.kept)
        settled(self.held, answer["kept"], [one["id"] for one in answer["refused"]], answer["log"], DAY)
        self.assertEqual(self.held.waiting, [])
        self.assertEqual(self.held.kept, Job.objects.get(pk=self.job.pk).entries)


class OpenedOnADevice(PlantTestCase):
    def open(self, job_id: uuid.UUID, **more: Any) -> Any:
        return self.send("/api/jobs", {"id": str(job_id), "system": str(self.plant.system.pk)} | more)

    def test_sent_twice_it_is_one_job(self) -> None:
        job_id = uuid.uuid4()
        first, second = self.open(job_id), self.open(job_id)
        self.assertEqual((first.status_code, second.status_code), (201, 201))
        self.assertEqual(first.json()["entries"], second.json()["entries"])
        self.assertEqual(Job.objects.count(), 1)

    def test_an_id_that_is_somebody_elses_is_refused(self) -> None:
        job_id = uuid.uuid4()
        self.open(job_id)
        other = self.signed_in(self.plant.lead)
        answer = self.send("/api/jobs", {"id": str(job_id), "system": str(self.plant.system.pk)}, other)
        self.assertEqual(answer.status_code, 409)
        self.assertIn("used before", answer.json()["title"])

    def test_it_was_opened_when_the_device_says_but_never_in_times_to_come(self) -> None:
        yesterday = timezone.now() - timedelta(days=1)
        early, late = uuid.uuid4(), uuid.uuid4()
        self.open(early, at=yesterday.isoformat())
        self.open(late, at=(timezone.now() + timedelta(hours=5)).isoformat())
        self.assertEqual(Job.objects.get(pk=early).opened_at, yesterday)
        self.assertLessEqual(Job.objects.get(pk=late).opened_at, timezone.now())

    def test_a_system_that_is_gone_meanwhile_is_said(self) -> None:
        answer = self.send("/api/jobs", {"id": str(uuid.uuid4()), "system": str(uuid.uuid4())})
        self.assertEqual(answer.status_code, 404)


class ClosedOnADevice(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()
        self.held = at_hand_of(self.client, self.job)

    def close(self, **more: Any) -> Any:
        call = self.held.snapshot.machine
        reasons = [reason.code for reason in call.reasons]
        expected = {"entries": len(self.held.log), "call": call.call, "headline": call.headline, "reasons": reasons}
        return self.send(f"/api/jobs/{self.job.pk}/close", GIVEN_UP | {"expected": expected | more})

    def test_as_the_device_showed_it_is_sealed(self) -> None:
        self.assertEqual(self.close().status_code, 200)
        self.assertEqual(Record.objects.count(), 1)

    def test_with_what_others_entered_it_is_not(self) -> None:
        enter(self.job, self.plant.lead, {"note": "a lorry did come"})
        answer = self.close()
        self.assertEqual(answer.status_code, 409)
        self.assertIn("somebody entered something else meanwhile", answer.json()["errors"][0]["text"])
        self.assertTrue(Job.objects.get(pk=self.job.pk).is_open)
        self.assertEqual(Record.objects.count(), 0)

    def test_where_the_call_is_another_it_is_not(self) -> None:
        answer = self.close(call="leave", headline="Leave it alone")
        self.assertEqual(answer.status_code, 409)
        self.assertIn("“Leave it alone”", answer.json()["errors"][0]["text"])

    def test_where_something_more_speaks_against_it_it_is_not(self) -> None:
        more = sorted({reason.code for reason in self.held.snapshot.machine.reasons})[1:]
        answer = self.close(reasons=more)
        self.assertEqual(answer.status_code, 409)
        self.assertIn(answer.json()["errors"][0]["text"], [one.text for one in self.held.snapshot.machine.reasons])

    def test_it_was_closed_when_the_device_says(self) -> None:
        at = timezone.now()
        self.send(f"/api/jobs/{self.job.pk}/close", GIVEN_UP | {"at": at.isoformat()})
        self.assertEqual(Job.objects.get(pk=self.job.pk).closed_at, at)

    def test_what_would_be_sealed_is_said_on_the_device(self) -> None:
        device = Device()
        device.jobs["j"] = self.held
        said = json.loads(
            device.call("closing", json.dumps({"job": "j", "asked": {"signed": "", "outcome": "complete"}}))
        )
        self.assertTrue(said["errors"])
        again = json.loads(device.call("closing", json.dumps({"job": "j", "asked": GIVEN_UP})))
        self.assertEqual((again["errors"], again["words"]), ([], "given up, nothing decided"))
        file = json.loads(device.call("file", json.dumps({"job": "j"})))
        self.assertEqual(file["method"], "belt-material-test")
        self.assertEqual(len(file["trail"]), Entry.objects.filter(job=self.job).count())


class AtOnce(EmptiedTestCase):
    def test_a_job_that_two_windows_send_at_once_is_opened_once(self) -> None:
        from django.test import Client

        plant = Plant("Gannet Ness")
        job_id = str(uuid.uuid4())

        def opening() -> Any:
            client = Client()
            client.force_login(plant.technician)
            return send(client, "/api/jobs", {"id": job_id, "system": str(plant.system.pk)})

        found = at_once(opening, opening, opening)
        self.assertEqual(Job.objects.count(), 1)
        self.assertEqual({answer.status_code for answer in found} - {201, 409}, set())
        self.assertIn(201, [answer.status_code for answer in found])
        self.assertEqual(Job.objects.get().entries, Entry.objects.count())


class LeftBehind(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.plant.job()
        self.where = f"/api/jobs/{self.job.pk}/left-behind"
        self.typed = entries({"note": "the belt ran off", "tick.belt-clean": "yes"})
        self.client.get("/api/me")

    def week(self, who: Any = None) -> Any:
        return self.signed_in(who or self.plant.lead).get("/api/week").json()["left_behind"]

    def test_it_waits_for_a_lead_and_is_no_part_of_the_job(self) -> None:
        client = self.signed_in(self.plant.technician)
        self.assertEqual(self.send(self.where, self.typed, client).status_code, 404)
        self.plant.technician.memberships.all().delete()
        self.assertEqual(self.send(f"/api/jobs/{self.job.pk}/entries", self.typed, client).status_code, 404)
        for _ in range(2):
            self.assertEqual(self.send(self.where, self.typed, client).json(), {"left": 2})
        before = self.job.entries
        self.job.refresh_from_db()
        self.assertEqual(self.job.entries, before)
        (left,) = self.week()
        self.assertEqual((left["by"], left["name"], left["record"]), ("Technician", "Conveyor", None))
        self.assertEqual({one["says"] for one in left["entries"]}, {"the belt ran off", "ticked"})
        self.assertNotIn("note", [one["where"] for one in left["entries"]])

    def test_a_lead_lays_it_aside_and_nobody_else_does(self) -> None:
        self.plant.technician.memberships.update(role=Role.READER)
        client = self.signed_in(self.plant.technician)
        self.send(self.where, self.typed, client)
        (left,) = self.week()
        body = {"job": left["job"], "person": left["person"]}
        for who in (self.plant.technician, self.other.lead, self.plant.people["reader"]):
            self.assertEqual(self.send("/api/left-behind/seen", body, self.signed_in(who)).status_code, 404)
        self.assertEqual(self.week(self.other.lead), [])
        lead = self.signed_in(self.plant.lead)
        for _ in range(2):
            self.assertEqual(self.send("/api/left-behind/seen", body, lead).status_code, 204)
        self.assertEqual(self.week(), [])
        self.assertEqual(self.send("/api/left-behind/seen", body | {"person": 0}, lead).status_code, 404)

    def test_who_never_worked_there_leaves_nothing(self) -> None:
        for who in (self.plant.people["reader"], self.other.technician, self.other.lead):
            self.assertEqual(self.send(self.where, self.typed, self.signed_in(who)).status_code, 404)
        self.assertEqual(self.week(), [])

    def test_no_more_of_it_than_a_job_takes(self) -> None:
        self.plant.technician.memberships.all().delete()
        client = self.signed_in(self.plant.technician)
        with mock.patch("beacon.bench.left_behind.MOST", 3):
            self.assertEqual(self.send(self.where, self.typed, client).status_code, 201)
            answer = self.send(self.where, entries({"note": "a", "conditions": "b"}), client)
        self.assertEqual(answer.status_code, 413)
        self.assertIn("keep the others as a file", answer.json()["errors"][0]["text"])


class PractisedOnADevice(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = str(uuid.uuid4())
        self.device = Device()
        along = self.client.post("/api/practice/at-hand?kind=platform").json()
        opening = json.loads(along["opening"]["document"]) | {"first": along["opening"]["first"]}
        said = {"job": self.job, "kind": "platform", "level": "fair", "opening": opening, "who": "Ines", "at": timezone.now().isoformat(), "day": str(DAY)}  # fmt: skip
        self.practice = json.loads(self.device.call("practise", json.dumps(said)))["practice"]
        self.at = (timezone.now() - timedelta(minutes=5)).isoformat()

    def bring(self, client: Any = None, **more: Any) -> Any:
        body = {"id": self.job, "at": self.at, "practice": self.practice | more}
        return self.send("/api/practice/brought", body, client)

    def did(self) -> None:
        for elapsed in (1.0, 2.0):
            self.device.call("act", json.dumps({"job": self.job, "what": "skip", "figure": 30, "elapsed": elapsed}))
        self.practice = json.loads(self.device.call("practised", json.dumps({"job": self.job})))

    def test_it_is_the_same_practice_at_the_server(self) -> None:
        self.did()
        answer = self.bring()
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertTrue(answer.json()["practice"])
        told = self.client.get(f"/api/jobs/{self.job}/stand-in").json()
        self.assertEqual(told, json.loads(self.device.call("stand_in", json.dumps({"job": self.job, "practice": self.practice}))))  # fmt: skip
        done = self.send(f"/api/jobs/{self.job}/close", GIVEN_UP)
        self.assertEqual(done.status_code, 200, done.content)
        self.assertEqual(self.client.get(f"/api/jobs/{self.job}/truth").json()["seed"], self.practice["seed"])

    def test_sent_again_it_brings_what_was_done_since(self) -> None:
        self.bring()
        self.did()
        self.bring()
        self.assertEqual(len(Job.objects.get(pk=self.job).stand_in.actions), 2)
        # One that is older, and comes late, takes nothing away.
        self.bring(actions=[], skipped=0)
        self.assertEqual(len(Job.objects.get(pk=self.job).stand_in.actions), 2)

    def test_another_state_somebody_else_or_nonsense_is_refused(self) -> None:
        self.bring()
        self.assertEqual(self.bring(seed=self.practice["seed"] ^ 1).status_code, 409)
        self.assertEqual(self.bring(self.signed_in(self.plant.lead)).status_code, 409)
        self.assertEqual(self.bring(self.signed_in(self.other.technician)).status_code, 404)
        self.assertEqual(self.bring(fault="none of it").status_code, 422)
        self.assertEqual(self.bring(seed=-1).status_code, 422)
        real = self.plant.job()
        self.job = str(real.pk)
        self.assertEqual(self.bring().status_code, 409)
