"""Practice of several people: sets that a lead gives, how they fare, and what a lead watches."""

import asyncio
import datetime
import json
from typing import Any, cast
from unittest.mock import patch

from django.test import Client

from beacon.bench.models import Job
from beacon.people.models import Membership, Role
from beacon.people.still import Listener
from beacon.practice.models import Practice, Scenario
from beacon.practice.streams import Seen, readings
from tests.server.test_practice import PracticeTestCase


class Learning(PracticeTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.lead = self.signed_in(self.plant.lead)

    def give(self, **given: Any) -> Any:
        body = {"name": "First week", "people": [self.plant.technician.username], "scenarios": [{"kind": "platform", "level": "easy"}, {"kind": "cart", "level": "hard"}]}  # fmt: skip
        return self.send("/api/practice/sets", body | given, self.lead)

    def page(self, client: Client | None = None) -> dict[str, Any]:
        return dict((client or self.client).get("/api/practice/page").json())

    def test_a_lead_gives_a_set_and_sees_how_they_fare(self) -> None:
        self.assertEqual(self.give().status_code, 201)
        (given,) = self.page()["given"]
        self.assertEqual([row["kind"] for row in given["scenarios"]], ["platform scale", "load cart or trailer"])
        self.assertNotIn("fault", json.dumps(given))
        begun = self.send(f"/api/practice?scenario={given['scenarios'][0]['id']}", {}).json()["id"]
        (row, *_) = self.page()["given"][0]["scenarios"]
        self.assertTrue(row["practice"]["open"])
        self.close(begun)
        (one,) = self.lead.get("/api/practice/instructor").json()["sets"]
        (who,) = one["people"]
        self.assertEqual((who["username"], who["done"]), (self.plant.technician.username, 1))
        self.assertEqual(one["scenarios"], ["platform scale, easy", "load cart or trailer, hard"])

    def test_everyone_in_a_set_gets_the_same_machine(self) -> None:
        self.give(people=[self.plant.technician.username, self.plant.lead.username])
        scenario = Scenario.objects.order_by("place").first()
        assert scenario is not None
        for client in (self.client, self.lead):
            self.send(f"/api/practice?scenario={scenario.id}", {}, client)
        self.assertEqual(set(Practice.objects.values_list("seed", "fault")), {(scenario.seed, scenario.fault)})

    def test_the_first_try_counts_and_not_the_same_seed_again(self) -> None:
        self.give(scenarios=[{"kind": "platform", "level": "easy"}])
        scenario = Scenario.objects.get()
        scenario.fault = "out"
        scenario.save()
        first = str(self.send(f"/api/practice?scenario={scenario.id}", {}).json()["id"])
        self.close(first)
        again = str(self.send(f"/api/practice?again={first}", {}).json()["id"])
        self.close(again)
        self.assertEqual(self.page()["given"][0]["scenarios"][0]["practice"]["job"], first)

    def test_a_set_that_cannot_be_given_says_why_field_by_field(self) -> None:
        for body, path in (
            ({"name": " "}, "name"), ({"people": []}, "people"), ({"people": ["nobody@x.example"]}, "people"),
            ({"people": [self.other.technician.username]}, "people"), ({"scenarios": []}, "scenarios"),
            ({"scenarios": [{"kind": "ghost"}]}, "scenarios[0].kind"),
        ):  # fmt: skip
            answer = self.give(**body)
            self.assertEqual((answer.status_code, answer.json()["errors"][0]["path"]), (422, path))
        self.assertEqual(self.send("/api/practice/sets", {"name": "x", "people": [], "scenarios": []}).status_code, 404)

    def test_a_set_that_was_taken_back_is_begun_no_more(self) -> None:
        one = self.give().json()
        scenario = self.page()["given"][0]["scenarios"][0]["id"]
        self.assertEqual(self.send(f"/api/practice/sets/{one['id']}", {}, self.lead, "delete").status_code, 204)
        self.assertEqual(self.page()["given"], [])
        self.assertEqual(self.send(f"/api/practice?scenario={scenario}", {}).status_code, 404)

    def test_somebody_s_page_says_what_they_are_good_at_and_what_they_miss(self) -> None:
        for fault in ("none", "none", "out"):
            job = self.begin(fault, "vessel")
            self.write(job, runs__r1__indicated="6000 kg")
            self.write(job, runs__r1__reference="6000 kg")
            self.close(job)
        progress = self.client.get("/api/practice/progress").json()
        self.assertEqual((progress["practices"], progress["right"]), (3, 2))
        by = {row["decision"]: (row["right"], row["of"]) for row in progress["decisions"]}
        self.assertEqual((by["left-alone"], by["put-right"]), ((2, 2), (0, 1)))
        self.assertEqual(progress["missed"][0], "What is out is put right")
        self.assertEqual(progress["kinds"][0]["of"], 3)
        (kind,) = [row for row in self.page()["kinds"] if row["key"] == "vessel"]
        self.assertEqual((kind["right"], kind["of"]), (2, 3))

    def test_of_others_only_a_lead_may_ask_and_a_reader_has_no_practice(self) -> None:
        name = self.plant.technician.username
        self.assertEqual(self.lead.get(f"/api/practice/progress?username={name}").status_code, 200)
        self.assertEqual(
            self.client.get(f"/api/practice/progress?username={self.plant.lead.username}").status_code, 404
        )
        self.assertEqual(self.lead.get(f"/api/practice/progress?username={self.other.lead.username}").status_code, 404)
        self.assertEqual(self.client.get("/api/practice/instructor").status_code, 404)
        reader = self.signed_in(self.plant.people[Role.READER])
        self.assertEqual(reader.get("/api/practice/page").status_code, 404)
        self.assertEqual(Membership.objects.filter(role=Role.READER, person=self.plant.people[Role.READER]).count(), 1)

    def test_an_open_practice_is_in_the_list_and_not_in_the_count(self) -> None:
        self.begin(kind="vessel")
        page = self.page()
        self.assertTrue(page["mine"][0]["open"])
        self.assertEqual(self.client.get("/api/practice/progress").json()["practices"], 0)


class Watching(PracticeTestCase):
    def test_what_it_shows_is_worked_out_once_for_all_who_look(self) -> None:
        practice = Practice.objects.get(job=self.begin(kind="platform"))
        machine = practice.machine

        async def look() -> tuple[bytes, bytes]:
            seen = Seen(machine, practice)
            return await seen.said(), await seen.said()

        one, other = asyncio.run(look())
        self.assertIs(one, other)
        self.assertIn(b'"title":"weight"', one)

    def test_a_stream_begins_with_when_to_come_again_and_then_tells(self) -> None:
        practice = Practice.objects.get(job=self.begin(kind="platform"))
        machine = practice.machine

        async def first_two() -> list[bytes]:
            found = []
            stream = readings(practice, machine, Listener("", 0, self.plant.organisation.id))
            async for one in stream:
                found.append(one)
                if len(found) == 2:
                    break
            await stream.aclose()  # type: ignore[attr-defined]
            return found

        retry, told = asyncio.run(first_two())
        self.assertEqual(retry, b"retry: 500\n\n")
        self.assertTrue(told.startswith(b"data: {"))

    def test_what_was_done_elsewhere_is_taken_over(self) -> None:
        job = self.begin(kind="platform")
        before = Practice.objects.get(job=job)
        seen = Seen(before.machine, before)
        self.act(job, "load", 500)
        self.act(job, "skip", 60)
        seen.put(Practice.objects.get(job=job))
        told = json.loads(asyncio.run(seen.said()).decode().removeprefix("data: "))
        self.assertAlmostEqual(told["readouts"][0]["value"], 500, delta=1)
        self.assertEqual(Job.objects.get(id=job).practice, True)

    def test_whoever_did_something_knows_which_readings_do_not_show_it_yet(self) -> None:
        job = self.begin(kind="platform")
        before = Practice.objects.get(job=job)
        seen = Seen(before.machine, before)
        answer = self.act(job, "load", 500).json()

        def told() -> dict[str, Any]:
            return cast("dict[str, Any]", json.loads(asyncio.run(seen.said()).decode().removeprefix("data: ")))

        self.assertLess(told()["turn"], answer["turn"])
        seen.put(Practice.objects.get(job=job))
        self.assertEqual(told()["turn"], answer["turn"])

    def test_a_server_whose_clock_is_behind_shows_what_was_done_at_another(self) -> None:
        job = self.begin(kind="platform")
        self.act(job, "skip", 60)
        first = self.act(job, "press", 1).json()
        self.assertIn("release", first["offers"])
        practice = Practice.objects.get(job=job)
        behind = practice.started_at - datetime.timedelta(seconds=4)
        with patch("beacon.practice.streams.timezone.now", lambda: behind):
            seen = Seen(practice.machine, practice)
            told = json.loads(asyncio.run(seen.said()).decode().removeprefix("data: "))
            self.assertIn("release", told["offers"])
            self.assertNotIn("release", self.act(job, "press", 0).json()["offers"])
        done = Practice.objects.get(job=job).done
        self.assertEqual([one.what for one in done], ["skip", "press", "press"])
        self.assertEqual(done, sorted(done, key=lambda one: one.at))
