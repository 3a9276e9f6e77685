"""Accounts by a library: its signals are heard here."""

from typing import Any

from django.apps import AppConfig
from django.http import HttpRequest


class AccountsConfig(AppConfig):
    name = "beacon.accounts"

    def ready(self) -> None:
        from allauth.account.models import EmailAddress
        from allauth.account.signals import email_confirmed, password_reset, user_logged_in
        from allauth.mfa.signals import authentication_failed, authenticator_used
        from allauth.socialaccount.signals import social_account_added, social_account_updated

        from beacon.accounts import codes, houses, mails
        from beacon.people.devices import note_device
        from beacon.people.keeping import invited, joined
        from beacon.people.locking import unlock
        from beacon.people.models import Invitation, Membership, Person

        def asked(invitation: Invitation, secret: str, **_: Any) -> None:
            mails.invitation(invitation, secret)

        def began(request: Any, user: Person, **_: Any) -> None:
            EmailAddress.objects.get_or_create(user=user, email=user.username, defaults={"primary": True, "verified": False})  # fmt: skip
            note_device(request, user)

        def confirmed(email_address: EmailAddress, **_: Any) -> None:
            user, before = email_address.user, email_address.user.username
            if email_address.email != before:
                EmailAddress.objects.filter(user=user).exclude(pk=email_address.pk).delete()
                email_address.set_as_primary()
                user.username = user.email = email_address.email
                user.save(update_fields=["username", "email"])
                mails.account("account/email/email_changed", before, {"user": user, "to_email": user.username})

        def chosen(user: Person, **_: Any) -> None:
            # Whoever has the mail is let in again, and whoever was in by the old password is not.
            unlock(user.username)
            user.sign_out_everywhere()

        def connected(request: Any, sociallogin: Any, **_: Any) -> None:
            if sociallogin.state.get("process") == "connect":
                houses.said_so(request, sociallogin.account)

        def elsewhere(membership: Membership, **_: Any) -> None:
            if houses.silent_links_ended(membership):
                mails.way_ended(membership)

        def code_wrong(request: HttpRequest, user: Person, **_: object) -> None:
            codes.wrong(request, user)

        def code_right(request: HttpRequest, user: Person, **_: object) -> None:
            codes.right(request, user)

        authentication_failed.connect(code_wrong, weak=False, dispatch_uid="a wrong code makes the next wait longer")
        authenticator_used.connect(code_right, weak=False, dispatch_uid="a right code ends the waits")
        joined.connect(elsewhere, weak=False, dispatch_uid="who joins elsewhere is not opened by what was silent")
        for signal in (social_account_added, social_account_updated):
            signal.connect(connected, weak=False, dispatch_uid="who connects an account says so")
        invited.connect(asked, weak=False, dispatch_uid="who is invited is written to")
        user_logged_in.connect(began, weak=False, dispatch_uid="a session begins on a device")
        email_confirmed.connect(confirmed, weak=False, dispatch_uid="a confirmed address is signed in with")
        password_reset.connect(chosen, weak=False, dispatch_uid="a new password ends the sessions of the old one")
