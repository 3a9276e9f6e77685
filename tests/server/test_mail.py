"""Mail: what is due by day and hour, faults and broken chains, sent once and tried again, ended by one link."""

import datetime
import email
import email.policy
import re
from typing import Any
from unittest import mock

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import Envelope
from django.core import mail
from django.db import connection
from django.test import override_settings
from django.utils import timezone

from beacon.mail import sending, tasks, telling
from beacon.mail.models import Mail, Wish
from beacon.people.models import Membership
from beacon.plant.models import Fault, Reference, Site, System
from beacon.records.models import Verification
from tests.emptied import EmptiedTestCase
from tests.server.background import make_due, work
from tests.server.plant import Plant, PlantTestCase, enter, runs
from tests.server.tampering import untriggered
from tests.server.test_closing import IN_ORDER
from tests.server.together import at_once

MONDAY_SEVEN = datetime.datetime(2031, 5, 5, 6, 5, tzinfo=datetime.UTC)
"""Five past seven of a Monday in London."""
SMTP = "django.core.mail.backends.smtp.EmailBackend"


class Wishes(PlantTestCase):
    def wish(self, who: Any = None, **more: Any) -> Wish:
        made: Wish = Wish.objects.create(person=who or self.plant.technician, organisation=self.plant.organisation, **{"days": [0], "hour": 7} | more)  # fmt: skip
        return made

    def setUp(self) -> None:
        super().setUp()
        self.due = System.objects.filter(pk=self.plant.system.pk)
        self.due.update(due=datetime.date(2031, 5, 6), state="in-order")
        Reference.objects.update(due=None)

    def test_on_its_day_at_its_hour_and_once(self) -> None:
        self.wish()
        for moment in (MONDAY_SEVEN - datetime.timedelta(minutes=10), MONDAY_SEVEN + datetime.timedelta(days=1)):
            self.assertEqual(telling.due_now(moment), 0)
        self.assertEqual(telling.due_now(MONDAY_SEVEN), 1)
        self.assertEqual(telling.due_now(MONDAY_SEVEN + datetime.timedelta(minutes=10)), 0)
        # A server that was off at seven tells it when it is back.
        self.assertEqual(telling.due_now(MONDAY_SEVEN + datetime.timedelta(days=7, hours=3)), 1)

    def test_one_line_a_machine_with_the_calendar_and_no_figure(self) -> None:
        self.wish()
        telling.due_now(MONDAY_SEVEN)
        one = Mail.objects.get()
        self.assertEqual(one.subject, "Gannet Ness: 1 due")
        self.assertIn("6 May 2031: Conveyor, Gannet Ness yard", one.text)
        self.assertIn("BEGIN:VCALENDAR", one.calendar)
        self.assertIn(f"/systems/{self.plant.system.pk}", one.html)
        self.assertNotIn("1.1420", one.text + one.html + one.calendar)

    def test_what_is_late_is_counted_and_what_is_far_is_left(self) -> None:
        self.due.update(due=datetime.date(2031, 5, 2))
        far = self.plant.add_system("Far one", "belt", "belt-fine", {})
        System.objects.filter(pk=far.pk).update(due=datetime.date(2031, 8, 1), state="in-order")
        self.wish()
        telling.due_now(MONDAY_SEVEN)
        one = Mail.objects.get()
        self.assertEqual(one.subject, "Gannet Ness: 1 due, 1 overdue")
        self.assertNotIn("Far one", one.text)

    def test_only_of_the_sites_that_one_may_see_and_chose(self) -> None:
        here = Site.objects.create(organisation=self.plant.organisation, name="Second yard", time_zone="UTC")
        second = self.plant.add_system("Second", "belt", "belt-fine", {})
        System.objects.filter(pk=second.pk).update(site=here, due=datetime.date(2031, 5, 6), state="in-order")
        self.wish(self.plant.people["reader"])
        self.wish(sites=[here.id])
        self.wish(self.plant.lead)
        telling.due_now(MONDAY_SEVEN + datetime.timedelta(hours=2))
        found = {one.person: set(re.findall(r"2031: (\w+)", one.text)) for one in Mail.objects.all()}
        self.assertEqual(found[self.plant.people["reader"]], {"Conveyor"})
        self.assertEqual(found[self.plant.technician], {"Second"})
        self.assertEqual(found[self.plant.lead], {"Conveyor", "Second"})

    def test_who_is_no_member_any_more_hears_nothing(self) -> None:
        self.wish()
        Membership.objects.filter(person=self.plant.technician).delete()
        self.assertEqual(telling.due_now(MONDAY_SEVEN), 0)

    def test_a_record_to_look_at_is_told_to_leads_who_would_like_it(self) -> None:
        self.wish(self.plant.lead, looks=True)
        self.wish(looks=True)
        job = self.plant.job()
        plain = self.plant.job()
        enter(plain, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        closed = self.send(f"/api/jobs/{plain.pk}/close", {"signed": "x", "outcome": "complete"})
        self.assertEqual((closed.status_code, Mail.objects.count()), (200, 0), closed.content)
        given_up = {"signed": "x", "outcome": "abandoned", "reason": "no lorry came"}
        self.assertEqual(self.send(f"/api/jobs/{job.pk}/close", given_up).status_code, 200)
        one = Mail.objects.get()
        self.assertEqual((one.person, one.subject), (self.plant.lead, "Conveyor: a record to look at"))
        self.assertIn("no lorry came", one.text)
        self.assertIn("/records/", one.text)

    def test_a_fault_is_told_to_who_would_like_it_and_may_see_it(self) -> None:
        self.wish(faults=True)
        self.wish(self.plant.lead, faults=False)
        self.wish(self.plant.people["reader"], faults=True)
        Wish.objects.create(person=self.other.lead, organisation=self.other.organisation, faults=True)
        Fault.objects.create(system=self.plant.system, job="5d3f0b7e-6a55-4d8e-9f3a-0a3f5f0b7e6a", title="a <worn> idler", at=timezone.now(), who=self.plant.lead)  # fmt: skip
        one = Mail.objects.get()
        self.assertEqual((one.person, one.subject), (self.plant.technician, "Conveyor: a <worn> idler"))
        self.assertIn("a <worn> idler", one.text)
        self.assertIn("a &lt;worn&gt; idler", one.html)

    def test_wishes_are_kept_by_each_for_themselves(self) -> None:
        said = self.client.get("/api/me/mail").json()
        self.assertEqual((said["days"], said["chain"], [one["name"] for one in said["choices"]]), ([], False, ["Gannet Ness yard"]))  # fmt: skip
        body = {"days": [4, 0, 0], "hour": 5, "sites": [str(self.plant.site.id)], "faults": True}
        self.assertEqual(self.send("/api/me/mail", body, method="put").json()["days"], [0, 4])
        self.assertEqual(Wish.objects.get().person, self.plant.technician)
        self.assertEqual(self.send("/api/me/mail", body | {"sites": [str(self.other.site.id)]}, method="put").status_code, 404)  # fmt: skip
        for wrong in ({"days": [7]}, {"hour": 24}):
            self.assertEqual(self.send("/api/me/mail", body | wrong, method="put").status_code, 422)
        self.assertTrue(self.signed_in(self.plant.lead).get("/api/me/mail").json()["chain"])

    def test_one_link_ends_one_kind_without_signing_in(self) -> None:
        self.wish(faults=True)
        telling.due_now(MONDAY_SEVEN)
        link = re.findall(r"/mail/stop/(\S+)", Mail.objects.get().text)[0]
        nobody = self.client_class()
        self.assertEqual(nobody.post(f"/api/mail/stop/{link}").json(), {"kind_words": "what is due"})
        wish = Wish.objects.get()
        self.assertEqual((wish.days, wish.faults), ([], True))
        for wrong in (link[:-1], "x", link.replace("due", "chain")):
            self.assertEqual(nobody.post(f"/api/mail/stop/{wrong}").status_code, 404, wrong)

    def test_a_lead_sees_the_mails_and_nobody_else(self) -> None:
        self.wish()
        telling.due_now(MONDAY_SEVEN)
        lead = self.signed_in(self.plant.lead)
        (one,) = lead.get("/api/mails").json()
        self.assertEqual((one["to"], one["sent_at"]), ("Technician", None))
        for who in (self.plant.technician, self.plant.people["reader"]):
            self.assertEqual(self.signed_in(who).get("/api/mails").status_code, 404)
        other = self.signed_in(self.other.lead)
        self.assertEqual(other.get("/api/mails").json(), [])
        self.assertEqual(self.send(f"/api/mails/{one['id']}/again", {}, other).status_code, 404)


class Server(Controller):
    """A mail server on loopback that refuses so many mails before it takes them."""

    def __init__(self, refuses: int = 0) -> None:
        self.taken: list[Envelope] = []
        self.refuses = refuses
        super().__init__(self, hostname="127.0.0.1", port=0)

    async def handle_DATA(self, server: Any, session: Any, envelope: Envelope) -> str:
        if self.refuses:
            self.refuses -= 1
            return "451 try again later"
        self.taken.append(envelope)
        return "250 OK"

    def _trigger_server(self) -> None:
        # It listens on whatever port was free; that is the one to ask.
        self.port = self.server.sockets[0].getsockname()[1]  # type: ignore[union-attr]
        super()._trigger_server()


class Sent(EmptiedTestCase):
    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")
        self.lead = self.plant.lead

    def served(self, refuses: int = 0) -> Server:
        server = Server(refuses)
        server.start()
        self.addCleanup(server.stop, no_assert=True)
        known = override_settings(EMAIL_BACKEND=SMTP, EMAIL_HOST="127.0.0.1", EMAIL_PORT=server.port)
        known.enable()
        self.addCleanup(known.disable)
        return server

    def write(self) -> Mail:
        return sending.write(self.plant.organisation, self.lead, Mail.Kind.DUE, "Three\ndue", "words", "<p>words</p>", calendar="BEGIN:VCALENDAR")  # fmt: skip

    def test_as_text_and_html_with_the_calendar_and_a_way_to_end_it(self) -> None:
        server = self.served()
        one = self.write()
        work()
        (taken,) = server.taken
        found = email.message_from_bytes(taken.content or b"", policy=email.policy.default)  # type: ignore[arg-type]
        self.assertEqual((found["Subject"], found["To"]), ("Three due", self.lead.email))
        self.assertIn(str(one.pk), found["Message-ID"])
        self.assertEqual(found["List-Unsubscribe-Post"], "List-Unsubscribe=One-Click")
        kinds = [part.get_content_type() for part in found.walk() if not part.is_multipart()]
        self.assertEqual(kinds, ["text/plain", "text/html", "text/calendar"])
        stop = str(found["List-Unsubscribe"]).strip("<>").partition("/api")[2]
        self.assertEqual(self.client.post(f"/api{stop}").status_code, 200)
        one.refresh_from_db()
        self.assertIsNotNone(one.sent_at)

    def test_a_server_that_refuses_is_asked_again_and_the_mail_is_sent_once(self) -> None:
        server = self.served(refuses=2)
        one = self.write()
        for _ in range(5):
            work()
            make_due()
        one.refresh_from_db()
        self.assertEqual((len(server.taken), one.tries, one.said), (1, 3, ""))

    def test_one_that_is_away_is_asked_for_a_day_and_then_given_up(self) -> None:
        self.assertGreater(sum(sending.WAITS, datetime.timedelta(0)), datetime.timedelta(hours=20))
        one = self.write()
        with (
            override_settings(EMAIL_BACKEND=SMTP, EMAIL_HOST="127.0.0.1", EMAIL_PORT=9),
            mock.patch.object(sending, "WAITS", sending.WAITS[:1]),
        ):
            for _ in range(3):
                work()
                make_due()
        one.refresh_from_db()
        self.assertEqual(one.tries, 2)
        self.assertIsNotNone(one.given_up_at)
        self.assertIn("refused", one.said)
        self.client.force_login(self.lead)
        self.assertEqual(self.client.post(f"/api/mails/{one.pk}/again", {}, content_type="application/json").status_code, 200)  # fmt: skip
        work()
        self.assertEqual(len(mail.outbox), 1)

    def test_an_address_that_no_mail_can_have_is_tried_said_and_given_up(self) -> None:
        self.served()
        one = self.write()
        Mail.objects.filter(pk=one.pk).update(address="a,b@x\nBcc: c@x")
        with mock.patch.object(sending, "WAITS", sending.WAITS[:1]):
            for _ in range(3):
                work()
                make_due()
        one.refresh_from_db()
        self.assertTrue(one.given_up_at and one.said)
        self.client.force_login(self.lead)
        for address in ("a,b@x.example", "a;b@x.example", "Ada <ada@x.example>", 'a"b@x.example'):
            given = {"username": address, "name": "x", "role": "reader", "sites": []}
            self.assertEqual(
                self.client.post("/api/people", given, content_type="application/json").status_code, 422, address
            )

    def test_two_workers_send_it_once(self) -> None:
        server = self.served()
        self.write()
        at_once(work, work)
        self.assertEqual(len(server.taken), 1)

    def test_two_that_look_at_the_clock_at_once_write_one(self) -> None:
        Wish.objects.create(person=self.lead, organisation=self.plant.organisation, days=[0], hour=7)
        System.objects.filter(pk=self.plant.system.pk).update(due=datetime.date(2031, 5, 6), state="in-order")
        found = at_once(*[lambda: telling.due_now(MONDAY_SEVEN)] * 3)
        self.assertEqual((sorted(found), Mail.objects.count()), ([0, 0, 1], 1))

    def test_what_waits_for_somebody_who_left_is_not_sent(self) -> None:
        server = self.served()
        self.write()
        Membership.objects.filter(person=self.lead).delete()
        work()
        self.assertEqual(server.taken, [])

    def test_a_lead_hears_of_a_chain_that_does_not_fit(self) -> None:
        body = {"signed": "Ines Marrow", "outcome": "abandoned", "reason": "no lorry came"}
        self.client.force_login(self.plant.technician)
        job = self.plant.job()
        self.client.post(f"/api/jobs/{job.pk}/close", body, content_type="application/json")
        tasks.walk(timestamp=0)
        self.assertEqual((Mail.objects.count(), Verification.objects.get().who), (0, None))
        with untriggered(), connection.cursor() as cursor:
            cursor.execute("update records_record set content = replace(content, 'Conveyor', 'Another')")
        tasks.walk(timestamp=0)
        one = Mail.objects.get()
        self.assertEqual((one.person, one.kind), (self.lead, "chain"))
        self.assertIn("Record 1", one.text)
        Wish.objects.create(person=self.lead, organisation=self.plant.organisation, chain=False)
        tasks.walk(timestamp=0)
        self.assertEqual(Mail.objects.count(), 1)
