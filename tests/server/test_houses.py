"""An organisation's own sign-in: whom its provider lets in and whom it does not, set up and ended by a lead."""

from typing import Any
from unittest import mock
from urllib.parse import parse_qs, urlsplit

import requests
from allauth.account.models import EmailAddress
from allauth.mfa.models import Authenticator
from allauth.socialaccount.models import SocialAccount, SocialApp
from django.contrib.auth.hashers import make_password
from django.core.cache import cache
from django.test import Client, override_settings
from django.utils import timezone

from beacon.accounts.models import House, HouseDomain, OwnLink
from beacon.mail.models import Mail
from beacon.outside import ask
from beacon.people.models import Device, Invitation, Membership, Organisation, Person, Role
from tests.provider import Provider
from tests.server.plant import ACCOUNT, PASSWORD
from tests.server.test_accounts import AccountsTestCase


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

    def test_whatever_a_provider_is_asked_is_asked_for_its_organisation(self) -> None:
        house = self.house()
        cache.clear()
        with mock.patch("beacon.accounts.asking.ask", wraps=ask) as asked:
            self.come(house, email=self.plant.technician.username)
        self.assertGreater(asked.call_count, 1)
        self.assertEqual({one.kwargs["whose"] for one in asked.call_args_list}, {str(self.plant.organisation.pk)})

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

    def test_a_session_that_came_by_a_provider_opens_its_organisation_alone_whatever_was_joined_beside(self) -> None:
        house, person = self.house(), self.plant.technician
        client, _ = self.come(house, email=person.username)
        self.assertEqual(client.get("/api/me").status_code, 200)
        # As where somebody is taken in elsewhere at the very moment at which such a session begins.
        Membership.objects.create(person=person, organisation=self.other.organisation, role=Role.READER)
        self.assertEqual((client.get("/api/me").status_code, client.get("/api/round").status_code), (401, 401))
        mine = Client()
        self.sign_in(person, client=mine)
        self.assertEqual(mine.get("/api/me").status_code, 200)
        self.come(house, mine, connect=True, email=person.username)
        theirs, _ = self.come(house, email=person.username)
        self.assertEqual(theirs.get("/api/me").status_code, 200, "said for themselves it opens both")

    def test_a_factor_that_another_organisation_demands_is_asked_whatever_the_way(self) -> None:
        house, person = self.house(), self.plant.technician
        Organisation.objects.filter(pk=self.plant.organisation.pk).update(second_factor="all")
        Person.objects.filter(pk=person.pk).update(password=make_password(None))
        client, _ = self.come(house, email=person.username)
        self.assertEqual(client.get("/api/round").status_code, 200, "its own provider answers for them there")
        OwnLink.objects.create(account=SocialAccount.objects.get(user=person))
        Membership.objects.create(person=person, organisation=self.other.organisation, role=Role.TECHNICIAN)
        self.assertEqual(client.get("/api/round").status_code, 200)
        Organisation.objects.filter(pk=self.other.organisation.pk).update(second_factor="all")
        self.assertEqual(client.get("/api/round").status_code, 403)
        self.assertTrue(client.get("/api/me").json()["owes_factor"])

    def test_whoever_runs_a_provider_opens_no_organisation_that_its_people_join(self) -> None:
        house, person = self.house(), self.plant.technician
        client, _ = self.come(house, email=person.username)
        self.assertEqual(client.get("/api/me").status_code, 200)
        self.send(
            "/api/people", {"username": person.username, "name": "X", "role": "lead"}, self.signed_in(self.other.lead)
        )
        invitation = Invitation.objects.get(organisation=self.other.organisation)
        self.assertEqual(self.send(f"/api/invitations/{invitation.id}/accept", {}, client).status_code, 200)
        # What was linked silently has ended, with the session that came by it, and its person is told.
        self.assertEqual((client.get("/api/me").status_code, SocialAccount.objects.count()), (401, 0))
        self.assertEqual(self.refused(self.come(house, email=person.username)), "elsewhere")
        self.assertIn("sign-in of your other organisation", Mail.objects.get(subject="A way to sign in less").text)
        # Signed in by another way they say so for themselves, and it opens both.
        mine = Client()
        self.sign_in(person, client=mine)
        self.come(house, mine, connect=True, email=person.username)
        again = self.come(house, email=person.username)[0]
        self.assertEqual(len(again.get("/api/me").json()["memberships"]), 2)

    def test_who_came_by_a_provider_alone_cannot_say_so_for_themselves(self) -> None:
        house, person = self.house(), self.plant.technician
        client, _ = self.come(house, email=person.username)
        self.come(house, client, connect=True, email=person.username)
        Membership.objects.create(person=person, organisation=self.other.organisation, role=Role.LEAD)
        self.assertEqual(self.refused(self.come(house, email=person.username)), "elsewhere")

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

    def test_an_invitation_that_has_ended_lets_nobody_in_by_it(self) -> None:
        house = self.house()
        self.send("/api/people", {"username": "b@gannetness.example", "name": "B", "role": "lead"}, self.lead)
        Invitation.objects.update(until=timezone.now())
        self.assertEqual(self.refused(self.come(house, email="b@gannetness.example")), "nobody")
        self.assertFalse(Person.objects.filter(username="b@gannetness.example").exists())

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
        client, _ = self.come(house, email=self.plant.technician.username)
        self.assertEqual(len(client.get(f"{ACCOUNT}/account/providers").json()["data"]), 1)
        self.assertEqual(self.lead.delete(f"/api/houses/{house.id}").status_code, 204)
        self.assertEqual(client.get(f"{ACCOUNT}/account/providers").json()["data"], [])
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
