"""What happens when somebody else does the same in between: two at once, each with a connection of its own."""

import threading
import uuid
from typing import Any
from unittest import mock

from django.db import connections
from django.test import Client
from django.utils import timezone

from beacon.attachments import keeping
from beacon.attachments.models import Attachment
from beacon.bench.models import Job
from beacon.loads.models import Load
from beacon.people.models import Membership, Person, RateCount, Role
from beacon.people.rate_limit import spend
from beacon.planner.models import Interval, ZeroCheck
from beacon.plant.models import CheckMass, PlateChange, System
from beacon.records import sealing
from beacon.records.verifying import Broken, verify
from tests.emptied import EmptiedTestCase
from tests.server.pictures import photograph
from tests.server.plant import Plant, enter, runs
from tests.server.test_closing import IN_ORDER
from tests.server.together import at_once, send

CLOSING = {"signed": "x", "outcome": "complete"}


class Races(EmptiedTestCase):
    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")

    def client_of(self, person: Person) -> Client:
        client = Client()
        client.force_login(person)
        return client

    def test_one_job_file_that_is_sent_twice_at_once_is_one_job(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        client = self.client_of(self.plant.technician)
        file = client.get(f"/api/jobs/{job.pk}/job.json").json()
        url = f"/api/systems/{self.plant.system.pk}/jobs/import"
        found: list[str] = []

        def bring() -> None:
            found.append(send(self.client_of(self.plant.technician), url, file).json()["id"])

        at_once(bring, bring, bring)
        self.assertEqual((len(found), len(set(found))), (3, 1))
        # Another's, or one with another word in it, is another job.
        other = send(self.client_of(self.plant.lead), url, file).json()["id"]
        changed = send(client, url, {key: part for key, part in file.items() if key != "trail"}).json()["id"]
        self.assertEqual(len({found[0], other, changed}), 3)

    def broken(self) -> list[str]:
        return [str(one) for one in verify() if isinstance(one, Broken)]

    def test_a_photograph_that_arrives_while_its_job_is_closed_is_sealed_with_it_or_refused(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        client = self.client_of(self.plant.technician)
        looked_at, closed = threading.Event(), threading.Event()
        taken = keeping.taken

        def slowly(content: bytes, whose: str) -> Any:
            # It was looked at as open; while it is unpacked, the job is closed.
            looked_at.set()
            self.assertTrue(closed.wait(20))
            return taken(content, whose)

        answers: list[Any] = []

        def photographed() -> None:
            url = f"/api/jobs/{job.id}/attachments?path=runs.r1"
            answers.append(self.client_of(self.plant.lead).post(url, photograph(), content_type="image/jpeg"))
            connections.close_all()

        with mock.patch.object(keeping, "taken", slowly):
            late = threading.Thread(target=photographed)
            late.start()
            self.assertTrue(looked_at.wait(20))
            self.assertEqual(send(client, f"/api/jobs/{job.id}/close", CLOSING).status_code, 200)
            closed.set()
            late.join()
        self.assertEqual(answers[0].status_code, 409)
        self.assertFalse(Attachment.objects.exists())
        self.assertEqual(self.broken(), [])

    def test_a_photograph_that_is_being_put_in_is_waited_for_by_the_seal(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        for _ in range(3):
            answers = at_once(
                lambda: self.client_of(self.plant.technician).post(
                    f"/api/jobs/{job.id}/attachments?path=runs.r1", photograph(), content_type="image/jpeg"
                ),
                lambda: send(self.client_of(self.plant.lead), f"/api/jobs/{job.id}/close", CLOSING),
            )
        self.assertEqual(answers[1].status_code, 409)
        self.assertIn(answers[0].status_code, (201, 409))
        self.assertEqual(self.broken(), [])

    def test_the_same_photograph_four_times_at_once_is_kept_once(self) -> None:
        for url, person in (
            (f"/api/jobs/{self.plant.job().id}/attachments?path=runs.r1", self.plant.technician),
            (f"/api/references/{self.plant.bridge.id}/attachments", self.plant.lead),
        ):
            ask = lambda: self.client_of(person).post(url, photograph(), content_type="image/jpeg")  # noqa: B023, E731
            answers = at_once(ask, ask, ask, ask)
            self.assertEqual({one.status_code for one in answers}, {201})
            self.assertEqual(len({one.json()["id"] for one in answers}), 1)

    def test_the_same_check_twice_at_once_is_kept_once(self) -> None:
        check = {"id": str(uuid.uuid4()), "mass": "20 kg", "shown": "20 kg"}
        url = f"/api/references/{self.plant.bridge.id}/checks"
        ask = lambda: send(self.client_of(self.plant.technician), url, check)  # noqa: E731
        self.assertEqual([one.status_code for one in at_once(ask, ask, ask, ask)], [201] * 4)
        self.assertEqual(CheckMass.objects.count(), 1)
        Interval.objects.create(system=self.plant.system, purpose="zero", kind="days", every=7, band="2 kg")
        zero = {"id": str(uuid.uuid4()), "text": "0 kg"}
        look = lambda: send(  # noqa: E731
            self.client_of(self.plant.technician), f"/api/systems/{self.plant.system.id}/zero-checks", zero
        )
        self.assertEqual([one.status_code for one in at_once(look, look, look, look)], [201] * 4)
        self.assertEqual(ZeroCheck.objects.count(), 1)

    def test_notes_that_are_edited_while_a_job_is_closed_undo_nothing_of_it(self) -> None:
        system = self.plant.system
        system.due = None
        system.save()
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        read, closed = threading.Event(), threading.Event()
        hand_on = sealing.hand_on

        def held(*given: Any) -> None:
            hand_on(*given)
            # Handed on and not yet committed: whoever edits the notes now waits, and reads it afterwards.
            read.set()
            closed.wait(0.5)

        def noted() -> Any:
            self.assertTrue(read.wait(20))
            body = {"notes": "hold menu for three seconds", "plates": {"belt_speed": "2.1 m/s"}}
            return send(self.client_of(self.plant.lead), f"/api/systems/{system.id}/record", body, "patch")

        with mock.patch.object(sealing, "hand_on", held):
            answers = at_once(
                lambda: send(self.client_of(self.plant.technician), f"/api/jobs/{job.id}/close", CLOSING), noted
            )
        self.assertEqual([one.status_code for one in answers], [200, 200])
        system.refresh_from_db()
        self.assertEqual((system.state, system.notes), ("in-order", "hold menu for three seconds"))
        self.assertEqual(system.plates["belt_speed"], "2.1 m/s")
        self.assertIsNotNone(system.due)
        self.assertEqual(system.last["job"], str(job.id))

    def test_of_plates_typed_by_two_people_the_second_is_shown_the_first_s(self) -> None:
        url = f"/api/systems/{self.plant.system.id}/record"
        before = {"plates.belt_speed": "2 m/s", "plates.idler_spacing": "0.9 m", "notes": ""}
        first = {"plates": {"belt_speed": "2.2 m/s"}, "notes": "gate code at the office", "before": before}
        second = {"plates": {"belt_speed": "2.4 m/s"}, "before": before}
        technician, lead = self.client_of(self.plant.technician), self.client_of(self.plant.lead)
        self.assertEqual(send(technician, url, first, "patch").status_code, 200)
        refused = send(lead, url, second, "patch")
        self.assertEqual(refused.status_code, 409)
        (said,) = refused.json()["errors"]
        self.assertEqual(said["path"], "plates.belt_speed")
        self.assertIn("Technician@Gannetness"[:10], said["text"])
        self.assertIn("2.2 m/s", said["text"])
        # Seen, it may be typed over; what was not touched stays as the other left it.
        again = second | {"before": before | {"plates.belt_speed": "2.2 m/s"}}
        self.assertEqual(send(lead, url, again, "patch").status_code, 200)
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.plates["belt_speed"], "2.4 m/s")
        self.assertEqual(self.plant.system.notes, "gate code at the office")
        changes = PlateChange.objects.filter(field="belt_speed").order_by("id").values_list("before", "after")
        self.assertEqual(list(changes), [("2 m/s", "2.2 m/s"), ("2.2 m/s", "2.4 m/s")])

    def test_two_plates_typed_at_once_are_both_there(self) -> None:
        url = f"/api/systems/{self.plant.system.id}/record"
        plates = [{"belt_speed": "2.2 m/s"}, {"idler_spacing": "1 m"}, {"angle": "5 deg"}, {"rated_rate": "250 t/h"}]
        answers = at_once(
            *[
                lambda one=one: send(self.client_of(self.plant.lead), url, {"plates": one}, "patch")  # type: ignore[misc]
                for one in plates
            ]
        )
        self.assertEqual([one.status_code for one in answers], [200] * 4)
        there = System.objects.get(pk=self.plant.system.pk).plates
        for one in plates:
            self.assertLessEqual(one.items(), there.items())

    def test_two_people_who_compare_the_same_loads_make_one_comparison(self) -> None:
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {})
        channel = cart.channels.get()
        for number in range(1, 4):
            Load.objects.create(
                channel=channel, number=number, state="stored", started_at=timezone.now(), indicated="7 t", mass=7000.0,
                ticket="7.02 t", ticket_mass=7020.0, by=self.plant.technician,
            )  # fmt: skip
        url = f"/api/systems/{cart.id}/loads/compare"
        answers = at_once(
            lambda: send(self.client_of(self.plant.technician), url, {}),
            lambda: send(self.client_of(self.plant.lead), url, {}),
        )
        self.assertEqual(sorted(one.status_code for one in answers), [201, 422])
        self.assertEqual(Job.objects.filter(channel=channel).count(), 1)

    def test_two_leads_who_demote_each_other_at_once_leave_one(self) -> None:
        other = self.plant.person("second@gannetness.example", Role.LEAD)
        pairs = ((self.plant.lead, other), (other, self.plant.lead))
        answers = at_once(
            *[
                lambda who=who, whom=whom: send(  # type: ignore[misc]
                    self.client_of(who),
                    "/api/people",
                    {"username": whom.username, "name": "x", "role": "reader", "sites": []},
                )
                for who, whom in pairs
            ]
        )
        self.assertEqual(sorted(one.status_code for one in answers), [200, 404])
        self.assertEqual(Membership.objects.filter(role=Role.LEAD).count(), 1)

    def test_two_practices_begun_at_once_share_one_machine(self) -> None:
        ask = lambda: send(self.client_of(self.plant.technician), "/api/practice?kind=belt", {})  # noqa: E731
        self.assertEqual([one.status_code for one in at_once(ask, ask, ask)], [201] * 3)
        self.assertEqual(System.objects.filter(practice=True).count(), 1)

    def test_what_is_asked_too_often_at_once_is_counted_each_time(self) -> None:
        at_once(*[lambda: spend("somebody", "sign-ins")] * 8)
        self.assertEqual(RateCount.objects.get(key="sign-ins: somebody").count, 8)

    def test_seals_of_two_organisations_at_once_are_numbered_without_a_gap(self) -> None:
        other = Plant("Far Skerry")
        jobs = []
        for plant in (self.plant, other) * 3:
            job = plant.job()
            enter(job, plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
            jobs.append((plant, job))
        ask = [
            lambda plant=plant, job=job: send(  # type: ignore[misc]
                self.client_of(plant.technician), f"/api/jobs/{job.id}/close", CLOSING
            )
            for plant, job in jobs
        ]
        self.assertEqual([one.status_code for one in at_once(*ask)], [200] * 6)
        self.assertEqual(self.broken(), [])

    def test_a_request_that_fails_is_counted_all_the_same(self) -> None:
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {})
        client = self.client_of(self.plant.technician)
        url = f"/api/systems/{cart.id}/loads.csv"
        for _ in range(3):
            answer = client.post(url, b"start,indicated\nyesterday,7 t\n", content_type="text/csv")
            self.assertEqual(answer.status_code, 422)
        self.assertEqual(RateCount.objects.get(key__startswith="files to bring in").count, 3)

    def test_what_is_opened_with_something_that_may_not_stand_is_not_opened_at_all(self) -> None:
        client = self.client_of(self.plant.technician)
        body = {"system": str(self.plant.system.id), "method": "belt-material-test", "inputs": {"colour": "grey"}}
        answer = send(client, "/api/jobs", body)
        self.assertEqual((answer.status_code, answer.json()["errors"][0]["path"]), (422, "inputs.colour"))
        self.assertFalse(Job.objects.exists())
