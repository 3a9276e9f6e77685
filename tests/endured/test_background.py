"""What is done in the background while server, worker and database are killed: what was promised is done, and can be
asked for again."""

import os
import random
import time
from collections import Counter
from datetime import timedelta
from typing import Any

from django.db import connection
from django.test import TransactionTestCase, override_settings
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from beacon.archive.models import Archive, Bundle
from beacon.background.made import UNDER_WAY
from beacon.background.sweeping import sweep_all
from beacon.background.tasks import take_over_stalled
from beacon.mail import sending
from beacon.mail.models import Mail
from beacon.programs import hooks
from beacon.programs.models import Message, Topic, Webhook
from beacon.setting_up.api import AT_ONCE
from beacon.setting_up.models import SetUp
from tests.endure import restart_database
from tests.served import begun
from tests.server.background import make_due, work
from tests.server.plant import GIVEN_UP, Plant
from tests.server.receiver import Receiver
from tests.server.together import send

ROUNDS = int(os.environ.get("BEACON_KILLS", "4"))
ROWS = "".join(f"Belt {number},North quay,belt,250 t/h\n" for number in range(AT_ONCE + 20))
SHEET = f"Name,Site,Kind,Rated rate\n{ROWS}".encode()


@override_settings(WEBHOOK_NETWORKS=["127.0.0.0/8"])
class Background(TransactionTestCase):
    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")
        self.client.force_login(self.plant.lead)
        self.receiver = Receiver()
        self.addCleanup(self.receiver.close)
        here = self.plant.organisation
        self.hook = Webhook.objects.create(
            organisation=here,
            url=self.receiver.url,
            topics=[Topic.DUE],
            secret="whsec_c2VjcmV0",
            made_by=self.plant.lead,
        )
        send(self.client, f"/api/jobs/{self.plant.job().pk}/close", GIVEN_UP)
        self.kills: Counter[str] = Counter()
        self.server: Any = None
        self.addCleanup(self.end)

    def begin(self) -> None:
        _, self.server = begun(BEACON_WORKS="1", BEACON_WEBHOOK_NETWORKS="127.0.0.0/8")

    def end(self) -> None:
        if self.server is not None:
            self.server.kill()
            self.server.wait()
            self.server = None

    def promised(self) -> None:
        """Something of every kind is to be done; what is under way still is asked for once more in vain."""
        for _ in range(3):
            hooks.send_soon(Message.objects.create(webhook=self.hook, topic=Topic.DUE, text="{}"))
        sending.write(self.plant.organisation, self.plant.lead, Mail.Kind.DUE, "due", "x", "x")
        for path, body in (("/api/archives", None), ("/api/bundles", {"kind": "zip"})):
            self.assertIn(send(self.client, path, body).status_code, (202, 409, 429))
        looked = self.client.post("/api/set-up?name=plant.csv", SHEET, content_type="application/octet-stream")
        self.assertIn(looked.status_code, (202, 409, 429))

    def killed(self, draw: random.Random) -> None:
        time.sleep(draw.uniform(0.0, 0.8))
        what = draw.choice(("the server with its workers", "the database", "both"))
        self.kills[what] += 1
        if what != "the database":
            self.end()
        if what != "the server with its workers":
            restart_database()

    def go_on(self) -> None:
        """As after some minutes: whose heart beats no more is gone, and what is in no line is old enough to be
        missed."""
        with connection.cursor() as cursor:
            cursor.execute("update procrastinate_workers set last_heartbeat = now() - interval '10 minutes'")
        for kind in (Archive, Bundle, SetUp, Mail, Message):
            kind._default_manager.update(at=timezone.now() - timedelta(hours=1))  # type: ignore[attr-defined]
        take_over_stalled.defer(timestamp=0)
        work()
        sweep_all()
        for _ in range(3):
            make_due()
            work()

    def test_what_was_promised_is_done_whatever_is_killed_meanwhile(self) -> None:
        draw = random.Random("background")
        for _ in range(ROUNDS):
            if self.server is None:
                self.begin()
            self.promised()
            self.killed(draw)
        self.end()
        self.go_on()
        left = Message.objects.filter(taken_at=None, given_up_at=None)
        self.assertEqual((left.count(), Mail.objects.filter(sent_at=None, given_up_at=None).count()), (0, 0))
        told = Counter(headers["webhook-id"] for headers, _ in self.receiver.told)
        self.assertEqual(set(told), {str(pk) for pk in Message.objects.values_list("pk", flat=True)})
        for kind in (Archive, Bundle, SetUp):
            self.assertFalse(kind._default_manager.filter(**UNDER_WAY).exists(), kind)  # type: ignore[attr-defined]
        self.assertFalse(ProcrastinateJob.objects.filter(status="doing").exists())
        # What is asked for anew is done.
        Archive.objects.create(organisation=self.plant.organisation, by=self.plant.lead)
        Archive.objects.update(at=timezone.now() - timedelta(hours=1))
        sweep_all()
        work()
        self.assertFalse(Archive.objects.filter(**UNDER_WAY).exists())
        print(f"killed: {dict(self.kills)}; told {len(told)}, {sum(told.values()) - len(told)} of them more than once")
