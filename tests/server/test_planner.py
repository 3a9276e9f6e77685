"""What is planned: intervals of every kind, counters, zero checks, plans, the round's order, the calendar and its feed."""

import datetime
import uuid
from typing import Any

from django.db import connection
from django.test.utils import CaptureQueriesContext
from icalendar import Calendar

from beacon.people.models import Membership, Role
from beacon.planner.models import Feed, Planned, ZeroCheck
from beacon.plant.models import Channel, Reference, Site, System
from tests.server.plant import SIGN_IN, PlantTestCase, today
from tests.server.sealed import Sealed


class Planner(PlantTestCase):
    @property
    def url(self) -> str:
        return f"/api/systems/{self.plant.system.id}"

    def put(self, path: str, body: Any, client: Any = None) -> Any:
        return self.send(f"{self.url}/{path}", body, client, "put")

    def row(self, client: Any = None) -> dict[str, Any]:
        answer = (client or self.client).get("/api/round").json()
        return next(row for row in answer["systems"] if row["id"] == str(self.plant.system.id))

    def intervals(self, *more: dict[str, Any], zero: list[dict[str, Any]] | None = None, why: str = "it drifts") -> Any:
        body = {"calibration": [{"kind": "days", "every": 90}, *more], "zero": zero or [], "why": why}
        return self.put("intervals", body)


class Intervals(Planner, Sealed):
    def test_whichever_comes_first_is_on_the_round_and_why_is_on_the_record(self) -> None:
        self.seal()
        answer = self.intervals({"kind": "tonnes", "every": 5000}, {"kind": "season", "season": "03-01"})
        self.assertEqual(answer.status_code, 204, answer.content)
        page = self.client.get(self.url).json()
        kinds = {one["kind"]: one["words"] for one in page["dues"]}
        self.assertEqual(set(kinds), {"days", "tonnes", "season"})
        self.assertEqual(kinds["tonnes"], "every 5000 t: read the counter")
        changes = page["changes"]
        self.assertIn(
            ("interval", "180 days", "90 days", "it drifts"),
            [tuple(c[k] for k in ("field", "before", "after", "why")) for c in changes],
        )
        self.assertIn("interval, season", [change["field"] for change in changes])
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.due, today() + datetime.timedelta(days=90))

    def test_days_are_those_of_the_place_where_it_stands(self) -> None:
        there = self.plant.goes_far_away()
        self.seal()
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.due, there + datetime.timedelta(days=180))
        self.assertEqual(self.intervals({"kind": "tonnes", "every": 5000}).status_code, 204)
        self.plant.system.refresh_from_db()
        self.assertEqual(self.plant.system.due, there + datetime.timedelta(days=90))

    def test_an_interval_of_nothing_and_others_that_say_nothing_are_refused_each_by_its_place(self) -> None:
        for more, path in (
            ({"kind": "hours"}, "calibration[1]"), ({"kind": "season", "season": "13-40"}, "calibration[1]"),
            ({"kind": "days", "every": 20}, "calibration"),
        ):  # fmt: skip
            answer = self.intervals(more)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(path, [error["path"] for error in answer.json()["errors"]])
        self.assertEqual(self.intervals({"kind": "hours", "every": 0}).status_code, 422)
        self.assertEqual(self.intervals({"kind": "hours", "every": -5}).status_code, 422)
        self.assertEqual(self.intervals(why="12").json()["errors"][0]["path"], "why")
        self.assertEqual(self.put("intervals", {"calibration": [], "why": "x y"}).status_code, 422)
        band = [{"kind": "days", "every": 1, "band": "two stones"}]
        self.assertEqual(self.intervals(zero=band).json()["errors"][0]["path"], "zero[0]")

    def test_counters_say_what_is_left_and_one_that_went_back_asks(self) -> None:
        self.seal()
        System.objects.filter(pk=self.plant.system.pk).update(
            last=System.objects.get(pk=self.plant.system.pk).last
            | {"closed_at": (datetime.datetime.now(datetime.UTC) - datetime.timedelta(days=30)).isoformat()}
        )
        self.intervals({"kind": "hours", "every": 400})
        first = self.send(f"{self.url}/counters", {"kind": "hours", "figure": 1000})
        self.assertEqual(first.status_code, 204)
        self.plant.system.counters.update(at=datetime.datetime.now(datetime.UTC) - datetime.timedelta(days=31))
        self.assertEqual(self.send(f"{self.url}/counters", {"kind": "hours", "figure": 1380}).status_code, 204)
        hours = next(one for one in self.client.get(self.url).json()["dues"] if one["kind"] == "hours")
        self.assertTrue(hours["words"].startswith("20 of 400 h left"), hours)
        self.assertEqual(hours["urgency"], "soon")
        back = self.send(f"{self.url}/counters", {"kind": "hours", "figure": 12})
        self.assertEqual(back.status_code, 422)
        self.assertIn("began anew", back.json()["detail"])
        self.assertEqual(
            self.send(f"{self.url}/counters", {"kind": "hours", "figure": 12, "anew": True}).status_code, 204
        )
        self.assertEqual(self.send(f"{self.url}/counters", {"kind": "hours", "figure": -1}).status_code, 422)


class Zeros(Planner):
    def check(self, text: str, **more: Any) -> Any:
        return self.send(f"{self.url}/zero-checks", {"id": str(uuid.uuid4()), "text": text, "unit": "kg"} | more)

    def test_a_zero_is_looked_at_in_one_entry_and_judged_by_its_band(self) -> None:
        self.assertEqual(self.check("0").status_code, 422)
        self.intervals(zero=[{"kind": "days", "every": 1, "band": "2 kg"}])
        self.assertEqual(self.row()["zero"]["urgency"], "due")
        kept = self.check("1,5")
        self.assertEqual((kept.status_code, kept.json()["holds"], kept.json()["last"]), (201, True, "1.5 kg"))
        self.assertEqual(self.row()["zero"]["words"], "due in 1 day")
        self.assertFalse(self.check("-2.5").json()["holds"])
        self.assertEqual(self.row()["why"], "Zero is off: -2.5 kg with nothing on it")
        self.assertEqual(self.check("nought").status_code, 422)
        self.assertTrue(self.check("0.004", unit="t").json()["holds"] is False)

    def test_sent_again_it_is_kept_once(self) -> None:
        self.intervals(zero=[{"kind": "days", "every": 7}])
        name = str(uuid.uuid4())
        for _ in range(2):
            self.assertEqual(self.check("3", id=name).status_code, 201)
        self.assertEqual(ZeroCheck.objects.count(), 1)


class Plans(Planner):
    def test_a_visit_is_planned_to_a_day_and_a_person(self) -> None:
        day = str(today() + datetime.timedelta(days=3))
        body = {"day": day, "username": self.plant.technician.username, "note": "lorry at nine"}
        self.assertEqual(self.put("plan", body).status_code, 204)
        self.assertEqual(self.row()["planned"]["name"], str(self.plant.technician))
        self.assertEqual(self.put("plan", body | {"username": ""}).status_code, 204)
        self.assertEqual(Planned.objects.count(), 1)
        for wrong, path in (
            ({"day": "2020-01-01"}, "day"), ({"username": self.other.lead.username}, "username"),
            ({"username": self.plant.people[Role.READER].username}, "username"),
        ):  # fmt: skip
            self.assertEqual(self.put("plan", body | wrong).json()["errors"][0]["path"], path)
        self.assertEqual(self.client.delete(f"{self.url}/plan").status_code, 204)
        self.assertIsNone(self.row()["planned"])

    def test_a_plan_is_done_with_the_visit_that_was_planned(self) -> None:
        self.put("plan", {"day": str(today() + datetime.timedelta(days=1))})
        self.assertIsNotNone(self.row()["planned"])
        last = {"closed_at": (datetime.datetime.now(datetime.UTC) + datetime.timedelta(seconds=5)).isoformat()}
        keys = ("job", "method", "call", "outcome", "closed_by", "factor_before", "factor_after")
        System.objects.filter(pk=self.plant.system.pk).update(
            last=last | dict.fromkeys(keys, "") | {"job": str(uuid.uuid4())}
        )
        self.assertIsNone(self.row()["planned"])

    def test_the_round_keeps_each_person_s_order_of_driving(self) -> None:
        second = Site.objects.create(organisation=self.plant.organisation, name="Loft", time_zone="UTC", place=5)
        body = {"sites": [str(second.id), str(self.plant.site.id), str(self.other.site.id)]}
        self.assertEqual(self.send("/api/round/order", body, method="put").status_code, 204)
        order = [site["id"] for site in self.client.get("/api/round").json()["sites"]]
        self.assertEqual(order, [str(second.id), str(self.plant.site.id)])
        lead = self.signed_in(self.plant.lead).get("/api/round").json()["sites"]
        self.assertEqual(lead[0]["id"], str(self.plant.site.id))

    def test_what_to_bring_says_why_the_usual_one_does_not_suit_and_which_do(self) -> None:
        better = Reference.objects.create(
            organisation=self.plant.organisation, name="Platform", division="1 kg", range="3 t"
        )
        Reference.objects.create(organisation=self.other.organisation, name="Theirs", division="1 kg", range="90 t")
        bring = self.row()["bring"]
        self.assertEqual((bring["reference"], bring["why_not"], bring["people"]), ("Weighbridge", "", 2))
        self.assertIn("t in all", bring["material"])
        self.assertGreater(bring["minutes"], 0)
        self.assertEqual(bring["others"], ["Platform"])
        Reference.objects.filter(pk=self.plant.bridge.pk).update(due=today() - datetime.timedelta(days=1))
        self.assertEqual(self.row()["bring"]["why_not"], "out of date")
        Reference.objects.filter(pk=better.pk).update(range="10 kg")
        self.assertEqual(self.row()["bring"]["others"], [])
        # A system that stands for a reference has to be proven itself, and is none for itself.
        cart = self.plant.add_system("Trailer", "cart", "load-cart", {"indicated_division": "5 kg", "capacity": "30 t"})
        proven = Reference.objects.create(
            organisation=self.plant.organisation, kind="system", name="Trailer, proven", system=cart
        )
        System.objects.filter(pk=self.plant.system.pk).update(reference=proven)
        self.assertEqual(self.row()["bring"]["why_not"], "not proven itself")
        System.objects.filter(pk=cart.pk).update(state="in-order", due=today() + datetime.timedelta(days=5))
        self.assertEqual(self.row()["bring"]["why_not"], "")
        self.assertEqual(self.row()["bring"]["reference"], "Trailer, proven")


class OneMonth(Planner, Sealed):
    def test_a_month_holds_what_is_due_planned_and_to_be_checked(self) -> None:
        self.seal()
        day = today() + datetime.timedelta(days=180)
        answer = self.client.get(f"/api/calendar?month_of={day:%Y-%m}").json()
        items = [item for one in answer["days"] if one["day"] == str(day) for item in one["items"]]
        self.assertEqual([(item["kind"], item["name"]) for item in items], [("due", "Conveyor")])
        due = self.plant.bridge.due
        answer = self.client.get(f"/api/calendar?month_of={due:%Y-%m}").json()
        self.assertIn("reference", [item["kind"] for one in answer["days"] for item in one["items"]])

    def test_what_is_no_month_is_refused(self) -> None:
        for text in ("2031-13", "x", "0001-01", "2031-3-1", ""):
            self.assertEqual(self.client.get(f"/api/calendar?month_of={text}").status_code, 422, text)


class Feeds(Planner, Sealed):
    def make(self) -> tuple[str, str]:
        answer = self.send("/api/feeds", {})
        self.assertEqual(answer.status_code, 201)
        return answer.json()["id"], "/api" + answer.json()["link"].partition("/api")[2]

    def test_an_ordinary_calendar_program_reads_it(self) -> None:
        self.seal()
        _, link = self.make()
        answer = self.client_class().get(link)
        self.assertEqual(answer["Content-Type"], "text/calendar; charset=utf-8")
        read = Calendar.from_ical(answer.content.decode())
        events = {str(one["summary"]): one for one in read.walk("VEVENT")}
        self.assertEqual(events["Calibrate Conveyor"].decoded("dtstart"), today() + datetime.timedelta(days=180))
        self.assertIn("Weighbridge: check due", events)
        for line in answer.content.split(b"\r\n"):
            self.assertLessEqual(len(line), 75)
        self.assertEqual(len({str(one["uid"]) for one in events.values()}), len(events))

    def test_it_says_nothing_new_where_nothing_is_new(self) -> None:
        _, link = self.make()
        client = self.client_class()
        first, again = client.get(link), client.get(link)
        self.assertEqual(first.content, again.content)
        self.assertEqual(client.get(link, headers={"if-none-match": first["ETag"]}).status_code, 304)
        self.put("plan", {"day": str(today() + datetime.timedelta(days=2))})
        self.assertEqual(client.get(link, headers={"if-none-match": first["ETag"]}).status_code, 200)

    def test_a_link_that_was_revoked_or_made_up_shows_nothing(self) -> None:
        name, link = self.make()
        self.assertEqual(self.signed_in(self.other.technician).delete(f"/api/feeds/{name}").status_code, 404)
        self.assertEqual(self.client.delete(f"/api/feeds/{name}").status_code, 204)
        answer = self.client_class().get(link)
        self.assertEqual((answer.status_code, answer.json()["title"]), (410, "This link was revoked"))
        self.assertEqual(self.client_class().get("/api/calendar/made-up.ics").status_code, 404)
        self.assertNotIn("made-up", str(Feed.objects.values()))

    def test_whoever_left_the_organisation_reads_it_no_more(self) -> None:
        _, link = self.make()
        Membership.objects.filter(person=self.plant.technician).delete()
        self.assertEqual(self.client_class().get(link).status_code, 410)


class Readers(Planner):
    def test_a_customer_sees_the_due_dates_of_their_sites_and_no_round(self) -> None:
        reader = self.signed_in(self.plant.people[Role.READER])
        self.assertEqual([row["name"] for row in reader.get("/api/due-dates").json()], ["Conveyor"])
        Membership.objects.get(person=self.plant.people[Role.READER]).sites.clear()
        self.assertEqual(reader.get("/api/due-dates").json(), [])
        for path in ("round", "calendar?month_of=2031-01", "colleagues", "references"):
            self.assertEqual(reader.get(f"/api/{path}").status_code, 404, path)


class Many(Planner):
    def test_two_thousand_systems_cost_as_many_questions_as_two(self) -> None:
        def asked() -> int:
            # The first who asks works out what is due; it stands beside the systems from then on.
            self.client.get("/api/round")
            with CaptureQueriesContext(connection) as queries:
                self.assertEqual(self.client.get("/api/round").status_code, 200)
            return len(queries)

        self.plant.add_system("Second", "belt", "belt-fine", {})
        few = asked()
        like = self.plant.system
        System.objects.bulk_create(
            System(site=like.site, kind="belt", name=f"Belt {one}", plates=like.plates, profile=like.profile, reference=like.reference)
            for one in range(1998)
        )  # fmt: skip
        Channel.objects.bulk_create(Channel(system=one) for one in System.objects.filter(channels=None))
        self.assertEqual(asked(), few)


class SeveralOrganisations(PlantTestCase):
    def test_someone_in_two_switches_between_them_and_finds_both_by_address(self) -> None:
        user = self.plant.technician
        Membership.objects.create(person=user, organisation=self.other.organisation, role=Role.LEAD)
        for plant in (self.other, self.plant):
            body = {"organisation": str(plant.organisation.id)}
            me = self.send("/api/me", body, method="patch").json()
            self.assertEqual(
                [one["organisation"] for one in me["memberships"] if one["chosen"]], [plant.organisation.name]
            )
            self.assertEqual(me["leads"], plant is self.other)
            listed = self.client.get("/api/round").json()["systems"]
            self.assertEqual([row["id"] for row in listed], [str(plant.system.id)])
            self.assertEqual(self.client.get("/api/people").status_code, 200 if plant is self.other else 404)
            for one in (self.plant, self.other):
                self.assertEqual(self.client.get(f"/api/systems/{one.system.id}").status_code, 200)

    def test_no_one_switches_to_where_they_do_not_belong(self) -> None:
        body = {"organisation": str(self.other.organisation.id)}
        self.assertEqual(self.send("/api/me", body, method="patch").status_code, 404)


class Devices(PlantTestCase):
    def sign_in(self, agent: str) -> Any:
        client = self.client_class(headers={"user-agent": agent})
        body = {"username": self.plant.technician.username, "password": "a-long-enough-one"}
        self.assertEqual(self.send(SIGN_IN, body, client).status_code, 200)
        return client

    def test_a_device_signed_in_elsewhere_is_signed_out_from_here(self) -> None:
        here, there = self.sign_in("Laptop"), self.sign_in("Tablet")
        listed = here.get("/api/sessions").json()
        self.assertEqual({one["agent"]: one["here"] for one in listed}, {"Laptop": True, "Tablet": False})
        tablet = next(one["id"] for one in listed if one["agent"] == "Tablet")
        self.assertEqual(self.signed_in(self.other.lead).delete(f"/api/sessions/{tablet}").status_code, 404)
        self.assertEqual(here.delete(f"/api/sessions/{tablet}").status_code, 204)
        self.assertEqual(there.get("/api/me").status_code, 401)
        self.assertEqual(here.get("/api/me").status_code, 200)

    def test_a_changed_password_ends_the_others_and_keeps_this_one(self) -> None:
        here, there = self.sign_in("Laptop"), self.sign_in("Tablet")
        body = {"old": "a-long-enough-one", "new": "another-long-enough-one"}
        self.assertEqual(self.send("/api/me/password", body, here).status_code, 204)
        self.assertEqual(there.get("/api/me").status_code, 401)
        self.assertEqual([one["here"] for one in here.get("/api/sessions").json()], [True])

    def test_signing_out_takes_the_device_off_the_list(self) -> None:
        here, there = self.sign_in("Laptop"), self.sign_in("Tablet")
        self.send("/api/sign-out", {}, there)
        self.assertEqual(len(here.get("/api/sessions").json()), 1)
