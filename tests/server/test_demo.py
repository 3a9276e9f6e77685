"""The demo's scenario, and the first organisation of a real server."""

import io
import os
from collections.abc import Iterator
from unittest import mock

from django.core.management import CommandError, call_command
from django.db.models import Q
from django.test import TestCase

from beacon.bench.models import Job
from beacon.demo import scenario
from beacon.demo.seed import seed
from beacon.people.models import Membership, Organisation
from beacon.plant.models import System
from beacon.records import verifying
from beacon.records.looking import breaks
from beacon.records.models import Record
from beacon.records.verifying import Broken, verify


class Demo(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        seed()

    def test_it_is_filled_in_once_and_its_records_fit(self) -> None:
        jobs = Job.objects.count()
        seed()
        self.assertEqual(Job.objects.count(), jobs)
        self.assertEqual({m.role for m in Membership.objects.all()}, {"technician", "lead", "reader"})
        self.assertFalse([row for row in verify() if isinstance(row, Broken)])

    def test_all_but_those_with_papers_or_put_right_are_seen_to_fit_at_a_glance(self) -> None:
        seen = []

        def looked_at(record: Record, previous: str | None, files: bool = False) -> Iterator[str]:
            seen.append(record.pk)
            return breaks(record, previous, files)

        with mock.patch.object(verifying, "breaks", looked_at):
            self.assertFalse([row for row in verify() if isinstance(row, Broken)])
        others = Q(job__attachments__isnull=False) | Q(supersedes__isnull=False)
        self.assertEqual(set(seen), set(Record.objects.filter(others).values_list("pk", flat=True)))
        self.assertLess(len(seen), Record.objects.count() / 4)

    def test_it_has_a_test_under_way_one_with_a_run_that_stood_apart_and_one_left_alone(self) -> None:
        self.assertTrue(Job.objects.filter(closed_at=None, method="belt-material-test", state="as-found").exists())
        contents = [record.content for record in Record.objects.all()]
        self.assertTrue(any("hatch was left open" in content for content in contents))
        alone = System.objects.get(name="Stockpile conveyor C5")
        self.assertEqual((alone.state, alone.last["factor_before"]), ("in-order", alone.last["factor_after"]))

    def test_it_prints_who_may_sign_in(self) -> None:
        said = io.StringIO()
        call_command("seed_demo", sign_ins=True, stdout=said)
        for person in scenario.PEOPLE:
            self.assertIn(person.address, said.getvalue())


class Beginning(TestCase):
    def test_an_organisation_begins_with_limits_and_a_lead(self) -> None:
        with mock.patch.dict(os.environ, {"BEACON_PASSWORD": "kelp-on-the-rocks"}):
            call_command("begin", "Far Skerry", "Lead@Skerry.example", stdout=io.StringIO())
            organisation = Organisation.objects.get()
            self.assertEqual(organisation.profiles.count(), 9)
            self.assertEqual(organisation.memberships.get().person.username, "lead@skerry.example")
            with self.assertRaises(CommandError):
                call_command("begin", "Other", "lead@skerry.example")
        with mock.patch.dict(os.environ, {"BEACON_PASSWORD": "short"}), self.assertRaises(CommandError):
            call_command("begin", "Other", "other@skerry.example")
