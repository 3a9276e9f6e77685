"""Accounts by the library: invitations and links by mail, second factors, and an organisation's own sign-in."""

import hmac
import re
import time
from collections.abc import Callable
from functools import partial
from typing import Any
from unittest import mock
from urllib.parse import unquote

from allauth.account.models import EmailAddress
from allauth.mfa.models import Authenticator
from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value
from django.conf import settings
from django.core.cache import cache
from django.test import Client, override_settings
from django.utils import timezone

from beacon.mail import sending
from beacon.mail.models import Mail
from beacon.people.backend import has_factor
from beacon.people.models import Invitation, Membership, Person, Role
from tests.emptied import EmptiedTestCase
from tests.server.plant import ACCOUNT, PASSWORD, SIGN_IN, Plant, PlantTestCase
from tests.server.together import at_once, send

NEW = "kelp-on-the-rocks"


def link_in(mail: Mail) -> str:
    """The last part of the link in a mail."""
    found = re.search(r"http://127\.0\.0\.1:8400(/\S+)", mail.text)
    assert found, mail.text
    return unquote(found.group(1).rpartition("/")[2])


class AccountsTestCase(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        cache.clear()
        self.nobody = Client()

    def sign_in(self, person: Person, password: str = PASSWORD, client: Client | None = None) -> Any:
        return self.send(SIGN_IN, {"username": person.username, "password": password}, client or Client())

    def ask(self, path: str, body: Any = None, client: Client | None = None, method: str = "post") -> Any:
        return self.send(f"{ACCOUNT}/{path}", body or {}, client, method)


class Invitations(AccountsTestCase):
    def invited(self, address: str = "ada@x.example", by: Person | None = None, **more: Any) -> str:
        given = {"username": address, "name": "Ada", "role": "technician"} | more
        answer = self.send("/api/people", given, self.signed_in(by or self.plant.lead))
        self.assertEqual(answer.status_code, 200, answer.content)
        return f"/api/invited/{link_in(Mail.objects.get(address=address, text__contains='/invited/', at__gte=self.began))}"  # fmt: skip

    def setUp(self) -> None:
        super().setUp()
        self.began = timezone.now()

    def test_somebody_new_comes_by_the_link_once_and_chooses_their_password(self) -> None:
        url = self.invited(sites=[str(self.plant.site.id)])
        told = self.nobody.get(url).json()
        self.assertEqual((told["organisation"], told["role"], told["known"]), ("Gannet Ness", "technician", False))
        weak = self.send(url, {"name": "Ada Rook", "password": "short"}, self.nobody)
        self.assertEqual([one["path"] for one in weak.json()["errors"]][0], "password")
        self.assertEqual(self.send(url, {"name": "Ada Rook", "password": NEW}, self.nobody).status_code, 201)
        came = Person.objects.get(username="ada@x.example")
        self.assertEqual((came.name, came.memberships.get().role), ("Ada Rook", "technician"))
        self.assertEqual(self.sign_in(came, NEW, self.nobody).status_code, 200)
        self.assertTrue(self.nobody.get("/api/me").json()["works"])
        self.assertFalse(EmailAddress.objects.get(user=came).verified, "a link that a lead handed over proves nothing")
        again = self.send(url, {"name": "Eve", "password": NEW}, Client())
        self.assertEqual((again.status_code, again.json()["title"]), (409, "This invitation was used already"))
        self.assertEqual(Client().get(url).status_code, 409)

    def test_it_ends_after_seven_days_and_by_a_newer_one_or_when_it_is_taken_back(self) -> None:
        late = self.invited()
        Invitation.objects.update(until=timezone.now())
        answer = self.send(late, {"name": "Ada", "password": NEW}, self.nobody)
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "This invitation has ended"))
        self.assertIn("Lead", answer.json()["detail"])
        self.began = timezone.now()
        newer = self.invited()
        self.assertEqual([self.nobody.get(one).status_code for one in (late, newer)], [404, 200])
        self.assertEqual(self.signed_in(self.plant.lead).delete("/api/people/ada@x.example").status_code, 204)
        self.assertEqual(self.nobody.get(newer).status_code, 404)
        self.assertFalse(Person.objects.filter(username="ada@x.example").exists())

    def test_two_organisations_that_invite_one_address_make_one_person(self) -> None:
        first = self.invited()
        self.began = timezone.now()
        second = self.invited(by=self.other.lead)
        self.assertEqual(self.send(first, {"name": "Ada", "password": NEW}, self.nobody).status_code, 201)
        self.assertTrue(self.nobody.get(second).json()["known"])
        refused = self.send(second, {"name": "Ada", "password": "another-long-one"}, self.nobody)
        self.assertEqual((refused.status_code, refused.json()["title"]), (409, "There is an account already"))
        came = Person.objects.get(username="ada@x.example")
        self.assertTrue(came.check_password(NEW))
        # Who was invited before there was an account is asked once they are signed in.
        theirs = self.signed_in(came)
        (waits,) = theirs.get("/api/me").json()["invitations"]
        self.assertEqual(self.send(f"/api/invitations/{waits['id']}/accept", {}, theirs).status_code, 200)
        self.assertEqual(came.memberships.count(), 2)

    @override_settings(BY_MAIL=True)
    def test_the_link_is_for_its_reader_alone(self) -> None:
        lead = self.signed_in(self.plant.lead)
        given = {"username": "ada@x.example", "name": "Ada", "role": "reader"}
        self.assertEqual(self.send("/api/people", given, lead).json()["link"], "")
        mail = Mail.objects.get()
        self.assertNotIn("/invited/", lead.get("/api/mails").content.decode())
        secret = link_in(mail)
        self.assertNotIn(secret, str(Invitation.objects.values()))

    def test_where_no_mail_is_sent_the_lead_hands_the_link_over(self) -> None:
        given = {"username": "ada@x.example", "name": "Ada", "role": "reader"}
        link = self.send("/api/people", given, self.signed_in(self.plant.lead)).json()["link"]
        self.assertEqual(self.nobody.get(f"/api/invited/{link.rpartition('/')[2]}").status_code, 200)

    def test_guessing_is_slowed_down(self) -> None:
        said = [self.nobody.get(f"/api/invited/{number}").status_code for number in range(62)]
        self.assertEqual((said[59], said[60]), (404, 429))
        elsewhere = Client(REMOTE_ADDR="203.0.113.9")
        given = {"name": "x", "password": NEW}
        said = [self.send(f"/api/invited/{number}", given, elsewhere).status_code for number in range(62)]
        self.assertEqual((said[59], said[60]), (404, 429), "a try that fails is counted too")


class InvitedAtOnce(EmptiedTestCase):
    def test_a_link_opened_twice_at_once_makes_one_person(self) -> None:
        plant = Plant("Gannet Ness")
        lead = Client()
        lead.force_login(plant.lead)
        send(lead, "/api/people", {"username": "ada@x.example", "name": "Ada", "role": "reader"})
        url = f"/api/invited/{link_in(Mail.objects.get())}"
        said = at_once(*[lambda: send(Client(), url, {"name": "Ada", "password": NEW}).status_code] * 3)
        self.assertEqual(sorted(said), [201, 409, 409])
        self.assertEqual(Membership.objects.filter(person__username="ada@x.example").count(), 1)

    def status(self, ask: Callable[..., Any], *given: Any) -> int:
        return int(ask(*given).status_code)

    def asked_for(self, plant: Plant) -> tuple[Client, Client, Invitation]:
        """A lead, somebody known elsewhere whom they invited, and the invitation."""
        lead, known = Client(), Client()
        person = Person.objects.create_user("ines@x.example", "ines@x.example", PASSWORD)
        lead.force_login(plant.lead)
        known.force_login(person)
        send(lead, "/api/people", {"username": person.username, "name": "Ines", "role": "lead"})
        return lead, known, Invitation.objects.get()

    def test_what_is_accepted_and_declined_at_once_is_one_of_both(self) -> None:
        plant = Plant("Gannet Ness")
        for _ in range(4):
            _, known, invitation = self.asked_for(plant)
            url = f"/api/invitations/{invitation.id}"
            said = at_once(*(partial(self.status, send, known, f"{url}/{way}", {}) for way in ("accept", "decline")))
            self.assertEqual(sorted(said), [200, 404])
            there = Membership.objects.filter(person__username="ines@x.example").exists()
            self.assertEqual(there, said[0] == 200)
            Person.objects.get(username="ines@x.example").delete()

    def test_who_is_parted_with_while_they_accept_is_not_in_afterwards(self) -> None:
        plant = Plant("Gannet Ness")
        for _ in range(6):
            lead, known, invitation = self.asked_for(plant)
            said = at_once(
                partial(self.status, send, known, f"/api/invitations/{invitation.id}/accept", {}),
                partial(self.status, lead.delete, "/api/people/ines@x.example"),
            )
            self.assertEqual(said[1], 204)
            self.assertFalse(Membership.objects.filter(person__username="ines@x.example").exists(), said)
            Person.objects.get(username="ines@x.example").delete()


class Known(AccountsTestCase):
    def test_an_invitation_that_has_ended_lets_nobody_in(self) -> None:
        person = self.other.technician
        self.send(
            "/api/people", {"username": person.username, "name": "X", "role": "lead"}, self.signed_in(self.plant.lead)
        )
        invitation = Invitation.objects.get()
        Invitation.objects.update(until=timezone.now())
        answer = self.send(f"/api/invitations/{invitation.id}/accept", {}, self.signed_in(person))
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "This invitation has ended"))
        self.assertFalse(Membership.objects.filter(person=person, organisation=self.plant.organisation).exists())


class Forgotten(AccountsTestCase):
    def asked(self, address: str) -> Any:
        return self.ask("auth/password/request", {"email": address}, self.nobody)

    def test_a_new_password_by_a_link_that_is_good_once(self) -> None:
        person = self.plant.technician
        there = Client()
        self.assertEqual(self.sign_in(person, client=there).status_code, 200)
        for _ in range(6):
            self.sign_in(person, "wrong", self.nobody)
        self.assertEqual(self.asked(person.username).status_code, 200)
        mail = Mail.objects.get()
        self.assertEqual((mail.to, mail.organisation), (person.username, None))
        given = {"key": link_in(mail), "password": NEW}
        self.assertEqual(self.ask("auth/password/reset", given | {"password": "short"}, self.nobody).status_code, 400)
        # 401 is how it says that it is done, and that nobody is signed in by it.
        self.assertEqual(self.ask("auth/password/reset", given, self.nobody).status_code, 401)
        self.assertEqual(self.ask("auth/password/reset", given, self.nobody).status_code, 400)
        self.assertEqual(there.get("/api/me").status_code, 401, "a session of the old password ends")
        self.assertEqual(self.sign_in(person, NEW, self.nobody).status_code, 200, "and no wait is left")

    def test_an_address_that_nobody_has_is_answered_in_the_same_way(self) -> None:
        known, unknown = self.asked(self.plant.lead.username), self.asked("nobody@x.example")
        self.assertEqual((known.status_code, known.json()), (unknown.status_code, unknown.json()))
        self.assertEqual(Mail.objects.count(), 1)

    @override_settings(BY_MAIL=True)
    def test_its_text_is_gone_once_it_is_handed_over_and_no_lead_reads_it(self) -> None:
        self.asked(self.plant.technician.username)
        mail = Mail.objects.get()
        self.assertNotIn("List-Unsubscribe", str(sending._message(mail).extra_headers))
        sending.try_once(mail.pk, 0)
        mail.refresh_from_db()
        self.assertEqual((mail.text, mail.html, bool(mail.sent_at)), ("", "", True))
        self.assertEqual(self.signed_in(self.plant.lead).get("/api/mails").json(), [])


class AnotherAddress(AccountsTestCase):
    def test_it_is_signed_in_with_once_it_is_confirmed_and_all_that_was_entered_stays_theirs(self) -> None:
        person, client = self.plant.technician, Client()
        job = self.plant.job()
        self.assertEqual(self.sign_in(person, client=client).status_code, 200)
        answer = self.ask("account/email", {"email": "Ines@new.example"}, client)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(client.get("/api/me").json()["username"], person.username)
        mail = Mail.objects.get(subject="Is this your address?")
        self.assertEqual(mail.to.lower(), "ines@new.example")
        self.assertIn(self.ask("auth/email/verify", {"key": link_in(mail)}, Client()).status_code, (200, 401))
        person.refresh_from_db()
        self.assertEqual((person.username, person.email), ("ines@new.example", "ines@new.example"))
        self.assertEqual(self.sign_in(person).status_code, 200)
        job.refresh_from_db()
        self.assertEqual((job.opened_by, job.opened_by.username), (person, "ines@new.example"))
        self.assertEqual(EmailAddress.objects.get(user=person).email, "ines@new.example")
        self.assertEqual(Mail.objects.get(subject="Another address").to, "technician@gannetness.example", "it is told")

    def test_an_address_that_somebody_else_signs_in_with_is_refused(self) -> None:
        client = Client()
        self.sign_in(self.plant.technician, client=client)
        answer = self.ask("account/email", {"email": self.other.lead.username.upper()}, client)
        self.assertEqual((answer.status_code, Mail.objects.count()), (400, 0), answer.content)
        self.assertIn("signs in with this address already", answer.content.decode())

    def test_one_s_own_address_is_confirmed(self) -> None:
        client = Client()
        self.sign_in(self.plant.lead, client=client)
        address = self.plant.lead.username
        told = client.get(f"{ACCOUNT}/account/email").json()["data"]
        self.assertEqual(told, [{"email": address, "verified": False, "primary": True}])
        self.assertEqual(self.ask("account/email", {"email": address}, client, "put").status_code, 200)
        self.ask("auth/email/verify", {"key": link_in(Mail.objects.get())}, client)
        self.assertTrue(EmailAddress.objects.get(user=self.plant.lead).verified)
        self.plant.lead.refresh_from_db()
        self.assertEqual(self.plant.lead.username, address)

    def test_an_address_that_was_taken_meanwhile_is_not_confirmed(self) -> None:
        person, client = self.plant.technician, Client()
        self.sign_in(person, client=client)
        self.ask("account/email", {"email": "ines@new.example"}, client)
        Person.objects.create_user("ines@new.example", "", PASSWORD)
        answer = self.ask("auth/email/verify", {"key": link_in(Mail.objects.get())}, client)
        self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Not changed"))
        self.assertFalse(EmailAddress.objects.filter(user=person, verified=True).exists())
        person.refresh_from_db()
        self.assertEqual((person.username, person.email), (self.plant.technician.username, person.username))


def code_for(secret: str) -> str:
    """What an authenticator app shows now."""
    return format_hotp_value(hotp_value(secret, int(time.time()) // 30))


class SecondFactor(AccountsTestCase):
    def secured(self, person: Person) -> tuple[Client, str]:
        """Somebody who set up codes by time, where they did so, and its secret."""
        client = Client()
        self.assertEqual(self.sign_in(person, client=client).status_code, 200)
        told = client.get(f"{ACCOUNT}/account/authenticators/totp")
        self.assertEqual(told.status_code, 404)
        secret = told.json()["meta"]["secret"]
        answer = self.ask("account/authenticators/totp", {"code": code_for(secret)}, client)
        self.assertEqual(answer.status_code, 200, answer.content)
        return client, secret

    def test_a_code_is_asked_for_and_none_is_good_twice(self) -> None:
        person = self.plant.technician
        _, secret = self.secured(person)
        self.assertNotIn(secret, str(Authenticator.objects.values()), "it is not readable in the database")
        client = Client()
        begun = self.sign_in(person, client=client)
        self.assertEqual(begun.status_code, 401)
        (waits,) = [one for one in begun.json()["data"]["flows"] if one.get("is_pending")]
        self.assertEqual((waits["id"], client.get("/api/me").status_code), ("mfa_authenticate", 401))
        self.assertEqual(self.ask("auth/2fa/authenticate", {"code": "000000"}, client).status_code, 400)
        code = code_for(secret)
        self.assertEqual(self.ask("auth/2fa/authenticate", {"code": code}, client).status_code, 200)
        self.assertEqual(client.get("/api/me").status_code, 200)
        again = Client()
        self.sign_in(person, client=again)
        self.assertEqual(self.ask("auth/2fa/authenticate", {"code": code}, again).status_code, 400)
        self.assertEqual(again.get("/api/me").status_code, 401)

    def test_under_another_key_of_the_server_no_code_opens_and_one_of_before_that_is_named_still_does(self) -> None:
        client, secret = self.secured(self.plant.lead)
        codes = client.get(f"{ACCOUNT}/account/authenticators/recovery-codes").json()["data"]["unused_codes"]
        empty = hmac.new(key=b"", msg=b"  0,", digestmod="sha1").digest()
        with override_settings(SECRET_KEY="another"):
            anybodys = [code_for(""), str(int.from_bytes(empty[:4], "big") % 10**8).zfill(8)]
            for code in (*anybodys, code_for(secret), codes[0]):
                there = Client()
                self.sign_in(self.plant.lead, client=there)
                answer = self.ask("auth/2fa/authenticate", {"code": code}, there)
                self.assertEqual(
                    (answer.status_code, answer.json()["title"]), (409, "Your second factor cannot be read")
                )
                self.assertEqual(there.get("/api/me").status_code, 401)
        before = settings.SECRET_KEY
        with override_settings(SECRET_KEY="another", SECRET_KEY_FALLBACKS=[before]):
            there = Client()
            self.sign_in(self.plant.lead, client=there)
            self.assertEqual(self.ask("auth/2fa/authenticate", {"code": codes[0]}, there).status_code, 200)

    def test_wrong_codes_hold_up_whoever_tries_them_and_nobody_elsewhere(self) -> None:
        person = self.plant.technician
        _, secret = self.secured(person)
        thief = Client(REMOTE_ADDR="203.0.113.9")
        said = []
        for _ in range(8):
            self.sign_in(person, client=thief)
            said.append(self.ask("auth/2fa/authenticate", {"code": "000000"}, thief).status_code)
        self.assertEqual(said, [400] * 5 + [429] * 3)
        self.assertEqual(self.ask("auth/2fa/authenticate", {"code": code_for(secret)}, thief).status_code, 429)
        owner = Client()
        self.sign_in(person, client=owner)
        self.assertEqual(self.ask("auth/2fa/authenticate", {"code": code_for(secret)}, owner).status_code, 200)
        # A key is no guess: it is looked at, and is not made to wait.
        self.sign_in(person, client=thief)
        self.assertNotEqual(self.ask("auth/2fa/authenticate", {"credential": {}}, thief).status_code, 429)
        unlock = f"/api/people/{person.username}/unlock"
        self.assertEqual(self.send(unlock, {}, self.signed_in(self.plant.lead)).status_code, 204)
        self.sign_in(person, client=thief)
        self.assertEqual(self.ask("auth/2fa/authenticate", {"code": "000000"}, thief).status_code, 400)

    def test_a_thousand_addresses_make_no_guess_better_and_keep_the_owner_out_nowhere(self) -> None:
        person = self.plant.technician
        _, secret = self.secured(person)
        said = []
        for number in range(34):
            thief = Client(REMOTE_ADDR=f"203.0.113.{number}")
            self.sign_in(person, client=thief)
            said.append(self.ask("auth/2fa/authenticate", {"code": "000000"}, thief).status_code)
        self.assertEqual((said[29], said[30]), (400, 429))
        owner = Client()
        self.sign_in(person, client=owner)
        self.assertEqual(self.ask("auth/2fa/authenticate", {"code": code_for(secret)}, owner).status_code, 200)

    def test_a_recovery_code_opens_once(self) -> None:
        client, _ = self.secured(self.plant.lead)
        codes = client.get(f"{ACCOUNT}/account/authenticators/recovery-codes").json()["data"]["unused_codes"]
        for expected in (200, 400):
            there = Client()
            self.sign_in(self.plant.lead, client=there)
            self.assertEqual(self.ask("auth/2fa/authenticate", {"code": codes[0]}, there).status_code, expected)

    def test_what_is_demanded_comes_before_everything_else(self) -> None:
        lead = self.signed_in(self.plant.lead)
        refused = self.send("/api/second-factor", {"of": "all"}, lead, "put")
        self.assertEqual((refused.status_code, refused.json()["errors"][0]["path"]), (422, "of"))
        own, _ = self.secured(self.plant.lead)
        self.assertEqual(self.send("/api/second-factor", {"of": "all"}, own, "put").status_code, 200)
        self.assertEqual(own.get("/api/round").status_code, 200)
        # Of a session that began before as well, and of nobody elsewhere.
        answer = self.client.get("/api/round")
        self.assertEqual((answer.status_code, answer.json()["title"]), (403, "A second factor first"))
        self.assertTrue(self.client.get("/api/me").json()["owes_factor"])
        job = self.plant.job()
        self.assertEqual(self.send(f"/api/jobs/{job.id}/entries", []).status_code, 403)
        self.assertEqual(self.signed_in(self.other.lead).get("/api/round").status_code, 200)
        mine, _ = self.secured(self.plant.technician)
        self.assertEqual(mine.get("/api/round").status_code, 200)
        self.assertEqual(self.ask("account/authenticators/totp", {}, mine, "delete").status_code, 200)
        self.assertEqual(mine.get("/api/round").status_code, 403, "and another is owed once it is taken away")
        self.assertEqual(self.send("/api/second-factor", {"of": "leads"}, own, "put").json(), {"of": "leads"})
        self.assertEqual(self.signed_in(self.plant.people[Role.READER]).get("/api/log").status_code, 200)

    def lost_link(self, person: Person) -> str:
        """The end of the link in the latest mail that asks somebody whether their second factor is lost."""
        mails = Mail.objects.filter(person=person, text__contains="/factor-lost/").order_by("-at")
        return link_in(mails[0])

    def test_a_lead_helps_who_lost_theirs_and_nobody_of_another_organisation(self) -> None:
        person, lead = self.plant.technician, self.signed_in(self.plant.lead)
        mine, _ = self.secured(person)
        listed = {one["username"]: one["factor"] for one in lead.get("/api/people").json()}
        self.assertEqual((listed[person.username], listed[self.plant.lead.username]), (True, False))
        url = f"/api/people/{person.username}/second-factor"
        self.assertEqual(self.signed_in(self.other.lead).delete(url).status_code, 404)
        Membership.objects.create(person=person, organisation=self.other.organisation, role=Role.READER)
        self.assertEqual(lead.delete(url).status_code, 409)
        Membership.objects.filter(person=person, organisation=self.other.organisation).delete()
        answer = lead.delete(url)
        self.assertEqual(answer.status_code, 202, answer.content)
        self.assertEqual(mine.get("/api/me").status_code, 200, "nothing is taken away before they say that it is so")
        secret = self.lost_link(person)
        self.assertEqual(answer.json()["link"].rpartition("/")[2], secret, "told where no mail is sent")
        elsewhere = Membership.objects.create(person=person, organisation=self.other.organisation, role=Role.READER)
        self.assertEqual(self.send("/api/factor-lost", {"secret": secret}, self.nobody).status_code, 409)
        elsewhere.delete()
        self.assertEqual(self.send("/api/factor-lost", {"secret": secret[:-1]}, self.nobody).status_code, 409)
        self.assertEqual(mine.get("/api/me").status_code, 200)
        self.assertEqual(self.send("/api/factor-lost", {"secret": secret}, self.nobody).status_code, 204)
        self.assertEqual(mine.get("/api/me").status_code, 401)
        self.assertEqual(self.sign_in(person).status_code, 200)
        self.assertEqual(lead.delete(url).status_code, 409, "there is none any more")

    def test_a_link_of_a_lost_factor_opens_nothing_once_the_account_is_another(self) -> None:
        person, lead = self.plant.technician, self.signed_in(self.plant.lead)
        mine, _ = self.secured(person)
        url = f"/api/people/{person.username}/second-factor"
        with override_settings(BY_MAIL=True):
            self.assertEqual(lead.delete(url).json(), {"link": ""}, "it is for their own eyes")
        first = self.lost_link(person)
        self.assertEqual(self.send("/api/factor-lost", {"secret": first}, self.nobody).status_code, 204)
        self.secured(person)
        self.assertEqual(self.send("/api/factor-lost", {"secret": first}, self.nobody).status_code, 409)
        self.assertEqual(lead.delete(url).status_code, 202)
        second = self.lost_link(person)
        with mock.patch("django.core.signing.time.time", return_value=time.time() + 3 * 24 * 3600 + 60):
            self.assertEqual(self.send("/api/factor-lost", {"secret": second}, self.nobody).status_code, 409)
        Person.objects.get(pk=person.pk).sign_out_everywhere()
        self.assertEqual(self.send("/api/factor-lost", {"secret": second}, self.nobody).status_code, 409)
        self.assertTrue(has_factor(person))

    def test_a_page_that_means_somebody_else_changes_nothing(self) -> None:
        client = Client(headers={"x-person": str(self.plant.lead.pk)})
        client.force_login(self.plant.technician)
        self.assertEqual(self.ask("account/email", {"email": "x@new.example"}, client).status_code, 401)
