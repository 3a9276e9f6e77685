"""What is known of a machine before a visit: how often it was visited, what was seen and stays seen, what it has
not."""

import datetime
import json

from django.utils import timezone

from beacon.bench.before import known_before
from beacon.bench.models import Job
from beacon.plant.models import Channel, Event, LimitProfile, System
from beacon.records.handing_on import counted
from tests.server.plant import Plant, PlantTestCase, enter, looked_over, snapshot
from tests.server.test_closing import COMPLETE
from wary.suspects.suspect import Past

SPAN = {"inputs.test_load": "400 kg", "inputs.capacity": "1500 kg", "inputs.division": "0.5 kg", "passes.p1.zero": "0 kg", "passes.p1.span": "400 kg", "passes.p1.zero_after": "0 kg"}  # fmt: skip


class KnownBefore(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.platform = self.machine("The dock's platform")

    def machine(self, name: str, kind: str = "platform") -> System:
        return self.plant.add_system(name, kind, "vessel", {"cell_count": 4})

    def visited(self, system: System, **looked: str) -> Job:
        job = self.plant.job("zero-span", system)
        enter(job, self.plant.technician, SPAN | {f"looked.{key.replace('_', '-')}": text for key, text in looked.items()})  # fmt: skip
        looked_over(job, self.plant.technician)
        answer = self.send(f"/api/jobs/{job.id}/close", COMPLETE)
        self.assertEqual(answer.status_code, 200, answer.content)
        return job

    def past(self, system: System) -> Past:
        return known_before(Channel.objects.select_related("system__site").get(system=system), timezone.now()).past

    def test_what_was_seen_stays_seen_until_something_is_logged(self) -> None:
        self.visited(self.platform, count="fine", gap="fine")
        past = self.past(self.platform)
        self.assertEqual((past.visits, list(past.seen)), (1, ["count", "rising"]), "a gap may close by itself")
        self.assertIn(str(timezone.now().year), past.seen["count"])
        Event.objects.create(system=self.platform, kind="cell", who=self.plant.technician)
        self.assertEqual(self.past(self.platform).seen, {})

    def test_what_it_has_not_is_not_suspected_again(self) -> None:
        self.visited(self.platform, box="not-here")
        self.assertEqual(self.past(self.platform).lacks, {"box"})
        again = self.plant.job("zero-span", self.platform)
        states = {one.suspect.key: one.state for one in snapshot(again).machine.suspects}
        self.assertEqual(states["water"], "not-here")
        file = json.loads(self.client.get(f"/api/jobs/{again.id}/job.json").content)
        self.assertEqual(file["history"]["lacks"], ["box"])

    def test_visits_to_its_like_count_and_those_of_another_organisation_do_not(self) -> None:
        like = self.machine("The other platform")
        self.visited(like)
        self.visited(like)
        past = self.past(self.platform)
        self.assertEqual((past.visits, past.visits_alike), (0, 2))
        System.objects.filter(pk=like.pk).update(site=Plant("Elsewhere").site)
        self.assertEqual(self.past(self.platform).visits_alike, 0)

    def test_a_recipe_that_was_never_run_was_never_set_and_one_that_was_has_been(self) -> None:
        self.assertFalse(self.past(self.platform).first, "nobody says that this machine was never set")
        self.visited(self.platform)
        self.assertFalse(self.past(self.platform).first)
        other = Channel.objects.create(system=self.platform, name="the other deck", place=1)
        other = Channel.objects.select_related("system__site").get(pk=other.pk)
        self.assertTrue(known_before(other, timezone.now()).past.first)

    def test_two_jobs_that_close_at_the_same_machine_are_both_counted(self) -> None:
        first, second = (self.plant.job("zero-span", self.platform) for _ in range(2))
        for job in (first, second):
            enter(job, self.plant.technician, SPAN)
            looked_over(job, self.plant.technician)
            self.assertEqual(self.send(f"/api/jobs/{job.id}/close", COMPLETE).status_code, 200)
        self.assertEqual(self.past(self.platform).visits, 2)

    def test_what_was_seen_later_counts_whichever_is_closed_first(self) -> None:
        early, late = (timezone.now() - datetime.timedelta(days=days) for days in (9, 2))
        one = counted(counted({}, {"seen": ["count"]}, late), {"seen": ["count"]}, early)
        other = counted(counted({}, {"seen": ["count"]}, early), {"seen": ["count"]}, late)
        self.assertEqual(one, other)
        self.assertEqual(one["seen"]["count"], late.isoformat())

    def test_a_profile_takes_what_a_look_is_worth(self) -> None:
        self.client.force_login(self.plant.lead)
        profile = LimitProfile.objects.get(organisation=self.plant.organisation, key="vessel")
        given = {"accept": "0.1 %", "repeat": "", "minimum_runs": 1, "plausible": "10 %", "looks": "all", "harm_minutes": 90}  # fmt: skip
        answer = self.client.put(f"/api/profiles/{profile.key}", json.dumps(given), content_type="application/json")
        self.assertEqual((answer.json()["looks"], answer.json()["harm_minutes"]), ("all", 90))
        profile.refresh_from_db()
        self.assertEqual((profile.as_given()["looks"], profile.as_given()["harm_minutes"]), ("all", 90))
        bad = self.client.put(f"/api/profiles/{profile.key}", json.dumps(given | {"looks": "some"}), content_type="application/json")  # fmt: skip
        self.assertEqual(bad.status_code, 422)
