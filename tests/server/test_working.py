"""What is done in the background: nothing waits behind what takes long, nothing is lost, and what is given up
is told."""

import time
from datetime import timedelta
from typing import Any
from unittest import mock

from django.core.management import call_command
from django.db import OperationalError, connection
from django.test import SimpleTestCase, override_settings
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from beacon.archive import making, tasks
from beacon.archive.models import Archive, Bundle
from beacon.background.made import MOST_BEGUN
from beacon.background.sweeping import sweep_all
from beacon.background.worker import LINES
from beacon.mail import sending
from beacon.mail.models import Mail
from beacon.people.models import Organisation
from beacon.programs import hooks
from beacon.programs.models import Message, Topic, Webhook
from beacon.setting_up.models import SetUp
from tests.emptied import EmptiedTestCase
from tests.served import served
from tests.server.background import make_due, work
from tests.server.plant import Plant
from tests.server.receiver import Receiver
from tests.server.test_outside import HEAD, Dripping
from tests.server.together import send

LONG_AGO = timedelta(hours=1)


class Lines(SimpleTestCase):
    def test_every_task_stands_in_a_line_that_somebody_works_at(self) -> None:
        taken = [queue for line in LINES for queue in line.queues]
        self.assertEqual(len(taken), len(set(taken)))
        self.assertEqual({task.queue for task in app.tasks.values() if "builtin" not in task.name} - set(taken), set())

    def test_whatever_meets_an_outage_is_tried_again_longer_and_longer(self) -> None:
        for task in app.tasks.values():
            if task.name == "stalled" or "builtin" in task.name:
                continue
            with self.subTest(task.name):
                assert task.retry_strategy is not None
                waits = []
                for attempts in range(8):
                    job: Any = mock.Mock(attempts=attempts)
                    said = task.retry_strategy.get_retry_decision(exception=OperationalError("away"), job=job)
                    assert said is not None and said.retry_at is not None
                    waits.append(said.retry_at - timezone.now())
                self.assertEqual(waits, sorted(waits))
                self.assertGreater(sum(waits, timedelta()), timedelta(hours=2))
                no_outage = task.retry_strategy.get_retry_decision(exception=ValueError(), job=mock.Mock(attempts=0))
                self.assertIsNone(no_outage)


@override_settings(WEBHOOK_NETWORKS=["127.0.0.0/8"])
class Swept(EmptiedTestCase):
    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")
        self.here = self.plant.organisation
        self.client.force_login(self.plant.lead)

    def lost(self) -> None:
        """All that was in line is gone, as after an outage or a worker that noted a failure; it was long ago."""
        ProcrastinateJob.objects.all()  # Django's own model of it may not be written.
        with connection.cursor() as cursor:
            cursor.execute("delete from procrastinate_jobs")
        for kind in (Archive, Bundle, SetUp, Mail, Message):
            kind._default_manager.update(at=timezone.now() - LONG_AGO)  # type: ignore[attr-defined]

    def in_line(self) -> list[str]:
        return sorted(ProcrastinateJob.objects.filter(status="todo").values_list("task_name", flat=True))

    def test_what_is_to_be_done_and_in_no_line_is_put_there_once(self) -> None:
        with_message(self.here, "http://127.0.0.1:9/told")
        sending.write(self.here, self.plant.lead, Mail.Kind.DUE, "due", "x", "x")
        for path, body in (("/api/archives", None), ("/api/bundles", {"kind": "zip"})):
            self.assertEqual(send(self.client, path, body).status_code, 202)
        names = ["make an archive", "put certificates together", "send a mail", "send a message"]
        self.assertEqual((sweep_all(), self.in_line()), (0, names))
        self.lost()
        self.assertEqual((self.in_line(), sweep_all(), self.in_line(), sweep_all()), ([], 4, names, 0))
        work()
        self.assertEqual(Archive.objects.exclude(finished_at=None).count(), 1)
        self.assertIn("no certificate", Bundle.objects.get().failed.lower())

    def test_what_is_done_given_up_ended_or_young_is_left(self) -> None:
        for change in ({"taken_at": timezone.now()}, {"given_up_at": timezone.now()}):
            Message.objects.filter(pk=with_message(self.here, "http://127.0.0.1:9/told").pk).update(**change)
        ended = with_message(self.here, "http://127.0.0.1:9/told")
        Webhook.objects.filter(pk=ended.webhook_id).update(ended_at=timezone.now())
        Archive.objects.create(organisation=self.here, by=self.plant.lead, failed="There was no room.")
        self.lost()
        with_message(self.here, "http://127.0.0.1:9/told")
        with connection.cursor() as cursor:
            cursor.execute("delete from procrastinate_jobs")
        self.assertEqual(sweep_all(), 0)

    def test_an_archive_that_meets_an_outage_stays_under_way_and_is_made_when_it_is_over(self) -> None:
        self.assertEqual(send(self.client, "/api/archives", None).status_code, 202)
        with mock.patch.object(making, "make", side_effect=OperationalError("the database is away")):
            work()
        one = Archive.objects.get()
        self.assertEqual((one.failed, one.finished_at, one.begun), ("", None, 1))
        self.assertEqual(self.in_line(), ["make an archive"])
        make_due()
        work()
        one.refresh_from_db()
        self.assertIsNotNone(one.finished_at)
        self.assertEqual(send(self.client, "/api/archives", None).status_code, 202, "and another one can be asked for")

    def test_what_ends_its_worker_each_time_is_given_up_and_told_to_a_lead_once(self) -> None:
        for _ in range(2):
            one = Archive.objects.create(organisation=self.here, by=self.plant.lead, begun=MOST_BEGUN)
            tasks.make(str(one.pk))
            one.refresh_from_db()
            self.assertIn("never came to its end", one.failed)
        told = Mail.objects.get(person=self.plant.lead)
        self.assertIn("an archive of everything", told.subject)
        self.assertIn("never came to its end", told.text)
        self.assertEqual(Mail.objects.exclude(person=self.plant.lead).count(), 0)

    def test_a_message_that_is_given_up_is_told_to_a_lead(self) -> None:
        message = with_message(self.here, "http://127.0.0.1:9/told")
        Message.objects.filter(pk=message.pk).update(tries=len(hooks.WAITS))
        hooks.try_once(message.pk, len(hooks.WAITS))
        self.assertIn("what other programs are told at 127.0.0.1", Mail.objects.get().subject)

    def test_one_slow_place_holds_up_itself_alone(self) -> None:
        slow, receiver = Dripping(HEAD[:20]), Receiver()
        self.addCleanup(slow.close)
        self.addCleanup(receiver.close)
        slowly = with_message(self.here, f"http://127.0.0.1:{slow.port}/told").webhook
        for _ in range(9):
            hooks.send_soon(Message.objects.create(webhook=slowly, topic=Topic.DUE, text="{}"))
        with_message(self.here, receiver.url)
        sending.write(self.here, self.plant.lead, Mail.Kind.DUE, "due", "x", "x")
        with served(BEACON_WORKS="1", BEACON_WEBHOOK_NETWORKS="127.0.0.0/8"):
            began = time.monotonic()
            while not receiver.told or not Mail.objects.exclude(sent_at=None):
                self.assertLess(time.monotonic() - began, 60)
                time.sleep(0.05)
            self.assertFalse(Message.objects.filter(webhook=slowly, tries__gt=0), "none was waited for")
        self.assertLessEqual(slow.came, hooks.AT_ONCE)

    def test_an_organisation_with_many_slow_places_holds_up_itself_alone(self) -> None:
        slow = [Dripping(HEAD[:20]) for _ in range(5)]
        receiver = Receiver()
        for one in (*slow, receiver):
            self.addCleanup(one.close)
        for one in slow:
            slowly = with_message(self.here, f"http://127.0.0.1:{one.port}/told").webhook
            hooks.send_soon(Message.objects.create(webhook=slowly, topic=Topic.DUE, text="{}"))
        with_message(Plant("Rival").organisation, receiver.url)
        with served(BEACON_WORKS="1", BEACON_WEBHOOK_NETWORKS="127.0.0.0/8"):
            began = time.monotonic()
            while not receiver.told:
                self.assertLess(time.monotonic() - began, 60)
                time.sleep(0.05)
            self.assertFalse(
                Message.objects.filter(webhook__organisation=self.here, tries__gt=0), "none was waited for"
            )
        self.assertLessEqual(sum(one.came for one in slow), hooks.OF_ONE)

    def test_the_worker_beside_the_server_ends_when_it_is_told_to(self) -> None:
        with mock.patch("beacon.background.management.commands.work.keep_working", side_effect=_at_once):
            call_command("work")


async def _at_once() -> None:
    pass


def with_message(here: Organisation, url: str) -> Message:
    """A message to a webhook of its own at an address, in line to be sent."""
    lead = here.memberships.get(role="lead").person
    hook = Webhook.objects.create(
        organisation=here, url=url, topics=[Topic.DUE], secret="whsec_c2VjcmV0", made_by=lead
    )  # fmt: skip
    made = Message.objects.create(webhook=hook, topic=Topic.DUE, text="{}")
    hooks.send_soon(made)
    return made
