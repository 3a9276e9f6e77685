"""Dates kept beside systems: worked out where something changed and once a day, whoever changes it and whenever."""

import datetime
import threading
from typing import Any
from unittest import mock

from django.db import connection, connections, transaction
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from beacon.planner import dates
from beacon.planner.dates import dates_of, keep_up
from beacon.planner.due import Known, known_of
from beacon.planner.models import Counter, Dates, Interval, ZeroCheck
from beacon.planner.round import PAGE
from beacon.planner.tasks import dates as task
from beacon.plant.models import Channel, System
from tests.emptied import EmptiedTestCase
from tests.server.plant import Plant, PlantTestCase
from tests.server.together import at_once


def kept(system: System) -> dict[str, object]:
    row = Dates.objects.get(pk=system.pk)
    return {field: getattr(row, field) for field in dates.FIELDS}


def anew(system: System) -> dict[str, object]:
    """The dates as they come out of the record now."""
    fresh = System.objects.select_related("site__organisation", "profile").get(pk=system.pk)
    row = dates_of(fresh, known_of([fresh]).get(fresh.pk) or Known())
    return {field: getattr(row, field) for field in dates.FIELDS}


class KeptUp(PlantTestCase):
    def up(self) -> None:
        keep_up(System.objects.filter(pk=self.plant.system.pk))

    def test_whatever_they_come_from_takes_them_away_however_it_is_written(self) -> None:
        system, who = self.plant.system, self.plant.technician
        changes = (
            lambda: System.objects.filter(pk=system.pk).update(due=datetime.date(2031, 3, 4)),
            lambda: Interval.objects.bulk_create([Interval(system=system, purpose="zero", kind="days", every=1)]),
            lambda: Interval.objects.filter(system=system).update(every=7),
            lambda: Counter.objects.create(system=system, kind="hours", figure=10, who=who),
            lambda: ZeroCheck.objects.create(system=system, text="3 kg", holds=False, who=who),
            lambda: System.objects.filter(pk=system.pk).update(state="fault"),
            lambda: Interval.objects.filter(system=system).delete(),
        )
        for number, change in enumerate(changes):
            self.up()
            change()
            self.assertFalse(Dates.objects.filter(pk=system.pk).exists(), number)
            self.up()
            self.assertEqual(kept(system), anew(system), number)

    def test_they_are_worked_out_again_on_another_day_and_not_twice_on_one(self) -> None:
        self.up()
        with CaptureQueriesContext(connection) as asked:
            self.up()
        self.assertLessEqual(len(asked), 2)
        tomorrow = timezone.now() + datetime.timedelta(days=1)
        with mock.patch("django.utils.timezone.now", return_value=tomorrow):
            self.up()
            self.assertEqual(kept(self.plant.system), anew(self.plant.system))
        self.assertGreater(Dates.objects.get(pk=self.plant.system.pk).as_of, datetime.date.today())

    def test_what_is_wanted_now_is_on_the_first_page_whatever_it_is_called(self) -> None:
        like = self.plant.system
        made = System.objects.bulk_create(
            System(site=like.site, kind="belt", name=f"A belt {n:03}", profile=like.profile, plates=like.plates, state="in-order", due=datetime.date(2099, 1, 1))
            for n in range(PAGE + 20)
        )  # fmt: skip
        Channel.objects.bulk_create(Channel(system=system) for system in made)
        late = self.plant.add_system("Zulu belt", "belt", "belt-fine", {})
        Interval.objects.create(system=made[-1], purpose="zero", kind="days", every=1)
        page = self.client.get("/api/round").json()
        names = [row["name"] for row in page["systems"]]
        self.assertEqual(len(names), PAGE)
        self.assertIn(late.name, names)
        self.assertIn(made[-1].name, names)
        self.assertEqual(
            (page["total"], page["later"]), (System.objects.filter(practice=False, site=like.site).count(), PAGE)
        )
        rest = self.client.get(f"/api/round?after={page['later']}").json()
        self.assertFalse({row["name"] for row in rest["systems"]} & set(names))
        self.assertEqual(len(names) + len(rest["systems"]), page["total"])
        self.assertIsNone(rest["later"])
        found = self.client.get("/api/round?find=belt 007").json()
        self.assertEqual([row["name"] for row in found["systems"]], ["A belt 007"])
        self.assertEqual(self.client.get("/api/round?find=%25").json()["systems"], [])

    def test_every_system_is_there_to_choose_from_by_name(self) -> None:
        self.plant.add_system("Second belt", "belt", "belt-fine", {})
        names = [one["name"] for one in self.client.get("/api/system-names").json()]
        self.assertEqual(names, ["Conveyor", "Second belt"])
        belts = self.client.get("/api/system-names?kind=belt").json()
        self.assertEqual({one["kind"] for one in belts}, {"belt"})
        self.assertTrue(all(one["channel"] for one in belts))
        self.assertEqual(self.client.get("/api/system-names?kind=grader").json(), [])
        found = self.client.get("/api/system-names?find=second").json()
        self.assertEqual([one["not_tested"] for one in found], [True])
        self.assertEqual(self.signed_in(self.other.lead).get("/api/system-names?find=second").json(), [])

    def test_a_page_asks_as_many_questions_for_many_systems_as_for_one(self) -> None:
        self.client.get("/api/round")
        with CaptureQueriesContext(connection) as few:
            self.client.get("/api/round")
        for n in range(30):
            self.plant.add_system(f"Belt {n}", "belt", "belt-fine", {})
        self.client.get("/api/round")
        with CaptureQueriesContext(connection) as many:
            self.client.get("/api/round")
        self.assertLessEqual(len(many), len(few) + 1)


class AtMidnight(PlantTestCase):
    def test_the_night_s_task_makes_them_at_each_zone_s_own_and_nobody_waits_for_it(self) -> None:
        here, there = self.plant.system, self.other.system
        type(here.site).objects.filter(pk=here.site.pk).update(time_zone="Pacific/Auckland")
        type(here.site).objects.filter(pk=there.site.pk).update(time_zone="America/Los_Angeles")
        evening = datetime.datetime(2031, 3, 4, 10, 50, tzinfo=datetime.UTC)
        with mock.patch.object(timezone, "now", return_value=evening):
            task(0)
            first = dict(Dates.objects.values_list("system", "as_of"))
        # Ten minutes later it is the next day in the one, and still the same in the other.
        with mock.patch.object(timezone, "now", return_value=evening + datetime.timedelta(minutes=15)):
            with mock.patch.object(dates, "_work_out", wraps=dates._work_out) as worked:
                task(0)
            self.assertEqual([list(call.args[0]) for call in worked.call_args_list], [[here.pk]])
            with mock.patch.object(dates, "_work_out") as waited:
                keep_up(System.objects.all())
            self.assertFalse(waited.called)
        self.assertEqual({first[here.pk], first[there.pk]}, {datetime.date(2031, 3, 4)})
        self.assertEqual(Dates.objects.get(pk=here.pk).as_of, datetime.date(2031, 3, 5))
        self.assertEqual(Dates.objects.get(pk=there.pk).as_of, datetime.date(2031, 3, 4))


class InBetween(EmptiedTestCase):
    """Somebody changes what dates come from just as somebody else works them out."""

    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")

    def check_zero(self) -> None:
        ZeroCheck.objects.create(system=self.plant.system, text="9 kg", holds=False, who=self.plant.technician)
        connections.close_all()

    def test_a_change_in_between_is_not_lost(self) -> None:
        system = self.plant.system
        Interval.objects.create(system=system, purpose="zero", kind="days", every=7)
        check = threading.Thread(target=self.check_zero)
        real = dates.known_of

        def slowly(listed: list[System]) -> Any:
            """What is known is read; then, before it is kept, somebody looks at the zero."""
            found = real(listed)
            check.start()
            check.join(0.5)
            return found

        with mock.patch.object(dates, "known_of", slowly):
            keep_up(System.objects.filter(pk=system.pk))
        check.join(20)
        # The check waited for the row, and took away what was worked out before it.
        self.assertFalse(Dates.objects.filter(pk=system.pk).exists())
        keep_up(System.objects.filter(pk=system.pk))
        self.assertEqual(kept(system), anew(system))
        self.assertEqual((Dates.objects.get(pk=system.pk).rank, ZeroCheck.objects.count()), (0, 1))

    def test_a_system_that_is_being_changed_is_left_to_whoever_asks_next(self) -> None:
        system = self.plant.system

        def asked() -> bool:
            keep_up(System.objects.filter(pk=system.pk))
            return Dates.objects.filter(pk=system.pk).exists()

        with transaction.atomic():
            System.objects.select_for_update(no_key=True).get(pk=system.pk)
            (kept_then,) = at_once(asked)
        self.assertFalse(kept_then)
        self.assertTrue(asked())
