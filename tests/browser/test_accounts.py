"""Accounts at the screen: invited by a link, a forgotten password, second factors, keys, and an organisation's own sign-in."""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from allauth.account.models import EmailAddress
from allauth.mfa.models import Authenticator
from django.core.cache import cache
from django.test import override_settings
from playwright.sync_api import Page, expect

from beacon.accounts.models import House
from beacon.mail.models import Mail
from beacon.people.models import Organisation, Person
from tests.browser.base import BrowserTestCase
from tests.provider import Provider
from tests.server.background import work
from tests.server.plant import PASSWORD
from tests.server.test_accounts import code_for, link_in

NEW = "kelp-on-the-rocks"


class Accounts(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        cache.clear()
        self.stranger = self.new_page(self.new_context())

    def first(self, page: Page, person: Person, password: str = PASSWORD) -> None:
        """Types address and password where one signs in."""
        page.goto("/sign-in")
        page.get_by_label("Address").fill(person.username)
        page.get_by_label("Password").fill(password)
        page.keyboard.press("Enter")

    def own(self, person: Person) -> Page:
        """Somebody's own page of their account, just signed in."""
        page = self.new_page(self.new_context())
        self.sign_in(page, person)
        page.goto("/people", wait_until="networkidle")
        return page


class ByLink(Accounts):
    def test_somebody_invited_opens_the_link_chooses_a_password_and_is_in(self) -> None:
        lead = self.signed_in(self.new_context(), self.plant.lead)
        lead.goto("/people", wait_until="networkidle")
        lead.get_by_role("button", name="Invite someone").click()
        lead.get_by_label("Address that they sign in with").fill("ada@gannet.example")
        lead.get_by_label("Name", exact=True).fill("Ada Quill")
        lead.get_by_role("button", name="Invite", exact=True).click()
        link = lead.locator(".whole-link").inner_text()
        page = self.stranger
        page.goto(link.replace("http://127.0.0.1:8400", ""))
        expect(page.get_by_role("heading", name="You are invited to Gannet Ness")).to_be_visible()
        self.assert_accessible(page)
        page.get_by_label("Password").fill("short")
        page.get_by_role("button", name="Come in").click()
        expect(page.get_by_role("alert").first).to_contain_text("too short")
        expect(page.get_by_label("Your name")).to_have_value("Ada Quill")
        page.get_by_label("Password").fill(NEW)
        page.get_by_role("button", name="Come in").click()
        expect(page.get_by_role("link", name="Systems")).to_be_visible()
        later = self.new_page(self.new_context())
        later.goto(link.replace("http://127.0.0.1:8400", ""))
        expect(later.get_by_role("alert")).to_contain_text("This invitation was used already")

    def test_a_forgotten_password_is_chosen_anew_by_the_link_of_a_mail(self) -> None:
        page, person = self.stranger, self.plant.technician
        page.goto("/sign-in")
        page.get_by_label("Address").fill(person.username)
        page.get_by_role("link", name="Password forgotten?").click()
        expect(page.get_by_label("Address")).to_have_value(person.username)
        self.assert_accessible(page)
        page.get_by_role("button", name="Mail me a link").click()
        expect(page.get_by_role("status")).to_contain_text("a mail with a link is on its way")
        at = f"/password/{link_in(Mail.objects.get())}"
        page.goto(at)
        page.get_by_label("New password").fill("short")
        page.get_by_role("button", name="Change it").click()
        expect(page.get_by_role("alert").first).to_contain_text("too short")
        page.get_by_label("New password").fill(NEW)
        page.get_by_role("button", name="Change it").click()
        expect(page.get_by_role("status")).to_contain_text("It is changed")
        page.goto(at)
        expect(page.get_by_role("alert")).to_contain_text("This link has ended or was used already")
        self.first(page, person, NEW)
        expect(page.get_by_role("link", name="Systems")).to_be_visible()

    def test_another_address_is_signed_in_with_once_its_link_was_opened(self) -> None:
        person = self.plant.technician
        page = self.own(person)
        page.get_by_role("button", name="Change it").first.click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Address that you will sign in with").fill(self.plant.lead.username)
        dialog.get_by_role("button", name="Mail a link there").click()
        expect(dialog.get_by_role("alert")).to_contain_text("signs in with this address already")
        dialog.get_by_label("Address that you will sign in with").fill("ines@new.example")
        dialog.get_by_role("button", name="Mail a link there").click()
        expect(page.get_by_text("waits for its link to be opened")).to_be_visible()
        page.goto(f"/address/{link_in(Mail.objects.get())}")
        self.assertEqual(Person.objects.get(pk=person.pk).username, person.username, "to look at it changes nothing")
        page.get_by_role("button", name="Yes, the mail came to me").click()
        expect(page.get_by_role("status")).to_contain_text("It is confirmed")
        page.goto("/people")
        expect(page.get_by_text("ines@new.example")).to_be_visible()


class Closing(Accounts):
    def test_an_organisation_is_closed_and_its_people_are_told_so(self) -> None:
        self.plant.job()
        page = self.own(self.plant.lead)
        page.get_by_role("button", name="Close Gannet Ness for good").click()
        dialog = page.get_by_role("dialog")
        self.assert_accessible(page)
        dialog.get_by_label("Type its name").fill("Gannet")
        dialog.get_by_label("Why it is closed").fill("sold")
        dialog.get_by_role("button", name="Close it").click()
        expect(dialog.get_by_role("alert")).to_contain_text("Type its name as it is")
        dialog.get_by_label("Type its name").fill("Gannet Ness")
        dialog.get_by_role("button", name="Close it").click()
        # What is open is named, before anything is closed.
        expect(dialog.get_by_text("Conveyor, begun by")).to_be_visible()
        self.assert_accessible(page)
        dialog.get_by_label("They stay open").check()
        dialog.get_by_role("button", name="Close it").click()
        expect(page.get_by_role("heading", name="Gannet Ness, closed by you on")).to_be_visible()
        expect(page.get_by_text("Its archive is being made")).to_be_visible()
        work()
        expect(page.get_by_role("link", name="Take its archive, ZIP")).to_be_visible()
        self.assert_accessible(page)
        expect(page.get_by_role("heading", name="You belong to no organisation here")).to_be_visible()
        self.page.goto("/systems")
        expect(self.page.get_by_role("heading", name="You belong to no organisation here")).to_be_visible()


class Factors(Accounts):
    def set_up(self, page: Page) -> str:
        page.get_by_role("button", name="Set up an app").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_role("img", name="A code to scan")).to_be_visible()
        secret = dialog.locator(".key-to-type").inner_text().replace(" ", "")
        dialog.get_by_label("Code that the app shows").fill("000000")
        dialog.get_by_role("button", name="It is set up").click()
        expect(dialog.get_by_role("alert")).to_contain_text("This code is not right")
        dialog.get_by_label("Code that the app shows").fill(code_for(secret))
        dialog.get_by_role("button", name="It is set up").click()
        expect(page.get_by_text("Recovery codes: write them down")).to_be_visible()
        return secret

    def test_codes_of_an_app_are_set_up_and_asked_for(self) -> None:
        person = self.plant.technician
        page = self.own(person)
        secret = self.set_up(page)
        spare = page.locator(".recovery-codes").inner_text().split()
        self.assertEqual(len(spare), 10)
        self.assert_accessible(page)
        there = self.stranger
        self.first(there, person)
        code = there.get_by_label("Code of your authenticator app")
        self.assert_accessible(there)
        code.fill("000000")
        code.press("Enter")
        expect(there.get_by_role("alert")).to_contain_text("This code is not right")
        code.fill(code_for(secret))
        code.press("Enter")
        expect(there.get_by_role("link", name="Systems")).to_be_visible()
        other = self.new_page(self.new_context())
        self.first(other, person)
        other.get_by_label("Code of your authenticator app").fill(spare[0])
        other.get_by_role("button", name="Go on").click()
        expect(other.get_by_role("link", name="Systems")).to_be_visible()
        page.get_by_role("button", name="Take away: codes of an app").click()
        page.get_by_role("button", name="Take it away").click()
        expect(page.get_by_role("button", name="Set up an app")).to_be_visible()

    def test_who_owes_one_sets_it_up_before_anything_else(self) -> None:
        Organisation.objects.filter(pk=self.plant.organisation.pk).update(second_factor="all")
        page = self.stranger
        self.first(page, self.plant.technician)
        expect(page.get_by_role("heading", name="A second factor first")).to_be_visible()
        self.assert_accessible(page)
        self.set_up(page)
        page.get_by_role("button", name="I wrote the codes down: go on").click()
        expect(page.get_by_role("heading", name="A second factor first")).to_have_count(0)
        expect(page.get_by_text("Conveyor").first).to_be_visible()

    def test_a_lead_asks_for_one_of_everybody_and_needs_one_first(self) -> None:
        page = self.own(self.plant.lead)
        demand = page.get_by_label("A second factor is asked of")
        demand.select_option("all")
        expect(page.get_by_text("Set up a second factor of your own first")).to_be_visible()
        expect(demand).to_have_value("")
        self.set_up(page)
        with page.expect_response(lambda answer: answer.request.method == "PUT") as kept:
            demand.select_option("all")
        self.assertEqual(kept.value.status, 200)
        expect(page.get_by_text("Set up a second factor of your own first")).to_have_count(0)
        expect(demand).to_have_value("all")
        self.assertEqual(Organisation.objects.get(pk=self.plant.organisation.pk).second_factor, "all")

    def test_a_passkey_opens_by_itself(self) -> None:
        context = self.new_context()
        page = self.new_page(context)
        # A key is of a name; an address of figures has none.
        here = self.live_server_url.replace("127.0.0.1", "localhost")
        keys = context.new_cdp_session(page)
        keys.send("WebAuthn.enable")
        options = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True, "isUserVerified": True, "automaticPresenceSimulation": True}  # fmt: skip
        keys.send("WebAuthn.addVirtualAuthenticator", {"options": options})
        self.first_at(page, here)
        expect(page.get_by_role("link", name="Systems")).to_be_visible()
        page.goto(f"{here}/people", wait_until="networkidle")
        page.get_by_role("button", name="Add a key or passkey").click()
        page.get_by_label("What you call it").fill("Phone")
        page.get_by_role("button", name="Show it now").click()
        expect(page.get_by_role("button", name="Take away: Phone")).to_be_visible()
        self.assertEqual(Authenticator.objects.filter(type="webauthn").count(), 1)
        context.clear_cookies()
        page.goto(f"{here}/sign-in")
        page.get_by_role("button", name="With a passkey").click()
        expect(page.get_by_role("link", name="Systems")).to_be_visible()
        # After a password the key is the second factor.
        context.clear_cookies()
        self.first_at(page, here)
        page.get_by_role("button", name="Show your security key").click()
        expect(page.get_by_role("link", name="Systems")).to_be_visible()

    def first_at(self, page: Page, here: str) -> None:
        page.goto(f"{here}/sign-in")
        page.get_by_label("Address").fill(self.plant.technician.username)
        page.get_by_label("Password").fill(PASSWORD)
        page.keyboard.press("Enter")


class LostFactor(BrowserTestCase):
    def test_a_lead_agrees_and_who_lost_it_says_so_by_the_link(self) -> None:
        cache.clear()
        Authenticator.objects.create(user=self.plant.technician, type=Authenticator.Type.TOTP, data={"secret": "x"})
        lead = self.signed_in(self.new_context(), self.plant.lead)
        lead.goto("/people")
        lead.get_by_role("button", name="Change Technician").click()
        lead.get_by_role("button", name="Second factor is lost").click()
        dialog = lead.get_by_role("dialog")
        expect(dialog).to_contain_text("By it they say that it is so")
        found = re.search(r"/factor-lost/\S+", dialog.inner_text())
        assert found
        self.assertTrue(Authenticator.objects.exists(), "nothing is taken away before they say so")
        page = self.new_context().new_page()
        page.goto(f"{self.live_server_url}{found.group(0)}")
        say = page.get_by_role("button", name="Yes, I lost it")
        say.click()
        expect(page.get_by_role("status")).to_contain_text("It is taken away. Sign in with your password")
        self.assertFalse(Authenticator.objects.exists())
        page.reload()
        say.click()
        expect(page.get_by_role("main")).to_contain_text("This link has ended or was used already")
        expect(say).to_have_count(0)


class OwnSignIn(Accounts):
    @contextmanager
    def provided(self) -> Iterator[Provider]:
        provider = Provider()
        try:
            with override_settings(WEBHOOK_NETWORKS=["127.0.0.0/8"], PUBLIC_URL=self.live_server_url):
                yield provider
        finally:
            provider.end()

    def house(self, page: Page, provider: Provider, **more: Any) -> None:
        page.get_by_role("button", name="Add your organisation’s own way").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("What people here call it").fill("Ness login")
        dialog.get_by_label("Address of the provider").fill(provider.url)
        dialog.get_by_label("Name of the client").fill("beacon")
        dialog.get_by_label("Secret of the client").fill("secret")
        dialog.get_by_label("Addresses at").fill("farskerry.example")
        dialog.get_by_role("button", name="Keep").click()
        expect(dialog.get_by_role("alert")).to_contain_text("has confirmed an address at farskerry.example")
        dialog.get_by_label("Addresses at").fill("gannetness.example")
        dialog.get_by_label("Field that says the role").fill("groups")
        dialog.get_by_label("It makes a technician where it says").fill("scales, weighing")
        self.assert_accessible(page)
        dialog.get_by_role("button", name="Keep").click()
        expect(dialog).to_be_hidden()
        expect(page.get_by_text("gannetness.example", exact=True)).to_be_visible()

    def test_a_lead_sets_it_up_and_people_come_by_it(self) -> None:
        EmailAddress.objects.create(user=self.plant.lead, email=self.plant.lead.username, verified=True, primary=True)
        with self.provided() as provider:
            lead = self.own(self.plant.lead)
            self.house(lead, provider)
            self.assertEqual(House.objects.get().roles, {"scales": "technician", "weighing": "technician"})
            page, person = self.stranger, self.plant.technician
            provider.claims = {"sub": "1", "email": person.username, "groups": ["weighing"]}
            page.goto("/sign-in")
            page.get_by_label("Address").fill(person.username)
            page.keyboard.press("Tab")
            page.get_by_role("button", name="Ness login, of Gannet Ness").click()
            expect(page.get_by_role("link", name="Systems")).to_be_visible()
            page.goto("/people", wait_until="networkidle")
            expect(page.get_by_text("opens this account")).to_be_visible()

    def test_who_is_invited_where_only_the_own_way_is_open_chooses_no_password(self) -> None:
        EmailAddress.objects.create(user=self.plant.lead, email=self.plant.lead.username, verified=True, primary=True)
        with self.provided() as provider:
            lead = self.own(self.plant.lead)
            self.house(lead, provider)
            House.objects.update(only=True)
            lead.get_by_role("button", name="Invite someone").click()
            lead.get_by_label("Address that they sign in with").fill("ada@gannetness.example")
            lead.get_by_label("Name", exact=True).fill("Ada Quill")
            lead.get_by_role("button", name="Invite", exact=True).click()
            link = lead.locator(".whole-link").inner_text()
            provider.claims = {"sub": "7", "email": "ada@gannetness.example", "name": "Ada Quill"}
            page = self.stranger
            page.goto(link.replace(self.live_server_url, ""))
            expect(page.get_by_label("Password")).to_have_count(0)
            page.get_by_role("button", name="Come by Ness login").click()
            expect(page.get_by_role("link", name="Systems")).to_be_visible()

    def test_why_somebody_is_not_let_in_is_said_in_words(self) -> None:
        EmailAddress.objects.create(user=self.plant.lead, email=self.plant.lead.username, verified=True, primary=True)
        with self.provided() as provider:
            self.house(self.own(self.plant.lead), provider)
            page = self.stranger
            for claims, words in (
                ({"sub": "1", "email": "new@gannetness.example"}, "nobody here has invited you yet"),
                ({"sub": "1", "email": "x@farskerry.example"}, "not of your organisation"),
            ):
                provider.claims = claims
                page.goto("/sign-in")
                page.get_by_label("Address").fill("new@gannetness.example")
                page.keyboard.press("Tab")
                page.get_by_role("button", name="Ness login, of Gannet Ness").click()
                expect(page.get_by_role("alert")).to_contain_text(words)
                expect(page.get_by_role("alert")).to_contain_text("Your organisation's own sign-in")
            self.assert_accessible(page)
            provider.away = True
            page.goto("/sign-in")
            page.get_by_label("Address").fill("new@gannetness.example")
            page.keyboard.press("Tab")
            page.get_by_role("button", name="Ness login, of Gannet Ness").click()
            expect(page.get_by_role("alert")).to_contain_text("does not answer")
            page.goto("/sign-in?refused=away&house=Send+your+password+to+x.example.+It")
            expect(page.get_by_role("alert")).to_contain_text("Your organisation's own sign-in does not answer")
            expect(page.get_by_text("x.example")).to_have_count(0)
