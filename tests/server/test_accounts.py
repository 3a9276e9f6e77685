"""Accounts by the library: invitations and links by mail, second factors, and an organisation's own sign-in."""

import re
import time
from typing import Any
from urllib.parse import parse_qs, unquote, urlsplit

import requests
from allauth.account.models import EmailAddress
from allauth.mfa.models import Authenticator
from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value
from allauth.socialaccount.models import SocialAccount, SocialApp
from django.core.cache import cache
from django.test import Client, override_settings
from django.utils import timezone

from beacon.accounts.models import House, HouseDomain
from beacon.mail import sending
from beacon.mail.models import Mail
from beacon.people.models import Device, Invitation, Membership, Organisation, Person, Role
from tests.emptied import EmptiedTestCase
from tests.provider import Provider
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
        self.assertEqual(job.opened_by if hasattr(job, "opened_by") else person, person)
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
        self.assertEqual(lead.delete(url).status_code, 204)
        self.assertEqual(mine.get("/api/me").status_code, 401)
        self.assertEqual(self.sign_in(person).status_code, 200)

    def test_a_page_that_means_somebody_else_changes_nothing(self) -> None:
        client = Client(headers={"x-person": str(self.plant.lead.pk)})
        client.force_login(self.plant.technician)
        self.assertEqual(self.ask("account/email", {"email": "x@new.example"}, client).status_code, 401)


@override_settings(WEBHOOK_NETWORKS=["127.0.0.0/8"])
class OwnSignIn(AccountsTestCase):
    provider: Provider

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.provider = Provider()
        cls.addClassCleanup(cls.provider.end)

    def setUp(self) -> None:
        super().setUp()
        self.provider.away, self.provider.asked = False, []
        self.lead = self.signed_in(self.plant.lead)
        EmailAddress.objects.create(user=self.plant.lead, email=self.plant.lead.username, verified=True, primary=True)
        self.given: dict[str, Any] = {"name": "Ness login", "server": self.provider.url, "client_id": "beacon", "secret": "s", "domains": ["gannetness.example"]}  # fmt: skip

    def house(self, **more: Any) -> House:
        answer = self.send("/api/houses", self.given | more, self.lead)
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertNotIn('"s"', answer.content.decode())
        return House.objects.get(id=answer.json()["id"])

    def come(self, house: House, client: Client | None = None, connect: bool = False, **claims: Any) -> tuple[Client, str]:  # fmt: skip
        """Goes by the provider and back; who came, and where the page ended."""
        client = client or Client()
        self.provider.claims = {"sub": claims.get("email", "x"), "email_verified": True} | claims
        begun = self.send(f"/api/houses/{house.id}/begin", {"connect": connect}, client)
        self.assertEqual(begun.status_code, 200, begun.content)
        location = begun.json()["location"]
        if not location.startswith(self.provider.url):
            return client, location
        back = requests.get(location, allow_redirects=False, timeout=5).headers["Location"]
        parts = urlsplit(back)
        answer = client.get(f"{parts.path}?{parts.query}")
        self.assertEqual(answer.status_code, 302, answer.content)
        return client, answer["Location"]

    def refused(self, end: tuple[Client, str]) -> str:
        self.assertEqual(end[0].get("/api/me").status_code, 401)
        return parse_qs(urlsplit(end[1]).query).get("refused", [""])[0]

    def test_who_is_here_comes_by_it_and_is_who_they_were(self) -> None:
        house = self.house()
        client, end = self.come(house, email=self.plant.technician.username.upper(), name="Other Name")
        self.assertEqual(urlsplit(end).path, "/sign-in")
        me = client.get("/api/me").json()
        self.assertEqual((me["id"], me["name"]), (str(self.plant.technician.pk), "Technician"))
        self.assertTrue(Device.objects.filter(person=self.plant.technician).exists())
        ways = self.nobody.get("/api/ways?address=Somebody@Gannetness.example").json()["house"]
        self.assertEqual((ways["name"], ways["organisation"], ways["only"]), ("Ness login", "Gannet Ness", False))
        self.assertEqual(self.nobody.get("/api/ways?address=x@farskerry.example").json(), {"house": None})

    def test_whom_it_does_not_let_in_and_why(self) -> None:
        house = self.house()
        self.assertEqual(self.refused(self.come(house, email="x@farskerry.example")), "foreign")
        self.assertEqual(self.refused(self.come(house, sub="1", email=None)), "address")
        self.assertEqual(self.refused(self.come(house, email="new@gannetness.example")), "nobody")
        unproven = self.come(house, email=self.plant.technician.username, email_verified=False)
        self.assertEqual(self.refused(unproven), "unproven")
        foreign = Person.objects.create_user("corin@gannetness.example", "corin@gannetness.example", PASSWORD)
        Membership.objects.create(person=foreign, organisation=self.other.organisation, role=Role.LEAD)
        self.assertEqual(self.refused(self.come(house, email=foreign.username)), "elsewhere")
        Membership.objects.create(person=foreign, organisation=self.plant.organisation, role=Role.READER)
        self.assertEqual(self.refused(self.come(house, email=foreign.username)), "elsewhere", "it opens no other house")
        self.come(house, email=self.plant.technician.username)
        Membership.objects.filter(person=self.plant.technician).delete()
        self.assertEqual(self.refused(self.come(house, email=self.plant.technician.username)), "ended")
        self.assertFalse(Person.objects.filter(username="new@gannetness.example").exists())

    def test_who_belongs_elsewhere_too_connects_it_for_themselves(self) -> None:
        house, person = self.house(), self.plant.technician
        Membership.objects.create(person=person, organisation=self.other.organisation, role=Role.READER)
        self.assertEqual(self.refused(self.come(house, email=person.username)), "elsewhere")
        mine = Client()
        self.sign_in(person, client=mine)
        _, end = self.come(house, mine, connect=True, email=person.username)
        self.assertEqual(urlsplit(end).path, "/people")
        self.assertEqual(SocialAccount.objects.get().user, person)
        self.assertEqual(self.come(house, email=person.username)[0].get("/api/me").status_code, 200)
        stranger = self.signed_in(self.other.lead)
        self.assertIn("elsewhere", self.come(house, stranger, connect=True, sub="z", email="x@gannetness.example")[1])

    def test_who_is_invited_or_let_in_comes_with_their_role(self) -> None:
        house = self.house(takes_in=True, role="reader", claim="groups", roles={"scales": "technician", "boss": "lead"})
        client, _ = self.come(house, email="a@gannetness.example", name="Ada Rook")
        came = Person.objects.get(username="a@gannetness.example")
        self.assertEqual((came.name, came.memberships.get().role, came.has_usable_password()), ("Ada Rook", "reader", False))  # fmt: skip
        self.come(house, email="a@gannetness.example", groups=["other", "scales"])
        self.assertEqual(came.memberships.get().role, "technician")
        self.send("/api/people", {"username": "b@gannetness.example", "name": "B", "role": "lead"}, self.lead)
        self.come(house, email="b@gannetness.example")
        self.assertEqual(Membership.objects.get(person__username="b@gannetness.example").role, "lead")
        self.assertTrue(Invitation.objects.get().used_at)
        Organisation.objects.update(second_factor="all")
        self.assertEqual(client.get("/api/round").status_code, 200, "who has no password here owes no second factor")
        # The last lead stays one, whatever the provider says.
        Membership.objects.filter(person__username="b@gannetness.example").delete()
        self.come(house, email=self.plant.lead.username, groups="scales")
        self.assertEqual(Membership.objects.get(person=self.plant.lead).role, "lead")

    def test_only_this_way(self) -> None:
        refused = self.send("/api/houses", self.given | {"only": True}, self.lead)
        self.assertEqual(refused.json()["errors"][0]["path"], "only")
        Authenticator.objects.create(user=self.plant.lead, type="totp", data={"secret": "x"})
        self.house(only=True)
        self.assertTrue(self.nobody.get(f"/api/ways?address={self.plant.technician.username}").json()["house"]["only"])
        answer = self.sign_in(self.plant.technician)
        self.assertEqual((answer.status_code, answer.json()["title"]), (403, "Not this way"))
        self.assertEqual(self.sign_in(self.plant.technician, "wrong").status_code, 400, "a wrong one learns nothing")
        self.assertEqual(self.sign_in(self.plant.lead).status_code, 401, "a lead with a second factor is asked for it")
        self.ask("auth/password/request", {"email": self.plant.technician.username}, self.nobody)
        self.assertFalse(Mail.objects.filter(subject="A new password").exists())

    def test_a_domain_is_claimed_by_who_has_an_address_there_and_by_one_alone(self) -> None:
        for domains in (["farskerry.example"], ["gannetness.example", "mail.example"]):
            answer = self.send("/api/houses", self.given | {"domains": domains}, self.lead)
            self.assertRegex(answer.json()["errors"][0]["path"], r"domains\[[01]\]")
        self.house()
        again = self.send("/api/houses", self.given, self.lead)
        self.assertEqual((again.status_code, House.objects.count(), SocialApp.objects.count()), (422, 1, 1))
        self.assertEqual(self.send("/api/houses", self.given, self.client).status_code, 404)

    def test_it_is_changed_without_its_secret_and_ended(self) -> None:
        house = self.house()
        changed = self.send(f"/api/houses/{house.id}", self.given | {"secret": "", "name": "Login"}, self.lead, "put")
        self.assertEqual((changed.status_code, SocialApp.objects.get().secret, SocialApp.objects.get().name), (200, "s", "Login"))  # fmt: skip
        for bad in ("ftp://x.example", "https://a:b@x.example", "nonsense"):
            answer = self.send(f"/api/houses/{house.id}", self.given | {"server": bad}, self.lead, "put")
            self.assertEqual(answer.json()["errors"][0]["path"], "server")
        self.assertEqual(self.lead.delete(f"/api/houses/{house.id}").status_code, 204)
        self.assertFalse(SocialApp.objects.exists() or HouseDomain.objects.exists())

    def test_a_provider_that_is_away_or_somewhere_else_is_said_and_asks_nothing_within(self) -> None:
        house = self.house()
        self.provider.away = True
        self.assertEqual(self.refused(self.come(house, email=self.plant.technician.username)), "away")
        self.provider.away = False
        with override_settings(WEBHOOK_NETWORKS=["0.0.0.0/0", "::/0"]):
            self.provider.asked = []
            self.assertEqual(self.refused(self.come(house, email=self.plant.technician.username)), "away")
            self.assertEqual(self.provider.asked, [], "this machine is asked nothing where it is not named")
        forged = Client().get(f"/api/from-house/{house.id}?code=x&state=x")
        self.assertEqual((forged.status_code, "refused=away" in forged["Location"]), (302, True))
        self.assertEqual(self.send(f"/api/houses/{self.plant.site.id}/begin", {}, self.nobody).status_code, 404)

    def test_who_else_signs_in_here_so_is_told_to_nobody(self) -> None:
        self.house()
        for path in ("auth/session", "config"):
            self.assertNotIn("Ness login", self.nobody.get(f"{ACCOUNT}/{path}").content.decode())
